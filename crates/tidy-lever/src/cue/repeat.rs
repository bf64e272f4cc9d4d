//! `repeat after 400ms every 80ms`: pulls at the press, then on and on; on until let go. A further press begins again.

use super::{Bench, Edge, Meeting, Presses, Verdict};

pub(super) fn hears(after: u64, edge: Edge, bench: &mut Bench<'_>) -> Verdict {
    match edge {
        Edge::Down { press, .. } => {
            let at = bench.at;
            (bench.trial.presses, bench.trial.began) = (Presses::one(press), at);
            bench.due(at + after);
            Verdict::lasting(Presses::one(press), at)
        }
        Edge::Up { cause, .. } => {
            bench.no_timer();
            Verdict::Ended(cause)
        }
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}

pub(super) fn falls_due(every: u64, bench: &mut Bench<'_>) -> Verdict {
    let at = bench.at;
    bench.due(at + every);
    let (presses, pressed) = (bench.trial.presses, bench.trial.began);
    Verdict::Met(Meeting { lasting: true, presses, pressed, repeated: true, ..Meeting::default() })
}
