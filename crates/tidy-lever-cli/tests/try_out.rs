//! Promise: `try` without a window plays, records and draws the same, and refuses what it can't do.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use std::fs;
use std::path::{Path, PathBuf};

use common::{command, out, window_is_built};

const QUAY: &str = r#"tidy-lever = 1
title = "The ferry quay"

[facts]
grounded = true

[action.steer]
kind = "stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
pad = "left-stick"
pad_shape = { dead = 0.15 }

[action.hop]
kind = "button"
keys = "Space"
pad = "south"
when = "grounded within 90ms"
keep = "120ms"   # a hop that comes early waits for the landing
"#;

/// Two hops, the second 60 ms before the landing that an answer makes.
const HOPS: &str = r#"{"tape":"tidy-lever","version":1}
{"at":100000,"dev":"p1","control":"pad:left-stick","x":0.9,"y":0.1}
{"at":500000,"dev":"p1","control":"pad:south","value":1}
{"at":540000,"dev":"p1","control":"pad:south","value":0}
{"at":960001,"dev":"p1","control":"pad:south","value":1}
{"at":990000,"dev":"p1","control":"pad:south","value":0}
{"at":1500000,"end":true}
"#;

fn demo(name: &str) -> String {
    format!("{}/demo/{name}", env!("CARGO_MANIFEST_DIR"))
}

/// A folder with a profile and a script in it.
fn quay() -> (tempfile::TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("quay.toml"), QUAY).unwrap();
    fs::write(folder.path().join("hops.jsonl"), HOPS).unwrap();
    let path = folder.path().to_owned();
    (folder, path)
}

/// The width and height that a PNG file says.
fn size(path: &Path) -> (u32, u32) {
    let bytes = fs::read(path).unwrap();
    assert_eq!(&bytes[..8], b"\x89PNG\r\n\x1a\n");
    let number = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().unwrap());
    (number(16), number(20))
}

#[test]
fn a_tape_gives_what_play_prints_and_a_picture() {
    if !window_is_built() {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let (profile, tape) = (demo("otter-post.toml"), demo("morning-round.jsonl"));
    let frames = ["--frames", "4000", "--shot", "shot.png", "--json", "--tape", &tape];
    let tried = out(folder.path(), &[&["try", &profile][..], &frames].concat());
    let played = out(folder.path(), &["play", &profile, &tape, "--json"]);
    assert!(tried == played && tried.lines().count() > 100, "{tried}");
    assert_eq!(size(&folder.path().join("shot.png")), (1280, 800));
}

#[test]
fn what_is_recorded_with_answers_plays_to_the_same() {
    if !window_is_built() {
        return;
    }
    let (_keep, folder) = quay();
    let answer = "hop: grounded = false for 520ms";
    let tried = out(
        &folder,
        &[
            "try",
            "quay.toml",
            "--pad",
            "hops.jsonl",
            "--answer",
            answer,
            "--record",
            "round.jsonl",
            "--json",
            "--frames",
            "120",
            "--shot",
            "shot.png",
        ],
    );
    // Landed 520 ms after the answer: the hop that came 60 ms early was kept for it.
    let pulls: Vec<&str> = tried.lines().filter(|line| line.contains("pulled")).collect();
    let wanted = [
        r#"{"at":500000,"action":"hop","what":"pulled"}"#,
        r#"{"at":1020001,"action":"hop","what":"pulled","kept":60000}"#,
    ];
    assert_eq!(pulls, wanted);
    assert_eq!(out(&folder, &["play", "round-profile1.toml", "round.jsonl", "--json"]), tried);
    assert_eq!(fs::read_to_string(folder.join("round-profile1.toml")).unwrap(), QUAY);
    // The same, heard by every command that takes a tape; and a moved number on it is played.
    out(&folder, &["why", "round-profile1.toml", "round.jsonl"]);
    let tape = fs::read_to_string(folder.join("round.jsonl")).unwrap();
    let (at, moved) = (r#"{"at":960001"#, r#"{"at":700000,"number":"hop.keep","value":"30ms"}"#);
    assert!(tape.contains(at), "{tape}");
    fs::write(folder.join("moved.jsonl"), tape.replace(at, &format!("{moved}\n{at}"))).unwrap();
    let moved = out(&folder, &["play", "quay.toml", "moved.jsonl", "--json"]);
    assert_eq!(moved.lines().filter(|line| line.contains("pulled")).count(), 1, "30 ms are too short: {moved}");
    out(&folder, &["draw", "timeline", "quay.toml", "moved.jsonl", "-o", "moved.svg"]);
    // A number that isn't there is told with its line.
    fs::write(
        folder.join("wrong.jsonl"),
        tape.replace(at, &format!("{{\"at\":700000,\"number\":\"hop.keap\",\"value\":\"1ms\"}}\n{at}")),
    )
    .unwrap();
    let told = command(&folder, &["play", "quay.toml", "wrong.jsonl"]).assert().code(2);
    let told = String::from_utf8_lossy(&told.get_output().stderr).into_owned();
    assert!(
        told.contains("wrong.jsonl: line 8: the profile has no number `hop.keap`; did you mean `hop.keep`?"),
        "{told}"
    );
}

#[test]
fn answers_beside_the_profile_are_read_and_those_given_come_first() {
    if !window_is_built() {
        return;
    }
    let (_keep, folder) = quay();
    fs::write(folder.join("quay.answers.toml"), "answers = [\"hop: grounded = false\"]\n").unwrap();
    let tried = |more: &[&str]| {
        let base =
            ["try", "quay.toml", "--pad", "hops.jsonl", "--json", "--frames", "120", "--shot", "shot.png", "--replace"];
        out(&folder, &[&base[..], more].concat()).lines().filter(|line| line.contains("pulled")).count()
    };
    assert_eq!((tried(&[]), tried(&["--answer", "hop: grounded = false for 200ms"])), (1, 2));
}

#[test]
fn a_profile_with_faults_opens_and_shows_them() {
    if !window_is_built() {
        return;
    }
    let (_keep, folder) = quay();
    fs::write(folder.join("quay.toml"), QUAY.replace("\"stick\"", "\"stik\"")).unwrap();
    out(&folder, &["try", "quay.toml", "--frames", "5", "--shot", "shot.png", "--size", "640x400"]);
    assert_eq!(size(&folder.join("shot.png")), (640, 400));
}

#[test]
fn what_can_not_be_tried_is_told_in_a_line() {
    if !window_is_built() {
        return;
    }
    let (_keep, folder) = quay();
    let shot = ["--frames", "5", "--shot", "shot.png"];
    fs::write(
        folder.join("cut.jsonl"),
        "{\"tape\":\"tidy-lever\",\"version\":1}\n{\"at\":5,\"fact\":\"ground\",\"value\":true}\n",
    )
    .unwrap();
    for (arguments, told) in [
        (
            &["try", "quay.toml", "--answer", "hopp: grounded = false"][..],
            "the profile has no action `hopp`; did you mean `hop`?",
        ),
        (&["try", "quay.toml", "--answer", "hop: grounded"], "an answer is an action, a fact and its value"),
        (&["try", "quay.toml", "--tool-key", "undoo=F3"], "did you mean `undo`?"),
        (&["try", "nowhere.toml"], "nowhere.toml can't be opened"),
        (&["try", "-"], "takes a file, not standard input"),
        (&["try", "quay.toml", "--tape", "nowhere.jsonl"], "nowhere.jsonl can't be opened"),
        (
            &["try", "quay.toml", "--tape", "cut.jsonl"],
            "cut.jsonl, line 2: the profile has no `ground` (a fact); did you mean `grounded`?",
        ),
        (&["try", "quay.toml", "--record", "no/where.jsonl"], "no/where.jsonl can't be written"),
        (&["try", "quay.toml", "--remap", "nowhere.toml"], "nowhere.toml can't be read"),
    ] {
        let out = command(&folder, &[arguments, &shot].concat()).assert().code(2);
        let said = String::from_utf8_lossy(&out.get_output().stderr).into_owned();
        assert!(said.contains(told), "{arguments:?}: {said}");
    }
    assert!(!folder.join("shot.png").exists());
    // Where there is no display.
    let out = command(&folder, &["try", "quay.toml"]).assert().code(2);
    let said = String::from_utf8_lossy(&out.get_output().stderr).into_owned();
    assert!(said.contains("no window can be opened here") && said.contains("tidy-lever play"), "{said}");
}

#[test]
#[cfg(unix)]
fn where_the_window_is_not_built_a_line_says_how_to_build_it_and_its_status_is_passed_on() {
    let folder = tempfile::tempdir().unwrap();
    let own = folder.path().join("tidy-lever");
    fs::copy(env!("CARGO_BIN_EXE_tidy-lever"), &own).unwrap();
    let run = |arguments: &[&str]| {
        let mut command = std::process::Command::new(&own);
        let out = command.args(arguments).env("PATH", folder.path().join("nothing")).output().unwrap();
        let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
        (out.status.code().unwrap(), text(out.stdout), text(out.stderr))
    };
    let (status, _, told) = run(&["try", "quay.toml", "--seats", "2"]);
    assert_eq!(status, 2);
    assert!(told.contains("cargo run --release -p tidy-lever-try -- quay.toml --seats 2"), "{told}");
    // Wrong arguments are told all the same, and the help is there.
    let (status, _, told) = run(&["try", "quay.toml", "--seats", "9"]);
    assert!(status == 2 && told.contains("9 is not in 1..=8"), "{told}");
    assert!(run(&["try", "--help"]).1.contains("--tool-key"));
    // With it, all that was asked for is handed on, and how it ended.
    let program = folder.path().join("tidy-lever-try");
    fs::write(&program, "#!/bin/sh\necho \"$@\"\nexit 7\n").unwrap();
    fs::set_permissions(&program, std::os::unix::fs::PermissionsExt::from_mode(0o755)).unwrap();
    let (status, heard, _) = run(&["try", "quay.toml", "--answer", "hop: grounded = false"]);
    assert_eq!((status, heard.trim()), (7, "quay.toml --answer hop: grounded = false"));
}
