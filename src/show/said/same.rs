//! Versions of which no difference is known: proved, or tested.

use super::coverage::{SHOWN, covered};
use super::words::{grouped, names};
use super::{Said, SpreadSaid, StrengthSaid, Term, VerdictKind, but_known, count, for_every, rules};
use crate::model::{Duration, format_duration};
use crate::twin::{Ended, Proved, SeededFault, Solved, Spread, Strength, Tested, Tolerance};

pub(super) fn proved(p: &Proved) -> Said {
    let single = p.pairing.single;
    let is_exact = p.pairing.outputs.iter().all(|pair| pair.tolerance == Tolerance::Exact);
    let tolerance = if is_exact { "" } else { " within tolerance" };
    let what = if single { "to hold" } else { "the same" };
    let claim = format!("Proved {what}{tolerance}{}", but_known(&p.pairing));
    let facts = format!(
        "{} about {} that {}; each holds at power-up and every scan keeps it",
        count(p.facts as u64, "fact"),
        count(p.bits as u64, "bit"),
        if single { "it remembers" } else { "both remember" }
    );
    let solver = format!(
        "{} in {}; one scan{} is {}",
        count(p.questions, "question"),
        count(p.rounds.into(), "round"),
        if single { "" } else { " of both" },
        count(p.gates as u64, "gate")
    );
    let reach = for_every(p.stops);
    Said {
        basis: vec![Term::new("by", facts), Term::new("solver", solver)],
        rules: rules::rules(&p.rules, &p.versions, None),
        assumed: p.assumptions.clone(),
        ..Said::new(VerdictKind::Proved, claim, reach.to_string()).about(&p.pairing)
    }
}

pub(super) fn tested(t: &Tested) -> Said {
    let single = t.pairing.single;
    let what = if single { "Holds" } else { "Same" };
    let claim = format!("{what}{} in every scenario tried", but_known(&t.pairing));
    Said {
        basis: basis(t),
        covered: Some(covered(t)),
        strength: t.strength.as_ref().map(|found| strength(found, single, &t.versions[1])),
        spreads: t.pairing.outputs.iter().zip(&t.spreads).map(|(pair, of)| spread(&pair.name, of)).collect(),
        rules: rules::rules(&t.rules, &t.versions, None),
        assumed: t.assumptions.clone(),
        ..Said::new(VerdictKind::Tested, claim, " (tested, not proved)".to_string()).about(&t.pairing)
    }
}

fn basis(t: &Tested) -> Vec<Term> {
    let run = format!(
        "{}{} in {}, {} among them: {} of machine time",
        count(t.scans, "scan"),
        if t.pairing.single { "" } else { " on each side" },
        count(t.scenarios, "scenario"),
        count(t.power_cycles, "power cycle"),
        format_duration(Duration::from_millis(t.machine_time.millis()))
    );
    let drawn = format!("from seed {}; {} kept for what they covered", t.seed, count(t.kept as u64, "scenario"));
    let ended = match t.ended {
        Ended::Scenarios => "all scenarios of the effort were tried",
        Ended::Scans => "the scans of the effort were run",
        Ended::Work => "the work of the effort was used up",
        Ended::Halted => "it was ended before its effort was used up, by a time limit or by hand",
    };
    let mut out = vec![Term::new("run", run), Term::new("drawn", drawn), Term::new("ended", ended.to_string())];
    if t.wide > 0 {
        out.push(Term::new("circuit", format!("{} more, 256 scenarios at a time", count(t.wide, "scan"))));
    }
    if let Some(why) = &t.no_circuit {
        out.push(Term::new("circuit", format!("none: {why}")));
    }
    out.extend(t.solver.map(|solved| Term::new("solver", solver(solved, t.pairing.outputs.len()))));
    if t.faults > 0 {
        let who = if t.pairing.single { "it stopped with a fault" } else { "both stopped with the same fault" };
        out.push(Term::new("faults", format!("{who} in {}", count(t.faults, "scenario"))));
    }
    // Of a large program there are many.
    let still = names(t.never_changed.iter().map(String::as_str));
    match t.never_changed.len() {
        0 => {}
        1 => out.push(Term::new("unmoved", format!("output {still} never changed: nothing was learnt about it"))),
        _ => out.push(Term::new("unmoved", format!("outputs {still} never changed: nothing was learnt about them"))),
    }
    out
}

fn solver(solved: Solved, outputs: usize) -> String {
    let mut said = Vec::new();
    let all = count(outputs as u64, "output");
    let who = match solved.proved {
        0 => None,
        1 if outputs == 1 => Some("the output is".to_string()),
        n if n == outputs => Some(format!("all {all} are")),
        1 => Some(format!("1 of {all} is")),
        n => Some(format!("{} of {all} are", grouped(n as u64))),
    };
    let proved = who.map(|who| format!("{who} proved the same as long as no STOP is given"));
    if let Some(proved) = proved.as_ref().filter(|_| solved.proved == outputs) {
        return proved.clone();
    }
    let them = if proved.is_some() { "the others" } else { "them" };
    if solved.from_power_up > 0 {
        let scans = count(solved.from_power_up as u64, "scan");
        if solved.unanswered > 0 {
            let answered = grouped((outputs - solved.unanswered) as u64);
            return format!("no inputs part {answered} of {all} within {scans} of power-up, on the others it gave up");
        }
        said.push(format!("no inputs part {them} within {scans} of power-up"));
    }
    if solved.states > 0 {
        let word = if said.is_empty() { format!("no inputs part {them}") } else { "nor".to_string() };
        let (scans, states) = (count(solved.scans as u64, "scan"), count(solved.states as u64, "state"));
        said.push(format!("{word} within {scans} of {states} that scenarios reached"));
    }
    if solved.open > 0 {
        said.push(format!("from {} it gave up", count(solved.open as u64, "state")));
    }
    let asked = (!said.is_empty()).then(|| said.join(", "));
    proved.into_iter().chain(asked).collect::<Vec<_>>().join("; ")
}

fn strength(strength: &Strength, single: bool, version: &str) -> StrengthSaid {
    let (caught, all, harmless) = (strength.caught(), strength.faults.len(), strength.harmless());
    let rest = if harmless > 0 { format!("; {harmless} more are proved harmless") } else { String::new() };
    let untried = match strength.untried {
        0 => String::new(),
        n if all == 0 => {
            format!("; none of {} was tried: the effort or the time was used up", count(n as u64, "fault"))
        }
        n => format!("; {} not tried: the effort or the time was used up", count(n as u64, "more fault")),
    };
    let by = if single { "the rules find" } else { "the same effort finds" };
    let line = |fault: &SeededFault| format!("{} in {}: {}", fault.kind.words(), fault.place, fault.text);
    let holes = strength.survivors().count();
    let more = holes.checked_sub(SHOWN).filter(|more| *more > 0).map(|more| format!("{more} more"));
    let cells = |fault: &SeededFault| {
        let found = match (fault.caught, fault.harmless) {
            (true, _) => "yes",
            (false, true) => "harmless, proved",
            (false, false) => "no",
        };
        [fault.kind.words().to_string(), fault.place.clone(), fault.text.clone(), found.to_string()]
    };
    StrengthSaid {
        sentence: format!("{by} {caught} of {all} faults seeded into {version}{rest}{untried}"),
        faults: strength.faults.iter().map(cells).collect(),
        missed: strength.survivors().take(SHOWN).map(line).chain(more).collect(),
    }
}

fn spread(name: &str, spread: &Spread) -> SpreadSaid {
    let bars: Vec<String> = spread.histogram.iter().map(ToString::to_string).collect();
    let end = bars.iter().rposition(|b| b != "0").map_or(0, |n| n + 1);
    SpreadSaid {
        output: name.to_string(),
        changes: spread.changes,
        worst: format_duration(spread.worst),
        bars: bars[..end].join(" "),
    }
}
