//! From what trials ran into to the number that would find them.

use tidy_lever::profile::{Number, Unit};

use crate::tally::{Miss, Tally, quantile};

/// A number that would find trials that are missed now.
#[derive(Clone, Debug, PartialEq)]
pub struct Fix {
    /// The number's path: `skim.early`.
    pub path: String,
    /// What to set it to, in its unit.
    pub value: f64,
    /// What the trials ran into.
    pub miss: Miss,
    /// How many of them.
    pub count: u64,
    /// By how much at the median, in µs.
    pub median: u32,
}

/// Numbers are advised in steps of this, in ms.
const STEP: f64 = 5.0;
/// From this share of the trials on something stands out.
const STANDS_OUT: f64 = 0.03;

/// The last word of a path, without the place in a list.
fn key(path: &str) -> &str {
    path.rsplit('.').next().unwrap_or_default().split('[').next().unwrap_or_default()
}

/// The number of an action that most of its missed trials ask for, if that stands out: wide enough for nine in ten of
/// them. `numbers` are the profile's.
pub fn fix(tally: &Tally, action: &str, numbers: &[Number]) -> Option<Fix> {
    let own = |number: &&Number| number.path.split('.').next() == Some(action) && number.unit == Unit::Milliseconds;
    for (miss, count, median) in tally.worst() {
        if (count as f64) < STANDS_OUT * tally.meant as f64 {
            return None;
        }
        // What takes the number up, and what takes it down.
        let (keys, up): (&[&str], bool) = match miss {
            Miss::TooLate => (&["within", "apart"], true),
            Miss::TooSoon => (&["early", "hold", "from"], true),
            Miss::TooLong => (&["under"], true),
            Miss::NotFresh => (&["fresh"], true),
            Miss::Astray(_) => (&["astray"], true),
            Miss::GateNotYetOpen(_) => (&["keep"], true),
            Miss::GateShutBefore(_) => (&[], true),
            _ => continue,
        };
        let lingers = |number: &&Number| match miss {
            Miss::GateShutBefore(term) => {
                number.path == format!("{action}.when.{}", term.split(' ').next().unwrap_or_default())
            }
            _ => false,
        };
        let fits = |number: &&Number| own(number) && (keys.contains(&key(&number.path)) || lingers(number));
        let Some(number) = numbers.iter().find(fits) else { continue };
        let by: Vec<u32> = tally.misses.get(miss)?.iter().copied().flatten().collect();
        let (Some(most), Some(median)) = (quantile(by, 0.9), median) else { continue };
        let by = f64::from(most) / 1e3;
        // A hold or a charge that is let go too soon wants a shorter span.
        let down = matches!(key(&number.path), "hold" | "from") || !up;
        let value = if down { number.value - by } else { number.value + by };
        let value = if down { (value / STEP).floor() * STEP } else { (value / STEP).ceil() * STEP };
        let value = value.clamp(number.least.max(STEP), number.most);
        return Some(Fix { path: number.path.clone(), value, miss: miss.clone(), count, median });
    }
    None
}
