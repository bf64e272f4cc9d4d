//! A tape's lines: from a file as it is read, or from memory as often as wanted; and the gaps among those that come.

use std::borrow::Borrow;
use std::collections::VecDeque;
use std::io::BufRead;

use anyhow::{Context, Result, bail};
use tidy_lever::Moment;
use tidy_lever::tape::{Header, Line, LineKind, Reader, TapeError};

/// Lines of a tape, one after the other.
pub(crate) trait Lines {
    /// A line, or one that is lent.
    type One: Borrow<Line>;

    fn header(&self) -> &Header;

    /// The next line, with its number.
    fn read(&mut self) -> Option<(u64, Result<Self::One, TapeError>)>;

    /// The line where a cut tape's end is missing, once all are read.
    fn cut_at(&self) -> Option<u64>;
}

impl<R: BufRead> Lines for Reader<R> {
    type One = Line;

    fn header(&self) -> &Header {
        Reader::header(self)
    }

    fn read(&mut self) -> Option<(u64, Result<Line, TapeError>)> {
        let line = self.next()?;
        Some((self.line_number(), line))
    }

    fn cut_at(&self) -> Option<u64> {
        Reader::cut_at(self)
    }
}

/// A tape that was read once and is played many times.
#[derive(Debug)]
pub(crate) struct Tape {
    pub(crate) header: Header,
    pub(crate) lines: Vec<(u64, Line)>,
    pub(crate) cut_at: Option<u64>,
}

/// A tape that is kept in memory has no more lines than this: some 250 MiB.
const MOST_KEPT: usize = 1_000_000;

impl Tape {
    /// Reads a tape to its end.
    pub(crate) fn read(input: impl BufRead, name: &str) -> Result<Tape> {
        let mut reader = Reader::new(input).with_context(|| name.to_owned())?;
        let header = reader.header().clone();
        let mut lines = Vec::new();
        while let Some((number, line)) = reader.read() {
            if lines.len() == MOST_KEPT {
                bail!("{name} has more than {MOST_KEPT} lines, and all are kept in memory; cut it into several tapes");
            }
            lines.push((number, line.with_context(|| name.to_owned())?));
        }
        Ok(Tape { header, lines, cut_at: Reader::cut_at(&reader) })
    }

    /// From its beginning.
    pub(crate) fn again(&self) -> Again<'_> {
        Again { tape: self, next: 0 }
    }
}

/// A tape in memory that is played.
#[derive(Debug)]
pub(crate) struct Again<'t> {
    tape: &'t Tape,
    next: usize,
}

impl<'t> Lines for Again<'t> {
    type One = &'t Line;

    fn header(&self) -> &Header {
        &self.tape.header
    }

    fn read(&mut self) -> Option<(u64, Result<&'t Line, TapeError>)> {
        let (number, line) = self.tape.lines.get(self.next)?;
        self.next += 1;
        Some((*number, Ok(line)))
    }

    fn cut_at(&self) -> Option<u64> {
        self.tape.cut_at
    }
}

/// This many lines of a tape are read ahead, to know of a gap before what lies in it plays.
const AHEAD: usize = 4_096;

/// A tape's lines, with the gaps among those that come.
pub(crate) struct Ahead<L: Lines> {
    from: L,
    lines: VecDeque<(u64, Result<L::One, TapeError>)>,
    /// Where each gap begins, and the number of the line that tells it.
    gaps: VecDeque<(Moment, u64)>,
    /// The line before the one that is read next.
    before: Moment,
    /// The line that was given out last, with its number.
    now: (Moment, u64),
}

impl<L: Lines> Ahead<L> {
    pub(crate) fn new(from: L) -> Ahead<L> {
        Ahead { from, lines: VecDeque::new(), gaps: VecDeque::new(), before: Moment::ZERO, now: (Moment::ZERO, 0) }
    }

    pub(crate) fn header(&self) -> &Header {
        self.from.header()
    }

    pub(crate) fn cut_at(&self) -> Option<u64> {
        self.from.cut_at()
    }

    /// The next line, with its number.
    pub(crate) fn next(&mut self) -> Option<(u64, Result<L::One, TapeError>)> {
        while self.lines.len() < AHEAD {
            let Some((number, line)) = self.from.read() else { break };
            if let Ok(line) = &line {
                let line: &Line = line.borrow();
                if let LineKind::Skip { from } = line.kind {
                    self.gaps.push_back((from.unwrap_or(self.before), number));
                }
                self.before = line.at;
            }
            self.lines.push_back((number, line));
        }
        let (number, line) = self.lines.pop_front()?;
        while self.gaps.front().is_some_and(|(_, of)| *of < number) {
            self.gaps.pop_front();
        }
        self.now = (line.as_ref().map_or(self.now.0, |line| Borrow::<Line>::borrow(line).at), number);
        Some((number, line))
    }

    /// Where the gap begins that the line given out last lies in, if it lies in one.
    pub(crate) fn gap(&self) -> Option<Moment> {
        let (at, number) = self.now;
        let holds = |(from, of): &&(Moment, u64)| *from < at || *of == number;
        self.gaps.iter().filter(holds).map(|(from, _)| *from).min()
    }
}
