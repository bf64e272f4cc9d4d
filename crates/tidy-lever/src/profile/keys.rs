//! The keys that an action may have, by kind; and the words that can't be names.

use super::Kind;

/// One key of an action's table in a profile.
#[derive(Clone, Copy, Debug)]
pub struct ActionKey {
    /// The key.
    pub name: &'static str,
    /// The kinds of action that know it.
    pub kinds: &'static [Kind],
    /// What it takes, for people.
    pub takes: &'static str,
    /// Its default, for people.
    pub default: &'static str,
}

const ANY: &[Kind] = &Kind::ALL;
const AXIS: &[Kind] = &[Kind::Axis];
const STICK: &[Kind] = &[Kind::Stick];
const MOVED: &[Kind] = &[Kind::Axis, Kind::Stick];
const SHAPED: &[Kind] = &[Kind::Axis, Kind::Stick, Kind::Sweep];
const SWEEP: &[Kind] = &[Kind::Sweep];
const GAUGE: &[Kind] = &[Kind::Gauge];
const POINTER: &[Kind] = &[Kind::Pointer];
const CROSSED: &[Kind] = SHAPED;

/// The shape keys of the four families, in the order of `Family::ALL`.
pub(super) const FAMILY_SHAPES: [&str; 4] = ["keys_shape", "mouse_shape", "pad_shape", "touch_shape"];

const SHAPE: &str = "a table of dead, full, curve, scale, invert, dead_kind";

macro_rules! keys {
    ($($name:literal, $kinds:expr, $takes:expr, $default:literal;)*) => {
        pub(crate) const ACTION_KEYS: &[ActionKey] =
            &[$(ActionKey { name: $name, kinds: $kinds, takes: $takes, default: $default }),*];
    };
}

keys! {
    "kind", ANY, "\"button\", \"axis\", \"stick\", \"sweep\", \"pointer\" or \"gauge\"", "none: it must be given";
    "modes", ANY, "a list of modes, or \"always\"", "heard in every mode, covered like any";
    "keys", ANY, "a key, a list of keys, or legs", "none";
    "mouse", ANY, "a mouse control, a list, or legs", "none";
    "pad", ANY, "a pad control, a list, or legs", "none";
    "touch", ANY, "a patch of the panel, a list, or legs", "none";
    "press_at", ANY, "0 to 1", "0.55";
    "release_at", ANY, "0 to 1, not above press_at", "0.45";
    "cue", ANY, "a cue line", "\"press\" for buttons, none for others";
    "early", ANY, "a span: how long before a motion's last direction its finishing press may come", "\"30ms\"";
    "opposed", CROSSED, "\"newest\", \"oldest\" or \"cancel\"", "\"newest\"";
    "rest", MOVED, "\"last\" or \"middle\"", "\"middle\"";
    "shape", SHAPED, SHAPE, "as fed";
    "keys_shape", SHAPED, SHAPE, "shape";
    "mouse_shape", SHAPED, SHAPE, "shape";
    "pad_shape", SHAPED, SHAPE, "shape";
    "touch_shape", SHAPED, SHAPE, "shape";
    "range", AXIS, "{ low = …, rest = …, high = … }", "−1, 0, 1";
    "directions", STICK, "4 or 8", "8";
    "sectors", STICK, "\"equal\" or \"box\"", "\"equal\"";
    "per_count", SWEEP, "degrees a count: a number, or [across, up]", "[0.1, 0.1]";
    "per_second", SWEEP, "degrees a second at full deflection: a number, or [across, up]", "[180, 180]";
    "slop", POINTER, "pixels, 0 to 1000: a held pointer that moved farther drags", "6";
    "gauge", GAUGE, "a table of floor, ceiling, start, push, steps, rest, fade, refill, drain, pulls", "none: it must be given";
    "cooldown", ANY, "a span", "none";
    "marks", ANY, "a table of names with spans, as in { vanish = \"9t@60\" }", "none";
    "outranks", ANY, "a list of actions", "none";
    "waits_for", ANY, "a list of actions", "none";
    "when", ANY, "a line over facts, as in \"grounded within 90ms and not busy\"", "always open";
    "keep", ANY, "a span: how long a refused pull stays ready; \"0ms\" says that none is meant", "none";
    "while_held", ANY, "true: pulls again each time the gate opens while held", "false";
    "spends", ANY, "a list of facts", "those that `when` reads through `within`";
    "stages", ANY, "{ count = 3, after = \"grounded\", within = \"180ms\" }", "none";
    "turns_on", ANY, "a list of modes", "none";
    "turns_off", ANY, "a list of modes", "none";
    "group", ANY, "a word of your own", "none";
    "aim", ANY, "a stick, whose direction each pull carries", "none";
}

/// Every key that an action may have, in the order of the guide's table.
pub fn action_keys() -> &'static [ActionKey] {
    ACTION_KEYS
}

/// The words of the cue and gate grammars, and the names of directions.
const RESERVED: &[&str] = &[
    "after",
    "all",
    "always",
    "and",
    "apart",
    "back",
    "charge",
    "counted",
    "double",
    "down",
    "down-back",
    "down-forward",
    "down-left",
    "down-right",
    "every",
    "false",
    "flicks",
    "forward",
    "held",
    "hold",
    "is",
    "left",
    "mash",
    "maybe",
    "neutral",
    "not",
    "on",
    "or",
    "order",
    "over",
    "press",
    "release",
    "repeat",
    "right",
    "rolls",
    "spins",
    "tap",
    "taps",
    "then",
    "to",
    "toggle",
    "true",
    "twice",
    "under",
    "up",
    "up-back",
    "up-forward",
    "up-left",
    "up-right",
    "with",
    "within",
];

/// Whether the word belongs to the grammar of cues and gates and so can't be a name.
pub fn is_reserved(word: &str) -> bool {
    RESERVED.binary_search(&word).is_ok()
}

/// Whether a text may be the name of an action, fact, mode or patch: letters, digits, `_` and `-`, a letter first.
pub(crate) fn valid_name(name: &str) -> bool {
    name.len() <= 64
        && name.starts_with(|c: char| c.is_ascii_alphabetic())
        && name.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'_' || b == b'-')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_reserved_words_are_sorted_so_that_search_finds_them() {
        assert!(RESERVED.is_sorted());
        assert!(is_reserved("within") && !is_reserved("steer"));
    }
}
