//! What worn devices spoil, and what the guards save: the share of trials in which a seat heard exactly what the hand did.
//!
//! ```text
//! cargo run --release -p tidy-lever-hands --example worn
//! ```
//! A trial is clean if its action pulled once, in time, and every direction that it needs was heard as often as the hand gave it.

use std::time::Duration;

use tidy_lever::{Happening, Linkage, Moment, Profile, Seat, What};
use tidy_lever_hands::{Hand, Rehearsal, Scene, Trial, Wear};

const TRIALS: u64 = 4_000;
/// So long after the last moment at which a pull counts as found the hand lets go.
const AFTER: Duration = Duration::from_millis(120);

/// A row: what the hand does, the action's cue, and the directions that it gives.
const ROWS: [(&str, &str, &[&str]); 6] = [
    ("one step", "steer.right press", &["right"]),
    ("left, right", "order steer.left, steer.right within 2s", &["left", "right"]),
    (
        "left, right, left, right",
        "order steer.left, steer.right, steer.left, steer.right within 3s",
        &["left", "right"],
    ),
    ("double tap", "steer twice within 240ms", &[]),
    ("secret knock", "order steer.up, steer.left, steer.right within 3s", &["up", "left", "right"]),
    ("tap", "tap under 200ms", &[]),
];

fn profile(cue: &str, is_stick: bool, guards: bool) -> String {
    let off = "[devices]\nkeys = { debounce = \"0ms\" }\npad = { debounce = \"0ms\", snapback = \"0ms\", centre = \"fixed\" }\n";
    let (steer, own) = match (is_stick, cue.starts_with("tap")) {
        (true, _) => ("pad = \"left-stick\"\npad_shape = { dead = 0.15 }", ""),
        (false, false) => ("keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }", ""),
        (false, true) => {
            ("keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }", "keys = \"KeyE\"\n")
        }
    };
    let devices = if guards { "" } else { off };
    format!(
        "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\n{steer}\n[action.meant]\nkind = \"button\"\n{own}cue = \"{cue}\"\n{devices}"
    )
}

/// Whether the seat heard what the hand did, and nothing else.
fn is_clean(linkage: &Linkage, trial: &Trial, needs: &[(&str, usize)], seat: &mut Seat) -> bool {
    for event in &trial.events {
        if seat.feed(*event).is_err() {
            return false;
        }
    }
    seat.advance(trial.end);
    let latest = seat.latest();
    let all: Vec<_> = latest.happenings().filter_map(|one| Some((one.action(linkage)?.to_owned(), *one))).collect();
    // What the hand does before and after on purpose is not looked at.
    let meant = |at: Moment| at >= trial.begins && at <= trial.until + AFTER;
    let pulled = |(name, one): &&(String, Happening)| name == "meant" && one.what() == What::Pulled && meant(one.at());
    let pulls = all.iter().filter(pulled).count();
    let given = |way: &str| {
        let name = format!("steer.{way}");
        let presses = all.iter().filter(|(of, one)| *of == name && one.what() == What::Pressed);
        presses.filter(|(_, one)| meant(one.at())).count()
    };
    pulls == 1 && needs.iter().all(|(way, times)| given(way) == *times)
}

fn share(
    row: (&str, &str, &[&str]),
    is_stick: bool,
    wear: Wear,
    guards: bool,
) -> Result<f64, Box<dyn std::error::Error>> {
    let (_, cue, ways) = row;
    let linkage = Linkage::build(&Profile::from_toml(&profile(cue, is_stick, guards))?)?;
    let rehearsal = Rehearsal::of(linkage.clone(), &[]);
    let scene: &Scene = rehearsal.scene("meant").ok_or("no hand can perform this")?;
    let mut hand = Hand::named("average").ok_or("there is no average hand")?;
    hand.wear = wear;
    let needs: Vec<(&str, usize)> =
        ways.iter().map(|way| (*way, cue.matches(&format!("steer.{way}")).count())).collect();
    let template = linkage.seat(Moment::ZERO);
    let mut clean = 0;
    for number in 0..TRIALS {
        let mut seat = template.clone();
        clean += u64::from(is_clean(&linkage, &scene.trial(&hand, 1, number), &needs, &mut seat));
    }
    Ok(100.0 * clean as f64 / TRIALS as f64)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    println!("| played on | what the hand does | new | worn, guards off | worn, guards as by default |");
    println!("|---|---|---|---|---|");
    for (is_stick, wear, name) in [(false, Wear::WornKeys, "keys"), (true, Wear::WornStick, "stick")] {
        for row in ROWS.into_iter().filter(|(_, cue, _)| !(is_stick && cue.starts_with("tap"))) {
            let new = share(row, is_stick, Wear::New, true)?;
            let (off, on) = (share(row, is_stick, wear, false)?, share(row, is_stick, wear, true)?);
            println!("| {name} | {} | {new:.1} % | {off:.1} % | {on:.1} % |", row.0);
        }
    }
    Ok(())
}
