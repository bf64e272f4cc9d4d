//! The spans that run out in a seat just now, for showing them: keeps, truths that linger, cooldowns.

use core::time::Duration;

use super::Seat;

/// What runs out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Runs {
    /// A pull that a gate refused stays ready.
    Kept,
    /// A truth that the game took back still counts for gates that read it with `within`.
    Lingers,
    /// An action cools down.
    Cools,
}

/// A span that runs out on the world's clock.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Countdown<'l> {
    /// What it is.
    pub runs: Runs,
    /// Whose it is: an action; or of a truth its fact.
    pub name: &'l str,
    /// For a fact of several words, the word that lingers.
    pub word: Option<&'l str>,
    /// What is left of it.
    pub left: Duration,
    /// How long it is in all.
    pub of: Duration,
}

fn micros(span: u64) -> Duration {
    Duration::from_micros(span)
}

impl Seat {
    /// What runs out as of the moment played: for a view that shows a game's feel while it is tuned.
    ///
    /// A truth that lingers is told with the longest span by which any gate reads it; one that a pull spent is not told.
    ///
    /// ```
    /// use std::time::Duration;
    /// use tidy_lever::seat::Runs;
    /// use tidy_lever::{Control, Device, Event, Fact, Linkage, Moment, Profile};
    ///
    /// let text = "tidy-lever = 1\n[facts]\ngrounded = false\n\
    ///             [action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded\"\nkeep = \"120ms\"\n";
    /// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
    /// let mut seat = linkage.seat(Moment::ZERO);
    /// seat.feed(Event::button(Moment::from_millis(10), Device::default(), "keys:Space".parse()?, true))?;
    /// seat.advance(Moment::from_millis(60));
    /// let kept = seat.countdowns().next().unwrap();
    /// assert_eq!((kept.runs, kept.name, kept.left), (Runs::Kept, "hop", Duration::from_millis(70)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn countdowns(&self) -> impl Iterator<Item = Countdown<'_>> {
        let (plan, engine) = (self.plan(), &self.engine);
        let world = engine.world.now(self.played().as_micros());
        let kept = engine.pulls.lists.kept.iter().filter_map(move |pending| {
            let action = &plan.actions[usize::from(pending.action)];
            let (due, _) = engine.pulls.lists.keeping.when(usize::from(pending.action))?;
            let left = micros(due.saturating_sub(world));
            Some(Countdown { runs: Runs::Kept, name: &action.name, word: None, left, of: micros(action.keep) })
        });
        let lingers = plan.world.truths.iter().zip(&*engine.world.truths).filter_map(move |(how, truth)| {
            let ended = truth.ended.filter(|_| !truth.holds && truth.spent.is_none())?;
            let left = (ended + how.longest()).checked_sub(world).filter(|left| *left > 0)?;
            let fact = &plan.world.facts[usize::from(how.fact)];
            let word = fact.words[usize::from(how.value)].as_str();
            let word = if fact.flag { None } else { Some(word) };
            Some(Countdown {
                runs: Runs::Lingers,
                name: &fact.name,
                word,
                left: micros(left),
                of: micros(how.longest()),
            })
        });
        let cools = plan.actions.iter().zip(engine.world.actions.iter()).filter_map(move |(action, state)| {
            let left = state.cool_until.checked_sub(world).filter(|left| *left > 0)?;
            let of = micros(action.cooldown);
            Some(Countdown { runs: Runs::Cools, name: &action.name, word: None, left: micros(left), of })
        });
        kept.chain(lingers).chain(cools)
    }
}
