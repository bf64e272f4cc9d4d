//! `play PROFILE TAPE`: prints what a tape does.

use std::collections::VecDeque;
use std::io::{BufRead, Write};
use std::path::Path;

use anyhow::{Context, Result, bail};
use serde::Serialize;
use serde_json::Value;
use tidy_lever::profile::{Kind, nearest};
use tidy_lever::seat::Swallowed;
use tidy_lever::tape::{OutputLine, Swept};
use tidy_lever::{Bookmark, Happening, Linkage, Seat};

use crate::Answer;
use crate::arguments::Play;
use crate::input::{self, Laid};
use crate::meant::{self, Meants, Scored};
use crate::out::{Out, each};
use crate::outcome::same;
use crate::paint::{self, BAD, FAINT, GOOD, in_style};
use crate::run::{Cuts, Played, Relinks, SWALLOWED, Watcher, play};
use crate::swallowed::SwallowedLine;
use crate::view::{View, notes, seconds};

pub(crate) fn run(arguments: &Play) -> Result<Answer> {
    input::only_one_is_standard(std::iter::once(&arguments.profile).chain(&arguments.tapes))?;
    if let (Some(option), true) = (alone(arguments), arguments.tapes.len() > 1) {
        bail!("{option} is for one tape; name one");
    }
    let laid = input::overlaid(&arguments.profile, arguments.remap.as_deref())?;
    arguments.of.iter().try_for_each(|action| known(&laid.linkage, action))?;
    let (how, mut out) = ((arguments.jobs, arguments.json || arguments.sample.is_some()), Out::screen());
    each(&arguments.tapes, how, &mut out, |tape, out| one(arguments, &laid, tape, out))
}

/// What can be done with one tape only.
fn alone(arguments: &Play) -> Option<&'static str> {
    let each = arguments.each.as_ref().map(|_| "--each");
    each.or(arguments.expect.as_ref().map(|_| "--expect"))
}

fn one(arguments: &Play, laid: &Laid, tape: &Path, out: &mut Out) -> Result<Answer> {
    let linkage = &laid.linkage;
    let name = input::name(tape);
    let relinks = Relinks::of(laid, tape);
    let tape = input::open(tape)?;
    let cuts = Cuts { ticks: arguments.ticks, sample: arguments.sample, until: None, relinks: Some(&relinks) };
    if let Some(action) = &arguments.each {
        return each_tick(out, linkage, tape, &name, action, arguments.ticks.unwrap_or(60));
    }
    if let Some(expected) = &arguments.expect {
        return expect(out, linkage, tape, &name, cuts, arguments, expected);
    }
    if !arguments.json && arguments.sample.is_none() {
        let mut view = View::new(linkage, arguments.all);
        let mut meants = Meants::default();
        let mut scored = Scored { inner: &mut view, meants: &mut meants, linkage };
        let played = play(linkage, tape, &name, cuts, &mut scored)?;
        view.print(out, &name, &played)?;
        let scores = meants.scores(linkage);
        if scores.iter().any(|score| score.known) {
            writeln!(out)?;
            meant::print(out, &scores, |_| None)?;
        }
        return Ok(Answer::Yes);
    }
    // Samples are numbers; as text they come as the same lines.
    let mut lines = Lines {
        linkage,
        all: arguments.all,
        of: &arguments.of,
        swept: Swept::default(),
        text: Vec::new(),
        to: |line: &[u8]| {
            out.json_line(line)?;
            if out.is_closed() { Err(Unread.into()) } else { Ok(()) }
        },
    };
    let played = match lines.play(tape, &name, cuts) {
        // Nobody reads on, so nothing more need be played.
        Err(error) if error.is::<Unread>() => return Ok(Answer::Yes),
        played => played?,
    };
    out.flush()?;
    for note in notes(&name, &played) {
        paint::note(note);
    }
    Ok(Answer::Yes)
}

/// Standard output is closed.
#[derive(Debug)]
struct Unread;

impl std::fmt::Display for Unread {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("standard output is closed")
    }
}

impl std::error::Error for Unread {}

/// Turns what happens into lines for programs.
struct Lines<'l, F> {
    linkage: &'l Linkage,
    all: bool,
    /// Whose values are sampled; all where none is named.
    of: &'l [String],
    swept: Swept,
    /// The line that is written.
    text: Vec<u8>,
    to: F,
}

impl<F: FnMut(&[u8]) -> Result<()>> Lines<'_, F> {
    fn tell(&mut self, line: &impl Serialize) -> Result<()> {
        self.text.clear();
        serde_json::to_writer(&mut self.text, line)?;
        (self.to)(&self.text)
    }

    /// Plays a tape, and tells what became of its `meant` lines at the end.
    fn play(&mut self, tape: impl BufRead, name: &str, cuts: Cuts<'_>) -> Result<Played> {
        let (linkage, mut meants) = (self.linkage, Meants::default());
        let mut scored = Scored { inner: self, meants: &mut meants, linkage };
        let played = play(linkage, tape, name, cuts, &mut scored)?;
        let scores = meants.scores(linkage);
        scores.iter().filter(|score| score.known).try_for_each(|score| self.tell(&score.told(None)))?;
        Ok(played)
    }
}

impl<F: FnMut(&[u8]) -> Result<()>> Watcher for Lines<'_, F> {
    fn seated(&mut self, seat: &mut Seat) {
        if self.all {
            seat.keep_swallowed(SWALLOWED);
        }
    }

    fn swallowed(&mut self, seat: u32, swallowed: &Swallowed) -> Result<()> {
        self.tell(&SwallowedLine::of(seat, swallowed))
    }

    fn happened(&mut self, seat: u32, happening: &Happening, now: &Seat) -> Result<()> {
        // A tape may put another profile into the place of the first.
        let line = OutputLine::of(happening, seat, now.linkage(), self.all);
        line.map_or(Ok(()), |line| self.tell(&line))
    }

    fn sampled(&mut self, seat: u32, now: &Seat) -> Result<()> {
        let samples = OutputLine::samples(now, seat, &mut self.swept).into_iter();
        let of = self.of;
        let mut wanted = samples.filter(|line| of.is_empty() || of.iter().any(|name| name == line.action));
        wanted.try_for_each(|line| self.tell(&line))
    }
}

/// An action of the profile must have this name.
fn known(linkage: &Linkage, action: &str) -> Result<()> {
    if linkage.action(action).is_some() {
        return Ok(());
    }
    let problem = format!("the profile has no action `{action}`");
    let names = linkage.actions().map(|action| action.name());
    let near = nearest(action, names);
    bail!(
        "{problem}{}",
        near.map_or("; tidy-lever check lists its actions".into(), |near| format!("; did you mean `{near}`?"))
    );
}

/// Compares what comes out with what was expected, and shows where they part.
fn expect(
    out: &mut impl Write,
    linkage: &Linkage,
    tape: impl BufRead,
    name: &str,
    cuts: Cuts<'_>,
    arguments: &Play,
    expected: &Path,
) -> Result<Answer> {
    let file = input::name(expected);
    let mut wanted = VecDeque::new();
    for (number, line) in input::open(expected)?.lines().enumerate() {
        let line = line.with_context(|| file.clone())?;
        if !line.trim().is_empty() {
            let value: Value =
                serde_json::from_str(&line).with_context(|| format!("{file}: line {} is not JSON", number + 1))?;
            wanted.push_back((number + 1, value, line));
        }
    }
    let mut wanted = wanted.into_iter();
    let (mut met, mut parted) = (0u64, None);
    let mut lines = Lines {
        linkage,
        all: arguments.all,
        of: &arguments.of,
        swept: Swept::default(),
        text: Vec::new(),
        to: |text: &[u8]| {
            if parted.is_none() {
                match wanted.next() {
                    Some((_, value, _)) if same(&value, &serde_json::from_slice(text)?) => met += 1,
                    other => parted = Some((String::from_utf8_lossy(text).into_owned(), other)),
                }
            }
            Ok(())
        },
    };
    let played = lines.play(tape, name, cuts)?;
    for note in notes(name, &played) {
        paint::note(note);
    }
    let (found, want) = match parted {
        Some((text, want)) => (Some(text), want),
        None => (None, wanted.next()),
    };
    if found.is_none() && want.is_none() {
        writeln!(out, "{}: {met} lines of {name}, as {file} has them", in_style(GOOD, "as expected"))?;
        return Ok(Answer::Yes);
    }
    let place = want.as_ref().map_or("its end".into(), |(number, ..)| format!("line {number}"));
    writeln!(
        out,
        "{}: {met} lines are as expected, then they part at {place} of {file}",
        in_style(BAD, "not as expected")
    )?;
    writeln!(out, "  expected  {}", want.map_or("no more lines".into(), |(_, _, line)| line))?;
    writeln!(out, "  came      {}", found.unwrap_or("no more lines".into()))?;
    Ok(Answer::No)
}

/// What one action reports on every tick.
fn each_tick(
    out: &mut impl Write,
    linkage: &Linkage,
    tape: impl BufRead,
    name: &str,
    action: &str,
    ticks: u32,
) -> Result<Answer> {
    known(linkage, action)?;
    let Some(found) = linkage.action(action) else { return Ok(Answer::No) };
    let mut table = Each { out, linkage, action: found.name(), kind: found.kind(), bookmark: None, row: None };
    table.head(ticks)?;
    let cuts = Cuts { ticks: Some(ticks), ..Cuts::default() };
    play(linkage, tape, name, cuts, &mut table)?;
    table.same()?;
    Ok(Answer::Yes)
}

/// The row that was written last, and how many ticks after it said the same.
struct Row {
    /// All but the tick's end and what only counts time.
    told: String,
    /// The last of those ticks, as a row.
    latest: String,
    same: u64,
}

struct Each<'a, W> {
    out: &'a mut W,
    linkage: &'a Linkage,
    action: &'a str,
    kind: Kind,
    /// At the end of the tick before.
    bookmark: Option<Bookmark>,
    row: Option<Row>,
}

impl<W: Write> Each<'_, W> {
    fn head(&mut self, ticks: u32) -> Result<()> {
        writeln!(self.out, "{} at {ticks} ticks per second", self.action)?;
        let value = match self.kind {
            Kind::Button | Kind::Sweep => "",
            Kind::Axis | Kind::Gauge => "value",
            Kind::Stick => "x, y                   direction",
            _ => "pixels",
        };
        if self.kind == Kind::Sweep {
            let head = format!("{:>10}  {:>10}, {:>10}   degrees in this tick", "tick ends", "across", "up");
            writeln!(self.out, "{}", in_style(FAINT, head))?;
            return Ok(());
        }
        let head = format!(
            "{:>10}  {:<7}  {:<11}  {:<12}  {:<10}  {:>9}  {:<5}  {value}",
            "tick ends", "is_down", "went_down", "went_up", "pulled", "held_for", "is_on"
        );
        writeln!(self.out, "{}", in_style(FAINT, head.trim_end()))?;
        Ok(())
    }

    fn row(&mut self, seat: &Seat) -> Result<()> {
        let played = seat.played().as_micros();
        let now = seat.read(self.bookmark.get_or_insert_with(|| seat.bookmark()));
        let (edges, value) = match self.kind {
            Kind::Button => (now.button(self.linkage.find(self.action)?), String::new()),
            Kind::Gauge => {
                let gauge = now.gauge(self.linkage.find(self.action)?);
                (gauge.edges(), format!("{}", gauge.value()))
            }
            Kind::Axis => {
                let axis = now.axis(self.linkage.find(self.action)?);
                (axis.edges(), format!("{}", axis.value()))
            }
            Kind::Sweep => {
                let (across, up) = now.sweep(self.linkage.find(self.action)?).degrees();
                let told = format!("{across:>10.4}, {up:>10.4}");
                let row = format!("{:>10}  {told}", seconds(played));
                return self.put((across, up) != (0.0, 0.0), told, row);
            }
            Kind::Pointer => {
                let pointer = now.pointer(self.linkage.find(self.action)?);
                let place = pointer.pixels().map_or("none yet".into(), |(x, y)| format!("{x:>7.1}, {y:>7.1}"));
                let drag = if pointer.is_dragging() { "   drags" } else { "" };
                (pointer.edges(), format!("{place}{drag}"))
            }
            Kind::Stick => {
                let stick = now.stick(self.linkage.find(self.action)?);
                let (x, y) = stick.xy();
                (stick.edges(), format!("{x:>9.6}, {y:>9.6}   {}", stick.direction().map_or("none", |d| d.name())))
            }
            _ => return Ok(()),
        };
        let count = |n: u32| match n {
            0 => String::new(),
            1 => "yes".to_owned(),
            n => format!("yes, {n}"),
        };
        let yes = |flag: bool| if flag { "yes" } else { "" };
        let held = if edges.is_down() { seconds(edges.held_for().as_micros() as u64) } else { String::new() };
        let happened = format!(
            "{:<7}  {:<11}  {:<12}  {:<10}",
            yes(edges.is_down()),
            count(edges.presses()),
            count(edges.releases()),
            count(edges.pulls()),
        );
        let stands = format!("{:<5}  {value}", yes(edges.is_on()));
        let row = format!("{:>10}  {happened}  {held:>9}  {stands}", seconds(played));
        let happens = edges.presses() + edges.releases() + edges.pulls() > 0;
        self.put(happens, happened + &stands, row.trim_end().to_owned())
    }

    /// Writes a row; those in which nothing happens and all is as before are only counted.
    fn put(&mut self, happens: bool, told: String, row: String) -> Result<()> {
        if let Some(last) = self.row.as_mut().filter(|last| !happens && last.told == told) {
            (last.latest, last.same) = (row, last.same + 1);
            return Ok(());
        }
        self.same()?;
        writeln!(self.out, "{row}")?;
        self.row = Some(Row { told, latest: String::new(), same: 0 });
        Ok(())
    }

    /// Tells of the ticks that were only counted.
    fn same(&mut self) -> Result<()> {
        match self.row.take() {
            Some(Row { latest, same: 1, .. }) => writeln!(self.out, "{latest}")?,
            Some(Row { latest, same, .. }) if same > 1 => {
                writeln!(
                    self.out,
                    "{}",
                    in_style(
                        FAINT,
                        format!(
                            "{:>10}  {} like this",
                            "…",
                            match same - 1 {
                                1 => "1 more tick".to_owned(),
                                more => format!("{more} more ticks"),
                            }
                        )
                    )
                )?;
                writeln!(self.out, "{latest}")?;
            }
            _ => {}
        }
        Ok(())
    }
}

impl<W: Write> Watcher for Each<'_, W> {
    fn seated(&mut self, seat: &mut Seat) {
        // The first seat is seated first.
        self.bookmark.get_or_insert_with(|| seat.bookmark());
    }

    fn ticked(&mut self, seat: u32, now: &Seat) -> Result<()> {
        if seat == 1 { self.row(now) } else { Ok(()) }
    }
}
