//! What the tests share: a seat on a bench, fed by short words, heard as short lines.
#![allow(dead_code, unreachable_pub, reason = "each test file takes what it needs")]

use tidy_lever::handle::Handle;
use tidy_lever::tape::{Header, Line, LineKind, Replayer};
use tidy_lever::{Bookmark, Control, Device, Direction, Event, Linkage, Moment, Profile, Reading, Seat};

pub fn us(micros: u64) -> Moment {
    Moment::from_micros(micros)
}

/// All guards off: hands that press for a microsecond, and devices that say what they mean.
pub const UNGUARDED: &str = "
[devices]
keys = { debounce = \"0ms\" }
mouse = { debounce = \"0ms\" }
pad = { debounce = \"0ms\", snapback = \"0ms\", centre = \"fixed\" }
";

/// Builds a linkage from the body of a profile, without guards unless the body sets some.
pub fn linkage(body: &str) -> Linkage {
    if body.contains("[devices") { guarded(body) } else { guarded(&format!("{body}{UNGUARDED}")) }
}

/// The same with the guards that a profile has by default.
pub fn guarded(body: &str) -> Linkage {
    let profile = Profile::from_toml(&format!("tidy-lever = 1\n{body}")).expect("TOML");
    Linkage::build(&profile).unwrap_or_else(|faults| panic!("{faults}"))
}

/// A device by its family, as a hand would have it: one keyboard, one mouse, a pad, a second of each kind.
pub fn device(number: usize) -> Device {
    Device::new(number).expect("below 64")
}

/// What a reading holds, a line each: `1500 hop pulled`, `2000 hop ended (let go)`.
pub fn lines(reading: &Reading<'_>, linkage: &Linkage) -> Vec<String> {
    let line = |h: &tidy_lever::Happening| {
        let cause = h.what().cause().map_or(String::new(), |cause| format!(" ({cause})"));
        format!("{} {} {}{cause}", h.at().as_micros(), h.action(linkage).unwrap_or_default(), h.what().name())
    };
    reading.happenings().map(line).collect()
}

/// A seat, a bookmark that hears everything, and short ways to feed both.
pub struct Bench {
    pub seat: Seat,
    pub bookmark: Bookmark,
}

impl Bench {
    pub fn new(body: &str) -> Bench {
        let seat = linkage(body).seat(Moment::ZERO);
        let bookmark = seat.bookmark();
        Bench { seat, bookmark }
    }

    pub fn find<H: Handle>(&self, name: &str) -> H {
        self.seat.linkage().find(name).expect("a name of the profile")
    }

    /// `"keys:Space"` at a level of 0 or 1, at a moment in microseconds, from device 0.
    pub fn level(&mut self, at: u64, control: &str, level: f32) -> &mut Bench {
        self.level_on(at, 0, control, level)
    }

    pub fn level_on(&mut self, at: u64, number: usize, control: &str, level: f32) -> &mut Bench {
        let control = self.seat.linkage().control(control).expect("a control");
        self.seat.feed(Event::level(us(at), device(number), control, level)).expect("taken");
        self
    }

    /// The left stick, all the way in a direction or at rest.
    pub fn point(&mut self, at: u64, to: Option<Direction>) -> &mut Bench {
        let (x, y) = to.map_or((0, 0), Direction::signs);
        let size = if x != 0 && y != 0 { std::f32::consts::FRAC_1_SQRT_2 } else { 1.0 };
        self.pair(at, Control::LEFT_STICK, f32::from(x) * size, f32::from(y) * size)
    }

    pub fn pair(&mut self, at: u64, control: Control, x: f32, y: f32) -> &mut Bench {
        self.seat.feed(Event::pair(us(at), device(1), control, x, y)).expect("taken");
        self
    }

    /// Feeds a tape's lines without its header.
    pub fn tape(&mut self, lines: &str) -> &mut Bench {
        let mut player = Replayer::new(&Header::new(""));
        for line in lines.lines().filter(|line| !line.trim().is_empty()) {
            let line = Line::read(line.trim()).expect("a line");
            player.put(&line, &mut self.seat).expect("taken");
        }
        self
    }

    pub fn to(&mut self, micros: u64) -> &mut Bench {
        self.seat.advance(us(micros));
        self
    }

    /// Everything since last heard.
    pub fn heard(&mut self) -> Vec<String> {
        let reading = self.seat.read(&mut self.bookmark);
        lines(&reading, self.seat.linkage())
    }

    /// The lines among everything since last heard that tell of one action.
    pub fn heard_of(&mut self, action: &str) -> Vec<String> {
        self.heard().into_iter().filter(|line| line.split(' ').nth(1) == Some(action)).collect()
    }

    /// The moments, in µs, at which an action pulled since last heard.
    pub fn pulls_of(&mut self, action: &str) -> Vec<u64> {
        let heard = self.heard_of(action).into_iter().filter(|line| line.ends_with("pulled"));
        heard.map(|line| line.split(' ').next().and_then(|at| at.parse().ok()).expect("a moment")).collect()
    }

    pub fn xy(&self, stick: &str) -> (f32, f32) {
        self.seat.stick(self.find(stick)).xy()
    }
}

/// Plays lines in ticks that end at these moments, and at the last line's; everything that happened, and the state.
pub fn play_cut(linkage: &Linkage, lines: &[Line], cuts: &[u64]) -> (Vec<String>, u64) {
    let mut seat = linkage.seat_with(Moment::ZERO, tidy_lever::seat::Capacity::default().history(1 << 14)).unwrap();
    let mut bookmark = seat.bookmark();
    let mut player = Replayer::new(&Header::new(""));
    let mut all = Vec::new();
    let mut cuts = cuts.iter().copied().peekable();
    let mut step = |seat: &mut Seat, to: Moment| {
        seat.advance(to);
        let reading = seat.read(&mut bookmark);
        assert_eq!(reading.lost(), 0);
        all.extend(self::lines(&reading, linkage));
    };
    for line in lines {
        while let Some(cut) = cuts.next_if(|cut| us(*cut) < line.at) {
            step(&mut seat, us(cut));
        }
        if line.kind != LineKind::End {
            player.put(line, &mut seat).expect("taken");
        }
    }
    let end = lines.last().map_or(Moment::ZERO, |line| line.at);
    step(&mut seat, end + std::time::Duration::from_secs(2));
    (all, seat.state_hash())
}
