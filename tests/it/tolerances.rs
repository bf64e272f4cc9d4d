//! Promise: motions, taps and sticks forgive what they say, to the microsecond, each tolerance with its default and its key.

use crate::common::Bench;
use tidy_lever::{Control, Linkage, Profile};

const STEER: &str = "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n\
    keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
    [action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n";

fn with(cue: &str, more: &str) -> String {
    format!("{STEER}[action.act]\nkind = \"button\"\ncue = \"{cue}\"\n{more}\n")
}

/// Keys as `+D@100 -D@200`, the stick as `0.5,-0.2@100`; in ms, or µs with a `u`.
fn feed(bench: &mut Bench, script: &str) {
    let mut end = 0;
    for word in script.split_whitespace() {
        let (what, at) = word.split_once('@').unwrap();
        let at = at.strip_suffix('u').map_or_else(|| at.parse::<u64>().unwrap() * 1_000, |us| us.parse().unwrap());
        match what.split_once(',') {
            Some((x, y)) => {
                bench.pair(at, Control::LEFT_STICK, x.parse().unwrap(), y.parse().unwrap());
            }
            None => {
                bench.level(at, &format!("keys:Key{}", &what[1..]), if what.starts_with('+') { 1.0 } else { 0.0 });
            }
        }
        end = end.max(at);
    }
    bench.to(end + 3_000_000);
}

/// When the action pulls, in µs.
fn pulls(body: &str, script: &str) -> Vec<u64> {
    let mut bench = Bench::new(body);
    feed(&mut bench, script);
    bench.pulls_of("act")
}

#[test]
fn every_tolerance_holds_to_its_last_microsecond_and_its_key_moves_it() {
    let skim = "steer rolls 236 then toss within 350ms";
    let zigzag = "steer rolls 623 then toss within 350ms";
    let heave = "steer rolls back held 300ms, forward then toss within 250ms";
    // A cue, a key for it, the last script that still pulls and the first that doesn't.
    let cases: &[(&str, &str, &str, &str)] = &[
        // Keys that roll: one is up, the next comes.
        (skim, "", "+S@0 -S@90 +D@125 +J@140", "+S@0 -S@90 +D@125001u +J@140"),
        (skim, "key_gap = \"10ms\"", "+S@0 -S@90 +D@100 +J@140", "+S@0 -S@90 +D@100001u +J@140"),
        // An overshoot of one eighth.
        (skim, "", "+S@0 +D@60 -S@100 +W@120 +J@190", "+S@0 +D@60 -S@100 +W@120 +J@190001u"),
        (skim, "astray = \"20ms\"", "+S@0 +D@60 -S@100 +W@120 +J@140", "+S@0 +D@60 -S@100 +W@120 +J@140001u"),
        (skim, "astray = \"0ms\"", "+S@0 +D@60 -S@100 +J@120 +W@121", "+S@0 +D@60 -S@100 +W@120 +J@121"),
        // Before the last direction.
        (skim, "", "+S@0 +D@60 +J@80 -S@140", "+S@0 +D@60 +J@80 -S@140001u"),
        (skim, "early = \"5ms\"", "+S@0 +D@60 +J@80 -S@85", "+S@0 +D@60 +J@80 -S@85001u"),
        // Forward, not held for too long; a brush of its neighbour doesn't make it fresh again.
        (zigzag, "", "+D@0 -D@300 +S@320 +D@360 +J@370", "+D@0 -D@300001u +S@320 +D@360 +J@370"),
        (
            zigzag,
            "",
            "+D@0 +W@200 -W@230 -D@300 +S@320 +D@360 +J@370",
            "+D@0 +W@200 -W@230 -D@301 +S@320 +D@360 +J@370",
        ),
        (zigzag, "fresh = \"90ms\"", "+D@0 -D@90 +S@120 +D@160 +J@170", "+D@0 -D@90001u +S@120 +D@160 +J@170"),
        (skim, "fresh = \"50ms\"", "+S@0 +D@50 -S@100 +J@120", "+S@0 +D@50001u -S@100 +J@120"),
        // A neighbour brushed while something is held.
        (heave, "", "+A@0 +W@200 -W@244999u -A@300 +D@310 +J@330", "+A@0 +W@200 -W@245 -A@300 +D@310 +J@330"),
        (
            heave,
            "brush = \"10ms\"",
            "+A@0 +W@200 -W@209999u -A@300 +D@310 +J@330",
            "+A@0 +W@200 -W@210 -A@300 +D@310 +J@330",
        ),
        // Going on from the neighbour, it was held until it was left.
        (heave, "", "+A@0 +W@300 -A@310 -W@315 +D@320 +J@330", "+A@0 +W@299 -A@310 -W@315 +D@320 +J@330"),
        // A push of some size; a fast reversal is not a half circle.
        (
            "steer rolls 41236 then toss within 350ms",
            "",
            "-1,0@0 -0.7,-0.7@20 0,-1@40 0.7,-0.7@60 1,0@80 +J@90",
            "-1,0@0 0.55,-0.4@4 1,0@8 +J@90",
        ),
        (
            "steer rolls 41236 then toss within 350ms",
            "",
            "-1,0@0 -0.7,-0.7@20 0,-1@40 0.7,-0.7@60 1,0@80 +J@90",
            "-1,0@0 -0.2,-0.2@4 0,-0.3@6 0.2,-0.2@8 1,0@10 +J@90",
        ),
        ("steer rolls 26 within 200ms", "", "0,-0.35@0 0,0@20 0.35,0@40", "0,-0.349@0 0,0@20 0.35,0@40"),
        ("steer rolls 26 within 200ms", "from_push = 0.6", "0,-0.6@0 0,0@20 0.6,0@40", "0,-0.6@0 0,0@20 0.599,0@40"),
        // A flick asks for rest, from an analogue stick.
        ("steer flicks over 0.8 within 60ms", "", "0.5,0@0 0,0@100 0.9,0@120", "0.5,0@0 0,0@100 0.9,0@119999u"),
        (
            "steer flicks over 0.8 within 60ms",
            "rested = \"5ms\"",
            "0.5,0@0 0,0@100 0.9,0@105",
            "0.5,0@0 0,0@100 0.9,0@104999u",
        ),
        ("steer flicks over 0.8 within 60ms", "", "0.9,0@0", "+D@0 -D@100 +D@200"),
        // A circle, and dodging.
        (
            "steer spins 1 within 900ms",
            "",
            "1,0@0 0,1@50 -1,0@100 0,-1@150 1,0@200",
            "1,0@0 -0.7,0.7@50 -1,0@100 0.7,-0.7@150 1,0@200",
        ),
    ];
    for (cue, more, last, first) in cases {
        assert_eq!(pulls(&with(cue, more), last).len(), 1, "{cue}, {more}: {last}");
        assert_eq!(pulls(&with(cue, more), first), [0u64; 0], "{cue}, {more}: {first}");
    }
    // Words of the screen wait for as long as one likes.
    assert_eq!(
        pulls(&with("steer rolls right, down then toss within 300ms", ""), "+D@0 -D@900 +S@920 +J@940").len(),
        1
    );
}

#[test]
fn a_hold_that_falls_due_during_a_brush_is_met_at_the_return() {
    let body = with("steer rolls down, right held 100ms within 400ms", "");
    // Right at 50: due at 150, while a neighbour is brushed.
    assert_eq!(pulls(&body, "+S@0 -S@50 +D@50 +W@140 -W@170"), [170_000]);
    assert_eq!(pulls(&body, "+S@0 -S@50 +D@50 +W@140 -W@184999u"), [184_999]);
    // A longer one begins again.
    assert_eq!(pulls(&body, "+S@0 -S@50 +D@50 +W@140 -W@185"), [285_000]);
    assert_eq!(pulls(&body, "+S@0 -S@50 +D@50 +W@60 -W@70"), [150_000]);
}

#[test]
fn walking_and_then_a_quarter_circle_is_no_zigzag_and_one_press_pulls_once() {
    let both = format!(
        "{STEER}[action.act]\nkind = \"button\"\ncue = \"steer rolls 236 then toss within 350ms\"\noutranks = [\"toss\"]\n\
         [action.zigzag]\nkind = \"button\"\ncue = \"steer rolls 623 then toss within 350ms\"\noutranks = [\"act\"]\n"
    );
    let play = |script: &str| {
        let mut bench = Bench::new(&both);
        feed(&mut bench, script);
        let heard = bench.heard().into_iter().filter(|line| line.ends_with("pulled"));
        heard.map(|line| line.split(' ').nth(1).unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(play("+D@0 -D@500 +S@510 +D@550 -S@590 +J@600"), ["act"]);
    // The down key of a zigzag goes up 20 ms after the press: it is a quarter circle by then, but the press is taken.
    assert_eq!(play("+D@0 -D@80 +S@100 +D@140 +J@160 -S@180 -D@300"), ["zigzag"]);
    // Between the press and the last direction as well.
    assert_eq!(play("+D@0 -D@80 +S@100 +J@130 +D@140 -S@160 -D@300"), ["toss", "zigzag"]);
}

#[test]
fn a_direction_that_other_keys_give_back_is_not_given() {
    let order = "order left, right within 2s";
    assert_eq!(pulls(&with(order, ""), "+A@0 -A@100 +D@200 -D@300").len(), 1);
    // Left is held since long ago; up goes up, and right goes up over it.
    assert_eq!(pulls(&with(order, ""), "+A@0 +W@2500 -W@2600 +D@2700 -D@2800"), [0u64; 0]);
    assert_eq!(pulls(&with("order right, left within 2s", ""), "+A@0 +D@2500 -D@2600 -A@2700"), [0u64; 0]);
    // Gone down with another key, it counts.
    assert_eq!(pulls(&with("order left, up-left within 2s", ""), "+A@0 +W@100 -W@200").len(), 1);
}

#[test]
fn a_straight_that_only_flashes_by_is_not_the_last_direction() {
    let aimed = |more: &str, gap: u64| {
        let mut bench = Bench::new(&format!(
            "{}[action.turn]\nkind = \"button\"\nkeys = \"KeyQ\"\naim = \"steer\"\n",
            STEER.replace("[action.toss]", &format!("{more}[action.toss]"))
        ));
        bench.level(0, "keys:KeyD", 1.0).level(0, "keys:KeyW", 1.0).level(500_000, "keys:KeyD", 0.0);
        bench.level(500_000 + gap, "keys:KeyW", 0.0).level(700_000, "keys:KeyQ", 1.0).to(800_000);
        let reading = bench.seat.latest();
        let pulled = reading
            .happenings()
            .find(|happening| happening.what().name() == "pulled" && happening.last_aim().is_some());
        let (direction, age) = pulled.unwrap().last_aim().unwrap();
        assert_eq!(age.as_micros() as u64, 200_000 - gap);
        direction.name()
    };
    assert_eq!([aimed("", 79_999), aimed("", 80_000)], ["up-right", "up"]);
    assert_eq!([aimed("settles = \"20ms\"\n", 19_999), aimed("settles = \"20ms\"\n", 20_000)], ["up-right", "up"]);
}

#[test]
fn a_stick_can_say_for_all_its_cues_what_they_forgive() {
    let cue = "steer rolls 236 then toss within 350ms";
    let on_stick = |more: &str| with(cue, "").replace("[action.toss]", &format!("{more}\n[action.toss]"));
    let overshoot = "+S@0 +D@60 -S@100 +W@120 +J@190";
    assert_eq!(pulls(&on_stick(""), overshoot).len(), 1);
    assert_eq!(pulls(&on_stick("astray = \"60ms\""), overshoot).len(), 0);
    // The action's own key comes first.
    let own = on_stick("astray = \"60ms\"").replace("cue = ", "astray = \"70ms\"\ncue = ");
    assert_eq!(pulls(&own, overshoot).len(), 1);
    assert_eq!(pulls(&on_stick("from_push = 0.99"), "0,-0.9@0 0.64,-0.64@60 0.9,0@120 +J@150").len(), 0);
}

#[test]
fn a_key_for_what_no_cue_forgives_is_a_fault() {
    let build = |cue: &str, more: &str| {
        let text = format!("tidy-lever = 1\n{}", with(cue, more));
        Linkage::build(&Profile::from_toml(&text).unwrap()).map(|_| ()).map_err(|faults| faults.to_string())
    };
    let fault = |cue: &str, more: &str| build(cue, more).unwrap_err();
    assert!(fault("toss hold 300ms", "astray = \"70ms\"").contains("`astray` needs a motion"));
    assert!(
        fault("steer rolls 26 within 300ms", "early = \"70ms\"")
            .contains("`early` needs a motion that ends with a button")
    );
    assert!(fault("steer spins 1 within 300ms", "rested = \"70ms\"").contains("`rested` needs a flick"));
    let renamed = fault("steer rolls 26 within 300ms", "roll = \"70ms\"");
    assert!(renamed.contains("has no key `roll`; did you mean `key_gap`?"), "{renamed}");
    assert!(fault("steer twice within 300ms", "key_gap = \"70ms\"").contains("`key_gap` needs a motion"));
    assert!(
        fault("toss hold 300ms", "paced = [\"200ms\", \"300ms\"]").contains("`paced` needs taps, `twice` or `mash`")
    );
    assert!(
        fault("toss 2 taps 240ms apart", "paced = [\"200ms\", \"300ms\"]")
            .contains("no shorter than the cue's own limit (240ms)")
    );
    assert!(fault("toss 2 taps 240ms apart", "paced = \"200ms\"").contains("a list of two spans"));
    assert!(
        fault("steer rolls 26 within 300ms", "from_push = 1.5")
            .contains("`from_push` must be above 0, up to and including 1")
    );
    assert!(
        fault("steer rolls back held 700ms, forward within 300ms", "fresh = \"300ms\"")
            .contains("must be held longer than `fresh`")
    );
    assert!(fault("steer rolls 26 within 300ms", "astray = \"long\"").contains("astray"));
    assert_eq!(build("steer twice within 240ms", "brush = \"30ms\"\ndown_at = 0.6\nup_at = 0.5"), Ok(()));
}
