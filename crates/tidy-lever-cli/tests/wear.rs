//! Promise: `check --tape` says what a tape tells of its devices: what bounced, where a stick rests, how far it swings and reaches.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;

use assert_cmd::Command;
use serde_json::{Value, json};

const PROFILE: &str = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\npad = \"south\"\n\
    [action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = { dead = 0.15 }\n[devices]\nkeys = { debounce = \"3ms\" }\n";

/// What `check --tape` prints for these lines.
fn checked(lines: &str, arguments: &[&str]) -> String {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    fs::write(path("p.toml"), PROFILE).unwrap();
    fs::write(path("t.jsonl"), format!("{{\"tape\":\"tidy-lever\",\"version\":1}}\n{lines}")).unwrap();
    let mut command = Command::cargo_bin("tidy-lever").unwrap();
    command.current_dir(folder.path()).args(["check", "p.toml", "--tape", "t.jsonl"]).args(arguments);
    String::from_utf8(command.assert().success().get_output().stdout.clone()).unwrap()
}

fn key(at: u64, device: &str, control: &str, value: u8) -> String {
    format!("{{\"at\":{at},\"dev\":\"{device}\",\"control\":\"{control}\",\"value\":{value}}}\n")
}

fn stick(at: u64, x: f64, y: f64) -> String {
    format!("{{\"at\":{at},\"dev\":\"p1\",\"control\":\"pad:left-stick\",\"x\":{x},\"y\":{y}}}\n")
}

#[test]
fn bounces_are_counted_by_runs_and_measured_and_a_short_debounce_is_told() {
    // Down with one bounce of 4.5 ms, up cleanly; a second press bounces twice within 2 ms.
    let edges = [(100_000, 1), (101_000, 0), (104_500, 1), (200_000, 0), (300_000, 1), (300_500, 0), (301_000, 1)];
    let more = [(301_500, 0), (302_000, 1), (400_000, 0)];
    let lines: String = edges.iter().chain(&more).map(|(at, value)| key(*at, "kb", "keys:Space", *value)).collect();
    let lines = lines + &key(500_000, "p1", "pad:south", 1) + &key(600_000, "p1", "pad:south", 0);
    let told: Vec<Value> =
        checked(&lines, &["--json"]).lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let advice = "write `keys = { debounce = \"6ms\" }` in `[devices]`: 3 ms are too short";
    let expected = json!({"what": "buttons", "device": "kb", "family": "keys", "edges": 10, "bounces": 2, "longest": 4_500,
        "worst": "keys:Space", "advice": advice});
    assert_eq!(told[0], expected);
    assert_eq!((&told[1]["device"], &told[1]["bounces"], &told[1]["advice"]), (&json!("p1"), &json!(0), &Value::Null));
    let text = checked(&lines, &[]);
    assert!(
        text.contains("kb (keys): 10 edges of buttons\n  bounced 2 times, for 4.5 ms at most; keys:Space most often"),
        "{text}"
    );
    assert!(text.contains(advice) && text.contains("p1 (pad): 2 edges of buttons\n  none bounced"), "{text}");
}

#[test]
fn a_stick_tells_where_it_rests_how_far_it_reaches_and_swings() {
    let mut lines = String::new();
    for round in 0..3u64 {
        let at = 1_000_000 * (round + 1);
        let way = [(0, 0.4, 0.0), (8_000, 0.86, 0.0), (200_000, 0.5, 0.0), (208_000, 0.1, 0.0), (216_000, -0.4, 0.0)];
        way.iter().for_each(|(after, x, y)| lines += &stick(at + after, *x, *y));
        lines += &stick(at + 224_000, 0.06, 0.08);
    }
    lines += "{\"at\":5000000,\"end\":true}\n";
    let told: Value = serde_json::from_str(checked(&lines, &["--json"]).lines().next().unwrap()).unwrap();
    assert_eq!((&told["spring_backs"], &told["swings"], &told["interval"]), (&json!(3), &json!(3), &json!(8_000)));
    assert_eq!((&told["rests_at"], &told["farthest"]), (&json!([0.06, 0.08]), &json!(0.4)));
    assert_eq!(told["reach"], json!({"left": -0.4, "right": 0.86, "down": 0.0, "up": 0.08}));
    let text = checked(&lines, &[]);
    for part in ["125 per second", "it rests 0.10 from its middle", "up to 0.40 to the other side", "{ full = 0.83 }"] {
        assert!(text.contains(part), "{part} in {text}");
    }
    assert!(checked("", &[]).contains("the tape has no events of buttons or sticks"));
}

#[test]
fn play_and_why_tell_what_was_not_heard() {
    let edges = [(100_000, 1), (101_000, 0), (102_500, 1), (200_000, 0), (300_000, 1), (303_500, 0)];
    let lines: String = edges.iter().map(|(at, value)| key(*at, "kb", "keys:Space", *value)).collect();
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    fs::write(path("p.toml"), PROFILE.replace("3ms", "8ms")).unwrap();
    let tape = format!("{{\"tape\":\"tidy-lever\",\"version\":1}}\n{lines}{{\"at\":500000,\"end\":true}}\n");
    fs::write(path("t.jsonl"), tape).unwrap();
    let out = |words: &[&str]| {
        let mut command = Command::cargo_bin("tidy-lever").unwrap();
        let assert = command.current_dir(folder.path()).args(words).assert().success();
        String::from_utf8(assert.get_output().stdout.clone()).unwrap()
    };
    let told = out(&["play", "p.toml", "t.jsonl", "--all"]);
    let row = told.lines().find(|line| line.contains("bounced")).unwrap_or_else(|| panic!("{told}"));
    let words: Vec<&str> = row.split_whitespace().collect();
    assert_eq!(words, ["0.100", "s", "keys:Space", "bounced", "0.003", "s", "not", "heard", "(debounce)"], "{told}");
    // The short tap's letting go was only late.
    assert_eq!(told.matches("bounced").count(), 1, "{told}");
    assert!(!out(&["play", "p.toml", "t.jsonl"]).contains("bounced"));
    let lines = out(&["play", "p.toml", "t.jsonl", "--all", "--json"]);
    let at: Vec<u64> =
        lines.lines().map(|line| serde_json::from_str::<Value>(line).unwrap()["at"].as_u64().unwrap()).collect();
    assert!(at.is_sorted() && lines.contains("\"what\":\"swallowed\""), "{lines}");
    let why = out(&["why", "p.toml", "t.jsonl"]);
    assert!(
        why.contains("not heard, as [devices] says: keys:Space bounced for 2.5 ms at 0.100 s; `play --all`"),
        "{why}"
    );
}

#[test]
fn why_tells_where_an_attempt_hangs_on_moments_that_nobody_knows() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    fs::write(
        path("p.toml"),
        "tidy-lever = 1\n[action.dash]\nkind = \"button\"\nkeys = \"KeyD\"\ncue = \"2 taps 240ms apart\"\n",
    )
    .unwrap();
    let edge = |at: u64, value: u8, spread: u64| {
        let spread = if spread > 0 { format!(",\"spread\":{spread}") } else { String::new() };
        format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:KeyD\",\"value\":{value}{spread}}}\n")
    };
    let why = |taps: [(u64, u64); 2], arguments: &[&str]| {
        let lines: String = taps.iter().map(|(at, spread)| edge(*at, 1, *spread) + &edge(at + 60_000, 0, 0)).collect();
        let tape = format!("{{\"tape\":\"tidy-lever\",\"version\":1}}\n{lines}{{\"at\":2000000,\"end\":true}}\n");
        fs::write(path("t.jsonl"), tape).unwrap();
        let mut command = Command::cargo_bin("tidy-lever").unwrap();
        command.current_dir(folder.path()).args(["why", "p.toml", "t.jsonl", "dash"]).args(arguments);
        String::from_utf8(command.assert().success().get_output().stdout.clone()).unwrap()
    };
    // 20 ms too late, and in time by 20 ms: both hang on 33 ms.
    let rough = "the times of 2 of these events are only known to 33 ms";
    for second in [360_000, 320_000] {
        let told = why([(100_000, 33_000), (second, 33_000)], &[]);
        assert!(told.contains(rough), "{told}");
        let told = why([(100_000, 0), (second, 33_000)], &[]);
        assert!(told.contains("the time of one of these events is only known to 33 ms"), "{told}");
        let told = why([(100_000, 33_000), (second, 0)], &["--json"]);
        let told: Value = serde_json::from_str(told.lines().next().unwrap()).unwrap();
        assert_eq!(told["known_to"], 33_000, "{told}");
        // Neither hangs on less than its margin, nor where all moments are known.
        for spread in [0, 20_000] {
            assert!(!why([(100_000, spread), (second, spread)], &[]).contains("known to"), "{second} {spread}");
        }
    }
    // Two taps that came in one burst.
    let told = why([(100_000, 100_000), (170_000, 100_000)], &[]);
    assert!(!told.contains("known to"), "in time by 170 ms: {told}");
    fs::write(path("p.toml"), fs::read_to_string(path("p.toml")).unwrap().replace("240ms", "60ms")).unwrap();
    let told = why([(100_000, 100_000), (170_000, 100_000)], &[]);
    assert!(told.contains("these 2 events arrived together; their times are known to 100 ms"), "{told}");
}

#[test]
fn a_timeline_shows_on_the_lane_of_its_control_what_was_not_heard() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    fs::write(path("p.toml"), PROFILE).unwrap();
    let draw = |edges: &[(u64, u8)]| {
        let lines: String = edges.iter().map(|(at, value)| key(*at, "kb", "keys:Space", *value)).collect();
        fs::write(path("t.jsonl"), format!("{{\"tape\":\"tidy-lever\",\"version\":1}}\n{lines}")).unwrap();
        let mut command = Command::cargo_bin("tidy-lever").unwrap();
        let arguments = ["draw", "timeline", "p.toml", "t.jsonl", "-o", "t.svg", "--replace"];
        command.current_dir(folder.path()).args(arguments).assert().success();
        fs::read_to_string(path("t.svg")).unwrap()
    };
    let clean = draw(&[(100_000, 1), (200_000, 0)]);
    assert!(!clean.contains("not heard") && !clean.contains("bounced"));
    let worn = draw(&[(100_000, 1), (101_000, 0), (102_000, 1), (200_000, 0)]);
    assert!(worn.contains("not heard") && worn.contains("bounced for 2 ms"), "{worn}");
}
