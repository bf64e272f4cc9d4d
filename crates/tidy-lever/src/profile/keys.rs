//! The keys that an action may have, by kind; and the words that can't be names.

use alloc::format;
use alloc::string::String;

use super::Kind;
use crate::control::Family;
use crate::time::LONGEST_SPAN;

/// One key of an action's table in a profile.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct ActionKey {
    /// The key.
    pub name: &'static str,
    /// The kinds of action that know it.
    pub kinds: &'static [Kind],
    /// What it takes, for people.
    pub takes: &'static str,
    /// Its default, for people.
    pub default: &'static str,
    /// What its number is, if it takes one.
    pub number: Option<NumberKey>,
}

/// What the number of a key is.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct NumberKey {
    /// What it counts.
    pub unit: Unit,
    /// The smallest that the key takes.
    pub least: f64,
    /// The largest that the key takes.
    pub most: f64,
    /// What counts where the key is missing, if that is one number.
    pub default: Option<f64>,
    /// What it is for, in a line.
    pub meaning: &'static str,
}

/// What a number of a profile counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Unit {
    /// Milliseconds.
    Milliseconds,
    /// A share of full deflection.
    Level,
    /// A factor, or an exponent.
    Factor,
    /// How many.
    Count,
    /// Full turns of a stick.
    Turns,
    /// The action's own value.
    Value,
    /// Degrees for each count of a mouse.
    DegreesPerCount,
    /// Degrees a second.
    DegreesPerSecond,
    /// Pixels of the view.
    Pixels,
    /// The screen's shorter side.
    Sides,
}

impl Unit {
    /// The unit behind a number: `ms`, `px`; nothing for bare numbers.
    pub const fn name(self) -> &'static str {
        match self {
            Unit::Milliseconds => "ms",
            Unit::DegreesPerCount => "°/count",
            Unit::DegreesPerSecond => "°/s",
            Unit::Pixels => "px",
            Unit::Turns => "turns",
            Unit::Sides => "sides",
            Unit::Level | Unit::Factor | Unit::Count | Unit::Value => "",
        }
    }
}

impl NumberKey {
    pub(super) const fn new(unit: Unit, least: f64, most: f64, default: Option<f64>) -> NumberKey {
        NumberKey { unit, least, most, default, meaning: "" }
    }

    /// What it is for, where its key takes more than this number.
    pub(super) const fn means(self, meaning: &'static str) -> NumberKey {
        NumberKey { meaning, ..self }
    }

    /// The same with what its row says behind the colon, if it says nothing of its own.
    const fn told(self, takes: &'static str) -> NumberKey {
        if self.meaning.is_empty() { NumberKey { meaning: behind_colon(takes), ..self } } else { self }
    }

    /// A span, in milliseconds.
    pub(super) const fn span(default: Option<f64>) -> NumberKey {
        NumberKey::new(Unit::Milliseconds, 0.0, DAY, default)
    }

    /// A span of a guard, up to a second.
    const fn guard(default: f64) -> NumberKey {
        NumberKey::new(Unit::Milliseconds, 0.0, LONGEST_GUARD, Some(default))
    }

    pub(super) const fn level(default: Option<f64>) -> NumberKey {
        NumberKey::new(Unit::Level, 0.0, 1.0, default)
    }

    pub(super) const fn value() -> NumberKey {
        NumberKey::new(Unit::Value, -1e6, 1e6, None)
    }
}

/// The text behind `: `; all of it if there is none.
const fn behind_colon(text: &'static str) -> &'static str {
    let bytes = text.as_bytes();
    let mut at = 0;
    while at + 1 < bytes.len() {
        if bytes[at] == b':' && bytes[at + 1] == b' ' {
            return text.split_at(at + 2).1;
        }
        at += 1;
    }
    text
}

/// The longest span of a guard, in milliseconds.
pub(crate) const LONGEST_GUARD: f64 = 1_000.0;
/// The longest span, in milliseconds.
const DAY: f64 = LONGEST_SPAN.as_millis() as f64;

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

/// What a row says of its number.
macro_rules! number {
    ($takes:expr) => {
        None
    };
    ($takes:expr, $number:expr) => {
        Some($number.told($takes))
    };
}

macro_rules! keys {
    ($($name:literal, $kinds:expr, $takes:expr, $default:literal $(=> $number:expr)?;)*) => {
        pub(crate) const ACTION_KEYS: &[ActionKey] = &[$(ActionKey {
            name: $name,
            kinds: $kinds,
            takes: $takes,
            default: $default,
            number: number!($takes $(, $number)?),
        }),*];
    };
}

keys! {
    "kind", ANY, "`\"button\"`, `\"axis\"`, `\"stick\"`, `\"sweep\"`, `\"pointer\"` or `\"gauge\"`", "none: it is required";
    "modes", ANY, "a list of modes, or `\"always\"` (never covered)", "active in every mode, unless a mode that is on covers it";
    "keys", ANY, CONTROLS, "none";
    "mouse", ANY, CONTROLS, "none";
    "pad", ANY, CONTROLS, "none";
    "touch", ANY, CONTROLS, "none";
    "down_at", ANY, "above 0, up to and including 1: the level at which an analogue control used as a button goes down", "0.55" => NumberKey::level(Some(0.55));
    "up_at", ANY, "0 to `down_at`: the level at which it goes up again", "0.45; 0.4 for `twice`" => NumberKey::level(Some(0.45));
    "cue", ANY, "a cue line (see below), or a list of them (any will do)", "`press` for buttons, none for other kinds";
    "early", ANY, "a span: how long before a motion's last direction its finishing press may come", "`\"60ms\"`" => NumberKey::span(Some(60.0));
    "fresh", ANY, "a span: how long a motion's first position may have been held", "`\"300ms\"` for `forward` and `back` without `held`, else no limit" => NumberKey::span(None);
    "astray", ANY, "a span: how long the stick may be one direction (45°) off the path", "`\"70ms\"`" => NumberKey::span(Some(70.0));
    "brush", ANY, "a span: shorter brushes do not break a held step or a double tap", "`\"45ms\"`" => NumberKey::span(Some(45.0));
    "key_gap", ANY, "a span: how long one key may be up before the next goes down, for a motion to count the diagonal between", "`\"35ms\"`" => NumberKey::span(Some(35.0));
    "from_push", ANY, "above 0, up to and including 1: the push from which a motion's positions count, after the dead zone, before curve and scale", "0.35" => NumberKey::level(Some(0.35));
    "rested", ANY, "a span: how long the stick must have rested before it `flicks`", "`\"20ms\"`" => NumberKey::span(Some(20.0));
    "paced", ANY, "`[\"200ms\", \"400ms\"]`: the time limit of `taps`, `twice` or `mash` follows the player's own gaps, within these limits", "none: the limit is fixed" => NumberKey::span(None).means("the limits between which the time limit follows the player's own gaps");
    "settles", STICK, "a span: when a diagonal is released, a straight direction shorter than this is ignored", "`\"80ms\"`" => NumberKey::span(Some(80.0));
    "opposed", CROSSED, "`\"newest\"`, `\"oldest\"` or `\"cancel\"`: which of two opposite keys counts", "`\"newest\"`";
    "rest", MOVED, "`\"last\"` (keeps its last direction) or `\"middle\"`", "`\"middle\"`";
    "shape", SHAPED, SHAPE, "unchanged";
    "keys_shape", SHAPED, FOR_FAMILY, "`shape`";
    "mouse_shape", SHAPED, FOR_FAMILY, "`shape`";
    "pad_shape", SHAPED, FOR_FAMILY, "`shape`";
    "touch_shape", SHAPED, FOR_FAMILY, "`shape`";
    "range", AXIS, "`{ low = 4, rest = 15, high = 28 }`: the values for -1, 0 and 1, each from -1,000,000 to 1,000,000", "-1, 0, 1" => NumberKey::value().means("what -1, 0 or 1 stands for");
    "directions", STICK, "4 or 8", "8" => NumberKey::new(Unit::Count, 4.0, 8.0, Some(8.0)).means("into how many directions it is read");
    "sectors", STICK, "`\"equal\"` or `\"box\"`", "`\"equal\"`";
    "per_count", SWEEP, "degrees per mouse count: a number, or `[across, up]`, each from -100,000 to 100,000", "0.1" => NumberKey::new(Unit::DegreesPerCount, -1e5, 1e5, Some(0.1)).means("degrees for each count of the mouse");
    "per_second", SWEEP, "degrees per second at full deflection: a number, or `[across, up]`, each from -100,000 to 100,000", "180" => NumberKey::new(Unit::DegreesPerSecond, -1e5, 1e5, Some(180.0)).means("degrees per second at full deflection");
    "drag_from", POINTER, "0 to 1000 pixels: a held pointer drags once it has moved farther than this", "6" => NumberKey::new(Unit::Pixels, 0.0, 1000.0, Some(6.0)).means("a held pointer drags once it has moved farther than this");
    "gauge", GAUGE, "a table (see below)", "none: it is required";
    "aim", ANY, "the name of a stick: each pull carries its direction", "none";
    "when", ANY, "a gate (see below)", "always open";
    "keep", ANY, "a span: the input buffer. How long a press that arrives too early is kept and retried; `\"0ms\"` means that no buffer is wanted and silences the warning", "none" => NumberKey::span(None).means("the input buffer: how long a press that comes too early stays ready");
    "while_held", ANY, "`true`: pulls again each time the gate opens while the cue is still on", "`false`";
    "spends", ANY, "a list of facts that a pull uses up", "the facts that `when` reads with `within`";
    "stages", ANY, "`{ count = 3, after = \"grounded\", within = \"180ms\" }`, with 2 to 100 stages", "none" => NumberKey::new(Unit::Count, 2.0, 100.0, None).means("how many stages there are");
    "cooldown", ANY, "a span: how long after a pull the gate stays closed", "none" => NumberKey::span(None);
    "marks", ANY, "`{ hidden = \"9t@60\" }`: up to 16 names, each reported that long after a pull", "none" => NumberKey::span(None).means("how long after a pull the mark comes");
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
#[non_exhaustive]
pub struct TableKey {
    /// The key.
    pub name: &'static str,
    /// What it takes, for people.
    pub takes: &'static str,
    /// Its default, for people.
    pub default: &'static str,
    /// What its number is, if it takes one.
    pub number: Option<NumberKey>,
}

macro_rules! tables {
    ($($table:ident: $($name:literal, $takes:literal, $default:literal $(=> $number:expr)?;)*)*) => {$(
        pub(crate) const $table: &[TableKey] = &[$(TableKey {
            name: $name,
            takes: $takes,
            default: $default,
            number: number!($takes $(, $number)?),
        }),*];
    )*};
}

tables! {
    SHAPE_KEYS:
    "dead", "0 to below `full`: smaller levels count as 0", "0" => NumberKey::level(Some(0.0));
    "full", "above `dead`, up to and including 1: larger levels count as 1", "1" => NumberKey::level(Some(1.0));
    "curve", "an exponent from 0.1 to 10, or 1 to 64 rising points, `[[0.5, 0.2], [0.8, 0.5]]`, to which missing ends are added", "1" => NumberKey::new(Unit::Factor, 0.1, 10.0, Some(1.0)).means("the exponent of the curve: above 1 is finer near the middle");
    "scale", "a factor from -1000 to 1000, not 0; the result is never longer than 1", "1" => NumberKey::new(Unit::Factor, -1000.0, 1000.0, Some(1.0)).means("a factor on the result");
    "invert", "`\"x\"`, `\"y\"`, `\"both\"`, or `true` for both", "none";
    "dead_kind", "`\"round\"` or `\"each-axis\"`: whether the dead zone is a circle or a plus sign", "`\"round\"`";

    GAUGE_KEYS:
    "floor", "the lowest value, from -1,000,000 to 1,000,000", "0" => NumberKey::value().means("the lowest value");
    "ceiling", "the highest value, above `floor`", "1" => NumberKey::value().means("the highest value");
    "start", "the first value, from `floor` to `ceiling`", "the floor; the ceiling if it refills" => NumberKey::value().means("the first value");
    "push", "what a press does: `\"+1\"`, `\"-1\"` or `\"x1.35\"`", "nothing" => NumberKey::value().means("what a press adds, or multiplies by");
    "steps", "a rising list of values: a press climbs to the next one, `[2, 3.5, 6]`", "none" => NumberKey::value().means("a value that a press climbs to");
    "rest", "a span after the last press before time changes the value", "none" => NumberKey::span(None).means("how long after the last press time begins to change the value");
    "fade", "how the value falls: `\"x0.85 every 100ms\"`, `\"-2 every 1s\"`", "it does not fall" => NumberKey::value().means("what the value falls by, or is multiplied by");
    "refill", "how the value rises: `\"+2 every 1s\"`", "it does not rise" => NumberKey::value().means("what the value rises by");
    "drain", "how the value falls while the control is held: `\"-1 every 1s\"`", "it does not fall" => NumberKey::value().means("what the value falls by while the control is held");
    "pulls", "`\"empty\"` or `\"full\"`: the action pulls when the value reaches that end", "never";

    PATCH_KEYS:
    "kind", "`\"cross\"` (two axes, eight directions; the thumb may slide from arm to arm), `\"stick\"` (two axes), `\"button\"` or `\"zone\"`", "none: it is required";
    "from", "the corner it is placed from: `\"bottom-left\"`, `\"bottom-right\"`, `\"top-left\"` or `\"top-right\"`", "none: it is required";
    "at", "the distance of its middle from that corner, `[across, along]`, each from 0 to 10", "none: it is required" => NumberKey::new(Unit::Sides, 0.0, 10.0, None).means("how far its middle is from its corner");
    "size", "its radius, above 0 up to 10; for a zone half its width and height, `[0.4, 0.2]`", "none: it is required" => NumberKey::new(Unit::Sides, 0.0, 10.0, None).means("its radius; half a zone's width or height");
    "floats", "`true` for a stick whose middle is where the thumb goes down", "`false`";

    DEVICE_KEYS:
    "debounce", "a span up to `\"1s\"`, of keys, mouse and pad: how long a key or button is not heard after an edge that counted. `\"0ms\"` is off", "`\"8ms\"`" => NumberKey::guard(8.0).means("how long a key or button is not heard after an edge that counted");
    "drop_out", "a span up to `\"1s\"`, of keys, mouse and pad: how long a key or button must be up for that to count", "`\"0ms\"`: off" => NumberKey::guard(0.0).means("how long a key or button must be up for that to count");
    "snapback", "a span up to `\"1s\"`, of pads: how long the other side counts as rest after a stick was let go. `\"0ms\"` is off", "`\"70ms\"`" => NumberKey::guard(70.0).means("how long the other side counts as rest after a stick was let go");
    "centre", "`\"learn\"` or `\"fixed\"`, of pads: whether a stick's middle is where it comes to rest, or always 0, 0", "`\"learn\"`";
    "left_stick_centre", "`[0.03, -0.02]`, right and up, each from -0.5 to 0.5, of one pad by its name: where the left stick's middle is. It isn't learnt then", "none";
    "right_stick_centre", "the same for the right stick", "none";

    ACCESS_KEYS:
    "toggled", "a list of buttons, or `\"all\"`: one press puts them down, the next lifts them", "none";
    "mash_rate", "1 to 30 presses per second: holding counts as mashing, for gauges and for what `mash` cues listen to", "none" => NumberKey::new(Unit::Count, 1.0, 30.0, None).means("as how many presses a second holding counts");
    "leeway", "a factor from 0.1 to 8 for time limits: windows, gaps, `keep`, what cues forgive, `within` on facts, stages", "1" => NumberKey::new(Unit::Factor, 0.1, 8.0, Some(1.0));
    "holds", "a factor from 0.1 to 8 for spans to be reached: `hold`, `charge`, `repeat`, `held`", "1" => NumberKey::new(Unit::Factor, 0.1, 8.0, Some(1.0));
    "one_by_one", "`true`: chords are pressed one button at a time; the second may come up to 1 s after the first", "`false`";
    "hand", "`\"left\"` or `\"right\"`: what that hand cannot reach is reported", "none";
}

/// How far a stick's middle may be from 0, on each axis.
pub(crate) const FARTHEST_MIDDLE: f64 = 0.5;

/// The families that have guards, and how many of the guards' keys each knows, from the first on.
pub(crate) const GUARDED: [(Family, usize); 3] = [(Family::Keys, 2), (Family::Mouse, 2), (Family::Pad, 4)];

/// The tables within a profile and within a player's file, each with its keys in the order of `docs/formats.md`.
pub fn table_keys() -> [KeyTable; 5] {
    let table = |name, keys| KeyTable { name, keys };
    [
        table("shape", SHAPE_KEYS),
        table("gauge", GAUGE_KEYS),
        table("panel", PATCH_KEYS),
        table("devices", DEVICE_KEYS),
        table("access", ACCESS_KEYS),
    ]
}

/// A table within a profile or a player's file.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct KeyTable {
    /// The table's name: `shape`, `gauge`, `panel`, `devices` or `access`.
    pub name: &'static str,
    /// Its keys.
    pub keys: &'static [TableKey],
}

/// The most characters of the title of a profile or a tape, and of a name in a tape.
pub(crate) const LONGEST_TITLE: usize = 200;

/// What is wrong with a title.
pub(crate) fn title_problem(title: &str) -> Option<String> {
    let length = title.chars().count();
    (length > LONGEST_TITLE)
        .then(|| format!("a title has at most {LONGEST_TITLE} characters, and this one has {length}; shorten it"))
}

/// Whether a text may be the name of an action, fact, mode or patch: letters, digits, `_` and `-`, a letter first.
pub(crate) fn valid_name(name: &str) -> bool {
    name.len() <= 64
        && name.starts_with(|c: char| c.is_ascii_alphabetic())
        && name.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'_' || b == b'-')
}
