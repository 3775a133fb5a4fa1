//! A drawing in a terminal: the text of the drawing with box characters; of one scan with its power and values.
//!
//! Power is told by weight, so that it needs no colour: wires and contacts that carried it are heavy.

use super::lit::Lit;
use super::network::with_texts;
use super::{Live, Part, parts, values};
use crate::check::Checked;
use crate::lang::grid::paint::{self, Cell, Owner};
use crate::lang::st::expression;
use crate::lang::{DrawnStyle as Style, language_of};
use crate::model::{Body, CoilForm, ElementKind, Expr, ExprKind, Item, Name, Network, Unit};

/// How a piece of a row is meant, for whoever has colours.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Tone {
    /// As it is.
    Plain,
    /// A heading.
    Title,
    /// It carried power, or conducted.
    On,
    /// It did not.
    Off,
    /// A value.
    Value,
}

/// One row of a drawing, in pieces.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Row {
    /// The pieces, from the left.
    pub pieces: Vec<(String, Tone)>,
    /// The network that the row belongs to, counted from 1.
    pub network: Option<usize>,
}

impl Row {
    fn of(text: impl Into<String>, tone: Tone) -> Row {
        Row { pieces: vec![(text.into(), tone)], network: None }
    }

    /// The row without its tones.
    #[must_use]
    pub fn text(&self) -> String {
        self.pieces.iter().map(|(text, _)| text.as_str()).collect::<String>().trim_end().to_string()
    }

    fn push(&mut self, c: char, tone: Tone) {
        match self.pieces.last_mut().filter(|(_, last)| *last == tone) {
            Some((text, _)) => text.push(c),
            None => self.pieces.push((c.to_string(), tone)),
        }
    }
}

/// What is drawn of a project.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Which {
    /// One unit, by its name; all if absent.
    pub unit: Option<String>,
    /// Its networks, counted from 1; all if absent.
    pub networks: Option<Vec<usize>>,
    /// Those in which a variable of this name stands.
    pub naming: Option<String>,
}

impl Which {
    fn is_all(&self) -> bool {
        *self == Which::default()
    }

    fn takes(&self, number: usize, part: &Part<'_>) -> bool {
        self.networks.as_ref().is_none_or(|list| list.contains(&(number + 1)))
            && self.naming.as_ref().is_none_or(|name| part.uses().has(name))
    }
}

/// The bodies of all units, drawn with box characters; text stays as it is.
#[must_use]
pub fn terminal(checked: &Checked) -> String {
    let mut out = String::new();
    for row in rows(checked, &Which::default(), None, paint::PAGE) {
        out.push_str(&row.text());
        out.push('\n');
    }
    out
}

/// The numbers of the networks that are drawn of a unit, counted from 1.
#[must_use]
pub fn networks(checked: &Checked, which: &Which) -> Vec<usize> {
    let items = checked.project().items.iter();
    let mut units = items.filter_map(|item| if let Item::Unit(unit) = item { Some(unit) } else { None });
    let Some(unit) = units.find(|unit| which.unit.as_ref().is_none_or(|name| unit.name.is(name))) else {
        return Vec::new();
    };
    let parts = parts(unit);
    (0..parts.len()).filter(|number| which.takes(*number, &parts[*number])).map(|number| number + 1).collect()
}

/// Units row by row, on a page so many characters wide; of programs with what one scan did, if that is given.
#[must_use]
pub fn rows(checked: &Checked, which: &Which, live: Option<&Live<'_>>, width: usize) -> Vec<Row> {
    let mut out = Vec::new();
    for item in &checked.project().items {
        let Item::Unit(unit) = item else { continue };
        if which.unit.as_ref().is_none_or(|name| unit.name.is(name)) {
            let live = super::live_of(live, unit);
            of_unit(&mut out, unit, which, live.as_ref(), width);
        }
    }
    out
}

fn of_unit(out: &mut Vec<Row>, unit: &Unit, which: &Which, live: Option<&Live<'_>>, width: usize) {
    let parts = parts(unit);
    let chosen: Vec<(usize, &Part<'_>)> = parts.iter().enumerate().filter(|(n, part)| which.takes(*n, part)).collect();
    // Of many units those that hold nothing of what was asked for are passed over.
    if chosen.is_empty() && !which.is_all() {
        return;
    }
    let caption = live.map_or(String::new(), |live| format!("   after {}", live.caption));
    let title = format!("{} {}  ({}){caption}", unit.kind.word(), unit.name.text, language_of(&unit.body).title());
    out.extend([Row::of(title, Tone::Title), Row::default()]);
    match (&unit.body, live) {
        (Body::Statements(_) | Body::Instructions(_), None) if which.is_all() => {
            let mut text = String::new();
            crate::lang::body_text(&mut text, &unit.body);
            out.extend(text.lines().map(|line| Row::of(line, Tone::Plain)));
        }
        _ => {
            for (number, part) in chosen {
                let first = out.len();
                of_part(out, number, part, live, width);
                out[first..].iter_mut().for_each(|row| row.network = Some(number + 1));
            }
        }
    }
    out.push(Row::default());
}

/// Where values stand behind the lines of a text, and on a narrow page.
const VALUES: usize = 48;
const NARROW: usize = 28;

fn of_part(out: &mut Vec<Row>, number: usize, part: &Part<'_>, live: Option<&Live<'_>>, width: usize) {
    let title: Vec<&str> = part.title().iter().map(|c| c.text.as_str()).collect();
    let label = part.label().map_or(String::new(), |label| format!(" {label}:"));
    let mut heading = format!("{:>3}{label}  {}", number + 1, title.join(" / "));
    match part {
        Part::Drawn(network, style) => {
            let lit = live.map(|live| Lit::new(live, network, number));
            if lit.as_ref().is_some_and(|lit| !lit.ran()) {
                heading.push_str("   (not executed in this scan)");
            }
            out.push(Row::of(heading.trim_end(), Tone::Title));
            if !network.elements.is_empty() {
                out.extend(drawn(network, *style, lit.as_ref(), width));
            }
        }
        Part::Statements(_) | Part::Instructions(_) => {
            out.push(Row::of(heading.trim_end(), Tone::Title));
            for line in part.text().lines() {
                let mut row = Row::of(format!("    {line}"), Tone::Plain);
                let mut values = live.map_or(Vec::new(), |live| values(line, live));
                if !values.is_empty() {
                    let is_narrow = width < 80;
                    // Of one name alone everybody knows which it is.
                    if let (true, [only]) = (is_narrow, values.as_mut_slice()) {
                        *only = only.split_once('=').map_or(only.clone(), |(_, value)| format!("={value}"));
                    }
                    let column = if is_narrow { NARROW } else { VALUES };
                    let (length, values) = (row.text().chars().count(), values.join("  "));
                    let mut gap = column.saturating_sub(length).max(2);
                    if length + gap + values.chars().count() > width {
                        // Behind a long line there is no room: they stand below it.
                        out.push(std::mem::take(&mut row));
                        gap = (column / 2).min(width.saturating_sub(values.chars().count())).max(8);
                    }
                    row.pieces.push((" ".repeat(gap), Tone::Plain));
                    row.pieces.push((values, Tone::Value));
                }
                out.push(row);
            }
        }
    }
    out.push(Row::default());
}

/// A network with box characters, further in than its heading.
fn drawn(network: &Network, style: Style, lit: Option<&Lit<'_>>, width: usize) -> Vec<Row> {
    let named = lit.map(|lit| with_addresses(with_texts(network, lit, &with_value), lit));
    let cells = paint::cells(named.as_ref().unwrap_or(network), style, width);
    let signs: Vec<Vec<char>> = cells.iter().map(|row| row.iter().map(|cell| cell.sign).collect()).collect();
    let mut out = Vec::new();
    for (row, list) in cells.iter().enumerate() {
        let mut drawn = Row::of("    ", Tone::Plain);
        for (column, cell) in list.iter().enumerate() {
            let sign = boxed(&signs, row, column);
            let (sign, tone) = lit.map_or((sign, Tone::Plain), |lit| toned(network, lit, *cell, sign, &list[..column]));
            drawn.push(sign, tone);
        }
        out.push(drawn);
    }
    out
}

/// The network with the addresses of its contacts and coils beside their symbols.
fn with_addresses(mut network: Network, lit: &Lit<'_>) -> Network {
    for element in &mut network.elements {
        if let ElementKind::Contact { operand: expr, .. } | ElementKind::Coil { target: expr, .. } = &mut element.kind
            && let Some(address) = lit.address(expr)
        {
            let text = format!("{} {address}", expression(expr));
            expr.kind = ExprKind::Name(Name { text, span: expr.span });
        }
    }
    network
}

/// A name with its value: `Temp=79`; of an output that nothing takes the value alone.
fn with_value(expr: &Expr, value: Option<String>) -> Expr {
    let text = expression(expr);
    let is_literal = matches!(expr.kind, ExprKind::Literal(_));
    let text = match value {
        Some(value) if !is_literal => format!("{text}={value}"),
        _ => text,
    };
    Expr { kind: ExprKind::Name(Name { text, span: expr.span }), span: expr.span }
}

/// A character as the power has it: heavy where there was some.
fn toned(network: &Network, lit: &Lit<'_>, cell: Cell, sign: char, before: &[Cell]) -> (char, Tone) {
    let power = match cell.owner {
        Owner::Paper => None,
        Owner::Wire(wire) => lit.wire(wire),
        Owner::Element(at) => match network.elements.get(at).map(|element| &element.kind) {
            Some(ElementKind::Contact { .. } | ElementKind::Compare { .. }) if is_symbol(cell, before) => {
                lit.conducts(at)
            }
            Some(ElementKind::Coil { form, from, .. }) => {
                let power = lit.power(at, *from);
                if power == Some(true) && *form == CoilForm::Plain && sign == ' ' && is_symbol(cell, before) {
                    return ('●', Tone::On);
                }
                power.filter(|_| is_symbol(cell, before))
            }
            Some(ElementKind::Jump { from, .. } | ElementKind::Return { from }) => lit.power(at, *from),
            Some(
                ElementKind::Contact { .. }
                | ElementKind::Compare { .. }
                | ElementKind::Block(_)
                | ElementKind::Source { .. }
                | ElementKind::Sink { .. },
            )
            | None => None,
        },
    };
    match power {
        Some(true) if sign == ' ' && cell.owner != Owner::Paper => ('█', Tone::On),
        Some(true) => (heavy(sign), Tone::On),
        Some(false) => (sign, Tone::Off),
        None => (sign, Tone::Plain),
    }
}

/// Whether a character is of the symbol of a contact, a comparison or a coil, and not of the name over it.
fn is_symbol(cell: Cell, before: &[Cell]) -> bool {
    let opens = |c: char| matches!(c, '|' | '(');
    // The symbol begins with a bar or a bracket; names hold neither.
    let own = before.iter().rev().take_while(|other| other.owner == cell.owner).last().copied().unwrap_or(cell);
    opens(own.sign)
}

fn heavy(sign: char) -> char {
    match sign {
        '─' => '━',
        '│' => '┃',
        '┌' => '┏',
        '┐' => '┓',
        '└' => '┗',
        '┘' => '┛',
        '├' => '┣',
        '┤' => '┫',
        '┬' => '┳',
        '┴' => '┻',
        '┼' => '╋',
        other => other,
    }
}

/// The box character for a plain one.
fn boxed(lines: &[Vec<char>], row: usize, column: usize) -> char {
    let at = |down: isize, right: isize| {
        let row = row.checked_add_signed(down)?;
        lines.get(row)?.get(column.checked_add_signed(right)?).copied()
    };
    let c = lines[row][column];
    let (left, right) = (at(0, -1), at(0, 1));
    match c {
        // A sign or a date is no wire.
        '-' if right.is_some_and(|r| r.is_ascii_digit()) || left == Some('#') => '-',
        '-' => '─',
        '|' => {
            let wired = |c: Option<char>| matches!(c, Some('-' | '+'));
            let symbol = |c: Option<char>| matches!(c, Some(' ' | '/' | 'P' | 'N' | '<' | '>' | '='));
            let closes = |step: isize| (1..6).any(|n| at(0, step * n) == Some('|') && wired(at(0, step * (n + 1))));
            match (wired(left), wired(right)) {
                (true, false) if symbol(right) && closes(1) => '┤',
                (false, true) if symbol(left) && closes(-1) => '├',
                _ => '│',
            }
        }
        '+' => {
            let across = |c: Option<char>| matches!(c, Some('-' | '+' | 'o'));
            let upright = |c: Option<char>| matches!(c, Some('|' | '+'));
            match (across(left), across(right), upright(at(-1, 0)), upright(at(1, 0))) {
                (true, true, true, true) => '┼',
                (true, true, false, true) => '┬',
                (true, true, true, false) => '┴',
                (false, true, true, true) => '├',
                (true, false, true, true) => '┤',
                (false, true, false, true) => '┌',
                (true, false, false, true) => '┐',
                (false, true, true, false) => '└',
                (true, false, true, false) => '┘',
                (true, true, false, false) => '─',
                _ => '│',
            }
        }
        'o' if matches!(right, Some('+')) || matches!(left, Some('+')) => '○',
        other => other,
    }
}
