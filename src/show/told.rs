//! What came of an act of a session, in words.

use super::drawing::{Live, Which, rows};
use crate::model::{Duration, Instant, ScanNumber, format_duration};
use crate::scan::{Measure, Spread};
use crate::session::{
    Kept, Moved, Parted, Ran, Reason, Searched, Selection, Session, Shown, Standing, Stands, Told, Went,
};

/// Columns of the names in a list, at least.
const NAMES: usize = 14;

/// Characters of a drawing's line.
const WIDTH: usize = 100;

/// What came of an act, each line further in; nothing if there is nothing to say.
///
/// A session is needed, as rungs are drawn from it.
#[must_use]
pub fn told(session: &mut Session, told: &Told) -> String {
    let sides: Vec<String> = session.versions().map(|version| version.name().to_string()).collect();
    let text = match told {
        Told::Nothing | Told::ReadAgain | Told::Quit => String::new(),
        Told::Ran(of) => ran(of, &sides),
        Told::Stands(of) => stands(of, &sides),
        Told::Went(of) => went(of, &sides),
        Told::Show(list) => return drawn(session, list),
        Told::Measured(list) => measures(list),
        Told::Why(list) => why(list, &sides),
        Told::Save { path, what, text } => {
            format!("{path}: a {what} of {}", count(text.lines().count() as u64, "line"))
        }
        Told::Reread(list) => list.iter().map(reread).collect::<Vec<_>>().join("\n"),
        Told::Searched(of) => searched(of),
        Told::Said(sentence) => sentence.clone(),
        Told::Help(list) => help(list),
    };
    let lines = text.lines().map(|line| if line.is_empty() { "\n".to_string() } else { format!("  {line}\n") });
    lines.collect()
}

fn at(instant: Instant) -> String {
    format_duration(instant.0)
}

/// A name, of the second of two versions with that in front.
fn sided(side: usize, name: &str, sides: &[String]) -> String {
    match sides {
        [_, second] if side == 1 => format!("{second}: {name}"),
        _ => name.to_string(),
    }
}

fn columns(rows: &[Vec<String>]) -> String {
    let count = rows.iter().map(Vec::len).max().unwrap_or(0);
    // A column in which nothing stands takes no room.
    let is_used = |column: usize| rows.iter().any(|row| row.get(column).is_some_and(|cell| !cell.is_empty()));
    let width = |column: usize| {
        let own = rows.iter().filter(|row| row.len() > column + 1).map(|row| row[column].chars().count()).max();
        own.unwrap_or(0).max(if column == 0 { NAMES } else { 0 })
    };
    let widths: Vec<usize> = (0..count).map(width).collect();
    let line = |row: &Vec<String>| {
        let used = row.iter().zip(&widths).enumerate().filter(|(column, _)| is_used(*column));
        let cells = used.map(|(_, (cell, width))| format!("{cell:<width$}"));
        cells.collect::<Vec<_>>().join("  ").trim_end().to_string()
    };
    rows.iter().map(line).collect::<Vec<_>>().join("\n")
}

fn count(number: u64, word: &str) -> String {
    if number == 1 { format!("1 {word}") } else { format!("{number} {word}s") }
}

/// Rows that are told of one act, at most; the rest is counted.
const MOST_ROWS: usize = 40;

fn ran(ran: &Ran, sides: &[String]) -> String {
    let mut out = Vec::new();
    if let Some(to) = ran.to.filter(|_| ran.scans > 0) {
        out.push(format!("{}, to {}", count(ran.scans, "scan"), at(to)));
    }
    list(&mut out, ran.moved.iter().map(|moved| moved_row(moved, sides)).collect());
    list(&mut out, ran.devices.iter().map(|device| device_row(device, sides)).collect());
    out.extend(ran.notes.iter().cloned());
    let missed = ran.missed.len();
    if ran.asked > missed {
        let met = ran.asked - missed;
        out.push(if met == 1 { "met".to_string() } else { format!("met {met} times") });
    }
    out.extend(ran.missed.iter().map(|missed| format!("NOT MET: {missed}")));
    out.extend(ran.faults.iter().map(|fault| format!("FAULT: {fault}")));
    if ran.halted {
        out.push("ended before its time, as it took too long; what was done stands".to_string());
    }
    out.extend(ran.parted.as_ref().map(|parted| parted_text(parted, sides)));
    out.join("\n")
}

/// Rows in columns, the first of them.
fn list(out: &mut Vec<String>, mut rows: Vec<Vec<String>>) {
    let more = rows.len().saturating_sub(MOST_ROWS);
    rows.truncate(MOST_ROWS);
    if !rows.is_empty() {
        out.push(columns(&rows));
    }
    if more > 0 {
        out.push(format!("and {more} more; `now` tells all"));
    }
}

fn when(at: Option<Instant>, scans: u64) -> String {
    at.map_or("power is on, no scan has run".to_string(), |moment| {
        format!("{}, the last at {}", count(scans, "scan"), format_duration(moment.0))
    })
}

fn went(went: &Went, sides: &[String]) -> String {
    let mut out = vec![when(went.at, went.scans)];
    let row = |(side, name, was, is): &(usize, String, String, String)| {
        vec![sided(*side, name, sides), format!("{was} -> {is}")]
    };
    list(&mut out, went.points.iter().map(row).collect());
    list(&mut out, went.devices.iter().map(|device| device_row(device, sides)).collect());
    out.extend(went.held.iter().map(|held| format!("held: {held}")));
    out.join("\n")
}

fn moved_row(moved: &Moved, sides: &[String]) -> Vec<String> {
    let Moved { before, after, changes, .. } = moved;
    let name = sided(moved.side, &moved.name, sides);
    let how = match changes {
        1 => format!("at {}", at(moved.first)),
        _ => format!("{}, from {} to {}", count(*changes, "change"), at(moved.first), at(moved.last)),
    };
    let on =
        if moved.is_bool && *changes > 1 { format!("on for {}", format_duration(moved.on)) } else { String::new() };
    vec![name, format!("{before} -> {after}"), how, on]
}

fn device_row(device: &Shown, sides: &[String]) -> Vec<String> {
    let mut name = sided(device.side, &device.name, sides);
    if let Some(address) = device.address.as_ref().filter(|address| **address != device.name) {
        name.push_str(&format!(" {address}"));
    }
    let done = match device.done {
        Some(true) => "done",
        Some(false) => "not done",
        None => "",
    };
    let as_time = device.as_time.as_ref().map_or(String::new(), |time| format!(" ({time})"));
    vec![name, format!("{}{as_time}", device.reading), device.kind.to_string(), done.to_string()]
}

fn parted_text(parted: &Parted, sides: &[String]) -> String {
    let Parted { scan: ScanNumber(scan), at: moment, name, values, writers } = parted;
    let mut out = vec![format!("THE VERSIONS DIFFER: {name}, after scan {scan} at {}", at(*moment))];
    for side in 0..2 {
        let version = sides.get(side).map_or("", String::as_str);
        let written = match &writers[side] {
            Some([place, text]) => format!(", written at {place}: {text}"),
            None => ", which this scan did not write".to_string(),
        };
        let written = if name == "fault" { String::new() } else { written };
        out.push(format!("    {version}: {}{written}", values[side]));
    }
    out.join("\n")
}

/// Where things stand.
#[must_use]
pub fn stands(stands: &Stands, sides: &[String]) -> String {
    let mut out = vec![format!("{}{}", when(stands.at, stands.scans), if stands.stopped { "; stopped" } else { "" })];
    for what in ["input", "output", "watched"] {
        let row = |point: &Standing| {
            let name = sided(point.side, &point.name, sides);
            let address = point.address.clone().filter(|address| *address != point.name).unwrap_or_default();
            let wired = if point.rests_on { "closed at rest" } else { "" };
            vec![
                name,
                point.value.clone(),
                address,
                wired.to_string(),
                if point.forced { "forced" } else { "" }.to_string(),
            ]
        };
        let list: Vec<Vec<String>> = stands.points.iter().filter(|point| point.what == what).map(row).collect();
        if !list.is_empty() {
            out.push(match what {
                "input" => "inputs".to_string(),
                "output" => "outputs".to_string(),
                other => other.to_string(),
            });
            out.extend(columns(&list).lines().map(|line| format!("  {line}")));
        }
    }
    if !stands.devices.is_empty() {
        out.push("timers and counters".to_string());
        let list: Vec<Vec<String>> = stands.devices.iter().map(|device| device_row(device, sides)).collect();
        out.extend(columns(&list).lines().map(|line| format!("  {line}")));
    }
    if !stands.held.is_empty() {
        out.push("held".to_string());
        out.extend(stands.held.iter().map(|held| format!("  {held}")));
    }
    out.extend(stands.faults.iter().map(|fault| format!("FAULT: {fault}")));
    out.join("\n")
}

/// Rungs of all versions that have them.
fn drawn(session: &mut Session, list: &[Selection]) -> String {
    let moments = session.moments().ok().flatten().map(<[_]>::to_vec);
    let caption = match session.at() {
        Some(moment) => format!("scan {} at {}", session.scans().saturating_sub(1), at(moment)),
        None => "power-up, before any scan".to_string(),
    };
    let mut out = String::new();
    let several = session.versions().count() > 1;
    for (side, version) in session.versions().enumerate() {
        let mut live = Live::new(session.controller(side), caption.clone());
        live.moment = moments.as_ref().and_then(|moments| moments.get(side));
        for selection in list {
            let which = Which {
                unit: Some(selection.unit.clone()),
                networks: selection.networks.clone(),
                naming: selection.naming.clone(),
            };
            let drawn = rows(version.checked(), &which, Some(&live), WIDTH);
            if several && !drawn.is_empty() {
                out.push_str(&format!("  {}\n", version.name()));
            }
            for row in drawn {
                out.push_str(format!("  {}", row.text()).trim_end());
                out.push('\n');
            }
        }
    }
    if out.is_empty() { "  there is nothing of that to show\n".to_string() } else { out.trim_end().to_string() + "\n" }
}

fn spread(name: &str, spread: Option<Spread>) -> Option<String> {
    let Spread { least, most } = spread?;
    let both = if least == most {
        format_duration(least)
    } else {
        format!("{} to {}", format_duration(least), format_duration(most))
    };
    Some(format!("{name} {both}"))
}

/// What signals did, a line each.
#[must_use]
pub fn measures(list: &[Measure]) -> String {
    let row = |measure: &Measure| {
        let mut said = Vec::new();
        if measure.is_bool {
            let span = Duration::from_nanos(measure.until.0.nanos() - measure.from.0.nanos());
            said.push(times("rose", measure.rises));
            said.push(format!("on for {} of {}", format_duration(measure.on), format_duration(span)));
            said.extend(spread("each", measure.on_times));
            said.extend(spread("off for", measure.off_times));
            said.extend(spread("from rise to rise", measure.periods));
        } else {
            said.push(times("changed", measure.changes));
            if let (Some(least), Some(most)) = (&measure.least, &measure.most) {
                said.push(if least == most { format!("always {least}") } else { format!("{least} to {most}") });
            }
        }
        said.extend(measure.last.as_ref().map(|last| format!("now {last}")));
        vec![measure.name.clone(), said.join("; ")]
    };
    columns(&list.iter().map(row).collect::<Vec<_>>())
}

fn times(did: &str, number: u64) -> String {
    match number {
        0 => format!("never {did}"),
        1 => format!("{did} once"),
        many => format!("{did} {many} times"),
    }
}

fn why(list: &[Reason], sides: &[String]) -> String {
    let mut out = Vec::new();
    for reason in list {
        let indent = "    ".repeat(reason.depth);
        let name = sided(reason.side, &reason.name, sides);
        let Reason { value, written, reads, .. } = reason;
        match written {
            Some((scan, place, text)) => {
                out.push(format!("{indent}{name} = {value}, written in scan {scan} at {place}: {text}"));
                let read: Vec<String> = reads.iter().map(|[name, value]| format!("{name} = {value}")).collect();
                if !read.is_empty() {
                    out.push(format!("{indent}    read {}", read.join(", ")));
                }
            }
            None => out.push(format!("{indent}{name} = {value}, which no statement has written lately")),
        }
    }
    out.join("\n")
}

fn reread(kept: &Kept) -> String {
    let list = |names: &[String]| {
        let first: Vec<&str> = names.iter().take(8).map(String::as_str).collect();
        let more = names.len().saturating_sub(first.len());
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        format!("{}{more}", first.join(", "))
    };
    let mut out = vec![format!("{}: read again, {} kept", kept.version, count(kept.kept as u64, "value"))];
    if !kept.anew.is_empty() {
        out.push(format!("begins anew: {}", list(&kept.anew)));
    }
    if !kept.lost.is_empty() {
        out.push(format!("lost: {}", list(&kept.lost)));
    }
    if kept.edges_anew {
        out.push(
            "begins anew: what edge contacts and boxes remember, as the drawings are of another shape".to_string(),
        );
    }
    out.join("\n")
}

fn searched(searched: &Searched) -> String {
    let tried = format!("{} tried, {}", count(searched.tried, "way"), count(searched.scans, "scan"));
    match &searched.lines {
        Some(lines) => format!("from here they differ ({tried}):\n    {}", lines.join("\n    ")),
        None => format!("no way on was found in which they differ ({tried}); that is no proof"),
    }
}

fn help(list: &[[String; 2]]) -> String {
    let rows: Vec<String> = list
        .iter()
        .map(|[form, does]| if does.is_empty() { form.clone() } else { format!("{form}\n      {does}") })
        .collect();
    rows.join("\n")
}
