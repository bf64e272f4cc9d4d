//! What lies where for the pointer.

use tidy_lever_view::Area;

use crate::keys::Tool;

/// What the pointer can hit.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Hit {
    /// A switch: the fact, and what it is to be.
    Fact(String, String),
    /// A switch: the mode, and whether it is to be on.
    Mode(String, bool),
    /// A row of the list of actions.
    Action(String),
    /// A slider, its rail, and what the rail reaches from and to.
    Number(String, Area, (f64, f64)),
    /// The hands of a seat.
    Seat(usize),
    /// A key of the tool.
    Tool(Tool),
}

/// What lies where, as it was drawn last.
#[derive(Debug, Default)]
pub(crate) struct Hits(pub(crate) Vec<(Area, Hit)>);

impl Hits {
    pub(crate) fn put(&mut self, area: Area, hit: Hit) {
        self.0.push((area, hit));
    }

    pub(crate) fn at(&self, place: (f32, f32)) -> Option<&Hit> {
        self.0.iter().rev().find(|(area, _)| area.holds(place)).map(|(_, hit)| hit)
    }
}
