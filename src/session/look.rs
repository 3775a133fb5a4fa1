//! Looking: what has changed, where things stand, what signals did, and why.

use super::bench::Bench;
use super::devices::once;
use super::log::{Happening, Position, held};
use super::parted::writer;
use super::questions::sides;
use super::told::{Moved, Ran, Reason, Selection, Standing, Stands};
use super::{ActError, Session, Told};
use crate::lang::statement_at;
use crate::model::{Duration, Item, Unit};
use crate::scan::{Controller, Direction, Measure, Measuring, PointId};
use crate::twin::script::perform::Performer;
use std::collections::{HashMap, HashSet};

/// Points that one name may watch, at most.
const MOST_WATCHED: usize = 200;

/// Scans whose statements are looked through for a cause.
const LOOKED_BACK: u64 = 200;

/// Causes that are told, at most.
const MOST_REASONS: usize = 24;

/// The scans after which a point changed, and what it became.
type Course = Vec<(u64, i64)>;

/// How things stood before an act.
pub(super) struct Before {
    position: Position,
    values: Vec<i64>,
    devices: Vec<[Option<i64>; 3]>,
    faults: usize,
}

impl Session {
    pub(super) fn snapshot(&self) -> Before {
        Before {
            position: self.bench.position(),
            values: self.bench.seen.values().to_vec(),
            devices: self.devices.iter().map(|device| device.slots(&self.bench.controllers)).collect(),
            faults: self.faults().len(),
        }
    }

    /// What has come about since.
    pub(super) fn ran(&mut self, before: &Before, performer: &Performer) -> Ran {
        let here = self.bench.position();
        let scans = here.scan - before.position.scan;
        let devices = self.devices.iter().zip(&before.devices);
        let devices = devices
            .filter(|(device, was)| device.slots(&self.bench.controllers) != **was)
            .map(|(device, _)| device.shown(&self.bench.controllers));
        let mut parted = self.bench.parted.take();
        if let (Some(parted), Some(moments)) = (&mut parted, &self.bench.moments) {
            for (side, moment) in moments.iter().enumerate().take(2) {
                let controller = &self.bench.controllers[side];
                parted.writers[side] = writer(self.bench.twin(), side, controller, &parted.name, moment);
            }
        }
        let versions: Vec<String> = self.versions().map(|version| version.name().to_string()).collect();
        let missed = performer.misses.iter().map(|miss| {
            let of = if versions.len() > 1 { format!("{}: ", versions[miss.version]) } else { String::new() };
            let at = crate::model::format_duration(miss.at.0);
            format!("{of}{} (scan {}, at {at})", miss.what, miss.scan)
        });
        let faults = self.faults();
        Ran {
            from: (scans > 0).then(|| self.bench.instant(before.position.scan)),
            to: if scans > 0 { self.bench.began() } else { None },
            scans,
            moved: self.moved(before),
            devices: once(devices.collect()),
            notes: self.notes(before),
            asked: performer.asked,
            missed: missed.collect(),
            parted,
            faults: faults.into_iter().skip(before.faults).collect(),
            halted: self.bench.halt.has_rung(),
        }
    }

    /// The points that are told: inputs, outputs, and what is watched; of the second version only what differs from the first.
    fn is_told(&self, number: usize) -> bool {
        let noted = &self.bench.seen.noted[number];
        let Some(point) = noted.point else { return false };
        let direction = self.bench.controllers[noted.side].machine().point(point).direction;
        direction != Direction::Internal || self.watched.iter().any(|(_, numbers)| numbers.contains(&number))
    }

    fn moved(&self, before: &Before) -> Vec<Moved> {
        let (bench, scan) = (&self.bench, before.position.scan);
        let mut out: Vec<(Moved, Course)> = Vec::new();
        let end = bench.instant(bench.position().scan);
        for number in 0..bench.seen.noted.len().min(before.values.len()) {
            if !self.is_told(number) {
                continue;
            }
            let own = bench.seen.between(number, scan, bench.position().scan);
            let (Some(first), Some(last)) = (own.first(), own.last()) else { continue };
            let was = before.values[number];
            let value = |slot: i64| bench.seen.value(&bench.controllers, number, slot);
            let is_bool = matches!(value(was), crate::model::Value::Bool(_));
            let (mut on, mut since, mut is_on) = (0, bench.instant(scan), was != 0);
            for turn in own {
                if is_on {
                    on += turn.at.0.nanos() - since.0.nanos();
                }
                (since, is_on) = (turn.at, turn.slot != 0);
            }
            if is_on {
                on += end.0.nanos() - since.0.nanos();
            }
            let noted = &bench.seen.noted[number];
            let moved = Moved {
                side: noted.side,
                name: noted.name.clone(),
                before: value(was).readable(),
                after: value(last.slot).readable(),
                is_bool,
                changes: own.len() as u64,
                first: first.at,
                last: last.at,
                on: Duration::from_nanos(if is_bool { on } else { 0 }),
            };
            out.push((moved, own.iter().map(|turn| (turn.scan, turn.slot)).collect()));
        }
        // What the second version does as the first one does it need not be said twice.
        let first = out.iter().filter(|(moved, _)| moved.side == 0);
        let first: HashMap<&str, &Course> = first.map(|(moved, course)| (moved.name.as_str(), course)).collect();
        let is_first = |moved: &Moved, course: &Course| first.get(moved.name.as_str()) == Some(&course);
        let told = out.iter().filter(|(moved, course)| moved.side == 0 || !is_first(moved, course));
        told.map(|(moved, _)| moved.clone()).collect()
    }

    /// What happened that no scan has seen yet, and what is held.
    fn notes(&self, before: &Before) -> Vec<String> {
        let here = self.bench.position();
        let entries = &self.bench.happened()[before.position.log.min(here.log)..];
        let waiting = entries.iter().filter(|entry| entry.scan == here.scan);
        let mut out = Vec::new();
        let said = |name: &str, value: &str| self.bench.said(name, value);
        let held = held(self.bench.happened());
        for entry in waiting {
            out.push(match &entry.what {
                // Who gives a value to what is forced is told that no scan sees it yet.
                Happening::Set(name, value) if held.iter().any(|held| held.name == *name) => {
                    format!("{name} is {} once it is held no more", said(name, value))
                }
                Happening::Set(name, value) => format!("{name} is {} from the next scan on", said(name, value)),
                Happening::Write(name, value) => format!("{name} is {} when the next scan begins", said(name, value)),
                Happening::Force(name, value) => format!("{name} is held at {}, whatever writes it", said(name, value)),
                Happening::Release(name) => format!("{name} is held no more"),
                Happening::Change(name, value) => {
                    format!("{name} is changed to {}, until `put back {name}`", said(name, value))
                }
                Happening::PutBack(name) => format!("{name} is what it was"),
                Happening::Power(crate::scan::Power::Cycle) => {
                    "power was off: what is not retained starts anew".to_string()
                }
                Happening::Power(crate::scan::Power::Cold) => "power was off: everything starts anew".to_string(),
                Happening::Power(crate::scan::Power::Stop) => "stopped: memory is kept, outputs hold".to_string(),
                Happening::Power(crate::scan::Power::Run) => "runs again".to_string(),
                Happening::Program(_) => continue,
            });
        }
        out
    }

    /// Whether an input is TRUE at rest: by its initial value, or as it was said of the pair.
    fn rests_on(&self, side: usize, point: PointId) -> bool {
        let machine = self.bench.controllers[side].machine();
        let of = machine.point(point);
        let pairs = self.twin().pairing.inputs();
        let pair = pairs.iter().find(|pair| if side == 0 { pair.left() == point } else { pair.right() == point });
        let is_bool = of.ty.family() == crate::model::Family::Bool;
        is_bool && pair.and_then(|pair| pair.rest).unwrap_or_else(|| machine.initial(of)) == 1
    }

    /// The points that are told, with what they hold.
    pub(super) fn values(&self) -> Vec<(usize, String, String)> {
        let all = (0..self.bench.seen.noted.len()).filter(|number| self.is_told(*number));
        let value = |number: usize| {
            let (noted, slot) = (&self.bench.seen.noted[number], self.bench.seen.values()[number]);
            (noted.side, noted.name.clone(), self.bench.seen.value(&self.bench.controllers, number, slot).readable())
        };
        all.map(value).collect()
    }

    /// Programs that a fault has stopped, in words.
    fn faults(&self) -> Vec<String> {
        let mut out = Vec::new();
        for (controller, version) in self.bench.controllers.iter().zip(self.versions()) {
            let Some(fault) = controller.fault() else { continue };
            let project = version.checked().project();
            let (place, text) = (project.place(fault.span), statement_at(project, fault.span));
            out.push(format!(
                "{}: stopped in scan {}: {} at {place}: {text}",
                version.name(),
                fault.scan.0,
                fault.kind
            ));
        }
        out
    }

    /// Where things stand.
    #[must_use]
    pub fn stands(&self) -> Stands {
        let bench = &self.bench;
        let mut points = Vec::new();
        for (side, controller) in bench.controllers.iter().enumerate() {
            for (what, direction) in [("input", Direction::Input), ("output", Direction::Output)] {
                for (point, _) in controller.machine().points_of(direction) {
                    let rests_on = direction == Direction::Input && self.rests_on(side, point);
                    points.push(Standing { rests_on, ..standing(controller, side, what, point) });
                }
            }
        }
        for number in self.watched.iter().flat_map(|(_, numbers)| numbers) {
            let noted = &bench.seen.noted[*number];
            if let Some(point) = noted.point {
                points.push(standing(&bench.controllers[noted.side], noted.side, "watched", point));
            }
        }
        // What both versions have, with the same value, is told once.
        let key = |point: &Standing| (point.what, point.name.clone(), point.value.clone());
        let first: HashSet<_> = points.iter().filter(|point| point.side == 0).map(key).collect();
        points.retain(|point| point.side == 0 || !first.contains(&key(point)));
        let held = held(bench.happened()).into_iter().map(|held| {
            let word = if held.is_change { "change" } else { "force" };
            format!("{word} {} to {}", held.name, bench.said(&held.name, &held.value))
        });
        Stands {
            at: bench.began(),
            scans: bench.position().scan,
            stopped: bench.controllers.iter().any(Controller::is_stopped),
            points,
            devices: once(self.devices.iter().map(|device| device.shown(&bench.controllers)).collect()),
            held: held.collect(),
            faults: self.faults(),
        }
    }

    pub(super) fn watch(&mut self, names: &[String]) -> Result<Told, ActError> {
        if names.is_empty() {
            let list: Vec<&str> = self.watched.iter().map(|(name, _)| name.as_str()).collect();
            let said = if list.is_empty() {
                "nothing is watched beside inputs and outputs".to_string()
            } else {
                list.join(", ")
            };
            return Ok(Told::Said(said));
        }
        let mut found: Vec<(String, Vec<(usize, PointId)>)> = Vec::new();
        for name in names {
            let mut points = Vec::new();
            for (side, controller) in self.bench.controllers.iter().enumerate() {
                points.extend(controller.machine().find_all(name).into_iter().map(|point| (side, point)));
            }
            if points.is_empty() {
                // The message knows names that are nearly the same.
                super::give::variable_name(self.bench.twin(), name)?;
                return Err(format!("there is nothing in `{name}` that could be watched").into());
            }
            if points.len() > MOST_WATCHED {
                return Err(
                    format!("`{name}` has {} values; {MOST_WATCHED} are watched by one name", points.len()).into()
                );
            }
            found.push((name.clone(), points));
        }
        let mut said = Vec::new();
        for (name, points) in found {
            let mut numbers = Vec::new();
            for (side, point) in points {
                let controller = &self.bench.controllers[side];
                let own = controller.machine().point(point).name.clone();
                said.push(format!("{own} {}", controller.get(point).readable()));
                numbers.push(self.bench.seen.note(side, &own, point, controller));
            }
            self.watched.retain(|(known, _)| *known != name);
            self.watched.push((name, numbers));
        }
        said.dedup();
        Ok(Told::Said(said.join(", ")))
    }

    pub(super) fn unwatch(&mut self, names: &[String]) -> Result<Told, ActError> {
        if names.is_empty() {
            self.watched.clear();
        }
        for name in names {
            let before = self.watched.len();
            self.watched.retain(|(known, _)| !known.eq_ignore_ascii_case(name));
            if self.watched.len() == before {
                return Err(format!("`{name}` is not watched").into());
            }
        }
        Ok(Told::Nothing)
    }

    /// What signals did from the beginning of the session, or from when they were watched, until now.
    pub(super) fn measure(&self, names: &[String]) -> Result<Vec<Measure>, ActError> {
        let bench = &self.bench;
        let mut numbers = Vec::new();
        for name in names {
            let own = super::give::variable_name(bench.twin(), name)?;
            let all = (0..bench.seen.noted.len()).filter(|n| bench.seen.noted[*n].name == own);
            let before = numbers.len();
            numbers.extend(all);
            if numbers.len() == before {
                return Err(format!(
                    "`{own}` has not been looked at; `watch {own}`, then measure what it does from then on"
                )
                .into());
            }
        }
        if names.is_empty() {
            let is_output = |number: &usize| {
                let noted = &bench.seen.noted[*number];
                let machine = bench.controllers[noted.side].machine();
                noted.point.is_some_and(|point| machine.point(point).direction == Direction::Output)
            };
            numbers.extend((0..bench.seen.noted.len()).filter(is_output));
        }
        let end = bench.instant(bench.position().scan);
        Ok(numbers.into_iter().map(|number| self.measured(number).finish(end)).collect())
    }

    fn measured(&self, number: usize) -> Measuring {
        let bench = &self.bench;
        let noted = &bench.seen.noted[number];
        let of = if bench.controllers.len() > 1 {
            format!("{} ({})", noted.name, sides(bench.twin()).nth(noted.side).map_or("", |v| v.name()))
        } else {
            noted.name.clone()
        };
        let from = noted.since.max(bench.seen.from);
        let mut measuring = Measuring::new(of);
        measuring.value(bench.instant(from), bench.seen.value(&bench.controllers, number, noted.first));
        for turn in bench.seen.between(number, from, bench.position().scan) {
            measuring.value(turn.at, bench.seen.value(&bench.controllers, number, turn.slot));
        }
        measuring
    }

    /// What a point of a version held after which scan, from a scan on, for a strip of time: that scan with its value first,
    /// then each change. Nothing of a point that is not looked at.
    #[must_use]
    pub fn strip(&self, side: usize, name: &str, from: u64) -> Vec<(u64, crate::model::Value)> {
        let bench = &self.bench;
        let Some(number) = bench.seen.number(side, name) else { return Vec::new() };
        let value = |slot: i64| bench.seen.value(&bench.controllers, number, slot);
        let until = bench.position().scan;
        let first = std::iter::once((from, value(bench.seen.after(number, from))));
        first.chain(bench.seen.between(number, from, until).iter().map(|turn| (turn.scan, value(turn.slot)))).collect()
    }

    /// Why a variable is what it is.
    pub(super) fn why(&mut self, name: &str) -> Result<Vec<Reason>, ActError> {
        let own = super::give::variable_name(self.bench.twin(), name)?;
        let mut out = Vec::new();
        let here = self.bench.position();
        self.bench.earlier(LOOKED_BACK, |bench| {
            bench.controllers.iter_mut().for_each(Controller::keep_journal);
            bench.journals = true;
            if bench.replay(here).is_ok() {
                (0..bench.controllers.len()).for_each(|side| reasons_of(bench, side, &own, &mut out));
            }
            bench.journals = false;
            bench.controllers.iter_mut().for_each(Controller::leave_journal);
        })?;
        Ok(out)
    }

    /// The rungs that words name.
    pub(super) fn select(&self, words: &[String]) -> Result<Vec<Selection>, ActError> {
        let units: Vec<&Unit> = self.versions().flat_map(|version| units(version.checked().project())).collect();
        let programs: Vec<&&Unit> = units.iter().filter(|u| u.kind == crate::model::UnitKind::Program).collect();
        let some = |unit: &Unit, networks| Selection { unit: unit.name.text.clone(), networks, naming: None };
        let whole = |unit: &Unit| some(unit, None);
        let mut out: Vec<Selection> = match words {
            [] => programs.iter().map(|unit| whole(unit)).collect(),
            [range] if networks(range).is_some() => {
                let first = programs.first().ok_or_else(|| "there is no program".to_string())?;
                vec![some(first, networks(range))]
            }
            [name] => match units.iter().find(|unit| unit.name.is(name)) {
                Some(unit) => vec![whole(unit)],
                None => self.naming(name)?,
            },
            [unit, range] => {
                let found = units.iter().find(|u| u.name.is(unit)).ok_or_else(|| no_unit(unit, &units))?;
                let list =
                    networks(range).ok_or_else(|| format!("`{range}` is no number of a network, nor a range 3..5"))?;
                vec![some(found, Some(list))]
            }
            _ => return Err("show what? `show`, `show 3..5`, `show UNIT 3`, `show NAME`".to_string().into()),
        };
        out.dedup();
        Ok(out)
    }
}

impl Session {
    /// The networks in which a variable stands, of all units.
    fn naming(&self, name: &str) -> Result<Vec<Selection>, ActError> {
        let own = super::give::variable_name(self.bench.twin(), name)?;
        // Of a part of a device the device.
        let head = own.split(['.', '[']).next().unwrap_or(&own).to_string();
        let all = self.versions().flat_map(|version| units(version.checked().project()));
        let of = |unit: &Unit| Selection { unit: unit.name.text.clone(), networks: None, naming: Some(head.clone()) };
        Ok(all.map(of).collect())
    }
}

fn standing(controller: &Controller, side: usize, what: &'static str, point: PointId) -> Standing {
    let of = controller.machine().point(point);
    Standing {
        side,
        what,
        name: of.name.clone(),
        address: of.address.clone(),
        value: controller.get(point).readable(),
        forced: controller.is_forced(point),
        rests_on: false,
    }
}

/// The causes of a variable's value, each before those of what it read.
fn reasons_of(bench: &Bench, side: usize, name: &str, out: &mut Vec<Reason>) {
    let controller = &bench.controllers[side];
    let (machine, Some(version)) = (controller.machine(), sides(bench.twin()).nth(side)) else { return };
    let (Some(point), Some(journal)) = (machine.find(name), controller.journal()) else { return };
    let project = version.checked().project();
    let mut open = vec![(0, point, controller.get(point).readable(), journal.len())];
    let mut known: Vec<PointId> = Vec::new();
    while let Some((depth, point, value, before)) = open.pop() {
        if known.contains(&point) || out.len() >= MOST_REASONS {
            continue;
        }
        known.push(point);
        let link = journal.why(machine, point, before);
        let name = machine.point(point).name.clone();
        let read = |read: &crate::scan::Read| controller.value_of(read.point, read.value).readable();
        let reads = link.as_ref().map_or(Vec::new(), |link| {
            link.reads.iter().map(|r| [machine.point(r.point).name.clone(), read(r)]).collect()
        });
        if let Some(link) = &link {
            let next = link.reads.iter().rev().filter(|r| r.point != point);
            open.extend(next.map(|r| (depth + 1, r.point, read(r), r.before)));
        } else if depth > 0 {
            // Given from outside, a constant, or written long ago: its value says it all.
            continue;
        }
        let written = link.map(|link| (link.scan, project.place(link.span), statement_at(project, link.span)));
        out.push(Reason { side, depth, name, value, written, reads });
    }
}

fn units(project: &crate::model::Project) -> Vec<&Unit> {
    project.items.iter().filter_map(|item| if let Item::Unit(unit) = item { Some(unit) } else { None }).collect()
}

fn no_unit(name: &str, units: &[&Unit]) -> String {
    let all: Vec<&str> = units.iter().map(|unit| unit.name.text.as_str()).collect();
    format!("there is no unit `{name}`; there are {}", all.join(", "))
}

/// `3`, `3..5`.
fn networks(word: &str) -> Option<Vec<usize>> {
    let (first, last) = word.split_once("..").unwrap_or((word, word));
    let (first, last): (usize, usize) = (first.parse().ok()?, last.parse().ok()?);
    (first > 0 && first <= last && last - first < 1_000).then(|| (first..=last).collect())
}
