//! What lies within reach of one hand: by the two halves of a keyboard, a pad and a screen.

use alloc::vec::Vec;

use super::{ActionView, ControlView, Linkage};
use crate::access::Hand;
use crate::control::Family;
use crate::profile::Leg;

/// The keys of the left half of a keyboard; the space bar lies in the middle.
const LEFT_KEYS: [&str; 39] = [
    "Escape",
    "F1",
    "F2",
    "F3",
    "F4",
    "F5",
    "Backquote",
    "Digit1",
    "Digit2",
    "Digit3",
    "Digit4",
    "Digit5",
    "Digit6",
    "Tab",
    "KeyQ",
    "KeyW",
    "KeyE",
    "KeyR",
    "KeyT",
    "CapsLock",
    "KeyA",
    "KeyS",
    "KeyD",
    "KeyF",
    "KeyG",
    "ShiftLeft",
    "IntlBackslash",
    "KeyZ",
    "KeyX",
    "KeyC",
    "KeyV",
    "KeyB",
    "ControlLeft",
    "MetaLeft",
    "AltLeft",
    "Space",
    "F6",
    "Lang2",
    "NonConvert",
];

/// The left half of a pad.
const LEFT_PAD: [&str; 7] = ["left-stick", "dpad", "left-shoulder", "left-trigger", "left-thumb", "select", "home"];
/// What both hands reach.
const MIDDLE: [&str; 2] = ["Space", "home"];

fn reaches(hand: Hand, view: &ControlView, mouse: Hand) -> bool {
    let name = alloc::format!("{}", view.control.name());
    let left = match view.control.family() {
        Family::Keys => LEFT_KEYS.contains(&name.as_str()),
        Family::Pad => LEFT_PAD.contains(&name.as_str()),
        Family::Mouse => return hand == mouse,
        // A finger goes anywhere.
        Family::Touch => return true,
    };
    MIDDLE.contains(&name.as_str()) || left == (hand == Hand::Left)
}

impl Linkage {
    /// The actions, with their legs, for which this hand has no control on a keyboard, a pad or a screen. The mouse counts
    /// for the hand that the keyboard is not for.
    pub fn out_of_reach(&self, hand: Hand) -> Vec<(ActionView<'_>, Option<Leg>)> {
        let mut all = Vec::new();
        for action in self.actions() {
            let controls = action.controls();
            let near = |view: &&ControlView| reaches(hand, view, Hand::Right);
            // A whole control will do; else every leg must.
            if controls.is_empty() || controls.iter().filter(near).any(|view| view.leg.is_none()) {
                continue;
            }
            let mut legs: Vec<Option<Leg>> = controls.iter().map(|view| view.leg).filter(Option::is_some).collect();
            legs.sort_by_key(|leg| leg.map(|leg| leg as u8));
            legs.dedup();
            if legs.is_empty() {
                all.push((action, None));
            }
            let far = legs.into_iter().filter(|leg| !controls.iter().filter(near).any(|view| view.leg == *leg));
            all.extend(far.map(|leg| (action, leg)));
        }
        all
    }
}
