//! Promise: the modules stand in the order of the flow, and import only what stands before them.

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

/// A file's code, without comments and tests.
fn code(text: &str) -> String {
    let code = text.split("#[cfg(test)]\nmod tests {").next().unwrap();
    code.lines().map(|line| line.split("//").next().unwrap()).collect::<Vec<_>>().join("\n")
}

/// The modules that a file's code names behind `crate::`; comments and tests are passed over.
fn imported(text: &str) -> Vec<String> {
    // What a macro names is reached from outside.
    let code = code(text).replace("$crate::", "");
    let after = code.split("crate::").skip(1);
    after.map(|rest| rest.chars().take_while(|c| c.is_ascii_alphanumeric() || *c == '_').collect()).collect()
}

#[test]
fn every_module_imports_only_those_above_it_in_lib_rs() {
    let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("../crates/tidy-lever/src");
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
                None => wrong.push(format!("{} names `crate::{name}`, which is not a module", inside.display())),
            }
        }
    }
    assert!(arrows > 300, "the imports were read: {arrows}");
    assert_eq!(wrong, [""; 0]);
}

#[test]
fn no_file_of_the_library_is_longer_than_600_lines() {
    let all = sources(&Path::new(env!("CARGO_MANIFEST_DIR")).join("../crates/tidy-lever/src"));
    let lines = |path: &PathBuf| fs::read_to_string(path).unwrap().lines().count();
    let long: Vec<&PathBuf> = all.iter().filter(|path| lines(path) > 600).collect();
    assert!(all.len() > 100 && long.is_empty(), "{long:?}");
}

/// A file's module: its path below `src`, from the crate's root.
fn module(inside: &Path) -> Vec<String> {
    let mut names: Vec<String> =
        inside.with_extension("").iter().map(|part| part.to_string_lossy().into_owned()).collect();
    if names.last().is_some_and(|last| last == "mod" || last == "lib") {
        names.pop();
    }
    names
}

/// What a file takes in with `use`, as whole paths from the crate's root; and whether it hands it on.
fn uses(text: &str, own: &[String]) -> Vec<(Vec<String>, bool)> {
    let mut all = Vec::new();
    for statement in code(text).split(';') {
        let Some(at) = statement.find("use ") else { continue };
        let (before, path) = (&statement[..at], statement[at + 4..].trim());
        let (base, names) = path.split_once('{').unwrap_or(path.rsplit_once("::").unwrap_or((path, "")));
        let mut base: Vec<&str> = base.split("::").map(str::trim).filter(|part| !part.is_empty()).collect();
        let mut root = match base.first() {
            Some(&"crate") => Vec::new(),
            Some(&"super" | &"self") => own.to_vec(),
            _ if own.is_empty() || before.trim_end().ends_with("pub") || before.contains("pub(") => own.to_vec(),
            _ => continue,
        };
        while let Some(first) = base.first().filter(|first| ["crate", "super", "self"].contains(first)) {
            if *first == "super" {
                root.pop();
            }
            base.remove(0);
        }
        root.extend(base.into_iter().map(str::to_owned));
        for name in names.trim_end_matches('}').split([',', '{', '}']) {
            let parts = name.split(" as ").next().unwrap().split("::").map(|part| part.trim().to_owned());
            let whole = root.iter().cloned().chain(parts.filter(|part| !part.is_empty() && part != "self"));
            all.push((whole.collect(), before.contains("pub")));
        }
    }
    all
}

#[test]
fn no_two_files_import_each_other_directly_or_through_others() {
    let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("../crates/tidy-lever/src");
    let files: BTreeMap<Vec<String>, String> = sources(&source)
        .into_iter()
        .map(|path| (module(path.strip_prefix(&source).unwrap()), fs::read_to_string(&path).unwrap()))
        .collect();
    // The file in which a path ends: names that are handed on are followed.
    let mut handed_on: BTreeMap<Vec<String>, Vec<String>> = BTreeMap::new();
    for (own, text) in &files {
        for (path, public) in uses(text, own) {
            if let (true, Some(name)) = (public, path.last()) {
                handed_on.insert(own.iter().chain([name]).cloned().collect(), path);
            }
        }
    }
    let file_of = |path: &[String]| {
        let mut path = path.to_vec();
        for _ in 0..4 {
            let Some((handed, cut)) = (1..=path.len()).find_map(|cut| Some((handed_on.get(&path[..cut])?, cut))) else {
                break;
            };
            path = handed.iter().chain(&path[cut..]).cloned().collect();
        }
        (0..=path.len()).rev().map(|cut| &path[..cut]).find_map(|part| files.get_key_value(part)).map(|(own, _)| own)
    };
    let mut arrows: BTreeMap<&Vec<String>, Vec<&Vec<String>>> = BTreeMap::new();
    for (own, text) in &files {
        // What a folder's file hands on is not an import of its own; what it names itself is.
        let imports = uses(text, own).into_iter().filter(|(_, public)| !public);
        let to = imports.filter_map(|(path, _)| file_of(&path)).filter(|to| *to != own);
        arrows.insert(own, to.collect());
    }
    assert!(arrows.values().map(Vec::len).sum::<usize>() > 700, "the imports were read");
    // A file without arrows to others that still stand can't be on a circle.
    loop {
        let free: Vec<&Vec<String>> =
            arrows.iter().filter(|(_, to)| to.iter().all(|to| !arrows.contains_key(to))).map(|(own, _)| *own).collect();
        if free.is_empty() {
            break;
        }
        free.into_iter().for_each(|own| drop(arrows.remove(own)));
    }
    let left: Vec<String> = arrows.keys().map(|own| own.join("/")).collect();
    assert_eq!(left, [""; 0], "these stand on a circle, or lead to one");
}
