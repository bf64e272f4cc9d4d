//! What the steps of an attempt were, and what ended it, in numbers. The ledger turns them into words.

use crate::cause::Cause;
use crate::direction::Direction;
use crate::index::ActionIndex;

/// What a step was.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Did {
    /// An action was pressed.
    Press(u16),
    /// It was let go.
    Release(u16),
    Toward(Direction),
    #[default]
    Neutral,
}

/// What ended an attempt, in numbers.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum End {
    #[default]
    RanOut,
    Pulled {
        kept: u64,
    },
    Late {
        by: u64,
    },
    Soon {
        by: u64,
    },
    Long {
        by: u64,
    },
    /// A motion's first position had been held too long.
    Stale {
        by: u64,
    },
    /// A motion's stick stood there, beside the way, for too long.
    Strayed {
        to: Direction,
        by: u64,
    },
    /// A motion's direction was left out.
    Skipped(Direction),
    /// Let go before the rest came.
    LetGo,
    Wrong(Did),
    /// The body faced the other way.
    Faced {
        left: bool,
    },
    /// A term of the gate, by its place; how long ago it ceased to linger.
    Shut {
        term: u16,
        by: Option<u64>,
    },
    Cooling {
        left: u64,
    },
    Spent {
        term: u16,
        by: Option<ActionIndex>,
    },
    Served {
        by: u16,
    },
    Outranked {
        by: u16,
    },
    Lost(Cause),
    /// A gap in time was passed.
    Gap,
}

impl End {
    /// Whether a gate refused it.
    pub(crate) fn is_shut(self) -> bool {
        matches!(self, End::Shut { .. } | End::Cooling { .. } | End::Spent { .. })
    }
}
