//! Looking for facts: they are read off states that occur and may be wrong; induction keeps those that every scan keeps.

use super::affine::affine;
use super::facts::{Claim, Fact, Guard, Is, Term};
use super::induct::Depth;
use super::relations::relations;
use super::system::System;
use std::collections::HashSet;
use std::collections::hash_map::{Entry, HashMap};

/// Facts about numbers at most.
const MOST: usize = 150;

/// Facts about bits at most.
const MOST_LOGIC: usize = 300;

/// Registers of so many bits or fewer may say where a fact holds.
const GUARD_BITS: u8 = 3;

/// States in which a guard must hold for a fact to be read off them.
const ENOUGH: usize = 6;

/// Values of all registers in the states.
pub(super) struct Values {
    pub(super) of: Vec<Vec<i64>>,
    states: usize,
}

impl Values {
    pub(super) fn new(system: &System, states: &[Vec<u64>]) -> Values {
        let count = states.first().map_or(0, |w| w.len() * 64);
        let mut of = vec![vec![0i64; count]; system.plan.registers.len()];
        for ((register, at), words) in system.bits.iter().zip(states) {
            let place = system.plan.registers[*register].place;
            let weight = if place.signed && *at + 1 == place.width { -1i64 << at } else { 1i64 << at };
            for (state, value) in of[*register].iter_mut().enumerate() {
                if words[state / 64] >> (state % 64) & 1 == 1 {
                    *value |= weight;
                }
            }
        }
        Values { of, states: count }
    }

    /// The value that a register has in all of these states, if it is one and there are enough of them: of a constant of
    /// the program one will do, as that a long time is just over is seen in few states.
    fn constant(&self, register: usize, states: &[u64], counts: &[i64]) -> Option<i64> {
        let mut chosen = (0..self.states).filter(|s| states[s / 64] >> (s % 64) & 1 == 1).map(|s| self.of[register][s]);
        let first = chosen.next()?;
        let mut others = 1;
        (chosen.all(|v| (others += 1, v == first).1) && (others >= ENOUGH || counts.contains(&first))).then_some(first)
    }

    /// The states in which a register has a value.
    fn so(&self, (register, at): Is) -> Vec<u64> {
        let states = self.of[register].chunks(64);
        states.map(|c| c.iter().enumerate().fold(0, |w, (n, v)| w | u64::from(*v == at) << n)).collect()
    }
}

/// Facts that hold in all states that were seen and at power-up, and that loss of power keeps.
///
/// `own` says of each register whether it has a bit of its own, not the same as one of another register.
pub(super) fn seek(system: &System, states: &[Vec<u64>], own: &[bool], depth: Depth) -> Vec<Fact> {
    let values = Values::new(system, states);
    let registers = &system.plan.registers;
    let wide: Vec<usize> = (0..registers.len()).filter(|r| registers[*r].place.width > 1 && own[*r]).collect();
    let mut found: Vec<Fact> = Vec::new();
    let highest: Vec<i64> = values.of.iter().map(|all| all.iter().copied().max().unwrap_or(0)).collect();
    let all: Vec<usize> = (0..values.states).collect();
    // Groups of bits that are the same say it already.
    let mut same: HashSet<(usize, usize)> = HashSet::new();
    let terms: Vec<Term> = wide.iter().flat_map(|r| caps(system, &values, *r)).collect();
    for fact in lines(&values, &terms, &all, Guard::Always) {
        if let Claim::Line { u, v, .. } = fact.claim {
            same.insert((u.register, v.register));
        }
        found.extend(not_reached(system, &values, &fact));
        found.push(fact);
    }
    for &u in &wide {
        // What was seen, and what is known of its range: a sum of more would wrap round.
        let seen = highest[u];
        for most in [seen, registers[u].most.max(seen)] {
            let fact = Fact { guard: Guard::Always, claim: Claim::AtMost { u, c: most } };
            if most > 0 && (most as u64 + 1).count_ones() > 1 && found.last() != Some(&fact) {
                found.push(fact);
            }
        }
    }
    let (guards, alike) = guards(&values, system, own);
    found.extend(alike);
    for (register, at) in guards {
        let guard = Guard::Where((register, at));
        let chosen: Vec<usize> = all.iter().copied().filter(|s| values.of[register][*s] == at).collect();
        if chosen.len() < ENOUGH {
            continue;
        }
        // Of a step each bit tells something; of a bit only numbers do, or there would be too many.
        let of_step = registers[register].place.width > 1;
        let told = (0..registers.len()).filter(|u| own[*u] && (of_step || registers[*u].place.width > 1));
        for u in told.filter(|u| *u != register) {
            let c = values.of[u][chosen[0]];
            if chosen.iter().all(|s| values.of[u][*s] == c) {
                found.push(Fact { guard, claim: Claim::Constant { u, c } });
            }
        }
        let others: Vec<Term> = terms.iter().copied().filter(|t| t.register != register).collect();
        let known = |f: &Fact| matches!(f.claim, Claim::Line { u, v, .. } if same.contains(&(u.register, v.register)));
        for fact in lines(&values, &others, &chosen, guard).into_iter().filter(|f| !known(f)) {
            found.extend(not_reached(system, &values, &fact));
            found.push(fact);
        }
        // As long as something runs its time is not over.
        for &u in wide.iter().filter(|u| **u != register) {
            let seen = chosen.iter().map(|s| values.of[u][*s]).max().unwrap_or(0);
            // Up to a constant, or to one before it.
            let marks =
                [1, 0].map(|less| system.counts.iter().map(|m| m.saturating_sub(less)).filter(|m| *m >= seen).min());
            for c in marks.into_iter().flatten().filter(|c| seen < highest[u] && (1..registers[u].most).contains(c)) {
                found.push(Fact { guard, claim: Claim::AtMost { u, c } });
            }
        }
        if found.len() > MOST {
            break;
        }
    }
    found.truncate(MOST);
    if depth >= Depth::Relations {
        found.extend(relations(system, &values, &wide, &same));
        found.extend(affine(system, &values, own));
    }
    keep_sound(system, &mut found);
    found
}

/// Only facts that hold at power-up, and that loss of power keeps.
pub(super) fn keep_sound(system: &System, found: &mut Vec<Fact>) {
    let registers = &system.plan.registers;
    let initial = |register: usize| registers[register].init;
    // Loss of power takes all of them to where they began, or none.
    let alike = |fact: &Fact| {
        let mut kinds = fact.registers().map(|r| registers[r].retained);
        let first = kinds.next();
        kinds.all(|k| Some(k) == first)
    };
    found.retain(|fact| fact.holds(initial) && alike(fact));
}

/// What bits, and numbers of few values, say of each other: where one is so another is, or two are the same; and where
/// two are so a third is.
pub(super) fn seek_logic(system: &System, states: &[Vec<u64>], own: &[bool]) -> Vec<Fact> {
    let values = Values::new(system, states);
    let (guards, _) = guards(&values, system, own);
    let atoms: Vec<(Is, Vec<u64>)> = guards.into_iter().map(|is| (is, values.so(is))).collect();
    let within = |a: &[u64], b: &[u64]| a.iter().zip(b).all(|(a, b)| a & !b == 0);
    let mut found = Vec::new();
    // Who is so wherever another one is; the other way round it is said by what is not so.
    let mut above: HashSet<(Is, Is)> = HashSet::new();
    for (a, where_a) in &atoms {
        for (b, where_b) in atoms.iter().filter(|(b, _)| b.0 != a.0) {
            if within(where_a, where_b) {
                above.insert((*a, *b));
                found.push(Fact { guard: Guard::Where(*a), claim: Claim::Constant { u: b.0, c: b.1 } });
            }
        }
    }
    found.truncate(MOST_LOGIC / 2);
    found.extend(alike_where(&values, system, own, &atoms));
    let wide: Vec<usize> =
        (0..own.len()).filter(|r| own[*r] && system.plan.registers[*r].place.width > GUARD_BITS).collect();
    let by_states: HashMap<&[u64], Is> = atoms.iter().map(|(is, so)| (so.as_slice(), *is)).collect();
    for (at, (a, where_a)) in atoms.iter().enumerate() {
        for (b, where_b) in atoms[..at].iter().filter(|(b, _)| b.0 != a.0) {
            if above.contains(&(*a, *b)) || above.contains(&(*b, *a)) || found.len() > MOST_LOGIC {
                continue;
            }
            let both: Vec<u64> = where_a.iter().zip(where_b).map(|(a, b)| a & b).collect();
            let guard = Guard::Both(*b, *a);
            if let Some(c) = by_states.get(both.as_slice()).filter(|c| c.0 != a.0 && c.0 != b.0) {
                found.push(Fact { guard, claim: Claim::Constant { u: c.0, c: c.1 } });
            }
            for &u in &wide {
                let constant = |states: &[u64]| values.constant(u, states, &system.counts);
                if let Some(c) = constant(&both)
                    && constant(where_a).is_none()
                    && constant(where_b).is_none()
                {
                    found.push(Fact { guard, claim: Claim::Constant { u, c } });
                }
            }
        }
    }
    keep_sound(system, &mut found);
    found.truncate(MOST_LOGIC);
    found
}

/// Bits that are the same, or opposite, where another one is so.
fn alike_where(values: &Values, system: &System, own: &[bool], atoms: &[(Is, Vec<u64>)]) -> Vec<Fact> {
    let is_bit = |r: &usize| own[*r] && system.plan.registers[*r].place.width == 1;
    let bits: Vec<Term> = (0..own.len()).filter(is_bit).map(|register| Term { register, cap: i64::MAX }).collect();
    let mut found = Vec::new();
    for (is, so) in atoms {
        let chosen: Vec<usize> = (0..values.states).filter(|s| so[s / 64] >> (s % 64) & 1 == 1).collect();
        if chosen.len() >= ENOUGH && found.len() < MOST_LOGIC / 6 {
            let others: Vec<Term> = bits.iter().copied().filter(|t| t.register != is.0).collect();
            found.extend(lines(values, &others, &chosen, Guard::Where(*is)));
        }
    }
    found
}

/// A register as it is, and up to constants of the program that it passes.
fn caps(system: &System, values: &Values, register: usize) -> Vec<Term> {
    /// Caps of one register at most.
    const MOST: usize = 8;
    let most = values.of[register].iter().copied().max().unwrap_or(0);
    let marks = system.counts.iter().copied().filter(|m| (1..most).contains(m));
    let caps = std::iter::once(i64::MAX).chain(marks.take(MOST));
    caps.map(|cap| Term { register, cap }).collect()
}

/// Two numbers that are the same as far as they were seen, up to constants of the program that neither of them reached:
/// of what takes hours no state shows that one of them stops there.
fn not_reached(system: &System, values: &Values, fact: &Fact) -> Vec<Fact> {
    /// Constants at most.
    const MOST: usize = 4;
    let Claim::Line { u, ku, v, kv, c: 0 } = fact.claim else { return Vec::new() };
    if ku != -kv || u.cap != i64::MAX || v.cap != i64::MAX {
        return Vec::new();
    }
    let registers = &system.plan.registers;
    let seen = [u, v].into_iter().flat_map(|t| values.of[t.register].iter()).copied().max().unwrap_or(0);
    let most = registers[u.register].most.max(registers[v.register].most);
    let marks = system.counts.iter().copied().filter(|m| *m > seen && *m <= most);
    let cap = |t: Term, cap: i64| Term { cap, ..t };
    let guard = fact.guard;
    let up_to = |m: i64| Fact { guard, claim: Claim::Line { u: cap(u, m), ku, v: cap(v, m), kv, c: 0 } };
    marks.take(MOST).map(up_to).collect()
}

/// What may say where a fact holds: bits, and numbers of few values. Of those that are the same in all states one, and of
/// the others that they are so only where that one is.
fn guards(values: &Values, system: &System, own: &[bool]) -> (Vec<Is>, Vec<Fact>) {
    let mut seen: HashMap<Vec<u64>, Is> = HashMap::new();
    let (mut out, mut alike) = (Vec::new(), Vec::new());
    for (register, kept) in system.plan.registers.iter().enumerate() {
        if kept.place.width > GUARD_BITS || !own[register] {
            continue;
        }
        let mut shown: Vec<i64> = values.of[register].clone();
        shown.sort_unstable();
        shown.dedup();
        for is in shown.into_iter().map(|at| (register, at)) {
            match seen.entry(values.so(is)) {
                Entry::Vacant(entry) => {
                    entry.insert(is);
                    out.push(is);
                }
                Entry::Occupied(entry) if entry.get().0 != register => {
                    let (u, c) = *entry.get();
                    alike.push(Fact { guard: Guard::Where(is), claim: Claim::Constant { u, c } });
                }
                Entry::Occupied(_) => {}
            }
        }
    }
    (out, alike)
}

/// Numbers that go in step, or against each other, in the states chosen.
fn lines(values: &Values, terms: &[Term], chosen: &[usize], guard: Guard) -> Vec<Fact> {
    let of = |t: Term, s: usize| values.of[t.register][s].min(t.cap);
    let mut alike: HashMap<Vec<i64>, (Term, i64)> = HashMap::new();
    let mut out = Vec::new();
    for &term in terms {
        let first = of(term, chosen[0]);
        // What a number does not hold is no line: facts are about what numbers are, and do not wrap round.
        let exact = |m: &i64| *m != i64::MIN;
        let moves = chosen.iter().map(|s| of(term, *s).checked_sub(first).filter(exact)).collect::<Option<Vec<i64>>>();
        let Some(moves) = moves else { continue };
        let step = moves.iter().fold(0, |g, m| crate::model::ops::gcd(g, *m));
        if step == 0 {
            continue;
        }
        let way = if moves.iter().find(|m| **m != 0).is_some_and(|m| *m < 0) { -step } else { step };
        let shape: Vec<i64> = moves.iter().map(|m| m.wrapping_div(way)).collect();
        match alike.get(&shape) {
            None => {
                alike.insert(shape, (term, way));
            }
            Some((other, _)) if other.register == term.register => {}
            // (u - u0) / a = (v - v0) / b.
            Some((other, by)) => {
                let g = crate::model::ops::gcd(*by, way);
                let (ku, kv) = (way / g, -by / g);
                let (a, b) = (ku.checked_mul(of(*other, chosen[0])), kv.checked_mul(first));
                let c = a.zip(b).and_then(|(a, b)| a.checked_add(b)).filter(exact);
                out.extend(c.map(|c| Fact { guard, claim: Claim::Line { u: *other, ku, v: term, kv, c } }));
            }
        }
    }
    out
}
