//! Promise: `rehearse`, `draw rehearsal` and `tune` serve people and programs alike.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use std::fs;
use std::path::Path;

use common::{command, out};
use serde_json::Value;

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/otter-post.toml");

/// A short profile, so that debug builds are quick: a double tap, a hop over the canal with a buffer, a skim.
const QUAY: &str = r#"tidy-lever = 1
title = "The ferry quay"

[facts]
grounded = true

[action.steer]
kind = "stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
pad = "left-stick"
pad_shape = { dead = 0.15 }

[action.toss]
kind = "button"
keys = "KeyJ"
pad = "west"

[action.hop]
kind = "button"
keys = "Space"
pad = "south"
when = "grounded within 90ms"
keep = "40ms"   # too short, as it will turn out

[action.dash]
kind = "button"
cue = "steer twice within 240ms"

[action.bag]
kind = "button"
keys = "KeyE"
pad = "east"
cue = "double tap within 200ms"

[action.skim]
kind = "button"
cue = "steer rolls 236 then toss within 350ms"
outranks = ["toss"]
"#;

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("quay.toml"), QUAY).unwrap();
    folder
}

fn refused(folder: &Path, arguments: &[&str]) -> String {
    String::from_utf8(command(folder, arguments).assert().code(2).get_output().stderr.clone()).unwrap()
}

fn lines(text: &str) -> Vec<Value> {
    text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

#[test]
fn an_overview_names_every_action_and_what_stands_out() {
    let folder = folder();
    let told = out(folder.path(), &["rehearse", "quay.toml", "--count", "300"]);
    for word in ["5 actions by 3 hands, 4,500 trials", "practised %", "skim", "timed to the moment", "what stands out"]
    {
        assert!(told.contains(word), "{word}: {told}");
    }
    assert!(told.contains("`hop.keep = ") && told.contains("(now 40ms) finds"), "{told}");
    let named = out(folder.path(), &["rehearse", "quay.toml", "bag", "--count", "300", "--skill", "clumsy"]);
    for word in ["2 taps 200ms apart", "too late by", "% found ("] {
        assert!(named.contains(word), "{word}: {named}");
    }
    assert!(!named.contains("dash"), "{named}");
}

#[test]
fn the_counts_are_the_same_on_any_number_of_threads_and_the_demo_is_performed_whole() {
    let folder = folder();
    let arguments = ["rehearse", DEMO, "--count", "210", "--json"];
    let of = |threads: &str| {
        let mut command = command(folder.path(), &arguments);
        let output = command.env("RAYON_NUM_THREADS", threads).assert().success();
        String::from_utf8(output.get_output().stdout.clone()).unwrap()
    };
    let one = of("1");
    assert_eq!(one, of("5"));
    let all = lines(&one);
    assert!(all.iter().all(|line| line["what"] != "left out"));
    let rehearsed: Vec<&Value> = all.iter().filter(|line| line["what"] == "rehearsed").collect();
    assert_eq!(rehearsed.len(), 75);
    for line in rehearsed {
        let (low, share, high) = (&line["low"], &line["share"], &line["high"]);
        assert!(low.as_f64() <= share.as_f64() && share.as_f64() <= high.as_f64(), "{line}");
        let missed: u64 = line["misses"].as_array().unwrap().iter().map(|miss| miss["count"].as_u64().unwrap()).sum();
        assert_eq!(line["meant"].as_u64().unwrap() - line["found"].as_u64().unwrap(), missed, "{line}");
    }
}

/// The hand of the tests: average, and never so nervous that it presses twice.
fn calm(folder: &Path) {
    let text = tidy_lever_hands::Hand::named("average").unwrap().text;
    assert!(text.contains("nervous    = 0.08"));
    fs::write(folder.join("calm.toml"), text.replace("nervous    = 0.08", "nervous = 0")).unwrap();
}

#[test]
fn a_sweep_finds_what_play_finds_on_the_same_performances() {
    let folder = folder();
    calm(folder.path());
    let hand = ["--skill", "calm.toml", "--count", "120", "--seed", "9"];
    for (action, path, range, values) in [
        ("dash", "dash.within", "150ms..350ms", ["150ms", "240ms", "250ms", "350ms"]),
        ("bag", "bag.within", "120ms..320ms", ["120ms", "200ms", "220ms", "320ms"]),
        ("skim", "skim.early", "0ms..80ms", ["0ms", "40ms", "60ms", "80ms"]),
        ("hop", "hop.keep", "1ms..161ms", ["1ms", "40ms", "81ms", "161ms"]),
    ] {
        let sweep = format!("{path}={range}");
        let arguments = ["rehearse", "quay.toml", "--vary", &sweep, "--steps", "3", "--json"];
        let swept = lines(&out(folder.path(), &[&arguments[..], &hand].concat()));
        assert_eq!(swept.len(), 4, "three values, and the present one: {swept:?}");
        // The hands don't know the number, so they play the same at every value.
        let tape = format!("{action}.jsonl");
        out(folder.path(), &[&["rehearse", "quay.toml", action, "--tape", &tape][..], &hand].concat());
        for (line, value) in swept.iter().zip(values) {
            let text = tidy_lever::profile::with_number(QUAY, path, value).unwrap();
            fs::write(folder.path().join("moved.toml"), text).unwrap();
            let played = lines(&out(folder.path(), &["play", "moved.toml", &tape, "--json"]));
            let found = played.iter().filter(|line| line["found"] == true).count();
            let meant = played.iter().filter(|line| line["meant"] == action).count();
            assert_eq!((line["found"].as_u64(), meant), (Some(found as u64), 120), "{path} {value}");
        }
        let found: Vec<u64> = swept.iter().map(|line| line["found"].as_u64().unwrap()).collect();
        assert!(found.is_sorted() && found[0] < found[3], "{path}: {found:?}");
    }
}

#[test]
fn a_rehearsal_is_drawn_with_a_curve_for_each_hand_and_the_present_value() {
    let folder = folder();
    let arguments = ["draw", "rehearsal", "quay.toml", "--vary", "dash.within=150ms..350ms", "--steps", "3"];
    out(folder.path(), &[&arguments[..], &["--count", "60", "-o", "dash.svg"]].concat());
    let svg = fs::read_to_string(folder.path().join("dash.svg")).unwrap();
    for word in
        ["The ferry quay: dash found by model hands", "practised hand", "clumsy hand", "now 240ms", "dash.within in ms"]
    {
        assert!(svg.contains(word), "{word}");
    }
    out(folder.path(), &[&arguments[..], &["--count", "20", "-o", "dash.png"]].concat());
    assert!(fs::read(folder.path().join("dash.png")).unwrap().starts_with(b"\x89PNG"));
    // A name that is not a picture's is told before anything is played.
    assert!(
        refused(folder.path(), &[&arguments[..], &["-o", "dash.txt"]].concat()).contains("must end in .svg or .png")
    );
}

#[test]
fn what_is_asked_wrongly_is_told() {
    let folder = folder();
    fs::write(folder.path().join("hand.toml"), "name = \"odd\"\n").unwrap();
    let cases: [(&[&str], &[&str]); 12] = [
        (&["rehearse", "quay.toml", "dahs"], &["no action `dahs`", "did you mean `dash`"]),
        (&["rehearse", "quay.toml", "steer"], &["has no cue"]),
        (&["rehearse", "quay.toml", "--skill", "averge"], &["no hand is called `averge`", "did you mean `average`"]),
        (&["rehearse", "quay.toml", "--skill", "hand.toml"], &["hand.toml: this is not a hand", "press"]),
        (&["rehearse", "quay.toml", "--vary", "dash.within"], &["dash.within=150ms..400ms"]),
        (
            &["rehearse", "quay.toml", "--vary", "dash.wihtin=1ms..2ms"],
            &["did you mean `dash.within`", "check --numbers"],
        ),
        (&["rehearse", "quay.toml", "--vary", "dash.within=soon..2ms"], &["`soon` is not a value", "240ms"]),
        (&["rehearse", "quay.toml", "--vary", "dash.within=9ms..2ms"], &["goes upwards"]),
        (&["rehearse", "quay.toml", "--vary", "dash.up_at=0.2..0.9"], &["can't be", "up_at"]),
        (&["rehearse", "quay.toml", "--tape", "a.jsonl"], &["name the action", "--skill"]),
        (&["rehearse", "quay.toml", "--answer", "hpo: grounded = false"], &["did you mean `hop`"]),
        (&["tune", "quay.toml", "nothing.jsonl"], &["nothing.jsonl can't be opened"]),
    ];
    for (arguments, words) in cases {
        let told = refused(folder.path(), arguments);
        for word in words {
            assert!(told.contains(word), "{arguments:?} lacks {word}: {told}");
        }
    }
    assert!(!folder.path().join("a.jsonl").exists());
}

#[test]
fn tune_finds_the_range_and_saves_only_that_value() {
    let folder = folder();
    calm(folder.path());
    let hand = ["--skill", "calm.toml", "--count", "60", "--seed", "4"];
    out(folder.path(), &[&["rehearse", "quay.toml", "bag", "--tape", "ana.jsonl"][..], &hand].concat());
    let tuned = lines(&out(folder.path(), &["tune", "quay.toml", "ana.jsonl", "--json"]));
    assert_eq!((&tuned[0]["what"], &tuned[0]["simulated"]), (&"facts".into(), &false.into()));
    let of = |what: &str| tuned.iter().find(|line| line["what"] == what).unwrap();
    let (action, number, advice) = (of("action"), of("number"), of("advice"));
    assert_eq!((&action["action"], &action["meant"], &action["unmeant"]), (&"bag".into(), &60.into(), &0.into()));
    let before = action["found"].as_u64().unwrap();
    assert!(before < 55 && number["won"].as_u64().unwrap() + before == 60, "{action} {number}");
    assert_eq!(advice["path"], "bag.within");
    // The low end is real: 1 ms below it one is lost.
    let low = number["low"].as_f64().unwrap();
    let found = |value: f64| {
        let text = tidy_lever::profile::with_number(QUAY, "bag.within", &format!("{value}ms")).unwrap();
        fs::write(folder.path().join("moved.toml"), text).unwrap();
        let played = lines(&out(folder.path(), &["play", "moved.toml", "ana.jsonl", "--json"]));
        played.iter().filter(|line| line["found"] == true).count()
    };
    assert_eq!((found(low), found(low - 1.0)), (60, 59));
    let text = out(folder.path(), &["tune", "quay.toml", "ana.jsonl", "--write"]);
    let value = advice["value"].as_str().unwrap();
    assert!(text.contains("facts as recorded") && text.contains(&format!("wrote bag.within = {value}")), "{text}");
    let saved = fs::read_to_string(folder.path().join("quay.toml")).unwrap();
    assert_eq!(saved, QUAY.replace("double tap within 200ms", &format!("double tap within {value}")));
    // Now there is nothing to gain.
    let text = out(folder.path(), &["tune", "quay.toml", "ana.jsonl"]);
    assert!(text.contains("60 of 60 found") && text.contains("leave it as it is"), "{text}");
}

/// A tape of double taps with gaps in ms, 3 s apart; the first ones are marked as meant.
fn taps(gaps: &[u64], marked: usize) -> String {
    let mut text = String::from("{\"tape\":\"tidy-lever\",\"version\":1}\n");
    for (number, gap) in gaps.iter().enumerate() {
        let at = 1_000_000 + 3_000_000 * number as u64;
        for (after, value) in [(0, 1), (40, 0), (*gap, 1), (gap + 40, 0)] {
            let at = at + 1_000 * after;
            text += &format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:KeyE\",\"value\":{value}}}\n");
        }
        if number < marked {
            text += &format!("{{\"at\":{},\"meant\":\"bag\"}}\n", at + 1_000 * (gap + 60));
        }
    }
    text
}

#[test]
fn too_little_evidence_is_no_advice_and_players_are_told_apart() {
    let folder = folder();
    fs::write(folder.path().join("ana.jsonl"), taps(&[180, 230, 190], 3)).unwrap();
    let told = out(folder.path(), &["tune", "quay.toml", "ana.jsonl"]);
    assert!(told.contains("2 of 3 found") && told.contains("7 more attempts") && !told.contains("advice"), "{told}");
    fs::write(folder.path().join("ben.jsonl"), taps(&[150, 260, 250, 170, 180, 190, 160, 150], 8)).unwrap();
    let told = out(folder.path(), &["tune", "quay.toml", "ana.jsonl", "ben.jsonl"]);
    for word in
        ["8 of 11 found", "ana.jsonl: 2 of 3", "ben.jsonl: 6 of 8", "from 260ms on", "advice: bag.within = 285ms"]
    {
        assert!(told.contains(word), "{word}: {told}");
    }
    // Of a tape that was cut in half the rest is played, and that is told once.
    let half = taps(&[180, 230, 190], 3);
    fs::write(folder.path().join("half.jsonl"), &half[..half.len() - 60]).unwrap();
    for more in [&[][..], &["--answer", "toss: grounded = false for 100ms"]] {
        let arguments = [&["tune", "quay.toml", "half.jsonl"], more].concat();
        let told = command(folder.path(), &arguments).assert().success().get_output().stderr.clone();
        assert_eq!(String::from_utf8(told).unwrap().matches("note:").count(), 1, "{more:?}");
    }
    // A tape that marks nothing tells nothing about an action, unless that is asked for.
    fs::write(folder.path().join("eva.jsonl"), taps(&[150, 260], 0)).unwrap();
    let told = out(folder.path(), &["tune", "quay.toml", "eva.jsonl"]);
    assert!(told.contains("no tape has a `meant` line"), "{told}");
}

#[test]
fn what_is_let_in_ends_a_range() {
    let folder = folder();
    // Presses of another sort, 300 ms apart, beside `meant` lines of toss: no double tap was meant there.
    let mut text = taps(&[180, 230, 190, 170, 210, 150, 160, 180, 190, 170], 10);
    let others = taps(&[300, 310], 2).replace("\"meant\":\"bag\"", "\"meant\":\"toss\"");
    for line in others.lines().skip(1) {
        let mut line: Value = serde_json::from_str(line).unwrap();
        line["at"] = (line["at"].as_u64().unwrap() + 60_000_000).into();
        text += &format!("{line}\n");
    }
    fs::write(folder.path().join("ana.jsonl"), text).unwrap();
    let told = out(folder.path(), &["tune", "quay.toml", "ana.jsonl", "--action", "bag"]);
    assert!(told.contains("8 of 10 found") && told.contains("from 230ms to 299ms"), "{told}");
    assert!(told.contains("advice: bag.within = 265ms"), "{told}");
}

#[test]
fn attempts_that_were_repeated_at_once_are_offered_as_meant() {
    let folder = folder();
    let mut text = String::from("{\"tape\":\"tidy-lever\",\"version\":1}\n");
    // 240 ms apart: too slow; again a second later: found. Twelve times.
    for number in 0..12u64 {
        for (after, gap) in [(0, 240), (1_000, 150)] {
            for (press, value) in [(0, 1), (40, 0), (gap, 1), (gap + 40, 0)] {
                let at = 1_000_000 + 5_000_000 * number + 1_000 * (after + press);
                text += &format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:KeyE\",\"value\":{value}}}\n");
            }
        }
    }
    fs::write(folder.path().join("ana.jsonl"), text).unwrap();
    let told = out(folder.path(), &["tune", "quay.toml", "ana.jsonl"]);
    assert!(told.contains("probably meant (--probably counts them)") && told.contains("bag at 1.240 s"), "{told}");
    let counted = out(folder.path(), &["tune", "quay.toml", "ana.jsonl", "--probably"]);
    assert!(counted.contains("12 of 24 found") && counted.contains("advice: bag.within = 265ms"), "{counted}");
}

#[test]
fn with_answers_the_world_is_simulated_and_without_it_is_as_recorded() {
    let folder = folder();
    // Hops in pairs, the second 60 ms before the landing; the game told its facts.
    let mut text = String::from("{\"tape\":\"tidy-lever\",\"version\":1}\n");
    for number in 0..12u64 {
        let at = 1_000_000 + 4_000_000 * number;
        let mut put = |after: u64, line: &str| text += &format!("{{\"at\":{},{line}}}\n", at + after);
        put(0, r#""dev":"kb","control":"keys:Space","value":1"#);
        put(10, r#""fact":"grounded","value":false"#);
        put(40_000, r#""dev":"kb","control":"keys:Space","value":0"#);
        put(440_000, r#""dev":"kb","control":"keys:Space","value":1"#);
        put(480_000, r#""dev":"kb","control":"keys:Space","value":0"#);
        put(500_000, r#""fact":"grounded","value":true"#);
        put(510_000, r#""meant":"hop""#);
    }
    fs::write(folder.path().join("ana.jsonl"), text).unwrap();
    let tune = ["tune", "quay.toml", "ana.jsonl", "--action", "hop"];
    let told = out(folder.path(), &tune);
    assert!(told.contains("facts as recorded") && told.contains("12 of 24 found"), "{told}");
    assert!(told.contains("advice: hop.keep = 65ms"), "{told}");
    // In a game whose hops last 620 ms the same presses come 180 ms early.
    let told = out(folder.path(), &[&tune[..], &["--answer", "hop: grounded = false for 620ms"]].concat());
    assert!(
        told.contains("simulated: pulls are answered as --answer says") && told.contains("advice: hop.keep = 200ms"),
        "{told}"
    );
    // What a real game told comes before the file beside the profile, which answers for tapes without that fact.
    fs::write(folder.path().join("quay.answers.toml"), "answers = [\"hop: grounded = false for 620ms\"]\n").unwrap();
    let recorded = out(folder.path(), &tune);
    assert!(
        recorded.contains("quay.answers.toml answers, so it is not used") && recorded.contains("hop.keep = 65ms"),
        "{recorded}"
    );
    let text = fs::read_to_string(folder.path().join("ana.jsonl")).unwrap();
    let bare: String = text.lines().filter(|line| !line.contains("\"fact\"")).map(|line| format!("{line}\n")).collect();
    fs::write(folder.path().join("ben.jsonl"), bare).unwrap();
    let beside = out(folder.path(), &["tune", "quay.toml", "ben.jsonl", "--action", "hop"]);
    assert!(beside.contains("grounded simulated: pulls are answered as quay.answers.toml says"), "{beside}");
    assert!(beside.contains("advice: hop.keep = 200ms"), "{beside}");
    let both = out(folder.path(), &["tune", "quay.toml", "ana.jsonl", "ben.jsonl", "--action", "hop"]);
    assert!(
        both.contains("ana.jsonl: all facts as recorded; ben.jsonl: grounded as quay.answers.toml answers"),
        "{both}"
    );
}
