//! Promise: what runs out is told by the world's clock: keeps, lingering truths and cooldowns.

use crate::common::{Bench, linkage};
use tidy_lever::seat::Runs;
use tidy_lever::table::{Fed, Table};
use tidy_lever::{Button, Control, Device, Event, Fact, Moment};

const BODY: &str = r#"
[facts]
grounded = true
state = ["idle", "walk"]
[action.hop]
kind = "button"
keys = "Space"
when = "grounded within 90ms"
keep = "120ms"
[action.wave]
kind = "button"
keys = "KeyV"
when = "state is idle within 40ms"
[action.toss]
kind = "button"
keys = "KeyJ"
cooldown = "300ms"
"#;

/// What runs out now, a line each: `hop kept 70/120 ms`.
fn told(bench: &Bench) -> Vec<String> {
    let line = |span: tidy_lever::seat::Countdown<'_>| {
        let word = span.word.map_or(String::new(), |word| format!(" is {word}"));
        let what = match span.runs {
            Runs::Kept => "kept",
            Runs::Lingers => "lingers",
            Runs::Cools => "cools",
            other => panic!("{other:?}"),
        };
        format!("{}{word} {what} {}/{} ms", span.name, span.left.as_millis(), span.of.as_millis())
    };
    bench.seat.countdowns().map(line).collect()
}

#[test]
fn each_span_runs_out_as_the_rules_have_it() {
    let mut bench = Bench::new(BODY);
    let (grounded, state): (Fact, Fact) = (bench.find("grounded"), bench.find("state"));
    bench.to(10_000);
    assert_eq!(told(&bench), [""; 0], "nothing at first");
    bench.seat.tell_at(grounded, false, Moment::from_millis(20)).unwrap();
    bench.seat.tell_at(state, "walk", Moment::from_millis(30)).unwrap();
    bench.to(50_000);
    assert_eq!(told(&bench), ["grounded lingers 60/90 ms", "state is idle lingers 20/40 ms"]);
    // The hop spends what lingers; a second one is kept.
    bench.level(60_000, "keys:Space", 1.0).level(70_000, "keys:Space", 0.0);
    bench.level(80_000, "keys:Space", 1.0).level(85_000, "keys:KeyJ", 1.0).to(100_000);
    assert_eq!(told(&bench), ["hop kept 100/120 ms", "toss cools 285/300 ms"]);
    bench.to(200_001);
    assert_eq!(told(&bench), ["toss cools 184/300 ms"]);
    bench.to(385_000);
    assert_eq!(told(&bench), [""; 0], "all is over");
}

#[test]
fn while_the_world_stands_still_nothing_runs_out() {
    let mut bench = Bench::new(BODY);
    let (grounded, frozen): (Fact, Fact) = (bench.find("grounded"), bench.find("frozen"));
    bench.seat.tell_at(grounded, false, Moment::from_millis(20)).unwrap();
    bench.level(10_000, "keys:KeyJ", 1.0);
    bench.seat.tell_at(frozen, true, Moment::from_millis(40)).unwrap();
    let still = ["grounded lingers 70/90 ms", "toss cools 270/300 ms"];
    for at in [40_000, 90_000, 900_000] {
        bench.to(at);
        assert_eq!(told(&bench), still, "at {at}");
    }
    // Told for a moment already played, so it counts a microsecond later.
    bench.seat.tell_at(frozen, false, Moment::from_millis(900)).unwrap();
    bench.to(950_001);
    assert_eq!(told(&bench), ["grounded lingers 20/90 ms", "toss cools 220/300 ms"]);
}

#[test]
fn what_devices_hold_is_told_and_who_joins_plays_on_the_newest_linkage() {
    let body = "[action.hop]\nkind = \"button\"\npad = [\"south\", \"start\"]\n[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n";
    let mut bench = Bench::new(body);
    bench.pair(1_000, Control::LEFT_STICK, 0.25, -0.5).level(2_000, "pad:south", 1.0).to(2_000);
    let mut held: Vec<(String, f32, f32)> =
        bench.seat.standing().map(|now| (now.control.to_string(), now.x, now.y)).collect();
    held.sort_by(|one, other| one.0.cmp(&other.0));
    assert_eq!(held, [("pad:left-stick".to_owned(), 0.25, -0.5), ("pad:south".to_owned(), 1.0, 0.0)]);
    let (before, tuned) = (linkage(body), linkage(&body.replace("\"south\"", "\"west\"")));
    let mut table = Table::new(&before, 2).join_by(Control::PAD_START);
    let press = |number, control| Event::button(Moment::from_millis(5), Device::new(number).unwrap(), control, true);
    assert_eq!(table.feed(press(1, Control::PAD_START)).unwrap(), Fed::Joined(1));
    table.set_linkage(&tuned);
    assert_eq!(table.feed(press(2, Control::PAD_START)).unwrap(), Fed::Joined(2));
    for number in [1, 2] {
        table.feed(press(number, Control::PAD_WEST)).unwrap();
    }
    table.advance(Moment::from_millis(16));
    let presses = |number: usize, linkage: &tidy_lever::Linkage| {
        let hop: Button = linkage.find("hop").unwrap();
        table.seat(number).unwrap().button(hop).presses()
    };
    assert_eq!((presses(1, &before), presses(2, &tuned)), (0, 1));
}
