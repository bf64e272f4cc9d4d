//! Where it is printed: standard output, and no fuss when nobody reads any more; or several files' output, each in its turn.
//!
//! ```text
//!   one file  ──────────────────────────▶ standard output
//!   several ──a core each──▶ pieces ──in order──▶ standard output and standard error
//! ```

use std::cell::RefCell;
use std::io::{self, BufWriter, ErrorKind, Write};
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread;

use anstream::{AutoStream, ColorChoice};
use anyhow::{Result, anyhow, bail};
use serde::Serialize;
use serde_json::json;

use crate::Answer;
use crate::input;
use crate::paint::{self, BAD, HEAD, harmless, in_style, steers};

/// Where bytes go.
enum Sink {
    Screen(AutoStream<io::Stdout>),
    /// To whoever prints when it is our turn.
    Turn(SyncSender<Piece>),
}

/// What is printed in turn.
enum Piece {
    Text(Vec<u8>),
    /// On standard error.
    Aside(String),
}

/// So many pieces wait for their turn: of a file that is far ahead, a few MiB.
const MOST_PIECES: usize = 64;

thread_local! {
    /// Who takes what this thread tells on standard error.
    static ASIDE: RefCell<Option<SyncSender<Piece>>> = const { RefCell::new(None) };
}

/// Hands a line for standard error to whoever prints in turn; gives it back where nobody does.
pub(crate) fn aside(line: String) -> Option<String> {
    ASIDE.with_borrow(|aside| match aside {
        Some(turn) => {
            // Without a reader there is nobody to tell.
            let _ = turn.send(Piece::Aside(line));
            None
        }
        None => Some(line),
    })
}

/// Why standard output could not be written to; the first reason.
static FAILED: Mutex<Option<ErrorKind>> = Mutex::new(None);

/// What standard output failed by in all, for the command's end: `None` if all was written.
pub(crate) fn failure() -> Option<ErrorKind> {
    FAILED.lock().ok().and_then(|failed| *failed)
}

/// Standard output. Where it is closed or full, what follows is dropped, and the command comes to its end.
pub(crate) struct Out {
    inner: BufWriter<Sink>,
    coloured: bool,
    failed: bool,
    /// The line for programs that is written.
    line: Vec<u8>,
}

impl Write for Sink {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match self {
            Sink::Screen(screen) => screen.write(bytes),
            Sink::Turn(turn) => {
                turn.send(Piece::Text(bytes.to_vec())).map_err(|_| io::Error::from(ErrorKind::BrokenPipe))?;
                Ok(bytes.len())
            }
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match self {
            Sink::Screen(screen) => screen.flush(),
            Sink::Turn(_) => Ok(()),
        }
    }
}

/// Whether all of it is letters of the plainest sort: as most lines are.
fn is_plain(bytes: &[u8]) -> bool {
    bytes.iter().all(|byte| matches!(byte, b' '..=b'~' | b'\n' | b'\t'))
}

impl Out {
    fn new(sink: Sink, coloured: bool) -> Out {
        Out { inner: BufWriter::with_capacity(1 << 16, sink), coloured, failed: false, line: Vec::new() }
    }

    /// Standard output, for one command.
    pub(crate) fn screen() -> Out {
        let stdout = io::stdout();
        // Without colours there is nothing in it that would have to be adapted.
        match AutoStream::choice(&stdout) {
            ColorChoice::Never => Out::new(Sink::Screen(AutoStream::always_ansi(stdout)), false),
            choice => Out::new(Sink::Screen(AutoStream::new(stdout, choice)), true),
        }
    }

    /// Writes what was made ready by another one.
    fn copy(&mut self, text: &[u8]) {
        if !self.failed {
            let result = self.inner.write_all(text);
            self.took(result);
        }
    }

    /// Whether nobody reads any more.
    pub(crate) fn is_closed(&self) -> bool {
        self.failed
    }

    /// Writes a line for programs: one JSON value.
    pub(crate) fn json(&mut self, told: &impl Serialize) -> io::Result<()> {
        let mut line = std::mem::take(&mut self.line);
        line.clear();
        serde_json::to_writer(&mut line, told)?;
        self.json_line(&line)?;
        self.line = line;
        Ok(())
    }

    /// Writes one line of JSON, whose texts steer no terminal, either.
    pub(crate) fn json_line(&mut self, line: &[u8]) -> io::Result<()> {
        let result = if self.failed {
            Ok(())
        } else if is_plain(line) {
            self.inner.write_all(line)
        } else {
            self.inner.write_all(escaped(&String::from_utf8_lossy(line)).as_bytes())
        };
        let result = result.and_then(|()| if self.failed { Ok(()) } else { self.inner.write_all(b"\n") });
        self.took(result);
        Ok(())
    }

    fn took(&mut self, result: io::Result<()>) {
        if let (Err(error), Ok(mut failed)) = (result, FAILED.lock()) {
            self.failed = true;
            failed.get_or_insert(error.kind());
        }
    }
}

impl Write for Out {
    /// Takes whole characters: all that is printed comes as texts.
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if !self.failed {
            let result = if is_plain(bytes) {
                self.inner.write_all(bytes)
            } else {
                let text = harmless(&String::from_utf8_lossy(bytes), self.coloured);
                self.inner.write_all(text.as_bytes())
            };
            self.took(result);
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        if !self.failed {
            let result = self.inner.flush();
            self.took(result);
        }
        Ok(())
    }
}

impl Drop for Out {
    fn drop(&mut self) {
        let _ = self.flush();
        if self.failed {
            // What is left in the buffer would be tried once more.
            let empty = BufWriter::with_capacity(0, Sink::Screen(AutoStream::never(io::stdout())));
            let (_, _) = std::mem::replace(&mut self.inner, empty).into_parts();
        }
    }
}

/// One line of JSON with all escaped that would steer a terminal.
fn escaped(line: &str) -> String {
    let mut out = String::with_capacity(line.len());
    for c in line.chars() {
        if steers(c) {
            // Only within a text: `serde_json` escapes what stands outside.
            let mut units = [0; 2];
            out.extend(c.encode_utf16(&mut units).iter().map(|unit| format!("\\u{unit:04x}")));
        } else {
            out.push(c);
        }
    }
    out
}

/// Does something with each of some files, as many at once as there are cores or `jobs` says, and prints what comes of them in
/// their order, each under its name. What goes wrong with one of several is told in its place, and the others go on.
///
/// # Errors
/// Something went wrong with a file.
pub(crate) fn each(
    files: &[PathBuf],
    (jobs, json): (Option<usize>, bool),
    out: &mut Out,
    one: impl Fn(&Path, &mut Out) -> Result<Answer> + Sync,
) -> Result<Answer> {
    if let [file] = files {
        return one(file, out);
    }
    let cores = || thread::available_parallelism().map_or(1, usize::from);
    let jobs = jobs.unwrap_or_else(cores).clamp(1, files.len().max(1));
    let (senders, receivers): (Vec<_>, Vec<Receiver<Piece>>) = files.iter().map(|_| sync_channel(MOST_PIECES)).unzip();
    let senders: Vec<Mutex<Option<SyncSender<Piece>>>> =
        senders.into_iter().map(|sender| Mutex::new(Some(sender))).collect();
    let answers: Vec<Mutex<Option<Result<Answer>>>> = files.iter().map(|_| Mutex::new(None)).collect();
    let (next, coloured) = (AtomicUsize::new(0), out.coloured);
    let head = |own: &mut Out, number: usize, name: &str| -> Result<()> {
        if json {
            return Ok(own.json(&json!({"what": "tape", "tape": name}))?);
        }
        let above = if number > 0 { "\n" } else { "" };
        Ok(writeln!(own, "{above}{}", in_style(HEAD, name))?)
    };
    let work = || {
        loop {
            let number = next.fetch_add(1, Ordering::Relaxed);
            let Some(file) = files.get(number) else { return };
            let turn = senders[number].lock().ok().and_then(|mut sender| sender.take());
            let Some(turn) = turn else { return };
            ASIDE.set(Some(turn.clone()));
            let mut own = Out::new(Sink::Turn(turn), coloured);
            let answer = head(&mut own, number, &input::name(file)).and_then(|()| one(file, &mut own));
            drop(own);
            if let Ok(mut place) = answers[number].lock() {
                *place = Some(answer);
            }
            // The channel ends here: now the next one's turn begins.
            ASIDE.set(None);
        }
    };
    let (mut failed, mut is_no) = (0, false);
    thread::scope(|scope| -> Result<()> {
        (0..jobs).for_each(|_| drop(scope.spawn(work)));
        for (number, receiver) in receivers.into_iter().enumerate() {
            for piece in receiver {
                match piece {
                    Piece::Text(text) => out.copy(&text),
                    Piece::Aside(line) => {
                        out.flush()?;
                        paint::tell(line);
                    }
                }
                // Nobody reads on: as the channel goes, whoever fills it stops, and nobody begins.
                if out.failed {
                    next.store(files.len(), Ordering::Relaxed);
                    break;
                }
            }
            let answer = answers[number].lock().ok().and_then(|mut place| place.take());
            match answer.unwrap_or_else(|| if out.failed { Ok(Answer::Yes) } else { Err(anyhow!("it came to no end")) })
            {
                Ok(Answer::Yes | Answer::Stopped) => {}
                Ok(Answer::No) => is_no = true,
                Err(error) => {
                    failed += 1;
                    out.flush()?;
                    paint::tell(format!("{} {error:#}", in_style(BAD, "tidy-lever:")));
                }
            }
        }
        Ok(())
    })?;
    if failed > 0 {
        bail!("{failed} of {} tapes could not be played to their end", files.len());
    }
    Ok(if is_no { Answer::No } else { Answer::Yes })
}
