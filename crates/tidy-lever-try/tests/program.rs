//! Promise: the window's program stands alone. It says how it is used, plays frames without a window, and tells what it can't do.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use assert_cmd::Command;

fn program(arguments: &[&str]) -> Command {
    let mut command = Command::cargo_bin(tidy_lever_try::PROGRAM).unwrap();
    command.args(arguments).env_remove("DISPLAY").env_remove("WAYLAND_DISPLAY");
    command
}

#[test]
fn it_plays_frames_of_the_demo_and_writes_the_last_as_a_picture() {
    let folder = tempfile::tempdir().unwrap();
    let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/otter-post.toml");
    let frames = [demo, "--frames", "60", "--shot", "shot.png"];
    program(&frames).current_dir(folder.path()).assert().success();
    assert!(std::fs::read(folder.path().join("shot.png")).unwrap().starts_with(b"\x89PNG"));
    // The same once more would write over the picture.
    let again = program(&frames).current_dir(folder.path()).assert().code(2);
    assert!(String::from_utf8_lossy(&again.get_output().stderr).contains("shot-2.png is free"));
}

#[test]
fn alone_it_says_how_it_is_used_and_a_wrong_word_is_told() {
    let help = program(&[]).assert().code(2);
    assert!(String::from_utf8_lossy(&help.get_output().stderr).contains("Usage: tidy-lever-try [OPTIONS] <PROFILE>"));
    let wrong = program(&["-"]).assert().code(2);
    assert!(String::from_utf8_lossy(&wrong.get_output().stderr).contains("takes a file, not standard input"));
}
