//! `2 taps 240ms apart`: pulls at the last press, each gap within the span, then counts again; on until let go.
//!
//! ```text
//!   ─┐ ┌──┐ ┌─        gaps lie between presses (or, counted on release, between lettings go)
//!    └─┘  └─┘
//!    |←──→|● ≤ apart
//! ```

use super::{Bench, Edge, Pace, Presses, Verdict};
use crate::history::Cause;

pub(super) fn hears(
    (count, apart, on_release, pace): (u32, u64, bool, Pace),
    edge: Edge,
    bench: &mut Bench<'_>,
) -> Verdict {
    let gaps = (apart, pace);
    match edge {
        Edge::Down { press, .. } if !on_release => match tap(count, gaps, press, bench) {
            Some((presses, began)) => Verdict::lasting(presses, began),
            None => Verdict::None,
        },
        // Counted on release, the press only lends its identity.
        Edge::Down { press, .. } => {
            bench.trial.note = press as u32;
            Verdict::None
        }
        Edge::Up { cause: Cause::LetGo, .. } if on_release => {
            let press = u64::from(core::mem::take(&mut bench.trial.note));
            if press == 0 {
                // The press was taken away meanwhile.
                return Verdict::None;
            }
            match tap(count, gaps, press, bench) {
                Some((presses, began)) => Verdict::instant(presses, began),
                None => Verdict::None,
            }
        }
        Edge::Up { cause, .. } => {
            if cause != Cause::LetGo {
                bench.trial.drop_attempt();
                bench.no_timer();
            }
            Verdict::Ended(cause)
        }
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}

/// Presses are gone: an attempt on them is dropped, and the press that is down lends nothing if it is one of them.
pub(super) fn forgets(gone: impl Fn(u32) -> bool, bench: &mut Bench<'_>) -> bool {
    let is_held = |press: u32| press != 0 && !gone(press);
    let (held, was_open) = (Some(bench.trial.note).filter(|press| is_held(*press)), bench.trial.open);
    if was_open && bench.trial.presses.iter().any(&gone) {
        bench.trial.drop_attempt();
        bench.no_timer();
    }
    bench.trial.note = held.unwrap_or(0);
    was_open && !bench.trial.open
}

/// The window is over; a press that is down lends its identity all the same.
pub(super) fn falls_due(bench: &mut Bench<'_>) -> Verdict {
    let held = bench.trial.note;
    bench.trial.drop_attempt();
    bench.trial.note = held;
    Verdict::None
}

/// Counts one; the presses and the beginning of the attempt if that makes it whole.
fn tap(count: u32, (apart, pace): (u64, Pace), press: u64, bench: &mut Bench<'_>) -> Option<(Presses, u64)> {
    let at = bench.at;
    let trial = &mut *bench.trial;
    // The last one's moment is kept with 1 added: 0 is none.
    let (apart, gap) = (trial.window(apart, pace, 1), (at + 1).saturating_sub(trial.last));
    if trial.last > 0 {
        trial.keep_pace(gap, pace, 1);
    }
    if !trial.open || gap > apart {
        (trial.count, trial.presses, trial.began, trial.open) = (0, Presses::default(), at, true);
    }
    trial.count += 1;
    trial.last = at + 1;
    trial.presses.push(press);
    if trial.count < count {
        let apart = trial.window(apart, pace, 1);
        bench.expire(at + apart);
        return None;
    }
    let whole = (trial.presses, trial.began);
    trial.drop_attempt();
    // What comes next begins anew, however soon.
    trial.last = 0;
    bench.no_timer();
    Some(whole)
}
