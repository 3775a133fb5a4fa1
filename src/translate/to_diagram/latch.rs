//! Function block diagram: blocks of the standard for what they are for. Two decisions one under the other, of which one sets a
//! variable and the other resets it, are a latch; a condition that asks for a rise is an edge block.

use super::{DiagramWriter, literal_bool};
use crate::check::typed::{TInit, Ty};
use crate::model::{
    Arg, Block, ElementKind, Expr, ExprKind, Feed, InPin, Name, Operand, OutPin, Retain, Section, Stmt, StmtKind,
    UnitKind, Wire, each_statement,
};
use crate::source::Span;
use std::collections::HashMap;

/// A decision that does nothing but set or reset a variable.
struct Side<'s> {
    condition: &'s Expr,
    target: &'s Expr,
    sets: bool,
}

/// In how many places statements may write each name, in capitals.
pub(super) fn writers(list: &[Stmt]) -> HashMap<String, usize> {
    let mut out: HashMap<String, usize> = HashMap::new();
    let mut note = |expr: &Expr| {
        if let Some(root) = crate::translate::to_st::root(expr) {
            *out.entry(root.to_ascii_uppercase()).or_default() += 1;
        }
    };
    each_statement(list, &mut |stmt| match &stmt.kind {
        StmtKind::Assign(target, _) => note(target),
        StmtKind::For(head, _) => note(&head.var),
        StmtKind::Call(call) => {
            for arg in &call.args {
                match arg {
                    Arg::Output { target, .. } => note(target),
                    // It may be VAR_IN_OUT.
                    Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value)) => note(value),
                    Arg::Plain(_) | Arg::Input(..) => {}
                }
            }
        }
        StmtKind::Empty
        | StmtKind::If(..)
        | StmtKind::Case(..)
        | StmtKind::While(..)
        | StmtKind::Repeat(..)
        | StmtKind::Exit
        | StmtKind::Continue
        | StmtKind::Return => {}
    });
    out
}

fn side(stmt: &Stmt) -> Option<Side<'_>> {
    let StmtKind::If(branches, None) = &stmt.kind else { return None };
    let [(condition, body)] = branches.as_slice() else { return None };
    let [Stmt { kind: StmtKind::Assign(target, value), notes, .. }] = body.as_slice() else { return None };
    let plain = notes.leading.is_empty() && notes.trailing.is_empty();
    let sets = literal_bool(value).filter(|_| plain && matches!(target.kind, ExprKind::Name(_)))?;
    Some(Side { condition, target, sets })
}

impl DiagramWriter<'_> {
    /// Whether blocks of the standard can be declared here.
    fn has_blocks(&self, block: &str) -> bool {
        let own = &self.context.checked.units;
        !self.is_ladder()
            && self.context.unit.kind != UnitKind::Function
            && own.iter().any(|u| u.built_in && u.name == block)
    }

    /// Draws two statements as one latch, if that is what they are.
    pub(super) fn latched(&mut self, first: &Stmt, second: &Stmt) -> bool {
        let (Some(a), Some(b)) = (side(first), side(second)) else { return false };
        let block = if a.sets { "RS" } else { "SR" };
        let fits = a.sets != b.sets
            && a.target == b.target
            && self.has_blocks(block)
            && second.notes.leading.is_empty()
            && second.notes.trailing.is_empty()
            && self.is_kept_alone(a.target)
            && [a.condition, b.condition].into_iter().all(|c| !self.calls_open_code(c))
            && !crate::translate::to_st::mentions(b.condition, &name_of(a.target));
        if !fits {
            return false;
        }
        let span = first.span;
        let base = format!("{}Latch", name_of(a.target));
        let why = "a latch keeps what one decision sets and the next one resets";
        let instance = self.instance(&base, block, why, span);
        self.begin(span);
        let (set, reset) = if a.sets { (&a, &b) } else { (&b, &a) };
        let names = if block == "RS" { ["S", "R1"] } else { ["S1", "R"] };
        // What is asked first is drawn first.
        let mut pins: Vec<InPin> = Vec::new();
        for (name, side) in names.into_iter().zip([set, reset]) {
            pins.push(self.pin(Some(Name::new(name, span)), side.condition));
        }
        let output =
            OutPin { name: Some(Name::new("Q1", span)), negated: false, to: None, target: Some(a.target.clone()) };
        let drawn =
            Block { name: Name::new(block, span), instance: Some(instance), inputs: pins, outputs: vec![output] };
        self.element(ElementKind::Block(drawn), span);
        self.wrote(a.target);
        true
    }

    /// A variable that starts FALSE, does not survive loss of power, and that nothing but two statements writes.
    fn is_kept_alone(&self, target: &Expr) -> bool {
        let name = name_of(target);
        let fits = self.context.variable(&name).is_some_and(|v| {
            matches!(v.section, Section::Local | Section::Output)
                && v.ty == Ty::BOOL
                && v.init == TInit::Default
                && v.retain != Retain::Retain
                && v.address.is_none()
                && v.global.is_none()
        });
        fits && self.writers.get(&name.to_ascii_uppercase()) == Some(&2)
    }

    /// Whether an edge can be asked by a block: only a rise, as the falling edge of the standard answers in its first call.
    pub(super) fn has_rise(&self) -> bool {
        self.has_blocks("R_TRIG")
    }

    /// The output of an edge block that asks for the rise of a value.
    pub(super) fn rise(&mut self, value: &Expr) -> Wire {
        let span: Span = value.span;
        let base = crate::translate::to_st::root(value).unwrap_or("Edge").trim_start_matches('%').replace('.', "_");
        let why = "an edge block remembers the value of the scan before";
        let instance = self.instance(&format!("{base}Rise"), "R_TRIG", why, span);
        let clock = self.pin(Some(Name::new("CLK", span)), value);
        let to = self.new_wire();
        let output = OutPin { name: Some(Name::new("Q", span)), negated: false, to: Some(to), target: None };
        let block = Block {
            name: Name::new("R_TRIG", span),
            instance: Some(instance),
            inputs: vec![clock],
            outputs: vec![output],
        };
        self.element(ElementKind::Block(block), span);
        to
    }

    /// An input that takes the edge for which a memory stands.
    pub(super) fn edge_pin(&mut self, pin: Option<Name>, expr: &Expr) -> Option<InPin> {
        let ExprKind::Name(name) = &expr.kind else { return None };
        let Some(super::edges::Edge::Contact(_, value)) = self.edges.get(&name.text.to_uppercase()).cloned() else {
            return None;
        };
        (!self.is_ladder()).then(|| InPin { name: pin, negated: false, feed: Feed::Wire(self.rise(&value)) })
    }
}

fn name_of(target: &Expr) -> String {
    crate::translate::to_st::root(target).unwrap_or_default().to_string()
}
