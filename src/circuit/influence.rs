//! Which outputs hang on a variable: by what is computed from what, over as many scans as it takes.

use super::build::{Unfit, Unread, add_version};
use super::net::{Gate, Net};
use crate::scan::{Direction, Machine, PointId};
use std::collections::HashSet;

/// The outputs that hang on some slots, be it many scans later. What is taken from a branch hangs on its condition.
///
/// # Errors
/// [`Unfit`], if there is no circuit: then nothing is known.
pub(crate) fn influenced(machine: &Machine, slots: &HashSet<u32>) -> Result<Vec<PointId>, Unfit> {
    let mut net = Net::default();
    let dt = net.input((0, i64::from(i32::MAX)), 1);
    let inputs: Vec<_> =
        machine.points_of(Direction::Input).map(|(_, point)| net.input(super::limits(&point.ty), 1)).collect();
    let scanned = add_version(&mut net, 0, machine, &inputs, dt, Unread::None)?;
    let mut registers: Vec<bool> =
        net.registers.iter().map(|register| register.slot.is_some_and(|(_, slot)| slots.contains(&slot))).collect();
    let mut nodes = vec![false; net.gates.len()];
    loop {
        for (number, gate) in net.gates.iter().enumerate() {
            nodes[number] |= match gate {
                Gate::Reg(id) => registers[id.0 as usize],
                gate => gate.operands().any(|node| nodes[node.0 as usize]),
            };
        }
        let mut grows = false;
        for (register, is) in net.registers.iter().zip(&mut registers) {
            grows |= !*is && nodes[register.next.0 as usize];
            *is |= nodes[register.next.0 as usize];
        }
        if !grows {
            break;
        }
    }
    let outputs = machine.points_of(Direction::Output).zip(&scanned.outputs);
    Ok(outputs.filter(|(_, node)| nodes[node.0 as usize]).map(|((id, _), _)| id).collect())
}
