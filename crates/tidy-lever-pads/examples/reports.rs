//! Prints what the system's gamepads report, for some milliseconds (default: 10,000).
//!
//! `cargo run -p tidy-lever-pads --features real-pads --example reports`

use std::time::{Duration, Instant};

use tidy_lever::Moment;
use tidy_lever::adapter::{Devices, Report};
use tidy_lever_pads::{PadTables, Pads};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut arguments = std::env::args().skip(1);
    let millis = arguments.next().map_or(Ok(10_000), |millis| millis.parse())?;
    let (mut devices, began) = (Devices::new(), Instant::now());
    let mut pads = match Pads::open() {
        Ok(pads) => pads,
        Err(why) => {
            println!("{why}");
            return Ok(());
        }
    };
    // A player's file, for pads that no layout is known for.
    if let Some(file) = arguments.next() {
        pads.describe(PadTables::from_toml(&std::fs::read_to_string(file)?)?);
    }
    println!("times: {:?}", pads.times());
    while began.elapsed() < Duration::from_millis(millis) {
        let reports = pads.poll(&mut devices, || Moment::ZERO + began.elapsed());
        for report in reports {
            match report {
                Report::Came { device, name, at } => {
                    println!("{} {device:?} came: {name}, with {:?}", at.as_micros(), pads.controls(device));
                    pads.misfits(device).into_iter().for_each(|misfit| println!("{} {misfit}", at.as_micros()));
                }
                Report::Gone { device, at } => println!("{} {device:?} gone", at.as_micros()),
                Report::Event(event) => println!("{} {:?} {:?}", event.at.as_micros(), event.device, event.input),
                other => println!("{other:?}"),
            }
        }
        std::thread::sleep(Duration::from_millis(1));
    }
    Ok(())
}
