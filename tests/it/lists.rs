//! Promise: any cue of an action pulls it, and one press serves it once.

use crate::common::{Bench, linkage, us};
use tidy_lever::{Fact, Linkage, Profile};

const STEER: &str = "[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
     [action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n[action.guard]\nkind = \"button\"\nkeys = \"KeyG\"\n";

/// The profile of one action with these cues and keys.
fn with(cues: &str, more: &str) -> String {
    format!("{STEER}[action.act]\nkind = \"button\"\nkeys = \"KeyK\"\ncue = {cues}\n{more}")
}

/// Feeds `+K@100 -K@200`, in ms, and tells what the action did.
fn play(bench: &mut Bench, script: &str) -> Vec<String> {
    let mut end = 0;
    for word in script.split_whitespace() {
        let (key, at) = word[1..].split_once('@').unwrap();
        let at = at.parse::<u64>().unwrap() * 1_000;
        bench.level(at, &format!("keys:Key{key}"), if word.starts_with('+') { 1.0 } else { 0.0 });
        end = end.max(at);
    }
    bench.to(end + 2_000_000);
    let heard =
        bench.heard_of("act").into_iter().filter(|line| !line.contains("pressed") && !line.contains("released"));
    heard.map(|line| line.replace(" act", "")).collect()
}

#[test]
fn any_of_several_cues_pulls_and_one_press_serves_once() {
    let cases: &[(&str, &str, &[&str])] = &[
        (
            r#"["press", "steer twice within 240ms"]"#,
            "+K@0 -K@50 +D@500 -D@550 +D@600 -D@700",
            &["0 pulled", "50000 ended (let go)", "600000 pulled", "700000 ended (let go)"],
        ),
        // The hold is completed by the press that pulled already.
        (r#"["press", "hold 300ms"]"#, "+K@0 -K@400", &["0 pulled", "400000 ended (let go)"]),
        // Each line has a state of its own: a short press is a tap, a long one a hold.
        (
            r#"["tap under 200ms", "hold 300ms"]"#,
            "+K@0 -K@100 +K@500 -K@900",
            &["100000 pulled", "800000 pulled", "900000 ended (let go)"],
        ),
        // A repeat pulls on with the same press.
        (
            r#"["hold 200ms", "repeat after 100ms every 50ms"]"#,
            "+K@0 -K@160",
            &["0 pulled", "100000 pulled", "150000 pulled", "160000 ended (let go)"],
        ),
        // On while any line is on.
        (
            r#"["press", "guard with toss within 80ms"]"#,
            "+G@0 +J@10 +K@50 -J@100 -G@110 -K@200",
            &["10000 pulled", "50000 pulled", "200000 ended (let go)"],
        ),
        (
            r#"["press", "guard with toss within 80ms"]"#,
            "+K@0 +G@20 +J@30 -K@100 -J@200 -G@210",
            &["0 pulled", "30000 pulled", "200000 ended (let go)"],
        ),
        (
            r#"["steer rolls 26 within 200ms", "steer rolls 24 within 200ms", "press"]"#,
            "+S@0 -S@20 +D@40 -D@100 +S@500 -S@520 +A@540 -A@600",
            &["40000 pulled", "100000 ended (let go)", "540000 pulled", "600000 ended (let go)"],
        ),
    ];
    for (cues, script, expected) in cases {
        assert_eq!(play(&mut Bench::new(&with(cues, "")), script), *expected, "{cues}: {script}");
    }
}

#[test]
fn gates_keeps_stages_and_rivals_know_a_list() {
    let cues = r#"["press", "guard with toss within 80ms"]"#;
    let facts = "[facts]\ngrounded = true\n";
    let body = format!(
        "{facts}{}",
        with(
            cues,
            "when = \"grounded within 90ms\"\nkeep = \"150ms\"\nstages = { count = 3, after = \"grounded\", within = \"180ms\" }\noutranks = [\"toss\"]\n"
        )
    );
    let mut bench = Bench::new(&body);
    let grounded: Fact = bench.find("grounded");
    bench.seat.tell_at(grounded, false, us(20_000)).unwrap();
    bench.seat.tell_at(grounded, true, us(600_000)).unwrap();
    let mut all = Vec::new();
    // A press pulls; the chord is made in the air and kept until the ground comes; both pull by stages.
    all.extend(play(&mut bench, "+K@0 -K@10 +G@500 +J@510 -G@700 -J@710"));
    assert_eq!(all, ["0 pulled", "10000 ended (let go)", "600000 pulled", "700000 ended (let go)"]);
    let reading = bench.seat.latest();
    let stages: Vec<Option<u8>> = reading.happenings().map(tidy_lever::Happening::stage).collect();
    assert!(stages.contains(&Some(2)), "{stages:?}");
}

#[test]
fn a_list_is_checked_told_and_carried_over() {
    let build = |cues: &str| {
        let text = format!("tidy-lever = 1\n{}", with(cues, ""));
        Linkage::build(&Profile::from_toml(&text).unwrap()).map_err(|faults| faults.to_string())
    };
    let fault = |cues: &str| build(cues).unwrap_err();
    assert!(fault(r#"["press", "toggle"]"#).contains("`toggle` must be the only cue of its action"));
    assert!(fault(r#"["press", "charge 100ms to 1s"]"#).contains("must be the only cue"));
    assert!(fault(r#"["press", "press"]"#).contains("the cue `press` is listed twice"));
    assert!(
        fault(r#"["press", "hold lnog"]"#).contains("line 14, column 23"),
        "{}",
        fault(r#"["press", "hold lnog"]"#)
    );
    assert!(fault("[]").contains("with an empty list of cues the action never pulls"));
    let linkage = build(r#"["press", "steer twice within 240ms"]"#).unwrap();
    let act = linkage.action("act").unwrap();
    assert_eq!(act.cues().map(ToString::to_string).collect::<Vec<_>>(), ["press", "steer twice within 240ms"]);
    // Both lines are told by their own steps.
    let mut bench = Bench::new(&with(r#"["press", "toss 2 taps 240ms apart"]"#, ""));
    bench.seat.keep_ledger(16);
    play(&mut bench, "+J@0 -J@20 +J@260 -J@280 +K@1500 -K@1600");
    bench.seat.close_ledger();
    let linkage = bench.seat.linkage().clone();
    let of_act = bench.seat.attempts().filter(|attempt| attempt.action(&linkage) == Some("act"));
    let stories: Vec<String> = of_act.map(|attempt| attempt.story(&linkage).unwrap_or_default()).collect();
    assert!(
        stories.contains(&"toss came 20 ms too late".to_owned()) && stories.contains(&"pulled".to_owned()),
        "{stories:?}"
    );
}

#[test]
fn a_line_that_stays_goes_on_over_a_relink_and_one_that_is_gone_ends() {
    let first = linkage(&with(r#"["steer twice within 240ms", "press"]"#, ""));
    // The order changes, and another line comes in.
    let second = linkage(&with(r#"["press", "steer twice within 240ms", "hold 900ms"]"#, ""));
    let third = linkage(&with(r#"["steer twice within 240ms", "hold 900ms"]"#, ""));
    let run = |linkage: &Linkage| {
        let mut bench = Bench { seat: first.seat(us(0)), bookmark: first.seat(us(0)).bookmark() };
        bench.bookmark = bench.seat.bookmark();
        bench.level(0, "keys:KeyD", 1.0).level(50_000, "keys:KeyD", 0.0).level(60_000, "keys:KeyK", 1.0).to(90_000);
        bench.seat.relink(linkage, &mut [&mut bench.bookmark]);
        bench.level(100_000, "keys:KeyD", 1.0).level(300_000, "keys:KeyD", 0.0).level(400_000, "keys:KeyK", 0.0);
        bench.to(2_000_000);
        let heard = bench.heard_of("act").into_iter().filter(|line| line.contains("pulled") || line.contains("ended"));
        heard.collect::<Vec<String>>()
    };
    assert_eq!(run(&first), ["60000 act pulled", "100000 act pulled", "400000 act ended (let go)"]);
    assert_eq!(run(&second), run(&first));
    // The press's line is gone, and what it had on with it; the first of two givings stays.
    let cut = run(&third);
    assert_eq!(cut[..2], ["60000 act pulled", "90000 act ended (relinked)"], "{cut:?}");
    assert_eq!(cut[2..], ["100000 act pulled", "300000 act ended (let go)"], "{cut:?}");
}
