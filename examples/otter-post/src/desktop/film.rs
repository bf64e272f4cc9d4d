//! A short film of the game: an animated PNG in which each picture holds only what changed.

use std::fs::File;
use std::io::BufWriter;
use std::path::Path;

use anyhow::{Context, Result};
use png::{BlendOp, ColorType, Compression, DisposeOp, Encoder, Filter, Writer};
use tiny_skia::Pixmap;

/// Bytes of a pixel.
const PIXEL: usize = 4;

/// So many bits of each colour are kept; white stays white, and what is opaque stays so.
const KEPT_BITS: u32 = 5;
const SHADES: u8 = 0xff << (8 - KEPT_BITS);

/// A film that is being written.
pub(crate) struct Film {
    writer: Writer<BufWriter<File>>,
    width: usize,
    /// What the pictures so far add up to.
    shown: Vec<u8>,
}

impl Film {
    /// Begins a film of so many pictures, each shown for `every` sixtieths of a second.
    ///
    /// # Errors
    /// If the file can't be written.
    pub(crate) fn new(path: &Path, (width, height): (u32, u32), pictures: u32, every: u16) -> Result<Film> {
        let file = File::create(path).with_context(|| format!("{} can't be written", path.display()))?;
        let mut encoder = Encoder::new(BufWriter::new(file), width, height);
        encoder.set_color(ColorType::Rgba);
        encoder.set_compression(Compression::High);
        encoder.set_filter(Filter::NoFilter);
        encoder.set_animated(pictures, 0)?;
        encoder.set_frame_delay(every, 60)?;
        encoder.set_blend_op(BlendOp::Over)?;
        encoder.set_dispose_op(DisposeOp::None)?;
        Ok(Film { writer: encoder.write_header()?, width: width as usize, shown: Vec::new() })
    }

    /// Adds a picture.
    ///
    /// # Errors
    /// If the file can't be written.
    pub(crate) fn add(&mut self, picture: &Pixmap) -> Result<()> {
        // Finer shades than this only make the file larger.
        let now: Vec<u8> = picture.data().iter().map(|level| (level & SHADES) | level >> KEPT_BITS).collect();
        if self.shown.is_empty() {
            self.writer.write_image_data(&now)?;
            self.shown = now;
            return Ok(());
        }
        let pixel = |at: usize| at * PIXEL..at * PIXEL + PIXEL;
        let changed: Vec<usize> =
            (0..now.len() / PIXEL).filter(|at| now[pixel(*at)] != self.shown[pixel(*at)]).collect();
        // At least one pixel, so that the picture has its place in time.
        let columns = || changed.iter().map(|at| at % self.width);
        let rows = || changed.iter().map(|at| at / self.width);
        let (left, right) = (columns().min().unwrap_or(0), columns().max().unwrap_or(0));
        let (top, bottom) = (rows().min().unwrap_or(0), rows().max().unwrap_or(0));
        let (wide, high) = (right - left + 1, bottom - top + 1);
        // What did not change is left clear: the picture before shines through.
        let mut part = vec![0; wide * high * PIXEL];
        for at in &changed {
            let place = (at / self.width - top) * wide + at % self.width - left;
            part[pixel(place)].copy_from_slice(&now[pixel(*at)]);
        }
        self.shown = now;
        self.writer.reset_frame_position()?;
        self.writer.set_frame_dimension(wide as u32, high as u32)?;
        self.writer.set_frame_position(left as u32, top as u32)?;
        self.writer.write_image_data(&part)?;
        Ok(())
    }

    /// Ends it.
    ///
    /// # Errors
    /// If the file can't be written, or pictures are missing.
    pub(crate) fn end(self) -> Result<()> {
        Ok(self.writer.finish()?)
    }
}
