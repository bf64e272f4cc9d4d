//! Promise: a command never writes over a file that it reads, and never over a tape or picture that exists unless asked.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;

use common::{command, out, window_is_built};

const QUAY: &str = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n[action.steer]\nkind = \"stick\"\n\
    pad = \"left-stick\"\n[panel.jump]\nkind = \"button\"\nfrom = \"bottom-left\"\nat = [0.2, 0.2]\nsize = 0.1\n[action.jump]\nkind = \"button\"\n\
    touch = \"jump\"\n";
const TAPE: &str = "{\"tape\":\"tidy-lever\",\"version\":1}\n{\"at\":9000,\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":1}\n\
    {\"at\":50000,\"end\":true}\n";

/// All files of a folder with their bytes.
fn all(folder: &Path) -> Vec<(String, Vec<u8>)> {
    let mut all: Vec<_> = fs::read_dir(folder)
        .unwrap()
        .map(|entry| entry.unwrap().path())
        .map(|path| (path.display().to_string(), fs::read(&path).unwrap_or_default()))
        .collect();
    all.sort();
    all
}

#[test]
fn what_a_command_reads_or_what_exists_is_refused_and_left_as_it_is() {
    let kept = tempfile::tempdir().unwrap();
    let folder = kept.path();
    for (name, text) in [("q.toml", QUAY), ("old.jsonl", TAPE), ("hand.toml", "a hand"), ("a.png", "a"), ("a.svg", "a")]
    {
        fs::write(folder.join(name), text).unwrap();
    }
    fs::write(folder.join("q.answers.toml"), "answers = []\n").unwrap();
    symlink("q.toml", folder.join("link.png")).unwrap();
    fs::hard_link(folder.join("q.toml"), folder.join("hard.svg")).unwrap();
    symlink("old.jsonl", folder.join("old.png")).unwrap();
    let before = all(folder);
    let read = "is read by this command and was left as it is; choose another name";
    let shot = ["--frames", "3", "--shot", "new.png"];
    let rehearse = ["rehearse", "q.toml", "hop", "--skill", "average", "--count", "2", "--tape"];
    let cases: Vec<(Vec<&str>, &str)> = vec![
        ([&["try", "q.toml", "--record", "q.toml"][..], &shot].concat(), read),
        ([&["try", "q.toml", "--record", "./q.toml", "--replace"][..], &shot].concat(), read),
        ([&["try", "q.toml", "--tape", "old.jsonl", "--record", "old.jsonl", "--replace"][..], &shot].concat(), read),
        ([&["try", "q.toml", "--record", "q.answers.toml", "--replace"][..], &shot].concat(), read),
        ([&["try", "q.toml", "--record", "old.jsonl"][..], &shot].concat(), "old-2.jsonl is free, or add --replace"),
        (vec!["try", "q.toml", "--frames", "3", "--shot", "q.toml"], "the name must end in .png"),
        (vec!["try", "q.toml", "--frames", "3", "--shot", "link.png", "--replace"], read),
        (vec!["try", "q.toml", "--frames", "3", "--shot", "a.png"], "a-2.png is free"),
        (vec!["try", "q.toml", "--tape", "old.jsonl", "--frames", "3", "--shot", "old.png", "--replace"], read),
        (vec!["try", "q.toml", "--record", "x.png", "--frames", "3", "--shot", "x.png"], "is named twice"),
        ([&rehearse[..], &["q.toml"]].concat(), read),
        ([&rehearse[..], &["hard.svg", "--replace"]].concat(), read),
        ([&rehearse[..], &["q.answers.toml", "--replace"]].concat(), read),
        ([&rehearse[..], &["hand.toml", "--skill", "hand.toml"]].concat(), read),
        ([&rehearse[..], &["old.jsonl"]].concat(), "old-2.jsonl is free"),
        (vec!["draw", "panel", "q.toml", "-o", "hard.svg", "--replace"], read),
        (vec!["draw", "panel", "q.toml", "-o", "a.svg"], "a-2.svg is free"),
        (vec!["draw", "stick", "q.toml", "steer", "--tape", "old.jsonl", "-o", "old.png", "--replace"], read),
        (vec!["draw", "timeline", "q.toml", "old.jsonl", "-o", "old.png", "--replace"], read),
        (vec!["draw", "timeline", "q.toml", "old.jsonl", "-o", "a.png"], "a-2.png is free"),
        (vec!["draw", "timeline", "q.toml", "old.jsonl", "-o", "q.toml"], "the name must end in .svg or .png"),
        (vec!["draw", "rehearsal", "q.toml", "--vary", "steer.shape.dead=0.1..0.2", "-o", "link.png"], read),
        (vec!["remap", "q.toml", "link.png", "--set", "hop.keys=KeyJ"], read),
        (vec!["new", "q.toml"], "exists already and is left as it is"),
    ];
    let windows = window_is_built();
    for (arguments, told) in cases.into_iter().filter(|(arguments, _)| windows || arguments[0] != "try") {
        let out = command(folder, &arguments).assert().code(2);
        let said = String::from_utf8_lossy(&out.get_output().stderr).into_owned();
        assert!(said.contains(told), "{arguments:?}: {said}");
        assert!(all(folder) == before, "{arguments:?} changed a file");
    }
}

#[test]
fn what_exists_is_replaced_where_that_was_asked_for_and_files_beside_a_tape_never_are() {
    if !window_is_built() {
        return;
    }
    let kept = tempfile::tempdir().unwrap();
    let folder = kept.path();
    fs::write(folder.join("round-profile1.toml"), QUAY).unwrap();
    for (name, text) in [("round.jsonl", "old"), ("a.png", "old"), ("a.svg", "old")] {
        fs::write(folder.join(name), text).unwrap();
    }
    let shot = ["--frames", "3", "--shot", "a.png", "--replace"];
    // The profile that is tried has the very name that the tape's own profile would take.
    let tried = [&["try", "round-profile1.toml", "--record", "round.jsonl"][..], &shot].concat();
    let told = command(folder, &tried).assert().success();
    let told = String::from_utf8_lossy(&told.get_output().stderr).into_owned();
    assert!(told.contains("tidy-lever play round-profile2.toml round.jsonl"), "{told}");
    assert_eq!(fs::read_to_string(folder.join("round-profile1.toml")).unwrap(), QUAY);
    out(folder, &["play", "round-profile2.toml", "round.jsonl"]);
    assert!(fs::read(folder.join("a.png")).unwrap().starts_with(b"\x89PNG"));
    out(folder, &["draw", "panel", "round-profile1.toml", "-o", "a.svg", "--replace"]);
    assert!(fs::read_to_string(folder.join("a.svg")).unwrap().contains("<svg"));
}
