//! Promise: answers in a game's stead are read and checked, and told at the microsecond, at any frame rate.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::time::Duration;

use tidy_lever::tape::{Header, Recorder};
use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile, What};
use tidy_lever_tuning::{Answer, Answering, read_answers, write_answers};

const TEXT: &str = "tidy-lever = 1\n[facts]\ngrounded = true\nstate = [\"ashore\", \"afloat\"]\n\
                    [action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded\"\nkeep = \"120ms\"\n\
                    [action.board]\nkind = \"button\"\nkeys = \"KeyR\"\n";

fn linkage() -> Linkage {
    Linkage::build(&Profile::from_toml(TEXT).unwrap()).unwrap()
}

/// Presses of keys, in milliseconds, played in steps; every pull with its moment in µs.
fn pulls(answers: &[&str], presses: &[(u64, &str)], step: u64) -> Vec<(String, u64)> {
    let linkage = linkage();
    let mut seat = linkage.seat(Moment::ZERO);
    let mut answering = Answering::new(answers.iter().map(|text| text.parse().unwrap()).collect());
    let mut recorder = Recorder::off(&Header::new(""));
    for (at, key) in presses {
        let key: Control = format!("keys:{key}").parse().unwrap();
        for (at, down) in [(*at, true), (*at + 20, false)] {
            seat.feed(Event::button(Moment::from_millis(at), Device::default(), key, down)).unwrap();
        }
    }
    let mut all = Vec::new();
    let mut to = 0;
    while to < 2_000_000 {
        to += step;
        let mut hand = recorder.seat(1, &mut seat);
        answering.advance(&mut hand, Moment::from_micros(to), |seat| {
            let pulled = seat.latest();
            for pull in pulled.happenings().filter(|happening| happening.what() == What::Pulled) {
                all.push((pull.action(seat.linkage()).unwrap().to_owned(), pull.at().as_micros()));
            }
        });
    }
    all
}

#[test]
fn a_hop_lands_when_the_answer_says_at_any_frame_rate() {
    let answers = ["hop: grounded = false for 520ms"];
    // The second press is too early, the third is kept until the landing 520 ms after the answer.
    let presses = [(100, "Space"), (300, "Space"), (560, "Space")];
    let wanted = [("hop".to_owned(), 100_000), ("hop".to_owned(), 620_001)];
    for step in [500, 8_333, 16_667, 250_000, 2_000_000] {
        assert_eq!(pulls(&answers, &presses, step), wanted, "steps of {step} µs");
    }
}

#[test]
fn an_answer_may_come_later_and_a_newer_pull_begins_it_anew() {
    // Until the answer comes, the fact is as it was: both presses pull, and the fall lasts from the second on.
    let presses = [(100, "Space"), (130, "Space"), (560, "Space"), (700, "Space")];
    let late = pulls(&["hop: grounded = false for 500ms after 40ms"], &presses, 16_667);
    let at: Vec<u64> = late.iter().map(|(_, at)| *at).collect();
    assert_eq!(at, [100_000, 130_000, 670_001, 700_000]);
    // One that stays.
    assert_eq!(pulls(&["hop: grounded = false"], &presses, 16_667).len(), 1);
    // Of several actions each has its own; a fact of words goes back to the word that it was.
    let both =
        pulls(&["board: state = afloat for 100ms", "board: grounded = false"], &[(10, "KeyR"), (50, "Space")], 1_000);
    assert_eq!(both, [("board".to_owned(), 10_000)]);
}

#[test]
fn what_is_wrong_with_an_answer_is_told_with_its_place_and_the_nearest_name() {
    let linkage = linkage();
    let file = "answers = [\n  \"hop: grounded = false for 520ms\",\n  \"hopp: grounded = false\",\n  \"hop: ground = false\",\n  \
                \"board: state = aflaot\",\n  \"hop: grounded = false for ever\",\n  \"hop\",\n]\n";
    let told: Vec<String> =
        read_answers(file, "a.toml", &linkage).unwrap_err().iter().map(ToString::to_string).collect();
    for (told, wanted) in told.iter().zip([
        "a.toml:3: the profile has no action `hopp`; did you mean `hop`?",
        "a.toml:4: the profile has no `ground` (a fact); did you mean `grounded`?",
        "a.toml:5: `state` can't be `aflaot`; it is ashore or afloat",
        "a.toml:6: ",
        "a.toml:7: an answer is an action, a fact and its value",
    ]) {
        assert!(told.starts_with(wanted), "{told}");
    }
    assert_eq!(told.len(), 5);
    let broken = read_answers("answers = [", "a.toml", &linkage).unwrap_err();
    assert!(broken[0].to_string().starts_with("a.toml:1: no TOML"), "{broken:?}");
    // What is written is read again.
    let answers: Vec<Answer> =
        ["hop: grounded = false for 520ms after 5ms", "board: state = afloat"].map(|text| text.parse().unwrap()).into();
    assert_eq!(read_answers(&write_answers(&answers), "a.toml", &linkage).unwrap(), answers);
    assert_eq!(read_answers(&write_answers(&[]), "a.toml", &linkage), Ok(Vec::new()));
    assert_eq!(answers[0].lasts, Some(Duration::from_millis(520)));
}
