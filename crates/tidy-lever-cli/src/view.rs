//! What a tape does, for people: a picture of it in lanes, then what happened one by one.

use std::io::Write;

use anyhow::Result;
use tidy_lever::linkage::ActionView;
use tidy_lever::profile::Kind;
use tidy_lever::seat::{GuardedBy, Swallowed};
use tidy_lever::tape::{Line as TapeLine, LineKind};
use tidy_lever::{Cause, Direction, Happening, Linkage, Moment, Seat, What};

use crate::paint::{self, FAINT, GOOD, HEAD, NAME, WARN, in_style};
use crate::run::{Played, SWALLOWED, Watcher};

/// How many columns a lane has where the width is free; a terminal's lanes grow with it.
const COLUMNS: usize = 60;
/// The fewest and the most columns of a lane in a terminal.
const FEWEST: usize = 32;
const MOST: usize = 160;
/// How finely time is kept until its length is known.
const BUCKETS: usize = 2_048;
/// How many rows the list shows unless all are asked for.
const ROWS: usize = 18;

/// What a lane shows at some time: up, down, or one of eight directions.
const STATES: usize = 10;
const UP: usize = 0;
const DOWN: usize = 1;
const ARROWS: [&str; 8] = ["→", "↗", "↑", "↖", "←", "↙", "↓", "↘"];

/// How long each state stood within a stretch of time, and how many pulls came in it.
#[derive(Clone, Copy, Default)]
struct Bucket {
    stood: [u64; STATES],
    pulls: u32,
}

struct Lane {
    action: String,
    kind: Kind,
    buckets: Vec<Bucket>,
    state: usize,
    since: u64,
    pulls: u64,
    presses: u64,
    down: u64,
    /// What a sweep has swept in all, in billionths of a degree.
    swept: (i64, i64),
}

struct Row {
    at: Moment,
    action: String,
    what: String,
    lasted: Option<u64>,
    by: String,
}

/// Gathers what happens; time's scale doubles whenever it runs out of buckets.
pub(crate) struct View<'l> {
    linkage: &'l Linkage,
    lanes: Vec<Lane>,
    /// Microseconds a bucket.
    scale: u64,
    rows: Vec<Row>,
    /// Rows that still last, by action.
    open: Vec<(String, usize)>,
    left_out: u64,
    all: bool,
    /// The last controls of the tape, with their moments.
    controls: Vec<(Moment, String)>,
    several: bool,
}

impl<'l> View<'l> {
    pub(crate) fn new(linkage: &'l Linkage, all: bool) -> View<'l> {
        View {
            linkage,
            lanes: Vec::new(),
            scale: 1_000,
            rows: Vec::new(),
            open: Vec::new(),
            left_out: 0,
            all,
            controls: Vec::new(),
            several: false,
        }
    }

    fn lane(&mut self, name: &str, kind: Kind) -> &mut Lane {
        let number = self.lanes.iter().position(|lane| lane.action == name).unwrap_or_else(|| {
            let buckets = vec![Bucket::default(); BUCKETS];
            let action = name.to_owned();
            self.lanes.push(Lane {
                action,
                kind,
                buckets,
                state: UP,
                since: 0,
                pulls: 0,
                presses: 0,
                down: 0,
                swept: (0, 0),
            });
            self.lanes.len() - 1
        });
        &mut self.lanes[number]
    }

    /// Makes time's scale coarse enough to hold a moment.
    fn stretch(&mut self, at: u64) {
        while at / self.scale >= BUCKETS as u64 {
            self.scale *= 2;
            for lane in &mut self.lanes {
                for i in 0..BUCKETS / 2 {
                    let (mut both, other) = (lane.buckets[2 * i], lane.buckets[2 * i + 1]);
                    both.pulls += other.pulls;
                    (0..STATES).for_each(|state| both.stood[state] += other.stood[state]);
                    lane.buckets[i] = both;
                }
                lane.buckets[BUCKETS / 2..].fill(Bucket::default());
            }
        }
    }

    fn shows(&mut self, seat: u32, happening: &Happening, now: &Seat) {
        let full = happening.action(self.linkage).unwrap_or_default();
        // A direction of a stick or an axis is told on its own lane.
        let (plain, direction) = match full.split_once('.') {
            Some((plain, direction)) => (plain, Some(direction)),
            None => (full, None),
        };
        let Some(action) = self.linkage.action(plain) else { return };
        let kind = action.kind();
        let has_directions = matches!(kind, Kind::Axis | Kind::Stick);
        if has_directions && direction.is_none() && matches!(happening.what(), What::Pressed | What::Released(_)) {
            return;
        }
        let name = if seat == 1 { plain.to_owned() } else { format!("{seat}:{plain}") };
        let at = happening.at().as_micros();
        self.stretch(at);
        let scale = self.scale;
        let number = direction.filter(|_| has_directions).map(|word| match word {
            "plus" => Direction::Right,
            "minus" => Direction::Left,
            word => Direction::from_name(word).unwrap_or(Direction::Right),
        });
        let state = match (happening.what(), number) {
            // What a pointer does is told in the list; its lane shows its presses.
            _ if direction.is_some() && !has_directions => None,
            (What::Pressed, Some(direction)) => Some(DOWN + 1 + direction as usize),
            (What::Pressed, None) => Some(DOWN),
            // What stays where it was pushed points there on.
            (What::Released(_), _) if action.stays() => {
                stays(now, plain).map(|direction| DOWN + 1 + direction as usize)
            }
            (What::Released(_), _) => Some(UP),
            _ => None,
        };
        let lane = self.lane(&name, kind);
        if let Some(state) = state {
            lane.fill(scale, at);
            lane.state = state;
        }
        match happening.what() {
            What::Pulled => {
                lane.pulls += 1;
                lane.buckets[(at / scale) as usize].pulls += 1;
            }
            _ if direction.is_some() && !has_directions => {}
            What::Pressed => lane.presses += 1,
            What::Released(_) => lane.down += at - happening.since().as_micros(),
            _ => {}
        }
        self.row(&name, action, direction, happening);
    }

    fn row(&mut self, name: &str, action: ActionView<'_>, direction: Option<&str>, happening: &Happening) {
        let at = happening.at();
        match happening.what() {
            What::Pressed => {
                let what = direction.unwrap_or("pressed").to_owned();
                let row = self.put(Row { at, action: name.into(), what, lasted: None, by: self.by(at, action) });
                self.open.extend(row.map(|row| (name.to_owned(), row)));
            }
            What::Released(cause) => {
                let rows = &mut self.rows;
                self.open.retain(|(open, row)| {
                    if open == name {
                        let row = &mut rows[*row];
                        row.lasted = Some((at - row.at).as_micros() as u64);
                        if cause != Cause::LetGo {
                            row.by += &format!(", {cause}");
                        }
                    }
                    open != name
                });
            }
            What::Pulled => {
                let mut open = self.open.iter().filter(|(open, _)| open == name).map(|(_, row)| *row);
                let row = match open.find(|row| self.rows[*row].at == at && self.rows[*row].what == "pressed") {
                    Some(row) => {
                        self.rows[row].what = "pulled".into();
                        Some(row)
                    }
                    None => {
                        // Of several cues nobody knows here which one it was.
                        let mut cues = action.cues();
                        let by = match (cues.next(), cues.next()) {
                            (Some(cue), None) => format!("cue {cue}"),
                            (Some(_), Some(_)) => "one of its cues".to_owned(),
                            _ => String::new(),
                        };
                        self.put(Row { at, action: name.into(), what: "pulled".into(), lasted: None, by })
                    }
                };
                let mut more = String::new();
                if let Some(stage) = happening.stage() {
                    more += &format!(", stage {stage}");
                }
                if !happening.kept_for().is_zero() {
                    more += &format!(", kept {} ms", happening.kept_for().as_millis());
                }
                if let Some(amount) = happening.amount() {
                    more += &format!(", amount {amount:.2}");
                }
                if let Some(over) = happening.over(self.linkage) {
                    more += &format!(", over {over}");
                }
                row.into_iter().for_each(|row| self.rows[row].by += &more);
                if let Some((way, age)) = happening.last_aim()
                    && let Some(row) = row
                {
                    let ago = if age.is_zero() { String::new() } else { format!(", {} ms ago", age.as_millis()) };
                    self.rows[row].by += &format!(", aimed {way}{ago}");
                }
            }
            What::Mark(_) => {
                let what = happening.mark(self.linkage).unwrap_or("mark").to_owned();
                self.put(Row { at, action: name.into(), what, lasted: None, by: "a mark of its pull".into() });
            }
            What::Ended(_) => {
                let began = |row: &&mut Row| row.action == name && row.what == "pulled" && row.at == happening.since();
                if let Some(row) = self.rows.iter_mut().rev().take(256).find(began) {
                    row.lasted.get_or_insert((at - happening.since()).as_micros() as u64);
                }
            }
            _ => {}
        }
    }

    /// A stick that begins to listen while it is held walks on without an edge.
    fn resumed(&mut self, seat: u32, name: &str, now: &Seat) {
        let Ok(stick) = self.linkage.find(name) else { return };
        let direction = now.stick(stick).direction();
        let state = direction.map_or(UP, |direction| DOWN + 1 + direction as usize);
        let name = if seat == 1 { name.to_owned() } else { format!("{seat}:{name}") };
        if state == UP && !self.lanes.iter().any(|lane| lane.action == name) {
            return;
        }
        let at = now.played().as_micros();
        self.stretch(at);
        let scale = self.scale;
        let lane = self.lane(&name, Kind::Stick);
        if lane.state != state {
            lane.fill(scale, at);
            lane.state = state;
        }
    }

    /// What a sweep swept since it was looked at last.
    fn swept(&mut self, seat: u32, name: &str, now: &Seat) {
        let Ok(sweep) = self.linkage.find(name) else { return };
        let total = now.sweep(sweep).total_nanos();
        let name = if seat == 1 { name.to_owned() } else { format!("{seat}:{name}") };
        let known = self.lanes.iter().any(|lane| lane.action == name);
        if total == (0, 0) && !known {
            return;
        }
        let at = now.played().as_micros();
        self.stretch(at);
        let scale = self.scale;
        let lane = self.lane(&name, Kind::Sweep);
        if !known {
            lane.since = at;
        }
        let (across, up) = (total.0 - lane.swept.0, total.1 - lane.swept.1);
        let sign = |part: i64, other: i64| if part.abs() * 2 < other.abs() { 0 } else { part.signum() as i8 };
        let signs = (sign(across, up), sign(up, across));
        let way = Direction::ALL.into_iter().find(|direction| direction.signs() == signs);
        lane.state = way.map_or(UP, |direction| DOWN + 1 + direction as usize);
        lane.fill(scale, at);
        (lane.state, lane.swept) = (UP, total);
    }

    fn put(&mut self, row: Row) -> Option<usize> {
        if !self.all && self.rows.len() >= ROWS {
            self.left_out += 1;
            return None;
        }
        self.rows.push(row);
        Some(self.rows.len() - 1)
    }

    /// The control of an action that the tape moved at this moment.
    fn by(&self, at: Moment, action: ActionView<'_>) -> String {
        let is_own = |name: &String| {
            let whole =
                |own: &str| own == name || own.strip_prefix(name.as_str()).is_some_and(|rest| rest.starts_with('.'));
            action.controls().iter().any(|control| whole(&control.name))
        };
        // A wheel's later notches come some microseconds behind their line.
        let close = |moment: Moment| moment <= at && (at - moment).as_micros() < 2 * 64;
        let mut near = self.controls.iter().rev().filter(|(moment, name)| close(*moment) && is_own(name));
        near.next().map_or(String::new(), |(_, name)| name.clone())
    }

    /// Prints all of it.
    pub(crate) fn print(mut self, out: &mut impl Write, name: &str, played: &Played) -> Result<()> {
        let end = played.end.as_micros().max(1);
        self.stretch(end);
        let scale = self.scale;
        self.lanes.iter_mut().for_each(|lane| lane.fill(scale, end));
        self.head(out, name, played)?;
        if self.lanes.is_empty() {
            writeln!(out, "\nnothing happened: no line of the tape moved an action of this profile")?;
        } else {
            self.picture(out, end)?;
            self.list(out)?;
        }
        self.notes(out, name, played)
    }

    fn head(&self, out: &mut impl Write, name: &str, played: &Played) -> Result<()> {
        let title = if played.header.title.is_empty() { name } else { &played.header.title };
        let profile = match self.linkage.title() {
            "" => String::new(),
            title => format!("{title}: "),
        };
        writeln!(out, "{}{}", in_style(HEAD, profile), in_style(HEAD, title))?;
        let devices: Vec<String> =
            played.header.devices.iter().map(|device| format!("{} ({})", device.id, device.family)).collect();
        let devices = if devices.is_empty() { String::new() } else { format!(" from {}", devices.join(", ")) };
        let lines = if played.lines == 1 { "1 line".into() } else { format!("{} lines", played.lines) };
        writeln!(
            out,
            "{}",
            in_style(
                FAINT,
                paint::fitted(&format!("{name}: {lines}, {}{devices}", seconds(played.end.as_micros())), 0)
            )
        )?;
        Ok(())
    }

    fn picture(&mut self, out: &mut impl Write, end: u64) -> Result<()> {
        let wide = self.lanes.iter().map(|lane| lane.action.chars().count()).max().unwrap_or(0).max(8);
        let order: Vec<&str> = self.linkage.actions().map(|action| action.name()).collect();
        let place = |lane: &Lane| order.iter().position(|name| *name == lane.action).unwrap_or(usize::MAX);
        self.lanes.sort_by_key(place);
        let length = seconds(end);
        let sums = self.lanes.iter().map(|lane| lane.sum().chars().count()).max().unwrap_or(0);
        let columns = paint::width().map_or(COLUMNS, |width| {
            // A multiple of four, so that the ruler's labels stand where their time is.
            width.saturating_sub(wide + sums + 4).clamp(FEWEST, MOST) / 4 * 4
        });
        let (quarter, half) = (columns / 4, columns / 2);
        let mut ruler = vec![' '; columns + 1 + length.chars().count()];
        for (column, label) in [
            (0, "0 s".into()),
            (quarter, seconds(end / 4)),
            (half, seconds(end / 2)),
            (columns * 3 / 4, seconds(end / 4 * 3)),
            (columns, length.clone()),
        ] {
            // Of labels that would run into each other the first and the last are enough.
            if column % columns == 0 || length.chars().count() < quarter {
                label.chars().enumerate().for_each(|(i, c)| ruler[column + i] = c);
            }
        }
        let ruler: String = ruler.into_iter().collect();
        writeln!(out, "\n{}", in_style(FAINT, format!("{:wide$}  {}", "", ruler.trim_end())))?;
        for lane in &self.lanes {
            let cells: String = (0..columns).map(|column| lane.cell((column, columns), self.scale, end)).collect();
            writeln!(out, "{}  {cells}  {}", in_style(NAME, format!("{:<wide$}", lane.action)), lane.sum())?;
        }
        writeln!(
            out,
            "{}",
            in_style(FAINT, format!("{:wide$}  ● pulled  ━ held  → direction of a stick  + - an axis  · at rest", ""))
        )?;
        Ok(())
    }

    fn list(&self, out: &mut impl Write) -> Result<()> {
        // Many lanes leave less room for the list: together they fit a screen.
        let most = if self.all { self.rows.len() } else { ROWS.min(30usize.saturating_sub(self.lanes.len()).max(8)) };
        let rows = &self.rows[..most.min(self.rows.len())];
        let left_out = self.left_out + (self.rows.len() - rows.len()) as u64;
        let wide = rows.iter().map(|row| row.action.chars().count()).max().unwrap_or(0).max(6);
        writeln!(
            out,
            "\n{}",
            in_style(FAINT, format!("{:>10}  {:<wide$}  {:<10}  {:>9}  by", "at", "action", "what", "for"))
        )?;
        // What stands before the last column.
        let before = 10 + 2 + wide + 2 + 10 + 2 + 9 + 2;
        let room = paint::width().map_or(usize::MAX, |width| width.saturating_sub(before).max(20));
        for row in rows {
            let lasted = row.lasted.map_or(String::new(), seconds);
            let what = format!("{:<10}", row.what);
            let what = if row.what == "pulled" { in_style(GOOD, what) } else { what };
            let action = in_style(NAME, format!("{:<wide$}", row.action));
            let mut by = paint::wrapped(&row.by, room).into_iter();
            let first = by.next().unwrap_or_default();
            let line = format!("{:>10}  {action}  {what}  {lasted:>9}  {first}", seconds(row.at.as_micros()));
            writeln!(out, "{}", line.trim_end())?;
            for more in by {
                writeln!(out, "{:before$}{more}", "")?;
            }
        }
        if left_out > 0 {
            writeln!(out, "{:>10}  {} more; --all shows them", "", left_out)?;
        }
        Ok(())
    }

    fn notes(&self, out: &mut impl Write, name: &str, played: &Played) -> Result<()> {
        for note in notes(name, played) {
            writeln!(out, "{} {note}", in_style(WARN, "note:"))?;
        }
        if self.several {
            writeln!(out, "{}", in_style(FAINT, "actions of seats behind the first carry their seat's number: 2:hop"))?;
        }
        Ok(())
    }
}

/// What a person should know of how a tape played, beyond its outcome.
pub(crate) fn notes(name: &str, played: &Played) -> Vec<String> {
    let mut notes = Vec::new();
    if let Some(line) = played.cut {
        notes.push(format!("{name} is cut off: its end is missing at line {line}; played up to there"));
    }
    if let Some(line) = played.disordered {
        notes.push(format!("line {line} of {name} lies before the line above it; what came late played at once"));
    }
    let counted = [
        (played.stats.refused, "refused (no finite number, or the wrong number of axes)"),
        (played.stats.clamped, "cut to the range of their control"),
        (played.stats.unheard, "of controls that no action hears"),
    ];
    for (count, what) in counted {
        if count > 0 {
            notes.push(format!("{count} event{} {what}", if count == 1 { "" } else { "s" }));
        }
    }
    notes
}

/// Where a stick or an axis that stays points.
fn stays(now: &Seat, name: &str) -> Option<Direction> {
    let linkage = now.linkage();
    if let Ok(stick) = linkage.find(name) {
        return now.stick(stick).last_direction().map(|(direction, _)| direction);
    }
    let axis = now.axis(linkage.find(name).ok()?);
    Some(if axis.level() < 0.0 { Direction::Left } else { Direction::Right })
}

/// A span for people: seconds to the millisecond.
pub(crate) fn seconds(micros: u64) -> String {
    let millis = (micros + 500) / 1_000;
    format!("{}.{:03} s", millis / 1_000, millis % 1_000)
}

impl Lane {
    /// The state has stood up to here.
    fn fill(&mut self, scale: u64, to: u64) {
        while self.since < to {
            let bucket = (self.since / scale) as usize;
            let until = to.min((bucket as u64 + 1) * scale);
            let Some(bucket) = self.buckets.get_mut(bucket) else { break };
            bucket.stood[self.state] += until - self.since;
            self.since = until;
        }
    }

    /// What stands in one column of the picture.
    fn cell(&self, (column, columns): (usize, usize), scale: u64, end: u64) -> &'static str {
        let at = |column: usize| (column as u128 * u128::from(end) / columns as u128 / u128::from(scale)) as usize;
        let (from, to) = (at(column), at(column + 1).max(at(column) + 1).min(BUCKETS));
        let mut all = Bucket::default();
        for bucket in &self.buckets[from.min(to)..to] {
            all.pulls += bucket.pulls;
            (0..STATES).for_each(|state| all.stood[state] += bucket.stood[state]);
        }
        let longest = (DOWN..STATES).max_by_key(|state| (all.stood[*state], STATES - state)).unwrap_or(DOWN);
        match (self.kind, longest) {
            _ if all.pulls > 0 => "●",
            _ if all.stood[longest] == 0 => "·",
            (_, DOWN) => "━",
            (Kind::Axis, state) if state == DOWN + 1 + Direction::Left as usize => "-",
            (Kind::Axis, _) => "+",
            (_, state) => ARROWS[state - DOWN - 1],
        }
    }

    /// The lane in numbers.
    fn sum(&self) -> String {
        let count = |n: u64, one: &str, more: &str| format!("{n} {}", if n == 1 { one } else { more });
        match self.kind {
            Kind::Sweep => {
                let degrees = |nanos: i64| nanos as f64 / 1e9;
                format!("{:.2}° across, {:.2}° up", degrees(self.swept.0), degrees(self.swept.1))
            }
            Kind::Button | Kind::Pointer | Kind::Gauge => {
                format!("{}, {}", count(self.pulls, "pull", "pulls"), count(self.presses, "press", "presses"))
            }
            _ => format!("{} away from rest", seconds(self.down)),
        }
    }
}

impl Watcher for View<'_> {
    fn seated(&mut self, seat: &mut Seat) {
        if self.all {
            seat.keep_swallowed(SWALLOWED);
        }
    }

    fn swallowed(&mut self, _: u32, swallowed: &Swallowed) -> Result<()> {
        let what = match swallowed.by {
            GuardedBy::Debounce => "bounced",
            GuardedBy::DropOut => "let go",
            _ => "swung",
        };
        let (action, lasted) = (swallowed.control.to_string(), Some(swallowed.lasted().as_micros() as u64));
        let by = format!("not heard ({})", swallowed.by.name());
        self.put(Row { at: swallowed.from, action, what: what.into(), lasted, by });
        Ok(())
    }

    fn line(&mut self, line: &TapeLine) {
        if let LineKind::Level { control, .. } | LineKind::Pair { control, .. } | LineKind::Stands { control, .. } =
            &line.kind
        {
            if self.controls.len() >= 64 {
                self.controls.drain(..32);
            }
            self.controls.push((line.at, control.clone()));
        }
    }

    fn happened(&mut self, seat: u32, happening: &Happening, now: &Seat) -> Result<()> {
        self.shows(seat, happening, now);
        Ok(())
    }

    fn played(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.several |= seat > 1;
        let linkage = self.linkage;
        for action in linkage.actions() {
            match action.kind() {
                Kind::Sweep => self.swept(seat, action.name(), now),
                Kind::Stick if !action.stays() => self.resumed(seat, action.name(), now),
                _ => {}
            }
        }
        Ok(())
    }
}
