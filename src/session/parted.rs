//! Where two versions begin to differ, and the statements that did it.

use crate::lang::statement_at;
use crate::model::{Instant, ScanNumber};
use crate::scan::{Controller, Moment};
use crate::twin::{Twin, pair_agrees};
use serde::Serialize;

/// How two versions differ after a scan.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Parted {
    /// The scan.
    pub scan: ScanNumber,
    /// When it began.
    pub at: Instant,
    /// The output, with what each version shows; of a fault the word `fault`.
    pub name: String,
    /// What it is on each version.
    pub values: [String; 2],
    /// The statements that wrote it last, with their places, as far as they are known.
    pub writers: [Option<[String; 2]>; 2],
}

/// How the versions differ now, if they do.
pub(super) fn parted(twin: &Twin<'_>, controllers: &mut [Controller], scan: u64, at: Instant) -> Option<Parted> {
    let both = <&mut [Controller; 2]>::try_from(controllers).ok()?;
    let (scan, writers) = (ScanNumber(scan), [None, None]);
    let faults = [both[0].fault(), both[1].fault()].map(|fault| fault.map(|fault| fault.kind));
    if faults[0] != faults[1] {
        let values = faults.map(|fault| fault.map_or("runs on".to_string(), |kind| kind.to_string()));
        return Some(Parted { scan, at, name: "fault".to_string(), values, writers });
    }
    let outputs = twin.pairing.outputs();
    let apart = (0..outputs.len()).find(|output| pair_agrees(twin, both, *output) == Some(false))?;
    let pair = &outputs[apart];
    let values = [both[0].get(pair.left()), both[1].get(pair.right())].map(|value| value.readable());
    Some(Parted { scan, at, name: pair.name.clone(), values, writers })
}

/// The statement that wrote a point, of a scan that was looked at: its place and its text.
pub(super) fn writer(
    twin: &Twin<'_>,
    side: usize,
    controller: &Controller,
    output: &str,
    moment: &Moment,
) -> Option<[String; 2]> {
    let pair = twin.pairing.outputs().iter().find(|pair| pair.name == output)?;
    let point = if side == 0 { pair.left() } else { pair.right() };
    let span = controller.wrote_at(moment, point)?;
    let project = twin.versions()[side].checked().project();
    Some([project.place(span), statement_at(project, span)])
}
