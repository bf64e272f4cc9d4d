//! Promise: one action wins a press: at once, later, over what had pulled already, in a group, and while others wait.

use std::time::Duration;

use crate::common::{Bench, linkage, us};
use tidy_lever::{Button, Control};

/// Plays a script (`+J@100` presses `keys:KeyJ` at 100 ms; `6@50` points the left stick by a number pad's digit) and tells
/// what pulled, and what ended for a reason that is not the hand's.
fn play(body: &str, script: &str) -> Vec<String> {
    let (mut bench, mut all) = (Bench::new(body), Vec::new());
    for word in script.split_whitespace() {
        let (what, at) = word.split_once('@').unwrap();
        let at = at.strip_suffix('u').map_or_else(|| at.parse::<u64>().unwrap() * 1_000, |us| us.parse().unwrap());
        if at > 1 {
            bench.to(at - 1);
        }
        all.extend(bench.heard());
        match what.split_at(1) {
            ("+", key) => drop(bench.level(at, &format!("keys:Key{key}"), 1.0)),
            ("-", key) => drop(bench.level(at, &format!("keys:Key{key}"), 0.0)),
            (digit, _) => {
                let n = digit.parse::<i32>().unwrap() - 1;
                drop(bench.pair(at, Control::LEFT_STICK, (n % 3 - 1) as f32, (n / 3 - 1) as f32));
            }
        }
    }
    bench.to(5_000_000);
    let tells = |line: &String| line.ends_with("pulled") || (line.contains(" ended ") && !line.contains("(let go)"));
    all.extend(bench.heard());
    all.into_iter().filter(tells).collect()
}

/// `play` is told what comes back by value; the bench hands itself on.
fn drop<T>(_: T) {}

const STICK: &str = "[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"press\"\n";

#[test]
fn an_outranked_action_never_pulls_on_that_press_later() {
    let later = |cue: &str, more: &str| {
        format!(
            "[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n[action.guard]\nkind = \"button\"\nkeys = \"KeyK\"\n\
             [action.slip]\nkind = \"button\"\ncue = \"toss with guard within 80ms\"\noutranks = [\"late\"]\n\
             [action.late]\nkind = \"button\"\ncue = \"toss {cue}\"\n{more}"
        )
    };
    // Each of these would pull on the press of `toss`, long after the chord took it.
    for (cue, script) in [
        ("release", "+J@100 +K@120 -J@200 -K@210"),
        ("tap under 200ms", "+J@100 +K@120 -J@200 -K@210"),
        ("hold 200ms", "+J@100 +K@120 -J@900 -K@910"),
        ("charge 50ms to 400ms", "+J@100 +K@120 -J@300 -K@310"),
        ("2 taps 240ms apart", "+J@100 +K@120 -J@150 -K@160 +J@250 -J@300"),
        ("2 taps 240ms apart counted on release", "+J@100 +K@120 -J@150 -K@160 +J@250 -J@300"),
        ("mash 3 within 1s", "+J@100 +K@120 -J@150 -K@160 +J@250 -J@300 +J@400"),
    ] {
        let heard = play(&later(cue, ""), script);
        let pulls: Vec<&String> =
            heard.iter().filter(|line| !line.contains("toss") && !line.contains("guard")).collect();
        assert_eq!(pulls, ["120000 slip pulled"], "{cue}");
    }
    // Later presses start again.
    let heard = play(&later("2 taps 240ms apart", ""), "+J@100 +K@120 -J@150 -K@160 +J@250 -J@300 +J@350");
    assert!(heard.contains(&"350000 late pulled".to_owned()), "{heard:?}");
    // What repeats on it stops; what was kept on it is gone.
    let heard = play(&later("repeat after 50ms every 50ms", ""), "+J@100 +K@120 -J@900 -K@910");
    let late: Vec<&String> = heard.iter().filter(|line| line.contains("late")).collect();
    assert_eq!(late, ["100000 late pulled", "120000 late ended (outranked)"]);
    let kept = later("press", "when = \"not guard on\"\nkeep = \"500ms\"\n")
        .replace("keys = \"KeyK\"", "keys = \"KeyK\"\ncue = \"press\"");
    let heard = play(&kept, "+K@90 +J@100 -J@150 -K@200");
    assert!(!heard.iter().any(|line| line.contains("late")), "{heard:?}");
}

#[test]
fn one_press_never_finishes_two_motions_of_which_one_outranks_the_other() {
    let body = format!(
        "{STICK}[action.rise]\nkind = \"button\"\ncue = \"steer rolls 623 then toss within 500ms\"\noutranks = [\"skim\"]\nearly = \"60ms\"\n\
         [action.skim]\nkind = \"button\"\ncue = \"steer rolls 236 then toss within 500ms\"\noutranks = [\"toss\"]\nearly = \"60ms\"\n"
    );
    // The press comes before the last direction; the stick goes on to forward, which would finish the other one.
    let heard = play(&body, "6@0 5@20 2@40 +J@60 3@70 6@90 -J@200");
    assert_eq!(heard, ["60000 toss pulled", "70000 toss ended (outranked)", "70000 rise pulled"]);
    // What outranks through another outranks.
    assert_eq!(play(&body, "6@0 5@20 2@40 3@70 +J@75 6@90 -J@200"), ["75000 rise pulled"]);
    assert_eq!(play(&body, "2@40 3@70 6@90 +J@95 -J@200"), ["95000 skim pulled"]);
}

#[test]
fn a_pull_that_is_taken_back_returns_what_it_spent_its_cooldown_marks_and_toggle() {
    let body = "[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"KeyJ\"\nwhen = \"grounded within 90ms\"\n\
        cooldown = \"900ms\"\nmarks = { hidden = \"400ms\" }\nstages = { count = 3, after = \"grounded\", within = \"9s\" }\nkeep = \"0ms\"\n\
        [action.lamp]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"toggle\"\n\
        [action.dive]\nkind = \"button\"\ncue = \"hop hold 100ms\"\noutranks = [\"hop\", \"lamp\"]\n";
    let mut bench = Bench::new(body);
    bench.level(1_000, "keys:KeyJ", 1.0).to(50_000);
    let (hop, lamp): (Button, Button) = (bench.find("hop"), bench.find("lamp"));
    assert!(bench.seat.button(lamp).is_on());
    bench.level(150_000, "keys:KeyJ", 0.0).to(150_000);
    assert_eq!(
        bench.heard().split_off(4),
        [
            "101000 hop ended (outranked)",
            "101000 lamp ended (outranked)",
            "101000 dive pulled",
            "150000 hop released (let go)",
            "150000 dive ended (let go)",
            "150000 lamp released (let go)"
        ]
    );
    assert_eq!(bench.seat.countdowns().count(), 0, "it doesn't cool down, and the fact is not spent");
    // Nothing stands in the way of the next hop, which is the first of a row again; no mark comes.
    bench.level(160_000, "keys:KeyJ", 1.0).level(170_000, "keys:KeyJ", 0.0).to(500_000);
    let heard = bench.heard();
    assert!(
        heard.contains(&"160000 hop pulled".to_owned()) && !heard.iter().any(|line| line.contains("mark")),
        "{heard:?}"
    );
    assert_eq!(bench.seat.latest().pulls(hop).last().unwrap().stage(), Some(1));
    assert!(bench.seat.button(lamp).is_on());
    bench.to(600_000);
    assert_eq!(bench.heard(), ["560000 hop mark"], "the second hop's own");
    // A press that turned it off and was then taken: it is on as before. The game's own refusal does the same.
    bench.level(700_000, "keys:KeyJ", 1.0).level(900_000, "keys:KeyJ", 0.0).to(750_000);
    assert!(!bench.seat.button(lamp).is_on());
    bench.to(1_000_000);
    assert!(bench.seat.button(lamp).is_on());
    bench.level(1_100_000, "keys:KeyJ", 1.0).level(1_110_000, "keys:KeyJ", 0.0).to(1_120_000);
    assert!(!bench.seat.button(lamp).is_on());
    bench.seat.give_back(lamp).unwrap();
    bench.to(1_130_000);
    assert!(bench.seat.button(lamp).is_on());
}

#[test]
fn a_press_serves_one_member_of_a_group_however_long_it_is_held_and_a_higher_one_takes_it_over() {
    let body = "[action.use]\nkind = \"button\"\nkeys = \"KeyJ\"\ngroup = \"hands\"\n\
        [action.bag]\nkind = \"button\"\ncue = \"use hold 300ms\"\ngroup = \"hands\"\n\
        [action.deep]\nkind = \"button\"\ncue = \"use hold 900ms\"\ngroup = \"hands\"\noutranks = [\"use\"]\n\
        [action.other]\nkind = \"button\"\nkeys = \"KeyK\"\ngroup = \"hands\"\n";
    // A hundred other presses of the group meanwhile.
    let others: String = (0..100).map(|n| format!("+K@{} -K@{} ", 110 + n, 110 + n)).collect();
    let heard = play(body, &format!("+J@100 {others} -J@1500"));
    let own: Vec<&String> = heard.iter().filter(|line| !line.contains("other")).collect();
    assert_eq!(own, ["100000 use pulled", "1000000 use ended (outranked)", "1000000 deep pulled"]);
    // What can never pull is told.
    let warned: Vec<String> = linkage(body).warnings().map(ToString::to_string).collect();
    assert!(
        warned.iter().any(|line| line.contains("action.bag: this action can never pull: `use` is in the same group")),
        "{warned:?}"
    );
    assert!(!warned.iter().any(|line| line.contains("action.deep: it can never")), "{warned:?}");
}

#[test]
fn who_waits_for_an_action_waits_while_that_one_waits_for_a_third() {
    let body = "[action.use]\nkind = \"button\"\nkeys = \"KeyJ\"\nwaits_for = [\"pair\"]\n\
        [action.pair]\nkind = \"button\"\ncue = \"use 2 taps 200ms apart\"\nwaits_for = [\"hold-on\"]\noutranks = [\"use\"]\n\
        [action.hold-on]\nkind = \"button\"\ncue = \"use hold 300ms\"\noutranks = [\"pair\", \"use\"]\n";
    // The second press completes the pair, which waits for the hold; the single waits on for the pair.
    assert_eq!(play(body, "+J@0 -J@50 +J@100 -J@150"), ["150000 pair pulled"]);
    // The hold takes the second press from both; the first press stood alone then, and is a single.
    assert_eq!(play(body, "+J@0 -J@50 +J@100 -J@900"), ["400000 hold-on pulled", "400000 use pulled"]);
    assert_eq!(play(body, "+J@0 -J@50"), ["200000 use pulled"]);
    let linkage = linkage(body);
    let delay = |name: &str| linkage.action(name).unwrap().delay().unwrap().at_most;
    assert_eq!(delay("use"), Duration::from_millis(200 + 300));
}

#[test]
fn a_motions_first_position_is_nobodys_rival_and_directions_are_compared_where_both_end_on_one() {
    let body = format!(
        "{STICK}[action.dash]\nkind = \"button\"\ncue = \"steer twice within 240ms\"\ngroup = \"feet\"\n\
         [action.roll]\nkind = \"button\"\ncue = \"steer rolls 6, 2 within 300ms\"\ngroup = \"feet\"\n\
         [action.skim]\nkind = \"button\"\ncue = \"steer rolls 6, 2 then toss within 300ms\"\ngroup = \"feet\"\n"
    );
    // The dash stands on forward, the first position of the other two: all pull.
    let heard = play(&body, "6@0 5@50 6@100 2@150 +J@160 -J@200");
    assert_eq!(heard, ["100000 dash pulled", "150000 roll pulled", "160000 toss pulled", "160000 skim pulled"]);
}

#[test]
fn a_held_action_pulls_again_only_what_its_cue_has_met_and_is_on() {
    let body = |cue: &str| {
        format!(
            "[facts]\nready = true\n[action.act]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"{cue}\"\nwhen = \"ready\"\nwhile_held = true\nkeep = \"0ms\"\n"
        )
    };
    let run = |cue: &str, ready: &[(u64, bool)], keys: &[(u64, f32)]| {
        let mut bench = Bench::new(&body(cue));
        let fact = bench.find("ready");
        keys.iter().for_each(|(at, level)| drop(bench.level(at * 1_000, "keys:KeyJ", *level)));
        ready.iter().for_each(|(at, is)| bench.seat.tell_at(fact, *is, us(at * 1_000)).unwrap());
        bench.to(3_000_000);
        bench.pulls_of("act").into_iter().map(|at| at / 1_000).collect::<Vec<_>>()
    };
    let (shut, keys) = ([(150, false), (200, true), (700, false), (800, true)], [(100, 1.0), (1_000, 0.0)]);
    // The gate opens while the hold is not met yet: nothing. Once it is met: each time.
    assert_eq!(run("hold 500ms", &shut, &keys), [600, 800]);
    assert_eq!(run("press", &shut, &keys), [100, 200, 800]);
    // Refused at first, and pulled as the gate opens.
    assert_eq!(run("hold 500ms", &[(50, false), (700, true)], &keys), [700]);
    assert_eq!(run("hold 500ms", &[(50, false), (1_100, true)], &keys), [] as [u64; 0]);
    for cue in ["release", "tap under 200ms", "charge 100ms to 1s", "2 taps 200ms apart counted on release", "toggle"] {
        let text = format!("tidy-lever = 1\n{}", body(cue));
        let faults = tidy_lever::Linkage::build(&tidy_lever::Profile::from_toml(&text).unwrap()).unwrap_err();
        assert!(faults.to_string().contains("`while_held` can't be combined with the cue"), "{faults}");
    }
}
