//! Promise: levels become signals, and signals pulls, the same for buttons, crosses, sticks, axes, modes, focus and cables.

use std::time::Duration;

use crate::common::Bench;
use tidy_lever::{Axis, Button, Control, Direction, Stick};

const CROSS: &str =
    "keys = { up = [\"KeyW\", \"ArrowUp\"], left = \"KeyA\", down = \"KeyS\", right = [\"KeyD\", \"ArrowRight\"] }";

fn stick(more: &str) -> Bench {
    Bench::new(&format!("[action.steer]\nkind = \"stick\"\n{CROSS}\npad = [\"left-stick\", \"dpad\"]\n{more}\n"))
}

/// Presses and releases keys one millisecond apart (`+D`, `-D`), and reads the stick after each.
fn walk(bench: &mut Bench, steps: &str) -> Vec<(f32, f32)> {
    let start = bench.seat.played().as_micros();
    let step = |(n, step): (usize, &str)| {
        let at = start + 1_000 * (n as u64 + 1);
        let (sign, key) = step.split_at(1);
        let name = if key.len() == 1 { format!("keys:Key{key}") } else { format!("keys:{key}") };
        bench.level(at, &name, if sign == "+" { 1.0 } else { 0.0 }).to(at);
        bench.xy("steer")
    };
    steps.split(' ').enumerate().map(step).collect()
}

#[test]
fn opposite_keys_in_the_three_ways() {
    const L: (f32, f32) = (-1.0, 0.0);
    const R: (f32, f32) = (1.0, 0.0);
    const N: (f32, f32) = (0.0, 0.0);
    let cases = [
        ("newest", "+A +D -D -A", [L, R, L, N]),
        ("newest", "+A +D -A -D", [L, R, R, N]),
        ("oldest", "+A +D -D -A", [L, L, L, N]),
        ("oldest", "+A +D -A -D", [L, L, R, N]),
        ("cancel", "+A +D -D -A", [L, N, L, N]),
        // Any key of a leg will do: the newest press is the arrow's, and the letter is still held when it goes up.
        ("newest", "+D +A +ArrowRight -ArrowRight", [R, L, R, L]),
    ];
    for (how, steps, expected) in cases {
        let mut bench = stick(&format!("opposed = \"{how}\""));
        assert_eq!(walk(&mut bench, steps), expected, "{how}: {steps}");
    }
}

#[test]
fn a_diagonal_is_no_longer_than_a_straight_and_letting_go_of_one_leaves_the_other() {
    let mut bench = stick("");
    let read = walk(&mut bench, "+D +W -D -W");
    let (x, y) = read[1];
    assert!(x == y && x * x + y * y <= 1.0 && x * x + y * y > 0.999_99, "{x}, {y}");
    assert_eq!((read[0], read[2], read[3]), ((1.0, 0.0), (0.0, 1.0), (0.0, 0.0)));
}

#[test]
fn of_two_devices_the_larger_wins_and_of_near_equals_the_later() {
    let mut bench = stick("");
    bench.level(1_000, "keys:KeyD", 1.0).pair(2_000, Control::LEFT_STICK, 0.0, 0.5).to(2_000);
    assert_eq!(bench.xy("steer"), (1.0, 0.0), "half a push loses to a key");
    bench.pair(3_000, Control::LEFT_STICK, 0.0, 0.91).to(3_000);
    assert_eq!(bench.xy("steer"), (0.0, 0.91), "nearly as large, and it left neutral last");
    bench.pair(4_000, Control::LEFT_STICK, 0.0, 0.0).to(4_000);
    assert_eq!(bench.xy("steer"), (1.0, 0.0), "the key is still held");
    bench.pair(5_000, Control::DPAD, -1.0, 1.0).to(5_000);
    let (x, y) = bench.xy("steer");
    assert!(x * x + y * y <= 1.0 && x < -0.7 && y > 0.7, "a pad's diagonal is cut to length: {x}, {y}");
}

#[test]
fn each_control_going_down_is_a_press_and_the_last_up_lets_go() {
    let mut bench = Bench::new("[action.toss]\nkind = \"button\"\nkeys = [\"KeyJ\", \"KeyK\"]\npad = \"west\"\n");
    bench.level(10, "keys:KeyJ", 1.0).level(20, "keys:KeyK", 1.0).level_on(30, 1, "pad:west", 1.0);
    bench.level_on(35, 2, "keys:KeyJ", 1.0).level(40, "keys:KeyJ", 0.0).level_on(50, 1, "pad:west", 0.0).to(60);
    let toss: Button = bench.find("toss");
    let reading = bench.seat.button(toss);
    assert_eq!((reading.presses(), reading.releases(), reading.pulls()), (4, 0, 4));
    assert!(reading.is_down() && reading.is_on());
    assert_eq!(reading.held_for(), Duration::from_micros(50), "from the first control");
    bench.level(70, "keys:KeyK", 0.0).level_on(80, 2, "keys:KeyJ", 0.0).to(90);
    let reading = bench.seat.button(toss);
    assert_eq!((reading.releases(), reading.is_down(), reading.is_on()), (1, false, false));
    assert_eq!(reading.last_held_for(), Duration::from_micros(70));
    // A repeat by the system, and a going up that had no going down, are nothing.
    bench.heard();
    bench.level(100, "keys:KeyJ", 0.0).level(110, "keys:KeyK", 1.0).level(120, "keys:KeyK", 1.0).to(200);
    assert_eq!(bench.heard(), ["110 toss pressed", "110 toss pulled"]);
}

#[test]
fn an_analogue_control_is_a_button_with_hysteresis() {
    let mut bench = Bench::new(
        "[action.burst]\nkind = \"button\"\npad = [\"right-trigger\", \"left-stick.up\"]\n\
         [action.soft]\nkind = \"button\"\npad = \"right-trigger\"\ndown_at = 0.2\nup_at = 0.1\n",
    );
    for (n, level) in [0.54, 0.55, 0.46, 0.5, 0.45, 0.1].into_iter().enumerate() {
        bench.level(10 * (n as u64 + 1), "pad:right-trigger", level);
    }
    bench.to(100);
    let heard = bench.heard();
    let of = |action: &str| -> Vec<&str> {
        heard
            .iter()
            .filter(|l| l.contains(action) && (l.contains("pressed") || l.contains("released")))
            .map(String::as_str)
            .collect()
    };
    assert_eq!(of("burst"), ["20 burst pressed", "50 burst released (let go)"]);
    assert_eq!(of("soft"), ["10 soft pressed", "60 soft released (let go)"]);
    bench.pair(200, Control::LEFT_STICK, 0.9, 0.3).pair(210, Control::LEFT_STICK, 0.1, 0.7).to(300);
    assert_eq!(bench.heard(), ["210 burst pressed", "210 burst pulled"]);
}

#[test]
fn axes_take_keys_triggers_and_halves_and_analogue_opposites_subtract() {
    let mut bench = Bench::new(
        "[action.dive]\nkind = \"axis\"\nkeys = { minus = \"KeyC\", plus = \"KeyX\" }\n\
         pad = { minus = \"left-trigger\", plus = \"right-trigger\" }\n\
         [action.tilt]\nkind = \"axis\"\npad = \"left-stick.y\"\nrange = { low = 4, rest = 15, high = 28 }\n",
    );
    let (dive, tilt): (Axis, Axis) = (bench.find("dive"), bench.find("tilt"));
    let mut at = 0;
    let mut read = |bench: &mut Bench, control: &str, level: f32| {
        at += 1_000;
        bench.level(at, control, level).to(at);
        bench.seat.axis(dive).value()
    };
    assert_eq!(read(&mut bench, "pad:right-trigger", 0.8), 0.8);
    assert_eq!(read(&mut bench, "pad:left-trigger", 0.5), 0.3);
    assert_eq!(read(&mut bench, "pad:right-trigger", 0.0), -0.5);
    assert_eq!(read(&mut bench, "keys:KeyX", 1.0), 1.0);
    assert_eq!(read(&mut bench, "keys:KeyC", 1.0), -1.0);
    for (y, expected) in [(0.0, 15.0), (1.0, 28.0), (-1.0, 4.0), (0.5, 21.5), (-0.5, 9.5)] {
        at += 1_000;
        bench.pair(at, Control::LEFT_STICK, 0.3, y).to(at);
        assert_eq!(bench.seat.axis(tilt).value(), expected);
    }
}

#[test]
fn a_stick_that_rests_at_its_last_keeps_the_diagonal_that_flashed_by() {
    // (gap between the fingers in µs, what stays)
    for (gap, stays) in [(79_999, Direction::UpRight), (80_000, Direction::Up)] {
        let mut bench = stick("rest = \"last\"");
        let steer: Stick = bench.find("steer");
        bench.level(1_000, "keys:KeyD", 1.0).level(3_000, "keys:KeyW", 1.0);
        bench.level(500_000, "keys:KeyD", 0.0).level(500_000 + gap, "keys:KeyW", 0.0).to(600_000);
        let read = bench.seat.stick(steer);
        assert_eq!(read.direction(), None);
        let (last, age) = read.last_direction().unwrap();
        assert_eq!((last, age), (stays, Duration::from_micros(100_000 - gap)));
        let signs = (read.xy().0 > 0.5, read.xy().1 > 0.5);
        assert_eq!(signs, (stays == Direction::UpRight, true));
    }
}

#[test]
fn no_direction_is_none_and_no_event_has_no_last_direction() {
    let bench = stick("");
    let read = bench.seat.stick(bench.find("steer"));
    assert_eq!((read.direction(), read.degrees(), read.last_direction()), (None, None, None));
}

#[test]
fn each_direction_of_a_stick_is_a_button() {
    let mut bench = stick("");
    walk(&mut bench, "+D +W -D -W");
    let edges: Vec<String> = bench.heard().into_iter().filter(|line| line.contains("steer.")).collect();
    let expected = [
        "1000 steer.right pressed",
        "2000 steer.right released (let go)",
        "2000 steer.up-right pressed",
        "3000 steer.up-right released (let go)",
        "3000 steer.up pressed",
        "4000 steer.up released (let go)",
    ];
    assert_eq!(edges, expected);
    let up: Button = bench.find("steer.up");
    assert_eq!(bench.seat.button(up).last_held_for(), Duration::from_millis(1));
}

#[test]
fn of_two_keys_read_in_four_directions_the_newer_counts() {
    let mut bench = stick("directions = 4");
    let steer: Stick = bench.find("steer");
    let mut seen = Vec::new();
    for (n, (key, level)) in
        [("KeyD", 1.0), ("KeyS", 1.0), ("KeyS", 0.0), ("KeyW", 1.0), ("KeyD", 0.0)].into_iter().enumerate()
    {
        let at = 1_000 * (n as u64 + 1);
        bench.level(at, &format!("keys:{key}"), level).to(at);
        seen.push(bench.seat.stick(steer).direction().unwrap().name());
    }
    assert_eq!(seen, ["right", "down", "right", "up", "up"]);
}

const MENU: &str = "[modes]\nashore = { on = true }\nmenu = { covers = \"all\" }\n\
    [action.steer]\nkind = \"stick\"\nmodes = [\"ashore\"]\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
    [action.hop]\nkind = \"button\"\nmodes = [\"ashore\"]\nkeys = \"Space\"\n\
    [action.pick]\nkind = \"button\"\nmodes = [\"menu\"]\nkeys = \"Space\"\n\
    [action.photo]\nkind = \"button\"\nkeys = \"KeyP\"\n\
    [action.quit]\nkind = \"button\"\nmodes = \"always\"\nkeys = \"KeyP\"\n";

#[test]
fn covering_ends_what_is_on_and_a_new_listener_needs_a_fresh_press() {
    let mut bench = Bench::new(MENU);
    let menu = |at: u64, on: bool| format!("{{\"at\":{at},\"mode\":\"menu\",\"on\":{on}}}");
    bench.level(100, "keys:Space", 1.0).level(110, "keys:KeyD", 1.0).tape(&menu(200, true)).to(250);
    let heard: Vec<String> = bench.heard().into_iter().filter(|line| line.starts_with("200 ")).collect();
    let expected = [
        "200 steer.right released (covered)",
        "200 steer released (covered)",
        "200 hop released (covered)",
        "200 hop ended (covered)",
    ];
    assert_eq!(heard, expected);
    assert_eq!(bench.xy("steer"), (0.0, 0.0));
    // Space is held on: `pick` hears it only after it went up once. The held direction walks on at once, without an edge.
    bench.level(300, "keys:Space", 0.0).level(310, "keys:Space", 1.0).tape(&menu(400, false)).to(450);
    assert_eq!(
        bench.heard_of("pick"),
        ["310 pick pressed", "310 pick pulled", "400 pick released (covered)", "400 pick ended (covered)"]
    );
    assert_eq!(bench.xy("steer"), (1.0, 0.0));
    assert!(!bench.seat.button(bench.find("hop")).is_down());
    bench.level(500, "keys:KeyD", 0.0).level(510, "keys:Space", 0.0).to(600);
    assert_eq!(bench.heard(), [""; 0], "stale until pressed again: letting go is not an edge");
    bench.level(700, "keys:Space", 1.0).to(800);
    assert_eq!(bench.heard(), ["700 hop pressed", "700 hop pulled"]);
}

#[test]
fn what_is_heard_in_every_mode_is_covered_like_any_and_always_is_never() {
    let mut bench = Bench::new(MENU);
    bench.tape(r#"{"at":100,"mode":"menu","on":true}"#).level(200, "keys:KeyP", 1.0).to(300);
    assert_eq!(bench.heard(), ["200 quit pressed", "200 quit pulled"]);
}

#[test]
fn of_modes_that_cover_each_other_the_last_turned_on_rules() {
    let mut bench = Bench::new(
        "[modes]\na = { covers = [\"b\"] }\nb = { covers = [\"a\"] }\n\
         [action.one]\nkind = \"button\"\nmodes = [\"a\"]\nkeys = \"KeyX\"\n\
         [action.two]\nkind = \"button\"\nmodes = [\"b\"]\nkeys = \"KeyX\"\n",
    );
    bench.tape("{\"at\":10,\"mode\":\"a\",\"on\":true}\n{\"at\":20,\"mode\":\"b\",\"on\":true}").level(
        30,
        "keys:KeyX",
        1.0,
    );
    bench
        .level(40, "keys:KeyX", 0.0)
        .tape("{\"at\":50,\"mode\":\"b\",\"on\":false}")
        .level(60, "keys:KeyX", 1.0)
        .to(100);
    let pulled: Vec<String> = bench.heard().into_iter().filter(|line| line.contains("pulled")).collect();
    assert_eq!(pulled, ["30 two pulled", "60 one pulled"]);
}

const AWAY: &str = "[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\npad = \"left-stick\"\n\
    [action.throw]\nkind = \"button\"\nkeys = \"KeyT\"\npad = \"west\"\ncue = \"release\"\n";

#[test]
fn losing_the_focus_lifts_everything_and_pulls_nothing() {
    let mut bench = Bench::new(AWAY);
    bench.level(100, "keys:KeyT", 1.0).level(110, "keys:KeyD", 1.0);
    bench.tape(r#"{"at":200,"focus":false}"#).to(250);
    let heard: Vec<String> = bench.heard().into_iter().filter(|line| line.starts_with("200")).collect();
    let expected =
        ["200 steer released (focus lost)", "200 steer.right released (focus lost)", "200 throw released (focus lost)"];
    let mut sorted = heard.clone();
    sorted.sort();
    assert_eq!(sorted, expected);
    assert_eq!(bench.xy("steer"), (0.0, 0.0));
    // The going up that comes after the return had its going down taken away: it is nothing.
    bench.tape(r#"{"at":300,"focus":true}"#).level(310, "keys:KeyT", 0.0).to(400);
    assert_eq!(bench.heard(), [""; 0]);
}

#[test]
fn pads_are_followed_unseen_sticks_count_on_return_and_buttons_are_stale() {
    let mut bench = Bench::new(AWAY);
    bench
        .level_on(100, 1, "pad:west", 1.0)
        .tape(r#"{"at":200,"focus":false}"#)
        .pair(250, Control::LEFT_STICK, 0.0, 1.0)
        .to(280);
    assert_eq!(bench.xy("steer"), (0.0, 0.0));
    bench.tape(r#"{"at":300,"focus":true}"#).to(350);
    assert_eq!(bench.xy("steer"), (0.0, 1.0));
    bench.heard();
    bench.level_on(400, 1, "pad:west", 0.0).to(450);
    assert_eq!(bench.heard(), [""; 0], "held since before: letting go pulls nothing");
    bench.level_on(500, 1, "pad:west", 1.0).level_on(600, 1, "pad:west", 0.0).to(700);
    assert_eq!(bench.heard_of("throw"), ["500 throw pressed", "600 throw released (let go)", "600 throw pulled"]);
}

#[test]
fn a_pulled_cable_lifts_what_its_device_held_and_nothing_else() {
    let mut bench = Bench::new(AWAY);
    bench.level(50, "keys:KeyT", 1.0).level_on(100, 1, "pad:west", 1.0).pair(110, Control::LEFT_STICK, 1.0, 0.0);
    bench.tape("{\"at\":1,\"dev\":\"kb\",\"plugged\":true}\n{\"at\":200,\"dev\":\"p1\",\"plugged\":false}").to(250);
    assert_eq!(bench.xy("steer"), (0.0, 0.0));
    let throw: Button = bench.find("throw");
    assert!(bench.seat.button(throw).is_down(), "the keyboard still holds it");
    // Plugged in again, the same device's press is a press.
    bench.tape(r#"{"at":300,"dev":"p1","plugged":true}"#).level_on(310, 1, "pad:west", 1.0).to(400);
    assert_eq!(bench.seat.button(throw).presses(), 1);
}

#[test]
fn a_wheels_notches_are_a_press_and_a_release_each() {
    let mut bench = Bench::new("[action.next]\nkind = \"button\"\nmouse = \"wheel-down\"\n");
    bench.level(100, "mouse:wheel-down", 2.0).level(100, "mouse:wheel-down", 1.0).to(1_000);
    let presses: Vec<String> =
        bench.heard().into_iter().filter(|line| !line.contains("pulled") && !line.contains("ended")).collect();
    let expected = [
        "100 next pressed",
        "101 next released (let go)",
        "102 next pressed",
        "103 next released (let go)",
        "104 next pressed",
        "105 next released (let go)",
    ];
    assert_eq!(presses, expected);
}
