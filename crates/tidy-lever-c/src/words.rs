//! Numbers that C has names for. They come in as `uint8_t`, and one that is not a name is a mistake, never an enum of Rust's.

use tidy_lever::seat::{FeedErrorKind, TellError};

/// What a name stands for, for `tl_find`.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Noun {
    /// An action of kind `button`, or a direction of a stick or an axis (`steer.up`).
    Button = 1,
    /// An action of kind `axis`.
    Axis = 2,
    /// An action of kind `stick`.
    Stick = 3,
    /// An action of kind `sweep`.
    Sweep = 4,
    /// An action of kind `pointer`.
    Pointer = 5,
    /// An action of kind `gauge`.
    Gauge = 6,
    /// A fact.
    Fact = 7,
    /// A mode.
    Mode = 8,
}

/// What an event says.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum EventKind {
    /// A button, a trigger or a wheel stands at `x`, or was turned by `x` notches.
    Level = 0,
    /// A stick stands at `x`, `y`, up and right positive; a mouse moved by counts, or stands at a place of the view.
    Pair = 1,
    /// A finger is at `x`, `y`, 0 to 1 from the view's top left.
    Touch = 2,
    /// The device was plugged in (`x` is 1) or unplugged (0).
    Plugged = 3,
    /// A button, a trigger or a stick stands at `x`, `y`, as its device said when it was asked for its state, because reports get
    /// lost. Where that is news, what was held goes up with `TL_CAUSE_RESYNCED`, what is down needs a fresh press, and nothing pulls.
    Stands = 4,
}

/// What a finger did.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TouchPhase {
    /// It came down.
    Down = 0,
    /// It moved.
    Move = 1,
    /// It was lifted.
    Up = 2,
    /// The system took it away.
    Cancel = 3,
}

/// What became of an event.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Fed {
    /// It was taken.
    Taken = 0,
    /// The queue is full: advance, then feed it again.
    Full = 1,
    /// A level that is not a finite number; drop it.
    NotFinite = 2,
    /// One level for a control with two, or the other way round.
    WrongSort = 3,
    /// There is no room for one more device.
    TooManyDevices = 4,
    /// There is no such control, device, phase or kind of event, or a pointer is null.
    NoSuch = 5,
}

impl From<FeedErrorKind> for Fed {
    fn from(why: FeedErrorKind) -> Fed {
        match why {
            FeedErrorKind::Full => Fed::Full,
            FeedErrorKind::NotFinite => Fed::NotFinite,
            FeedErrorKind::WrongSort => Fed::WrongSort,
            _ => Fed::TooManyDevices,
        }
    }
}

/// What became of something told.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Told {
    /// It was taken.
    Taken = 0,
    /// The queue is full: advance, then tell it again.
    Full = 1,
    /// The handle names nothing here, or something else; or a pointer is null.
    NoSuch = 2,
    /// The action is not a toggle.
    NoToggle = 3,
    /// The fact can't be that, or the view has no size.
    NoSuchValue = 4,
}

impl From<TellError> for Told {
    fn from(why: TellError) -> Told {
        match why {
            TellError::Full => Told::Full,
            TellError::NoToggle => Told::NoToggle,
            TellError::NoSuchValue => Told::NoSuchValue,
            _ => Told::NoSuch,
        }
    }
}

/// What happened.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum What {
    /// The action went off.
    Pulled = 0,
    /// What was on is off; `cause` says why.
    Ended = 1,
    /// A mark of a pull came.
    Mark = 2,
    /// A press.
    Pressed = 3,
    /// A release; `cause` says why.
    Released = 4,
}

/// Why something ended.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Cause {
    /// The control was released.
    LetGo = 0,
    /// A mode covered the action.
    Covered = 1,
    /// The window lost its focus.
    FocusLost = 2,
    /// The device was unplugged.
    Unplugged = 3,
    /// Another action took the press.
    Outranked = 4,
    /// A toggle was pressed again.
    Toggled = 5,
    /// The game set it.
    Set = 6,
    /// A touch was cancelled.
    Cancelled = 7,
    /// The seat was linked to a changed profile that has no place for it.
    Relinked = 8,
    /// The device, asked for its state, said that it is up: a report was lost.
    Resynced = 9,
    /// Something that this header doesn't know yet.
    Other = 255,
}

impl From<tidy_lever::Cause> for Cause {
    fn from(cause: tidy_lever::Cause) -> Cause {
        use tidy_lever::Cause as Own;
        match cause {
            Own::LetGo => Cause::LetGo,
            Own::Covered => Cause::Covered,
            Own::FocusLost => Cause::FocusLost,
            Own::Unplugged => Cause::Unplugged,
            Own::Outranked => Cause::Outranked,
            Own::Toggled => Cause::Toggled,
            Own::Set => Cause::Set,
            Own::Cancelled => Cause::Cancelled,
            Own::Relinked => Cause::Relinked,
            Own::Resynced => Cause::Resynced,
            _ => Cause::Other,
        }
    }
}

/// An eighth of the circle, counter-clockwise from the right.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Direction {
    /// Right.
    Right = 0,
    /// Up and right.
    UpRight = 1,
    /// Up.
    Up = 2,
    /// Up and left.
    UpLeft = 3,
    /// Left.
    Left = 4,
    /// Down and left.
    DownLeft = 5,
    /// Down.
    Down = 6,
    /// Down and right.
    DownRight = 7,
    /// At rest.
    None = 255,
}

/// Which devices belong together.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Family {
    /// Keyboards.
    Keys = 0,
    /// Mice.
    Mouse = 1,
    /// Gamepads.
    Pad = 2,
    /// Touch screens.
    Touch = 3,
    /// None was used yet.
    None = 255,
}

impl Family {
    /// The library's own, of a number.
    pub(crate) fn own(number: u8) -> Option<tidy_lever::Family> {
        match number {
            0 => Some(tidy_lever::Family::Keys),
            1 => Some(tidy_lever::Family::Mouse),
            2 => Some(tidy_lever::Family::Pad),
            3 => Some(tidy_lever::Family::Touch),
            _ => None,
        }
    }
}

impl From<Option<tidy_lever::Family>> for Family {
    fn from(family: Option<tidy_lever::Family>) -> Family {
        match family {
            Some(tidy_lever::Family::Keys) => Family::Keys,
            Some(tidy_lever::Family::Mouse) => Family::Mouse,
            Some(tidy_lever::Family::Pad) => Family::Pad,
            Some(tidy_lever::Family::Touch) => Family::Touch,
            _ => Family::None,
        }
    }
}

/// What to do about another action that has a control already, for `tl_remap_bind`.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Clash {
    /// Change nothing.
    Refuse = 0,
    /// Give the other action what this one had.
    Swap = 1,
    /// Let both have it.
    Share = 2,
}

/// The shape of a patch of the touch panel.
#[repr(C)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PatchKind {
    /// Four arms, and the diagonals between them.
    Cross = 0,
    /// A stick, fixed or floating.
    Stick = 1,
    /// A button.
    Button = 2,
    /// An area of the screen.
    Zone = 3,
}
