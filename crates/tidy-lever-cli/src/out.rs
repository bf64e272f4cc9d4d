//! Writing to standard output. A closed output is not an error. The output of files that are processed in parallel is printed in the
//! order of the files.
//!
//! ```text
//!   one file ──▶ standard output
//!   several files ──one thread each──▶ channels ──in order──▶ standard output, standard error
//! ```

use std::cell::RefCell;
use std::io::{self, BufWriter, ErrorKind, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;

use anstream::{AutoStream, ColorChoice};
use anyhow::{Result, anyhow, bail};
use serde::Serialize;
use serde_json::json;

use crate::Answer;
use crate::input;
use crate::paint::{self, BAD, HEAD, harmless, in_style, steers};

/// Where an [`Out`] writes to.
enum Sink {
    Screen(AutoStream<io::Stdout>),
    /// A channel that is printed when it is this file's turn.
    Turn(SyncSender<Piece>),
    /// Memory, for a command that shows what others print.
    Kept(Arc<Mutex<Vec<u8>>>),
}

/// A piece of one file's output.
enum Piece {
    Text(Vec<u8>),
    /// A line for standard error.
    Aside(String),
}

/// The most pieces of 64 KiB that a file may be ahead; then its thread waits.
const MOST_PIECES: usize = 64;

thread_local! {
    /// Where this thread sends its lines for standard error; `None` prints them at once.
    static ASIDE: RefCell<Option<SyncSender<Piece>>> = const { RefCell::new(None) };
}

/// Queues a line for standard error if this thread's output is queued. Otherwise returns it.
pub(crate) fn aside(line: String) -> Option<String> {
    ASIDE.with_borrow(|aside| match aside {
        Some(turn) => {
            // A closed channel means that standard output is closed.
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
    /// Reused buffer for a line of JSON.
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
            Sink::Kept(kept) => kept.lock().unwrap_or_else(PoisonError::into_inner).write(bytes),
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match self {
            Sink::Screen(screen) => screen.flush(),
            Sink::Turn(_) | Sink::Kept(_) => Ok(()),
        }
    }
}

/// Whether it is printable ASCII, which needs no escaping.
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
        // Without colours nothing needs translating for the terminal.
        match AutoStream::choice(&stdout) {
            ColorChoice::Never => Out::new(Sink::Screen(AutoStream::always_ansi(stdout)), false),
            choice => Out::new(Sink::Screen(AutoStream::new(stdout, choice)), true),
        }
    }

    /// The lines for programs that something writes.
    pub(crate) fn lines_of(writes: impl FnOnce(&mut Out) -> Result<()>) -> Result<Vec<serde_json::Value>> {
        let kept = Arc::new(Mutex::new(Vec::new()));
        let mut out = Out::new(Sink::Kept(kept.clone()), false);
        writes(&mut out)?;
        out.inner.flush()?;
        let bytes = kept.lock().unwrap_or_else(PoisonError::into_inner);
        let lines = bytes.split(|byte| *byte == b'\n').filter(|line| !line.is_empty());
        Ok(lines.map(serde_json::from_slice).collect::<Result<_, _>>()?)
    }

    /// Writes text that another `Out` has already escaped.
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

    /// Writes one line of JSON; control characters in its texts are escaped.
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

/// One line of JSON with control characters escaped.
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

/// Calls `one` for each file, on as many threads as there are cores or as `jobs` says, and prints the outputs in the order of the
/// files, each under the file's name. If one of several files fails, its error is printed in its place and the others continue.
///
/// # Errors
/// The file's own error, or how many of several files failed.
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
            // Drops the last sender, which ends this file's turn.
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
                // Standard output is closed: start no more files, and let the running ones fail to send.
                if out.failed {
                    next.store(files.len(), Ordering::Relaxed);
                    return Ok(());
                }
            }
            let answer = answers[number].lock().ok().and_then(|mut place| place.take());
            match answer.unwrap_or_else(|| Err(anyhow!("{} did not finish", input::name(&files[number])))) {
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
