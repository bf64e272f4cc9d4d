//! What stretches say of a value is what the whole tape says of it.

#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::path::Path;

use tidy_lever_hands::{Hand, Rehearsal};

use super::*;
use crate::command::rehearse::tape;
use crate::evidence::{Evidence, Player};
use crate::rehearsing::{Troupe, place};

/// A tape of a hand that performs an action.
fn performed(text: &str, action: &str, hand: &str, count: u64) -> Evidence {
    let rehearsal = Rehearsal::new(text, &[]).unwrap();
    let hands = vec![Hand::named(hand).unwrap()];
    let troupe = Troupe { text: text.to_owned(), hands, answers: Vec::new(), answered_by: None, count, seed: 7 };
    let tape = tape(&rehearsal, place(&rehearsal, action).unwrap(), &troupe).unwrap();
    Evidence { players: vec![Player::of(tape.as_slice(), "hands").unwrap()] }
}

/// Compares both ways at so many values of each number of an action; how many stretches were left out in all.
fn compare(text: &str, evidence: &Evidence, action: &str, count: u32) -> usize {
    let movable = Movable::from_toml(text).unwrap();
    let linkage = Linkage::build(movable.profile()).unwrap();
    let ready_tapes = evidence.ready(&linkage).unwrap();
    let now = ready_tapes.pulls(&linkage, action).unwrap();
    let stretches = stretches(&ready_tapes, &linkage, (action, &now), 900.0).unwrap();
    let numbers = movable
        .numbers()
        .iter()
        .filter(|number| number.unit == Unit::Milliseconds && number.path.split('.').next() == Some(action));
    let mut left_out = 0;
    for number in numbers {
        let mut values = Values::new(&ready_tapes, &movable, number, (action, &now), &stretches);
        let most = (number.value * 4.0).max(number.value + 300.0);
        let places: Vec<f64> =
            (0..=count).map(|n| (1.0 + (most - 1.0) * f64::from(n) / f64::from(count)).round()).collect();
        for place in crate::search::by_halves(places.len()) {
            let value = places[place];
            let Some(found) = values.pulls(value).unwrap().cloned() else { continue };
            let Some(linkage) = values.linkage(value) else { continue };
            let whole = ready_tapes.pulls(&linkage, action).unwrap();
            let text = number.written_as(value);
            assert_eq!(found, whole, "{} = {text}", number.path);
            left_out += values.known.iter().filter(|known| known.value == value && !known.is_whole).count();
        }
    }
    left_out
}

#[test]
fn every_value_comes_out_as_on_the_whole_tape() {
    let text =
        std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/otter-post.toml")).unwrap();
    for action in ["hop", "skim", "dash", "toss", "throw", "open-bag", "salute", "knock", "use", "slip"] {
        for hand in ["practised", "clumsy"] {
            let evidence = performed(&text, action, hand, 80);
            let left_out = compare(&text, &evidence, action, 12);
            assert!(left_out > 0, "{action} was played on whole tapes alone");
        }
    }
}
