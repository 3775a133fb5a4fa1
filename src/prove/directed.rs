//! Reachability directed by the goals: from a state that breaks one backwards, until it is clear that no way leads there from
//! power-up, or which way does.
//!
//! Levels hold what is never so within as many scans. A state that breaks a goal is shown not to be reached within one scan more,
//! which may take that others are not reached within one less; what is learned of one state is widened to all that the same
//! reason keeps out. Where a level keeps all that the one before it does, that holds for ever. Numbers are widened to bounds, not
//! bit by bit.

use super::cube::{Cube, Literal};
use super::facts::{Claim, Fact, Guard};
use super::forward::Step;
use super::induct::Round;
use super::solve::{Asked, Budget, Standing};
use super::system::{Goal, System};
use crate::circuit::{Algebra, Bit, Graph, Word};
use batsat::Lit;
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// Levels at most.
const MOST_LEVELS: usize = 200;

/// Nodes of the scan times questions about it, at most.
const MOST_WORK: usize = 200_000_000;

/// Questions at most.
const MOST_QUESTIONS: usize = 15_000;

/// A number of fewer bits is told bit by bit.
const NARROW: u8 = 3;

/// A number of more bits is not told by bounds.
const WIDE: u8 = 62;

/// What came of it.
pub(super) enum Directed {
    /// What holds always, and suffices together with what was known.
    Kept(Vec<Fact>),
    /// The scans from power-up to where a goal is broken. What an unknown function gives was free.
    Way(Vec<Step>),
    /// Neither, within the budget.
    Open,
}

/// Why it ends without an answer.
struct GivenUp;

/// A state, or several alike, from which a goal is broken some scans later.
struct Bad {
    cube: Cube,
    /// What was given in the scan from there, and the one that it leads to; power may be lost instead of a scan.
    step: Taken,
    then: Option<usize>,
}

/// What happens in a state.
#[derive(Clone)]
enum Taken {
    Scan(Vec<i64>),
    Power,
}

/// What a level has learned.
struct Level {
    switch: Lit,
    cubes: Vec<Cube>,
}

struct Search<'s> {
    system: &'s System,
    graph: Graph,
    solver: Standing,
    /// The bits of each register before and after.
    now: Vec<Vec<Bit>>,
    then: Vec<Vec<Bit>>,
    /// Power is lost instead of a scan.
    power: Bit,
    /// Bits of registers that are not the same as an earlier one.
    own: Vec<Literal>,
    /// The bits of each input.
    inputs: Vec<Vec<Bit>>,
    /// Nodes that are free in a scan besides the registers.
    free: Vec<Bit>,
    /// What must hold in every scan.
    goals: Vec<Bit>,
    /// The first is power-up alone.
    levels: Vec<Level>,
    bad: Vec<Bad>,
    questions: usize,
}

/// Looks whether goals can be broken, beginning with a round of induction that did not prove them; what it took for granted is
/// known to hold.
pub(super) fn directed(
    system: &System,
    round: &Round,
    goals: &[Goal],
    budget: &Budget,
    mut go_on: impl FnMut() -> bool,
) -> Directed {
    let mut search = Search::new(system, round, goals, budget);
    search.run(&mut go_on).unwrap_or(Directed::Open)
}

impl<'s> Search<'s> {
    fn new(system: &'s System, round: &Round, goals: &[Goal], budget: &Budget) -> Search<'s> {
        let mut graph = round.sweep.graph.clone();
        let power = if system.lasting { Bit::FALSE } else { graph.input() };
        let initial = |bit: usize| Bit::FALSE.flip(system.initial(bit));
        let then: Vec<Bit> = (0..system.bits.len())
            .map(|bit| {
                let lost = if system.is_retained(bit) { round.now[bit] } else { initial(bit) };
                graph.mux(power, lost, round.next[bit])
            })
            .collect();
        let mut seen = vec![false; graph.len()];
        seen[0] = true;
        let bits =
            system.bits.iter().zip(&round.now).filter(|(_, now)| !std::mem::replace(&mut seen[now.node()], true));
        let own = bits.map(|(&(register, at), _)| Literal::Bit { register, at, is: true }).collect();
        // What a fact has put something in the place of is a register all the same.
        round.stand.iter().for_each(|bit| seen[bit.node()] = true);
        let is_free = |node: &usize| !seen[*node] && graph.reads(*node).is_none();
        let free = (0..graph.len()).filter(is_free).map(|node| Bit((node as u32) << 1)).collect();
        let inputs = system.given().map(|(place, ..)| {
            let at = place.at as usize;
            round.bits[at..at + usize::from(place.width)].to_vec()
        });
        let mut search = Search {
            system,
            solver: Standing::new(Budget { conflicts: budget.conflicts * 4, ..budget.clone() }),
            now: system.words_of(&round.now),
            then: system.words_of(&then),
            power,
            own,
            inputs: inputs.collect(),
            free,
            goals: goals.iter().map(|goal| goal.at.map_or(Bit::FALSE, |at| round.bits[at])).collect(),
            levels: Vec::new(),
            bad: Vec::new(),
            questions: 0,
            graph,
        };
        for known in round.sweep.taken() {
            let lit = search.lit(known);
            search.solver.add(&[lit]);
        }
        search.open_level();
        let switch = search.levels[0].switch;
        for (bit, now) in round.now.iter().enumerate() {
            let lit = search.lit(now.flip(!system.initial(bit)));
            search.solver.add(&[!switch, lit]);
        }
        search
    }

    fn lit(&mut self, bit: Bit) -> Lit {
        self.solver.lit(&self.graph, bit)
    }

    fn open_level(&mut self) {
        let switch = self.solver.switch();
        self.levels.push(Level { switch, cubes: Vec::new() });
    }

    fn run(&mut self, go_on: &mut impl FnMut() -> bool) -> Result<Directed, GivenUp> {
        while self.levels.len() < MOST_LEVELS {
            let last = self.levels.len() - 1;
            while let Some(bad) = self.breaks(last)? {
                if !go_on() {
                    return Err(GivenUp);
                }
                if let Some(way) = self.keep_out(bad, last)? {
                    return Ok(Directed::Way(way));
                }
            }
            self.open_level();
            if let Some(level) = self.push_on()? {
                let all = self.levels[level..].iter().flat_map(|level| &level.cubes);
                let fact = |cube: &Cube| Fact { guard: Guard::Always, claim: Claim::Never(cube.clone()) };
                return Ok(Directed::Kept(all.map(fact).collect()));
            }
        }
        Err(GivenUp)
    }

    /// What is assumed of states of a level.
    fn within(&self, level: usize) -> Vec<Lit> {
        if level == 0 {
            return vec![self.levels[0].switch];
        }
        self.levels[level..].iter().map(|level| level.switch).collect()
    }

    fn ask(&mut self, assumed: &[Lit]) -> Result<bool, GivenUp> {
        self.questions += 1;
        if self.questions > MOST_QUESTIONS.min(MOST_WORK / self.graph.len()) {
            return Err(GivenUp);
        }
        match self.solver.ask(assumed) {
            Asked::Yes => Ok(true),
            Asked::No => Ok(false),
            Asked::Unknown => Err(GivenUp),
        }
    }

    /// A state of a level that breaks a goal, and others like it; its number.
    fn breaks(&mut self, level: usize) -> Result<Option<usize>, GivenUp> {
        for goal in self.goals.clone() {
            let lit = self.lit(goal);
            let mut assumed = self.within(level);
            assumed.push(!lit);
            if self.ask(&assumed)? {
                return Ok(Some(self.remember(&[lit], None)?));
            }
        }
        Ok(None)
    }

    /// Remembers the state of the last answer, and those that lead there by the same inputs: where one of these is not so.
    fn remember(&mut self, target: &[Lit], then: Option<usize>) -> Result<usize, GivenUp> {
        let state: Vec<Literal> = self.own.iter().map(|literal| self.as_shown(*literal)).collect();
        let number = |(bits, outside): (&Vec<Bit>, &super::system::Outside)| {
            Word { bits, signed: outside.signed, zero: Bit::FALSE }.number(|bit| self.solver.shows(bit))
        };
        let given: Vec<i64> = self.inputs.iter().zip(&self.system.outside).map(number).collect();
        let step = if then.is_some() && self.solver.shows(self.power) { Taken::Power } else { Taken::Scan(given) };
        let known: Vec<Bit> = self.free.iter().copied().filter(|bit| self.solver.knows(bit.node())).collect();
        let mut assumed: Vec<Lit> = known
            .into_iter()
            .map(|bit| {
                let shown = self.solver.shows(bit);
                self.lit(bit.flip(!shown))
            })
            .collect();
        let switch = self.solver.switch();
        let clause: Vec<Lit> = std::iter::once(!switch).chain(target.iter().copied()).collect();
        self.solver.add(&clause);
        assumed.push(switch);
        let mut lits = Vec::with_capacity(state.len());
        for literal in &state {
            let bit = literal.bit(&mut self.graph, self.system, &self.now);
            lits.push(self.lit(bit));
        }
        assumed.extend(&lits);
        let stays = self.ask(&assumed)?;
        // By the same inputs the same state leads to the same place.
        debug_assert!(!stays);
        let needed = state.iter().zip(&lits).filter(|(_, lit)| stays || self.solver.needs(**lit));
        let cube = Cube::new(needed.map(|(literal, _)| *literal).collect());
        self.solver.add(&[!switch]);
        self.bad.push(Bad { cube, step, then });
        Ok(self.bad.len() - 1)
    }

    fn as_shown(&self, literal: Literal) -> Literal {
        match literal {
            Literal::Bit { register, at, .. } => {
                Literal::Bit { register, at, is: self.solver.shows(self.now[register][usize::from(at)]) }
            }
            Literal::Least { .. } | Literal::Most { .. } => literal,
        }
    }

    fn is_power_up(&self, cube: &Cube) -> bool {
        cube.holds(|register| self.system.plan.registers[register].init)
    }

    /// Shows that a bad state is not reached within a level, or how it is.
    fn keep_out(&mut self, bad: usize, last: usize) -> Result<Option<Vec<Step>>, GivenUp> {
        let mut waiting = BinaryHeap::from([(Reverse(last), Reverse(bad))]);
        while let Some((Reverse(level), Reverse(number))) = waiting.pop() {
            let cube = self.bad[number].cube.clone();
            if level == 0 || self.is_power_up(&cube) {
                return Ok(Some(self.way(number)));
            }
            let is_known = self.levels[level..].iter().any(|l| l.cubes.iter().any(|known| known.contains(&cube)));
            if !is_known {
                match self.reached(number, level)? {
                    Some(from) => {
                        waiting.push((Reverse(level - 1), Reverse(from)));
                        waiting.push((Reverse(level), Reverse(number)));
                        continue;
                    }
                    None => self.learn(&cube, level, last)?,
                }
            }
            if level < last {
                waiting.push((Reverse(level + 1), Reverse(number)));
            }
        }
        Ok(None)
    }

    /// A state of the level below, other than these, from which one of these is reached; none if there is none.
    fn reached(&mut self, bad: usize, level: usize) -> Result<Option<usize>, GivenUp> {
        let cube = self.bad[bad].cube.clone();
        let (is_reached, lits, switch) = self.ask_reached(&cube, level)?;
        let from = if is_reached {
            let target: Vec<Lit> = lits.iter().map(|lit| !*lit).collect();
            Some(self.remember(&target, Some(bad))?)
        } else {
            None
        };
        self.solver.add(&[!switch]);
        Ok(from)
    }

    /// Whether a cube is reached from the level below other than from itself, what stands for its literals after the scan, and
    /// what holds as long as it is asked.
    fn ask_reached(&mut self, cube: &Cube, level: usize) -> Result<(bool, Vec<Lit>, Lit), GivenUp> {
        let switch = self.solver.switch();
        let mut clause = vec![!switch];
        let mut lits = Vec::with_capacity(cube.literals().len());
        for literal in cube.literals() {
            let now = literal.bit(&mut self.graph, self.system, &self.now);
            clause.push(!self.lit(now));
            let then = literal.bit(&mut self.graph, self.system, &self.then);
            lits.push(self.lit(then));
        }
        self.solver.add(&clause);
        let mut assumed = self.within(level - 1);
        assumed.push(switch);
        assumed.extend(&lits);
        let is_reached = self.ask(&assumed)?;
        Ok((is_reached, lits, switch))
    }

    /// What of a cube is enough for it not to be reached, if it is not; it leaves power-up out.
    fn enough(&mut self, cube: &Cube, level: usize) -> Result<Option<Cube>, GivenUp> {
        if self.is_power_up(cube) {
            return Ok(None);
        }
        let (is_reached, lits, switch) = self.ask_reached(cube, level)?;
        let needed = |(_, lit): &(&Literal, &Lit)| self.solver.needs(**lit);
        let needed: Vec<Literal> = cube.literals().iter().zip(&lits).filter(needed).map(|(l, _)| *l).collect();
        self.solver.add(&[!switch]);
        if is_reached {
            return Ok(None);
        }
        let small = Cube::new(needed.clone());
        if !self.is_power_up(&small) {
            return Ok(Some(small));
        }
        // One that power-up does not have.
        let init = |register: usize| self.system.plan.registers[register].init;
        let other = cube.literals().iter().find(|literal| !Cube::new(vec![**literal]).holds(init));
        Ok(Some(Cube::new(needed.into_iter().chain(other.copied()).collect())))
    }

    /// Learns that a cube is not reached within a level, and all that the same reason keeps out, as far as it does.
    fn learn(&mut self, cube: &Cube, level: usize, last: usize) -> Result<(), GivenUp> {
        let mut cube = self.enough(cube, level)?.unwrap_or_else(|| cube.clone());
        cube = self.bounded(cube, level)?;
        let mut at = 0;
        while at < cube.literals().len() {
            match self.enough(&cube.without(at), level)? {
                Some(smaller) => cube = smaller,
                None => at += 1,
            }
        }
        let mut holds = level;
        while holds < last && self.enough(&cube, holds + 1)?.is_some() {
            holds += 1;
        }
        self.hold(cube, holds);
        Ok(())
    }

    /// A cube is kept out of a level, and of those below.
    fn hold(&mut self, cube: Cube, level: usize) {
        let mut clause = vec![!self.levels[level].switch];
        for literal in cube.literals() {
            let bit = literal.bit(&mut self.graph, self.system, &self.now);
            clause.push(!self.lit(bit));
        }
        self.solver.add(&clause);
        for level in &mut self.levels[1..=level] {
            level.cubes.retain(|known| !cube.contains(known));
        }
        self.levels[level].cubes.push(cube);
    }

    /// A cube in which numbers are told by bounds, as wide as they can be.
    fn bounded(&mut self, mut cube: Cube, level: usize) -> Result<Cube, GivenUp> {
        let mut registers: Vec<usize> = cube.registers().collect();
        registers.dedup();
        for register in registers {
            let place = self.system.plan.registers[register].place;
            if !(NARROW..=WIDE).contains(&place.width) {
                continue;
            }
            let (low, high) = span(&cube, register, place.width, place.signed);
            let others = |with: Literal| {
                let rest = cube.literals().iter().copied().filter(|literal| literal.register() != register);
                Cube::new(rest.chain([with]).collect())
            };
            let marks = self.system.counts.iter().flat_map(|mark| [mark - 1, *mark, mark + 1]);
            let mut marks: Vec<i64> = marks.collect();
            marks.sort_unstable();
            marks.dedup();
            let below: Vec<i64> = marks.iter().copied().filter(|m| *m < low).collect();
            let above: Vec<i64> = marks.iter().rev().copied().filter(|m| *m > high).collect();
            let least = |c: i64| others(Literal::Least { register, c });
            let most = |c: i64| others(Literal::Most { register, c });
            if let Some(wider) = self.widest(&below, low, &least, level)? {
                cube = wider;
            } else if let Some(wider) = self.widest(&above, high, &most, level)? {
                cube = wider;
            }
        }
        Ok(cube)
    }

    /// The widest of cubes that is not reached, the widest first; none if not even the narrowest is.
    fn widest(
        &mut self,
        wider: &[i64],
        narrowest: i64,
        cube: &impl Fn(i64) -> Cube,
        level: usize,
    ) -> Result<Option<Cube>, GivenUp> {
        let Some(mut found) = self.enough(&cube(narrowest), level)? else { return Ok(None) };
        // Somewhere among them it begins to be kept out.
        let (mut from, mut to) = (0, wider.len());
        while from < to {
            let middle = usize::midpoint(from, to);
            match self.enough(&cube(wider[middle]), level)? {
                Some(wide) => (found, to) = (wide, middle),
                None => from = middle + 1,
            }
        }
        Ok(Some(found))
    }

    /// Moves on what holds one scan longer; the first level from which all does, if there is one.
    fn push_on(&mut self) -> Result<Option<usize>, GivenUp> {
        for level in 1..self.levels.len() - 1 {
            for cube in self.levels[level].cubes.clone() {
                if self.levels[level].cubes.contains(&cube) && self.enough(&cube, level + 1)?.is_some() {
                    self.hold(cube, level + 1);
                }
            }
            if self.levels[level].cubes.is_empty() {
                return Ok(Some(level + 1));
            }
        }
        Ok(None)
    }

    /// The scans from a state to where the goal is broken.
    fn way(&self, first: usize) -> Vec<Step> {
        let mut out = Vec::new();
        let (mut at, mut power) = (Some(first), false);
        while let Some(bad) = at.map(|at| &self.bad[at]) {
            match &bad.step {
                Taken::Power => power = true,
                Taken::Scan(given) => out.push(Step { power: std::mem::take(&mut power), given: given.clone() }),
            }
            at = bad.then;
        }
        out
    }
}

/// The least and the most that a number is in a cube.
fn span(cube: &Cube, register: usize, width: u8, signed: bool) -> (i64, i64) {
    let (mut low, mut high) = (0i64, 0i64);
    for at in 0..width {
        let known = cube.literals().iter().find_map(|literal| match *literal {
            Literal::Bit { register: of, at: bit, is } if of == register && bit == at => Some(is),
            Literal::Bit { .. } | Literal::Least { .. } | Literal::Most { .. } => None,
        });
        let weight = if signed && at + 1 == width { -1i64 << at } else { 1i64 << at };
        low += match known {
            Some(is) => weight * i64::from(is),
            None => weight.min(0),
        };
        high += match known {
            Some(is) => weight * i64::from(is),
            None => weight.max(0),
        };
    }
    let bounds = cube.literals().iter().filter(|literal| literal.register() == register);
    for literal in bounds {
        match *literal {
            Literal::Least { c, .. } => low = low.max(c),
            Literal::Most { c, .. } => high = high.min(c),
            Literal::Bit { .. } => {}
        }
    }
    (low, high)
}
