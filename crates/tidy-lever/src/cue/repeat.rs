//! `repeat after 400ms every 80ms`: pulls at the press, then on and on; on until let go. A further press begins again.

use super::{CueMatch, Edge, Presses, RuleContext, Verdict};

pub(super) fn hears(after: u64, edge: Edge, context: &mut RuleContext<'_>) -> Verdict {
    match edge {
        Edge::Down { press, .. } => {
            let at = context.at;
            (context.state.presses, context.state.began) = (Presses::one(press), at);
            context.due(at + after);
            Verdict::lasting(Presses::one(press), at)
        }
        Edge::Up { cause, .. } => {
            context.no_timer();
            Verdict::Ended(cause)
        }
        Edge::Turn { .. } | Edge::Push { .. } => Verdict::None,
    }
}

pub(super) fn falls_due(every: u64, context: &mut RuleContext<'_>) -> Verdict {
    let at = context.at;
    context.due(at + every);
    let (presses, pressed) = (context.state.presses, context.state.began);
    Verdict::Matched(CueMatch { lasting: true, presses, pressed, repeated: true, ..CueMatch::default() })
}
