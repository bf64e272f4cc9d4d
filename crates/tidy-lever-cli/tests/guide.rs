//! Promise: the guide tells the truth. Its profiles build, its commands print what it shows, its links lead somewhere.
//!
//! A block ```` ```toml hop.toml ```` is a file of the chapter's folder, ```` ```json hop.jsonl ```` a tape, and
//! ```` ```console ```` what a terminal shows. `REWRITE=1 cargo test -p tidy-lever-cli --test guide` writes what the commands print.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::path::{Path, PathBuf};

use assert_cmd::Command;
use tidy_lever::remap::Remap;
use tidy_lever::{Linkage, Profile};

fn guide() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/guide")
}

/// The chapters' names with their texts, in order.
fn chapters() -> Vec<(String, String)> {
    let files = fs::read_dir(guide()).unwrap().map(|entry| entry.unwrap().file_name().into_string().unwrap());
    let mut names: Vec<String> = files.filter(|name| name.starts_with(|c: char| c.is_ascii_digit())).collect();
    names.sort();
    names.into_iter().map(|name| (name.clone(), fs::read_to_string(guide().join(name)).unwrap())).collect()
}

/// The chapters and the other pages that show profiles, tapes and what commands print, by path.
fn pages() -> Vec<(PathBuf, String)> {
    let chapters = chapters().into_iter().map(|(name, text)| (guide().join(name), text));
    let others = ["../README.md", "by-hand.md"].map(|page| guide().join("..").join(page));
    let others = others.into_iter().filter(|page| page.exists());
    chapters.chain(others.map(|page| (page.clone(), fs::read_to_string(page).unwrap()))).collect()
}

/// What the commands of a terminal's block print.
fn shown(block: &str, folder: &Path) -> String {
    let mut all = String::new();
    for line in block.lines().filter(|line| line.starts_with("$ ")) {
        all += &format!("{line}\n");
        let words = line.strip_prefix("$ tidy-lever ").unwrap_or_else(|| panic!("{line}"));
        let output =
            Command::cargo_bin("tidy-lever").unwrap().args(words.split(' ')).current_dir(folder).output().unwrap();
        assert!(output.status.code() != Some(2), "{line}: {}", String::from_utf8_lossy(&output.stderr));
        all += &String::from_utf8(output.stdout).unwrap();
        all += &String::from_utf8(output.stderr).unwrap();
    }
    all
}

#[test]
fn every_profile_builds_and_every_command_prints_what_is_shown() {
    let mut commands = 0;
    for (page, text) in pages() {
        let name = page.display();
        let folder = tempfile::tempdir().unwrap();
        fs::create_dir(folder.path().join("pictures")).unwrap();
        let mut blessed = String::new();
        let mut parts = text.split("```");
        blessed += parts.next().unwrap();
        while let (Some(block), Some(prose)) = (parts.next(), parts.next()) {
            let (head, body) = block.split_once('\n').unwrap();
            let mut words = head.split(' ');
            let (kind, file, sort) = (words.next().unwrap(), words.next(), words.next());
            if let Some(file) = file {
                fs::write(folder.path().join(file), body).unwrap();
            }
            let mut body = body.to_owned();
            match (kind, sort) {
                ("toml", Some("remap")) => {
                    let _ = Remap::from_toml(&body).unwrap_or_else(|faults| panic!("{name}: {faults}"));
                }
                ("toml", _) => {
                    let built = Profile::from_toml(&body).and_then(|profile| Linkage::build(&profile));
                    built.unwrap_or_else(|faults| panic!("{name}: {faults}\n{body}"));
                }
                ("console", _) => {
                    let shown = shown(&body, folder.path());
                    commands += shown.lines().filter(|line| line.starts_with("$ ")).count();
                    if std::env::var_os("REWRITE").is_some() {
                        body = shown;
                    } else {
                        assert_eq!(body, shown, "{name}: a command prints something else");
                    }
                }
                _ => {}
            }
            blessed += &format!("```{head}\n{body}```{prose}");
        }
        // Pictures that the commands drew stand beside the chapter.
        for picture in fs::read_dir(folder.path().join("pictures")).unwrap().map(|entry| entry.unwrap().path()) {
            let (drawn, shown) =
                (fs::read(&picture).unwrap(), guide().join("pictures").join(picture.file_name().unwrap()));
            if std::env::var_os("REWRITE").is_some() {
                fs::write(shown, drawn).unwrap();
            } else {
                assert!(
                    fs::read(&shown).unwrap_or_default() == drawn,
                    "{}: a command draws something else",
                    shown.display()
                );
            }
        }
        if blessed != text {
            fs::write(&page, blessed).unwrap();
        }
    }
    assert!(commands >= 12, "{commands} commands");
}

#[test]
fn chapters_lead_to_the_next_to_recipes_and_back() {
    let all = chapters();
    assert_eq!(all.len(), 21);
    let contents = fs::read_to_string(guide().join("README.md")).unwrap();
    for (place, (name, text)) in all.iter().enumerate() {
        assert!(contents.contains(&format!("]({name})")), "the contents lack {name}");
        assert!(text.starts_with(&format!("# {place} · ")), "{name}");
        let next = all.get(place + 1).map_or("README.md", |(next, _)| next);
        assert!(text.contains(&format!("]({next})")), "{name} does not lead to {next}");
        assert!(text.contains("**The need.**") || place == 18, "{name}");
        // Of a link the file must be there, and the heading in it.
        for link in text.split("](").skip(1).filter_map(|rest| rest.split(')').next()) {
            let (file, heading) = link.split_once('#').map_or((link, None), |(file, heading)| (file, Some(heading)));
            let path = guide().join(file);
            assert!(path.exists(), "{name}: {link}");
            if let Some(heading) = heading {
                let page = fs::read_to_string(path).unwrap();
                let slug = |line: &str| -> String {
                    let kept = line.trim_start_matches('#').trim().chars();
                    let kept = kept.filter(|c| c.is_alphanumeric() || *c == ' ' || *c == '-' || *c == '_');
                    kept.collect::<String>().to_lowercase().replace(' ', "-")
                };
                assert!(page.lines().any(|line| line.starts_with('#') && slug(line) == heading), "{name}: {link}");
            }
        }
    }
    // Every recipe is named by a chapter, and names it.
    let recipes = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/recipes");
    for recipe in fs::read_dir(&recipes).unwrap().map(|entry| entry.unwrap().path()) {
        let name = recipe.file_name().unwrap().to_str().unwrap().to_owned();
        let of: Vec<&str> = all
            .iter()
            .filter(|(_, text)| text.contains(&format!("](../../demo/recipes/{name})")))
            .map(|(chapter, _)| chapter.as_str())
            .collect();
        assert!(!of.is_empty(), "no chapter leads to the recipe {name}");
        let page = fs::read_to_string(recipe.join("README.md")).unwrap();
        let back = |chapter: &&str| page.contains(&format!("](../../../docs/guide/{chapter})"));
        assert!(of.iter().any(back), "demo/recipes/{name}/README.md leads to none of {of:?}");
    }
}
