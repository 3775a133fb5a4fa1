//! Parts of what is asked of a plan, each with all that has to do with it, in this scan or a later one: what parts have in common is in
//! each of them.

use super::plan::{Place, Plan};
use std::collections::BTreeSet;

/// Some of what is asked, by its numbers, and the inputs, registers and steps that have to do with it, in order.
#[derive(Debug, Default)]
pub(crate) struct Cone {
    pub(crate) goals: Vec<usize>,
    pub(crate) inputs: Vec<usize>,
    pub(crate) registers: Vec<usize>,
    pub(crate) steps: Vec<usize>,
}

impl Cone {
    fn new(goals: Vec<usize>, all: &BTreeSet<Giver>) -> Cone {
        let mut out = Cone { goals, ..Cone::default() };
        for giver in all {
            match giver {
                Giver::Given => {}
                Giver::Input(n) => out.inputs.push(*n),
                Giver::Register(n) => out.registers.push(*n),
                Giver::Step(n) => out.steps.push(*n),
            }
        }
        out
    }
}

/// What gives a bit of a plan.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Giver {
    Given,
    Input(usize),
    Register(usize),
    Step(usize),
}

/// Who gives which bits.
struct Givers<'p> {
    plan: &'p Plan,
    of: Vec<Giver>,
}

impl Givers<'_> {
    fn new(plan: &Plan) -> Givers<'_> {
        let mut of = vec![Giver::Given; plan.bits];
        let mut put = |place: Place, giver: Giver| {
            of[place.at as usize..place.at as usize + usize::from(place.width)].fill(giver);
        };
        plan.inputs.iter().enumerate().for_each(|(n, (_, place))| put(*place, Giver::Input(n)));
        plan.registers.iter().enumerate().for_each(|(n, kept)| put(kept.place, Giver::Register(n)));
        plan.steps.iter().enumerate().for_each(|(n, step)| put(step.d, Giver::Step(n)));
        Givers { plan, of }
    }

    /// Adds to `seen` all that has to do with a bit, in this scan or a later one.
    fn follow(&self, at: usize, seen: &mut BTreeSet<Giver>) {
        let mut list = vec![self.of[at]];
        while let Some(giver) = list.pop() {
            if giver == Giver::Given || !seen.insert(giver) {
                continue;
            }
            let mut read = |place: Place| {
                if place.width > 0 {
                    list.push(self.of[place.at as usize]);
                }
            };
            match giver {
                Giver::Register(n) => read(self.plan.registers[n].next),
                Giver::Step(n) => {
                    let step = &self.plan.steps[n];
                    [step.a, step.b, step.c].into_iter().for_each(&mut read);
                }
                Giver::Given | Giver::Input(_) => {}
            }
        }
    }
}

impl Plan {
    /// Parts of the bits that are asked for, neighbours together until they have to do with so many register bits: as many parts as pays,
    /// and one where all have to do with the same. A constant has no bit.
    pub(crate) fn cones(&self, asked: &[Option<usize>], enough: usize) -> Vec<Cone> {
        let givers = Givers::new(self);
        let width = |giver: &Giver| {
            if let Giver::Register(n) = giver { usize::from(self.registers[*n].place.width) } else { 0 }
        };
        let held: usize = self.registers.iter().map(|kept| usize::from(kept.place.width)).sum();
        let mut out: Vec<(Vec<usize>, BTreeSet<Giver>, usize)> = Vec::new();
        let (mut total, mut followed) = (0, 0);
        for (number, at) in asked.iter().enumerate() {
            let mut seen = BTreeSet::new();
            if let Some(at) = at {
                givers.follow(*at, &mut seen);
            }
            followed += seen.len();
            match out.last_mut().filter(|(.., bits)| *bits < enough) {
                Some((goals, all, bits)) => {
                    goals.push(number);
                    *bits += seen.difference(all).map(width).sum::<usize>();
                    all.extend(seen);
                }
                None => {
                    let bits = seen.iter().map(width).sum();
                    out.push((vec![number], seen, bits));
                }
            }
            if followed > 4 * (self.steps.len() + held) {
                total = usize::MAX;
                break;
            }
        }
        if total == 0 {
            total = out.iter().map(|(.., bits)| bits).sum();
        }
        // Where all have to do with the same there is one part.
        if total > held * 3 / 2 {
            let mut all = BTreeSet::new();
            asked.iter().flatten().for_each(|at| givers.follow(*at, &mut all));
            return vec![Cone::new((0..asked.len()).collect(), &all)];
        }
        out.into_iter().map(|(goals, all, _)| Cone::new(goals, &all)).collect()
    }
}
