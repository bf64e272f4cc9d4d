//! Promise: no component of the engine knows another one. Read from the sources, so that no trait or free function goes round it.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

const COMPONENTS: [&str; 4] = ["inputs", "world", "pulls", "log"];

fn engine() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../crates/tidy-lever/src/engine")
}

/// All source files below a folder, but for tests.
fn files(folder: &Path) -> Vec<PathBuf> {
    let entries = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let all = entries.flat_map(|path| if path.is_dir() { files(&path) } else { vec![path] });
    all.filter(|path| !path.ends_with("tests.rs")).collect()
}

/// The words of a file's code, without comments and what stands in quotes.
fn words(path: &Path) -> Vec<String> {
    let text = fs::read_to_string(path).unwrap();
    let code = text.lines().map(|line| line.split("//").next().unwrap()).collect::<Vec<_>>().join("\n");
    let code = code.split('"').step_by(2).collect::<Vec<_>>().join(" ");
    let words = code.split(|letter: char| !(letter.is_alphanumeric() || letter == '_'));
    words.filter(|word| !word.is_empty()).map(String::from).collect()
}

/// Each component's files, and the types that these declare.
fn components() -> BTreeMap<&'static str, (Vec<PathBuf>, Vec<String>)> {
    let declares = |pair: &[String]| {
        ["struct", "enum", "trait", "type"].contains(&pair[0].as_str()) && pair[1].starts_with(char::is_uppercase)
    };
    let of = |name: &'static str| {
        let files = files(&engine().join(name));
        let types = files.iter().flat_map(|path| {
            let words = words(path);
            words.windows(2).filter(|pair| declares(pair)).map(|pair| pair[1].clone()).collect::<Vec<_>>()
        });
        // What `part!` makes stands before a bracket.
        let parts = files.iter().flat_map(|path| {
            let words = words(path);
            let made = words.windows(3).filter(|three| three[2] == "plan" && three[0] == "part");
            made.map(|three| three[1].clone()).collect::<Vec<_>>()
        });
        (name, (files.clone(), types.chain(parts).filter(|name| name != "Type").collect()))
    };
    COMPONENTS.into_iter().map(of).collect()
}

#[test]
fn no_component_names_another_nor_the_frame() {
    let components = components();
    for (own, (files, own_types)) in &components {
        assert!(!files.is_empty() && !own_types.is_empty(), "{own}");
        for path in files {
            let words = words(path);
            for (other, (_, types)) in components.iter().filter(|(other, _)| *other != own) {
                let is_path = |place: usize| place > 0 && words[place - 1] == "engine" && words[place] == **other;
                let is_type = |word: &String| types.contains(word) && !own_types.contains(word);
                let named = (0..words.len()).filter(|place| is_path(*place) || is_type(&words[*place]));
                let named: Vec<&String> = named.map(|place| &words[place]).collect();
                assert!(named.is_empty(), "{} names {named:?} of {other}", path.display());
            }
            for frame in ["Engine", "Seat"] {
                assert!(!words.iter().any(|word| word == frame), "{} names {frame}", path.display());
            }
        }
    }
}

#[test]
fn no_type_has_methods_in_two_components() {
    let mut homes: BTreeMap<String, &str> = BTreeMap::new();
    for (own, (files, _)) in components() {
        for path in files {
            let text = fs::read_to_string(&path).unwrap();
            let heads =
                text.lines().filter_map(|line| line.strip_prefix("impl")).filter(|head| !head.contains(" for "));
            for head in heads {
                let name: String = head
                    .trim_start_matches(|letter: char| !letter.is_uppercase())
                    .chars()
                    .take_while(|letter| letter.is_alphanumeric())
                    .collect();
                let home = homes.entry(name.clone()).or_insert(own);
                assert_eq!(*home, own, "{name} is at home in two components");
            }
        }
    }
    assert!(["Inputs", "World", "Pulls", "Log"].iter().all(|name| homes.contains_key(*name)), "{homes:?}");
}

#[test]
fn only_the_order_of_a_moment_and_the_frame_name_two() {
    let folder = engine();
    let beside = files(&folder).into_iter().filter(|path| path.parent() == Some(&folder));
    for path in beside.filter(|path| !path.ends_with("moment.rs") && !path.ends_with("mod.rs")) {
        let words = words(&path);
        let names = |name: &&str| words.windows(2).any(|pair| pair[0] == "engine" && pair[1] == **name);
        let named: Vec<&str> = COMPONENTS.into_iter().filter(names).collect();
        assert!(named.is_empty(), "{} names {named:?}", path.display());
    }
}
