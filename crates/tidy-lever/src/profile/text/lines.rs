//! A text's lines: byte offsets as lines and columns, and what a line defines.

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::vec::Vec;
use core::ops::Range;

use super::super::Spot;

/// Where lines begin, to turn byte offsets into lines and columns.
pub(super) struct Lines<'t> {
    text: &'t str,
    starts: Vec<usize>,
}

impl<'t> Lines<'t> {
    pub(super) fn new(text: &'t str) -> Lines<'t> {
        let starts = core::iter::once(0).chain(text.match_indices('\n').map(|(i, _)| i + 1)).collect();
        Lines { text, starts }
    }

    /// A line, from 1.
    pub(super) fn line(&self, number: u32) -> &'t str {
        let start = self.starts.get(number.saturating_sub(1) as usize).copied().unwrap_or(self.text.len());
        self.text[start..].lines().next().unwrap_or_default()
    }

    /// The line of the table's head that a line belongs to.
    pub(super) fn table_of(&self, line: u32) -> Option<u32> {
        (1..=line).rev().find(|line| self.line(*line).trim_start().starts_with('['))
    }

    /// What a line defines, a table or a key, and the line that defined it before.
    pub(super) fn first_of(&self, spot: Spot) -> (String, Option<u32>) {
        let head = |line: &str| line.trim().split('#').next().unwrap_or_default().trim_end().to_owned();
        let own = head(self.line(spot.line));
        if own.starts_with('[') {
            let first = (1..spot.line).find(|line| head(self.line(*line)) == own);
            return (own, first);
        }
        let key = |line: u32| self.line(line).split_once('=').map(|(key, _)| key.trim().to_owned());
        let own = key(spot.line);
        let from = self.table_of(spot.line).map_or(1, |head| head + 1);
        let first = (from..spot.line).find(|line| key(*line) == own);
        (own.unwrap_or_default(), first)
    }

    pub(super) fn spot(&self, span: &Range<usize>) -> Spot {
        let offset = span.start.min(self.text.len());
        let line = self.starts.partition_point(|start| *start <= offset);
        let start = self.starts[line - 1];
        let column = self.text.get(start..offset).map_or(0, |before| before.chars().count());
        Spot { line: line as u32, column: column as u32 + 1 }
    }
}
