//! Promise: the law holds at a whole table, too. Several seats with players' files of their own, files laid over while they
//! play, what comes late, gaps, saves that are gone back to: however it is cut into ticks, the same happens at the same moments.
//! And no player's settings make a good profile unusable.
//!
//! `TIDY_LEVER_CASES` asks for more cases, `TIDY_LEVER_SEED` for others; a failure names its seed.

use crate::any::{Act, BUTTONS, KEYS, acts, event, pick, profile, put};
use crate::asked::asked;
use fastrand::Rng;
use tidy_lever::access::{Access, FACTORS, Which};
use tidy_lever::profile::{numbers, with_number};
use tidy_lever::remap::Remap;
use tidy_lever::seat::Capacity;
use tidy_lever::table::Table;
use tidy_lever::{Bookmark, Device, Linkage, Moment, Profile};

/// One thing that is done at a table.
#[derive(Clone, Copy, Debug)]
enum Step {
    /// A device speaks to whom it belongs; anything else is told to this seat.
    Act(usize, Act),
    /// The same, this many µs late.
    Late(usize, Act, u64),
    /// This seat goes over to another player's file.
    Lay(usize, usize),
}

impl Step {
    /// Where the game must have played to before it, for one that ends at a moment: time is not cut otherwise there.
    fn begins(self, at: u64) -> Option<u64> {
        match self {
            Step::Act(_, Act::Gap(gap)) => Some(at - gap),
            Step::Act(..) => None,
            Step::Late(..) | Step::Lay(..) => Some(at),
        }
    }
}

/// A table's players, and all that is done.
struct Case {
    /// The profile under several players' files.
    linkages: Vec<Linkage>,
    seats: usize,
    steps: Vec<(u64, Step)>,
}

/// The devices of each seat: some move two.
const DEVICES: [&[usize]; 3] = [&[0, 2, 3], &[1, 2], &[0, 1]];
/// Behind everything.
const REST: u64 = 2_000_000;

/// A factor between the ends of what is allowed, often at them.
fn factor(dice: &mut Rng) -> f64 {
    match dice.u8(0..4) {
        0 => FACTORS.0,
        1 => FACTORS.1,
        _ => ((FACTORS.0 * 1e3).ln() + dice.f64() * (FACTORS.1 / FACTORS.0).ln()).exp().round().max(100.0) / 1e3,
    }
}

/// A player's file: other keys, and settings.
fn file(dice: &mut Rng) -> String {
    let mut text = "tidy-lever = 1\n".to_owned();
    for button in BUTTONS {
        if dice.u8(0..3) == 0 {
            text += &format!("[action.{button}]\nkeys = [\"{}\", \"{}\"]\n", pick(dice, &KEYS), pick(dice, &KEYS));
        }
    }
    text += "[access]\n";
    let mut setting = |dice: &mut Rng, line: String| {
        if dice.u8(0..3) == 0 {
            text += &line;
        }
    };
    let (leeway, holds) = (factor(dice), factor(dice));
    setting(dice, format!("leeway = {leeway}\n"));
    setting(dice, format!("holds = {holds}\n"));
    setting(dice, "one_by_one = true\n".into());
    setting(dice, "mash_rate = 12\n".into());
    let toggled = format!("toggled = [\"{}\"]\n", pick(dice, &BUTTONS));
    setting(dice, toggled);
    text
}

impl Case {
    /// The case of a seed; `None` if its profile can't be built.
    fn new(seed: u64) -> Option<Case> {
        let mut dice = Rng::with_seed(seed);
        let profile = profile(&mut dice);
        Linkage::build(&profile).ok()?;
        let over = |text: String| Remap::from_toml(&text).unwrap().over(&profile).map(|laid| laid.linkage);
        let linkages =
            (0..3).map(|_| file(&mut dice)).map(|text| over(text.clone()).unwrap_or_else(|f| panic!("{text}: {f}")));
        let (linkages, seats) = (linkages.collect(), dice.usize(1..4));
        let mut steps = Vec::new();
        for (at, act) in acts(&mut dice) {
            let seat = 1 + dice.usize(0..seats);
            if dice.u8(0..30) == 0 {
                steps.push((at, Step::Lay(seat, dice.usize(0..3))));
            }
            let is_late = dice.u8(0..12) == 0 && !matches!(act, Act::Gap(_));
            let by = dice.u64(0..30_000).min(at);
            steps.push((at, if is_late { Step::Late(seat, act, by) } else { Step::Act(seat, act) }));
        }
        Some(Case { linkages, seats, steps })
    }

    /// What came of it in each seat, and each seat's state. Without dice each stretch is fed and played at once; with them it is
    /// cut at random, fed in any order, read now and then, and gone back in.
    fn play(&self, mut dice: Option<Rng>) -> Vec<(Vec<String>, u64)> {
        let mut party = Party::new(self);
        let (mut next, mut at, mut saves) = (0, 0, 2);
        while next < self.steps.len() {
            let until = self.steps[next..].iter().position(|(at, step)| step.begins(*at).is_some());
            let until = until.map_or(self.steps.len(), |place| next + place);
            let limit = self
                .steps
                .get(until)
                .map_or(self.steps[self.steps.len() - 1].0 + REST, |(at, step)| step.begins(*at).unwrap_or(*at));
            match &mut dice {
                None => self.steps[next..until].iter().for_each(|step| party.put(*step)),
                Some(dice) => {
                    while at < limit || next < until {
                        at = (at + [1, 700, 8_333, 16_667, 120_000][dice.usize(0..5)]).min(limit);
                        // What comes later may be there already, or not yet; and in any order of its moments.
                        let ahead = if at == limit { u64::MAX / 2 } else { dice.u64(0..3) * 10_000 };
                        let from = next;
                        while next < until && self.steps[next].0 <= at + ahead {
                            next += 1;
                        }
                        let mut moments: Vec<_> = self.steps[from..next].chunk_by(|one, two| one.0 == two.0).collect();
                        // What is late plays in the order of telling.
                        let late = moments
                            .partition_point(|steps| steps[0].0 <= party.table.seat(1).unwrap().played().as_micros());
                        dice.shuffle(&mut moments[late..]);
                        moments.into_iter().flatten().for_each(|step| party.put(*step));
                        if saves > 0 && dice.u8(0..12) == 0 {
                            saves -= 1;
                            party.there_and_back(&self.steps[next..until], at + 500_000);
                        }
                        party.table.advance(Moment::from_micros(at));
                        if dice.bool() {
                            party.read();
                        }
                    }
                }
            }
            party.table.advance(Moment::from_micros(limit));
            party.read();
            (next, at) = (until, limit);
            if let Some((end, step)) = self.steps.get(until) {
                party.step(self, *end, *step);
                (next, at) = (until + 1, *end);
            }
        }
        party.table.advance(Moment::from_micros(at + REST));
        party.read();
        let states = party.table.seats().map(|(_, seat)| seat.state_hash()).collect::<Vec<_>>();
        party.heard.into_iter().zip(states).collect()
    }
}

/// A table with one reader at each seat.
struct Party {
    table: Table,
    bookmarks: Vec<Bookmark>,
    heard: Vec<Vec<String>>,
}

impl Party {
    fn new(case: &Case) -> Party {
        let mut table = Table::new(&case.linkages[0], 3).capacity(Capacity::default().history(1 << 14)).unwrap();
        for (number, devices) in DEVICES.iter().take(case.seats).enumerate() {
            let devices: Vec<Device> = devices.iter().map(|number| Device::new(*number).unwrap()).collect();
            table.sit(&case.linkages[number], &devices);
        }
        let bookmarks: Vec<Bookmark> = table.seats().map(|(_, seat)| seat.bookmark()).collect();
        Party { table, heard: vec![Vec::new(); bookmarks.len()], bookmarks }
    }

    fn act(&mut self, at: u64, seat: usize, act: Act) {
        match event(Moment::from_micros(at), act) {
            Some(event) => drop(self.table.feed(event).unwrap()),
            None => put(self.table.seat_mut(seat).unwrap(), (at, act)),
        }
    }

    fn put(&mut self, (at, step): (u64, Step)) {
        if let Step::Act(seat, act) = step {
            self.act(at, seat, act);
        }
    }

    /// A step before which the game has played to where it begins.
    fn step(&mut self, case: &Case, at: u64, step: Step) {
        match step {
            Step::Act(_, Act::Gap(_)) => {
                for number in 1..=case.seats {
                    self.table.seat_mut(number).unwrap().skip(Moment::from_micros(at));
                }
                self.table.advance(Moment::from_micros(at));
            }
            Step::Act(seat, act) => self.act(at, seat, act),
            Step::Late(seat, act, by) => self.act(at - by, seat, act),
            Step::Lay(number, file) => {
                let seat = self.table.seat_mut(number).unwrap();
                seat.relink(&case.linkages[file], &mut [&mut self.bookmarks[number - 1]]);
            }
        }
    }

    fn read(&mut self) {
        for ((_, seat), (bookmark, heard)) in self.table.seats().zip(self.bookmarks.iter_mut().zip(&mut self.heard)) {
            let reading = seat.read(bookmark);
            assert_eq!(reading.lost(), 0);
            heard.extend(reading.happenings().map(|one| {
                format!("{} {} {:?}", one.at(), one.action(seat.linkage()).unwrap_or_default(), one.what())
            }));
        }
    }

    /// As if it had never been.
    fn there_and_back(&mut self, steps: &[(u64, Step)], to: u64) {
        let saved =
            self.table.saved(&self.bookmarks.iter().enumerate().map(|(n, own)| (n + 1, own)).collect::<Vec<_>>());
        steps.iter().take(20).for_each(|step| self.put(*step));
        self.table.advance(Moment::from_micros(to));
        let heard = self.heard.clone();
        self.read();
        self.heard = heard;
        let mut own: Vec<_> = self.bookmarks.iter_mut().enumerate().map(|(n, own)| (n + 1, own)).collect();
        self.table.restore(&saved, &mut own).unwrap();
    }
}

#[test]
fn a_table_gives_the_same_however_it_is_cut_and_whatever_comes_late_or_is_laid_over() {
    let (first, count) = (asked("TIDY_LEVER_SEED", 0), asked("TIDY_LEVER_CASES", 600));
    let (mut built, mut pulls) = (0, 0);
    for seed in first..first + count {
        let Some(case) = Case::new(seed) else { continue };
        built += 1;
        let wanted = case.play(None);
        pulls += wanted.iter().flat_map(|(heard, _)| heard).filter(|line| line.ends_with("Pulled")).count();
        let came = case.play(Some(Rng::with_seed(seed ^ 0x1a5)));
        assert_eq!(came, wanted, "TIDY_LEVER_SEED={seed} TIDY_LEVER_CASES=1");
    }
    // It must be about something.
    assert!(built * 2 > count && pulls as u64 > built * 10, "{built} of {count} were built, with {pulls} pulls");
}

/// Any settings within their ranges.
fn settings(dice: &mut Rng, names: &[String]) -> Access {
    let mut access = Access::default().leeway(factor(dice)).holds(factor(dice));
    access = if dice.bool() { access.one_by_one() } else { access };
    access = if dice.bool() { access.mash_rate(1.0 + dice.f64() * 29.0) } else { access };
    match dice.u8(0..3) {
        0 => access.toggled(Which::All),
        1 => access.toggled(Which::Named(names.iter().filter(|_| dice.bool()).cloned().collect())),
        _ => access,
    }
}

/// All profiles that ship with the project.
fn shipped() -> Vec<String> {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let recipes =
        std::fs::read_dir(root.join("demo/recipes")).unwrap().map(|entry| entry.unwrap().path().join("profile.toml"));
    let templates =
        std::fs::read_dir(root.join("crates/tidy-lever-cli/src/templates")).unwrap().map(|entry| entry.unwrap().path());
    let templates = templates.filter(|path| path.extension().is_some_and(|ending| ending == "toml"));
    let recipes = recipes.filter(|path| path.is_file());
    let mut all: Vec<_> = recipes.chain(templates).chain([root.join("demo/otter-post.toml")]).collect();
    all.sort();
    all.iter().map(|path| std::fs::read_to_string(path).unwrap()).collect()
}

#[test]
fn no_settings_of_a_player_make_a_good_profile_unusable() {
    let (first, count) = (asked("TIDY_LEVER_SEED", 0), asked("TIDY_LEVER_CASES", 600));
    let shipped = shipped();
    let (mut good, mut moved) = (0, 0);
    for seed in first..first + count {
        let mut dice = Rng::with_seed(seed);
        // A shipped profile with other numbers, or any.
        let profile = if dice.u8(0..3) > 0 {
            let mut text = shipped[dice.usize(0..shipped.len())].clone();
            for _ in 0..dice.usize(0..6) {
                let all = numbers(&text).unwrap();
                let Some(number) = dice.choice(&all) else { continue };
                let value = match dice.u8(0..4) {
                    0 => number.least,
                    1 => number.most,
                    _ => (number.value * (dice.f64() * 6.0 - 3.0).exp()).clamp(number.least, number.most),
                };
                if let Ok(changed) = with_number(&text, &number.path, &number.written_as((value * 1e3).round() / 1e3)) {
                    text = changed;
                    moved += 1;
                }
            }
            Profile::from_toml(&text).unwrap()
        } else {
            profile(&mut dice)
        };
        let Ok(linkage) = Linkage::build(&profile) else { continue };
        good += 1;
        let names: Vec<String> = linkage.actions().map(|action| action.name().to_owned()).collect();
        for _ in 0..4 {
            let access = settings(&mut dice, &names);
            let built = Linkage::build_for(&profile, &access);
            assert!(built.is_ok(), "TIDY_LEVER_SEED={seed} TIDY_LEVER_CASES=1: {access:?}: {}", built.unwrap_err());
        }
    }
    assert!(good * 3 > count && moved > good, "{good} of {count} were good, with {moved} numbers moved");
}
