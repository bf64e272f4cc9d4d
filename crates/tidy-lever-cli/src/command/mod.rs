//! The commands, a file each.

pub(crate) mod check;
pub(crate) mod completions;
pub(crate) mod controls;
pub(crate) mod demo;
pub(crate) mod draw;
pub(crate) mod new;
pub(crate) mod numbers;
pub(crate) mod play;
pub(crate) mod rehearse;
pub(crate) mod remap;
pub(crate) mod report;
pub(crate) mod try_out;
pub(crate) mod tune;
pub(crate) mod why;
