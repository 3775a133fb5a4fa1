//! Each changed unit by itself, with the rest as it was, so that it can be told which of the changes matters.

use super::rehome::Behind;
use super::{Changes, Group, Kind, UnitChange};
use crate::check::{Checked, check};
use crate::model::{Item, Name, Project, Unit};
use crate::scan::Direction;
use crate::source::Severity;
use crate::twin::Twin;

/// The left project with changed units of the right in place of its own.
#[derive(Clone, Debug)]
pub struct Stand {
    /// The units, by their names on the left.
    pub units: Vec<String>,
    /// What else comes from the right, without which they mean nothing: declarations, new units.
    pub with: Vec<String>,
    /// The project.
    pub checked: Checked,
}

/// What is put before a prover to tell which change matters.
#[derive(Clone, Debug)]
pub enum Standing {
    /// This unit is all that changed: it is the right project itself.
    Whole(String),
    /// Changed units by themselves.
    Apart(Box<Stand>),
    /// A unit cannot stand by itself, for this reason.
    Together {
        /// Its name on the left.
        unit: String,
        /// Why.
        why: String,
    },
}

impl Changes {
    /// True if anything changed that runs.
    #[must_use]
    pub fn any_runs(&self) -> bool {
        self.changes.iter().any(super::Change::runs)
    }

    /// Each changed unit by itself, with the rest as it is on the left.
    #[must_use]
    pub fn stands(&self, left: &Checked, right: &Checked) -> Vec<Standing> {
        let runs = |change: &&super::Change| change.runs();
        let in_units = |unit: &UnitChange| {
            self.changes.iter().filter(runs).any(|change| change.unit.as_deref() == Some(unit.name()))
        };
        let changed: Vec<&UnitChange> = self.units.iter().filter(|unit| in_units(unit)).collect();
        let beside = self.changes.iter().filter(runs).any(|change| change.unit.is_none());
        if let ([only], false) = (changed.as_slice(), beside) {
            return vec![Standing::Whole(only.name().to_string())];
        }
        let dialect = self.changes.iter().find(|change| change.kind == Kind::Sheet && change.group == Group::Points);
        let stand = |unit: &&UnitChange| {
            let name = unit.name().to_string();
            let why = match (dialect, &unit.names) {
                (Some(_), _) => "both sides are not written by the same sheet".to_string(),
                (None, [Some(_), Some(_)]) => match self.alone(left, right, unit) {
                    Ok(stand) => return Standing::Apart(Box::new(stand)),
                    Err(why) => why,
                },
                (None, _) => "only one side has it".to_string(),
            };
            Standing::Together { unit: name, why }
        };
        changed.iter().map(stand).collect()
    }

    /// The left project with one unit of the right: alone if it has a meaning so, else with what the right declares.
    fn alone(&self, left: &Checked, right: &Checked, unit: &UnitChange) -> Result<Stand, String> {
        let name = unit.name().to_string();
        let first = mixed(left, right, unit, false);
        let (checked, with) = match first {
            Ok(checked) => (checked, Vec::new()),
            Err(first) => match mixed(left, right, unit, true) {
                Ok(checked) => (checked, vec!["what the right declares".to_string()]),
                Err(_) => return Err(format!("it needs more of the right side: {first}")),
            },
        };
        Ok(Stand { units: vec![name], with, checked })
    }

    /// Pairs what goes by another name on the right, and lets wires move along with their names: that an address is
    /// another one has been told.
    ///
    /// # Errors
    /// If points that are paired so do not go together.
    pub fn pair(&self, twin: &mut Twin<'_>) -> Result<(), crate::twin::PairError> {
        let versions = twin.versions().map(Clone::clone);
        let mut renamed = Vec::new();
        for direction in [Direction::Input, Direction::Output] {
            let point = |name: &str| {
                versions[0]
                    .machine()
                    .find(name)
                    .map(|id| versions[0].machine().point(id))
                    .filter(|p| p.direction == direction)
            };
            for (_, new) in versions[1].machine().points_of(direction) {
                let old = self.names.old(&new.name);
                if !old.eq_ignore_ascii_case(&new.name)
                    && let Some(old) = point(&old)
                {
                    renamed.push((old.name.clone(), new.name.clone()));
                }
            }
        }
        let sides = [&versions[0], &versions[1]];
        for (old, new) in &renamed {
            twin.pairing.join(sides, [old, new], crate::twin::Mapping::Same)?;
        }
        if !renamed.is_empty() {
            twin.pairing.find_alone(sides[0], sides[1]);
        }
        let moved: Vec<String> = twin.pairing.moved().iter().map(|moved| moved.name.clone()).collect();
        moved.iter().try_for_each(|name| twin.pairing.agree(name))
    }
}

/// The left project with a unit of the right, and with all that the right declares, if that is wanted.
fn mixed(left: &Checked, right: &Checked, unit: &UnitChange, declarations: bool) -> Result<Checked, String> {
    let [Some(old), Some(new)] = &unit.names else { return Err("only one side has it".to_string()) };
    let (own, other) = (left.project(), right.project());
    let behind = Behind(own.sources.len() as u32);
    let taken = |item: &Item| {
        let mut item = item.clone();
        behind.item(&mut item);
        item
    };
    let is_there = |name: &Name, project: &Project| {
        project.items.iter().any(|item| matches!(item, Item::Unit(unit) if unit.name == *name))
    };
    let mut items = Vec::new();
    if declarations {
        let is_new = |item: &&Item| match item {
            Item::Type(_) | Item::Globals(_) | Item::Configuration(_) => true,
            Item::Unit(unit) => !unit.name.is(new) && !is_there(&unit.name, own),
            Item::Envelope(_) => false,
        };
        items.extend(other.items.iter().filter(is_new).map(taken));
    }
    for item in &own.items {
        match item {
            Item::Unit(unit) if unit.name.is(old) => {
                let found = other.items.iter().find(|item| matches!(item, Item::Unit(unit) if unit.name.is(new)));
                let Some(Item::Unit(changed)) = found.map(taken) else { return Err(format!("{new} is not there")) };
                let name = Name { text: unit.name.text.clone(), ..changed.name.clone() };
                items.push(Item::Unit(Unit { name, ..changed }));
            }
            Item::Type(_) | Item::Globals(_) | Item::Configuration(_) if declarations => {}
            Item::Unit(_) | Item::Type(_) | Item::Globals(_) | Item::Configuration(_) | Item::Envelope(_) => {
                items.push(item.clone());
            }
        }
    }
    let project = Project {
        sources: own.sources.iter().chain(&other.sources).cloned().collect(),
        items,
        library: own.library.clone(),
        plants: own.plants.clone(),
    };
    match check(project) {
        Ok(checked) => Ok(checked.run_as(left)),
        Err(problems) => {
            let error = problems.0.iter().find(|problem| problem.severity == Severity::Error);
            Err(error.map_or_else(String::new, |problem| problem.message.clone()))
        }
    }
}
