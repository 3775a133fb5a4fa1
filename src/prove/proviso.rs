//! Under which conditions two versions agree that do not agree under all.

use super::system::System;
use super::{Found, Means, Stage, attempt};
use crate::circuit::{self, Algebra, Bit, Gate, Net, Word};
use crate::model::{Duration, format_duration};
use crate::twin::Twin;

/// What may be assumed on top of what a twin says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Proviso {
    /// Every scan takes a multiple of so many nanoseconds.
    Multiple(i64),
    /// Power stays on.
    Power,
    /// Inputs are at rest, as at the first power-up, in the scan after each power-up.
    Rest,
    /// Whole numbers that have a name are 0 to so much.
    Numbers(i64),
}

impl Proviso {
    pub(super) fn words(self) -> String {
        match self {
            Proviso::Multiple(of) => {
                format!("every scan takes a multiple of {}", format_duration(Duration::from_nanos(of)))
            }
            Proviso::Power => "power stays on".to_string(),
            Proviso::Rest => "inputs are at rest in the scan after power-up".to_string(),
            Proviso::Numbers(most) => {
                format!("whole numbers that the versions remember are 0 to {most}, as long as that is so")
            }
        }
    }
}

/// The most that numbers may be, if that is assumed.
pub(super) fn most(provisos: &[Proviso]) -> Option<i64> {
    provisos.iter().find_map(|p| if let Proviso::Numbers(most) = p { Some(*most) } else { None })
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
        .filter_map(|gate| match gate {
            Gate::Div(_, _, by) | Gate::Mod(_, _, by) => net.as_constant(*by).filter(|by| *by >= 1_000_000),
            _ => None,
        })
        .collect();
    out.sort_unstable();
    out.dedup();
    out
}

impl System {
    /// Whether numbers are as far as is assumed of them, over the bits of each register.
    pub(super) fn numbers_within(&self, g: &mut impl Algebra<Bit = Bit>, bits: &[Vec<Bit>]) -> Bit {
        let mut all = Bit::TRUE;
        let Some(most) = self.most else { return all };
        let most: Vec<Bit> = (0..64).map(|at| Bit::FALSE.flip(most >> at & 1 == 1)).collect();
        for register in self.numbers() {
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

    /// Registers of whole numbers that have a name.
    pub(super) fn numbers(&self) -> impl Iterator<Item = usize> {
        self.names.iter().enumerate().filter(|(_, name)| name.as_ref().is_some_and(|n| n.is_whole)).map(|(n, _)| n)
    }
}

/// A proof under as few conditions as are found, and the conditions.
pub(super) fn conditional(
    twin: &Twin<'_>,
    means: &Means,
    go_on: &mut (impl FnMut(Stage) -> bool + Send),
) -> Option<(Vec<Proviso>, Found)> {
    let plain = System::new(twin, &[]).ok()?;
    let (low, high, _) = plain.times;
    let ticks: Vec<i64> = plain.ticks.iter().copied().filter(|t| multiples((low, high), *t).is_some()).collect();
    let limits: Vec<i64> = plain.marks.iter().copied().filter(|m| (100..=40_000).contains(m)).collect();
    let mut provisos = vec![Proviso::Power, Proviso::Rest];
    provisos.extend(ticks.last().filter(|_| low < high).map(|tick| Proviso::Multiple(*tick)));
    provisos.extend(limits.first().map(|limit| Proviso::Numbers(limit - 1)));
    let mut attempt =
        |provisos: &[Proviso]| go_on(Stage::Conditions).then(|| attempt(twin, means, provisos, go_on).ok()).flatten();
    let mut found = attempt(&provisos)?;
    let mut at = 0;
    while at < provisos.len() {
        let mut fewer = provisos.clone();
        fewer.remove(at);
        match attempt(&fewer).filter(|_| !fewer.is_empty()) {
            Some(less) => (provisos, found) = (fewer, less),
            None => at += 1,
        }
    }
    // What is left is made as weak as it can be: the finest tick, the highest limit.
    for at in 0..provisos.len() {
        let weaker: Vec<Proviso> = match provisos[at] {
            Proviso::Multiple(of) => ticks.iter().filter(|t| **t < of).map(|t| Proviso::Multiple(*t)).collect(),
            Proviso::Numbers(most) => {
                limits.iter().rev().map(|l| l - 1).filter(|l| *l > most).map(Proviso::Numbers).collect()
            }
            _ => Vec::new(),
        };
        for proviso in weaker {
            let mut other = provisos.clone();
            other[at] = proviso;
            if let Some(less) = attempt(&other) {
                (provisos, found) = (other, less);
                break;
            }
        }
    }
    Some((provisos, found))
}
