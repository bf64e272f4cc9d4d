//! Promise: what the benches compare with does the same on the demo's round.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use tidy_lever::tape::{Reader, Replayer};
use tidy_lever::{Linkage, Moment, Profile, What};
use tidy_lever_benches::{by_hand, read};

#[test]
fn the_demos_round_pulls_the_same_by_hand() {
    let profile = Profile::from_toml(include_str!("../../demo/otter-post.toml")).unwrap();
    let linkage = Linkage::build(&profile).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let mut reader = Reader::new(include_bytes!("../../demo/morning-round.jsonl").as_slice()).unwrap();
    let mut player = Replayer::new(reader.header());
    let mut hand = by_hand::ByHand::default();
    let mut came = Vec::new();
    for line in reader.by_ref() {
        let line = line.unwrap();
        player.put(&line, &mut seat).unwrap();
        seat.advance(line.at);
        let reading = seat.latest();
        let pulls = reading.happenings().filter(|one| one.what() == What::Pulled);
        came.extend(pulls.map(|one| (one.at().as_micros(), one.action(&linkage).unwrap().to_owned())));
        if let Some(input) = read::input(&line.kind) {
            hand.input(line.at.as_micros(), input);
        }
        hand.advance(line.at.as_micros());
    }
    let pulls: Vec<(u64, String)> = hand.pulls.iter().map(|(at, action)| (*at, (*action).to_owned())).collect();
    assert!(came.len() > 50, "it must be about something");
    assert_eq!(pulls, came);
}
