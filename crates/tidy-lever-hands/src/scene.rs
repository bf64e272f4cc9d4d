//! A scene: one action as it is performed, with the world that it needs.
//!
//! ```text
//!   action ─▶ ways to play it (devices, cue lines) ─┐
//!   gate   ─▶ facts that open it, that shut it ─────┼─▶ trial number n, for a hand and a seed
//!   modes  ─▶ switches before it ───────────────────┘
//! ```

use std::time::Duration;

use tidy_lever::linkage::ActionView;
use tidy_lever::{Event, Linkage, Moment};
use tidy_lever_tuning::Answer;

use crate::dice::Dice;
use crate::distract::{Deliberate, Doing, Pastime, Pastimes};
use crate::grip::{Grip, Way, collide, grip};
use crate::hand::Hand;
use crate::perform::Part;
use crate::sketch::Sketch;
use crate::surroundings::Surroundings;

/// In which situation a trial is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[non_exhaustive]
pub enum Situation {
    /// The gate stands open all the while.
    Open,
    /// The gate opens, and the hand means that moment: landing. Only with an input buffer (`keep`).
    Opening,
    /// The gate shuts, and the hand means that moment: running off a ledge. Only with coyote time (`within` on a fact).
    Closing,
    /// It pulled before, and an answer keeps its gate shut for a while; the hand means the moment when that ends.
    Repeated,
}

impl Situation {
    /// Its name in reports.
    pub const fn name(self) -> &'static str {
        match self {
            Situation::Open => "gate open",
            Situation::Opening => "as the gate opens",
            Situation::Closing => "as the gate closes",
            Situation::Repeated => "again, as the gate reopens",
        }
    }
}

/// One trial, ready to be played.
#[derive(Clone, Debug)]
pub struct Trial {
    /// What the devices say, in order.
    pub events: Vec<Event>,
    /// Modes that are switched at its beginning.
    pub modes: Vec<(String, bool)>,
    /// Facts that are told, and when.
    pub facts: Vec<(Moment, String, String)>,
    /// What it is played with.
    pub way: Way,
    /// In which situation.
    pub situation: Situation,
    /// Where what is meant begins.
    pub begins: Moment,
    /// When all that the cue asks for had been done, and the gate stood open.
    pub done: Moment,
    /// The last moment at which a pull counts as found.
    pub until: Moment,
    /// Where it ends.
    pub end: Moment,
    /// Actions that are played on purpose in these stretches, besides the one that is meant.
    pub(crate) deliberate: Vec<(Doing, Moment, Moment)>,
}

/// One way to play an action.
#[derive(Clone, Debug)]
struct Playing {
    way: Way,
    part: Part,
    pastimes: Pastimes,
    /// Buttons that must be held beside it, as its gate asks for them with `NAME on`.
    beside: Vec<Grip>,
    deliberate: Doing,
}

/// An action that hands can perform.
#[derive(Clone, Debug)]
pub struct Scene {
    /// Its number among the profile's actions.
    pub(crate) number: usize,
    /// The action's name.
    pub name: String,
    playings: Vec<Playing>,
    /// The switches of modes that it needs.
    pub modes: Vec<(String, bool)>,
    /// The facts that open its gate.
    pub opening: Vec<(String, String)>,
    /// A fact that shuts its gate, with the value that does, and that opens it again.
    shutting: Option<(String, String, String)>,
    /// The same for a fact that lingers.
    lingering: Option<(String, String, String)>,
    /// How long an answer to its own pull keeps its gate shut, counted from the pull.
    answered: Option<Duration>,
    /// The facing alternates.
    turns: bool,
    delay: Duration,
}

/// What a gate needs: facts with their values, and actions that must be on.
type Needs = (Vec<(String, String)>, Vec<String>);

/// The most other buttons that a hand is distracted with.
const MOST_PASTIMES: usize = 32;
/// The most assignments of facts that are tried.
const MOST_TRIED: usize = 65_536;
/// When a trial may begin, in ms: until then the world is set up.
const BEGINS: f64 = 120.0;
/// How long it goes on after the last event, in ms.
const AFTER: f64 = 400.0;
/// A pull that comes no later than this after it could have is found, in ms.
const PATIENCE: f64 = 60.0;

/// The first assignment of facts that opens a gate, beginning with the values that they have at first; with as few actions
/// on as possible.
fn needs(linkage: &Linkage, action: ActionView<'_>) -> Option<Needs> {
    let Some(gate) = action.gate() else { return Some((Vec::new(), Vec::new())) };
    let facts = gate.facts();
    let first = |fact: &str| linkage.facts().find(|(name, _)| *name == fact).map_or("", |(_, value)| value);
    let values: Vec<Vec<&str>> = facts
        .iter()
        .map(|fact| {
            let first = first(fact);
            let others = linkage.fact_values(fact).filter(|value| *value != first);
            core::iter::once(first).chain(others).collect()
        })
        .collect();
    let count: usize =
        values.iter().map(Vec::len).try_fold(1usize, |all, one| all.checked_mul(one)).unwrap_or(usize::MAX);
    let actions = gate.actions();
    let on_sets =
        core::iter::once(Vec::new()).chain(actions.iter().map(|action| vec![*action])).chain([actions.clone()]);
    for on in on_sets {
        for number in 0..count.min(MOST_TRIED) {
            let mut rest = number;
            let chosen: Vec<&str> = values
                .iter()
                .map(|all| {
                    let place = rest % all.len();
                    rest /= all.len();
                    all[place]
                })
                .collect();
            let value = |fact: &str| facts.iter().position(|own| *own == fact).map_or("", |place| chosen[place]);
            if gate.is_open(value, |action| on.contains(&action)) {
                let told = facts.iter().zip(&chosen).map(|(fact, value)| ((*fact).to_owned(), (*value).to_owned()));
                return Some((told.collect(), on.iter().map(|action| (*action).to_owned()).collect()));
            }
        }
    }
    None
}

impl Scene {
    /// An action as it can be performed.
    ///
    /// # Errors
    /// Why hands can't perform it, for people.
    pub(crate) fn new(
        linkage: &Linkage,
        number: usize,
        around: &mut Surroundings<'_>,
        answers: &[Answer],
    ) -> Result<Scene, String> {
        let action = around.actions[number];
        let name = action.name();
        if action.cue().is_none() {
            return Err("it has no cue: it is read as a value, and never pulls".into());
        }
        let (opening, on) = needs(linkage, action).ok_or("no values of its facts open its gate")?;
        let modes = action.heard_after().ok_or("no switch of modes lets it be heard")?;
        let modes: Vec<_> = modes.into_iter().map(|(mode, on)| (mode.to_owned(), on)).collect();
        let playings = playings(linkage, (number, action), around, &modes, &on);
        if playings.is_empty() {
            return Err("none of the devices that hands play has all the controls that its cue needs".into());
        }
        let shut = |only_lingering: bool| {
            let gate = action.gate()?;
            let facts = opening.iter().filter(|(fact, _)| !only_lingering || gate.lingers(fact).is_some());
            facts.clone().find_map(|(fact, open)| {
                let shuts = |other: &&str| {
                    let value = |name: &str| match opening.iter().find(|(own, _)| own == name) {
                        Some((own, _)) if own == fact => *other,
                        Some((_, value)) => value,
                        None => "",
                    };
                    !gate.is_open(value, |action| on.iter().any(|own| own == action))
                };
                let other = linkage.fact_values(fact).filter(|value| value != open).find(shuts)?;
                Some((fact.clone(), other.to_owned(), open.clone()))
            })
        };
        let simulated = !answers.is_empty();
        let keeps = !action.keep().is_zero();
        let answered = answers.iter().filter(|answer| answer.action == name).find_map(|answer| {
            let asks = opening.iter().any(|(fact, open)| *fact == answer.fact && *open != answer.value);
            asks.then_some(answer.after + answer.lasts?)
        });
        Ok(Scene {
            number,
            name: name.to_owned(),
            playings,
            modes,
            shutting: shut(true).or_else(|| shut(false)).filter(|_| keeps && !simulated),
            lingering: shut(true).filter(|_| !simulated),
            answered: answered.filter(|_| keeps),
            turns: !opening.iter().any(|(fact, _)| fact == "facing"),
            delay: action.delay().map_or(Duration::ZERO, |delay| delay.at_most),
            opening,
        })
    }

    /// Whether some of its trials are timed to the moment at which its gate opens or closes.
    pub fn is_timed(&self) -> bool {
        self.shutting.is_some() || self.lingering.is_some()
    }

    /// What it is played with.
    pub fn ways(&self) -> Vec<Way> {
        let mut ways: Vec<Way> = self.playings.iter().map(|playing| playing.way).collect();
        ways.dedup();
        ways
    }

    /// Trial number `number` of a hand; the same for the same seed, everywhere.
    pub fn trial(&self, hand: &Hand, seed: u64, number: u64) -> Trial {
        let count = self.playings.len() as u64;
        let playing = &self.playings[(number % count) as usize];
        let faces_left = self.turns && (number / count) % 2 == 1;
        let mut sketch = Sketch::new(hand, Dice::new(seed, &self.name, number));
        let situation = self.situation(&mut sketch);
        let lead = playing.pastimes.lead(&mut sketch, BEGINS);
        let mut begins = lead.free;
        let mut deliberate: Vec<Deliberate> = lead.deliberate.into_iter().collect();
        let mut played = playing.part.play(&mut sketch, begins, faces_left);
        let mut opens = None;
        match situation {
            Situation::Open => {}
            Situation::Opening | Situation::Closing => {
                // The error is that of the press, so the moment lies that much before it.
                opens = Some((played.done - sketch.dice.about(hand.timing)).max(BEGINS - 40.0));
            }
            Situation::Repeated => {
                let shut = self.answered.map_or(0.0, |span| span.as_micros() as f64 / 1e3);
                let reopens = played.done + shut;
                let took = played.done - begins;
                let meant = reopens + sketch.dice.about(hand.timing);
                // It ends with the first one's presses over.
                begins = (meant - took).max(sketch.ends().1 + 20.0);
                played = playing.part.play(&mut sketch, begins, faces_left);
                opens = Some(reopens);
            }
        }
        let opened = opens.filter(|_| situation != Situation::Closing).map_or(played.done, |at| at.max(played.done));
        let until = opened + self.delay.as_micros() as f64 / 1e3 + PATIENCE;
        if let Some((press, up)) = played.again
            && sketch.dice.chance(hand.nervous)
        {
            let (wait, held) = (sketch.dice.span((80.0, 0.3)), sketch.dice.span(hand.press));
            sketch.press(press, (up + wait).max(until + 1.0), held);
        }
        let last = sketch.ends().1.max(until);
        if let Some((other, from)) = lead.beside {
            sketch.press(other.press, from, last + 60.0 - from);
            deliberate.push((other.deliberate, from, last + 60.0));
        }
        for grip in &playing.beside {
            sketch.hold(*grip, BEGINS - 80.0, last + 60.0);
        }
        let end = sketch.ends().1.max(last) + AFTER;
        deliberate.push((playing.deliberate.clone(), 0.0, end));
        let moment = |at: f64| Moment::from_micros(libm::round((at + hand.wear.lead()).max(0.0) * 1e3) as u64);
        let mut facts: Vec<(Moment, String, String)> =
            self.opening.iter().map(|(fact, value)| (Moment::ZERO, fact.clone(), value.clone())).collect();
        if self.turns {
            facts.push((Moment::ZERO, "facing".into(), if faces_left { "left" } else { "right" }.into()));
        }
        let shift = match situation {
            Situation::Opening => self.shutting.as_ref().map(|(fact, shut, open)| (fact, shut, open)),
            Situation::Closing => self.lingering.as_ref().map(|(fact, shut, open)| (fact, open, shut)),
            _ => None,
        };
        if let (Some((fact, before, after)), Some(at)) = (shift, opens) {
            facts.retain(|(_, own, _)| own != fact);
            facts.push((Moment::ZERO, fact.clone(), before.clone()));
            facts.push((moment(at), fact.clone(), after.clone()));
        }
        facts.sort_by_key(|(at, ..)| *at);
        Trial {
            events: sketch.finish(),
            modes: self.modes.clone(),
            facts,
            way: playing.way,
            situation,
            // A trigger, or the second of two fingers, may be there a little before.
            begins: moment(begins - 40.0 - 3.0 * hand.fingers.1),
            done: moment(opened),
            until: moment(until),
            end: moment(end),
            deliberate: deliberate
                .into_iter()
                .map(|(actions, from, to)| (actions, moment(from), moment(to + AFTER)))
                .collect(),
        }
    }

    fn situation(&self, sketch: &mut Sketch<'_>) -> Situation {
        let mut all = vec![Situation::Open];
        all.extend(self.shutting.as_ref().map(|_| Situation::Opening));
        all.extend(self.lingering.as_ref().map(|_| Situation::Closing));
        all.extend(self.answered.map(|_| Situation::Repeated));
        all[sketch.dice.pick(all.len())]
    }
}

fn playings(
    linkage: &Linkage,
    (number, action): (usize, ActionView<'_>),
    around: &mut Surroundings<'_>,
    modes: &[(String, bool)],
    on: &[String],
) -> Vec<Playing> {
    let heard = around.heard(modes);
    let around = &*around;
    let mut all: Vec<Playing> = Vec::new();
    for way in Way::TRIED {
        for cue in action.cues() {
            let Some(part) = Part::new(linkage, action.name(), cue, way) else { continue };
            let points = part.grips().any(|grip| matches!(grip, Grip::Push(..)));
            let label = if !points && way == Way::Dpad { Way::Pad } else { way };
            // Without directions a stick adds nothing to the pad's buttons.
            if !points && way == Way::Stick && all.iter().any(|known| known.way == Way::Pad) {
                continue;
            }
            let beside: Option<Vec<Grip>> = on.iter().map(|name| grip(linkage, name, way)).collect();
            let Some(beside) = beside else { continue };
            let used: Vec<Grip> = part.grips().chain(beside.iter().copied()).collect();
            let is_used = |other: Grip| used.iter().any(|grip| collide(*grip, other));
            let mut deliberate: Vec<usize> =
                used.iter().flat_map(|grip| around.going_off(&heard, way, *grip)).collect();
            let named = part.names.iter().chain(on).filter_map(|name| around.numbers.get(name.as_str()).copied());
            deliberate.extend(named.filter(|other| heard.has(*other)));
            deliberate.sort_unstable();
            deliberate.dedup();
            let own = Some(number).filter(|number| heard.has(*number)).and_then(|number| around.moved[&way][number]);
            let beside_it = around.beside(linkage, &heard, way);
            let presses =
                beside_it.presses.iter().filter(|plain| plain.number != number && !is_used(Grip::Press(plain.press)));
            let presses = presses.take(MOST_PASTIMES).map(|plain| {
                let shares = own.is_some_and(|own| collide(own, Grip::Press(plain.press)));
                let is_alone = plain.sharing - usize::from(shares) == 1;
                Pastime {
                    press: plain.press,
                    deliberate: plain.doing.clone(),
                    can_be_held: is_alone && around.eager[plain.number],
                }
            });
            let pastimes = Pastimes { walk: beside_it.walk.clone(), presses: presses.collect() };
            let deliberate = deliberate.into();
            all.push(Playing { way: label, part, pastimes, beside, deliberate });
        }
    }
    all
}
