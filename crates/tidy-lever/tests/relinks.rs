//! Live tuning: a running seat goes over to a changed profile by names.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use common::{Bench, linkage, us};
use tidy_lever::{Button, Fact, Gauge, Mode, Stick};

const BODY: &str = r#"
[modes]
ashore = { on = true }
menu = { covers = "all" }
[facts]
grounded = true
state = ["idle", "walk"]
[action.hop]
kind = "button"
keys = ["Space", "KeyP"]
when = "grounded within 90ms"
keep = "200ms"
[action.lamp]
kind = "button"
keys = "KeyL"
cue = "toggle"
[action.bag]
kind = "button"
keys = "KeyE"
cue = "hold 300ms"
[action.paddle]
kind = "gauge"
keys = "KeyK"
gauge = { ceiling = 9, push = "+1" }
[action.steer]
kind = "stick"
pad = "left-stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
"#;

/// Relinks a bench to a changed body; what the relink left behind.
fn relink(bench: &mut Bench, body: &str) -> tidy_lever::seat::Relinked {
    bench.seat.relink(&linkage(body), &mut [&mut bench.bookmark])
}

#[test]
fn what_stands_carries_over_and_what_is_bound_no_longer_goes_up() {
    let mut bench = Bench::new(BODY);
    let (grounded, state, menu): (Fact, Fact, Mode) = (bench.find("grounded"), bench.find("state"), bench.find("menu"));
    for key in ["Space", "KeyL", "KeyK", "KeyD"] {
        bench.level(1_000, &format!("keys:{key}"), 1.0);
    }
    bench.seat.tell(state, "walk").unwrap();
    bench.to(10_000);
    bench.heard();
    // Another key for the hop, other numbers elsewhere: the hop goes up, everything else goes on.
    let relinked = relink(
        &mut bench,
        &BODY.replace("\"Space\", \"KeyP\"", "\"KeyP\"").replace("90ms", "150ms").replace("ceiling = 9", "ceiling = 5"),
    );
    assert_eq!(relinked, tidy_lever::seat::Relinked::default());
    assert_eq!(bench.heard(), ["10000 hop released (relinked)", "10000 hop ended (relinked)"]);
    let (lamp, paddle, steer): (Button, Gauge, Stick) = (bench.find("lamp"), bench.find("paddle"), bench.find("steer"));
    assert!(bench.seat.button(lamp).is_on());
    assert_eq!(bench.seat.gauge(paddle).value(), 1.0);
    assert_eq!(bench.seat.stick(steer).xy(), (1.0, 0.0));
    assert!(bench.seat.is(grounded) && bench.seat.fact(state) == "walk" && !bench.seat.is_mode_on(menu));
    // Letting go of the old key does nothing; held keys are let go as ever.
    bench.level(20_000, "keys:KeyD", 0.0).to(30_000);
    assert_eq!(bench.heard(), ["20000 steer.right released (let go)", "20000 steer released (let go)"]);
}

#[test]
fn a_control_that_is_newly_bound_and_held_already_is_stale() {
    let mut bench = Bench::new(BODY);
    bench.level(1_000, "keys:KeyE", 1.0).to(10_000);
    relink(&mut bench, &BODY.replace("\"KeyP\"]", "\"KeyE\"]"));
    bench.level(20_000, "keys:KeyE", 0.0).level(30_000, "keys:KeyE", 1.0).to(40_000);
    assert_eq!(bench.heard_of("hop"), ["30000 hop pressed", "30000 hop pulled"]);
}

#[test]
fn attempts_and_keeps_go_on_where_the_rule_is_the_same() {
    let start = || {
        let mut bench = Bench::new(BODY);
        let grounded: Fact = bench.find("grounded");
        bench.seat.tell_at(grounded, false, us(1)).unwrap();
        bench.level(150_000, "keys:KeyE", 1.0).level(150_000, "keys:Space", 1.0).to(160_000);
        (bench, grounded)
    };
    // Nothing of these rules changed: the hold is reached, the kept hop comes out.
    let (mut bench, grounded) = start();
    assert_eq!(relink(&mut bench, &BODY.replace("ceiling = 9", "ceiling = 7")).begun_anew, Vec::<String>::new());
    bench.seat.tell_at(grounded, true, us(300_000)).unwrap();
    bench.to(1_000_000);
    let heard = bench.heard();
    assert!(heard.contains(&"450000 bag pulled".into()) && heard.contains(&"300000 hop pulled".into()), "{heard:?}");
    // The hold's span changed: its attempt begins anew with the next press.
    let (mut bench, _) = start();
    assert_eq!(relink(&mut bench, &BODY.replace("hold 300ms", "hold 200ms")).begun_anew, ["bag"]);
    bench.to(1_000_000);
    assert!(!bench.heard().iter().any(|line| line.contains("bag pulled")));
    bench.level(1_100_000, "keys:KeyE", 0.0).level(1_200_000, "keys:KeyE", 1.0).to(2_000_000);
    assert!(bench.heard().contains(&"1400000 bag pulled".into()));
}

#[test]
fn actions_and_facts_that_come_go_or_move_are_found_by_name() {
    let mut bench = Bench::new(BODY);
    bench.level(1_000, "keys:KeyL", 1.0).level(2_000, "keys:KeyK", 1.0).to(10_000);
    let old: Button = bench.find("lamp");
    let mut reader = bench.seat.bookmark();
    // The hop is gone, a whistle stands first, the facts have another order.
    let body = BODY.replace("[action.hop]", "[action.whistle]").replace(
        "grounded = true\nstate = [\"idle\", \"walk\"]",
        "state = [\"idle\", \"walk\", \"dash\"]\nbusy = false\ngrounded = true",
    );
    let changed = linkage(&body);
    let relinked = bench.seat.relink(&changed, &mut [&mut bench.bookmark, &mut reader]);
    assert_eq!(relinked.lost, ["hop"]);
    // Old handles know that they are another profile's; new ones find the same lamp.
    assert!(!bench.seat.knows(old) && !bench.seat.button(old).is_on());
    let lamp: Button = changed.find("lamp").unwrap();
    assert!(bench.seat.button(lamp).is_on());
    assert_eq!(bench.seat.gauge(changed.find("paddle").unwrap()).value(), 1.0);
    assert_eq!(bench.seat.fact(changed.find("state").unwrap()), "idle");
    // Readers get no edge twice, and none of what is to come is lost.
    assert_eq!(bench.seat.read(&mut reader).button(lamp).presses(), 0);
    bench.level(20_000, "keys:KeyL", 0.0).level(30_000, "keys:KeyL", 1.0).to(40_000);
    let read = bench.seat.read(&mut reader).button(lamp);
    assert_eq!((read.presses(), read.releases(), read.is_on()), (1, 1, false));
    assert!(bench.heard().iter().all(|line| line.contains("lamp") || line.contains("paddle")));
}

#[test]
fn what_waits_in_the_queue_and_a_ledger_survive() {
    let mut bench = Bench::new(BODY);
    bench.seat.keep_ledger(8);
    let grounded: Fact = bench.find("grounded");
    bench.level(50_000, "keys:KeyL", 1.0);
    bench.seat.tell_at(grounded, false, us(60_000)).unwrap();
    bench.to(10_000);
    relink(
        &mut bench,
        &BODY.replace("[facts]\n", "[facts]\nbusy = true\n").replace("\"KeyL\"", "[\"KeyO\", \"KeyL\"]"),
    );
    bench.to(100_000);
    assert_eq!(bench.heard_of("lamp"), ["50000 lamp pressed", "50000 lamp pulled"]);
    assert!(!bench.seat.is(bench.find("grounded")));
    assert_eq!(bench.seat.attempts().count(), 1, "told anew from the relink on");
}

#[test]
fn a_motion_goes_on_where_its_sticks_motions_are_the_same() {
    let body =
        format!("{BODY}[action.skim]\nkind = \"button\"\ncue = \"steer rolls down, right then lamp within 400ms\"\n");
    let play = |changed: &str| {
        let mut bench = Bench::new(&body);
        bench.level(1_000, "keys:KeyS", 1.0).level(50_000, "keys:KeyS", 0.0).to(60_000);
        let relinked = relink(&mut bench, changed);
        bench.level(70_000, "keys:KeyD", 1.0).level(90_000, "keys:KeyL", 1.0).to(100_000);
        (relinked.begun_anew, bench.heard_of("skim").len())
    };
    assert_eq!(play(&body.replace("ceiling = 9", "ceiling = 4")), (Vec::new(), 1));
    assert_eq!(play(&body.replace("400ms", "300ms")), (vec!["skim".to_owned()], 0));
}

#[test]
fn what_is_kept_goes_on_by_the_worlds_clock_which_stood_still_meanwhile() {
    // Kept at 120 ms, still from 130 to 190 ms: with a keep of 200 ms it ends at 380 ms; with one of 250 ms, at 430 ms.
    for (keep, lands, hops) in
        [("200ms", 380_000, true), ("200ms", 380_001, false), ("250ms", 430_000, true), ("250ms", 430_001, false)]
    {
        let mut bench = Bench::new(BODY);
        let (grounded, frozen): (Fact, Fact) = (bench.find("grounded"), bench.find("frozen"));
        bench.seat.tell_at(grounded, false, us(1_000)).unwrap();
        bench.level(120_000, "keys:Space", 1.0).level(130_000, "keys:Space", 0.0);
        bench.seat.tell_at(frozen, true, us(130_000)).unwrap();
        bench.seat.tell_at(frozen, false, us(190_000)).unwrap();
        bench.to(200_000);
        bench.heard();
        relink(&mut bench, &BODY.replace("keep = \"200ms\"", &format!("keep = \"{keep}\"")));
        bench.seat.tell_at(grounded, true, us(lands)).unwrap();
        bench.to(900_000);
        assert_eq!(bench.heard().iter().any(|line| line.contains("hop pulled")), hops, "{keep} {lands}");
    }
}
