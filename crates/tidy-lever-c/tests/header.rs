//! Promise: the header is as the code is. `REWRITE=1` writes it again.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::path::Path;

#[test]
fn the_header_is_as_the_code_is() {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    let config = cbindgen::Config::from_file(here.join("cbindgen.toml")).unwrap();
    let mut builder = cbindgen::Builder::new().with_config(config);
    // The files are enough: no `cargo metadata`, so nothing is asked of anybody.
    for file in ["words", "linkage", "seat", "feed", "tell", "reading", "saved", "remap", "panel"] {
        builder = builder.with_src(here.join("src").join(file).with_extension("rs"));
    }
    let mut text = Vec::new();
    builder.generate().unwrap().write(&mut text);
    // What each function asks of its pointers stands in the header's first lines, once.
    let mut lines: Vec<&str> = Vec::new();
    let mut of_pointers = false;
    let text = String::from_utf8(text).unwrap();
    for line in text.lines() {
        of_pointers = line == "// # Safety" || of_pointers && line.starts_with("//");
        if line == "// # Safety" && lines.last() == Some(&"//") {
            lines.pop();
        }
        if !of_pointers {
            lines.push(line);
        }
    }
    let text = lines.join("\n") + "\n";
    let path = here.join("include/tidy_lever.h");
    if std::env::var_os("REWRITE").is_some() {
        std::fs::write(&path, &text).unwrap();
    }
    let found = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(found == text, "the header is old; run REWRITE=1 cargo test -p tidy-lever-c --test header");
    let comments = || text.lines().filter(|line| line.trim_start().starts_with("//"));
    for word in ["Safety", "whole", "Rust", "panic", "255", " is no "] {
        let found = comments().find(|line| line.replace("there is no ", "").replace("There is no ", "").contains(word));
        assert_eq!(found, None, "a word that C programmers would not understand: {word}");
    }
    // Everything that is exported is in it.
    for file in std::fs::read_dir(here.join("src")).unwrap() {
        let code = std::fs::read_to_string(file.unwrap().path()).unwrap();
        let functions = code.split("extern \"C\" fn ").skip(1).filter_map(|rest| rest.split('(').next());
        for function in functions.filter(|name| name.starts_with("tl_")) {
            assert!(text.contains(&format!("{function}(")), "{function} is not in the header");
        }
    }
}
