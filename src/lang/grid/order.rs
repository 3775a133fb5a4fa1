//! Which elements are one network, and in what order they run.

use super::Style;
use super::join::{LEFT, RIGHT};
use crate::model::{Element, ElementKind, Spot, Users, Wire};
use crate::source::{Diagnostic, Span, codes};
use std::collections::BTreeMap;

/// An element with its wires not yet numbered: each [`Wire`] in it is the number of a net.
pub(crate) struct Draft {
    pub(crate) kind: ElementKind,
    pub(crate) span: Span,
    pub(crate) strip: usize,
    pub(crate) column: usize,
    pub(crate) row: usize,
    /// Where it was drawn, if a file says so, and what other tools keep with it.
    pub(crate) at: Option<Spot>,
    pub(crate) kept: Vec<String>,
}

/// Symbols that stand one above the other are seldom aligned to the character.
pub(crate) const NEAR: usize = 3;
/// The first wire that is no rail.
pub(crate) const FIRST_WIRE: u32 = 2;

/// The networks that drafts make, from the top, each in the order in which it runs. What stands less than `near` right
/// of the leftmost of a column is in that column.
pub(crate) fn networks(
    drafts: Vec<Draft>,
    style: Style,
    near: usize,
    problems: &mut Vec<Diagnostic>,
) -> Vec<Vec<Draft>> {
    check_feeds(&drafts, style, problems);
    let groups = groups(drafts);
    groups
        .into_iter()
        .map(|group| match style {
            Style::Ladder => by_column(group, near),
            Style::Blocks => by_readiness(group),
        })
        .collect()
}

impl From<Draft> for Element {
    fn from(draft: Draft) -> Element {
        Element { kind: draft.kind, span: draft.span, at: draft.at, kept: draft.kept }
    }
}

fn check_feeds(drafts: &[Draft], style: Style, problems: &mut Vec<Diagnostic>) {
    let (fed, taken) = usage(drafts);
    let mut found = Vec::new();
    for (wire, users) in &taken {
        let feeders = fed.get(wire).map_or(&[][..], Vec::as_slice);
        let is_rail = *wire == Wire(LEFT as u32) && style == Style::Ladder;
        if feeders.is_empty() && !is_rail {
            found.push((drafts[users[0]].span, "nothing feeds the wire that leads here"));
        }
        if is_rail && let Some(feeder) = feeders.first() {
            found.push((drafts[*feeder].span, "this hands its power to the left rail"));
        }
        if style == Style::Blocks
            && let Some(second) = feeders.get(1)
        {
            found.push((drafts[*second].span, "two outputs meet on this wire; join them with an OR box"));
        }
        let last = feeders.iter().map(|f| place(&drafts[*f])).max();
        if feeders.len() > 1
            && let Some(user) = users.iter().find(|u| Some(place(&drafts[**u])) < last)
        {
            found.push((
                drafts[*user].span,
                "the wire that leads here is also fed from further right; power flows from left to right",
            ));
        }
    }
    // Where a part could not be read it may have been that which takes the value.
    let all_read = problems.is_empty() && found.is_empty();
    for draft in drafts.iter().filter(|_| all_read) {
        if let ElementKind::Source { to, .. } = &draft.kind
            && !taken.contains_key(to)
        {
            found.push((draft.span, "nothing takes this value"));
        }
    }
    for (span, message) in found {
        problems.push(Diagnostic::error(codes::DRAWING, span, message));
    }
}

/// Which drafts feed each wire, and which take it.
fn usage(drafts: &[Draft]) -> (Users, Users) {
    crate::model::usage(drafts.iter().map(|d| &d.kind))
}

fn place(draft: &Draft) -> (usize, usize) {
    (draft.strip, draft.column)
}

/// Drafts that hang together, other than by the rail, are a network; networks run from the top.
fn groups(drafts: Vec<Draft>) -> Vec<Vec<Draft>> {
    let roots = crate::model::joined(drafts.iter().map(|d| &d.kind), |wire| wire.0 as usize > RIGHT);
    let mut groups: BTreeMap<usize, Vec<Draft>> = BTreeMap::new();
    for (draft, root) in drafts.into_iter().zip(roots) {
        groups.entry(root).or_default().push(draft);
    }
    let mut out: Vec<Vec<Draft>> = groups.into_values().collect();
    out.sort_by_key(|group| group.iter().map(|d| (d.strip, d.row)).min());
    if out.is_empty() {
        out.push(Vec::new());
    }
    out
}

/// Ladder: by column, from the top within a column. A value on a wire is read when the first element takes it.
fn by_column(drafts: Vec<Draft>, near: usize) -> Vec<Draft> {
    let (mut sources, mut rest): (Vec<Draft>, Vec<Draft>) =
        drafts.into_iter().partition(|d| matches!(d.kind, ElementKind::Source { .. }));
    let places: Vec<(usize, usize, usize)> = rest.iter().map(|d| (d.strip, d.column, d.row)).collect();
    let mut rest: Vec<Option<Draft>> = rest.drain(..).map(Some).collect();
    let ordered = in_columns(&places, near).into_iter().filter_map(|at| rest[at].take()).collect();
    with_sources(&mut sources, ordered)
}

/// Numbers of places (strip, column, row) by column, and from the top within one.
pub(crate) fn in_columns(places: &[(usize, usize, usize)], near: usize) -> Vec<usize> {
    let mut order: Vec<usize> = (0..places.len()).collect();
    order.sort_by_key(|at| places[*at]);
    let mut column = 0;
    let mut first: Option<(usize, usize)> = None;
    let mut columns = vec![0; places.len()];
    for at in &order {
        let (strip, x, _) = places[*at];
        if !first.is_some_and(|(s, left)| s == strip && x < left + near) {
            column += 1;
            first = Some((strip, x));
        }
        columns[*at] = column;
    }
    order.sort_by_key(|at| (columns[*at], places[*at].2));
    order
}

fn with_sources(sources: &mut Vec<Draft>, ordered: Vec<Draft>) -> Vec<Draft> {
    let mut out = Vec::new();
    for draft in ordered {
        draft.kind.inputs(&mut |wire| {
            let feeds = |d: &Draft| matches!(d.kind, ElementKind::Source { to, .. } if to == wire);
            while let Some(at) = sources.iter().position(feeds) {
                out.push(sources.remove(at));
            }
        });
        out.push(draft);
    }
    out
}

/// Function block diagram: what has all its inputs, the topmost first. A wire that leads back to the left does not
/// count: it carries the value of the previous evaluation.
fn by_readiness(drafts: Vec<Draft>) -> Vec<Draft> {
    let (mut sources, mut waiting): (Vec<Draft>, Vec<Draft>) =
        drafts.into_iter().partition(|d| matches!(d.kind, ElementKind::Source { .. }));
    waiting.sort_by_key(|d| (d.strip, d.row, d.column));
    let mut out: Vec<Draft> = Vec::new();
    while !waiting.is_empty() {
        let (fed, _) = usage(&waiting);
        let ready = waiting.iter().position(|draft| {
            let mut ready = true;
            draft.kind.inputs(&mut |wire| {
                let feeders = fed.get(&wire).map_or(&[][..], Vec::as_slice);
                ready &= feeders.iter().all(|f| place(&waiting[*f]) >= place(draft));
            });
            ready
        });
        // Positions grow along every wire that counts, so something is ready.
        out.push(waiting.remove(ready.unwrap_or(0)));
    }
    with_sources(&mut sources, out)
}
