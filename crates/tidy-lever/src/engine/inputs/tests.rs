//! Inputs alone: what devices say goes in, edges come out.

use alloc::vec::Vec;

use super::*;
use crate::cause::Cause;
use crate::control::Control;
use crate::engine::incoming::{InputKind, Lateness, QueuedInput};
use crate::engine::values::{EdgeKind, InputEdge, Listening};
use crate::event::Device;
use crate::fixed::ONE;
use crate::linkage::{InputsPlan, Linkage};
use crate::profile::Profile;

const TEXT: &str = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = [\"Space\", \"KeyK\"]\n\
    [action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
    [devices]\nkeys = { debounce = \"0ms\" }\n";
const HOP: u16 = 0;
const STEER: u16 = 1;

struct Alone {
    linkage: Linkage,
    inputs: Inputs,
    listening: Listening,
}

impl Alone {
    fn new() -> Alone {
        let linkage = Linkage::build(&Profile::from_toml(TEXT).unwrap()).unwrap();
        let plan: &InputsPlan = &linkage.0.inputs;
        let inputs = Inputs::new(plan, 0, crate::engine::Capacity::default());
        let listening = Listening(alloc::vec![true; plan.buttons.len()]);
        Alone { linkage, inputs, listening }
    }

    /// A key goes down (1) or up (0); the edges of that.
    fn key(&mut self, at: u64, key: &str, level: i32) -> Vec<InputEdge> {
        let plan = &self.linkage.0.inputs;
        let control: Control = alloc::format!("keys:{key}").parse().unwrap();
        let number = plan.slot_of[control.number()].unwrap().number();
        let (device, what) = (Device::FIRST, InputKind::Control);
        let queued = QueuedInput { at, x: level * ONE, y: 0, number, device, what, late: Lateness::default() };
        self.inputs.control_says(Here::new(plan, &self.listening, at), queued);
        self.edges()
    }

    fn edges(&mut self) -> Vec<InputEdge> {
        core::iter::from_fn(|| self.inputs.edges.pop()).collect()
    }
}

#[test]
fn a_button_on_two_keys_goes_up_with_the_last() {
    let mut alone = Alone::new();
    let firsts = [("Space", 10), ("KeyK", 20)].map(|(key, at)| match alone.key(at, key, 1)[..] {
        [InputEdge { action: HOP, kind: EdgeKind::Down { first, back: false, .. } }] => first,
        ref other => panic!("{other:?}"),
    });
    assert_eq!(firsts, [true, false]);
    assert!(alone.key(30, "Space", 0).is_empty());
    let up = alone.key(40, "KeyK", 0);
    assert!(
        matches!(up[..], [InputEdge { action: HOP, kind: EdgeKind::Up { since: 10, cause: Cause::LetGo, .. } }]),
        "{up:?}"
    );
}

#[test]
fn a_cross_turns_and_its_direction_is_a_press_of_its_own() {
    let mut alone = Alone::new();
    let edges = alone.key(10, "KeyD", 1);
    let presses: Vec<(u16, u64)> = edges
        .iter()
        .filter_map(|edge| match edge.kind {
            EdgeKind::Down { press, .. } | EdgeKind::Turn { press, .. } => Some((edge.action, press)),
            _ => None,
        })
        .collect();
    let [(STEER, press), (right, same), (STEER, turned)] = presses[..] else { panic!("{edges:?}") };
    assert!(right > STEER && press == same && press == turned && press > 0, "{presses:?}");
    // The second key turns it to a diagonal, and no press is made of leaving rest again.
    let edges = alone.key(20, "KeyW", 1);
    assert!(edges.iter().any(|edge| matches!(edge.kind, EdgeKind::Turn { .. })), "{edges:?}");
    assert!(!edges.iter().any(|edge| matches!(edge, InputEdge { action: STEER, kind: EdgeKind::Down { .. } })));
}

#[test]
fn what_is_held_when_an_action_begins_to_listen_needs_a_fresh_press() {
    let mut alone = Alone::new();
    alone.key(10, "Space", 1);
    alone.listening.set(usize::from(HOP), &[], false);
    let here = Here::new(&alone.linkage.0.inputs, &alone.listening, 20);
    alone.inputs.covers(here, usize::from(HOP), Cause::Covered);
    let covered = alone.edges();
    assert!(matches!(covered[..], [InputEdge { kind: EdgeKind::Up { cause: Cause::Covered, .. }, .. }]), "{covered:?}");
    alone.listening.set(usize::from(HOP), &[], true);
    alone.inputs.uncovers(Here::new(&alone.linkage.0.inputs, &alone.listening, 30), usize::from(HOP));
    assert!(alone.edges().is_empty() && alone.key(40, "Space", 0).is_empty());
    assert_eq!(alone.key(50, "Space", 1).len(), 1);
}

#[test]
fn a_second_change_of_one_control_in_one_moment_comes_a_microsecond_later() {
    let mut alone = Alone::new();
    assert_eq!(alone.key(10, "Space", 1).len(), 1);
    assert!(alone.key(10, "Space", 0).is_empty());
    let later = alone.inputs.later.pop().unwrap();
    assert_eq!((later.at, later.x, alone.inputs.later.is_empty()), (11, 0, true));
}
