//! `rehearse PROFILE [ACTION…]`: model hands play a profile.

use std::io::Write;
use std::time::Instant;

use anyhow::{Result, bail};
use comfy_table::CellAlignment;
use serde_json::{Map, Value, json};
use tidy_lever::control::Family;
use tidy_lever::profile::{Number, numbers, with_number};
use tidy_lever::tape::{Header, Line, LineKind, TapeValue, Writer};
use tidy_lever::{Linkage, Moment};
use tidy_lever_files::Outputs;
use tidy_lever_hands::{Fix, Miss, Rehearsal, Tally, Wear, fix};

use crate::Answer;
use crate::arguments::Rehearse;
use crate::command::numbers::grouped;
use crate::out::Out;
use crate::paint::{self, FAINT, GOOD, HEAD, NAME, WARN, in_style};
use crate::progress::bar;
use crate::rehearsing::{Tallies, Troupe, Variation, mostly, place, play};

/// An advice is given if it finds so many percent more.
const WORTH: f64 = 0.015;
/// Trials on a tape lie so far apart, in µs.
const APART: u64 = 2_500_000;
/// The most misses of one hand that are listed for people.
const MOST_MISSES: usize = 4;

pub(crate) fn run(arguments: &Rehearse) -> Result<Answer> {
    on(&mut Out::screen(), arguments)
}

/// Rehearses, and writes what came of it.
pub(crate) fn on(out: &mut Out, arguments: &Rehearse) -> Result<Answer> {
    let inputs = arguments.company.files(&arguments.profile);
    let mut outputs = Outputs::new(inputs.iter().map(AsRef::as_ref)).replacing(arguments.replace);
    arguments.tape.iter().try_for_each(|tape| outputs.claim(tape))?;
    let (troupe, _) = Troupe::new(&arguments.profile, &arguments.company)?;
    let rehearsal = Rehearsal::new(&troupe.text, &troupe.answers)?;
    let asked: Vec<usize> = arguments.actions.iter().map(|name| place(&rehearsal, name)).collect::<Result<_>>()?;
    if let Some(tape) = &arguments.tape {
        let ([scene], [_]) = (asked.as_slice(), troupe.hands.as_slice()) else {
            bail!("--tape writes one action of one hand: name the action, and the hand with --skill");
        };
        outputs.write(tape, &self::tape(&rehearsal, *scene, &troupe)?)?;
        writeln!(out, "{} {}: {} trials", in_style(GOOD, "wrote"), tape.display(), troupe.count)?;
        return Ok(Answer::Yes);
    }
    if let Some(variation) = &arguments.vary {
        let variation = Variation::read(variation, arguments.steps, &troupe.text)?;
        let own = [variation.action.clone()];
        let shown = if arguments.actions.is_empty() { &own[..] } else { &arguments.actions };
        shown.iter().try_for_each(|action| place(&rehearsal, action).map(drop))?;
        for (number, action) in shown.iter().enumerate() {
            if number > 0 && !arguments.json {
                writeln!(out)?;
            }
            varied(out, &variation, &troupe, action, arguments.json)?;
        }
        return Ok(Answer::Yes);
    }
    if rehearsal.scenes.is_empty() {
        bail!("{} has no action that hands can perform", arguments.profile.display());
    }
    let shown: Vec<usize> = if asked.is_empty() { (0..rehearsal.scenes.len()).collect() } else { asked.clone() };
    let count = mostly(shown.clone(), rehearsal.scenes.len(), troupe.count);
    let all: u64 = (0..rehearsal.scenes.len()).map(&count).sum::<u64>() * troupe.hands.len() as u64;
    let (told, began) = (bar(all, "trials"), Instant::now());
    let tallies = play(&rehearsal, &troupe, count, &told);
    told.finish_and_clear();
    let took = began.elapsed();
    let all_numbers = numbers(&troupe.text)?;
    let advice = shown.iter().filter_map(|scene| advice(&rehearsal, &tallies, *scene, &troupe, &all_numbers));
    let advice: Vec<Advice> = advice.collect();
    if arguments.json {
        lines(out, &rehearsal, &tallies, &shown, &troupe)?;
        for line in advice {
            out.json(&json!({"what": "advice", "path": line.path, "value": line.value, "text": line.text}))?;
        }
        return Ok(Answer::Yes);
    }
    writeln!(
        out,
        "{}: {} by {}, {} trials in {:.1} s (seed {})",
        in_style(HEAD, rehearsal.linkage().title()),
        counted(shown.len(), "action"),
        counted(troupe.hands.len(), "hand"),
        grouped(all as f64),
        took.as_secs_f64(),
        troupe.seed
    )?;
    world(out, &rehearsal, &troupe, &shown)?;
    writeln!(out)?;
    if asked.is_empty() {
        overview(out, &rehearsal, &tallies, &troupe)?;
    } else {
        for scene in &shown {
            details(out, &rehearsal, &tallies, *scene, &troupe)?;
        }
    }
    if !advice.is_empty() {
        writeln!(out, "{}", in_style(HEAD, "what stands out"))?;
        for line in advice {
            writeln!(out, "  {}", paint::fitted(&line.text, 2))?;
        }
    }
    for (name, why) in &rehearsal.left_out {
        writeln!(out, "{}", in_style(FAINT, format!("not performed: {name}: {why}")))?;
    }
    Ok(Answer::Yes)
}

fn counted(count: usize, one: &str) -> String {
    if count == 1 { format!("1 {one}") } else { format!("{count} {one}s") }
}

/// Tells in which world the hands play.
fn world(out: &mut Out, rehearsal: &Rehearsal, troupe: &Troupe, shown: &[usize]) -> Result<()> {
    let mut told = vec!["each trial begins with the facts and modes that the action needs; facing alternates".into()];
    if let Some(hand) = troupe.hands.first().filter(|hand| hand.wear != Wear::New) {
        told.push(format!("hands play on a device of the sort {} (docs/hands.md)", hand.wear.name()));
    }
    match &troupe.answered_by {
        Some(from) => told.push(format!("pulls are answered as {from} says")),
        None => {
            let timed = shown.iter().map(|scene| &rehearsal.scenes[*scene]).filter(|scene| scene.is_timed());
            let timed: Vec<&str> = timed.map(|scene| scene.name.as_str()).collect();
            if !timed.is_empty() {
                told.push(format!(
                    "some are timed to the moment at which the gate opens or closes: {}",
                    timed.join(", ")
                ));
            }
            told.push("pulls change no fact (no answers)".into());
        }
    }
    writeln!(out, "{}", in_style(FAINT, paint::fitted(&format!("world: {}", told.join("; ")), 7)))?;
    Ok(())
}

fn percent(share: f64) -> String {
    format!("{:.1}", 100.0 * share)
}

fn millis(micros: u32) -> String {
    format!("{:.1}", f64::from(micros) / 1e3)
}

/// What a miss was, with by how much at the median.
fn missed(miss: &Miss, by: Option<u32>) -> String {
    by.map_or(miss.to_string(), |by| format!("{miss} by {} ms", millis(by)))
}

/// One row an action: found by each hand, and what its misses run into.
fn overview(out: &mut Out, rehearsal: &Rehearsal, tallies: &Tallies, troupe: &Troupe) -> Result<()> {
    let mut table = paint::table();
    let heads = troupe.hands.iter().map(|hand| format!("{} %", hand.name));
    table.set_header(
        ["action".to_owned()].into_iter().chain(heads).chain(["false/min".into(), "commonest miss".into()]),
    );
    for column in 1..=troupe.hands.len() + 1 {
        if let Some(column) = table.column_mut(column) {
            column.set_cell_alignment(CellAlignment::Right);
        }
    }
    for (scene, own) in rehearsal.scenes.iter().enumerate() {
        let found = tallies.0[scene].iter().map(|tally| percent(tally.share().0));
        let worst = |hand: usize| tallies.false_pulls(rehearsal, scene, hand).0;
        let worst = (0..troupe.hands.len()).map(worst).fold(0.0, f64::max);
        let mut all = Tally::default();
        tallies.0[scene].iter().for_each(|tally| all.add(tally.clone()));
        let commonest = all.worst().first().map_or(String::new(), |(miss, _, by)| missed(miss, *by));
        let wrong = if worst < 0.005 { "-".into() } else { format!("{worst:.2}") };
        table.add_row([own.name.clone()].into_iter().chain(found).chain([wrong, commonest]));
    }
    paint::rows(out, &table)?;
    writeln!(out)?;
    let note = "found: pulled in time, out of all that were meant. false/min: unmeant pulls a minute while others are meant, by the \
                hand with most. Name an action for intervals, delays and all misses.";
    writeln!(out, "{}\n", in_style(FAINT, paint::fitted(note, 0)))?;
    Ok(())
}

/// All that is known of an action, hand by hand.
fn details(out: &mut Out, rehearsal: &Rehearsal, tallies: &Tallies, scene: usize, troupe: &Troupe) -> Result<()> {
    let own = &rehearsal.scenes[scene];
    let cues: Vec<String> = rehearsal
        .linkage()
        .action(&own.name)
        .map_or(Vec::new(), |action| action.cues().map(ToString::to_string).collect());
    writeln!(out, "{}  {}", in_style(NAME, &own.name), in_style(FAINT, cues.join("; ")))?;
    let setting: Vec<String> = own.opening.iter().map(|(fact, value)| format!("{fact} = {value}")).collect();
    if !setting.is_empty() {
        writeln!(out, "{}", in_style(FAINT, format!("  with {}", setting.join(", "))))?;
    }
    for (place, (hand, tally)) in troupe.hands.iter().zip(&tallies.0[scene]).enumerate() {
        let (share, (low, high)) = tally.share();
        let delay = match (tally.delay(0.5), tally.delay(0.95)) {
            (Some(_), Some(..100)) => "at once".to_owned(),
            (Some(median), Some(most)) => {
                format!("{} ms after completion, 95 % within {} ms", millis(median), millis(most))
            }
            _ => "never".into(),
        };
        let found = paint::rated(share, format!("{:>5} % found", percent(share)));
        writeln!(out, "  {:<10} {found} ({} to {} %), {delay}", hand.name, percent(low), percent(high))?;
        let ways = tally.by_way.iter().map(|(way, (meant, found))| {
            format!("{} {} %", way.name(), percent(*found as f64 / (*meant).max(1) as f64))
        });
        let situations = tally.by_situation.iter().map(|(situation, (meant, found))| {
            format!("{} {} %", situation.name(), percent(*found as f64 / (*meant).max(1) as f64))
        });
        let mut split: Vec<String> = if tally.by_way.len() > 1 { ways.collect() } else { Vec::new() };
        if tally.by_situation.len() > 1 {
            split.extend(situations);
        }
        if !split.is_empty() && tally.found < tally.meant {
            writeln!(out, "{:13}{}", "", in_style(FAINT, paint::fitted(&split.join(", "), 13)))?;
        }
        for (miss, count, by) in tally.worst().into_iter().take(MOST_MISSES) {
            writeln!(out, "{:13}{count:>5} {}", "", missed(miss, by))?;
        }
        let hidden: u64 = tally.worst().iter().skip(MOST_MISSES).map(|(_, count, _)| count).sum();
        if hidden > 0 {
            writeln!(out, "{:13}{hidden:>5} others", "")?;
        }
        let (a_minute, by) = tallies.false_pulls(rehearsal, scene, place);
        if a_minute >= 0.005 {
            let by: Vec<String> = by.iter().take(3).map(|(name, count)| format!("{name} ({count})")).collect();
            let text = format!("{a_minute:.2} false pulls a minute, while meaning {}", by.join(", "));
            writeln!(out, "{:13}{}", "", in_style(WARN, text))?;
        }
    }
    writeln!(out)?;
    Ok(())
}

/// A number of the profile that would find more, as a profile writes its value.
struct Advice {
    path: String,
    value: String,
    text: String,
}

/// What would find more of an action, tried out. The hand in the middle speaks first.
fn advice(rehearsal: &Rehearsal, tallies: &Tallies, scene: usize, troupe: &Troupe, all: &[Number]) -> Option<Advice> {
    let name = &rehearsal.scenes[scene].name;
    let middle = troupe.hands.len() / 2;
    let mut order: Vec<usize> = (0..troupe.hands.len()).collect();
    order.sort_by_key(|hand| (*hand != middle, std::cmp::Reverse(*hand)));
    order.into_iter().find_map(|hand| {
        let tally = &tallies.0[scene][hand];
        let Fix { path, value, miss, count, median } = fix(tally, name, all)?;
        let number = all.iter().find(|number| number.path == path)?;
        let written = number.written_as(value);
        let text = with_number(&troupe.text, &path, &written).ok()?;
        let better = Rehearsal::new(&text, &troupe.answers).ok()?;
        let place = better.scenes.iter().position(|scene| scene.name == *name)?;
        let alone = Troupe {
            text,
            hands: vec![troupe.hands[hand].clone()],
            answers: troupe.answers.clone(),
            answered_by: None,
            ..*troupe
        };
        let tried = play(&better, &alone, mostly(vec![place], better.scenes.len(), troupe.count), &indicatif::ProgressBar::hidden());
        let (was, now) = (tally.share().0, tried.0[place][0].share().0);
        let (false_was, false_now) =
            (tallies.false_pulls(rehearsal, scene, hand).0, tried.false_pulls(&better, place, 0).0);
        let price = if false_now > false_was + 0.05 {
            format!(", and false pulls go from {false_was:.2} to {false_now:.2} a minute")
        } else {
            String::new()
        };
        let share = 100.0 * count as f64 / tally.meant.max(1) as f64;
        (now >= was + WORTH).then(|| {
            let text = format!(
                "{name}: {share:.1} % of the {} hand's attempts are missed: {} at the median. `{path} = {written}` (now {}) \
                 finds {} % instead of {} %{price}.",
                troupe.hands[hand].name,
                missed(&miss, Some(median)),
                number.written_as(number.value),
                percent(now),
                percent(was),
            );
            Advice { path: path.clone(), value: written.clone(), text }
        })
    })
}

/// One JSON object for each action and hand.
fn lines(out: &mut Out, rehearsal: &Rehearsal, tallies: &Tallies, shown: &[usize], troupe: &Troupe) -> Result<()> {
    let mut put = |line: Value| out.json(&line);
    put(json!({"what": "world", "answers": troupe.answered_by, "seed": troupe.seed, "count": troupe.count}))?;
    for scene in shown {
        for (hand, tally) in tallies.0[*scene].iter().enumerate() {
            let mut line = told(tally);
            let (a_minute, by) = tallies.false_pulls(rehearsal, *scene, hand);
            line.insert("false_per_minute".into(), json!(a_minute));
            line.insert("false_by".into(), by.into_iter().map(|(name, count)| (name, json!(count))).collect());
            let mut whole = Map::new();
            whole.insert("what".into(), json!("rehearsed"));
            whole.insert("action".into(), json!(rehearsal.scenes[*scene].name));
            whole.insert("hand".into(), json!(troupe.hands[hand].name));
            whole.append(&mut line);
            put(Value::Object(whole))?;
        }
    }
    for (name, why) in &rehearsal.left_out {
        put(json!({"what": "left out", "action": name, "why": why}))?;
    }
    Ok(())
}

/// A tally for programs.
fn told(tally: &Tally) -> Map<String, Value> {
    let (share, (low, high)) = tally.share();
    let mut line = Map::new();
    let mut put = |key: &str, value: Value| line.insert(key.into(), value);
    put("meant", json!(tally.meant));
    put("found", json!(tally.found));
    put("share", json!(share));
    put("low", json!(low));
    put("high", json!(high));
    put("delay_median", json!(tally.delay(0.5)));
    put("delay_95", json!(tally.delay(0.95)));
    let misses = tally.worst().into_iter();
    let misses = misses.map(|(miss, count, by)| json!({"why": miss.to_string(), "count": count, "by_median": by}));
    put("misses", misses.collect());
    let counts = |(meant, found): &(u64, u64)| json!({"meant": meant, "found": found});
    put("ways", tally.by_way.iter().map(|(way, own)| (way.name().to_owned(), counts(own))).collect());
    let situations = tally.by_situation.iter().map(|(situation, own)| (situation.name().to_owned(), counts(own)));
    put("situations", situations.collect());
    line
}

fn varied(out: &mut Out, variation: &Variation, troupe: &Troupe, action: &str, json: bool) -> Result<()> {
    let points = variation.run(troupe, action)?;
    if json {
        for point in &points {
            for (hand, (tally, a_minute)) in troupe.hands.iter().zip(&point.hands) {
                let mut line = Map::new();
                line.insert("what".into(), json!("varied"));
                line.insert("action".into(), json!(action));
                line.insert("number".into(), json!(variation.number.path));
                line.insert("value".into(), json!(point.value));
                line.insert("hand".into(), json!(hand.name));
                line.append(&mut told(tally));
                line.insert("false_per_minute".into(), json!(a_minute));
                out.json(&line)?;
            }
        }
        return Ok(());
    }
    let now = variation.number.written_as(variation.number.value);
    let told = format!(
        "{}{} (now {now}): found in %, false pulls a minute while others are meant; {} trials for each value and hand",
        if action == variation.action { String::new() } else { format!("{action}, over ") },
        variation.number.path,
        grouped(troupe.count as f64)
    );
    writeln!(out, "{}", in_style(HEAD, paint::fitted(&told, 0)))?;
    let mut table = paint::table();
    let heads = troupe.hands.iter().flat_map(|hand| [format!("{} found", hand.name), "false/min".to_owned()]);
    table.set_header(["value".to_owned()].into_iter().chain(heads));
    for column in 0..=2 * troupe.hands.len() {
        if let Some(column) = table.column_mut(column) {
            column.set_cell_alignment(CellAlignment::Right);
        }
    }
    for point in &points {
        let mark = if point.value == variation.number.value { "now " } else { "" };
        let cells =
            point.hands.iter().flat_map(|(tally, a_minute)| [percent(tally.share().0), format!("{a_minute:.2}")]);
        table.add_row([format!("{mark}{}", variation.number.written_as(point.value))].into_iter().chain(cells));
    }
    paint::rows(out, &table)?;
    Ok(())
}

/// Trials of one action and hand, one behind the other on a tape, each with the modes and facts that it needs.
pub(crate) fn tape(rehearsal: &Rehearsal, scene: usize, troupe: &Troupe) -> Result<Vec<u8>> {
    let (own, hand) = (&rehearsal.scenes[scene], &troupe.hands[0]);
    let devices = [(Family::Keys, "kb"), (Family::Mouse, "ms"), (Family::Pad, "pad"), (Family::Touch, "screen")];
    let title = format!("{}: {} by the {} hand", rehearsal.linkage().title(), own.name, hand.name);
    let header = devices.iter().fold(Header::new(title), |header, (family, id)| header.device(*id, *family));
    let mut writer = Writer::new(Vec::new(), &header)?;
    let mut begin = 0;
    for number in 0..troupe.count {
        let trial = own.trial(hand, troupe.seed, number);
        let line = |at: Moment, said: LineKind| Line::new(at + std::time::Duration::from_micros(begin), 1, said);
        let mut lines = vec![line(Moment::ZERO, LineKind::View { size: [1280, 720], dpi: None })];
        for (mode, on) in modes(rehearsal.linkage(), &trial.modes) {
            lines.push(line(Moment::ZERO, LineKind::Mode { mode, on }));
        }
        for (at, fact, value) in &trial.facts {
            let value = match value.as_str() {
                "true" => TapeValue::Flag(true),
                "false" => TapeValue::Flag(false),
                word => TapeValue::Word(word.to_owned()),
            };
            lines.push(line(*at, LineKind::Fact { fact: fact.clone(), value }));
        }
        for event in &trial.events {
            // The hands number devices by family.
            let id = devices.get(event.device.number()).map_or("kb", |(_, id)| id);
            lines.push(line(event.at, LineKind::of(event, id)));
        }
        lines.push(line(trial.done, LineKind::Meant(own.name.clone())));
        lines.sort_by_key(|line| line.at);
        lines.iter().try_for_each(|line| writer.put(line))?;
        begin += trial.end.as_micros() + APART;
    }
    writer.put(&Line::new(Moment::from_micros(begin), 1, LineKind::End))?;
    Ok(writer.into_inner())
}

/// All modes as they are at first, with these switches.
fn modes(linkage: &Linkage, switches: &[(String, bool)]) -> Vec<(String, bool)> {
    let switched = |name: &str| switches.iter().find(|(mode, _)| mode == name).map(|(_, on)| *on);
    let mut all: Vec<_> = linkage.modes().map(|(name, on)| (name.to_owned(), switched(name).unwrap_or(on))).collect();
    // Those that go off first, so that no action is covered on the way.
    all.sort_by_key(|(_, on)| *on);
    all
}
