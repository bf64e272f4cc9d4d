//! What guards kept from being heard, for programs.

use serde::Serialize;
use tidy_lever::seat::{GuardedBy, Swallowed};

/// What a guard kept from being heard, as a line for programs.
#[derive(Serialize)]
pub(crate) struct SwallowedLine {
    at: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    seat: Option<u32>,
    what: &'static str,
    control: String,
    by: &'static str,
    from: u64,
    #[serde(rename = "for")]
    lasted: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    push: Option<[f32; 2]>,
}

impl SwallowedLine {
    pub(crate) fn of(seat: u32, one: &Swallowed) -> SwallowedLine {
        SwallowedLine {
            at: one.at.as_micros(),
            seat: (seat > 1).then_some(seat),
            what: "swallowed",
            control: one.control.to_string(),
            by: one.by.name(),
            from: one.from.as_micros(),
            lasted: one.lasted().as_micros() as u64,
            push: (one.by == GuardedBy::Snapback).then_some([one.x, one.y]),
        }
    }
}
