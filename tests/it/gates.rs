//! Promise: a pull passes when its gate says so: facts, lingering, keeps, spending, stages, modes, groups.

use crate::common::{Bench, linkage};
use proptest::prelude::*;
use tidy_lever::{Button, Linkage, Moment, Profile};

/// Plays a script in ms: `+K` and `-K` a key, `g1`/`g0` the ground, `b1`/`b0` busy, `z1`/`z0` frozen, `menu1`/`menu0` a mode,
/// `back` gives a hop back. `@` is the moment, with `u` in µs.
fn play(body: &str, script: &str) -> Vec<String> {
    let mut bench = Bench::new(body);
    let mut end = 0;
    for step in script.split_whitespace() {
        let (what, at) = step.split_once('@').expect("what@when");
        let at = at.strip_suffix('u').map_or_else(|| at.parse::<u64>().unwrap() * 1_000, |us| us.parse().unwrap());
        end = end.max(at);
        let told = |line: &str| format!("{{\"at\":{at},{line}}}");
        match (what.strip_suffix(['0', '1']), what.ends_with('1')) {
            _ if what.starts_with(['+', '-']) => {
                bench.level(at, &format!("keys:{}", &what[1..]), if what.starts_with('+') { 1.0 } else { 0.0 });
            }
            (Some("g"), on) => drop(bench.tape(&told(&format!("\"fact\":\"grounded\",\"value\":{on}")))),
            (Some("b"), on) => drop(bench.tape(&told(&format!("\"fact\":\"busy\",\"value\":{on}")))),
            (Some("z"), on) => drop(bench.tape(&told(&format!("\"frozen\":{on}")))),
            (Some(mode), on) => drop(bench.tape(&told(&format!("\"mode\":\"{mode}\",\"on\":{on}")))),
            _ => drop(bench.tape(&told("\"give_back\":\"hop\""))),
        }
    }
    bench.to(end + 3_000_000);
    bench.heard().into_iter().filter(|line| line.contains("pulled")).map(|line| line.replace(" pulled", "")).collect()
}

fn drop<T>(_: T) {}

const HOP: &str = "[facts]\ngrounded = true\nbusy = false\n[action.hop]\nkind = \"button\"\nkeys = [\"Space\", \"KeyJ\"]\n\
    when = \"grounded within 90ms and not busy\"\nkeep = \"120ms\"\n";

#[test]
fn each_span_of_a_truth_ends_at_its_own_microsecond() {
    let body = "[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms\"\n\
        [action.dive]\nkind = \"button\"\nkeys = \"KeyK\"\nwhen = \"not grounded within 50ms\"\nkeep = \"200ms\"\n\
        [action.fall]\nkind = \"button\"\nkeys = \"KeyL\"\nwhen = \"not grounded within 70ms\"\nkeep = \"200ms\"\n";
    // Nothing else happens then: the end of the lingering alone opens the gate, the shorter one first.
    assert_eq!(play(body, "g0@100 +KeyK@120 +KeyL@130"), ["150001 dive", "170001 fall"]);
    assert_eq!(play(body, "g0@100 +KeyL@120 +KeyK@155"), ["155000 dive", "170001 fall"]);
    // A standing clock keeps them all waiting.
    assert_eq!(play(body, "g0@100 +KeyK@120 z1@130 z0@530 +KeyL@540"), ["550001 dive", "570001 fall"]);
}

#[test]
fn early_late_once_and_never_into_the_sky() {
    let cases: &[(&str, &[&str])] = &[
        ("+Space@100", &["100000 hop"]),
        // Late: up to 90 ms after walking off a ledge, and not a microsecond more.
        ("g0@100 +Space@190", &["190000 hop"]),
        ("g0@100 +Space@190001u", &[]),
        // Early: kept for 120 ms, to the last microsecond.
        ("g0@100 +Space@500 g1@620", &["620000 hop"]),
        ("g0@100 +Space@500 g1@620001u", &[]),
        ("g0@100 +Space@500 -Space@510 g1@550", &["550000 hop"]),
        // Land and press in one moment.
        ("g0@100 g1@500 +Space@500", &["500000 hop"]),
        // One press is one hop, though the ground stays for a moment and flickers on the way up.
        ("+Space@100 g0@117 g1@133 -Space@140 g0@150 g1@700 +Space@900", &["100000 hop", "900000 hop"]),
        // No second hop from the lingering after a hop: the second press is kept, and expires.
        ("+Space@100 -Space@110 g0@117 +Space@150 -Space@160 g1@700", &["100000 hop"]),
        // A flicker of the ground each tick doesn't matter.
        ("g0@100 g1@117 g0@133 g1@150 g0@167 +Space@180", &["180000 hop"]),
        // Bunny-hop: pressed just before landing, comes out on landing, once.
        ("+Space@100 -Space@150 g0@117 +Space@650 -Space@690 g1@700 g0@717 g1@1300", &["100000 hop", "700000 hop"]),
        // Blocked by a ceiling: the ground is never left, and 250 ms later it counts again.
        ("+Space@100 -Space@110 +Space@349999u -Space@350100u", &["100000 hop", "350000 hop"]),
        ("+Space@100 -Space@110 +Space@229 -Space@230", &["100000 hop"]),
        ("+Space@100 -Space@110 +Space@351", &["100000 hop", "351000 hop"]),
        // The game refused it: given back, the next press counts at once.
        ("+Space@100 -Space@110 back@120 +Space@130", &["100000 hop", "130000 hop"]),
        // A newer press replaces the kept one.
        ("g0@50 +Space@500 -Space@510 +Space@600 -Space@610 g1@720", &["720000 hop"]),
        // Another fact shuts the gate; it opens and the kept hop comes.
        ("b1@50 +Space@100 b0@200", &["200000 hop"]),
        // Hit-stop in mid-keep: the world's clock stands still, so it is kept that much longer.
        ("g0@100 +Space@500 z1@550 z0@1000 g1@1070", &["1070000 hop"]),
        ("g0@100 +Space@500 z1@550 z0@1000 g1@1070001u", &[]),
        // And lingering stands still with it.
        ("g0@100 z1@120 z0@400 +Space@470", &["470000 hop"]),
        // Frozen shuts no gate by itself.
        ("z1@50 +Space@100", &["100000 hop"]),
    ];
    for (script, expected) in cases {
        assert_eq!(play(HOP, script), *expected, "{script}");
    }
}

#[test]
fn a_pull_spends_for_every_action_that_reads_the_fact_through_within_and_plain_terms_never() {
    let body = format!(
        "{HOP}[action.skip]\nkind = \"button\"\nkeys = \"KeyK\"\nwhen = \"grounded within 50ms\"\nkeep = \"0ms\"\n\
         [action.stamp]\nkind = \"button\"\nkeys = \"KeyS\"\nwhen = \"grounded\"\nkeep = \"0ms\"\n"
    );
    let script = "+Space@100 +KeyK@110 -KeyK@120 +KeyS@130 g0@140 g1@600 +KeyK@700";
    assert_eq!(play(&body, script), ["100000 hop", "130000 stamp", "700000 skip"]);
    let free = "[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms\"\nkeep = \"0ms\"\nspends = []\n";
    assert_eq!(play(free, "+Space@100 -Space@110 +Space@120").len(), 2);
}

#[test]
fn hopping_on_while_held() {
    let body = "[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms\"\nwhile_held = true\n";
    let script = "+Space@100 g0@117 g1@600 g0@617 g1@1100 -Space@1200 g0@1300 g1@1400";
    assert_eq!(play(body, script), ["100000 hop", "600000 hop", "1100000 hop"]);
    assert_eq!(
        play(body, "g0@50 +Space@200 g1@900 g0@920 -Space@999"),
        ["900000 hop"],
        "held since before the gate opened"
    );
}

#[test]
fn stages_grow_with_hops_in_a_row() {
    let body = "[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms\"\nkeep = \"120ms\"\n\
        stages = { count = 3, after = \"grounded\", within = \"180ms\" }\n";
    let stages = |script: &str| -> Vec<u8> {
        let mut bench = Bench::new(body);
        for step in script.split_whitespace() {
            let (what, at) = step.split_once('@').unwrap();
            let at: u64 = at.parse::<u64>().unwrap() * 1_000;
            match what {
                "hop" => drop(bench.level(at, "keys:Space", 1.0).level(at + 20_000, "keys:Space", 0.0)),
                what => {
                    drop(bench.tape(&format!("{{\"at\":{at},\"fact\":\"grounded\",\"value\":{}}}", what == "land")))
                }
            }
        }
        bench.to(60_000_000);
        let hop: Button = bench.find("hop");
        let pulls = bench.seat.latest().pulls(hop);
        pulls.map(|pull| pull.stage().unwrap()).collect()
    };
    assert_eq!(
        stages("hop@100 off@120 land@700 hop@800 off@820 land@1400 hop@1580 off@1600 land@2200 hop@2250"),
        [1, 2, 3, 1]
    );
    assert_eq!(stages("hop@100 off@120 land@700 hop@881"), [1, 1], "later than 180 ms");
    assert_eq!(stages("hop@100 off@120 hop@650 land@700"), [1, 2], "kept, and out on landing");
    // Falling off a ledge is not a hop: that landing begins nothing.
    assert_eq!(stages("hop@100 off@120 land@700 off@1500 land@1700 hop@1750"), [1, 1]);
}

const MENU: &str = "[modes]\nashore = { on = true }\nafloat = {}\nmenu = { covers = \"all\" }\n\
    [action.open]\nkind = \"button\"\nmodes = [\"ashore\", \"afloat\"]\nkeys = \"Enter\"\ngroup = \"menu\"\nturns_on = [\"menu\"]\n\
    [action.close]\nkind = \"button\"\nmodes = [\"menu\"]\nkeys = \"Enter\"\ngroup = \"menu\"\nturns_off = [\"menu\"]\n\
    [action.board]\nkind = \"button\"\nmodes = [\"ashore\"]\nkeys = \"KeyR\"\ngroup = \"punt\"\nturns_on = [\"afloat\"]\nturns_off = [\"ashore\"]\n\
    [action.leave]\nkind = \"button\"\nmodes = [\"afloat\"]\nkeys = \"KeyR\"\ngroup = \"punt\"\nturns_on = [\"ashore\"]\nturns_off = [\"afloat\"]\n";

#[test]
fn one_press_opens_or_closes_boards_or_leaves_never_both() {
    let cases: &[(&str, &[&str])] = &[
        ("+Enter@100 -Enter@200 +Enter@300 -Enter@400 +Enter@500", &["100000 open", "300000 close", "500000 open"]),
        ("+KeyR@100 -KeyR@900 +KeyR@1000", &["100000 board", "1000000 leave"]),
        // The menu opens with R held: on coming back R needs a fresh press.
        (
            "+Enter@50 -Enter@60 +KeyR@100 +Enter@150 -Enter@160 -KeyR@200 +KeyR@300",
            &["50000 open", "150000 close", "300000 board"],
        ),
    ];
    for (script, expected) in cases {
        assert_eq!(play(MENU, script), *expected, "{script}");
    }
}

#[test]
fn a_gate_asks_what_is_on_as_it_stood_before_this_moments_pulls() {
    let body = "[facts]\nbusy = false\n[action.guard]\nkind = \"button\"\nkeys = \"KeyG\"\n\
        [action.counter]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"guard on\"\nkeep = \"50ms\"\n\
        [action.stroll]\nkind = \"button\"\nkeys = \"KeyK\"\nwhen = \"not (guard on or busy)\"\nkeep = \"0ms\"\n";
    assert_eq!(play(body, "+KeyG@100 +KeyJ@200"), ["100000 guard", "200000 counter"]);
    assert_eq!(play(body, "+KeyJ@100 +KeyG@100"), ["100000 guard", "100001 counter"]);
    assert_eq!(play(body, "+KeyG@100 +KeyK@150 -KeyK@160 -KeyG@200 +KeyK@200"), ["100000 guard", "200000 stroll"]);
}

#[test]
fn a_cooldown_keeps_and_covering_or_losing_the_focus_drops() {
    let body = "[modes]\nmenu = { covers = \"all\" }\n[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\ncooldown = \"300ms\"\nkeep = \"100ms\"\n";
    assert_eq!(play(body, "+KeyJ@0 -KeyJ@10 +KeyJ@200 -KeyJ@210"), ["0 toss", "300000 toss"]);
    assert_eq!(play(body, "+KeyJ@0 -KeyJ@10 +KeyJ@199 -KeyJ@210"), ["0 toss"]);
    assert_eq!(play(body, "+KeyJ@0 -KeyJ@10 +KeyJ@250 menu1@260 menu0@270"), ["0 toss"]);
    let mut bench = Bench::new(body);
    bench.level(0, "keys:KeyJ", 1.0).level(10, "keys:KeyJ", 0.0).level(250_000, "keys:KeyJ", 1.0);
    bench.tape("{\"at\":260000,\"focus\":false}\n{\"at\":270000,\"focus\":true}").to(900_000);
    assert_eq!(bench.heard().iter().filter(|line| line.contains("pulled")).count(), 1);
}

#[test]
fn check_warns_of_gates_that_can_not_be_meant() {
    let warned = |body: &str| -> String { linkage(body).warnings().map(|fault| format!("{fault}\n")).collect() };
    let cases = [
        ("[facts]\nwet = false\n", "no gate uses this fact"),
        (
            "[facts]\nwet = false\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"wet\"\n",
            "a press shortly before the gate opens is lost",
        ),
        ("[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nkeep = \"90ms\"\n", "nothing blocks this action"),
        (
            "[facts]\nstate = [\"idle\", \"run\"]\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nkeep = \"9ms\"\nwhen = \"state is idle and state is run\"\n",
            "this gate can never be true",
        ),
        (
            "[facts]\nwet = false\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nkeep = \"9ms\"\nwhen = \"wet and not wet\"\n",
            "this gate can never be true",
        ),
        (
            "[facts]\nstate = [\"idle\", \"run\"]\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nkeep = \"9ms\"\nwhen = \"not state is idle and not state is run\"\n",
            "this gate can never be true",
        ),
        (
            "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nkeep = \"9ms\"\nwhen = \"hop on and not hop on\"\n",
            "this gate can never be true",
        ),
        (
            "[modes]\na = {}\nb = { covers = [\"a\"] }\n[action.one]\nkind = \"button\"\nmodes = [\"a\"]\nkeys = \"KeyJ\"\n[action.two]\nkind = \"button\"\nmodes = [\"b\"]\ncue = \"one press\"\n",
            "this action can never pull: it listens to `one`, and the two are never active in the same mode",
        ),
        (
            "[modes]\na = {}\nb = { on = true, covers = \"all\" }\n[action.one]\nkind = \"button\"\nmodes = [\"a\"]\nkeys = \"KeyJ\"\n",
            "this action is inactive until the game turns `b` off",
        ),
    ];
    for (body, expected) in cases {
        let told = warned(body);
        assert!(told.contains(expected), "{body}\n{told}");
    }
    // Many ways to open a gate: one of three words, and twenty actions at once.
    let either = "[facts]\nstate = [\"idle\", \"run\", \"row\"]\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nkeep = \"9ms\"\nwhen = \"not state is idle and not state is run\"\n";
    let actions: String =
        (0..20).map(|n| format!("[action.a{n}]\nkind = \"button\"\nkeys = \"F{}\"\n", n + 1)).collect();
    let all: Vec<String> = (0..20).map(|n| format!("a{n} on")).collect();
    let all = format!(
        "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nkeep = \"9ms\"\nwhen = \"{}\"\n{actions}",
        all.join(" and ")
    );
    assert_eq!((warned(either), warned(&all)), (String::new(), String::new()));
    let faults = |body: &str| {
        Linkage::build(&Profile::from_toml(&format!("tidy-lever = 1\n{body}")).unwrap()).unwrap_err().to_string()
    };
    let hop = |rest: &str| {
        format!(
            "[facts]\ngrounded = true\nstate = [\"idle\", \"run\"]\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n{rest}\n"
        )
    };
    let cases = [
        ("when = \"grouded\"", "there is no fact `grouded`; declare it under `[facts]`; did you mean `grounded`?"),
        ("when = \"hop\"", "there is no fact `hop`; to test the action, write `hop on`"),
        ("when = \"state\"", "`state` holds one of several words; write `state is …` (idle, run)"),
        ("when = \"state is idel\"", "`state` can't be `idel`; its words are idle, run; did you mean `idle`?"),
        (
            "when = \"grounded and\"",
            "line 8, column 21: action.hop.when: `grounded and`: at character 13: expected a fact, an action with `on`, `not`, or a bracket, found the end",
        ),
        ("when = \"hopp on\"", "there is no action `hopp`; did you mean `hop`?"),
        ("keep = \"soon\"", "action.hop.keep: \"soon\": a span is a number"),
        (
            "stages = { count = 3, after = \"grounded\", within = \"180ms\" }",
            "`after` must be a fact that the pull uses up",
        ),
        ("turns_on = [\"menu\"]", "action.hop.turns_on: there is no mode `menu`"),
    ];
    for (rest, expected) in cases {
        let told = faults(&hop(rest));
        assert!(told.contains(expected), "{rest}\n{told}");
    }
}

/// A press of hop and what became of it, told by the rules alone: a slow, obvious second implementation for one fact that
/// lingers, one keep, and spending. Facts and presses at distinct moments in ms.
fn naive(steps: &[(u64, bool, bool)], end: u64) -> Vec<u64> {
    let (linger, keep, unbroken) = (90_000, 120_000, 250_000);
    let mut told: Vec<(u64, bool)> = vec![(0, true)];
    told.extend(steps.iter().filter(|(_, press, _)| !press).map(|(at, _, value)| (*at, *value)));
    let presses: Vec<u64> = steps.iter().filter(|(_, press, _)| *press).map(|(at, ..)| *at).collect();
    let holds = |at: u64| told.iter().rev().find(|(when, _)| *when <= at).is_some_and(|(_, value)| *value);
    let mut pulls: Vec<u64> = Vec::new();
    let mut kept: Option<u64> = None;
    // Moments at which anything can change, and the microseconds around them.
    let mut moments: Vec<u64> = told.iter().map(|(at, _)| *at).chain(presses.iter().copied()).collect();
    let mut n = 0;
    moments.sort_unstable();
    while n < moments.len() {
        let at = moments[n];
        n += 1;
        if at > end {
            break;
        }
        // What a kept pull waited for comes before a press of the same moment, which is then one more.
        for press in [false, true] {
            if press && presses.contains(&at) {
                kept = Some(at);
            }
            kept = kept.filter(|pressed| at - pressed <= keep);
            let spent = pulls.last().is_some_and(|pull| {
                let recovered = {
                    // False after the pull (or at it), then true, at least its span after the pull, at some moment up to now.
                    let fell =
                        (!holds(*pull)).then_some(*pull).or(told.iter().find(|(w, v)| w > pull && !v).map(|(w, _)| *w));
                    let rose = fell.and_then(|fell| {
                        told.iter()
                            .filter(|(w, v)| *w > fell && *v && *w <= at)
                            .map(|(w, _)| (*w).max(pull + linger))
                            .find(|t| *t <= at && holds(*t))
                    });
                    let stood = fell.is_none_or(|fell| fell > pull + unbroken) && at >= pull + unbroken && holds(*pull);
                    rose.is_some() || stood
                };
                !recovered
            });
            let fell = told.windows(2).filter(|w| w[0].1 && !w[1].1 && w[1].0 <= at).map(|w| w[1].0).next_back();
            let open = !spent && (holds(at) || fell.is_some_and(|fell| at - fell <= linger));
            if open && kept.is_some() {
                pulls.push(at);
                kept = None;
                for later in [at + linger, at + unbroken] {
                    let place = moments[n..].iter().position(|m| *m >= later).map_or(moments.len(), |p| n + p);
                    moments.insert(place, later);
                }
            }
        }
        moments.dedup();
    }
    pulls
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, cases: 600, ..ProptestConfig::default() })]

    #[test]
    fn hops_come_where_the_naive_rules_say(
        // Spans of the gate among them, so that what falls due meets what is pressed.
        gaps in prop::collection::vec((prop_oneof![1..260u64, 1..4u64, Just(90), Just(160), Just(250)], prop::bool::ANY), 1..24),
    ) {
        let mut at = 0;
        let mut ground = true;
        let mut steps = Vec::new();
        for (gap, press) in gaps {
            at += gap * 1_000;
            if !press {
                ground = !ground;
            }
            steps.push((at, press, ground));
        }
        let body = "[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms\"\nkeep = \"120ms\"\n";
        let mut bench = Bench::new(body);
        for (at, press, value) in &steps {
            if *press {
                bench.level(*at, "keys:Space", 1.0).level(at + 1, "keys:Space", 0.0);
            } else {
                bench.tape(&format!("{{\"at\":{at},\"fact\":\"grounded\",\"value\":{value}}}"));
            }
        }
        let hop: Button = bench.find("hop");
        let end = at + 600_000;
        bench.seat.advance(Moment::from_micros(end));
        let pulls: Vec<u64> = bench.seat.latest().pulls(hop).map(|pull| pull.at().as_micros()).collect();
        prop_assert_eq!(pulls, naive(&steps, end), "{:?}", steps);
    }

    #[test]
    fn never_two_pulls_of_a_group_for_one_press_and_never_with_the_gate_shut(
        steps in prop::collection::vec((0..120u64, 0..5u8, prop::bool::ANY), 1..60),
    ) {
        let body = "[facts]\nbusy = false\n[action.jab]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"tap under 150ms\"\ngroup = \"hands\"\nwhen = \"not busy\"\nkeep = \"0ms\"\n\
            [action.grab]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"hold 100ms\"\ngroup = \"hands\"\nwhen = \"not busy\"\nkeep = \"80ms\"\n\
            [action.clap]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"2 taps 150ms apart\"\ngroup = \"hands\"\nwhen = \"not busy\"\nkeep = \"0ms\"\n\
            [action.both]\nkind = \"button\"\ncue = \"jab with other within 60ms\"\ngroup = \"hands\"\n[action.other]\nkind = \"button\"\nkeys = \"KeyK\"\n";
        let mut bench = Bench::new(body);
        let (mut at, mut busy) = (0, vec![(0, false)]);
        let mut presses = 0u32;
        let mut down = false;
        for (gap, what, flag) in steps {
            at += gap * 1_000 + 10;
            match what {
                0 => {
                    bench.tape(&format!("{{\"at\":{at},\"fact\":\"busy\",\"value\":{flag}}}"));
                    busy.push((at, flag));
                }
                1 | 2 => {
                    presses += u32::from(flag && !down);
                    down = flag;
                    bench.level(at, "keys:KeyJ", if flag { 1.0 } else { 0.0 });
                }
                _ => drop(bench.level(at, "keys:KeyK", if flag { 1.0 } else { 0.0 })),
            }
        }
        bench.to(at + 1_000_000);
        let mut pulls = 0;
        for line in bench.heard().iter().filter(|line| line.contains("pulled") && !line.contains("other")) {
            pulls += 1;
            let when: u64 = line.split(' ').next().unwrap().parse().unwrap();
            let was_busy = busy.iter().rev().find(|(told, _)| *told <= when).unwrap().1;
            prop_assert!(!was_busy || line.contains("both"), "{line} while busy");
        }
        prop_assert!(pulls <= presses, "{pulls} pulls of one group from {presses} presses");
    }
}

#[test]
fn a_pulled_cable_drops_what_its_button_had_kept_or_held_back() {
    let body = "[facts]\ngrounded = false\n[action.hop]\nkind = \"button\"\npad = \"south\"\nwhen = \"grounded\"\nkeep = \"500ms\"\n\
        [action.one]\nkind = \"button\"\npad = \"west\"\nwaits_for = [\"two\"]\n\
        [action.two]\nkind = \"button\"\npad = \"west\"\ncue = \"2 taps 300ms apart\"\noutranks = [\"one\"]\n";
    // Whether the buttons were let go before the cable was pulled makes no difference.
    for (unplugged, let_go, pulls) in [(true, false, 0), (true, true, 0), (false, false, 2), (false, true, 2)] {
        let mut bench = Bench::new(body);
        bench.level_on(100_000, 1, "pad:south", 1.0).level_on(110_000, 1, "pad:west", 1.0);
        if let_go {
            bench.level_on(150_000, 1, "pad:south", 0.0).level_on(160_000, 1, "pad:west", 0.0);
        }
        if unplugged {
            let pad = tidy_lever::Device::new(1).unwrap();
            bench.seat.feed(tidy_lever::Event::plugged(Moment::from_micros(200_000), pad, false)).unwrap();
        }
        bench.tape("{\"at\":300000,\"fact\":\"grounded\",\"value\":true}").to(2_000_000);
        assert_eq!(bench.heard().iter().filter(|line| line.contains("pulled")).count(), pulls);
    }
}

#[test]
fn several_modes_hear_one_action_and_switching_between_them_ends_nothing() {
    let body = "[modes]\nashore = { on = true }\nafloat = {}\n[action.photo]\nkind = \"button\"\nmodes = [\"ashore\", \"afloat\"]\nkeys = \"KeyP\"\n";
    let mut bench = Bench::new(body);
    bench.level(100, "keys:KeyP", 1.0);
    bench.tape("{\"at\":200,\"mode\":\"afloat\",\"on\":true}\n{\"at\":300,\"mode\":\"ashore\",\"on\":false}").to(400);
    assert_eq!(bench.heard(), ["100 photo pressed", "100 photo pulled"]);
    bench.tape("{\"at\":500,\"mode\":\"afloat\",\"on\":false}").to(600);
    assert_eq!(bench.heard(), ["500 photo released (covered)", "500 photo ended (covered)"]);
}
