//! What a player must do for a cue, step by step, for a game that draws it.

use alloc::string::{String, ToString};
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use super::{Labels, Prompt};
use crate::control::{Family, Part};
use crate::cue::{Act, Asked, By, Cue, Position};
use crate::direction::Direction;
use crate::linkage::{ActionView, ControlView, Linkage};
use crate::profile::Leg;

/// What the hand does in one step.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum PromptAct {
    /// Press.
    Press,
    /// Press, and then let go.
    Release,
    /// Hold for this long; a charge is let go then.
    Hold(Duration),
    /// Press, and let go sooner than this.
    Tap(Duration),
    /// Press this often within the span.
    Mash(u32, Duration),
    /// Turn the stick there: what the cue says, and where that is on the screen; nowhere for neutral.
    Toward(Position, Option<Direction>),
    /// Turn the stick there, and hold it for this long.
    HoldToward(Position, Option<Direction>, Duration),
    /// Give the same direction, any, twice.
    Twice,
    /// Turn the stick round, so many eighths of a circle.
    Circle(u32),
    /// Push the stick from the centre to its edge at once.
    Flick,
}

/// One step of what a player must do.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct PromptStep {
    /// What the hand does.
    pub act: PromptAct,
    /// With which controls; any of them will do. For a direction that keys give, the keys to press together. None where the
    /// stick only has to come back to neutral.
    pub prompts: Vec<Prompt>,
    /// Together with the step before, and not after it.
    pub together: bool,
}

impl fmt::Display for PromptStep {
    /// In a few words: `hold E`, `left stick down`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let legs = self.prompts.iter().filter(|prompt| prompt.leg.is_some());
        let joint = if matches!(self.act, PromptAct::Toward(..) | PromptAct::HoldToward(..)) { " + " } else { " or " };
        let text = |all: Vec<&str>| all.join(joint);
        let names = text(self.prompts.iter().map(|prompt| prompt.text.as_str()).collect());
        match self.act {
            PromptAct::Press => f.write_str(&names),
            PromptAct::Release => write!(f, "let go of {names}"),
            PromptAct::Hold(_) => write!(f, "hold {names}"),
            PromptAct::Tap(_) => write!(f, "tap {names}"),
            PromptAct::Mash(count, _) => write!(f, "{names} {count} times"),
            PromptAct::Toward(position, to) | PromptAct::HoldToward(position, to, _) => {
                if matches!(self.act, PromptAct::HoldToward(..)) {
                    f.write_str("hold ")?;
                }
                match to {
                    Some(_) if legs.count() == self.prompts.len() && !names.is_empty() => f.write_str(&names),
                    Some(to) if !names.is_empty() => write!(f, "{names} {to}"),
                    _ => f.write_str(position.name()),
                }
            }
            PromptAct::Twice => write!(f, "{names}, the same direction twice"),
            PromptAct::Circle(_) => write!(f, "{names} round"),
            PromptAct::Flick => write!(f, "flick {names}"),
        }
    }
}

impl Linkage {
    /// What a player must do with the controls of a family for an action to pull: for each of its cues the steps, one after
    /// the other. `faces_left` decides where `forward` and `back` are. A cue that the family has no controls for is left out.
    ///
    /// ```
    /// use tidy_lever::prompt::Labels;
    /// use tidy_lever::{Family, Linkage, Profile};
    ///
    /// let text = r#"
    ///     tidy-lever = 1
    ///     [action.steer]
    ///     kind = "stick"
    ///     pad = "left-stick"
    ///     keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
    ///     [action.toss]
    ///     kind = "button"
    ///     keys = "KeyJ"
    ///     pad = "west"
    ///     [action.skim]
    ///     kind = "button"
    ///     cue = "steer rolls 236 then toss within 350ms"
    /// "#;
    /// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
    /// let told = |family| -> Vec<String> {
    ///     let all = linkage.prompt_steps("skim", family, &Labels::default(), false);
    ///     all[0].iter().map(|step| step.to_string()).collect()
    /// };
    /// assert_eq!(told(Family::Keys), ["S", "S + D", "D", "J"]);
    /// assert_eq!(told(Family::Pad), ["left stick down", "left stick down-right", "left stick right", "west button"]);
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn prompt_steps(
        &self,
        action: &str,
        family: Family,
        labels: &Labels,
        faces_left: bool,
    ) -> Vec<Vec<PromptStep>> {
        let Some(view) = self.action(action) else { return Vec::new() };
        let teller = Teller { linkage: self, family, labels, faces_left };
        let can_be_done = |step: &PromptStep| {
            let neutral = matches!(step.act, PromptAct::Toward(_, None) | PromptAct::HoldToward(_, None, _));
            neutral || !step.prompts.is_empty()
        };
        view.cues().map(|cue| teller.steps(view, cue)).filter(|steps| steps.iter().all(can_be_done)).collect()
    }
}

/// Tells the steps of cues.
struct Teller<'l> {
    linkage: &'l Linkage,
    family: Family,
    labels: &'l Labels,
    faces_left: bool,
}

impl Teller<'_> {
    fn steps(&self, view: ActionView<'_>, cue: &Cue) -> Vec<PromptStep> {
        let subject = cue.subject.as_deref().unwrap_or(view.name());
        cue.rule.asks().into_iter().map(|asked| self.step(subject, asked)).collect()
    }

    fn step(&self, subject: &str, asked: Asked<'_>) -> PromptStep {
        let on_screen = |position: Position| position.on_screen(self.faces_left);
        let prompts = match (asked.act, asked.by) {
            (Act::Toward(position, _), _) => on_screen(position).map_or(Vec::new(), |to| self.toward(subject, to)),
            (Act::Twice, _) => one_a_leg(self.controls(subject)),
            (_, By::Subject) => self.controls(subject),
            (_, By::Direction(direction)) => self.controls(&alloc::format!("{subject}.{direction}")),
            (_, By::Action(name)) => self.controls(name),
        };
        let act = match asked.act {
            Act::Press => PromptAct::Press,
            Act::Release => PromptAct::Release,
            Act::Hold(span) => PromptAct::Hold(span),
            Act::Tap(under) => PromptAct::Tap(under),
            Act::Mash(count, within) => PromptAct::Mash(count, within),
            Act::Toward(position, held) if held.is_zero() => PromptAct::Toward(position, on_screen(position)),
            Act::Toward(position, held) => PromptAct::HoldToward(position, on_screen(position), held),
            Act::Twice => PromptAct::Twice,
            Act::Circle(eighths) => PromptAct::Circle(eighths),
            Act::Flick => PromptAct::Flick,
        };
        PromptStep { act, prompts, together: asked.together }
    }

    /// The controls of an action, or those that push a stick in a direction.
    fn controls(&self, name: &str) -> Vec<Prompt> {
        if let Some((stick, direction)) = name.split_once('.') {
            let toward = match direction {
                "minus" => Some(Direction::Left),
                "plus" => Some(Direction::Right),
                name => Direction::from_name(name),
            };
            let mut all = toward.map_or(Vec::new(), |toward| self.toward(stick, toward));
            // A whole stick is pushed there.
            for prompt in all.iter_mut().filter(|prompt| prompt.leg.is_none()) {
                prompt.text = alloc::format!("{} {direction}", prompt.text);
            }
            return all;
        }
        self.linkage.prompts(name, self.family, self.labels)
    }

    /// What pushes a stick in a direction: the legs of a cross, together, or whole sticks.
    fn toward(&self, stick: &str, to: Direction) -> Vec<Prompt> {
        let Some(view) = self.linkage.action(stick) else { return Vec::new() };
        let (x, y) = to.signs();
        let fits = |view: &&ControlView| {
            let pushes = match view.leg {
                None => view.part == Part::Whole,
                Some(Leg::Up) => y > 0,
                Some(Leg::Down) => y < 0,
                Some(Leg::Left | Leg::Minus) => x < 0,
                Some(Leg::Right | Leg::Plus) => x > 0,
            };
            view.control.family() == self.family && pushes
        };
        let all: Vec<Prompt> = view.controls().iter().filter(fits).map(|view| Prompt::of(view, self.labels)).collect();
        // Whole sticks where there are any: one control says it all. Else one key a leg.
        let whole: Vec<Prompt> = all.iter().filter(|prompt| prompt.leg.is_none()).take(1).cloned().collect();
        if !whole.is_empty() {
            return whole;
        }
        let mut legs = one_a_leg(all);
        // As one says it: down before right.
        legs.sort_by_key(|prompt| matches!(prompt.leg, Some(Leg::Left | Leg::Right)));
        legs
    }
}

/// Of several keys of one leg the first will do.
fn one_a_leg(all: Vec<Prompt>) -> Vec<Prompt> {
    let mut legs: Vec<Prompt> = Vec::new();
    for prompt in all {
        if prompt.leg.is_none() || !legs.iter().any(|known| known.leg == prompt.leg) {
            legs.push(prompt);
        }
    }
    legs
}

impl PromptStep {
    /// Several steps in a line, those that go together joined by `+`: `S, S + D, D, J`.
    pub fn line(steps: &[PromptStep]) -> String {
        let mut line = String::new();
        for step in steps {
            if !line.is_empty() {
                line += if step.together { " + " } else { ", " };
            }
            line += &step.to_string();
        }
        line
    }
}
