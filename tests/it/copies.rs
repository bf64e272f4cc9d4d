//! Promise: a copy of a seat is that seat, over any linkage; a bookmark of another seat is refused; the hash covers all that
//! decides.

use crate::common::{Bench, device, linkage, us};
use tidy_lever::ledger::Outcome;
use tidy_lever::seat::{Capacity, MOST_CAPACITY, RestoreError};
use tidy_lever::{Button, Control, Event, Moment, Seat};

const BODY: &str = "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\npad = \"south\"\n[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n";
const MORE: &str = "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n[action.skim]\nkind = \"button\"\n\
    cue = \"steer rolls 236 then toss within 350ms\"\noutranks = [\"toss\"]\nmarks = { hidden = \"9t@60\" }\n";

#[test]
fn a_copy_of_a_relinked_seat_is_as_that_one_is_and_keeps_its_own_ledger() {
    let mut bench = Bench::new(BODY);
    bench.seat.keep_ledger(8);
    let mut copy = bench.seat.clone();
    bench.level(1_000, "keys:Space", 1.0).to(2_000);
    let changed = linkage(&format!("{BODY}{MORE}"));
    bench.seat.relink(&changed, &mut []);
    copy.clone_from(&bench.seat);
    assert_eq!(copy.state_hash(), bench.seat.state_hash());
    assert!(copy.button(changed.find("hop").unwrap()).is_down());
    copy.advance(us(9_000));
    // And back again to what is smaller.
    let mut small = linkage(BODY).seat(Moment::ZERO);
    small.clone_from(&copy);
    copy.clone_from(&linkage(BODY).seat(Moment::ZERO));
    assert_eq!((small.played(), copy.played()), (us(9_000), us(0)));
}

#[test]
fn what_was_saved_before_a_relink_takes_a_new_save_and_refuses_to_be_restored_without() {
    let mut bench = Bench::new(BODY);
    let mut saved = bench.seat.saved(&[&bench.bookmark]);
    bench.level(1_000, "keys:Space", 1.0).to(2_000);
    let changed = linkage(&BODY.replace("Space", "KeyH"));
    bench.seat.relink(&changed, &mut [&mut bench.bookmark]);
    // An equally shaped linkage on which other keys are held.
    assert_eq!(bench.seat.restore(&saved, &mut [&mut bench.bookmark]), Err(RestoreError::OtherLinkage));
    bench.seat.save_into(&mut saved, &[&bench.bookmark]);
    let before = bench.seat.state_hash();
    bench.level(3_000, "keys:KeyH", 1.0).to(4_000);
    assert_eq!(bench.heard_of("hop").len(), 6, "of both linkages");
    bench.seat.restore(&saved, &mut [&mut bench.bookmark]).unwrap();
    assert_eq!(bench.seat.state_hash(), before);
    // The profile built a second time is the same linkage; so is one of another title.
    let titled = linkage(&format!("title = \"Otter Post\"\n{}", BODY.replace("Space", "KeyH")));
    let mut other = titled.seat(Moment::ZERO);
    assert!(other.restore(&saved, &mut [&mut bench.bookmark]).is_ok());
    for differs in ["keep = \"1ms\"", "cue = \"hold 1ms\"", "cooldown = \"1ms\"", "down_at = 0.6"] {
        let mut seat = linkage(&format!("{}{differs}\n", BODY.replace("Space", "KeyH"))).seat(Moment::ZERO);
        assert_eq!(seat.restore(&saved, &mut [&mut bench.bookmark]), Err(RestoreError::OtherLinkage), "{differs}");
    }
}

#[test]
fn a_save_over_what_was_just_restored_holds_whatever_was_done_in_between() {
    let lamp = "[action.lamp]\nkind = \"button\"\nkeys = \"KeyL\"\ncue = \"toggle\"\n";
    let linkage = linkage(&format!("[modes]\nquay = {{ on = true }}\n[facts]\nwet = false\n{BODY}{lamp}"));
    let press = |at, key: &str| Event::button(us(at), device(0), format!("keys:{key}").parse().unwrap(), true);
    let mut seat = linkage.seat(Moment::ZERO);
    seat.feed(press(1_000, "Space")).unwrap();
    seat.advance(us(2_000));
    let first = seat.saved(&[]);
    seat.advance(us(5_000));
    let later = seat.saved(&[]);
    type Change<'c> = (&'c str, &'c dyn Fn(&mut Seat));
    let changes: [Change<'_>; 11] = [
        ("nothing", &|_| {}),
        ("fed", &|seat| seat.feed(press(9_000, "KeyJ")).unwrap()),
        ("fed late, by a new device", &|seat| {
            seat.feed(Event::button(us(1), device(1), Control::PAD_SOUTH, true)).unwrap()
        }),
        ("advanced", &|seat| seat.advance(us(9_000))),
        ("advanced by nothing", &|seat| seat.advance(us(2_000))),
        ("skipped", &|seat| seat.skip(us(9_000))),
        ("told", &|seat| seat.tell(linkage.find("wet").unwrap(), true).unwrap()),
        ("a mode", &|seat| seat.set_mode(linkage.find("quay").unwrap(), false).unwrap()),
        ("set", &|seat| seat.set(linkage.find("lamp").unwrap(), true).unwrap()),
        ("restored again", &|seat| seat.restore(&later, &mut []).unwrap()),
        ("copied", &|seat| {
            let mut other = linkage.seat(Moment::ZERO);
            other.feed(press(3_000, "KeyJ")).unwrap();
            other.advance(us(4_000));
            seat.clone_from(&other);
        }),
    ];
    for (what, change) in changes {
        let mut saved = first.clone();
        // Whoever else was restored from it, or from a copy of it, changes nothing.
        let mut others = [linkage.seat(Moment::ZERO), linkage.seat(Moment::ZERO)];
        for turn in 0..3 {
            others[0].restore(&saved, &mut []).unwrap();
            seat.restore(&saved, &mut []).unwrap();
            others[1].restore(&saved.clone(), &mut []).unwrap();
            change(&mut seat);
            seat.save_into(&mut saved, &[]);
            let wanted = seat.state_hash();
            others[0].restore(&saved, &mut []).unwrap();
            assert_eq!((others[0].state_hash(), others[0].played()), (wanted, seat.played()), "{what}, turn {turn}");
            // And what another one does to it.
            others[1].advance(us(20_000));
            others[1].save_into(&mut saved, &[]);
            seat.save_into(&mut saved, &[]);
            others[0].restore(&saved, &mut []).unwrap();
            assert_eq!(others[0].state_hash(), wanted, "{what}, turn {turn}");
        }
    }
}

#[test]
fn a_bookmark_that_is_not_of_this_seat_reads_from_here_on_and_says_so() {
    let mut bench = Bench::new(BODY);
    let hop: Button = bench.find("hop");
    let tap = |bench: &mut Bench, at: u64| {
        bench.level(at, "keys:Space", 1.0).level(at + 10, "keys:Space", 0.0).to(at + 20);
    };
    let mut early = bench.seat.bookmark();
    let saved = bench.seat.saved(&[]);
    tap(&mut bench, 1_000);
    let mut late = bench.seat.bookmark();
    // Back to the start without the bookmarks: one had seen the tap, the other had not.
    bench.seat.restore(&saved, &mut []).unwrap();
    let presses = |bench: &Bench, bookmark: &mut tidy_lever::Bookmark| {
        let reading = bench.seat.read(bookmark);
        (reading.button(hop).presses(), reading.presses(hop).lost(), reading.restarted())
    };
    assert_eq!(presses(&bench, &mut late), (0, 0, true));
    assert_eq!(presses(&bench, &mut early), (0, 0, false));
    tap(&mut bench, 2_000);
    assert_eq!(presses(&bench, &mut late), (1, 0, false));
    assert_eq!(presses(&bench, &mut early), (1, 0, false));
    // What is played again just as it was has been read.
    let saved = bench.seat.saved(&[]);
    tap(&mut bench, 3_000);
    presses(&bench, &mut early);
    bench.seat.restore(&saved, &mut []).unwrap();
    tap(&mut bench, 3_000);
    assert_eq!(presses(&bench, &mut early), (0, 0, false));
    // Another seat's; one that a relink left out; one of another profile.
    let other = Bench::new(BODY);
    assert_eq!(presses(&other, &mut early), (0, 0, true));
    let mut kept = bench.seat.bookmark();
    let mut left_out = bench.seat.bookmark();
    bench.seat.relink(&linkage(BODY), &mut [&mut kept]);
    tap(&mut bench, 4_000);
    assert_eq!(presses(&bench, &mut kept), (1, 0, false));
    assert_eq!(presses(&bench, &mut left_out), (0, 0, true));
    let strange = linkage(MORE.split("[action.skim]").next().unwrap()).seat(Moment::ZERO);
    assert_eq!(presses(&bench, &mut strange.bookmark()), (0, 0, true));
    assert_eq!(presses(&bench, &mut tidy_lever::Bookmark::default()), (0, 0, true));
}

#[test]
fn a_reader_slower_than_the_rollbacks_reads_everything_once() {
    let mut dice = fastrand::Rng::with_seed(4);
    let mut bench = Bench::new(BODY);
    let hop: Button = bench.find("hop");
    let mut slow = bench.seat.bookmark();
    let mut saved = bench.seat.saved(&[&slow]);
    let (mut wanted, mut read) = (0, 0);
    for frame in 1..400u64 {
        let at = frame * 16_000;
        bench.seat.save_into(&mut saved, &[&slow]);
        // Guessed, gone back, and played as it was.
        bench.level(at + 5, "keys:KeyJ", f32::from(u8::from(dice.bool()))).to(at + 100);
        bench.seat.restore(&saved, &mut [&mut slow]).unwrap();
        bench.level(at + 7, "keys:Space", f32::from(u8::from(frame % 2 == 0))).to(at + 100);
        wanted += u32::from(frame % 2 == 0);
        if dice.u8(0..5) == 0 {
            let reading = bench.seat.read(&mut slow);
            assert!(!reading.restarted());
            read += reading.button(hop).presses();
        }
    }
    read += bench.seat.read(&mut slow).button(hop).presses();
    assert_eq!(read, wanted);
}

#[test]
fn a_ledger_goes_back_with_its_seat_and_no_margin_underflows() {
    let mut bench = Bench::new("[facts]\ngrounded = false\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded\"\nkeep = \"50ms\"\n\
        [action.twice]\nkind = \"button\"\ncue = \"hop hold 5ms\"\n[action.double-hop]\nkind = \"button\"\ncue = \"hop 2 taps 100ms apart\"\n".replace("[action.twice]", "[action.hold-on]").as_str());
    bench.seat.keep_ledger(64);
    bench.to(1_000);
    let saved = bench.seat.saved(&[]);
    for _ in 0..40 {
        bench.level(200_000, "keys:Space", 1.0).level(200_010, "keys:Space", 0.0).to(500_000);
        bench.seat.restore(&saved, &mut []).unwrap();
        let grounded = bench.find("grounded");
        bench.seat.tell_at(grounded, true, us(10_000)).unwrap();
        bench.level(20_000, "keys:Space", 1.0).level(20_010, "keys:Space", 0.0).to(30_000);
        bench.seat.restore(&saved, &mut []).unwrap();
    }
    bench.to(3_000_000);
    let linkage = bench.seat.linkage().clone();
    for attempt in bench.seat.attempts() {
        let missed = attempt.missed_by().unwrap_or_default();
        assert!(missed.as_secs() < 2, "{}", attempt.story(&linkage).unwrap_or_default());
        assert!(!matches!(attempt.outcome(&linkage).unwrap(), Outcome::TooLate { by } if by.as_secs() > 2));
    }
}

#[test]
fn room_that_there_is_none_for_is_an_error() {
    let linkage = linkage(BODY);
    for room in [
        Capacity::default().waiting(usize::MAX),
        Capacity::default().history(usize::MAX),
        Capacity::default().history(MOST_CAPACITY + 1),
        Capacity::default().devices(usize::MAX),
        Capacity::default().devices(0),
    ] {
        let error = linkage.seat_with(Moment::ZERO, room).unwrap_err().to_string();
        assert!(error.starts_with("a seat has room for"), "{error}");
        assert!(tidy_lever::table::Table::new(&linkage, 2).capacity(room).is_err());
    }
}

#[test]
fn a_table_feeds_all_of_a_devices_seats_or_none() {
    use tidy_lever::table::{Fed, Table};
    let linkage = linkage(BODY);
    let mut table = Table::new(&linkage, 2);
    let small = Capacity::default().waiting(1);
    table.sit(&linkage, &[device(0)]).unwrap();
    let mut table = table.capacity(small).unwrap();
    table.sit(&linkage, &[device(0)]).unwrap();
    let press = |at, down| Event::button(us(at), device(0), "keys:Space".parse().unwrap(), down);
    assert_eq!(table.feed(press(1, true)), Ok(Fed::Heard(2)));
    assert!(table.feed(press(2, false)).is_err());
    assert_eq!(table.seat(1).unwrap().waiting().waiting, 1, "the first has not taken it, either");
    table.advance(us(1));
    assert_eq!(table.feed(press(2, false)), Ok(Fed::Heard(2)));
    let counts = |number: usize| table.seat(number).unwrap().stats();
    assert_eq!((counts(1).handed_back, counts(2).handed_back, counts(1).repeats), (0, 1, 0));
}

#[test]
fn a_whole_table_goes_back_with_who_had_joined_and_who_moves_whom() {
    use tidy_lever::table::Table;
    let linkage = crate::common::linkage("[action.hop]\nkind = \"button\"\npad = \"south\"\n");
    let hop: Button = linkage.find("hop").unwrap();
    let press = |at, number, down| Event::button(us(at), device(number), Control::PAD_SOUTH, down);
    let mut table = Table::new(&linkage, 3);
    table.sit(&linkage, &[device(0)]);
    table.sit(&linkage, &[device(1)]);
    table.feed(press(10, 0, true)).unwrap();
    table.advance(us(20));
    let mut reader = table.seat(1).unwrap().bookmark();
    table.feed(press(30, 1, true)).unwrap();
    let mut saved = table.saved(&[(1, &reader)]);
    let hashes = |table: &Table| table.seats().map(|(number, seat)| (number, seat.state_hash())).collect::<Vec<_>>();
    let before = hashes(&table);
    // The first leaves, a third joins with the second's pad, and time goes on.
    table.leave(1).unwrap();
    table.sit(&linkage, &[device(2)]);
    table.sit(&linkage, &[device(1)]);
    table.feed(press(40, 1, false)).unwrap();
    table.advance(us(50));
    assert_eq!(table.seats().count(), 3);
    // Bookmarks that are not those saved: refused, and nothing is changed.
    let after = hashes(&table);
    let refused = table.restore(&saved, &mut []).unwrap_err();
    assert_eq!((refused, hashes(&table)), (RestoreError::OtherBookmarks { saved: 1, given: 0 }, after));
    for _ in 0..2 {
        table.restore(&saved, &mut [(1, &mut reader)]).unwrap();
        assert_eq!((hashes(&table), table.seat(3).is_none()), (before.clone(), true));
        assert_eq!(table.moved_by(device(1)).collect::<Vec<_>>(), [2]);
        // It plays on as it would have: the press that waited comes, the reader goes on where it was.
        table.feed(press(60, 0, false)).unwrap();
        table.advance(us(70));
        assert!(table.seat(2).unwrap().button(hop).is_down());
        assert_eq!(table.seat(1).unwrap().read(&mut reader).button(hop).releases(), 1);
    }
    table.restore(&saved, &mut [(1, &mut reader)]).unwrap();
    table.save_into(&mut saved, &[(1, &reader), (2, &reader)]);
    assert_eq!(
        table.restore(&saved, &mut [(1, &mut reader)]),
        Err(RestoreError::OtherBookmarks { saved: 1, given: 0 })
    );
    // A seat that was relinked since is told.
    let other = crate::common::linkage("[action.hop]\nkind = \"button\"\npad = \"east\"\n");
    let saved = table.saved(&[]);
    table.seat_mut(1).unwrap().relink(&other, &mut []);
    assert_eq!(table.restore(&saved, &mut []), Err(RestoreError::OtherLinkage));
}
