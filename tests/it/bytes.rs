//! Promise: saved seats, events and players' files leave the program as bytes and come back the same.

use crate::common::{linkage, us};
use tidy_lever::remap::Remap;
use tidy_lever::seat::{BytesError, Capacity, Saved};
use tidy_lever::tape::{Line, Reader, Replayer};
use tidy_lever::{Control, Device, Event, Happening, Linkage, Profile, Seat};
use xxhash_rust::xxh64::xxh64;

const BODY: &str = "[facts]\ngrounded = true\n[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n\
    [action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"grounded within 90ms\"\nkeep = \"150ms\"\n\
    [action.skim]\nkind = \"button\"\ncue = \"steer rolls 236 then toss within 350ms\"\noutranks = [\"toss\"]\n";

/// A small seat in the middle of much: a motion under way, a kept pull, an event that waits.
fn busy(linkage: &Linkage) -> Seat {
    let mut seat = linkage.seat_with(us(0), Capacity::default().waiting(16).history(16).devices(2)).unwrap();
    let (pad, keys) = (Device::new(1).unwrap(), Device::new(0).unwrap());
    seat.tell(linkage.find("grounded").unwrap(), false).unwrap();
    for (at, x, y) in [(10_000, 0.0, -1.0), (200_000, 0.7, -0.7)] {
        seat.feed(Event::pair(us(at), pad, Control::LEFT_STICK, x, y)).unwrap();
    }
    seat.feed(Event::button(us(210_000), keys, "keys:KeyJ".parse().unwrap(), true)).unwrap();
    seat.feed(Event::button(us(900_000), keys, "keys:KeyJ".parse().unwrap(), false)).unwrap();
    seat.advance(us(220_000));
    seat
}

/// The bytes with a checksum that is theirs.
fn signed(mut bytes: Vec<u8>) -> Vec<u8> {
    bytes.truncate(bytes.len() - 8);
    let checksum = xxh64(&bytes, 0);
    bytes.extend(checksum.to_le_bytes());
    bytes
}

#[test]
fn a_pull_of_a_gauge_that_is_kept_goes_over_too() {
    let body = "[facts]\nready = false\n[action.paddle]\nkind = \"gauge\"\nkeys = \"KeyK\"\nwhen = \"ready\"\nkeep = \"300ms\"\n\
        gauge = { ceiling = 2, push = \"+1\", pulls = \"full\" }\n";
    let linkage = linkage(body);
    let mut seat = linkage.seat(us(0));
    for (at, down) in [(10_000, true), (20_000, false), (30_000, true)] {
        seat.feed(Event::button(us(at), Device::new(0).unwrap(), "keys:KeyK".parse().unwrap(), down)).unwrap();
    }
    seat.advance(us(40_000));
    let saved = Saved::from_bytes(&linkage, &seat.saved(&[]).to_bytes()).unwrap();
    let mut other = linkage.seat(us(0));
    other.restore(&saved, &mut []).unwrap();
    for seat in [&mut seat, &mut other] {
        let mut bookmark = seat.bookmark();
        seat.tell_at(linkage.find("ready").unwrap(), true, us(100_000)).unwrap();
        seat.advance(us(200_000));
        let pulled: Vec<u64> = seat.read(&mut bookmark).happenings().map(|pull| pull.at().as_micros()).collect();
        assert_eq!(pulled, [100_000], "no cue met it, and its gate lets it through");
    }
    assert_eq!(seat.state_hash(), other.state_hash());
}

#[test]
fn a_seat_that_went_through_bytes_plays_on_the_same_at_every_line_of_the_demo() {
    let profile = Profile::from_toml(include_str!("../../demo/otter-post.toml")).unwrap();
    let linkage = Linkage::build(&profile).unwrap();
    let mut reader = Reader::new(include_bytes!("../../demo/morning-round.jsonl").as_slice()).unwrap();
    let header = reader.header().clone();
    let lines: Vec<Line> = reader.by_ref().map(|line| line.unwrap()).collect();
    let (mut seat, mut player) = (linkage.seat(us(0)), Replayer::new(&header));
    let mut bookmark = seat.bookmark();
    let mut checked = 0;
    for (place, line) in lines.iter().enumerate() {
        player.put(line, &mut seat).unwrap();
        if place % 37 == 0 {
            // What is not played yet goes over, too.
            let bytes = seat.saved(&[&bookmark]).to_bytes();
            let saved = Saved::from_bytes(&linkage, &bytes).unwrap();
            assert!(saved.to_bytes() == bytes, "they are written again as they were read");
            let (mut other, mut other_bookmark) = (linkage.seat(us(0)), seat.bookmark());
            other.restore(&saved, &mut [&mut other_bookmark]).unwrap();
            assert_eq!(other.state_hash(), seat.state_hash());
            let (mut one, mut one_bookmark) = (seat.clone(), bookmark.clone());
            for seat in [&mut one, &mut other] {
                seat.advance(line.at + std::time::Duration::from_secs(1));
            }
            assert_eq!(one.state_hash(), other.state_hash());
            let told =
                |seat: &Seat, bookmark| -> Vec<Happening> { seat.read(bookmark).happenings().copied().collect() };
            assert_eq!(told(&one, &mut one_bookmark), told(&other, &mut other_bookmark));
            checked += 1;
        }
        seat.advance(line.at);
        seat.read(&mut bookmark);
    }
    assert!(checked > 20, "{checked}");
}

#[test]
fn bytes_that_were_cut_or_flipped_are_refused() {
    let linkage = linkage(BODY);
    let bytes = busy(&linkage).saved(&[]).to_bytes();
    let refused = |bytes: &[u8]| Saved::from_bytes(&linkage, bytes).map(|_| ()).unwrap_err();
    for length in 0..bytes.len() {
        assert!(matches!(refused(&bytes[..length]), BytesError::NotSaved | BytesError::Damaged));
    }
    for place in 0..bytes.len() {
        for bit in 0..8 {
            let mut flipped = bytes.clone();
            flipped[place] ^= 1 << bit;
            let expected = if place < 8 { BytesError::NotSaved } else { BytesError::Damaged };
            assert_eq!(refused(&flipped), expected, "byte {place}, bit {bit}");
        }
    }
    // With a checksum that fits, nothing is trusted either: refused or read, never a panic.
    let mut read = 0;
    for place in 18..bytes.len() - 8 {
        for change in [1, 0x80, 0xff] {
            let mut forged = bytes.clone();
            forged[place] ^= change;
            read += usize::from(Saved::from_bytes(&linkage, &signed(forged)).is_ok());
        }
    }
    assert!(read > 0);
}

#[test]
fn bytes_of_another_linkage_or_another_form_are_told_apart() {
    let own = linkage(BODY);
    let bytes = busy(&own).saved(&[]).to_bytes();
    for other in [BODY.replace("150ms", "151ms"), BODY.replace("KeyJ", "KeyK"), BODY.replace("toss", "throw")] {
        assert_eq!(Saved::from_bytes(&linkage(&other), &bytes).unwrap_err(), BytesError::OtherLinkage);
    }
    let mut newer = bytes.clone();
    newer[8] = 10;
    assert_eq!(Saved::from_bytes(&own, &signed(newer)).unwrap_err(), BytesError::Version { found: 10 });
    let told = BytesError::Version { found: 10 }.to_string();
    assert!(told.contains("form 10"), "{told}");
    assert_eq!(
        Saved::from_bytes(&own, b"[action.hop] and more than twenty-six bytes").unwrap_err(),
        BytesError::NotSaved
    );
}

#[test]
fn a_bookmark_of_another_run_is_no_bookmark_of_this_one() {
    let linkage = linkage(BODY);
    let seat = busy(&linkage);
    let saved = Saved::from_bytes(&linkage, &seat.saved(&[&seat.bookmark()]).to_bytes()).unwrap();
    let (mut other, mut own, mut stranger) = (linkage.seat(us(0)), seat.bookmark(), seat.bookmark());
    other.restore(&saved, &mut [&mut own]).unwrap();
    assert!(!other.read(&mut own).restarted());
    assert!(other.read(&mut stranger).restarted(), "it was not saved with the seat");
}

#[test]
fn events_happenings_and_remaps_go_through_json() {
    let pad = Device::new(3).unwrap();
    let key: Control = "keys:KeyJ".parse().unwrap();
    for event in [
        Event::button(us(5), pad, key, true),
        Event::pair(us(6), pad, Control::LEFT_STICK, 0.25, -1.0),
        Event::touch(us(7), pad, 9, tidy_lever::event::Phase::Cancel, 0.5, 0.75),
        Event::plugged(us(8), pad, false),
    ] {
        let text = serde_json::to_string(&event).unwrap();
        assert_eq!(serde_json::from_str::<Event>(&text).unwrap(), event, "{text}");
    }
    let text = serde_json::to_string(&Event::button(us(5), pad, key, true)).unwrap();
    assert_eq!(text, r#"{"at":5,"device":3,"input":{"level":{"control":"keys:KeyJ","value":1.0}}}"#);
    for (wrong, told) in
        [("keys:KeyJ", "keys:Keyj"), ("\"device\":3", "\"device\":64"), ("\"at\":5", "\"at\":18446744073709551615")]
    {
        assert!(serde_json::from_str::<Event>(&text.replace(wrong, told)).is_err(), "{told}");
    }
    let seat = busy(&linkage(BODY));
    let all: Vec<Happening> = seat.latest().happenings().copied().collect();
    assert!(!all.is_empty());
    assert_eq!(serde_json::from_str::<Vec<Happening>>(&serde_json::to_string(&all).unwrap()).unwrap(), all);
    let remap = Remap::from_toml("tidy-lever = 1\n\n[action.hop]\nkeys = \"KeyJ\"\n").unwrap();
    assert_eq!(serde_json::from_str::<Remap>(&serde_json::to_string(&remap).unwrap()).unwrap(), remap);
}
