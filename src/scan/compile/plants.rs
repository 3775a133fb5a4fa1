//! The tape of plants: what they give goes to inputs before the programs run, and they run behind them.

use super::Compiler;
use crate::check::typed::UnitId;
use crate::model::IntShape;
use crate::scan::op::{One, Op, Slot};
use crate::scan::plants::{Lead, Wires};
use crate::scan::tape::Entry;
use std::collections::HashMap;

impl Compiler<'_> {
    /// Lays out the plants. The first entry, which gives inputs, belongs in front of the programs, the others behind them.
    pub(super) fn plants(&mut self, plants: &[Wires]) -> Vec<Entry> {
        if plants.is_empty() {
            return Vec::new();
        }
        let own = std::mem::replace(&mut self.own_code, false);
        let checked = self.checked;
        let runs: Vec<(UnitId, crate::model::Duration)> = checked
            .plants
            .iter()
            .zip(&checked.project().plants)
            .map(|(run, plant)| (run.unit, plant.settings.every))
            .collect();
        let mut entries = vec![Entry { start: self.here(), interval: 0 }];
        for (wires, (unit, _)) in plants.iter().zip(&runs) {
            self.span = checked.unit(*unit).span;
            wires.given.iter().for_each(|lead| self.give(lead, wires.delay));
        }
        self.emit(Op::End);
        for (wires, (unit, every)) in plants.iter().zip(&runs) {
            entries.push(Entry { start: self.here(), interval: every.nanos() });
            self.span = checked.unit(*unit).span;
            wires.given.iter().for_each(|lead| self.pass_on(lead));
            for lead in &wires.seen {
                let value = self.read_as(lead, lead.machine);
                self.emit(Op::Move { d: lead.plant, a: value });
                self.temps_used = 0;
            }
            self.unit_body(*unit, wires.base, HashMap::new());
            self.emit(Op::End);
        }
        self.own_code = own;
        entries
    }

    /// What a plant put out in earlier runs moves on by one.
    fn pass_on(&mut self, lead: &Lead) {
        for at in (0..lead.before.len()).rev() {
            let a = if at == 0 { lead.plant } else { lead.before[at - 1] };
            self.emit(Op::Move { d: lead.before[at], a });
        }
    }

    /// A value in the type of the wire's other end.
    fn read_as(&mut self, lead: &Lead, a: Slot) -> Slot {
        match [&lead.types[0], &lead.types[1]].map(|ty| ty.elem()) {
            [Some(from), Some(to)] if from != to => {
                let d = self.temp();
                self.emit(Op::One { f: One::Convert(from, to), d, a });
                d
            }
            _ => a,
        }
    }

    /// Shows an input what its sensor measures, with what may be wrong with it.
    fn give(&mut self, lead: &Lead, delay: u32) {
        let runs_before = |runs: usize| if runs == 0 { lead.plant } else { lead.before[runs - 1] };
        let mut value = runs_before(delay as usize);
        if let Some(late) = lead.faults.late {
            let d = self.temp();
            self.emit(Op::Move { d, a: value });
            self.emit(Op::MoveIf { d, c: late, a: runs_before(lead.before.len()) });
            value = d;
        }
        value = self.read_as(lead, value);
        if let (Some(noise), Some(elem)) = (lead.faults.noise, lead.types[1].elem()) {
            let d = self.temp();
            // The value is that of at most 63 bits and the noise is small, so that the sum does not wrap before it is held
            // within the type.
            let (low, high) = elem.shape().map_or((0, 0), IntShape::range);
            let [low, high] = [low, high].map(|end| end.clamp(i128::from(i64::MIN), i128::from(i64::MAX)) as i64);
            let (low, high) = (self.constant(low), self.constant(high));
            self.emit(Op::Add { s: IntShape::LONG, d, a: value, b: noise });
            self.emit(Op::Max { d, a: d, b: low });
            self.emit(Op::Min { d, a: d, b: high });
            value = d;
        }
        if let Some(bounce) = lead.faults.bounce {
            let d = self.temp();
            self.emit(Op::Xor { d, a: value, b: bounce });
            value = d;
        }
        match lead.faults.stuck {
            Some(stuck) => {
                let c = self.temp();
                self.emit(Op::NotBool { d: c, a: stuck });
                self.emit(Op::MoveIf { d: lead.machine, c, a: value });
            }
            None => {
                self.emit(Op::Move { d: lead.machine, a: value });
            }
        }
        self.temps_used = 0;
    }
}
