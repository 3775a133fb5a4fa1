//! One question to a solver: can this bit be TRUE?

use crate::circuit::{Bit, Graph};
use batsat::{Callbacks, Lit, Solver, SolverInterface, Var, lbool};
use std::collections::HashMap;

/// What a solver answers.
pub(super) enum Answer {
    /// Never.
    No,
    /// With these values of inputs; of other nodes that were cut off if the question was cut.
    Yes(HashMap<usize, bool>),
    /// It took too long.
    Unknown,
}

/// Stops after so many conflicts.
struct Limit {
    left: u64,
}

impl Callbacks for Limit {
    fn on_new_clause(&mut self, _: &[Lit], _: batsat::clause::Kind) {
        self.left = self.left.saturating_sub(1);
    }

    fn stop(&self) -> bool {
        self.left == 0
    }
}

/// Whether all of `wanted` can be TRUE at once while all of `given` are. Only `nodes` nodes nearest to the question are
/// looked at; what lies behind them is taken as free, so that a No holds and a Yes may not.
pub(super) fn ask(graph: &Graph, wanted: &[Bit], given: &[Bit], nodes: usize, conflicts: u64) -> Answer {
    let mut solver = Solver::new(batsat::SolverOpts::default(), Limit { left: conflicts });
    let mut vars: HashMap<usize, Var> = HashMap::new();
    // The nearest first: those of the highest numbers.
    let mut waiting: std::collections::BinaryHeap<usize> = std::collections::BinaryHeap::new();
    let mut lit = |solver: &mut Solver<Limit>, waiting: &mut std::collections::BinaryHeap<usize>, bit: Bit| {
        let var = *vars.entry(bit.node()).or_insert_with(|| {
            waiting.push(bit.node());
            solver.new_var_default()
        });
        Lit::new(var, !bit.is_inverted())
    };
    let mut clauses: Vec<Vec<Lit>> = Vec::new();
    for bit in wanted.iter().chain(given) {
        let l = lit(&mut solver, &mut waiting, *bit);
        clauses.push(vec![l]);
    }
    let mut looked = 0;
    while let Some(node) = waiting.pop() {
        if node == 0 {
            let l = lit(&mut solver, &mut waiting, Bit::TRUE);
            clauses.push(vec![l]);
            continue;
        }
        let Some((a, b)) = graph.reads(node) else { continue };
        if looked == nodes {
            continue;
        }
        looked += 1;
        let c = lit(&mut solver, &mut waiting, Bit((node as u32) << 1));
        let (a, b) = (lit(&mut solver, &mut waiting, a), lit(&mut solver, &mut waiting, b));
        clauses.extend([vec![!c, a], vec![!c, b], vec![c, !a, !b]]);
    }
    let consistent = clauses.into_iter().all(|mut clause| solver.add_clause_reuse(&mut clause));
    if !consistent {
        return Answer::No;
    }
    match solver.solve_limited(&[]) {
        answer if answer == lbool::TRUE => {
            Answer::Yes(vars.iter().map(|(node, var)| (*node, solver.value_var(*var) == lbool::TRUE)).collect())
        }
        answer if answer == lbool::FALSE => Answer::No,
        _ => Answer::Unknown,
    }
}
