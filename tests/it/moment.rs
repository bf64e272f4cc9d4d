//! Promise: within a moment everything plays in one order, which cases pin: what a covering does, what is kept first, when a gate is
//! asked again, and that a moment settles once, however much is met in it.

use crate::common::{Bench, linkage, us};
use tidy_lever::seat::Capacity;
use tidy_lever::{Control, Device, Event, Moment};

fn heard(body: &str, hands: impl Fn(&mut Bench)) -> Vec<String> {
    let mut bench = Bench::new(body);
    hands(&mut bench);
    bench.to(3_000_000);
    bench.heard()
}

const MENU: &str = "[modes]\nmenu = { covers = \"all\" }\n\
    [action.pause]\nkind = \"button\"\nkeys = \"Escape\"\nturns_on = [\"menu\"]\nmodes = \"always\"\n";

#[test]
fn a_covering_lifts_what_is_held_then_ends_what_is_on_action_by_action() {
    let body = format!(
        "{MENU}[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n[action.crouch]\nkind = \"button\"\nkeys = \"KeyC\"\ncue = \"toggle\"\n\
         [action.steer]\nkind = \"stick\"\nkeys = {{ up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }}\n"
    );
    let heard = heard(&body, |bench| {
        bench.level(1_000, "keys:Space", 1.0).level(2_000, "keys:KeyC", 1.0).level(3_000, "keys:KeyD", 1.0);
        bench.level(9_000, "keys:Escape", 1.0).level(12_000, "keys:Space", 0.0).level(12_000, "keys:KeyD", 0.0);
    });
    // A toggle stays on beneath what covers it.
    assert_eq!(
        heard[heard.iter().position(|line| line.starts_with("9000")).unwrap()..],
        [
            "9000 pause pressed",
            "9000 pause pulled",
            "9000 hop released (covered)",
            "9000 hop ended (covered)",
            "9000 crouch released (covered)",
            "9000 steer.right released (covered)",
            "9000 steer released (covered)"
        ]
    );
}

#[test]
fn a_covering_drops_attempts_and_its_releases_pull_nothing() {
    let body = format!(
        "{MENU}[action.bag]\nkind = \"button\"\nkeys = \"KeyB\"\ncue = \"hold 30ms\"\n\
         [action.leave]\nkind = \"button\"\nkeys = \"KeyL\"\ncue = \"release\"\n\
         [action.hop]\nkind = \"button\"\nkeys = \"Space\"\ncue = \"2 taps 200ms apart\"\n"
    );
    let heard = heard(&body, |bench| {
        bench.level(1_000, "keys:Space", 1.0).level(5_000, "keys:Space", 0.0);
        bench.level(9_000, "keys:KeyB", 1.0).level(9_500, "keys:KeyL", 1.0);
        bench.level(10_000, "keys:Escape", 1.0);
        bench.level(20_000, "keys:KeyB", 0.0).level(20_000, "keys:KeyL", 0.0);
        bench.to(30_000);
        bench.seat.set_mode_at(bench.find("menu"), false, us(31_000)).unwrap();
        // Within its span, and yet the first of two.
        bench.level(40_000, "keys:Space", 1.0).level(45_000, "keys:Space", 0.0);
    });
    assert!(!heard.iter().any(|line| line.ends_with("pulled") && !line.contains("pause")), "{heard:?}");
    assert!(heard.contains(&"10000 leave released (covered)".into()), "{heard:?}");
}

#[test]
fn what_is_kept_first_goes_first() {
    let action = |name: &str, key: &str| {
        format!("[action.{name}]\nkind = \"button\"\nkeys = \"{key}\"\nwhen = \"grounded\"\nkeep = \"200ms\"\n")
    };
    let body = format!(
        "[facts]\ngrounded = false\n{}{}{}",
        action("dive", "KeyD"),
        action("hop", "Space"),
        action("slip", "KeyS")
    );
    let heard = heard(&body, |bench| {
        for (at, key) in [(1_000, "Space"), (2_000, "KeyS"), (3_000, "KeyD"), (4_000, "KeyS")] {
            bench.level(at, &format!("keys:{key}"), 1.0).level(at + 500, &format!("keys:{key}"), 0.0);
        }
        bench.seat.tell_at(bench.find("grounded"), true, us(9_000)).unwrap();
    });
    let pulled: Vec<&String> = heard.iter().filter(|line| line.ends_with("pulled")).collect();
    // A newer one takes the place of what its action kept, and stands behind the others.
    assert_eq!(pulled, ["9000 hop pulled", "9000 dive pulled", "9000 slip pulled"]);
}

#[test]
fn a_gate_is_asked_again_in_the_moment_of_an_event_that_opens_it_and_1_us_after_a_pull_that_does() {
    let body = "[action.bag]\nkind = \"button\"\nkeys = \"KeyB\"\n\
        [action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"not bag on\"\nkeep = \"200ms\"\n";
    let heard = heard(body, |bench| {
        bench.level(1_000, "keys:KeyB", 1.0).level(2_000, "keys:Space", 1.0).level(3_000, "keys:KeyB", 0.0);
    });
    assert_eq!(heard[3..], ["3000 bag released (let go)", "3000 bag ended (let go)", "3000 hop pulled"]);
    let heard = self::heard(&body.replace("KeyB\"\n", "KeyB\"\ncue = \"toggle\"\n"), |bench| {
        bench.level(1_000, "keys:KeyB", 1.0).level(1_500, "keys:KeyB", 0.0).level(2_000, "keys:Space", 1.0);
        bench.level(3_000, "keys:KeyB", 1.0);
    });
    assert_eq!(heard[4..], ["3000 bag pressed", "3000 bag pulled", "3000 bag ended (toggled)", "3001 hop pulled"]);
}

#[test]
fn what_a_pull_spends_counts_before_the_next_gate_is_asked_in_the_same_moment() {
    let body = "[facts]\ngrounded = true\n\
        [action.dive]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"grounded within 90ms\"\n\
        [action.hop]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"grounded within 90ms\"\n";
    let heard = heard(body, |bench| {
        bench.level(1_000, "keys:KeyJ", 1.0);
    });
    assert_eq!(heard, ["1000 dive pressed", "1000 hop pressed", "1000 dive pulled"]);
}

#[test]
fn a_timer_that_is_due_plays_before_a_press_of_its_moment() {
    let body = "[action.bag]\nkind = \"button\"\nkeys = \"KeyB\"\ncue = \"hold 30ms\"\ngroup = \"hands\"\n\
        [action.toss]\nkind = \"button\"\nkeys = \"KeyT\"\n\
        [action.lob]\nkind = \"button\"\ncue = \"bag with toss within 40ms\"\noutranks = [\"bag\", \"toss\"]\n";
    let press = |at: u64| {
        heard(body, |bench| {
            bench.level(1_000, "keys:KeyB", 1.0).level(at, "keys:KeyT", 1.0);
        })
    };
    // Met in one moment, they are settled together: the chord takes the press that the hold stands on.
    assert_eq!(press(31_000), ["1000 bag pressed", "31000 toss pressed", "31000 lob pulled"]);
    assert_eq!(
        press(31_001),
        [
            "1000 bag pressed",
            "31000 bag pulled",
            "31001 toss pressed",
            "31001 bag ended (outranked)",
            "31001 lob pulled"
        ]
    );
}
/// However much is met in a moment, it settles once: a chord takes its presses before they pull by themselves.
#[test]
fn thousands_of_matches_in_one_moment_settle_together() {
    let mut body: String = (0..40).map(|n| format!("[action.a{n}]\nkind = \"button\"\nkeys = \"KeyA\"\n")).collect();
    body += "[action.toss]\nkind = \"button\"\nkeys = \"KeyT\"\n[action.guard]\nkind = \"button\"\nkeys = \"KeyG\"\n\
             [action.slip]\nkind = \"button\"\ncue = \"toss with guard within 20ms\"\noutranks = [\"toss\", \"guard\"]\n";
    let linkage = linkage(&body);
    let mut seat = linkage.seat_with(Moment::ZERO, Capacity::default().devices(64).history(1 << 13)).unwrap();
    let mut bookmark = seat.bookmark();
    let mut press = |device: usize, key: &str| {
        let control: Control = format!("keys:{key}").parse().unwrap();
        seat.feed(Event::button(us(1_000), Device::new(device).unwrap(), control, true)).unwrap();
    };
    press(0, "KeyT");
    (0..64).for_each(|device| press(device, "KeyA"));
    press(0, "KeyG");
    seat.advance(us(2_000));
    let heard = crate::common::lines(&seat.read(&mut bookmark), &linkage);
    let pulls = |name: &str| heard.iter().filter(|line| **line == format!("1000 {name} pulled")).count();
    assert_eq!([pulls("slip"), pulls("toss"), pulls("guard")], [1, 0, 0]);
    assert_eq!((0..40).map(|n| pulls(&format!("a{n}"))).sum::<usize>(), 64 * 40);
}

#[test]
fn giving_back_a_direction_gives_back_nothing() {
    let body = "[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n";
    let heard = heard(body, |bench| {
        bench.level(1_000, "keys:KeyD", 1.0).to(2_000);
        let right: tidy_lever::Button = bench.find("steer.right");
        bench.seat.give_back(right).unwrap();
        bench.to(3_000);
        assert!(bench.seat.button(right).is_down() && !bench.seat.button(right).is_on());
    });
    assert_eq!(heard, ["1000 steer pressed", "1000 steer.right pressed"]);
}
