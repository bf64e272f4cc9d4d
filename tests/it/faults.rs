//! Promise: a broken profile tells all faults at once, each with its place, what was expected and the nearest right name.

use tidy_lever::profile::{Action, Legs, ModeEntry, Profile};
use tidy_lever::{Axis, Button, Linkage, Moment, Stick};

/// All faults of a text, a line each.
fn faults(text: &str) -> String {
    match Profile::from_toml(text) {
        Err(faults) => faults.to_string(),
        Ok(profile) => Linkage::build(&profile).map_or_else(|faults| faults.to_string(), |_| String::new()),
    }
}

/// A stick, a button, and an action with this cue.
fn motion(cue: &str, more: &str) -> String {
    format!(
        "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nkeys = {{ up = \"KeyW\" }}\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n\
         [action.act]\nkind = \"button\"\ncue = \"{cue}\"\n{more}"
    )
}

#[test]
fn every_slip_is_told_with_its_place_and_what_would_fit() {
    let cases = [
        ("", "line 1, column 1: a profile must begin with its format: write `tidy-lever = 1` in the first line"),
        (
            "tidy-lever = 2",
            "line 1, column 14: tidy-lever: format 2 is newer than this version can read (up to 1); update tidy-lever",
        ),
        ("tidy-lever = 1\n[action.hop", "line 2, column 12: this is not valid TOML: "),
        (
            "tidy-lever = 1\n[acton.hop]\nkind = \"button\"",
            "line 2, column 2: a profile has no key `acton`; did you mean `action`?",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"buton\"",
            "line 3, column 8: action.hop.kind: expected \"button\" or \"axis\" or \"stick\" or \"sweep\" or \"pointer\" or \"gauge\", found \"buton\"; did you mean `button`?",
        ),
        ("tidy-lever = 1\n[action.hop]\nkeys = \"Space\"", "line 2, column 9: action.hop: an action needs a kind"),
        ("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkey = \"Space\"", "did you mean `keys`?"),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = [\"KeyJ\", \"Spcae\"]",
            "line 4, column 17: action.hop.keys: `keys` has no control `Spcae`; did you mean `Space`?",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"south\"",
            "`keys` has no control `south`; it belongs to `pad`",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = 7",
            "line 4, column 8: action.hop.keys: expected a text in quotes, or a list of texts, found a whole number",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"left-stick\"",
            "`left-stick` has several directions; name one, as in `left-stick.up`",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"south.x\"",
            "`south` has no parts; write it without `.x`",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"dpad.upp\"",
            "`dpad` has no part `upp`; it has x, y, up, down, left, right",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = [\"KeyJ\", \"KeyJ\"]",
            "`KeyJ` is bound twice in one action",
        ),
        ("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = { up = \"KeyJ\" }", "a button has no legs"),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nmodes = [\"ashor\"]\n[modes]\nashore = {}",
            "line 4, column 10: action.hop.modes: there is no mode `ashor`; declare it under `[modes]`; did you mean `ashore`?",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nmodes = []",
            "with an empty list of modes the action is never active",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\ncue = \"relase\"",
            "line 4, column 8: action.hop.cue: `relase`: at character 1: expected a rule: press, release, toggle, hold, tap, repeat, mash, with, charge, twice, 2 taps, double tap, order, rolls, spins or flicks, found `relase`; did you mean `release`?",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\ncue = \"hopp press\"",
            "the cue listens to `hopp`, and there is no such action; did you mean `hop`?",
        ),
        // Faults of names point into the line, at whole names.
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\ncue = \"with hopper within 80ms\"",
            "line 4, column 13: action.hop.cue: the cue listens to `hopper`",
        ),
        (
            "tidy-lever = 1\nfacts = { busyness = false }\n[action.hop]\nkind = \"button\"\nwhen = \"not busyness and not busy\"",
            "line 5, column 30: action.hop.when: there is no fact `busy`",
        ),
        (
            "tidy-lever = 1\nfacts = { state = [\"idle\", \"walk\"] }\n[action.hop]\nkind = \"button\"\nwhen = \"state is wlak or hoop on\"",
            "line 5, column 18: action.hop.when: `state` can't be `wlak`",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nwhen = \"hop on or hoop on\"",
            "line 4, column 19: action.hop.when: there is no action `hoop`",
        ),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nopposed = \"newest\"",
            "line 4, column 1: action.hop: `opposed` needs kind \"axis\" or \"stick\" or \"sweep\", and this is a \"button\"",
        ),
        ("tidy-lever = 1\n[action.hop]\nkind = \"button\"\ndown_at = nan", "expected a finite number, found a number"),
        (
            "tidy-lever = 1\n[action.hop]\nkind = \"button\"\ndown_at = 0.3\nup_at = 0.4",
            "`up_at` must be from 0 to `down_at` (0.3) and below 1, found 0.4",
        ),
        (
            "tidy-lever = 1\n[action.with]\nkind = \"button\"",
            "`with` can't be a name; these words have a meaning of their own: all, always",
        ),
        ("tidy-lever = 1\n[action.\"two words\"]\nkind = \"button\"", "`two words` can't be a name: use the letters"),
        (
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nkeys = \"KeyW\"",
            "`KeyW` has no two axes; give a stick, or legs",
        ),
        (
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\npad = \"left-stick.x\"",
            "a stick takes both axes; write `left-stick`",
        ),
        (
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nkeys = { minus = \"KeyA\" }",
            "a stick has no leg `minus`; its legs are up, left, down, right",
        ),
        (
            "tidy-lever = 1\n[action.dive]\nkind = \"axis\"\npad = \"left-stick\"",
            "an axis takes one of its two axes; write `left-stick.x` or `left-stick.y`",
        ),
        (
            "tidy-lever = 1\n[action.dive]\nkind = \"axis\"\nrange = { low = 4, rest = 40, high = 28 }",
            "a range needs `low` below `rest` below `high`",
        ),
        (
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nshape = { dead = 1.5 }",
            "`dead` must be from 0 to below 1, found 1.5",
        ),
        (
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nshape = { dead = 0.5, full = 0.4 }",
            "`full` must be above `dead` (0.5), up to and including 1, found 0.4",
        ),
        (
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nshape = { curve = [[0.5, 0.9], [0.6, 0.2]] }",
            "the points must rise from [0, 0] to [1, 1]",
        ),
        ("tidy-lever = 1\n[action.steer]\nkind = \"stick\"\ndirections = 6", "`directions` must be 4 or 8"),
        ("tidy-lever = 1\n[modes]\nmenu = { covers = [\"menu\"] }", "a mode can't cover itself"),
        ("tidy-lever = 1\n[facts]\nstate = [\"idle\", \"idle\"]", "the word `idle` is listed twice"),
        ("tidy-lever = 1\n[facts]\nfacing = \"up\"", "`facing` is built in: it is \"left\" or \"right\""),
        (
            "tidy-lever = 1\n[facts]\nspeed = 4",
            "line 3, column 9: facts.speed: expected true, false or a list of words",
        ),
        (
            "tidy-lever = 1\n[panel.thumb]\nkind = \"stik\"\nfrom = \"bottom-left\"\nat = [0.2, 0.2]\nsize = 0.1",
            "a touch control's kind must be \"cross\", \"stick\", \"button\" or \"zone\"; did you mean `stick`?",
        ),
        (&motion("steer rolls down within 1s", ""), "a motion needs 2 to 16 steps, found 1"),
        (&motion("steer rolls 5236 within 1s", ""), "must begin and end with a direction, not with `neutral`"),
        (
            &motion("steer rolls maybe down, right within 1s", ""),
            "the first and the last step of a motion can't be `maybe`",
        ),
        (&motion("steer rolls down, right held 2s within 1s", ""), "the held steps take the whole time limit"),
        (
            &motion("steer rolls dwn, right within 1s", ""),
            "expected a position: down, down-forward, … neutral, or digits such as 236, found `dwn`",
        ),
        (
            &motion("steer rolls 206 within 1s", ""),
            "expected a position: down, down-forward, … neutral, or digits such as 236, found `206`",
        ),
        (&motion("hop rolls 236 within 1s", ""), "`rolls` needs a stick: name it first"),
        (&motion("hop spins 1 within 1s", ""), "`spins` and `flicks` need a stick"),
        (&motion("steer spins 0.3 within 1s", ""), "how many turns, 0.25 to 4 in eighths, as in 0.75, found `0.3`"),
        (&motion("steer flicks over 2 within 1s", ""), "expected a level, 0.1 to 1, found `2`"),
        (&motion("steer rolls 236 then tos within 1s", ""), "the cue listens to `tos`, and there is no such action"),
        (&motion("steer rolls 23 within 1s", "early = \"9ms\"\n"), "`early` needs a motion that ends with a button"),
        (
            &motion("steer rolls down-left, down within 1s", "directions = 4\n")
                .replace("directions = 4\n", "")
                .replace("kind = \"stick\"", "kind = \"stick\"\ndirections = 4"),
            "a stick read in four directions never reaches `down-left`",
        ),
        (&motion("order hop within 1s", ""), "an order needs 2 to 16 presses, found 1"),
        (
            &format!(
                "{}[action.other]\nkind = \"stick\"\nkeys = {{ up = \"KeyI\" }}\n",
                motion("order left, hop within 1s", "")
            ),
            "so `left` is ambiguous; write `steer.left`",
        ),
        (
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\ntouch = \"thum\"\n[panel.thumb]\nkind = \"stick\"\nfrom = \"bottom-left\"\nat = [0.2, 0.2]\nsize = 0.1",
            "`touch` has no control `thum`; declare it under `[panel]`; did you mean `thumb`?",
        ),
    ];
    for (text, expected) in cases {
        let told = faults(text);
        assert!(told.contains(expected), "{text}\n  told     {told}  expected {expected}");
    }
}

#[test]
fn all_faults_come_at_once_in_the_order_of_the_text() {
    let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Spce\"\n[action.steer]\nkind = \"stik\"\npads = \"dpad\"\n[facts]\nwet = 3\n";
    let told = faults(text);
    let lines: Vec<&str> = told.lines().map(|line| line.split(',').next().unwrap()).collect();
    assert_eq!(lines, ["line 4", "line 6", "line 7", "line 9"], "{told}");
}

#[test]
fn what_may_not_be_meant_is_a_warning_and_builds() {
    let text = "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", right = \"KeyD\" }\npad = \"left-stick\"\n[action.idle]\nkind = \"button\"\n";
    let linkage = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap();
    let warnings: Vec<String> = linkage.warnings().map(ToString::to_string).collect();
    assert_eq!(warnings.len(), 3, "{warnings:?}");
    assert!(warnings[0].contains("one-sided: it has no left, no down"));
    assert!(warnings[1].contains("no dead zone"));
    assert!(warnings[2].contains("nothing triggers this action"));
}

#[test]
fn a_profile_built_in_code_is_the_same_as_its_text() {
    let built = Profile::new("Otter Post")
        .mode(ModeEntry::new("ashore").on())
        .fact("grounded", true)
        .fact("state", ["idle", "walk"])
        .action(Action::stick("steer").modes(["ashore"]).keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD")).pad("dpad"))
        .action(Action::axis("dive").keys(Legs::pair("KeyC", "KeyX")))
        .action(Action::button("hop").keys(["Space", "KeyJ"]).cue("release"));
    let text = "tidy-lever = 1\ntitle = \"Otter Post\"\n[modes]\nashore = { on = true }\n[facts]\ngrounded = true\nstate = [\"idle\", \"walk\"]\n\
        [action.steer]\nkind = \"stick\"\nmodes = [\"ashore\"]\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\npad = \"dpad\"\n\
        [action.dive]\nkind = \"axis\"\nkeys = { minus = \"KeyC\", plus = \"KeyX\" }\n\
        [action.hop]\nkind = \"button\"\nkeys = [\"Space\", \"KeyJ\"]\ncue = \"release\"\n";
    let read = Profile::from_toml(text).unwrap();
    let (built, read) = (Linkage::build(&built).unwrap(), Linkage::build(&read).unwrap());
    let told = |linkage: &Linkage| -> Vec<String> {
        linkage.actions().map(|a| format!("{} {:?} {:?} {:?}", a.name(), a.kind(), a.cue(), a.controls())).collect()
    };
    assert_eq!((told(&built), built.title()), (told(&read), read.title()));
    let seats = [&built, &read].map(|linkage| linkage.seat(Moment::ZERO).state_hash());
    assert_eq!(seats[0], seats[1]);
    // A fault in a built profile has no line, but its path.
    let broken = Profile::new("").action(Action::button("hop").keys("Spac"));
    assert_eq!(
        Linkage::build(&broken).unwrap_err().to_string(),
        "action.hop.keys: `keys` has no control `Spac`; did you mean `Space`?\n"
    );
}

tidy_lever::levers! {
    struct Wrong { hop: Button, steer: Axis, walk as "move": Stick, wet: Fact }
}

#[test]
fn handles_that_are_missing_or_of_the_wrong_kind_come_in_one_error() {
    let text =
        "tidy-lever = 1\n[facts]\nwett = false\n[action.hopp]\nkind = \"button\"\n[action.steer]\nkind = \"stick\"\n";
    let linkage = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap();
    let told = Wrong::find(&linkage).unwrap_err().to_string();
    let expected = "the profile has no `hop` (an action of kind \"button\"); did you mean `hopp`?\n\
        `steer` is an action of kind \"stick\", not an action of kind \"axis\"\n\
        the profile has no `move` (an action of kind \"stick\")\n\
        the profile has no `wet` (a fact); did you mean `wett`?";
    assert_eq!(told, expected);
    assert!(linkage.find::<Stick>("steer").is_ok() && linkage.find::<Axis>("steer").is_err());
    assert!(linkage.find::<Button>("steer.up-right").is_ok());
}

#[test]
fn what_people_write_from_habit_is_told_what_to_write_instead() {
    let action =
        |more: &str| format!("tidy-lever = 1\n[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\n{more}\n");
    let cases = [
        (action("keys = \"W\""), "`keys` has no control `W`; write `KeyW`"),
        (action("keys = \"Ctrl\""), "`keys` has no control `Ctrl`; write `ControlLeft` or `ControlRight`"),
        (action("keys = \"Esc\""), "`keys` has no control `Esc`; write `Escape`"),
        (action("keys = \"1\""), "`keys` has no control `1`; write `Digit1`"),
        (action("mouse = \"LMB\""), "`mouse` has no control `LMB`; write `left`"),
        (action("mouse = \"wheel\""), "`mouse` has no control `wheel`; write `wheel-up` or `wheel-down`"),
        (
            action("pad = \"A\""),
            "`pad` has no control `A`; write `south` or `east`, by its position: makers place `A` differently",
        ),
        (action("pad = \"RT\""), "`pad` has no control `RT`; write `right-trigger`"),
        (action("keys = \"Zzzzzz\""), "`keys` has no control `Zzzzzz`; `tidy-lever controls keys` lists them"),
        (action("when = \"grounded && busy\""), "expected `and`, found `&&`"),
        (action("when = \"!grounded\""), "expected `not grounded`, found `!grounded`"),
        (action("when = \"grounded = true\""), "expected `is`, or the fact alone if it is true or false, found `=`"),
        (
            action("cooldown = 1.5"),
            "expected a span in quotes, with its unit, as in \"120ms\" or \"0.5s\", found a number",
        ),
        (
            "tidy-lever = 1\n[action.dive]\nkind = \"axis\"\nkeys = { left = \"KeyA\" }".into(),
            "an axis has no leg `left`; its legs are minus, plus",
        ),
        (
            "tidy-lever = 1\n[action.walk]\nkind = \"stick\"\nkeys = \"WASD\"".into(),
            "`keys` has no control `WASD`; write the keys one by one: `KeyW`, `KeyA`, `KeyS`, `KeyD`",
        ),
        (action("keep = 100"), "expected a span in quotes, found the number 100; write \"100ms\""),
        (action("up_at = 0.9"), "`up_at` must be from 0 to `down_at` (0.55, the default) and below 1, found 0.9"),
        (
            action("") + "[action.hop]\nkind = \"button\"",
            "line 7, column 9: `[action.hop]` is defined twice; the first is at line 4",
        ),
        (
            "tidy-lever = 1\nfacts = [\"grounded\"]".into(),
            "`facts` is a table: write `[facts]`, and below it `grounded = false`",
        ),
        (
            "tidy-lever = 1\n[action.\"hüpf\"]\nkind = \"button\"".into(),
            "`hüpf` can't be a name: use the letters a to z",
        ),
        ("{\"tape\":\"tidy-lever\",\"version\":1}".into(), "this is a tape, not a profile"),
    ];
    for (text, expected) in cases {
        let told = faults(&text);
        assert!(told.contains(expected), "{text}\n  told     {told}  expected {expected}");
        assert_eq!(told.lines().count(), 1, "{told}");
    }
    // What `main` prints of an error reads as it displays, and stops at twenty.
    let many: String = (0..30).map(|n| format!("[action.a{n}]\nkind = \"button\"\nkeys = \"W\"\n")).collect();
    let error = Linkage::build(&Profile::from_toml(&format!("tidy-lever = 1\n{many}")).unwrap()).unwrap_err();
    assert_eq!(format!("{error:?}"), error.to_string());
    assert_eq!((error.len(), error.to_string().lines().count()), (30, 21));
    assert!(error.to_string().ends_with("and 10 more\n"));
}

#[test]
fn a_rules_word_is_a_name_where_the_grammar_tells_it_apart() {
    let body = "tidy-lever = 1\n[action.tap]\nkind = \"button\"\nkeys = \"KeyA\"\ncue = \"tap under 200ms\"\n\
        [action.mash]\nkind = \"button\"\ncue = \"tap hold 300ms\"\n[action.held]\nkind = \"button\"\ncue = \"mash 2 taps 90ms apart\"\n\
        [action.repeat]\nkind = \"button\"\ncue = \"order tap, mash within 2s\"\n";
    let linkage = Linkage::build(&Profile::from_toml(body).unwrap()).unwrap();
    let cues: Vec<String> = linkage.actions().filter_map(|action| Some(action.cue()?.to_string())).collect();
    assert_eq!(cues, ["tap under 200ms", "tap hold 300ms", "mash 2 taps 90ms apart", "order tap, mash within 2s"]);
    assert_eq!(linkage.action("mash").unwrap().delay().unwrap().at_most.as_millis(), 300);
}

#[test]
fn controls_that_a_cue_never_hears_and_an_empty_profile_are_warned_of() {
    let warned = |text: &str| -> Vec<String> {
        Linkage::build(&Profile::from_toml(text).unwrap()).unwrap().warnings().map(ToString::to_string).collect()
    };
    let walk = "tidy-lever = 1\n[action.walk]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
        [action.dash]\nkind = \"button\"\npad = \"south\"\n";
    for cue in ["walk twice within 200ms", "walk.right press"] {
        let told = warned(&format!("{walk}cue = \"{cue}\"\n"));
        assert_eq!(told.len(), 1, "{told:?}");
        assert!(told[0].contains(&format!("its own control `pad:south` pulls nothing: the cue `{cue}`")), "{told:?}");
    }
    assert_eq!(warned(&format!("{walk}cue = \"walk rolls 26 then dash within 200ms\"\n")), Vec::<String>::new());
    assert!(warned("tidy-lever = 1")[0].contains("this profile has no action"));
}
