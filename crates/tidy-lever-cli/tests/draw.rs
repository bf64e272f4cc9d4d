//! Promise: pictures are drawn to the file that was asked for, by its ending, whole or not at all.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;

use assert_cmd::Command;

fn demo(name: &str) -> String {
    format!("{}/demo/{name}", env!("CARGO_MANIFEST_DIR"))
}

fn draw(arguments: &[&str]) -> assert_cmd::assert::Assert {
    Command::cargo_bin("tidy-lever").unwrap().arg("draw").args(arguments).assert()
}

#[test]
fn a_sticks_response_is_drawn_as_svg_and_png() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let (profile, tape) = (demo("otter-post.toml"), demo("morning-round.jsonl"));
    draw(&["stick", &profile, "steer", "--tape", &tape, "-o", &at("a.svg")]).success();
    let text = fs::read_to_string(at("a.svg")).unwrap();
    for part in ["Otter Post: steer", "input size", "dead zone up to 0.15", "up-right", "samples of a tape", "±4°"] {
        assert!(text.contains(part), "{part}");
    }
    draw(&["stick", &profile, "steer", "-o", &at("a.png")]).success();
    let png = fs::read(at("a.png")).unwrap();
    assert_eq!(&png[..8], b"\x89PNG\r\n\x1a\n");
    assert_eq!((&png[16..20], &png[20..24]), (&1280u32.to_be_bytes()[..], &800u32.to_be_bytes()[..]));
    // The bundled font was used: a picture without its letters would be far smaller.
    assert!(png.len() > 30_000, "{} bytes", png.len());
    let eight = demo("recipes/stick-as-eight/profile.toml");
    draw(&["stick", &eight, "point-box", "-o", &at("box.svg")]).success();
    assert!(fs::read_to_string(at("box.svg")).unwrap().contains("an axis counts from 0.55 on"));
}

#[test]
fn what_can_not_be_drawn_says_why_and_leaves_nothing_behind() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let profile = demo("otter-post.toml");
    let cases = [
        ("stear", "a.png", "did you mean `steer`?"),
        ("hop", "a.png", "`hop` is an action of kind \"button\", not an action of kind \"stick\""),
        ("steer", "a.gif", "the name must end in .svg or .png"),
        ("steer", "no/such/folder/a.png", "there is no such folder; make it first"),
    ];
    for (action, file, expected) in cases {
        let told = draw(&["stick", &profile, action, "-o", &at(file)]).code(2);
        let told = String::from_utf8_lossy(&told.get_output().stderr).into_owned();
        assert!(told.contains(expected), "{told}");
    }
    let tape = demo("recipes/click/tape.jsonl");
    draw(&["stick", &profile, "steer", "--tape", &tape, "-o", &at("a.png")]).code(2);
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 0);
}

#[test]
fn a_stretch_of_a_tape_is_drawn_with_its_pulls_and_its_near_miss() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let (profile, tape) = (demo("otter-post.toml"), demo("morning-round.jsonl"));
    let stretch = ["--from", "51.5s", "--to", "53.6s", "--actions", "skim,toss"];
    draw(&[&["timeline", &profile, &tape, "-o", &at("a.svg")], &stretch[..]].concat()).success();
    let text = fs::read_to_string(at("a.svg")).unwrap();
    for part in ["the morning round", "pad:left-stick", "steer", "72.8 ms late", "grounded", "skim", "51.5 s to 53.6 s"]
    {
        assert!(text.contains(part), "{part}");
    }
    assert!(!text.contains(">hop<"), "only what was asked for");
    // Pointing at something in an SVG tells what it is.
    let titles: Vec<&str> = text.lines().filter(|line| line.starts_with("<title>")).collect();
    assert!(titles.contains(&"<title>skim: near miss, 72.8 ms late, at 53.320 s</title>"), "{titles:?}");
    assert!(titles.iter().any(|title| title.starts_with("<title>grounded: true, from ")), "{titles:?}");
    draw(&["timeline", &profile, &tape, "-o", &at("all.png")]).success();
    let png = fs::read(at("all.png")).unwrap();
    assert_eq!(&png[16..20], &1280u32.to_be_bytes()[..]);
    for (more, expected) in [
        (&["--from", "3s", "--to", "2s"][..], "--from must lie before --to"),
        (&["--from", "99s"], "ends at 64 s; nothing lies behind --from"),
        (&["--actions", "skimm"], "did you mean `skim`?"),
        (&["--from", "soon"], "invalid value 'soon'"),
    ] {
        let told = draw(&[&["timeline", &profile, &tape, "-o", &at("b.svg")], more].concat()).code(2);
        let told = String::from_utf8_lossy(&told.get_output().stderr).into_owned();
        assert!(told.contains(expected), "{told}");
    }
    assert!(!folder.path().join("b.svg").exists());
}

#[test]
fn all_spans_are_drawn_on_one_time_line_and_the_formats_show_them_as_they_are() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let docs = format!("{}/../../docs", env!("CARGO_MANIFEST_DIR"));
    draw(&["spans", &format!("{docs}/tolerances.toml"), "-o", &at("all.svg")]).success();
    let text = fs::read_to_string(at("all.svg")).unwrap();
    if std::env::var_os("REWRITE").is_some() {
        fs::write(format!("{docs}/tolerances.svg"), &text).unwrap();
    }
    assert!(text == fs::read_to_string(format!("{docs}/tolerances.svg")).unwrap(), "docs/tolerances.svg is old");
    // `early` lies before 0, `astray` behind it, and both begin or end there.
    let bar = |path: &str| {
        let (_, rest) = text.split_once(&format!("<title>{path} = ")).unwrap();
        let number = |key: &str| -> f64 {
            let (_, rest) = rest.split_once(&format!(" {key}=\"")).unwrap();
            rest.split('"').next().unwrap().parse().unwrap()
        };
        (number("x"), number("x") + number("width"))
    };
    let (early, astray) = (bar("skim.early"), bar("skim.astray"));
    assert!((early.1 - astray.0).abs() < 0.1 && early.0 < early.1, "{early:?} {astray:?}");
    draw(&["spans", &demo("otter-post.toml"), "--actions", "hop", "-o", &at("hop.svg")]).success();
    let text = fs::read_to_string(at("hop.svg")).unwrap();
    assert!(text.contains("hop.keep") && !text.contains("skim."), "only what was asked for");
    let none = draw(&["spans", &demo("otter-post.toml"), "--actions", "lamp", "-o", &at("c.svg")]).code(2);
    assert!(String::from_utf8_lossy(&none.get_output().stderr).contains("has a span"));
}

#[test]
fn a_panel_is_drawn_on_a_screen_with_what_is_wrong_there() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let profile = demo("recipes/steer-touch/profile.toml");
    draw(&["panel", &profile, "--screen", "2340x1080@400", "-o", &at("a.svg")]).success();
    let text = fs::read_to_string(at("a.svg")).unwrap();
    for part in [
        "149 x 69 mm",
        "1  arrows: cross, 26 mm",
        "stick, floats",
        "moves toss",
        "Every touch control fits on this screen",
    ] {
        assert!(text.contains(part), "{part}");
    }
    draw(&["panel", &profile, "--screen", "1080x2340@400", "-o", &at("b.svg")]).success();
    assert!(fs::read_to_string(at("b.svg")).unwrap().contains("panel.jump: it overlaps `thumb`"));
    let none = draw(&["panel", &demo("recipes/hop/profile.toml"), "-o", &at("c.svg")]).code(2);
    assert!(String::from_utf8_lossy(&none.get_output().stderr).contains("has no panel; declare touch controls"));
}

#[test]
fn a_crowded_lane_is_drawn_as_how_much_there_was() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    std::fs::write(at("quay.toml"), "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n").unwrap();
    // As many as can be told apart, more, and many more.
    let tape = |count: u64| {
        let mut text = "{\"tape\":\"tidy-lever\",\"version\":1}\n".to_owned();
        for number in 0..count {
            for (at, value) in [(number * 20_000, 1), (number * 20_000 + 10_000, 0)] {
                text += &format!("{{\"at\":{at},\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":{value}}}\n");
            }
        }
        text + &format!("{{\"at\":{},\"end\":true}}\n", count * 100_000)
    };
    for (count, crowded) in [(40, false), (3_000, true), (60_000, true)] {
        std::fs::write(at("waves.jsonl"), tape(count)).unwrap();
        let (profile, tape, picture) = (at("quay.toml"), at("waves.jsonl"), at("waves.svg"));
        draw(&["timeline", &profile, &tape, "--replace", "-o", &picture]).success();
        let svg = std::fs::read_to_string(&picture).unwrap();
        assert_eq!(svg.contains("crowded lanes show density"), crowded, "{count} presses");
        let shapes = svg.matches("<rect").count();
        assert!(shapes < 10_000 && (crowded || shapes > 2 * count as usize), "{shapes} rectangles for {count} presses");
    }
}
