//! Graphs as clauses before a solver.

use batsat::{BasicSolver, SolverInterface, lbool};
use super::read::Aig;

/// A literal of the solver.
#[derive(Clone, Copy, Debug)]
pub(super) struct Lit(batsat::Lit);

impl Lit {
    pub(super) fn not(self) -> Lit {
        Lit(!self.0)
    }
}

/// Clauses that hold, and the solver that knows them.
pub(super) struct Clauses {
    solver: BasicSolver,
    truth: Lit,
}

/// A graph among the clauses: of each of its variables the literal.
pub(super) struct Copy(Vec<Lit>);

impl Copy {
    pub(super) fn literal(&self, literal: u32) -> Lit {
        let lit = self.0[(literal >> 1) as usize];
        if literal & 1 == 1 { lit.not() } else { lit }
    }
}

impl Clauses {
    pub(super) fn new() -> Clauses {
        let mut solver = BasicSolver::default();
        let truth = Lit(batsat::Lit::new(solver.new_var_default(), true));
        let mut out = Clauses { solver, truth };
        out.holds(&[truth]);
        out
    }

    fn fresh(&mut self) -> Lit {
        Lit(batsat::Lit::new(self.solver.new_var_default(), true))
    }

    /// One of them is TRUE.
    pub(super) fn holds(&mut self, one_of: &[Lit]) {
        let mut clause: Vec<batsat::Lit> = one_of.iter().map(|l| l.0).collect();
        self.solver.add_clause_reuse(&mut clause);
    }

    /// Adds a graph with inputs and latches of its own; or with the latches given, and then only what the outputs read.
    pub(super) fn copy(&mut self, aig: &Aig, latches: Option<&[Lit]>) -> Copy {
        let first_gate = aig.first_gate();
        let mut wanted = vec![latches.is_none(); first_gate + aig.gates.len()];
        if latches.is_some() {
            aig.outputs.iter().for_each(|output| wanted[(output >> 1) as usize] = true);
            for (number, gate) in aig.gates.iter().enumerate().rev() {
                if wanted[first_gate + number] {
                    gate.iter().for_each(|read| wanted[(read >> 1) as usize] = true);
                }
            }
        }
        let mut out = Copy(vec![self.truth.not()]);
        for _ in 0..aig.inputs {
            out.0.push(self.fresh());
        }
        match latches {
            Some(latches) => out.0.extend(latches),
            None => (0..aig.latches.len()).for_each(|_| out.0.push(self.fresh())),
        }
        for (number, gate) in aig.gates.iter().enumerate() {
            if !wanted[first_gate + number] {
                out.0.push(self.truth);
                continue;
            }
            let [a, b] = gate.map(|read| out.literal(read));
            let both = self.fresh();
            self.holds(&[both.not(), a]);
            self.holds(&[both.not(), b]);
            self.holds(&[both, a.not(), b.not()]);
            out.0.push(both);
        }
        out
    }

    /// Whether all of them can be TRUE at once.
    pub(super) fn can_be(&mut self, all: &[Lit]) -> bool {
        let all: Vec<batsat::Lit> = all.iter().map(|l| l.0).collect();
        self.solver.solve_limited(&all) != lbool::FALSE
    }
}
