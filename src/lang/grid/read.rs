//! From wires and parts to networks.

use super::Style;
use super::canvas::{Canvas, Piece, pieces};
use super::join::{LEFT, Net, RIGHT, wires};
use super::mend::{MOST_TRIED, Mended, mend};
use super::order::{self, Draft};
use super::parts::{Area, BoxRow, Cell, Parts, Shape, Text, find};
use crate::lang::cursor::Cursor;
use crate::lang::expr;
use crate::model::sheet::{Routines, Sheet};
use crate::model::{Block, Element, ElementKind, Expr, ExprKind, Feed, InPin, Name, Network, Notes, OutPin, Wire};
use crate::source::{Diagnostic, Limits, Source, Span, codes};
use std::collections::HashMap;

/// How many lines above a contact or coil its name may stand.
const NAME_REACH: usize = 3;

/// Reads the drawings of a body.
pub(crate) fn networks(
    source: &Source,
    body: Span,
    style: Style,
    (limits, sheet): (Limits, Option<&Sheet>),
    problems: &mut Vec<Diagnostic>,
) -> Vec<Network> {
    let mut out = Vec::new();
    let mut left = MOST_TRIED;
    for piece in pieces(source.slice(body), body.start, body.file, problems) {
        let whole = |piece: &Piece| network(source, piece, style, (limits, sheet));
        let (mut read, found) = whole(&piece);
        if found.is_empty() {
            out.extend(read);
            continue;
        }
        let is_drawn = |p: &Diagnostic| matches!(p.code, codes::DRAWING | codes::CHARACTER);
        let mended = match found.iter().any(is_drawn) {
            true => mend(&piece, &mut left, |piece| {
                Some(whole(piece)).filter(|(_, found)| found.is_empty()).map(|(read, _)| read)
            }),
            false => Mended::Nothing,
        };
        match mended {
            Mended::One(networks, line) => {
                problems.push(
                    Diagnostic::warning(
                        codes::SHIFTED,
                        line,
                        "this line is shifted by a character; it is read as if it were not",
                    )
                    .help(format!("`translate --to {}` draws it anew", style.language().ending())),
                );
                out.extend(networks);
                continue;
            }
            Mended::Several(line) => {
                let message =
                    "this line is shifted, and what is meant cannot be told: moved back, it may mean several things";
                problems.push(Diagnostic::error(codes::DRAWING, line, message));
            }
            Mended::Nothing => problems.extend(few(found, piece.span)),
        }
        // What a drawing with loose ends means is not to be guessed; its label and title stand.
        read.truncate(1);
        read.iter_mut().for_each(|n| n.elements.clear());
        out.extend(read);
    }
    out
}

/// Reads one network, or what its parts are if they hang together by nothing.
fn network(
    source: &Source,
    piece: &Piece,
    style: Style,
    (limits, sheet): (Limits, Option<&Sheet>),
) -> (Vec<Network>, Vec<Diagnostic>) {
    let mut problems = Vec::new();
    let (drafts, nets) = (Vec::new(), Nets::default());
    let mut reader = GridReader { source, style, limits, sheet, problems: &mut problems, drafts, nets };
    for (strip, canvas) in piece.strips.iter().enumerate() {
        reader.strip(strip, canvas);
    }
    let read = reader.finish(piece);
    (read, problems)
}

/// Problems of one network that are told one by one; the others mostly follow from them.
const MOST_TOLD: usize = 8;

fn few(mut found: Vec<Diagnostic>, network: Span) -> Vec<Diagnostic> {
    found.sort_by_key(|p| p.span);
    if let Some(more) = found.len().checked_sub(MOST_TOLD).filter(|more| *more > 1) {
        found.truncate(MOST_TOLD);
        let last = found.last().map_or(network, |p| p.span);
        let message = format!("{more} more problems in this network, which may follow from the first");
        found.push(Diagnostic::error(codes::DRAWING, Span { start: last.end, ..last }, message));
    }
    found
}

/// The nets of all strips of a network.
#[derive(Default)]
struct Nets {
    parent: Vec<usize>,
    connectors: HashMap<String, usize>,
    /// Wires behind coils, and those before them: one wire, unless it only leads to the right rail.
    through: Vec<(usize, usize)>,
}

impl Nets {
    fn root(&self, mut at: usize) -> usize {
        while self.parent[at] != at {
            at = self.parent[at];
        }
        at
    }

    fn join(&mut self, a: usize, b: usize) {
        let (a, b) = (self.root(a), self.root(b));
        self.parent[a.max(b)] = a.min(b);
    }
}

struct GridReader<'r> {
    source: &'r Source,
    style: Style,
    limits: Limits,
    sheet: Option<&'r Sheet>,
    problems: &'r mut Vec<Diagnostic>,
    drafts: Vec<Draft>,
    nets: Nets,
}

/// One strip while its parts become drafts.
struct Strip<'s> {
    number: usize,
    canvas: &'s Canvas,
    parts: Parts,
    wires: super::join::Wires,
    /// Number of the strip's first net among those of the network.
    base: usize,
}

impl Strip<'_> {
    fn net(&self, row: usize, column: usize) -> usize {
        self.global(self.wires.across(row, column))
    }

    fn global(&self, net: Net) -> usize {
        // The rails are the same in all strips.
        match self.wires.root(net) {
            root @ (LEFT | RIGHT) => root,
            root => self.base + root,
        }
    }

    /// The wire that begins right of a column, if there is one.
    fn behind(&self, row: usize, column: usize) -> Option<usize> {
        let there =
            matches!(self.canvas.at(row, column + 1), '-' | '+') && self.parts.cell(row, column + 1) == Cell::Free;
        there.then(|| self.net(row, column + 1))
    }

    /// The wire that ends left of a column, if there is one.
    fn before(&self, row: usize, column: usize) -> Option<usize> {
        let left = column.checked_sub(1)?;
        let there = matches!(self.canvas.at(row, left), '-' | '+') && self.parts.cell(row, left) == Cell::Free;
        there.then(|| self.net(row, left))
    }
}

impl GridReader<'_> {
    fn error(&mut self, span: Span, message: impl Into<String>) {
        self.problems.push(Diagnostic::error(codes::DRAWING, span, message));
    }

    fn strip(&mut self, number: usize, canvas: &Canvas) {
        let mut parts = find(canvas, self.style, self.problems);
        let wires = wires(canvas, self.style, &mut parts, self.problems);
        let base = self.nets.parent.len();
        self.nets.parent.extend(base..base + wires.size());
        let mut strip = Strip { number, canvas, parts, wires, base };
        // Boxes last: what stands below a comparing contact is not the name of the box below it.
        let is_box = |at: &usize| matches!(strip.parts.parts[*at].shape, Shape::Box(_));
        let (boxes, others): (Vec<usize>, Vec<usize>) = (0..strip.parts.parts.len()).partition(is_box);
        for at in others.into_iter().chain(boxes) {
            self.part(&mut strip, at);
        }
        for at in 0..strip.parts.texts.len() {
            self.text(&strip, at);
        }
        for text in strip.parts.texts.iter().filter(|t| !t.taken) {
            let span = canvas.span(text.area.top, text.area.left, text.area.right + 1);
            let word = canvas.text(text.area.top, text.area.left, text.area.right + 1);
            self.problems.push(
                Diagnostic::error(codes::DRAWING, span, format!("`{word}` belongs to nothing"))
                    .help("a name stands right above its contact, coil or box; a value at the end of a wire"),
            );
        }
    }

    fn draft(&mut self, strip: &Strip<'_>, area: Area, kind: ElementKind) {
        let span = strip.canvas.span(area.top, area.left, area.right + 1);
        let (column, row) = (area.left, area.top);
        self.drafts.push(Draft { kind, span, strip: strip.number, column, row, at: None, kept: Vec::new() });
    }

    fn part(&mut self, strip: &mut Strip<'_>, at: usize) {
        let part = strip.parts.parts[at].clone();
        let (area, row) = (part.area, part.area.top);
        let span = strip.canvas.span(row, area.left, area.right + 1);
        if let Shape::Box(rows) = &part.shape {
            self.block(strip, area, rows);
            return;
        }
        if matches!(part.shape, Shape::Connector) {
            self.connector(strip, area, span);
            return;
        }
        let Some(from) = strip.before(row, area.left).map(|n| Wire(n as u32)) else {
            self.error(span, "no wire leads here");
            return;
        };
        let to = strip.behind(row, area.right);
        let kind = match part.shape {
            Shape::Jump => {
                let label = Name {
                    text: strip.canvas.text(row, area.left + 2, area.right + 1),
                    span: strip.canvas.span(row, area.left + 2, area.right + 1),
                };
                Some(ElementKind::Jump { label, from })
            }
            Shape::Return => Some(ElementKind::Return { from }),
            Shape::Coil(form) => {
                // A coil hands power on: what stands behind it hangs on the same wire.
                self.nets.through.extend(to.map(|to| (to, from.0 as usize)));
                let target = self.named(strip, area, "coil", 1);
                target.map(|target| ElementKind::Coil { form, target, from, drive: None })
            }
            Shape::WordCoil(word) if self.ends(&word) => Some(ElementKind::Return { from }),
            Shape::WordCoil(word) if self.calls(&word) => {
                self.nets.through.extend(to.map(|to| (to, from.0 as usize)));
                self.routine(strip, area, from)
            }
            Shape::WordCoil(word) => {
                self.nets.through.extend(to.map(|to| (to, from.0 as usize)));
                self.word_coil(strip, area, &word, from)
            }
            Shape::Contact(form) => {
                let to = Wire(to.unwrap_or(RIGHT) as u32);
                self.named(strip, area, "contact", 1).map(|operand| ElementKind::Contact { form, operand, from, to })
            }
            Shape::Compare(op) => {
                let to = Wire(to.unwrap_or(RIGHT) as u32);
                let left = self.named(strip, area, "comparing contact", 1);
                let right = self.named(strip, area, "comparing contact", -1);
                left.zip(right).map(|(left, right)| ElementKind::Compare { op, left, right, from, to })
            }
            Shape::Box(_) | Shape::Connector => None,
        };
        if let Some(kind) = kind {
            self.draft(strip, area, kind);
        }
    }

    /// True for a word by which a coil calls a routine.
    fn calls(&self, word: &str) -> bool {
        self.sheet.and_then(|s| s.routines.as_ref()).is_some_and(|r| r.calls(word).is_some())
    }

    /// A coil that calls the routine named above it.
    fn routine(&mut self, strip: &mut Strip<'_>, area: Area, from: Wire) -> Option<ElementKind> {
        let Some(span) = word_at(strip, area, 1, NAME_REACH) else {
            self.error(strip.canvas.span(area.top, area.left, area.right + 1), "this coil has no routine above it");
            return None;
        };
        let block = Name { text: Routines::block(self.source.slice(span)), span };
        let instance = Name { text: Routines::instance(&block.text), span };
        let en = InPin { name: Some(Name { text: "EN".to_string(), span }), negated: false, feed: Feed::Wire(from) };
        let instance = Some(Expr { kind: ExprKind::Name(instance), span });
        Some(ElementKind::Block(Block { name: block, instance, inputs: vec![en], outputs: Vec::new() }))
    }

    /// True for the word by which programs of the sheet end.
    fn ends(&self, word: &str) -> bool {
        self.sheet.and_then(|s| s.scan.end.as_ref()).is_some_and(|end| end.eq_ignore_ascii_case(word))
    }

    /// A coil with a word in it drives a device: a box without names at its pins, which the dialect knows.
    fn word_coil(&mut self, strip: &mut Strip<'_>, area: Area, word: &str, from: Wire) -> Option<ElementKind> {
        let span = strip.canvas.span(area.top, area.left, area.right + 1);
        let own = match (word, self.sheet) {
            ("#", Some(sheet)) => sheet.word_for("ST").unwrap_or("ST"),
            _ => word,
        };
        let mut ops = self.sheet.iter().flat_map(|s| &s.devices).flat_map(|d| &d.ops);
        let Some(op) = ops.find(|op| op.word.eq_ignore_ascii_case(own)) else {
            self.error(span, format!("`({word})` is no coil"));
            return None;
        };
        let device = self.named(strip, area, "coil", 1);
        let below = match op.operands.as_slice() {
            [] => None,
            _ => Some(self.named(strip, area, "coil", -1)?),
        };
        let pin = |feed| InPin { name: None, negated: false, feed };
        let mut inputs = vec![pin(Feed::Wire(from))];
        inputs.extend(below.map(|value| pin(Feed::Value(value))));
        let name = Name { text: own.to_string(), span };
        Some(ElementKind::Block(Block { name, instance: Some(device?), inputs, outputs: Vec::new() }))
    }

    fn connector(&mut self, strip: &mut Strip<'_>, area: Area, span: Span) {
        let row = area.top;
        let name = strip.canvas.text(row, area.left + 1, area.right).to_uppercase();
        let Some(net) = strip.before(row, area.left).or_else(|| strip.behind(row, area.right)) else {
            self.error(span, "no wire leads to or from this connector");
            return;
        };
        match self.nets.connectors.get(&name).copied() {
            Some(other) => self.nets.join(other, net),
            None => {
                self.nets.connectors.insert(name, net);
            }
        }
    }

    /// The word above a part (or below, for `up` = -1), as an expression.
    fn named(&mut self, strip: &mut Strip<'_>, area: Area, what: &str, up: isize) -> Option<Expr> {
        match word_at(strip, area, up, if up > 0 { NAME_REACH } else { 1 }) {
            Some(span) => self.operand(span),
            None => {
                let span = strip.canvas.span(area.top, area.left, area.right + 1);
                let (side, way) = if up > 0 { ("above", "name") } else { ("below", "second value") };
                self.problems.push(
                    Diagnostic::error(codes::DRAWING, span, format!("this {what} has no {way} {side} it"))
                        .help(format!("write it on the line {side}, over the middle")),
                );
                None
            }
        }
    }

    fn operand(&mut self, span: Span) -> Option<Expr> {
        let mut cursor = Cursor::operand(self.source, span, self.limits, self.sheet);
        let read = expr::simple(&mut cursor);
        if read.is_ok() && !cursor.is_end() && cursor.problems.is_empty() {
            let message = format!("`{}` is no variable and no value", self.source.slice(span));
            cursor.problem(Diagnostic::error(codes::EXPECTED, span, message));
        }
        let good = cursor.problems.is_empty();
        self.problems.extend(cursor.problems);
        read.ok().filter(|_| good)
    }

    fn block(&mut self, strip: &mut Strip<'_>, area: Area, rows: &[BoxRow]) {
        let span = strip.canvas.span(area.top, area.left, area.right + 1);
        let name_at = |row: &BoxRow, words: Option<(usize, usize)>| {
            words.map(|(a, b)| Name { text: strip.canvas.text(row.row, a, b), span: strip.canvas.span(row.row, a, b) })
        };
        let mut titles = rows.iter().filter_map(|row| name_at(row, row.middle));
        let (title, second) = (titles.next(), titles.next());
        let Some(name) = title else {
            self.problems.push(
                Diagnostic::error(codes::DRAWING, span, "this box does not say what it is")
                    .help("write the function or the type in it, with a blank on both sides"),
            );
            return;
        };
        if let Some(second) = second {
            self.error(second.span, format!("this box is `{}` and `{}` at once", name.text, second.text));
        }
        let (mut inputs, mut outputs) = (Vec::new(), Vec::new());
        for row in rows {
            let negated = area.left > 0 && strip.parts.cell(row.row, area.left - 1) == Cell::Circle;
            let edge = if negated { area.left - 1 } else { area.left };
            let wire = strip.before(row.row, edge);
            if wire.is_some() || row.input.is_some() {
                let feed = wire.map_or(Feed::Open, |net| Feed::Wire(Wire(net as u32)));
                inputs.push(InPin { name: name_at(row, row.input), negated, feed });
            }
            let negated = strip.parts.cell(row.row, area.right + 1) == Cell::Circle;
            let edge = if negated { area.right + 1 } else { area.right };
            let wire = strip.behind(row.row, edge);
            if wire.is_some() || row.output.is_some() {
                let to = wire.filter(|net| *net != RIGHT).map(|net| Wire(net as u32));
                outputs.push(OutPin { name: name_at(row, row.output), negated, to, target: None });
            }
        }
        let instance = word_at(strip, area, 1, 1).and_then(|span| self.operand(span));
        self.draft(strip, area, ElementKind::Block(Block { name, instance, inputs, outputs }));
    }

    /// A word at the end of a wire.
    fn text(&mut self, strip: &Strip<'_>, at: usize) {
        let area = strip.parts.texts[at].area;
        let span = strip.canvas.span(area.top, area.left, area.right + 1);
        // A wire that comes from the left ends at the word: the word takes its value.
        let (sink, source) = (strip.wires.behind.get(&at), strip.wires.before.get(&at));
        let wire = |net: &Net| Wire(strip.global(*net) as u32);
        if let Some(net) = sink
            && let Some(target) = self.operand(span)
        {
            self.draft(strip, area, ElementKind::Sink { target, from: wire(net) });
        }
        if let Some(net) = source
            && let Some(value) = self.operand(span)
        {
            self.draft(strip, area, ElementKind::Source { value, to: wire(net) });
        }
    }

    fn finish(mut self, piece: &Piece) -> Vec<Network> {
        let mut nets = std::mem::take(&mut self.nets);
        for (behind, before) in std::mem::take(&mut nets.through) {
            if nets.parent.get(behind).is_some() && nets.root(behind) != RIGHT {
                nets.join(behind, before);
            }
        }
        for draft in &mut self.drafts {
            draft.kind.wires_mut(&mut |wire| *wire = Wire(nets.root(wire.0 as usize) as u32));
        }
        let groups = order::networks(std::mem::take(&mut self.drafts), self.style, order::NEAR, self.problems);
        let mut label = piece.label.clone();
        let mut notes = piece.notes.clone();
        let mut out: Vec<Network> = Vec::new();
        for group in groups {
            let elements = group.into_iter().map(Element::from).collect();
            let blank = Notes { blank_before: true, ..Notes::default() };
            let notes = std::mem::replace(&mut notes, blank);
            out.push(Network { label: label.take(), elements, span: piece.span, notes }.tidied());
        }
        out
    }
}

/// The span of the nearest word above a part (or right below, for `up` = -1), over its columns; the word is taken.
fn word_at(strip: &mut Strip<'_>, area: Area, up: isize, most: usize) -> Option<Span> {
    for far in 1..=most {
        let row = if up > 0 { area.top.checked_sub(far)? } else { area.bottom + far };
        // A name that misses by one character is meant too, if none stands right above.
        let over =
            |t: &Text, by: usize| t.area.top == row && t.area.left <= area.right + by && area.left <= t.area.right + by;
        let texts = &mut strip.parts.texts;
        let found = texts.iter().position(|t| over(t, 0)).or_else(|| texts.iter().position(|t| !t.taken && over(t, 1)));
        if let Some(found) = found.and_then(|at| texts.get_mut(at)) {
            if std::mem::replace(&mut found.taken, true) {
                return None;
            }
            let area = found.area;
            return Some(strip.canvas.span(area.top, area.left, area.right + 1));
        }
        if (area.left..=area.right).any(|column| strip.canvas.at(row, column) != ' ') && far > 1 {
            return None;
        }
    }
    None
}
