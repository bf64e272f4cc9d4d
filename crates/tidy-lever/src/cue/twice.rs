//! `steer twice within 240ms`: the same direction twice with neutral between; another direction breaks it. On until
//! that direction ends.

use super::{Bench, Edge, Presses, Verdict};
use crate::history::Cause;
use crate::ledger::{Did, End};

/// A direction as a note: 0 is none.
fn noted(direction: Option<crate::direction::Direction>) -> u32 {
    direction.map_or(0, |direction| direction as u32 + 1)
}

pub(super) fn hears(within: u64, edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    let Edge::Turn { from, to, press, cause } = edge else { return Verdict::None };
    let at = bench.at;
    if bench.on {
        // The direction that it stands on ended.
        bench.trial.drop_attempt();
        return Verdict::Ended(cause);
    }
    if cause != Cause::LetGo {
        bench.trial.drop_attempt();
        bench.no_timer();
        return Verdict::None;
    }
    match (from, to) {
        (None, Some(_)) if bench.trial.open && bench.trial.note == noted(to) && at - bench.trial.began <= within => {
            let mut presses = bench.trial.presses;
            presses.push(press);
            let began = bench.trial.began;
            bench.trial.drop_attempt();
            bench.no_timer();
            Verdict::lasting(presses, began)
        }
        (None, Some(now)) => {
            if bench.trial.open && bench.trial.note != noted(to) {
                bench.missed(End::Wrong(Did::Toward(now)));
            }
            let trial = &mut *bench.trial;
            (trial.presses, trial.began, trial.note, trial.open) = (Presses::one(press), at, noted(to), true);
            bench.expire(at + within);
            Verdict::None
        }
        (Some(_), Some(now)) => {
            if bench.trial.open {
                bench.missed(End::Wrong(Did::Toward(now)));
            }
            bench.trial.drop_attempt();
            bench.no_timer();
            Verdict::None
        }
        _ => Verdict::None,
    }
}
