//! `steer flicks over 0.8 within 60ms`: from the centre to the edge at once, after a short rest; never from keys. On
//! until neutral.

use super::{Bench, Edge, Presses, Push, Verdict};
use crate::history::Cause;
use crate::ledger::End;

/// How long the stick must have rested before, in µs, unless an action says otherwise.
pub(super) const RESTED: u64 = 20_000;

/// What is known of the push under way: it was decided, or its time is over and only by how much is not known.
const DECIDED: u32 = 1;
const TOO_SLOW: u32 = 2;

pub(super) fn hears((over, within, rested): (i32, u64, u64), edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    let at = bench.at;
    match edge {
        // Entering a direction is its press, and comes before the push.
        Edge::Turn { to: Some(_), press, .. } => {
            if bench.trial.presses == Presses::default() {
                bench.trial.presses = Presses::one(press);
            }
            Verdict::None
        }
        Edge::Push(Push { size: 0, cause, .. }) => {
            // Since when it rests, and 1; from the beginning on it does.
            bench.trial.last = at + 1;
            bench.trial.drop_attempt();
            bench.no_timer();
            if bench.on { Verdict::Ended(cause) } else { Verdict::None }
        }
        Edge::Push(Push { cause, digital, .. }) if cause != Cause::LetGo || digital => {
            (bench.trial.note, bench.trial.open) = (DECIDED, false);
            bench.no_timer();
            Verdict::None
        }
        Edge::Push(Push { size, .. }) => {
            if bench.trial.note == DECIDED || bench.on {
                return Verdict::None;
            }
            if !bench.trial.open && bench.trial.note != TOO_SLOW {
                let rests_since = bench.trial.last;
                if rests_since > 0 && at + 1 - rests_since < rested {
                    bench.trial.note = DECIDED;
                    return Verdict::None;
                }
                (bench.trial.open, bench.trial.began) = (true, at);
                bench.expire(at + within);
            }
            if size < over {
                return Verdict::None;
            }
            let (presses, began) = (bench.trial.presses, bench.trial.began);
            (bench.trial.note, bench.trial.open) = (DECIDED, false);
            bench.no_timer();
            if at - began > within {
                bench.missed(End::Long { by: at - began - within });
                return Verdict::None;
            }
            Verdict::lasting(presses, began)
        }
        _ => Verdict::None,
    }
}

/// The press that began it is gone: nothing comes of this push.
pub(super) fn forget(bench: &mut Bench<'_>) {
    (bench.trial.note, bench.trial.open) = (DECIDED, false);
    bench.no_timer();
}

/// The edge was not reached in time.
pub(super) fn falls_due(bench: &mut Bench<'_>) -> Verdict {
    (bench.trial.note, bench.trial.open) = (TOO_SLOW, false);
    Verdict::None
}
