//! What the controls of an axis or a stick say together, on its way to the action.

use crate::linkage::Points;

/// A value on its way to an action.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Value {
    pub(crate) to: (i32, i32),
    /// What the dead zone leaves, before curve and scale.
    pub(crate) push: (i32, i32),
    pub(crate) points: Points,
    /// It comes from keys or from a directional pad.
    pub(crate) digital: bool,
}

impl Value {
    /// What one control gives; where it points is not known yet.
    #[inline(always)]
    pub(crate) fn given(to: (i32, i32), push: (i32, i32), digital: bool) -> Value {
        Value { to, push, points: Points::Unknown, digital }
    }

    /// At rest it points nowhere, wherever it pointed before.
    pub(crate) const REST: Value = Value { to: (0, 0), push: (0, 0), points: Points::Known(None), digital: false };
}
