//! `charge 200ms to 1.2s`: pulls at letting go, with an amount that grows from 0 to 1 between the two spans; sooner
//! nothing. An instant.

use super::{Bench, Edge, Meeting, Presses, Verdict};
use crate::fixed::ONE;
use crate::history::Cause;
use crate::ledger::End;

pub(super) fn hears(from: u64, to: u64, edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    match edge {
        Edge::Down { press, first: true, .. } => {
            (bench.trial.presses, bench.trial.open) = (Presses::one(press), true);
            Verdict::None
        }
        Edge::Up { cause, held } => {
            let presses = bench.trial.presses;
            let was_open = bench.trial.open;
            bench.trial.drop_attempt();
            if was_open && cause == Cause::LetGo && held < from {
                bench.missed(End::Soon { by: from - held });
            }
            if cause != Cause::LetGo || held < from || !was_open {
                return Verdict::None;
            }
            // A day in µs times a million stays below 2^63.
            let amount = (held.min(to) - from) * ONE as u64 / (to - from);
            let pressed = bench.at - held;
            Verdict::Met(Meeting { presses, pressed, amount: amount as i32, ..Meeting::default() })
        }
        _ => Verdict::None,
    }
}
