//! Promise: the system's own path works. Mocked devices of the kernel, through the real access to gamepads.
#![cfg(all(target_os = "linux", feature = "real-pads"))]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::path::Path;
use std::process::Command;

/// Whether the mock can run here; where it can't, that is said aloud, and in CI it is a failure.
fn is_possible() -> bool {
    let has = |program: &str, arguments: &[&str]| {
        Command::new(program).args(arguments).output().is_ok_and(|output| output.status.success())
    };
    let here = has("umockdev-wrapper", &["true"])
        && has("/usr/bin/python3", &["-c", "import gi; gi.require_version('UMockdev', '1.0')"]);
    if !here {
        assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "umockdev and its Python binding are missing");
        eprintln!("SKIPPED: mocked gamepads need umockdev, gir1.2-umockdev-1.0 and python3-gi");
    }
    here
}

/// Plays a script on a bed of mocked pads while the example `reports` watches; what that printed, a line each.
fn watched(script: &str, millis: u32, player: &str) -> Vec<String> {
    let folder = Folder::new(&format!("{millis}"));
    let file = folder.0.join("player.toml");
    std::fs::write(&file, player).unwrap();
    let text = played(script, &folder, "reports", &[&millis.to_string(), file.to_str().unwrap()]);
    text.lines().map(str::to_owned).collect()
}

/// A folder that ends with its test.
struct Folder(std::path::PathBuf);

impl Folder {
    fn new(name: &str) -> Folder {
        let folder = std::env::temp_dir().join(format!("tidy-lever-pads-{}-{name}", std::process::id()));
        std::fs::create_dir_all(&folder).unwrap();
        Folder(folder)
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

/// Plays a script on a bed of mocked pads while an example runs; what that printed.
fn played(script: &str, Folder(folder): &Folder, example: &str, arguments: &[&str]) -> String {
    let told = folder.join("script");
    std::fs::write(&told, script).unwrap();
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".into());
    let built = Command::new(cargo)
        .args(["build", "-q", "-p", "tidy-lever-pads", "--features", "real-pads", "--example", example])
        .output()
        .unwrap();
    assert!(built.status.success(), "{}", String::from_utf8_lossy(&built.stderr));
    // The tests' own folder of executables lies beside the examples'.
    let tests = std::env::current_exe().unwrap();
    let program = tests.parent().and_then(Path::parent).unwrap().join("examples").join(example);
    let output = Command::new("umockdev-wrapper")
        .args(["/usr/bin/python3", concat!(env!("CARGO_MANIFEST_DIR"), "/tests/kernel/bed.py")])
        .args([&told, folder, &program])
        .args(arguments)
        .output()
        .unwrap();
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    assert!(output.status.success(), "{text}{}", String::from_utf8_lossy(&output.stderr));
    text
}

/// A line without its moment, and the moment.
fn parted(line: &str) -> (i64, &str) {
    let (at, rest) = line.split_once(' ').unwrap();
    (at.parse().unwrap(), rest)
}

#[test]
fn buttons_sticks_triggers_and_the_hat_come_with_the_kernels_own_times() {
    if !is_possible() {
        return;
    }
    let told = watched(
        "plug layout 5\nstart\nwait 1000\nmark\nwait 40\n\
         5 +1000 1 130 1\n5 +21345 1 130 0\n\
         5 +22000 3 0 32767 3 1 -32768\n5 +23000 3 0 0 3 1 0\n\
         5 +23500 3 5 51\n5 +24000 3 5 255\n5 +25000 3 5 0\n5 +26000 3 10 1 3 11 -1\n5 +27000 3 10 0 3 11 0\nwait 200\n",
        2_000,
        "",
    );
    assert_eq!(told[0], "times: System");
    assert_eq!(
        parted(&told[1]).1,
        "dev0 came: Otter Post pad, with [pad:south, pad:east, pad:west, pad:north, pad:left-shoulder, pad:right-shoulder, \
         pad:select, pad:start, pad:home, pad:left-thumb, pad:right-thumb, pad:left-stick, pad:right-stick, pad:dpad, \
         pad:left-trigger, pad:right-trigger]"
    );
    let lines: Vec<(i64, &str)> = told[2..].iter().map(|line| parted(line)).collect();
    let events: Vec<&str> = lines.iter().map(|(_, rest)| *rest).collect();
    assert_eq!(
        events,
        [
            "dev0 Level { control: pad:south, value: 1.0 }",
            "dev0 Level { control: pad:south, value: 0.0 }",
            "dev0 Pair { control: pad:left-stick, x: 1.0, y: 1.0 }",
            "dev0 Pair { control: pad:left-stick, x: 0.0, y: 0.0 }",
            "dev0 Level { control: pad:right-trigger, value: 0.2 }",
            "dev0 Level { control: pad:right-trigger, value: 1.0 }",
            "dev0 Level { control: pad:right-trigger, value: 0.0 }",
            "dev0 Pair { control: pad:dpad, x: 1.0, y: 1.0 }",
            "dev0 Pair { control: pad:dpad, x: 0.0, y: 0.0 }",
        ]
    );
    let apart: Vec<i64> = lines.windows(2).map(|pair| pair[1].0 - pair[0].0).collect();
    assert_eq!(apart, [20_345, 655, 1_000, 500, 500, 1_000, 1_000, 1_000], "to the microsecond");
}

#[test]
fn a_pad_that_is_unplugged_comes_back_as_itself_and_another_is_another() {
    if !is_possible() {
        return;
    }
    let told = watched(
        "plug layout 5\nstart\nwait 1000\nmark\n5 +0 1 131 1\nwait 200\nplug bare 6\nwait 600\nunplug 5\nwait 600\n\
         plug layout 8\nwait 800\nmark\n8 +0 1 131 1\n6 +0 1 122 1\nwait 200\n",
        4_500,
        "[pad.\"Quay stick\"]\nsouth = \"button-2\"\n",
    );
    let events: Vec<&str> = told[1..].iter().map(|line| parted(line).1.split(", with").next().unwrap()).collect();
    assert_eq!(
        events,
        [
            "dev0 came: Otter Post pad",
            "dev0 Level { control: pad:east, value: 1.0 }",
            "dev1 came: Quay stick",
            "dev0 gone",
            "dev0 came: Otter Post pad",
            "dev0 Level { control: pad:east, value: 1.0 }",
            "dev1 Level { control: pad:south, value: 1.0 }",
        ]
    );
}

#[test]
fn a_pad_that_nobody_knows_is_described_by_pressing_what_is_asked_for() {
    if !is_possible() {
        return;
    }
    let folder = Folder::new("describe");
    let file = folder.0.join("player.toml");
    std::fs::write(&file, "tidy-lever = 1\n\n[action.hop]\nkeys = \"KeyJ\"    # mine\n").unwrap();
    let script = "plug bare 5\nstart\nwait 1000\nmark\n5 +0 1 122 1\nwait 40\n5 +0 1 122 0\nwait 40\n5 +0 3 0 255\nwait 40\n\
                  5 +0 3 0 127\nwait 40\n5 +0 3 1 0\nwait 40\n5 +0 1 124 1\nwait 200\n";
    let told = played(
        script,
        &folder,
        "describe",
        &[file.to_str().unwrap(), "south", "left-stick-x", "left-stick-y", "start"],
    );
    assert!(told.contains("Quay stick\nsouth: press it"), "{told}");
    assert_eq!(
        std::fs::read_to_string(&file).unwrap(),
        "tidy-lever = 1\n\n[action.hop]\nkeys = \"KeyJ\"    # mine\n\n[pad.\"Quay stick\"]\n\
         south = \"button-2\"\nstart = \"button-4\"\n",
        "its stick is where the system expects it"
    );
}

#[test]
fn after_a_lost_report_and_without_any_pad_it_goes_on() {
    if !is_possible() {
        return;
    }
    let told = watched(
        "plug layout 5\nstart\nwait 1000\nmark\n5 +0 1 130 1\nwait 20\n5 lost\nwait 20\nmark\n5 +0 1 133 1\nwait 200\n",
        2_001,
        "",
    );
    assert!(told.last().is_some_and(|line| line.contains("value: 1.0")), "{told:?}");
    let moments: Vec<i64> = told[1..].iter().map(|line| parted(line).0).collect();
    assert!(moments.is_sorted(), "{told:?}");
    assert_eq!(watched("start\nwait 50\n", 201, ""), ["times: System"]);
}

#[test]
fn what_a_players_file_says_of_a_pad_wins_over_what_the_system_believes() {
    if !is_possible() {
        return;
    }
    // Axes 2 and 5, which the system takes for triggers, are the right stick of this pad; and south and east are swapped.
    let moves = "plug layout 5\nstart\nwait 1000\nmark\nwait 40\n5 +1000 3 2 255\n5 +2000 3 5 0\n5 +3000 1 131 1\n5 +4000 1 130 1\n5 +5000 3 3 32767\n\
                 5 +6000 1 133 1\nwait 200\n";
    let table = "[pad.\"Otter Post pad\"]\nright-stick-x = \"axis-2\"\nright-stick-y = \"-axis-5\"\nsouth = \"button-17\"\neast = \"button-16\"\n\
                 left-trigger = \"axis-9\"\nnorth = \"button-99\"\n";
    let told = watched(moves, 1_900, table);
    let events: Vec<&str> = told[2..].iter().map(|line| parted(line).1).collect();
    assert_eq!(
        events,
        [
            "pad.\"Otter Post pad\".left-trigger: this pad has no axis-9; it has axes 0, 1, 2, 3, 4, 5, 16, 17",
            "pad.\"Otter Post pad\".north: this pad has no button-99; it has buttons 16, 17, 19, 20, 22, 23, 26, 27, 28, 29, 30",
            "dev0 Pair { control: pad:right-stick, x: 1.0, y: 0.0 }",
            "dev0 Pair { control: pad:right-stick, x: 1.0, y: 0.9921875 }",
            "dev0 Level { control: pad:south, value: 1.0 }",
            "dev0 Level { control: pad:east, value: 1.0 }",
            "dev0 Level { control: pad:north, value: 1.0 }",
        ],
        "axis 3, the system's right stick, moves nothing any more, and what the file doesn't name stays"
    );
}
