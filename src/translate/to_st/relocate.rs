//! Bringing code to where it is decided on.
//!
//! Lists often say `JMPC Small ... JMP Known; Small: ...; JMP Known; Middle: ...; Known:`. A piece that only one
//! jump leads to, and that ends with a jump, can stand right behind that jump; then it has the shape of a branch.

use super::flow::{Flat, entered};
use super::simplify::negate;
use crate::model::Notes;
use crate::source::Span;
use std::collections::HashSet;

/// Moves one piece; false if there is none to move. No jump gets its piece twice, so this comes to an end.
pub(super) fn one(flat: &mut Vec<Flat>, done: &mut HashSet<Span>) -> bool {
    let fresh = |jump: &usize| !done.contains(&span_of(&flat[*jump]));
    let candidate = (0..flat.len()).filter(fresh).find_map(|jump| piece(flat, jump).map(|(from, to)| (jump, from, to)));
    let Some((jump, from, to)) = candidate else { return false };
    done.insert(span_of(&flat[jump]));
    let ends = leaves(&flat[to - 1]);
    let mut moved: Vec<Flat> = flat[from..to].to_vec();
    if !ends {
        // It falls into what follows; away from there it must jump.
        moved.push(Flat::Jump(None, to, span_of(&flat[to - 1]), Notes::default()));
    }
    // Old line numbers to new ones: the piece goes right behind the jump.
    let added = moved.len();
    let renumber = |line: usize| match line {
        l if l <= jump => l,
        l if l < from => l + added,
        l if l < to => l - from + jump + 1,
        l => l + added - (to - from),
    };
    let mut out: Vec<Flat> = Vec::with_capacity(flat.len() + 1);
    out.extend(flat[..=jump].iter().cloned());
    out.extend(moved);
    out.extend(flat[jump + 1..from].iter().cloned());
    out.extend(flat[to..].iter().cloned());
    for line in &mut out {
        if let Flat::Jump(_, target, ..) = line {
            *target = renumber(*target);
        }
    }
    // The jump now goes over the piece, if its condition does not hold.
    if let Flat::Jump(Some(condition), target, ..) = &mut out[jump] {
        *condition = negate(condition);
        *target = jump + 1 + added;
    }
    *flat = out;
    true
}

/// The piece that the conditional jump at `jump` leads to, if it can be moved.
fn piece(flat: &[Flat], jump: usize) -> Option<(usize, usize)> {
    let Flat::Jump(Some(_), from, ..) = &flat[jump] else { return None };
    let from = *from;
    if from <= jump + 1 || from >= flat.len() || !leaves(&flat[from - 1]) {
        return None;
    }
    let (mut to, mut furthest) = (from, from);
    loop {
        let line = flat.get(to)?;
        if let Flat::Jump(_, target, ..) = line
            && *target > to
            && *target < flat.len()
            && !entered_elsewhere(flat, *target, from..to + 1)
        {
            furthest = furthest.max(*target);
        }
        to += 1;
        let falls_into_label = targeted(flat, to) && entered_elsewhere(flat, to, from..to);
        if to > furthest && (leaves(line) || falls_into_label) {
            break;
        }
    }
    (!entered(flat, from, to, jump)).then_some((from, to))
}

/// True if a jump from outside `inside` leads to a line.
fn entered_elsewhere(flat: &[Flat], line: usize, inside: std::ops::Range<usize>) -> bool {
    flat.iter()
        .enumerate()
        .any(|(at, l)| matches!(l, Flat::Jump(_, target, ..) if *target == line) && !inside.contains(&at))
}

fn targeted(flat: &[Flat], line: usize) -> bool {
    flat.iter().any(|l| matches!(l, Flat::Jump(_, target, ..) if *target == line))
}

/// True if nothing comes behind a line but by jumping there.
fn leaves(line: &Flat) -> bool {
    matches!(line, Flat::Jump(None, ..) | Flat::Return(None, ..))
}

fn span_of(line: &Flat) -> Span {
    match line {
        Flat::Stmt(stmt) => stmt.span,
        Flat::Jump(_, _, span, _) | Flat::Return(_, span, _) => *span,
    }
}
