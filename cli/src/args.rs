//! What can be asked for.

use crate::meant::{duration, effort, language, scan_time, shard};
use clap::{Args, Parser, Subcommand};
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::scan::ScanTime;
use honest_twin::twin::Effort;
use std::path::PathBuf;

/// Move PLC logic between the IEC 61131-3 languages, and show that the versions behave the same.
///
/// Exit status: 0 done, and for a comparison the same; 1 problems found, or different; 2 the call or a file was
/// wrong; 3 undecided.
#[derive(Parser, Debug)]
#[command(name = "honest-twin", version, max_term_width = 100)]
pub(crate) struct Call {
    /// Answer as JSON, for machines.
    #[arg(long, global = true)]
    pub(crate) json: bool,
    /// What to do.
    #[command(subcommand)]
    pub(crate) command: Command,
}

/// The commands.
#[derive(Subcommand, Debug)]
pub(crate) enum Command {
    /// The whole job on the shipped trout hatchery, then what to look at.
    Demo,
    /// Read and verify; every problem at its place.
    Check(Check),
    /// Write a project in another language, with a ledger of what is not one to one.
    Translate(Translate),
    /// Run a project scan by scan in virtual time and write its trace.
    Run(Run),
    /// Run two versions beside each other on thousands of scenarios and say whether they differ, and why; or one version,
    /// and say whether it keeps its rules.
    Compare(Compare),
    /// Join what the parts of a comparison (`compare --shard`) have tried.
    Merge(Merge),
    /// Prove two versions the same for every input sequence of any length, or find a scenario in which they differ; or
    /// prove that one version keeps its rules.
    Prove(Prove),
    /// What changed between two projects, and whether it matters: unit by unit, with the outputs that each change may reach.
    Changes(Box<Changes>),
    /// Draw rungs and networks: in the terminal, as SVG or as PNG; two versions side by side; or one scan with its power.
    Draw(Draw),
    /// Put a project, or two versions, under your hands: toggle, press and force, watch what it does, go back and forward in
    /// time. In a terminal it fills the screen; from a pipe it takes an act a line.
    Try(Try),
    /// Run a project against the clock and speak Modbus TCP, so that a panel or another client reads and writes it; or only
    /// when a client steps it.
    Serve(Serve),
    /// Run beside a device: what it reads there over Modbus TCP goes to the twin, whose outputs are held against the device's.
    /// Nothing is ever written to the device.
    Shadow(Shadow),
    /// The conventions of controllers: list them, describe one, lay two side by side, or start one of your own.
    Dialects(Dialects),
}

/// `check`
#[derive(Args, Debug)]
pub(crate) struct Check {
    /// Files of one project; the ending names the language (.st, .il, .ld, .fbd), or .xml. A folder stands for its files.
    #[arg(required = true)]
    pub(crate) files: Vec<PathBuf>,
    /// Write the declarations that pasted code lacks, with inferred types.
    #[arg(long)]
    pub(crate) declare: bool,
    /// Where to write the tag list: every address with its symbol and comment.
    #[arg(long)]
    pub(crate) save_tags: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) written: Written,
}

/// `translate`
#[derive(Args, Debug)]
pub(crate) struct Translate {
    /// Files of one project; the ending names the language (.st, .il, .ld, .fbd), or .xml. A folder stands for its files.
    #[arg(required = true)]
    pub(crate) files: Vec<PathBuf>,
    /// The language to write.
    #[arg(long, value_parser = language)]
    pub(crate) to: Language,
    /// Where to write: a file, or a folder if there are several; the terminal if absent. A name that ends in .xml asks
    /// for the open XML exchange format.
    #[arg(long)]
    pub(crate) out: Option<PathBuf>,
    /// Write the open XML exchange format, with bodies in the language asked for.
    #[arg(long)]
    pub(crate) exchange: bool,
    /// Where to write the ledger, as JSON if the name ends so.
    #[arg(long)]
    pub(crate) ledger: Option<PathBuf>,
    /// Only write; do not read back and compare.
    #[arg(long)]
    pub(crate) unverified: bool,
    /// The dialect to write for (see `dialects`); that of the source if absent.
    #[arg(long)]
    pub(crate) dialect: Option<String>,
    /// Carry the source's timers and counters along as blocks, instead of using the target's own.
    #[arg(long, requires = "dialect")]
    pub(crate) faithful: bool,
    /// A map that says where addresses go (CSV: old,symbol,comment,new,why); what it leaves out is placed automatically.
    #[arg(long, requires = "dialect")]
    pub(crate) map: Option<PathBuf>,
    /// Where to write the map of all addresses, old and new.
    #[arg(long, requires = "dialect")]
    pub(crate) save_map: Option<PathBuf>,
    /// Where to write the map of the open protocol's numbers, old and new.
    #[arg(long, requires = "dialect")]
    pub(crate) protocol: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) written: Written,
}

/// What texts are written in, where they do not say so themselves with `{dialect NAME}` in their first line.
#[derive(Args, Debug, Clone, Default)]
pub(crate) struct Written {
    /// The dialect of sources that do not name theirs; of two versions, of the first.
    #[arg(long)]
    pub(crate) from: Option<String>,
    /// A sheet of your own (.toml, with its blocks in the .st beside it); its name can be used like the shipped ones.
    #[arg(long)]
    pub(crate) sheet: Vec<PathBuf>,
    /// The tag list of the source (CSV: address,symbol,comment,wiring,outside).
    #[arg(long)]
    pub(crate) tags: Option<PathBuf>,
    /// Variables that a panel or the plant gives, though their declarations do not say it (with commas).
    #[arg(long, value_delimiter = ',', value_name = "NAMES")]
    pub(crate) given: Vec<String>,
    /// Variables that are shown outside likewise.
    #[arg(long, value_delimiter = ',', value_name = "NAMES")]
    pub(crate) shown: Vec<String>,
}

/// What stands in for the machine.
#[derive(Args, Debug, Clone, Default)]
pub(crate) struct Plants {
    /// A program that stands in for the plant: what it puts out is what inputs of its names show, and it sees outputs of its
    /// names. A file of a language, or a plant file (.toml) that says more.
    #[arg(long, value_name = "FILE")]
    pub(crate) plant: Vec<PathBuf>,
}

/// The same of the second version.
#[derive(Args, Debug, Clone, Default)]
pub(crate) struct RightWritten {
    /// The dialect of the second version, where its sources do not name theirs.
    #[arg(long, value_name = "FROM")]
    pub(crate) right_from: Option<String>,
    /// A sheet of your own that the second version is written by.
    #[arg(long, value_name = "SHEET")]
    pub(crate) right_sheet: Vec<PathBuf>,
    /// The tag list of the second version. Without it a second version that names its dialect has that of the first.
    #[arg(long, value_name = "TAGS")]
    pub(crate) right_tags: Option<PathBuf>,
}

/// `dialects`
#[derive(Args, Debug)]
pub(crate) struct Dialects {
    /// One to describe, or two to lay side by side; with --from, the name of a new one.
    #[arg(num_args = 0..=2)]
    pub(crate) names: Vec<String>,
    /// Start a sheet of your own from this family; it is written as NAME.toml and NAME.st.
    #[arg(long)]
    pub(crate) from: Option<String>,
    /// A sheet of your own, to describe or compare.
    #[arg(long)]
    pub(crate) sheet: Vec<PathBuf>,
    /// Show the blocks as well, in structured text.
    #[arg(long)]
    pub(crate) blocks: bool,
    /// Run the blocks and see that what the sheet says of them is true (a sheet of your own is seen to whenever it is used).
    #[arg(long, conflicts_with = "from")]
    pub(crate) verify: bool,
}

/// `run`
#[derive(Args, Debug)]
pub(crate) struct Run {
    /// Files of one project. A folder stands for its files.
    #[arg(required = true)]
    pub(crate) files: Vec<PathBuf>,
    /// What happens from outside: a stimulus (CSV with the header time_ms,NAME,...), a trace, a wave (.vcd), or a scenario
    /// with what it expects: lines (.scenario) or a sequence table (.csv).
    #[arg(long, visible_alias = "scenario")]
    pub(crate) stimulus: Option<PathBuf>,
    /// Time of a scan: 10ms, or a range 8ms..12ms to draw from.
    #[arg(long, default_value = "10ms", value_parser = scan_time)]
    pub(crate) scan: ScanTime,
    /// How many scans to run.
    #[arg(long, conflicts_with = "span")]
    pub(crate) scans: Option<u64>,
    /// For how long to run: 5s, 2m30s. Without this and --scans: one second longer than a stimulus, as long as a scenario.
    #[arg(long = "for", value_parser = duration)]
    pub(crate) span: Option<Duration>,
    /// More to trace, with commas: variables (T1.ET), whole instances and arrays (T1), or * for all there is.
    #[arg(long, value_delimiter = ',')]
    pub(crate) watch: Vec<String>,
    /// Hold a variable at a value, whatever writes it: NAME=VALUE
    #[arg(long)]
    pub(crate) force: Vec<String>,
    /// Where to write the trace; the terminal if absent.
    #[arg(long)]
    pub(crate) trace: Option<PathBuf>,
    /// Write only the rows in which something is other than in the row before.
    #[arg(long)]
    pub(crate) changes: bool,
    #[command(flatten)]
    pub(crate) plants: Plants,
    #[command(flatten)]
    pub(crate) written: Written,
}

/// `compare`
#[derive(Args, Debug)]
pub(crate) struct Compare {
    /// One version: a file, or a folder with the files of a project; or a twin file (.toml), which says everything.
    pub(crate) left: PathBuf,
    /// The other version. Without it rules, or scenarios that expect something, are asked of the one.
    pub(crate) right: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) held: Held,
    /// Time of a scan of the second version, if it is another: then each scans on its own.
    #[arg(long, value_parser = scan_time)]
    pub(crate) right_scan: Option<ScanTime>,
    /// Scenarios to play first, with what they expect: scenarios, sequence tables, stimuli, traces (.csv), waves (.vcd).
    #[arg(long)]
    pub(crate) scenario: Vec<PathBuf>,
    /// How much to try: quick, default (ten to forty seconds on two cores, however large the versions are), deep (thirty times as
    /// much), or so many times the default. The same effort tries the same on every machine.
    #[arg(long, default_value = "default", value_parser = effort)]
    pub(crate) effort: Box<Effort>,
    /// How many scenarios to try, in place of what the effort says.
    #[arg(long)]
    pub(crate) scenarios: Option<u64>,
    /// Begin no new scenario after this many scans, in place of what the effort says.
    #[arg(long)]
    pub(crate) scans: Option<u64>,
    /// How many faults to seed into the second version, to see whether the same scenarios would have found them.
    #[arg(long, default_value_t = 64)]
    pub(crate) faults: usize,
    /// End after this time, with a verdict on what was tried until then: 30s, 5m.
    #[arg(long, value_parser = duration)]
    pub(crate) time_limit: Option<Duration>,
    /// Try only part K of N of the scenarios: K/N, from 1/N to N/N. `merge` joins the parts.
    #[arg(long, value_parser = shard, requires = "state", default_value = "1/1", hide_default_value = true)]
    pub(crate) shard: (u64, u64),
    /// Where to keep what was tried so far; if it is there, go on from it.
    #[arg(long)]
    pub(crate) state: Option<PathBuf>,
    /// Where to write the twin file that was meant.
    #[arg(long)]
    pub(crate) save: Option<PathBuf>,
    /// A folder for everything: report, JSON, JUnit, both traces as CSV and VCD, the timing diagram, the scenario.
    #[arg(long)]
    pub(crate) evidence: Option<PathBuf>,
}

/// How two versions are held against each other, and where it is written what came of it: `compare` and `prove`.
#[derive(Args, Debug)]
pub(crate) struct Held {
    /// Time of a scan on both sides: 10ms; or a range 8ms..12ms, of which a scenario draws each scan, and a proof is about
    /// any.
    #[arg(long, default_value = "10ms", value_parser = scan_time)]
    pub(crate) scan: ScanTime,
    /// How far apart the changes of outputs may be: 50ms. Without it they must agree in every scan.
    #[arg(long, value_parser = duration)]
    pub(crate) within: Option<Duration>,
    /// A map of addresses (as `translate --save-map` writes it) whose rows pair points.
    #[arg(long)]
    pub(crate) map: Option<PathBuf>,
    /// Points that may be without a partner, with commas: an input keeps its value at rest, an output is not compared. Or
    /// no-inputs, where neither version has one.
    #[arg(long, value_name = "NAMES", value_delimiter = ',')]
    pub(crate) agree: Vec<String>,
    #[command(flatten)]
    pub(crate) asked: Asked,
    /// What the drawing of scenarios starts from.
    #[arg(long, default_value_t = 1)]
    pub(crate) seed: u64,
    /// Where to write the scenario that shows a difference or breaks a rule, as a stimulus (.csv) or as lines (.scenario).
    #[arg(long)]
    pub(crate) stimulus: Option<PathBuf>,
    /// Where to write the report to hand over, as HTML.
    #[arg(long)]
    pub(crate) report: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) plants: Plants,
    #[command(flatten)]
    pub(crate) written: Written,
    #[command(flatten)]
    pub(crate) other: RightWritten,
}

/// Rules, of all versions, and what is assumed.
#[derive(Args, Debug, Clone, Default)]
pub(crate) struct Asked {
    /// A rule: an expression of structured text that is TRUE at the end of every scan. Rules with times are said in a twin
    /// file.
    #[arg(long, value_name = "EXPRESSION")]
    pub(crate) always: Vec<String>,
    /// A rule: an expression that is never TRUE.
    #[arg(long, value_name = "EXPRESSION")]
    pub(crate) never: Vec<String>,
    /// A difference that is known: in scans that end with this expression TRUE on either version outputs are not compared.
    #[arg(long, value_name = "EXPRESSION")]
    pub(crate) known: Vec<String>,
    /// What is taken for granted of the outside, with commas: one-change, never-both=NAME+NAME, power-stays, never-stopped,
    /// rest-first, scan-multiple=5ms.
    #[arg(long, value_name = "WHAT", value_delimiter = ',')]
    pub(crate) assume: Vec<String>,
}

impl Asked {
    /// True if no rule is asked.
    pub(crate) fn is_nothing(&self) -> bool {
        self.always.is_empty() && self.never.is_empty()
    }
}

/// `prove`
#[derive(Args, Debug)]
pub(crate) struct Prove {
    /// One version: a file, or a folder with the files of a project; or a twin file (.toml), which says everything.
    #[arg(required_unless_present = "recheck")]
    pub(crate) left: Option<PathBuf>,
    /// The other version. Without it rules are asked of the one.
    pub(crate) right: Option<PathBuf>,
    /// A folder for what others can check the proof by: both versions as a circuit, the facts, and what is assumed.
    #[arg(long, value_name = "DIR")]
    pub(crate) certificate: Option<PathBuf>,
    /// Checks a certificate that was written before, with a checker that knows nothing of the prover.
    #[arg(long, value_name = "DIR", conflicts_with_all = ["left", "right", "certificate", "report"])]
    pub(crate) recheck: Option<PathBuf>,
    /// After how long it is undecided: 2m, 30s.
    #[arg(long, default_value = "2m", value_parser = duration)]
    pub(crate) time_limit: Duration,
    #[command(flatten)]
    pub(crate) held: Held,
}

/// `changes`
#[derive(Args, Debug)]
pub(crate) struct Changes {
    /// One project: a file, or a folder with its files; or a twin file (.toml), which names both.
    pub(crate) left: PathBuf,
    /// The other one.
    pub(crate) right: Option<PathBuf>,
    /// Only tell what changed; do not ask whether it matters.
    #[arg(long)]
    pub(crate) unverified: bool,
    /// Show both bodies of what changed line by line as well.
    #[arg(long)]
    pub(crate) lines: bool,
    /// Scenarios on file: those that pass through what changed are named, and those that do not.
    #[arg(long)]
    pub(crate) scenario: Vec<PathBuf>,
    /// Name only the scenarios that pass through what changed, one a line.
    #[arg(long, requires = "scenario")]
    pub(crate) affected: bool,
    /// How much to try where there is no proof: quick, default, deep, or so many times the default.
    #[arg(long, default_value = "quick", value_parser = effort)]
    pub(crate) effort: Box<Effort>,
    /// After how long what is asked of all changes together ends: 2m, 30s.
    #[arg(long, default_value = "2m", value_parser = duration)]
    pub(crate) time_limit: Duration,
    /// Where to write the changes as JUnit XML.
    #[arg(long)]
    pub(crate) junit: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) held: Held,
}

/// `merge`
#[derive(Args, Debug)]
pub(crate) struct Merge {
    /// What the parts have kept with `--state`; called from the folder in which they were.
    #[arg(required = true)]
    pub(crate) states: Vec<PathBuf>,
    /// Where to write the report to hand over, as HTML.
    #[arg(long)]
    pub(crate) report: Option<PathBuf>,
    /// A folder for everything.
    #[arg(long)]
    pub(crate) evidence: Option<PathBuf>,
}

/// `draw`
#[derive(Args, Debug)]
pub(crate) struct Draw {
    /// A file, a folder with the files of a project, or a trace (.csv), which is drawn as a timing diagram.
    pub(crate) project: PathBuf,
    /// Another version, drawn on the right; another trace, laid over the first.
    #[arg(long)]
    pub(crate) beside: Option<PathBuf>,
    /// Where to write: a name that ends in .svg or .png; the terminal if absent.
    #[arg(long)]
    pub(crate) out: Option<PathBuf>,
    /// Show one scan with its power and values: its number, counted from 0, or a time (4.3s).
    #[arg(long, value_parser = moment)]
    pub(crate) at: Option<At>,
    /// What happens from outside until then: a stimulus, a trace that `run` wrote, a wave, a scenario or a sequence table.
    #[arg(long, requires = "at", visible_alias = "scenario")]
    pub(crate) stimulus: Option<PathBuf>,
    /// Hold a variable at a value until then, whatever writes it: NAME=VALUE
    #[arg(long, requires = "at")]
    pub(crate) force: Vec<String>,
    /// Time of a scan until then: 10ms, or a range 8ms..12ms to draw from.
    #[arg(long, default_value = "10ms", value_parser = scan_time)]
    pub(crate) scan: ScanTime,
    /// Width of the drawing in pixels.
    #[arg(long, default_value_t = 1280)]
    pub(crate) width: u32,
    /// How tall a picture of one version may be, in pixels; what does not fit goes on in NAME-2.svg and so on
    #[arg(long, default_value_t = 20_000, value_parser = clap::value_parser!(u32).range(400..))]
    pub(crate) height: u32,
    #[command(flatten)]
    pub(crate) written: Written,
    #[command(flatten)]
    pub(crate) other: RightWritten,
}

/// A scan, by its number or by the time at which it runs.
#[derive(Clone, Copy, Debug)]
pub(crate) enum At {
    /// Its number, from 0.
    Scan(u64),
    /// The last one that begins then or earlier.
    Time(Duration),
}

fn moment(text: &str) -> Result<At, String> {
    if let Ok(scan) = text.parse() {
        return Ok(At::Scan(scan));
    }
    let time = duration(text).map_err(|e| format!("a moment is the number of a scan or a time, as 4.3s: {e}"))?;
    if time < Duration::ZERO { Err("a moment is not before power-up".to_string()) } else { Ok(At::Time(time)) }
}

/// `try`
#[derive(Args, Debug)]
pub(crate) struct Try {
    /// Files of one project, or a twin file (.toml). A folder stands for its files.
    #[arg(required = true)]
    pub(crate) files: Vec<PathBuf>,
    /// Another version, which is given the same: a file, or a folder with the files of a project.
    #[arg(long)]
    pub(crate) beside: Option<PathBuf>,
    /// Time of a scan: 10ms, or a range 8ms..12ms to draw from.
    #[arg(long, default_value = "10ms", value_parser = scan_time)]
    pub(crate) scan: ScanTime,
    /// Take an act a line, in a terminal too.
    #[arg(long)]
    pub(crate) lines: bool,
    #[command(flatten)]
    pub(crate) plants: Plants,
    #[command(flatten)]
    pub(crate) written: Written,
    #[command(flatten)]
    pub(crate) other: RightWritten,
}

impl Try {
    /// What is not asked for is as it is anyway.
    pub(crate) fn held(&self) -> Held {
        Held {
            scan: self.scan.clone(),
            within: None,
            map: None,
            agree: Vec::new(),
            asked: Asked::default(),
            seed: 1,
            stimulus: None,
            report: None,
            plants: self.plants.clone(),
            written: self.written.clone(),
            other: self.other.clone(),
        }
    }
}

/// `serve`
#[derive(Args, Debug)]
pub(crate) struct Serve {
    /// Files of one project. A folder stands for its files.
    #[arg(required = true)]
    pub(crate) files: Vec<PathBuf>,
    /// Where to listen. Only this machine reaches 127.0.0.1.
    #[arg(long, default_value = "127.0.0.1:1502", value_name = "ADDRESS:PORT")]
    pub(crate) listen: String,
    /// What clients may write, with commas: coils, registers (holding registers), inputs (in their mirrors, 57344 and up).
    /// Without it they only read.
    #[arg(long, value_delimiter = ',', value_name = "WHAT")]
    pub(crate) writable: Vec<Area>,
    /// More variables to serve, with commas; inputs, outputs, and what has an address that the sheet gives a number are
    /// served anyway.
    #[arg(long, value_delimiter = ',', value_name = "NAMES")]
    pub(crate) also: Vec<String>,
    /// Time of a scan.
    #[arg(long, default_value = "10ms", value_parser = scan_time)]
    pub(crate) scan: ScanTime,
    /// Do not run against the clock: a client that writes a number to holding register 65535 has so many scans run.
    #[arg(long)]
    pub(crate) stepped: bool,
    /// For how long; until Ctrl-C if absent.
    #[arg(long = "for", value_parser = duration)]
    pub(crate) span: Option<Duration>,
    /// Where to write what clients have written, as a scenario that `run` replays.
    #[arg(long)]
    pub(crate) record: Option<PathBuf>,
    /// Where to write the trace of all scans (CSV).
    #[arg(long)]
    pub(crate) trace: Option<PathBuf>,
    /// How many clients at once.
    #[arg(long, default_value_t = 64)]
    pub(crate) clients: usize,
    /// After how long without a request a connection is closed.
    #[arg(long, default_value = "60s", value_parser = duration)]
    pub(crate) idle: Duration,
    #[command(flatten)]
    pub(crate) plants: Plants,
    #[command(flatten)]
    pub(crate) written: Written,
}

/// What clients may write.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub(crate) enum Area {
    /// Coils.
    Coils,
    /// Holding registers.
    Registers,
    /// Discrete inputs and input registers, in their mirrors.
    Inputs,
}

/// `shadow`
#[derive(Args, Debug)]
pub(crate) struct Shadow {
    /// Files of one project: what should run in the device. A folder stands for its files.
    #[arg(required = true)]
    pub(crate) files: Vec<PathBuf>,
    /// The device.
    #[arg(long, value_name = "HOST:PORT")]
    pub(crate) device: String,
    /// Its unit number.
    #[arg(long, default_value_t = 1)]
    pub(crate) unit: u8,
    /// Time between two polls.
    #[arg(long, default_value = "100ms", value_parser = duration)]
    pub(crate) period: Duration,
    /// For how long; until Ctrl-C, or until something differs, if absent.
    #[arg(long = "for", value_parser = duration)]
    pub(crate) span: Option<Duration>,
    /// Time of a scan of the device.
    #[arg(long, default_value = "10ms", value_parser = scan_time)]
    pub(crate) scan: ScanTime,
    /// How far apart changes may be, beside two scans, the time of a poll and the time between two polls.
    #[arg(long, default_value = "0ms", value_parser = duration)]
    pub(crate) within: Duration,
    /// The device has just been switched on: what it remembers is known, so that what differs is said to differ. Without it an
    /// output is judged from when it first agreed, and one that differs then is undecided.
    #[arg(long)]
    pub(crate) from_power_up: bool,
    /// Where to write what was read: a trace (.csv) that `compare --scenario` takes, or what inputs did as a scenario
    /// (.scenario).
    #[arg(long)]
    pub(crate) record: Option<PathBuf>,
    /// Only record; hold nothing against the twin.
    #[arg(long, requires = "record")]
    pub(crate) only_record: bool,
    #[command(flatten)]
    pub(crate) written: Written,
}

/// A span of the call as the clock has it.
pub(crate) fn lasting(time: honest_twin::model::Duration) -> std::time::Duration {
    std::time::Duration::from_nanos(u64::try_from(time.nanos()).unwrap_or_default())
}
