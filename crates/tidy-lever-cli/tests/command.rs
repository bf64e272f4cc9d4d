//! Promise: the command prints what its users need, and ends as it says.

#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::path::PathBuf;

use assert_cmd::Command;
use assert_cmd::assert::Assert;

fn run(arguments: &[&str]) -> Assert {
    Command::cargo_bin("tidy-lever").unwrap().args(arguments).assert()
}

fn out(assert: &Assert) -> String {
    String::from_utf8_lossy(&assert.get_output().stdout).into_owned()
}

fn err(assert: &Assert) -> String {
    String::from_utf8_lossy(&assert.get_output().stderr).into_owned()
}

/// A file of the demo.
fn demo(name: &str) -> String {
    format!("{}/demo/{name}", env!("CARGO_MANIFEST_DIR"))
}

/// A file with this text, in a folder that goes with the test.
fn file(folder: &tempfile::TempDir, name: &str, text: &str) -> String {
    let path: PathBuf = folder.path().join(name);
    fs::write(&path, text).unwrap();
    path.to_string_lossy().into_owned()
}

const PROFILE: &str = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
const TAPE: &str = "{\"tape\":\"tidy-lever\",\"version\":1}\n\
    {\"at\":100000,\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":1}\n\
    {\"at\":250000,\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":0}\n\
    {\"at\":1000000,\"end\":true}\n";

#[test]
fn the_demo_shows_a_minute_at_a_glance_and_lists_its_recipes() {
    let told = out(&run(&["demo"]).success());
    for part in ["Otter Post: the morning round", "64.000 s", "10 pulls, 10 presses", "steer", "next: `tidy-lever"] {
        assert!(told.contains(part), "{part} in\n{told}");
    }
    assert!(!told.contains('\u{1b}'), "no colours where there is no terminal");
    assert!(out(&run(&["demo", "--list"]).success()).contains("steer-keys"));
    assert!(err(&run(&["demo", "stear-keys"]).code(2)).contains("there is no recipe `stear-keys`; the recipes are"));
}

#[test]
fn each_template_checks_clean_and_its_tape_pulls_all_that_it_declares() {
    let folder = tempfile::tempdir().unwrap();
    for kind in ["side-view", "from-above", "duel", "touch-screen"] {
        let at = |ending: &str| folder.path().join(format!("{kind}.{ending}")).display().to_string();
        let (profile, tape) = (at("toml"), at("jsonl"));
        let told = out(&run(&["new", "--for", kind, &profile]).success());
        assert!(told.contains(&format!("next: tidy-lever play {profile} {tape}")), "{told}");
        run(&["check", "--strict", &profile]).success();
        run(&["check", "--strict", &profile, "--screen", "2340x1080@400"]).success();
        let played = out(&run(&["play", &profile, &tape, "--json"]).success());
        let text = std::fs::read_to_string(&profile).unwrap();
        let linkage = tidy_lever::Linkage::build(&tidy_lever::Profile::from_toml(&text).unwrap()).unwrap();
        for action in linkage.actions().filter(|action| action.cue().is_some()) {
            let pulled = format!("\"action\":\"{}\",\"what\":\"pulled\"", action.name());
            assert!(played.contains(&pulled), "{kind}: {} never pulls: {played}", action.name());
        }
        assert!(err(&run(&["new", "--for", kind, &profile]).code(2)).contains("exists already"));
        // The tape alone is not written over, either.
        std::fs::remove_file(&profile).unwrap();
        let refused = err(&run(&["new", "--for", kind, &profile]).code(2));
        assert!(refused.contains("jsonl exists already") && !std::path::Path::new(&profile).exists(), "{refused}");
    }
    assert!(err(&run(&["new", "--for", "side-veiw", "-"]).code(2)).contains("side-view"));
}

#[test]
fn a_new_profile_checks_clean_and_is_never_written_over() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("mine.toml").to_string_lossy().into_owned();
    assert!(out(&run(&["new", &path]).success()).contains("next: tidy-lever check"));
    run(&["check", &path, "--strict"]).success();
    fs::write(&path, "mine").unwrap();
    assert!(err(&run(&["new", &path]).code(2)).contains("exists already and is left as it is"));
    assert_eq!(fs::read_to_string(&path).unwrap(), "mine");
    assert!(out(&run(&["new", "-"]).success()).starts_with("# A profile"));
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1, "nothing half-written is left behind");
}

#[test]
fn play_prints_one_json_object_a_line() {
    let folder = tempfile::tempdir().unwrap();
    let (profile, tape) = (file(&folder, "p.toml", PROFILE), file(&folder, "t.jsonl", TAPE));
    let plain = "{\"at\":100000,\"action\":\"hop\",\"what\":\"pulled\"}\n\
        {\"at\":250000,\"action\":\"hop\",\"what\":\"ended\",\"cause\":\"let go\"}\n";
    assert_eq!(out(&run(&["play", &profile, &tape, "--json"]).success()), plain);
    let all = out(&run(&["play", &profile, &tape, "--json", "--all"]).success());
    assert_eq!(all.matches("\"pressed\"").count() + all.matches("\"released\"").count(), 2);
    for rate in ["1", "7", "30", "60", "144", "1000"] {
        assert_eq!(out(&run(&["play", &profile, &tape, "--json", "--ticks", rate]).success()), plain, "{rate}");
    }
    let piped = |arguments: &[&str], input: &str| {
        let mut command = Command::cargo_bin("tidy-lever").unwrap();
        out(&command.args(arguments).write_stdin(input.to_owned()).assert().success())
    };
    assert_eq!(piped(&["play", &profile, "-", "--json"], TAPE), plain);
    assert_eq!(piped(&["play", "-", &tape, "--json"], PROFILE), plain);
}

#[test]
fn an_expectation_is_met_or_the_place_where_it_parts_is_shown() {
    let folder = tempfile::tempdir().unwrap();
    let (profile, tape) = (file(&folder, "p.toml", PROFILE), file(&folder, "t.jsonl", TAPE));
    let right = "{\"action\":\"hop\",\"what\":\"pulled\",\"at\":100000}\n{\"at\":250000,\"action\":\"hop\",\"what\":\"ended\",\"cause\":\"let go\"}\n";
    let met = file(&folder, "met", right);
    assert!(out(&run(&["play", &profile, &tape, "--expect", &met]).success()).contains("as expected: 2 lines"));
    for (wrong, part) in [
        (right.replace("250000", "250001"), "part at line 2"),
        (right.lines().next().unwrap().to_owned(), "part at its end"),
        (format!("{right}{right}"), "part at line 3"),
    ] {
        let wrong = file(&folder, "wrong", &wrong);
        let told = out(&run(&["play", &profile, &tape, "--expect", &wrong]).code(1));
        assert!(told.contains("not as expected") && told.contains(part), "{told}");
    }
    let broken = file(&folder, "broken", "{\"at\":1}\nnope\n");
    assert!(err(&run(&["play", &profile, &tape, "--expect", &broken]).code(2)).contains("line 2 is not JSON"));
}

#[test]
fn each_tick_reports_what_the_action_answers() {
    let folder = tempfile::tempdir().unwrap();
    let (profile, tape) = (file(&folder, "p.toml", PROFILE), file(&folder, "t.jsonl", TAPE));
    let told = out(&run(&["play", &profile, &tape, "--each", "hop", "--ticks", "10"]).success());
    let rows: Vec<Vec<&str>> = told.lines().skip(2).map(|row| row.split_whitespace().collect()).collect();
    assert_eq!(rows[0], ["0.100", "s", "yes", "yes", "yes", "0.000", "s", "yes"]);
    assert_eq!(rows[1], ["0.200", "s", "yes", "0.100", "s", "yes"]);
    assert_eq!(rows[2], ["0.300", "s", "yes"]);
    assert_eq!(rows[3], ["0.400", "s"]);
    // What stays as it is is counted, and its last tick shown.
    assert_eq!(rows[4], ["…", "5", "more", "ticks", "like", "this"]);
    assert_eq!(rows[5..], [["1.000", "s"]]);
    assert!(err(&run(&["play", &profile, &tape, "--each", "hopp"]).code(2)).contains("did you mean `hop`?"));
}

#[test]
fn check_points_at_every_fault_and_ends_with_one() {
    let folder = tempfile::tempdir().unwrap();
    let broken = file(&folder, "broken.toml", "tidy-lever = 1\n[action.hop]\nkind = \"buton\"\nkeys = \"Spac\"\n");
    let told = out(&run(&["check", &broken]).code(1));
    for part in [
        "broken.toml:3:8: action.hop.kind",
        "did you mean `Space`?",
        "   4 | keys = \"Spac\"",
        "|        ^",
        "2 faults",
    ] {
        assert!(told.contains(part), "{part} in\n{told}");
    }
    let json = out(&run(&["check", &broken, "--json"]).code(1));
    assert!(json.lines().all(|line| line.contains("\"what\":\"fault\"")) && json.lines().count() == 2);
    let doubtful =
        file(&folder, "doubtful.toml", "tidy-lever = 1\n[action.walk]\nkind = \"stick\"\npad = \"left-stick\"\n");
    assert!(out(&run(&["check", &doubtful]).success()).contains("1 warning"));
    run(&["check", &doubtful, "--strict"]).code(1);
    assert!(out(&run(&["check", &demo("otter-post.toml"), "--strict"]).success()).contains("good"));
}

#[test]
fn what_can_not_run_says_what_where_and_what_to_do() {
    let folder = tempfile::tempdir().unwrap();
    let (profile, tape) = (file(&folder, "p.toml", PROFILE), file(&folder, "t.jsonl", TAPE));
    let broken = file(&folder, "broken.toml", "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Spac\"\n");
    let no_tape = file(&folder, "no.jsonl", "hello\n");
    let bad_line = file(&folder, "bad.jsonl", &TAPE.replace("keys:Space", "keys:Spce"));
    let cases: [(&[&str], &str); 7] = [
        (&["play", &broken, &tape], "has a fault"),
        (&["play", "nowhere.toml", &tape], "nowhere.toml can't be opened"),
        (&["play", &profile, "nowhere.jsonl"], "nowhere.jsonl can't be opened"),
        (&["play", &profile, &no_tape], "line 1: a tape begins with its header"),
        (&["play", &profile, &bad_line], "line 2: no control is called `keys:Spce`; did you mean `keys:Space`?"),
        (&["play", "-", "-"], "can't both be standard input"),
        (&["controls", "organ"], "`organ` is not a family of controls; they are keys, mouse, pad and touch"),
    ];
    for (arguments, expected) in cases {
        let told = err(&run(arguments).code(2));
        assert!(told.contains(expected), "{arguments:?}: {told}");
    }
}

#[test]
fn a_tape_cut_in_half_plays_up_to_the_cut_and_says_so() {
    let folder = tempfile::tempdir().unwrap();
    let (profile, whole) = (file(&folder, "p.toml", PROFILE), TAPE);
    let cut = file(&folder, "cut.jsonl", &whole[..whole.find("\"value\":0").unwrap()]);
    let assert = run(&["play", &profile, &cut, "--json"]).success();
    assert_eq!(out(&assert), "{\"at\":100000,\"action\":\"hop\",\"what\":\"pulled\"}\n");
    assert!(err(&assert).contains("is cut off: its end is missing at line 3; played up to there"));
    assert!(out(&run(&["play", &profile, &cut]).success()).contains("is cut off"));
}

#[test]
fn lines_out_of_order_are_late_at_any_tick_rate_and_said_so() {
    let folder = tempfile::tempdir().unwrap();
    let (profile, tape) =
        (file(&folder, "p.toml", PROFILE), file(&folder, "t.jsonl", &TAPE.replace("\"at\":250000", "\"at\":50000")));
    let plain = run(&["play", &profile, &tape, "--json"]).success();
    assert!(err(&plain).contains("line 3 of") && err(&plain).contains("lies before the line above it"));
    assert!(out(&plain).ends_with("{\"at\":108000,\"action\":\"hop\",\"what\":\"ended\",\"cause\":\"let go\"}\n"));
    for rate in ["7", "60", "1000"] {
        assert_eq!(out(&run(&["play", &profile, &tape, "--json", "--ticks", rate]).success()), out(&plain), "{rate}");
    }
}

#[test]
fn seats_of_one_tape_play_side_by_side() {
    let folder = tempfile::tempdir().unwrap();
    let other = "{\"at\":150000,\"seat\":2,\"dev\":\"k2\",\"control\":\"keys:Space\",\"value\":1}\n{\"at\":250000";
    let tape = TAPE.replacen("{\"at\":250000", other, 1);
    let (profile, tape) = (file(&folder, "p.toml", PROFILE), file(&folder, "t.jsonl", &tape));
    let told = out(&run(&["play", &profile, &tape, "--json"]).success());
    assert!(told.contains("{\"at\":150000,\"seat\":2,\"action\":\"hop\",\"what\":\"pulled\"}"), "{told}");
    assert!(out(&run(&["play", &profile, &tape]).success()).contains("2:hop"));
}

#[test]
fn check_tells_cues_delays_and_gates_for_programs_too() {
    let told = out(&run(&["check", &demo("otter-post.toml"), "--json"]).success());
    let bag = told.lines().find(|line| line.contains("\"open-bag\"")).unwrap();
    assert!(bag.contains("\"cue\":\"hold 350ms\",\"delay\":350000,\"why\":\"its own hold\""), "{bag}");
    let patient = out(&run(&["check", &demo("recipes/tap-or-hold/profile.toml")]).success());
    assert!(patient.contains("220 ms (waits for bow)"), "{patient}");
}

#[test]
fn gauges_and_sweeps_report_on_each_tick() {
    let (profile, tape) = (demo("recipes/paddle/profile.toml"), demo("recipes/paddle/tape.jsonl"));
    let told = out(&run(&["play", &profile, &tape, "--each", "paddle", "--ticks", "10"]).success());
    let values: Vec<f32> = told.lines().skip(2).filter_map(|row| row.split_whitespace().last()?.parse().ok()).collect();
    assert!(values.iter().all(|value| (1.0..=6.0).contains(value)) && values.contains(&6.0), "{values:?}");
    let (profile, tape) = (demo("recipes/look/profile.toml"), demo("recipes/look/tape.jsonl"));
    let sum = |ticks: &str| -> f64 {
        let told = out(&run(&["play", &profile, &tape, "--each", "look", "--ticks", ticks]).success());
        told.lines()
            .skip(2)
            .filter_map(|row| row.split_whitespace().nth(2)?.trim_end_matches(',').parse::<f64>().ok())
            .sum()
    };
    assert!((sum("10") - 111.33).abs() < 0.01 && (sum("160") - 111.33).abs() < 0.01, "{} {}", sum("10"), sum("160"));
}

#[test]
fn samples_are_taken_so_often_a_second_from_the_start() {
    let told = out(&run(&[
        "play",
        &demo("recipes/mirror/profile.toml"),
        &demo("recipes/mirror/tape.jsonl"),
        "--json",
        "--sample",
        "4",
    ])
    .success());
    let values: Vec<&str> = told.lines().collect();
    assert_eq!(values.len(), 11);
    assert_eq!(values[0], "{\"at\":0,\"action\":\"mirror\",\"what\":\"value\",\"value\":0}");
    assert_eq!(values[3], "{\"at\":750000,\"action\":\"mirror\",\"what\":\"value\",\"value\":-1}");
}

#[test]
fn controls_are_listed_and_every_listed_name_can_be_bound() {
    let told = out(&run(&["controls", "--json"]).success());
    assert!(told.lines().count() > 200);
    assert!(told.contains("{\"control\":\"pad:dpad\",\"sort\":\"two axes, -1 to 1\",\"parts\":[\"x\",\"y\",\"up\",\"down\",\"left\",\"right\"]}"));
    let text = out(&run(&["controls", "pad"]).success());
    assert!(text.contains("left-trigger") && !text.contains("KeyW"));
    assert!(out(&run(&["completions", "bash"]).success()).contains("tidy-lever"));
}

#[test]
fn why_tells_near_misses_first_and_each_attempt_of_an_action() {
    let (profile, tape) = (demo("otter-post.toml"), demo("morning-round.jsonl"));
    let told = out(&run(&["why", &profile, &tape]).success());
    let mut lines = told.lines();
    assert!(lines.next().unwrap().starts_with("1 near miss, "), "{told}");
    for part in
        ["skim  at 52.897 s  missed by 72.8 ms, 3 of 4 steps", "window ends +350 ms", "toss came 72.8 ms too late"]
    {
        assert!(told.contains(part), "{part} in\n{told}");
    }
    assert!(!told.contains('\u{1b}'));
    let skims = out(&run(&["why", &profile, &tape, "skim"]).success());
    assert!(skims.contains("pulled, 4 of 4 steps") && !skims.contains("open-bag"), "{skims}");
    let around = out(&run(&["why", &profile, &tape, "--at", "52.9s"]).success());
    assert!(around.contains("skim") && !around.contains("knock"), "{around}");
    let near = out(&run(&["why", &profile, &tape, "--missed-by", "80ms", "--json"]).success());
    let values: Vec<serde_json::Value> = near.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(values.len(), 1);
    assert_eq!((&values[0]["action"], &values[0]["outcome"]), (&"skim".into(), &"too late".into()));
    assert_eq!(values[0]["steps"].as_array().unwrap().len(), 4);
    assert_eq!(values[0]["missed_by"].as_u64().unwrap() / 100, 728);
    assert!(err(&run(&["why", &profile, &tape, "skimm"]).code(2)).contains("did you mean `skim`?"));
    let wrong = demo("recipes/skim/tape-wrong.jsonl");
    let recipe = out(&run(&["why", &demo("recipes/skim/profile.toml"), &wrong, "skim"]).success());
    for part in [
        "`facing` was left; to fix: begin it while `facing` is right",
        "toss came 52 ms too late",
        "forward did not come in time",
    ] {
        assert!(recipe.contains(part), "{part} in\n{recipe}");
    }
}

#[test]
fn a_players_file_is_changed_in_place_with_conflicts_told() {
    let folder = tempfile::tempdir().unwrap();
    let profile = demo("otter-post.toml");
    let path = folder.path().join("player.toml").to_string_lossy().into_owned();
    let remap = |more: &[&str]| run(&[&["remap", &profile, &path], more].concat());
    let refused = out(&remap(&["--set", "hop.keys=KeyJ"]).code(1));
    assert!(refused.contains("conflict: keys:KeyJ is bound to both toss.keys and hop.keys"), "{refused}");
    assert!(refused.contains("nothing was changed") && !folder.path().join("player.toml").exists());
    assert!(
        out(&remap(&["--set", "hop.keys=KeyJ", "--clash", "swap"]).success())
            .contains("swapped: keys:KeyJ is bound to hop.keys; toss.keys takes its old control")
    );
    assert!(fs::read_to_string(&path).unwrap().contains("[action.toss]\nkeys = \"Space\""));
    let unfit = out(&remap(&["--set", "hop.keys=Spcae"]).code(1));
    assert!(unfit.contains("`keys` has no control `Spcae`; did you mean `Space`?"), "{unfit}");
    assert!(err(&remap(&["--set", "hopp.keys=KeyP"]).code(2)).contains("did you mean `hop`?"));
    assert!(
        err(&remap(&["--set", "hop=KeyP"]).code(2))
            .contains("write ACTION.FAMILY or ACTION.FAMILY.LEG, as in hop.keys")
    );
    // Legs one by one; lists; what is reset is the profile's again.
    remap(&["--set", "steer.keys.up=KeyT,ArrowUp", "--reset", "toss", "--reset", "throw", "--reset", "hop"]).success();
    let listed = out(&remap(&["--list"]).success());
    assert!(
        listed.contains("* steer")
            && listed.contains("keys: up=KeyT,ArrowUp left=KeyA,ArrowLeft")
            && !listed.contains("* hop"),
        "{listed}"
    );
    // Read by the others; what has no effect is told, and kept.
    let text = fs::read_to_string(&path).unwrap() + "[action.fly]\nkeys = \"KeyP\"\n";
    fs::write(&path, &text).unwrap();
    let checked = out(&run(&["check", &profile, "--remap", &path]).success());
    assert!(checked.contains("the profile has no action `fly`; it stays in the file, without effect"), "{checked}");
    run(&["check", &profile, "--remap", &path, "--strict"]).code(1);
    let told = err(&run(&["play", &profile, &demo("morning-round.jsonl"), "--remap", &path, "--json"]).success());
    assert!(told.contains("no action `fly`"), "{told}");
    out(&remap(&["--reset-all"]).success());
    assert_eq!(fs::read_to_string(&path).unwrap().trim(), "tidy-lever = 1");
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1, "nothing half-written is left behind");
}

#[test]
fn stories_go_on_over_a_remap_in_the_middle_of_a_tape() {
    let (profile, tape) = (demo("recipes/remap/profile.toml"), demo("recipes/remap/tape-midway.jsonl"));
    let told = run(&["why", &profile, &tape, "--json"]).success();
    let outcomes: Vec<String> = out(&told)
        .lines()
        .map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap())
        .map(|value| format!("{} {}", value["action"].as_str().unwrap(), value["outcome"].as_str().unwrap()))
        .collect();
    assert_eq!(outcomes, ["hop pulled", "toss pulled", "hop pulled", "toss pulled"], "two before it, two behind");
    assert!(!err(&told).contains("too thick"), "none is lost");
}

#[test]
fn a_panel_is_judged_on_the_screen_that_is_meant() {
    let profile = demo("recipes/steer-touch/profile.toml");
    assert!(out(&run(&["check", &profile]).success()).contains("has no faults"));
    let upright = out(&run(&["check", &profile, "--screen", "1080x2340@400"]).success());
    assert!(upright.contains("panel.throw: it overlaps `thumb`"), "{upright}");
    run(&["check", &profile, "--screen", "1080x2340@400", "--strict"]).code(1);
    assert!(err(&run(&["check", &profile, "--screen", "wide"]).code(2)).contains("dots per inch: 2340x1080@400"));
}

#[test]
fn meant_lines_are_scored_and_samples_narrow_to_the_actions_asked_for() {
    let folder = tempfile::tempdir().unwrap();
    let profile = file(
        &folder,
        "p.toml",
        "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\npad = \"dpad\"\n[action.look]\nkind = \"stick\"\npad = \"right-stick\"\n\
         [action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n\
         [action.act]\nkind = \"button\"\ncue = \"toss 2 taps 200ms apart\"\noutranks = [\"toss\"]\n",
    );
    let tap = |at: u64| {
        let line = |at, value| format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:KeyJ\",\"value\":{value}}}\n");
        line(at, 1) + &line(at + 50_000, 0)
    };
    let meant = |at: u64, name: &str| format!("{{\"at\":{at},\"meant\":\"{name}\"}}\n");
    let tape = [
        "{\"tape\":\"tidy-lever\",\"version\":1,\"devices\":[{\"id\":\"kb\",\"family\":\"keys\"}]}\n".to_owned(),
        meant(900_000, "act") + &tap(1_000_000) + &tap(1_150_000),
        // LineKind after it was done; then one that is 31 ms too late, and one that the profile doesn't know.
        tap(4_000_000) + &tap(4_180_000) + &meant(4_300_000, "act"),
        meant(7_000_000, "act") + &tap(7_100_000) + &tap(7_331_000),
        meant(9_900_000, "a nap") + "{\"at\":10000000,\"end\":true}\n",
    ];
    let tape = file(&folder, "t.jsonl", &tape.concat());
    let told = out(&run(&["play", &profile, &tape, "--json"]).success());
    let scores: Vec<&str> = told.lines().filter(|line| line.contains("meant")).collect();
    assert_eq!(
        scores,
        [
            r#"{"at":900000,"meant":"act","found":true,"late":250000}"#,
            r#"{"at":4300000,"meant":"act","found":true,"late":-120000}"#,
            r#"{"at":7000000,"meant":"act","found":false,"instead":["toss"]}"#,
        ]
    );
    assert!(told.ends_with(&format!("{}\n", scores[2])), "{told}");
    let told = out(&run(&["play", &profile, &tape]).success());
    assert!(told.contains("meant: 2 of 3 found") && told.contains("act at 7.000 s: toss pulled instead"), "{told}");
    let told = out(&run(&["why", &profile, &tape]).success());
    assert!(told.contains("act at 7.000 s: toss pulled instead; toss came 31 ms too late"), "{told}");
    let told = out(&run(&["why", &profile, &tape, "--json"]).success());
    assert!(
        told.contains(r#""meant":"act","found":false,"instead":["toss"],"closest":"toss came 31 ms too late""#),
        "{told}"
    );

    let sampled = |more: &[&str]| {
        let told = out(&run(&[&["play", &profile, &tape, "--json", "--sample", "2"], more].concat()).success());
        let of = |name: &str| told.lines().filter(|line| line.contains("value") && line.contains(name)).count();
        [of("\"steer\""), of("\"look\"")]
    };
    assert_eq!(sampled(&[]), [21, 21]);
    assert_eq!(sampled(&["--of", "steer"]), [21, 0]);
    assert_eq!(sampled(&["--of", "steer,look"]), [21, 21]);
    let wrong = run(&["play", &profile, &tape, "--sample", "2", "--of", "steeer"]).code(2);
    assert!(err(&wrong).contains("the profile has no action `steeer`; did you mean `steer`?"));
}
