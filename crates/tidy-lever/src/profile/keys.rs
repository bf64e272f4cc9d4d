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

const SHAPE: &str = "a shape (see below)";
const FOR_FAMILY: &str = "a shape for one family, instead of `shape`";
const CONTROLS: &str = "a control, a list of controls (any of them will do), or legs; an empty list unbinds";

macro_rules! keys {
    ($($name:literal, $kinds:expr, $takes:expr, $default:literal;)*) => {
        pub(crate) const ACTION_KEYS: &[ActionKey] =
            &[$(ActionKey { name: $name, kinds: $kinds, takes: $takes, default: $default }),*];
    };
}

keys! {
    "kind", ANY, "`\"button\"`, `\"axis\"`, `\"stick\"`, `\"sweep\"`, `\"pointer\"` or `\"gauge\"`", "none: it is required";
    "modes", ANY, "a list of modes, or `\"always\"` (never covered)", "active in every mode, unless a mode that is on covers it";
    "keys", ANY, CONTROLS, "none";
    "mouse", ANY, CONTROLS, "none";
    "pad", ANY, CONTROLS, "none";
    "touch", ANY, CONTROLS, "none";
    "down_at", ANY, "above 0, up to and including 1: the level at which an analogue control used as a button goes down", "0.55";
    "up_at", ANY, "0 to `down_at`: the level at which it goes up again", "0.45; 0.4 for `twice`";
    "cue", ANY, "a cue line (see below), or a list of them (any will do)", "`press` for buttons, none for other kinds";
    "early", ANY, "a span: how long before a motion's last direction its finishing press may come", "`\"60ms\"`";
    "fresh", ANY, "a span: how long a motion's first position may have been held", "`\"300ms\"` for `forward` and `back` without `held`, else no limit";
    "astray", ANY, "a span: how long a motion accepts its stick one eighth beyond its path", "`\"70ms\"`";
    "brush", ANY, "a span: for less than this a neighbour does not interrupt a `held` step, nor another straight a `twice`", "`\"45ms\"`";
    "roll", ANY, "a span: how long one key may be up before the next goes down, for a motion to count the diagonal between", "`\"35ms\"`";
    "from_push", ANY, "above 0, up to and including 1: the push from which a motion's positions count, after the dead zone, before curve and scale", "0.35";
    "rested", ANY, "a span: how long the stick must have rested before it `flicks`", "`\"20ms\"`";
    "paced", ANY, "`[\"200ms\", \"400ms\"]`: the time limit of `taps`, `twice` or `mash` follows the player's own gaps, within these limits", "none: the limit is fixed";
    "settles", STICK, "a span: for less than this a straight passed between a diagonal and rest is not the last direction", "`\"80ms\"`";
    "opposed", CROSSED, "`\"newest\"`, `\"oldest\"` or `\"cancel\"`: which of two opposite keys counts", "`\"newest\"`";
    "rest", MOVED, "`\"last\"` (keeps its last direction) or `\"middle\"`", "`\"middle\"`";
    "shape", SHAPED, SHAPE, "unchanged";
    "keys_shape", SHAPED, FOR_FAMILY, "`shape`";
    "mouse_shape", SHAPED, FOR_FAMILY, "`shape`";
    "pad_shape", SHAPED, FOR_FAMILY, "`shape`";
    "touch_shape", SHAPED, FOR_FAMILY, "`shape`";
    "range", AXIS, "`{ low = 4, rest = 15, high = 28 }`: the values for -1, 0 and 1, each from -1,000,000 to 1,000,000", "-1, 0, 1";
    "directions", STICK, "4 or 8", "8";
    "sectors", STICK, "`\"equal\"` or `\"box\"`", "`\"equal\"`";
    "per_count", SWEEP, "degrees per mouse count: a number, or `[across, up]`, each from -100,000 to 100,000", "0.1";
    "per_second", SWEEP, "degrees per second at full deflection: a number, or `[across, up]`, each from -100,000 to 100,000", "180";
    "drag_from", POINTER, "0 to 1000 pixels: a held pointer drags once it has moved farther than this", "6";
    "gauge", GAUGE, "a table (see below)", "none: it is required";
    "aim", ANY, "the name of a stick: each pull carries its direction", "none";
    "when", ANY, "a gate (see below)", "always open";
    "keep", ANY, "a span: the input buffer. How long a press that arrives too early is kept and retried; `\"0ms\"` means that no buffer is wanted and silences the warning", "none";
    "while_held", ANY, "`true`: pulls again each time the gate opens while the cue is still on", "`false`";
    "spends", ANY, "a list of facts that a pull uses up", "the facts that `when` reads with `within`";
    "stages", ANY, "`{ count = 3, after = \"grounded\", within = \"180ms\" }`, with 2 to 100 stages", "none";
    "cooldown", ANY, "a span: how long after a pull the gate stays closed", "none";
    "marks", ANY, "`{ hidden = \"9t@60\" }`: up to 16 names, each reported that long after a pull", "none";
    "outranks", ANY, "a list of actions that lose a shared press to this one", "none";
    "waits_for", ANY, "a list of actions: a pull waits while one of them may still complete on the same press", "none";
    "group", ANY, "a word of your own: one press serves one action of a group", "none";
    "turns_on", ANY, "a list of modes that a pull turns on", "none";
    "turns_off", ANY, "a list of modes that a pull turns off", "none";
}

/// Every key that an action may have, in the order of the table in `docs/formats.md`.
pub fn action_keys() -> &'static [ActionKey] {
    ACTION_KEYS
}

/// One key of a table within a profile, or of a player's settings.
#[derive(Clone, Copy, Debug)]
pub struct TableKey {
    /// The key.
    pub name: &'static str,
    /// What it takes, for people.
    pub takes: &'static str,
    /// Its default, for people.
    pub default: &'static str,
}

macro_rules! tables {
    ($($table:ident: $($name:literal, $takes:literal, $default:literal;)*)*) => {$(
        pub(crate) const $table: &[TableKey] = &[$(TableKey { name: $name, takes: $takes, default: $default }),*];
    )*};
}

tables! {
    SHAPE_KEYS:
    "dead", "0 to below `full`: smaller levels count as 0", "0";
    "full", "above `dead`, up to and including 1: larger levels count as 1", "1";
    "curve", "an exponent from 0.1 to 10, or 1 to 64 rising points, `[[0.5, 0.2], [0.8, 0.5]]`, to which missing ends are added", "1";
    "scale", "a factor from -1000 to 1000, not 0; the result is never longer than 1", "1";
    "invert", "`\"x\"`, `\"y\"`, `\"both\"`, or `true` for both", "none";
    "dead_kind", "`\"round\"` or `\"each-axis\"`: whether the dead zone is a circle or a plus sign", "`\"round\"`";

    GAUGE_KEYS:
    "floor", "the lowest value, from -1,000,000 to 1,000,000", "0";
    "ceiling", "the highest value, above `floor`", "1";
    "start", "the first value, from `floor` to `ceiling`", "the floor; the ceiling if it refills";
    "push", "what a press does: `\"+1\"`, `\"-1\"` or `\"x1.35\"`", "nothing";
    "steps", "a rising list of values: a press climbs to the next one, `[2, 3.5, 6]`", "none";
    "rest", "a span after the last press before time changes the value", "none";
    "fade", "how the value falls: `\"x0.85 every 100ms\"`, `\"-2 every 1s\"`", "it does not fall";
    "refill", "how the value rises: `\"+2 every 1s\"`", "it does not rise";
    "drain", "how the value falls while the control is held: `\"-1 every 1s\"`", "it does not fall";
    "pulls", "`\"empty\"` or `\"full\"`: the action pulls when the value reaches that end", "never";

    PATCH_KEYS:
    "kind", "`\"cross\"` (two axes, eight directions; the thumb may slide from arm to arm), `\"stick\"` (two axes), `\"button\"` or `\"zone\"`", "none: it is required";
    "from", "the corner it is placed from: `\"bottom-left\"`, `\"bottom-right\"`, `\"top-left\"` or `\"top-right\"`", "none: it is required";
    "at", "the distance of its middle from that corner, `[across, along]`, each from 0 to 10", "none: it is required";
    "size", "its radius, above 0 up to 10; for a zone half its width and height, `[0.4, 0.2]`", "none: it is required";
    "floats", "`true` for a stick whose middle is where the thumb goes down", "`false`";

    ACCESS_KEYS:
    "toggled", "a list of buttons, or `\"all\"`: one press puts them down, the next lifts them", "none";
    "mash_rate", "1 to 30 presses per second: holding counts as mashing, for gauges and for what `mash` cues listen to", "none";
    "leeway", "a factor from 0.1 to 8 for time limits: windows, gaps, `keep`, what cues forgive, `within` on facts, stages", "1";
    "holds", "a factor from 0.1 to 8 for spans to be reached: `hold`, `charge`, `repeat`, `held`", "1";
    "one_by_one", "`true`: chords are pressed one button at a time; the second may come up to 1 s after the first", "`false`";
    "hand", "`\"left\"` or `\"right\"`: what that hand cannot reach is reported", "none";
}

/// The tables within a profile and within a player's file, each with its keys in the order of `docs/formats.md`.
pub fn table_keys() -> [(&'static str, &'static [TableKey]); 4] {
    [("shape", SHAPE_KEYS), ("gauge", GAUGE_KEYS), ("panel", PATCH_KEYS), ("access", ACCESS_KEYS)]
}

/// Words that the grammars of cues and gates, or a list of names, could take for something else.
const RESERVED: &[&str] = &[
    "all",
    "always",
    "and",
    "back",
    "double",
    "down",
    "down-back",
    "down-forward",
    "down-left",
    "down-right",
    "false",
    "forward",
    "left",
    "not",
    "or",
    "order",
    "right",
    "true",
    "up",
    "up-back",
    "up-forward",
    "up-left",
    "up-right",
    "with",
    "within",
];

/// The words that can't be names, sorted.
pub fn reserved() -> &'static [&'static str] {
    RESERVED
}

/// Whether the word can't be a name, because a cue, a gate or a list of names could take it for something else.
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
        assert!(is_reserved("within") && !is_reserved("tap"));
    }
}
