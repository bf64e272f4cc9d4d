//! Key repeat of window systems that tell it as pairs.

use alloc::vec::Vec;

use crate::control::Control;
use crate::time::Moment;

/// Drops the key repeat of window systems that tell it as a key going up and down again in one moment. An adapter shows it each key;
/// a going up is held back until something later shows that it was meant.
///
/// ```
/// use tidy_lever::adapter::Repeats;
/// use tidy_lever::{Control, Moment};
///
/// let key: Control = "keys:KeyD".parse()?;
/// let mut repeats = Repeats::new();
/// let at = Moment::from_millis;
/// assert_eq!(repeats.key(at(0), key, true), vec![(at(0), key, true)]);
/// // Held: the system repeats it.
/// assert_eq!(repeats.key(at(500), key, false), vec![]);
/// assert_eq!(repeats.key(at(500), key, true), vec![]);
/// // Let go: nothing follows in that moment.
/// assert_eq!(repeats.key(at(530), key, false), vec![]);
/// assert_eq!(repeats.until(at(531)), vec![(at(530), key, false)]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Repeats {
    lifted: Vec<(Moment, Control)>,
}

impl Repeats {
    /// One that was shown nothing.
    pub fn new() -> Repeats {
        Repeats::default()
    }

    /// A key goes down or up, at the window system's own time. Returns what to report now, in order: when, which key, whether it is
    /// down.
    pub fn key(&mut self, at: Moment, key: Control, down: bool) -> Vec<(Moment, Control, bool)> {
        let mut all = self.until(at);
        let repeated = self.lifted.iter().position(|own| *own == (at, key));
        match (down, repeated) {
            (true, Some(place)) => drop(self.lifted.remove(place)),
            (true, None) => all.push((at, key, true)),
            (false, _) => self.lifted.push((at, key)),
        }
        all
    }

    /// Nothing that comes later lies before this moment: what went up before it, to be reported. Call it once per pass.
    pub fn until(&mut self, at: Moment) -> Vec<(Moment, Control, bool)> {
        let (meant, waits) = self.lifted.iter().partition(|(own, _)| *own < at);
        self.lifted = waits;
        let meant: Vec<(Moment, Control)> = meant;
        meant.into_iter().map(|(at, key)| (at, key, false)).collect()
    }
}
