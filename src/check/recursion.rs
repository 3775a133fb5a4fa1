//! No unit may reach itself through calls or through the instances it holds.

use super::env::Env;
use super::typed::{Ty, UnitId};
use crate::source::{Diagnostic, Span, codes};
use std::collections::HashSet;

/// Finds circles of instances before anything is laid out; circles of function calls are found in [`calls`].
pub(super) fn check(env: &mut Env<'_>) {
    let mut edges: Vec<(UnitId, UnitId, Span)> = Vec::new();
    for (index, unit) in env.units.iter().enumerate() {
        for var in &unit.vars {
            held(env, &var.ty, &mut |to| edges.push((UnitId(index as u32), to, var.span)));
        }
    }
    report(env, &edges);
}

/// Finds circles of calls, after the bodies were checked.
pub(super) fn calls(env: &mut Env<'_>) {
    // A call of an instance that the unit holds itself has been looked at with the instances.
    let mut own: HashSet<(u32, UnitId)> = HashSet::new();
    for (index, unit) in env.units.iter().enumerate() {
        for var in &unit.vars {
            held(env, &var.ty, &mut |to| {
                own.insert((index as u32, to));
            });
        }
    }
    let edges: Vec<_> = env.calls.iter().filter(|(from, to, _)| !own.contains(&(from.0, *to))).copied().collect();
    report(env, &edges);
}

/// The function blocks a type holds.
fn held(env: &Env<'_>, ty: &Ty, found: &mut impl FnMut(UnitId)) {
    match ty {
        Ty::Block(unit) => found(*unit),
        Ty::Array(array) => held(env, &array.of, found),
        Ty::Struct(id) => {
            for field in &env.structs[*id as usize].fields {
                held(env, &field.ty, found);
            }
        }
        Ty::Elem(_)
        | Ty::Text(_)
        | Ty::Range(..)
        | Ty::Enum(_)
        | Ty::Watch
        | Ty::LitInt
        | Ty::LitReal
        | Ty::Unknown(_) => {}
    }
}

/// Reports each way by which a unit reaches itself: the edges between units of one circle.
fn report(env: &mut Env<'_>, edges: &[(UnitId, UnitId, Span)]) {
    let circles = circles(env.units.len(), edges);
    for (from, to, span) in edges {
        if circles[from.0 as usize] != circles[to.0 as usize] || circles[from.0 as usize].is_none() {
            continue;
        }
        let name = env.units[to.0 as usize].name.clone();
        let problem = Diagnostic::error(codes::RECURSION, *span, format!("`{name}` reaches itself here"))
            .help("a controller has no recursion; use a loop");
        if !env.problems.contains(&problem) {
            env.problems.push(problem);
        }
    }
}

/// For each unit the circle that it is part of: the strongly connected components that have an edge.
fn circles(count: usize, edges: &[(UnitId, UnitId, Span)]) -> Vec<Option<u32>> {
    let (mut onward, mut back) = (vec![Vec::new(); count], vec![Vec::new(); count]);
    let mut seen = HashSet::new();
    for (from, to, _) in edges {
        if seen.insert((from.0, to.0)) {
            onward[from.0 as usize].push(to.0 as usize);
            back[to.0 as usize].push(from.0 as usize);
        }
    }
    // Units in the order in which a walk along the edges is done with them; against that order, those that are reached
    // backwards make one component.
    let mut order = Vec::new();
    let mut reached = vec![false; count];
    for start in 0..count {
        let mut open = vec![(start, 0)];
        if std::mem::replace(&mut reached[start], true) {
            continue;
        }
        while let Some((unit, next)) = open.last_mut() {
            match onward[*unit].get(*next) {
                Some(&to) => {
                    *next += 1;
                    if !std::mem::replace(&mut reached[to], true) {
                        open.push((to, 0));
                    }
                }
                None => {
                    order.push(*unit);
                    open.pop();
                }
            }
        }
    }
    let mut out: Vec<Option<u32>> = vec![None; count];
    let mut taken = vec![false; count];
    for (number, &start) in order.iter().rev().enumerate() {
        if std::mem::replace(&mut taken[start], true) {
            continue;
        }
        let mut members = vec![start];
        let mut at = 0;
        while let Some(&unit) = members.get(at) {
            at += 1;
            for &from in &back[unit] {
                if !std::mem::replace(&mut taken[from], true) {
                    members.push(from);
                }
            }
        }
        if members.len() > 1 || onward[start].contains(&start) {
            members.iter().for_each(|unit| out[*unit] = Some(number as u32));
        }
    }
    out
}
