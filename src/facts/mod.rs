//! What a sheet says of its devices, held against its blocks: each block is run on a bench and measured, so that nobody
//! translates by a sheet that is wrong about its own timers and counters.

mod bench;
mod counter;
mod timer;

use crate::model::sheet::{Device, DeviceKind, Library, ResetBy, Role};
use crate::source::{Diagnostic, codes};
use bench::Rig;
use serde::Serialize;
use std::sync::Arc;

/// A fact of a sheet that running the block does not bear out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[non_exhaustive]
pub struct Untrue {
    /// The device, by its name in the sheet.
    pub device: String,
    /// The key of the sheet: `timer.past`.
    pub fact: String,
    /// What the sheet says, in its own words.
    pub said: String,
    /// What was measured, in the same words where there is one.
    pub measured: String,
    /// What the bench did, an act a line, as scenarios write them.
    pub acts: Vec<String>,
    /// The program on which it was done, in the dialect; a scan takes `scan_nanos`.
    pub program: String,
    /// Time of a scan in nanoseconds.
    pub scan_nanos: i64,
    /// Where in the sheet it stands: keys and indices with `/` between.
    place: String,
}

impl Untrue {
    /// The problem at its place in the sheet, which is file 0 of it.
    #[must_use]
    pub fn diagnostic(&self, library: &Library) -> Diagnostic {
        let span = crate::dialect::place_in_sheet(library, &self.place);
        let message =
            format!("{}: the sheet says {} = {}; measured: {}", self.device, self.fact, self.said, self.measured);
        let problem = Diagnostic::error(codes::FACT, span, message);
        if self.acts.is_empty() {
            return problem;
        }
        let scan = crate::model::format_duration(crate::model::Duration::from_nanos(self.scan_nanos));
        problem.help(format!("seen by: {}; a scan takes {scan}", self.acts.join("; ")))
    }
}

/// Measures every device of a sheet: its kind, and each fact in `timer`, `counter`, `latch` and `edge`. What the sheet says
/// of the largest preset is only tried, not sought: a block may hold more.
#[must_use]
pub fn untrue(library: &Arc<Library>) -> Vec<Untrue> {
    let mut out = Vec::new();
    for (number, device) in library.sheet.devices.iter().enumerate() {
        let mut claims = Claims { device, number, out: &mut out };
        match Rig::new(library, device) {
            Ok(rig) => measured(&rig, &mut claims),
            Err(why) => claims.add("block", &device.block, format!("cannot be put on a bench: {why}"), None),
        }
    }
    out
}

fn measured(rig: &Rig<'_>, claims: &mut Claims<'_>) {
    let device = rig.device;
    if let Some(facts) = &device.timer {
        timer::measure(rig, facts, claims);
    }
    if let Some(facts) = &device.counter {
        counter::measure(rig, facts, claims);
    }
    if let Some(facts) = &device.latch {
        let mut bench = rig.bench(bench::TEN_MS);
        bench.set("Set", true);
        bench.set("Reset", true);
        bench.scans(1);
        let wins = if bench.done() { Role::Set } else { Role::Reset };
        claims.hold("latch.wins", &facts.wins, &wins, &bench);
    }
    if let Some(facts) = &device.edge {
        let mut bench = rig.bench(bench::TEN_MS);
        bench.set("Input", device.kind == DeviceKind::Rise);
        bench.scans(1);
        claims.hold("edge.first", &facts.first, &bench.done(), &bench);
        edge_kind(rig, claims);
    }
}

/// A rising edge answers when its input comes, a falling one when it goes.
fn edge_kind(rig: &Rig<'_>, claims: &mut Claims<'_>) {
    let mut bench = rig.bench(bench::TEN_MS);
    bench.scans(2);
    bench.set("Input", true);
    bench.scans(1);
    let rises = bench.done();
    bench.set("Input", false);
    bench.scans(1);
    let measured = match (rises, bench.done()) {
        (true, false) => DeviceKind::Rise,
        (false, true) => DeviceKind::Fall,
        (rises, _) => {
            let what = if rises { "answers both ways" } else { "answers neither way" };
            claims.add("kind", &claims.device.kind, what.to_string(), Some(&bench));
            return;
        }
    };
    claims.hold("kind", &rig.device.kind, &measured, &bench);
}

/// How a device is reset, as far as its pins and words tell.
fn reset_by(device: &Device) -> ResetBy {
    match device.pins.get(&Role::Reset) {
        None => ResetBy::None,
        Some(pin) if device.ops.iter().any(|op| op.power == [pin.clone()] && op.operands.is_empty()) => {
            ResetBy::Instruction
        }
        Some(_) => ResetBy::Input,
    }
}

/// What a sheet claims of one device, and what turns out not to be so.
struct Claims<'c> {
    device: &'c Device,
    number: usize,
    out: &'c mut Vec<Untrue>,
}

impl Claims<'_> {
    /// Holds what is said against what was measured on a bench.
    fn hold<T: Serialize + PartialEq>(&mut self, fact: &str, said: &T, measured: &T, bench: &bench::Bench<'_>) {
        if said != measured {
            self.add(fact, said, word(measured), Some(bench));
        }
    }

    fn add<T: Serialize>(&mut self, fact: &str, said: &T, measured: String, bench: Option<&bench::Bench<'_>>) {
        self.out.push(Untrue {
            device: self.device.name.clone(),
            fact: fact.to_string(),
            said: word(said),
            measured,
            acts: bench.map_or_else(Vec::new, bench::Bench::acts),
            program: bench.map_or_else(String::new, |b| b.rig.text.clone()),
            scan_nanos: bench.map_or(0, |b| b.scan),
            place: format!("device/{}/{}", self.number, fact.replace('.', "/")),
        });
    }
}

/// A value as a sheet writes it.
fn word<T: Serialize>(value: &T) -> String {
    match serde_json::to_value(value) {
        Ok(serde_json::Value::String(text)) => text,
        Ok(other) => other.to_string(),
        Err(_) => String::new(),
    }
}
