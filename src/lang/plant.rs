//! Plants as texts: what a plant file says, and the program that it names.

use super::{Form, nothing, read_duration, read_written};
use crate::model::{
    Duration, Item, Name, Notes, Plant, PlantSettings, Project, Retain, Section, Sensor, TypeSpec, Unit, UnitKind,
    VarDecl, VarSection,
};
use crate::source::{Diagnostic, Diagnostics, FileId, Limits, Source, Span, codes};
use indexmap::IndexMap;
use serde::Deserialize;

/// A plant file (TOML): the program that stands in for the machine, how it runs, and what it is wired to.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PlantFile {
    /// The files of the program, beside the plant file.
    pub files: Vec<String>,
    /// What its variables go by; the name of its program if absent.
    #[serde(default)]
    pub name: Option<String>,
    #[serde(default)]
    every: Option<String>,
    #[serde(default)]
    delay: Option<String>,
    #[serde(default)]
    wires: IndexMap<String, Names>,
    #[serde(default)]
    sensors: IndexMap<String, SensorSaid>,
}

#[derive(Clone, Debug, Deserialize)]
#[serde(untagged)]
enum Names {
    One(String),
    Several(Vec<String>),
}

#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
struct SensorSaid {
    #[serde(default)]
    stuck: bool,
    #[serde(default)]
    bounce: bool,
    #[serde(default)]
    noise: i64,
    #[serde(default)]
    late: Option<String>,
}

/// Why a text is no plant file.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum PlantError {
    /// It cannot be read; the reader says where.
    #[error("{0}")]
    Toml(String),
    /// It names no program.
    #[error("a plant file names the files of its program: files = [\"raceway.st\"]")]
    NoFile,
    /// A time is none.
    #[error("{key}: {why}")]
    Time {
        /// `every`, `delay`, or a sensor's `late`.
        key: String,
        /// What is wrong with it.
        why: String,
    },
    /// A noise below 0.
    #[error("sensor `{0}`: noise is how far a value may be off, 0 to 1,000,000")]
    Noise(String),
}

impl PlantFile {
    /// The plant that a program is by itself: it runs in each scan, and is wired by names.
    #[must_use]
    pub fn of_files(files: Vec<String>) -> PlantFile {
        PlantFile { files, ..PlantFile::default() }
    }

    /// Reads a plant file.
    ///
    /// # Errors
    /// What is wrong and where, as the reader of TOML says it, or in a sentence.
    pub fn read(text: &str) -> Result<PlantFile, PlantError> {
        let file: PlantFile =
            toml::from_str(text).map_err(|e| PlantError::Toml(e.to_string().trim_end().to_string()))?;
        file.settings()?;
        if file.files.is_empty() { Err(PlantError::NoFile) } else { Ok(file) }
    }

    /// How it runs and what it is wired to.
    fn settings(&self) -> Result<PlantSettings, PlantError> {
        let every = match &self.every {
            Some(text) => time("every", text)?,
            None => Duration::ZERO,
        };
        let runs = |key: &str, text: &Option<String>| match text {
            Some(text) => runs(key, time(key, text)?, every),
            None => Ok(0),
        };
        let mut sensors = IndexMap::new();
        for (name, said) in &self.sensors {
            if !(0..=1_000_000).contains(&said.noise) {
                return Err(PlantError::Noise(name.clone()));
            }
            let late = runs(&format!("sensor `{name}`: late"), &said.late)?;
            let sensor = Sensor { stuck: said.stuck, bounce: said.bounce, noise: said.noise, late };
            sensors.insert(name.clone(), sensor);
        }
        let names = |names: &Names| match names {
            Names::One(name) => vec![name.clone()],
            Names::Several(names) => names.clone(),
        };
        let wires = self.wires.iter().map(|(own, theirs)| (own.clone(), names(theirs))).collect();
        Ok(PlantSettings { every, delay: runs("delay", &self.delay)?, wires, sensors })
    }
}

fn time(key: &str, text: &str) -> Result<Duration, PlantError> {
    let wrong = |why: String| PlantError::Time { key: key.to_string(), why };
    let time = read_duration(text).map_err(|e| wrong(e.to_string()))?;
    if time > Duration::ZERO { Ok(time) } else { Err(wrong("a time above 0, as 100ms".to_string())) }
}

/// A time in runs of the plant.
fn runs(key: &str, time: Duration, every: Duration) -> Result<u32, PlantError> {
    let wrong = |why: String| Err(PlantError::Time { key: key.to_string(), why });
    if every == Duration::ZERO {
        return wrong("the plant needs a time of its own for that, as every = \"100ms\"".to_string());
    }
    if time.nanos() % every.nanos() != 0 {
        return wrong("a multiple of `every`".to_string());
    }
    match u32::try_from(time.nanos() / every.nanos()) {
        Ok(runs) if runs <= Plant::MOST_RUNS => Ok(runs),
        Ok(_) | Err(_) => wrong(format!("at most {} times `every`", Plant::MOST_RUNS)),
    }
}

/// Joins a plant to a project: its texts are read by the standard's own conventions, whatever dialect the project is
/// written in. The problems are those of its files.
pub fn join_plant<F: Into<Form>>(project: &mut Project, said: &PlantFile, files: Vec<(Source, F)>) -> Diagnostics {
    let mut problems = Diagnostics::default();
    let mut items = Vec::new();
    let first = FileId(project.sources.len() as u32);
    for (source, form) in files {
        let file = FileId(project.sources.len() as u32);
        let (found, wrong) = read_written(file, &source, form.into(), Limits::default(), None);
        problems.0.extend(nothing(file, &found, &wrong));
        items.extend(found);
        problems.0.extend(wrong);
        project.sources.push(source);
    }
    match (problems.has_errors(), said.settings()) {
        (false, Ok(settings)) => match program(&mut items, first) {
            Ok(block) => project.plants.push(plant(said, settings, block, items)),
            Err(problem) => problems.0.push(problem),
        },
        (true, _) => {}
        (false, Err(error)) => {
            let nowhere = Span { file: first, start: 0, end: 0 };
            problems.0.push(Diagnostic::error(codes::EXPECTED, nowhere, error.to_string()));
        }
    }
    problems.settle();
    problems
}

/// The one program of a plant, as a function block; its name.
fn program(items: &mut [Item], file: FileId) -> Result<Name, Diagnostic> {
    let mut block: Option<Name> = None;
    for item in items.iter_mut() {
        match item {
            Item::Unit(unit) if unit.kind == UnitKind::Program => {
                if let Some(first) = &block {
                    let message = "a plant is one program, and this is another";
                    let second = Diagnostic::error(codes::UNSUPPORTED, unit.name.span, message);
                    return Err(second.related(first.span, "the first one"));
                }
                pins(unit)?;
                unit.kind = UnitKind::FunctionBlock;
                block = Some(unit.name.clone());
            }
            Item::Configuration(configuration) => {
                let message = "a plant has no configuration; a plant file says how often it runs";
                return Err(Diagnostic::error(codes::UNSUPPORTED, configuration.name.span, message));
            }
            Item::Unit(_) | Item::Type(_) | Item::Globals(_) | Item::Envelope(_) => {}
        }
    }
    block.ok_or_else(|| {
        let message = "a plant is a PROGRAM with VAR_INPUT and VAR_OUTPUT; there is none here";
        Diagnostic::error(codes::EXPECTED, Span { file, start: 0, end: 0 }, message)
    })
}

/// What a plant is wired by are its inputs and outputs, not addresses.
fn pins(unit: &Unit) -> Result<(), Diagnostic> {
    if unit.head == crate::model::Head::Missing {
        let message = "a plant is a PROGRAM with VAR_INPUT and VAR_OUTPUT; this text has no head";
        return Err(Diagnostic::error(codes::EXPECTED, unit.name.span, message));
    }
    let vars = unit.sections.iter().flat_map(|section| &section.vars);
    match vars.filter_map(|var| var.address.as_ref()).next() {
        Some(address) => {
            let message = "a plant has no addresses; its inputs and outputs are wired by name";
            Err(Diagnostic::error(codes::UNSUPPORTED, address.span, message))
        }
        None => Ok(()),
    }
}

fn plant(said: &PlantFile, settings: PlantSettings, block: Name, mut items: Vec<Item>) -> Plant {
    let span = block.span;
    let name = Name::new(said.name.clone().unwrap_or_else(|| block.text.clone()), span);
    let instance = VarDecl {
        names: vec![name.clone()],
        address: None,
        edge: None,
        spec: TypeSpec::Named(block.clone()),
        init: None,
        notes: Notes::default(),
    };
    let (section, retain, vars) = (Section::Global, Retain::Unsaid, vec![instance]);
    let globals =
        VarSection { section, retain, constant: false, vars, span, notes: Notes::default(), tail: Vec::new() };
    items.push(Item::Globals(globals));
    Plant { name, items, block, settings }
}
