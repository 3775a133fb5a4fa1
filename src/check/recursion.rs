//! No unit may reach itself through calls or through the instances it holds.

use super::env::Env;
use super::typed::{Ty, UnitId};
use crate::source::{Diagnostic, Span, codes};

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
    let edges = env.calls.clone();
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

fn report(env: &mut Env<'_>, edges: &[(UnitId, UnitId, Span)]) {
    let count = env.units.len();
    for start in 0..count {
        let start = UnitId(start as u32);
        let mut reached = vec![false; count];
        let mut open = vec![start];
        while let Some(unit) = open.pop() {
            for (from, to, span) in edges {
                if *from != unit {
                    continue;
                }
                if *to == start {
                    let name = env.units[start.0 as usize].name.clone();
                    let problem = Diagnostic::error(codes::RECURSION, *span, format!("`{name}` reaches itself here"))
                        .help("a controller has no recursion; use a loop");
                    if !env.problems.contains(&problem) {
                        env.problems.push(problem);
                    }
                }
                if !std::mem::replace(&mut reached[to.0 as usize], true) {
                    open.push(*to);
                }
            }
        }
    }
}
