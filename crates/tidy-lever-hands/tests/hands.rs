//! Promise: hands are honest. Without errors all is found, beyond a window nothing, and more spread never finds more.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::time::Duration;

use tidy_lever::event::Input;
use tidy_lever::tape::{Header, Recorder};
use tidy_lever::{Control, Fact, Linkage, Mode, Moment, What};
use tidy_lever_hands::{Hand, HandError, Miss, Rehearsal, Situation, Tally, Way, Wear, fix, interval};
use tidy_lever_tuning::{Answer, Answering, told};

const DEMO: &str = include_str!("../../../demo/otter-post.toml");

fn demo() -> Rehearsal {
    Rehearsal::new(DEMO, &[]).unwrap()
}

fn hand(name: &str) -> Hand {
    Hand::named(name).unwrap()
}

/// An average hand without any spread.
fn still() -> Hand {
    hand("average").spread(0.0)
}

fn tally(rehearsal: &Rehearsal, action: &str, hand: &Hand, count: u64) -> Tally {
    rehearsal.rehearse(rehearsal.scene(action).unwrap(), hand, 1, (0, count), &mut rehearsal.stage())
}

#[test]
fn a_hand_without_errors_is_always_found() {
    let rehearsal = demo();
    assert!(rehearsal.left_out.is_empty(), "{:?}", rehearsal.left_out);
    let mut stage = rehearsal.stage();
    for scene in &rehearsal.scenes {
        for hand in Hand::all() {
            let tally = rehearsal.rehearse(scene, &hand.spread(0.0), 1, (0, 60), &mut stage);
            assert_eq!((tally.found, &tally.misses), (60, &Default::default()), "{} {}", scene.name, hand.name);
        }
    }
    let ways = |action: &str| rehearsal.scene(action).unwrap().ways();
    assert_eq!(ways("skim"), [Way::Keys, Way::Dpad, Way::Stick, Way::Touch]);
    assert_eq!((ways("hop"), ways("guard")), (vec![Way::Keys, Way::Pad, Way::Touch], vec![Way::Keys, Way::Pad]));
}

#[test]
fn beyond_a_window_nothing_is_found_and_the_ledger_says_by_how_much() {
    let rehearsal = demo();
    let ms = |ms: u32| Some(ms * 1_000);
    let cases = [
        ("dash", Hand { gap: (400.0, 0.0), ..still() }, Miss::TooLate, ms(160)),
        ("use", Hand { press: (260.0, 0.0), ..still() }, Miss::TooLong, Some(60_001)),
        ("open-bag", Hand { hold: (0.8, 0.0), ..still() }, Miss::TooSoon, ms(70)),
        ("bow", Hand { fingers: (120.0, 0.0), press: (300.0, 0.0), ..still() }, Miss::TooLate, ms(40)),
        ("rush", Hand { mash: (3.0, 0.0), ..still() }, Miss::TooLate, Some(333_333)),
        ("skim", Hand { finish: (330.0, 0.0), ..still() }, Miss::TooLate, None),
        ("skim", Hand { first: (500.0, 0.0), ..still() }, Miss::NotFresh, None),
    ];
    for (action, hand, miss, by) in cases {
        let tally = tally(&rehearsal, action, &hand, 40);
        let worst: Vec<_> = tally.worst().into_iter().map(|(miss, count, told)| (miss, count, by.and(told))).collect();
        assert_eq!((tally.found, worst), (0, vec![(&miss, 40, by)]), "{action}");
    }
}

#[test]
fn more_spread_never_finds_more() {
    let rehearsal = demo();
    for action in ["dash", "skim", "use", "open-bag", "slip", "rush", "hop"] {
        let mut before = (1.0, (1.0, 1.0));
        for factor in [0.0, 0.5, 1.0, 1.5, 2.0, 3.0] {
            let now = tally(&rehearsal, action, &hand("average").spread(factor), 600).share();
            assert!(now.1.0 <= before.1.1, "{action} at {factor}: {now:?} after {before:?}");
            before = now;
        }
        assert!(before.0 < 0.97, "{action}: {before:?}");
    }
    // And the less practised hand finds less of what is hard.
    for action in ["dash", "skim", "slip"] {
        let found: Vec<u64> = Hand::all().iter().map(|hand| tally(&rehearsal, action, hand, 600).found).collect();
        assert!(found[0] > found[1] && found[1] > found[2], "{action}: {found:?}");
    }
}

#[test]
fn intervals_cover_the_true_share() {
    let (rehearsal, hand) = (demo(), hand("average"));
    let scene = rehearsal.scene("dash").unwrap();
    let mut stage = rehearsal.stage();
    let parts: Vec<Tally> =
        (0..100).map(|part| rehearsal.rehearse(scene, &hand, 5, (part * 100, (part + 1) * 100), &mut stage)).collect();
    let mut all = Tally::default();
    parts.iter().for_each(|part| all.add(part.clone()));
    let (truth, _) = all.share();
    let covering = parts.iter().filter(|part| part.share().1.0 <= truth && truth <= part.share().1.1).count();
    assert!((90..=99).contains(&covering), "{covering} of 100 cover {truth}");
    assert_eq!((all.meant, all.delays.len() as u64), (10_000, all.found));
    // However it is cut, the same comes of it.
    let mut other = Tally::default();
    for (from, to) in [(0, 1), (1, 777), (777, 10_000)] {
        other.add(rehearsal.rehearse(scene, &hand, 5, (from, to), &mut stage));
    }
    assert_eq!(all, other);
    assert_eq!((interval(0, 20).0, interval(20, 20).1), (0.0, 1.0));
}

#[test]
fn without_early_exactly_those_are_missed_that_press_before_the_last_direction() {
    let text = r#"tidy-lever = 1
[action.steer]
kind = "stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
[action.toss]
kind = "button"
keys = "KeyJ"
[action.skim]
kind = "button"
cue = "steer rolls down, down-forward, forward then toss within 350ms"
early = "0ms"
"#;
    let rehearsal = Rehearsal::new(text, &[]).unwrap();
    let (scene, mut stage) = (rehearsal.scene("skim").unwrap(), rehearsal.stage());
    let hand = Hand { finish: (5.0, 30.0), ..still() };
    let (mut early, mut found) = (0, 0);
    for number in 0..500 {
        let trial = scene.trial(&hand, 3, number);
        let when = |name: &str, level: f32| {
            let control: Control = name.parse().unwrap();
            let fits =
                |input: Input| matches!(input, Input::Level { control: c, value } if c == control && value == level);
            trial.events.iter().find(|event| fits(event.input)).unwrap().at
        };
        let is_early = when("keys:KeyJ", 1.0) < when("keys:KeyS", 0.0);
        let came = rehearsal.play(scene, &trial, &mut stage);
        assert_eq!(came.found.is_none(), is_early, "trial {number}");
        early += u64::from(is_early);
        found += u64::from(came.found.is_some());
    }
    assert!(early > 150 && found > 150, "{early} early, {found} found");
    let tally = rehearsal.rehearse(scene, &hand, 3, (0, 500), &mut stage);
    // Some press before they even leave the first direction; then nobody can say what was meant.
    assert_eq!((tally.found, tally.worst()[0].0), (found, &Miss::TooSoon));
    assert!(tally.misses.keys().all(|miss| matches!(miss, Miss::TooSoon | Miss::NeverFinished)), "{:?}", tally.misses);
    // And that is what is advised.
    let advice = fix(&tally, "skim", &tidy_lever::profile::numbers(text).unwrap()).unwrap();
    assert_eq!((advice.path.as_str(), advice.miss), ("skim.early", Miss::TooSoon));
    assert!((20.0..=90.0).contains(&advice.value), "{}", advice.value);
}

#[test]
fn a_seed_gives_the_same_performances_everywhere() {
    let rehearsal = demo();
    // FNV-1a over all events, to the microsecond and the bit of each level.
    let mut hash = 0xcbf2_9ce4_8422_2325u64;
    let mut put = |word: u64| hash = (hash ^ word).wrapping_mul(0x0000_0100_0000_01b3);
    for (scene, hand) in
        rehearsal.scenes.iter().flat_map(|scene| Hand::all().into_iter().map(move |hand| (scene, hand)))
    {
        for number in 0..20 {
            let trial = scene.trial(&hand, 7, number);
            assert_eq!(trial.events, scene.trial(&hand, 7, number).events);
            for event in trial.events {
                put(event.at.as_micros());
                match event.input {
                    Input::Level { value, .. } => put(u64::from(value.to_bits())),
                    Input::Pair { x, y, .. } | Input::Touch { x, y, .. } => {
                        put(u64::from(x.to_bits()) << 32 | u64::from(y.to_bits()));
                    }
                    _ => {}
                }
            }
        }
    }
    assert_eq!(hash, HASH, "the hands play otherwise than before: {hash:#x}");
}

/// What the shipped hands play on the demo; it changes when the hands, the demo's cues or the way of performing do.
const HASH: u64 = 0x49ba_b798_f458_d050;

#[test]
fn events_of_one_control_alternate_and_stand_in_order() {
    let rehearsal = demo();
    for scene in &rehearsal.scenes {
        for number in 0..120 {
            let trial = scene.trial(&hand("clumsy"), 11, number);
            let mut down = std::collections::HashMap::new();
            let mut last = Moment::ZERO;
            for event in &trial.events {
                assert!(event.at >= last && event.at <= trial.end, "{} {number}", scene.name);
                last = event.at;
                if let Input::Level { control, value } = event.input
                    && control.sort() == tidy_lever::control::Sort::Button
                {
                    let was = down.insert(control, value > 0.0).unwrap_or(false);
                    assert_ne!(was, value > 0.0, "{} {number}: {control} at {}", scene.name, event.at);
                }
            }
            assert!(down.values().all(|is_down| !is_down), "{} {number}: something is held for ever", scene.name);
            assert!(trial.begins <= trial.done && trial.done <= trial.until);
        }
    }
}

/// Answers come at the same microsecond as in a game that answers at once, told by other means.
#[test]
fn answers_are_those_of_a_game_that_answers_at_once() {
    let answers: Vec<Answer> = ["hop: grounded = false for 420ms", "slip: busy = true for 300ms after 15ms"]
        .iter()
        .map(|line| line.parse().unwrap())
        .collect();
    let rehearsal = Rehearsal::new(DEMO, &answers).unwrap();
    let linkage: &Linkage = rehearsal.linkage();
    let mut stage = rehearsal.stage();
    let mut situations = Vec::new();
    for action in ["hop", "slip"] {
        let scene = rehearsal.scene(action).unwrap();
        for number in 0..150 {
            let trial = scene.trial(&hand("clumsy"), 2, number);
            situations.push(trial.situation);
            let mut seat = linkage.seat(Moment::ZERO);
            seat.set_view(1280, 720).unwrap();
            for (mode, on) in &trial.modes {
                seat.set_mode(linkage.find::<Mode>(mode).unwrap(), *on).unwrap();
            }
            for (at, fact, value) in &trial.facts {
                seat.tell_at(linkage.find::<Fact>(fact).unwrap(), told(value), *at).unwrap();
            }
            for event in &trial.events {
                seat.feed(*event).unwrap();
            }
            let mut answering = Answering::new(answers.clone());
            let mut found = None;
            let mut bookmark = seat.bookmark();
            let mut recorder = Recorder::off(&Header::new(""));
            answering.advance(&mut recorder.seat(1, &mut seat), trial.end, |seat| {
                for happening in seat.read(&mut bookmark).happenings() {
                    let is_own = happening.what() == What::Pulled && happening.action(linkage) == Some(action);
                    let at = happening.at();
                    if is_own && at >= trial.begins && at <= trial.until {
                        let late = at.as_micros().saturating_sub(trial.done.as_micros());
                        found = found.or(Some(Duration::from_micros(late)));
                    }
                }
            });
            assert_eq!(rehearsal.play(scene, &trial, &mut stage).found, found, "{action} {number}");
        }
    }
    assert!(situations.contains(&Situation::Repeated) && !situations.contains(&Situation::Opening));
}

#[test]
fn what_nobody_can_perform_says_why() {
    let text = r#"tidy-lever = 1
[facts]
grounded = true
[modes]
menu = { covers = "all" }
[action.hop]
kind = "button"
keys = "Space"
when = "grounded and not grounded"
[action.bound]
kind = "button"
cue = "press"
[action.flick]
kind = "button"
cue = "steer flicks over 0.8 within 60ms"
[action.steer]
kind = "stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
[action.pick]
kind = "button"
modes = ["menu"]
keys = "KeyE"
[action.guard]
kind = "button"
keys = "KeyG"
[action.counter]
kind = "button"
keys = "KeyC"
when = "guard on"
"#;
    let rehearsal = Rehearsal::new(text, &[]).unwrap();
    let names: Vec<&str> = rehearsal.left_out.iter().map(|(name, _)| name.as_str()).collect();
    assert_eq!(names, ["hop", "bound", "flick"]);
    assert!(rehearsal.left_out[0].1.contains("open its gate"), "{:?}", rehearsal.left_out);
    // A mode of its own is turned on, and what a gate asks for with `on` is held.
    for action in ["pick", "guard", "counter"] {
        assert_eq!(tally(&rehearsal, action, &still(), 20).found, 20, "{action}");
    }
}

/// The ways of the recipes that no other test plays: all of them are found by a hand without errors, and none goes off unmeant.
#[test]
fn recipes_are_performed_as_they_are_meant() {
    let cases = [
        ("slip", vec!["slip"]),             // the same direction twice, as a motion; and a chord
        ("knock", vec!["door", "hop"]),     // directions of the only stick, in an order
        ("click", vec!["let-go", "click"]), // one goes off by the other's button
        ("wave", vec!["wave", "wave-back", "flick"]),
        ("skim", vec!["skim", "skip-twice", "heave", "twirl", "toss"]),
        ("tap-or-hold", vec!["pick-up", "open-bag", "throw", "bow", "wave", "drop"]),
    ];
    for (recipe, actions) in cases {
        let file = format!("{}/../../demo/recipes/{recipe}/profile.toml", env!("CARGO_MANIFEST_DIR"));
        let rehearsal = Rehearsal::new(&std::fs::read_to_string(file).unwrap(), &[]).unwrap();
        for action in actions {
            let tally = tally(&rehearsal, action, &hand("practised").spread(0.0), 48);
            assert_eq!((tally.found, &tally.misses), (48, &Default::default()), "{recipe}: {action}");
        }
    }
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/recipes/click/profile.toml");
    let rehearsal = Rehearsal::new(&std::fs::read_to_string(file).unwrap(), &[]).unwrap();
    assert!(tally(&rehearsal, "click", &hand("clumsy"), 200).wrong.is_empty());
}

#[test]
fn the_documentation_lists_every_number_of_every_hand() {
    let page = include_str!("../../../docs/hands.md");
    let hands = Hand::all();
    assert_eq!(hands.iter().map(|hand| hand.name.as_str()).collect::<Vec<_>>(), ["practised", "average", "clumsy"]);
    let mut keys = 0;
    for line in hands[0].text.lines().filter(|line| line.contains(" = ") && !line.starts_with("name")) {
        let key = line.split_whitespace().next().unwrap();
        let of = |hand: &Hand| {
            let line = hand.text.lines().find(|line| line.split_whitespace().next() == Some(key)).unwrap();
            assert!(line.contains("# assumption"), "{}: {line} names no source", hand.name);
            line.split_once('=').unwrap().1.split('#').next().unwrap().trim().to_owned()
        };
        let row = format!("| `{key}` | {} | {} | {} |", of(&hands[0]), of(&hands[1]), of(&hands[2]));
        assert!(page.contains(&row), "docs/hands.md lacks {row}");
        keys += 1;
    }
    assert_eq!(keys, 21);
}

#[test]
fn a_wrong_file_says_which_key() {
    let text = hand("average").text;
    let with = |from: &str, to: &str| {
        assert!(text.contains(from), "{from}");
        Hand::from_toml(&text.replace(from, to)).unwrap_err()
    };
    let out = |key: &'static str| move |error: &HandError| matches!(error, HandError::OutOfRange { key: own, .. } if *own == key);
    assert!(out("gap")(&with("gap   = [170,", "gap = [0,")));
    assert!(out("report")(&with("report    = 6", "report = nan")));
    assert!(out("distracted")(&with("distracted = 0.5", "distracted = 1.5")));
    assert!(out("timing")(&with("timing  = [-5, 50]", "timing = [-5, 5000]")));
    for (from, to, word) in
        [("nervous ", "nervuos ", "nervuos"), ("fatigue =", "# ", "fatigue"), ("name = ", "name ", "name")]
    {
        let error = with(from, to);
        assert!(matches!(&error, HandError::Unreadable(why) if why.contains(word)), "{error}");
    }
}

/// The demo, with the guards of its profile or without any.
fn guarded(by_default: bool) -> Rehearsal {
    let off = "[devices]\nkeys = { debounce = \"0ms\" }\nmouse = { debounce = \"0ms\" }\n\
        pad = { debounce = \"0ms\", snapback = \"0ms\", centre = \"fixed\" }\n";
    let text = format!("{DEMO}\n{}", if by_default { "" } else { off });
    Rehearsal::new(&text, &[]).unwrap()
}

#[test]
fn guards_take_nothing_from_clean_devices_in_ten_thousand_trials() {
    let (with, without) = (guarded(true), guarded(false));
    let (mut stage, mut bare) = (with.stage(), without.stage());
    let (mut trials, mut found) = (0, 0);
    for hand in Hand::all() {
        for (scene, other) in with.scenes.iter().zip(&without.scenes) {
            for number in 0..160 {
                let trial = scene.trial(&hand, 9, number);
                let came = with.play(scene, &trial, &mut stage);
                assert_eq!(came, without.play(other, &trial, &mut bare), "{} {} {number}", hand.name, scene.name);
                (trials, found) = (trials + 1, found + u64::from(came.found.is_some()));
            }
        }
    }
    assert!(trials > 10_000 && found * 10 > trials * 9, "{found} of {trials}");
}

#[test]
fn a_worn_keyboard_with_its_guard_is_as_good_as_a_new_one_and_without_it_is_not() {
    let worn = Hand { wear: Wear::WornKeys, ..hand("average") };
    let count = |rehearsal: &Rehearsal, hand: &Hand| {
        let number = |name| rehearsal.number(name).unwrap();
        let (mut knocks, mut dashes, mut stage) = (0, 0, rehearsal.stage());
        for scene in &rehearsal.scenes {
            let tally = rehearsal.rehearse(scene, hand, 3, (0, 400), &mut stage);
            knocks += if scene.name == "knock" { tally.found } else { 0 };
            dashes += tally.wrong.get(&number("dash")).copied().unwrap_or(0);
        }
        (knocks, dashes)
    };
    let (with, without) = (guarded(true), guarded(false));
    let (new, guarded, bare) = (count(&with, &hand("average")), count(&with, &worn), count(&without, &worn));
    assert_eq!(guarded, new);
    assert!(bare.0 * 10 < new.0 * 9 && bare.1 > new.1 + 20, "{bare:?} for {new:?}");
}

#[test]
fn every_worn_device_says_what_it_says_in_order_and_the_same_everywhere() {
    let rehearsal = demo();
    for wear in Wear::ALL {
        assert_eq!(Wear::named(wear.name()), Some(wear));
        assert!(include_str!("../../../docs/hands.md").contains(&format!("`{}`", wear.name())), "{}", wear.name());
        let (worn, new) = (Hand { wear, ..hand("clumsy") }, hand("clumsy"));
        let mut differs = 0;
        for number in 0..200 {
            for scene in &rehearsal.scenes {
                let trial = scene.trial(&worn, 5, number);
                assert!(trial.events.is_sorted_by_key(|event| event.at));
                assert!(trial.events.iter().all(|event| event.at <= trial.end), "{}", scene.name);
                assert_eq!(trial.events, scene.trial(&worn, 5, number).events);
                differs += usize::from(trial.events != scene.trial(&new, 5, number).events);
            }
        }
        assert!(differs > 100 || wear == Wear::New && differs == 0, "{}: {differs}", wear.name());
    }
}
