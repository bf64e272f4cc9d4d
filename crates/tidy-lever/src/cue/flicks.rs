//! `steer flicks over 0.8 within 60ms`: from the centre to the edge at once. On until neutral.

use super::{Bench, Edge, Presses, Verdict};
use crate::history::Cause;
use crate::ledger::End;

/// What is known of the flick under way: it was decided, or its time is over and only by how much is not known.
const DECIDED: u32 = 1;
const TOO_SLOW: u32 = 2;

pub(super) fn hears(over: i32, within: u64, edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    let at = bench.at;
    match edge {
        // Entering a direction is its press, and comes before the push.
        Edge::Turn { to: Some(_), press, .. } => {
            if bench.trial.presses == Presses::default() {
                bench.trial.presses = Presses::one(press);
            }
            Verdict::None
        }
        Edge::Push { size: 0, cause } => {
            bench.trial.drop_attempt();
            bench.no_timer();
            if bench.on { Verdict::Ended(cause) } else { Verdict::None }
        }
        Edge::Push { cause, .. } if cause != Cause::LetGo => {
            (bench.trial.note, bench.trial.open) = (DECIDED, false);
            Verdict::None
        }
        Edge::Push { size, .. } => {
            if bench.trial.note == DECIDED || bench.on {
                return Verdict::None;
            }
            if !bench.trial.open && bench.trial.note != TOO_SLOW {
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
