//! Cues and pulls alone: edges and answers of gates go in, outcomes come out.

use alloc::vec::Vec;

use super::*;
use crate::cause::Cause;
use crate::engine::values::{EdgeKind, InputEdge, Listening, Outcome};
use crate::history::What;
use crate::linkage::Linkage;
use crate::profile::Profile;
use crate::timers::DuePart;

const TEXT: &str = "tidy-lever = 1\n[facts]\ngrounded = true\n\
    [action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms\"\nkeep = \"80ms\"\n\
    [action.bag]\nkind = \"button\"\nkeys = \"KeyB\"\ncue = \"hold 30ms\"\n";
const HOP: u16 = 0;
const BAG: u16 = 1;

struct Alone {
    linkage: Linkage,
    pulls: Pulls,
}

impl Alone {
    fn new() -> Alone {
        let linkage = Linkage::build(&Profile::from_toml(TEXT).unwrap()).unwrap();
        let listening = Listening(alloc::vec![true; linkage.0.actions.len()]);
        let pulls = Pulls::new(&linkage.0, 0, crate::engine::Capacity::default(), &listening);
        Alone { linkage, pulls }
    }

    fn hears(&mut self, action: u16, kind: EdgeKind, at: u64) {
        self.pulls.edge_heard(&self.linkage.0, &InputEdge { action, kind }, at);
    }

    /// The gate of what was met alone answers; what that causes.
    fn answer(&mut self, is_open: bool, at: u64) -> Vec<Outcome> {
        let plan = &self.linkage.0;
        let met = self.pulls.alone(plan).unwrap();
        if is_open {
            assert!(self.pulls.pull(plan, &met, at));
        } else {
            self.pulls.keep(plan, met, None, (at, at));
        }
        self.outcomes()
    }

    fn outcomes(&mut self) -> Vec<Outcome> {
        core::iter::from_fn(|| self.pulls.outcomes.pop()).collect()
    }
}

fn down(press: u64) -> EdgeKind {
    EdgeKind::Down { press, first: true, back: false }
}

#[test]
fn a_press_pulls_where_its_gate_is_open_and_its_end_is_told() {
    let mut alone = Alone::new();
    alone.hears(HOP, down(128), 10);
    let caused = alone.answer(true, 10);
    let [Outcome::Spend(HOP), Outcome::On { action: HOP, from: 11 }, Outcome::Pulled(pull), Outcome::SetMarks { .. }] =
        caused[..]
    else {
        panic!("{caused:?}")
    };
    assert_eq!((pull.action, pull.at().as_micros()), (HOP, 10));
    alone.hears(HOP, EdgeKind::Up { press: 128, since: 10, cause: Cause::LetGo, is_noted: false }, 30);
    let ended = alone.outcomes();
    assert!(
        matches!(
            ended[..],
            [Outcome::Off(HOP), Outcome::Happened { action: HOP, what: What::Ended(Cause::LetGo), since: 10 }]
        ),
        "{ended:?}"
    );
}

#[test]
fn what_a_gate_refuses_is_kept_until_it_opens_or_its_span_is_over() {
    let mut alone = Alone::new();
    alone.hears(HOP, down(128), 10);
    assert!(alone.answer(false, 10).is_empty());
    assert_eq!((alone.pulls.lists.kept.len(), alone.pulls.lists.keeping.next_at()), (1, 80_010));
    assert!(!alone.pulls.keeps_end(80_009, 80_009) && alone.pulls.keeps_end(80_010, 80_010));
    assert!(alone.pulls.lists.kept.is_empty());
    alone.hears(HOP, down(256), 90_000);
    alone.answer(false, 90_000);
    alone.pulls.reopens(&alone.linkage.0, 0);
    assert!(
        alone.answer(true, 90_100).iter().any(|outcome| matches!(outcome, Outcome::Pulled(pull) if pull.kept == 100))
    );
}

#[test]
fn a_timer_of_a_cue_meets_it_unless_it_is_let_go_before() {
    let mut alone = Alone::new();
    for (at, up) in [(10, Some(20_000)), (100_000, None)] {
        alone.hears(BAG, down(at), at);
        if let Some(up) = up {
            alone.hears(BAG, EdgeKind::Up { press: at, since: at, cause: Cause::LetGo, is_noted: false }, up);
        }
        assert_eq!(alone.pulls.falls_due(&alone.linkage.0, at + 30_000, DuePart::Due), up.is_none());
        assert_eq!(alone.pulls.lists.pending.len(), usize::from(up.is_none()));
    }
}
