//! What must hold of any adapter's reports.

use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;
use core::fmt;

use super::Report;
use crate::control::{Control, Family, Part, Sort};
use crate::event::{Device, Event, Input};
use crate::time::Moment;

/// A report that breaks a rule: which one it was, from 0, and the rule.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Breach {
    /// The number of the report, from 0.
    pub number: usize,
    /// What is wrong with it.
    pub problem: String,
}

impl fmt::Display for Breach {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "report {}: {}", self.number, self.problem)
    }
}

impl core::error::Error for Breach {}

/// Checks what an adapter reports; an adapter's tests show it all reports, in order.
///
/// ```
/// use tidy_lever::adapter::{Conformance, Report};
/// use tidy_lever::{Control, Device, Event, Moment};
///
/// let mut conformance = Conformance::new();
/// let push = |ms, y| Event::pair(Moment::from_millis(ms), Device::default(), Control::LEFT_STICK, 0.0, y);
/// conformance.show(&Report::Event(push(5, 1.0)), Moment::from_millis(6));
/// conformance.show(&Report::Event(push(9, f32::NAN)), Moment::from_millis(9));
/// assert_eq!(conformance.breaches()[0].to_string(), "report 1: pad:left-stick is not a finite number");
/// // What the hand did, as the adapter's test knows it.
/// assert!(conformance.saw("pad:left-stick.up", 1.0));
/// assert!(!conformance.saw("pad:left-stick.down", 1.0));
/// ```
#[derive(Clone, Debug, Default)]
pub struct Conformance {
    shown: usize,
    breaches: Vec<Breach>,
    /// What each device said last of each control, and when.
    levels: Vec<(Device, Control, f32, f32, Moment)>,
    /// The keys that went up last, and when: one that goes down again at that very moment repeats.
    lifted: Option<(Device, Control, Moment)>,
    /// When each device spoke last.
    last: Vec<(Device, Moment)>,
    gone: Vec<Device>,
    focus: Option<bool>,
    seen: Vec<(Control, f32, f32)>,
}

impl Conformance {
    /// A check that was shown nothing.
    pub fn new() -> Conformance {
        Conformance::default()
    }

    /// Shows a report that the adapter gave at this moment.
    pub fn show(&mut self, report: &Report, now: Moment) {
        match report {
            Report::Event(event) => self.event(event, now),
            Report::Focus(focused, at) => {
                if self.focus.replace(*focused) == Some(*focused) {
                    self.breach("the focus is told again as it is");
                }
                self.time(*at, now);
            }
            Report::View(width, height) if *width == 0 || *height == 0 => self.breach("a view needs a size"),
            Report::Came { device, name, at } => {
                if name.trim().is_empty() {
                    self.breach("a device needs a plain name");
                }
                self.gone.retain(|gone| gone != device);
                self.of_device(*device, *at, now);
            }
            Report::Gone { device, at } => {
                if self.gone.contains(device) {
                    self.breach("a device that is gone goes again");
                }
                self.of_device(*device, *at, now);
                self.gone.push(*device);
                self.levels.retain(|(of, ..)| of != device);
            }
            Report::Gap(gap) if gap.from >= gap.to => self.breach("a gap has no length"),
            Report::View(..) | Report::Gap(_) | Report::Close => {}
        }
        self.shown += 1;
    }

    fn breach(&mut self, problem: impl Into<String>) {
        self.breaches.push(Breach { number: self.shown, problem: problem.into() });
    }

    fn time(&mut self, at: Moment, now: Moment) {
        if at > now {
            self.breach(format!("it lies in the future: {at}, at {now}"));
        }
    }

    fn of_device(&mut self, device: Device, at: Moment, now: Moment) {
        self.time(at, now);
        match self.last.iter_mut().find(|(of, _)| *of == device) {
            Some((_, last)) => {
                let before = core::mem::replace(last, at.max(*last));
                if at < before {
                    self.breach(format!("the time of {device:?} goes back from {before} to {at}"));
                }
            }
            None => self.last.push((device, at)),
        }
    }

    fn event(&mut self, event: &Event, now: Moment) {
        let Event { at, device, input, .. } = *event;
        self.of_device(device, at, now);
        if self.gone.contains(&device) {
            self.breach(format!("{device:?} is unplugged, and speaks"));
        }
        let (control, x, y, pair) = match input {
            Input::Level { control, value } => (control, value, 0.0, false),
            Input::Pair { control, x, y } => (control, x, y, true),
            Input::Touch { x, y, .. } => {
                if !x.is_finite() || !y.is_finite() {
                    self.breach("a finger's place is not a finite number");
                }
                return;
            }
            Input::Stands { control, x, y } => (control, x, y, control.sort() == Sort::Pair),
            Input::Plugged(_) => return,
        };
        let wants_pair = matches!(control.sort(), Sort::Pair | Sort::Counts | Sort::Place);
        if wants_pair != pair {
            self.breach(format!("{control} is {}", if wants_pair { "a pair of levels" } else { "one level" }));
        }
        if !x.is_finite() || !y.is_finite() {
            return self.breach(format!("{control} is not a finite number"));
        }
        self.range(control, x, y);
        self.seen.push((control, x, y));
        if control.family() == Family::Keys {
            if x > 0.0 && self.lifted == Some((device, control, at)) {
                self.breach(format!(
                    "{control} goes up and down in one moment: the window system repeats it; drop both"
                ));
            }
            self.lifted = (x == 0.0).then_some((device, control, at)).or(self.lifted);
        }
        if matches!(control.sort(), Sort::Button | Sort::Level | Sort::Pair) {
            let own = self.levels.iter_mut().find(|(of, known, ..)| (*of, *known) == (device, control));
            let Some((.., was_x, was_y, when)) = own else { return self.levels.push((device, control, x, y, at)) };
            let (same, same_moment) = ((*was_x, *was_y) == (x, y), *when == at && pair);
            (*was_x, *was_y, *when) = (x, y, at);
            if same && matches!(input, Input::Stands { .. }) {
                // It was asked, and says what is known.
            } else if same {
                self.breach(format!("{control} is told again as it is"));
            } else if same_moment {
                self.breach(format!("{control} is told twice in one moment: the axes of one report are one pair"));
            }
        }
    }

    fn range(&mut self, control: Control, x: f32, y: f32) {
        let fits = match control.sort() {
            Sort::Button => x == 0.0 || x == 1.0,
            Sort::Level => (0.0..=1.0).contains(&x),
            // A little beyond is a worn stick.
            Sort::Pair => x.abs() <= 1.001 && y.abs() <= 1.001,
            Sort::Notch => x >= 1.0 && x % 1.0 == 0.0,
            Sort::Counts | Sort::Place => true,
        };
        if !fits {
            let level = if control.sort() == Sort::Pair { format!("{x}, {y}") } else { x.to_string() };
            self.breach(format!("{control} at {level} is out of its range"));
        }
        if control.family() == Family::Touch && control != Control::TOUCH_PLACE {
            self.breach("touch controls belong to the library: report fingers");
        }
    }

    /// The rules that were broken so far.
    pub fn breaches(&self) -> &[Breach] {
        &self.breaches
    }

    /// Whether a control, or a part of it, was reported at a level, to within a hundredth: with its name and its sign.
    pub fn saw(&self, name: &str, level: f32) -> bool {
        let (name, part) = match name.split_once('.') {
            Some((name, part)) => (name, Part::from_name(part)),
            None => (name, Some(Part::Whole)),
        };
        let (Ok(control), Some(part)) = (name.parse::<Control>(), part) else { return false };
        let of = |x: f32, y: f32| {
            let micro = |level: f32| (level * 1e6) as i32;
            part.level(micro(x), micro(y)) as f32 / 1e6
        };
        self.seen.iter().any(|(seen, x, y)| *seen == control && (of(*x, *y) - level).abs() <= 0.01)
    }
}
