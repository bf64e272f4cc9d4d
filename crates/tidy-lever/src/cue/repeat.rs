//! `repeat after 400ms every 80ms`: pulls at the press, then on and on; on until let go. A further press begins again.

use super::{CompiledRule, CueMatch, Edge, Presses, Role, Rule, RuleContext, Scaling, Verdict};
use crate::time::micros;

/// The rule made ready: spans in µs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Repeat {
    after: u64,
    every: u64,
}

impl CompiledRule for Repeat {
    fn of(rule: &Rule) -> Option<Repeat> {
        if let Rule::Repeat { after, every } = *rule {
            Some(Repeat { after: micros(after), every: micros(every) })
        } else {
            None
        }
    }

    fn hears(&self, edge: Edge, _: Role, context: &mut RuleContext<'_>) -> Verdict {
        let after = self.after;
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

    fn falls_due(&self, context: &mut RuleContext<'_>) -> Verdict {
        let every = self.every;
        let at = context.at;
        context.due(at + every);
        let (presses, pressed) = (context.state.presses, context.state.began);
        Verdict::Matched(CueMatch { lasting: true, presses, pressed, repeated: true, ..CueMatch::default() })
    }

    fn window(&self) -> Option<u64> {
        None
    }

    fn is_eager(&self) -> bool {
        true
    }

    fn scale(&mut self, by: &Scaling<'_>) {
        (self.after, self.every) = ((by.held)(self.after), (by.held)(self.every));
    }
}
