//! Actions declared in code: `Action::button("hop").keys("Space")`. Spans are text as in files, `"120ms"`, or a
//! [`Duration`](core::time::Duration).

use super::action::{Action, ActiveIn, CueEntry, Inputs, Kind, Opposed, Rest, Stages};
use super::{Gauge, Placed, Shape, Spot};
use crate::control::Family;
use crate::direction::Sectors;
use crate::time::SpanEntry;

impl Action {
    fn new(name: &str, kind: Kind) -> Action {
        Action { name: name.into(), kind: kind.into(), ..Action::default() }
    }

    /// A button.
    pub fn button(name: &str) -> Action {
        Action::new(name, Kind::Button)
    }

    /// An axis.
    pub fn axis(name: &str) -> Action {
        Action::new(name, Kind::Axis)
    }

    /// A stick.
    pub fn stick(name: &str) -> Action {
        Action::new(name, Kind::Stick)
    }

    /// A sweep.
    pub fn sweep(name: &str) -> Action {
        Action::new(name, Kind::Sweep)
    }

    /// A pointer.
    pub fn pointer(name: &str) -> Action {
        Action::new(name, Kind::Pointer)
    }

    /// A gauge.
    pub fn gauge(name: &str, gauge: Gauge) -> Action {
        let action = Action { gauge: Some(gauge.into()), ..Action::new(name, Kind::Gauge) };
        action.give("gauge")
    }

    fn forgive(mut self, key: &'static str, span: SpanEntry) -> Action {
        self.forgives.push((key, span.into()));
        self.give(key)
    }

    /// How long before a motion's last direction its finishing press may come: a span such as `60ms`, the default.
    pub fn early(self, span: impl Into<SpanEntry>) -> Action {
        self.forgive("early", span.into())
    }

    /// How long a motion's first position may have been held: a span. By default `300ms` where that is `forward` or `back`
    /// without `held`, and as long as one likes elsewhere.
    pub fn fresh(self, span: impl Into<SpanEntry>) -> Action {
        self.forgive("fresh", span.into())
    }

    /// How long a motion bears its stick one eighth beyond its way: a span such as `70ms`, the default.
    pub fn astray(self, span: impl Into<SpanEntry>) -> Action {
        self.forgive("astray", span.into())
    }

    /// For less than this a neighbour interrupts no `held` step of a motion, and another straight no `twice`: a span such
    /// as `45ms`, the default.
    pub fn brush(self, span: impl Into<SpanEntry>) -> Action {
        self.forgive("brush", span.into())
    }

    /// How long one key may be up before the next goes down for a motion to count the diagonal between: a span such as
    /// `35ms`, the default.
    pub fn key_gap(self, span: impl Into<SpanEntry>) -> Action {
        self.forgive("key_gap", span.into())
    }

    /// How long a stick must have rested before it flicks: a span such as `20ms`, the default.
    pub fn rested(self, span: impl Into<SpanEntry>) -> Action {
        self.forgive("rested", span.into())
    }

    /// From which push on a motion's positions count, after the dead zone and before curve and scale; 0.35 by default.
    pub fn from_push(mut self, level: f64) -> Action {
        self.from_push = Some(level.into());
        self.give("from_push")
    }

    /// Lets the window of a double tap, a `twice` or a mash follow the player's own gaps: 1.4 times as long, within these
    /// two spans.
    pub fn paced(mut self, least: impl Into<SpanEntry>, most: impl Into<SpanEntry>) -> Action {
        self.paced = Some([least.into().into(), most.into().into()].into());
        self.give("paced")
    }

    /// For less than this a straight that a stick passes between a diagonal and rest is not its last direction: a span such
    /// as `80ms`, the default.
    pub fn settles(self, span: impl Into<SpanEntry>) -> Action {
        self.forgive("settles", span.into())
    }

    /// How long after a pull the next may come: a span such as `300ms`.
    pub fn cooldown(mut self, span: impl Into<SpanEntry>) -> Action {
        self.cooldown = Some(span.into().into());
        self.give("cooldown")
    }

    /// A name that comes back this long after each pull, a span such as `9t@60`.
    pub fn mark(mut self, name: &str, span: impl Into<SpanEntry>) -> Action {
        self.marks.push((name.into(), span.into().into()));
        self.give("marks")
    }

    /// The actions that lose a press which this one pulls on, too.
    pub fn outranks<'a>(mut self, names: impl IntoIterator<Item = &'a str>) -> Action {
        self.outranks = names.into_iter().map(Into::into).collect();
        self.give("outranks")
    }

    /// Holds its pulls back while one of these may still complete on the same press.
    pub fn waits_for<'a>(mut self, names: impl IntoIterator<Item = &'a str>) -> Action {
        self.waits_for = names.into_iter().map(Into::into).collect();
        self.give("waits_for")
    }

    /// When a pull may pass: a line over facts, such as `grounded within 90ms and not busy`.
    pub fn when(mut self, line: &str) -> Action {
        self.when = Some(line.into());
        self.give("when")
    }

    /// How long a pull that was refused stays ready, a span such as `120ms`.
    pub fn keep(mut self, span: impl Into<SpanEntry>) -> Action {
        self.keep = Some(span.into().into());
        self.give("keep")
    }

    /// Pulls again each time the gate opens while it is held.
    pub fn while_held(mut self) -> Action {
        self.while_held = true;
        self.give("while_held")
    }

    /// The facts that a pull spends, instead of those that its gate reads through `within`.
    pub fn spends<'a>(mut self, facts: impl IntoIterator<Item = &'a str>) -> Action {
        self.spends = Some(facts.into_iter().map(Into::into).collect());
        self.give("spends")
    }

    /// Pulls within a span of the moment at which a spent fact counted again grow by a stage, up to `count`.
    pub fn stages(mut self, count: u8, after: &str, within: impl Into<SpanEntry>) -> Action {
        let within = within.into().into();
        self.stages = Some(Stages { count: count.into(), after: after.into(), within }.into());
        self.give("stages")
    }

    /// The modes that its pulls turn on.
    pub fn turns_on<'a>(mut self, modes: impl IntoIterator<Item = &'a str>) -> Action {
        self.turns_on = modes.into_iter().map(Into::into).collect();
        self.give("turns_on")
    }

    /// The modes that its pulls turn off.
    pub fn turns_off<'a>(mut self, modes: impl IntoIterator<Item = &'a str>) -> Action {
        self.turns_off = modes.into_iter().map(Into::into).collect();
        self.give("turns_off")
    }

    /// One press serves one pull of a group, ever.
    pub fn group(mut self, name: &str) -> Action {
        self.group = Some(name.into());
        self.give("group")
    }

    fn give(mut self, key: &'static str) -> Action {
        self.given.push(Placed::new(key, Spot::NONE));
        self
    }

    fn inputs(mut self, family: Family, inputs: Inputs) -> Action {
        self.inputs[family.index()] = Some(inputs.into());
        self.give(family.name())
    }

    /// What it hears on keyboards: a key, a list of keys, or [`Legs`](crate::profile::Legs).
    pub fn keys(self, inputs: impl Into<Inputs>) -> Action {
        self.inputs(Family::Keys, inputs.into())
    }

    /// What it hears on mice.
    pub fn mouse(self, inputs: impl Into<Inputs>) -> Action {
        self.inputs(Family::Mouse, inputs.into())
    }

    /// What it hears on gamepads.
    pub fn pad(self, inputs: impl Into<Inputs>) -> Action {
        self.inputs(Family::Pad, inputs.into())
    }

    /// What it hears on the touch panel.
    pub fn touch(self, inputs: impl Into<Inputs>) -> Action {
        self.inputs(Family::Touch, inputs.into())
    }

    /// The modes it is heard in; without any call it is heard in every mode, and covered like any.
    pub fn modes<'a>(mut self, names: impl IntoIterator<Item = &'a str>) -> Action {
        self.heard = ActiveIn::In(names.into_iter().map(Into::into).collect());
        self.give("modes")
    }

    /// Heard whatever mode covers.
    pub fn always(mut self) -> Action {
        self.heard = ActiveIn::Always;
        self.give("modes")
    }

    /// The levels at which an analogue control used as a button goes down and up again; 0.55 and 0.45 by default.
    pub fn thresholds(mut self, down_at: f64, up_at: f64) -> Action {
        self.down_at = Some(down_at.into());
        self.up_at = Some(up_at.into());
        self.give("down_at").give("up_at")
    }

    /// When it pulls: a cue line such as `hold 300ms`, a [`Cue`](crate::cue::Cue) or a [`Rule`](crate::cue::Rule);
    /// `press` by default for a button. Called again, it adds another: any of them pulls.
    ///
    /// ```
    /// use tidy_lever::profile::Action;
    /// use tidy_lever::{Linkage, Profile};
    ///
    /// let slip = Action::button("slip").keys("KeyG").cue("press").cue("steer twice within 240ms");
    /// let steer = Action::stick("steer").pad("left-stick");
    /// let linkage = Linkage::build(&Profile::new("Otter Post").action(steer).action(slip))?;
    /// assert_eq!(linkage.action("slip").map(|slip| slip.cues().count()), Some(2));
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn cue(mut self, cue: impl Into<CueEntry>) -> Action {
        self.cues.push(cue.into().into());
        self.give("cue")
    }

    /// What two opposite keys held together mean.
    pub fn opposed(mut self, opposed: Opposed) -> Action {
        self.opposed = opposed;
        self.give("opposed")
    }

    /// Where it stands when nothing moves it.
    pub fn rest(mut self, rest: Rest) -> Action {
        self.rest = rest;
        self.give("rest")
    }

    /// How its signal is bent, on every family without a shape of its own.
    pub fn shape(mut self, shape: Shape) -> Action {
        self.shape = Some(shape.into());
        self.give("shape")
    }

    /// How its signal is bent on one family.
    pub fn shape_on(mut self, family: Family, shape: Shape) -> Action {
        self.family_shape[family.index()] = Some(shape.into());
        self.give(super::keys::FAMILY_SHAPES[family.index()])
    }

    /// What an axis's −1, 0 and 1 stand for.
    pub fn range(mut self, low: f64, rest: f64, high: f64) -> Action {
        self.range = Some([low, rest, high].into());
        self.give("range")
    }

    /// Into how many directions a stick is read: 4 or 8 (the default).
    pub fn directions(mut self, count: u8) -> Action {
        self.directions = Some(i64::from(count).into());
        self.give("directions")
    }

    /// Degrees a count of a mouse's motion, across and up.
    pub fn per_count(mut self, across: f64, up: f64) -> Action {
        self.per_count = Some([across, up].into());
        self.give("per_count")
    }

    /// Degrees a second at a stick's full deflection, across and up.
    pub fn per_second(mut self, across: f64, up: f64) -> Action {
        self.per_second = Some([across, up].into());
        self.give("per_second")
    }

    /// From how many pixels on a held pointer drags.
    pub fn drag_from(mut self, pixels: f64) -> Action {
        self.drag_from = Some(pixels.into());
        self.give("drag_from")
    }

    /// The stick whose direction each pull carries.
    pub fn aim(mut self, stick: &str) -> Action {
        self.aim = Some(stick.into());
        self.give("aim")
    }

    /// How the circle is cut into directions.
    pub fn sectors(mut self, sectors: Sectors) -> Action {
        self.sectors = sectors;
        self.give("sectors")
    }
}
