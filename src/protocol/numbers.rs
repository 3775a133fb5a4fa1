//! Which point stands at which number of which table.

use super::codec::{Coded, coded};
use crate::check::Checked;
use crate::dialect::rack::{places, protocol_place};
use crate::model::sheet::{Library, ProtocolTable, Sheet, WordOrder};
use crate::scan::{Direction, Machine, Point, PointId};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use std::fmt;
use std::sync::Arc;

/// A table of the protocol's data model.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Table {
    /// Bits that a client reads and may write.
    Coils,
    /// Bits that a client reads.
    DiscreteInputs,
    /// Words that a client reads and may write.
    HoldingRegisters,
    /// Words that a client reads.
    InputRegisters,
}

impl fmt::Display for Table {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(match self {
            Table::Coils => "coils",
            Table::DiscreteInputs => "discrete inputs",
            Table::HoldingRegisters => "holding registers",
            Table::InputRegisters => "input registers",
        })
    }
}

impl From<ProtocolTable> for Table {
    fn from(table: ProtocolTable) -> Table {
        match table {
            ProtocolTable::Coils => Table::Coils,
            ProtocolTable::DiscreteInputs => Table::DiscreteInputs,
            ProtocolTable::InputRegisters => Table::InputRegisters,
            ProtocolTable::HoldingRegisters => Table::HoldingRegisters,
        }
    }
}

/// From this number on coils are the discrete inputs, and holding registers the input registers, where clients may write
/// those: coil 57344 + 3 is discrete input 3.
pub const MIRROR: u16 = 57_344;

/// A point and where it stands.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Number {
    /// The table.
    pub table: Table,
    /// Its number, counted from 0; of several words that of the first.
    pub number: u16,
    /// How many numbers it takes.
    pub count: u16,
    /// The point's name.
    pub name: String,
    /// Its type.
    pub of: String,
    /// True if it has no address that a sheet gives a number, and got the lowest one that was free.
    pub placed: bool,
    /// The plant that gives it, so that nobody else does.
    pub plant: Option<String>,
    /// The point.
    #[serde(skip)]
    pub point: PointId,
}

/// Why points have no numbers.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NumbersError {
    /// Two at one number.
    #[error("`{first}` and `{second}` are both at number {number} of the {table}")]
    Taken {
        /// The one that was there.
        first: String,
        /// The other.
        second: String,
        /// Where.
        number: u16,
        /// Where.
        table: Table,
    },
    /// No variable of that name.
    #[error("there is no variable `{0}` to serve")]
    Unknown(String),
    /// A string, or a value beyond the end of a table.
    #[error("`{0}` cannot stand in a table of the protocol: {1}")]
    NoPlace(String, String),
}

/// The numbers of a project's points.
#[derive(Clone, Debug)]
pub struct Numbers {
    list: Vec<Number>,
    by_number: BTreeMap<(Table, u16), usize>,
    /// Numbers that the controller has though the program uses them not.
    unused: BTreeMap<Table, Vec<(u16, u16)>>,
    pub(super) order: WordOrder,
}

impl Numbers {
    /// The numbers of a project: of points with addresses as its sheet says, of other inputs and outputs, and of the
    /// variables that are named, the lowest that are free.
    ///
    /// # Errors
    /// [`NumbersError`] if two points meet, or one has no place.
    pub fn of(checked: &Checked, machine: &Machine, also: &[String]) -> Result<Numbers, NumbersError> {
        let library: Option<Arc<Library>> =
            checked.project().library.clone().or_else(|| crate::dialect::library("iec"));
        let sheet = library.as_ref().map(|library| &library.sheet);
        let mut out = Numbers {
            list: Vec::new(),
            by_number: BTreeMap::new(),
            unused: sheet.map(unused).unwrap_or_default(),
            order: sheet.map(|sheet| sheet.numbers.word_order).unwrap_or_default(),
        };
        let mut named = BTreeSet::new();
        for name in also {
            let found = machine.find_all(name);
            if found.is_empty() {
                return Err(NumbersError::Unknown(name.clone()));
            }
            named.extend(found);
        }
        let mut homeless = Vec::new();
        for (index, point) in machine.points().iter().enumerate() {
            let id = PointId(index as u32);
            let Some(coded) = coded(&point.ty) else {
                if named.contains(&id) {
                    let why = "it is a string";
                    return Err(NumbersError::NoPlace(point.name.clone(), why.to_string()));
                }
                continue;
            };
            match sheet.and_then(|sheet| place(sheet, point)).filter(|(table, _)| fits(*table, coded)) {
                Some((table, number)) => out.add(machine, id, coded, (table, number), false)?,
                None if direction(machine, point) != Direction::Internal || named.contains(&id) => {
                    homeless.push((id, coded));
                }
                None => {}
            }
        }
        // In the order in which they are declared, a plant's own last: with it or without it a program's points are where they were.
        homeless.sort_by_key(|(id, _)| (is_of_plant(machine, machine.point(*id)), machine.point(*id).slot));
        // Numbers are never given back, so below the last run of a length there is no other that is free.
        let mut lowest: BTreeMap<(Table, u16), u32> = BTreeMap::new();
        for (id, coded) in homeless {
            let point = machine.point(id);
            let table = table_of(direction(machine, point), coded);
            let from = lowest.entry((table, count(coded))).or_default();
            *from = out.free(table, count(coded), *from);
            out.add(machine, id, coded, (table, *from), true)?;
        }
        out.list.sort_by_key(|n| (n.table, n.number));
        out.by_number = out
            .list
            .iter()
            .enumerate()
            .flat_map(|(at, n)| n.run().map(move |number| ((n.table, number), at)))
            .collect();
        Ok(out)
    }

    /// All of them, table by table in the order of their numbers.
    #[must_use]
    pub fn list(&self) -> &[Number] {
        &self.list
    }

    /// The point at a number.
    #[must_use]
    pub fn at(&self, table: Table, number: u16) -> Option<&Number> {
        self.by_number.get(&(table, number)).map(|at| &self.list[*at])
    }

    /// Whether a number is there though no point of the program is.
    pub(super) fn is_unused(&self, table: Table, number: u16) -> bool {
        self.unused.get(&table).is_some_and(|runs| runs.iter().any(|(first, last)| (*first..=*last).contains(&number)))
    }

    fn add(
        &mut self,
        machine: &Machine,
        point: PointId,
        coded: Coded,
        (table, number): (Table, u32),
        placed: bool,
    ) -> Result<(), NumbersError> {
        let (count, of) = (count(coded), machine.point(point));
        let beyond =
            || NumbersError::NoPlace(of.name.clone(), format!("number {number} is beyond the end of the {table}"));
        let first = u16::try_from(number).ok().filter(|n| n.checked_add(count - 1).is_some()).ok_or_else(beyond)?;
        let new = Number {
            table,
            number: first,
            count,
            name: of.name.clone(),
            of: of.ty.to_string(),
            placed,
            plant: given_by(machine, of),
            point,
        };
        for number in new.run() {
            if let Some(other) = self.by_number.insert((table, number), self.list.len()) {
                let (first, second) = (self.list[other].name.clone(), new.name.clone());
                return Err(NumbersError::Taken { first, second, number, table });
            }
        }
        self.list.push(new);
        Ok(())
    }

    /// The lowest run of numbers, from a first one on, at which no point is.
    fn free(&self, table: Table, count: u16, from: u32) -> u32 {
        let taken = |first: u32| {
            (first..first + u32::from(count))
                .rev()
                .find(|n| u16::try_from(*n).is_ok_and(|n| self.by_number.contains_key(&(table, n))))
        };
        let mut first = from;
        while let Some(last) = taken(first) {
            first = last + 1;
        }
        first
    }
}

impl Number {
    /// The numbers it takes.
    pub fn run(&self) -> impl Iterator<Item = u16> + use<> {
        self.number..=self.number + (self.count - 1)
    }
}

/// What a point is for whoever asks from outside: what a plant gives is an input still.
fn direction(machine: &Machine, point: &Point) -> Direction {
    if given_by(machine, point).is_some() { Direction::Input } else { point.direction }
}

fn given_by(machine: &Machine, point: &Point) -> Option<String> {
    let plant = machine.plants().iter().find(|plant| plant.gives.contains(&point.name))?;
    Some(plant.name.clone())
}

/// Whether a point is a plant's, or breaks one of its sensors.
fn is_of_plant(machine: &Machine, point: &Point) -> bool {
    let (head, _) = point.name.split_once('.').unwrap_or((&point.name, ""));
    machine.plants().iter().any(|plant| {
        head.eq_ignore_ascii_case(&plant.name) || plant.gives.iter().any(|given| given == head && *given != point.name)
    })
}

const fn count(coded: Coded) -> u16 {
    match coded {
        Coded::Bit => 1,
        Coded::Words(count) => count,
    }
}

const fn fits(table: Table, coded: Coded) -> bool {
    matches!(
        (table, coded),
        (Table::Coils | Table::DiscreteInputs, Coded::Bit)
            | (Table::HoldingRegisters | Table::InputRegisters, Coded::Words(_))
    )
}

const fn table_of(direction: Direction, coded: Coded) -> Table {
    match (direction, coded) {
        (Direction::Input, Coded::Bit) => Table::DiscreteInputs,
        (Direction::Input, Coded::Words(_)) => Table::InputRegisters,
        (Direction::Output | Direction::Internal, Coded::Bit) => Table::Coils,
        (Direction::Output | Direction::Internal, Coded::Words(_)) => Table::HoldingRegisters,
    }
}

/// Where the sheet has a point.
fn place(sheet: &Sheet, point: &Point) -> Option<(Table, u32)> {
    let (area, index) = sheet.locate(point.address.as_deref()?).ok()?;
    let (table, number) = protocol_place(sheet, area, index)?;
    Some((table.into(), number))
}

/// The runs of numbers that a controller of the sheet has: a card's points, or a whole area.
fn unused(sheet: &Sheet) -> BTreeMap<Table, Vec<(u16, u16)>> {
    let mut out: BTreeMap<Table, Vec<(u16, u16)>> = BTreeMap::new();
    let cards = places(sheet).unwrap_or_default();
    for (number, area) in sheet.areas.iter().enumerate() {
        // Runs of points that are there, each with consecutive numbers.
        let mut run: Option<(Table, u32, u32)> = None;
        let mut runs = Vec::new();
        let mut there: Vec<_> = cards.iter().filter(|c| c.area == number).map(|c| c.points.clone()).collect();
        if there.is_empty() {
            there.push(0..area.parsed.count().min(u32::from(u16::MAX) + 1));
        }
        there.sort_unstable_by_key(|points| points.start);
        for index in there.into_iter().flatten() {
            let Some((table, at)) = protocol_place(sheet, number, index).map(|(table, at)| (table.into(), at)) else {
                break;
            };
            match &mut run {
                Some((of, _, last)) if *of == table && *last + 1 == at => *last = at,
                _ => runs.extend(run.replace((table, at, at))),
            }
        }
        for (table, first, last) in runs.into_iter().chain(run) {
            if let Ok(first) = u16::try_from(first) {
                out.entry(table).or_default().push((first, u16::try_from(last).unwrap_or(u16::MAX)));
            }
        }
    }
    out
}
