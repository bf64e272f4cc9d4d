//! Describes a gamepad that no layout is known for: asks for one control after the other, and writes what was pressed into a
//! player's file.
//!
//! `cargo run -p tidy-lever-pads --features real-pads --example describe -- player.toml [CONTROL…]`

use std::time::{Duration, Instant};

use tidy_lever::Moment;
use tidy_lever::adapter::Devices;
use tidy_lever_pads::{Pads, Seen, Setup};

/// How long a control is waited for; then it is passed over.
const PATIENCE: Duration = Duration::from_secs(8);

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let (file, only) = arguments.split_first().ok_or("name the player's file that the table is for")?;
    let only: Vec<&str> = only.iter().map(String::as_str).collect();
    let (mut devices, began, mut pads) = (Devices::new(), Instant::now(), Pads::open()?);
    let (mut setup, mut asked): (Option<Setup>, Option<(String, Instant)>) = (None, None);
    println!("plug in the pad, or press a button of it");
    loop {
        pads.poll_with(
            &mut devices,
            || Moment::ZERO + began.elapsed(),
            |_, seen| match (seen, &mut setup) {
                (Seen::Came(_, name), None) => {
                    println!("{}", name.name);
                    let all = Setup::new(&name.name);
                    setup = Some(if only.is_empty() { all } else { all.only(&only) });
                }
                (seen, Some(setup)) => setup.hear(seen),
                _ => {}
            },
        );
        if let Some(setup) = &mut setup {
            if asked.as_ref().is_some_and(|(_, since)| since.elapsed() > PATIENCE) {
                setup.skip();
            }
            let Some(wanted) = setup.asks() else { break };
            if asked.as_ref().is_none_or(|(key, _)| key != wanted) {
                println!("{wanted}: press it; a stick to the right or up");
                asked = Some((wanted.to_owned(), Instant::now()));
            }
        }
        std::thread::sleep(Duration::from_millis(2));
    }
    let Some(setup) = setup else { return Ok(()) };
    // No other program changes it between reading and writing; the file is never half-written.
    let kept = tidy_lever_files::Kept::lock(std::path::Path::new(file))?;
    let before = if kept.exists() { std::fs::read_to_string(file)? } else { "tidy-lever = 1\n".into() };
    let text = setup.tables().written_into(&before)?;
    kept.write(text.as_bytes())?;
    println!("written into {file}");
    Ok(())
}
