//! Questions to a solver: can these bits be as it says, all at once? One by itself, or many about one graph.

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
    /// Work, as [`Question::work`] counts it, of a question, or of all about a graph together; none where there is no limit.
    pub(super) work: Option<u64>,
    /// Questions that took too long so far. They come in crowds: where some did, others are given less.
    pub(super) too_long: u64,
    /// True if a question looks at what is near it and no further.
    pub(super) is_near: bool,
    pub(super) halt: Halt,
}

impl Budget {
    /// So many that took too long halve what others are given.
    const PATIENCE: u64 = 4;

    /// What is left of it once so much work was done.
    pub(super) fn after(&self, work: u64) -> Budget {
        Budget { work: self.work.map(|most| most.saturating_sub(work)), ..self.clone() }
    }

    /// True if no work is left.
    pub(super) fn is_spent(&self) -> bool {
        self.work == Some(0)
    }

    /// What the question may take whether two nodes are the same, asked while a graph is made: nothing hangs on one alone.
    pub(super) fn of_merge(&self) -> Budget {
        let tired = self.too_long / Budget::PATIENCE;
        Budget { conflicts: self.conflicts >> tired.min(6), is_near: tired > 8, ..self.clone() }
    }

    /// What the question may take whether a scan keeps a fact.
    pub(super) fn of_fact(&self) -> Budget {
        Budget { conflicts: self.conflicts >> (self.too_long / Budget::PATIENCE).min(3), ..self.clone() }
    }
}

/// Conflicts after which it is looked how much work a question has taken, where that is limited.
const A_WHILE: u64 = 50;

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

/// Says that one is the AND of two others; `clause` is room to do it in. False if then nothing can be any more.
fn add_and(solver: &mut Solver<Limit>, clause: &mut Vec<Lit>, c: Lit, [a, b]: [Lit; 2]) -> bool {
    let mut is_open = true;
    for lits in [&[!c, a] as &[Lit], &[!c, b], &[c, !a, !b]] {
        clause.clear();
        clause.extend_from_slice(lits);
        is_open &= solver.add_clause_reuse(clause);
    }
    is_open
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
        while self.is_open {
            let Some(node) = self.waiting.peek().copied() else { return true };
            if node == 0 {
                self.waiting.pop();
                let lit = self.lit(Bit::TRUE);
                clause.clear();
                clause.push(lit);
                self.is_open &= self.solver.add_clause_reuse(&mut clause);
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
            self.is_open &= add_and(&mut self.solver, &mut clause, c, [a, b]);
        }
        true
    }

    /// How much it has taken so far, whatever the clock says: nodes that were looked at, and what followed from what was tried.
    pub(super) fn work(&self) -> u64 {
        self.looked as u64 + self.solver.num_propagations()
    }

    /// What the solver says of what was looked at, within a budget.
    pub(super) fn answer(&mut self, budget: &Budget) -> Answer {
        if !self.is_open {
            return Answer::No;
        }
        let mut conflicts = budget.conflicts;
        loop {
            let some = if budget.work.is_some() { conflicts.min(A_WHILE) } else { conflicts };
            *self.solver.cb_mut() = Limit { left: some, halt: budget.halt.clone() };
            match self.solver.solve_limited(&[]) {
                answer if answer == lbool::TRUE => {
                    let is_true = |var: Var| self.solver.value_var(var) == lbool::TRUE;
                    let value = |node: &usize| self.vars.of[*node].map(|var| (*node, is_true(var)));
                    return Answer::Yes(self.vars.nodes.iter().filter_map(value).collect());
                }
                answer if answer == lbool::FALSE => return Answer::No,
                _ => {}
            }
            conflicts -= some;
            let is_spent = budget.work.is_none_or(|most| self.work() >= most);
            if conflicts == 0 || is_spent || budget.halt.has_rung() {
                return Answer::Unknown;
            }
        }
    }
}

/// A solver that is asked many questions about one graph, which may grow; what it learns from one it knows in the next.
pub(super) struct Standing {
    solver: Solver<Limit>,
    /// Of each node its variable, if it was laid out.
    vars: Vec<Option<Var>>,
    /// Conflicts of all questions together that are left.
    left: u64,
    halt: Halt,
}

/// What a standing solver answers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Asked {
    /// Never; [`Standing::needs`] tells which of what was assumed that takes.
    No,
    /// It can; [`Standing::shows`] tells how.
    Yes,
    /// The budget is used up.
    Unknown,
}

impl Standing {
    pub(super) fn new(budget: Budget) -> Standing {
        let solver = Solver::new(batsat::SolverOpts::default(), Limit { left: 0, halt: Halt::default() });
        Standing { solver, vars: Vec::new(), left: budget.conflicts, halt: budget.halt }
    }

    /// What stands for a bit; what it reads is laid out.
    pub(super) fn lit(&mut self, graph: &Graph, bit: Bit) -> Lit {
        self.vars.resize(graph.len().max(self.vars.len()), None);
        let mut waiting = vec![bit.node()];
        let mut clause = Vec::with_capacity(3);
        while let Some(node) = waiting.last().copied() {
            if self.vars[node].is_some() {
                waiting.pop();
                continue;
            }
            let Some((a, b)) = graph.reads(node) else {
                let var = self.solver.new_var_default();
                self.vars[node] = Some(var);
                if node == 0 {
                    self.solver.add_clause_reuse(&mut vec![Lit::new(var, false)]);
                }
                continue;
            };
            let (Some(var_a), Some(var_b)) = (self.vars[a.node()], self.vars[b.node()]) else {
                waiting.extend([a.node(), b.node()].iter().filter(|n| self.vars[**n].is_none()));
                continue;
            };
            let var = self.solver.new_var_default();
            self.vars[node] = Some(var);
            let of = |var: Var, bit: Bit| Lit::new(var, !bit.is_inverted());
            add_and(&mut self.solver, &mut clause, Lit::new(var, true), [of(var_a, a), of(var_b, b)]);
        }
        let var = *self.vars[bit.node()].get_or_insert_with(|| self.solver.new_var_default());
        Lit::new(var, !bit.is_inverted())
    }

    /// Something that is assumed in some questions, and without which what depends on it does not count.
    pub(super) fn switch(&mut self) -> Lit {
        Lit::new(self.solver.new_var_default(), true)
    }

    /// One of these is so, from now on.
    pub(super) fn add(&mut self, lits: &[Lit]) {
        self.solver.add_clause_reuse(&mut lits.to_vec());
    }

    /// Whether all that is assumed can be so at once.
    pub(super) fn ask(&mut self, assumed: &[Lit]) -> Asked {
        if self.left == 0 || self.halt.has_rung() {
            return Asked::Unknown;
        }
        *self.solver.cb_mut() = Limit { left: self.left, halt: self.halt.clone() };
        let answer = self.solver.solve_limited(assumed);
        self.left = self.solver.cb().left;
        match answer {
            answer if answer == lbool::TRUE => Asked::Yes,
            answer if answer == lbool::FALSE => Asked::No,
            _ => Asked::Unknown,
        }
    }

    /// Whether something that was assumed is needed for the last answer, which was no.
    pub(super) fn needs(&self, lit: Lit) -> bool {
        self.solver.unsat_core_contains_var(lit.var())
    }

    /// What a bit is by the last answer, which was yes; what was not laid out is FALSE.
    pub(super) fn shows(&self, bit: Bit) -> bool {
        let var = self.vars.get(bit.node()).copied().flatten();
        var.is_some_and(|var| self.solver.value_var(var) == lbool::TRUE) ^ bit.is_inverted()
    }

    /// Whether a node was laid out.
    pub(super) fn knows(&self, node: usize) -> bool {
        self.vars.get(node).is_some_and(Option::is_some)
    }
}
