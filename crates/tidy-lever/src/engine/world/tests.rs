//! The world alone: what is told and spent goes in, and it answers whether a gate stands open.

use alloc::vec::Vec;

use super::*;
use crate::engine::values::WorldNews;
use crate::linkage::{Linkage, WorldPlan};
use crate::profile::Profile;
use crate::time::NEVER;

const TEXT: &str = "tidy-lever = 1\n[modes]\nmenu = { covers = \"all\" }\n[facts]\ngrounded = true\n\
    [action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms\"\ncooldown = \"50ms\"\n\
    marks = { half = \"20ms\" }\n\
    [action.dive]\nkind = \"button\"\nkeys = \"KeyD\"\nwhen = \"not hop on\"\n\
    [action.pause]\nkind = \"button\"\nkeys = \"Escape\"\nmodes = \"always\"\n\
    [action.paddle]\nkind = \"gauge\"\nkeys = \"KeyK\"\ngauge = { ceiling = 2, push = \"+1\", fade = \"-1 every 100ms\", pulls = \"full\" }\n";
const HOP: usize = 0;
const DIVE: usize = 1;
const PAUSE: usize = 2;
const PADDLE: usize = 3;

fn made() -> (Linkage, World) {
    let linkage = Linkage::build(&Profile::from_toml(TEXT).unwrap()).unwrap();
    let plan: &WorldPlan = &linkage.0.world;
    let mut world = World::new(plan, 0, crate::engine::Capacity::default());
    world.begins(plan, 0);
    (linkage, world)
}

fn fact(plan: &WorldPlan, name: &str) -> usize {
    plan.facts.iter().position(|fact| fact.name == name).unwrap()
}

#[test]
fn a_gate_lingers_is_spent_and_cools_down() {
    let (linkage, mut world) = made();
    let plan = &linkage.0.world;
    world.tell(plan, fact(plan, "grounded"), 0, 1_000);
    assert!(world.take_may_open() && !world.take_may_open());
    assert!(world.is_open(plan, HOP, 91_000) && !world.is_open(plan, HOP, 91_001));
    world.tell(plan, fact(plan, "grounded"), 1, 100_000);
    world.spend(plan, HOP, 100_000);
    assert!(!world.is_open(plan, HOP, 100_000), "it is spent");
    world.give_back(plan, HOP, 1);
    assert!(world.is_open(plan, HOP, 100_000));
}

#[test]
fn an_action_counts_as_on_from_the_moment_after_its_pull() {
    let (linkage, mut world) = made();
    let plan = &linkage.0.world;
    world.is_on_from(HOP, 1_001);
    assert!(world.is_open(plan, DIVE, 1_000) && !world.is_open(plan, DIVE, 1_001));
    world.is_on_from(HOP, NEVER);
    assert!(world.is_open(plan, DIVE, 1_001));
}

#[test]
fn marks_and_gauges_go_by_a_clock_that_stands_still() {
    let (linkage, mut world) = made();
    let plan = &linkage.0.world;
    world.set_marks(plan, HOP, 1, 1_000);
    assert_eq!(world.next_due(), 21_000);
    world.tell(plan, fact(plan, "frozen"), 1, 5_000);
    assert_eq!(world.next_due(), NEVER);
    world.tell(plan, fact(plan, "frozen"), 0, 9_000);
    assert_eq!((world.next_due(), world.falls_due(plan, 24_999)), (25_000, false));
    assert!(world.falls_due(plan, 25_000) && !world.falls_due(plan, 25_000));
    assert!(matches!(world.news.pop(), Some(WorldNews::Mark { action: 0, mark: 0 })));
    let gauge = linkage.0.actions[PADDLE].gauge.unwrap();
    let reached: Vec<bool> = [30_000, 31_000, 32_000]
        .into_iter()
        .map(|at| {
            world.gauge_pressed(plan, gauge, at, at);
            matches!(world.news.pop(), Some(WorldNews::Reached { action: 3, .. }))
        })
        .collect();
    // Between them it fades a little.
    assert_eq!(reached, [false, false, true]);
}

#[test]
fn a_mode_changes_who_listens_one_after_the_other() {
    let (linkage, mut world) = made();
    let plan = &linkage.0.world;
    assert!(world.switch(0, true) && !world.switch(0, true));
    let mut from = 0;
    let mut changed = Vec::new();
    while let Some(change) = world.listens_anew(plan, from) {
        // The next one listens still while the one before is told.
        assert!(!world.listening[change.action] && !change.listens);
        assert!(world.listening.0[change.action + 1..plan.actions.len()].iter().all(|listens| *listens));
        changed.push(change.action);
        from = change.action + 1;
    }
    assert_eq!(changed, [HOP, DIVE, PADDLE]);
    assert!(world.listening[PAUSE]);
}
