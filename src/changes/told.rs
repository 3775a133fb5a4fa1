//! From aligned parts to changes: what kind each is, and the lines of both bodies side by side.

use super::align::Step;
use super::token::Token;
use super::tree::{Node, Shape};
use super::{Both, Cause, Group, Kind, Spot};
use crate::source::Span;
use similar::{Algorithm, DiffOp, capture_diff_slices};
use std::collections::HashSet;

/// How a line of one body stands to that of the other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LineState {
    /// The same.
    Same,
    /// Changed.
    Changed,
    /// The same, elsewhere.
    Moved,
    /// Only on the left.
    Gone,
    /// Only on the right.
    New,
}

/// A line of a body, or a network of a drawing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cell {
    /// The line in its file, or the number of the network.
    pub number: usize,
    /// How far in it stands.
    pub depth: usize,
    /// What it says.
    pub text: String,
    /// The network it belongs to, counted from 1.
    pub network: usize,
}

/// What stands side by side.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Row {
    /// How the two stand to each other.
    pub state: LineState,
    /// Left and right.
    pub cells: [Option<Cell>; 2],
    /// The number of the change, if it is one.
    pub change: Option<usize>,
    /// The place of the change among all that are found, until they are numbered.
    pub(super) found: Option<usize>,
}

/// What was told of a unit's body.
#[derive(Default)]
pub(super) struct Told {
    pub(super) rows: Vec<Row>,
    /// Where operations come from that are as they were, left and right.
    pub(super) same: [HashSet<Span>; 2],
    /// Where those come from that are not.
    pub(super) other: [HashSet<Span>; 2],
    /// Parts that are laid out otherwise.
    pub(super) laid: Vec<[Span; 2]>,
    /// True right behind a part that only one side has, or that moved.
    behind: bool,
}

pub(super) struct Teller<'t, 'c> {
    pub(super) both: &'t mut Both<'c>,
    pub(super) unit: &'t str,
    pub(super) told: Told,
    /// The rung that is gone through, left and right: what changes in it changes all of it.
    pub(super) rung: Option<[Vec<Span>; 2]>,
    /// False where the texts of both sides are made by translation, so that how they are laid out says nothing.
    pub(super) as_written: bool,
}

impl Teller<'_, '_> {
    pub(super) fn steps(&mut self, steps: &[Step<'_>], depth: usize) {
        for step in steps {
            self.step(step, depth);
            // A blank line above what follows may belong to what came or went.
            self.told.behind = !matches!(step, Step::Same(..) | Step::Changed(..));
        }
        self.told.behind = false;
    }

    fn step(&mut self, step: &Step<'_>, depth: usize) {
        match step {
            Step::Same(left, right) => self.same(left, right, depth, LineState::Same, None),
            Step::Moved(left, right) => {
                let found = self.whole(Kind::Moved, [Some(left), Some(right)]);
                self.same(left, right, depth, LineState::Moved, Some(found));
                self.other([Some(left), Some(right)]);
            }
            Step::Gone(left) => {
                let found = self.whole(Kind::Removed, [Some(left), None]);
                self.lone(left, 0, depth, found);
                self.other([Some(left), None]);
            }
            Step::New(right, inner) => {
                let found = self.whole(Kind::Added, [None, Some(right)]);
                self.other([None, Some(right)]);
                if inner.is_empty() {
                    self.lone(right, 1, depth, found);
                    return;
                }
                self.row(LineState::New, [None, Some((right, depth))], Some(found));
                self.inside_new(inner, depth + 1, found);
                self.closing(LineState::New, [None, Some((right, depth))]);
            }
            Step::Changed(left, right, inner) => self.changed([left, right], inner, depth),
        }
    }

    /// What is in a new part: it is new with it, but for what was there before.
    fn inside_new(&mut self, steps: &[Step<'_>], depth: usize, found: usize) {
        for step in steps {
            match step {
                Step::New(node, inner) if inner.is_empty() => self.lone(node, 1, depth, found),
                Step::New(node, inner) => {
                    self.row(LineState::New, [None, Some((node, depth))], Some(found));
                    self.inside_new(inner, depth + 1, found);
                    self.closing(LineState::New, [None, Some((node, depth))]);
                }
                Step::Same(..) | Step::Moved(..) | Step::Changed(..) | Step::Gone(_) => self.step(step, depth),
            }
        }
    }

    /// A change of a whole part; its place among all that are found.
    fn whole(&mut self, kind: Kind, nodes: [Option<&Node>; 2]) -> usize {
        // A condition more or less in a rung that is there on both sides.
        let joins = |node: &&Node| matches!(node.tokens.first(), Some(Token::Sign("AND" | "OR" | "XOR")));
        let kind = if self.rung.is_some() && nodes.iter().flatten().all(joins) { Kind::Branch } else { kind };
        let word = nodes.iter().flatten().next().map_or("", |node| node.shape.word());
        let sides = [0, 1].map(|side| nodes[side].and_then(|node| self.spot(side, node, node.line())));
        let spans = self.within(nodes.map(|node| node.map_or_else(Vec::new, Node::spans)));
        self.both.tell((Group::Logic, kind), Some(self.unit), word).sides(sides).cause(Cause::Parts(spans));
        self.both.found.len() - 1
    }

    fn other(&mut self, nodes: [Option<&Node>; 2]) {
        let spans = self.within(nodes.map(|node| node.map_or_else(Vec::new, Node::spans)));
        self.told.other.iter_mut().zip(spans).for_each(|(other, spans)| other.extend(spans));
    }

    /// Places of a change, with all of the rung that it is in.
    fn within(&self, mut spans: [Vec<Span>; 2]) -> [Vec<Span>; 2] {
        if let Some(rung) = &self.rung {
            spans.iter_mut().zip(rung).for_each(|(spans, rung)| spans.extend(rung));
        }
        spans
    }

    fn spot(&self, side: usize, node: &Node, text: String) -> Option<Spot> {
        let spot = self.both.spot(side, node.span, text)?;
        Some(Spot { network: Some(node.network + 1), spans: node.spans(), ..spot })
    }

    /// Parts of the same content: their comments and layout may be others.
    fn same(&mut self, left: &Node, right: &Node, depth: usize, state: LineState, found: Option<usize>) {
        self.told.same[0].extend(left.spans());
        self.told.same[1].extend(right.spans());
        self.notes([left, right]);
        if state == LineState::Same {
            self.layout([left, right]);
        }
        if is_seen(left) {
            self.row(state, [Some((left, depth)), Some((right, depth))], found);
        }
        let deeper = depth + usize::from(is_seen(left));
        for (a, b) in left.children.iter().zip(&right.children) {
            if left.shape == Shape::Network {
                self.notes([a, b]);
            } else {
                self.same(a, b, deeper, state, found);
            }
        }
        if is_seen(left) || left.closing.is_some() {
            self.closing(state, [Some((left, depth)), Some((right, depth))]);
        }
    }

    /// Comments and layout of two parts.
    fn notes(&mut self, [left, right]: [&Node; 2]) {
        if left.comments != right.comments {
            let text = |node: &Node| node.comments.join(" / ");
            let sides = [(0, left), (1, right)].map(|(side, node)| {
                let spot = self.spot(side, node, text(node));
                spot.filter(|spot| !spot.text.is_empty())
            });
            self.both.tell((Group::Texts, Kind::Comment), Some(self.unit), left.shape.word()).sides(sides);
        }
    }

    /// How two parts of the same content are laid out.
    fn layout(&mut self, [left, right]: [&Node; 2]) {
        let known = left.layout.is_some() && right.layout.is_some();
        let blank = left.blank != right.blank && !std::mem::take(&mut self.told.behind);
        if self.as_written && (known && left.layout != right.layout || blank) {
            self.told.laid.push([left.span, right.span]);
        }
    }

    /// A part that only one side has.
    fn lone(&mut self, node: &Node, side: usize, depth: usize, found: usize) {
        let state = if side == 0 { LineState::Gone } else { LineState::New };
        let cell = |node| if side == 0 { [Some((node, depth)), None] } else { [None, Some((node, depth))] };
        if is_seen(node) {
            self.row(state, cell(node), Some(found));
        }
        if node.shape != Shape::Network {
            let deeper = depth + usize::from(is_seen(node));
            node.children.iter().for_each(|child| self.lone(child, side, deeper, found));
        }
        self.closing(state, cell(node));
    }

    fn row(&mut self, state: LineState, nodes: [Option<(&Node, usize)>; 2], found: Option<usize>) {
        let cell = |side: usize| {
            nodes[side].map(|(node, depth)| {
                let project = self.both.sides[side].project();
                let line = project.sources.get(node.span.file.0 as usize).map(|s| s.line_column(node.span.start).line);
                let text = if node.shape == Shape::Network { node.line() } else { node.text.clone() };
                Cell { number: line.unwrap_or(0) as usize, depth, text, network: node.network + 1 }
            })
        };
        let cells = [cell(0), cell(1)];
        self.told.rows.push(Row { state, cells, change: None, found });
    }

    fn closing(&mut self, state: LineState, nodes: [Option<(&Node, usize)>; 2]) {
        let cell = |side: usize| {
            let (node, depth) = nodes[side]?;
            let text = node.closing?.to_string();
            Some(Cell { number: 0, depth, text, network: node.network + 1 })
        };
        let cells = [cell(0), cell(1)];
        if cells.iter().any(Option::is_some) {
            self.told.rows.push(Row { state, cells, change: None, found: None });
        }
    }

    fn changed(&mut self, [left, right]: [&Node; 2], inner: &[Step<'_>], depth: usize) {
        self.notes([left, right]);
        if left.shape == Shape::Network {
            self.network([left, right], inner, depth);
            return;
        }
        let mut found = None;
        if left.tokens != right.tokens {
            let kind = kind_of(&left.tokens, &right.tokens);
            let sides = [self.spot(0, left, left.text.clone()), self.spot(1, right, right.text.clone())];
            let note = noted(kind, &left.text, &right.text);
            let spans = self.within([vec![left.span], vec![right.span]]);
            self.told.other.iter_mut().zip(&spans).for_each(|(other, spans)| other.extend(spans));
            let told = self.both.tell((Group::Logic, kind), Some(self.unit), left.shape.word());
            told.sides(sides).note(note).cause(Cause::Parts(spans));
            found = Some(self.both.found.len() - 1);
        } else {
            self.told.same[0].insert(left.span);
            self.told.same[1].insert(right.span);
        }
        let state = if found.is_some() { LineState::Changed } else { LineState::Same };
        if is_seen(left) {
            self.row(state, [Some((left, depth)), Some((right, depth))], found);
        }
        let outer = self.rung.take();
        self.rung = match left.shape {
            Shape::Rung => Some([left.spans(), right.spans()]),
            Shape::Step
            | Shape::If
            | Shape::Branch
            | Shape::Else
            | Shape::Case
            | Shape::Label
            | Shape::For
            | Shape::While
            | Shape::Repeat
            | Shape::Instruction
            | Shape::Nested
            | Shape::Network
            | Shape::Contact
            | Shape::Coil
            | Shape::Box
            | Shape::End
            | Shape::Leave => outer.clone(),
        };
        self.steps(inner, depth + usize::from(is_seen(left)));
        self.rung = outer;
        self.closing(LineState::Same, [Some((left, depth)), Some((right, depth))]);
    }

    /// A network of a drawing: what of its elements changed, and whether they are joined otherwise.
    fn network(&mut self, [left, right]: [&Node; 2], inner: &[Step<'_>], depth: usize) {
        let before = self.both.found.len();
        let all = || Cause::Parts([left.spans(), right.spans()]);
        let (mut gone, mut new): (Vec<&Node>, Vec<&Node>) = (Vec::new(), Vec::new());
        for step in inner {
            match step {
                Step::Changed(a, b, _) => {
                    let kind = kind_of(&a.tokens, &b.tokens);
                    let sides = [self.spot(0, a, a.text.clone()), self.spot(1, b, b.text.clone())];
                    let note = noted(kind, &a.text, &b.text);
                    let told = self.both.tell((Group::Logic, kind), Some(self.unit), "network");
                    told.sides(sides).note(note).cause(all());
                }
                Step::Gone(node) => gone.push(node),
                Step::New(node, _) => new.push(node),
                Step::Same(..) | Step::Moved(..) => {}
            }
        }
        let joined_otherwise = left.joined != right.joined && before == self.both.found.len();
        let moved = inner.iter().any(|step| matches!(step, Step::Moved(..)));
        if !gone.is_empty() || !new.is_empty() {
            let text = |list: &[&Node]| list.iter().map(|node| node.text.as_str()).collect::<Vec<_>>().join(", ");
            let sides = [(0, left, &gone), (1, right, &new)].map(|(side, node, list)| {
                let mut spot = self.spot(side, node, text(list))?;
                spot.spans = list.iter().map(|node| node.span).collect();
                (!list.is_empty()).then_some(spot)
            });
            let told = self.both.tell((Group::Logic, Kind::Branch), Some(self.unit), "network");
            told.sides(sides).cause(all());
        } else if joined_otherwise || moved {
            let sides = [self.spot(0, left, left.line()), self.spot(1, right, right.line())];
            let told = self.both.tell((Group::Logic, Kind::Branch), Some(self.unit), "network");
            told.sides(sides).note("the same elements, joined or ordered otherwise").cause(all());
        }
        if left.tokens != right.tokens {
            let label = |node: &Node| match node.tokens.first() {
                Some(Token::Name(label)) => label.clone(),
                _ => "no label".to_string(),
            };
            let sides = [self.spot(0, left, label(left)), self.spot(1, right, label(right))];
            let told = self.both.tell((Group::Logic, Kind::Rewritten), Some(self.unit), "label");
            told.sides(sides).cause(all());
        }
        self.other([Some(left), Some(right)]);
        self.row(LineState::Changed, [Some((left, depth)), Some((right, depth))], Some(before));
    }
}

/// Whether a part has a line of its own: an IF has that of its first condition, a rung those of its instructions.
fn is_seen(node: &Node) -> bool {
    !matches!(node.shape, Shape::If | Shape::Rung)
}

/// What kind of change makes one row of tokens of another. Parentheses come and go with what stands in them.
pub(super) fn kind_of(left: &[Token], right: &[Token]) -> Kind {
    let plain = |tokens: &[Token]| -> Vec<Token> {
        tokens.iter().filter(|t| !matches!(t, Token::Sign("(" | ")"))).cloned().collect()
    };
    let (a, b) = (plain(left), plain(right));
    if a == b {
        // What belongs together is another.
        return Kind::Branch;
    }
    let mut kinds: HashSet<Kind> = HashSet::new();
    if a.len() == b.len() {
        kinds.extend(a.iter().zip(&b).filter(|(a, b)| a != b).map(|(a, b)| replaced(a, b)));
    } else {
        for op in capture_diff_slices(Algorithm::Myers, &a, &b) {
            let (old, new) = (&a[op.old_range()], &b[op.new_range()]);
            match op {
                DiffOp::Equal { .. } => {}
                DiffOp::Insert { .. } | DiffOp::Delete { .. } => {
                    let only_not = old.iter().chain(new).all(|token| *token == Token::Sign("NOT"));
                    kinds.insert(if only_not { Kind::Form } else { Kind::Branch });
                }
                DiffOp::Replace { .. } if old.len() == new.len() => {
                    kinds.extend(old.iter().zip(new).filter(|(a, b)| a != b).map(|(a, b)| replaced(a, b)));
                }
                DiffOp::Replace { .. } => drop(kinds.insert(Kind::Rewritten)),
            }
        }
    }
    let mut kinds = kinds.into_iter();
    match (kinds.next(), kinds.next()) {
        (Some(only), None) => only,
        (None, _) | (Some(_), Some(_)) => Kind::Rewritten,
    }
}

/// Signs that say in which form something is asked or written.
const FORMS: &[&str] =
    &["| |", "|/|", "|P|", "|N|", "( )", "(/)", "(S)", "(R)", "(P)", "(N)", "LD", "ST", "S", "R", "NOT"];

fn replaced(left: &Token, right: &Token) -> Kind {
    match (left, right) {
        (Token::Value(_), Token::Value(_)) => Kind::Value,
        (Token::Sign(a), Token::Sign(b)) if FORMS.contains(a) && FORMS.contains(b) => Kind::Form,
        (Token::Sign(_), Token::Sign(_)) => Kind::Operator,
        // A variable in place of a value, or a part of one for another.
        (Token::Name(_) | Token::Part(_) | Token::Value(_), Token::Name(_) | Token::Part(_) | Token::Value(_)) => {
            Kind::Operand
        }
        (Token::Name(_) | Token::Part(_) | Token::Value(_), Token::Sign(_))
        | (Token::Sign(_), Token::Name(_) | Token::Part(_) | Token::Value(_)) => Kind::Rewritten,
    }
}

/// What of a part became what, where that is one thing.
fn noted(kind: Kind, left: &str, right: &str) -> String {
    let is_one = [Kind::Value, Kind::Operand, Kind::Operator, Kind::Form].contains(&kind);
    // The sign of a coil is one word, though it may hold a blank.
    let sign =
        |text: &str| text.get(..3).filter(|sign| sign.starts_with('(') && sign.ends_with(')')).map(str::to_string);
    if let (Kind::Form, Some(old), Some(new)) = (kind, sign(left), sign(right)) {
        return format!("{old} became {new}");
    }
    if is_one { differing(left, right) } else { String::new() }
}

/// The words in which two lines differ, if it is in one place; nothing if all of it is other.
pub(super) fn differing(left: &str, right: &str) -> String {
    let words = |text: &str| -> Vec<String> {
        let mut out: Vec<String> = Vec::new();
        for letter in text.chars() {
            let joins = |word: &String| {
                let in_word = |c: char| c.is_alphanumeric() || matches!(c, '_' | '#' | '.' | '%' | '|' | '/');
                word.chars().all(in_word) && in_word(letter)
            };
            match out.last_mut().filter(|word| joins(word)) {
                Some(word) => word.push(letter),
                None => out.push(letter.to_string()),
            }
        }
        out
    };
    let (a, b) = (words(left), words(right));
    let first = a.iter().zip(&b).take_while(|(a, b)| a == b).count();
    let last = a[first..].iter().rev().zip(b[first..].iter().rev()).take_while(|(a, b)| a == b).count();
    let (old, new) = (a[first..a.len() - last].concat(), b[first..b.len() - last].concat());
    let (old, new) = (old.trim().to_string(), new.trim().to_string());
    match (old.as_str(), new.as_str()) {
        ("", "") => String::new(),
        _ if first == 0 && last == 0 => String::new(),
        ("", new) => format!("with {new}"),
        (old, "") => format!("without {old}"),
        (old, new) => format!("{old} became {new}"),
    }
}
