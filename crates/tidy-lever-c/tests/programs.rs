//! Promise: C programs compile against the header alone, link with the static and the shared library, and run.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// Whether a program is installed. Without it the test skips itself aloud; where nothing may be skipped, it fails.
fn is_here(name: &str) -> bool {
    let found = Command::new(name).arg("--version").stdout(Stdio::null()).stderr(Stdio::null()).status().is_ok();
    if !found {
        assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "{name} is missing, and nothing may be skipped");
        eprintln!("SKIPPED: {name} is not installed, so no C program is tested with it");
    }
    found
}

/// Where cargo put what this test was built with: the libraries lie beside it.
fn beside() -> PathBuf {
    std::env::current_exe().unwrap().parent().unwrap().to_owned()
}

fn library(end: &str) -> PathBuf {
    let files = std::fs::read_dir(beside()).unwrap().flatten().map(|entry| entry.path());
    let name = |path: &Path| path.file_name().unwrap().to_string_lossy().into_owned();
    let own = files.filter(|path| name(path).starts_with("libtidy_lever_c") && name(path).ends_with(end));
    own.max_by_key(|path| path.metadata().and_then(|found| found.modified()).unwrap()).expect("a library")
}

/// Compiles a program of this folder.
fn compiled(folder: &Path, source: &str, libraries: &[&str]) -> PathBuf {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    let program = folder.join("program");
    let done = Command::new("cc")
        .args(["-std=c11", "-Wall", "-Wextra", "-Werror", "-g", "-I"])
        .arg(here.join("include"))
        .arg(here.join("tests").join(source))
        .args(libraries)
        .args(["-lm", "-lpthread", "-ldl", "-o"])
        .arg(&program)
        .output()
        .unwrap();
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    program
}

/// What a program says, if it ends well.
fn said(command: &mut Command) -> String {
    let ran = command.env("LD_LIBRARY_PATH", beside()).output().unwrap();
    let said = String::from_utf8_lossy(&ran.stdout).into_owned();
    assert!(ran.status.success(), "{:?}: {said}{}", ran.status, String::from_utf8_lossy(&ran.stderr));
    said
}

fn demo(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(name)
}

/// What the library itself says of the first five seconds, as `play --json` prints it.
fn first_five_seconds() -> String {
    use tidy_lever::tape::{OutputLine, Reader, Replayer};
    use tidy_lever::{Linkage, Moment, Profile};
    let profile = Profile::from_toml(&std::fs::read_to_string(demo("otter-post.toml")).unwrap()).unwrap();
    let linkage = Linkage::build(&profile).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let mut bookmark = seat.bookmark();
    let file = std::fs::read(demo("morning-round.jsonl")).unwrap();
    let mut reader = Reader::new(&file[..]).unwrap();
    let mut player = Replayer::new(reader.header());
    let end = Moment::from_millis(5_000);
    for line in reader.by_ref().map(|line| line.unwrap()).take_while(|line| line.at <= end) {
        player.put(&line, &mut seat).unwrap();
    }
    seat.advance(end);
    let reading = seat.read(&mut bookmark);
    reading
        .happenings()
        .filter_map(|one| OutputLine::of(one, 1, &linkage, false))
        .map(|line| line.json() + "\n")
        .collect()
}

#[test]
fn the_demos_first_five_seconds_come_out_in_c_as_they_do_here() {
    if !is_here("cc") {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let wanted = first_five_seconds();
    assert!(wanted.contains("\"action\":\"hop\",\"what\":\"pulled\"") && wanted.lines().count() >= 4, "{wanted}");
    for kind in [".a", ".so"] {
        let program = compiled(folder.path(), "demo.c", &[library(kind).to_str().unwrap()]);
        for step in ["16667", "1000", "5000000"] {
            assert_eq!(said(Command::new(&program).arg(demo("otter-post.toml")).arg(step)), wanted, "{kind} {step}");
        }
    }
}

#[test]
fn only_the_headers_functions_leave_the_static_library_and_it_links_as_before() {
    if !is_here("cc") || !is_here("objcopy") {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let own = folder.path().join("libtidy_lever.a");
    let only = Path::new(env!("CARGO_MANIFEST_DIR")).join("only-tl");
    assert!(Command::new(only).arg(library(".a")).arg(&own).status().unwrap().success());
    let listed = Command::new("nm").args(["-g", "--defined-only", "--format=just-symbols"]).arg(&own).output().unwrap();
    let listed = String::from_utf8_lossy(&listed.stdout).into_owned();
    let symbols: Vec<&str> = listed.lines().filter(|line| !line.is_empty() && !line.ends_with(':')).collect();
    let strangers: Vec<_> = symbols.iter().filter(|name| !name.starts_with("tl_")).collect();
    assert!(strangers.is_empty() && symbols.contains(&"tl_abi"), "{strangers:?}");
    let header = include_str!("../include/tidy_lever.h");
    assert!(symbols.iter().all(|name| header.contains(&format!("{name}("))), "{symbols:?}");
    let program = compiled(folder.path(), "demo.c", &[own.to_str().unwrap()]);
    assert_eq!(said(Command::new(&program).arg(demo("otter-post.toml")).arg("1000")), first_five_seconds());
}

#[test]
fn mistakes_are_answered_and_nothing_leaks() {
    if !is_here("cc") {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let program = compiled(folder.path(), "mistakes.c", &[library(".a").to_str().unwrap()]);
    assert_eq!(said(&mut Command::new(&program)), "all holds\n");
    if is_here("valgrind") {
        let checks =
            ["--quiet", "--error-exitcode=9", "--leak-check=full", "--errors-for-leak-kinds=definite,indirect"];
        assert_eq!(said(Command::new("valgrind").args(checks).arg(&program)), "all holds\n");
    }
}

#[test]
fn the_example_says_what_its_page_says() {
    if !is_here("cc") {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let program = compiled(folder.path(), "../../../examples/c/quay.c", &[library(".a").to_str().unwrap()]);
    let page = include_str!("../../../examples/c/README.md");
    let said = said(&mut Command::new(&program));
    assert!(page.contains(&format!("```text\n{said}```")), "{said}");
}
