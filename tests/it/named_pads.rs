//! Promise: what a player's file sets for pads of a name counts for those pads, on tapes, tables and copies, too; what can't be is told.

use crate::common::us;
use tidy_lever::profile::DeviceEntry;
use tidy_lever::remap::Remap;
use tidy_lever::table::{Fed, Table};
use tidy_lever::tape::{Header, Line, Reader, Recorder, Replayer};
use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile, Seat, SeatInput, What};

const MS: u64 = 1_000;

const STEER: &str = "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = { dead = 0, full = 1 }\n\
    [action.hop]\nkind = \"button\"\npad = \"south\"\n";

/// Presses and releases of the only button, in ms.
fn edges(seat: &Seat) -> Vec<(u64, bool)> {
    let edge = |one: &tidy_lever::Happening| match one.what() {
        What::Pressed => Some((one.at().as_micros() / MS, true)),
        What::Released { .. } => Some((one.at().as_micros() / MS, false)),
        _ => None,
    };
    seat.latest().happenings().filter_map(edge).collect()
}

/// `STEER` with a player's file over it.
fn laid(file: &str) -> (Linkage, Vec<String>) {
    let profile = Profile::from_toml(&format!("tidy-lever = 1\n{STEER}")).unwrap();
    let laid = Remap::from_toml(&format!("tidy-lever = 1\n{file}")).unwrap().over(&profile).unwrap();
    (laid.linkage, laid.left_alone.iter().map(|fault| fault.to_string()).collect())
}

fn pushed(at: u64, pad: Device, x: f32) -> Event {
    Event::pair(us(at), pad, Control::LEFT_STICK, x, 0.0)
}

#[test]
fn what_a_player_sets_for_a_pad_counts_for_pads_of_that_name() {
    let file = "[devices]\npad = { debounce = \"5ms\" }\n[devices.by_name.\"Plain pad\"]\ndebounce = \"20ms\"\n\
                left_stick_centre = [0.2, 0]\n";
    let (linkage, alone) = laid(file);
    assert_eq!(alone, [""; 0]);
    let [plain, other] = [1, 2].map(|number| Device::new(number).unwrap());
    let mut seat = linkage.seat(Moment::ZERO);
    let steer = linkage.find("steer").unwrap();
    seat.name_device(plain, "Plain pad").unwrap();
    seat.name_device(other, "Another pad").unwrap();
    // A press that bounces for 10 ms on each.
    for (pad, begin) in [(plain, 100), (other, 200)] {
        for (after, down) in [(0, true), (8, false), (10, true), (90, false)] {
            seat.feed(Event::button(us((begin + after) * MS), pad, "pad:south".parse().unwrap(), down)).unwrap();
        }
    }
    seat.advance(us(400 * MS));
    let heard = [(100, true), (190, false), (200, true), (208, false), (213, true), (290, false)];
    assert_eq!(edges(&seat), heard);
    // At its middle the one rests, and the other is pushed; beyond it the short side is stretched.
    for (pad, x, counts) in
        [(plain, 0.2, 0.0), (other, 0.2, 0.2), (other, 0.0, 0.0), (plain, 0.6, 0.5), (plain, 1.0, 1.0)]
    {
        let at = seat.played().as_micros() + MS;
        seat.feed(pushed(at, pad, x)).unwrap();
        seat.advance(us(at));
        assert!((seat.stick(steer).xy().0 - counts).abs() < 1e-5, "{pad:?} at {x}");
    }
    assert_eq!(seat.middle_of(plain, Control::LEFT_STICK), Some((0.2, 0.0)));
    // It is not learnt again, however often the stick comes to rest elsewhere; a cable keeps it.
    let mut at = 1_000 * MS;
    for _ in 0..5 {
        for (after, x) in [(0, 0.9), (10 * MS, 0.05)] {
            seat.feed(pushed(at + after, plain, x)).unwrap();
        }
        at += 400 * MS;
    }
    seat.feed(Event::plugged(us(at), plain, false)).unwrap();
    seat.feed(pushed(at + MS, plain, 0.2)).unwrap();
    seat.advance(us(at + MS));
    assert_eq!(seat.middle_of(plain, Control::LEFT_STICK), Some((0.2, 0.0)));
    assert_eq!(seat.stick(steer).xy(), (0.0, 0.0));
    // The state with its names goes through bytes, and copies are the same.
    let bytes = seat.saved(&[]).to_bytes();
    let saved = tidy_lever::seat::Saved::from_bytes(&linkage, &bytes).unwrap();
    let mut copy = linkage.seat(Moment::ZERO);
    copy.restore(&saved, &mut []).unwrap();
    assert_eq!(copy.state_hash(), seat.state_hash());
    // Another name, and the middle is unknown again; that presses nothing.
    seat.name_device(plain, "Another pad").unwrap();
    seat.advance(us(at + 2 * MS));
    assert_eq!(seat.middle_of(plain, Control::LEFT_STICK), Some((0.0, 0.0)));
    assert!((seat.stick(steer).xy().0 - 0.2).abs() < 1e-5);
    assert_ne!(copy.state_hash(), seat.state_hash());
}

#[test]
fn a_player_s_file_over_a_running_seat_moves_the_middles_of_named_pads() {
    let (first, _) = laid("");
    let mut seat = first.seat(Moment::ZERO);
    let (pad, steer) = (Device::new(1).unwrap(), first.find("steer").unwrap());
    seat.name_device(pad, "Plain pad").unwrap();
    seat.feed(pushed(MS, pad, 0.3)).unwrap();
    seat.advance(us(2 * MS));
    for (file, middle, counts) in [
        ("[devices.by_name.\"Plain pad\"]\nleft_stick_centre = [0.3, 0.0]\n", 0.3, 0.0),
        ("[devices.by_name.\"Plain pad\"]\nleft_stick_centre = [0.1, 0.0]\n", 0.1, 0.2 / 0.9),
        ("[devices.by_name.\"Quay pad\"]\nleft_stick_centre = [0.3, 0.0]\n", 0.0, 0.3),
        ("[devices]\npad = { centre = \"fixed\" }\n", 0.0, 0.3),
    ] {
        seat.relink(&laid(file).0, &mut []);
        seat.advance(seat.next_moment());
        assert_eq!(seat.middle_of(pad, Control::LEFT_STICK), Some((middle, 0.0)), "{file}");
        assert!((seat.stick(steer).xy().0 - counts).abs() < 1e-5, "{file}: {:?}", seat.stick(steer).xy());
    }
}

#[test]
fn settings_by_name_that_cannot_be_are_told_and_left_alone() {
    let wrong = "[devices.by_name]\nA = 3\n[devices.by_name.B]\nleft_stick_centre = [0.03]\nright_stick_centre = [0.6, 0]\n\
                 debounce = \"2s\"\nsnapbak = \"1ms\"\n";
    let (_, alone) = laid(wrong);
    let told = alone.join("\n");
    assert_eq!(alone.len(), 5, "{told}");
    for part in [
        "devices.by_name.\"A\": expected a table",
        "left_stick_centre: expected right and up",
        "is too long",
        "did you mean `snapback`",
    ] {
        assert!(told.contains(part), "{part}: {told}");
    }
    // In a profile they have no place.
    let faults = Profile::from_toml(&format!("tidy-lever = 1\n{STEER}[devices.by_name.A]\ndebounce = \"1ms\"\n"));
    let told = match faults {
        Ok(profile) => Linkage::build(&profile).unwrap_err().to_string(),
        Err(faults) => faults.to_string(),
    };
    assert!(told.contains("player's file"), "{told}");
    let far = DeviceEntry::new().left_stick_centre(0.6, f64::NAN);
    let profile = Profile::from_toml(&format!("tidy-lever = 1\n{STEER}")).unwrap().devices_named("A", far);
    assert!(Linkage::build(&profile).unwrap_err().to_string().contains("at most 0.5 from 0"));
}

#[test]
fn names_stand_in_a_tape_s_header_and_lines_and_replay() {
    let (linkage, _) = laid("[devices.by_name.\"Plain pad\"]\nleft_stick_centre = [0.2, 0]\n");
    let steer = linkage.find("steer").unwrap();
    let replayed = |header: &str, naming: &str| {
        let line = r#"{"at":5000,"dev":"p1","control":"pad:left-stick","x":0.6,"y":0}"#;
        let text = format!("{{\"tape\":\"tidy-lever\",\"version\":1{header}}}\n{naming}{line}\n");
        let mut reader = Reader::new(text.as_bytes()).unwrap();
        let (mut seat, mut replayer) = (linkage.seat(Moment::ZERO), Replayer::new(reader.header()));
        reader.by_ref().for_each(|line| replayer.put(&line.unwrap(), &mut seat).unwrap());
        seat.advance(us(6_000));
        seat.stick(steer).xy().0
    };
    let devices = |name: &str| format!(",\"devices\":[{{\"id\":\"p1\",\"family\":\"pad\"{name}}}]");
    assert_eq!(replayed(&devices(""), ""), 0.6);
    assert_eq!(replayed(&devices(",\"name\":\"Plain pad\""), ""), 0.5);
    assert_eq!(replayed("", "{\"at\":1000,\"dev\":\"p1\",\"name\":\"Plain pad\"}\n"), 0.5);

    // A recording has them, whether a seat was named, or a table whose seat the pad joins.
    let mut table = Table::new(&linkage, 1).join_by(Control::PAD_START);
    let mut recorder = Recorder::off(&Header::new("named")).lines();
    let pad = Device::new(4).unwrap();
    recorder.name_device(&mut table, pad, "Plain pad").unwrap();
    let start = Event::button(us(MS), pad, Control::PAD_START, true);
    assert_eq!(recorder.feed(&mut table, start).unwrap(), Fed::Joined(1));
    recorder.advance(&mut table, us(2 * MS));
    recorder.feed(&mut table, pushed(3 * MS, pad, 0.6)).unwrap();
    recorder.advance(&mut table, us(4 * MS));
    assert_eq!(table.seat(1).unwrap().stick(steer).xy().0, 0.5);
    let lines: Vec<String> = recorder.take_lines().iter().map(Line::write).collect();
    assert_eq!(lines[0], r#"{"at":2001,"dev":"p1","name":"Plain pad"}"#);
    assert_eq!(lines.len(), 2, "{lines:?}");
    recorder.name_device(&mut table, pad, "Other pad").unwrap();
    recorder.advance(&mut table, us(5 * MS));
    assert_eq!(recorder.take_lines()[0].write(), r#"{"at":4001,"dev":"p1","name":"Other pad"}"#);
    // Whoever only has the name's number records that.
    let mut seat = linkage.seat(Moment::ZERO);
    let named = SeatInput::Named { device: pad, name: "Plain pad".into() };
    recorder.seat(1, &mut seat).apply(us(9 * MS), named).unwrap();
    recorder.seat(1, &mut seat).advance(us(9 * MS));
    let line = recorder.take_lines().remove(0);
    let input = Replayer::new(&Header::new("")).input(&line, &linkage).unwrap().unwrap();
    assert!(matches!(input, SeatInput::Named { name, .. } if name == "Plain pad".into()), "{}", line.write());
}
