//! Promise: order within one moment, what comes late, what waits, gaps and saves have one meaning each.

use std::time::Duration;

use crate::common::{Bench, device, us};
use tidy_lever::seat::{Capacity, FeedErrorKind, RestoreError, TellError};
use tidy_lever::{Button, Control, Event, Fact, Linkage, Moment, Profile, Seat, Stick};

const HOP: &str = "[action.hop]\nkind = \"button\"\nkeys = [\"Space\", \"KeyJ\"]\n";

#[test]
fn events_play_at_their_own_moments_up_to_and_including_the_tick() {
    let mut bench = Bench::new(HOP);
    bench.level(1_000, "keys:Space", 1.0).level(2_000, "keys:Space", 0.0).to(999);
    assert!(bench.heard().is_empty());
    assert_eq!(bench.to(1_000).heard(), ["1000 hop pressed", "1000 hop pulled"]);
    assert_eq!(bench.to(1_999).heard(), [""; 0]);
    assert_eq!(bench.to(5_000).heard(), ["2000 hop released (let go)", "2000 hop ended (let go)"]);
}

#[test]
fn an_event_at_the_seats_first_moment_counts() {
    let mut bench = Bench::new(HOP);
    bench.level(0, "keys:Space", 1.0).to(0);
    assert_eq!(bench.heard(), ["0 hop pressed", "0 hop pulled"]);
    assert_eq!(bench.seat.stats().late, 0);
}

#[test]
fn what_comes_late_plays_just_after_what_is_played_and_is_counted() {
    let mut bench = Bench::new(HOP);
    bench.to(10_000).level(4_000, "keys:Space", 1.0).level(5_000, "keys:Space", 0.0).to(20_000);
    let heard = bench.heard();
    assert_eq!(heard[..2], ["10001 hop pressed", "10001 hop pulled"]);
    assert_eq!(heard[2..], ["10002 hop released (let go)", "10002 hop ended (let go)"]);
    assert_eq!((bench.seat.stats().late, bench.seat.stats().moved_on), (2, 1));
}

#[test]
fn a_second_edge_of_one_control_in_one_moment_moves_on_by_a_microsecond() {
    let mut bench = Bench::new(HOP);
    for level in [1.0, 0.0, 1.0, 0.0] {
        bench.level(500, "keys:Space", level);
    }
    // Another control keeps its moment, and so does the same control of another device.
    bench.level(500, "keys:KeyJ", 1.0).level_on(500, 1, "keys:Space", 1.0).to(500);
    assert_eq!(bench.heard_of("hop").len(), 6, "three going down, each a press and a pull");
    bench.to(503);
    let presses: Vec<String> = bench.heard().into_iter().filter(|line| line.contains("pressed")).collect();
    assert_eq!(presses, ["502 hop pressed"]);
    assert_eq!(bench.seat.stats().moved_on, 3);
}

#[test]
fn facts_and_modes_told_for_a_moment_come_before_its_events() {
    let body = format!("[modes]\nashore = {{}}\n{HOP}modes = [\"ashore\"]\n");
    let mut bench = Bench::new(&body);
    // Fed first, told second, for the same moment: the mode is on when the key goes down.
    bench.level(700, "keys:Space", 1.0).tape(r#"{"at":700,"mode":"ashore","on":true}"#).to(1_000);
    assert_eq!(bench.heard(), ["700 hop pressed", "700 hop pulled"]);
}

#[test]
fn what_is_told_counts_from_just_after_the_played_moment() {
    let body = format!("[modes]\nashore = {{}}\n[facts]\nstate = [\"idle\", \"dash\"]\n{HOP}modes = [\"ashore\"]\n");
    let mut bench = Bench::new(&body);
    let (ashore, state) = (bench.find("ashore"), bench.find::<Fact>("state"));
    bench.to(1_000);
    bench.seat.set_mode(ashore, true).unwrap();
    bench.seat.tell(state, "dash").unwrap();
    assert_eq!((bench.seat.is_mode_on(ashore), bench.seat.fact(state)), (false, "idle"));
    bench.level(1_001, "keys:Space", 1.0).to(1_001);
    assert_eq!((bench.seat.is_mode_on(ashore), bench.seat.fact(state)), (true, "dash"));
    assert_eq!(bench.heard(), ["1001 hop pressed", "1001 hop pulled"]);
    assert_eq!(bench.seat.tell(state, "swim"), Err(TellError::NoSuchValue));
    assert_eq!(bench.seat.tell(state, true), Err(TellError::NoSuchValue));
    assert_eq!(bench.seat.stats().late, 0);
}

#[test]
fn a_full_queue_hands_the_event_back_and_takes_it_after_an_advance() {
    let linkage = crate::common::linkage(HOP);
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().waiting(2)).unwrap();
    let space: Control = "keys:Space".parse().unwrap();
    let press = |n: u64| Event::button(us(n), device(0), space, n % 2 == 1);
    seat.feed(press(1)).unwrap();
    seat.feed(press(2)).unwrap();
    let refused = seat.feed(press(3)).unwrap_err();
    assert_eq!((refused.why, refused.event), (FeedErrorKind::Full, press(3)));
    assert_eq!((seat.waiting().waiting, seat.waiting().room, seat.stats().handed_back), (2, 2, 1));
    seat.advance(us(2));
    seat.feed(refused.event).unwrap();
    seat.advance(us(3));
    assert!(seat.button(linkage.find::<Button>("hop").unwrap()).is_down());
}

#[test]
fn ten_thousand_events_at_once_are_survived_and_each_is_accounted_for() {
    let linkage = crate::common::linkage(HOP);
    let mut seat = linkage.seat(Moment::ZERO);
    let space: Control = "keys:Space".parse().unwrap();
    let mut taken = 0;
    for n in 0..10_000 {
        taken += u32::from(seat.feed(Event::button(us(100), device(0), space, n % 2 == 0)).is_ok());
    }
    seat.advance(us(1_000_000));
    assert_eq!(u64::from(taken) + seat.stats().handed_back, 10_000);
    assert_eq!(seat.button(linkage.find::<Button>("hop").unwrap()).presses(), taken / 2);
}

#[test]
fn advancing_to_the_past_plays_nothing_and_is_counted() {
    let mut bench = Bench::new(HOP);
    bench.to(5_000).level(6_000, "keys:Space", 1.0).to(3_000).to(5_000);
    assert_eq!(bench.heard(), [""; 0]);
    assert_eq!((bench.seat.stats().rewinds, bench.seat.played()), (1, us(5_000)));
}

#[test]
fn a_gap_is_passed_without_a_pull_and_what_is_held_stays() {
    let mut bench = Bench::new(HOP);
    let hop: Button = bench.find("hop");
    bench.level(100, "keys:Space", 1.0).to(200).heard();
    bench.level(400, "keys:KeyJ", 1.0).level(500, "keys:KeyJ", 0.0);
    bench.seat.skip(us(60_000_000));
    assert!(bench.seat.button(hop).is_down() && bench.seat.button(hop).is_on());
    assert_eq!(bench.seat.button(hop).pulls(), 0);
    assert_eq!(bench.seat.button(hop).held_for(), Duration::from_micros(59_999_900));
    bench.level(60_000_100, "keys:Space", 0.0).to(60_000_200);
    assert!(bench.heard().contains(&"60000100 hop ended (let go)".to_owned()));
}

#[test]
fn what_is_no_number_is_refused_and_what_is_out_of_range_is_cut() {
    let mut bench = Bench::new("[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n");
    let steer: Stick = bench.find("steer");
    let stick = |x: f32, y: f32| Event::pair(us(50), device(0), Control::LEFT_STICK, x, y);
    for (x, y) in [(f32::NAN, 0.0), (0.0, f32::INFINITY), (f32::NEG_INFINITY, f32::NAN)] {
        assert_eq!(bench.seat.feed(stick(x, y)).unwrap_err().why, FeedErrorKind::NotFinite);
    }
    let one = Event::level(us(50), device(0), Control::LEFT_STICK, 1.0);
    assert_eq!(bench.seat.feed(one).unwrap_err().why, FeedErrorKind::WrongSort);
    bench.seat.feed(stick(7.0, 0.0)).unwrap();
    bench.to(100);
    assert_eq!(bench.seat.stick(steer).micros(), (1_000_000, 0));
    assert_eq!((bench.seat.stats().refused, bench.seat.stats().clamped), (4, 1));
}

#[test]
fn a_rollback_tells_what_its_own_line_of_events_was_and_no_other() {
    let linkage = crate::common::linkage(HOP);
    let hop: Button = linkage.find("hop").unwrap();
    let mut dice = fastrand::Rng::with_seed(5);
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().history(8)).unwrap();
    let mut slots: Vec<_> = (0..3).map(|_| (seat.saved(&[]), seat.clone())).collect();
    let begin = seat.bookmark();
    let told = |seat: &Seat| crate::common::lines(&seat.read(&mut begin.clone()), &linkage);
    let key: Control = "keys:Space".parse().unwrap();
    for _ in 0..2_000 {
        let slot = dice.usize(0..slots.len());
        match dice.u8(0..6) {
            0 => {
                seat.save_into(&mut slots[slot].0, &[]);
                // Made again, it is copied whole.
                slots[slot].1 = seat.clone();
            }
            1 => {
                seat.restore(&slots[slot].0, &mut []).unwrap();
                assert_eq!(told(&seat), told(&slots[slot].1));
            }
            _ => {
                let at = seat.played() + Duration::from_micros(dice.u64(1..9));
                let down = !seat.button(hop).is_down();
                seat.feed(Event::button(at, device(0), key, down)).unwrap();
                seat.advance(at);
            }
        }
    }
}

#[test]
fn a_restored_seat_reads_again_what_is_played_again() {
    let mut bench = Bench::new(HOP);
    let hop: Button = bench.find("hop");
    let mut frames = bench.seat.bookmark();
    bench.to(1_000);
    let mut saved = bench.seat.saved(&[&frames]);
    bench.seat.save_into(&mut saved, &[&frames]);
    for _ in 0..3 {
        bench.level(2_000, "keys:Space", 1.0).to(3_000);
        assert_eq!(bench.seat.read(&mut frames).button(hop).pulls(), 1);
        bench.seat.restore(&saved, &mut [&mut frames]).unwrap();
        assert_eq!(bench.seat.played(), us(1_000));
    }
    assert_eq!(bench.seat.restore(&saved, &mut []), Err(RestoreError::OtherBookmarks { saved: 1, given: 0 }));
    // The same names on other controls are another linkage, too.
    let rebound = crate::common::linkage(&HOP.replace("[\"Space\", \"KeyJ\"]", "\"KeyJ\"")).seat(Moment::ZERO);
    assert_eq!(bench.seat.restore(&rebound.saved(&[]), &mut []), Err(RestoreError::OtherLinkage));
    let other = crate::common::linkage("[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n").seat(Moment::ZERO);
    assert_eq!(bench.seat.restore(&other.saved(&[]), &mut []), Err(RestoreError::OtherProfile));
}

#[test]
fn another_profiles_handle_is_told_apart_counted_and_answered_with_nothing() {
    let mut bench = Bench::new(HOP);
    let other = crate::common::linkage("[facts]\nwet = false\n[action.toss]\nkind = \"button\"\nkeys = \"Space\"\n");
    let (toss, wet): (Button, Fact) = (other.find("toss").unwrap(), other.find("wet").unwrap());
    bench.level(10, "keys:Space", 1.0).to(20);
    // A debug build says which handle it is; others answer with rest.
    let asked = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| bench.seat.button(toss).is_down()));
    match asked {
        Ok(is_down) => assert!(!cfg!(debug_assertions) && !is_down),
        Err(told) => {
            let told = told.downcast_ref::<String>().unwrap();
            assert!(
                cfg!(debug_assertions) && told.contains("the handle to an action of kind \"button\" (number 0)"),
                "{told}"
            );
        }
    }
    assert!(!bench.seat.knows(toss));
    assert_eq!(bench.seat.tell(wet, true), Err(TellError::Foreign));
    assert_eq!((bench.seat.stats().foreign, bench.seat.try_button(toss)), (1, None));
    assert!(bench.seat.try_fact(wet).is_none() && bench.seat.try_button(bench.find("hop")).is_some());
    // A linkage built again from the same names takes the old handles.
    let hop: Button = bench.find("hop");
    let again =
        Linkage::build(&Profile::from_toml(&format!("tidy-lever = 1\n{HOP}pad = \"south\"\n")).unwrap()).unwrap();
    assert!(again.seat(Moment::ZERO).knows(hop));
}

#[test]
fn moments_that_left_the_ring_are_lost_by_number_and_sums_stay_whole() {
    let linkage = crate::common::linkage(HOP);
    let hop: Button = linkage.find("hop").unwrap();
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().history(8)).unwrap();
    let space: Control = "keys:Space".parse().unwrap();
    for n in 0..20u64 {
        seat.feed(Event::button(us(n + 1), device(0), space, n % 2 == 0)).unwrap();
    }
    seat.advance(us(100));
    assert_eq!(seat.button(hop).pulls(), 10);
    let pulls = seat.latest().pulls(hop);
    assert_eq!(pulls.lost(), 8);
    assert_eq!(pulls.map(|pull| pull.at().as_micros()).collect::<Vec<_>>(), [17, 19]);
}

#[test]
fn what_happened_and_what_was_tried_tell_nothing_of_another_profiles_names() {
    let mut bench = Bench::new(HOP);
    bench.seat.keep_ledger(8);
    let hop: Button = bench.find("hop");
    bench.level(10, "keys:Space", 1.0).to(20);
    let other = crate::common::linkage("[action.toss]\nkind = \"button\"\nkeys = \"Space\"\n");
    let toss: Button = other.find("toss").unwrap();
    let pull = *bench.seat.latest().pulls(hop).next().unwrap();
    assert_eq!((pull.action(bench.seat.linkage()), pull.action(&other)), (Some("hop"), None));
    assert_eq!((pull.mark(&other), pull.over(&other)), (None, None));
    assert!(pull.is_of(hop) && !pull.is_of(toss));
    let attempt = *bench.seat.attempts().next().unwrap();
    assert_eq!((attempt.action(bench.seat.linkage()), attempt.action(&other)), (Some("hop"), None));
    assert!(attempt.outcome(&other).is_none() && attempt.story(&other).is_none() && attempt.fix(&other).is_none());
    assert!(attempt.window(&other).is_none() && attempt.steps(&other).next().is_none() && attempt.is_of(hop));
    // After a relink to shifted numbers they tell the new numbers' names.
    let shifted = crate::common::linkage(&format!("[action.first]\nkind = \"button\"\nkeys = \"KeyF\"\n{HOP}"));
    let mut bookmark = bench.seat.bookmark();
    bench.seat.relink(&shifted, &mut [&mut bookmark]);
    let told = bench.seat.latest().happenings().next().and_then(|happening| happening.action(&shifted));
    assert!(told.is_none_or(|name| name == "hop"));
    // A seat that was made later from the new linkage knows only what was found there.
    assert!(bench.seat.knows(hop) && !shifted.seat(us(0)).knows(hop));
}

#[test]
fn a_moment_takes_spans_away_down_to_the_first() {
    let span = std::time::Duration::from_micros(30);
    assert_eq!((us(50) - span, us(10) - span, us(50) - us(20)), (us(20), us(0), span));
}
