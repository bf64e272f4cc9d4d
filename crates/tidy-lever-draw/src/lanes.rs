//! What a seat is told and does, in lanes: of a whole tape, or of the last seconds while it is played.

use std::collections::HashMap;

use tidy_lever::ledger::Outcome;
use tidy_lever::profile::Kind;
use tidy_lever::seat::Swallowed;
use tidy_lever::tape::{Line, LineKind, TapeValue};
use tidy_lever::{Attempt, Cause, Direction, Happening, Linkage, Seat, What};

use crate::density::{Density, is_crowd};
use crate::timeline::{Lane, Moment, Room, Sign, Span, Timeline, Tone};

/// A miss by no more than this is a near one, in µs.
const NEAR: u128 = 100_000;
/// What away from rest means for a stick or a trigger, for its lane alone.
const AWAY: f64 = 0.1;
const ARROWS: [&str; 8] = ["→", "↗", "↑", "↖", "←", "↙", "↓", "↘"];
/// How long a lone movement of a mouse shows, in µs.
const BLINK: u64 = 4_000;

/// Builds a [`Timeline`] from what is told and what happens.
///
/// ```
/// use tidy_lever::tape::Line;
/// use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile};
/// use tidy_lever_draw::Lanes;
///
/// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
/// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
/// let mut seat = linkage.seat(Moment::ZERO);
/// let mut lanes = Lanes::new(&linkage, (0, 1_000_000), &[]);
/// let line = Line::read(r#"{"at":5000,"dev":"kb","control":"keys:Space","value":1}"#)?;
/// seat.feed(Event::button(line.at, Device::default(), "keys:Space".parse()?, true))?;
/// lanes.line(&line);
/// seat.advance(Moment::from_millis(16));
/// seat.latest().happenings().for_each(|happening| lanes.happened(1, happening));
/// lanes.played(1, &seat);
/// let names: Vec<String> = lanes.timeline("a hop", (0, 20_000), 16_000).lanes.into_iter().map(|lane| lane.name).collect();
/// assert_eq!(names, ["hop", "keys:Space"]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Lanes {
    linkage: Linkage,
    range: (u64, u64),
    /// The actions that are wanted; all, where none is named.
    actions: Vec<String>,
    lanes: Vec<Lane>,
    /// The lanes by room and name.
    places: HashMap<(Room, String), usize>,
    /// What lasts still: lane, since when, its label and tone.
    open: Vec<(usize, u64, String, Tone)>,
    /// How many attempts of each seat were seen, and how much that guards kept from being heard.
    seen: Vec<(u32, u64, u64)>,
    /// What pulled in the piece that is being played, with its lane.
    pulled: Vec<(usize, String)>,
    /// Which device holds the controls that are down.
    hands: Vec<(usize, String)>,
    /// Whether crowded lanes switch to density.
    crowds: bool,
}

impl Lanes {
    /// For a stretch of time in µs; of these actions alone, if any is named.
    pub fn new(linkage: &Linkage, range: (u64, u64), actions: &[String]) -> Lanes {
        let mut lanes = Lanes {
            linkage: linkage.clone(),
            range,
            actions: actions.to_vec(),
            lanes: Vec::new(),
            places: HashMap::new(),
            open: Vec::new(),
            seen: Vec::new(),
            pulled: Vec::new(),
            hands: Vec::new(),
            crowds: false,
        };
        lanes.begin_told(linkage);
        lanes.name_actions(linkage);
        lanes
    }

    fn begin_told(&mut self, linkage: &Linkage) {
        let lanes = self;
        for (mode, on) in linkage.modes() {
            let lane = lanes.lane(mode, Room::Told);
            if on {
                lanes.begin(lane, 0, "on", Tone::Plain);
            }
        }
        for (fact, first) in linkage.facts() {
            let lane = lanes.lane(fact, Room::Told);
            if first != "false" {
                lanes.begin(lane, 0, first, Tone::Plain);
            }
        }
    }

    /// Actions stand in the order of the profile.
    fn name_actions(&mut self, linkage: &Linkage) {
        for action in linkage.actions() {
            let room = if action.kind() == Kind::Stick { Room::Directions } else { Room::Actions };
            self.lane(action.name(), room);
        }
    }

    /// The seats went over to another linkage; what lasts goes on.
    pub fn relink(&mut self, linkage: &Linkage) {
        if !self.linkage.is_same(linkage) {
            self.linkage = linkage.clone();
            self.name_actions(linkage);
        }
    }

    /// Switches lanes with too many items to density, so that a tape of any length needs the same memory.
    pub fn crowded(self) -> Lanes {
        Lanes { crowds: true, ..self }
    }

    /// Drops what was over before a moment, in µs: for lanes that show the last seconds.
    pub fn forget(&mut self, before: u64) {
        for lane in &mut self.lanes {
            lane.spans.retain(|span| span.to >= before);
            lane.moments.retain(|moment| moment.at >= before);
        }
    }

    /// What there is between two moments, in µs; what lasts is drawn up to `now`.
    pub fn timeline(&self, title: impl Into<String>, (from, to): (u64, u64), now: u64) -> Timeline {
        // Of many lanes only those with something on them are looked at further.
        let mut lanes = Vec::new();
        let mut open = Vec::new();
        let mut lasting: HashMap<usize, Vec<&(usize, u64, String, Tone)>> = HashMap::new();
        self.open.iter().for_each(|span| lasting.entry(span.0).or_default().push(span));
        for (place, lane) in self.lanes.iter().enumerate() {
            let spans: Vec<Span> =
                lane.spans.iter().filter(|span| span.to >= from && span.from <= to).cloned().collect();
            let moments: Vec<Moment> =
                lane.moments.iter().filter(|moment| (from..=to).contains(&moment.at)).cloned().collect();
            let before = open.len();
            let own = lasting.get(&place).into_iter().flatten();
            open.extend(own.map(|(_, at, label, tone)| (lanes.len(), *at, label.clone(), *tone)));
            if open.len() > before || !spans.is_empty() || !moments.is_empty() {
                lanes.push(Lane { spans, moments, ..Lane::new(&lane.name, lane.room) });
            }
        }
        let part = Lanes {
            linkage: self.linkage.clone(),
            range: (from, to),
            actions: Vec::new(),
            lanes,
            places: HashMap::new(),
            open,
            seen: Vec::new(),
            pulled: Vec::new(),
            hands: Vec::new(),
            crowds: false,
        };
        Timeline { to, ..part.finish(title.into(), now.min(to)) }
    }

    fn lane(&mut self, name: &str, room: Room) -> usize {
        if let Some(place) = self.places.get(&(room, name.to_owned())) {
            return *place;
        }
        self.lanes.push(Lane::new(name, room));
        self.places.insert((room, name.to_owned()), self.lanes.len() - 1);
        self.lanes.len() - 1
    }

    fn put(&mut self, lane: usize, from: u64, to: u64, label: &str, tone: Tone) {
        if to >= self.range.0 && from <= self.range.1 {
            let arrow = Direction::from_name(label).map_or("", |direction| ARROWS[direction as usize]);
            let span = Span { from, to: to.min(self.range.1), label: label.to_owned(), short: arrow, tone };
            match self.density(lane) {
                Some(density) => density.cover(&span),
                None => self.lanes[lane].spans.push(Span { to, ..span }),
            }
        }
    }

    /// The density of a lane, once it is crowded.
    fn density(&mut self, lane: usize) -> Option<&mut Density> {
        let lane = &mut self.lanes[lane];
        if self.crowds && lane.density.is_none() && is_crowd(lane.spans.len(), lane.moments.len()) {
            let mut density = Density::new(self.range.0);
            std::mem::take(&mut lane.spans).iter().for_each(|span| density.cover(span));
            std::mem::take(&mut lane.moments).iter().for_each(|moment| density.mark(moment));
            lane.density = Some(density);
        }
        lane.density.as_mut()
    }

    fn mark(&mut self, lane: usize, at: u64, label: String, sign: Sign) {
        if (self.range.0..=self.range.1).contains(&at) {
            let moment = Moment { at, label, sign };
            match self.density(lane) {
                Some(density) => density.mark(&moment),
                None => self.lanes[lane].moments.push(moment),
            }
        }
    }

    fn begin(&mut self, lane: usize, at: u64, label: &str, tone: Tone) {
        self.open.push((lane, at, label.to_owned(), tone));
    }

    /// Ends what lasts on a lane in one of these tones.
    fn end(&mut self, lane: usize, at: u64, tone: Tone) {
        while let Some(place) = self.open.iter().position(|(of, _, _, its)| *of == lane && *its == tone) {
            let (lane, from, label, tone) = self.open.remove(place);
            self.put(lane, from, at, &label, tone);
        }
    }

    /// A lane's plain span begins, or ends, if that is news; whether it began.
    fn stands(&mut self, lane: usize, at: u64, label: &str, on: bool) -> bool {
        let was = self.open.iter().any(|(of, _, _, tone)| *of == lane && *tone == Tone::Plain);
        match (on, was) {
            (true, false) => self.begin(lane, at, label, Tone::Plain),
            (false, true) => self.end(lane, at, Tone::Plain),
            _ => {}
        }
        on && !was
    }

    /// A control stands at some level, on its own lane.
    fn control(&mut self, device: &str, name: &str, at: u64, away: bool) {
        let lane = self.lane(name, Room::Controls);
        if self.stands(lane, at, "", away) {
            self.hands.retain(|(of, _)| *of != lane);
            self.hands.push((lane, device.to_owned()));
        }
    }

    /// Controls that nobody holds any more.
    fn lift(&mut self, at: u64, which: impl Fn(&str, &str) -> bool) {
        for (lane, hand) in self.hands.clone() {
            if which(&self.lanes[lane].name, &hand) {
                self.end(lane, at, Tone::Plain);
            }
        }
    }

    fn is_wanted(&self, action: &str) -> bool {
        self.actions.is_empty() || self.actions.iter().any(|name| name == action)
    }

    fn attempt(&mut self, seat: u32, attempt: &Attempt) {
        let linkage = self.linkage.clone();
        let (Some(name), Some(outcome)) = (attempt.action(&linkage), attempt.outcome(&linkage)) else { return };
        if !self.is_wanted(name) {
            return;
        }
        let lane = self.lane(&in_seat(seat, name), Room::Actions);
        let (began, ended) = (attempt.began().as_micros(), attempt.ended().as_micros());
        let came = attempt.steps(&linkage).count();
        let last = attempt.steps(&linkage).last().map_or(ended, |step| step.at.as_micros());
        let missed = attempt.missed_by().filter(|by| by.as_micros() <= NEAR);
        if let Some((from, to)) = attempt.window(&linkage)
            && (missed.is_some() || (attempt.of() > 1 && came > 1 && (attempt.pulled() || came + 1 >= attempt.of())))
        {
            self.put(lane, from.as_micros(), to.as_micros(), "", Tone::Window);
        }
        match outcome {
            Outcome::Pulled { kept } if !kept.is_zero() => {
                self.put(lane, ended - kept.as_micros() as u64, ended, "kept", Tone::Keep);
            }
            Outcome::GateShut { .. } | Outcome::CoolingDown { .. } | Outcome::Spent { .. } if ended > began => {
                self.put(lane, last, ended, "kept", Tone::Keep);
            }
            _ => {}
        }
        if let Some(by) = missed {
            let by = format!("{} ms", (by.as_micros() as f64 / 100.0).round() / 10.0);
            let label = match outcome {
                Outcome::TooLate { .. } => format!("{by} late"),
                Outcome::TooSoon { .. } => format!("{by} too soon"),
                Outcome::TooLong { .. } => format!("{by} too long"),
                Outcome::GateShut { term, .. } => format!("{by} off {term}"),
                Outcome::CoolingDown { .. } => format!("{by} too soon: cooling down"),
                Outcome::Spent { fact, .. } => format!("{by}: {fact} spent"),
                _ => by,
            };
            let at = if matches!(outcome, Outcome::TooSoon { .. } | Outcome::TooLong { .. }) { ended } else { last };
            self.mark(lane, at, label, Sign::Miss);
        } else if matches!(outcome, Outcome::Faced(_)) {
            self.mark(lane, last, attempt.story(&linkage).unwrap_or_default(), Sign::Miss);
        }
    }

    fn look(&mut self, seat: u32, now: &Seat) {
        let place = self.seen.iter().position(|(known, ..)| *known == seat).unwrap_or_else(|| {
            self.seen.push((seat, 0, 0));
            self.seen.len() - 1
        });
        let from = std::mem::replace(&mut self.seen[place].1, now.attempt_count());
        for attempt in now.attempts_since(from) {
            self.attempt(seat, attempt);
        }
        let from = std::mem::replace(&mut self.seen[place].2, now.swallowed_count());
        now.swallowed_since(from).for_each(|swallowed| self.swallowed(&swallowed));
    }

    /// A guard kept something from being heard: it stands on the lane of its control.
    fn swallowed(&mut self, swallowed: &Swallowed) {
        let lane = self.lane(&swallowed.control.to_string(), Room::Controls);
        let (from, to) = (swallowed.from.as_micros(), swallowed.to.as_micros());
        self.put(lane, from, to.max(from + 1), "", Tone::Unheard);
        // Its name is the lane's.
        let told = swallowed.to_string();
        let label = told.split_once(' ').map_or(told.as_str(), |(_, what)| what);
        self.mark(lane, from, label.to_owned(), Sign::Unheard);
    }

    fn mode(&mut self, mode: &str, on: bool, at: u64) {
        let lane = self.lane(mode, Room::Told);
        self.stands(lane, at, "on", on);
    }

    /// The picture's content, with what lasts at its end cut there.
    pub fn finish(mut self, title: String, to: u64) -> Timeline {
        for (lane, from, label, tone) in std::mem::take(&mut self.open) {
            self.put(lane, from, to, &label, tone);
        }
        let from = self.range.0;
        let linkage = self.linkage.clone();
        // What stands as it was all the while tells nothing.
        let told = |lane: &Lane| {
            let first = linkage.facts().find(|(name, _)| *name == lane.name).map_or("on", |(_, first)| first);
            lane.room != Room::Told
                || lane.density.is_some()
                || lane.spans.iter().any(|span| span.from > 0 || span.to < to || span.label != first)
        };
        self.lanes.retain(|lane| !lane.is_empty() && told(lane));
        for lane in &mut self.lanes {
            lane.moments.sort_by_key(|moment| moment.at);
        }
        Timeline { title, from, to, lanes: self.lanes }
    }
}

fn in_seat(seat: u32, name: &str) -> String {
    if seat == 1 { name.to_owned() } else { format!("{seat}: {name}") }
}

impl Lanes {
    /// A line of a tape, before it is fed; or of what a recorder would write.
    pub fn line(&mut self, line: &Line) {
        let at = line.at.as_micros();
        match &line.kind {
            LineKind::Level { control, value, .. } if control.contains("wheel-") => {
                let lane = self.lane(control, Room::Controls);
                if *value > 0.0 {
                    self.put(lane, at, at + BLINK, "", Tone::Plain);
                }
            }
            LineKind::Level { device, control, value } => self.control(device, control, at, *value >= AWAY),
            LineKind::Pair { control, .. } if control == "mouse:move" || control == "mouse:place" => {
                let lane = self.lane(control, Room::Controls);
                self.put(lane, at, at + BLINK, "", Tone::Plain);
            }
            LineKind::Pair { device, control, x, y } | LineKind::Stands { device, control, x, y } => {
                self.control(device, control, at, x.hypot(*y) >= AWAY)
            }
            LineKind::Touch { device, finger, phase, .. } => {
                use tidy_lever::event::Phase;
                let name = format!("finger {finger}");
                self.control(device, &name, at, !matches!(phase, Phase::Up | Phase::Cancel));
            }
            LineKind::Fact { fact, value } => {
                let lane = self.lane(fact, Room::Told);
                self.end(lane, at, Tone::Plain);
                match value {
                    TapeValue::Flag(true) => self.begin(lane, at, "true", Tone::Plain),
                    TapeValue::Word(word) => self.begin(lane, at, word, Tone::Plain),
                    _ => {}
                }
            }
            LineKind::Mode { mode, on } => self.mode(mode, *on, at),
            LineKind::Frozen(frozen) => {
                let lane = self.lane("frozen", Room::Told);
                self.stands(lane, at, "true", *frozen);
            }
            LineKind::Focus(focus) => {
                let lane = self.lane("focus lost", Room::Told);
                self.stands(lane, at, "", !focus);
                if !focus {
                    self.lift(at, |lane, _| !lane.starts_with("pad:"));
                }
            }
            LineKind::Plugged { device, plugged: false } => self.lift(at, |_, hand| hand == device),
            _ => {}
        }
    }

    /// Something happened in a seat.
    pub fn happened(&mut self, seat: u32, happening: &Happening) {
        let linkage = self.linkage.clone();
        let (at, full) = (happening.at().as_micros(), happening.action(&linkage).unwrap_or_default());
        let (plain, direction) = full.split_once('.').map_or((full, None), |(plain, part)| (plain, Some(part)));
        let Some(action) = linkage.action(plain) else { return };
        if happening.what() == What::Pulled {
            action.turns_off().for_each(|mode| self.mode(mode, false, at));
            action.turns_on().for_each(|mode| self.mode(mode, true, at));
        }
        if !self.is_wanted(plain) && action.kind() != Kind::Stick {
            return;
        }
        let room = if action.kind() == Kind::Stick { Room::Directions } else { Room::Actions };
        // A stick's or an axis's own presses are those of its directions.
        if matches!(action.kind(), Kind::Stick | Kind::Axis)
            && direction.is_none()
            && matches!(happening.what(), What::Pressed | What::Released(_))
        {
            return;
        }
        let lane = self.lane(&in_seat(seat, plain), room);
        match happening.what() {
            What::Pressed => {
                let tone = if direction.is_some() { Tone::Plain } else { Tone::Held };
                self.begin(lane, at, direction.unwrap_or_default(), tone);
            }
            What::Released(_) => self.end(lane, at, if direction.is_some() { Tone::Plain } else { Tone::Held }),
            What::Pulled => {
                let stage = happening.stage().map(|stage| format!("stage {stage}"));
                let amount = happening.amount().map(|amount| format!("{:.0} %", amount * 100.0));
                self.mark(lane, at, stage.or(amount).unwrap_or_default(), Sign::Pull);
                self.begin(lane, at, "", Tone::On);
                self.pulled.push((lane, plain.to_owned()));
            }
            What::Ended(cause) => {
                self.end(lane, at, Tone::On);
                if !matches!(cause, Cause::LetGo | Cause::Toggled) {
                    self.mark(lane, at, cause.name().to_owned(), Sign::Cut);
                }
            }
            What::Mark(_) => {
                let name = happening.mark(&linkage).unwrap_or_default().to_owned();
                self.mark(lane, at, name, Sign::Mark);
            }
            _ => {}
        }
    }

    /// After each advance of a seat, and what happened in it. Near misses come from the seat's ledger, if it keeps one, and what was
    /// not heard from [`keep_swallowed`](tidy_lever::Seat::keep_swallowed).
    pub fn played(&mut self, seat: u32, now: &Seat) {
        // What pulls as an instant was never on.
        for (lane, name) in std::mem::take(&mut self.pulled) {
            if !self.linkage.find(&name).is_ok_and(|button: tidy_lever::Button| now.button(button).is_on()) {
                self.open.retain(|(of, _, _, tone)| *of != lane || *tone != Tone::On);
            }
        }
        self.look(seat, now);
    }
}
