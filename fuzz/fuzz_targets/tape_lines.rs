//! Any bytes as a tape: played up to where they go wrong; a line that is read is written so that it reads the same.
#![no_main]

use std::sync::LazyLock;

use libfuzzer_sys::fuzz_target;
use tidy_lever::tape::{Line, Replayer, Reader};
use tidy_lever::{Linkage, Moment, Profile};

static DEMO: LazyLock<Linkage> = LazyLock::new(|| {
    let text = include_str!("../../demo/otter-post.toml");
    Linkage::build(&Profile::from_toml(text).expect("it reads")).expect("the demo's profile is right")
});

fuzz_target!(|bytes: &[u8]| {
    let Ok(mut reader) = Reader::new(bytes) else { return };
    let mut player = Replayer::new(reader.header());
    let mut seat = DEMO.seat(Moment::ZERO);
    for line in reader.by_ref() {
        let Ok(line) = line else { return };
        assert_eq!(Line::read(&line.write()).as_ref(), Ok(&line));
        let _ = player.put(&line, &mut seat);
        // A tape may leap by ages; what is due on the way is bounded, but for what repeats.
        if line.at.as_micros() < 60_000_000 {
            seat.advance(line.at);
        }
    }
});
