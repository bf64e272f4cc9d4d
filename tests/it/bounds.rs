//! Promise: every limit is told before it is passed, with what fits.

use std::time::Duration;

use tidy_lever::event::MOST_DEVICES;
use tidy_lever::linkage::{MOST_ACTIONS, MOST_ASKED_WORDS, MOST_CUES, MOST_HELD_ENDS};
use tidy_lever::profile::{Action, DeviceEntry, FactEntry, Profile};
use tidy_lever::seat::{Capacity, FeedErrorKind};
use tidy_lever::table::{MOST_SEATS, Table};
use tidy_lever::{Button, Control, Device, Event, Fact, Family, Gauge, Linkage, Moment, Sweep};

const YEAR: Duration = Duration::from_secs(365 * 24 * 60 * 60);

/// So many buttons over all keys, with cues of every sort that waits.
fn many(count: usize) -> Profile {
    let keys: Vec<String> = Control::all(Family::Keys).map(|key| key.name().to_string()).collect();
    (0..count).fold(Profile::new("many"), |profile, number| {
        let cue = ["press", "hold 300ms", "2 taps 240ms apart", "mash 3 within 1s"][number % 4];
        profile.action(Action::button(&format!("act-{number}")).keys(keys[number % keys.len()].as_str()).cue(cue))
    })
}

#[test]
fn ten_thousand_actions_play_and_one_too_many_is_told() {
    let linkage = Linkage::build(&many(10_000)).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let last = linkage.action("act-9996").unwrap().controls()[0].control;
    seat.feed(Event::button(Moment::from_millis(1), Device::default(), last, true)).unwrap();
    seat.advance(Moment::from_millis(16));
    assert_eq!(seat.button(linkage.find("act-9996").unwrap()).pulls(), 1);
    let told = Linkage::build(&many(MOST_ACTIONS + 1)).unwrap_err().to_string();
    assert!(told.contains("a profile can have at most 65000 actions") && told.contains("found 65001"), "{told}");
}

/// What is said of a profile that has too much.
fn told(profile: &Profile) -> String {
    Linkage::build(profile).unwrap_err().to_string()
}

#[test]
fn the_last_of_as_many_cues_as_may_be_pulls_and_one_too_many_is_told() {
    let two = |profile: Profile, number: usize| {
        let action = Action::button(&format!("act-{number}"));
        let action = action.keys(if number == MOST_CUES / 2 - 1 { "KeyJ" } else { "KeyK" });
        profile.action(action.cue("2 taps 240ms apart").cue("hold 300ms"))
    };
    let full = (0..MOST_CUES / 2).fold(Profile::new("cues"), two);
    let linkage = Linkage::build(&full).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    seat.feed(Event::button(Moment::from_millis(1), Device::default(), "keys:KeyJ".parse().unwrap(), true)).unwrap();
    seat.advance(Moment::from_millis(600));
    assert_eq!(seat.button(linkage.find(&format!("act-{}", MOST_CUES / 2 - 1)).unwrap()).pulls(), 1);
    let told = told(&full.action(Action::button("one-more").keys("KeyK")));
    assert!(told.contains("a profile can have at most 65000 cues, found 65001"), "{told}");
}

#[test]
fn words_that_gates_ask_for_are_counted_once_and_too_many_are_told() {
    let words = || FactEntry::Words((0..4_096).map(|n| format!("w{n}").into()).collect());
    let facts = 0..MOST_ASKED_WORDS / 4_096 + 1;
    let profile = facts.fold(Profile::new("words"), |profile, n| profile.fact(format!("fact-{n}"), words()));
    let asks = |profile: Profile, count: usize| {
        let asked: Vec<String> = (0..count).map(|n| format!("fact-{} is w{}", n / 4_096, n % 4_096)).collect();
        let gates = asked.chunks(16).map(|some| some.join(" or "));
        gates.enumerate().fold(profile, |profile, (number, gate)| {
            profile.action(Action::button(&format!("act-{number}")).keys("KeyK").when(gate.as_str()))
        })
    };
    let twice =
        asks(profile.clone(), MOST_ASKED_WORDS).action(Action::button("last").keys("KeyJ").when("fact-0 is w0"));
    assert!(Linkage::build(&twice).is_ok());
    let told = told(&asks(profile, MOST_ASKED_WORDS + 1));
    assert!(told.contains("at most 65000 words of facts that gates ask for, found 65001"), "{told}");
}

#[test]
fn motions_that_end_held_are_limited_for_all_sticks_together() {
    let sticks = 8;
    let profile = (0..sticks).fold(Profile::new("held"), |profile, number| {
        profile.action(Action::stick(&format!("steer-{number}")).pad("left-stick"))
    });
    // Each counts twice, as `forward` is either side.
    let rolls = |profile: Profile, number: usize| {
        let cue = format!("steer-{} rolls down, forward held 200ms within 600ms", number % sticks);
        profile.action(Action::button(&format!("act-{number}")).cue(cue.as_str()))
    };
    assert!(Linkage::build(&(0..400).fold(profile.clone(), rolls)).is_ok());
    let told = told(&(0..=MOST_HELD_ENDS / 2).fold(profile, rolls));
    assert!(
        told.contains("at most 65000 motions that end with a held direction") && told.contains("found 65002"),
        "{told}"
    );
}

#[test]
fn ten_thousand_events_in_one_moment_are_played_or_handed_back() {
    let profile = Profile::new("storm")
        .devices(Family::Keys, DeviceEntry::new().debounce("0ms"))
        .action(Action::button("hop").keys(["KeyJ", "KeyK"]));
    let linkage = Linkage::build(&profile).unwrap();
    let hop: Button = linkage.find("hop").unwrap();
    let key: Control = "keys:KeyJ".parse().unwrap();
    let event = |n: u64| Event::button(Moment::from_millis(5), Device::default(), key, n.is_multiple_of(2));
    // With room for them each plays, a microsecond behind the one before.
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().waiting(10_000)).unwrap();
    (0..10_000).for_each(|n| seat.feed(event(n)).unwrap());
    seat.advance(Moment::from_millis(20));
    assert_eq!((seat.button(hop).presses(), seat.stats().moved_on), (5_000, 9_999));
    // Without, what doesn't fit comes back, and none is lost that was taken.
    let mut seat = linkage.seat(Moment::ZERO);
    let refused = (0..10_000).filter_map(|n| seat.feed(event(n)).err()).collect::<Vec<_>>();
    assert_eq!((refused.len(), refused[0].why), (10_000 - 1_024, FeedErrorKind::Full));
    assert!(refused[0].to_string().contains("advance"), "{}", refused[0]);
    seat.advance(Moment::from_millis(20));
    assert_eq!((seat.button(hop).presses(), seat.stats().handed_back), (512, 10_000 - 1_024));
}

#[test]
fn a_fast_mouse_in_a_hitch_loses_no_degree_and_refuses_nothing() {
    let profile = "tidy-lever = 1\n[facts]\naware = true\n[action.look]\nkind = \"sweep\"\nmouse = \"move\"\n\
        per_count = 0.08\n[action.aim]\nkind = \"pointer\"\nmouse = \"place\"\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
    let linkage = Linkage::build(&Profile::from_toml(profile).unwrap()).unwrap();
    let (look, hop): (Sweep, Button) = (linkage.find("look").unwrap(), linkage.find("hop").unwrap());
    let (mouse, other) = (Device::new(1).unwrap(), Device::new(2).unwrap());
    let moved = |n: u64, device, x| Event::pair(Moment::from_micros(n * 125), device, Control::MOUSE_MOVE, x, -1.0);
    let place = |n: u64, x| Event::pair(Moment::from_micros(n * 125), mouse, Control::MOUSE_PLACE, x, 0.5);
    let space = |n: u64, down| {
        Event::button(Moment::from_micros(n * 125), Device::default(), "keys:Space".parse().unwrap(), down)
    };
    // 8,000 reports a second; the loop stalls for a second. Keys and a second mouse separate, places of the pointer don't.
    let mut seat = linkage.seat(Moment::ZERO);
    let mut all = linkage.seat_with(Moment::ZERO, Capacity::default().waiting(20_000)).unwrap();
    for n in 1..=8_000u64 {
        let mut events = vec![moved(n, mouse, (n % 7) as f32)];
        events.extend((n % 20 == 0).then(|| place(n, (n % 100) as f32 / 100.0)));
        events.extend((n % 300 == 0).then(|| space(n, n % 600 == 0)));
        events.extend((n % 1_000 == 0).then(|| moved(n, other, 3.0)));
        for event in events {
            seat.feed(event).unwrap();
            all.feed(event).unwrap();
        }
    }
    let told = linkage.find::<Fact>("aware").unwrap();
    seat.tell_at(told, false, Moment::from_millis(500)).unwrap();
    for (seat, merged) in [(&mut seat, true), (&mut all, false)] {
        assert_eq!((seat.stats().merged > 0, seat.stats().handed_back), (merged, 0));
        seat.advance(Moment::from_millis(1_000));
        assert_eq!(seat.button(hop).presses(), 13);
        assert_eq!(seat.sweep(look).total_degrees(), (0.08 * (24_003.0 + 24.0), -0.08 * 8_008.0));
    }
    // What no merging helps is handed back as ever, and what is merged keeps the moment of the last.
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().waiting(2)).unwrap();
    (1..=9).for_each(|n| seat.feed(moved(n, mouse, 1.0)).unwrap());
    seat.feed(space(10, true)).unwrap();
    assert_eq!(seat.feed(space(11, false)).unwrap_err().why, FeedErrorKind::Full);
    seat.advance(Moment::from_micros(8 * 125));
    assert_eq!((seat.sweep(look).total_degrees().0, seat.stats().merged), (0.0, 8));
    seat.advance(Moment::from_micros(9 * 125));
    assert_eq!(seat.sweep(look).total_degrees().0, 0.72);
}

#[test]
fn a_seat_that_is_enlarged_plays_on_and_one_that_stops_for_its_reader_loses_nothing() {
    let quick = many(60).devices(Family::Keys, DeviceEntry::new().debounce("0ms"));
    let linkage = Linkage::build(&quick).unwrap();
    let key = linkage.action("act-0").unwrap().controls()[0].control;
    let press = |n: u64| Event::button(Moment::from_micros(n * 100), Device::default(), key, !n.is_multiple_of(2));
    let small = Capacity::default().waiting(4).history(4);
    let (mut seat, mut wide) = (linkage.seat_with(Moment::ZERO, small).unwrap(), linkage.seat(Moment::ZERO));
    let (mut own, mut others) = (seat.bookmark(), wide.bookmark());
    seat.reserve(0, 0).unwrap();
    assert_eq!((seat.waiting().waiting, seat.waiting().room), (0, 4));
    for round in 0..5 {
        (0..100).for_each(|n| wide.feed(press(round * 100 + n)).unwrap());
        for n in 0..100 {
            while seat.feed(press(round * 100 + n)).is_err() {
                seat.reserve(seat.waiting().room * 2, 0).unwrap();
            }
        }
        let (to, mut happened) = (Moment::from_micros((round + 1) * 10_000 - 1), Vec::new());
        loop {
            let played = seat.advance_some(to, 2);
            let reading = seat.read(&mut own);
            assert_eq!(reading.lost(), 0);
            happened.extend(reading.happenings().copied());
            if played == to {
                break;
            }
        }
        wide.advance(to);
        let all: Vec<_> = wide.read(&mut others).happenings().copied().collect();
        assert!(happened == all && all.len() > 100, "{round}");
        assert_eq!(seat.state_hash(), wide.state_hash());
    }
    assert!(seat.reserve(usize::MAX, 0).is_err() && seat.waiting().room == 128);
}

#[test]
fn a_title_has_at_most_200_characters_and_no_message_repeats_an_endless_name() {
    let long = "x".repeat(200);
    assert!(Linkage::build(&Profile::new(long.clone())).is_ok());
    let longer = "ü".repeat(201);
    let told_of = |text: &str| Profile::from_toml(text).map_or_else(|f| f.to_string(), |profile| told(&profile));
    let want = "a title has at most 200 characters, and this one has 201; shorten it";
    assert_eq!(told(&Profile::new(longer.clone())), format!("title: {want}\n"));
    assert_eq!(
        told_of(&format!("tidy-lever = 1\ntitle = \"{longer}\"\n")),
        format!("line 2, column 9: title: {want}\n")
    );
    let endless = "x".repeat(100_000);
    for text in [
        format!("[action.{endless}]\nkind = \"button\"\n"),
        format!("[action.hop]\nkind = \"button\"\nkeys = \"{endless}\"\n"),
        format!("[action.hop]\nkind = \"button\"\nwhen = \"{endless}\"\n"),
        format!("[action.hop]\nkind = \"button\"\ncue = \"{endless}\"\n"),
        format!("[action.hop]\nkind = \"button\"\n{endless} = 1\n"),
        format!("[modes]\n{endless} = {{ on = 1 }}\n"),
        format!("[facts]\nstate = [\"a\", \"{endless}\"]\n"),
    ] {
        let told = told_of(&format!("tidy-lever = 1\n{text}"));
        assert!(told.len() < 4_000, "{} bytes of {}", told.len(), &text[..40]);
    }
    let many = format!("[action.hop]\nkind = \"button\"\nkeys = [{}]\n", "\"Space\",".repeat(20_001));
    let told = told_of(&format!("tidy-lever = 1\n{many}"));
    assert!(told.contains("a list has at most 20000 entries, and this one has 20001"), "{told}");
}

#[test]
fn a_year_passes_in_one_advance() {
    let text = include_str!("../../demo/otter-post.toml");
    let linkage = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let press =
        |at, control: &str| Event::button(Moment::from_millis(at), Device::default(), control.parse().unwrap(), true);
    seat.set_mode(linkage.find("afloat").unwrap(), true).unwrap();
    for control in ["keys:KeyE", "keys:KeyK", "keys:KeyD"] {
        seat.feed(press(5, control)).unwrap();
    }
    seat.advance(Moment::ZERO + YEAR);
    let paddle: Gauge = linkage.find("paddle").unwrap();
    assert_eq!(seat.gauge(paddle).value(), 1.0, "faded long since");
    let bag: Button = linkage.find("open-bag").unwrap();
    assert_eq!((seat.button(bag).pulls(), seat.button(bag).held_for()), (1, YEAR - Duration::from_millis(5)));
    assert_eq!(seat.played(), Moment::ZERO + YEAR);
}

#[test]
fn sixty_four_devices_and_eight_seats_and_no_more() {
    let profile = Profile::new("crowd").action(Action::button("hop").pad("south"));
    let linkage = Linkage::build(&profile).unwrap();
    let hop: Button = linkage.find("hop").unwrap();
    let press = |number| Event::button(Moment::from_millis(5), Device::new(number).unwrap(), Control::PAD_SOUTH, true);
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().devices(MOST_DEVICES)).unwrap();
    (0..MOST_DEVICES).for_each(|number| seat.feed(press(number)).unwrap());
    seat.advance(Moment::from_millis(16));
    // More at once than a moment has room for: what is met first pulls first.
    assert_eq!((seat.button(hop).presses(), seat.button(hop).pulls()), (64, 64));
    assert_eq!(Device::new(MOST_DEVICES), None);
    // A seat has room for eight unless it is told.
    let mut seat = linkage.seat(Moment::ZERO);
    let refused: Vec<_> = (0..12).filter_map(|number| seat.feed(press(number)).err()).collect();
    assert!(refused.len() == 4 && refused.iter().all(|error| error.why == FeedErrorKind::TooManyDevices));
    let mut table = Table::new(&linkage, 99);
    let places: Vec<_> = (0..10).map(|number| table.sit(&linkage, &[Device::new(number).unwrap()])).collect();
    assert_eq!(places.iter().flatten().count(), MOST_SEATS);
    for number in 0..10 {
        table.feed(press(number)).unwrap();
    }
    table.advance(Moment::from_millis(16));
    assert!(table.seats().all(|(_, seat)| seat.button(hop).pulls() == 1));
}
