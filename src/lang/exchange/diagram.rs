//! Ladder and function block bodies: elements by their numbers and positions, wires by who refers to whom.

use super::dom::{FileReader, attribute, child, children, comments, elements};
use crate::lang::grid::Style;
use crate::lang::grid::order::{self, Draft, FIRST_WIRE};
use crate::model::functions::{Function, Parameters};
use crate::model::ops::UnaryOp;
use crate::model::{
    Block, CoilForm, Comment, ContactForm, Element, ElementKind, Expr, ExprKind, Feed, InPin, Name, Network, Notes,
    OutPin, Spot, Wire,
};
use crate::source::Span;
use roxmltree::Node;
use std::collections::{BTreeSet, HashMap};

/// Which of the two drawn languages a body is in.
pub(super) use crate::lang::grid::Style as Drawing;

/// What stands closer than this, in the units of the drawing, is in one column.
const NEAR: usize = 10;
/// Most connectors and coils that a wire is followed through.
const FARTHEST: u32 = 200;

/// What gives a value: the left rail, or an output of an element.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
enum Giver {
    Rail,
    Output(String, String),
}

/// Who gives what is taken at a point.
type Givers = BTreeSet<Giver>;

struct DiagramReader<'r, 's, 'a, 'i> {
    sheet: &'r mut FileReader<'s>,
    style: Style,
    by_id: HashMap<&'a str, Node<'a, 'i>>,
    /// Connectors by name.
    connectors: HashMap<&'a str, Node<'a, 'i>>,
    drafts: Vec<Draft>,
    wires: HashMap<Givers, Wire>,
    /// All points at which something is taken.
    points: Vec<Givers>,
    next: u32,
}

/// A label, a comment or another tool's element: it belongs to the network at its height.
struct Beside {
    y: i32,
    label: Option<Name>,
    comments: Vec<Comment>,
    kept: Option<String>,
}

/// Reads the networks of a body.
pub(super) fn networks(sheet: &mut FileReader<'_>, body: Node<'_, '_>, style: Style) -> Vec<Network> {
    let mut reader = DiagramReader {
        sheet,
        style,
        by_id: HashMap::new(),
        connectors: HashMap::new(),
        drafts: Vec::new(),
        wires: HashMap::new(),
        points: Vec::new(),
        next: FIRST_WIRE,
    };
    for node in elements(body) {
        if let Some(id) = attribute(node, "localId")
            && reader.by_id.insert(id, node).is_some()
        {
            reader.sheet.wrong(node, format!("localId {id} is given twice"));
        }
        if node.tag_name().name() == "connector"
            && let Some(name) = attribute(node, "name")
        {
            reader.connectors.insert(name, node);
        }
    }
    reader.points = body
        .descendants()
        .filter(|n| n.tag_name().name() == "connectionPointIn")
        .map(|n| reader.givers(n, 0))
        .collect();
    reader.allot();
    let mut beside = Vec::new();
    for node in elements(body) {
        reader.element(node, &mut beside);
    }
    let drafts = std::mem::take(&mut reader.drafts);
    let span = reader.sheet.span(body);
    let before = sheet.problems.len();
    let groups = order::networks(drafts, style, NEAR, &mut sheet.problems);
    if sheet.problems.len() > before {
        return Vec::new();
    }
    with_labels(groups, beside, span)
}

/// Gives labels and comments to the networks they stand at.
fn with_labels(groups: Vec<Vec<Draft>>, mut beside: Vec<Beside>, span: Span) -> Vec<Network> {
    beside.sort_by_key(|b| b.y);
    let mut beside = beside.into_iter().peekable();
    let mut out = Vec::new();
    let mut notes = Notes { blank_before: true, ..Notes::default() };
    let mut label: Option<Name> = None;
    let mut take = |bottom: i64, out: &mut Vec<Network>| {
        while let Some(next) = beside.next_if(|b| i64::from(b.y) <= bottom) {
            if let Some(name) = next.label
                && let Some(before) = label.replace(name)
            {
                let notes = std::mem::replace(&mut notes, Notes { blank_before: true, ..Notes::default() });
                out.push(Network { label: Some(before), elements: Vec::new(), span, notes });
            }
            notes.leading.extend(next.comments);
            notes.kept.extend(next.kept);
        }
        (label.take(), std::mem::replace(&mut notes, Notes { blank_before: true, ..Notes::default() }))
    };
    for group in groups.into_iter().filter(|g| !g.is_empty()) {
        let bottom = group.iter().filter_map(|d| d.at).map(|s| i64::from(s.y)).max().unwrap_or(0);
        let (label, notes) = take(bottom, &mut out);
        let elements = group.into_iter().map(Element::from).collect();
        out.push(Network { label, elements, span, notes }.tidied());
    }
    let (label, notes) = take(i64::MAX, &mut out);
    if label.is_some() || !notes.leading.is_empty() || !notes.kept.is_empty() {
        out.push(Network { label, elements: Vec::new(), span, notes });
    }
    out
}

fn spot(node: Node<'_, '_>) -> Spot {
    let number = |name| {
        let text = child(node, "position").and_then(|p| attribute(p, name)).unwrap_or("0");
        text.parse::<f64>().map_or(0, |v| v.round().clamp(-1e9, 1e9) as i32)
    };
    Spot { x: number("x"), y: number("y") }
}

fn flag(node: Node<'_, '_>, name: &str) -> bool {
    matches!(attribute(node, name), Some("true" | "1"))
}

impl<'a, 'i> DiagramReader<'_, '_, 'a, 'i> {
    /// Who gives at a point, through connectors and coils.
    fn givers(&mut self, point: Node<'a, 'i>, depth: u32) -> Givers {
        let mut out = Givers::new();
        for connection in children(point, "connection") {
            let id = attribute(connection, "refLocalId").unwrap_or("");
            let pin = attribute(connection, "formalParameter").unwrap_or("").to_uppercase();
            let Some(node) = self.by_id.get(id).copied() else {
                self.sheet.wrong(connection, format!("there is no element {id} to connect to"));
                continue;
            };
            if depth > FARTHEST {
                self.sheet.wrong(connection, "connectors lead in a circle");
                continue;
            }
            match node.tag_name().name() {
                "leftPowerRail" => {
                    out.insert(Giver::Rail);
                }
                "continuation" => {
                    let name = attribute(node, "name").unwrap_or("");
                    match self.connectors.get(name).copied().and_then(|c| child(c, "connectionPointIn")) {
                        Some(point) => out.extend(self.givers(point, depth + 1)),
                        None => self.sheet.wrong(node, format!("there is no connector `{name}`")),
                    }
                }
                "coil" | "connector" => {
                    if let Some(point) = child(node, "connectionPointIn") {
                        out.extend(self.givers(point, depth + 1));
                    }
                }
                "contact" | "inVariable" => {
                    out.insert(Giver::Output(id.to_string(), String::new()));
                }
                _ => {
                    out.insert(Giver::Output(id.to_string(), pin));
                }
            }
        }
        if out.contains(&Giver::Rail) {
            // Who has power already needs no more.
            out = Givers::from([Giver::Rail]);
        }
        out
    }

    /// The wire of a point; `None` if nothing is connected.
    fn wire(&mut self, parent: Node<'a, 'i>) -> Option<Wire> {
        let point = child(parent, "connectionPointIn")?;
        let givers = self.givers_again(point);
        if givers.is_empty() {
            return None;
        }
        if givers.contains(&Giver::Rail) {
            return Some(Wire::RAIL);
        }
        if let Some(wire) = self.wires.get(&givers) {
            return Some(*wire);
        }
        Some(self.either(&givers, parent))
    }

    /// Gives each wire its number: those who give together wherever they give are one wire.
    fn allot(&mut self) {
        let points = std::mem::take(&mut self.points);
        let distinct: BTreeSet<&Givers> =
            points.iter().filter(|p| !p.is_empty() && !p.contains(&Giver::Rail)).collect();
        let mut at: HashMap<&Giver, usize> = HashMap::new();
        distinct.iter().flat_map(|givers| givers.iter()).for_each(|giver| *at.entry(giver).or_default() += 1);
        for givers in &distinct {
            let shared = givers.iter().any(|giver| at.get(giver).is_some_and(|points| *points > 1));
            if shared && givers.len() > 1 && self.style == Style::Ladder {
                continue;
            }
            let wire = self.new_wire((*givers).clone());
            for giver in *givers {
                self.wires.insert(Givers::from([giver.clone()]), wire);
            }
        }
    }

    /// Like [`DiagramReader::givers`], without saying the same problems twice.
    fn givers_again(&mut self, point: Node<'a, 'i>) -> Givers {
        let before = self.sheet.problems.len();
        let givers = self.givers(point, 0);
        self.sheet.problems.truncate(before);
        givers
    }

    fn new_wire(&mut self, givers: Givers) -> Wire {
        let wire = Wire(self.next);
        self.next += 1;
        self.wires.insert(givers, wire);
        wire
    }

    /// Power that comes from several elements here, but from fewer elsewhere: an OR box joins it.
    fn either(&mut self, givers: &Givers, at: Node<'a, 'i>) -> Wire {
        let pins: Vec<InPin> = givers
            .iter()
            .map(|giver| {
                let one = Givers::from([giver.clone()]);
                let wire = self.wires.get(&one).copied().unwrap_or_else(|| self.new_wire(one));
                InPin { name: None, negated: false, feed: Feed::Wire(wire) }
            })
            .collect();
        let to = self.new_wire(givers.clone());
        let spot = spot(at);
        let span = self.sheet.span(at);
        let output = OutPin { name: None, negated: false, to: Some(to), target: None };
        let name = Name { text: "OR".to_string(), span };
        let block = Block { name, instance: None, inputs: pins, outputs: vec![output] };
        self.draft(ElementKind::Block(block), Spot { x: spot.x - 1, y: spot.y }, span, Vec::new());
        to
    }

    /// The wire that an output gives to.
    fn output(&mut self, node: Node<'a, 'i>, pin: &str) -> Wire {
        let id = attribute(node, "localId").unwrap_or("").to_string();
        let one = Givers::from([Giver::Output(id, pin.to_uppercase())]);
        if let Some(wire) = self.wires.get(&one) {
            return *wire;
        }
        self.new_wire(one)
    }

    fn draft(&mut self, kind: ElementKind, at: Spot, span: Span, kept: Vec<String>) {
        // Positions are counted from where a drawing can begin, so that none is below zero.
        let place = |v: i32| (i64::from(v) + 2_000_000_000) as usize;
        self.drafts.push(Draft { kind, span, strip: 0, column: place(at.x), row: place(at.y), at: Some(at), kept });
    }

    fn element(&mut self, node: Node<'a, 'i>, beside: &mut Vec<Beside>) {
        let name = node.tag_name().name();
        let at = spot(node);
        let mut put = |label, comments, kept| beside.push(Beside { y: at.y, label, comments, kept });
        match name {
            "label" => {
                let label = self.sheet.name(node, "label");
                put(label, Vec::new(), None);
            }
            "comment" => put(None, comments(node), None),
            "vendorElement" => put(None, Vec::new(), Some(self.sheet.raw(node))),
            "leftPowerRail" | "rightPowerRail" | "connector" | "continuation" | "addData" => {}
            _ => {
                let span = self.sheet.span(node);
                let kept = elements(node).filter(|n| matches!(n.tag_name().name(), "addData" | "documentation"));
                let kept: Vec<String> = kept.map(|n| self.sheet.raw(n)).collect();
                if let Some(kind) = self.kind(node, name, at) {
                    self.draft(kind, at, span, kept);
                }
            }
        }
    }

    fn kind(&mut self, node: Node<'a, 'i>, name: &str, at: Spot) -> Option<ElementKind> {
        match name {
            "contact" => self.contact(node),
            "coil" => self.coil(node),
            "block" => self.block(node),
            "inVariable" => {
                let value = self.expression(node)?;
                let to = self.output(node, "");
                let to = if flag(node, "negated") { self.inverted(node, to, at, true) } else { to };
                Some(ElementKind::Source { value, to })
            }
            "outVariable" => {
                let target = self.expression(node)?;
                let from = self.needed(node)?;
                let from = if flag(node, "negated") { self.inverted(node, from, at, false) } else { from };
                Some(ElementKind::Sink { target, from })
            }
            "jump" => {
                let label = self.sheet.name(node, "label")?;
                Some(ElementKind::Jump { label, from: self.needed(node)? })
            }
            "return" => Some(ElementKind::Return { from: self.needed(node)? }),
            other => {
                self.sheet.wrong(node, format!("<{other}> is not read here"));
                None
            }
        }
    }

    /// The wire at an element that cannot be without one.
    fn needed(&mut self, node: Node<'a, 'i>) -> Option<Wire> {
        let wire = self.wire(node);
        if wire.is_none() {
            self.sheet.wrong(node, format!("nothing is connected to this {}", node.tag_name().name()));
        }
        wire
    }

    /// A NOT box before or behind a variable that is drawn with a circle. Gives the wire at the variable.
    fn inverted(&mut self, node: Node<'a, 'i>, wire: Wire, at: Spot, behind: bool) -> Wire {
        let span = self.sheet.span(node);
        let own = Wire(self.next);
        self.next += 1;
        let (from, to) = if behind { (own, wire) } else { (wire, own) };
        let input = InPin { name: None, negated: false, feed: Feed::Wire(from) };
        let output = OutPin { name: None, negated: false, to: Some(to), target: None };
        let name = Name { text: "NOT".to_string(), span };
        let block = Block { name, instance: None, inputs: vec![input], outputs: vec![output] };
        let x = if behind { at.x + 1 } else { at.x - 1 };
        self.draft(ElementKind::Block(block), Spot { x, y: at.y }, span, Vec::new());
        own
    }

    fn expression(&mut self, node: Node<'a, 'i>) -> Option<Expr> {
        match child(node, "expression").or_else(|| child(node, "variable")) {
            Some(inner) => self.sheet.expression(inner),
            None => {
                self.sheet.wrong(node, format!("this {} names no variable", node.tag_name().name()));
                None
            }
        }
    }

    fn contact(&mut self, node: Node<'a, 'i>) -> Option<ElementKind> {
        let operand = self.expression(node)?;
        let from = self.needed(node)?;
        let to = self.output(node, "");
        let negated = flag(node, "negated");
        match operand.kind {
            ExprKind::Binary(op, left, right) if op.is_comparison() && !negated => {
                Some(ElementKind::Compare { op, left: *left, right: *right, from, to })
            }
            ExprKind::Unary(UnaryOp::Not, inner) => {
                let form = if negated { ContactForm::Open } else { ContactForm::Closed };
                Some(ElementKind::Contact { form, operand: *inner, from, to })
            }
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => {
                let form = match (attribute(node, "edge"), negated) {
                    (Some("rising"), _) => ContactForm::Rising,
                    (Some("falling"), _) => ContactForm::Falling,
                    (_, true) => ContactForm::Closed,
                    _ => ContactForm::Open,
                };
                Some(ElementKind::Contact { form, operand, from, to })
            }
        }
    }

    fn coil(&mut self, node: Node<'a, 'i>) -> Option<ElementKind> {
        let target = self.expression(node)?;
        let from = self.needed(node)?;
        let form = match (attribute(node, "storage"), attribute(node, "edge"), flag(node, "negated")) {
            (Some("set"), ..) => CoilForm::Set,
            (Some("reset"), ..) => CoilForm::Reset,
            (_, Some("rising"), _) => CoilForm::Rising,
            (_, Some("falling"), _) => CoilForm::Falling,
            (.., true) => CoilForm::Negated,
            _ => CoilForm::Plain,
        };
        Some(ElementKind::Coil { form, target, from, drive: None })
    }

    fn block(&mut self, node: Node<'a, 'i>) -> Option<ElementKind> {
        let name = self.sheet.name(node, "typeName")?;
        let instance = match attribute(node, "instanceName").filter(|n| !n.is_empty()) {
            Some(text) => Some(self.sheet.text(node, text, crate::lang::expr::variable)?),
            None => None,
        };
        let function = if instance.is_none() { Function::from_name(&name.text) } else { None };
        let inputs = ["inputVariables", "inOutVariables"].into_iter().flat_map(|n| children(node, n));
        let inputs: Vec<Node<'a, 'i>> = inputs.flat_map(|n| children(n, "variable")).collect();
        let outputs: Vec<Node<'a, 'i>> =
            children(node, "outputVariables").flat_map(|n| children(n, "variable")).collect();
        let mut block = Block { name, instance, inputs: Vec::new(), outputs: Vec::new() };
        for pin in inputs {
            if matches!(attribute(pin, "edge"), Some("rising" | "falling")) {
                self.sheet.wrong(pin, "an edge at an input is not supported; use an edge contact or an R_TRIG");
            }
            let feed = self.wire(pin).map_or(Feed::Open, Feed::Wire);
            let name = self.pin_name(pin).filter(|n| !is_anonymous(function, &n.text));
            block.inputs.push(InPin { name, negated: flag(pin, "negated"), feed });
        }
        for pin in outputs {
            let name = self.pin_name(pin);
            let written = name.as_ref().map_or(String::new(), |n| n.text.to_uppercase());
            let target = child(pin, "connectionPointOut").and_then(|p| child(p, "expression"));
            let target = target.and_then(|e| self.sheet.expression(e));
            let to = if target.is_none() { Some(self.output(node, &written)) } else { None };
            let is_value = block.instance.is_none()
                && (written.is_empty() || written == "OUT" || block.name.text.eq_ignore_ascii_case(&written));
            let name = name.filter(|_| !is_value);
            block.outputs.push(OutPin { name, negated: flag(pin, "negated"), to, target });
        }
        Some(ElementKind::Block(block))
    }

    fn pin_name(&mut self, pin: Node<'a, 'i>) -> Option<Name> {
        attribute(pin, "formalParameter").filter(|n| !n.is_empty())?;
        self.sheet.name(pin, "formalParameter")
    }
}

/// Inputs that a drawing leaves without a name: the only one, and those of operators and extensible functions.
fn is_anonymous(function: Option<Function>, pin: &str) -> bool {
    if pin.eq_ignore_ascii_case("EN") {
        return false;
    }
    if matches!(function, Some(Function::Operator(_))) {
        return true;
    }
    match function.map(|f| f.row().parameters) {
        Some(Parameters::Fixed(names)) => names.len() == 1,
        Some(Parameters::Extensible(names, _)) => names.is_empty(),
        None => false,
    }
}
