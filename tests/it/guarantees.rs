//! Promise: what people get wrong by hand can't go wrong here. A test for each row that is built, named after it.

use crate::common::{Bench, UNGUARDED, us};
use tidy_lever::{Button, Control, Gauge, Linkage, Profile, Stick};

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
        assert!(bench.seat.button(toss).pulled());
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
    assert!(read.went_down() && read.went_up() && read.pulled() && !read.is_down());
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
    assert!(bench.seat.button(toss).pulled(), "in the very advance that plays its moment");
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
    assert_eq!(bench.xy("steer"), (1.0, 0.0), "both together are not faster");
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
    assert!(!toss.is_down() && toss.went_up() && !toss.pulled());
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
        assert!(bench.seat.read(&mut reader).button(toss).pulled());
        bench.seat.restore(&saved, &mut [&mut reader]).unwrap();
    }
}

const HOP: &str = "[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"grounded within 90ms\"\nkeep = \"120ms\"\n";

/// Plays `+`/`-` for the key J and `g1`/`g0` for the ground, at moments in ms; when the action pulled, in ms.
fn pulls_of(body: &str, action: &str, script: &str) -> Vec<u64> {
    let mut bench = Bench::new(body);
    for step in script.split_whitespace() {
        let (what, at) = step.split_once('@').unwrap();
        let at = at.parse::<u64>().unwrap() * 1_000;
        match what {
            "+" => bench.level(at, "keys:KeyJ", 1.0),
            "-" => bench.level(at, "keys:KeyJ", 0.0),
            ground => bench.tape(&format!("{{\"at\":{at},\"fact\":\"grounded\",\"value\":{}}}", ground == "g1")),
        };
    }
    bench.to(200_000_000);
    let pulled = |line: &String| line.ends_with(&format!("{action} pulled"));
    let moments = bench.heard().into_iter().filter(pulled);
    moments.map(|line| line.split(' ').next().unwrap().parse::<u64>().unwrap() / 1_000).collect()
}

#[test]
fn a_toggle_that_flutters() {
    let lamp = format!("{TOSS}cue = \"toggle\"\n");
    assert_eq!(pulls_of(&lamp, "toss", "+@100 -@2000"), [100], "held for two seconds it turns once");
}

#[test]
fn early_press_forgotten_and_late_press_refused() {
    assert_eq!(pulls_of(HOP, "hop", "g0@100 +@500 g1@620"), [620]);
    assert_eq!(pulls_of(HOP, "hop", "g0@100 +@190"), [190]);
}

#[test]
fn buffered_press_and_grace_are_both_true_for_several_frames() {
    assert_eq!(pulls_of(HOP, "hop", "g0@100 +@150 g1@160 g0@177 g1@193 g0@210"), [150], "no endless climbing");
}

#[test]
fn hopping_itself_leaves_the_ground_so_grace_opens_again() {
    assert_eq!(pulls_of(HOP, "hop", "+@100 -@110 g0@117 +@150 -@160 g1@900"), [100], "no free second hop");
}

#[test]
fn the_same_press_opens_and_closes_the_menu() {
    let menu = "[modes]\nashore = { on = true }\nmenu = { covers = \"all\" }\n\
        [action.open]\nkind = \"button\"\nmodes = [\"ashore\"]\nkeys = \"KeyJ\"\ngroup = \"menu\"\nturns_on = [\"menu\"]\n\
        [action.close]\nkind = \"button\"\nmodes = [\"menu\"]\nkeys = \"KeyJ\"\ngroup = \"menu\"\nturns_off = [\"menu\"]\n";
    assert_eq!(pulls_of(menu, "open", "+@100 -@200 +@300 -@400"), [100]);
    assert_eq!(pulls_of(menu, "close", "+@100 -@200 +@300 -@400"), [300]);
}

#[test]
fn two_counters_share_one_timer_and_left_right_left_is_a_double_tap() {
    let mut bench =
        Bench::new(&format!("{STEER}[action.dash]\nkind = \"button\"\ncue = \"steer twice within 240ms\"\n"));
    for (at, key) in [(100, "KeyA"), (180, "KeyD"), (260, "KeyA")] {
        bench.level(at * 1_000, &format!("keys:{key}"), 1.0).level(at * 1_000 + 40_000, &format!("keys:{key}"), 0.0);
    }
    bench.to(1_000_000);
    assert!(bench.heard_of("dash").is_empty());
}

#[test]
fn does_the_second_tap_restart_the_window() {
    let three = format!("{TOSS}cue = \"3 taps 200ms apart\"\n");
    assert_eq!(
        pulls_of(&three, "toss", "+@0 -@50 +@200 -@250 +@400 -@450"),
        [400],
        "each gap for itself, its end included"
    );
}

#[test]
fn the_third_tap_goes_off_again_or_never() {
    let two = format!("{TOSS}cue = \"2 taps 200ms apart\"\n");
    assert_eq!(pulls_of(&two, "toss", "+@0 -@20 +@100 -@120 +@200 -@220 +@300 -@320"), [100, 300]);
}

#[test]
fn a_tap_now_and_one_a_minute_later_match() {
    let two = format!("{TOSS}cue = \"2 taps 200ms apart\"\n");
    assert!(pulls_of(&two, "toss", "+@0 -@20 +@60000 -@60020").is_empty());
}

#[test]
fn fading_while_still_mashing_jitters() {
    let body = "[action.paddle]\nkind = \"gauge\"\nkeys = \"KeyJ\"\ngauge = { floor = 1, ceiling = 100, push = \"x1.35\", rest = \"260ms\", fade = \"x0.85 every 100ms\" }\n";
    let mut bench = Bench::new(body);
    let paddle: Gauge = bench.find("paddle");
    let mut before = 0;
    for stroke in 0..8u64 {
        let at = stroke * 200_000;
        bench.level(at, "keys:KeyJ", 1.0).level(at + 60_000, "keys:KeyJ", 0.0);
    }
    for tick in 0..160 {
        bench.to(tick * 10_000);
        let value = bench.seat.gauge(paddle).micros();
        assert!(value >= before, "it never falls while the strokes come");
        before = value;
    }
}

#[test]
fn a_growth_factor_from_zero_never_grows() {
    let text = "tidy-lever = 1\n[action.paddle]\nkind = \"gauge\"\nkeys = \"KeyJ\"\ngauge = { push = \"x1.35\" }\n";
    let faults = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap_err();
    assert!(faults.to_string().contains("multiplying 0 gives 0"));
}

#[test]
fn a_name_misspelt_and_nothing_happens_for_hours() {
    let text = "tidy-lever = 1\n[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"grouned\"\n";
    let faults = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap_err();
    assert!(faults.to_string().contains("did you mean `grounded`?"));
}

#[test]
fn two_variants_of_a_move_active_at_once() {
    let body = format!("{TOSS}[action.lob]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"release\"\n");
    let warned = crate::common::linkage(&body)
        .warnings()
        .any(|fault| fault.problem.contains("will both pull on the same press"));
    assert!(warned);
}

#[test]
fn a_press_after_landing_is_judged_by_what_the_game_said_a_tick_before() {
    // The step that ended at 100 ms tells the landing; the press comes 5 ms later, before the next step.
    let mut bench = Bench::new(&HOP.replace("grounded = true", "grounded = false"));
    let grounded: tidy_lever::Fact = bench.find("grounded");
    bench.to(100_000);
    bench.seat.tell(grounded, true).unwrap();
    bench.level(105_000, "keys:KeyJ", 1.0).to(116_667);
    assert_eq!(bench.heard()[1], "105000 hop pulled");
}

#[test]
fn the_single_comes_out_and_then_the_chord_on_the_same_press_too() {
    let body = format!(
        "{TOSS}[action.guard]\nkind = \"button\"\nkeys = \"KeyG\"\n[action.bow]\nkind = \"button\"\ncue = \"toss with guard within 40ms\"\noutranks = [\"toss\", \"guard\"]\n"
    );
    let mut bench = Bench::new(&body);
    bench.level(100, "keys:KeyJ", 1.0).level(20_100, "keys:KeyG", 1.0).to(50_000);
    let told: Vec<String> = bench.heard().into_iter().filter(|line| !line.contains("pressed")).collect();
    assert_eq!(told, ["100 toss pulled", "20100 toss ended (outranked)", "20100 bow pulled"]);
}

#[test]
fn fingers_lift_twenty_ms_apart_and_a_diagonal_can_never_be_kept() {
    let mut bench = Bench::new(&format!("{STEER}rest = \"last\"\n"));
    bench.level(0, "keys:KeyD", 1.0).level(9_000, "keys:KeyW", 1.0).level(300_000, "keys:KeyD", 0.0).level(
        320_000,
        "keys:KeyW",
        0.0,
    );
    bench.to(400_000);
    let last = bench.seat.stick(bench.find::<Stick>("steer")).last_direction();
    assert_eq!(last.map(|(direction, _)| direction.name()), Some("up-right"));
}

#[test]
fn results_change_with_the_frame_rate() {
    let script = |rate: u32| {
        let mut bench = Bench::new(&format!("{TOSS}cue = \"hold 300ms\"\n"));
        bench.level(101_234, "keys:KeyJ", 1.0).level(700_001, "keys:KeyJ", 0.0);
        (1..=rate).for_each(|tick| bench.seat.advance(tidy_lever::Moment::of_tick(tick.into(), rate)));
        bench.heard()
    };
    assert!([7, 30, 60, 144, 1_000].iter().all(|rate| script(*rate) == script(1)));
    assert_eq!(script(1)[1], "401234 toss pulled");
}

#[test]
fn rounding_each_axis_alone_makes_narrow_diagonals() {
    let mut bench = Bench::new(STEER);
    let mut diagonals = 0;
    for step in 0..360u16 {
        let (sin, cos) = f32::from(step).to_radians().sin_cos();
        // Back to the middle in between, so that no direction is kept from before.
        let at = 1_000 * u64::from(step) + 1_000;
        bench.pair(at, Control::LEFT_STICK, 0.0, 0.0).pair(at + 10, Control::LEFT_STICK, cos, sin).to(at + 20);
        diagonals += u32::from(bench.seat.stick(bench.find::<Stick>("steer")).direction().unwrap().is_diagonal());
    }
    assert!((178..=182).contains(&diagonals), "half of the circle: {diagonals} of 360");
}

#[test]
fn the_previous_state_is_stored_too_early_or_not_in_every_branch() {
    let mut bench = Bench::new(TOSS);
    let toss: Button = bench.find("toss");
    let mut reader = bench.seat.bookmark();
    bench.level(10, "keys:KeyJ", 1.0).level(20, "keys:KeyJ", 0.0).to(100);
    // Ticks in which the game takes another branch and doesn't ask.
    for tick in 2..50 {
        bench.to(tick * 1_000);
    }
    let read = bench.seat.read(&mut reader).button(toss);
    assert!(read.went_down() && read.went_up() && !bench.seat.button(toss).went_down());
}

#[test]
fn ending_one_thing_resets_a_speed_that_another_thing_set() {
    let body = format!("{STEER}{TOSS}[action.dash]\nkind = \"button\"\ncue = \"steer twice within 240ms\"\n");
    let mut bench = Bench::new(&body);
    for (at, down) in [(0, 1.0), (50, 0.0), (100, 1.0), (900, 0.0)] {
        bench.level(at * 1_000, "keys:KeyD", down);
    }
    bench.level(300_000, "keys:KeyJ", 1.0).to(400_000);
    // The game derives its speed from what is on; nothing remembers what it was before.
    let on = |bench: &Bench, name: &str| bench.seat.button(bench.find::<Button>(name)).is_on();
    assert_eq!((on(&bench, "dash"), on(&bench, "toss")), (true, true));
    bench.to(950_000);
    assert_eq!((on(&bench, "dash"), on(&bench, "toss")), (false, true));
}

const SKIM: &str = "[action.skim]\nkind = \"button\"\ncue = \"steer rolls down, down-forward, forward then toss within 350ms\"\noutranks = [\"toss\"]\n";

/// How often an action pulls when the stick goes through these angles, in degrees, 30 ms apart, with a toss behind them.
fn rolled(body: &str, action: &str, angles: &[Option<f32>], tells: &[(u64, &str)]) -> u32 {
    let mut bench = Bench::new(body);
    let facing: tidy_lever::Fact = bench.find("facing");
    let act: Button = bench.find(action);
    for (at, side) in tells {
        bench.seat.tell_at(facing, *side, us(*at)).unwrap();
    }
    for (place, angle) in angles.iter().enumerate() {
        let (y, x) = angle.map_or((0.0, 0.0), |angle| angle.to_radians().sin_cos());
        bench.pair(30_000 * (place as u64 + 1), Control::LEFT_STICK, x, y);
    }
    let end = 30_000 * (angles.len() as u64 + 1);
    bench.level(end, "keys:KeyJ", 1.0).to(end);
    bench.seat.button(act).pulls()
}

#[test]
fn a_fast_sweep_skips_the_centre_or_a_diagonal_and_breaks_the_motion() {
    let body = format!("{STEER}{TOSS}{SKIM}");
    for angles in [vec![270.0, 315.0, 0.0], vec![270.0, 0.0], vec![262.0, 291.0, 301.0, 340.0, 3.0]] {
        let angles: Vec<Option<f32>> = angles.into_iter().map(Some).collect();
        assert_eq!(rolled(&body, "skim", &angles, &[]), 1, "{angles:?}");
    }
    assert_eq!(rolled(&body, "skim", &[Some(270.0), None, Some(315.0), None, Some(0.0), None], &[]), 1);
    assert_eq!(rolled(&body, "skim", &[Some(270.0), Some(315.0), Some(225.0), Some(0.0)], &[]), 0, "the wrong way");
}

#[test]
fn facing_flips_in_mid_motion_and_breaks_it() {
    let body = format!("{STEER}{TOSS}{SKIM}");
    let forward = [Some(270.0), Some(315.0), Some(0.0)];
    // Down is left at 60 ms; what is told behind that changes nothing.
    assert_eq!(rolled(&body, "skim", &forward, &[(61_000, "left")]), 1);
    assert_eq!(rolled(&body, "skim", &forward, &[(59_000, "left")]), 0);
    assert_eq!(
        rolled(&body, "skim", &[Some(270.0), Some(225.0), Some(180.0)], &[(59_000, "left"), (70_000, "right")]),
        1
    );
}

#[test]
fn held_back_for_a_charge_the_heron_runs_past_and_it_goes_the_old_way() {
    let body = format!(
        "{STEER}{TOSS}[action.heave]\nkind = \"button\"\ncue = \"steer rolls back held 100ms, forward then toss within 200ms\"\n"
    );
    let left_to_right = [Some(180.0), Some(180.0), Some(180.0), Some(180.0), Some(180.0), Some(0.0)];
    assert_eq!(rolled(&body, "heave", &left_to_right, &[]), 1);
    // The heron ran past while it was held: now left is forward, and what was held is not back any more.
    assert_eq!(rolled(&body, "heave", &left_to_right, &[(120_000, "left")]), 0);
    let right_to_left = left_to_right.map(|angle| angle.map(|angle: f32| 180.0 - angle));
    assert_eq!(rolled(&body, "heave", &right_to_left, &[(120_000, "left")]), 1);
}

#[test]
fn live_tuning_shifts_the_tables_and_old_handles_are_found_again_by_name() {
    let mut bench = Bench::new(&format!("{TOSS}[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n"));
    let hop: Button = bench.find("hop");
    bench.level(1_000, "keys:Space", 1.0).to(2_000);
    // A new action stands in front: numbers shift, names don't.
    let text = format!(
        "tidy-lever = 1\n[action.about]\nkind = \"button\"\nkeys = \"KeyF\"\n{TOSS}[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n{UNGUARDED}"
    );
    let tuned = Linkage::build(&Profile::from_toml(&text).unwrap()).unwrap();
    bench.seat.relink(&tuned, &mut []);
    assert!(bench.seat.knows(hop) && bench.seat.button(hop).is_down(), "the old handle is found again");
    assert!(bench.seat.button(tuned.find::<Button>("hop").unwrap()).is_down(), "the new one finds the same");
    assert_eq!(bench.seat.stats().foreign, 0);
    // Gone, or of another kind: the name leads nowhere, and the answer is rest.
    let other =
        crate::common::linkage("[action.hop]\nkind = \"axis\"\nkeys = { minus = \"KeyA\", plus = \"Space\" }\n");
    bench.seat.relink(&other, &mut []);
    assert!(!bench.seat.knows(hop) && !bench.seat.button(hop).is_down());
    assert!(bench.seat.try_button(hop).is_none() && bench.seat.set(hop, true).is_err());
    assert_eq!(bench.seat.stats().foreign, 1, "a telling is counted, a question is not");
    // Back again: a game that tunes to and fro need not look anything up.
    bench.seat.relink(&tuned, &mut []);
    bench.level(3_000, "keys:Space", 0.0).level(4_000, "keys:Space", 1.0).to(5_000);
    assert!(bench.seat.button(hop).is_down());
}

#[test]
fn a_loss_of_focus_or_a_cable_presses_the_other_direction_on_its_way_to_rest() {
    for loss in [r#"{"at":50000,"focus":false}"#, r#"{"at":50000,"dev":"kb","plugged":false}"#] {
        let mut bench = Bench::new(&format!("{STEER}[action.lamp]\nkind = \"button\"\ncue = \"steer.right toggle\"\n"));
        for (at, key) in [(10_000, "KeyA"), (20_000, "KeyD"), (30_000, "KeyW")] {
            bench.tape(&format!(r#"{{"at":{at},"dev":"kb","control":"keys:{key}","value":1}}"#));
        }
        bench.to(40_000).heard();
        bench.tape(loss).to(60_000);
        let heard = bench.heard();
        assert!(heard.iter().all(|line| line.contains("released")) && heard.len() == 2, "{heard:?}");
    }
}

#[test]
fn events_from_a_wire_come_out_of_order_and_a_key_sticks() {
    let mut bench = Bench::new(TOSS);
    bench.level(60_000, "keys:KeyJ", 0.0).level(20_000, "keys:KeyJ", 1.0).to(100_000);
    assert_eq!(bench.pulls_of("toss"), [20_000]);
    assert!(!bench.seat.button(bench.find("toss")).is_down());
}

#[test]
fn the_move_and_its_loser_both_come_out_70_ms_apart_from_one_press() {
    let rise = "[action.rise]\nkind = \"button\"\ncue = \"steer rolls 623 then toss within 500ms\"\nearly = \"60ms\"\noutranks = [\"skim\"]\n";
    let skim = SKIM.replace("within 350ms\"", "within 500ms\"\nearly = \"60ms\"");
    let mut bench = Bench::new(&format!("{STEER}{TOSS}{skim}{rise}"));
    let stick = |bench: &mut Bench, at: u64, x: f32, y: f32| drop(bench.pair(at * 1_000, Control::LEFT_STICK, x, y));
    for (at, x, y) in [(10, 1.0, 0.0), (30, 0.0, 0.0), (40, 0.0, -1.0)] {
        stick(&mut bench, at, x, y);
    }
    // The finish comes before the last direction of either.
    bench.level(60_000, "keys:KeyJ", 1.0);
    stick(&mut bench, 70, 0.7, -0.7);
    stick(&mut bench, 100, 1.0, 0.0);
    bench.to(900_000);
    assert_eq!(bench.pulls_of("rise"), [70_000]);
    let skims = bench.seat.button(bench.find("skim")).pulls();
    assert_eq!(skims, 0);
}

/// The bench hands itself on; a closure needn't.
fn drop<T>(_: T) {}

#[test]
fn a_players_accessibility_settings_break_a_profile() {
    use tidy_lever::remap::Remap;
    let text = format!(
        "tidy-lever = 1\n{STEER}{TOSS}[action.heave]\nkind = \"button\"\ncue = \"steer rolls left, right held 300ms then toss within 500ms\"\n"
    );
    let profile = Profile::from_toml(&text).unwrap();
    let laid =
        |access: &str| Remap::from_toml(&format!("tidy-lever = 1\n[access]\n{access}\n")).unwrap().over(&profile);
    let told = laid("holds = 8\ntoggled = [\"toss\", \"gone\"]").unwrap().left_alone;
    assert!(
        told.iter().any(|fault| fault.path == "access.holds")
            && told.iter().any(|fault| fault.path == "access.toggled")
    );
    assert!(laid("leeway = 0.1").is_ok());
}
