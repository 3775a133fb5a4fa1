//! From plans to lines of characters.

use super::Style;
pub(crate) use super::layout::PAGE;
use super::layout::{Line, Paper, Plan, Shape, plan, title_lines};
use crate::lang::st::expression;
use crate::lang::written::comment;
use crate::model::{Block, CoilForm, ContactForm, ElementKind, Feed, Network, Wire};

const INDENT: &str = "    ";

/// Writes the networks of a body.
pub(crate) fn networks(out: &mut String, list: &[Network], style: Style) {
    for (index, network) in list.iter().enumerate() {
        if index > 0 {
            out.push('\n');
        }
        for c in network.notes.leading.iter().chain(&network.notes.trailing) {
            let text = comment(c);
            out.push_str(&format!("{INDENT}{text}\n"));
        }
        if let Some(label) = &network.label {
            out.push_str(&format!("{INDENT}{}:\n", label.text));
        }
        if !network.elements.is_empty() {
            for line in lines(network, style) {
                out.push_str(format!("{INDENT}{line}").trim_end());
                out.push('\n');
            }
        }
    }
}

/// What a character of a drawing belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Owner {
    /// Nothing that carries power or a value.
    Paper,
    /// A wire.
    Wire(Wire),
    /// An element, by its number in the network.
    Element(usize),
}

/// One character of a drawing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Cell {
    pub(crate) sign: char,
    pub(crate) owner: Owner,
}

/// The lines of one network.
pub(crate) fn lines(network: &Network, style: Style) -> Vec<String> {
    let text = |row: &Vec<Cell>| row.iter().map(|cell| cell.sign).collect();
    cells(network, style, PAGE).iter().map(text).collect()
}

/// The lines of one network, of each character what it belongs to, on a page so many characters wide.
pub(crate) fn cells(network: &Network, style: Style, page: usize) -> Vec<Vec<Cell>> {
    let plan = plan(network, style, Paper::Page(page));
    let mut sheet = Painted::new(&plan);
    plan.lines.iter().for_each(|line| sheet.wire(line, false));
    // From a coil to the right rail, unless the drawing is cut between them.
    let whole = |line: &&Line| !plan.cuts.iter().any(|c| (line.from.0..=line.to.0).contains(c));
    for line in plan.tails.iter().filter(whole) {
        sheet.wire(line, true);
        let ends = |s: &Shape| s.measure.tail.map(|port| (s.x + s.measure.body, s.y + port)) == Some(line.from);
        if let Some(coil) = plan.shapes.iter().position(ends) {
            sheet.tails.push((*line, coil));
        }
    }
    if let Some((left, right)) = plan.rails {
        for row in 0..plan.height {
            for (rail, inner) in [(left, 1isize), (right, -1)] {
                let beside = rail.checked_add_signed(inner).is_some_and(|x| sheet.across[row][x].is_some());
                sheet.put(rail, row, if beside { "+" } else { "|" });
            }
        }
    }
    for (number, (shape, element)) in plan.shapes.iter().zip(&network.elements).enumerate() {
        sheet.owner = Owner::Element(number);
        sheet.shape(shape, &element.kind);
    }
    cut(&sheet.text(), &plan)
}

const BLANK: Cell = Cell { sign: ' ', owner: Owner::Paper };

struct Painted {
    chars: Vec<Vec<Cell>>,
    /// Whom what is put belongs to.
    owner: Owner,
    /// Pieces of wire behind coils, each with its coil.
    tails: Vec<(Line, usize)>,
    across: Vec<Vec<Option<(Wire, bool)>>>,
    down: Vec<Vec<Option<(Wire, bool)>>>,
}

impl Painted {
    fn new(plan: &Plan) -> Painted {
        let (width, height) = (plan.width + 1, plan.height);
        Painted {
            chars: vec![vec![BLANK; width]; height],
            owner: Owner::Paper,
            tails: Vec::new(),
            across: vec![vec![None; width]; height],
            down: vec![vec![None; width]; height],
        }
    }

    fn put(&mut self, x: usize, y: usize, text: &str) {
        let Some(row) = self.chars.get_mut(y) else { return };
        for (at, c) in text.chars().enumerate() {
            if let Some(cell) = row.get_mut(x + at) {
                *cell = Cell { sign: c, owner: self.owner };
            }
        }
    }

    fn wire(&mut self, line: &Line, tail: bool) {
        let ((x, y), (to_x, to_y)) = (line.from, line.to);
        let owner = Some((line.wire, tail));
        if y == to_y {
            for x in x.min(to_x)..=x.max(to_x) {
                self.across[y][x] = owner;
            }
        } else {
            for y in y.min(to_y)..=y.max(to_y) {
                self.down[y][x] = owner;
            }
        }
    }

    /// The sheet with its wires: `+` where one wire turns or branches, `|` where one passes over another.
    fn text(&self) -> Vec<Vec<Cell>> {
        let mut out = self.chars.clone();
        for (y, row) in out.iter_mut().enumerate() {
            for (x, cell) in row.iter_mut().enumerate() {
                if cell.sign == ' ' {
                    let (sign, wire) = match (self.across[y][x], self.down[y][x]) {
                        (None, None) => continue,
                        (Some((wire, _)), None) => ('-', wire),
                        (Some(a), Some(b)) if a == b => ('+', a.0),
                        (_, Some((wire, _))) => ('|', wire),
                    };
                    *cell = Cell { sign, owner: Owner::Wire(wire) };
                }
            }
        }
        for (line, coil) in &self.tails {
            let row = &mut out[line.from.1];
            row[line.from.0..=line.to.0].iter_mut().for_each(|cell| cell.owner = Owner::Element(*coil));
        }
        out
    }

    fn shape(&mut self, shape: &Shape, kind: &ElementKind) {
        let (x, y) = (shape.x, shape.y);
        let over = |name: &str| {
            let middle = x + shape.measure.body / 2;
            middle.saturating_sub(name.chars().count() / 2)
        };
        match kind {
            ElementKind::Contact { form, operand, .. } => {
                let name = expression(operand);
                self.put(over(&name), y, &name);
                self.put(x, y + 1, contact(*form));
            }
            ElementKind::Compare { op, left, right, .. } => {
                let (left, right) = (expression(left), expression(right));
                self.put(over(&left), y, &left);
                self.put(x, y + 1, &format!("|{}|", op.symbol()));
                self.put(over(&right), y + 2, &right);
            }
            ElementKind::Coil { form, target, drive, .. } => {
                let name = expression(target);
                self.put(over(&name), y, &name);
                match drive {
                    None => self.put(x, y + 1, coil(*form)),
                    Some(drive) => self.put(x, y + 1, &format!("({})", drive.word.text)),
                }
                if let Some(below) = drive.as_ref().and_then(|d| d.below.as_ref()) {
                    let value = expression(below);
                    self.put(over(&value), y + 2, &value);
                }
            }
            ElementKind::Jump { label, .. } => self.put(x, y, &format!(">>{}", label.text)),
            ElementKind::Return { .. } => self.put(x, y, "<RETURN>"),
            ElementKind::Source { value, .. } => self.put(x, y, &expression(value)),
            ElementKind::Sink { target, .. } => {
                self.put(x, y, &expression(target));
                // A blank between the wire and the word.
                self.across[y][x - 1] = None;
            }
            ElementKind::Block(block) => self.block(shape, block, title_lines(kind)),
        }
    }

    fn block(&mut self, shape: &Shape, block: &Block, title: usize) {
        let (x, y, width) = (shape.x, shape.y + title, shape.measure.body);
        if let Some(instance) = &block.instance {
            let name = expression(instance);
            let over = name.chars().count().saturating_sub(width);
            let at = if over > 0 { x.saturating_sub(over / 2) } else { x + (width - name.chars().count()) / 2 };
            self.put(at, shape.y, &name);
        }
        let edge = format!("+{}+", "-".repeat(width - 2));
        let bottom = shape.y + shape.measure.height - 1;
        self.put(x, y, &edge);
        self.put(x, bottom, &edge);
        for row in y + 1..bottom {
            self.put(x, row, "|");
            self.put(x + width - 1, row, "|");
            for inner in x + 1..x + width - 1 {
                self.across[row][inner] = None;
            }
        }
        let (inputs, outputs) = &shape.measure.pins;
        let length = |name: &Option<crate::model::Name>| name.as_ref().map_or(0, |n| n.text.chars().count());
        let (first_in, first_out) =
            (block.inputs.first().map_or(0, |p| length(&p.name)), block.outputs.first().map_or(0, |p| length(&p.name)));
        let room = width - 2 - first_in - first_out;
        let word = block.name.text.chars().count();
        self.put(x + 1 + first_in + (room - word) / 2, y + 1, &block.name.text);
        for (pin, row) in block.inputs.iter().zip(inputs) {
            let row = y + 1 + row;
            if let Some(name) = &pin.name {
                self.put(x + 1, row, &name.text);
            }
            if pin.feed != Feed::Open {
                self.put(x, row, "+");
            }
            let mut edge = x;
            if pin.negated {
                edge -= 1;
                self.put(edge, row, "o");
            }
            if let Feed::Value(value) = &pin.feed {
                self.put(edge - 2, row, "--");
                let value = expression(value);
                self.put(edge - 3 - value.chars().count(), row, &value);
            }
        }
        for (pin, row) in block.outputs.iter().zip(outputs) {
            let row = y + 1 + row;
            if let Some(name) = &pin.name {
                self.put(x + width - 1 - name.text.chars().count(), row, &name.text);
            }
            if pin.to.is_some() || pin.target.is_some() {
                self.put(x + width - 1, row, "+");
            }
            let mut edge = x + width;
            if pin.negated {
                self.put(edge, row, "o");
                edge += 1;
            }
            if let Some(target) = &pin.target {
                self.put(edge, row, "--");
                self.put(edge + 3, row, &expression(target));
            }
        }
    }
}

/// The symbol of a contact.
pub(crate) const fn contact(form: ContactForm) -> &'static str {
    match form {
        ContactForm::Open => "| |",
        ContactForm::Closed => "|/|",
        ContactForm::Rising => "|P|",
        ContactForm::Falling => "|N|",
    }
}

/// The symbol of a coil.
pub(crate) const fn coil(form: CoilForm) -> &'static str {
    match form {
        CoilForm::Plain => "( )",
        CoilForm::Negated => "(/)",
        CoilForm::Set => "(S)",
        CoilForm::Reset => "(R)",
        CoilForm::Rising => "(P)",
        CoilForm::Falling => "(N)",
    }
}

/// Cuts a sheet that is wider than a page; wires go on at marks with numbers.
fn cut(sheet: &[Vec<Cell>], plan: &Plan) -> Vec<Vec<Cell>> {
    let is_blank = |row: &Vec<Cell>| row.is_empty();
    if plan.cuts.is_empty() {
        // A blank line would end the network.
        return sheet.iter().map(|row| trimmed(row)).filter(|row| !is_blank(row)).collect();
    }
    let rail = plan.rails.is_some();
    let mut out: Vec<Vec<Cell>> = Vec::new();
    let (mut from, mut mark) = (0, 0);
    // For each row, the mark its wire carries on from the strip before.
    let mut carried: Vec<Option<(usize, Owner)>> = vec![None; sheet.len()];
    for to in plan.cuts.iter().copied().chain([plan.width]) {
        if from > 0 {
            out.push(plain("~~~~", Owner::Paper));
        }
        let mut next: Vec<Option<(usize, Owner)>> = vec![None; sheet.len()];
        for (row, chars) in sheet.iter().enumerate() {
            let mut text = Vec::new();
            if from > 0 {
                text.extend(plain(if rail { "|  " } else { "" }, Owner::Paper));
                text.extend(match carried[row] {
                    Some((mark, owner)) => plain(&format!("{:-<8}", format!(">{mark}>")), owner),
                    None => plain(&" ".repeat(8), Owner::Paper),
                });
            }
            text.extend(trimmed(&chars[from..to.min(chars.len())]));
            if let Some(cell) = chars.get(to).filter(|cell| to < plan.width && cell.sign == '-') {
                mark += 1;
                next[row] = Some((mark, cell.owner));
                text.extend(plain(&format!(">{mark}>"), cell.owner));
            }
            out.push(trimmed(&text));
        }
        carried = next;
        from = to;
    }
    out.retain(|row| !is_blank(row));
    out
}

/// A text that all belongs to one.
fn plain(text: &str, owner: Owner) -> Vec<Cell> {
    text.chars().map(|sign| Cell { sign, owner }).collect()
}

/// Without the blanks at its end.
fn trimmed(row: &[Cell]) -> Vec<Cell> {
    let end = row.iter().rposition(|cell| !cell.sign.is_whitespace()).map_or(0, |at| at + 1);
    row[..end].to_vec()
}
