//! Which outputs hang on which variables: by what is computed from what, over as many scans as it takes.

use super::build::{Unfit, Unread, add_version};
use super::net::{Gate, Net};
use crate::scan::{Direction, Machine, PointId};
use std::collections::HashMap;

/// Variables that are followed at a time: one in each bit.
const AT_A_TIME: usize = 64;

/// Of each set of slots the outputs that hang on it, be it many scans later. What is taken from a branch hangs on its
/// condition.
///
/// # Errors
/// [`Unfit`], if there is no circuit: then nothing is known.
pub(crate) fn influenced(machine: &Machine, sets: &[Vec<u32>]) -> Result<Vec<Vec<PointId>>, Unfit> {
    let mut net = Net::default();
    let dt = net.input((0, i64::from(i32::MAX)), 1);
    let inputs: Vec<_> =
        machine.points_of(Direction::Input).map(|(_, point)| net.input(super::limits(&point.ty), 1)).collect();
    let scanned = add_version(&mut net, 0, machine, &inputs, dt, Unread::None)?;
    let outputs: Vec<(PointId, usize)> = machine
        .points_of(Direction::Output)
        .zip(&scanned.outputs)
        .map(|((id, _), node)| (id, node.0 as usize))
        .collect();
    let each = sets.chunks(AT_A_TIME).flat_map(|some| {
        let nodes = followed(&net, some);
        let hangs = move |set: usize, node: usize| nodes[node] >> set & 1 == 1;
        let lists = (0..some.len())
            .map(|set| outputs.iter().filter(|(_, node)| hangs(set, *node)).map(|(id, _)| *id).collect::<Vec<_>>());
        lists.collect::<Vec<_>>()
    });
    Ok(each.collect())
}

/// Of each node the sets it hangs on, as bits.
fn followed(net: &Net, sets: &[Vec<u32>]) -> Vec<u64> {
    let mut of_slot: HashMap<u32, u64> = HashMap::new();
    for (number, set) in sets.iter().enumerate() {
        set.iter().for_each(|slot| *of_slot.entry(*slot).or_default() |= 1 << number);
    }
    let of = |slot: Option<(usize, u32)>| slot.and_then(|(_, slot)| of_slot.get(&slot)).copied().unwrap_or(0);
    net.hangs_on(|gate| if let Gate::Reg(id) = gate { of(net.registers[id.0 as usize].slot) } else { 0 })
}
