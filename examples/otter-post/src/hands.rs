//! What the game asks a seat, and what it tells it: the only place that names actions and facts.

use tidy_lever::following::{in_steps, short_way};
use tidy_lever::seat::Told;
use tidy_lever::{Direction, Fact, Seat, What};

use crate::world::{Kind, Medium, Otter, Wishes};

tidy_lever::levers! {
    /// The actions, facts and modes of the profile that the game knows.
    pub(crate) struct Hands {
        steer: Stick,
        mirror: Axis,
        look: Sweep,
        point: Pointer,
        hop: Button,
        dash: Button,
        about: Button,
        toss: Button,
        throw: Button,
        r#use as "use": Button,
        open_bag as "open-bag": Button,
        guard: Button,
        bow: Button,
        slip: Button,
        skim: Button,
        salute: Button,
        knock: Button,
        whistle: Button,
        lamp: Button,
        board: Button,
        leave: Button,
        paddle: Gauge,
        rush: Button,
        dive: Axis,
        choose_left as "choose.left": Button,
        choose_right as "choose.right": Button,
        scroll: Button,
        scroll_back as "scroll-back": Button,
        pick: Button,
        next_parcel as "next-parcel": Button,
        last_parcel as "last-parcel": Button,
        grounded: Fact,
        near_punt: Fact,
        busy: Fact,
        facing: Fact,
        state: Fact,
        menu: Mode,
    }
}

/// What was asked of the menu in one step.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct MenuWishes {
    pub(crate) down: u32,
    pub(crate) up: u32,
    /// How often to the right, less how often to the left.
    pub(crate) turn: i32,
    pub(crate) picked: bool,
}

impl Hands {
    /// What a seat wants of its otter in the step that `advance` just played.
    pub(crate) fn wishes(&self, seat: &Seat) -> Wishes {
        let pulled = |button| seat.button(button).pulled();
        let point = seat.pointer(self.point);
        let asked = point.edges().went_down() || point.edges().is_down();
        let mut wishes = Wishes {
            walk: seat.stick(self.steer).xy(),
            looks: Some(seat.axis(self.mirror)).filter(|axis| axis.edges().is_down()).map(|axis| axis.value()),
            pan: seat.sweep(self.look).degrees().0 as f32,
            runs: seat.button(self.dash).is_on(),
            opens_bag: pulled(self.open_bag),
            guards: seat.button(self.guard).is_down(),
            bows: pulled(self.bow),
            slips: pulled(self.slip),
            salutes: pulled(self.salute),
            knocks: pulled(self.knock),
            whistles: pulled(self.whistle),
            lamp: seat.button(self.lamp).is_on(),
            boards: pulled(self.board),
            leaves: pulled(self.leave),
            paddles: seat.gauge(self.paddle).value(),
            rushes: seat.button(self.rush).is_on(),
            dives: seat.axis(self.dive).value(),
            uses: pulled(self.r#use),
            parcel: seat.button(self.next_parcel).pulls() as i32 - seat.button(self.last_parcel).pulls() as i32,
            goes_to: point.in_view().filter(|_| asked),
            ..Wishes::default()
        };
        // Single pulls, for what they carry.
        for happening in seat.latest().happenings().filter(|happening| happening.what() == What::Pulled) {
            match happening.action(seat.linkage()).unwrap_or_default() {
                "hop" => wishes.hop = Some(happening.stage().unwrap_or(1)),
                "toss" => wishes.throws.push(Kind::Toss),
                "throw" => wishes.throws.push(Kind::Throw(happening.amount().unwrap_or(0.0))),
                "skim" => wishes.throws.push(Kind::Skim),
                "about" => wishes.about = Some(happening.last_aim().filter(|(_, age)| age.as_millis() <= 120)),
                _ => {}
            }
            if happening.over(seat.linkage()).is_some() {
                wishes.takes_back = true;
            }
        }
        for happening in seat.latest().happenings() {
            match happening.mark(seat.linkage()) {
                Some("hidden") => wishes.vanishes = true,
                Some("turn") => wishes.turns = true,
                _ => {}
            }
        }
        wishes
    }

    /// The same of the menu.
    pub(crate) fn menu_wishes(&self, seat: &Seat) -> MenuWishes {
        let pulls = |button| seat.button(button).pulls();
        let presses = |button| seat.button(button).presses() as i32;
        MenuWishes {
            down: pulls(self.scroll),
            up: pulls(self.scroll_back),
            turn: presses(self.choose_right) - presses(self.choose_left),
            picked: pulls(self.pick) > 0,
        }
    }

    /// What is true of an otter now, fact by fact.
    pub(crate) fn facts(&self, otter: &Otter, near_punt: bool) -> [(Fact, Told<'static>); 5] {
        let grounded = otter.medium == Medium::Quay && otter.on_ground;
        [
            (self.grounded, Told::Flag(grounded)),
            (self.near_punt, Told::Flag(near_punt)),
            (self.busy, Told::Flag(otter.is_busy())),
            (self.facing, Told::Word(otter.facing())),
            (self.state, Told::Word(otter.state.name())),
        ]
    }
}

/// The way that a turn about ends: towards the direction held or given just now, else straight back. True is left.
pub(crate) fn about(faces_left: bool, aim: Option<(Direction, std::time::Duration)>) -> bool {
    let Some((direction, _)) = aim else { return !faces_left };
    let towards = f64::from(direction.degrees());
    match in_steps(short_way(90.0, towards), 90.0) as i32 {
        -90 => false,
        90 => true,
        _ => !faces_left,
    }
}
