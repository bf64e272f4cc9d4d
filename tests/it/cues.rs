//! Promise: every cue is exact at the borders of its windows, and it is known who wins on one press.

use crate::common::{Bench, linkage, us};
use proptest::prelude::*;
use tidy_lever::cue::{Cue, Rule};
use tidy_lever::profile::{Action, DeviceEntry, Profile};
use tidy_lever::{Button, Fact, Linkage, Moment, What};

/// Plays `+J@100 -J@300` (keys down and up, moments in ms, or µs with a `u`) on these actions; what they did of note.
fn play(body: &str, script: &str) -> Vec<String> {
    let mut bench = Bench::new(body);
    let mut end = 0;
    for step in script.split_whitespace() {
        let (key, at) = step[1..].split_once('@').expect("+J@100");
        let at = at.strip_suffix('u').map_or_else(|| at.parse::<u64>().unwrap() * 1_000, |us| us.parse().unwrap());
        bench.level(at, &format!("keys:Key{key}"), if step.starts_with('+') { 1.0 } else { 0.0 });
        end = end.max(at);
    }
    bench.to(end + 5_000_000);
    let heard = bench.heard();
    heard.into_iter().filter(|line| line.contains("pulled") || line.contains("ended")).collect()
}

/// One action on the key J, with this cue.
fn on_j(cue: &str) -> String {
    format!("[action.act]\nkind = \"button\"\nkeys = [\"KeyJ\", \"KeyK\"]\ncue = \"{cue}\"\n")
}

#[test]
fn a_pull_tells_when_its_press_was() {
    let cases = [
        ("press", 100),
        ("toggle", 100),
        ("hold 300ms", 100),
        ("tap under 900ms", 100),
        ("release", 100),
        ("charge 200ms to 1s", 100),
        ("repeat after 400ms every 80ms", 100),
    ];
    for (cue, pressed) in cases {
        let mut bench = Bench::new(&on_j(cue));
        bench.level(pressed * 1_000, "keys:KeyJ", 1.0);
        bench.level(800_000, "keys:KeyJ", 0.0);
        bench.to(2_000_000);
        let pull = bench.seat.latest().happenings().find(|one| one.what() == What::Pulled).copied();
        assert_eq!(pull.map(|pull| pull.since()), Some(Moment::from_millis(pressed)), "{cue}");
    }
}

#[test]
fn every_rule_at_the_last_microsecond_in_and_the_next_one_out() {
    let cases: &[(&str, &str, &[&str])] = &[
        // A hold is reached at its span, from the first control.
        ("hold 300ms", "+J@100 -J@400", &["400000 act pulled", "400000 act ended (let go)"]),
        ("hold 300ms", "+J@100 -J@399999u", &[]),
        ("hold 300ms", "+J@100 +K@350 -J@360 -K@600", &["400000 act pulled", "600000 act ended (let go)"]),
        // A tap lies under its span.
        ("tap under 200ms", "+J@100 -J@299999u", &["299999 act pulled"]),
        ("tap under 200ms", "+J@100 -J@300", &[]),
        // Gaps of taps lie within; then it counts again.
        ("2 taps 240ms apart", "+J@0 -J@50 +J@240 -J@300", &["240000 act pulled", "300000 act ended (let go)"]),
        ("2 taps 240ms apart", "+J@0 -J@50 +J@240001u -J@300", &[]),
        (
            "2 taps 240ms apart",
            "+J@0 -J@9 +J@100 -J@109 +J@200 -J@209",
            &["100000 act pulled", "109000 act ended (let go)"],
        ),
        (
            "2 taps 240ms apart",
            "+J@0 -J@9 +J@100 -J@109 +J@200 -J@209 +J@300 -J@309",
            &["100000 act pulled", "109000 act ended (let go)", "300000 act pulled", "309000 act ended (let go)"],
        ),
        ("2 taps 240ms apart", "+J@0 -J@9 +J@60000 -J@60009", &[]),
        (
            "3 taps 100ms apart",
            "+J@0 -J@9 +J@100 -J@109 +J@200 -J@209",
            &["200000 act pulled", "209000 act ended (let go)"],
        ),
        ("double tap within 240ms", "+J@0 +K@90 -J@100 -K@120", &["90000 act pulled", "120000 act ended (let go)"]),
        ("2 taps 240ms apart counted on release", "+J@0 -J@500 +J@520 -J@740", &["740000 act pulled"]),
        ("2 taps 240ms apart counted on release", "+J@0 -J@500 +J@520 -J@740001u", &[]),
        // Repeats, until let go.
        (
            "repeat after 400ms every 80ms",
            "+J@0 -J@480",
            &["0 act pulled", "400000 act pulled", "480000 act pulled", "480000 act ended (let go)"],
        ),
        ("repeat after 400ms every 80ms", "+J@0 -J@399999u", &["0 act pulled", "399999 act ended (let go)"]),
        // A toggle takes edges only.
        ("toggle", "+J@0 -J@50 +J@100 -J@900", &["0 act pulled", "100000 act pulled", "100000 act ended (toggled)"]),
        // Mashing: five within a sliding second, the window's end included; it ends when the rate drops.
        (
            "mash 3 within 1s",
            "+J@0 -J@9 +J@500 -J@509 +J@1000 -J@1009",
            &["1000000 act pulled", "1000000 act ended (let go)"],
        ),
        ("mash 3 within 1s", "+J@0 -J@9 +J@500 -J@509 +J@1000001u -J@1009", &[]),
        (
            "mash 3 within 1s",
            "+J@0 -J@9 +J@400 -J@409 +J@800 -J@809 +J@1000 -J@1009",
            &["800000 act pulled", "1400000 act ended (let go)"],
        ),
        // Two thumbs overlap: each control's own going down counts.
        (
            "mash 4 within 1s",
            "+J@0 +K@100 -J@150 +J@200 -K@250 +K@300 -J@350 -K@400",
            &["300000 act pulled", "1000000 act ended (let go)"],
        ),
        // A charge counts from its first span on.
        ("charge 200ms to 1200ms", "+J@0 -J@199999u", &[]),
        ("charge 200ms to 1200ms", "+J@0 -J@700", &["700000 act pulled"]),
    ];
    for (cue, script, expected) in cases {
        assert_eq!(play(&on_j(cue), script), *expected, "{cue}: {script}");
    }
}

#[test]
fn a_charge_carries_how_far_it_was_held() {
    for (held, amount) in [(200_000, 0.0), (700_000, 0.5), (1_200_000, 1.0), (9_000_000, 1.0)] {
        let mut bench = Bench::new(&on_j("charge 200ms to 1.2s"));
        let act: Button = bench.find("act");
        bench.level(10, "keys:KeyJ", 1.0).level(10 + held, "keys:KeyJ", 0.0).to(10_000_000);
        assert_eq!(bench.seat.latest().pulls(act).next().unwrap().amount(), Some(amount));
    }
}

const STEER: &str =
    "[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n";

#[test]
fn the_same_direction_twice_and_what_may_come_between() {
    let dash = format!("{STEER}[action.dash]\nkind = \"button\"\ncue = \"steer twice within 240ms\"\n");
    let cases: &[(&str, &[&str])] = &[
        ("+D@0 -D@80 +D@240 -D@900", &["240000 dash pulled", "900000 dash ended (let go)"]),
        ("+D@0 -D@80 +D@240001u -D@900", &[]),
        // The opposite breaks it at once.
        ("+A@0 -A@50 +D@100 -D@150 +A@200 -A@300", &[]),
        ("+D@0 -D@50 +A@60 -A@65 +D@150 -D@300", &[]),
        // A neighbour breaks nothing, another straight does when it has lasted 45 ms.
        ("+D@0 +W@20 -W@60 -D@80 +D@150 -D@300", &["150000 dash pulled", "300000 dash ended (let go)"]),
        ("+D@0 -D@50 +W@60 -W@104999u +D@150 -D@300", &["150000 dash pulled", "300000 dash ended (let go)"]),
        ("+D@0 -D@50 +W@60 -W@105 +D@150 -D@300", &[]),
        ("+D@0 -D@50 +W@60 +D@104999u -W@150 -D@300", &["104999 dash pulled", "300000 dash ended (let go)"]),
        ("+D@0 -D@50 +W@60 +D@105 -W@150 -D@300", &[]),
        // The other straight's own first giving goes on.
        ("+D@0 -D@10 +W@20 -W@90 +W@130 -W@300", &["130000 dash pulled", "300000 dash ended (let go)"]),
        // It must have been let go between; a direction that another key gives back was never given.
        ("+D@0 +W@20 -W@40 +W@60 -W@80 -D@100", &["60000 dash pulled", "100000 dash ended (let go)"]),
        ("+A@0 +D@30 -D@60 -A@300", &[]),
        // Three quick taps are one, four are two; on while it points at most a quarter aside.
        ("+D@0 -D@40 +D@100 -D@140 +D@200 -D@240", &["100000 dash pulled", "140000 dash ended (let go)"]),
        (
            "+D@0 -D@40 +D@100 -D@140 +D@200 -D@240 +D@300 +W@350 -D@400 +A@410 -A@420 -W@430",
            &["100000 dash pulled", "140000 dash ended (let go)", "300000 dash pulled", "410000 dash ended (let go)"],
        ),
        ("+D@0 -D@40 +D@60000 -D@60040", &[]),
    ];
    for (script, expected) in cases {
        assert_eq!(play(&dash, script), *expected, "{script}");
    }
    let until = dash.replace("240ms", "240ms until neutral");
    assert_eq!(
        play(&until, "+D@0 -D@40 +D@100 +W@350 -D@400 +A@410 -A@420 -W@430"),
        ["100000 dash pulled", "430000 dash ended (let go)"]
    );
    // A key that is held all along and given back by `cancel` was given once.
    let cancel = dash.replace("keys = {", "opposed = \"cancel\"\nkeys = {");
    assert_eq!(play(&cancel, "+D@0 +A@50 -A@90 -D@400"), [""; 0]);
}

#[test]
fn a_stick_is_given_twice_without_coming_back_to_rest() {
    let body = "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n\
        [action.dash]\nkind = \"button\"\ncue = \"steer twice within 240ms\"\n";
    type Pushes = &'static [(u64, f32, f32)];
    let cases: &[(&str, Pushes, &[u64])] = &[
        ("", &[(0, 0.9, 0.0), (80, 0.39, 0.1), (150, 0.56, 0.2), (400, 0.0, 0.0)], &[150_000]),
        // Not let go far enough, or not given far enough.
        ("", &[(0, 0.9, 0.0), (80, 0.41, 0.1), (150, 0.9, 0.0), (400, 0.0, 0.0)], &[]),
        ("", &[(0, 0.9, 0.0), (80, 0.2, 0.1), (150, 0.54, 0.0), (400, 0.0, 0.0)], &[]),
        // It springs back a little past the centre.
        ("", &[(0, 0.9, 0.0), (80, -0.2, 0.05), (150, 0.9, 0.0), (400, 0.0, 0.0)], &[150_000]),
        ("", &[(0, 0.9, 0.0), (80, -0.6, 0.0), (150, 0.9, 0.0), (400, 0.0, 0.0)], &[]),
        // Levels, brush and window are keys of the action.
        ("up_at = 0.5", &[(0, 0.9, 0.0), (80, 0.45, 0.1), (150, 0.9, 0.0), (400, 0.0, 0.0)], &[150_000]),
        ("down_at = 0.95", &[(0, 0.9, 0.0), (80, 0.2, 0.1), (150, 0.9, 0.0), (400, 0.0, 0.0)], &[]),
        ("", &[(0, 0.9, 0.0), (50, 0.0, 0.9), (100, 0.9, 0.0), (400, 0.0, 0.0)], &[]),
        ("brush = \"60ms\"", &[(0, 0.9, 0.0), (50, 0.0, 0.9), (100, 0.9, 0.0), (400, 0.0, 0.0)], &[100_000]),
    ];
    for (keys, pushes, expected) in cases {
        let mut bench = Bench::new(&format!("{body}{keys}\n"));
        for (at, x, y) in *pushes {
            bench.pair(at * 1_000, tidy_lever::Control::LEFT_STICK, *x, *y);
        }
        bench.to(2_000_000);
        assert_eq!(bench.pulls_of("dash"), *expected, "{keys} {pushes:?}");
    }
}

#[test]
fn at_the_hands_pace_a_window_follows_the_gaps_within_its_limits() {
    let body = |cue: &str| {
        format!(
            "{STEER}[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n\
             [action.act]\nkind = \"button\"\ncue = \"{cue}\"\npaced = [\"200ms\", \"400ms\"]\n"
        )
    };
    let pulls = |cue: &str, script: &str| {
        let heard = play(&body(cue), script).into_iter().filter(|line| line.ends_with("act pulled"));
        heard.map(|line| line.split(' ').next().unwrap().parse::<u64>().unwrap() / 1_000).collect::<Vec<_>>()
    };
    // The first gap of 250 ms is too long for 200 ms, but a hand that slow has 350 ms from then on.
    let slow = "+J@0 -J@50 +J@250 -J@300 +J@2000 -J@2050 +J@2300 -J@2350";
    assert_eq!(pulls("toss 2 taps 200ms apart", slow), [2_300]);
    let slow = "+D@0 -D@50 +D@250 -D@300 +D@2000 -D@2050 +D@2300 -D@2350";
    assert_eq!(pulls("steer twice within 200ms", slow), [2_300]);
    // A quick hand keeps the low limit, a gap beyond the high one was not meant.
    let quick = "+J@0 -J@20 +J@80 -J@90 +J@1000 -J@1020 +J@1200 -J@1220 +J@3000 -J@3020 +J@3401 -J@3420 +J@5000 -J@5020 +J@5201 -J@5220";
    assert_eq!(pulls("toss 2 taps 200ms apart", quick), [80, 1_200]);
    // Without the key nothing moves.
    let fixed = body("toss 2 taps 200ms apart").replace("paced", "# paced");
    assert_eq!(play(&fixed, slow).iter().filter(|line| line.ends_with("act pulled")).count(), 0);
    let mashed = "+J@0 -J@9 +J@140 -J@149 +J@280 -J@289 +J@420 -J@429 +J@2000 -J@2009 +J@2140 -J@2149 +J@2280 -J@2289";
    // Two gaps of 140 ms: the window of three presses is 392 ms as soon as the first gap is known.
    assert_eq!(pulls("toss mash 3 within 200ms", mashed), [280, 420, 2_280]);
}

#[test]
fn a_chord_in_either_order_within_its_span_and_each_press_serves_once() {
    let body = "[action.guard]\nkind = \"button\"\nkeys = \"KeyG\"\n[action.punch]\nkind = \"button\"\nkeys = \"KeyP\"\n\
        [action.both]\nkind = \"button\"\ncue = \"guard with punch within 40ms\"\n";
    let of_both =
        |script: &str| -> Vec<String> { play(body, script).into_iter().filter(|line| line.contains("both")).collect() };
    let cases: &[(&str, &[&str])] = &[
        ("+G@100 +P@140 -G@300 -P@310", &["140000 both pulled", "300000 both ended (let go)"]),
        ("+P@100 +G@140 -P@310 -G@320", &["140000 both pulled", "310000 both ended (let go)"]),
        ("+G@100 +P@140001u -G@300 -P@310", &[]),
        // Not both down: the first was let go again.
        ("+G@100 -G@110 +P@120 -P@200", &[]),
        // The same guard doesn't serve a second chord.
        ("+G@100 +P@110 -P@115 +P@130 -P@140 -G@300", &["110000 both pulled", "115000 both ended (let go)"]),
    ];
    for (script, expected) in cases {
        assert_eq!(of_both(script), *expected, "{script}");
    }
}

#[test]
fn a_named_subject_is_heard_through_its_own_edges() {
    let body = "[action.use]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"tap under 200ms\"\n\
        [action.bag]\nkind = \"button\"\ncue = \"use hold 350ms\"\n";
    assert_eq!(play(body, "+E@0 -E@100"), ["100000 use pulled"]);
    assert_eq!(play(body, "+E@0 -E@500"), ["350000 bag pulled", "500000 bag ended (let go)"]);
}

#[test]
fn a_toggle_is_set_by_the_game_and_covering_leaves_it_as_it_stands() {
    let mut bench = Bench::new(&format!("[modes]\nmenu = {{ covers = \"all\" }}\n{}", on_j("toggle")));
    let act: Button = bench.find("act");
    bench.tape("{\"at\":100,\"set\":\"act\",\"value\":true}\n{\"at\":200,\"mode\":\"menu\",\"on\":true}").to(300);
    assert!(bench.seat.button(act).is_on() && !bench.seat.button(act).pulled());
    bench.seat.set(act, false).unwrap();
    bench.to(400);
    assert_eq!(bench.heard(), ["301 act ended (set)"]);
    let hold = linkage(&on_j("hold 1s"));
    assert!(hold.seat(Moment::ZERO).set(hold.find("act").unwrap(), true).is_err());
}

#[test]
fn cooldowns_and_marks_go_by_the_worlds_clock() {
    let body = format!("{}cooldown = \"300ms\"\nmarks = {{ hidden = \"9t@60\", turn = \"11t@60\" }}\n", on_j("press"));
    assert_eq!(
        play(&body, "+J@0 -J@10 +J@299999u -J@299999u +J@300 -J@310"),
        ["0 act pulled", "10000 act ended (let go)", "300001 act pulled", "310000 act ended (let go)"],
    );
    let mut bench = Bench::new(&body);
    let frozen: Fact = bench.find("frozen");
    bench.level(0, "keys:KeyJ", 1.0).level(10, "keys:KeyJ", 0.0).to(50_000);
    // Hit-stop for 100 ms: what goes by the world's clock comes that much later.
    bench.seat.tell(frozen, true).unwrap();
    bench.to(150_000);
    bench.seat.tell(frozen, false).unwrap();
    bench
        .level(399_999, "keys:KeyJ", 1.0)
        .level(399_999, "keys:KeyJ", 0.0)
        .level(400_000, "keys:KeyK", 1.0)
        .to(500_000);
    let heard: Vec<String> =
        bench.heard().into_iter().filter(|line| line.contains("mark") || line.contains("pulled")).collect();
    assert_eq!(heard, ["0 act pulled", "250000 act mark", "283333 act mark", "400000 act pulled"]);
}

/// A tap and a hold, a single and a double, a single and a chord on one key, with what is said of who wins.
fn rivals(single: &str, double: &str) -> String {
    format!(
        "[action.one]\nkind = \"button\"\nkeys = \"KeyJ\"\n{single}\n[action.two]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"2 taps 200ms apart\"\n{double}\n"
    )
}

#[test]
fn single_against_double_eagerly_and_patiently() {
    let twice = "+J@0 -J@50 +J@150 -J@190";
    let once = "+J@0 -J@50";
    // Eager: the single comes out at once; the double takes its press back and names it.
    let eager = rivals("", "outranks = [\"one\"]");
    assert_eq!(
        play(&eager, twice),
        ["0 one pulled", "50000 one ended (let go)", "150000 two pulled", "190000 two ended (let go)"]
    );
    let mut bench = Bench::new(&eager);
    bench.level(0, "keys:KeyJ", 1.0).level(50, "keys:KeyJ", 0.0).level(150, "keys:KeyJ", 1.0).to(200);
    let two: Button = bench.find("two");
    assert_eq!(bench.seat.latest().pulls(two).next().unwrap().over(bench.seat.linkage()), Some("one"));
    // Patient: the single waits until no double can come of its press: 200 ms after it.
    let patient = rivals("waits_for = [\"two\"]", "outranks = [\"one\"]");
    assert_eq!(play(&patient, twice), ["150000 two pulled", "190000 two ended (let go)"]);
    assert_eq!(play(&patient, once), ["200000 one pulled"]);
    // Held on, what waited is on until let go.
    assert_eq!(play(&patient, "+J@0 -J@600"), ["200000 one pulled", "600000 one ended (let go)"]);
    // A group says the same of any two: one press serves one pull.
    let group = rivals("group = \"hands\"", "group = \"hands\"");
    let pulled: Vec<String> = play(&group, twice).into_iter().filter(|line| line.contains("pulled")).collect();
    assert_eq!(pulled, ["0 one pulled", "150000 one pulled"], "the first press served, so no double stands on it");
    // Nothing said: both, and a warning.
    assert_eq!(play(&rivals("", ""), twice).iter().filter(|line| line.contains("pulled")).count(), 3);
    let warned: Vec<String> = linkage(&rivals("", "")).warnings().map(ToString::to_string).collect();
    assert!(
        warned.len() == 1 && warned[0].contains("this action and `one` will both pull on the same press"),
        "{warned:?}"
    );
    assert_eq!(linkage(&eager).warnings().count(), 0);
}

#[test]
fn single_against_chord_and_tap_against_hold() {
    let body = |single: &str| {
        format!(
            "[action.guard]\nkind = \"button\"\nkeys = \"KeyG\"\n[action.punch]\nkind = \"button\"\nkeys = \"KeyP\"\n{single}\n\
             [action.both]\nkind = \"button\"\ncue = \"guard with punch within 40ms\"\noutranks = [\"punch\", \"guard\"]\n"
        )
    };
    let script = "+P@100 +G@120 -G@300 -P@310";
    assert_eq!(
        play(&body(""), script),
        // The punch came out first, and ends outranked; the guard in the very moment of the chord never comes.
        ["100000 punch pulled", "120000 punch ended (outranked)", "120000 both pulled", "300000 both ended (let go)"]
    );
    let patient = body("waits_for = [\"both\"]");
    assert_eq!(play(&patient, script), ["120000 both pulled", "300000 both ended (let go)"]);
    assert_eq!(play(&patient, "+P@100 -P@400"), ["140000 punch pulled", "400000 punch ended (let go)"]);
    let tap = "[action.pick]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"tap under 200ms\"\n\
        [action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"hold 350ms\"\n";
    assert_eq!(play(tap, "+E@0 -E@199"), ["199000 pick pulled"]);
    assert_eq!(play(tap, "+E@0 -E@250"), [""; 0]);
    assert_eq!(linkage(tap).warnings().count(), 0, "a tap under 200 ms and a hold of 350 ms never meet");
}

#[test]
fn delays_are_told_and_endless_or_circular_waits_are_faults() {
    let linkage = linkage(&rivals("waits_for = [\"two\"]", "outranks = [\"one\"]"));
    let delays: Vec<(u128, String)> =
        linkage.actions().map(|a| a.delay().map(|delay| (delay.at_most.as_millis(), delay.why)).unwrap()).collect();
    assert_eq!(delays, [(200, "waits for two".into()), (0, String::new())]);
    let faults = |body: &str| {
        let profile = Profile::from_toml(&format!("tidy-lever = 1\n{body}")).unwrap();
        Linkage::build(&profile).unwrap_err().to_string()
    };
    let circle = rivals("waits_for = [\"two\"]", "waits_for = [\"one\"]");
    assert!(faults(&circle).contains("leads back to the action itself"));
    let endless = "[action.a]\nkind = \"button\"\nkeys = \"KeyJ\"\nwaits_for = [\"b\"]\n[action.b]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"release\"\n";
    assert!(faults(endless).contains("line 5, column 14: action.a.waits_for: waiting for `b` has no time limit"));
    let typo = "[action.a]\nkind = \"button\"\nkeys = \"KeyJ\"\noutranks = [\"twofolt\"]\n[action.twofold]\nkind = \"button\"\nkeys = \"KeyK\"\n";
    assert!(faults(typo).contains("there is no action `twofolt`; did you mean `twofold`?"));
}

#[test]
fn cue_lines_with_every_kind_of_slip_point_at_the_character() {
    let cases = [
        ("", 0, "a rule", "the end"),
        ("hol 300ms", 0, "a rule", "`hol`"),
        ("relase", 0, "a rule", "`relase`"),
        ("hold", 4, "a span, as in 300ms", "the end"),
        ("hold 300", 5, "a span", "`300`"),
        ("hold 300ms now", 11, "the end of the line", "`now`"),
        ("hold 0ms", 5, "a span", "`0ms`"),
        ("tap 200ms", 4, "`under`", "`200ms`"),
        ("2 tap 240ms apart", 2, "`taps`", "`tap`"),
        ("2 taps 240ms", 12, "`apart`", "the end"),
        ("1 taps 240ms apart", 0, "a rule", "`1`"),
        ("2 taps 240ms apart counted release", 27, "`on release`", "`release`"),
        ("double tap 240ms", 11, "`within`", "`240ms`"),
        ("repeat after 400ms", 18, "`every`", "the end"),
        ("mash many within 1s", 5, "a number of presses", "`many`"),
        ("with within 40ms", 5, "the name of the other action", "`within`"),
        ("charge 1s to 200ms", 13, "a longer span than the first", "`200ms`"),
        ("steer twice 240ms", 12, "`within`", "`240ms`"),
        ("some words hold 300ms", 5, "a rule", "`words`"),
        ("hold über", 5, "a span", "`über`"),
    ];
    for (line, at, expected, found) in cases {
        let error = Cue::read(line).unwrap_err();
        assert!(error.at == at && error.expected.starts_with(expected) && error.found == found, "{line}: {error:?}");
    }
}

fn any_rule() -> impl Strategy<Value = Rule> {
    let span = || (1..5_000_000u64).prop_map(std::time::Duration::from_micros);
    prop_oneof![
        Just(Rule::Press),
        Just(Rule::Release),
        Just(Rule::Toggle),
        span().prop_map(|span| Rule::Hold { span }),
        span().prop_map(|under| Rule::Tap { under }),
        (2..65u32, span(), prop::bool::ANY).prop_map(|(count, apart, on_release)| Rule::Taps {
            count,
            apart,
            on_release
        }),
        (span(), any::<bool>()).prop_map(|(within, until_neutral)| Rule::Twice { within, until_neutral }),
        (span(), span()).prop_map(|(after, every)| Rule::Repeat { after, every }),
        (2..65u32, span()).prop_map(|(count, within)| Rule::Mash { count, within }),
        span().prop_map(|within| Rule::With { other: "guard".into(), within }),
        (span(), span()).prop_map(|(from, more)| Rule::Charge { from, to: from + more }),
    ]
}

/// The presses of one key, as a hand may do them: (gap before, held for) in ms.
fn presses() -> impl Strategy<Value = Vec<(u64, u64)>> {
    prop::collection::vec((1..600u64, 1..600u64), 1..20)
}

/// What straightforward code for one rule would pull: moments in ms, from presses (down, up).
fn by_hand(rule: &Rule, presses: &[(u64, u64)]) -> Vec<u64> {
    let ms = |span: &std::time::Duration| span.as_millis() as u64;
    let mut pulls = Vec::new();
    let (mut count, mut last, mut all) = (0, None::<u64>, Vec::new());
    for (down, up) in presses {
        let held = up - down;
        match rule {
            Rule::Press => pulls.push(*down),
            Rule::Release => pulls.push(*up),
            Rule::Hold { span } if held >= ms(span) => pulls.push(down + ms(span)),
            Rule::Tap { under } if held < ms(under) => pulls.push(*up),
            Rule::Taps { count: wanted, apart, on_release } => {
                let at = if *on_release { *up } else { *down };
                count = if last.is_some_and(|last| at - last <= ms(apart)) { count + 1 } else { 1 };
                last = Some(at);
                if count == *wanted {
                    pulls.push(at);
                    (count, last) = (0, None);
                }
            }
            Rule::Repeat { after, every } => {
                pulls.push(*down);
                pulls.extend((0..).map(|n| down + ms(after) + n * ms(every)).take_while(|at| at <= up));
            }
            Rule::Mash { count, within } => {
                all.push(*down);
                let n = *count as usize;
                let fast = |i: usize| i + 1 >= n && all[i] - all[i + 1 - n] <= ms(within);
                let i = all.len() - 1;
                // On until the rate drops: a pull needs the press before to have been too slow, or its window over.
                let was_on = i > 0 && fast(i - 1) && all[i] <= all[i - n] + ms(within);
                if fast(i) && !was_on {
                    pulls.push(*down);
                }
            }
            Rule::Charge { from, .. } if held >= ms(from) => pulls.push(*up),
            _ => {}
        }
    }
    pulls
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn a_cue_prints_as_a_line_that_reads_back_to_it(rule in any_rule(), subject in prop::option::of("[a-d][a-z]{0,6}x")) {
        let cue = subject.map_or_else(|| Cue::from(rule.clone()), |subject| Cue::of(subject, rule.clone()));
        prop_assert_eq!(Cue::read(&cue.to_string()).unwrap(), cue);
    }

    #[test]
    fn every_rule_pulls_where_plain_code_would(rule in any_rule(), presses in presses()) {
        // In milliseconds, so that borders are met often.
        let rounded = Cue::read(&Cue::from(rule).to_string()).unwrap().rule;
        let ms = |span: std::time::Duration| std::time::Duration::from_millis((span.as_millis() as u64 % 700).max(1));
        let rule = match rounded {
            Rule::Hold { span } => Rule::Hold { span: ms(span) },
            Rule::Tap { under } => Rule::Tap { under: ms(under) },
            Rule::Taps { count, apart, on_release } => Rule::Taps { count: count % 3 + 2, apart: ms(apart), on_release },
            Rule::Repeat { after, every } => Rule::Repeat { after: ms(after), every: ms(every) },
            Rule::Mash { count, within } => Rule::Mash { count: count % 3 + 2, within: ms(within) * 2 },
            Rule::Charge { from, .. } => Rule::Charge { from: ms(from), to: ms(from) * 3 },
            Rule::Press => Rule::Press,
            _ => Rule::Release,
        };
        let quick = DeviceEntry::new().debounce("0ms");
        let profile = Profile::new("")
            .devices(tidy_lever::Family::Keys, quick)
            .action(Action::button("act").keys("KeyJ").cue(&rule));
        let linkage = Linkage::build(&profile).unwrap();
        let mut bench = Bench { bookmark: linkage.seat(Moment::ZERO).bookmark(), seat: linkage.seat(Moment::ZERO) };
        let mut at = 0;
        let mut real = Vec::new();
        for (gap, held) in presses {
            let (down, up) = (at + gap, at + gap + held);
            bench.level(down * 1_000, "keys:KeyJ", 1.0).level(up * 1_000, "keys:KeyJ", 0.0);
            real.push((down, up));
            at = up;
        }
        let mut pulls = Vec::new();
        let act: Button = bench.find("act");
        for tick in 1..=(at + 2_000) / 16 {
            bench.to(tick * 16_000);
            pulls.extend(bench.seat.latest().pulls(act).map(|pull| pull.at().as_micros() / 1_000));
        }
        prop_assert_eq!(pulls, by_hand(&rule, &real), "{} {:?}", rule, real);
    }
}

#[test]
fn a_thousand_pending_holds_fall_due_at_their_own_moments() {
    let mut body = String::new();
    for n in 0..1_000 {
        body += &format!(
            "[action.a{n}]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"hold {}ms\"\ngroup = \"g{n}\"\n",
            1_000 + n
        );
    }
    let mut bench = Bench::new(&body);
    bench.level(0, "keys:KeyJ", 1.0).to(999_999);
    assert_eq!(bench.heard().iter().filter(|line| line.contains("pulled")).count(), 0);
    bench.to(1_000_000);
    assert_eq!(bench.heard(), ["1000000 a0 pulled"]);
    bench.to(1_004_999);
    assert_eq!(bench.heard().len(), 4);
    assert_eq!(bench.seat.played(), us(1_004_999));
}

#[test]
fn cues_and_spans_built_in_code_mean_what_their_lines_mean() {
    use std::time::Duration;
    let ms = Duration::from_millis;
    let built = Profile::new("")
        .action(Action::button("hop").keys("KeyJ").cue(Rule::Hold { span: ms(300) }).keep(ms(150)).cooldown(ms(50)))
        .action(Action::button("bow").cue(Cue::of("hop", Rule::Tap { under: ms(200) })).mark("land", ms(400)));
    let lines = Profile::new("")
        .action(Action::button("hop").keys("KeyJ").cue("hold 300ms").keep("150ms").cooldown("0.05s"))
        .action(Action::button("bow").cue("hop tap under 0.2s").mark("land", "400ms"));
    let (built, lines) = (Linkage::build(&built).unwrap(), Linkage::build(&lines).unwrap());
    let mut seat = built.seat(Moment::ZERO);
    // A state is only taken where everything that decides is the same.
    assert_eq!(seat.restore(&lines.seat(Moment::ZERO).saved(&[]), &mut []), Ok(()));
}

#[test]
fn a_built_cue_that_no_line_could_say_is_a_fault() {
    use std::time::Duration;
    use tidy_lever::cue::{PathStep, Position};
    let (none, day) = (Duration::ZERO, Duration::from_secs(86_401));
    let span = Duration::from_millis(300);
    let step = |held| PathStep { position: Position::from_name("down").unwrap(), maybe: false, held };
    let rolls = |steps, on_release| Rule::Motion { steps, then: None, within: span, on_release };
    for (cue, told) in [
        (Cue::from(Rule::Hold { span: none }), "a span must be longer than nothing"),
        (Rule::Tap { under: day }.into(), "a span must be longer than nothing"),
        (Rule::Taps { count: 1, apart: span, on_release: false }.into(), "2 to 64, found 1"),
        (Rule::Mash { count: 65, within: span }.into(), "2 to 64, found 65"),
        (Rule::Charge { from: span, to: span }.into(), "longer than the first"),
        (Rule::Spins { eighths: 1, within: span }.into(), "2 to 32 eighths, found 1"),
        (Rule::Flicks { over: 1_000_001, within: span }.into(), "found 1000001"),
        (Rule::Order { names: Vec::new(), within: span }.into(), "names nothing"),
        (Rule::Order { names: vec!["within".into(), "act".into()], within: span }.into(), "`within` can't be a name"),
        (Rule::With { other: "with".into(), within: span }.into(), "`with` can't be a name"),
        (Cue::of("1st", Rule::Press), "`1st` can't be a name"),
        (rolls(Vec::new(), false).into(), "goes nowhere"),
        (rolls(vec![step(none), step(day)], false).into(), "a day at most"),
        (rolls(vec![step(none), step(none)], true).into(), "without `then` nothing is let go"),
    ] {
        let profile = Profile::new("").action(Action::button("act").keys("KeyJ").cue(cue.clone()));
        let faults = Linkage::build(&profile).unwrap_err().to_string();
        assert!(faults.contains("action.act.cue: ") && faults.contains(told), "{cue:?}: {faults}");
    }
}
