//! The times and numbers that matter to two programs: their own constants, and one to each side of them.

use crate::check::Checked;
use crate::check::typed::{Code, TExpr, TInit, TKind, TStmt, TStmtKind, Ty, UnitId};
use crate::check::walk::{each_statement, walk_block, walk_list};
use crate::model::{Elem, Family};
use crate::twin::{Law, Twin, Version};
use std::collections::BTreeSet;

/// Constants found in both versions.
#[derive(Clone, Debug, Default)]
pub(in crate::twin) struct Vocabulary {
    /// Durations in nanoseconds, rising.
    pub(in crate::twin) times: Vec<i64>,
    /// Integers, rising.
    pub(in crate::twin) numbers: Vec<i64>,
    /// Real numbers.
    pub(in crate::twin) reals: Vec<f64>,
    /// Numbers that stand in the blocks that are used, not in the programs: where a counter stops or turns over.
    pub(in crate::twin) limits: Vec<u64>,
}

/// Numbers of a block that may be a limit; smaller ones are soon passed by chance, larger ones never.
const LIMITS: std::ops::RangeInclusive<u64> = 61..=40_000;

impl Vocabulary {
    pub(in crate::twin) fn of(versions: [&Version; 2]) -> Vocabulary {
        let mut found = Vocabulary::default();
        for version in versions {
            let before = found.numbers.len();
            for unit in version.checked.units.iter().filter(|u| !u.built_in) {
                for var in &unit.vars {
                    found.init(&var.init, &var.ty);
                }
                let mut constant = |expr: &TExpr| {
                    if let TKind::Const(slot) = expr.kind {
                        found.constant(&expr.ty, slot);
                    }
                };
                match &unit.code {
                    Code::Block(list) => {
                        walk_block(list, &mut constant);
                        found.labels(list);
                    }
                    Code::List(list) => walk_list(list, &mut constant),
                }
            }
            for var in &version.checked.globals {
                found.init(&var.init, &var.ty);
            }
            found.presets_in_ticks(&version.checked, before);
            found.limits_of_blocks(&version.checked);
        }
        found.sorted()
    }

    /// Of both versions of a twin, and of what their rules speak of.
    pub(in crate::twin) fn of_twin(twin: &Twin<'_>) -> Vocabulary {
        let mut found = Vocabulary::of(twin.versions());
        for version in twin.versions() {
            for probe in &version.probes {
                probe.walk(&mut |expr: &TExpr| {
                    if let TKind::Const(slot) = expr.kind {
                        found.constant(&expr.ty, slot);
                    }
                });
            }
        }
        found.times.extend(twin.rules.iter().filter_map(|rule| match &rule.law {
            Law::After(_, _, time) | Law::Lasts(_, time) => Some(time.nanos()),
            Law::Always(_) | Law::Never(_) => None,
        }));
        found.sorted()
    }

    fn sorted(mut self) -> Vocabulary {
        self.times.sort_unstable();
        self.times.dedup();
        self.numbers.sort_unstable();
        self.numbers.dedup();
        self.limits.sort_unstable();
        self.limits.dedup();
        self
    }

    /// Numbers that stand in the built-in blocks of which there are instances.
    fn limits_of_blocks(&mut self, checked: &Checked) {
        let own = checked.units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars);
        let blocks: BTreeSet<UnitId> = own.chain(&checked.globals).filter_map(|var| block_of(&var.ty)).collect();
        for unit in blocks.into_iter().map(|block| checked.unit(block)).filter(|u| u.built_in) {
            let Code::Block(list) = &unit.code else { continue };
            walk_block(list, &mut |expr: &TExpr| {
                let is_whole = expr.ty.elem().is_some_and(|e| e.is_integer());
                if let (TKind::Const(slot), true) = (&expr.kind, is_whole) {
                    self.limits.extend(Some(slot.unsigned_abs()).filter(|n| LIMITS.contains(n)));
                }
            });
        }
    }

    /// Where instances are given a tick, numbers of this version may be presets that count it.
    fn presets_in_ticks(&mut self, checked: &Checked, from: usize) {
        let own = checked.units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars);
        let mut ticks: Vec<i64> = Vec::new();
        for var in own.chain(&checked.globals) {
            let (TInit::Struct(fields), Ty::Block(unit)) = (&var.init, &var.ty) else { continue };
            for (field, value) in fields {
                let is_time = checked.unit(*unit).vars[*field as usize].ty.elem().is_some_and(Elem::is_time);
                if let (TInit::Slot(tick), true) = (value, is_time) {
                    ticks.push(*tick);
                }
            }
        }
        ticks.sort_unstable();
        ticks.dedup();
        let presets: Vec<i64> = self.numbers[from..].iter().copied().filter(|n| (1..=32_767).contains(n)).collect();
        for tick in ticks {
            self.times.extend(presets.iter().map(|n| n.saturating_mul(tick)));
        }
    }

    fn constant(&mut self, ty: &Ty, slot: i64) {
        match ty.elem().map(Elem::family) {
            Some(Family::Time) => self.times.push(slot),
            Some(Family::Real) => self.reals.push(f64::from_bits(slot as u64)),
            Some(Family::Bits | Family::Int) => self.numbers.push(slot),
            Some(Family::Bool | Family::Text) | None => {}
        }
    }

    fn init(&mut self, init: &TInit, ty: &Ty) {
        match (init, ty) {
            (TInit::Slot(slot), _) => self.constant(ty, *slot),
            (TInit::Array(values), Ty::Array(array)) => values.iter().for_each(|v| self.init(v, &array.of)),
            _ => {}
        }
    }

    /// Labels of CASE are no expressions any more.
    fn labels(&mut self, list: &[TStmt]) {
        each_statement(list, &mut |stmt| {
            if let TStmtKind::Case(_, arms, _) = &stmt.kind {
                let labels = arms.iter().flat_map(|(labels, _)| labels);
                labels.for_each(|(low, high)| self.numbers.extend([*low, *high]));
            }
        });
    }
}

/// The block that a variable is an instance of, or its elements are.
fn block_of(ty: &Ty) -> Option<UnitId> {
    match ty {
        Ty::Block(unit) => Some(*unit),
        Ty::Array(array) => block_of(&array.of),
        Ty::Elem(_)
        | Ty::Text(_)
        | Ty::Range(..)
        | Ty::Enum(_)
        | Ty::Struct(_)
        | Ty::Watch
        | Ty::LitInt
        | Ty::LitReal
        | Ty::Unknown(_) => None,
    }
}
