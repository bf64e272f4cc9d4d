//! Promise: the page that `report` writes shows what the other commands print, to the last digit, and needs nothing from elsewhere.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use assert_cmd::Command;
use serde_json::Value;

fn demo(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(name)
}

fn run(folder: &Path, arguments: &[&str]) -> String {
    let mut command = Command::cargo_bin("tidy-lever").unwrap();
    let output = command.current_dir(folder).args(arguments).assert().success().get_output().stdout.clone();
    String::from_utf8(output).unwrap()
}

fn lines(text: &str) -> Vec<Value> {
    text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

/// The figures of a page, by what they are of.
fn figures(page: &str) -> BTreeMap<String, Value> {
    let cells = page.split("<td data-of=\"").skip(1);
    let figure = |cell: &str| {
        let (of, rest) = cell.split_once("\" data-value=\"").unwrap();
        let (value, _) = rest.split_once("\">").unwrap();
        (of.to_owned(), serde_json::from_str(&value.replace("&quot;", "\"")).unwrap())
    };
    cells.map(figure).collect()
}

/// Opens the page in a browser, wide and as narrow as a telephone: it shows its pictures, and nothing reaches beyond its edge but
/// tables, which are as wide as they are.
fn in_a_browser(folder: &Path, page: &str) {
    const ASK: &str = "<script>document.title = [document.querySelectorAll('svg').length, document.querySelectorAll('.bars svg').length,\
        Math.max(...[...document.querySelectorAll('.bars svg, h1, h2, p')].map(part => part.getBoundingClientRect().right)) <= innerWidth + 1,\
        getComputedStyle(document.querySelector('rect.good')).fill].join('|')</script></body>";
    fs::write(folder.join("asked.html"), page.replace("</body>", ASK)).unwrap();
    for wide in [1280, 500] {
        let mut browser = std::process::Command::new("chromium");
        browser.args(["--headless", "--no-sandbox", "--disable-gpu", "--dump-dom"]);
        browser.arg(format!("--window-size={wide},900")).arg(format!("file://{}", folder.join("asked.html").display()));
        let Ok(output) = browser.output() else {
            assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "chromium is missing");
            eprintln!("SKIPPED: chromium is missing, so that no browser opens the report");
            return;
        };
        let shown = String::from_utf8_lossy(&output.stdout).into_owned();
        let title = shown.split("<title>").nth(1).and_then(|rest| rest.split("</title>").next()).unwrap_or_default();
        let told: Vec<&str> = title.split('|').collect();
        let count = |place: usize| told[place].parse::<usize>().unwrap();
        assert_eq!(count(0), page.matches("<svg").count(), "{title}");
        assert!(count(1) > 20 && told[2] == "true" && told[3].starts_with("rgb("), "{wide}: {title}");
    }
}

#[test]
fn every_figure_is_that_of_rehearse_and_tune_with_the_same_seed() {
    let folder = tempfile::tempdir().unwrap();
    let folder = folder.path();
    fs::copy(demo("otter-post.toml"), folder.join("p.toml")).unwrap();
    run(folder, &["rehearse", "p.toml", "skim", "--skill", "clumsy", "--count", "60", "--tape", "skim.jsonl"]);
    let company = ["--count", "40", "--seed", "7", "--skill", "average", "--skill", "clumsy"];
    run(folder, &[&["report", "p.toml", "skim.jsonl", "-o", "report.html"], &company[..]].concat());
    let page = fs::read_to_string(folder.join("report.html")).unwrap();
    let shown = figures(&page);

    let rehearsed = lines(&run(folder, &[&["rehearse", "p.toml", "--json"], &company[..]].concat()));
    let mut compared = 0;
    for line in rehearsed.iter().filter(|line| line["what"] == "rehearsed") {
        for key in ["share", "delay_median", "false_per_minute"] {
            let of = format!("{}|{}|{key}", line["action"].as_str().unwrap(), line["hand"].as_str().unwrap());
            assert_eq!(shown[&of], line[key], "{of}");
            compared += 1;
        }
    }
    in_a_browser(folder, &page);
    let tuned = lines(&run(folder, &["tune", "p.toml", "skim.jsonl", "--json"]));
    for line in tuned.iter().filter(|line| line["what"] == "number") {
        for key in ["value", "best", "curve"] {
            let of = format!("{}|{key}", line["path"].as_str().unwrap());
            assert_eq!(shown[&of], line[key], "{of}");
            compared += 1;
        }
    }
    assert!(compared > 100 && compared == shown.len(), "{compared} of {}", shown.len());
    // Advice, near misses and devices stand there, too.
    let advice = rehearsed.iter().find(|line| line["what"] == "advice").unwrap();
    let number = format!("`{} = {}`", advice["path"].as_str().unwrap(), advice["value"].as_str().unwrap());
    assert!(advice["text"].as_str().unwrap().contains(&number), "{advice}");
    let start = advice["text"].as_str().unwrap().split('`').next().unwrap();
    assert!(page.contains(start), "{start}");
    for part in ["<h2>skim.jsonl</h2>", "to fix: ", "<svg", "prefers-color-scheme: dark", "@media print"] {
        assert!(page.contains(part), "{part}");
    }
    // Nothing is fetched from anywhere, and no tag is left open by a name.
    for word in ["http", "src=", "<script", "@import", "url("] {
        assert!(!page.contains(word), "{word}");
    }
}

#[test]
fn a_page_that_exists_is_kept_and_names_are_text() {
    let folder = tempfile::tempdir().unwrap();
    let folder = folder.path();
    let profile = "tidy-lever = 1\ntitle = \"<b>Quay</b> & co\"\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";
    fs::write(folder.join("p.toml"), profile).unwrap();
    run(folder, &["report", "p.toml", "-o", "r.html", "--count", "10"]);
    let page = fs::read_to_string(folder.join("r.html")).unwrap();
    assert!(page.contains("&lt;b&gt;Quay&lt;/b&gt; &amp; co") && !page.contains("<b>"), "{page}");
    let refused = |arguments: &[&str]| {
        let mut command = Command::cargo_bin("tidy-lever").unwrap();
        let output = command.current_dir(folder).args(arguments).assert().code(2).get_output().stderr.clone();
        String::from_utf8(output).unwrap()
    };
    assert!(refused(&["report", "p.toml", "-o", "r.html"]).contains("--replace"));
    assert!(refused(&["report", "p.toml", "-o", "r.txt"]).contains(".html"));
    assert!(refused(&["report", "p.toml", "none.jsonl", "-o", "s.html"]).contains("none.jsonl"));
    assert_eq!(fs::read_to_string(folder.join("r.html")).unwrap(), page);
    assert!(!folder.join("s.html").exists());
}
