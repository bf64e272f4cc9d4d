//! Records what seats are fed and told, as a tape.

use std::fs::File;
use std::io::BufWriter;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use tidy_lever::Family;
use tidy_lever::remap::Remap;
use tidy_lever::seat::Told;
use tidy_lever::tape::{Header, Line, Said, Writer};
use tidy_lever::{Device, Event, Moment};
use tidy_lever_winit::Adapter;

use crate::player;

/// A tape under way. A line that can't be written ends it, and is told once.
pub(crate) struct Recorder {
    writer: Option<Writer<BufWriter<File>>>,
    path: PathBuf,
    last: Moment,
    remaps: u32,
}

/// What a tape calls a device.
fn name(device: Device) -> String {
    match device {
        _ if device == Adapter::keyboard() => "kb".into(),
        _ if device == Adapter::mouse() => "ms".into(),
        _ if device == Adapter::screen() => "scr".into(),
        pad => format!("p{}", pad.number() + 1),
    }
}

impl Recorder {
    pub(crate) fn new(path: &Path) -> Result<Recorder> {
        let file = File::create(path).with_context(|| format!("{} can't be written", path.display()))?;
        let mut header = Header::new("A round by hand");
        let families = [
            ("kb", Family::Keys),
            ("ms", Family::Mouse),
            ("scr", Family::Touch),
            ("p1", Family::Pad),
            ("p2", Family::Pad),
        ];
        for (id, family) in families {
            header = header.device(id, family);
        }
        let writer = Writer::new(BufWriter::new(file), &header)?;
        Ok(Recorder { writer: Some(writer), path: path.to_owned(), last: Moment::ZERO, remaps: 0 })
    }

    fn put(&mut self, at: Moment, seat: usize, said: Said) {
        // As played: never before what was written already.
        self.last = self.last.max(at);
        let line = Line { at: self.last, seat: seat as u32, said };
        if let Some(writer) = &mut self.writer
            && let Err(problem) = writer.put(&line)
        {
            eprintln!("{} can't be written any more: {problem}; the tape ends there", self.path.display());
            self.writer = None;
        }
    }

    pub(crate) fn event(&mut self, seat: usize, event: &Event) {
        self.put(event.at, seat, Said::of(event, &name(event.device)));
    }

    pub(crate) fn focus(&mut self, seat: usize, at: Moment, focused: bool) {
        self.put(at, seat, Said::Focus(focused));
    }

    pub(crate) fn view(&mut self, seat: usize, at: Moment, (width, height): (u32, u32)) {
        self.put(at, seat, Said::View { size: [width, height], dpi: None });
    }

    /// A gap was passed; what was played before it is written already.
    pub(crate) fn skip(&mut self, seat: usize, from: Moment, at: Moment) {
        self.put(at, seat, Said::Skip { from: Some(from) });
    }

    pub(crate) fn fact(&mut self, seat: usize, at: Moment, fact: &str, value: Told<'_>) {
        self.put(at, seat, Said::Fact { fact: fact.into(), value: value.into() });
    }

    pub(crate) fn mode(&mut self, seat: usize, at: Moment, mode: &str, on: bool) {
        self.put(at, seat, Said::Mode { mode: mode.into(), on });
    }

    /// A player's file was laid over: it goes beside the tape, as it was then.
    pub(crate) fn remap(&mut self, seats: &[usize], at: Moment, remap: &Remap) {
        self.remaps += 1;
        let stem = self.path.file_stem().unwrap_or_default().to_string_lossy();
        let file = format!("{stem}-remap{}.toml", self.remaps);
        match player::write(&self.path.with_file_name(&file), remap.to_toml().as_bytes()) {
            Ok(()) => seats.iter().for_each(|seat| self.put(at, *seat, Said::Remap(file.clone()))),
            Err(problem) => eprintln!("the tape lacks a remap: {problem}"),
        }
    }

    pub(crate) fn end(&mut self, at: Moment) {
        self.put(at, 1, Said::End);
        // Dropping it writes what is left.
        self.writer = None;
    }
}
