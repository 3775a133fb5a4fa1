//! From a network to a plan: what stands where, in characters. Text and pictures are both painted from it.
//!
//! The plan keeps the meaning: read back, the elements run in the same order, or in one that makes no difference.

use super::Style;
use super::order::{NEAR, in_columns};
use super::place::{Orders, Placement, Usage, channel_behind, place, slot};
use crate::lang::st::expression;
use crate::model::functions::Function;
use crate::model::{Block, Element, ElementKind, Expr, Feed, Network, Wire};
use std::collections::{BTreeMap, BTreeSet};

/// Width of a page of text.
pub(crate) const PAGE: usize = 150;
/// How often a network is laid out anew until it stays.
const SETTLING: usize = 12;
/// More elements that must not run side by side than this, and all are drawn one behind another.
const MOST_ORDERS: usize = 60;

/// How much room an element needs, in characters, and where its wires meet it.
#[derive(Clone, Debug, Default)]
pub(crate) struct Measure {
    pub(crate) height: usize,
    /// Left of the symbol or box: values at its inputs, half of a long name.
    pub(crate) left: usize,
    /// The symbol or box itself.
    pub(crate) body: usize,
    /// Right of it.
    pub(crate) right: usize,
    /// Rows of wires at the left and at the right.
    pub(crate) inputs: Vec<(Wire, usize)>,
    pub(crate) outputs: Vec<(Wire, usize)>,
    /// The row on which a coil is joined to the right rail.
    pub(crate) tail: Option<usize>,
    /// Rows of a box's pins, inputs and outputs.
    pub(crate) pins: (Vec<usize>, Vec<usize>),
}

/// An element on the plan; `x` is where its symbol or box begins, `y` the line of its topmost text.
#[derive(Clone, Debug)]
pub(crate) struct Shape {
    pub(crate) x: usize,
    pub(crate) y: usize,
    pub(crate) measure: Measure,
}

/// A straight piece of a wire, both ends included.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Line {
    pub(crate) wire: Wire,
    pub(crate) from: (usize, usize),
    pub(crate) to: (usize, usize),
}

/// Where everything is.
#[derive(Clone, Debug)]
pub(crate) struct Plan {
    /// By element.
    pub(crate) shapes: Vec<Shape>,
    pub(crate) lines: Vec<Line>,
    /// Columns at which a drawing that is too wide for a page is cut: nothing but horizontal wires is there.
    pub(crate) cuts: Vec<usize>,
    pub(crate) width: usize,
    pub(crate) height: usize,
    /// Columns of the rails of a ladder.
    pub(crate) rails: Option<(usize, usize)>,
    /// Pieces of wire from coils to the right rail.
    pub(crate) tails: Vec<Line>,
    /// The elements in the order in which the drawing is read.
    pub(crate) order: Vec<usize>,
}

/// What a drawing is laid out on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Paper {
    /// Pages of a width in characters: what is wider is cut and goes on below.
    Page(usize),
    /// As wide as it gets.
    Endless,
}

/// Lays out a network.
pub(crate) fn plan(network: &Network, style: Style, paper: Paper) -> Plan {
    let mut drawn = network.clone();
    let mut order: Vec<usize> = (0..network.elements.len()).collect();
    // The order in which equal things are placed is the order in which they will be read: laid out in that order
    // again, nothing moves.
    for _ in 0..SETTLING {
        let (plan, read) = kept(&drawn, style, paper, false);
        if read.iter().enumerate().all(|(a, b)| a == *b) {
            return in_order(plan, &order);
        }
        drawn.elements = read.iter().map(|at| drawn.elements[*at].clone()).collect();
        order = read.iter().map(|at| order[*at]).collect();
    }
    // One behind another they cannot but be read in the order they have.
    kept(network, style, paper, true).0
}

/// The shapes in the order of the network that was given.
fn in_order(plan: Plan, order: &[usize]) -> Plan {
    let mut shapes: Vec<(usize, Shape)> = order.iter().copied().zip(plan.shapes).collect();
    shapes.sort_by_key(|(at, _)| *at);
    Plan { shapes: shapes.into_iter().map(|(_, shape)| shape).collect(), order: order.to_vec(), ..plan }
}

/// A plan that keeps the order wherever it matters, and the order in which it will be read.
fn kept(network: &Network, style: Style, paper: Paper, strictly: bool) -> (Plan, Vec<usize>) {
    let measures: Vec<Measure> = network.elements.iter().map(|e| measure(e, style)).collect();
    let usage = Usage::of(network);
    let effects: Vec<Effects> = network.elements.iter().map(Effects::of).collect();
    let mut orders = if strictly { strict(network, style) } else { Orders::default() };
    loop {
        let placement = place(network, &measures, style, &usage, &orders);
        let mut plan = geometry(&measures, &usage, &placement, style, paper);
        if strictly && style == Style::Blocks {
            // What is below a cut runs later, whatever stands above what.
            plan.cuts.clear();
        }
        let read = reading_order(network, &plan, style, &usage);
        let wrong = violation(&read, &effects);
        let Some((first, second)) = wrong.filter(|_| !strictly) else { return (plan, read) };
        if style == Style::Blocks || orders.after.len() > MOST_ORDERS {
            return kept(network, style, paper, true);
        }
        orders.after.insert((first, second));
        orders.early.insert(first);
    }
}

/// Ladder: each element in a column of its own. Function block diagram: each below the one before.
fn strict(network: &Network, style: Style) -> Orders {
    let count = network.elements.len();
    let is_source = |at: usize| matches!(network.elements[at].kind, ElementKind::Source { .. });
    let mut run = (0..count).filter(|at| !is_source(*at));
    let mut orders = Orders { stairs: style == Style::Blocks, early: (0..count).collect(), ..Orders::default() };
    if style == Style::Ladder
        && let Some(mut first) = run.next()
    {
        for second in run {
            orders.after.insert((first, second));
            first = second;
        }
    }
    orders
}

/// The order in which the plan's elements run when the drawing is read.
fn reading_order(network: &Network, plan: &Plan, style: Style, usage: &Usage) -> Vec<usize> {
    let is_source = |at: usize| matches!(network.elements[at].kind, ElementKind::Source { .. });
    let mut waiting: Vec<usize> = (0..plan.shapes.len()).filter(|at| !is_source(*at)).collect();
    let strip = |at: usize| plan.cuts.iter().filter(|c| **c <= plan.shapes[at].x).count();
    let place = |at: usize| (plan.shapes[at].x, top(&plan.shapes[at], &network.elements[at].kind));
    let mut ordered = Vec::new();
    if style == Style::Ladder {
        let places: Vec<(usize, usize, usize)> =
            waiting.iter().map(|at| (strip(*at), place(*at).0, place(*at).1)).collect();
        ordered.extend(in_columns(&places, NEAR).into_iter().map(|at| waiting[at]));
    } else {
        waiting.sort_by_key(|at| (strip(*at), place(*at).1, place(*at).0));
        let mut waits = vec![false; plan.shapes.len()];
        waiting.iter().for_each(|at| waits[*at] = true);
        while !waiting.is_empty() {
            let ready = waiting.iter().position(|at| {
                let mut ready = true;
                network.elements[*at].kind.inputs(&mut |wire| {
                    let feeders = usage.feeders(wire).iter().filter(|f| waits[**f]);
                    ready &= feeders.into_iter().all(|f| plan.shapes[*f].x >= plan.shapes[*at].x);
                });
                ready
            });
            let next = waiting.remove(ready.unwrap_or(0));
            waits[next] = false;
            ordered.push(next);
        }
    }
    let mut out = Vec::new();
    let mut sources: Vec<usize> = (0..plan.shapes.len()).filter(|at| is_source(*at)).collect();
    for at in ordered {
        network.elements[at].kind.inputs(&mut |wire| {
            while let Some(s) = sources.iter().position(|s| usage.feeders(wire).contains(s)) {
                out.push(sources.remove(s));
            }
        });
        out.push(at);
    }
    out.extend(sources);
    out
}

/// The line of the symbol or of the box's upper edge.
fn top(shape: &Shape, kind: &ElementKind) -> usize {
    shape.y + title_lines(kind)
}

/// Lines of names above the symbol or box.
pub(crate) fn title_lines(kind: &ElementKind) -> usize {
    match kind {
        ElementKind::Contact { .. } | ElementKind::Compare { .. } | ElementKind::Coil { .. } => 1,
        ElementKind::Block(block) => usize::from(block.instance.is_some()),
        ElementKind::Source { .. }
        | ElementKind::Sink { .. }
        | ElementKind::Jump { .. }
        | ElementKind::Return { .. } => 0,
    }
}

/// Two elements that would be read in the wrong order.
fn violation(read: &[usize], effects: &[Effects]) -> Option<(usize, usize)> {
    for (position, second) in read.iter().enumerate() {
        let passed = read[position + 1..].iter().filter(|first| *first < second);
        for first in passed {
            if effects[*first].touches(&effects[*second]) {
                return Some((*first, *second));
            }
        }
    }
    None
}

/// What an element reads and writes, as far as the drawing alone can tell.
#[derive(Default)]
struct Effects {
    reads: BTreeSet<String>,
    writes: BTreeSet<String>,
    /// Does something that must not move across a jump.
    acts: bool,
    leaves: bool,
    /// Calls code that may touch any variable.
    opaque: bool,
}

impl Effects {
    fn of(element: &Element) -> Effects {
        use crate::model::ContactForm::{Falling, Rising};
        let mut out = Effects::default();
        match &element.kind {
            ElementKind::Contact { operand, form, .. } => {
                out.read(operand);
                out.acts = matches!(form, Rising | Falling);
            }
            ElementKind::Compare { left, right, .. } => {
                out.read(left);
                out.read(right);
            }
            ElementKind::Coil { target, drive, .. } => {
                out.write(target);
                drive.iter().filter_map(|d| d.below.as_ref()).for_each(|b| out.read(b));
            }
            ElementKind::Sink { target, .. } => out.write(target),
            ElementKind::Source { value, .. } => out.read(value),
            ElementKind::Jump { .. } | ElementKind::Return { .. } => out.leaves = true,
            ElementKind::Block(block) => out.block(block),
        }
        out
    }

    fn block(&mut self, block: &Block) {
        self.opaque = block.instance.is_none() && Function::from_name(&block.name.text).is_none()
            || block.instance.is_some() && !is_standard_block(&block.name.text);
        self.acts = true;
        if let Some(instance) = &block.instance {
            self.write(instance);
        }
        for pin in &block.inputs {
            if let Feed::Value(value) = &pin.feed {
                self.read(value);
            }
        }
        block.outputs.iter().filter_map(|p| p.target.as_ref()).for_each(|t| self.write(t));
    }

    fn read(&mut self, expr: &Expr) {
        expr.roots(&mut |name| {
            self.reads.insert(name.to_uppercase());
        });
    }

    fn write(&mut self, target: &Expr) {
        self.acts = true;
        let mut first = true;
        target.roots(&mut |name| {
            let set = if first { &mut self.writes } else { &mut self.reads };
            set.insert(name.to_uppercase());
            first = false;
        });
    }

    fn touches(&self, other: &Effects) -> bool {
        let shares = |a: &BTreeSet<String>, b: &BTreeSet<String>| a.intersection(b).next().is_some();
        let any = |e: &Effects| !e.reads.is_empty() || e.acts;
        shares(&self.writes, &other.writes)
            || shares(&self.writes, &other.reads)
            || shares(&self.reads, &other.writes)
            || (self.opaque && any(other))
            || (other.opaque && any(self))
            || (self.leaves && (other.acts || other.leaves))
            || (other.leaves && self.acts)
    }
}

/// Blocks that touch nothing but their own variables.
fn is_standard_block(name: &str) -> bool {
    let name = name.to_ascii_uppercase();
    let wide = ["_DINT", "_UDINT", "_LINT", "_ULINT"].iter().find_map(|end| name.strip_suffix(end));
    matches!(wide.unwrap_or(&name), "R_TRIG" | "F_TRIG" | "SR" | "RS" | "TON" | "TOF" | "TP" | "CTU" | "CTD" | "CTUD")
}

fn length(text: &str) -> usize {
    text.chars().count()
}

fn measure(element: &Element, style: Style) -> Measure {
    let symbol = |names: &[String], body: usize, height: usize| {
        let widest = names.iter().map(|n| length(n)).max().unwrap_or(0);
        let over = widest.saturating_sub(body);
        Measure { height, left: over / 2, body, right: over - over / 2, ..Measure::default() }
    };
    match &element.kind {
        ElementKind::Contact { operand, from, to, .. } => {
            Measure { inputs: vec![(*from, 1)], outputs: vec![(*to, 1)], ..symbol(&[expression(operand)], 3, 2) }
        }
        ElementKind::Compare { op, left, right, from, to } => {
            let body = op.symbol().len() + 2;
            let names = [expression(left), expression(right)];
            Measure { inputs: vec![(*from, 1)], outputs: vec![(*to, 1)], ..symbol(&names, body, 3) }
        }
        ElementKind::Coil { target, from, drive, .. } => {
            let mut names = vec![expression(target)];
            let body = drive.as_ref().map_or(3, |d| (length(&d.word.text) + 2).max(3));
            names.extend(drive.iter().filter_map(|d| d.below.as_ref()).map(expression));
            let height = 1 + names.len();
            Measure { inputs: vec![(*from, 1)], tail: Some(1), ..symbol(&names, body, height) }
        }
        ElementKind::Jump { label, from } => {
            let body = 2 + length(&label.text);
            Measure { height: 1, body, inputs: vec![(*from, 0)], ..Measure::default() }
        }
        ElementKind::Return { from } => Measure { height: 1, body: 8, inputs: vec![(*from, 0)], ..Measure::default() },
        ElementKind::Source { value, to } => {
            let body = length(&expression(value)) + 1;
            Measure { height: 1, body, outputs: vec![(*to, 0)], ..Measure::default() }
        }
        ElementKind::Sink { target, from } => {
            let left = 1;
            let body = length(&expression(target));
            Measure { height: 1, left, body, inputs: vec![(*from, 0)], ..Measure::default() }
        }
        ElementKind::Block(block) => block_measure(block, style),
    }
}

/// Rows of pins: in a ladder, what a wire joins below the first needs room for a name above its contact or coil.
fn pin_rows(wired: impl Iterator<Item = bool>, style: Style) -> Vec<usize> {
    let mut rows: Vec<usize> = Vec::new();
    for wired in wired {
        let step = if wired && style == Style::Ladder { 2 } else { 1 };
        rows.push(rows.last().map_or(0, |r| r + step));
    }
    rows
}

fn block_measure(block: &Block, style: Style) -> Measure {
    let title = usize::from(block.instance.is_some());
    let inputs = pin_rows(block.inputs.iter().map(|p| matches!(p.feed, Feed::Wire(_))), style);
    let outputs = pin_rows(block.outputs.iter().map(|p| p.to.is_some()), style);
    let rows = inputs.iter().chain(&outputs).max().map_or(1, |r| r + 1);
    let name_at = |rows: &[usize], names: &dyn Fn(usize) -> usize, row: usize| {
        rows.iter().position(|r| *r == row).map_or(0, names)
    };
    let pin = |name: &Option<crate::model::Name>| name.as_ref().map_or(0, |n| length(&n.text));
    let mut inner = 0;
    for row in 0..rows {
        let left = name_at(&inputs, &|i| pin(&block.inputs[i].name), row);
        let right = name_at(&outputs, &|i| pin(&block.outputs[i].name), row);
        let middle = if row == 0 { length(&block.name.text) + 2 } else { 1 };
        inner = inner.max(left + middle + right);
    }
    let at_input = |p: &crate::model::InPin| {
        let circle = usize::from(p.negated);
        if let Feed::Value(value) = &p.feed { length(&expression(value)) + 3 + circle } else { circle }
    };
    let at_output =
        |p: &crate::model::OutPin| p.target.as_ref().map_or(0, |t| length(&expression(t)) + 3) + usize::from(p.negated);
    let body = inner + 2;
    let over = block.instance.as_ref().map_or(0, |i| length(&expression(i))).saturating_sub(body);
    let wire_at = |rows: &[usize], index: usize| title + 1 + rows[index];
    let fed = block
        .inputs
        .iter()
        .enumerate()
        .filter_map(|(i, p)| if let Feed::Wire(wire) = p.feed { Some((wire, wire_at(&inputs, i))) } else { None });
    let given = block.outputs.iter().enumerate().filter_map(|(i, p)| p.to.map(|w| (w, wire_at(&outputs, i))));
    Measure {
        height: title + rows + 2,
        left: block.inputs.iter().map(at_input).max().unwrap_or(0).max(over / 2),
        body,
        right: block.outputs.iter().map(at_output).max().unwrap_or(0).max(over - over / 2),
        inputs: fed.collect(),
        outputs: given.collect(),
        tail: None,
        pins: (inputs, outputs),
    }
}

/// Columns for the levels and channels, and the wires between them.
fn geometry(measures: &[Measure], usage: &Usage, placement: &Placement, style: Style, paper: Paper) -> Plan {
    let tracks = tracks(measures, usage, placement);
    let slots = 2 * placement.levels + 1;
    let mut begins = vec![0usize; slots + 1];
    let mut cuts = Vec::new();
    let mut x = usize::from(style == Style::Ladder);
    for (s, begin) in begins.iter_mut().enumerate().take(slots) {
        *begin = x;
        x += if s % 2 == 1 {
            let own = |at: &usize| slot(placement.level[*at]) == s;
            let widest = (0..measures.len())
                .filter(own)
                .map(|at| span(&measures[at]))
                .fold((0, 0), |a, b| (a.0.max(b.0), a.1.max(b.1)));
            widest.0 + widest.1 + 2
        } else {
            cuts.push(x);
            1 + 2 * tracks.iter().filter(|(_, t)| t.slot == s).count()
        };
    }
    begins[slots] = x;
    let shapes = measures.iter().enumerate().map(|(at, measure)| {
        let s = slot(placement.level[at]);
        let middle = (0..measures.len())
            .filter(|o| slot(placement.level[*o]) == s)
            .map(|o| span(&measures[o]).0)
            .max()
            .unwrap_or(0);
        let x = begins[s] + 1 + middle - (span(measure).0 - measure.left);
        Shape { x, y: placement.row[at], measure: measure.clone() }
    });
    let rails = (style == Style::Ladder).then_some((0, x));
    let mut plan = Plan {
        shapes: shapes.collect(),
        lines: Vec::new(),
        cuts: match paper {
            Paper::Page(page) => page_cuts(&cuts, x, page),
            Paper::Endless => Vec::new(),
        },
        width: x + usize::from(rails.is_some()),
        height: placement.height,
        rails,
        tails: Vec::new(),
        order: (0..measures.len()).collect(),
    };
    draw_wires(&mut plan, usage, placement, &tracks, &begins);
    plan
}

/// Where a drawing of a width is cut, of the columns where it can be.
fn page_cuts(possible: &[usize], width: usize, page: usize) -> Vec<usize> {
    let (mut out, mut from) = (Vec::new(), 0);
    while width > page && width - from > page - 16 {
        let room = from + page - 24;
        let best = possible.iter().copied().filter(|c| *c > from && *c <= room).max();
        let Some(cut) = best.or_else(|| possible.iter().copied().find(|c| *c > from)) else { break };
        if cut >= width {
            break;
        }
        out.push(cut);
        from = cut;
    }
    out
}

/// Room left and right of the line on which the symbols of a level are centred; boxes hang on it by their left third.
fn span(measure: &Measure) -> (usize, usize) {
    let half = measure.body.min(3) / 2;
    (measure.left + half, measure.body + measure.right - half)
}

/// A vertical line of a wire.
struct Track {
    slot: usize,
    /// Position among the lines of its channel.
    number: usize,
    rows: BTreeSet<usize>,
}

/// Vertical lines, by wire and by slot: one behind what feeds the wire, one before each level it leads back to.
fn tracks(measures: &[Measure], usage: &Usage, placement: &Placement) -> BTreeMap<(Wire, usize), Track> {
    let mut rows: BTreeMap<(Wire, usize), BTreeSet<usize>> = BTreeMap::new();
    for (at, measure) in measures.iter().enumerate() {
        let y = placement.row[at];
        for (wire, port) in &measure.outputs {
            rows.entry((*wire, channel(usage, placement, *wire))).or_default().insert(y + port);
        }
        for (wire, port) in &measure.inputs {
            if *wire == Wire::RAIL {
                continue;
            }
            let slot = match usage.leads_back(*wire, at) {
                true => slot(placement.level[at]) - 1,
                false => channel(usage, placement, *wire),
            };
            rows.entry((*wire, slot)).or_default().insert(y + port);
        }
    }
    for (wire, row) in &placement.back {
        rows.iter_mut().filter(|((w, _), _)| w == wire).for_each(|(_, r)| {
            r.insert(*row);
        });
    }
    let mut used: BTreeMap<usize, usize> = BTreeMap::new();
    let mut list: Vec<((Wire, usize), BTreeSet<usize>)> = rows.into_iter().filter(|(_, r)| r.len() > 1).collect();
    list.sort_by_key(|((wire, slot), rows)| (*slot, rows.first().copied(), rows.last().copied(), *wire));
    list.into_iter()
        .map(|((wire, slot), rows)| {
            let number = used.entry(slot).or_default();
            *number += 1;
            ((wire, slot), Track { slot, number: *number - 1, rows })
        })
        .collect()
}

fn channel(usage: &Usage, placement: &Placement, wire: Wire) -> usize {
    usage.feeders(wire).iter().map(|f| channel_behind(placement.level[*f])).max().unwrap_or(0)
}

fn draw_wires(
    plan: &mut Plan,
    usage: &Usage,
    placement: &Placement,
    tracks: &BTreeMap<(Wire, usize), Track>,
    begins: &[usize],
) {
    let x_of = |track: &Track| begins[track.slot] + 1 + 2 * track.number;
    let mut lines = Vec::new();
    for ((wire, _), track) in tracks {
        let x = x_of(track);
        if let (Some(first), Some(last)) = (track.rows.first(), track.rows.last()) {
            lines.push(Line { wire: *wire, from: (x, *first), to: (x, *last) });
        }
    }
    for (wire, row) in &placement.back {
        let ends: Vec<usize> = tracks.iter().filter(|((w, _), _)| w == wire).map(|(_, t)| x_of(t)).collect();
        if let (Some(left), Some(right)) = (ends.iter().min(), ends.iter().max()) {
            lines.push(Line { wire: *wire, from: (*left, *row), to: (*right, *row) });
        }
    }
    let bus = |wire: Wire, slot: usize| tracks.get(&(wire, slot)).map(x_of);
    for (at, shape) in plan.shapes.iter().enumerate() {
        let right = shape.x + shape.measure.body;
        for (wire, port) in &shape.measure.outputs {
            let y = shape.y + port;
            // Without a vertical line the wire is drawn from its other end.
            if let Some(x) = bus(*wire, channel(usage, placement, *wire)) {
                lines.push(Line { wire: *wire, from: (right, y), to: (x, y) });
            } else if usage.users(*wire).is_empty() {
                let x = plan.rails.map_or(right, |r| r.1 - 1);
                lines.push(Line { wire: *wire, from: (right, y), to: (x, y) });
            }
        }
        for (wire, port) in &shape.measure.inputs {
            let y = shape.y + port;
            let slot = match usage.leads_back(*wire, at) {
                true => slot(placement.level[at]) - 1,
                false => channel(usage, placement, *wire),
            };
            let from = match bus(*wire, slot) {
                Some(x) => x,
                None if *wire == Wire::RAIL => 1,
                None => usage.feeders(*wire).first().map_or(0, |f| plan.shapes[*f].x + plan.shapes[*f].measure.body),
            };
            lines.push(Line { wire: *wire, from: (from, y), to: (shape.x - 1, y) });
        }
    }
    for shape in &plan.shapes {
        if let (Some(port), Some((_, rail))) = (shape.measure.tail, plan.rails) {
            let y = shape.y + port;
            let from = (shape.x + shape.measure.body, y);
            plan.tails.push(Line { wire: Wire::RAIL, from, to: (rail - 1, y) });
        }
    }
    plan.lines = lines;
}
