//! Promise: tables, lanes and stories fit terminals of several widths; nothing is left for the terminal to break.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]
#![cfg(unix)]

use std::process::Command;

/// The lines that a command shows in a terminal so wide, without their colours; `None` where no terminal can be made.
fn shown(columns: usize, arguments: &str) -> Option<Vec<String>> {
    // Progress is drawn on standard error, and cleared.
    let own = env!("CARGO_BIN_EXE_tidy-lever");
    let command = format!("stty cols {columns} rows 40; {own} {arguments} 2>/dev/null");
    let output = Command::new("script")
        .args(["-qec", &command, "/dev/null"])
        .current_dir(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."))
        .output();
    let Ok(output) = output else {
        assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "`script` is missing");
        eprintln!("SKIPPED: `script`, which makes a terminal, is missing");
        return None;
    };
    assert!(output.status.success(), "{arguments}: {output:?}");
    let text = String::from_utf8(output.stdout).unwrap();
    let mut plain = String::new();
    let mut rest = text.as_str();
    while let Some((before, behind)) = rest.split_once("\u{1b}[") {
        plain += before;
        rest = behind.split_once('m').unwrap().1;
    }
    plain += rest;
    Some(plain.lines().map(|line| line.trim_end().to_owned()).collect())
}

#[test]
fn everything_fits_the_terminal_and_lanes_grow_with_it() {
    let mut lanes = Vec::new();
    for columns in [80, 140, 200] {
        for arguments in [
            "check demo/otter-post.toml",
            "demo",
            "demo --list",
            "controls",
            "why demo/otter-post.toml demo/morning-round.jsonl",
            "play demo/otter-post.toml demo/morning-round.jsonl --each hop",
            "remap demo/otter-post.toml no-such-player.toml --list",
            "rehearse demo/otter-post.toml --count 40",
            "rehearse demo/otter-post.toml hop slip skim --count 40",
            "rehearse demo/otter-post.toml --vary dash.within=150ms..400ms --count 20",
            "tune demo/otter-post.toml demo/morning-round.jsonl",
        ] {
            let Some(lines) = shown(columns, arguments) else { return };
            assert!(lines.len() > 5, "{arguments}: {lines:?}");
            for line in &lines {
                assert!(line.chars().count() <= columns, "{columns}, {arguments}: {line}");
            }
            if arguments == "demo" {
                let hop = lines.iter().find(|line| line.starts_with("hop ")).unwrap();
                lanes.push(hop.chars().filter(|c| "·━●".contains(*c)).count());
            }
        }
    }
    assert!(lanes[0] < lanes[1] && lanes[1] < lanes[2], "{lanes:?}");
}

#[test]
fn a_long_cue_wraps_inside_its_column() {
    let Some(lines) = shown(80, "check demo/otter-post.toml") else { return };
    let place = lines.iter().position(|line| line.trim_start().starts_with("skim ")).unwrap();
    let column = lines[place].find("steer rolls").unwrap();
    let next = &lines[place + 1];
    assert!(
        next[..column].trim().is_empty() && next[column..].starts_with(|c: char| c.is_ascii_alphabetic()),
        "{next}"
    );
}
