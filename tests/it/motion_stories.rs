//! Promise: each way in which a motion misses has its story, with its margin.

use super::motions::{feed, with};
use crate::common::{Bench, us};
use tidy_lever::Fact;
use tidy_lever::ledger::Outcome;

/// What the ledger tells of an action: its story, and what it wanted.
fn stories(body: &str, script: &str) -> Vec<String> {
    let mut bench = Bench::new(body);
    bench.seat.keep_ledger(64);
    feed(&mut bench, script);
    bench.seat.close_ledger();
    let linkage = bench.seat.linkage();
    let told = bench.seat.attempts().filter(|attempt| attempt.action(linkage) == Some("act"));
    told.map(|attempt| {
        let came = attempt.steps(linkage).count();
        format!("{came}/{} {}", attempt.of(), attempt.story(linkage).unwrap_or_default())
    })
    .collect()
}

#[test]
fn every_miss_has_its_story() {
    let skim = "steer rolls 236 then toss within 350ms";
    let cases: &[(&str, &str, &[&str])] = &[
        (skim, "2@0 3@40 6@60 +J@90 -J@99 5@100", &["4/4 pulled"]),
        (skim, "2@0 3@40 6@60 +J@428 -J@500 5@510", &["4/4 toss came 38 ms too late"]),
        (skim, "2@0 3@40 6@60 8@90 +J@120 5@200", &["4/4 up interrupted it"]),
        (
            skim,
            "2@0 3@40 +J@50 -J@70 6@125 5@130 8@900",
            &["3/4 the press came 15 ms too soon before the last direction"],
        ),
        (skim, "<@0 2@10 3@30 6@50 +J@70 -J@80 5@90", &["4/4 `facing` was left"]),
        (skim, "2@0 3@40 6@60 5@100 8@900", &["3/4 toss did not come in time"]),
        (
            "steer rolls back held 700ms, forward within 200ms",
            "4@0 5@640 6@700 5@750",
            &["1/2 left was released 60 ms too soon"],
        ),
        ("toss hold 300ms", "+J@0 -J@290", &["1/1 toss was released 10 ms too soon"]),
        ("toss tap under 200ms", "+J@0 -J@214999u", &["1/1 toss was held 15 ms too long"]),
        (
            "toss 2 taps 240ms apart",
            "+J@0 -J@20 +J@260 -J@280",
            &["2/2 toss came 20 ms too late", "1/2 the remaining steps did not come in time"],
        ),
        (
            "toss mash 3 within 500ms",
            "+J@0 -J@9 +J@300 -J@309 +J@530 -J@540",
            &["3/3 toss came 30 ms too late", "1/3 the remaining steps did not come in time"],
        ),
        (
            "toss with hop within 40ms",
            "+J@0 +K@52 -J@90 -K@90",
            &["2/2 hop came 12 ms too late", "1/2 hop was released before the other button came"],
        ),
        (
            "toss with hop within 40ms",
            "+J@0 -J@10 +K@20 -K@90",
            &["1/2 toss was released before the other button came", "1/2 the remaining steps did not come in time"],
        ),
        ("toss charge 200ms to 1s", "+J@0 -J@150", &["1/1 toss was released 50 ms too soon"]),
        (
            "steer twice within 240ms",
            "6@0 5@50 6@250 5@300 4@800 5@900",
            &[
                "2/2 right came 10 ms too late",
                "1/2 the remaining steps did not come in time",
                "1/2 the remaining steps did not come in time",
            ],
        ),
        (
            "steer twice within 240ms",
            "6@0 5@50 4@150 5@300",
            &["2/2 left interrupted it", "1/2 the remaining steps did not come in time"],
        ),
        // A neighbour in between is not a second attempt; what interrupts begins its own.
        ("steer twice within 240ms", "6@0 5@50 8@100 5@120 6@180 5@300", &["2/2 pulled"]),
        ("steer twice within 240ms", "6@0 5@50 8@100 5@150 8@200 5@300", &["2/2 up interrupted it", "2/2 pulled"]),
        // The one thing that was missing.
        (skim, "2@0 5@40 6@90 +J@120 -J@130 5@140", &["3/4 down-right did not come in between"]),
        (skim, "<@0 2@10 5@40 4@90 +J@120 -J@130 5@140", &["3/4 down-left did not come in between"]),
        (skim, "2@0 3@40 6@60 9@70 +J@141 -J@150 5@160", &["4/4 up-right lasted 1 ms too long"]),
        (
            "steer rolls 623 then toss within 300ms",
            "6@0 2@480 3@520 +J@540 -J@550 5@560",
            &["4/4 right had been held 180 ms too long before the motion"],
        ),
        // Walking round corners is not an attempt.
        ("steer rolls 623 then toss within 300ms", "6@0 2@480 4@900 5@1200", &[]),
        // Seven eighths are not a circle that came too late.
        (
            "steer spins 1 within 900ms",
            "3@0 6@3000 9@3050 8@3100 7@3150 4@3200 1@3250 2@3300 5@3500",
            &["8/8 the time limit ended first"],
        ),
        (
            "steer spins 1 within 900ms",
            "6@0 7@50 4@90 3@140 5@500",
            &[
                "1/8 the remaining steps did not come in time",
                "2/8 the remaining steps did not come in time",
                "1/8 the remaining steps did not come in time",
            ],
        ),
        ("order hop, toss, hop within 2s", "+K@0 -K@9 +J@50 -J@60 +J@90 -J@99", &["3/3 toss interrupted it"]),
        ("steer flicks over 0.8 within 60ms", "5@0", &[]),
    ];
    for (cue, script, expected) in cases {
        assert_eq!(stories(&with(cue, ""), script), *expected, "{cue}: {script}");
    }
}

#[test]
fn a_gate_that_refused_is_named_with_its_margin() {
    let gated = |keep: &str| {
        format!(
            "[facts]\ngrounded = true\nbusy = false\n[action.act]\nkind = \"button\"\nkeys = \"KeyJ\"\n\
             when = \"grounded within 90ms and not busy\"\n{keep}"
        )
    };
    let run = |keep: &str, tells: &[(&str, bool, u64)], presses: &[u64]| {
        let mut bench = Bench::new(&gated(keep));
        bench.seat.keep_ledger(64);
        for (fact, value, at) in tells {
            let fact: Fact = bench.find(fact);
            bench.seat.tell_at(fact, *value, us(at * 1_000)).unwrap();
        }
        for press in presses {
            bench.level(press * 1_000, "keys:KeyJ", 1.0).level(press * 1_000 + 5_000, "keys:KeyJ", 0.0);
        }
        bench.to(3_000_000);
        bench.seat.close_ledger();
        let linkage = bench.seat.linkage();
        bench
            .seat
            .attempts()
            .map(|attempt| (attempt.story(linkage).unwrap_or_default(), attempt.missed_by().map(|by| by.as_millis())))
            .collect::<Vec<_>>()
    };
    let story = |text: &str, by: Option<u128>| (text.to_owned(), by);
    assert_eq!(
        run("", &[("grounded", false, 100)], &[198]),
        [story("blocked by `when`: `grounded` had ended 8 ms before the press", Some(8))]
    );
    assert_eq!(
        run("keep = \"120ms\"", &[("grounded", false, 1), ("grounded", true, 345)], &[200]),
        [story("blocked by `when`: `grounded` came 25 ms too late", Some(25))]
    );
    // After an earlier hop, in the air: what lacks is the ground, not that it was spent.
    let early = run("keep = \"120ms\"", &[("grounded", false, 117), ("grounded", true, 800)], &[100, 673]);
    assert_eq!(early[1], story("blocked by `when`: `grounded` came 7 ms too late", Some(7)));
    assert_eq!(run("", &[("busy", true, 100)], &[198]), [story("blocked by `when`: it needs `not busy`", None)]);
    // The first hop spends the ground; what comes too soon behind it is told so.
    let spent = run("", &[], &[100, 150]);
    assert_eq!(
        spent,
        [story("pulled", None), story("blocked by `when`: `act` had already used up `grounded`", Some(200))]
    );
    assert_eq!(
        run("cooldown = \"300ms\"", &[("busy", true, 50), ("busy", false, 60)], &[100, 390])[1].0,
        "blocked by `cooldown`: 10 ms were left"
    );
}

#[test]
fn the_ledger_changes_nothing_and_forgets_the_oldest() {
    let body = with("steer rolls 236 then toss within 350ms", "outranks = [\"toss\"]\n");
    let script =
        "2@0 3@40 6@60 +J@90 -J@99 5@100 2@200 3@240 1@260 +J@290 -J@299 5@300 2@400 3@440 6@460 +J@990 -J@999 5@1000";
    let (mut told, mut silent) = (Bench::new(&body), Bench::new(&body));
    told.seat.keep_ledger(2);
    feed(&mut told, script);
    feed(&mut silent, script);
    assert_eq!(told.heard(), silent.heard());
    assert_eq!(told.seat.state_hash(), silent.seat.state_hash());
    assert_eq!(told.seat.attempts().count(), 2);
    assert!(told.seat.attempt_count() > 2);
    assert_eq!(told.seat.attempts().last().unwrap().number() + 1, told.seat.attempt_count());
    assert_eq!(silent.seat.attempts().count(), 0);
    // Restoring takes back what happened and leaves what was told.
    let saved = told.seat.saved(&[]);
    told.seat.restore(&saved, &mut []).unwrap();
    assert_eq!(told.seat.attempts().count(), 2);
    assert!(matches!(
        told.seat.attempts().next().unwrap().outcome(told.seat.linkage()),
        Some(Outcome::Pulled { .. } | Outcome::TooLate { .. })
    ));
}
