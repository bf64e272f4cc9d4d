//! What must be so before an action can pull: its gate's facts, its input buffer, and the modes that it is heard in. For
//! tools that play in a game's stead.

use alloc::vec::Vec;
use core::time::Duration;

use super::{ActionView, Linkage, Plan};
use crate::gate::{Step, is_open_where};
use crate::mode::Modes;

/// The gate of an action (its `when` line).
///
/// ```
/// use tidy_lever::{Linkage, Profile};
///
/// let text = "tidy-lever = 1\n[facts]\ngrounded = true\nstate = [\"idle\", \"dash\"]\n\
///             [action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded within 90ms and not state is dash\"\n";
/// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
/// let gate = linkage.action("hop").unwrap().gate().unwrap();
/// assert_eq!(gate.facts(), ["grounded", "state"]);
/// assert_eq!(gate.lingers("grounded").unwrap().as_millis(), 90);
/// assert!(gate.is_open(|fact| if fact == "grounded" { "true" } else { "idle" }, |_| false));
/// assert!(!gate.is_open(|fact| if fact == "grounded" { "true" } else { "dash" }, |_| false));
/// # Ok::<(), tidy_lever::profile::Faults>(())
/// ```
#[derive(Clone, Copy, Debug)]
pub struct GateView<'l> {
    plan: &'l Plan,
    steps: &'l [Step],
}

impl<'l> GateView<'l> {
    fn fact(&self, truth: u16) -> usize {
        usize::from(self.plan.world.truths[usize::from(truth)].fact)
    }

    /// The facts that it reads, each once, in the order of the line.
    pub fn facts(&self) -> Vec<&'l str> {
        let mut names: Vec<&str> = Vec::new();
        for step in self.steps {
            if let Step::Plain(truth) | Step::Within(truth, _) = *step {
                let name = self.plan.world.facts[self.fact(truth)].name.as_str();
                if !names.contains(&name) {
                    names.push(name);
                }
            }
        }
        names
    }

    /// The actions that it asks with `NAME on`, each once.
    pub fn actions(&self) -> Vec<&'l str> {
        let mut names: Vec<&str> = Vec::new();
        for step in self.steps {
            if let Step::On(action) = *step {
                let name = self.plan.actions[usize::from(action)].name.as_str();
                if !names.contains(&name) {
                    names.push(name);
                }
            }
        }
        names
    }

    /// The longest `within` (coyote time) by which it reads a fact; `None` if it reads it plainly, or not at all.
    pub fn lingers(&self, fact: &str) -> Option<Duration> {
        let spans = self.steps.iter().filter_map(|step| match *step {
            Step::Within(truth, span) if self.plan.world.facts[self.fact(truth)].name == fact => Some(span),
            _ => None,
        });
        spans.max().map(Duration::from_micros)
    }

    /// Whether it is open where its facts have these values (a flag is `true` or `false`) and these actions are on, with
    /// nothing spent and nothing lingering.
    pub fn is_open<'f>(&self, fact: impl Fn(&'l str) -> &'f str, is_on: impl Fn(&'l str) -> bool) -> bool {
        is_open_where(self.steps, |_, step| match step {
            Step::Plain(truth) | Step::Within(truth, _) => {
                let plan = &self.plan.world.facts[self.fact(truth)];
                fact(&plan.name) == plan.words[usize::from(self.plan.world.truths[usize::from(truth)].value)]
            }
            Step::On(action) => is_on(&self.plan.actions[usize::from(action)].name),
            Step::Not | Step::All(_) | Step::Any(_) => false,
        })
    }
}

impl<'l> ActionView<'l> {
    /// Its gate; `None` for an action without `when`.
    pub fn gate(&self) -> Option<GateView<'l>> {
        let plan = &*self.linkage.0;
        let steps = plan.actions[self.number].gate.as_slice();
        (!steps.is_empty()).then_some(GateView { plan, steps })
    }

    /// How long a pull that its gate refused is kept (the input buffer); zero for not at all.
    pub fn keep(&self) -> Duration {
        Duration::from_micros(self.linkage.0.actions[self.number].keep)
    }

    /// Whether it is heard once these modes were switched, from how all modes are at first. Names that no mode has are
    /// passed over.
    pub fn is_heard_after(&self, switches: &[(&str, bool)]) -> bool {
        let modes = &self.linkage.0.world.modes;
        let number = |name: &str| modes.iter().position(|mode| mode.name == name);
        let switches = switches.iter().filter_map(|(name, on)| Some((number(name)? as u16, *on)));
        self.hears_after(&switches.collect::<Vec<_>>())
    }

    fn hears_after(&self, switches: &[(u16, bool)]) -> bool {
        let plan = &*self.linkage.0;
        let mut modes = Modes::new(&plan.world.modes);
        for (mode, on) in switches {
            modes.set(usize::from(*mode), *on);
        }
        modes.hears(&plan.world.modes, &plan.actions[self.number].heard)
    }

    /// The switches of modes after which it is heard, with as few as possible from how the modes are at first: none if it
    /// is heard at once; else what one action's pull switches; else its own mode turned on, alone if need be. `None` if
    /// none of these will do.
    ///
    /// ```
    /// use tidy_lever::{Linkage, Profile};
    ///
    /// let text = "tidy-lever = 1\n[modes]\nashore = { on = true }\nafloat = {}\n\
    ///             [action.board]\nkind = \"button\"\nkeys = \"KeyR\"\nmodes = [\"ashore\"]\n\
    ///             turns_on = [\"afloat\"]\nturns_off = [\"ashore\"]\n\
    ///             [action.paddle]\nkind = \"button\"\nkeys = \"KeyK\"\nmodes = [\"afloat\"]\n";
    /// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
    /// let [board, paddle] = ["board", "paddle"].map(|name| linkage.action(name).unwrap());
    /// let switches = paddle.heard_after().unwrap();
    /// assert_eq!(switches, [("ashore", false), ("afloat", true)]);
    /// assert!(paddle.is_heard_after(&switches) && !board.is_heard_after(&switches));
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn heard_after(&self) -> Option<Vec<(&'l str, bool)>> {
        let linkage: &'l Linkage = self.linkage;
        let plan = &*linkage.0;
        let own: &[u16] = match &plan.actions[self.number].heard {
            crate::mode::HeardPlan::In(modes) => modes,
            _ => &[],
        };
        let by_pulls = plan.actions[..plan.declared].iter().map(|action| {
            let off = action.turns_off.iter().map(|mode| (*mode, false));
            off.chain(action.turns_on.iter().map(|mode| (*mode, true))).collect::<Vec<_>>()
        });
        let count = plan.world.modes.len() as u16;
        let alone = own.iter().map(|mode| {
            let others = (0..count).filter(|other| other != mode).map(|other| (other, false));
            others.chain([(*mode, true)]).collect::<Vec<_>>()
        });
        let all_off = (0..count).map(|mode| (mode, false)).collect::<Vec<_>>();
        let single = own.iter().map(|mode| [(*mode, true)].to_vec());
        let mut ways = core::iter::once(Vec::new()).chain(by_pulls).chain(single).chain(alone).chain([all_off]);
        let switches = ways.find(|switches| self.hears_after(switches))?;
        Some(switches.into_iter().map(|(mode, on)| (plan.world.modes[usize::from(mode)].name.as_str(), on)).collect())
    }
}
