//! Networks as elements with positions and connections. Elements that a file gave a place keep it; networks without
//! places are laid out below what stands above them.

use super::write::Document;
use crate::lang::DrawnStyle as Style;
use crate::lang::grid::layout::{Paper, Plan, plan, title_lines};
use crate::lang::st::expression;
use crate::model::functions::{Function, Parameters};
use crate::model::{Block, CoilForm, ContactForm, Element, ElementKind, Feed, Network, Wire};
use std::collections::HashMap;

/// Units of a drawing for a character and for a line.
const X: i32 = 8;
const Y: i32 = 16;

struct Drawer<'s, 'n> {
    sheet: &'s mut Document,
    next: u32,
    network: &'n Network,
    plan: Plan,
    /// What is added to the plan's places.
    top: i32,
    rail: u32,
    /// Who feeds each wire: the number of the element, and the output.
    fed: HashMap<Wire, Vec<(u32, String)>>,
    numbers: Vec<u32>,
    /// Variables at pins: element, pin, and the number they have.
    values: Vec<(usize, usize, u32)>,
}

/// Writes the networks of a body.
pub(super) fn networks(sheet: &mut Document, list: &[Network], style: Style) {
    let (mut next, mut top) = (1, Y);
    for network in list {
        let plan = plan(network, style, Paper::Endless);
        let comments: Vec<_> = network.notes.leading.iter().chain(&network.notes.trailing).cloned().collect();
        // Room above for the title and the label.
        top += if comments.is_empty() { 0 } else { 2 * Y } + if network.label.is_some() { Y } else { 0 };
        let mut drawer = Drawer {
            sheet,
            next,
            network,
            plan,
            top,
            rail: 0,
            fed: HashMap::new(),
            numbers: vec![0; network.elements.len()],
            values: Vec::new(),
        };
        let (first, last) = drawer.extent();
        if !comments.is_empty() {
            let id = drawer.id().to_string();
            drawer.sheet.element("comment", &[("localId", &id), ("height", "16"), ("width", "400")], |s| {
                position(s, X, first - 2 * Y);
                s.element("content", &[], |s| s.paragraphs(&comments));
            });
        }
        if let Some(label) = &network.label {
            let id = drawer.id().to_string();
            let attributes = [("localId", id.as_str()), ("label", label.text.as_str())];
            drawer.sheet.element("label", &attributes, |s| position(s, X, first - Y));
        }
        network.notes.kept.iter().for_each(|kept| drawer.sheet.raw(kept));
        if !network.elements.is_empty() {
            drawer.network(style, first);
        }
        next = drawer.next;
        top = last + 2 * Y;
    }
}

fn position(sheet: &mut Document, x: i32, y: i32) {
    sheet.empty("position", &[("x", &x.to_string()), ("y", &y.to_string())]);
}

impl Drawer<'_, '_> {
    fn id(&mut self) -> u32 {
        self.next += 1;
        self.next - 1
    }

    /// The first and the last line of the network.
    fn extent(&self) -> (i32, i32) {
        let elements = 0..self.network.elements.len();
        let first = elements.clone().map(|at| self.place(at).1).min().unwrap_or(self.top);
        let last = elements.map(|at| {
            let lines = self.plan.shapes[at].measure.height - title_lines(&self.network.elements[at].kind);
            self.place(at).1 + lines as i32 * Y
        });
        (first, last.max().unwrap_or(self.top))
    }

    fn network(&mut self, style: Style, first: i32) {
        if style == Style::Ladder {
            self.rail = self.id();
            let id = self.rail.to_string();
            self.sheet.element("leftPowerRail", &[("localId", &id)], |s| {
                position(s, 0, first);
                s.empty("connectionPointOut", &[("formalParameter", "")]);
            });
        }
        let network = self.network;
        let order = self.plan.order.clone();
        for &at in &order {
            let number = self.id();
            self.numbers[at] = number;
            match &network.elements[at].kind {
                ElementKind::Block(block) => {
                    for pin in &block.outputs {
                        let name = pin.name.as_ref().map_or("OUT", |n| n.text.as_str());
                        self.fed.entry(pin.to.unwrap_or(Wire(u32::MAX))).or_default().push((number, name.to_string()));
                    }
                }
                kind @ (ElementKind::Contact { .. }
                | ElementKind::Compare { .. }
                | ElementKind::Coil { .. }
                | ElementKind::Source { .. }
                | ElementKind::Sink { .. }
                | ElementKind::Jump { .. }
                | ElementKind::Return { .. }) => {
                    kind.outputs(&mut |wire| self.fed.entry(wire).or_default().push((number, String::new())))
                }
            }
        }
        for &at in &order {
            self.pin_values(at);
        }
        for &at in &order {
            self.element(at, &network.elements[at]);
        }
        if style == Style::Ladder {
            self.right_rail(first);
        }
    }

    fn right_rail(&mut self, first: i32) {
        let id = self.id().to_string();
        let ends = (0..self.numbers.len()).map(|at| {
            let measure = &self.plan.shapes[at].measure;
            self.place(at).0 + (measure.body + measure.right) as i32 * X
        });
        let x = ends.max().unwrap_or(0) + 3 * X;
        let is_coil = |at: &&usize| matches!(self.network.elements[**at].kind, ElementKind::Coil { .. });
        let coils: Vec<u32> = self.plan.order.iter().filter(is_coil).map(|at| self.numbers[*at]).collect();
        self.sheet.element("rightPowerRail", &[("localId", &id)], |s| {
            position(s, x, first);
            for coil in coils {
                s.element("connectionPointIn", &[], |s| s.empty("connection", &[("refLocalId", &coil.to_string())]));
            }
        });
    }

    /// Where an element stands: where a file put it, or where the plan does.
    fn place(&self, at: usize) -> (i32, i32) {
        let shape = &self.plan.shapes[at];
        let element = &self.network.elements[at];
        match element.at {
            Some(spot) => (spot.x, spot.y),
            None => {
                let lines = shape.y + title_lines(&element.kind);
                (shape.x as i32 * X, self.top + lines as i32 * Y)
            }
        }
    }

    /// Values and variables that stand at the pins of a box are elements of their own here.
    fn pin_values(&mut self, at: usize) {
        let network = self.network;
        let ElementKind::Block(block) = &network.elements[at].kind else { return };
        let (x, y) = self.place(at);
        let (ins, outs) = self.plan.shapes[at].measure.pins.clone();
        for (index, pin) in block.inputs.iter().enumerate() {
            let Feed::Value(value) = &pin.feed else { continue };
            let id = self.id();
            self.values.push((at, index, id));
            let text = expression(value);
            let left = x - (text.chars().count() as i32 + 3) * X;
            let row = y + (ins.get(index).copied().unwrap_or(index) as i32 + 1) * Y;
            self.sheet.element("inVariable", &[("localId", &id.to_string()), ("negated", "false")], |s| {
                position(s, left, row);
                s.empty("connectionPointOut", &[]);
                s.said("expression", &[], &text);
            });
        }
        let right = x + (self.plan.shapes[at].measure.body as i32 + 3) * X;
        for (index, pin) in block.outputs.iter().enumerate() {
            let Some(target) = &pin.target else { continue };
            let id = self.id().to_string();
            let number = self.numbers[at].to_string();
            let name = pin.name.as_ref().map_or("OUT", |n| n.text.as_str()).to_string();
            let row = y + (outs.get(index).copied().unwrap_or(index) as i32 + 1) * Y;
            self.sheet.element("outVariable", &[("localId", &id), ("negated", "false")], |s| {
                position(s, right, row);
                s.element("connectionPointIn", &[], |s| {
                    s.empty("connection", &[("refLocalId", &number), ("formalParameter", &name)]);
                });
                s.said("expression", &[], &expression(target));
            });
        }
    }

    fn connections(&mut self, wire: Wire) {
        let from = if wire == Wire::RAIL {
            vec![(self.rail, String::new())]
        } else {
            self.fed.get(&wire).cloned().unwrap_or_default()
        };
        self.sheet.element("connectionPointIn", &[], |s| {
            for (number, pin) in from {
                let number = number.to_string();
                if pin.is_empty() {
                    s.empty("connection", &[("refLocalId", &number)]);
                } else {
                    s.empty("connection", &[("refLocalId", &number), ("formalParameter", &pin)]);
                }
            }
        });
    }

    fn element(&mut self, at: usize, element: &Element) {
        let (x, y) = self.place(at);
        let id = self.numbers[at].to_string();
        let begin = |name: &str, more: &[(&str, &str)]| {
            let mut attributes = vec![("localId", id.as_str())];
            attributes.extend_from_slice(more);
            (name.to_string(), attributes.iter().map(|(k, v)| ((*k).to_string(), (*v).to_string())).collect::<Vec<_>>())
        };
        let (name, attributes) = match &element.kind {
            ElementKind::Contact { form, .. } => {
                let negated = if *form == ContactForm::Closed { "true" } else { "false" };
                let edge = match form {
                    ContactForm::Rising => "rising",
                    ContactForm::Falling => "falling",
                    ContactForm::Open | ContactForm::Closed => "none",
                };
                begin("contact", &[("negated", negated), ("edge", edge)])
            }
            ElementKind::Compare { .. } => begin("contact", &[("negated", "false")]),
            ElementKind::Coil { form, .. } => {
                let (negated, edge, storage) = match form {
                    CoilForm::Plain => ("false", "none", "none"),
                    CoilForm::Negated => ("true", "none", "none"),
                    CoilForm::Set => ("false", "none", "set"),
                    CoilForm::Reset => ("false", "none", "reset"),
                    CoilForm::Rising => ("false", "rising", "none"),
                    CoilForm::Falling => ("false", "falling", "none"),
                };
                begin("coil", &[("negated", negated), ("edge", edge), ("storage", storage)])
            }
            ElementKind::Source { .. } => begin("inVariable", &[("negated", "false")]),
            ElementKind::Sink { .. } => begin("outVariable", &[("negated", "false")]),
            ElementKind::Jump { label, .. } => begin("jump", &[("label", &label.text)]),
            ElementKind::Return { .. } => begin("return", &[]),
            ElementKind::Block(block) => {
                let instance = block.instance.as_ref().map(expression);
                let mut more = vec![("typeName", block.name.text.as_str())];
                if let Some(instance) = &instance {
                    more.push(("instanceName", instance));
                }
                begin("block", &more)
            }
        };
        let attributes: Vec<(&str, &str)> = attributes.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
        // The closure cannot borrow the sheet twice, so the parts are written one after another.
        self.sheet.open(&name, &attributes);
        position(self.sheet, x, y);
        self.inside(at, element);
        element.kept.iter().for_each(|kept| self.sheet.raw(kept));
        self.sheet.close(&name);
    }

    fn inside(&mut self, at: usize, element: &Element) {
        match &element.kind {
            ElementKind::Contact { operand, from, .. } => {
                self.connections(*from);
                self.sheet.empty("connectionPointOut", &[]);
                self.sheet.said("variable", &[], &expression(operand));
            }
            ElementKind::Compare { op, left, right, from, .. } => {
                self.connections(*from);
                self.sheet.empty("connectionPointOut", &[]);
                let text = format!("{} {} {}", expression(left), op.symbol(), expression(right));
                self.sheet.said("variable", &[], &text);
            }
            ElementKind::Coil { target, from, .. } => {
                self.connections(*from);
                self.sheet.empty("connectionPointOut", &[]);
                self.sheet.said("variable", &[], &expression(target));
            }
            ElementKind::Source { value, .. } => {
                self.sheet.empty("connectionPointOut", &[]);
                self.sheet.said("expression", &[], &expression(value));
            }
            ElementKind::Sink { target, from } => {
                self.connections(*from);
                self.sheet.said("expression", &[], &expression(target));
            }
            ElementKind::Jump { from, .. } | ElementKind::Return { from } => self.connections(*from),
            ElementKind::Block(block) => self.pins(at, block),
        }
    }

    fn pins(&mut self, at: usize, block: &Block) {
        let function = if block.instance.is_none() { Function::from_name(&block.name.text) } else { None };
        self.sheet.open("inputVariables", &[]);
        let mut position = 0;
        for (index, pin) in block.inputs.iter().enumerate() {
            let enable = pin.name.as_ref().is_some_and(|n| n.text.eq_ignore_ascii_case("EN"));
            let name = match &pin.name {
                Some(name) => name.text.clone(),
                None => input_name(function, position),
            };
            position += usize::from(!enable);
            let negated = pin.negated.to_string();
            self.sheet.open("variable", &[("formalParameter", &name), ("negated", &negated)]);
            match &pin.feed {
                Feed::Open => self.sheet.empty("connectionPointIn", &[]),
                Feed::Wire(wire) => self.connections(*wire),
                Feed::Value(_) => {
                    let value = self.values.iter().find(|(a, i, _)| (*a, *i) == (at, index)).map(|(.., id)| *id);
                    let id = value.unwrap_or(0).to_string();
                    self.sheet.element("connectionPointIn", &[], |s| s.empty("connection", &[("refLocalId", &id)]));
                }
            }
            self.sheet.close("variable");
        }
        self.sheet.close("inputVariables");
        self.sheet.empty("inOutVariables", &[]);
        self.sheet.element("outputVariables", &[], |s| {
            for pin in &block.outputs {
                let name = pin.name.as_ref().map_or("OUT", |n| n.text.as_str());
                let negated = pin.negated.to_string();
                s.element("variable", &[("formalParameter", name), ("negated", &negated)], |s| {
                    s.empty("connectionPointOut", &[]);
                });
            }
        });
    }
}

/// The name of an input that a drawing leaves without one.
fn input_name(function: Option<Function>, position: usize) -> String {
    match function.map(|f| f.row().parameters) {
        Some(Parameters::Fixed(names)) if names.len() == 1 => names[0].to_string(),
        Some(parameters) => parameters.name(position).unwrap_or_else(|| format!("IN{}", position + 1)),
        None => format!("IN{}", position + 1),
    }
}
