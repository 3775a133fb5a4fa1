//! Paths that divide at random and come together again, in any order.
#![allow(clippy::unwrap_used, reason = "a test may fail loudly")]

use super::branch::{Branches, Way};
use super::net::{Gate, InputId, Net, Node};
use super::plan::plan;
use super::planes::{Simulator, set_bit};
use fastrand::Rng;
use std::sync::Arc;

const INPUTS: usize = 6;

/// What is asked at a branch: an input, or two of them.
fn asked(net: &mut Net, inputs: &[Node], rng: &mut Rng) -> Node {
    let [a, b] = [0, 1].map(|_| inputs[rng.usize(..INPUTS)]);
    match rng.u8(..4) {
        0 => net.and(a, b),
        1 => net.or(a, b),
        2 => net.not(a),
        _ => net.add(Gate::Xor(a, b)),
    }
}

/// Of each value of all inputs whether a node is 1.
fn table(net: &mut Net, node: Node) -> Vec<bool> {
    let plan = Arc::new(plan(net, &[node]));
    let place = plan.place(node).unwrap();
    let mut simulator = Simulator::new(plan);
    for input in 0..INPUTS {
        if let Some((bits, _)) = simulator.input(InputId(input as u32)) {
            (0..1 << INPUTS).for_each(|lane| set_bit(&mut bits[0], lane, lane >> input & 1 == 1));
        }
    }
    simulator.compute();
    (0..1 << INPUTS).map(|lane| simulator.number(place, lane) == 1).collect()
}

#[test]
fn what_has_come_together_is_what_came_to_the_branch() {
    let (mut whole, mut lacking) = (0, 0);
    for seed in 0..600 {
        let rng = &mut Rng::with_seed(seed);
        let mut net = Net::default();
        let inputs: Vec<Node> = (0..INPUTS).map(|_| net.input((0, 1), 1)).collect();
        let begin = if seed % 2 == 0 { net.bool(true) } else { inputs[0] };
        let mut branches = Branches::default();
        let mut paths = vec![Way::new(begin)];
        for _ in 0..rng.usize(1..14) {
            let path = paths.swap_remove(rng.usize(..paths.len()));
            let asked = asked(&mut net, &inputs, rng);
            let two = branches.split(&mut net, &path, asked);
            if let Some(holds) = branches.asked(&two[0], &two[1]) {
                assert_eq!(holds, asked);
                assert_eq!(branches.asked(&two[1], &two[0]), Some(net.not(asked)));
            }
            paths.extend(two.into_iter().filter(|way| !way.is_never(&net)));
            // Some paths come together on the way, and divide again.
            if paths.len() > 2 && rng.u8(..4) == 0 {
                let [a, b] = [0, 1].map(|_| paths.swap_remove(rng.usize(..paths.len())));
                paths.push(branches.join(&mut net, &a, &b));
            }
        }
        rng.shuffle(&mut paths);
        // As a path is lost that ends in a fault.
        let lost = if seed % 3 == 0 && paths.len() > 1 { paths.pop() } else { None };
        let each: Vec<Vec<bool>> = paths.iter().map(|path| table(&mut net, path.when)).collect();
        let joined = paths.iter().skip(1).fold(paths[0].clone(), |all, path| branches.join(&mut net, &all, path));
        let taken = table(&mut net, joined.when);
        for (value, taken) in taken.into_iter().enumerate() {
            let ways = each.iter().filter(|table| table[value]).count();
            assert_eq!((ways, ways > 0), (usize::from(taken), taken), "seed {seed}, inputs {value:b}");
        }
        match lost {
            None => {
                assert_eq!(joined.when, begin, "seed {seed}");
                whole += 1;
            }
            Some(_) => lacking += 1,
        }
    }
    assert!(whole > 300 && lacking > 100, "{whole} and {lacking}");
}
