//! What leads from the rail to a wire: conditions in series, and ways beside each other.

use crate::model::ops::BinaryOp;
use crate::model::{Expr, Wire};
use crate::source::{FileId, Span};

/// A condition on the way to a wire: one contact, or what leads from one wire to another on several ways.
#[derive(Clone)]
pub(super) struct Term {
    /// The ways, each with the number of its first element, which says which stands above which.
    pub(super) ways: Vec<(usize, Expr)>,
    /// The wire behind it.
    pub(super) behind: Wire,
}

impl Term {
    pub(super) fn one(at: usize, expr: Expr, behind: Wire) -> Term {
        Term { ways: vec![(at, expr)], behind }
    }

    pub(super) fn expr(&self) -> Expr {
        let ways = self.ways.iter().map(|(_, e)| e.clone());
        ways.reduce(|a, b| {
            let span = a.span.to(b.span);
            Expr::binary(BinaryOp::Or, a, b).at(span)
        })
        .unwrap_or_else(|| Expr::truth(false, Span { file: FileId(0), start: 0, end: 0 }))
    }

    pub(super) fn first(&self) -> usize {
        self.ways.first().map_or(0, |(at, _)| *at)
    }
}

pub(super) fn all(terms: &[Term]) -> Option<Expr> {
    terms.iter().map(Term::expr).reduce(|a, b| {
        let span = a.span.to(b.span);
        Expr::binary(BinaryOp::And, a, b).at(span)
    })
}

/// What a wire carries.
pub(super) struct Carried {
    /// The conditions on the way from the rail, or the one value.
    pub(super) terms: Vec<Term>,
    /// How many elements have not taken it yet.
    pub(super) left: usize,
    /// The wire whose power this is: behind EN and ENO it is the same.
    pub(super) power: Wire,
}

/// Two ways to one wire. What they have in common stands once; the rest stands beside each other, the upper first.
pub(super) fn parallel(a: Vec<Term>, b: Vec<Term>, to: Wire) -> Vec<Term> {
    let joined = |terms: &[Term]| terms.last().is_some_and(|t| t.ways.len() > 1 && t.behind == to);
    let limit = a.len().saturating_sub(1).min(b.len().saturating_sub(1));
    let same = (0..limit).take_while(|at| a[*at].behind == b[*at].behind).count();
    let mut ways: Vec<(usize, Expr)> = Vec::new();
    for terms in [&a[same..], &b[same..]] {
        match terms {
            // Ways that are beside each other already.
            [only] if joined(terms) => ways.extend(only.ways.iter().cloned()),
            _ => ways.extend(all(terms).map(|e| (terms[0].first(), e))),
        }
    }
    ways.sort_by_key(|(at, _)| *at);
    let mut out = a[..same].to_vec();
    out.push(Term { ways, behind: to });
    out
}
