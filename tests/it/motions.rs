//! Promise: motions, orders, spins and flicks count and break to the microsecond, and the ledger tells which.

use crate::common::{Bench, us};
use tidy_lever::{Control, Fact};

const STEER: &str = "[action.steer]\nkind = \"stick\"\npad = [\"left-stick\", \"dpad\"]\n\
    keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
    [action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n[action.hop]\nkind = \"button\"\nkeys = \"KeyK\"\n";

/// The profile of one action with this cue beside a stick and two buttons.
pub(super) fn with(cue: &str, more: &str) -> String {
    format!("{STEER}[action.act]\nkind = \"button\"\ncue = \"{cue}\"\n{more}")
}

/// The push that a digit of a number pad means.
pub(super) fn pad(digit: char) -> (f32, f32) {
    let n = digit.to_digit(10).unwrap() as i32 - 1;
    ((n % 3 - 1) as f32, (n / 3 - 1) as f32)
}

/// Feeds a script: `2@100` the stick at that digit's place, `+J@100 -J@300` keys, `<@50 >@60` facing left and right;
/// moments in ms, or µs with a `u`.
pub(super) fn feed(bench: &mut Bench, script: &str) {
    let mut end = 0;
    let facing: Fact = bench.find("facing");
    for step in script.split_whitespace() {
        let (what, at) = step.split_once('@').expect("2@100");
        let at = at.strip_suffix('u').map_or_else(|| at.parse::<u64>().unwrap() * 1_000, |us| us.parse().unwrap());
        let first = what.chars().next().unwrap();
        match first {
            '+' | '-' => {
                bench.level(at, &format!("keys:Key{}", &what[1..]), if first == '+' { 1.0 } else { 0.0 });
            }
            '<' | '>' => bench.seat.tell_at(facing, if first == '<' { "left" } else { "right" }, us(at)).unwrap(),
            digit => {
                let (x, y) = pad(digit);
                let size = if x != 0.0 && y != 0.0 { std::f32::consts::FRAC_1_SQRT_2 } else { 1.0 };
                bench.pair(at, Control::LEFT_STICK, x * size, y * size);
            }
        }
        end = end.max(at);
    }
    bench.to(end + 5_000_000);
}

/// What the action did, without its own presses.
pub(super) fn play(body: &str, script: &str) -> Vec<String> {
    let mut bench = Bench::new(body);
    feed(&mut bench, script);
    let heard = bench.heard_of("act");
    heard.into_iter().map(|line| line.replace(" act", "")).collect()
}

#[test]
fn a_motion_counts_as_the_design_says_it() {
    let skim = "steer rolls down, down-forward, forward then toss within 350ms";
    let cases: &[(&str, &str, &[&str])] = &[
        // The window runs from leaving the first position, which may be held as long as one likes; its end counts.
        (skim, "2@0 3@900 6@950 +J@1000 -J@1100 5@1200", &["1000000 pulled", "1100000 ended (let go)"]),
        (skim, "2@0 3@900 6@950 +J@1250 -J@1300 5@1400", &["1250000 pulled", "1300000 ended (let go)"]),
        (skim, "2@0 3@900 6@950 +J@1250001u -J@1300 5@1400", &[]),
        // The centre is passed over, any number of times; a direction beside the way breaks it.
        (skim, "2@0 5@20 3@40 5@50 6@60 5@70 +J@80 -J@90", &["80000 pulled", "90000 ended (let go)"]),
        (skim, "2@0 3@40 8@50 6@60 +J@80 -J@90", &[]),
        (skim, "2@0 1@20 3@100 6@120 +J@130 -J@140", &[]),
        // One eighth beside it is borne for 70 ms, before the finish, too; there it moves nothing on.
        (skim, "2@0 1@20 3@90 6@100 +J@110 -J@120", &["110000 pulled", "120000 ended (let go)"]),
        (skim, "2@0 1@20 3@90001u 6@100 +J@110 -J@120", &[]),
        (skim, "2@0 3@40 6@60 9@70 +J@140 -J@150", &["140000 pulled", "150000 ended (let go)"]),
        (skim, "2@0 3@40 6@60 9@70 +J@140001u -J@150", &[]),
        (skim, "2@0 3@40 6@60 9@70 8@80 +J@90 -J@99", &[]),
        // A trembling thumb falls back and comes again.
        (skim, "2@0 3@30 2@35 3@40 6@60 3@65 6@70 +J@80 -J@90", &["80000 pulled", "90000 ended (let go)"]),
        // A step jumped across by one event counts as entered; without the first position there is nothing.
        (skim, "2@0 6@30 +J@80 -J@90", &["80000 pulled", "90000 ended (let go)"]),
        (skim, "3@0 6@30 +J@80 -J@90", &[]),
        // The finish may come a little before the last direction.
        (skim, "2@0 3@40 +J@50 6@110 -J@120", &["110000 pulled", "120000 ended (let go)"]),
        (skim, "2@0 3@40 +J@50 6@110001u -J@120", &[]),
        (skim, "2@0 3@40 +J@50 -J@60 6@80", &["80000 pulled"]),
        // One motion pulls once, and one press serves it once.
        (skim, "2@0 3@40 6@60 +J@70 -J@80 +J@90 -J@99", &["70000 pulled", "80000 ended (let go)"]),
        (skim, "2@0 3@40 6@60 +J@70 2@72 3@74 6@76 -J@80", &["70000 pulled", "80000 ended (let go)"]),
        // Facing is taken when the first position is left, once.
        (skim, "<@0 2@10 1@30 4@50 +J@70 -J@80", &["70000 pulled", "80000 ended (let go)"]),
        (skim, "2@10 <@20 1@30 4@50 +J@70 -J@80", &["70000 pulled", "80000 ended (let go)"]),
        (skim, "<@0 2@10 1@30 >@40 4@50 +J@70 -J@80", &["70000 pulled", "80000 ended (let go)"]),
        (skim, "<@0 2@10 3@30 6@50 +J@70 -J@80", &[]),
        // Digits are of the body; a zigzag; a step that may be left out.
        (
            "steer rolls 623 then toss within 300ms",
            "6@0 2@50 3@80 +J@90 -J@99",
            &["90000 pulled", "99000 ended (let go)"],
        ),
        (
            "steer rolls 623 then toss within 300ms",
            "6@0 3@30 2@50 3@80 +J@90 -J@99",
            &["90000 pulled", "99000 ended (let go)"],
        ),
        ("steer rolls 623 then toss within 300ms", "6@0 3@50 +J@90 -J@99", &[]),
        (
            "steer rolls forward, maybe down, down-forward within 300ms",
            "6@0 5@20 3@50 5@80",
            &["50000 pulled", "80000 ended (let go)"],
        ),
        (
            "steer rolls forward, maybe down, down-forward within 300ms",
            "6@0 5@10 2@20 3@50 5@80",
            &["50000 pulled", "80000 ended (let go)"],
        ),
        ("steer rolls forward, maybe down, down-forward within 300ms", "6@0 8@20 3@50 5@80", &[]),
        // Forward twice: neutral or anything on the way lies between; three times is once.
        ("steer rolls 66 within 200ms", "6@0 5@40 6@90 5@300", &["90000 pulled", "300000 ended (let go)"]),
        ("steer rolls 66 within 200ms", "6@0 5@40 6@240001u 5@300", &[]),
        ("steer rolls 66 within 200ms", "6@0 5@40 6@80 5@120 6@160 5@200", &["80000 pulled", "120000 ended (let go)"]),
        ("steer rolls 656 within 200ms", "6@0 3@40 6@90 5@300", &[]),
        // Back from beside the way it never left.
        ("steer rolls 66 within 200ms", "6@0 3@40 6@90 5@300", &[]),
        ("steer rolls 656 within 200ms", "6@0 5@40 6@90 5@300", &["90000 pulled", "300000 ended (let go)"]),
        // Held back, in the absolute direction; facing counts at leaving.
        (
            "steer rolls back held 700ms, forward within 200ms",
            "4@0 5@700 6@900 5@950",
            &["900000 pulled", "950000 ended (let go)"],
        ),
        ("steer rolls back held 700ms, forward within 200ms", "4@0 5@699999u 6@800 5@950", &[]),
        (
            "steer rolls back held 700ms, forward within 200ms",
            "<@0 4@0 >@500 5@800 6@900 5@950",
            &["900000 pulled", "950000 ended (let go)"],
        ),
        ("steer rolls back held 700ms, forward within 200ms", "4@0 <@500 5@800 6@900 5@950", &[]),
        (
            "steer rolls down, right held 100ms within 400ms",
            "2@0 6@50 5@200",
            &["150000 pulled", "200000 ended (let go)"],
        ),
        ("steer rolls down, right held 100ms within 400ms", "2@0 6@50 5@149999u", &[]),
        ("steer rolls down, right held 100ms then toss within 400ms", "2@0 6@50 +J@149999u -J@160 5@170", &[]),
        (
            "steer rolls down, right held 100ms then toss within 400ms",
            "2@0 6@50 +J@150 -J@160",
            &["150000 pulled", "160000 ended (let go)"],
        ),
        // Finished by letting go.
        ("steer rolls 236 then toss within 350ms counted on release", "+J@0 2@10 3@30 6@50 -J@80", &["80000 pulled"]),
        ("steer rolls 236 then toss within 350ms counted on release", "2@10 3@30 6@50 +J@60 5@70", &[]),
        // A shape: left, round below to the right, up.
        (
            "steer rolls left, down, right, up within 1s",
            "4@0 1@80 2@100 3@120 6@140 9@160 8@180 5@200",
            &["180000 pulled", "200000 ended (let go)"],
        ),
        (
            "steer rolls left, down, right, up within 1s",
            "4@0 2@100 5@110 6@140 5@150 8@180 5@200",
            &["180000 pulled", "200000 ended (let go)"],
        ),
        ("steer rolls left, down, right, up within 1s", "4@0 7@50 2@121 6@150 8@180 5@200", &[]),
        (
            "steer rolls left, down, right, up within 1s",
            "4@0 5@5000 2@5500 6@5900 8@6000 5@6100",
            &["6000000 pulled", "6100000 ended (let go)"],
        ),
        // Full and part circles, either way, any start.
        (
            "steer spins 1 within 900ms",
            "6@0 9@50 8@100 7@150 4@200 1@250 2@300 3@350 6@400 5@500",
            &["400000 pulled", "500000 ended (let go)"],
        ),
        (
            "steer spins 1 within 900ms",
            "8@0 6@100 2@200 4@300 8@400 5@500",
            &["400000 pulled", "500000 ended (let go)"],
        ),
        (
            "steer spins 1 within 900ms",
            "2@0 3@99 6@100 8@200 4@300 2@999000u 5@1200",
            &["999000 pulled", "1200000 ended (let go)"],
        ),
        ("steer spins 1 within 900ms", "2@0 3@99 6@100 8@200 4@300 2@999001u 5@1200", &[]),
        ("steer spins 1 within 900ms", "6@0 9@50 8@100 9@150 6@200 3@250 2@300 3@350 6@400 5@500", &[]),
        (
            "steer spins 0.5 within 300ms",
            "4@0 7@50 8@100 9@150 6@200 5@250",
            &["200000 pulled", "250000 ended (let go)"],
        ),
        ("steer spins 0.5 within 300ms", "4@0 6@50 4@100 6@150 5@250", &[]),
        (
            "steer spins 2 within 2s",
            "6@0 8@100 4@200 2@300 6@400 8@500 4@600 2@700 6@800 5@900",
            &["800000 pulled", "900000 ended (let go)"],
        ),
        // Buttons and directions in a row: the last this many count, what isn't named goes unheard.
        (
            "steer order left, right, hop within 2s",
            "4@0 5@50 6@100 5@150 +K@200 -K@300",
            &["200000 pulled", "300000 ended (let go)"],
        ),
        (
            "order left, right, hop within 2s",
            "6@0 5@9 4@10 5@50 +J@60 -J@70 6@100 5@150 +K@200 -K@300",
            &["200000 pulled", "300000 ended (let go)"],
        ),
        ("order left, right, hop within 2s", "4@0 5@50 6@100 4@150 +K@200 -K@300", &[]),
        (
            "order left, right, hop within 2s",
            "4@0 5@9 4@150 6@180 +K@200 -K@300",
            &["200000 pulled", "300000 ended (let go)"],
        ),
        (
            "order hop, hop, toss within 500ms",
            "+K@0 -K@9 +K@100 -K@109 +K@200 -K@209 +J@600 -J@700",
            &["600000 pulled", "700000 ended (let go)"],
        ),
        ("order hop, hop, toss within 500ms", "+K@0 -K@9 +K@100 -K@109 +J@500001u -J@700", &[]),
        (
            "order hop, hop within 500ms",
            "+K@0 -K@9 +K@100 -K@109 +K@200 -K@209",
            &["100000 pulled", "109000 ended (let go)"],
        ),
    ];
    for (cue, script, expected) in cases {
        assert_eq!(play(&with(cue, ""), script), *expected, "{cue}: {script}");
    }
}

#[test]
fn a_flick_goes_from_the_centre_to_the_edge_at_once() {
    let act = "[action.act]\nkind = \"button\"\ncue = \"steer flicks over 0.8 within 60ms\"\n";
    let body = format!("[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = {{ dead = 0.15 }}\n{act}");
    let pushes: &[(&[(u64, f32)], usize)] = &[
        (&[(0, 0.9), (100, 0.0)], 1),
        (&[(0, 0.2), (30, 0.5), (60, 0.9), (200, 0.0)], 1),
        (&[(0, 0.2), (61, 0.9), (200, 0.0)], 0),
        // Once there it counts once, however it trembles; back at the centre it may come again.
        (&[(0, 0.9), (40, 0.7), (50, 0.9), (90, 0.0), (120, -0.9), (200, 0.0)], 2),
        (&[(0, 0.3), (500, 0.9), (600, 0.3), (700, 0.9), (800, 0.0)], 0),
        // On its way out a stick reports from within its dead zone: that begins no new rest.
        (&[(0, 0.05), (4, 0.1), (8, 0.2), (12, 0.5), (16, 0.9), (200, 0.0)], 1),
        (&[(0, 0.9), (90, 0.0), (95, 0.05), (105, 0.1), (115, 0.9), (200, 0.0)], 2),
        // Two brushes of the centre are too short a rest.
        (&[(0, 0.9), (90, 0.0), (95, 0.05), (105, 0.9), (200, 0.0)], 1),
    ];
    for (pushes, pulls) in pushes {
        let mut bench = Bench::new(&body);
        for (at, x) in *pushes {
            bench.pair(at * 1_000, Control::LEFT_STICK, *x, 0.0);
        }
        bench.to(5_000_000);
        let heard = bench.heard_of("act");
        assert_eq!(heard.iter().filter(|line| line.ends_with("pulled")).count(), *pulls, "{pushes:?}: {heard:?}");
    }
}

#[test]
fn keys_and_a_directional_pad_feed_the_same_motion() {
    let body = with("steer rolls 236 then toss within 350ms", "");
    // Down, then right as well, then down let go: the diagonal is in between by itself.
    let keys = "+S@0 +D@50 -S@90 +J@120 -J@200 -D@300";
    assert_eq!(play(&body, keys), ["120000 pulled", "200000 ended (let go)"]);
    let mut bench = Bench::new(&body);
    for (at, x, y) in [(0, 0.0, -1.0), (50, 1.0, -1.0), (90, 1.0, 0.0)] {
        bench.pair(at * 1_000, Control::DPAD, x, y);
    }
    bench.level(120_000, "keys:KeyJ", 1.0).to(1_000_000);
    assert_eq!(bench.heard_of("act"), ["120000 act pulled"]);
}

#[test]
fn who_wins_on_the_finishing_press() {
    let outranks = "cue = \"steer rolls 236 then toss within 350ms\"\noutranks = [\"toss\"]\n";
    let body = format!("{STEER}[action.act]\nkind = \"button\"\n{outranks}");
    let run = |body: &str, script: &str| {
        let mut bench = Bench::new(body);
        feed(&mut bench, script);
        let mut heard = bench.heard();
        heard.retain(|line| line.contains("pulled") || line.contains("outranked"));
        heard
    };
    assert_eq!(run(&body, "2@0 3@40 6@60 +J@70 -J@90"), ["70000 act pulled"]);
    assert_eq!(run(&body, "2@0 3@40 1@60 +J@70 -J@90"), ["70000 toss pulled"]);
    // A press just before the last direction has tossed already: that is taken back.
    let early = run(&body, "2@0 3@40 +J@60 6@70 -J@90");
    assert_eq!(early, ["60000 toss pulled", "70000 toss ended (outranked)", "70000 act pulled"]);
    // Unless the toss waits as long as a last direction may still come, and not a microsecond longer.
    let waits = body.replace("keys = \"KeyJ\"", "keys = \"KeyJ\"\nwaits_for = [\"act\"]");
    assert_eq!(run(&waits, "2@0 3@40 +J@60 6@70 -J@190"), ["70000 act pulled"]);
    assert_eq!(run(&waits, "2@0 3@40 +J@60 6@120 -J@190"), ["120000 act pulled"]);
    assert_eq!(run(&waits, "2@0 3@40 +J@60 6@120001u -J@190"), ["120000 toss pulled"]);
    assert_eq!(run(&waits, "2@0 3@40 +J@60 4@66 -J@190"), ["66000 toss pulled"]);
    // What is borne for a while may still complete, and no longer than that.
    assert_eq!(run(&waits, "2@0 3@10 2@20 +J@60 -J@190"), ["90000 toss pulled"]);
    assert_eq!(run(&waits, "2@0 +J@60 -J@190"), ["60000 toss pulled"]);
    // A longer motion over the shorter one that is its end.
    let both = format!(
        "{body}[action.big]\nkind = \"button\"\ncue = \"steer rolls 236236 then toss within 700ms\"\noutranks = [\"toss\", \"act\"]\n"
    );
    assert_eq!(run(&both, "2@0 3@40 6@60 2@90 3@120 6@150 +J@170 -J@190"), ["170000 big pulled"]);
    assert_eq!(run(&both, "2@0 3@40 6@60 +J@170 -J@190"), ["170000 act pulled"]);
}

#[test]
fn a_kept_motion_comes_out_the_moment_the_gate_opens() {
    let body = format!(
        "[facts]\nbusy = true\n{}",
        with("steer rolls 236 then toss within 350ms", "when = \"not busy\"\nkeep = \"150ms\"\n")
    );
    let mut bench = Bench::new(&body);
    let busy: Fact = bench.find("busy");
    bench.seat.keep_ledger(16);
    bench.seat.tell_at(busy, false, us(180_000)).unwrap();
    feed(&mut bench, "2@0 3@40 6@60 +J@70 2@75 -J@300");
    assert_eq!(bench.heard_of("act"), ["180000 act pulled", "300000 act ended (let go)"]);
    let linkage = bench.seat.linkage().clone();
    let mut of_act = bench.seat.attempts().filter(|attempt| attempt.action(&linkage) == Some("act"));
    assert_eq!(of_act.next().unwrap().story(&linkage).unwrap(), "pulled after `keep` held it for 110 ms");
}

#[test]
fn losing_the_hand_drops_the_motion_it_was_making() {
    let body = format!("[modes]\nashore = {{ on = true }}\n{}", with("steer rolls 236 then toss within 9s", ""));
    let lines = |between: &str| {
        let mut bench = Bench::new(&body);
        bench.pair(0, Control::LEFT_STICK, 0.0, -1.0).pair(1_000, Control::LEFT_STICK, 0.7, -0.7);
        bench.pair(2_000, Control::LEFT_STICK, 0.0, 0.0);
        bench.tape(between);
        bench.pair(9_000, Control::LEFT_STICK, 1.0, 0.0).level(10_000, "keys:KeyJ", 1.0).to(1_000_000);
        bench.heard_of("act").len()
    };
    assert_eq!(lines(r#"{"at":3000,"mode":"ashore","on":true}"#), 1);
    assert_eq!(lines("{\"at\":3000,\"focus\":false}\n{\"at\":4000,\"focus\":true}"), 0);
    assert_eq!(lines(r#"{"at":3000,"skip":true}"#), 0);
}

#[test]
fn two_seats_each_face_their_own_way() {
    let linkage = crate::common::linkage(&with("steer rolls 236 then toss within 350ms", ""));
    let facing: Fact = linkage.find("facing").unwrap();
    for (left, digits, pulls) in [(false, "236", 1), (true, "236", 0), (true, "214", 1), (false, "214", 0)] {
        let mut bench = Bench { seat: linkage.seat(us(0)), bookmark: linkage.seat(us(0)).bookmark() };
        bench.bookmark = bench.seat.bookmark();
        bench.seat.tell(facing, if left { "left" } else { "right" }).unwrap();
        let script: String = digits.chars().zip([10, 40, 70]).map(|(digit, at)| format!("{digit}@{at} ")).collect();
        feed(&mut bench, &format!("{script} +J@90"));
        assert_eq!(bench.heard_of("act").len(), pulls, "{left} {digits}");
    }
}

/// A thumb: it holds, rolls round with a tremble, and presses about when it is there.
fn thumb(bench: &mut Bench, dice: &mut fastrand::Rng, from: u64, angles: (f32, f32), presses: bool) -> u64 {
    let mut at = from;
    let push = |bench: &mut Bench, at: u64, angle: f32, size: f32| {
        let (y, x) = angle.to_radians().sin_cos();
        bench.pair(at, Control::LEFT_STICK, x * size, y * size);
    };
    for step in 1..=4 {
        at += 4_000;
        push(bench, at, angles.0, 0.24 * step as f32);
    }
    at += dice.u64(30_000..400_000);
    let steps = dice.u32(6..26);
    for step in 1..=steps {
        at += dice.u64(4_000..9_000);
        let tremble = (dice.f32() - 0.5) * 10.0;
        let angle = angles.0 + (angles.1 - angles.0) * step as f32 / steps as f32;
        push(bench, at, angle + tremble, 0.9 + dice.f32() * 0.1);
    }
    let pressed = at + dice.u64(0..90_000) - 20_000.min(at);
    let stays = pressed.max(at) + dice.u64(10_000..120_000);
    if presses {
        bench.level(pressed, "keys:KeyJ", 1.0).level(pressed + 60_000, "keys:KeyJ", 0.0);
    }
    push(bench, stays, angles.1, 0.4);
    push(bench, stays + 8_000, 0.0, 0.01);
    stays + 500_000
}

const SHAPED: &str = "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = { dead = 0.15, full = 0.95 }\n\
    keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
    [action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n\
    [action.act]\nkind = \"button\"\ncue = \"steer rolls 236 then toss within 350ms\"\n";

#[test]
fn what_a_trembling_thumb_means_is_found_and_what_it_does_not_mean_is_not() {
    let mut dice = fastrand::Rng::with_seed(11);
    let mut bench = Bench::new(SHAPED);
    let pulls = |bench: &mut Bench, to: u64| {
        bench.to(to);
        bench.heard_of("act").iter().filter(|line| line.ends_with("pulled")).count()
    };
    let mut at = 0;
    for round in 0..400 {
        let meant = round % 2 == 0;
        // A quarter circle forward; or the other way about, a half of it, up instead of down, backwards.
        let angles = match (meant, round % 8) {
            (true, _) => (270.0, 360.0),
            (_, 1) => (360.0, 270.0),
            (_, 3) => (270.0, 322.0),
            (_, 5) => (90.0, 0.0),
            _ => (270.0, 180.0),
        };
        at = thumb(&mut bench, &mut dice, at, angles, true);
        assert_eq!(pulls(&mut bench, at), usize::from(meant), "round {round}");
    }
    // Walking about by keys, tossing on the way, never skims: each toss comes when its window is over.
    let keys = ["KeyW", "KeyA", "KeyS", "KeyD"];
    for _ in 0..400 {
        let key = format!("keys:{}", keys[dice.usize(0..4)]);
        let lasts = dice.u64(520_000..900_000);
        bench.level(at, &key, 1.0).level(at + lasts, &key, 0.0);
        bench.level(at + 400_000, "keys:KeyJ", 1.0).level(at + 460_000, "keys:KeyJ", 0.0);
        at += lasts.saturating_sub(dice.u64(0..40_000)) + dice.u64(0..30_000);
        bench.to(at - 45_000);
    }
    assert_eq!(pulls(&mut bench, at + 1_000_000), 0);
    // By keys: down, right as well, down let go, as fast as fingers are.
    for _ in 0..100 {
        let (first, both, press) = (dice.u64(20_000..200_000), dice.u64(8_000..90_000), dice.u64(0..90_000));
        at += 1_500_000;
        let (diagonal, forward) = (at + first, at + first + both);
        bench.level(at, "keys:KeyS", 1.0).level(diagonal, "keys:KeyD", 1.0).level(forward, "keys:KeyS", 0.0);
        bench.level(forward + press, "keys:KeyJ", 1.0).level(forward + press + 50_000, "keys:KeyJ", 0.0);
        bench.level(forward + 200_000, "keys:KeyD", 0.0);
        assert_eq!(pulls(&mut bench, forward + 400_000), 1);
    }
}

#[test]
fn check_warns_where_a_motion_and_something_else_both_pull() {
    let warned = |body: &str| {
        let linkage = crate::common::linkage(body);
        let told = linkage.warnings().map(ToString::to_string).find(|told| told.contains("both pull"));
        told.unwrap_or_default()
    };
    let body = with("steer rolls 236 then toss within 350ms", "");
    assert!(warned(&body).contains("this action and `toss` will both pull on the same motion"));
    assert_eq!(warned(&format!("{body}outranks = [\"toss\"]\n")), "");
    let longer = format!(
        "{}[action.long]\nkind = \"button\"\ncue = \"steer rolls 41236 within 1s\"\n",
        with("steer rolls 236 within 350ms", "")
    );
    assert!(warned(&longer).contains("action.long: this action and `act` will both pull"), "{}", warned(&longer));
    assert_eq!(warned(&longer.replace("41236", "41239")), "");
}
