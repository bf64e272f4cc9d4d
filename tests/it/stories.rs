//! Promise: the ledger tells what a tape was made to do, with margins to the microsecond, the same at any tick rate.

use crate::common::{Bench, device, linkage, us};
use proptest::prelude::*;
use tidy_lever::{Control, Event, Linkage, Seat};

const KEYS: &str = "[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n[action.hop]\nkind = \"button\"\nkeys = \"KeyK\"\n\
    [action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n";

/// A profile of one action with this cue, with a ledger kept.
fn bench(cue: &str, more: &str) -> Bench {
    let mut bench = Bench::new(&format!("{KEYS}[action.act]\nkind = \"button\"\ncue = \"{cue}\"\n{more}"));
    bench.seat.keep_ledger(64);
    bench
}

/// How an action's attempts ended and by how much they missed.
fn outcomes(seat: &Seat, action: &str) -> Vec<(String, Option<u64>)> {
    let linkage = seat.linkage();
    let own = seat.attempts().filter(|attempt| attempt.action(linkage) == Some(action));
    let told = |attempt: &tidy_lever::Attempt| {
        let by = attempt.missed_by().map(|by| by.as_micros() as u64);
        (attempt.outcome(linkage).unwrap().name().to_owned(), by)
    };
    own.map(told).collect()
}

fn keyed(bench: &mut Bench, presses: &[(u64, &str, bool)]) {
    let mut end = 0;
    for (at, key, down) in presses {
        bench.level(*at, &format!("keys:Key{key}"), f32::from(u8::from(*down)));
        end = end.max(*at);
    }
    bench.to(end + 5_000_000);
    bench.seat.close_ledger();
}

/// The first outcome, as a pull or a miss of this much.
fn first(bench: &Bench) -> (String, Option<u64>) {
    outcomes(&bench.seat, "act").into_iter().next().unwrap()
}

#[test]
fn a_fact_that_opens_several_gates_tells_each_how_far_off_its_press_was() {
    let act = |name, key| format!("[action.{name}]\nkind = \"button\"\nkeys = \"{key}\"\nwhen = \"free\"\n");
    let mut bench = Bench::new(&format!("[facts]\nfree = false\n{}{}", act("one", "KeyJ"), act("other", "KeyK")));
    bench.seat.keep_ledger(64);
    bench.seat.tell_at(bench.find("free"), true, us(900_000)).unwrap();
    keyed(&mut bench, &[(1_000, "J", true), (400_000, "K", true)]);
    let by = |action| outcomes(&bench.seat, action)[0].1;
    assert_eq!((by("one"), by("other")), (Some(899_000), Some(500_000)));
}

#[test]
fn of_what_must_be_held_the_gate_is_asked_when_it_was_held_long_enough() {
    let body = "[facts]\ngrounded = true\n[action.act]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"hold 300ms\"\n";
    let told = |gate: &str| {
        let mut bench = Bench::new(&format!("{body}{gate}"));
        bench.seat.keep_ledger(16);
        bench.seat.tell_at(bench.find("grounded"), false, us(200_000)).unwrap();
        keyed(&mut bench, &[(100_000, "J", true), (900_000, "J", false)]);
        let linkage = bench.seat.linkage().clone();
        let attempt = *bench.seat.attempts().next().unwrap();
        assert_eq!(attempt.met(), Some(us(400_000)));
        (attempt.story(&linkage).unwrap(), attempt.fix(&linkage).unwrap())
    };
    // It was true at the press.
    let (story, fix) = told("when = \"grounded\"");
    assert_eq!(story, "blocked by `when`: it needs `grounded`");
    assert_eq!(fix, "press when `grounded` will be true 300 ms later");
    let (story, fix) = told("when = \"grounded within 90ms\"");
    assert_eq!(story, "blocked by `when`: `grounded` had ended 110 ms before the hold was complete");
    assert_eq!(fix, "press 110 ms earlier, or raise `within` of `grounded` by 110 ms");
}

#[test]
fn a_motion_that_lacks_a_step_is_told_beside_a_shorter_motion_of_another_stick() {
    let body = format!(
        "{KEYS}[action.look]\nkind = \"stick\"\npad = \"right-stick\"\n\
         [action.nod]\nkind = \"button\"\ncue = \"look rolls up, down then hop within 350ms\"\n\
         [action.act]\nkind = \"button\"\ncue = \"steer rolls down, left, down, right, up then toss within 350ms\"\n"
    );
    let mut bench = Bench::new(&body);
    bench.seat.keep_ledger(64);
    for (at, x, y) in [(1_000, 0.0, -1.0), (20_000, -1.0, 0.0), (40_000, 1.0, 0.0), (60_000, 0.0, 1.0)] {
        bench.pair(at, Control::LEFT_STICK, x, y);
    }
    bench.pair(82_000, Control::RIGHT_STICK, 0.0, 1.0).pair(84_000, Control::RIGHT_STICK, 0.0, -1.0);
    keyed(&mut bench, &[(90_000, "K", true), (150_000, "J", true)]);
    assert_eq!(outcomes(&bench.seat, "act"), [("skipped".to_owned(), None)]);
    assert_eq!(outcomes(&bench.seat, "nod"), [("pulled".to_owned(), None)]);
}

#[test]
fn a_motion_that_ran_out_is_told_at_the_end_though_the_stick_never_moved_again() {
    for (press, outcome) in [(45_000, ("too soon".to_owned(), Some(15_000))), (900_000, ("ran out".to_owned(), None))] {
        let mut bench = bench("steer rolls down, down-right, right then toss within 350ms", "early = \"0ms\"\n");
        for (at, x, y) in [(1_000, 0.0, -1.0), (20_000, 0.7, -0.7), (60_000, 1.0, 0.0), (120_000, 0.0, 0.0)] {
            bench.pair(at, Control::LEFT_STICK, x, y);
        }
        if press < 500_000 {
            keyed(&mut bench, &[(press, "J", true)]);
        } else {
            keyed(&mut bench, &[]);
        }
        assert_eq!(outcomes(&bench.seat, "act"), [outcome]);
        // It is told once, however often the record is closed.
        bench.seat.close_ledger();
        assert_eq!(outcomes(&bench.seat, "act").len(), 1);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    #[test]
    fn a_hold_a_tap_and_a_charge_miss_by_what_the_hand_was_off(held in 1u64..600_000) {
        let script = [(1_000, "J", true), (1_000 + held, "J", false)];
        let mut hold = bench("toss hold 300ms", "");
        keyed(&mut hold, &script);
        let reached = held >= 300_000;
        let expected = if reached { ("pulled".to_owned(), None) } else { ("too soon".to_owned(), Some(300_000 - held)) };
        prop_assert_eq!(first(&hold), expected);
        let mut tap = bench("toss tap under 200ms", "");
        keyed(&mut tap, &script);
        let expected = if held < 200_000 { ("pulled".to_owned(), None) } else { ("too long".to_owned(), Some(held - 200_000 + 1)) };
        prop_assert_eq!(first(&tap), expected);
        let mut charge = bench("toss charge 100ms to 1s", "");
        keyed(&mut charge, &script);
        let expected = if held >= 100_000 { ("pulled".to_owned(), None) } else { ("too soon".to_owned(), Some(100_000 - held)) };
        prop_assert_eq!(first(&charge), expected);
    }

    #[test]
    fn two_taps_a_chord_and_an_order_are_late_by_what_the_second_was_late(gap in 1u64..900_000) {
        let late = |window: u64| if gap <= window { ("pulled".to_owned(), None) } else { ("too late".to_owned(), Some(gap - window)) };
        let mut taps = bench("toss 2 taps 240ms apart", "");
        keyed(&mut taps, &[(1_000, "J", true), (1_001, "J", false), (1_000 + gap.max(2), "J", true)]);
        prop_assume!(gap > 1);
        prop_assert_eq!(first(&taps), late(240_000));
        let mut chord = bench("toss with hop within 40ms", "");
        keyed(&mut chord, &[(1_000, "J", true), (1_000 + gap, "K", true)]);
        prop_assert_eq!(first(&chord), late(40_000));
        let mut order = bench("order toss, hop within 500ms", "");
        keyed(&mut order, &[(1_000, "J", true), (1_000 + gap, "K", true)]);
        prop_assert_eq!(first(&order), late(500_000));
    }

    #[test]
    fn a_motion_is_late_by_what_its_finish_was_late(rest in 0u64..2_000_000, across in 1u64..300_000, press in 1u64..400_000) {
        let mut motion = bench("steer rolls 236 then toss within 350ms", "");
        let pair = |bench: &mut Bench, at, x, y| {
            bench.pair(at, Control::LEFT_STICK, x, y);
        };
        pair(&mut motion, 1_000, 0.0, -1.0);
        let left = 2_000 + rest;
        pair(&mut motion, left, 0.7, -0.7);
        pair(&mut motion, left + across, 1.0, 0.0);
        keyed(&mut motion, &[(left + across + press, "J", true)]);
        let took = across + press;
        let expected = if took <= 350_000 { ("pulled".to_owned(), None) } else { ("too late".to_owned(), Some(took - 350_000)) };
        prop_assert_eq!(first(&motion), expected);
        let attempt = *motion.seat.attempts().find(|attempt| attempt.action(motion.seat.linkage()) == Some("act")).unwrap();
        let steps: Vec<u64> = attempt.steps(motion.seat.linkage()).map(|step| step.at.as_micros()).collect();
        prop_assert_eq!(steps, vec![1_000, left, left + across, left + took]);
        prop_assert_eq!(attempt.began(), us(left), "the window runs from leaving the first position");
    }

    #[test]
    fn a_refused_press_tells_how_far_off_its_gate_was(press in 1u64..600_000, lands in 1u64..900_000) {
        let body = "[facts]\ngrounded = true\n[action.act]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"grounded within 90ms\"\nkeep = \"120ms\"\n";
        let mut bench = Bench::new(body);
        bench.seat.keep_ledger(16);
        let grounded = bench.find("grounded");
        bench.seat.tell_at(grounded, false, us(1_000)).unwrap();
        bench.seat.tell_at(grounded, true, us(1_000 + lands)).unwrap();
        let at = 1_000 + press;
        bench.level(at, "keys:KeyJ", 1.0).to(5_000_000);
        bench.seat.close_ledger();
        let (landed, lapsed) = (1_000 + lands, 91_000);
        let pulls = at <= lapsed || at >= landed || landed - at <= 120_000;
        let (outcome, by) = first(&bench);
        prop_assert_eq!(outcome == "pulled", pulls, "{} {}", press, lands);
        if !pulls {
            // The nearer one of the two: sooner by this much it had lingered, kept longer by this much it had landed.
            prop_assert_eq!(by, Some((at - lapsed).min(landed - at - 120_000)));
        }
    }

    #[test]
    fn stories_are_the_same_at_any_tick_rate(
        steps in prop::collection::vec((1u64..120_000, 0usize..14), 1..80),
        ticks in 1_000u64..70_000,
    ) {
        let body = format!(
            "[facts]\nfree = true\n{KEYS}[action.skim]\nkind = \"button\"\ncue = \"steer rolls 236 then toss within 350ms\"\n\
             outranks = [\"toss\"]\nwhen = \"free\"\nkeep = \"80ms\"\n[action.dash]\nkind = \"button\"\ncue = \"steer twice within 240ms\"\n\
             [action.bow]\nkind = \"button\"\ncue = \"toss with hop within 40ms\"\n[action.bag]\nkind = \"button\"\ncue = \"hop hold 300ms\"\n\
             [action.knock]\nkind = \"button\"\ncue = \"order left, right, hop within 2s\"\n"
        );
        let linkage = linkage(&body);
        let told = |tick: Option<u64>| {
            let mut seat = linkage.seat(us(0));
            seat.keep_ledger(1 << 12);
            let mut at = 0;
            for (wait, what) in &steps {
                at += wait;
                strike(&mut seat, &linkage, at, *what);
            }
            let end = at + 3_000_000;
            let mut now = 0;
            while let Some(tick) = tick.filter(|_| now < end) {
                now += tick;
                seat.advance(us(now.min(end)));
            }
            seat.advance(us(end));
            seat.close_ledger();
            let mut all: Vec<String> = seat.attempts().map(|attempt| format!("{:?} {attempt:?}", attempt.began())).collect();
            // They end in the order of their telling; which of two that wait for their stories is told first does not matter.
            for line in &mut all {
                *line = line.replacen(&format!("number: {}", line.split("number: ").nth(1).unwrap().split(',').next().unwrap()), "number", 1);
            }
            all.sort();
            all
        };
        prop_assert_eq!(told(None), told(Some(ticks)));
    }
}

/// One of fourteen things that a thumb, a finger or the game may do.
fn strike(seat: &mut Seat, linkage: &Linkage, at: u64, what: usize) {
    let key = |name: &str| linkage.control(name).unwrap();
    let push = |x: f32, y: f32| Event::pair(us(at), device(1), Control::LEFT_STICK, x, y);
    let press = |name: &str, down: bool| Event::button(us(at), device(0), key(name), down);
    let event = match what {
        0 => push(0.0, -1.0),
        1 => push(0.7, -0.7),
        2 => push(1.0, 0.0),
        3 => push(0.0, 0.0),
        4 => push(-1.0, 0.0),
        5 => push(0.0, 1.0),
        6 | 7 => press("keys:KeyJ", true),
        8 => press("keys:KeyJ", false),
        9 | 10 => press("keys:KeyK", true),
        11 => press("keys:KeyK", false),
        _ => return seat.tell_at(linkage.find("free").unwrap(), what == 12, us(at)).unwrap(),
    };
    seat.feed(event).unwrap();
}
