//! Promise: tables, lanes and stories fit terminals of several widths; nothing is left for the terminal to break.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]
#![cfg(unix)]

use std::process::Command;

/// The lines that a command shows in a terminal so wide, without their colours; `None` where no terminal can be made.
fn shown(columns: usize, arguments: &str) -> Option<Vec<String>> {
    shown_in((columns, 40), arguments)
}

fn shown_in((columns, rows): (usize, usize), arguments: &str) -> Option<Vec<String>> {
    // Progress is drawn on standard error, and cleared.
    let own = env!("CARGO_BIN_EXE_tidy-lever");
    let command = format!("stty cols {columns} rows {rows}; {own} {arguments} 2>/dev/null");
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
fn in_a_narrow_terminal_rows_become_paragraphs_and_no_name_is_broken() {
    let Some(lines) = shown(80, "check demo/otter-post.toml") else { return };
    let place = lines.iter().position(|line| line == "skim").unwrap();
    assert_eq!(lines[place + 1], "  kind button   active in ashore");
    assert_eq!(lines[place + 2], "  cue steer rolls down, down-forward, forward then toss within 350ms");
    let Some(lines) = shown(80, "check demo/otter-post.toml --numbers") else { return };
    assert!(lines.iter().any(|line| line == "steer.pad_shape.dead"), "{lines:?}");
}

#[test]
fn a_terminal_that_says_it_has_no_rows_has_its_columns() {
    let Some(with) = shown_in((80, 40), "check demo/otter-post.toml") else { return };
    let Some(without) = shown_in((80, 0), "check demo/otter-post.toml") else { return };
    assert_eq!(with, without);
}
