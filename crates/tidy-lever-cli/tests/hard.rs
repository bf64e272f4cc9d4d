//! Promise: the command survives gaps, seats, bounds, terminals, closed outputs, files, and tapes that want too much.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};

use tempfile::TempDir;

fn command() -> Command {
    Command::new(env!("CARGO_BIN_EXE_tidy-lever"))
}

fn run(arguments: &[&str]) -> Output {
    command().args(arguments).output().unwrap()
}

fn out(output: &Output) -> String {
    String::from_utf8_lossy(&output.stdout).into_owned()
}

fn err(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

/// A folder with these files in it.
fn folder(files: &[(&str, &str)]) -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    files.iter().for_each(|(name, text)| fs::write(folder.path().join(name), text).unwrap());
    folder
}

fn path(folder: &TempDir, name: &str) -> String {
    folder.path().join(name).to_string_lossy().into_owned()
}

const PROFILE: &str = "tidy-lever = 1\n[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n\
    [action.drum]\nkind = \"button\"\nkeys = \"KeyK\"\ncue = \"repeat after 40ms every 10ms\"\n\
    [action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"hold 300ms\"\n";

/// A tape of these lines and an end.
fn tape(lines: &str, end: u64) -> String {
    format!("{{\"tape\":\"tidy-lever\",\"version\":1}}\n{lines}\n{{\"at\":{end},\"end\":true}}\n")
}

fn key(at: u64, key: &str, value: u8) -> String {
    format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:{key}\",\"value\":{value}}}\n")
}

/// What comes out, which is the same at every tick rate.
fn played(profile: &str, tape: &str) -> String {
    let folder = folder(&[("p.toml", profile), ("t.jsonl", tape)]);
    let play = |ticks: &[&str]| {
        let output = command()
            .args(["play", &path(&folder, "p.toml"), &path(&folder, "t.jsonl"), "--json", "--all"])
            .args(ticks)
            .output()
            .unwrap();
        assert!(output.status.success(), "{}", err(&output));
        out(&output)
    };
    let whole = play(&[]);
    for rate in ["7", "10", "30", "60", "144", "1000"] {
        assert_eq!(play(&["--ticks", rate]), whole, "{rate} ticks per second");
    }
    whole
}

#[test]
fn a_gap_begins_where_the_tape_says_and_nothing_in_it_pulls_at_any_tick_rate() {
    // A repeat is held, a hold is under way, and a key goes down and up in the gap; another goes down and stays.
    let lines =
        key(100_000, "KeyK", 1) + &key(110_000, "KeyE", 1) + &key(400_000, "Space", 1) + &key(500_000, "Space", 0);
    let lines = lines
        + &key(900_000, "KeyE", 0)
        + "{\"at\":1000000,\"skip\":true,\"from\":200000}\n"
        + &key(1_200_000, "KeyK", 0);
    let told = played(PROFILE, &tape(&lines, 2_000_000));
    let pulls: Vec<&str> = told.lines().filter(|line| line.contains("pulled")).collect();
    // Up to where it begins the drum goes on; the bag and the hop never come.
    assert_eq!(pulls.len(), 8, "{told}");
    assert!(pulls.iter().all(|line| line.contains("drum")) && pulls[7].contains("\"at\":200000"), "{told}");
    assert!(told.contains("{\"at\":1200000,\"action\":\"drum\",\"what\":\"released\"}"), "what is held stays held");
    // Without a beginning it begins at the line before, and what came before still plays.
    let lines = key(100_000, "KeyE", 1)
        + &key(450_000, "Space", 1)
        + "{\"at\":1000000,\"skip\":true}\n"
        + &key(1_100_000, "KeyE", 0);
    let told = played(PROFILE, &tape(&lines, 2_000_000));
    assert!(told.contains("{\"at\":400000,\"action\":\"bag\",\"what\":\"pulled\"}") && told.contains("hop"), "{told}");
}

#[test]
fn lines_of_two_seats_come_in_order_of_time_then_of_seat() {
    let two = |line: String| line.replace("\"dev\"", "\"seat\":2,\"dev\"").replace("\"kb\"", "\"kb2\"");
    let lines: String = (0..40)
        .map(|n| {
            key(n * 7_000 + 500, "KeyK", 1 - (n % 2) as u8) + &two(key(n * 7_000 + 900, "KeyK", 1 - (n % 2) as u8))
        })
        .collect();
    let told = played(PROFILE, &tape(&lines, 400_000));
    let order: Vec<(u64, u64)> = told
        .lines()
        .map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap())
        .map(|line| (line["at"].as_u64().unwrap(), line["seat"].as_u64().unwrap_or(1)))
        .collect();
    assert!(order.is_sorted() && order.iter().any(|(_, seat)| *seat == 2), "{told}");
}

#[test]
fn a_moment_that_is_wrong_ends_with_a_message_and_not_in_a_hundred_years() {
    let far = 1u64 << 62;
    for (lines, ticks, what) in [
        (key(1_000, "KeyK", 1), None, "more than 1000000 things happen"),
        (String::new(), Some("60"), "more than 40000000 ticks lie"),
    ] {
        let folder = folder(&[("p.toml", PROFILE), ("t.jsonl", &tape(&lines, far))]);
        let mut command = command();
        command.args(["play", &path(&folder, "p.toml"), &path(&folder, "t.jsonl"), "--expect", "/dev/null"]);
        command.args(ticks.map(|ticks| ["--ticks", ticks]).into_iter().flatten());
        let output = command.output().unwrap();
        assert_eq!(output.status.code(), Some(2));
        assert!(err(&output).contains(what) && err(&output).contains("t.jsonl: "), "{}", err(&output));
    }
    // With nothing that repeats, a far end is no problem.
    let folder = folder(&[("p.toml", PROFILE), ("t.jsonl", &tape(&key(1_000, "KeyE", 1), far))]);
    assert!(run(&["play", &path(&folder, "p.toml"), &path(&folder, "t.jsonl")]).status.success());
}

#[test]
fn more_events_in_one_tick_than_wait_at_once_keep_their_moments() {
    let lines: String = (0..70_000u64).map(|n| key(100_000 + n, "Space", (n % 2 == 0) as u8)).collect();
    let profile = format!("{PROFILE}[devices]\nkeys = {{ debounce = \"0ms\" }}\n");
    let folder = folder(&[("p.toml", &profile), ("t.jsonl", &tape(&lines, 2_000_000))]);
    let arguments = ["play", &path(&folder, "p.toml"), &path(&folder, "t.jsonl"), "--json", "--ticks", "1"];
    let told = out(&run(&arguments));
    assert_eq!(told.lines().count(), 70_000);
    let pulls = told.lines().filter(|line| line.contains("pulled"));
    for (place, line) in pulls.enumerate() {
        assert!(line.starts_with(&format!("{{\"at\":{},", 100_000 + 2 * place)), "{place}: {line}");
    }
}

#[test]
fn nothing_that_somebody_wrote_steers_the_terminal() {
    let evil = "\u{1b}]0;owned\u{7}\u{9b}31m";
    let json = evil.replace('\u{1b}', "\\u001b").replace('\u{7}', "\\u0007");
    let escaped = "\\u001b]0;owned\\u0007\u{9b}31m";
    let profile = format!("title = \"{escaped}\"\n{PROFILE}");
    let header = format!(
        "{{\"tape\":\"tidy-lever\",\"version\":1,\"title\":\"{json}\",\"devices\":[{{\"id\":\"{json}\",\"family\":\"keys\"}}]}}\n"
    );
    let lines = format!(
        "{header}{}{{\"at\":9000,\"end\":true}}\n",
        key(1_000, "Space", 1).replace("\"kb\"", &format!("\"{json}\""))
    );
    let wrong = format!("{header}{{\"at\":5,\"dev\":\"x\",\"control\":\"keys:{json}\",\"value\":1}}\n");
    let broken = format!("{PROFILE}# {evil}\n[action.\"{escaped}\"]\nkind = \"{escaped}\" # {evil}\n");
    let folder =
        folder(&[("p.toml", &profile), ("t.jsonl", &lines), ("wrong.jsonl", &wrong), ("broken.toml", &broken)]);
    let named = folder.path().join(format!("named{evil}.toml"));
    fs::write(&named, "nothing").unwrap();
    let at = |name: &str| path(&folder, name);
    let cases: [&[&str]; 8] = [
        &["play", &at("p.toml"), &at("t.jsonl")],
        &["play", &at("p.toml"), &at("wrong.jsonl")],
        &["why", &at("p.toml"), &at("t.jsonl"), "--all"],
        &["check", &at("p.toml")],
        &["check", &at("broken.toml")],
        &["check", &at("broken.toml"), "--json"],
        &["check", named.to_str().unwrap()],
        &["play", named.to_str().unwrap(), &at("t.jsonl")],
    ];
    for arguments in cases {
        let output = run(arguments);
        for text in [out(&output), err(&output)] {
            let steers = |c: &char| c.is_control() && *c != '\n' && *c != '\t';
            assert_eq!(text.chars().find(steers), None, "{arguments:?}: {text:?}");
        }
        assert!(!(out(&output) + &err(&output)).is_empty());
    }
    // A picture with such a title is well-formed all the same.
    let picture = at("t.svg");
    assert!(run(&["draw", "timeline", &at("p.toml"), &at("t.jsonl"), "-o", &picture]).status.success());
    let svg = fs::read_to_string(picture).unwrap();
    assert!(!svg.chars().any(|c| c.is_control() && c != '\n') && svg.contains("owned"), "{svg}");
}

#[test]
fn a_full_or_closed_output_ends_every_command_with_the_right_status() {
    let expected = "{\"at\":1,\"action\":\"hop\",\"what\":\"pulled\"}\n";
    let folder = folder(&[
        ("p.toml", PROFILE),
        ("bad.toml", "tidy-lever = 1\n[action.hop]\nkind = \"buton\"\n"),
        (
            "t.jsonl",
            &tape(
                &(0..20_000u64).map(|n| key(1_000 + n * 100, "Space", (n % 2 == 0) as u8)).collect::<String>(),
                9_000_000,
            ),
        ),
        ("e.jsonl", expected),
        ("player.toml", "tidy-lever = 1\n"),
    ]);
    let at = |name: &str| path(&folder, name);
    let cases: [(&[&str], i32); 9] = [
        (&["demo"], 0),
        (&["controls"], 0),
        (&["check", &at("p.toml")], 0),
        (&["check", &at("bad.toml")], 1),
        (&["play", &at("p.toml"), &at("t.jsonl"), "--json"], 0),
        (&["play", &at("p.toml"), &at("t.jsonl"), "--expect", &at("e.jsonl")], 1),
        (&["why", &at("p.toml"), &at("t.jsonl"), "--all"], 0),
        (&["remap", &at("p.toml"), &at("player.toml"), "--set", "hop.keys=KeyE"], 1),
        (&["completions", "bash"], 0),
    ];
    for (arguments, status) in cases {
        // Closed at the other end.
        let (reader, writer) = std::io::pipe().unwrap();
        drop(reader);
        let output = command().args(arguments).stdout(writer).stderr(Stdio::piped()).output().unwrap();
        assert_eq!(output.status.code(), Some(status), "{arguments:?}: {}", err(&output));
        assert!(!err(&output).contains("panicked"), "{}", err(&output));
        if Path::new("/dev/full").exists() {
            let full = fs::OpenOptions::new().write(true).open("/dev/full").unwrap();
            let output = command().args(arguments).stdout(full).stderr(Stdio::piped()).output().unwrap();
            assert_eq!(output.status.code(), Some(2), "{arguments:?}: {}", err(&output));
            assert!(err(&output).contains("standard output can't be written to"), "{}", err(&output));
        }
    }
}

#[test]
fn a_tape_reads_no_file_but_players_files_beside_it_and_shows_nothing_of_them() {
    let outer = folder(&[("secret.toml", "password = \"otters\"\n[")]);
    let own = outer.path().join("own");
    fs::create_dir(&own).unwrap();
    fs::write(own.join("p.toml"), PROFILE).unwrap();
    fs::write(own.join("player.toml"), "tidy-lever = 1\n[action.hop]\nkeys = \"KeyJ\"\n").unwrap();
    fs::write(own.join("beside.toml"), "password = \"otters\"\n[").unwrap();
    #[cfg(unix)]
    std::os::unix::fs::symlink("../secret.toml", own.join("link.toml")).unwrap();
    let play = |remap: &str| {
        let lines = format!("{{\"at\":1000,\"remap\":\"{remap}\"}}\n{}", key(2_000, "KeyJ", 1));
        fs::write(own.join("t.jsonl"), tape(&lines, 9_000)).unwrap();
        let at = |name: &str| own.join(name).to_string_lossy().into_owned();
        run(&["play", &at("p.toml"), &at("t.jsonl"), "--json"])
    };
    assert!(out(&play("player.toml")).contains("hop"));
    for remap in ["../secret.toml", "/etc/passwd", "-", "link.toml", "beside.toml", ".", "gone.toml", "/dev/stdin"] {
        let output = play(remap);
        assert_eq!(output.status.code(), Some(2), "{remap}");
        let told = err(&output);
        assert!(told.contains(&format!("t.jsonl: line 2: the remap `{remap}`")), "{told}");
        assert!(!told.contains("otters") && !told.contains("password"), "{told}");
    }
}

#[cfg(unix)]
#[test]
fn files_stay_what_they_are_whichever_command_writes_them() {
    use std::os::unix::fs::{PermissionsExt, symlink};
    let folder = folder(&[("p.toml", PROFILE), ("plain", ""), ("player.toml", "tidy-lever = 1\n")]);
    let at = |name: &str| path(&folder, name);
    let mode = |name: &str| fs::metadata(at(name)).unwrap().permissions().mode() & 0o777;
    assert!(run(&["new", &at("new.toml")]).status.success());
    assert!(run(&["draw", "stick", &demo("otter-post.toml"), "steer", "-o", &at("a.svg")]).status.success());
    let set = |file: &str, key: &str| run(&["remap", &at("p.toml"), &at(file), "--set", &format!("hop.keys={key}")]);
    assert!(set("fresh.toml", "KeyJ").status.success());
    assert_eq!([mode("new.toml"), mode("a.svg"), mode("fresh.toml")], [mode("plain"); 3]);
    fs::set_permissions(at("player.toml"), PermissionsExt::from_mode(0o640)).unwrap();
    symlink("player.toml", at("link.toml")).unwrap();
    assert!(set("link.toml", "KeyJ").status.success());
    assert!(fs::symlink_metadata(at("link.toml")).unwrap().is_symlink());
    assert_eq!(mode("player.toml"), 0o640);
    assert!(fs::read_to_string(at("player.toml")).unwrap().contains("KeyJ"));
    fs::set_permissions(at("player.toml"), PermissionsExt::from_mode(0o440)).unwrap();
    let output = set("player.toml", "KeyH");
    assert!(output.status.code() == Some(2) && err(&output).contains("is read-only"), "{}", err(&output));
    assert!(run(&["remap", &at("p.toml"), &at("player.toml"), "--list"]).status.success(), "it can be looked at");
    assert!(run(&["new", "/dev/null"]).status.success());
    assert!(!fs::metadata("/dev/null").unwrap().is_file());
    // Two that change one file at once lose nothing.
    fs::write(at("both.toml"), "tidy-lever = 1\n").unwrap();
    let keys = [("hop.keys", "KeyH"), ("drum.keys", "KeyD"), ("bag.keys", "KeyB")];
    let children: Vec<_> = keys
        .iter()
        .map(|(target, key)| {
            let set = format!("{target}={key}");
            command()
                .args(["remap", &at("p.toml"), &at("both.toml"), "--set", &set])
                .stdout(Stdio::null())
                .spawn()
                .unwrap()
        })
        .collect();
    children.into_iter().for_each(|mut child| assert!(child.wait().unwrap().success()));
    let text = fs::read_to_string(at("both.toml")).unwrap();
    assert!(keys.iter().all(|(_, key)| text.contains(key)), "{text}");
    let names = fs::read_dir(folder.path()).unwrap().map(|entry| entry.unwrap().file_name());
    assert!(names.map(|name| name.into_string().unwrap()).all(|name| !name.starts_with('.')), "no litter");
}

/// A file of the demo.
fn demo(name: &str) -> String {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("demo").join(name).to_string_lossy().into_owned()
}

#[test]
fn slips_in_numbers_and_lines_are_faults() {
    let check = |more: &str| {
        let folder = folder(&[("p.toml", &format!("{PROFILE}{more}"))]);
        let output = run(&["check", &path(&folder, "p.toml")]);
        assert_eq!(output.status.code(), Some(1), "{more}");
        out(&output)
    };
    let gauge = |push: &str| {
        format!("[action.row]\nkind = \"gauge\"\nkeys = \"KeyR\"\ngauge = {{ ceiling = 6, push = \"{push}\" }}\n")
    };
    for push in ["++1", "+-1", "x+2", "--1", "+"] {
        assert!(check(&gauge(push)).contains("action.row.gauge.push"), "{push}");
    }
    let shape = "[action.lean]\nkind = \"axis\"\npad = \"left-stick.x\"\nshape = { curve = [] }\n";
    assert!(check(shape).contains("a curve needs at least one point"));
    let play = |line: &str| {
        let folder = folder(&[("p.toml", PROFILE), ("t.jsonl", &tape(line, 9_000))]);
        err(&run(&["play", &path(&folder, "p.toml"), &path(&folder, "t.jsonl")]))
    };
    for (line, told) in [
        (r#"{"at":1,"focus":true,"frozen":false}"#, "the line says two things, `focus` and `frozen`"),
        (
            r#"{"at":1,"fact":"grounded","value":true,"mode":"x","on":true}"#,
            "the line says two things, `fact` and `mode`",
        ),
        (r#"{"at":1,"meant":"hop","give_back":"hop"}"#, "the line says two things, `give_back` and `meant`"),
        (r#"{"at":1,"view":[0,0]}"#, "a view is 1 to 1048576 pixels wide and high, found 0x0"),
        (r#"{"at":1,"skip":false}"#, "a gap is"),
        (r#"{"at":5,"skip":true,"from":6}"#, "a gap is"),
        (r#"{"at":1,"end":false}"#, "an end is"),
    ] {
        let found = play(line);
        assert!(found.contains("line 2") && found.contains(told), "{line}: {found}");
    }
}

#[test]
fn large_profiles_are_checked_in_a_moment_and_most_faults_are_counted() {
    let actions: String =
        (0..4_000).map(|n| format!("[action.act{n}]\nkind = \"button\"\nkeys = \"KeyJ\"\n")).collect();
    let twice = format!("[action.hop]\nkind = \"button\"\nkeys = [{}]\n", "\"Space\",".repeat(16_000));
    let (long, wrong) = ("a".repeat(100_000), "\"Spac\",".repeat(16_000));
    let long = format!("[action.{long}]\nkind = \"button\"\nkeys = [\"{long}\", {wrong}]\nwhen = \"{long}\"\n");
    for (text, told) in [(actions, " more\n"), (twice, "and 15979 more"), (long, "more\n")] {
        let folder = folder(&[
            ("p.toml", &format!("tidy-lever = 1\n{text}")),
            ("r.toml", "tidy-lever = 1\n[action.act1]\nkeys = \"KeyK\"\n"),
        ]);
        let output = run(&["check", &path(&folder, "p.toml"), "--remap", &path(&folder, "r.toml")]);
        assert!(out(&output).contains(told), "{}", &out(&output)[..out(&output).len().min(4_000)]);
        assert!(out(&output).len() < 1_000_000);
    }
}

#[test]
fn a_swap_that_makes_a_new_conflict_tells_it_and_a_pointers_screen_is_a_control() {
    let profile = "tidy-lever = 1\n[action.a]\nkind = \"button\"\nkeys = \"KeyA\"\n[action.b]\nkind = \"button\"\nkeys = \"KeyB\"\n\
        [action.c]\nkind = \"button\"\nkeys = [\"KeyA\", \"KeyC\"]\ngroup = \"x\"\n[action.point]\nkind = \"pointer\"\nmouse = \"left\"\ntouch = \"place\"\n";
    let folder = folder(&[("p.toml", profile)]);
    let (p, player) = (path(&folder, "p.toml"), path(&folder, "player.toml"));
    let told = out(&run(&["remap", &p, &player, "--set", "a.keys=KeyB", "--clash", "swap"]));
    assert!(told.contains("swapped: keys:KeyB is bound to a.keys; b.keys takes its old control"), "{told}");
    assert!(told.contains("shared: keys:KeyA is bound to both c.keys and b.keys"), "{told}");
    assert!(out(&run(&["check", &p])).contains("touch: place"));
}

#[cfg(target_os = "linux")]
#[test]
fn completions_complete_below_the_first_word_in_a_real_bash() {
    let no_bash = Command::new("bash").arg("--version").output().is_err();
    if no_bash {
        assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "bash is missing");
        eprintln!("skipped: there is no bash to complete in");
        return;
    }
    let binary = Path::new(env!("CARGO_BIN_EXE_tidy-lever"));
    let complete = |words: &[&str]| {
        let script = r#"
            source <(tidy-lever completions bash)
            COMP_WORDS=("$@"); COMP_CWORD=$(( $# - 1 )); COMP_TYPE=9
            f=$(complete -p tidy-lever | sed 's/.*-F \([^ ]*\).*/\1/')
            $f tidy-lever "${COMP_WORDS[COMP_CWORD]}" "${COMP_WORDS[COMP_CWORD-1]}"
            printf '%s\n' "${COMPREPLY[@]}""#;
        let folder = binary.parent().unwrap().to_string_lossy().into_owned();
        let search = format!("{folder}:{}", std::env::var("PATH").unwrap());
        let output = Command::new("bash").args(["-c", script, "x"]).args(words).env("PATH", search).output().unwrap();
        out(&output).lines().map(str::to_owned).collect::<Vec<_>>()
    };
    let profile = demo("otter-post.toml");
    assert_eq!(complete(&["tidy-lever", "ch"]), ["check"]);
    assert_eq!(complete(&["tidy-lever", "draw", "ti"]), ["timeline"]);
    assert_eq!(complete(&["tidy-lever", "demo", "tri"]), ["triple-hop"]);
    assert_eq!(complete(&["tidy-lever", "controls", "p"]), ["pad"]);
    assert_eq!(complete(&["tidy-lever", "why", &profile, "t.jsonl", "sk"]), ["skim"]);
    assert_eq!(complete(&["tidy-lever", "draw", "stick", &profile, "st"]), ["steer"]);
    assert_eq!(complete(&["tidy-lever", "play", &profile, "t.jsonl", "--each", "padd"]), ["paddle"]);
}
