//! `with guard within 40ms`: a chord. Pulls when both are down, in either order; on until either is let go. Each press
//! serves one chord.

use super::{Bench, Edge, Presses, Role, Verdict};
use crate::history::Cause;
use crate::ledger::End;

pub(super) fn hears(within: u64, one_by_one: bool, edge: Edge, role: Role, bench: &mut Bench<'_>) -> Verdict {
    let at = bench.at;
    // Which of the two the open attempt waits on: 1 the subject was first, 2 the other was.
    let own = if role == Role::Subject { 1 } else { 2 };
    match edge {
        Edge::Down { .. } if bench.on => Verdict::None,
        Edge::Down { press, .. } => {
            let trial = &mut *bench.trial;
            if trial.open && trial.note != own && at - trial.began <= within {
                let mut presses = trial.presses;
                presses.push(press);
                let began = trial.began;
                trial.drop_attempt();
                bench.no_timer();
                return Verdict::lasting(presses, began);
            }
            (trial.presses, trial.began, trial.note, trial.open) = (Presses::one(press), at, own, true);
            bench.expire(at + within);
            Verdict::None
        }
        Edge::Up { cause, .. } => {
            // A one_by_one first one stays with the attempt after it is let go.
            if (bench.trial.note == own && !one_by_one) || cause != Cause::LetGo {
                if bench.trial.open && cause == Cause::LetGo {
                    bench.missed(End::LetGo);
                }
                bench.trial.drop_attempt();
                bench.no_timer();
            }
            Verdict::Ended(cause)
        }
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}
