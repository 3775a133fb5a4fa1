//! The twin file: a comparison that is written down, as TOML. Everything but the versions has a sensible default.

use crate::lang::read_duration;
use crate::model::{Duration, Elem, Value};
use crate::scan::{PointType, ScanTime};
use crate::twin::pair::reading_word;
pub use crate::twin::save::write;
use crate::twin::{
    Assumption, Effort, FileError, Known, Law, Mapping, PairError, Pairing, Rule, TimeError, Timing, Tolerance, Twin,
    Version,
};
use indexmap::IndexMap;
use serde::Deserialize;

/// A twin file as it was read.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TwinFile {
    /// What it is about.
    #[serde(default)]
    pub title: String,
    /// `lockstep` or `free`; free if the versions have scan times of their own.
    pub mode: Option<String>,
    /// The scan time of versions that have none of their own: `10ms`, or a range `8ms..12ms`.
    pub scan: Option<String>,
    /// The versions, two or more; the first is compared with each of the others.
    pub version: Vec<FileVersion>,
    /// A map of addresses (CSV, as `translate --save-map` writes it) whose rows pair points.
    pub map: Option<String>,
    /// Points that are paired by hand.
    #[serde(default)]
    pub pair: Vec<FilePair>,
    /// Points that are not compared or not driven.
    #[serde(default)]
    pub leave: Vec<String>,
    /// Points that may be without a partner: an input keeps its value at rest, an output is not compared; or `no-inputs`,
    /// where neither version has one.
    #[serde(default)]
    pub agree: Vec<String>,
    /// Inputs and how their devices are wired: `open` or `closed`. A closed one is TRUE at rest.
    #[serde(default)]
    pub wiring: IndexMap<String, String>,
    /// Values of inputs at rest.
    #[serde(default)]
    pub rest: IndexMap<String, String>,
    /// Ranges of inputs: `0..500`.
    #[serde(default)]
    pub range: IndexMap<String, String>,
    /// Tolerances of outputs: `exact`, or a time; `default` is that of all others.
    #[serde(default)]
    pub tolerance: IndexMap<String, String>,
    /// What is taken for granted of the outside, as [`Assumption::read`] reads it.
    #[serde(default)]
    pub assume: Vec<String>,
    /// Differences that are known and agreed to.
    #[serde(default)]
    pub known: Vec<FileKnown>,
    /// What must hold on all versions.
    #[serde(default)]
    pub rule: Vec<FileRule>,
    /// Scenarios, sequence tables and traces to try first: files, beside this one.
    #[serde(default)]
    pub scenarios: Vec<String>,
    /// What stands in for the machine, one copy for each version: programs, or plant files; beside this one.
    #[serde(default)]
    pub plants: Vec<String>,
    /// How much to try.
    #[serde(default)]
    pub effort: FileEffort,
}

/// A version of a twin file.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FileVersion {
    /// What messages call it; the first file's name if absent.
    pub name: Option<String>,
    /// Its files, beside the twin file.
    pub files: Vec<String>,
    /// The dialect of files that do not name theirs.
    pub dialect: Option<String>,
    /// Sheets of one's own.
    #[serde(default)]
    pub sheets: Vec<String>,
    /// Its tag list.
    pub tags: Option<String>,
    /// The program that takes part; all if absent.
    pub program: Option<String>,
    /// Its scan time, if it is one of its own.
    pub scan: Option<String>,
    /// A trace whose times are the scan times, in place of `scan`.
    pub recorded: Option<String>,
    /// Variables that survive loss of power, whatever their declaration says.
    #[serde(default)]
    pub retain: Vec<String>,
    /// Variables that the outside gives though their declarations do not say it: registers of a panel, bits of a plant.
    #[serde(default)]
    pub given: Vec<String>,
    /// Variables that are shown outside likewise.
    #[serde(default)]
    pub shown: Vec<String>,
}

/// Two points that belong together.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FilePair {
    /// On the left.
    pub left: String,
    /// On the right.
    pub right: String,
    /// Wired the other way round.
    #[serde(default)]
    pub inverted: bool,
    /// The right value is so many times the left one: `10`, `1/10`, or of ticks a time, `100ms`.
    pub scale: Option<String>,
    /// How a value is read in the other type: `number`, `bits`, or of enumerations `name`. Without it as both types have
    /// one reading.
    pub reading: Option<String>,
}

/// A rule.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FileRule {
    /// What messages call it.
    pub name: Option<String>,
    /// Never TRUE.
    pub never: Option<String>,
    /// Always TRUE.
    pub always: Option<String>,
    /// With `then` and `within`: once this is TRUE,
    pub after: Option<String>,
    /// this is TRUE
    pub then: Option<String>,
    /// at most so much later.
    pub within: Option<String>,
    /// With `at_least`: once this is TRUE it stays so
    pub lasts: Option<String>,
    /// at least so long.
    pub at_least: Option<String>,
}

/// A difference that is known and agreed to.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FileKnown {
    /// Where it comes from: a code of a ledger, or what someone has found out.
    #[serde(default)]
    pub why: String,
    /// An expression: in scans that end with it outputs are not compared; in none if it is absent.
    pub when: Option<String>,
    /// The outputs; all if absent.
    #[serde(default)]
    pub outputs: Vec<String>,
}

impl From<FileKnown> for Known {
    fn from(said: FileKnown) -> Known {
        Known { why: said.why, when: said.when, outputs: said.outputs }
    }
}

/// How much to try.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FileEffort {
    /// `quick`, `default`, `deep`, or so many times the default; what else is said here goes before it.
    pub level: Option<String>,
    /// Scenarios.
    pub scenarios: Option<u64>,
    /// Scans on each side.
    pub scans: Option<u64>,
    /// Where the drawing starts.
    pub seed: Option<u64>,
    /// Operations of both tapes.
    pub work: Option<u64>,
    /// Seeded faults.
    pub faults: Option<usize>,
}

/// A scan time as text: `10ms` or `8ms..12ms`.
///
/// # Errors
/// If it is none that a scan can take.
pub fn read_scan_time(text: &str) -> Result<ScanTime, TimeError> {
    let positive = |text: &str| match read_duration(text.trim()) {
        Ok(time) if time > Duration::ZERO => Ok(time),
        Ok(_) => Err(TimeError::Nothing),
        Err(why) => Err(why.into()),
    };
    match text.split_once("..") {
        Some((low, high)) => {
            let (low, high) = (positive(low)?, positive(high)?);
            if low > high {
                return Err(TimeError::Backwards);
            }
            Ok(ScanTime::Range { low, high, step: Duration::from_nanos(1), seed: 1 })
        }
        None => positive(text).map(ScanTime::Fixed),
    }
}

fn scan_time(text: &str) -> Result<ScanTime, FileError> {
    read_scan_time(text).map_err(FileError::Time)
}

impl TwinFile {
    /// Reads a twin file.
    ///
    /// # Errors
    /// What is wrong and where, as the reader of TOML says it, or in a sentence.
    pub fn read(text: &str) -> Result<TwinFile, FileError> {
        let file: TwinFile = toml::from_str(text).map_err(|e| FileError::Toml(e.to_string().trim_end().to_string()))?;
        match file.version.len() {
            0 => return Err(FileError::NoVersion),
            1 if !file.pair.is_empty() => return Err(FileError::OneVersion),
            _ => {}
        }
        if let Some(mode) = file.mode.as_deref().filter(|m| !matches!(*m, "lockstep" | "free")) {
            return Err(FileError::Mode(mode.to_string()));
        }
        file.rules()?;
        Ok(file)
    }

    /// The rules it says.
    ///
    /// # Errors
    /// A rule that says nothing, or two things.
    pub fn rules(&self) -> Result<Vec<Rule>, FileError> {
        self.rule.iter().enumerate().map(|(number, rule)| rule.law(number)).collect()
    }

    /// How much it wants tried; what it does not say is as in `usual`.
    ///
    /// # Errors
    /// If its level is none.
    pub fn effort(&self, usual: &Effort) -> Result<Effort, FileError> {
        let said = &self.effort;
        let sized = match &said.level {
            Some(level) => Effort::named(level).ok_or_else(|| FileError::Level(level.clone()))?,
            None => usual.clone(),
        };
        Ok(Effort {
            scenarios: said.scenarios.unwrap_or(sized.scenarios),
            scans: said.scans.unwrap_or(sized.scans),
            work: said.work.unwrap_or(sized.work),
            seed: said.seed.unwrap_or(usual.seed),
            faults: said.faults.unwrap_or(usual.faults),
            ..usual.clone()
        })
    }

    /// Two of its versions as it pairs them. `times` are recorded scan times, where a version has them; `map` is the text
    /// of the map.
    ///
    /// # Errors
    /// The first thing that does not fit the versions, in a sentence.
    pub fn twin<'v>(
        &self,
        versions: [&'v Version; 2],
        which: [usize; 2],
        times: [Option<ScanTime>; 2],
        map: Option<&str>,
    ) -> Result<Twin<'v>, FileError> {
        let mut twin = match self.version.len() {
            1 => Twin::single(versions[0]),
            _ => Twin::new(versions[0], versions[1]),
        };
        if let Some(text) = map {
            by_map(&mut twin.pairing, versions, text)?;
        }
        for pair in &self.pair {
            twin.pairing.join(versions, [&pair.left, &pair.right], pair.mapping()?)?;
        }
        if !self.pair.is_empty() {
            twin.pairing.find_alone(versions[0], versions[1]);
        }
        for name in &self.leave {
            twin.pairing.leave(name)?;
        }
        for name in &self.agree {
            twin.pairing.agree(name)?;
        }
        self.inputs(&mut twin, versions[0]).map_err(FileError::Input)?;
        let common = self.scan.as_deref().map(scan_time).transpose()?;
        let usual = common.unwrap_or(ScanTime::Fixed(Duration::from_millis(10)));
        let own: [Option<ScanTime>; 2] = {
            let time = |side: usize| -> Result<Option<ScanTime>, FileError> {
                let said = self.version[which[side]].scan.as_deref().map(scan_time).transpose()?;
                Ok(times[side].clone().or(said))
            };
            [time(0)?, time(1)?]
        };
        let differ = own[0] != own[1];
        let [a, b] = own.map(|t| t.unwrap_or_else(|| usual.clone()));
        let free = self.mode.as_deref() == Some("free") || (self.mode.is_none() && differ && a != b);
        if !free && a != b {
            return Err(FileError::Lockstep);
        }
        twin.timing = Timing::Lockstep(a.clone());
        // One version by itself has no other to be free of.
        if free && !twin.is_single() {
            twin = twin.free([a, b]);
        }
        self.tolerances(&mut twin)?;
        let known: Vec<Known> = self.known.iter().cloned().map(Known::from).collect();
        if !known.is_empty() {
            twin = twin.with_known(known)?;
        }
        for text in &self.assume {
            let assumed = Assumption::read(text).and_then(|assumption| twin.assume(assumption));
            assumed.map_err(|why| FileError::Assume(text.clone(), why))?;
        }
        Ok(twin)
    }

    fn tolerances(&self, twin: &mut Twin<'_>) -> Result<(), FileError> {
        let read = |text: &str| match text {
            "exact" => Ok(Tolerance::Exact),
            time => match read_duration(time) {
                Ok(time) if time < Duration::ZERO => Err(FileError::Time(TimeError::BelowZero)),
                Ok(time) => Ok(Tolerance::Within(time)),
                Err(error) => Err(FileError::Time(error.into())),
            },
        };
        if let Some(text) = self.tolerance.get("default") {
            let tolerance = read(text)?;
            twin.pairing.outputs.iter_mut().for_each(|p| p.tolerance = tolerance);
        }
        for (name, text) in self.tolerance.iter().filter(|(n, _)| *n != "default") {
            let tolerance = read(text)?;
            let pair = twin.pairing.outputs.iter_mut().find(|p| p.name.eq_ignore_ascii_case(name));
            pair.ok_or_else(|| FileError::Tolerance(name.clone()))?.tolerance = tolerance;
        }
        Ok(())
    }

    fn inputs(&self, twin: &mut Twin<'_>, left: &Version) -> Result<(), String> {
        let mut set = |name: &str, what: &dyn Fn(&mut crate::twin::Pair, &PointType) -> Result<(), String>| {
            let pair = twin.pairing.inputs.iter_mut().find(|p| p.name.eq_ignore_ascii_case(name));
            let pair = pair.ok_or_else(|| format!("there is no paired input `{name}`"))?;
            let ty = left.machine.point(pair.left).ty.clone();
            what(pair, &ty).map_err(|why| format!("{name}: {why}"))
        };
        for (name, wiring) in &self.wiring {
            set(name, &|pair, ty| match (wiring.as_str(), ty) {
                ("closed", PointType::Elem(Elem::Bool)) => {
                    pair.rest = Some(1);
                    Ok(())
                }
                ("open", _) => Ok(()),
                ("closed", _) => Err("only a BOOL is wired".to_string()),
                (other, _) => Err(format!("wiring is `open` or `closed`, not `{other}`")),
            })?;
        }
        let value = |pair: &crate::twin::Pair, text: &str, ty: &PointType| {
            let value = left.machine.parse(pair.left, text.trim());
            value.and_then(|v| ty.slot(&v, |_| None)).ok_or_else(|| format!("`{}` is not a value of it", text.trim()))
        };
        for (name, text) in &self.rest {
            set(name, &|pair, ty| {
                pair.rest = Some(value(pair, text, ty)?);
                Ok(())
            })?;
        }
        for (name, text) in &self.range {
            set(name, &|pair, ty| {
                let (low, high) = text.split_once("..").ok_or("a range is written 0..500")?;
                let ends = [low, high].map(|end| left.machine.parse(pair.left, end.trim()));
                pair.range = Some((value(pair, low, ty)?, value(pair, high, ty)?));
                let is_backwards = match &ends {
                    [Some(Value::Int(low)), Some(Value::Int(high))] => low > high,
                    [Some(Value::Real(low)), Some(Value::Real(high))] => low > high,
                    [Some(Value::Time(low)), Some(Value::Time(high))] => low > high,
                    _ => false,
                };
                if is_backwards {
                    return Err("a range goes from the lower to the higher".to_string());
                }
                Ok(())
            })?;
        }
        Ok(())
    }
}

impl FilePair {
    fn mapping(&self) -> Result<Mapping, FileError> {
        self.read_mapping().map_err(|why| FileError::Pair { left: self.left.clone(), why })
    }

    fn read_mapping(&self) -> Result<Mapping, String> {
        if let Some(reading) = &self.reading {
            let all = [Mapping::Number, Mapping::Bits, Mapping::Name];
            let found = all.into_iter().find(|m| reading_word(*m) == Some(reading.as_str()));
            return match (found, &self.scale, self.inverted) {
                (Some(mapping), None, false) => Ok(mapping),
                (Some(_), ..) => Err("a reading goes without `scale` and `inverted`".to_string()),
                (None, ..) => Err(format!("reading is `number`, `bits` or `name`, not `{reading}`")),
            };
        }
        match (&self.scale, self.inverted) {
            (None, false) => Ok(Mapping::Same),
            (None, true) => Ok(Mapping::Inverted),
            (Some(_), true) => Err("a pair is inverted or scaled, not both".to_string()),
            (Some(text), false) => scale(text),
        }
    }
}

fn scale(text: &str) -> Result<Mapping, String> {
    let number = |t: &str| t.trim().parse::<i64>().ok().filter(|n| *n != 0);
    if let Some((by, over)) = text.split_once('/') {
        if let (Some(by), Some(over)) = (number(by), number(over)) {
            return Ok(Mapping::Scaled(by, over));
        }
    } else if let Some(by) = number(text) {
        return Ok(Mapping::Scaled(by, 1));
    } else if let Ok(tick) = read_duration(text)
        && tick != Duration::ZERO
    {
        return Ok(Mapping::Scaled(tick.nanos(), 1));
    }
    Err(format!("`{text}` is no scale: a number, a fraction, or the time of a tick"))
}

impl FileRule {
    fn law(&self, number: usize) -> Result<Rule, FileError> {
        let wrong = |why: String| FileError::Rule { number: number + 1, why };
        let missing = |what: &str| wrong(format!("says no `{what}`"));
        let time = |text: &Option<String>, what: &str| {
            read_duration(text.as_deref().ok_or_else(|| missing(what))?).map_err(|e| FileError::Time(e.into()))
        };
        let laws: Vec<Law> = [
            self.never.clone().map(|e| Ok(Law::Never(e))),
            self.always.clone().map(|e| Ok(Law::Always(e))),
            self.lasts.clone().map(|e| Ok(Law::Lasts(e, time(&self.at_least, "at_least")?))),
            self.after.clone().map(|e| {
                let then = self.then.clone().ok_or_else(|| missing("then"))?;
                Ok(Law::After(e, then, time(&self.within, "within")?))
            }),
        ]
        .into_iter()
        .flatten()
        .collect::<Result<_, FileError>>()?;
        let [law] = laws.as_slice() else {
            return Err(wrong("says one of never, always, after, lasts".to_string()));
        };
        Ok(Rule { name: self.name.clone().unwrap_or_else(|| law.words()), law: law.clone() })
    }
}

/// Pairs what a map of addresses says: the old point by its symbol or address, the new one by its.
pub(in crate::twin) fn by_map(pairing: &mut Pairing, versions: [&Version; 2], text: &str) -> Result<(), PairError> {
    let wrong = |line: Option<usize>, why: &dyn std::fmt::Display| PairError::Map { line, why: why.to_string() };
    let mut reader = csv::ReaderBuilder::new().flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes());
    let header = reader.headers().map_err(|e| wrong(None, &e))?.clone();
    let column = |name: &str| header.iter().position(|h| h.eq_ignore_ascii_case(name));
    let (Some(old), Some(symbol), Some(new)) = (column("old"), column("symbol"), column("new")) else {
        return Err(wrong(None, &"its columns are old,symbol,comment,new,why"));
    };
    let mut any = false;
    for (index, record) in reader.records().enumerate() {
        let record = record.map_err(|e| wrong(Some(index + 2), &e))?;
        let cell = |at: usize| record.get(at).filter(|c| !c.is_empty());
        let find = |version: &Version, names: [Option<&str>; 2]| {
            names.into_iter().flatten().find(|n| version.machine.find(n).is_some()).map(str::to_string)
        };
        let left = find(versions[0], [cell(symbol), cell(old)]);
        let right = find(versions[1], [cell(symbol), cell(new)]);
        if let (Some(left), Some(right)) = (left, right) {
            // What is neither input nor output is not compared.
            any |= pairing.join(versions, [&left, &right], Mapping::Same).is_ok();
        }
    }
    if any {
        pairing.find_alone(versions[0], versions[1]);
    }
    Ok(())
}
