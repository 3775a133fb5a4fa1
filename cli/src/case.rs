//! What is compared: two versions of the call, or those of a twin file, with their scenarios and rules.

use crate::args::{Changes, Compare, Held, Prove, Try, Written};
use crate::{files, problems};
use honest_twin::model::{Duration, Outside, Value};
use honest_twin::scan::{Event, ScanTime, Stimulus};
use honest_twin::twin::file::{FileVersion, TwinFile};
use honest_twin::twin::script::{Deed, Failure, Line, Played, Script, play, read_table};
use honest_twin::twin::{Assumption, Effort, Known, Mapping, Rule, Scenario, Timing, Tolerance, Twin, Version};
use std::path::{Path, PathBuf};

/// What a call wants compared, whichever command it was.
pub(crate) struct Wish<'a> {
    left: &'a Path,
    /// Further files of the first version.
    more: &'a [PathBuf],
    right: Option<&'a Path>,
    held: &'a Held,
    right_scan: Option<&'a ScanTime>,
    /// Scenarios to play first.
    scenarios: &'a [PathBuf],
    effort: Effort,
    /// True if a version by itself need not be asked anything.
    unasked: bool,
}

impl<'a> Wish<'a> {
    /// Versions that are tried by hand.
    pub(crate) fn of_try(args: &'a Try, held: &'a Held) -> Wish<'a> {
        let (left, more) =
            args.files.split_first().map_or((Path::new(""), &[][..]), |(left, more)| (left.as_path(), more));
        Wish {
            left,
            more,
            right: args.beside.as_deref(),
            held,
            right_scan: None,
            scenarios: &[],
            effort: Effort::default(),
            unasked: true,
        }
    }
}

impl<'a> From<&'a Compare> for Wish<'a> {
    fn from(args: &'a Compare) -> Wish<'a> {
        Wish {
            left: &args.left,
            more: &[],
            unasked: false,
            right: args.right.as_deref(),
            held: &args.held,
            right_scan: args.right_scan.as_ref(),
            scenarios: &args.scenario,
            effort: Effort {
                scenarios: args.scenarios.unwrap_or(args.effort.scenarios),
                scans: args.scans.unwrap_or(args.effort.scans),
                seed: args.held.seed,
                faults: args.faults,
                shard: args.shard,
                ..*args.effort.clone()
            },
        }
    }
}

impl<'a> From<&'a Prove> for Wish<'a> {
    fn from(args: &'a Prove) -> Wish<'a> {
        Wish {
            // Without a version a certificate is checked, and nothing is read here.
            left: args.left.as_deref().unwrap_or(Path::new("")),
            more: &[],
            unasked: false,
            right: args.right.as_deref(),
            held: &args.held,
            right_scan: None,
            scenarios: &[],
            effort: Effort { seed: args.held.seed, faults: 0, ..Effort::default() },
        }
    }
}

impl<'a> From<&'a Changes> for Wish<'a> {
    fn from(args: &'a Changes) -> Wish<'a> {
        Wish {
            left: &args.left,
            more: &[],
            // Two versions are held against each other, whatever is asked of them.
            unasked: false,
            right: args.right.as_deref(),
            held: &args.held,
            right_scan: None,
            scenarios: &args.scenario,
            effort: Effort { seed: args.held.seed, faults: 0, ..*args.effort.clone() },
        }
    }
}

/// Everything that was read.
#[derive(Clone)]
pub(crate) struct Case {
    pub(crate) title: String,
    pub(crate) versions: Vec<Version>,
    /// The files of each version, as they were named.
    /// How each version was read.
    pub(crate) sources: Vec<FileVersion>,
    pub(crate) effort: Effort,
    pub(crate) map: Option<String>,
    rules: Vec<Rule>,
    scenarios: Vec<PathBuf>,
    /// What stands in for the machine, on each side.
    plants: Vec<PathBuf>,
    /// Scan times that were recorded, by version.
    recorded: Vec<Option<ScanTime>>,
    said: Option<TwinFile>,
}

/// What came of playing the scenarios that were given.
#[derive(Default)]
pub(crate) struct Given {
    pub(crate) asked: usize,
    pub(crate) failures: Vec<Failure>,
    /// Each scenario that was played, with its file; and whether it forces points, so that it is more than its acts.
    pub(crate) played: Vec<(PathBuf, Scenario, bool)>,
}

/// A file as a twin file at a place names it: what a twin file names lies beside it, so what does not is named in full.
fn seen_from(at: &Path, file: &str) -> String {
    let is_beside = at.parent().is_none_or(|folder| folder.as_os_str().is_empty());
    match std::path::absolute(file) {
        Ok(path) if !is_beside => path.display().to_string(),
        Ok(_) | Err(_) => file.to_string(),
    }
}

fn paths_from(at: &Path, paths: &[PathBuf]) -> Vec<String> {
    paths.iter().map(|path| seen_from(at, &path.display().to_string())).collect()
}

/// Tells which of the files that a twin file names lie outside of its folder: whoever got it from others sees what it reads.
fn tell_outside(at: &Path, base: &Path, file: &TwinFile) {
    let of_version = |version: &FileVersion| -> Vec<String> {
        let more = version.tags.iter().chain(&version.recorded).cloned();
        version.files.iter().chain(&version.sheets).cloned().chain(more).collect()
    };
    let of_all = file.scenarios.iter().chain(&file.plants).chain(&file.map).cloned();
    let folder = if base.as_os_str().is_empty() { Path::new(".") } else { base };
    let Ok(folder) = folder.canonicalize() else { return };
    for name in file.version.iter().flat_map(of_version).chain(of_all) {
        // What is not there is told where it is read.
        if let Some(place) = base.join(&name).canonicalize().ok().filter(|place| !place.starts_with(&folder)) {
            problems::warn(&format!("{}: `{name}` lies outside of its folder: {}\n", at.display(), place.display()));
        }
    }
}

impl Case {
    /// Reads what the call names. Problems are shown; `None` if they are errors.
    pub(crate) fn read(wish: &Wish<'_>, json: bool) -> Result<Option<Case>, String> {
        let is_file = wish.left.extension().is_some_and(|e| e.eq_ignore_ascii_case("toml"));
        let case = match (wish.right, is_file) {
            (None, true) => Case::of_file(wish, json)?,
            (Some(_), true) => return Err("a twin file names its versions; give it alone".to_string()),
            (None, false) if !wish.unasked && wish.held.asked.is_nothing() && wish.scenarios.is_empty() => {
                let one = "of one version rules are asked (--always, --never), or what scenarios expect (--scenario)";
                return Err(format!("name another version, or a twin file (.toml); {one}"));
            }
            (right, false) => Case::of_files(wish, right, json)?,
        };
        let Some(mut case) = case else { return Ok(None) };
        case.rules.extend(wish.held.asked.always.iter().map(|text| Rule::always(text)));
        case.rules.extend(wish.held.asked.never.iter().map(|text| Rule::never(text)));
        case.scenarios.extend(wish.scenarios.iter().cloned());
        if let Some(path) = &wish.held.map {
            case.map = Some(files::read(path)?);
        }
        Ok(Some(case))
    }

    fn of_files(wish: &Wish<'_>, right: Option<&Path>, json: bool) -> Result<Option<Case>, String> {
        let mut versions: Vec<Version> = Vec::new();
        let mut sources = Vec::new();
        let other = right.map(|path| (path, files::other_side(&wish.held.written, &wish.held.other, path)));
        for (path, written) in [(wish.left, wish.held.written.clone())].into_iter().chain(other) {
            let mut paths = vec![path.to_path_buf()];
            paths.extend(wish.more.iter().filter(|_| versions.is_empty()).cloned());
            let Some(mut checked) = files::checked(&paths, &written, &wish.held.plants.plant, json)? else {
                return Ok(None);
            };
            // What is said of the first version goes for the other, where it has the names.
            if let Some(first) = versions.first() {
                checked = checked.outside_as_in(first.checked());
            }
            let text = |path: &PathBuf| path.display().to_string();
            let there = |names: &[String], what: Outside| -> Vec<String> {
                names.iter().filter(|name| checked.clone().outside(name, what).is_ok()).cloned().collect()
            };
            sources.push(FileVersion {
                files: vec![path.display().to_string()],
                dialect: written.from.clone(),
                sheets: written.sheet.iter().map(text).collect(),
                tags: written.tags.as_ref().map(text),
                given: there(&wish.held.written.given, Outside::Given),
                shown: there(&wish.held.written.shown, Outside::Shown),
                ..FileVersion::default()
            });
            let name = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().to_string();
            versions.push(Version::new(name, checked).map_err(|e| format!("{}: {e}", path.display()))?);
        }
        tell_apart(&mut versions);
        let recorded = versions.iter().map(|_| None).collect();
        Ok(Some(Case {
            title: versions.iter().map(Version::name).collect::<Vec<_>>().join(" and "),
            versions,
            sources,
            effort: wish.effort.clone(),
            map: None,
            rules: Vec::new(),
            scenarios: Vec::new(),
            plants: wish.held.plants.plant.clone(),
            recorded,
            said: None,
        }))
    }

    fn of_file(wish: &Wish<'_>, json: bool) -> Result<Option<Case>, String> {
        let place = |why: String| format!("{}: {why}", wish.left.display());
        let file = TwinFile::read(&files::read(wish.left)?).map_err(|e| place(e.to_string()))?;
        let base = wish.left.parent().unwrap_or(Path::new("")).to_path_buf();
        tell_outside(wish.left, &base, &file);
        let plants: Vec<PathBuf> =
            file.plants.iter().map(|p| base.join(p)).chain(wish.held.plants.plant.clone()).collect();
        let (mut versions, mut sources, mut recorded) = (Vec::new(), Vec::new(), Vec::new());
        for version in &file.version {
            let paths: Vec<PathBuf> = version.files.iter().map(|f| base.join(f)).collect();
            let written = Written {
                from: version.dialect.clone(),
                sheet: version.sheets.iter().map(|s| base.join(s)).collect(),
                tags: version.tags.as_ref().map(|t| base.join(t)),
                given: version.given.clone(),
                shown: version.shown.clone(),
            };
            let Some(mut checked) = files::checked(&paths, &written, &plants, json)? else { return Ok(None) };
            if let Some(program) = &version.program {
                checked = checked.running_only(program).map_err(|e| place(e.to_string()))?;
            }
            checked = checked.retaining(&version.retain).map_err(|e| place(e.to_string()))?;
            let first = version.files.first().cloned().unwrap_or_default();
            let name = version.name.clone().unwrap_or_else(|| first.clone());
            versions.push(Version::new(name, checked).map_err(|e| place(format!("{first}: {e}")))?);
            let beside = |name: &String| base.join(name).display().to_string();
            sources.push(FileVersion {
                files: version.files.iter().map(beside).collect(),
                sheets: version.sheets.iter().map(beside).collect(),
                tags: version.tags.as_ref().map(beside),
                ..version.clone()
            });
            recorded.push(version.recorded.as_ref().map(|r| times(&base.join(r))).transpose()?);
        }
        tell_apart(&mut versions);
        let map = file.map.as_ref().map(|m| files::read(&base.join(m))).transpose()?;
        let title = if file.title.is_empty() { wish.left.display().to_string() } else { file.title.clone() };
        Ok(Some(Case {
            title,
            versions,
            sources,
            effort: file.effort(&wish.effort).map_err(|e| place(e.to_string()))?,
            map,
            rules: file.rules().map_err(|e| place(e.to_string()))?,
            scenarios: file.scenarios.iter().map(|s| base.join(s)).collect(),
            plants,
            recorded,
            said: Some(file),
        }))
    }

    /// The first version and another one as they are compared.
    pub(crate) fn twin(&self, wish: &Wish<'_>, other: usize) -> Result<Twin<'_>, String> {
        let versions = [&self.versions[0], &self.versions[other]];
        let times = [self.recorded[0].clone(), self.recorded[other].clone()];
        let mut twin = match &self.said {
            Some(file) => file
                .twin(versions, [0, other], times, self.map.as_deref())
                .map_err(|why| format!("{}: {why}", wish.left.display()))?,
            None => {
                let mut twin = match self.versions.len() {
                    1 => Twin::single(versions[0]),
                    _ => Twin::new(versions[0], versions[1]),
                };
                if let Some(map) = &self.map {
                    twin.by_map(map).map_err(|e| e.to_string())?;
                }
                twin.timing = Timing::Lockstep(wish.held.scan.clone());
                if twin.is_single() && wish.right_scan.is_some() {
                    return Err("--right-scan is the scan time of a second version".to_string());
                }
                match wish.right_scan {
                    Some(right) if *right != wish.held.scan => twin.free([wish.held.scan.clone(), right.clone()]),
                    _ => twin,
                }
            }
        };
        if let Some(within) = wish.held.within {
            twin.pairing.tolerate(None, Tolerance::Within(within)).map_err(|e| e.to_string())?;
        }
        for name in &wish.held.agree {
            twin.pairing.agree(name).map_err(|e| e.to_string())?;
        }
        if !wish.held.asked.known.is_empty() {
            let said = wish.held.asked.known.iter().map(|when| Known { when: Some(when.clone()), ..Known::default() });
            let known = twin.pairing.known().iter().cloned().chain(said).collect();
            twin = twin.with_known(known).map_err(|why| format!("--known: {why}"))?;
        }
        for text in &wish.held.asked.assume {
            let assumed = Assumption::read(text).and_then(|assumption| twin.assume(assumption));
            assumed.map_err(|why| format!("--assume {text}: {why}"))?;
        }
        twin.with_rules(self.rules.clone()).map_err(|e| e.to_string())
    }

    /// The same with another second version.
    pub(crate) fn against(&self, right: Version) -> Case {
        let mut versions = vec![self.versions[0].clone(), right];
        tell_apart(&mut versions);
        let recorded = vec![self.recorded[0].clone(), self.recorded[1].clone()];
        Case { versions, recorded, ..self.clone() }
    }

    /// How the versions of a comparison were read, as a twin file at a place says it; one of one version by itself.
    pub(crate) fn sources_of(&self, other: usize, at: &Path) -> Vec<FileVersion> {
        let sources = if other == 0 { vec![&self.sources[0]] } else { vec![&self.sources[0], &self.sources[other]] };
        let named = |source: &FileVersion| FileVersion {
            files: source.files.iter().map(|file| seen_from(at, file)).collect(),
            sheets: source.sheets.iter().map(|file| seen_from(at, file)).collect(),
            tags: source.tags.as_deref().map(|file| seen_from(at, file)),
            recorded: source.recorded.as_deref().map(|file| seen_from(at, file)),
            ..source.clone()
        };
        sources.into_iter().map(named).collect()
    }

    /// The scenarios, sequence tables and traces that are played first, as a twin file at a place names them.
    pub(crate) fn scenario_files(&self, at: &Path) -> Vec<String> {
        paths_from(at, &self.scenarios)
    }

    /// The plants, as a twin file at a place names them.
    pub(crate) fn plant_files(&self, at: &Path) -> Vec<String> {
        paths_from(at, &self.plants)
    }

    /// Plays the scenarios that were given; what they do is tried first.
    pub(crate) fn play(&self, twin: &mut Twin<'_>) -> Result<Given, String> {
        let mut given = Given::default();
        let both = twin.versions();
        let versions = if twin.is_single() { &both[..1] } else { &both[..] };
        let mut judged = Vec::new();
        let time = match &twin.timing {
            Timing::Lockstep(time) => time.clone(),
            Timing::Free([left, _]) => left.clone(),
        };
        for path in &self.scenarios {
            match scenario(path, versions[0])? {
                Either::Stimulus(stimulus) if stimulus.is_forced() => {
                    let why = "it forces points; say what happens as a scenario, which is judged while they are forced";
                    return Err(format!("{}: {why}", path.display()));
                }
                Either::Stimulus(stimulus) => {
                    let scans = scans_within(&time, stimulus.length().plus(Duration::from_millis(1_000)));
                    given.played.push((path.clone(), Scenario::of_stimulus(&stimulus, twin, scans), false));
                }
                Either::Script(script) => {
                    let played = play(&script, versions, &time).map_err(|e| format!("{}: {e}", path.display()))?;
                    given.asked += played.asked;
                    given.failures.extend(played.failures.iter().cloned());
                    judged.push(twin.judge(&script, &played));
                    let apart = apart_when_forced(twin, &script, &played);
                    given.asked += usize::from(apart.is_some());
                    given.failures.extend(apart);
                    let scenario = Scenario::of_stimulus(&played.stimulus, twin, played.scans());
                    given.played.push((path.clone(), scenario, played.forced));
                }
            }
        }
        twin.judged.extend(judged.into_iter().flatten());
        twin.given.extend(given.played.iter().map(|(_, scenario, _)| scenario.clone()));
        Ok(given)
    }
}

/// What is forced is in no stimulus, so the traces are compared as they are; a difference is an expectation that was not
/// met. Values that are read in another unit, and times that may be apart, are left to the search.
fn apart_when_forced(twin: &Twin<'_>, script: &Script, played: &Played) -> Option<Failure> {
    let [left, right] = played.traces.as_slice() else { return None };
    if !played.forced {
        return None;
    }
    let find = |names: &[String], name: &str| names.iter().position(|n| n == name);
    let alike = twin.pairing.outputs().iter().filter(|p| p.mapping == Mapping::Same && p.tolerance == Tolerance::Exact);
    let columns: Vec<(&str, usize, usize)> = alike
        .filter_map(|pair| {
            let right_name = &twin.versions()[1].machine().point(pair.right()).name;
            Some((pair.name.as_str(), find(&left.names, &pair.name)?, find(&right.names, right_name)?))
        })
        .collect();
    let apart = |a: &[&Value], b: &[&Value]| columns.iter().copied().find(|(_, x, y)| a[*x] != b[*y]);
    let (a, b) = left.rows().zip(right.rows()).find(|(a, b)| apart(&a.2, &b.2).is_some())?;
    let (name, x, y) = apart(&a.2, &b.2)?;
    Some(Failure {
        scenario: script.name.clone(),
        line: 1,
        version: twin.versions()[1].name().to_string(),
        scan: a.0,
        at: a.1,
        expected: name.to_string(),
        what: format!("while a point is forced, {name} differs: {} and {}", a.2[x], b.2[y]),
    })
}

/// What happens from outside to one version, however it was written down.
#[derive(Default)]
pub(crate) struct Course {
    pub(crate) stimulus: Stimulus,
    /// What came of its expectations, if it is a scenario or a sequence table.
    pub(crate) played: Option<Played>,
}

impl Course {
    /// Reads a stimulus, a trace, a wave, a scenario or a sequence table, or nothing; `force` holds from the beginning.
    pub(crate) fn read(
        path: Option<&Path>,
        force: &[String],
        version: &Version,
        time: &ScanTime,
    ) -> Result<Course, String> {
        let machine = version.machine();
        let mut first = Event::at(Duration::ZERO);
        for text in force {
            match machine.force(text).map_err(|e| e.to_string())? {
                (point, Some(value)) => first.force.push((point, Some(value))),
                (_, None) => return Err(format!("`{text}`: a force is written NAME=VALUE")),
            }
        }
        let mut course = match path.map(|path| scenario(path, version)).transpose()? {
            None => Course::default(),
            Some(Either::Stimulus(stimulus)) => Course { stimulus, played: None },
            Some(Either::Script(mut script)) => {
                let held = force.iter().filter_map(|text| text.split_once('='));
                let deeds = held.map(|(name, value)| Deed::Force(name.trim().to_string(), value.trim().to_string()));
                let held: Vec<Line> = deeds.map(|deed| Line { number: 1, deed }).collect();
                script.lines.splice(0..0, held);
                let at = path.map_or(String::new(), |path| path.display().to_string());
                let played = play(&script, &[version], time).map_err(|e| format!("{at}: {e}"))?;
                return Ok(Course { stimulus: played.stimulus.clone(), played: Some(played) });
            }
        };
        if !first.force.is_empty() {
            course.stimulus.events.insert(0, first);
        }
        Ok(course)
    }
}

pub(crate) enum Either {
    Stimulus(Stimulus),
    Script(Script),
}

/// Reads a scenario, a sequence table, a stimulus, a trace or a wave, by its ending and its header.
pub(crate) fn scenario(path: &Path, version: &Version) -> Result<Either, String> {
    let text = files::read(path)?;
    let place = |e: String| format!("{}: {e}", path.display());
    let name = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().to_string();
    let machine = &version.machine();
    let ending = path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
    match ending.as_deref() {
        Some("vcd") => Stimulus::from_vcd(&text, machine).map(Either::Stimulus).map_err(|e| place(e.to_string())),
        Some("csv") if text.starts_with("scan,") => {
            Stimulus::from_trace(&text, machine).map(Either::Stimulus).map_err(|e| place(e.to_string()))
        }
        Some("csv") => {
            let header = text.lines().next().unwrap_or("");
            let expects = header.split(',').skip(1).map(str::trim).any(|name| {
                let point = machine.find(name).map(|p| machine.point(p).direction);
                matches!(name, "@for_ms" | "@settle_ms" | "@note")
                    || point.is_some_and(|d| d != honest_twin::scan::Direction::Input)
            });
            if expects || header.starts_with("step") {
                return read_table(&name, &text, machine).map(Either::Script).map_err(|e| place(e.to_string()));
            }
            Stimulus::read(&text, machine).map(Either::Stimulus).map_err(|e| place(e.to_string()))
        }
        _ => Script::read(&name, &text).map(Either::Script).map_err(|e| place(e.to_string())),
    }
}

/// The scan times that a trace has recorded.
fn times(path: &Path) -> Result<ScanTime, String> {
    let text = files::read(path)?;
    let trace = honest_twin::show::Timing::read(&text).map_err(|e| format!("{}: {e}", path.display()))?;
    let steps: Vec<Duration> =
        trace.times.windows(2).map(|w| Duration::from_nanos(w[1].0.nanos() - w[0].0.nanos())).collect();
    if steps.is_empty() || steps.iter().any(|s| *s <= Duration::ZERO) {
        return Err(format!("{}: a trace of two scans or more, whose times rise, tells scan times", path.display()));
    }
    Ok(ScanTime::Given(steps))
}

/// Versions of the same name are told apart by a number.
fn tell_apart(versions: &mut [Version]) {
    for index in 1..versions.len() {
        let (before, rest) = versions.split_at_mut(index);
        if before.iter().any(|v| v.name() == rest[0].name()) {
            let name = format!("{} ({})", rest[0].name(), index + 1);
            rest[0] = rest[0].clone().called(name);
        }
    }
}

/// How many scans begin within a span of time.
pub(crate) fn scans_within(time: &ScanTime, span: Duration) -> u64 {
    time.clock().take_while(|at| at.0 < span).take(100_000_000).count() as u64
}
