//! `mash 5 within 1s`: pulls when five presses fall in one sliding second; on until the rate drops.

use super::{Bench, Edge, Pace, Presses, Verdict};
use crate::history::Cause;
use crate::ledger::End;

pub(super) fn hears((count, within, pace): (u32, u64, Pace), edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    let at = bench.at;
    match edge {
        Edge::Down { press, .. } => {
            let trial = &mut *bench.trial;
            if trial.last > 0 {
                trial.keep_pace(at + 1 - trial.last, pace, count - 1);
            }
            trial.last = at + 1;
            let within = trial.window(within, pace, count - 1);
            let place = (trial.note % count) as usize;
            // The ring's oldest is the press `count` presses ago; it makes room for this one.
            bench.moments[place] = at;
            trial.note = trial.note.wrapping_add(1);
            trial.count = (trial.count + 1).min(count);
            trial.presses.push(press);
            trial.open = true;
            let oldest = bench.moments[(trial.note % count) as usize];
            if trial.count == count && at - oldest <= within {
                trial.open = false;
                bench.expire(oldest + within);
                return if bench.on { Verdict::None } else { Verdict::lasting(bench.trial.presses, oldest) };
            }
            if !bench.on {
                bench.expire(at + within);
                if bench.trial.count == count {
                    // The ring is full, so the first of this many presses fell out of the span by this.
                    bench.missed(End::Late { by: at - oldest - within });
                }
            }
            Verdict::None
        }
        Edge::Up { cause, .. } if cause != Cause::LetGo => {
            (bench.trial.count, bench.trial.open) = (0, false);
            bench.no_timer();
            Verdict::Ended(cause)
        }
        _ => Verdict::None,
    }
}

pub(super) fn falls_due(bench: &mut Bench<'_>) -> Verdict {
    bench.trial.open = false;
    if bench.on {
        return Verdict::Ended(Cause::LetGo);
    }
    (bench.trial.count, bench.trial.presses) = (0, Presses::default());
    Verdict::None
}
