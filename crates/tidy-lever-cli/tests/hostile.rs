//! Promise (SECURITY.md): files from strangers fill memory within fixed limits and print text. Each of these is read by
//! every command that takes its kind, with 300 MB of memory.
#![cfg(unix)]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fmt::Write as _;
use std::fs;
use std::path::Path;
use std::process::{Command, Output};

/// What a command may fill, in kilobytes.
const MEMORY: u32 = 300_000;
/// How long a command may take, in a debug build on a busy machine.
const SECONDS: u32 = 60;
/// What it may print of such a file.
const PRINTED: usize = 20_000;
const MANY: usize = 200_000;

const GOOD: &str = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
const HEADER: &str = "{\"tape\":\"tidy-lever\",\"version\":1}\n";

fn command(folder: &Path, arguments: &[&str]) -> Output {
    let mut command = Command::new("sh");
    command.args([
        "-c",
        &format!("ulimit -d {MEMORY} && exec timeout {SECONDS} \"$@\""),
        "sh",
        env!("CARGO_BIN_EXE_tidy-lever"),
    ]);
    command.args(arguments).current_dir(folder).env_remove("DISPLAY").env_remove("WAYLAND_DISPLAY").output().unwrap()
}

fn many(count: usize, line: impl Fn(usize) -> String) -> String {
    (0..count).fold(String::new(), |mut all, number| {
        let _ = writeln!(all, "{}", line(number));
        all
    })
}

fn key(at: usize, value: usize) -> String {
    format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":{value}}}\n")
}

fn profiles() -> Vec<(&'static str, String)> {
    let long = "x".repeat(10 * MANY);
    let actions = |count: usize, body: &str| many(count, |n| format!("[action.a{n}]\nkind = \"button\"\n{body}"));
    vec![
        ("title", format!("title = \"{}\"\n{GOOD}", "x".repeat(10_000_000))),
        ("action's name", format!("{GOOD}[action.{long}]\nkind = \"button\"\n")),
        ("mode's name", format!("{GOOD}[modes]\n{long} = {{ on = true }}\n")),
        ("fact's name", format!("{GOOD}[facts]\n{long} = true\n")),
        ("fact's word", format!("{GOOD}[facts]\nstate = [\"idle\", \"{long}\"]\n")),
        ("many words", format!("{GOOD}[facts]\nstate = [{}]\n", many(200_000, |n| format!("\"w{n}\",")))),
        ("control's name", format!("{GOOD}pad = \"{long}\"\n")),
        ("a key", format!("{GOOD}{long} = 1\n")),
        ("a cue", format!("{GOOD}cue = \"{long}\"\n")),
        ("a gate", format!("{GOOD}when = \"{long}\"\n")),
        ("a deep gate", format!("{GOOD}when = \"{}frozen\"\n", "(".repeat(MANY))),
        ("a long gate", format!("{GOOD}when = \"frozen{}\"\n", " and frozen".repeat(MANY))),
        ("a long motion", format!("{GOOD}cue = \"steer rolls up{} within 1s\"\n", ", down".repeat(MANY))),
        ("a long order", format!("{GOOD}cue = \"order hop{} within 1s\"\n", ", hop".repeat(MANY))),
        ("many taps", format!("{GOOD}cue = \"4000000000 taps 1ms apart\"\n")),
        ("a mash", format!("{GOOD}cue = \"mash 4000000000 within 1s\"\n")),
        ("digits", format!("{GOOD}cue = \"hold {}ms\"\n", "9".repeat(MANY))),
        ("many cues", format!("{GOOD}cue = [{}]\n", "\"press\",".repeat(MANY))),
        (
            "many keys",
            format!("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = [{}]\n", "\"Space\",".repeat(MANY)),
        ),
        ("many actions", format!("tidy-lever = 1\n{}", actions(70_000, ""))),
        ("actions on a key", format!("tidy-lever = 1\n{}", actions(4_000, "keys = \"Space\"\n"))),
        ("many modes", format!("{GOOD}[modes]\n{}", many(20_000, |n| format!("m{n} = {{ covers = \"all\" }}")))),
        ("many facts", format!("{GOOD}[facts]\n{}", many(20_000, |n| format!("f{n} = true")))),
        ("many patches", format!("{GOOD}{}", many(5_000, |n| format!("[panel.p{n}]\nkind = \"zone\"")))),
        (
            "many marks",
            format!("{GOOD}marks = {{ {} }}\n", many(20_000, |n| format!("m{n} = \"1ms\",")).replace('\n', "")),
        ),
        ("nested tables", format!("tidy-lever = 1\n[action.hop]\nkind = {}1{}\n", "[".repeat(MANY), "]".repeat(MANY))),
        ("dotted keys", format!("tidy-lever = 1\n{}x = 1\n", "x.".repeat(MANY))),
        ("an endless text", format!("tidy-lever = 1\ntitle = \"{long}")),
        ("no profile", "\u{0}".repeat(10 * MANY)),
        ("too large", "#".repeat(17 << 20)),
        ("nothing", String::new()),
        ("half a profile", GOOD[..40].to_owned()),
    ]
}

fn tapes() -> Vec<(&'static str, String)> {
    let long = "x".repeat(60_000);
    let huge = "x".repeat(10 * MANY);
    let end = "{\"at\":9000000,\"end\":true}\n";
    vec![
        ("title", format!("{{\"tape\":\"tidy-lever\",\"version\":1,\"title\":\"{long}\"}}\n{end}")),
        ("endless title", format!("{{\"tape\":\"tidy-lever\",\"version\":1,\"title\":\"{huge}\"}}\n{end}")),
        (
            "device's id",
            format!(
                "{{\"tape\":\"tidy-lever\",\"version\":1,\"devices\":[{{\"id\":\"{long}\",\"family\":\"keys\"}}]}}\n{end}"
            ),
        ),
        (
            "its family",
            format!(
                "{{\"tape\":\"tidy-lever\",\"version\":1,\"devices\":[{{\"id\":\"a\",\"family\":\"{long}\"}}]}}\n{end}"
            ),
        ),
        ("its kind", format!("{{\"tape\":\"{long}\",\"version\":1}}\n{end}")),
        (
            "a thousand seats",
            format!("{HEADER}{}{end}", many(1_000, |n| format!("{{\"at\":{n},\"seat\":{},\"focus\":true}}", n + 1))),
        ),
        (
            "eight seats",
            format!(
                "{HEADER}{}{end}",
                many(9_000, |n| key(n * 900, n % 2).replace("\"dev\"", &format!("\"seat\":{},\"dev\"", n % 8 + 1)))
            ),
        ),
        ("seat of 32 bits", format!("{HEADER}{{\"at\":1,\"seat\":4294967295,\"focus\":true}}\n{end}")),
        ("seat of 64 bits", format!("{HEADER}{{\"at\":1,\"seat\":18446744073709551615,\"focus\":true}}\n{end}")),
        (
            "many devices",
            format!("{HEADER}{}{end}", many(9_000, |n| key(n, 1).replace("\"kb\"", &format!("\"k{n}\"")))),
        ),
        ("long device", format!("{HEADER}{}{end}", key(1, 1).replace("kb", &long))),
        ("long control", format!("{HEADER}{}{end}", key(1, 1).replace("Space", &long))),
        ("long fact", format!("{HEADER}{{\"at\":1,\"fact\":\"{long}\",\"value\":true}}\n{end}")),
        ("long word", format!("{HEADER}{{\"at\":1,\"fact\":\"frozen\",\"value\":\"{long}\"}}\n{end}")),
        ("long file", format!("{HEADER}{{\"at\":1,\"remap\":\"{long}\"}}\n{end}")),
        ("long number", format!("{HEADER}{{\"at\":1,\"number\":\"{long}\",\"value\":1}}\n{end}")),
        (
            "many fingers",
            format!(
                "{HEADER}{}{end}",
                many(9_000, |n| format!(
                    "{{\"at\":{n},\"dev\":\"s\",\"touch\":{n},\"phase\":\"down\",\"x\":0.5,\"y\":0.5}}"
                ))
            ),
        ),
        ("a storm in a moment", format!("{HEADER}{}{end}", (0..90_000).map(|n| key(5, n % 2)).collect::<String>())),
        (
            "wheel notches",
            format!(
                "{HEADER}{}{end}",
                many(9_000, |n| format!("{{\"at\":{n},\"dev\":\"m\",\"control\":\"mouse:wheel-up\",\"value\":1e300}}"))
            ),
        ),
        ("a widest view", format!("{HEADER}{{\"at\":1,\"view\":[4294967295,4294967295]}}\n{end}")),
        ("a far end", format!("{HEADER}{}{{\"at\":4611686018427387904,\"end\":true}}\n", key(1, 1))),
        ("beyond time", format!("{HEADER}{{\"at\":18446744073709551615,\"end\":true}}\n")),
        ("gaps", format!("{HEADER}{}{end}", many(9_000, |n| format!("{{\"at\":{n},\"skip\":true}}")))),
        ("a long line", format!("{HEADER}{huge}")),
        ("deep", format!("{HEADER}{}", "[".repeat(60_000))),
        (
            "many marks of what was meant",
            format!("{HEADER}{}{end}", many(50_000, |n| format!("{{\"at\":{n},\"meant\":\"hop\"}}"))),
        ),
        ("no tape", "\u{0}".repeat(10 * MANY)),
        ("cut", format!("{HEADER}{}", &key(1, 1)[..20])),
    ]
}

fn players() -> Vec<(&'static str, String)> {
    let long = "x".repeat(10 * MANY);
    vec![
        ("an unknown action", format!("tidy-lever = 1\n[action.{long}]\nkeys = \"KeyJ\"\n")),
        ("an unknown control", format!("tidy-lever = 1\n[action.hop]\nkeys = \"{long}\"\n")),
        ("many controls", format!("tidy-lever = 1\n[action.hop]\nkeys = [{}]\n", "\"KeyJ\",".repeat(MANY))),
        ("many actions", format!("tidy-lever = 1\n{}", many(70_000, |n| format!("[action.a{n}]\nkeys = \"KeyJ\"")))),
        ("a wide access", "tidy-lever = 1\n[access]\nleeway = 1e300\n".to_owned()),
        ("a key", format!("tidy-lever = 1\n[access]\n{long} = 1\n")),
    ]
}

/// A command ends by itself, with an answer of its own, and prints no endless text.
fn survives(folder: &Path, arguments: &[&str], what: &str) {
    let output = command(folder, arguments);
    let err = String::from_utf8_lossy(&output.stderr).into_owned();
    let start: String = err.chars().take(400).collect();
    assert!(matches!(output.status.code(), Some(0..=2)), "{what}: {arguments:?}: {}: {start}", output.status);
    assert!(!err.contains("panicked") && !err.contains("memory allocation"), "{what}: {arguments:?}: {start}");
    let printed = output.stdout.len() + output.stderr.len();
    // What is listed is as long as the profile.
    let lists = arguments.contains(&"--numbers") || what == "actions on a key";
    assert!(printed < PRINTED || lists, "{what}: {arguments:?} prints {printed} bytes: {start}");
}

/// Each of these texts, under this name, is survived by each of these commands.
fn all_survive(folder: &Path, texts: Vec<(&str, String)>, name: &str, commands: &[&str]) {
    for (what, text) in texts {
        fs::write(folder.join(name), text).unwrap();
        for command in commands {
            survives(folder, &command.split(' ').collect::<Vec<_>>(), what);
        }
    }
}

#[test]
fn hostile_profiles_fill_no_memory_and_print_little() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("t.jsonl"), format!("{HEADER}{}{}", key(5, 1), "{\"at\":900,\"end\":true}\n"))
        .unwrap();
    let commands = ["check p.toml", "play p.toml t.jsonl", "check p.toml --numbers"];
    all_survive(folder.path(), profiles(), "p.toml", &commands);
}

#[test]
fn hostile_tapes_fill_no_memory_and_print_little() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("p.toml"), GOOD).unwrap();
    let commands = [
        "play p.toml t.jsonl",
        "why p.toml t.jsonl",
        "draw timeline p.toml t.jsonl -o t.svg --replace",
        "tune p.toml t.jsonl",
        "try p.toml --tape t.jsonl --frames 30 --shot t.png --replace --size 320x320",
    ];
    all_survive(folder.path(), tapes(), "t.jsonl", &commands);
}

#[test]
fn hostile_players_files_fill_no_memory_and_print_little() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("p.toml"), GOOD).unwrap();
    fs::write(folder.path().join("t.jsonl"), format!("{HEADER}{}{}", key(5, 1), "{\"at\":900,\"end\":true}\n"))
        .unwrap();
    let commands = [
        "remap p.toml r.toml --list",
        "play p.toml t.jsonl --remap r.toml",
        "try p.toml --remap r.toml --frames 3 --shot t.png --replace --size 320x320",
    ];
    all_survive(folder.path(), players(), "r.toml", &commands);
}

#[test]
fn a_ninth_seat_is_refused_with_its_line() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("p.toml"), GOOD).unwrap();
    let lines = many(9, |n| format!("{{\"at\":{n},\"seat\":{},\"focus\":true}}", n + 1));
    fs::write(folder.path().join("t.jsonl"), format!("{HEADER}{lines}")).unwrap();
    for arguments in [&["play", "p.toml", "t.jsonl"][..], &["why", "p.toml", "t.jsonl"], &["tune", "p.toml", "t.jsonl"]]
    {
        let output = command(folder.path(), arguments);
        let err = String::from_utf8_lossy(&output.stderr).into_owned();
        let told = "line 10: a tape has at most 8 seats, numbered from 1; there is no seat 9";
        assert!(output.status.code() == Some(2) && err.contains(told), "{arguments:?}: {err}");
    }
}
