//! The modules stand in the order of the flow, and import only what stands before them.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

/// All source files below a folder, but for tests.
fn sources(folder: &Path) -> Vec<PathBuf> {
    let mut all = Vec::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            all.extend(sources(&path));
        } else if path.extension().is_some_and(|ending| ending == "rs") && !path.ends_with("tests.rs") {
            all.push(path);
        }
    }
    all
}

/// The modules that a file's code names behind `crate::`; comments and tests are passed over.
fn imported(text: &str) -> Vec<String> {
    let code = text.split("#[cfg(test)]\nmod tests {").next().unwrap();
    let lines = code.lines().map(|line| line.split("//").next().unwrap());
    // What a macro names is reached from outside.
    let code = lines.collect::<Vec<_>>().join("\n").replace("$crate::", "");
    let after = code.split("crate::").skip(1);
    after.map(|rest| rest.chars().take_while(|c| c.is_ascii_alphanumeric() || *c == '_').collect()).collect()
}

#[test]
fn every_module_imports_only_those_above_it_in_lib_rs() {
    let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let lib = fs::read_to_string(source.join("lib.rs")).unwrap();
    let names = lib.lines().filter_map(|line| line.trim_start_matches("pub ").strip_prefix("mod ")?.strip_suffix(';'));
    let order: BTreeMap<&str, usize> = names.enumerate().map(|(place, name)| (name, place)).collect();
    assert!(order.len() > 25, "{order:?}");
    let (mut wrong, mut arrows) = (Vec::new(), 0);
    for path in sources(&source) {
        let inside = path.strip_prefix(&source).unwrap();
        let first = inside.components().next().unwrap().as_os_str().to_str().unwrap();
        let Some(own) = order.get(first.trim_end_matches(".rs")) else { continue };
        for name in imported(&fs::read_to_string(&path).unwrap()) {
            match order.get(name.as_str()) {
                Some(place) if place > own => wrong.push(format!("{} imports {name}", inside.display())),
                Some(_) => arrows += 1,
                None => wrong.push(format!("{} names `crate::{name}`, which is no module", inside.display())),
            }
        }
    }
    assert!(arrows > 300, "the imports were read: {arrows}");
    assert_eq!(wrong, [""; 0]);
}

#[test]
fn no_file_of_the_library_is_longer_than_400_lines() {
    let all = sources(&Path::new(env!("CARGO_MANIFEST_DIR")).join("src"));
    let lines = |path: &PathBuf| fs::read_to_string(path).unwrap().lines().count();
    let long: Vec<&PathBuf> = all.iter().filter(|path| lines(path) > 400).collect();
    assert!(all.len() > 100 && long.is_empty(), "{long:?}");
}
