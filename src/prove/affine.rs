//! Sums of numbers, each so many times, that are the same in all states that occur: minutes and seconds beside seconds, digits beside
//! a number, a running sum beside what it is the sum of.
//!
//! The states are points of a space with a dimension for each register. What no equation leaves out is found by elimination, modulo a
//! prime; an equation is taken only where its factors are small and it holds exactly.

use super::facts::{Claim, Fact, Guard};
use super::seek::Values;
use super::system::System;

/// A prime below 2^61: products fit into 128 bits.
const PRIME: u64 = (1 << 61) - 1;

/// Factors at most, up or down.
const MOST_TIMES: i64 = 1 << 20;

/// Registers at most that are looked at together.
const MOST: usize = 48;

/// Registers at most in one equation.
const MOST_TERMS: usize = 12;

/// A number of more bits has no part in sums: they would not fit.
const WIDE: u8 = 40;

/// Sums of three and more registers that are always the same; of two, and of three that are each taken once, others tell.
pub(super) fn affine(system: &System, values: &Values, own: &[bool]) -> Vec<Fact> {
    let registers = &system.plan.registers;
    let moves = |r: usize| values.of[r].iter().any(|v| *v != values.of[r][0]);
    let mut found = Vec::new();
    // Loss of power takes all of one kind to where they began, or none.
    for retained in [false, true] {
        let fits = |r: &usize| own[*r] && registers[*r].retained == retained && registers[*r].place.width <= WIDE;
        let mut all: Vec<usize> = (0..registers.len()).filter(|r| fits(r) && moves(*r)).collect();
        // Numbers first; bits, which may be counted together, as far as there is room.
        all.sort_by_key(|r| registers[*r].place.width == 1);
        all.truncate(MOST);
        if all.len() > 2 {
            found.extend(Space::of(&values.of, &all).equations().filter_map(|k| equation(&values.of, &all, &k)));
        }
    }
    found
}

/// The equation with these factors, if it holds in all states.
fn equation(values: &[Vec<i64>], all: &[usize], factors: &[i64]) -> Option<Fact> {
    let mut terms: Vec<(usize, i64)> = all.iter().copied().zip(factors.iter().copied()).filter(|t| t.1 != 0).collect();
    let is_plain = terms.len() == 3 && terms.iter().all(|(_, k)| k.abs() == 1);
    if terms.len() < 3 || terms.len() > MOST_TERMS || is_plain {
        return None;
    }
    terms.sort_unstable();
    if terms[0].1 < 0 {
        terms.iter_mut().for_each(|(_, k)| *k = -*k);
    }
    let sum =
        |state: usize| -> i128 { terms.iter().map(|(r, k)| i128::from(*k) * i128::from(values[*r][state])).sum() };
    let first = sum(0);
    let c = i64::try_from(first).ok()?;
    let states = values[terms[0].0].len();
    let holds = (0..states).all(|state| sum(state) == first);
    holds.then_some(Fact { guard: Guard::Always, claim: Claim::Sum { terms, c, is_most: false } })
}

/// The directions in which states lie from the first of them: rows of which each has a column for itself, modulo the prime.
struct Space {
    columns: usize,
    rows: Vec<(usize, Vec<u64>)>,
}

impl Space {
    fn of(values: &[Vec<i64>], all: &[usize]) -> Space {
        let mut space = Space { columns: all.len(), rows: Vec::new() };
        let states = values[all[0]].len();
        for state in 1..states {
            space.add(all.iter().map(|r| modulo(values[*r][state].wrapping_sub(values[*r][0]))).collect());
            if space.rows.len() == space.columns {
                break;
            }
        }
        space
    }

    fn add(&mut self, mut row: Vec<u64>) {
        for (pivot, known) in &self.rows {
            less(&mut row, known, *pivot);
        }
        let Some(pivot) = row.iter().position(|v| *v != 0) else { return };
        let inverse = power(row[pivot], PRIME - 2);
        row.iter_mut().for_each(|v| *v = times(*v, inverse));
        for (_, known) in &mut self.rows {
            less(known, &row, pivot);
        }
        self.rows.push((pivot, row));
    }

    /// For each column that no row has for itself: so many times each of the others it is, as factors of an equation.
    fn equations(&self) -> impl Iterator<Item = Vec<i64>> {
        let is_free = |column: &usize| self.rows.iter().all(|(pivot, _)| pivot != column);
        (0..self.columns).filter(is_free).filter_map(|column| {
            let parts: Option<Vec<(usize, (i64, i64))>> =
                self.rows.iter().map(|(pivot, row)| Some((*pivot, fraction(row[column])?))).collect();
            let parts = parts?;
            let common = parts.iter().try_fold(1i64, |all, (_, (_, below))| {
                let by = below / crate::model::ops::gcd(all, *below);
                all.checked_mul(by).filter(|all| *all <= MOST_TIMES)
            })?;
            let mut out = vec![0; self.columns];
            out[column] = common;
            for (pivot, (above, below)) in parts {
                out[pivot] = -above.checked_mul(common / below).filter(|k| k.abs() <= MOST_TIMES)?;
            }
            Some(out)
        })
    }
}

/// Takes so much of a row away that nothing is left in a column.
fn less(row: &mut [u64], of: &[u64], column: usize) {
    let by = row[column];
    if by != 0 {
        row.iter_mut().zip(of).for_each(|(v, k)| *v = modulo_of(*v + PRIME - times(*k, by)));
    }
}

fn modulo_of(value: u64) -> u64 {
    if value >= PRIME { value - PRIME } else { value }
}

fn modulo(value: i64) -> u64 {
    value.rem_euclid(PRIME as i64) as u64
}

fn times(a: u64, b: u64) -> u64 {
    (u128::from(a) * u128::from(b) % u128::from(PRIME)) as u64
}

fn power(mut base: u64, mut to: u64) -> u64 {
    let mut out = 1;
    while to > 0 {
        if to & 1 == 1 {
            out = times(out, base);
        }
        base = times(base, base);
        to >>= 1;
    }
    out
}

/// The fraction of two small numbers that a number stands for, if there is one.
fn fraction(value: u64) -> Option<(i64, i64)> {
    let (mut a, mut b) = (PRIME as i64, value as i64);
    let (mut x, mut y) = (0i64, 1i64);
    while b > MOST_TIMES {
        let by = a / b;
        (a, b) = (b, a - by * b);
        (x, y) = (y, x.checked_sub(by.checked_mul(y)?)?);
    }
    let (above, below) = if y < 0 { (-b, -y) } else { (b, y) };
    (below != 0 && below <= MOST_TIMES).then_some((above, below))
}
