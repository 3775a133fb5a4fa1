//! Graphs as questions to a solver.

use super::read::Aig;
use batsat::{BasicSolver, SolverInterface, lbool};
use std::collections::{BTreeSet, HashMap};

/// A literal: a node, perhaps inverted.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) struct Lit(u32);

impl Lit {
    pub(super) const FALSE: Lit = Lit(0);
    const TRUE: Lit = Lit(1);

    pub(super) fn not(self) -> Lit {
        Lit(self.0 ^ 1)
    }

    pub(super) fn flip(self, by: bool) -> Lit {
        Lit(self.0 ^ u32::from(by))
    }

    fn node(self) -> usize {
        (self.0 >> 1) as usize
    }
}

/// Copies of a graph in which the same is one node, and what holds of them.
#[derive(Default)]
pub(super) struct Questions {
    /// What a node is the AND of; none for FALSE, which is the first, and for what is free.
    nodes: Vec<Option<(Lit, Lit)>>,
    gates: HashMap<(Lit, Lit), Lit>,
    /// What is TRUE, each with the free nodes it is about.
    held: Vec<(Lit, BTreeSet<usize>)>,
}

/// A graph among them: of each of its variables the literal.
pub(super) struct Copy(Vec<Lit>);

impl Copy {
    pub(super) fn literal(&self, literal: u32) -> Lit {
        self.0[(literal >> 1) as usize].flip(literal & 1 == 1)
    }
}

impl Questions {
    pub(super) fn new() -> Questions {
        Questions { nodes: vec![None], ..Questions::default() }
    }

    /// A literal that nothing is known about.
    pub(super) fn fresh(&mut self) -> Lit {
        self.nodes.push(None);
        Lit((self.nodes.len() as u32 - 1) << 1)
    }

    /// It is TRUE in all that is asked from now on.
    pub(super) fn holds(&mut self, lit: Lit) {
        if lit != Lit::TRUE {
            let (_, free) = self.cone(&[lit]);
            self.held.push((lit, free));
        }
    }

    fn and(&mut self, a: Lit, b: Lit) -> Lit {
        let (a, b) = if a <= b { (a, b) } else { (b, a) };
        if a == Lit::FALSE || a == b.not() {
            return Lit::FALSE;
        }
        if a == Lit::TRUE || a == b {
            return b;
        }
        if let Some(both) = self.gates.get(&(a, b)) {
            return *both;
        }
        let both = self.fresh();
        self.nodes[both.node()] = Some((a, b));
        self.gates.insert((a, b), both);
        both
    }

    /// Adds a graph whose latches are these literals; if `outputs`, only what its outputs read, else all of it.
    pub(super) fn copy(&mut self, aig: &Aig, latches: &[Lit], outputs: bool) -> Copy {
        let inputs: Vec<Lit> = (0..aig.inputs).map(|_| self.fresh()).collect();
        self.laid_out(aig, (&inputs, latches), outputs)
    }

    /// Adds all of a graph whose inputs and latches are these literals.
    pub(super) fn copy_given(&mut self, aig: &Aig, inputs: &[Lit], latches: &[Lit]) -> Copy {
        self.laid_out(aig, (inputs, latches), false)
    }

    fn laid_out(&mut self, aig: &Aig, (inputs, latches): (&[Lit], &[Lit]), outputs: bool) -> Copy {
        let first_gate = aig.first_gate();
        let mut wanted = vec![!outputs; first_gate + aig.gates.len()];
        if outputs {
            aig.outputs.iter().for_each(|output| wanted[(output >> 1) as usize] = true);
            for (number, gate) in aig.gates.iter().enumerate().rev() {
                if wanted[first_gate + number] {
                    gate.iter().for_each(|read| wanted[(read >> 1) as usize] = true);
                }
            }
        }
        let mut out = Copy(vec![Lit::FALSE]);
        out.0.extend(inputs);
        out.0.extend(latches);
        for (number, gate) in aig.gates.iter().enumerate() {
            let [a, b] = gate.map(|read| out.literal(read));
            let both = if wanted[first_gate + number] { self.and(a, b) } else { Lit::FALSE };
            out.0.push(both);
        }
        out
    }

    /// All that literals read, and what of it is free.
    fn cone(&self, lits: &[Lit]) -> (BTreeSet<usize>, BTreeSet<usize>) {
        let (mut all, mut free) = (BTreeSet::new(), BTreeSet::new());
        let mut waiting: Vec<usize> = lits.iter().map(|l| l.node()).collect();
        while let Some(node) = waiting.pop() {
            if !all.insert(node) {
                continue;
            }
            match self.nodes[node] {
                Some((a, b)) => waiting.extend([a.node(), b.node()]),
                None => {
                    free.insert(node);
                }
            }
        }
        (all, free)
    }

    /// Whether a literal can be TRUE where all that holds is. What has nothing to do with it, directly or by way of what
    /// else holds, is left out: it can be TRUE by itself.
    pub(super) fn can_be(&self, lit: Lit) -> bool {
        let mut asked = vec![lit];
        let (_, mut about) = self.cone(&asked);
        let mut left: Vec<&(Lit, BTreeSet<usize>)> = self.held.iter().collect();
        loop {
            let (near, far): (Vec<_>, Vec<_>) = left.into_iter().partition(|(_, free)| !free.is_disjoint(&about));
            if near.is_empty() {
                return self.can_all_be(&asked);
            }
            for (held, free) in near {
                asked.push(*held);
                about.extend(free);
            }
            left = far;
        }
    }

    /// Whether all that holds can be TRUE at once.
    pub(super) fn is_possible(&self) -> bool {
        self.can_all_be(&self.held.iter().map(|(lit, _)| *lit).collect::<Vec<_>>())
    }

    fn can_all_be(&self, lits: &[Lit]) -> bool {
        if lits.contains(&Lit::FALSE) {
            return false;
        }
        let mut solver = BasicSolver::default();
        let (all, _) = self.cone(lits);
        let vars: HashMap<usize, batsat::Var> = all.iter().map(|node| (*node, solver.new_var_default())).collect();
        let of = |lit: Lit| batsat::Lit::new(vars[&lit.node()], lit.0 & 1 == 0);
        let mut clauses: Vec<Vec<batsat::Lit>> = lits.iter().map(|lit| vec![of(*lit)]).collect();
        for node in all {
            let own = Lit((node as u32) << 1);
            match self.nodes[node] {
                Some((a, b)) => clauses.extend([
                    vec![of(own.not()), of(a)],
                    vec![of(own.not()), of(b)],
                    vec![of(own), of(a.not()), of(b.not())],
                ]),
                None if node == 0 => clauses.push(vec![of(own.not())]),
                None => {}
            }
        }
        clauses.into_iter().all(|mut clause| solver.add_clause_reuse(&mut clause))
            && solver.solve_limited(&[]) != lbool::FALSE
    }
}
