//! What was done, as files that replay it: lines, a stimulus, a sequence table with what was seen.

use super::bench::Bench;
use super::log::{Entry, Happening};
use crate::model::{Duration, Family, Instant, format_duration};
use crate::scan::{Direction, Event, ScanTime, Stimulus, table_cell};
use crate::twin::Timing;
use crate::twin::script::play::{input, variable};
use std::collections::HashMap;

/// A wait of so many scans in words.
fn lapse(bench: &Bench, scans: u64) -> String {
    match &bench.twin().timing {
        Timing::Lockstep(ScanTime::Fixed(time)) => {
            format_duration(Duration::from_nanos(time.nanos().saturating_mul(scans as i64)))
        }
        Timing::Lockstep(_) | Timing::Free(_) if scans == 1 => "1 scan".to_string(),
        Timing::Lockstep(_) | Timing::Free(_) => format!("{scans} scans"),
    }
}

/// The entries that tell something: an input that is given what it is given already does not, as in a ramp.
fn telling(entries: &[Entry]) -> Vec<&Entry> {
    let mut given: HashMap<&str, &str> = HashMap::new();
    let mut out = Vec::new();
    for entry in entries {
        let tells = match &entry.what {
            Happening::Set(name, value) => given.insert(name, value) != Some(value.as_str()),
            Happening::Write(name, _) => {
                given.remove(name.as_str());
                true
            }
            Happening::Program(_) => {
                given.clear();
                true
            }
            Happening::Force(..)
            | Happening::Release(_)
            | Happening::Change(..)
            | Happening::PutBack(_)
            | Happening::Power(_) => true,
        };
        if tells {
            out.push(entry);
        }
    }
    out
}

/// What happened as lines of a scenario.
pub(super) fn scenario(bench: &Bench) -> String {
    let mut lines: Vec<String> = Vec::new();
    let mut scan = 0;
    let entries = telling(bench.happened());
    let mut at = 0;
    while let Some(Entry { scan: when, what }) = entries.get(at).copied() {
        if *when > scan {
            lines.push(format!("wait {}", lapse(bench, when - scan)));
            scan = *when;
        }
        // On and off again, with nothing else in between, is a press.
        if let (Happening::Set(name, on), Some(Entry { scan: then, what: Happening::Set(other, off) })) =
            (what, entries.get(at + 1).copied())
            && name == other
            && is_bool(bench, name)
            && (on == "1", off == "0") == (true, true)
            && *then > scan
        {
            lines.push(format!("press {name} for {}", lapse(bench, then - scan)));
            scan = *then;
            at += 2;
            continue;
        }
        lines.push(line(bench, what));
        at += 1;
    }
    let end = bench.position().scan;
    if end > scan {
        lines.push(format!("wait {}", lapse(bench, end - scan)));
    }
    lines.join("\n") + "\n"
}

fn is_bool(bench: &Bench, name: &str) -> bool {
    let machine = bench.controllers[0].machine();
    machine.find(name).is_some_and(|point| machine.point(point).ty.family() == Family::Bool)
}

fn line(bench: &Bench, what: &Happening) -> String {
    let said = |name: &str, value: &str| bench.said(name, value);
    match what {
        Happening::Set(name, value) if is_bool(bench, name) => format!("set {name} {}", said(name, value)),
        Happening::Set(name, value) => format!("set {name} to {value}"),
        Happening::Write(name, value) => format!("write {name} to {}", said(name, value)),
        Happening::Force(name, value) | Happening::Change(name, value) => {
            format!("force {name} to {}", said(name, value))
        }
        Happening::Release(name) | Happening::PutBack(name) => format!("release {name}"),
        Happening::Power(crate::scan::Power::Cycle) => "power cycle".to_string(),
        Happening::Power(crate::scan::Power::Cold) => "cold start".to_string(),
        Happening::Power(crate::scan::Power::Stop) => "stop".to_string(),
        Happening::Power(crate::scan::Power::Run) => "run".to_string(),
        Happening::Program(_) => "# the programs were read again here".to_string(),
    }
}

/// What happened as a stimulus for the first version.
pub(super) fn stimulus(bench: &Bench) -> Result<String, String> {
    let machine = bench.controllers[0].machine();
    let mut events: Vec<Event> = Vec::new();
    for entry in telling(bench.happened()) {
        let at = bench.instant(entry.scan).0;
        let mut event = Event::at(at);
        match &entry.what {
            Happening::Set(name, text) => event.set.push(input(machine, name, text)?),
            Happening::Write(name, text) => event.write.push(variable(machine, name, text)?),
            Happening::Force(name, text) | Happening::Change(name, text) => {
                let (point, value) = variable(machine, name, text)?;
                event.force.push((point, Some(value)));
            }
            Happening::Release(name) | Happening::PutBack(name) => {
                let point = machine.find(name).ok_or_else(|| format!("there is no variable `{name}` any more"))?;
                event.force.push((point, None));
            }
            Happening::Power(power) => event.power = Some(*power),
            Happening::Program(_) => continue,
        }
        match events.last_mut().filter(|last| last.at == at) {
            // Inputs of the same moment share a row; of all else the order counts.
            Some(last) if !event.set.is_empty() && last.force.is_empty() && last.write.is_empty() => {
                last.set.retain(|(point, _)| *point != event.set[0].0);
                last.set.append(&mut event.set);
            }
            _ => events.push(event),
        }
    }
    Ok(Stimulus { events }.write(machine))
}

/// What happened as a sequence table: inputs as they were given, and of the first version's outputs what they were at the end
/// of each row.
pub(super) fn table(bench: &Bench, marks: &[u64]) -> Result<String, String> {
    let machine = bench.controllers[0].machine();
    let mut begins: Vec<u64> = vec![0];
    let mut given: Vec<(u64, &str, &str)> = Vec::new();
    for entry in telling(bench.happened()) {
        match &entry.what {
            Happening::Set(name, text) => given.push((entry.scan, name, text)),
            Happening::Write(..)
            | Happening::Force(..)
            | Happening::Release(_)
            | Happening::Change(..)
            | Happening::PutBack(_)
            | Happening::Power(_)
            | Happening::Program(_) => {
                return Err(
                    "a sequence table gives inputs and no more; save what else was done as a .scenario".to_string()
                );
            }
        }
        begins.push(entry.scan);
    }
    let end = bench.position().scan;
    begins.extend(marks.iter().copied());
    begins.retain(|scan| *scan < end);
    begins.sort_unstable();
    begins.dedup();
    let whole = |scan: u64| -> Result<i64, String> {
        let nanos = bench.instant(scan).0.nanos();
        let is_whole = nanos % 1_000_000 == 0;
        is_whole.then_some(nanos / 1_000_000).ok_or_else(|| {
            "the rows of a sequence table last whole milliseconds, and these scans do not; save a .scenario".to_string()
        })
    };
    let inputs: Vec<&str> = machine.points_of(Direction::Input).map(|(_, point)| point.name.as_str()).collect();
    let outputs: Vec<&str> = machine.points_of(Direction::Output).map(|(_, point)| point.name.as_str()).collect();
    let mut rows = vec![
        ["step", "@for_ms"]
            .into_iter()
            .chain(inputs.iter().copied())
            .chain(outputs.iter().copied())
            .map(str::to_string)
            .collect::<Vec<_>>(),
    ];
    for (number, begin) in begins.iter().enumerate() {
        let until = begins.get(number + 1).copied().unwrap_or(end);
        let mut row = vec![(number + 1).to_string(), (whole(until)? - whole(*begin)?).to_string()];
        for name in &inputs {
            let last = given.iter().rev().find(|(scan, own, _)| scan == begin && own.eq_ignore_ascii_case(name));
            row.push(last.map_or(String::new(), |(_, _, text)| (*text).to_string()));
        }
        for name in &outputs {
            row.push(
                bench
                    .cell(name, until)
                    .ok_or_else(|| format!("what {name} was is not known any more; save a .scenario"))?,
            );
        }
        rows.push(row);
    }
    let mut writer = csv::Writer::from_writer(Vec::new());
    for row in &rows {
        writer.write_record(row).map_err(|e| e.to_string())?;
    }
    let bytes = writer.into_inner().map_err(|e| e.to_string())?;
    String::from_utf8(bytes).map_err(|e| e.to_string())
}

impl Bench {
    /// A value as a line of a scenario says it.
    pub(super) fn said(&self, name: &str, value: &str) -> String {
        match (is_bool(self, name), value) {
            (true, "1") => "on".to_string(),
            (true, "0") => "off".to_string(),
            _ => value.to_string(),
        }
    }

    /// When a scan that has run began, or the next one.
    pub(super) fn instant(&self, scan: u64) -> Instant {
        let mut pace = crate::twin::Pace::of(&super::bench::time_of(self.twin()));
        pace.skip(scan);
        Instant(Duration::from_nanos(pace.now()))
    }

    /// What a point of the first version held after so many scans, as a cell of a table; none if that is not known.
    pub(super) fn cell(&self, name: &str, scans: u64) -> Option<String> {
        let number = self.seen.number(0, name)?;
        let noted = &self.seen.noted[number];
        if noted.since > scans || self.seen.from > scans {
            return None;
        }
        let value = self.seen.value(&self.controllers, number, self.seen.after(number, scans));
        noted.point?;
        Some(table_cell(&value, value.cell()))
    }
}
