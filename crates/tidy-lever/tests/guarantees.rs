//! What people get wrong by hand and what can't go wrong here: a test for each row that is built, named after it.

mod common;

use common::{Bench, us};
use tidy_lever::{Button, Control, Stick};

const TOSS: &str = "[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n";
const STEER: &str = "[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\npad = [\"left-stick\", \"dpad\"]\n";

#[test]
fn a_level_read_where_an_edge_was_meant() {
    let mut bench = Bench::new(TOSS);
    let toss: Button = bench.find("toss");
    bench.level(1_000, "keys:KeyJ", 1.0);
    let mut pulls = 0;
    for tick in 1..=60 {
        bench.to(tick * 16_667);
        pulls += bench.seat.button(toss).pulls();
        assert!(bench.seat.button(toss).is_down());
    }
    assert_eq!(pulls, 1, "held for sixty ticks");
}

#[test]
fn asking_changes_the_answer() {
    let mut bench = Bench::new(TOSS);
    let toss: Button = bench.find("toss");
    bench.level(1_000, "keys:KeyJ", 1.0).to(16_667);
    let before = bench.seat.state_hash();
    for _ in 0..3 {
        assert!(bench.seat.button(toss).was_pulled());
        assert_eq!(bench.seat.latest().pulls(toss).count(), 1);
    }
    assert_eq!(bench.seat.state_hash(), before);
}

#[test]
fn something_already_down_when_listening_begins_counts_as_a_press() {
    let mut bench = Bench::new(&format!("[modes]\nashore = {{}}\n{TOSS}modes = [\"ashore\"]\n"));
    bench.level(10, "keys:KeyJ", 1.0).tape(r#"{"at":20,"mode":"ashore","on":true}"#).to(100);
    assert!(bench.heard().is_empty());
    bench.level(110, "keys:KeyJ", 0.0).level(120, "keys:KeyJ", 1.0).to(200);
    assert_eq!(bench.heard(), ["120 toss pressed", "120 toss pulled"]);
}

#[test]
fn a_press_is_lost_because_the_physics_step_did_not_run_or_counts_twice_because_it_ran_twice() {
    let mut bench = Bench::new(TOSS);
    let toss: Button = bench.find("toss");
    let (mut physics, mut frames) = (bench.seat.bookmark(), bench.seat.bookmark());
    let (mut in_physics, mut in_frames) = (0, 0);
    let mut now = 0;
    // Frames in which physics runs 0, 1 or 3 times.
    for (frame, steps) in [0, 1, 3, 0, 0, 1, 3, 1, 0, 3].into_iter().enumerate() {
        let level = if frame % 2 == 0 { 1.0 } else { 0.0 };
        bench.level(now + 1, "keys:KeyJ", level);
        for _ in 0..steps {
            now += 8_000;
            bench.to(now);
            in_physics += bench.seat.read(&mut physics).button(toss).pulls();
        }
        in_frames += bench.seat.read(&mut frames).button(toss).pulls();
    }
    assert_eq!((in_physics, in_frames), (5, 5));
}

#[test]
fn press_and_release_inside_one_frame_vanish() {
    let mut bench = Bench::new(TOSS);
    let toss: Button = bench.find("toss");
    bench.level(3_000, "keys:KeyJ", 1.0).level(9_000, "keys:KeyJ", 0.0).to(16_667);
    let read = bench.seat.button(toss);
    assert!(read.was_pressed() && read.was_released() && read.was_pulled() && !read.is_down());
}

#[test]
fn time_of_last_press_starts_at_zero() {
    let mut bench = Bench::new(&format!("{TOSS}{STEER}"));
    bench.to(1);
    assert!(bench.heard().is_empty());
    assert_eq!(bench.seat.stick(bench.find::<Stick>("steer")).last_direction(), None);
    assert_eq!(bench.seat.button(bench.find("toss")).held_for().as_micros(), 0);
}

#[test]
fn the_effect_comes_a_frame_late() {
    let mut bench = Bench::new(TOSS);
    let toss: Button = bench.find("toss");
    bench.level(16_667, "keys:KeyJ", 1.0).to(16_667);
    assert!(bench.seat.button(toss).was_pulled(), "in the very advance that plays its moment");
}

#[test]
fn full_deflection_falls_outside_the_last_region() {
    let mut bench = Bench::new(STEER);
    let steer: Stick = bench.find("steer");
    let mut at = 0;
    for x in [-1.0f32, 0.0, 1.0] {
        for y in [-1.0f32, 0.0, 1.0] {
            at += 1_000;
            bench.pair(at, Control::LEFT_STICK, x, y).to(at);
            let read = bench.seat.stick(steer);
            let signs = read.direction().map_or((0, 0), |direction| direction.signs());
            assert_eq!((f32::from(signs.0), f32::from(signs.1)), (x, y));
            let wanted = (y.atan2(x).to_degrees() + 360.0) % 360.0;
            assert!((x, y) == (0.0, 0.0) || (read.degrees().unwrap() - wanted).abs() < 1e-3);
        }
    }
}

#[test]
fn key_and_stick_when_key_or_stick_was_meant() {
    let mut bench = Bench::new(STEER);
    bench.level(10, "keys:KeyD", 1.0).to(20);
    assert_eq!(bench.xy("steer"), (1.0, 0.0), "the key alone");
    bench.pair(30, Control::LEFT_STICK, 1.0, 0.0).to(40);
    assert_eq!(bench.xy("steer"), (1.0, 0.0), "both together are no faster");
    bench.level(50, "keys:KeyD", 0.0).to(60);
    assert_eq!(bench.xy("steer"), (1.0, 0.0), "the stick alone");
}

#[test]
fn letting_go_of_the_older_direction_stops_the_newer_one() {
    let mut bench = Bench::new(STEER);
    bench.level(10, "keys:KeyA", 1.0).level(20, "keys:KeyW", 1.0).level(30, "keys:KeyA", 0.0).to(40);
    assert_eq!(bench.xy("steer"), (0.0, 1.0));
}

#[test]
fn diagonals_are_faster() {
    let mut bench = Bench::new(STEER);
    bench.level(10, "keys:KeyD", 1.0).level(20, "keys:KeyW", 1.0).to(30);
    let keys = bench.seat.stick(bench.find("steer")).size();
    bench.pair(40, Control::DPAD, 1.0, 1.0).to(50);
    let pad = bench.seat.stick(bench.find("steer")).size();
    assert!(keys <= 1.0 && pad <= 1.0 && keys > 0.999 && pad > 0.999, "{keys}, {pad}");
}

#[test]
fn no_direction_read_as_right() {
    let bench = Bench::new(STEER);
    let read = bench.seat.stick(bench.find("steer"));
    assert_eq!((read.direction(), read.degrees(), read.xy()), (None, None, (0.0, 0.0)));
}

#[test]
fn gating_by_multiplying_with_zero() {
    let mut bench = Bench::new(
        "[modes]\naboard = { on = true }\n[action.tilt]\nkind = \"axis\"\nmodes = [\"aboard\"]\npad = \"left-stick.y\"\nrange = { low = 4, rest = 15, high = 28 }\n",
    );
    bench.pair(10, Control::LEFT_STICK, 0.0, 1.0).to(20);
    let tilt: tidy_lever::Axis = bench.find("tilt");
    assert_eq!(bench.seat.axis(tilt).value(), 28.0);
    bench.tape(r#"{"at":30,"mode":"aboard","on":false}"#).to(40);
    assert_eq!(bench.seat.axis(tilt).value(), 15.0, "unheard, it stands at its rest");
}

#[test]
fn losing_focus_leaves_a_key_stuck_down() {
    let mut bench = Bench::new(&format!("{STEER}{TOSS}cue = \"release\"\n"));
    bench.level(10, "keys:KeyD", 1.0).level(20, "keys:KeyJ", 1.0).tape(r#"{"at":30,"focus":false}"#).to(40);
    assert_eq!(bench.xy("steer"), (0.0, 0.0));
    let toss = bench.seat.button(bench.find("toss"));
    assert!(!toss.is_down() && toss.was_released() && !toss.was_pulled());
}

#[test]
fn up_is_negative_here_and_positive_there() {
    let mut bench = Bench::new(STEER);
    let steer: Stick = bench.find("steer");
    bench.level(10, "keys:KeyW", 1.0).to(20);
    let keys = bench.seat.stick(steer);
    bench.level(30, "keys:KeyW", 0.0).pair(40, Control::LEFT_STICK, 0.0, 1.0).to(50);
    let pad = bench.seat.stick(steer);
    assert_eq!((keys.xy(), keys.degrees()), ((0.0, 1.0), Some(90.0)));
    assert_eq!((pad.xy(), pad.degrees()), (keys.xy(), keys.degrees()));
}

#[test]
fn a_huge_pause_makes_timers_go_mad() {
    let mut bench = Bench::new(TOSS);
    bench.level(10, "keys:KeyJ", 1.0).to(20).heard();
    bench.to(365 * 24 * 3_600 * 1_000_000);
    assert!(bench.heard().is_empty());
    assert_eq!(bench.seat.played(), us(31_536_000_000_000));
}

#[test]
fn two_thumbs_mashing_overlap_and_half_the_presses_vanish() {
    let mut bench = Bench::new("[action.paddle]\nkind = \"button\"\nkeys = [\"KeyK\", \"KeyL\"]\n");
    for n in 0..10u64 {
        let at = n * 100;
        let key = if n % 2 == 0 { "keys:KeyK" } else { "keys:KeyL" };
        bench.level(at, key, 1.0).level(at + 130, key, 0.0);
    }
    bench.to(5_000);
    assert_eq!(bench.seat.button(bench.find("paddle")).pulls(), 10);
}

#[test]
fn after_a_rollback_the_press_counts_as_already_seen() {
    let mut bench = Bench::new(TOSS);
    let toss: Button = bench.find("toss");
    let mut reader = bench.seat.bookmark();
    let saved = bench.seat.saved(&[&reader]);
    for _ in 0..2 {
        bench.level(10, "keys:KeyJ", 1.0).to(20);
        assert!(bench.seat.read(&mut reader).button(toss).was_pulled());
        bench.seat.restore(&saved, &mut [&mut reader]).unwrap();
    }
}
