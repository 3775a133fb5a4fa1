//! Ladder and function block diagrams: networks of elements joined by wires.
//!
//! A network is what one reads as one drawing: in a ladder everything that hangs together between the rails, in a
//! function block diagram what stands together. Its elements are kept in the order in which they run. A wire is one
//! value: of a ladder, power that several contacts may feed (it is TRUE if one of them conducts) and several elements
//! may take; of a function block diagram, what one output gives. Wires keep no geometry: where lines run is for the
//! layout to say, so that a drawing typed by hand and the same one laid out by the tool are the same network.

use super::ops::BinaryOp;
use super::{Expr, Name, Notes};
use crate::source::Span;
use std::collections::{BTreeMap, HashMap};

/// One network.
#[derive(Clone, Debug)]
pub struct Network {
    /// What jumps call it.
    pub label: Option<Name>,
    /// Its elements, in the order in which they run.
    pub elements: Vec<Element>,
    /// Where it stands.
    pub span: Span,
    /// Title and comments above it.
    pub notes: Notes,
}

impl PartialEq for Network {
    fn eq(&self, other: &Self) -> bool {
        self.label == other.label && self.numbered().elements == other.numbered().elements
    }
}

/// A wire of a network.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Wire(pub u32);

impl Wire {
    /// The left power rail, which is always TRUE. No element feeds it.
    pub const RAIL: Wire = Wire(0);
}

/// One thing in a network.
#[derive(Clone, Debug)]
pub struct Element {
    /// What it is.
    pub kind: ElementKind,
    /// Where it stands.
    pub span: Span,
    /// Where it was drawn, if a file said so; not part of what it means.
    pub at: Option<Spot>,
    /// What another tool keeps with it in the exchange format, as it stands; handed back untouched.
    pub kept: Vec<String>,
}

impl PartialEq for Element {
    fn eq(&self, other: &Self) -> bool {
        self.kind == other.kind
    }
}

/// A place on the paper, in the units of the exchange format: x to the right, y downwards.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Spot {
    /// To the right.
    pub x: i32,
    /// Downwards.
    pub y: i32,
}

/// What an element is.
#[derive(Clone, Debug, PartialEq)]
pub enum ElementKind {
    /// Conducts by a BOOL.
    Contact {
        /// When it conducts.
        form: ContactForm,
        /// The variable.
        operand: Expr,
        /// Power in.
        from: Wire,
        /// Power out.
        to: Wire,
    },
    /// Conducts while a comparison holds.
    Compare {
        /// One of the six comparisons.
        op: BinaryOp,
        /// Written above.
        left: Expr,
        /// Written below.
        right: Expr,
        /// Power in.
        from: Wire,
        /// Power out.
        to: Wire,
    },
    /// Writes a BOOL by power.
    Coil {
        /// How.
        form: CoilForm,
        /// The variable.
        target: Expr,
        /// Power in.
        from: Wire,
        /// How a dialect's coil drives a device; only on the way to a text.
        drive: Option<Drive>,
    },
    /// A function or function block.
    Block(Block),
    /// A value on a wire that several elements take.
    Source {
        /// The value.
        value: Expr,
        /// The wire.
        to: Wire,
    },
    /// A variable that takes the value of a wire.
    Sink {
        /// The variable.
        target: Expr,
        /// The wire.
        from: Wire,
    },
    /// Goes on at a labelled network while there is power.
    Jump {
        /// The label.
        label: Name,
        /// Power in.
        from: Wire,
    },
    /// Leaves the unit while there is power.
    Return {
        /// Power in.
        from: Wire,
    },
}

/// What a coil that drives a dialect's device says.
#[derive(Clone, Debug, PartialEq)]
pub struct Drive {
    /// The word in the coil; `#` for the plain coil with a preset.
    pub word: Name,
    /// The value right below it.
    pub below: Option<Expr>,
}

/// When a contact conducts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ContactForm {
    /// `| |` while its variable is TRUE.
    Open,
    /// `|/|` while its variable is FALSE.
    Closed,
    /// `|P|` in the evaluation in which its variable is TRUE and was FALSE in the evaluation before.
    Rising,
    /// `|N|` in the evaluation in which its variable is FALSE and was TRUE in the evaluation before.
    Falling,
}

/// How a coil writes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum CoilForm {
    /// `( )` the power.
    Plain,
    /// `(/)` the opposite of the power.
    Negated,
    /// `(S)` TRUE while there is power, else nothing.
    Set,
    /// `(R)` FALSE while there is power, else nothing.
    Reset,
    /// `(P)` TRUE in the evaluation in which power comes, else FALSE.
    Rising,
    /// `(N)` TRUE in the evaluation in which power goes, else FALSE.
    Falling,
}

/// A function, or a call of a function block instance.
#[derive(Clone, Debug, PartialEq)]
pub struct Block {
    /// The function, or the type of the instance.
    pub name: Name,
    /// The instance.
    pub instance: Option<Expr>,
    /// Its inputs, from the top.
    pub inputs: Vec<InPin>,
    /// Its outputs, from the top.
    pub outputs: Vec<OutPin>,
}

/// An input of a block.
#[derive(Clone, Debug, PartialEq)]
pub struct InPin {
    /// Its name; extensible functions may leave it out.
    pub name: Option<Name>,
    /// Drawn with a circle: the block takes the opposite.
    pub negated: bool,
    /// What feeds it.
    pub feed: Feed,
}

/// What feeds an input.
#[derive(Clone, Debug, PartialEq)]
pub enum Feed {
    /// Nothing: the input keeps the value it has.
    Open,
    /// A wire.
    Wire(Wire),
    /// A value written at the input, read when the block runs.
    Value(Expr),
}

/// An output of a block.
#[derive(Clone, Debug, PartialEq)]
pub struct OutPin {
    /// Its name; the value of a function may leave it out.
    pub name: Option<Name>,
    /// Drawn with a circle: the opposite is handed on.
    pub negated: bool,
    /// The wire it feeds.
    pub to: Option<Wire>,
    /// A variable written at the output, which takes its value when the block has run.
    pub target: Option<Expr>,
}

impl Block {
    /// The input of a name.
    #[must_use]
    pub fn input(&self, name: &str) -> Option<&InPin> {
        self.inputs.iter().find(|p| p.name.as_ref().is_some_and(|n| n.text.eq_ignore_ascii_case(name)))
    }

    /// The output of a name.
    #[must_use]
    pub fn output(&self, name: &str) -> Option<&OutPin> {
        self.outputs.iter().find(|p| p.name.as_ref().is_some_and(|n| n.text.eq_ignore_ascii_case(name)))
    }
}

impl ElementKind {
    /// Calls `found` with every wire that feeds it, in order.
    pub fn inputs(&self, found: &mut impl FnMut(Wire)) {
        match self {
            ElementKind::Contact { from, .. }
            | ElementKind::Compare { from, .. }
            | ElementKind::Coil { from, .. }
            | ElementKind::Sink { from, .. }
            | ElementKind::Jump { from, .. }
            | ElementKind::Return { from } => found(*from),
            ElementKind::Block(block) => {
                for pin in &block.inputs {
                    if let Feed::Wire(wire) = pin.feed {
                        found(wire);
                    }
                }
            }
            ElementKind::Source { .. } => {}
        }
    }

    /// Calls `found` with every wire it feeds, in order.
    pub fn outputs(&self, found: &mut impl FnMut(Wire)) {
        match self {
            ElementKind::Contact { to, .. } | ElementKind::Compare { to, .. } | ElementKind::Source { to, .. } => {
                found(*to);
            }
            ElementKind::Block(block) => block.outputs.iter().filter_map(|p| p.to).for_each(found),
            ElementKind::Coil { .. }
            | ElementKind::Sink { .. }
            | ElementKind::Jump { .. }
            | ElementKind::Return { .. } => {}
        }
    }

    /// Calls `change` with every wire it is joined to.
    pub(crate) fn wires_mut(&mut self, change: &mut impl FnMut(&mut Wire)) {
        match self {
            ElementKind::Contact { from, to, .. } | ElementKind::Compare { from, to, .. } => {
                change(from);
                change(to);
            }
            ElementKind::Coil { from, .. }
            | ElementKind::Sink { from, .. }
            | ElementKind::Jump { from, .. }
            | ElementKind::Return { from } => change(from),
            ElementKind::Source { to, .. } => change(to),
            ElementKind::Block(block) => {
                for pin in &mut block.inputs {
                    if let Feed::Wire(wire) = &mut pin.feed {
                        change(wire);
                    }
                }
                block.outputs.iter_mut().filter_map(|p| p.to.as_mut()).for_each(change);
            }
        }
    }

    /// True for what ends a rung: it hands nothing on.
    #[must_use]
    pub const fn ends(&self) -> bool {
        matches!(
            self,
            ElementKind::Coil { .. } | ElementKind::Jump { .. } | ElementKind::Return { .. } | ElementKind::Sink { .. }
        )
    }
}

/// Numbers of elements by wire.
pub type Users = BTreeMap<Wire, Vec<usize>>;

/// Which elements of a list feed each wire, and which take it.
pub fn usage<'e>(kinds: impl Iterator<Item = &'e ElementKind>) -> (Users, Users) {
    let (mut fed, mut taken) = (Users::new(), Users::new());
    for (at, kind) in kinds.enumerate() {
        kind.outputs(&mut |w| fed.entry(w).or_default().push(at));
        kind.inputs(&mut |w| taken.entry(w).or_default().push(at));
    }
    (fed, taken)
}

/// For each element of a list the first one that it hangs together with, itself or one before it, by wires that join.
pub fn joined<'e>(kinds: impl Iterator<Item = &'e ElementKind>, joins: impl Fn(Wire) -> bool) -> Vec<usize> {
    let mut owner: HashMap<Wire, usize> = HashMap::new();
    let mut parent: Vec<usize> = Vec::new();
    for (at, kind) in kinds.enumerate() {
        parent.push(at);
        let mut join = |wire: Wire| {
            if joins(wire) {
                let first = *owner.entry(wire).or_insert(at);
                let (a, b) = (root(&mut parent, at), root(&mut parent, first));
                parent[a.max(b)] = a.min(b);
            }
        };
        kind.inputs(&mut join);
        kind.outputs(&mut join);
    }
    (0..parent.len()).map(|at| root(&mut parent, at)).collect()
}

/// The first of those that one was joined with. Ways become shorter while they are gone, so that long ones are not gone again.
fn root(parent: &mut [usize], mut at: usize) -> usize {
    while parent[at] != at {
        parent[at] = parent[parent[at]];
        at = parent[at];
    }
    at
}

impl Network {
    /// The same network as simply as it can be said: a value with a wire to one input only stands at that input, a
    /// variable at the one end of an output's wire stands at that output, an output that nothing takes has no wire
    /// of its own, and wires are numbered in order.
    #[must_use]
    pub fn tidied(mut self) -> Network {
        let (fed, taken) = self.usage();
        let mut gone = vec![false; self.elements.len()];
        for (at, gone) in gone.iter_mut().enumerate() {
            match self.elements[at].kind.clone() {
                ElementKind::Source { value, to } if taken.get(&to).map(Vec::len) == Some(1) => {
                    if let ElementKind::Block(block) = &mut self.elements[taken[&to][0]].kind
                        && let Some(pin) = block.inputs.iter_mut().find(|p| p.feed == Feed::Wire(to))
                    {
                        pin.feed = Feed::Value(value);
                        *gone = true;
                    }
                }
                ElementKind::Sink { target, from } if taken.get(&from).map(Vec::len) == Some(1) => {
                    if let Some([feeder]) = fed.get(&from).map(Vec::as_slice)
                        && let ElementKind::Block(block) = &mut self.elements[*feeder].kind
                        && let Some(pin) = block.outputs.iter_mut().find(|p| p.to == Some(from))
                    {
                        pin.to = None;
                        pin.target = Some(target);
                        *gone = true;
                    }
                }
                ElementKind::Contact { .. }
                | ElementKind::Compare { .. }
                | ElementKind::Coil { .. }
                | ElementKind::Block(_)
                | ElementKind::Source { .. }
                | ElementKind::Sink { .. }
                | ElementKind::Jump { .. }
                | ElementKind::Return { .. } => {}
            }
        }
        let mut gone = gone.into_iter();
        self.elements.retain(|_| !gone.next().unwrap_or(false));
        let (fed, taken) = self.usage();
        // A value that nothing takes is not even read.
        self.elements.retain(|e| !matches!(&e.kind, ElementKind::Source { to, .. } if !taken.contains_key(to)));
        for element in &mut self.elements {
            if let ElementKind::Block(block) = &mut element.kind {
                // What several feed holds them together, in the drawing too.
                let alone = |w: &Wire| fed.get(w).is_none_or(|feeders| feeders.len() < 2);
                let idle = |p: &&mut OutPin| p.to.is_some_and(|w| !taken.contains_key(&w) && alone(&w));
                block.outputs.iter_mut().filter(idle).for_each(|p| p.to = None);
                // What goes nowhere has no opposite either.
                let lost = |p: &&mut OutPin| p.to.is_none() && p.target.is_none();
                block.outputs.iter_mut().filter(lost).for_each(|p| p.negated = false);
            }
        }
        self.numbered()
    }

    /// Which elements feed each wire, and which take it.
    #[must_use]
    pub fn usage(&self) -> (Users, Users) {
        usage(self.elements.iter().map(|e| &e.kind))
    }

    /// The same network with its wires numbered in the order in which the elements mention them; the rail stays.
    #[must_use]
    pub fn numbered(&self) -> Network {
        let mut numbers = HashMap::from([(Wire::RAIL, Wire::RAIL)]);
        let mut out = self.clone();
        for element in &mut out.elements {
            element.kind.wires_mut(&mut |wire| {
                let next = Wire(numbers.len() as u32);
                *wire = *numbers.entry(*wire).or_insert(next);
            });
        }
        out
    }
}
