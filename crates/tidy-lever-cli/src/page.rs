//! The page that `report` writes: HTML that needs nothing from elsewhere, by day, by night and on paper.

use std::fmt::{self, Display, Formatter};

use serde_json::Value;

/// How wide bars, and half a strip, are, in pixels of the page.
const BAR: f64 = 260.0;
const WIDE: f64 = 320.0;

/// What a rehearsal found: the lines of `rehearse --json`.
#[derive(Debug)]
pub(crate) struct Found {
    pub(crate) rehearsed: Vec<Value>,
}

/// What a tape says.
#[derive(Debug)]
pub(crate) struct OnTape {
    pub(crate) name: String,
    /// How many near misses it has.
    pub(crate) count: usize,
    /// The lines of `why --json` with the smallest margins.
    pub(crate) near: Vec<Value>,
    /// The lines of `check --tape --json`.
    pub(crate) devices: Vec<Value>,
}

/// All that the page shows.
#[derive(Debug)]
pub(crate) struct Page<'p> {
    pub(crate) title: &'p str,
    pub(crate) profile: &'p str,
    pub(crate) found: Found,
    pub(crate) tapes: Vec<OnTape>,
    /// The lines of `tune --json`.
    pub(crate) tuned: Vec<Value>,
}

/// Text within HTML.
struct Text<'t>(&'t str);

impl Display for Text<'_> {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        self.0.chars().try_for_each(|letter| match letter {
            '<' => f.write_str("&lt;"),
            '>' => f.write_str("&gt;"),
            '&' => f.write_str("&amp;"),
            '"' => f.write_str("&quot;"),
            letter if letter.is_control() => f.write_str(" "),
            letter => write!(f, "{letter}"),
        })
    }
}

fn text(value: &Value) -> &str {
    value.as_str().unwrap_or_default()
}

fn percent(share: &Value) -> String {
    format!("{:.1} %", 100.0 * share.as_f64().unwrap_or_default())
}

fn millis(micros: &Value) -> String {
    micros.as_f64().map_or("-".to_owned(), |micros| format!("{:.1} ms", micros / 1e3))
}

/// A figure in a cell, with its exact value for whoever reads the page by program.
fn cell(of: &str, value: &Value, shown: &str) -> String {
    format!("<td data-of=\"{}\" data-value=\"{}\">{}</td>", Text(of), Text(&value.to_string()), Text(shown))
}

const STYLE: &str = "
:root { color-scheme: light dark; --paper: #fff; --ink: #1b1f24; --faint: #6a737d; --grid: #e3e6ea; --good: #009e73; --fair: #e69f00; --bad: #c0392b; --mark: #0072b2 }
@media (prefers-color-scheme: dark) { :root { --paper: #14202a; --ink: #e8eef2; --faint: #9db0bd; --grid: #2a3a46; --good: #3fbf9a; --fair: #f0b94a; --bad: #ff8a75; --mark: #6db7f2 } }
body { background: var(--paper); color: var(--ink); font: 15px/1.45 system-ui, sans-serif; max-width: 1100px; margin: 2em auto; padding: 0 1em }
h1 { font-size: 1.7em } h2 { font-size: 1.25em; margin-top: 2em; border-bottom: 1px solid var(--grid) } h3 { font-size: 1em; margin: 1.4em 0 .3em }
table { border-collapse: collapse; margin: .5em 0 } th, td { text-align: left; padding: .2em .9em .2em 0; vertical-align: top } th { color: var(--faint); font-weight: normal } td:not(:last-child) { white-space: nowrap; font-variant-numeric: tabular-nums }
tr { border-bottom: 1px solid var(--grid) } .bars { columns: 2 } .bars svg { display: block; break-inside: avoid } .faint { color: var(--faint) } th { max-width: 7em } th:last-child { max-width: none } .advice { border-left: 3px solid var(--mark); padding-left: .7em }
svg { max-width: 100%; height: auto } svg text { fill: var(--ink); font-size: 12px } .rail { fill: var(--grid) } .good { fill: var(--good) } .fair { fill: var(--fair) } .bad { fill: var(--bad) } .mark { fill: var(--mark) } line { stroke: var(--faint) } line.end { stroke: var(--mark); stroke-width: 2 } polyline { fill: none; stroke-width: 2 } .found { stroke: var(--good) } .unmeant { stroke: var(--bad); stroke-dasharray: 4 3 }
@media (max-width: 1060px) { .bars { columns: 1 } }
@media print { body { max-width: none; margin: 0; font-size: 11px } h2 { break-after: avoid } table, svg { break-inside: avoid } }
";

impl Display for Page<'_> {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        let (title, profile) = (Text(self.title), Text(self.profile));
        writeln!(f, "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">")?;
        writeln!(
            f,
            "<meta name=\"viewport\" content=\"width=device-width\">\n<title>{title}: will players manage it?</title>"
        )?;
        writeln!(f, "<style>{STYLE}</style>\n</head>\n<body>\n<h1>{title}</h1>")?;
        self.found.write(f, &profile)?;
        for tape in &self.tapes {
            tape.write(f)?;
        }
        tuned(f, &self.tuned)?;
        writeln!(f, "</body>\n</html>")
    }
}

impl Found {
    fn of<'v>(&'v self, what: &'v str) -> impl Iterator<Item = &'v Value> {
        self.rehearsed.iter().filter(move |line| line["what"] == what)
    }

    fn write(&self, f: &mut Formatter<'_>, profile: &Text<'_>) -> fmt::Result {
        let world = self.of("world").next().cloned().unwrap_or_default();
        writeln!(
            f,
            "<h2>Who will manage?</h2>\n<p>Model hands performed each action of {profile}, {} times each (seed {}).",
            world["count"], world["seed"]
        )?;
        writeln!(f, "A bar shows how many of their attempts fired in time. The figures stand in the table below.</p>")?;
        let lines: Vec<&Value> = self.of("rehearsed").collect();
        self.bars(f, &lines)?;
        let advice: Vec<&Value> = self.of("advice").collect();
        if !advice.is_empty() {
            writeln!(f, "<h3>What to change</h3>")?;
            advice.iter().try_for_each(|line| writeln!(f, "<p class=\"advice\">{}</p>", Text(text(&line["text"]))))?;
        }
        writeln!(
            f,
            "<h3>Figures</h3>\n<table>\n<tr><th>action</th><th>hand</th><th>found</th><th>95 % interval</th><th>delay, median</th><th>false pulls a minute</th><th>what the others ran into</th></tr>"
        )?;
        for line in lines {
            let of = |key: &str| format!("{}|{}|{key}", text(&line["action"]), text(&line["hand"]));
            write!(f, "<tr><td>{}</td><td>{}</td>", Text(text(&line["action"])), Text(text(&line["hand"])))?;
            write!(f, "{}", cell(&of("share"), &line["share"], &percent(&line["share"])))?;
            write!(f, "<td>{} to {}</td>", percent(&line["low"]).trim_end_matches(" %"), percent(&line["high"]))?;
            write!(f, "{}", cell(&of("delay_median"), &line["delay_median"], &millis(&line["delay_median"])))?;
            let wrong = format!("{:.2}", line["false_per_minute"].as_f64().unwrap_or_default());
            write!(f, "{}", cell(&of("false_per_minute"), &line["false_per_minute"], &wrong))?;
            let misses = line["misses"].as_array().into_iter().flatten().take(3).map(|miss| {
                let by = if miss["by_median"].is_null() {
                    String::new()
                } else {
                    format!(" by {}", millis(&miss["by_median"]))
                };
                format!("{} × {}{by}", miss["count"], text(&miss["why"]))
            });
            writeln!(f, "<td>{}</td></tr>", Text(&misses.collect::<Vec<_>>().join("; ")))?;
        }
        writeln!(f, "</table>")?;
        self.of("left out").try_for_each(|line| {
            writeln!(
                f,
                "<p class=\"faint\">Not performed: {}: {}</p>",
                Text(text(&line["action"])),
                Text(text(&line["why"]))
            )
        })
    }

    /// A picture for each action, with a bar for each hand.
    fn bars(&self, f: &mut Formatter<'_>, lines: &[&Value]) -> fmt::Result {
        let (row, left) = (18.0, 190.0);
        writeln!(f, "<div class=\"bars\">")?;
        for own in lines.chunk_by(|one, other| one["action"] == other["action"]) {
            let (wide, high) = (left + BAR + 60.0, own.len() as f64 * row + 8.0);
            let action = Text(text(&own[0]["action"]));
            writeln!(
                f,
                "<svg width=\"{wide}\" height=\"{high}\" viewBox=\"0 0 {wide} {high}\" role=\"img\" aria-label=\"{action}: found by each hand\">"
            )?;
            writeln!(f, "<text x=\"0\" y=\"16\">{action}</text>")?;
            for (place, line) in own.iter().enumerate() {
                let y = 4.0 + place as f64 * row;
                let share = line["share"].as_f64().unwrap_or_default();
                let tone = if share >= 0.97 {
                    "good"
                } else if share >= 0.9 {
                    "fair"
                } else {
                    "bad"
                };
                let hand = Text(text(&line["hand"]));
                writeln!(f, "<text x=\"{}\" y=\"{}\" text-anchor=\"end\">{hand}</text>", left - 8.0, y + 12.0)?;
                writeln!(f, "<rect class=\"rail\" x=\"{left}\" y=\"{}\" width=\"{BAR}\" height=\"10\"/>", y + 3.0)?;
                let filled = BAR * share;
                writeln!(
                    f,
                    "<rect class=\"{tone}\" x=\"{left}\" y=\"{}\" width=\"{filled:.1}\" height=\"10\"/>",
                    y + 3.0
                )?;
                writeln!(f, "<text x=\"{}\" y=\"{}\">{}</text>", left + BAR + 8.0, y + 12.0, percent(&line["share"]))?;
            }
            writeln!(f, "</svg>")?;
        }
        writeln!(f, "</div>")
    }
}

impl OnTape {
    fn write(&self, f: &mut Formatter<'_>) -> fmt::Result {
        writeln!(f, "<h2>{}</h2>", Text(&self.name))?;
        match (self.count, self.near.len()) {
            (0, _) => writeln!(f, "<p>No near misses.</p>")?,
            (count, shown) if count > shown => {
                writeln!(f, "<p>{count} near misses; these {shown} missed by least.</p>")?;
            }
            (count, _) => writeln!(f, "<p>{count} near misses.</p>")?,
        }
        for line in &self.near {
            let at = line["began"].as_f64().unwrap_or_default() / 1e6;
            writeln!(
                f,
                "<h3>{} at {at:.3} s, missed by {}</h3>",
                Text(text(&line["action"])),
                millis(&line["missed_by"])
            )?;
            strip(f, line)?;
            let fix = if line["fix"].is_string() { format!("; to fix: {}", text(&line["fix"])) } else { String::new() };
            writeln!(f, "<p>{}{}</p>", Text(text(&line["story"])), Text(&fix))?;
        }
        if self.devices.is_empty() {
            return Ok(());
        }
        writeln!(f, "<h3>Devices</h3>\n<table>\n<tr><th>device</th><th>what it said</th><th>advice</th></tr>")?;
        for line in &self.devices {
            let said = match text(&line["what"]) {
                "buttons" => format!("{} edges of buttons, {} bounces", line["edges"], line["bounces"]),
                _ => format!(
                    "{}: {} reports, {} spring-backs, {} swings past its middle",
                    text(&line["control"]),
                    line["reports"],
                    line["spring_backs"],
                    line["swings"]
                ),
            };
            let advice = match &line["advice"] {
                Value::Array(all) => all.iter().map(text).collect::<Vec<_>>().join("; "),
                one => text(one).to_owned(),
            };
            writeln!(
                f,
                "<tr><td>{}</td><td>{}</td><td>{}</td></tr>",
                Text(text(&line["device"])),
                Text(&said),
                Text(&advice)
            )?;
        }
        writeln!(f, "</table>")
    }
}

/// An attempt's steps on a line of time, and the moment at which it was over.
fn strip(f: &mut Formatter<'_>, line: &Value) -> fmt::Result {
    let began = line["began"].as_f64().unwrap_or_default();
    let steps: Vec<(f64, &str, bool)> = line["steps"]
        .as_array()
        .into_iter()
        .flatten()
        .map(|step| {
            let is_release = step["release"].is_string();
            (
                step["at"].as_f64().unwrap_or_default(),
                text(&step[if is_release { "release" } else { "did" }]),
                is_release,
            )
        })
        .collect();
    let ended = line["at"].as_f64().unwrap_or_default();
    let first = steps.iter().map(|(at, ..)| *at).fold(began, f64::min);
    let last = steps.iter().map(|(at, ..)| *at).fold(ended, f64::max).max(first + 1.0);
    let x = |at: f64| 10.0 + (at - first) / (last - first) * (2.0 * WIDE - 20.0);
    writeln!(
        f,
        "<svg width=\"{0}\" height=\"44\" viewBox=\"0 0 {0} 44\" role=\"img\" aria-label=\"steps of the attempt\">",
        2.0 * WIDE + 120.0
    )?;
    writeln!(f, "<line x1=\"10\" y1=\"12\" x2=\"{}\" y2=\"12\"/>", 2.0 * WIDE - 10.0)?;
    writeln!(f, "<line class=\"end\" x1=\"{0:.1}\" y1=\"3\" x2=\"{0:.1}\" y2=\"21\"/>", x(ended))?;
    let mut free = 0.0;
    for (at, name, is_release) in steps {
        let label = format!("{name}{} {:+.0} ms", if is_release { " up" } else { "" }, (at - began) / 1e3);
        writeln!(
            f,
            "<circle class=\"mark\" cx=\"{:.1}\" cy=\"12\" r=\"5\"><title>{}</title></circle>",
            x(at),
            Text(&label)
        )?;
        // A label that would run into the one before is left to the tooltip.
        if x(at) >= free {
            writeln!(f, "<text x=\"{:.1}\" y=\"36\">{}</text>", x(at) - 5.0, Text(&label))?;
            free = x(at) + label.chars().count() as f64 * 7.0 + 8.0;
        }
    }
    writeln!(f, "</svg>")
}

/// Where each number may lie so that no attempt is lost, and where it is now.
fn tuned(f: &mut Formatter<'_>, lines: &[Value]) -> fmt::Result {
    let numbers: Vec<&Value> = lines.iter().filter(|line| line["what"] == "number").collect();
    if numbers.is_empty() {
        return Ok(());
    }
    writeln!(f, "<h2>What the tapes say about each number</h2>")?;
    for line in lines.iter().filter(|line| line["what"] == "advice") {
        writeln!(
            f,
            "<p class=\"advice\">Set <code>{} = {}</code></p>",
            Text(text(&line["path"])),
            Text(text(&line["value"]))
        )?;
    }
    writeln!(
        f,
        "<table>\n<tr><th>number</th><th>now</th><th>range that finds most</th><th>best</th><th>finds</th><th>found by value; dashed: fires unmeant</th></tr>"
    )?;
    for line in numbers {
        let of = |key: &str| format!("{}|{key}", text(&line["path"]));
        let shown = |value: &Value| {
            if value.is_null() { "open".to_owned() } else { format!("{value} {}", text(&line["unit"])) }
        };
        write!(
            f,
            "<tr><td>{}</td>{}",
            Text(text(&line["path"])),
            cell(&of("value"), &line["value"], &shown(&line["value"]))
        )?;
        write!(f, "<td>{} to {}</td>", Text(&shown(&line["low"])), Text(&shown(&line["high"])))?;
        write!(f, "{}", cell(&of("best"), &line["best"], &shown(&line["best"])))?;
        let found: u64 = line["found"].as_array().into_iter().flatten().filter_map(Value::as_u64).sum();
        write!(f, "<td>{found} ({} more, {} fewer)</td>", line["won"], line["lost"])?;
        write!(f, "<td data-of=\"{}\" data-value=\"{}\">", Text(&of("curve")), Text(&line["curve"].to_string()))?;
        scale(f, line)?;
        writeln!(f, "</td></tr>")?;
    }
    writeln!(f, "</table>")
}

/// How wide and high a number's curve is.
const CURVE: (f64, f64) = (260.0, 64.0);

/// What each value of a number finds, and what it lets in (dashed), with the range, the value now (a line) and the best one (a dot).
fn scale(f: &mut Formatter<'_>, line: &Value) -> fmt::Result {
    let of = |key: &str| line[key].as_f64();
    let (now, best) = (of("value").unwrap_or_default(), of("best").unwrap_or_default());
    let points: Vec<[f64; 3]> = serde_json::from_value(line["curve"].clone()).unwrap_or_default();
    let ends = [of("high"), Some(now), Some(best)].into_iter().flatten().fold(0.0, f64::max) * 1.25 + 1e-9;
    let most = points.last().map_or(ends, |[value, ..]| value.max(1e-9));
    let x = |value: f64| 4.0 + value.min(most) / most * (CURVE.0 - 8.0);
    let (low, high) = (of("low").unwrap_or(0.0), of("high").unwrap_or(most));
    let (wide, base) = (CURVE.0, CURVE.1 - 6.0);
    write!(f, "<svg width=\"{wide}\" height=\"{}\" role=\"img\" aria-label=\"found by value\">", CURVE.1)?;
    write!(f, "<rect class=\"rail\" x=\"4\" y=\"{base}\" width=\"{}\" height=\"4\"/>", wide - 8.0)?;
    write!(
        f,
        "<rect class=\"good\" x=\"{:.1}\" y=\"{base}\" width=\"{:.1}\" height=\"4\"/>",
        x(low),
        (x(high) - x(low)).max(1.0)
    )?;
    let top = points.iter().map(|[_, found, let_in]| found.max(*let_in)).fold(1.0, f64::max);
    let y = |count: f64| base - 3.0 - count / top * (base - 9.0);
    for (place, class) in [(1, "found"), (2, "unmeant")] {
        let at = points.iter().map(|point| format!("{:.1},{:.1}", x(point[0]), y(point[place])));
        write!(f, "<polyline class=\"{class}\" points=\"{}\"/>", at.collect::<Vec<_>>().join(" "))?;
    }
    let found = points.iter().find(|[value, ..]| *value >= best).map_or(top, |[_, found, _]| *found);
    write!(
        f,
        "<line class=\"end\" x1=\"{0:.1}\" y1=\"2\" x2=\"{0:.1}\" y2=\"{base}\"/><circle class=\"mark\" cx=\"{1:.1}\" cy=\"{2:.1}\" r=\"4\"/></svg>",
        x(now),
        x(best),
        y(found)
    )
}
