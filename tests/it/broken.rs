//! Promise: broken input of every kind is told or survived; nothing panics, whatever the bytes.

use crate::common::{device, linkage, us};
use proptest::prelude::*;
use tidy_lever::cue::Cue;
use tidy_lever::event::{Input, Phase};
use tidy_lever::tape::{Line, Reader};
use tidy_lever::{Control, Event, Family, Linkage, Moment, Profile};

const DEMO: &str = include_str!("../../demo/otter-post.toml");
const TAPE: &str = include_str!("../../demo/recipes/steer-keys/tape.jsonl");

/// A text with some of its bytes changed, doubled or cut out.
fn mangled(text: &'static str) -> impl Strategy<Value = String> {
    let slip = (
        0..text.len(),
        0..6u8,
        prop::sample::select(vec!["\"", "{", "]", "=", "\n", "1e9", "-", "é", " ", "nan", "within"]),
    );
    prop::collection::vec(slip, 1..8).prop_map(move |slips| {
        let mut text = text.to_owned();
        for (at, how, with) in slips {
            let at = (0..=at.min(text.len())).rev().find(|at| text.is_char_boundary(*at)).unwrap_or(0);
            let end = text[at..].chars().next().map_or(at, |c| at + c.len_utf8());
            match how {
                0 => text.truncate(at),
                1 | 2 => text.replace_range(at..end, with),
                3 => text.replace_range(at..end, ""),
                _ => text.insert_str(at, with),
            }
        }
        text
    })
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn a_mangled_profile_builds_or_tells_its_faults(text in mangled(DEMO)) {
        match Profile::from_toml(&text).and_then(|profile| Linkage::build(&profile)) {
            Ok(linkage) => drop(linkage.seat(Moment::ZERO)),
            Err(faults) => {
                prop_assert!(faults.len() > 0 && !faults.to_string().is_empty());
                let lines = text.split('\n').count() as u32;
                prop_assert!(faults.iter().all(|fault| fault.spot.line <= lines), "{faults}");
            }
        }
    }

    #[test]
    fn a_mangled_tape_reads_up_to_its_fault(text in mangled(TAPE)) {
        if let Ok(reader) = Reader::new(text.as_bytes()) {
            let lines = text.split('\n').count() as u64;
            for line in reader {
                prop_assert!(line.map_err(|error| error.line <= lines && !error.to_string().is_empty()).err().unwrap_or(true));
            }
        }
    }

    #[test]
    fn any_text_is_a_cue_a_gate_and_a_line_or_says_why_not(text in "[a-z0-9 ().,@\"éms]{0,40}") {
        if let Err(error) = Cue::read(&text) {
            prop_assert!(error.at <= text.chars().count());
        }
        let quoted = text.replace('"', "'");
        let body = format!("tidy-lever = 1\n[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nwhen = \"{quoted}\"\n");
        if let Ok(profile) = Profile::from_toml(&body) {
            let _ = Linkage::build(&profile);
        }
        prop_assert!(Line::read(&text).is_err());
    }

    #[test]
    fn a_storm_of_events_from_many_devices_leaves_everything_up(
        storm in prop::collection::vec((0..70u8, 0..400u16, -2.0..2.0f32, 0..9_000u64, 0..12u8), 1..400),
    ) {
        let linkage = linkage(DEMO.trim_start_matches(|c| c != '['));
        let controls: Vec<Control> = Family::ALL.into_iter().flat_map(Control::all).collect();
        let mut seat = linkage.seat_with(Moment::ZERO, tidy_lever::seat::Capacity::default().devices(64)).unwrap();
        let mut at = 0u64;
        for (number, control, value, gap, what) in storm {
            // Clocks jump, forwards and back.
            at = if what == 0 { at.saturating_sub(gap * 10) } else { at + gap };
            let Some(device) = tidy_lever::Device::new(usize::from(number)) else { continue };
            let control = controls[usize::from(control) % controls.len()];
            let input = match what {
                1 => Input::Plugged(value > 0.0),
                2 => Input::Touch { finger: 1, phase: Phase::Move, x: value, y: value },
                3 => Input::Level { control, value: f32::NAN },
                4..=7 => Input::Level { control, value },
                _ => Input::Pair { control, x: value, y: -value },
            };
            let _ = seat.feed(Event::new(us(at), device, input));
            if what == 11 {
                seat.focus_at(value > 0.0, us(at)).unwrap();
            }
            if gap % 7 == 0 {
                seat.advance(us(at));
            }
        }
        // Everything is unplugged: nothing stays down, ever.
        let end = us(at + 1_000_000);
        seat.advance(end);
        for number in 0..64 {
            seat.feed(Event::plugged(end, device(number), false)).unwrap();
        }
        seat.advance(end + std::time::Duration::from_millis(1));
        for action in linkage.actions() {
            if let Ok(button) = linkage.find::<tidy_lever::Button>(action.name()) {
                prop_assert!(!seat.button(button).is_down(), "{} is still down", action.name());
            } else if let Ok(stick) = linkage.find::<tidy_lever::Stick>(action.name()) {
                prop_assert_eq!(seat.stick(stick).direction(), None);
            }
        }
    }
}

#[test]
fn more_than_there_is_room_for_is_told_at_build() {
    let mut profile = Profile::new("too much");
    for n in 0..70 {
        profile = profile.mode(tidy_lever::profile::ModeEntry::new(format!("mode{n}").as_str()));
    }
    let faults = Linkage::build(&profile).unwrap_err();
    assert!(faults.to_string().contains("a profile can have at most 64 modes, found 70"));
    let mut text = String::from("tidy-lever = 1\n[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nwhen = \"");
    text += &"(".repeat(32);
    text += "grounded";
    text += &")".repeat(32);
    text += "\"\n";
    assert!(Linkage::build(&Profile::from_toml(&text).unwrap()).is_ok());
    // Of whatever length, it is a fault and no overflow.
    for deep in ["(", "not ", "not ("].map(|one| one.repeat(100_000)) {
        let faults = Linkage::build(&Profile::from_toml(&text.replace(&"(".repeat(32), &deep)).unwrap()).unwrap_err();
        let told = faults.iter().next().unwrap();
        assert!(told.problem.contains("brackets and `not` nested 32 deep at most"));
    }
    let nested = text.replace(&"(".repeat(32), &"not (".repeat(32));
    assert!(
        Linkage::build(&Profile::from_toml(&nested).unwrap())
            .unwrap_err()
            .to_string()
            .contains("nested 32 deep at most")
    );
}

#[test]
fn a_device_too_many_is_handed_back() {
    let linkage = linkage("[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n");
    let mut seat = linkage.seat_with(Moment::ZERO, tidy_lever::seat::Capacity::default().devices(2)).unwrap();
    let press = |number| Event::button(us(5), device(number), "keys:Space".parse().unwrap(), true);
    assert!(seat.feed(press(0)).is_ok() && seat.feed(press(1)).is_ok());
    let error = seat.feed(press(2)).unwrap_err();
    assert!(error.to_string().contains("make it with a larger `Capacity::devices`"), "{error}");
    assert!(seat.feed(press(0)).is_ok(), "those that are known go on");
}
