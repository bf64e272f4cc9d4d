//! Moments: what is fed, how far seats advance, and what happened, as messages.
//!
//! ```text
//!   PreUpdate       messages ──▶ reports ──▶ seats' queues;  paused, or a frame's advance: up to now
//!   FixedPreUpdate  up to the end of this fixed step, on real time
//!   FixedPostUpdate, PostUpdate   what systems told counts from just after what was played
//! ```

use bevy_ecs::prelude::*;
use bevy_time::{Fixed, Real, Time, Virtual};
use tidy_lever::adapter::Report;
use tidy_lever::handle::Fact;
use tidy_lever::{Event, Moment, What};

use crate::Advance;
use crate::adapter::Adapter;
use crate::happened::{Ended, Joined, Marked, Pulled};
use crate::players::{Players, Seat};

/// Writes what happened as a message, and for observers.
macro_rules! told {
    ($commands:ident, $happened:expr) => {{
        let happened = $happened;
        $commands.write_message(happened);
        $commands.trigger(happened);
    }};
}

/// How seats' time goes.
#[derive(Debug, Resource)]
pub(crate) struct Clock {
    advance: Advance,
    /// When the last frame began.
    frame: Moment,
    frozen: bool,
}

impl Clock {
    pub(crate) fn new(advance: Advance) -> Clock {
        Clock { advance, frame: Moment::ZERO, frozen: false }
    }
}

/// Feeds seats what the adapter reports, and lets players in.
pub(crate) fn hear(mut players: ResMut<Players>, mut adapter: ResMut<Adapter>, mut commands: Commands) {
    let players = &mut *players;
    let mut joined: Vec<usize> = players.sit_alone().into_iter().collect();
    let reports = std::mem::take(&mut adapter.reports);
    for report in &reports {
        match report {
            Report::Event(event) => joined.extend(players.feed(*event)),
            Report::Focus(focused, at) => players.each_seat(|seat| seat.focus_at(*focused, *at).is_ok()),
            Report::View(width, height) => players.view(*width, *height),
            Report::Came { device, name, at } => {
                players.came(*device, name);
                players.feed(Event::plugged(*at, *device, true));
            }
            Report::Gone { device, at } => {
                players.feed(Event::plugged(*at, *device, false));
            }
            Report::Gap(gap) => players.each_seat(|seat| {
                seat.skip(gap.to);
                true
            }),
            _ => {}
        }
    }
    adapter.reports = reports;
    for number in joined {
        let entity = commands.spawn(Seat { number }).id();
        players.seated(number, entity);
        told!(commands, Joined { entity, number });
    }
}

/// While the game's clock is paused `frozen` is true, and seats advance with each frame.
pub(crate) fn pause(
    mut players: ResMut<Players>,
    mut clock: ResMut<Clock>,
    game: Res<Time<Virtual>>,
    real: Res<Time<Real>>,
    mut commands: Commands,
) {
    let now = Moment::ZERO + real.elapsed();
    let since = std::mem::replace(&mut clock.frame, now);
    let is_frozen = game.is_paused() || game.relative_speed_f64() == 0.0;
    if std::mem::replace(&mut clock.frozen, is_frozen) != is_frozen {
        // The game's clock went on, or stood still, from the last frame on.
        players.each_seat(|seat| match seat.linkage().find::<Fact>("frozen") {
            Ok(frozen) => seat.tell_at(frozen, is_frozen, since.max(seat.next_moment())).is_ok(),
            Err(_) => true,
        });
    }
    if is_frozen && clock.advance == Advance::EachFixedStep {
        players.settle();
        advance(&mut players, now, &mut commands);
    }
}

/// Seats advance with each frame.
pub(crate) fn frame(mut players: ResMut<Players>, clock: Res<Clock>, mut commands: Commands) {
    if clock.advance == Advance::EachFrame {
        players.settle();
        advance(&mut players, clock.frame, &mut commands);
    }
}

/// Seats advance to the end of a fixed step: when that was, or will be, on real time.
pub(crate) fn fixed(
    mut players: ResMut<Players>,
    real: Res<Time<Real>>,
    game: Res<Time<Virtual>>,
    step: Res<Time<Fixed>>,
    mut commands: Commands,
) {
    let speed = game.effective_speed_f64();
    let behind = game.elapsed().saturating_sub(step.elapsed());
    let behind = if speed > 0.0 { behind.div_f64(speed) } else { behind };
    let to = Moment::ZERO + real.elapsed().saturating_sub(behind);
    players.settle();
    advance(&mut players, to, &mut commands);
}

/// What systems told counts from just after the step.
pub(crate) fn settle(mut players: ResMut<Players>) {
    players.settle();
}

fn advance(players: &mut Players, to: Moment, commands: &mut Commands) {
    let played = players.played();
    let Some(table) = players.table.as_mut().filter(|_| to > played) else { return };
    table.advance(to);
    let Some(table) = &players.table else { return };
    for (number, seat) in table.seats() {
        let Some(entity) = players.entity_of(number) else { continue };
        for what in seat.latest().happenings().copied() {
            match what.what() {
                What::Pulled => told!(commands, Pulled { entity, number, what }),
                What::Ended(_) => told!(commands, Ended { entity, number, what }),
                What::Mark(_) => told!(commands, Marked { entity, number, what }),
                _ => {}
            }
        }
    }
}
