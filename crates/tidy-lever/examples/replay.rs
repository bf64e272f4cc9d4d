//! Recording and replaying: a tape is written line by line as it is played, and gives the same at another tick rate.
//!
//! `cargo run --example replay`

use tidy_lever::control::Family;
use tidy_lever::tape::{Header, Line, LineKind, Reader, Replayer, TapeValue, Writer};
use tidy_lever::{Linkage, Moment, Profile};

const PROFILE: &str = r#"
tidy-lever = 1
[facts]
grounded = true
[action.hop]
kind = "button"
keys = "Space"
when = "grounded"
keep = "150ms"
[action.bag]
kind = "button"
keys = "KeyE"
cue  = "hold 350ms"
"#;

/// What a hand and a game did, as a tape has it.
fn played() -> Vec<Line> {
    let key = |name: &str, value: f64| LineKind::Level { device: "kb".into(), control: format!("keys:{name}"), value };
    let ground = |value| LineKind::Fact { fact: "grounded".into(), value: TapeValue::Flag(value) };
    let said = [
        (50, key("Space", 1.0)),
        (70, ground(false)),
        (140, key("Space", 0.0)),
        (480, key("Space", 1.0)),
        (520, key("Space", 0.0)),
        (590, ground(true)),
        (700, key("KeyE", 1.0)),
        (1_100, key("KeyE", 0.0)),
    ];
    said.into_iter().map(|(at, said)| Line::new(Moment::from_millis(at), 1, said)).collect()
}

/// Plays a tape at a tick rate; what came of it.
fn replay(tape: &[u8], linkage: &Linkage, rate: u32) -> Result<Vec<String>, Box<dyn std::error::Error>> {
    let mut reader = Reader::new(tape)?;
    let mut player = Replayer::new(reader.header());
    let mut seat = linkage.seat(Moment::ZERO);
    let (mut lines, mut all, mut tick) = (Vec::new(), Vec::new(), 0);
    for line in &mut reader {
        lines.push(line?);
    }
    let mut waiting = lines.into_iter().peekable();
    while tick < 2 * u64::from(rate) {
        tick += 1;
        let now = Moment::of_tick(tick, rate);
        while let Some(line) = waiting.next_if(|line| line.at <= now && line.kind != LineKind::End) {
            player.put(&line, &mut seat)?;
        }
        seat.advance(now);
        let told = |h: &tidy_lever::Happening| {
            format!("{} {} {}", h.at(), h.action(linkage).unwrap_or_default(), h.what().name())
        };
        all.extend(seat.latest().happenings().filter(|h| h.what().name() == "pulled").map(told));
    }
    Ok(all)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let linkage = Linkage::build(&Profile::from_toml(PROFILE)?)?;
    let mut tape = Vec::new();
    let mut writer = Writer::new(&mut tape, &Header::new("two hops and a bag").device("kb", Family::Keys))?;
    for line in played() {
        writer.put(&line)?;
    }
    writer.put(&Line::new(Moment::from_millis(1_500), 1, LineKind::End))?;
    println!("the tape:\n{}", String::from_utf8_lossy(&tape));
    let once = replay(&tape, &linkage, 60)?;
    println!("at 60 ticks a second:\n  {}", once.join("\n  "));
    println!(
        "the same at 7 and at 1000: {}",
        replay(&tape, &linkage, 7)? == once && replay(&tape, &linkage, 1_000)? == once
    );
    Ok(())
}
