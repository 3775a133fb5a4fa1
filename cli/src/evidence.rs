//! What is written beside a verdict: report, JSON, JUnit, traces, pictures.

use crate::case::{Case, Given};
use crate::{files, pictures};
use honest_twin::show::{self, Dossier, Timing};
use honest_twin::twin::{Scenario, Twin, Verdict, traces};
use std::path::{Path, PathBuf};

/// Scans of traces that are written at most, and scans beyond a difference.
const MOST: u64 = 100_000;
const BEYOND: u64 = 20;

/// Where to write what.
pub(crate) struct Wanted<'w> {
    pub(crate) report: Option<&'w Path>,
    pub(crate) evidence: Option<&'w Path>,
    /// Of several comparisons of a twin file, which one this is.
    pub(crate) number: Option<usize>,
}

/// Writes what the call asks for.
pub(crate) fn write(
    wanted: &Wanted<'_>,
    case: &Case,
    twin: &Twin<'_>,
    verdict: &Verdict,
    given: &Given,
) -> Result<(), String> {
    if wanted.report.is_none() && wanted.evidence.is_none() {
        return Ok(());
    }
    let dossier = Dossier {
        changes: (!twin.is_single()).then(|| {
            let [left, right] = twin.versions();
            honest_twin::changes::changes([left.name(), right.name()], left.checked(), right.checked())
        }),
        map: case.map.clone(),
        asked: given.asked,
        failures: given.failures.clone(),
        ..dossier(case.title.clone())
    };
    let page = show::report(twin, verdict, &dossier).map_err(|e| e.to_string())?;
    if let Some(path) = wanted.report {
        files::write(&numbered(path, wanted.number), &page)?;
    }
    let Some(folder) = wanted.evidence else { return Ok(()) };
    let folder = numbered(folder, wanted.number);
    std::fs::create_dir_all(&folder).map_err(|e| format!("cannot make {}: {e}", folder.display()))?;
    let put = |name: &str, content: &str| files::write(&folder.join(name), content);
    put("report.html", &page)?;
    put("verdict.json", &serde_json::to_string_pretty(verdict).map_err(|e| e.to_string())?)?;
    put("junit.xml", &show::junit(twin, verdict, &given.failures).map_err(|e| e.to_string())?)?;
    put("verdict.txt", &show::verdict(verdict))?;
    let (scenario, beyond) = match verdict {
        Verdict::Different(d) => (&d.scenario, BEYOND),
        Verdict::Tested(t) => (&t.sample, 0),
        Verdict::Broken(b) => match b.first().and_then(|rule| rule.breach.as_deref()) {
            Some(breach) => (&breach.scenario, BEYOND),
            None => return Ok(()),
        },
        _ => return Ok(()),
    };
    if let Some((script, stimulus)) = shown(verdict) {
        let name = if matches!(verdict, Verdict::Different(_)) { "difference" } else { "broken" };
        put(&format!("{name}.scenario"), &(script.join("\n") + "\n"))?;
        put(&format!("{name}.csv"), stimulus)?;
    }
    if twin.is_single() {
        return one_trace(&folder, twin, scenario, beyond);
    }
    both_traces(&folder, twin, scenario, beyond)
}

/// What a page says of how it was made.
pub(crate) fn dossier(title: String) -> Dossier {
    let call: Vec<String> = std::env::args().skip(1).collect();
    Dossier {
        title,
        date: Some(today()),
        tool: format!("honest-twin {}", env!("CARGO_PKG_VERSION")),
        call: format!("honest-twin {}", call.join(" ")),
        ..Dossier::default()
    }
}

/// The lines and the stimulus of the scenario that a verdict shows, if it shows one.
pub(crate) fn shown(verdict: &Verdict) -> Option<(&[String], &str)> {
    if let Verdict::Different(difference) = verdict {
        return Some((&difference.explanation.script, &difference.stimulus));
    }
    let first = verdict.rules().iter().find_map(|rule| rule.breach.as_deref())?;
    Some((&first.script, &first.stimulus))
}

/// Both traces as tables, as waves and as a picture.
fn both_traces(folder: &Path, twin: &Twin<'_>, scenario: &Scenario, beyond: u64) -> Result<(), String> {
    let both = traces(twin, scenario, beyond, MOST);
    let sides = twin.versions().map(|v| v.name());
    for (trace, side) in both.iter().zip(["left", "right"]) {
        files::write_by(&folder.join(format!("{side}.csv")), |out| trace.write_to(out))?;
    }
    files::write(&folder.join("both.vcd"), show::vcd(&both, &sides).map_err(|e| e.to_string())?)?;
    let [left, right] = traces(twin, scenario, beyond, 400);
    let names: Vec<&str> =
        twin.pairing.inputs().iter().chain(twin.pairing.outputs()).map(|p| p.name.as_str()).collect();
    let drawn = Timing { caption: "both versions".to_string(), ..Timing::of(&left, &names).beside(&right, sides) };
    let svg = show::timing(&drawn, 1_280);
    files::write(&folder.join("timing.svg"), &svg)?;
    files::write(&folder.join("timing.png"), pictures::png(&svg)?)
}

/// The trace of one version as a table, as waves and as a picture.
fn one_trace(folder: &Path, twin: &Twin<'_>, scenario: &Scenario, beyond: u64) -> Result<(), String> {
    let [trace, _] = traces(twin, scenario, beyond, MOST);
    files::write_by(&folder.join("trace.csv"), |out| trace.write_to(out))?;
    let wave = show::vcd(std::slice::from_ref(&trace), &[twin.versions()[0].name()]).map_err(|e| e.to_string())?;
    files::write(&folder.join("trace.vcd"), wave)?;
    let [trace, _] = traces(twin, scenario, beyond, 400);
    let drawn = Timing { caption: twin.versions()[0].name().to_string(), ..Timing::of(&trace, &[]) };
    let svg = show::timing(&drawn, 1_280);
    files::write(&folder.join("timing.svg"), &svg)?;
    files::write(&folder.join("timing.png"), pictures::png(&svg)?)
}

/// `report.html`, `report-2.html`.
fn numbered(path: &Path, number: Option<usize>) -> PathBuf {
    let Some(number) = number else { return path.to_path_buf() };
    let stem = path.file_stem().map_or(String::new(), |s| s.to_string_lossy().to_string());
    let ending = path.extension().map_or(String::new(), |e| format!(".{}", e.to_string_lossy()));
    path.with_file_name(format!("{stem}-{number}{ending}"))
}

/// Today as year, month and day.
fn today() -> String {
    let seconds = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |d| d.as_secs());
    // Days since 1970 as a date, by the rule of the Gregorian calendar.
    let days = (seconds / 86_400) as i64 + 719_468;
    let era = days.div_euclid(146_097);
    let day_of_era = days.rem_euclid(146_097);
    let year_of_era = (day_of_era - day_of_era / 1_460 + day_of_era / 36_524 - day_of_era / 146_096) / 365;
    let day_of_year = day_of_era - (365 * year_of_era + year_of_era / 4 - year_of_era / 100);
    let month = (5 * day_of_year + 2) / 153;
    let day = day_of_year - (153 * month + 2) / 5 + 1;
    let month = if month < 10 { month + 3 } else { month - 9 };
    let year = year_of_era + era * 400 + i64::from(month <= 2);
    format!("{year:04}-{month:02}-{day:02}")
}
