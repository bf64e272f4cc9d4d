//! Promise: every recipe does what its README says. The commands written there run, in its folder, and their answer is yes.

#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::path::{Path, PathBuf};

use assert_cmd::Command;

fn demo() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("demo")
}

/// The `tidy-lever` lines in the fenced blocks of a text.
fn commands(text: &str) -> Vec<Vec<String>> {
    let blocks = text.split("```").skip(1).step_by(2);
    let lines = blocks.flat_map(str::lines).filter_map(|line| line.strip_prefix("tidy-lever "));
    lines.map(|line| line.split_whitespace().map(str::to_owned).collect()).collect()
}

#[test]
fn every_recipe_does_what_its_readme_says() {
    let mut ran = 0;
    let folders = fs::read_dir(demo().join("recipes")).unwrap().map(|entry| entry.unwrap().path());
    for folder in folders {
        let readme = fs::read_to_string(folder.join("README.md")).expect("a recipe has a README");
        let commands = commands(&readme);
        assert!(commands.len() >= 2, "{}: the thing itself, and the wrong try", folder.display());
        for command in &commands {
            // The outcome is the same however time is cut.
            for ticks in [None, Some("30"), Some("60"), Some("144"), Some("1000")] {
                let mut tidy_lever = Command::cargo_bin("tidy-lever").unwrap();
                tidy_lever.current_dir(&folder).args(command);
                if let Some(ticks) = ticks {
                    tidy_lever.args(["--ticks", ticks]);
                }
                tidy_lever.assert().success();
                ran += 1;
            }
        }
        let expected = fs::read_dir(&folder)
            .unwrap()
            .filter(|file| file.as_ref().unwrap().file_name().to_string_lossy().starts_with("expected"));
        assert_eq!(expected.count(), commands.len(), "{}: each expectation is used", folder.display());
        // A check finds nothing to complain of.
        Command::cargo_bin("tidy-lever")
            .unwrap()
            .arg("check")
            .arg(folder.join("profile.toml"))
            .arg("--strict")
            .assert()
            .success();
        let name = folder.file_name().unwrap().to_string_lossy().into_owned();
        Command::cargo_bin("tidy-lever").unwrap().args(["demo", &name]).assert().success();
    }
    assert!(ran >= 50, "{ran} runs");
}
