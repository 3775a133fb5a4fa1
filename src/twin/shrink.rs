//! From a long scenario that shows a difference to the shortest one that still does.

use super::compare::Rig;
use super::scenario::{Change, Scenario, Step};
use crate::scan::Power;

/// Replays that shrinking may take, so that it ends on the slowest of programs too.
const REPLAYS: usize = 1_500;

/// Scans that the replays may take together: a scenario of minutes is not worth minutes of shrinking.
const SCANS: u64 = 3_000_000;

/// One thing that happens.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Atom {
    Change(u64, Change),
    Power(u64, Power),
}

impl Atom {
    fn scan(self) -> u64 {
        match self {
            Atom::Change(scan, _) | Atom::Power(scan, _) => scan,
        }
    }

    fn earlier(self, from: u64, by: u64) -> Atom {
        let moved = |scan: u64| if scan >= from { scan - by } else { scan };
        match self {
            Atom::Change(scan, change) => Atom::Change(moved(scan), change),
            Atom::Power(scan, power) => Atom::Power(moved(scan), power),
        }
    }
}

struct Shrinker<'r, 'v> {
    rig: &'r Rig<'v>,
    replays: usize,
    /// Scans of all replays so far.
    replayed: u64,
    /// The best so far.
    atoms: Vec<Atom>,
    scans: u64,
}

/// Shrinks to the fewest happenings and scans that still show a difference.
pub(super) fn shrink(rig: &Rig<'_>, scenario: Scenario) -> Scenario {
    let mut atoms = Vec::new();
    for step in &scenario.steps {
        atoms.extend(step.power.map(|p| Atom::Power(step.scan, p)));
        atoms.extend(step.changes.iter().map(|c| Atom::Change(step.scan, *c)));
    }
    let mut shrinker = Shrinker { rig, replays: 0, replayed: 0, atoms: Vec::new(), scans: scenario.scans };
    if !shrinker.accept(atoms.clone(), scenario.scans) {
        return scenario;
    }
    loop {
        let before = (shrinker.atoms.len(), shrinker.scans, shrinker.atoms.clone());
        shrinker.fewer();
        shrinker.sooner();
        shrinker.simpler();
        let after = (shrinker.atoms.len(), shrinker.scans, shrinker.atoms.clone());
        if before == after || shrinker.is_spent() {
            return assembled(&shrinker.atoms, shrinker.scans);
        }
    }
}

fn assembled(atoms: &[Atom], scans: u64) -> Scenario {
    let mut steps: Vec<Step> = Vec::new();
    let mut sorted = atoms.to_vec();
    sorted.sort_by_key(|a| a.scan());
    for atom in sorted {
        if steps.last().is_none_or(|s| s.scan != atom.scan()) {
            steps.push(Step { scan: atom.scan(), changes: Vec::new(), power: None });
        }
        if let Some(step) = steps.last_mut() {
            match atom {
                Atom::Change(_, change) => {
                    step.changes.retain(|c| c.input != change.input);
                    step.changes.push(change);
                }
                Atom::Power(_, power) => step.power = Some(power),
            }
        }
    }
    Scenario { scans, steps }
}

impl Shrinker<'_, '_> {
    fn is_spent(&self) -> bool {
        self.replays >= REPLAYS || self.replayed >= SCANS
    }

    /// Takes a candidate if it still shows a difference; cuts it off behind the first differing scan.
    fn accept(&mut self, atoms: Vec<Atom>, scans: u64) -> bool {
        if self.is_spent() {
            return false;
        }
        self.replays += 1;
        self.replayed += scans;
        let scenario = assembled(&atoms, scans);
        let Some(finding) = self.rig.run(&mut self.rig.fresh(), &scenario, |_, _, _| {}) else { return false };
        self.scans = finding.scan + 1;
        self.atoms = atoms;
        self.atoms.retain(|a| a.scan() <= finding.scan);
        true
    }

    /// Drops happenings: halves first, then ever smaller runs, down to single ones.
    fn fewer(&mut self) {
        let mut size = self.atoms.len().div_ceil(2).max(1);
        loop {
            let mut at = 0;
            while at < self.atoms.len() {
                let mut candidate = self.atoms.clone();
                candidate.drain(at..(at + size).min(candidate.len()));
                if !self.accept(candidate, self.scans) {
                    at += size;
                }
            }
            if size == 1 {
                return;
            }
            size = size.div_ceil(2).min(self.atoms.len().max(1));
        }
    }

    /// Shortens the waits between happenings, and the one before the end.
    fn sooner(&mut self) {
        let mut gap = 0;
        while let Some((start, end)) = self.gap(gap) {
            let mut cut = end - start;
            let mut end = end;
            while cut > 0 && end > start {
                cut = cut.min(end - start);
                let candidate: Vec<Atom> = self.atoms.iter().map(|a| a.earlier(end, cut)).collect();
                // What is left may need a little longer to show.
                if self.accept(candidate, (self.scans - cut) + 2) {
                    end -= cut;
                } else {
                    cut /= 2;
                }
            }
            gap += 1;
        }
    }

    /// The wait number `index`: from one happening (or the beginning) to the next (or the end).
    fn gap(&self, index: usize) -> Option<(u64, u64)> {
        let mut scans: Vec<u64> = self.atoms.iter().map(|a| a.scan()).chain([0, self.scans - 1]).collect();
        scans.sort_unstable();
        scans.dedup();
        Some((*scans.get(index)?, *scans.get(index + 1)?))
    }

    /// Brings values to 0 or 1, or at least closer to 0; BOOL stays as it is.
    fn simpler(&mut self) {
        for index in 0..self.atoms.len() {
            for divisor in [0i64, 1, 2, 10, 1000] {
                let Some(Atom::Change(scan, change)) = self.atoms.get(index).copied() else { break };
                let value = match divisor {
                    0 => 0,
                    1 => 1,
                    by => change.value / by,
                };
                let smaller = value.unsigned_abs() < change.value.unsigned_abs();
                if !smaller || change.value == 1 || self.is_real(change.input) {
                    continue;
                }
                let mut candidate = self.atoms.clone();
                candidate[index] = Atom::Change(scan, Change { value, ..change });
                if self.valid(change.input, value) {
                    self.accept(candidate, self.scans);
                }
            }
        }
    }

    fn is_real(&self, input: usize) -> bool {
        use crate::scan::PointType;
        let pair = &self.rig.pairing.inputs[input];
        matches!(&self.rig.left.machine.point(pair.left).ty, PointType::Elem(e) if e.is_real())
    }

    fn valid(&self, input: usize, value: i64) -> bool {
        use crate::scan::PointType;
        let pair = &self.rig.pairing.inputs[input];
        match &self.rig.left.machine.point(pair.left).ty {
            PointType::Range(_, low, high) => (*low..=*high).contains(&value),
            PointType::Enum(values) => values.iter().any(|(_, v)| *v == value),
            _ => true,
        }
    }
}
