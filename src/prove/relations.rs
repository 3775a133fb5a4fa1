//! What two and three numbers say of each other, read off states that occur: one is never above another, two never come to more
//! than a constant of the program, a sum is the same as another number.

use super::facts::{Claim, Fact, Guard};
use super::seek::Values;
use super::system::System;
use std::collections::HashSet;

/// Relations at most, of each kind.
const MOST: usize = 60;

/// Numbers at most of which three are looked at.
const MOST_OF_THREE: usize = 24;

/// Numbers at most of which two are looked at.
const MOST_OF_TWO: usize = 120;

/// A number of more bits has no part in sums: they would not fit.
const WIDE: u8 = 60;

/// Relations between some registers, by what they held; `same` are pairs of which a line is known.
pub(super) fn relations(system: &System, values: &Values, wide: &[usize], same: &HashSet<(usize, usize)>) -> Vec<Fact> {
    let registers = &system.plan.registers;
    let is_told = |a: usize, b: usize| same.contains(&(a, b)) || same.contains(&(b, a));
    let fits = |r: &usize| registers[*r].place.width <= WIDE && values.of[*r].iter().any(|v| *v != values.of[*r][0]);
    let all: Vec<usize> = wide.iter().copied().filter(fits).take(MOST_OF_TWO).collect();
    // What is counted in other units has nothing to do with each other, nor has what power loss treats in another way.
    let alike = |a: usize, b: usize| {
        registers[a].unit == registers[b].unit && registers[a].retained == registers[b].retained && !is_told(a, b)
    };
    let sum = |plus: &[usize], minus: &[usize], c: i64, is_most: bool| Fact {
        guard: Guard::Always,
        claim: Claim::Sum {
            terms: plus.iter().map(|r| (*r, 1)).chain(minus.iter().map(|r| (*r, -1))).collect(),
            c,
            is_most,
        },
    };
    let mut ordered = Vec::new();
    let mut bounded = Vec::new();
    for (number, &a) in all.iter().enumerate() {
        for &b in all[..number].iter().filter(|b| alike(a, **b)) {
            let pairs = || values.of[a].iter().zip(&values.of[b]);
            let (least, most) = pairs().fold((i64::MAX, i64::MIN), |(least, most), (a, b)| {
                (least.min(a.wrapping_sub(*b)), most.max(a.wrapping_sub(*b)))
            });
            if (-1..=1).contains(&most) {
                ordered.push(sum(&[a], &[b], most, true));
            }
            if (-1..=1).contains(&least) {
                ordered.push(sum(&[b], &[a], -least, true));
            }
            let together = pairs().map(|(a, b)| a.wrapping_add(*b)).max().unwrap_or(0);
            if system.counts.contains(&together) {
                bounded.push(sum(&[a, b], &[], together, true));
            }
        }
    }
    let few = &all[..all.len().min(MOST_OF_THREE)];
    let mut out = of_three(values, few, alike, sum);
    for mut more in [ordered, bounded] {
        more.truncate(MOST);
        out.extend(more);
    }
    out
}

/// Sums of two that are another one, but for a constant; and of which nothing but that they are never more.
fn of_three(
    values: &Values,
    all: &[usize],
    alike: impl Fn(usize, usize) -> bool,
    sum: impl Fn(&[usize], &[usize], i64, bool) -> Fact,
) -> Vec<Fact> {
    let (mut equal, mut below) = (Vec::new(), Vec::new());
    for (number, &a) in all.iter().enumerate() {
        for (second, &b) in all[..number].iter().enumerate() {
            for &c in &all[..second] {
                if !(alike(a, b) && alike(b, c) && alike(a, c)) {
                    continue;
                }
                let each = || values.of[a].iter().zip(&values.of[b]).zip(&values.of[c]);
                let ((a0, b0), c0) = ((values.of[a][0], values.of[b][0]), values.of[c][0]);
                if each().all(|((x, y), z)| x - a0 + (y - b0) + (z - c0) == 0) {
                    equal.push(sum(&[a, b, c], &[], a0 + b0 + c0, false));
                }
                for (p, q, r) in [(a, b, c), (a, c, b), (b, c, a)] {
                    let differences =
                        || values.of[p].iter().zip(&values.of[q]).zip(&values.of[r]).map(|((p, q), r)| p + q - r);
                    let first = differences().next().unwrap_or(0);
                    if differences().all(|d| d == first) {
                        equal.push(sum(&[p, q], &[r], first, false));
                    } else if differences().all(|d| d <= 0) {
                        below.push(sum(&[p, q], &[r], 0, true));
                    } else if differences().all(|d| d >= 0) {
                        below.push(sum(&[r], &[p, q], 0, true));
                    }
                }
            }
        }
    }
    equal.truncate(MOST);
    below.truncate(MOST / 2);
    equal.extend(below);
    equal
}
