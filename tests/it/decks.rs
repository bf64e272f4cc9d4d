//! Promise: a tape plays onto all its seats as it says, with the profiles, player's files and numbers that it goes over to.

use std::collections::BTreeMap;

use crate::common::us;
use tidy_lever::remap::Remap;
use tidy_lever::seat::Capacity;
use tidy_lever::tape::{Deck, DeckError, Header, Line, Reader};
use tidy_lever::{Family, Linkage, Moment, Profile, Seat, What};

const PROFILE: &str = "tidy-lever = 1\n[action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"hold 300ms\"\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
const REMAP: &str = "tidy-lever = 1\n[action.bag]\nkeys = \"KeyQ\"\n";

fn line(text: &str) -> Line {
    Line::read(text).unwrap()
}

fn key(at: u64, seat: u32, key: &str, value: u32) -> String {
    format!("{{\"at\":{at},\"seat\":{seat},\"dev\":\"kb\",\"control\":\"keys:{key}\",\"value\":{value}}}")
}

fn file(name: &str) -> Result<String, String> {
    match name {
        "remap.toml" => Ok(REMAP.into()),
        "slow.toml" => Ok(PROFILE.replace("300ms", "400ms")),
        "broken.toml" => Ok("tidy-lever = 1\n[action.bag]\nkind = \"secret\"\n".into()),
        "poem.toml" => Ok("a secret".into()),
        _ => Err("there is no such file".into()),
    }
}

/// Plays lines, and tells when each seat's actions pulled.
fn pulls(lines: &[String]) -> Vec<(u32, String, u64)> {
    let header =
        "{\"tape\":\"tidy-lever\",\"version\":1,\"title\":\"\",\"devices\":[{\"id\":\"kb\",\"family\":\"keys\"}]}";
    let text = format!("{header}\n{}\n", lines.join("\n"));
    let mut reader = Reader::new(text.as_bytes()).unwrap();
    let mut deck = Deck::new(reader.header()).profile(PROFILE);
    let first = deck.laid().unwrap().linkage;
    let mut seats: BTreeMap<u32, Seat> = BTreeMap::new();
    let mut pulls = Vec::new();
    let mut look = |number: u32, seat: &Seat| {
        let latest = seat.latest();
        let pulled = latest.happenings().filter(|one| one.what() == What::Pulled);
        pulls.extend(pulled.map(|one| {
            (number, one.action(seat.linkage()).unwrap_or_default().to_owned(), one.at().as_micros() / 1_000)
        }));
    };
    for line in reader.by_ref() {
        let line = line.unwrap();
        let seat = seats.entry(line.seat).or_insert_with(|| first.seat(Moment::ZERO));
        if let Some(laid) = deck.after(&line, file).unwrap() {
            seat.advance(line.at);
            look(line.seat, seat);
            seat.relink(&laid.linkage, &mut []);
        }
        deck.put(&line, seat).unwrap();
    }
    for (number, seat) in &mut seats {
        seat.advance(us(5_000_000));
        look(*number, seat);
    }
    pulls
}

#[test]
fn seats_go_over_to_what_the_tape_says_at_the_moment_it_says_so() {
    let lines = [
        key(100_000, 1, "KeyE", 1),
        key(600_000, 1, "KeyE", 0),
        "{\"at\":1000000,\"number\":\"bag.hold\",\"value\":\"200ms\"}".into(),
        key(1_100_000, 1, "KeyE", 1),
        key(1_600_000, 1, "KeyE", 0),
        // A player's file over the moved number.
        "{\"at\":2000000,\"remap\":\"remap.toml\"}".into(),
        key(2_100_000, 1, "KeyQ", 1),
        key(2_600_000, 1, "KeyQ", 0),
        // Another profile under the same player's file.
        "{\"at\":3000000,\"profile\":\"slow.toml\"}".into(),
        key(3_100_000, 1, "KeyQ", 1),
        key(3_600_000, 1, "KeyQ", 0),
        // Whom the tape doesn't name plays on as before.
        key(3_700_000, 2, "KeyE", 1),
    ];
    let bag = |seat, at| (seat, "bag".to_owned(), at);
    assert_eq!(pulls(&lines), [bag(1, 400), bag(1, 1_300), bag(1, 2_300), bag(1, 3_500), bag(2, 4_000)]);
}

#[test]
fn a_gap_begins_at_the_line_before_whichever_seat_that_was_for() {
    let linkage = Linkage::build(&Profile::from_toml(PROFILE).unwrap()).unwrap();
    let pulled = |other: u64| {
        let mut deck = Deck::new(&Header::new("").device("kb", Family::Keys));
        let mut seats = [linkage.seat(Moment::ZERO), linkage.seat(Moment::ZERO)];
        let mut bookmark = seats[0].bookmark();
        for text in [key(100_000, 1, "KeyE", 1), key(other, 2, "Space", 1), "{\"at\":900000,\"skip\":true}".to_owned()]
        {
            let line = line(&text);
            deck.put(&line, &mut seats[line.seat as usize - 1]).unwrap();
        }
        seats[0].advance(us(900_000));
        let reading = seats[0].read(&mut bookmark);
        reading.happenings().any(|one| one.what() == What::Pulled && one.at() == us(400_000))
    };
    assert_eq!([450_000, 350_000].map(pulled), [true, false]);
}

#[test]
fn what_cannot_be_followed_says_why_and_quotes_no_file() {
    let mut deck = Deck::new(&Header::new("")).profile(PROFILE);
    let cases = [
        ("{\"at\":1,\"remap\":\"none.toml\"}", "the remap `none.toml`: there is no such file"),
        ("{\"at\":1,\"remap\":\"poem.toml\"}", "the remap `poem.toml` is not a player's file"),
        (
            "{\"at\":1,\"profile\":\"poem.toml\"}",
            "the profile `poem.toml` has faults; check it with `tidy-lever check`",
        ),
        (
            "{\"at\":1,\"profile\":\"broken.toml\"}",
            "the profile `broken.toml` has faults; check it with `tidy-lever check`",
        ),
        ("{\"at\":1,\"number\":\"bag.hole\",\"value\":\"200ms\"}", "bag.hold"),
    ];
    for (text, expected) in cases {
        let told = deck.after(&line(text), file).unwrap_err().to_string();
        assert!(told.contains(expected) && !told.contains("secret"), "{text}: {told}");
        assert_eq!((deck.text(), deck.player_file()), (PROFILE, &Remap::new()), "{text}: what played plays on");
    }
    assert!(deck.after(&line(&key(1, 1, "KeyE", 1)), file).unwrap().is_none());
    let mut broken = Deck::new(&Header::new("")).profile("tidy-lever = [");
    assert!(matches!(broken.laid(), Err(DeckError::NoProfile(_))));
}

#[test]
fn a_full_queue_grows_and_tells_when_it_can_no_longer() {
    let linkage = Linkage::build(&Profile::from_toml(PROFILE).unwrap()).unwrap();
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().waiting(0)).unwrap();
    let mut deck = Deck::new(&Header::new("").device("kb", Family::Keys));
    let mut refused = None;
    for number in 0..=Deck::MOST_WAITING as u64 {
        let own = line(&key(1_000 + number, 1, "Space", u32::from(number.is_multiple_of(2))));
        if let Err(error) = deck.put(&own, &mut seat) {
            refused = Some((number, error.is_full(), own));
        }
    }
    let (number, is_full, own) = refused.unwrap();
    assert_eq!((number, is_full), (Deck::MOST_WAITING as u64, true));
    seat.advance(us(1_000 + number - 1));
    deck.put(&own, &mut seat).unwrap();
    assert_eq!(seat.waiting().waiting, 1);
}
