//! What may be assumed on top of what a twin says.

use super::system::System;
use crate::circuit::{self, Algebra, Bit, Gate, Net, Word};
use crate::model::{Duration, Elem, format_duration};
use crate::scan::PointType;
use crate::twin::{Assumption, Begin, Outset, Pair, Stops, Tolerance, Twin};

/// What may be assumed on top of what a twin says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Proviso {
    /// Every scan takes a multiple of so many nanoseconds.
    Multiple(i64),
    /// Power stays on.
    Power,
    /// Inputs are at rest until the first scan after each power-up has run.
    Rest,
    /// BOOL inputs are the opposite of what they are at rest, until the first scan after each power-up has run.
    Opposite,
    /// Whole numbers that have a name, and those that are compared, are 0 to so much.
    Numbers(i64),
    /// Two inputs, by the numbers of their pairs, are never on together.
    Apart(usize, usize),
    /// An input is always on, or always off.
    Always(usize, bool),
    /// No assumption but one less: STOP and RUN may be given, both versions standing still for up to [`LONGEST_STOP`] from one
    /// scan to the next, power lost in that time or not, and before the first scan.
    Stops,
    /// As that, but they never stand still between power-up and the first scan: a stopwatch that runs from power-up is then ahead
    /// of one that begins in that scan.
    StopsLater,
}

/// How long both versions stand still between two scans, at most, in nanoseconds: 30 days.
pub(super) const LONGEST_STOP: i64 = 30 * 24 * 3_600 * 1_000_000_000;

impl Proviso {
    pub(super) fn words(self, twin: &Twin<'_>) -> String {
        let name = |input: usize| twin.pairing.inputs[input].name.as_str();
        let longest = format_duration(Duration::from_nanos(LONGEST_STOP));
        match self {
            Proviso::Multiple(of) => {
                format!("every scan takes a multiple of {}", format_duration(Duration::from_nanos(of)))
            }
            Proviso::Power => "power stays on".to_string(),
            Proviso::Rest => Begin::Rest.words().to_string(),
            Proviso::Opposite => Begin::Opposite.words().to_string(),
            Proviso::Numbers(most) => {
                format!("whole numbers that the versions remember or show are 0 to {most}, as long as that is so")
            }
            Proviso::Apart(a, b) => format!("{} and {} are never on together", name(a), name(b)),
            Proviso::Always(input, on) => format!("{} is {} in every scan", name(input), if on { "on" } else { "off" }),
            Proviso::Stops => {
                format!(
                    "STOP and RUN at any moment, standing still for up to {longest} between two scans and before the first"
                )
            }
            Proviso::StopsLater => format!(
                "STOP and RUN at any moment after the first scan since power-up, standing still for up to {longest} between two scans"
            ),
        }
    }
}

/// The most that numbers may be, if that is assumed.
pub(super) fn most(provisos: &[Proviso]) -> Option<i64> {
    provisos.iter().find_map(|p| if let Proviso::Numbers(most) = p { Some(*most) } else { None })
}

/// How far a proof goes that is laid out with these.
pub(super) fn reach(provisos: &[Proviso]) -> Stops {
    match provisos {
        all if all.contains(&Proviso::Stops) => Stops::Included,
        all if all.contains(&Proviso::StopsLater) => Stops::AfterFirstScan,
        _ => Stops::Excluded,
    }
}

/// What is taken for granted of the inputs and of power.
pub(super) fn outset(twin: &Twin<'_>, provisos: &[Proviso]) -> Outset {
    let said = Outset::of(twin);
    let apart = provisos.iter().filter_map(|p| if let Proviso::Apart(a, b) = p { Some((*a, *b)) } else { None });
    let mut apart: Vec<(usize, usize)> = apart.chain(said.apart).collect();
    apart.sort_unstable();
    apart.dedup();
    Outset {
        begin: match provisos {
            all if all.contains(&Proviso::Rest) => Begin::Rest,
            all if all.contains(&Proviso::Opposite) => Begin::Opposite,
            _ => said.begin,
        },
        lasting: said.lasting || provisos.contains(&Proviso::Power),
        apart,
        most: most(provisos),
        one_change: said.one_change,
        selectors: Vec::new(),
        strings_unknown: true,
    }
}

/// The twin in which inputs that are always on or off are that.
pub(super) fn pinned<'v>(twin: &Twin<'v>, provisos: &[Proviso]) -> Twin<'v> {
    let mut twin = twin.clone();
    for proviso in provisos {
        if let Proviso::Always(input, on) = proviso {
            let pair = &mut twin.pairing.inputs[*input];
            let value = i64::from(*on);
            (pair.rest, pair.range) = (Some(value), Some((value, value)));
        }
    }
    twin
}

/// Scan times that are a multiple of a tick: shortest, longest; `None` if there is none.
pub(super) fn multiples((low, high): (i64, i64), of: i64) -> Option<(i64, i64)> {
    let low = (low.max(1) + of - 1) / of * of;
    let high = high / of * of;
    (low <= high).then_some((low, high))
}

/// Ticks that times are divided by.
pub(super) fn ticks(net: &Net) -> Vec<i64> {
    let mut out: Vec<i64> = net
        .gates
        .iter()
        .filter_map(|gate| {
            if let Gate::Div(_, _, by) | Gate::Mod(_, _, by) = gate {
                net.as_constant(*by).filter(|by| *by >= 1_000_000)
            } else {
                None
            }
        })
        .collect();
    out.sort_unstable();
    out.dedup();
    out
}

/// The inputs that are on or off, by the numbers of their pairs, of those that have to do with the goals.
pub(super) fn switches(twin: &Twin<'_>, system: &System) -> Vec<usize> {
    let is_switch = |pair: &Pair| {
        let free = pair.range.is_none_or(|(low, high)| low < high);
        matches!(twin.left.machine.point(pair.left).ty, PointType::Elem(Elem::Bool)) && free
    };
    let pairs = twin.pairing.inputs.iter().enumerate();
    pairs.filter(|(_, pair)| is_switch(pair) && system.inputs.contains(&pair.name)).map(|(n, _)| n).collect()
}

/// Whether it can be asked what STOP and RUN do: then time goes on and nothing is done, so the next scan comes late. What is told
/// moment by moment, or due at moments, is no matter of scans alone.
pub(super) fn may_stop(twin: &Twin<'_>) -> bool {
    let is_about_scans = |assumed: &Assumption| match assumed {
        Assumption::NeverBoth(..) | Assumption::PowerStays | Assumption::RestFirst => true,
        Assumption::OneChange | Assumption::NeverStopped | Assumption::ScanMultiple(_) => false,
    };
    let has_tasks = twin.machines().iter().any(|m| m.tape().entries.iter().any(|entry| entry.interval > 0));
    !has_tasks
        && twin.assumed().iter().all(is_about_scans)
        && !twin.rules.iter().any(|rule| rule.law.is_timed())
        && twin.pairing.outputs.iter().all(|pair| pair.tolerance == Tolerance::Exact)
}

impl System {
    /// Whether numbers are as far as is assumed of them, over the bits of each register.
    pub(super) fn numbers_within(&self, g: &mut impl Algebra<Bit = Bit>, bits: &[Vec<Bit>]) -> Bit {
        let mut all = Bit::TRUE;
        for (register, most) in self.numbers() {
            let most: Vec<Bit> = (0..64).map(|at| Bit::FALSE.flip(most >> at & 1 == 1)).collect();
            let signed = self.plan.registers[register].place.signed;
            let word = Word { bits: &bits[register], signed, zero: Bit::FALSE };
            let above = circuit::less(g, Word { bits: &most, signed: false, zero: Bit::FALSE }, word);
            let below = if signed { word.last() } else { Bit::FALSE };
            for wrong in [above, below] {
                all = g.and(all, wrong.not());
            }
        }
        all
    }

    /// Registers of whole numbers that have a name, each with what it holds at most if that is assumed; else none.
    pub(super) fn numbers(&self) -> impl Iterator<Item = (usize, i64)> {
        let names = self.names.iter().enumerate().filter(|_| self.most.is_some());
        names.filter_map(|(register, name)| {
            let name = name.as_ref().filter(|n| n.is_whole)?;
            // All dividends of the greatest quotient.
            let most = self.most?.saturating_add(1).saturating_mul(name.per) - 1;
            Some((register, most / self.plan.registers[register].unit))
        })
    }

    /// Whether whole numbers that have a name are remembered.
    pub(super) fn remembers_numbers(&self) -> bool {
        self.names.iter().flatten().any(|name| name.is_whole)
    }
}
