//! Promise: the documents list every key, with what the reader takes, and every key of the builder is one of the text.

use tidy_lever::control::Family;
use tidy_lever::cue::Rule;
use tidy_lever::profile::{
    Action, ActionKey, Bend, Gauge, Kind, Legs, ModeEntry, Opposed, Profile, Rest, Sectors, Shape, TableKey,
    action_keys, table_keys,
};
use tidy_lever::{Linkage, Moment};

/// A table of the formats page, from the one list of keys that the profile's reader knows.
fn rows() -> Vec<(&'static str, Vec<String>)> {
    let kinds = |kinds: &[Kind]| match kinds.len() {
        6 => "all".to_owned(),
        _ => kinds.iter().map(|kind| kind.name()).collect::<Vec<_>>().join(", "),
    };
    let action =
        |key: &ActionKey| format!("| `{}` | {} | {} | {} |", key.name, kinds(key.kinds), key.takes, key.default);
    let inner = |key: &TableKey| format!("| `{}` | {} | {} |", key.name, key.takes, key.default);
    let mut tables = vec![("action", action_keys().iter().map(action).collect())];
    tables.extend(table_keys().map(|table| (table.name, table.keys.iter().map(inner).collect())));
    tables
}

#[test]
fn the_formats_page_has_every_key_with_what_it_takes_its_range_and_its_default() {
    let page = include_str!("../../docs/formats.md");
    for (table, rows) in rows() {
        assert!(
            page.contains(&rows.join("\n")),
            "the table of `{table}` in docs/formats.md must be\n{}",
            rows.join("\n")
        );
    }
}

#[test]
fn every_key_of_the_page_is_known_and_every_other_is_not() {
    // Each key of a table within a profile is read, and a slip of it is told with the right one.
    let tables = [("shape", "kind = \"axis\"\nshape"), ("gauge", "kind = \"gauge\"\nkeys = \"KeyK\"\ngauge")];
    for (table, head) in tables {
        let keys = table_keys().into_iter().find(|known| known.name == table).unwrap().keys;
        for key in keys {
            let faults = |name: &str| {
                let text = format!("tidy-lever = 1\n[action.act]\n{head} = {{ {name} = 0 }}\n");
                let profile = Profile::from_toml(&text).unwrap();
                Linkage::build(&profile).err().map_or(String::new(), |faults| faults.to_string())
            };
            assert!(!faults(key.name).contains("has no key"), "{table}.{}", key.name);
            let wrong = faults(&format!("{}x", key.name));
            assert!(
                wrong.contains("has no key") && wrong.contains(&format!("did you mean `{}`?", key.name)),
                "{wrong}"
            );
        }
    }
}

/// The same profile by the builder, with every key that there is.
fn built() -> Profile {
    let shape =
        Shape::default().dead(0.2).full(0.9).curve(Bend::Points(vec![[0.5, 0.2]])).scale(0.5).inverted(false, true);
    let gauge = Gauge::default().floor(1.0).ceiling(6.0).push("x1.35").rest("260ms").fade("x0.85 every 100ms");
    Profile::new("all of it")
        .mode(ModeEntry::new("ashore").on())
        .mode(ModeEntry::new("menu").covers(["ashore"]))
        .fact("grounded", true)
        .fact("state", ["idle", "walk"])
        .fact("facing", "left")
        .action(
            Action::stick("steer")
                .modes(["ashore"])
                .keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD"))
                .pad("left-stick")
                .opposed(Opposed::Oldest)
                .rest(Rest::Last)
                .shape_on(Family::Pad, shape)
                .directions(4)
                .sectors(Sectors::Box)
                .thresholds(0.6, 0.4),
        )
        .action(Action::axis("dive").keys(Legs::pair("KeyC", "KeyX")).range(4.0, 15.0, 28.0))
        .action(
            Action::sweep("look")
                .mouse("move")
                .per_count(0.08, 0.06)
                .per_second(220.0, 160.0)
                .pad("right-stick")
                .shape(Shape::default().dead(0.1)),
        )
        .action(Action::pointer("point").mouse(["place", "left"]).drag_from(4.0))
        .action(Action::gauge("paddle", gauge).keys("KeyK"))
        .action(
            Action::button("hop")
                .keys(["Space", "KeyJ"])
                .when("grounded within 90ms and not state is walk")
                .keep("120ms")
                .stages(3, "grounded", "180ms")
                .spends(["grounded"])
                .while_held()
                .aim("steer")
                .mark("hidden", "9t@60")
                .cooldown("50ms"),
        )
        .action(
            Action::button("bag")
                .always()
                .cue(Rule::Hold { span: std::time::Duration::from_millis(350) })
                .keys("KeyE")
                .group("hands"),
        )
        .action(
            Action::button("pick")
                .keys("KeyE")
                .cue("tap under 200ms")
                .outranks(["bag"])
                .waits_for(["bag"])
                .group("hands")
                .turns_on(["menu"])
                .turns_off(["ashore"]),
        )
}

const TEXT: &str = r#"
tidy-lever = 1
title = "all of it"
[modes]
ashore = { on = true }
menu = { covers = ["ashore"] }
[facts]
grounded = true
state = ["idle", "walk"]
facing = "left"
[action.steer]
kind = "stick"
modes = ["ashore"]
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
pad = "left-stick"
opposed = "oldest"
rest = "last"
pad_shape = { dead = 0.2, full = 0.9, curve = [[0.5, 0.2]], scale = 0.5, invert = "y" }
directions = 4
sectors = "box"
down_at = 0.6
up_at = 0.4
[action.dive]
kind = "axis"
keys = { minus = "KeyC", plus = "KeyX" }
range = { low = 4, rest = 15, high = 28 }
[action.look]
kind = "sweep"
mouse = "move"
per_count = [0.08, 0.06]
per_second = [220, 160]
pad = "right-stick"
shape = { dead = 0.1 }
[action.point]
kind = "pointer"
mouse = ["place", "left"]
drag_from = 4
[action.paddle]
kind = "gauge"
keys = "KeyK"
gauge = { floor = 1, ceiling = 6, push = "x1.35", rest = "260ms", fade = "x0.85 every 100ms" }
[action.hop]
kind = "button"
keys = ["Space", "KeyJ"]
when = "grounded within 90ms and not state is walk"
keep = "120ms"
stages = { count = 3, after = "grounded", within = "180ms" }
spends = ["grounded"]
while_held = true
aim = "steer"
marks = { hidden = "9t@60" }
cooldown = "50ms"
[action.bag]
kind = "button"
modes = "always"
cue = "hold 350ms"
keys = "KeyE"
group = "hands"
[action.pick]
kind = "button"
keys = "KeyE"
cue = "tap under 200ms"
outranks = ["bag"]
waits_for = ["bag"]
group = "hands"
turns_on = ["menu"]
turns_off = ["ashore"]
"#;

#[test]
fn every_key_means_the_same_in_text_and_in_code() {
    let linkages = [built(), Profile::from_toml(TEXT).unwrap()].map(|profile| Linkage::build(&profile).unwrap());
    let told = linkages.each_ref().map(|linkage| {
        let actions = linkage
            .actions()
            .map(|a| format!("{} {:?} {:?} {:?} {:?}", a.name(), a.kind(), a.cue(), a.controls(), a.delay()));
        actions.collect::<Vec<_>>()
    });
    assert_eq!(told[0], told[1]);
    // The same tape does the same to both.
    let tape = include_str!("../../demo/recipes/hop-forgiving/tape.jsonl");
    let heard = linkages.each_ref().map(|linkage| {
        let mut seat = linkage.seat(Moment::ZERO);
        let reader = tidy_lever::tape::Reader::new(tape.as_bytes()).unwrap();
        let mut player = tidy_lever::tape::Replayer::new(reader.header());
        reader.for_each(|line| player.put(&line.unwrap(), &mut seat).unwrap());
        seat.advance(Moment::from_millis(6_000));
        (seat.latest().happenings().count(), seat.state_hash())
    });
    assert_eq!(heard[0], heard[1]);
    assert!(heard[0].0 > 10);
}

#[test]
fn every_need_is_answered_by_keys_that_exist_and_recipes_that_play() {
    let page = include_str!("../../docs/needs.md");
    let recipes = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo/recipes");
    let spans = |cell: &str| -> Vec<String> { cell.split('`').skip(1).step_by(2).map(str::to_owned).collect() };
    let needs = page.split("## Our words").next().unwrap().lines().filter(|line| line.starts_with("| "));
    let needs: Vec<Vec<&str>> = needs.map(|line| line.trim_matches('|').split(" | ").collect()).collect();
    let needs: Vec<Vec<&str>> = needs.into_iter().filter(|row| row[0].trim() != "the need").collect();
    assert!(needs.len() >= 40, "{}", needs.len());
    for row in needs {
        let lines = spans(row[1]);
        let says = |cell: &str| !cell.trim().is_empty() && cell.trim() != "—";
        assert!(!lines.is_empty() || row[1].trim() == "—" && says(row[2]), "{row:?}");
        let lines: Vec<String> = lines.into_iter().filter(|line| line.contains(" = ")).collect();
        for line in lines {
            let (key, value) = line.split_once(" = ").unwrap_or_else(|| panic!("{line}"));
            let devices = table_keys().into_iter().find(|table| table.name == "devices").unwrap().keys;
            let is_known = |name: &str| name == key;
            let known = action_keys().iter().map(|known| known.name).chain(devices.iter().map(|known| known.name));
            assert!(known.into_iter().any(is_known), "{line}");
            if key == "cue" {
                tidy_lever::cue::Cue::read(value.trim_matches('"')).unwrap_or_else(|error| panic!("{line}: {error}"));
            }
            // What stands in a table is a key of it.
            for inner in value.trim_matches(['{', '}', ' ']).split(", ").filter(|_| key.ends_with("shape")) {
                let inner = inner.split(" = ").next().unwrap();
                let keys = table_keys().into_iter().find(|table| table.name == "shape").unwrap().keys;
                assert!(keys.iter().any(|known| known.name == inner), "{line}");
            }
        }
        // A word with hyphens alone is a recipe.
        let last = row.last().unwrap();
        for name in spans(last).iter().filter(|name| name.chars().all(|c| c.is_ascii_lowercase() || c == '-')) {
            assert!(recipes.join(name).join("profile.toml").is_file(), "no recipe {name}: {row:?}");
        }
    }
    for recipe in std::fs::read_dir(&recipes).unwrap() {
        let name = recipe.unwrap().file_name().into_string().unwrap();
        assert!(page.contains(&format!("`{name}`")), "no need leads to the recipe {name}");
    }
    // What people search for.
    let words = "sprint walk smooth acceleration momentum camera-relative turn fly fuel sprite mirror flip sensitivity invert \
                 teleport combo sequence charge gamepad d-pad print debug timer callback polling shortcut Ctrl+S vehicle pause \
                 drift chatter bounce coyote buffer rebind rollback chord hold double-tap dead toggle";
    let text = page.to_lowercase().replace("double tap", "double-tap");
    let missing: Vec<&str> = words.split_whitespace().filter(|word| !text.contains(&word.to_lowercase())).collect();
    assert!(missing.is_empty(), "nothing is found for {missing:?}");
}

#[test]
fn every_file_of_tests_says_which_promise_it_holds() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let entries = |folder: &std::path::Path| -> Vec<std::path::PathBuf> {
        std::fs::read_dir(folder).into_iter().flatten().map(|entry| entry.unwrap().path()).collect()
    };
    let packages = ["crates", "examples"].iter().flat_map(|folder| entries(&root.join(folder)));
    let folders = packages
        .chain([root.join("benches"), root.join("tests")])
        .flat_map(|package| [package.join("tests"), package.join("it"), package]);
    let files: Vec<_> = folders.flat_map(|folder| entries(&folder)).filter(|path| path.is_file()).collect();
    let tests = files.iter().filter(|path| path.extension().is_some_and(|extension| extension == "rs"));
    let text = |path: &std::path::PathBuf| std::fs::read_to_string(path).unwrap();
    let silent: Vec<_> =
        tests.filter(|path| text(path).contains("#[test]") && !text(path).starts_with("//! Promise")).collect();
    assert!(files.len() > 60 && silent.is_empty(), "{silent:?}");
}
