//! What systems ask through: readings by handle, and what the game tells.

use std::collections::BTreeMap;

use bevy_app::App;
use bevy_app::prelude::*;
use bevy_ecs::prelude::*;
use bevy_ecs::system::SystemParam;
use tidy_lever::handle::{ActionHandle, Fact, Levers as Handles, Mode};
use tidy_lever::{Bookmark, Reading};

use crate::happened::Pulled;
use crate::players::{FactValue, Players, Seat, Word};
use crate::{LeverSystems, profile};

/// The handles that the game uses, found in the profile that plays.
#[derive(Debug, Resource)]
struct Found<P> {
    levers: Option<P>,
    /// Of which change of the profile they are.
    change: u64,
}

/// Where this system is in each seat's history.
#[derive(Debug, Default)]
struct Bookmarks(BTreeMap<usize, Bookmark>);

/// A system's view of the players' seats: readings by the handles of `P`, which [`tidy_lever::levers!`] declares and
/// [`add_levers`](LeversApp::add_levers) finds.
#[derive(SystemParam)]
pub struct Levers<'w, 's, P: Handles + Send + Sync + 'static> {
    players: Res<'w, Players>,
    found: Res<'w, Found<P>>,
    bookmarks: Local<'s, Bookmarks>,
}

impl<P: Handles + Send + Sync + 'static> std::fmt::Debug for Levers<'_, '_, P> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Levers").field("players", &*self.players).finish_non_exhaustive()
    }
}

impl<P: Handles + Send + Sync + 'static> Levers<'_, '_, P> {
    /// The handles, and what happened since this system read this seat last; the first time, what the seat's last step brought.
    /// `None` until the profile is loaded, and for a seat that was left.
    ///
    /// Call it once for each seat in a run of the system: a second reading is of nothing new. A system that does not run for a while
    /// gets all that happened meanwhile; if that is not wanted, ask [`latest`](Levers::latest).
    pub fn read<'r>(&'r mut self, seat: &Seat) -> Option<(P, Reading<'r>)> {
        let (levers, own) = (self.found.levers?, self.players.seat(seat)?);
        match self.bookmarks.0.entry(seat.number) {
            std::collections::btree_map::Entry::Occupied(bookmark) => Some((levers, own.read(bookmark.into_mut()))),
            std::collections::btree_map::Entry::Vacant(place) => {
                place.insert(own.bookmark());
                Some((levers, own.latest()))
            }
        }
    }

    /// The handles, and what the last step brought, whoever read it before.
    pub fn latest(&self, seat: &Seat) -> Option<(P, Reading<'_>)> {
        Some((self.found.levers?, self.players.seat(seat)?.latest()))
    }

    /// The handles alone.
    pub fn handles(&self) -> Option<P> {
        self.found.levers
    }

    /// The players.
    pub fn players(&self) -> &Players {
        &self.players
    }

    /// Tells a fact: it counts from just after the step that is played, before the next events. Telling the same again changes
    /// nothing.
    pub fn tell(&self, seat: &Seat, fact: Fact, value: impl Into<FactValue>) {
        self.players.tell(seat, Word::Fact(fact, value.into()));
    }

    /// Switches a mode, from just after the step that is played.
    pub fn set_mode(&self, seat: &Seat, mode: Mode, on: bool) {
        self.players.tell(seat, Word::Mode(mode, on));
    }
}

fn find<P: Handles + Send + Sync + 'static>(players: Res<Players>, mut found: ResMut<Found<P>>) {
    if found.change == players.changes() {
        return;
    }
    found.change = players.changes();
    // It was checked before the profile was taken.
    if let Some(levers) = players.profile().and_then(|profile| P::find(&profile.linkage).ok()) {
        found.levers = Some(levers);
    }
}

/// What an app takes besides the plugin.
pub trait LeversApp {
    /// Finds the handles of `P` in the profile. A profile that lacks one of them is not used: what is missing is logged, and the last
    /// good one plays on. Call it before the first update, once for each struct of handles.
    fn add_levers<P: Handles + Send + Sync + 'static>(&mut self) -> &mut Self;

    /// Tells a fact from a component of each player, each step: `value` gives which fact, and what it is.
    ///
    /// In an app: `app.tell_from::<Pim, Body, _>(|pim, body| (pim.grounded, body.on_ground))`.
    fn tell_from<P, C, T>(&mut self, value: fn(&P, &C) -> (Fact, T)) -> &mut Self
    where
        P: Handles + Send + Sync + 'static,
        C: Component,
        T: Into<FactValue> + 'static;
}

impl LeversApp for App {
    fn add_levers<P: Handles + Send + Sync + 'static>(&mut self) -> &mut App {
        self.insert_resource(Found::<P> { levers: None, change: 0 });
        let needs = |linkage: &tidy_lever::Linkage| P::find(linkage).map(drop).map_err(|missing| missing.to_string());
        self.world_mut().resource_mut::<Players>().needs(needs);
        self.add_systems(PreUpdate, find::<P>.in_set(LeverSystems).after(profile::adopt))
    }

    fn tell_from<P, C, T>(&mut self, value: fn(&P, &C) -> (Fact, T)) -> &mut App
    where
        P: Handles + Send + Sync + 'static,
        C: Component,
        T: Into<FactValue> + 'static,
    {
        let tell = move |levers: Levers<P>, bodies: Query<(&Seat, &C)>| {
            let Some(own) = levers.handles() else { return };
            for (seat, component) in &bodies {
                let (fact, value) = value(&own, component);
                levers.tell(seat, fact, value);
            }
        };
        self.add_systems(FixedPostUpdate, tell.before(crate::step::settle))
            .add_systems(PostUpdate, tell.before(crate::step::settle))
    }
}

/// A run condition: whether an action of any player fired since the condition was asked last.
pub fn any_pulled<P, H>(of: fn(&P) -> H) -> impl FnMut(MessageReader<Pulled>, Levers<P>) -> bool + Clone
where
    P: Handles + Send + Sync + 'static,
    H: ActionHandle + 'static,
{
    move |mut pulls: MessageReader<Pulled>, levers: Levers<P>| {
        let handle = levers.handles().map(|levers| of(&levers));
        pulls.read().filter(|pull| handle.is_some_and(|handle| pull.is_of(handle))).count() > 0
    }
}
