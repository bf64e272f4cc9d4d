//! Promise: several tapes are told one by one, and a long search that is stopped tells what it knows.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use std::fs;
use std::path::Path;

use common::{command, out};

const PROFILE: &str = "tidy-lever = 1\n[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n\
    when = \"grounded within 80ms\"\nkeep = \"120ms\"\n[action.wave]\nkind = \"button\"\nkeys = \"KeyQ\"\n";

/// A tape that waves so many times.
fn waves(count: u64) -> String {
    let mut text = "{\"tape\":\"tidy-lever\",\"version\":1}\n".to_owned();
    for at in (1..=count).map(|number| number * 40_000) {
        for (at, value) in [(at, 1), (at + 20_000, 0)] {
            text += &format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:KeyQ\",\"value\":{value}}}\n");
        }
    }
    text + &format!("{{\"at\":{},\"end\":true}}\n", count * 40_000 + 40_000)
}

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("quay.toml"), PROFILE).unwrap();
    // The first is the longest, so that the others are done before it.
    for (name, count) in [("ana", 4_000), ("ben", 1), ("eva", 300)] {
        fs::write(folder.path().join(format!("{name}.jsonl")), waves(count)).unwrap();
    }
    folder
}

#[test]
fn several_tapes_are_told_in_their_order_as_each_alone_is() {
    let folder = folder();
    let tapes = ["ana.jsonl", "ben.jsonl", "eva.jsonl"];
    for command in [&["play", "--json", "quay.toml"][..], &["why", "--json", "--all", "quay.toml"]] {
        let alone = |tape: &str| {
            let told = out(folder.path(), &[command, &[tape]].concat());
            format!("{{\"what\":\"tape\",\"tape\":\"{tape}\"}}\n{told}")
        };
        let expected: String = tapes.into_iter().map(alone).collect();
        for jobs in ["1", "2", "3", "64"] {
            let told = out(folder.path(), &[command, &tapes, &["--jobs", jobs]].concat());
            assert!(told == expected, "{command:?} with {jobs} at once");
        }
    }
    let told = out(folder.path(), &["play", "quay.toml", "ben.jsonl", "eva.jsonl"]);
    let heads: Vec<usize> = ["ben.jsonl\n", "\neva.jsonl\n"].iter().map(|head| told.find(head).unwrap()).collect();
    assert!(heads[0] == 0 && heads[1] > 0 && told.contains("300 pulls"), "{told}");
}

#[test]
fn what_is_wrong_with_one_tape_is_told_in_its_place_and_the_others_go_on() {
    let folder = folder();
    fs::write(folder.path().join("cut.jsonl"), waves(2).replace("{\"at\":120000,\"end\":true}\n", "")).unwrap();
    let assert =
        command(folder.path(), &["play", "--json", "quay.toml", "cut.jsonl", "none.jsonl", "ben.jsonl"]).assert();
    let output = assert.code(2).get_output().clone();
    let (told, notes) = (String::from_utf8(output.stdout).unwrap(), String::from_utf8(output.stderr).unwrap());
    assert_eq!(told.matches("\"action\":\"wave\",\"what\":\"pulled\"").count(), 3, "{told}");
    let places =
        ["cut.jsonl is cut off", "none.jsonl can't be opened", "1 of 3 tapes could not be played to their end"]
            .map(|part| notes.find(part).unwrap_or_else(|| panic!("{part} in {notes}")));
    assert!(places.is_sorted(), "{notes}");
    let one = |words: &[&str]| {
        let assert = command(folder.path(), words).assert();
        String::from_utf8(assert.code(2).get_output().stderr.clone()).unwrap()
    };
    assert!(one(&["play", "quay.toml", "ana.jsonl", "ben.jsonl", "--each", "hop"]).contains("--each is for one tape"));
    assert!(one(&["play", "quay.toml", "-", "-"]).contains("can't both be standard input"));
    assert!(
        one(&["why", "quay.toml", "ben.jsonl", "wvae"]).contains("did you mean `wave`? There is no tape of that name")
    );
    assert!(one(&["play", "quay.toml", "ben.jsonl", "--jobs", "0"]).contains("write a number from 1 to 1024"));
}

#[test]
fn nothing_waits_for_a_reader_that_went_away() {
    use std::io::Read;
    use std::process::{Command, Stdio};
    use std::time::{Duration, Instant};

    let folder = folder();
    let mut play = Command::new(env!("CARGO_BIN_EXE_tidy-lever"));
    play.current_dir(folder.path())
        .args(["play", "--json", "--all", "quay.toml", "--jobs", "2"])
        .args(["ana.jsonl"; 40]);
    let mut running = play.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
    let mut stdout = running.stdout.take().unwrap();
    stdout.read_exact(&mut [0; 100]).unwrap();
    drop(stdout);
    let began = Instant::now();
    while running.try_wait().unwrap().is_none() {
        assert!(began.elapsed() < Duration::from_secs(120), "it waits");
        std::thread::sleep(Duration::from_millis(10));
    }
    assert_eq!(running.wait().unwrap().code(), Some(0));
}

#[test]
fn why_takes_an_action_after_its_tapes() {
    let folder = folder();
    let told = out(folder.path(), &["why", "quay.toml", "ben.jsonl", "eva.jsonl", "wave", "--json"]);
    assert_eq!(told.matches("\"action\":\"wave\",\"outcome\":\"pulled\"").count(), 301, "{told}");
    assert_eq!(out(folder.path(), &["why", "quay.toml", "ben.jsonl", "hop", "--json"]), "");
}

#[test]
fn tune_says_the_same_on_one_core_and_on_all() {
    let folder = folder();
    for (skill, tape) in [("average", "a.jsonl"), ("clumsy", "b.jsonl")] {
        let rehearse = ["rehearse", "quay.toml", "hop", "--skill", skill, "--count", "60", "--tape", tape];
        out(folder.path(), &rehearse);
    }
    let tune = ["tune", "quay.toml", "a.jsonl", "b.jsonl", "--json"];
    let told = out(folder.path(), &tune);
    assert!(told.contains("\"path\":\"hop.keep\""), "{told}");
    assert_eq!(told, out(folder.path(), &[&tune[..], &["--jobs", "1"]].concat()));
}

/// Waits until a process hears the interrupt.
#[cfg(target_os = "linux")]
fn hears_the_interrupt(process: u32) {
    loop {
        let status = fs::read_to_string(Path::new("/proc").join(process.to_string()).join("status")).unwrap();
        let caught = status.lines().find_map(|line| line.strip_prefix("SigCgt:")).unwrap();
        if u64::from_str_radix(caught.trim(), 16).unwrap() & 2 > 0 {
            return;
        }
        std::thread::sleep(std::time::Duration::from_millis(5));
    }
}

#[cfg(target_os = "linux")]
#[test]
fn a_search_that_is_stopped_leaves_what_it_knows() {
    use nix::sys::signal::{Signal, kill};
    use nix::unistd::Pid;
    use std::process::{Command, Stdio};

    let folder = folder();
    out(folder.path(), &["rehearse", "quay.toml", "hop", "--skill", "average", "--count", "4000", "--tape", "a.jsonl"]);
    let mut tune = Command::new(env!("CARGO_BIN_EXE_tidy-lever"));
    tune.current_dir(folder.path()).args(["tune", "quay.toml", "a.jsonl", "--json", "--write"]);
    let running = tune.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    hears_the_interrupt(running.id());
    kill(Pid::from_raw(running.id() as i32), Signal::SIGINT).unwrap();
    let ended = running.wait_with_output().unwrap();
    let (told, notes) = (String::from_utf8(ended.stdout).unwrap(), String::from_utf8(ended.stderr).unwrap());
    assert_eq!(ended.status.code(), Some(130), "{notes}");
    assert!(told.starts_with("{\"what\":\"facts\""), "{told}");
    assert!(notes.contains("stopped after") && notes.contains("nothing is written"), "{notes}");
    assert_eq!(fs::read_to_string(folder.path().join("quay.toml")).unwrap(), PROFILE);
}
