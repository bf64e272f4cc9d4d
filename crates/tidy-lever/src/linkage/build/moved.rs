//! Axes and sticks: whole controls, crosses, shapes, ranges.

use super::*;

/// Degrees a count of a mouse and degrees a second of a stick, unless an action says otherwise.
const PER_COUNT: f64 = 0.1;
const PER_SECOND: f64 = 180.0;
/// For less than this a straight between a diagonal and rest only flashes by, in µs, unless a stick says otherwise.
const SETTLES: u64 = 80_000;
/// The most degrees a count or a second.
const MOST_RATE: f64 = 100_000.0;

impl Builder<'_> {
    pub(super) fn shape(&mut self, shape: &Placed<Shape>, path: &str) -> u32 {
        let mut problems = Vec::new();
        let plan = ShapePlan::build(shape, |key, problem| problems.push((key.to_string(), problem)));
        for (key, problem) in problems {
            self.fault(shape.spot, format!("{path}.{key}"), problem);
        }
        self.inputs.shapes.push(plan);
        self.inputs.shapes.len() as u32 - 1
    }

    /// An axis or a stick: crosses first, then whole controls.
    pub(super) fn moved(&mut self, number: usize, action: &Action, levels: (i32, i32), path: &str) {
        let common = action.shape.as_ref().map(|shape| self.shape(shape, &format!("{path}.shape")));
        let (first_cross, first_feed) = (self.inputs.crosses.len() as u32, self.feeds.len() as u32);
        // Its whole feeds, which are its own, before those of its legs.
        for legs_turn in [false, true] {
            for family in Family::ALL {
                let Some(inputs) = &action.inputs[family.index()] else { continue };
                let own = &action.family_shape[family.index()];
                let inner = format!("{path}.{family}");
                match &inputs.value {
                    Inputs::Any(names) if !legs_turn => {
                        let shape = own.as_ref().map(|s| self.shape(s, &format!("{path}.{family}_shape"))).or(common);
                        for name in names {
                            self.whole(number, action, family, name, shape.unwrap_or(0), &inner);
                        }
                    }
                    Inputs::Legs(_) if legs_turn => {
                        let shape = own.as_ref().map(|s| self.shape(s, &format!("{path}.{family}_shape"))).or(common);
                        self.cross(number, family, action, levels, shape.unwrap_or(0), &inner);
                    }
                    _ => {}
                }
            }
            if !legs_turn {
                let feeds = (first_feed..self.feeds.len() as u32).collect();
                let moved = self.moved_plan(number, action, levels, feeds, path);
                self.actions[number].moved = Some(Index::new(self.inputs.moved.len() as u16));
                self.inputs.moved.push(moved);
            }
        }
        let crosses = first_cross..self.inputs.crosses.len() as u32;
        if let Some(moved) = self.inputs.moved.last_mut() {
            moved.alone = match crosses.len() {
                0 if moved.sweep.is_none() => Alone::Always,
                1 if moved.sweep.is_none() => Alone::BesideCross(crosses.start),
                _ => Alone::Unknown,
            };
            moved.crosses = crosses;
        }
    }

    pub(super) fn moved_plan(
        &mut self,
        number: usize,
        action: &Action,
        levels: (i32, i32),
        feeds: Vec<u32>,
        path: &str,
    ) -> MovedPlan {
        let four = match &action.directions {
            None => false,
            Some(count) if count.value == 4 || count.value == 8 => count.value == 4,
            Some(count) => {
                self.fault(count.spot, format!("{path}.directions"), "`directions` must be 4 or 8");
                false
            }
        };
        let mut range = [-1.0, 0.0, 1.0];
        if let Some(given) = &action.range {
            range = given.value;
            let [low, rest, high] = range;
            let inside = range.iter().all(|n| n.abs() <= MOST_RANGE);
            let ordered = (low <= rest && rest <= high) || (low >= rest && rest >= high);
            if !inside || !ordered || low == high {
                let problem = format!(
                    "a range needs `low` below `rest` below `high`, each from -{MOST_RANGE} to {MOST_RANGE}; found {low}, {rest}, {high}"
                );
                self.fault(given.spot, format!("{path}.range"), problem);
            }
        }
        let compass = Compass { four, sectors: action.sectors, down_at: levels.0, up_at: levels.1 };
        if action.sectors == Sectors::Equal
            && action.kind.value == Kind::Stick
            && action.down_at.is_some()
            && !self.any_legs(action)
        {
            let problem =
                "`down_at` has no effect here: it applies to legs and box sectors, and this stick has neither";
            self.warn(action.name.spot, format!("{path}.down_at"), problem);
        }
        let settles = self.forgiven(&[action], "settles", SETTLES);
        MovedPlan {
            action: number as u16,
            stick: action.kind.value != Kind::Axis,
            crosses: 0..0,
            feeds,
            opposed: action.opposed,
            rest: action.rest,
            compass,
            buttons: [None; 8],
            range: range.map(|n| fixed::from_f64(n).unwrap_or(0)),
            alone: Alone::default(),
            sweep: (action.kind.value == Kind::Sweep).then(|| self.sweep(action, path)),
            motions: Vec::new(),
            pushes: false,
            is_heard: false,
            is_restless: false,
            settles,
        }
    }

    /// A sweep's number and its rate at full deflection.
    fn sweep(&mut self, action: &Action, path: &str) -> (u16, [i64; 2]) {
        let rate = action.per_second.clone().unwrap_or([PER_SECOND; 2].into());
        let rate = self.rate(&rate, &format!("{path}.per_second"));
        self.inputs.sweeps += 1;
        (self.inputs.sweeps as u16 - 1, rate)
    }

    /// Degrees a count or a second in billionths.
    fn rate(&mut self, rate: &Placed<[f64; 2]>, path: &str) -> [i64; 2] {
        if !rate.iter().all(|n| n.abs() <= MOST_RATE) {
            let problem =
                format!("degrees must be from -{MOST_RATE} to {MOST_RATE}, found {}, {}", rate.value[0], rate.value[1]);
            self.fault(rate.spot, path, problem);
        }
        rate.value.map(|n| fixed::from_f64(n * 1e3).unwrap_or(0))
    }

    pub(super) fn any_legs(&self, action: &Action) -> bool {
        action.inputs.iter().flatten().any(|inputs| matches!(inputs.value, Inputs::Legs(_)))
    }

    /// A control whose own level moves an axis or a stick.
    pub(super) fn whole(
        &mut self,
        number: usize,
        action: &Action,
        family: Family,
        name: &Placed<String>,
        shape: u32,
        path: &str,
    ) {
        let Some(found) = self.control(family, name, path) else { return };
        let plain = name.split('.').next().unwrap_or_default();
        let stick = action.kind.value != Kind::Axis;
        let sweeps = self.actions[number].kind == Kind::Sweep;
        if sweeps && found.sort == Sort::Counts && found.part == Part::Whole {
            return self.counts(number, found, action, shape, name, path);
        }
        let problem = match (stick, found.sort, found.part) {
            (true, Sort::Pair, Part::Whole) => None,
            (true, Sort::Pair, _) => Some(format!("a stick takes both axes; write `{plain}`")),
            (true, ..) => Some(format!(
                "`{}` has no two axes; give a stick, or legs as in {{ up = …, left = …, down = …, right = … }}",
                name.value
            )),
            (false, Sort::Level, _) | (false, Sort::Pair, Part::X | Part::Y) => None,
            (false, Sort::Pair, Part::Whole) => {
                Some(format!("an axis takes one of its two axes; write `{plain}.x` or `{plain}.y`"))
            }
            (false, Sort::Pair, _) => None,
            (false, Sort::Button, _) => Some(format!(
                "`{}` is a button; an axis takes it as a leg, as in {{ minus = …, plus = … }}",
                name.value
            )),
            (false, ..) => Some(format!("`{}` reports movement, not a position, so an axis can't use it", name.value)),
        };
        if let Some(problem) = problem {
            return self.fault(name.spot, path, problem);
        }
        if !self.note(number, found, None, name, path) {
            return;
        }
        let dead = self.inputs.shapes[shape as usize].has_dead_zone();
        let sticks = [Control::LEFT_STICK, Control::RIGHT_STICK];
        if !dead && sticks.contains(&found.control) {
            let problem = format!(
                "`{}` has no dead zone, and no real stick rests at exactly 0; add `pad_shape = {{ dead = 0.15 }}`",
                name.value
            );
            self.warn(name.spot, path, problem);
        }
        let digital = found.control == Control::DPAD || self.is_cross(found.control);
        self.feed(found, FeedPlan { shape, digital, ..FeedPlan::new(number as u16, found.part) });
    }

    /// A mouse's motion: counts to degrees. Of the shape only scale and invert make sense.
    fn counts(&mut self, number: usize, found: Found, action: &Action, shape: u32, name: &Placed<String>, path: &str) {
        if !self.note(number, found, None, name, path) {
            return;
        }
        let rate = action.per_count.clone().unwrap_or([PER_COUNT; 2].into());
        let [across, up] = self.rate(&rate, &path.replace(".mouse", ".per_count"));
        let (sx, sy) = self.inputs.shapes[shape as usize].factors();
        let scaled = |rate: i64, factor: i64| (i128::from(rate) * i128::from(factor) / i128::from(fixed::ONE)) as i64;
        let per_count = [scaled(across, sx), scaled(up, sy)];
        self.feed(found, FeedPlan { per_count, ..FeedPlan::new(number as u16, found.part) });
    }

    /// A cross or a pair of controls, each leg a list.
    pub(super) fn cross(
        &mut self,
        number: usize,
        family: Family,
        action: &Action,
        levels: (i32, i32),
        shape: u32,
        path: &str,
    ) {
        let Some(Placed { value: Inputs::Legs(legs), spot }) = &action.inputs[family.index()] else { return };
        let stick = action.kind.value != Kind::Axis;
        let right: &[Leg] = if stick { &Leg::CROSS } else { &Leg::PAIR };
        let mut all: [LegPlan; 4] = Default::default();
        let (before, mut unknown) = (self.faults.len(), Vec::new());
        for (leg, names) in &legs.0 {
            if !right.contains(leg) {
                let names: Vec<&str> = right.iter().map(|leg| leg.name()).collect();
                let kind = action.kind.value.name();
                let article = if kind == "axis" { "an" } else { "a" };
                let problem =
                    format!("{article} {kind} has no leg `{}`; its legs are {}", leg.name(), names.join(", "));
                let at = names_spot(legs, *leg).unwrap_or(*spot);
                self.fault(at, path, problem);
                continue;
            }
            let (contacts, feeds) = (self.inputs.leg_contacts.len() as u32, self.inputs.leg_feeds.len() as u32);
            for name in names {
                let path = format!("{path}.{}", leg.name());
                let Some(found) = self.control(family, name, &path) else {
                    unknown.push((*leg, name));
                    continue;
                };
                if !self.works_as_button(found, name, &path) || !self.note(number, found, Some(*leg), name, &path) {
                    continue;
                }
                let analogue = matches!(found.sort, Sort::Level) || found.part.is_half();
                if analogue {
                    let plan = FeedPlan { leg: true, ..FeedPlan::new(number as u16, found.part) };
                    let feed = self.feed(found, plan);
                    self.inputs.leg_feeds.push(feed);
                } else {
                    let contact = self.contact(found, levels);
                    let (cross, upright) = (self.inputs.crosses.len() as u32, matches!(leg, Leg::Up | Leg::Down));
                    let leg = LegOf { cross, pair: 0, upright };
                    self.contacts[contact].wires.push(Wire { action: number as u16, leg: Some(leg) });
                    self.inputs.leg_contacts.push(contact as u32);
                }
            }
            let place = match leg {
                Leg::Up => 0,
                Leg::Left | Leg::Minus => 1,
                Leg::Down => 2,
                Leg::Right | Leg::Plus => 3,
            };
            all[place] = LegPlan {
                contacts: contacts..self.inputs.leg_contacts.len() as u32,
                feeds: feeds..self.inputs.leg_feeds.len() as u32,
            };
        }
        self.unknown_legs(family, (*spot, path), before, &unknown);
        let missing: Vec<&str> =
            right.iter().filter(|leg| !legs.0.iter().any(|(l, _)| l == *leg)).map(|leg| leg.name()).collect();
        if !missing.is_empty() {
            let problem = format!("this action is one-sided: it has no {}", missing.join(", no "));
            self.warn(*spot, path, problem);
        }
        self.inputs.crosses.push(CrossPlan {
            moved: StickIndex::new(self.inputs.moved.len() as u16),
            shape,
            pairs: [0; 2],
            nine: Default::default(),
        });
        self.cross_legs.push(all);
    }

    /// Several legs with names of one habit (`W`, `A`, `S`, `D`) are one fault, with the line to write.
    fn unknown_legs(
        &mut self,
        family: Family,
        (spot, path): (Spot, &str),
        before: usize,
        unknown: &[(Leg, &Placed<String>)],
    ) {
        let meant: Vec<_> =
            unknown.iter().map(|(leg, name)| (leg, name, crate::control::meant(family, name))).collect();
        if meant.len() < 2 || meant.iter().any(|(.., names)| names.len() != 1) {
            return;
        }
        // What was told of each of them is known by its place: a profile that was built in code has none.
        if unknown.iter().any(|(_, name)| !name.spot.is_some()) {
            return;
        }
        let is_told = |fault: &Fault| unknown.iter().any(|(_, name)| name.spot == fault.spot);
        let others: Vec<Fault> = self.faults.drain(before..).filter(|fault| !is_told(fault)).collect();
        self.faults.extend(others);
        let wrong: Vec<String> = meant.iter().map(|(_, name, _)| format!("`{}`", name.value)).collect();
        let right: Vec<String> =
            meant.iter().map(|(leg, _, names)| format!("{} = \"{}\"", leg.name(), names[0])).collect();
        let problem = format!("`{family}` has no controls {}; write `{{ {} }}`", wrong.join(", "), right.join(", "));
        self.fault(spot, path, problem);
    }

    /// The directions of sticks, the ends of axes and what pointers do as buttons, behind the declared actions.
    pub(super) fn directions(&mut self) {
        for parent in 0..self.actions.len() {
            let ActionPlan { moved, pointer, kind, .. } = self.actions[parent];
            for (direction, word) in directions(kind) {
                let number = Index::new(self.actions.len() as u16);
                let name = format!("{}.{word}", self.actions[parent].name);
                let heard = self.actions[parent].heard.clone();
                if let Some(moved) = moved.map(|moved| &mut self.inputs.moved[usize::from(moved)]) {
                    if !(moved.compass.four && direction.is_diagonal()) {
                        moved.buttons[*direction as usize] = Some(number);
                    }
                } else if let Some(pointer) = pointer.map(|pointer| &mut self.inputs.pointers[usize::from(pointer)]) {
                    if *word == "drag" { pointer.drag = number } else { pointer.click = number }
                }
                self.actions.push(ActionPlan::new(name, Kind::Button, heard));
            }
        }
    }
}
