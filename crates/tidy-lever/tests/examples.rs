//! Promise: the examples run, and show what they say.
#![cfg(all(feature = "files", feature = "pointing"))]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::process::Command;

/// Runs an example, which Cargo built beside the tests, and gives what it printed.
fn example(name: &str) -> String {
    let this = std::env::current_exe().unwrap();
    let folder = this.ancestors().nth(2).unwrap().join("examples");
    let program = folder.join(name).with_extension(std::env::consts::EXE_EXTENSION);
    let output = Command::new(&program).output();
    let output = output.unwrap_or_else(|error| {
        panic!("{error}: {} is built by `cargo test`, or by `cargo build --examples`", program.display())
    });
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8_lossy(&output.stdout).into_owned()
}

#[test]
fn about_turn_turns_by_the_direction_given_and_straight_back_without() {
    let told = example("about_turn");
    assert!(told.contains("0.040000 s: about! direction given: left, 0 ms ago"));
    assert!(told.contains("0.400000 s: body 180.0"), "180 degrees at 500 a second take 360 ms");
    assert!(told.contains("0.700000 s: about! direction given: left, 580 ms ago"));
    assert!(told.lines().last().is_some_and(|line| line.contains("body   0.0")), "{told}");
}

#[test]
fn point_and_go_arrives_and_ignores_the_sky() {
    let told = example("point_and_go");
    assert!(told.contains("1.000000 s: that is the sky; nothing changes"));
    assert!(told.contains("Pim at 3.97, -2.21 stands"), "{told}");
}

#[test]
fn a_whole_loop_has_two_players_a_menu_and_a_new_key_in_under_120_lines() {
    assert!(include_str!("../examples/whole_loop.rs").lines().count() < 120);
    let told = example("whole_loop");
    for line in [
        "0.100000 s: otter 2 joins",
        "0.300000 s: otter 1 hops at 0.75 m",
        "0.340000 s: otter 2 hops at -0.45 m",
        "0.900000 s: hop is on keys:KeyJ; to be saved:",
        "keys = \"KeyJ\"",
        "1.300000 s: otter 1 hops at 2.55 m",
    ] {
        assert!(told.lines().any(|own| own == line), "{line}: {told}");
    }
}

#[test]
fn two_clocks_see_every_hop_exactly_once() {
    let told = example("two_clocks");
    assert!(told.ends_with("hops in all: 3 in physics, 3 in frames\n"), "{told}");
    let steps: Vec<&str> = told.lines().skip(1).filter_map(|line| line.split_whitespace().nth(1)).collect();
    assert!(
        ["0", "1", "3"].iter().all(|count| steps.contains(count)),
        "physics ran 0, 1 and 3 times in a frame: {told}"
    );
}

#[test]
fn rollback_ends_with_the_same_states_on_both_machines_whatever_the_link_loses() {
    let told = example("rollback");
    assert!(told.contains("the same: yes") && told.starts_with("600 frames: "), "{told}");
    let states: Vec<&str> = told.lines().filter_map(|line| line.split("state ").nth(1)).collect();
    assert!(states.len() == 4 && states[..2] == states[2..] && states[0] != states[1], "{told}");
    let first: Vec<f64> = told.lines().next().unwrap().split([' ', ':']).filter_map(|word| word.parse().ok()).collect();
    let [_, packets, lost, disordered] = first[..] else { panic!("{told}") };
    assert!(lost / packets > 0.15 && disordered / packets > 0.1, "{told}");
}

#[test]
fn the_demos_tape_is_what_its_example_makes() {
    let shipped = include_str!("../../../demo/morning-round.jsonl");
    assert_eq!(example("make_round"), shipped);
}

#[test]
fn the_first_press_is_seen_though_it_lies_within_one_step() {
    let told = example("first_press");
    assert!(told.contains("step 2, up to 0.033333 s: pulled true, down now false"), "{told}");
    assert!(told.contains("a hop at 0.020400 s, and the press was held for 9.5ms"), "{told}");
    assert_eq!(told.matches("pulled true").count(), 1);
}

#[test]
fn a_loop_of_ones_own_keeps_an_early_hop_until_the_ground() {
    let told = example("own_loop");
    let hops: Vec<&str> = told.lines().filter(|line| line.contains(": hop ")).collect();
    assert_eq!(hops.len(), 2, "{told}");
    assert!(
        hops[0].ends_with("kept for 0ns") && hops[1].ends_with("ms"),
        "the second came too early, and was kept: {told}"
    );
    assert!(told.contains("2 hops, and Pim stands at 3.6"), "{told}");
}

#[test]
fn a_key_that_answers_while_binding_does_nothing_else_and_plays_from_its_next_press_on() {
    let told = example("rebinding");
    for part in ["take is on Y", "bag is on: true", "to open the bag: hold Y"] {
        assert!(told.contains(part), "{part} in\n{told}");
    }
    let heard: Vec<&str> =
        told.lines().filter_map(|line| line.rsplit_once("}: ").map(|(_, goes_on)| goes_on)).collect();
    assert_eq!(heard, ["true", "false", "true", "true"], "{told}");
    let takes: Vec<&str> = told.lines().filter_map(|line| line.rsplit_once("take ").map(|(_, down)| down)).collect();
    assert_eq!(takes[..], ["false", "is on Y", "false", "false", "true"], "{told}");
}

#[test]
fn an_adapter_of_ones_own_keeps_every_rule() {
    let told = example("own_adapter");
    assert!(told.contains("rules broken: 0\nW pressed: true; pushed up: true"), "{told}");
    assert_eq!(told.lines().filter(|line| line.contains("Event(")).count(), 3, "{told}");
    assert!(told.contains("0.070000 s: Event(Event { at: 70000us"), "{told}");
}

#[test]
fn a_tape_replays_the_same_at_any_rate() {
    let told = example("replay");
    for part in
        ["0.050000 s hop pulled", "0.590000 s hop pulled", "1.050000 s bag pulled", "the same at 7 and at 1000: true"]
    {
        assert!(told.contains(part), "{part} in\n{told}");
    }
}

#[test]
fn the_first_program_is_the_readmes_and_prints_what_it_says() {
    let readme = include_str!("../../../README.md");
    let code = include_str!("../examples/first_program.rs");
    let program = &code[code.find("use tidy_lever").unwrap()..];
    assert!(readme.contains(&format!("```rust\n{program}```")), "the README has another program");
    let told = example("first_program");
    assert!(readme.contains(&format!("```text\n{told}```")), "{told}");
}
