//! `tune PROFILE TAPE…`: the best values of an action's numbers, from tapes of players.

use std::io::Write;
use std::path::Path;

use anyhow::{Context, Result, bail};
use rayon::prelude::*;
use serde_json::json;
use tidy_lever::profile::{Movable, Number, Unit};
use tidy_lever::remap::Remap;
use tidy_lever_tuning::Tuning;

use crate::Answer;
use crate::answers;
use crate::arguments::Tune;
use crate::evidence::{Evidence, Player, Wanted};
use crate::input;
use crate::out::Out;
use crate::paint::{self, FAINT, GOOD, HEAD, NAME, WARN, in_style};
use crate::progress::{Stopped, bar, can_be_stopped, is_stopped};
use crate::search::{Score, Tried, most, places, score, try_out};
use crate::values::stretches;
use crate::view::seconds;

/// So many attempts must be meant before a number is advised.
const ENOUGH: usize = 10;
/// The most that is listed as probably meant.
const MOST_LISTED: usize = 12;

/// All that is known of one action.
struct Told {
    action: String,
    /// What was wanted, by player.
    wanted: Vec<Wanted>,
    now: Score,
    tried: Vec<Tried>,
}

impl Told {
    fn meant(&self) -> usize {
        self.wanted.iter().map(|wanted| wanted.at.len()).sum()
    }

    /// The number that wins most, if there is anything to win and enough to go by.
    fn advice(&self) -> Option<&Tried> {
        let gains = |tried: &&Tried| tried.score.found() > self.now.found();
        let moved = |tried: &Tried| (tried.best - tried.number.value).abs() / tried.number.value.max(1.0);
        let best =
            self.tried.iter().filter(gains).max_by(|one, other| {
                one.score.found().cmp(&other.score.found()).then(moved(other).total_cmp(&moved(one)))
            });
        best.filter(|_| self.meant() >= ENOUGH)
    }
}

pub(crate) fn run(arguments: &Tune) -> Result<Answer> {
    on(&mut Out::screen(), arguments)
}

/// Tunes, and writes what came of it.
pub(crate) fn on(out: &mut Out, arguments: &Tune) -> Result<Answer> {
    if arguments.profile == Path::new("-") && arguments.write {
        bail!("--write saves the advised values, so the profile must be a file, not standard input");
    }
    can_be_stopped();
    let laid = input::overlaid(&arguments.profile, None)?;
    let (answers, answered_by) = answers::of(&arguments.profile, &arguments.answers, &laid.linkage)?;
    if let Some(jobs) = arguments.jobs {
        // It is the first to ask for threads, so none are there yet.
        let _ = rayon::ThreadPoolBuilder::new().num_threads(jobs).build_global();
    }
    let mut players = arguments.tapes.par_iter().map(|path| Player::read(path)).collect::<Result<Vec<_>>>()?;
    // What a real game told comes first; answers that were given on the command line take its place.
    players.iter_mut().for_each(|player| player.answered(&answers, !arguments.answers.is_empty()));
    let evidence = Evidence { players };
    let movable = Movable::from_toml(&laid.text)?;
    let all = movable.numbers().to_vec();
    let names: Vec<&str> = match &arguments.action {
        Some(action) => {
            let Some(view) = laid.linkage.action(action) else {
                let missing = laid.linkage.find::<tidy_lever::Button>(action).err();
                bail!("{}", missing.map_or(String::new(), |missing| missing.to_string()))
            };
            if view.cue().is_none() {
                bail!("`{action}` has no cue: it is read as a value and never pulls, so no tape tells how to set it");
            }
            vec![view.name()]
        }
        None => laid.linkage.actions().filter(|action| action.cue().is_some()).map(|action| action.name()).collect(),
    };
    let now = evidence.play(&laid.linkage)?;
    let mut told = Vec::new();
    let own: Vec<(&str, Vec<Wanted>)> = names
        .iter()
        .map(|name| (*name, evidence.wanted(&now, name, arguments.probably)))
        .filter(|(name, wanted)| arguments.action.as_deref() == Some(*name) || wanted.iter().any(Wanted::is_marked))
        .collect();
    let ready_tapes = evidence.ready(&laid.linkage)?;
    let count: usize = own.iter().flat_map(|(name, _)| tunable(&all, name)).map(|number| places(number).len()).sum();
    let bar = bar(count as u64, "values tried");
    for (name, wanted) in own {
        if is_stopped() {
            break;
        }
        let pulls = ready_tapes.pulls(&laid.linkage, name)?;
        let score_now = score(&pulls, &wanted);
        let tried = if wanted.iter().all(|wanted| wanted.at.is_empty()) {
            Vec::new()
        } else {
            let numbers: Vec<&Number> = tunable(&all, name).collect();
            let spans = numbers.iter().filter(|number| number.unit == Unit::Milliseconds);
            let longest = spans.map(|number| most(number)).fold(0.0, f64::max);
            let stretches = stretches(&ready_tapes, &laid.linkage, (name, &pulls), longest)?;
            let tried: Vec<Option<Tried>> = numbers
                .par_iter()
                .map(|number| {
                    match try_out(&ready_tapes, &movable, number, (name, &wanted, &pulls), &stretches, &bar) {
                        Err(error) if error.is::<Stopped>() => Ok(None),
                        tried => tried,
                    }
                })
                .collect::<Result<_>>()?;
            tried.into_iter().flatten().collect()
        };
        told.push(Told { action: name.to_owned(), wanted, now: score_now, tried });
    }
    let tried = bar.position();
    bar.finish_and_clear();
    let probable: Vec<(usize, String, u64, String)> =
        evidence.probable(&now, &laid.linkage, arguments.action.as_deref());
    if arguments.json {
        lines(out, &evidence, &told, answered_by.as_deref(), &probable)?;
    } else {
        print(out, &evidence, &told, answered_by.as_deref(), arguments)?;
        offer(out, &evidence, &probable, arguments.probably)?;
    }
    if is_stopped() {
        out.flush()?;
        let unwritten = if arguments.write { "; nothing is written" } else { "" };
        let told = "numbers and actions that are missing here were not finished";
        paint::note(format!("stopped after {tried} of {count} values: {told}{unwritten}"));
        return Ok(Answer::Stopped);
    }
    if arguments.write {
        write(out, arguments, &told)?;
    }
    Ok(Answer::Yes)
}

/// The numbers of an action that a tape can tell about.
fn tunable<'n>(all: &'n [Number], action: &'n str) -> impl Iterator<Item = &'n Number> {
    all.iter().filter(move |number| {
        let mut words = number.path.split('.');
        words.next() == Some(action)
            && matches!(number.unit, Unit::Milliseconds | Unit::Level)
            && !words
                .next()
                .is_some_and(|key| key == "marks" || key == "gauge" || key.ends_with("shape") || key == "paced")
    })
}

/// The facts that are simulated on a player's tape.
fn simulated(player: &Player) -> Vec<&str> {
    let mut facts: Vec<&str> = player.answers.iter().map(|answer| answer.fact.as_str()).collect();
    facts.sort_unstable();
    facts.dedup();
    facts
}

/// Where the facts are from.
fn facts(evidence: &Evidence, answered_by: Option<&str>) -> String {
    let recorded = "as recorded: they answered the present numbers, and would differ with others";
    let mut ways: Vec<Vec<&str>> = evidence.players.iter().map(simulated).collect();
    ways.sort();
    ways.dedup();
    match (answered_by, &ways[..]) {
        (None, _) => format!("facts {recorded}; give answers to simulate them"),
        (Some(from), [none]) if none.is_empty() => {
            format!(
                "facts {recorded}. The tapes tell all facts that {from} answers, so it is not used; --answer simulates them"
            )
        }
        (Some(from), [all]) => {
            format!("{} simulated: pulls are answered as {from} says; other facts as recorded", all.join(", "))
        }
        (Some(from), _) => {
            let tapes = evidence.players.iter().map(|player| match simulated(player)[..] {
                [] => format!("{}: all facts as recorded", player.name),
                ref some => format!("{}: {} as {from} answers", player.name, some.join(", ")),
            });
            format!("facts that a tape does not tell are simulated: {}", tapes.collect::<Vec<_>>().join("; "))
        }
    }
}

fn print(out: &mut Out, evidence: &Evidence, all: &[Told], answered_by: Option<&str>, arguments: &Tune) -> Result<()> {
    let facts = facts(evidence, answered_by);
    writeln!(out, "{}", in_style(FAINT, paint::fitted(&facts, 0)))?;
    if all.is_empty() {
        let text = "no tape has a `meant` line of an action of this profile. Press the key for `meant` in `tidy-lever try`, or add \
                    lines such as {\"at\":12300000,\"meant\":\"skim\"}; --probably counts attempts that failed and were \
                    repeated at once.";
        writeln!(out, "{}", paint::fitted(text, 0))?;
    }
    for told in all {
        writeln!(out)?;
        let (meant, found) = (told.meant(), told.now.found.iter().sum::<usize>());
        let let_in: usize = told.now.let_in.iter().sum();
        let share = found as f64 / meant.max(1) as f64;
        write!(out, "{}  {}", in_style(NAME, &told.action), paint::rated(share, format!("{found} of {meant} found")))?;
        writeln!(out, "{}", if let_in > 0 { format!(", {let_in} unmeant") } else { ", nothing unmeant".into() })?;
        for (player, (wanted, found)) in evidence.players.iter().zip(told.wanted.iter().zip(&told.now.found)) {
            if !wanted.at.is_empty() && evidence.players.len() > 1 {
                writeln!(out, "  {}", in_style(FAINT, format!("{}: {found} of {}", player.name, wanted.at.len())))?;
            }
        }
        if meant == 0 {
            writeln!(
                out,
                "  nothing on these tapes is meant as {}; record some with `tidy-lever try --record`",
                told.action
            )?;
            continue;
        }
        for tried in &told.tried {
            let in_unit = |value: f64| tried.number.written_as(value);
            let ends = match tried.ends {
                (true, true) => format!("from {} to {}", in_unit(tried.range.0), in_unit(tried.range.1)),
                (true, false) => format!("from {} on", in_unit(tried.range.0)),
                (false, true) => format!("up to {}", in_unit(tried.range.1)),
                (false, false) => {
                    let text = format!(
                        "  {:<24} {:>8}  makes no difference on these tapes",
                        tried.number.path,
                        in_unit(tried.number.value)
                    );
                    writeln!(out, "{}", in_style(FAINT, text))?;
                    continue;
                }
            };
            let (won, lost) = changes(&told.now, &tried.score);
            let gain = if tried.score.found() > told.now.found() {
                let lost = if lost > 0 { format!(" and loses {lost}") } else { String::new() };
                format!("best {}: finds {won} more{lost}", in_unit(tried.best))
            } else {
                "nothing better".into()
            };
            let path = &tried.number.path;
            let text = format!("{path:<24} {:>8}  finds most {ends}; {gain}", in_unit(tried.number.value));
            writeln!(out, "  {}", paint::fitted(&text, 37))?;
        }
        if meant < ENOUGH {
            let more = ENOUGH - meant;
            let text = format!("{more} more attempts that are marked as meant are needed before a value is advised");
            writeln!(out, "  {}", in_style(WARN, paint::fitted(&text, 2)))?;
        } else if let Some(tried) = told.advice() {
            let in_unit = |value: f64| tried.number.written_as(value);
            let delays = match (told.now.delay(), tried.score.delay()) {
                (Some(was), Some(is)) if was != is => {
                    format!(", median delay {:.1} ms instead of {:.1} ms", is as f64 / 1e3, was as f64 / 1e3)
                }
                _ => String::new(),
            };
            let text = format!(
                "advice: {} = {} (now {}): {} of {meant} found instead of {found}{delays}",
                tried.number.path,
                in_unit(tried.best),
                in_unit(tried.number.value),
                tried.score.found.iter().sum::<usize>(),
            );
            writeln!(out, "  {}", in_style(HEAD, paint::fitted(&text, 2)))?;
            if evidence.players.len() > 1 {
                let players = evidence.players.iter().zip(told.now.found.iter().zip(&tried.score.found));
                let changed: Vec<String> = players
                    .filter(|(_, (was, is))| was != is)
                    .map(|(player, (was, is))| format!("{} {was} to {is}", player.name))
                    .collect();
                writeln!(
                    out,
                    "  {}",
                    in_style(FAINT, paint::fitted(&format!("by player: {}", changed.join(", ")), 2))
                )?;
            }
            if !arguments.write {
                writeln!(out, "  {}", in_style(FAINT, "--write saves it in the profile"))?;
            }
        } else if found == meant && let_in == 0 {
            writeln!(out, "  {}", in_style(GOOD, "all is found and nothing else: leave it as it is"))?;
        } else {
            writeln!(out, "  no single number finds more without letting in what nobody meant")?;
        }
    }
    Ok(())
}

/// How many more are found, and how many fewer, player by player.
fn changes(now: &Score, then: &Score) -> (usize, usize) {
    let pairs = || now.found.iter().zip(&then.found);
    let won = pairs().map(|(was, is)| is.saturating_sub(*was)).sum();
    (won, pairs().map(|(was, is)| was.saturating_sub(*is)).sum())
}

/// Attempts that failed and were repeated at once.
fn offer(out: &mut Out, evidence: &Evidence, probable: &[(usize, String, u64, String)], counted: bool) -> Result<()> {
    if probable.is_empty() {
        return Ok(());
    }
    let what = if counted { "counted as meant" } else { "probably meant (--probably counts them)" };
    let head = format!("{what}: attempts that failed and were repeated at once");
    writeln!(out, "\n{}", in_style(HEAD, paint::fitted(&head, 0)))?;
    for (player, action, at, story) in probable.iter().take(MOST_LISTED) {
        writeln!(
            out,
            "  {} at {} of {}: {story}",
            in_style(NAME, action),
            seconds(*at),
            evidence.players[*player].name
        )?;
    }
    if probable.len() > MOST_LISTED {
        writeln!(out, "  {}", in_style(FAINT, format!("{} more; --json lists all", probable.len() - MOST_LISTED)))?;
    }
    Ok(())
}

fn lines(
    out: &mut Out,
    evidence: &Evidence,
    all: &[Told],
    answered_by: Option<&str>,
    probable: &[(usize, String, u64, String)],
) -> Result<()> {
    let mut put = |line: serde_json::Value| out.json(&line);
    let tapes = evidence.players.iter().map(|player| json!({"tape": player.name, "simulated": simulated(player)}));
    let any = evidence.players.iter().any(|player| !player.answers.is_empty());
    put(json!({"what": "facts", "simulated": any, "answers": answered_by, "tapes": tapes.collect::<Vec<_>>()}))?;
    for told in all {
        let players = evidence.players.iter().zip(told.wanted.iter().zip(&told.now.found));
        let players: Vec<_> = players
            .map(|(player, (wanted, found))| json!({"tape": player.name, "meant": wanted.at.len(), "found": found}))
            .collect();
        put(json!({"what": "action", "action": told.action, "meant": told.meant(),
            "found": told.now.found.iter().sum::<usize>(), "unmeant": told.now.let_in.iter().sum::<usize>(),
            "enough": told.meant() >= ENOUGH, "players": players}))?;
        for tried in &told.tried {
            let (won, lost) = changes(&told.now, &tried.score);
            put(json!({"what": "number", "path": tried.number.path, "value": tried.number.value,
                "unit": tried.number.unit.name(), "low": tried.ends.0.then_some(tried.range.0),
                "high": tried.ends.1.then_some(tried.range.1), "best": tried.best, "won": won, "lost": lost,
                "found": tried.score.found, "unmeant": tried.score.let_in.iter().sum::<usize>(),
                "delay_median": tried.score.delay(), "curve": tried.curve}))?;
        }
        if let Some(advice) = told.advice() {
            put(json!({"what": "advice", "path": advice.number.path, "value": advice.number.written_as(advice.best)}))?;
        }
    }
    for (player, action, at, story) in probable {
        let tape = &evidence.players[*player].name;
        put(json!({"what": "probably meant", "tape": tape, "at": at, "meant": action, "story": story}))?;
    }
    Ok(())
}

/// Saves what was advised.
fn write(out: &mut Out, arguments: &Tune, all: &[Told]) -> Result<()> {
    let advice: Vec<&Tried> = all.iter().filter_map(Told::advice).collect();
    if advice.is_empty() {
        paint::note("nothing was advised, so nothing is written");
        return Ok(());
    }
    let name = input::name(&arguments.profile);
    let mut tuning = Tuning::open(&arguments.profile, Remap::new()).with_context(|| name.clone())?;
    for tried in &advice {
        let written = tuning.set(&tried.number.path, tried.best).with_context(|| tried.number.path.clone())?;
        if !arguments.json {
            writeln!(out, "{} {} = {written} in {name}", in_style(GOOD, "wrote"), tried.number.path)?;
        }
    }
    tuning.save()?;
    Ok(())
}
