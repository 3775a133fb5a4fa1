//! One network: the plan of the text, drawn with lines and shapes. What conducts is told by weight and shape as well
//! as by colour: thick lines, filled contacts and coils.

use super::lit::Lit;
use super::picture::{CHAR, Ink, LINE, Picture};
use super::{Live, Marks};
use crate::lang::DrawnStyle as Style;
use crate::lang::grid::layout::{Line, Paper, Plan, Shape, plan, title_lines};
use crate::lang::st::expression;
use crate::model::{
    Block, CoilForm, ContactForm, Element, ElementKind, Expr, ExprKind, Feed, InPin, Name, Network, OutPin, Wire,
};

/// Lines between the strips of a drawing that was cut.
const STRIP_GAP: usize = 1;

pub(super) struct Pen<'p> {
    picture: Picture,
    plan: Plan,
    network: &'p Network,
    /// What is known of one scan.
    lit: Option<Lit<'p>>,
    /// What changed.
    marks: &'p Marks,
    /// First line of each strip, and what its lines are moved by.
    strips: Vec<(usize, usize)>,
}

/// Draws a network on a page of a width in characters.
pub(super) fn draw(
    network: &Network,
    number: usize,
    style: Style,
    page: usize,
    live: Option<&Live<'_>>,
    marks: &Marks,
) -> Picture {
    let lit = live.map(|live| Lit::new(live, network, number));
    let plan = match &lit {
        Some(lit) => plan(&with_room(network, lit), style, Paper::Page(page)),
        None => plan(network, style, Paper::Page(page)),
    };
    let strips = strips(&plan);
    let mut pen = Pen { picture: Picture::new(), plan, network, lit, marks, strips };
    pen.all();
    pen.picture
}

/// The network with room behind each name for the value that will stand there.
fn with_room(network: &Network, lit: &Lit<'_>) -> Network {
    let wide = |expr: &Expr, value: Option<String>| {
        let room = value.map_or(String::new(), |value| "\u{a0}".repeat(room(&value)));
        named(expr, format!("{}{room}", expression(expr)))
    };
    with_texts(network, lit, &wide)
}

/// An expression that is written as a text.
fn named(expr: &Expr, text: String) -> Expr {
    Expr { kind: ExprKind::Name(Name { text, span: expr.span }), span: expr.span }
}

/// The network with values at its names, as `wide` writes them; and with texts at outputs of instances that nothing takes.
pub(super) fn with_texts(network: &Network, lit: &Lit<'_>, wide: &impl Fn(&Expr, Option<String>) -> Expr) -> Network {
    let mut out = network.clone();
    for (at, element) in out.elements.iter_mut().enumerate() {
        match &mut element.kind {
            ElementKind::Compare { left, right, .. } => {
                for side in [left, right] {
                    *side = wide(side, lit.number_read(at, side));
                }
            }
            ElementKind::Source { value, .. } => *value = wide(value, lit.value_read(at, value)),
            ElementKind::Sink { target, .. } => *target = wide(target, lit.value(target)),
            ElementKind::Block(block) => {
                for pin in &mut block.inputs {
                    if let Feed::Value(expr) = &mut pin.feed {
                        *expr = wide(expr, lit.value_read(at, expr));
                    }
                }
                let instance = block.instance.clone();
                for pin in &mut block.outputs {
                    let (name, span) = (pin.name.as_ref().map(|n| n.text.clone()), block.name.span);
                    match (&mut pin.target, &instance, name, pin.to) {
                        (Some(target), ..) => *target = wide(target, lit.value(target)),
                        (None, Some(instance), Some(name), None) => {
                            let nothing = Expr { kind: ExprKind::Name(Name { text: String::new(), span }), span };
                            let value = lit.output(instance, &name);
                            pin.target = value.map(|value| wide(&nothing, Some(value)));
                        }
                        (None, ..) => {}
                    }
                }
            }
            ElementKind::Contact { .. }
            | ElementKind::Coil { .. }
            | ElementKind::Jump { .. }
            | ElementKind::Return { .. } => {}
        }
    }
    out
}

/// Columns that a value takes in its tag.
fn room(value: &str) -> usize {
    value.chars().count() + 2
}

/// Which lines each strip uses, and where they go.
fn strips(plan: &Plan) -> Vec<(usize, usize)> {
    let mut out = Vec::new();
    let mut below = 0;
    for strip in 0..=plan.cuts.len() {
        let rows = plan.shapes.iter().filter(|s| strip_of(plan, s.x) == strip);
        let shapes: Vec<(usize, usize)> = rows.map(|s| (s.y, s.y + s.measure.height)).collect();
        let lines = plan.lines.iter().flat_map(|l| [l.from, l.to]).filter(|(x, _)| strip_of(plan, *x) == strip);
        let lines: Vec<usize> = lines.map(|(_, y)| y).collect();
        let first = shapes.iter().map(|s| s.0).chain(lines.iter().copied()).min().unwrap_or(0);
        let last = shapes.iter().map(|s| s.1).chain(lines.iter().map(|y| y + 1)).max().unwrap_or(0);
        out.push((first, below));
        below += last.saturating_sub(first) + STRIP_GAP;
    }
    out
}

fn strip_of(plan: &Plan, x: usize) -> usize {
    plan.cuts.iter().filter(|c| **c <= x).count()
}

impl Pen<'_> {
    /// Columns before a strip.
    fn offset(&self, strip: usize) -> usize {
        strip.checked_sub(1).map_or(0, |s| self.plan.cuts[s].saturating_sub(4))
    }

    fn x(&self, column: usize, strip: usize) -> f64 {
        (column - self.offset(strip).min(column)) as f64 * CHAR + 4.0
    }

    fn y(&self, line: usize, strip: usize) -> f64 {
        let (first, below) = self.strips[strip];
        (line.saturating_sub(first) + below) as f64 * LINE + LINE / 2.0
    }

    fn ink(&self, wire: Wire) -> Ink {
        ink_of(self.lit.as_ref().and_then(|lit| lit.wire(wire)))
    }

    /// The ink of the power that came to an element.
    fn power(&self, element: usize, wire: Wire) -> Ink {
        ink_of(self.lit.as_ref().and_then(|lit| lit.power(element, wire)))
    }

    fn all(&mut self) {
        let lines = self.plan.lines.clone();
        // What is off first, so that what is on lies above it.
        let mut sorted: Vec<(Ink, Line)> = lines.iter().map(|l| (self.ink(l.wire), *l)).collect();
        sorted.sort_by_key(|(ink, _)| *ink == Ink::On);
        for (ink, line) in sorted {
            self.wire(&line, ink);
        }
        for (number, (shape, element)) in self.plan.shapes.clone().iter().zip(&self.network.elements).enumerate() {
            if let (ElementKind::Coil { from, .. }, Some(port)) = (&element.kind, shape.measure.tail) {
                let strip = strip_of(&self.plan, shape.x);
                let right = self.plan.rails.map_or(shape.x, |r| r.1);
                if strip == self.plan.cuts.len() {
                    let y = self.y(shape.y + port, strip);
                    let from_x = self.x(shape.x + shape.measure.body, strip);
                    self.picture.line((from_x, y), (self.x(right, strip) + CHAR / 2.0, y), self.power(number, *from));
                }
            }
        }
        self.junctions();
        self.rails();
        self.grounds();
        for (number, (shape, element)) in self.plan.shapes.clone().iter().zip(&self.network.elements).enumerate() {
            self.element(shape, element, number);
        }
    }

    fn rails(&mut self) {
        let Some((left, right)) = self.plan.rails else { return };
        let ink = if self.lit.as_ref().is_some_and(Lit::ran) { Ink::On } else { Ink::Plain };
        for strip in 0..self.strips.len() {
            let (first, below) = self.strips[strip];
            let next = self.strips.get(strip + 1).map_or(self.plan.height - first + below, |s| s.1 - STRIP_GAP);
            let (top, bottom) = (below as f64 * LINE, next as f64 * LINE);
            let x = if strip == 0 { self.x(left, 0) + CHAR / 2.0 } else { 4.0 + CHAR / 2.0 };
            self.picture.line((x, top), (x, bottom), ink);
            if strip + 1 == self.strips.len() {
                let x = self.x(right, strip) + CHAR / 2.0;
                self.picture.line((x, top), (x, bottom), Ink::Plain);
            }
        }
    }

    /// True where a vertical line of the wire stands.
    fn turns(&self, wire: Wire, (x, y): (usize, usize)) -> bool {
        self.plan.lines.iter().any(|l| {
            l.wire == wire && l.from.0 == l.to.0 && l.from.0 == x && l.from.1 != l.to.1 && {
                (l.from.1.min(l.to.1)..=l.from.1.max(l.to.1)).contains(&y)
            }
        })
    }

    fn ends_at_word(&self, (x, y): (usize, usize)) -> bool {
        let mut shapes = self.plan.shapes.iter().zip(&self.network.elements);
        shapes.any(|(s, e)| matches!(e.kind, ElementKind::Sink { .. }) && (s.x, s.y) == (x + 1, y))
    }

    fn wire(&mut self, line: &Line, ink: Ink) {
        let (a, b) = if line.from <= line.to { (line.from, line.to) } else { (line.to, line.from) };
        let half = CHAR / 2.0;
        if a.0 == b.0 && a.1 != b.1 {
            let strip = strip_of(&self.plan, a.0);
            let x = self.x(a.0, strip) + half;
            self.picture.line((x, self.y(a.1, strip)), (x, self.y(b.1, strip)), ink);
            return;
        }
        let (first, last) = (strip_of(&self.plan, a.0), strip_of(&self.plan, b.0));
        for strip in first..=last {
            let y = self.y(a.1, strip);
            let from = if strip == first {
                let at_rail = line.wire == Wire::RAIL && a.0 == 1;
                let end = if self.turns(line.wire, a) { half } else { 0.0 };
                self.x(a.0, strip) + if at_rail { -half } else { end }
            } else {
                let mark = self.x(self.plan.cuts[strip - 1], strip) - 2.0 * CHAR;
                self.mark(mark, y, a.1, ink);
                mark
            };
            let to = if strip == last {
                let end = if self.turns(line.wire, b) { half } else { CHAR };
                // A blank between a wire and the word at its end.
                self.x(b.0, strip) + if self.ends_at_word(b) { 0.3 * CHAR } else { end }
            } else {
                let mark = self.x(self.plan.cuts[strip], strip) + 2.0 * CHAR;
                self.mark(mark, y, a.1, ink);
                mark
            };
            self.picture.line((from, y), (to, y), ink);
        }
    }

    /// Where a wire goes on in another strip: a small arrow with the line's number.
    fn mark(&mut self, x: f64, y: f64, line: usize, ink: Ink) {
        self.picture.shape(&[(x - 4.0, y - 5.0), (x + 4.0, y), (x - 4.0, y + 5.0)], ink);
        self.picture.text(x + 5.0, y - 8.0, &line.to_string(), Ink::Note);
    }

    /// Dots where three or four pieces of a wire meet.
    fn junctions(&mut self) {
        let lines = self.plan.lines.clone();
        for track in lines.iter().filter(|l| l.from.0 == l.to.0 && l.from.1 != l.to.1) {
            let x = track.from.0;
            let (top, bottom) = (track.from.1.min(track.to.1), track.from.1.max(track.to.1));
            for row in top..=bottom {
                let own = |l: &&Line| l.wire == track.wire && l.from.1 == row && l.to.1 == row;
                let left = lines.iter().filter(own).any(|l| l.from.0.min(l.to.0) < x && l.from.0.max(l.to.0) >= x);
                let right = lines.iter().filter(own).any(|l| l.from.0.max(l.to.0) > x && l.from.0.min(l.to.0) <= x);
                let ways = [left, right, row > top, row < bottom].into_iter().filter(|w| *w).count();
                if ways > 2 && (left || right) {
                    let strip = strip_of(&self.plan, x);
                    let at = (self.x(x, strip) + CHAR / 2.0, self.y(row, strip));
                    self.picture.dot(at, self.ink(track.wire));
                }
            }
        }
    }

    /// The grounds of elements that changed, with their signs.
    fn grounds(&mut self) {
        for (shape, element) in self.plan.shapes.clone().iter().zip(&self.network.elements) {
            if let Some(state) = self.marks.at(element.span) {
                let strip = strip_of(&self.plan, shape.x);
                let (left, right) = (self.x(shape.x, strip), self.x(shape.x + shape.measure.body, strip));
                // A name may be wider than what it stands over.
                let wide = (named_width(element) as f64 * CHAR - (right - left)).max(0.0) / 2.0;
                let top = self.y(shape.y, strip) - LINE / 2.0;
                let height = shape.measure.height as f64 * LINE;
                let ground = (right - left + 2.0 * wide + 8.0, height + 2.0);
                self.picture.changed((left - wide - 4.0, top), ground, state);
            }
        }
    }

    fn element(&mut self, shape: &Shape, element: &Element, number: usize) {
        let strip = strip_of(&self.plan, shape.x);
        let (left, right) = (self.x(shape.x, strip), self.x(shape.x + shape.measure.body, strip));
        let middle = (left + right) / 2.0;
        let name_y = self.y(shape.y, strip);
        let y = self.y(shape.y + title_lines(&element.kind), strip);
        match &element.kind {
            ElementKind::Contact { form, operand, .. } => {
                self.name(middle, name_y, operand, number);
                let state = self.lit.as_ref().and_then(|lit| lit.conducts(number));
                let sign = match form {
                    ContactForm::Open | ContactForm::Closed => "",
                    ContactForm::Rising => "P",
                    ContactForm::Falling => "N",
                };
                self.contact((left, right, y), state, sign);
                if *form == ContactForm::Closed {
                    self.picture.line((left + 3.0, y + 8.0), (right - 3.0, y - 8.0), Ink::Plain);
                }
            }
            ElementKind::Compare { op, left: a, right: b, .. } => {
                self.name(middle, name_y, a, number);
                let state = self.lit.as_ref().and_then(|lit| lit.conducts(number));
                self.contact((left - 2.0, right + 2.0, y), state, op.symbol());
                self.name(middle, self.y(shape.y + 2, strip), b, number);
            }
            ElementKind::Coil { form, target, from, drive } => {
                self.name(middle, name_y, target, number);
                self.coil((left, right, y), *form, self.power(number, *from));
                if let Some(drive) = drive {
                    self.picture.centred(middle, y, &drive.word.text, Ink::Plain);
                    drive.below.iter().for_each(|b| self.name(middle, self.y(shape.y + 2, strip), b, number));
                }
            }
            ElementKind::Jump { label, from } => {
                let ink = self.power(number, *from);
                self.picture.shape(&[(left, y - 5.0), (left + 9.0, y), (left, y + 5.0)], ink);
                self.picture.text(left + 2.0 * CHAR, y, &label.text, Ink::Plain);
            }
            ElementKind::Return { from } => {
                let ink = self.power(number, *from);
                self.picture.frame((left, y - 8.0), (right - left, 16.0), 8.0, "white", ink);
                self.picture.centred(middle, y, "RETURN", Ink::Plain);
            }
            ElementKind::Source { value, .. } => {
                let read = self.lit.as_ref().and_then(|lit| lit.value_read(number, value));
                self.value(left, y, value, read);
            }
            ElementKind::Sink { target, .. } => {
                let holds = self.lit.as_ref().and_then(|lit| lit.value(target));
                self.value(left, y, target, holds);
            }
            ElementKind::Block(block) => self.block(shape, block, strip, number),
        }
    }

    /// A name around a middle; of what a comparison reads with its value.
    fn name(&mut self, middle: f64, y: f64, expr: &Expr, element: usize) {
        let text = expression(expr);
        let compares = matches!(self.network.elements[element].kind, ElementKind::Compare { .. });
        let value = self.lit.as_ref().filter(|_| compares).and_then(|lit| lit.number_read(element, expr));
        let Some(value) = value else {
            self.picture.centred(middle, y, &text, Ink::Plain);
            return;
        };
        let length = text.chars().count() as f64;
        let left = middle - (length + room(&value) as f64) * CHAR / 2.0;
        self.picture.text(left, y, &text, Ink::Plain);
        self.picture.tag(left + length * CHAR + 3.0, y, &value);
    }

    /// A name or value that begins at a place, with what it holds.
    fn value(&mut self, x: f64, y: f64, expr: &Expr, holds: Option<String>) {
        let text = expression(expr);
        self.picture.text(x, y, &text, Ink::Plain);
        if let Some(value) = holds {
            self.picture.tag(x + text.chars().count() as f64 * CHAR + 4.0, y, &value);
        }
    }

    /// Two bars; filled between while it conducts, unless a sign stands there.
    fn contact(&mut self, (left, right, y): (f64, f64, f64), conducts: Option<bool>, sign: &str) {
        let (a, b) = (left + 2.0, right - 2.0);
        self.picture.paper((a, y - 9.0), (b - a, 18.0));
        if conducts == Some(true) && sign.is_empty() {
            let (m, h) = ((a + b) / 2.0, 5.0);
            self.picture.shape(&[(a, y - h), (m + 3.0, y - h), (b, y), (m + 3.0, y + h), (a, y + h)], Ink::On);
        }
        let ink = match conducts {
            Some(true) => Ink::On,
            Some(false) => Ink::Off,
            None => Ink::Plain,
        };
        for x in [a, b] {
            self.picture.line((x, y - 9.0), (x, y + 9.0), if ink == Ink::Off { Ink::Plain } else { ink });
        }
        self.picture.centred((a + b) / 2.0, y, sign, if ink == Ink::On { Ink::On } else { Ink::Plain });
    }

    /// A pill; filled while there is power.
    fn coil(&mut self, (left, right, y): (f64, f64, f64), form: CoilForm, ink: Ink) {
        let fill = if ink == Ink::On { "#f6dcc8" } else { "white" };
        self.picture.frame((left, y - 8.5), (right - left, 17.0), 8.5, fill, ink);
        let letter = match form {
            CoilForm::Plain => "",
            CoilForm::Negated => "/",
            CoilForm::Set => "S",
            CoilForm::Reset => "R",
            CoilForm::Rising => "P",
            CoilForm::Falling => "N",
        };
        if ink == Ink::On && letter.is_empty() {
            self.picture.dot(((left + right) / 2.0, y), Ink::On);
        }
        self.picture.centred((left + right) / 2.0, y, letter, Ink::Plain);
    }

    fn block(&mut self, shape: &Shape, block: &Block, strip: usize, number: usize) {
        let title = usize::from(block.instance.is_some());
        let (left, right) = (self.x(shape.x, strip), self.x(shape.x + shape.measure.body, strip));
        let top = self.y(shape.y + title, strip);
        let bottom = self.y(shape.y + shape.measure.height - 1, strip);
        if let Some(instance) = &block.instance {
            self.picture.centred((left + right) / 2.0, self.y(shape.y, strip), &expression(instance), Ink::Title);
        }
        self.picture.frame((left, top), (right - left, bottom - top), 3.0, "#f5f8fa", Ink::Plain);
        let length = |name: &Option<Name>| name.as_ref().map_or(0, |n| n.text.chars().count());
        let first_in = block.inputs.first().map_or(0, |p| length(&p.name)) as f64;
        let first_out = block.outputs.first().map_or(0, |p| length(&p.name)) as f64;
        let middle = (left + right + (first_in - first_out) * CHAR) / 2.0;
        self.picture.centred(middle, self.y(shape.y + title + 1, strip), &block.name.text, Ink::Title);
        let (inputs, outputs) = shape.measure.pins.clone();
        for (pin, row) in block.inputs.iter().zip(inputs) {
            self.input((left, self.y(shape.y + title + 1 + row, strip)), pin, number);
        }
        for (pin, row) in block.outputs.iter().zip(outputs) {
            self.output((right, self.y(shape.y + title + 1 + row, strip)), pin, block.instance.as_ref());
        }
    }

    /// An input of a block: what is written there, and the stub that leads in.
    fn input(&mut self, (left, y): (f64, f64), pin: &InPin, element: usize) {
        if let Some(name) = &pin.name {
            self.picture.text(left + 3.0, y, &name.text, Ink::Plain);
        }
        if let Feed::Value(value) = &pin.feed {
            let text = expression(value);
            let from = left - 2.0 * CHAR;
            let read = self.lit.as_ref().and_then(|lit| lit.bool_read(element, value));
            self.picture.line((from, y), (left, y), ink_of(read));
            let begin = from - (text.chars().count() as f64 + 0.7) * CHAR;
            self.picture.text(begin, y, &text, Ink::Plain);
            if let Some(value) = self.lit.as_ref().and_then(|lit| lit.value_read(element, value)) {
                let width = value.chars().count() as f64 * 6.4 + 10.0;
                self.picture.tag(begin - width, y, &value);
            }
        }
        if pin.negated {
            self.picture.ring((left - 3.4, y), Ink::Plain);
        }
    }

    /// An output of a block: what takes it, and the stub that leads out; of an instance what it shows where nothing takes it.
    fn output(&mut self, (right, y): (f64, f64), pin: &OutPin, instance: Option<&Expr>) {
        if let Some(name) = &pin.name {
            let width = name.text.chars().count() as f64 * CHAR;
            self.picture.text(right - 3.0 - width, y, &name.text, Ink::Plain);
        }
        if let Some(target) = &pin.target {
            let to = right + 2.0 * CHAR;
            let holds = self.lit.as_ref().and_then(|lit| lit.bool_of(target));
            self.picture.line((right, y), (to, y), ink_of(holds));
            let value = self.lit.as_ref().and_then(|lit| lit.value(target));
            self.value(to + 0.7 * CHAR, y, target, value);
        } else if let (None, Some(instance), Some(name)) = (pin.to, instance, &pin.name)
            && let Some(value) = self.lit.as_ref().and_then(|lit| lit.output(instance, &name.text))
        {
            self.picture.tag(right + 0.7 * CHAR, y, &value);
        }
        if pin.negated {
            self.picture.ring((right + 3.4, y), Ink::Plain);
        }
    }
}

/// Characters of the widest name that stands over or under an element.
fn named_width(element: &Element) -> usize {
    let width = |expr: &Expr| expression(expr).chars().count();
    match &element.kind {
        ElementKind::Contact { operand, .. } => width(operand),
        ElementKind::Compare { left, right, .. } => width(left).max(width(right)),
        ElementKind::Coil { target, .. } => width(target),
        ElementKind::Source { value: expr, .. } | ElementKind::Sink { target: expr, .. } => width(expr),
        ElementKind::Block(block) => block.instance.as_ref().map_or(0, width),
        ElementKind::Jump { label, .. } => label.text.chars().count() + 2,
        ElementKind::Return { .. } => 0,
    }
}

/// Power, none, or not known.
fn ink_of(power: Option<bool>) -> Ink {
    match power {
        Some(true) => Ink::On,
        Some(false) => Ink::Off,
        None => Ink::Plain,
    }
}
