//! One question to a solver: can these bits be as it says, all at once?

use crate::circuit::{Bit, Graph};
use crate::twin::Halt;
use batsat::{Callbacks, Lit, Solver, SolverInterface, Var, lbool};
use std::collections::BinaryHeap;

/// What a solver answers.
pub(super) enum Answer {
    /// Never.
    No,
    /// With these values of nodes. If nodes were left out it may not be so.
    Yes(Vec<(usize, bool)>),
    /// It took too long.
    Unknown,
}

/// How long a question may take.
#[derive(Clone, Debug, Default)]
pub(super) struct Budget {
    /// Conflicts.
    pub(super) conflicts: u64,
    pub(super) halt: Halt,
}

/// Stops after so many conflicts, or when it is told to.
struct Limit {
    left: u64,
    halt: Halt,
}

impl Callbacks for Limit {
    fn on_new_clause(&mut self, _: &[Lit], _: batsat::clause::Kind) {
        self.left = self.left.saturating_sub(1);
    }

    fn stop(&self) -> bool {
        self.left == 0 || self.halt.has_rung()
    }
}

/// Of each node of a graph its variable in the question at hand; kept from question to question, as most are about few
/// nodes of many.
#[derive(Default)]
pub(super) struct Variables {
    of: Vec<Option<Var>>,
    nodes: Vec<usize>,
}

/// A question, and the nodes behind it that were looked at so far.
pub(super) struct Question<'g> {
    graph: &'g Graph,
    solver: Solver<Limit>,
    vars: &'g mut Variables,
    /// Nodes that are not looked at yet: the nearest, which are those of the highest numbers, first.
    waiting: BinaryHeap<usize>,
    looked: usize,
    /// False if it is clear already that it cannot be.
    is_open: bool,
}

impl<'g> Question<'g> {
    /// Whether each of these clauses can be TRUE at once.
    pub(super) fn new(graph: &'g Graph, vars: &'g mut Variables, clauses: &[&[Bit]]) -> Question<'g> {
        vars.nodes.drain(..).for_each(|node| vars.of[node] = None);
        vars.of.resize(graph.len(), None);
        let solver = Solver::new(batsat::SolverOpts::default(), Limit { left: 0, halt: Halt::default() });
        let mut question = Question { graph, solver, vars, waiting: BinaryHeap::new(), looked: 0, is_open: true };
        for clause in clauses {
            let mut lits: Vec<Lit> = clause.iter().map(|bit| question.lit(*bit)).collect();
            question.is_open &= question.solver.add_clause_reuse(&mut lits);
        }
        question
    }

    fn lit(&mut self, bit: Bit) -> Lit {
        let var = match self.vars.of[bit.node()] {
            Some(var) => var,
            None => {
                let var = self.solver.new_var_default();
                self.vars.of[bit.node()] = Some(var);
                self.vars.nodes.push(bit.node());
                self.waiting.push(bit.node());
                var
            }
        };
        Lit::new(var, !bit.is_inverted())
    }

    /// Looks at so many nodes, those that were looked at included. False if nodes were left out; they are taken as free.
    pub(super) fn look_at(&mut self, nodes: usize) -> bool {
        let mut clause = Vec::with_capacity(3);
        let mut add = |solver: &mut Solver<Limit>, lits: &[Lit]| {
            clause.clear();
            clause.extend_from_slice(lits);
            solver.add_clause_reuse(&mut clause)
        };
        while self.is_open {
            let Some(node) = self.waiting.peek().copied() else { return true };
            if node == 0 {
                self.waiting.pop();
                let lit = self.lit(Bit::TRUE);
                self.is_open &= add(&mut self.solver, &[lit]);
                continue;
            }
            let Some((a, b)) = self.graph.reads(node) else {
                self.waiting.pop();
                continue;
            };
            if self.looked == nodes {
                return false;
            }
            self.waiting.pop();
            self.looked += 1;
            let c = self.lit(Bit((node as u32) << 1));
            let (a, b) = (self.lit(a), self.lit(b));
            for lits in [&[!c, a] as &[Lit], &[!c, b], &[c, !a, !b]] {
                self.is_open &= add(&mut self.solver, lits);
            }
        }
        true
    }

    /// What the solver says of what was looked at, within a budget.
    pub(super) fn answer(&mut self, budget: &Budget) -> Answer {
        if !self.is_open {
            return Answer::No;
        }
        *self.solver.cb_mut() = Limit { left: budget.conflicts, halt: budget.halt.clone() };
        match self.solver.solve_limited(&[]) {
            answer if answer == lbool::TRUE => {
                let value =
                    |node: &usize| self.vars.of[*node].map(|var| (*node, self.solver.value_var(var) == lbool::TRUE));
                Answer::Yes(self.vars.nodes.iter().filter_map(value).collect())
            }
            answer if answer == lbool::FALSE => Answer::No,
            _ => Answer::Unknown,
        }
    }
}
