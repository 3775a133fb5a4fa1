//! Conditions: contacts in series and parallel, or AND and OR boxes.

use super::DiagramWriter;
use super::edges::Edge;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{
    Block, CoilForm, ContactForm, ElementKind, Expr, ExprKind, Feed, InPin, Mention, Name, OutPin, Walk, Wire,
};
use crate::source::Span;
use crate::translate::literals::is_simple;

/// An exclusive OR of more contacts than this becomes a box.
const MOST_XOR: usize = 4;

/// The terms of a chain of one operator, from the left.
pub(super) fn spine(expr: &Expr, op: BinaryOp) -> Vec<&Expr> {
    if let ExprKind::Binary(o, left, right) = &expr.kind
        && *o == op
    {
        let mut out = spine(left, op);
        out.push(right);
        out
    } else {
        vec![expr]
    }
}

/// What a negated coil asks: a whole rung under NOT.
pub(super) fn under_not(expr: &Expr) -> &Expr {
    if let ExprKind::Unary(UnaryOp::Not, inner) = &expr.kind
        && matches!(inner.kind, ExprKind::Binary(op, ..) if op.is_logic())
    {
        inner
    } else {
        expr
    }
}

/// The first condition of a chain of ANDs.
pub(super) fn first_term(expr: &Expr) -> Expr {
    if let ExprKind::Binary(BinaryOp::And, left, _) = &expr.kind { first_term(left) } else { expr.clone() }
}

/// Calls `found` with every field an expression looks at.
pub(super) fn fields(expr: &Expr, found: &mut impl FnMut(&Expr)) {
    expr.walk(Mention::Read, &mut |part, used| {
        let is_field = matches!(part.kind, ExprKind::Field(..)) && used == Mention::Read;
        if is_field {
            found(part);
        }
        if is_field { Walk::Past } else { Walk::Into }
    });
}

/// Calls `found` with the name of every function an expression calls.
pub(super) fn calls(expr: &Expr, found: &mut impl FnMut(&str)) {
    expr.walk(Mention::Read, &mut |part, used| {
        if let (ExprKind::Name(name), Mention::Function) = (&part.kind, used) {
            found(&name.text);
        }
        Walk::Into
    });
}

impl DiagramWriter<'_> {
    /// NOT pushed inwards, to the variables and comparisons.
    pub(super) fn inwards(&self, expr: &Expr, negated: bool) -> Expr {
        let span = expr.span;
        let make = |kind| Expr { kind, span };
        match &expr.kind {
            ExprKind::Unary(UnaryOp::Not, inner) => self.inwards(inner, !negated),
            ExprKind::Binary(op @ (BinaryOp::And | BinaryOp::Or), left, right) => {
                let op = match (*op, negated) {
                    (BinaryOp::And, true) => BinaryOp::Or,
                    (BinaryOp::Or, true) => BinaryOp::And,
                    (op, _) => op,
                };
                let (left, right) = (self.inwards(left, negated), self.inwards(right, negated));
                make(ExprKind::Binary(op, Box::new(left), Box::new(right)))
            }
            ExprKind::Binary(op, left, right) if negated && op.is_comparison() && !self.has_nan(left, right) => {
                match op.inverse() {
                    Some(op) => make(ExprKind::Binary(op, left.clone(), right.clone())),
                    None => expr.clone().inverted(),
                }
            }
            _ if negated => match super::literal_bool(expr) {
                Some(value) => Expr::truth(!value, span),
                None => expr.clone().inverted(),
            },
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => expr.clone(),
        }
    }

    /// The opposite of a comparison of reals is not the opposite comparison: nothing compares with NaN.
    fn has_nan(&self, left: &Expr, right: &Expr) -> bool {
        let known = [left, right].map(|e| self.type_of(e).and_then(crate::check::typed::Ty::elem));
        // Both sides have one type; where nothing is known of it, it may be a real.
        known.iter().all(Option::is_none) || known.iter().flatten().any(|e| e.is_real())
    }

    /// True for what a contact can ask by itself.
    fn is_contact(&self, expr: &Expr) -> bool {
        match &expr.kind {
            ExprKind::Unary(UnaryOp::Not, inner) => is_simple(inner),
            ExprKind::Binary(op, left, right) if op.is_comparison() => is_simple(left) && is_simple(right),
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => is_simple(expr),
        }
    }

    /// True if contacts alone can say it.
    fn is_contacts(&self, expr: &Expr) -> bool {
        match &expr.kind {
            ExprKind::Binary(BinaryOp::And | BinaryOp::Or, left, right) => {
                self.is_contacts(left) && self.is_contacts(right)
            }
            ExprKind::Binary(BinaryOp::Xor, left, right) => {
                self.is_contacts(left) && self.is_contacts(right) && leaves(expr) <= MOST_XOR
            }
            ExprKind::Unary(UnaryOp::Not, inner) if matches!(inner.kind, ExprKind::Binary(BinaryOp::Xor, ..)) => {
                self.is_contacts(inner)
            }
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => self.is_contact(expr),
        }
    }

    /// A wire with the power of `from` while a condition holds. Conditions that are drawn already are not drawn again.
    pub(super) fn condition(&mut self, expr: &Expr, from: Wire) -> Wire {
        if !self.is_ladder() {
            return self.boxed_condition(expr, from);
        }
        let expr = self.inwards(expr, false);
        let mut terms: Vec<Expr> = spine(&expr, BinaryOp::And).into_iter().cloned().collect();
        // A box has no power in; what it gives can be first.
        let boxed: Vec<usize> = (0..terms.len()).filter(|t| !self.is_contacts(&terms[*t])).collect();
        let drawn = self.net().known.iter().any(|(f, t, _)| *f == from && *t == terms[0])
            || self.output_of(&terms[0]).is_some();
        if let ([at], Wire::RAIL, false) = (boxed.as_slice(), from, drawn) {
            terms[..=*at].rotate_right(1);
        }
        let mut power = from;
        for term in &terms {
            power = self.term(term, power);
        }
        power
    }

    fn term(&mut self, term: &Expr, from: Wire) -> Wire {
        let known = self.net().known.iter().find(|(f, t, _)| *f == from && t == term).map(|(.., to)| *to);
        let output = if from == Wire::RAIL { self.output_of(term) } else { None };
        if let Some(to) = known.or_else(|| output.map(|o| self.output_wire(o))) {
            return to;
        }
        let to = self.contacts(term, from, None);
        self.net().known.push((from, term.clone(), to));
        to
    }

    /// Draws a condition between two wires; the second is made if it is not given.
    fn contacts(&mut self, expr: &Expr, from: Wire, to: Option<Wire>) -> Wire {
        let span = expr.span;
        match &expr.kind {
            ExprKind::Binary(BinaryOp::And, left, right) => {
                let middle = self.contacts(left, from, None);
                self.contacts(right, middle, to)
            }
            ExprKind::Binary(BinaryOp::Or, left, right) => {
                let to = to.unwrap_or_else(|| self.new_wire());
                self.contacts(left, from, Some(to));
                self.contacts(right, from, Some(to))
            }
            ExprKind::Binary(BinaryOp::Xor, left, right) if self.is_contacts(expr) => {
                self.exclusive(left, right, false, from, to)
            }
            ExprKind::Unary(UnaryOp::Not, inner) if self.is_contacts(expr) => {
                if let ExprKind::Binary(BinaryOp::Xor, left, right) = &inner.kind {
                    self.exclusive(left, right, true, from, to)
                } else {
                    self.contact(inner, ContactForm::Closed, from, to, span)
                }
            }
            ExprKind::Binary(op, left, right) if self.is_contact(expr) => {
                let to = to.unwrap_or_else(|| self.new_wire());
                let kind = ElementKind::Compare { op: *op, left: (**left).clone(), right: (**right).clone(), from, to };
                self.element(kind, span);
                to
            }
            _ if is_simple(expr) => self.contact(expr, ContactForm::Open, from, to, span),
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => self.box_in_rung(expr, from, to),
        }
    }

    fn contact(&mut self, operand: &Expr, form: ContactForm, from: Wire, to: Option<Wire>, span: Span) -> Wire {
        let to = to.unwrap_or_else(|| self.new_wire());
        let edge = if let ExprKind::Name(name) = &operand.kind {
            self.edges.get(&name.text.to_uppercase()).cloned()
        } else {
            None
        };
        let (form, operand) = match edge {
            Some(Edge::Contact(form, operand)) => (form, operand),
            _ => (form, operand.clone()),
        };
        self.element(ElementKind::Contact { form, operand, from, to }, span);
        to
    }

    /// `(a AND NOT b) OR (NOT a AND b)`, or with both the same for the opposite.
    fn exclusive(&mut self, left: &Expr, right: &Expr, same: bool, from: Wire, to: Option<Wire>) -> Wire {
        let to = to.unwrap_or_else(|| self.new_wire());
        for first in [false, true] {
            let a = self.inwards(left, first);
            let b = self.inwards(right, first == same);
            let middle = self.contacts(&a, from, None);
            self.contacts(&b, middle, Some(to));
        }
        to
    }

    /// What no contact can ask: a box gives it, and an AND box joins it to the power so far.
    fn box_in_rung(&mut self, expr: &Expr, from: Wire, to: Option<Wire>) -> Wire {
        let span = expr.span;
        let (negated, inner) =
            if let ExprKind::Unary(UnaryOp::Not, inner) = &expr.kind { (true, &**inner) } else { (false, expr) };
        let mut block = self.block_of(inner, false);
        let to = to.unwrap_or_else(|| self.new_wire());
        let given = if from == Wire::RAIL { to } else { self.new_wire() };
        block.outputs.push(OutPin { name: None, negated, to: Some(given), target: None });
        self.element(ElementKind::Block(block), span);
        if from != Wire::RAIL {
            let pins = [from, given].map(|w| InPin { name: None, negated: false, feed: Feed::Wire(w) });
            let output = OutPin { name: None, negated: false, to: Some(to), target: None };
            let and =
                Block { name: Name::new("AND", span), instance: None, inputs: pins.to_vec(), outputs: vec![output] };
            self.element(ElementKind::Block(and), span);
        }
        to
    }

    /// Function block diagram: a condition as a wire.
    fn boxed_condition(&mut self, expr: &Expr, from: Wire) -> Wire {
        let span = expr.span;
        let opposite = match &expr.kind {
            ExprKind::Unary(UnaryOp::Not, inner) if matches!(&inner.kind, ExprKind::Binary(op, ..) if op.is_comparison()) => {
                Some(self.inwards(expr, false))
            }
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => None,
        };
        let pin = self.pin(None, opposite.as_ref().unwrap_or(expr));
        if from != Wire::RAIL {
            let power = InPin { name: None, negated: false, feed: Feed::Wire(from) };
            return self.boxed("AND", vec![power, pin], span);
        }
        match pin {
            InPin { feed: Feed::Wire(wire), negated: false, .. } => wire,
            InPin { feed: Feed::Value(value), negated: false, .. } => {
                let to = self.new_wire();
                self.element(ElementKind::Source { value, to }, span);
                to
            }
            pin => self.boxed("NOT", vec![InPin { negated: false, ..pin }], span),
        }
    }

    /// A box of a logic function with its output on a wire.
    pub(super) fn boxed(&mut self, function: &str, inputs: Vec<InPin>, span: Span) -> Wire {
        let to = self.new_wire();
        let output = OutPin { name: None, negated: false, to: Some(to), target: None };
        let block = Block { name: Name::new(function, span), instance: None, inputs, outputs: vec![output] };
        self.element(ElementKind::Block(block), span);
        to
    }

    /// A coil with its condition.
    pub(super) fn coil(&mut self, target: &Expr, value: &Expr, span: Span) {
        let (form, condition) = match &value.kind {
            // NOT of a whole rung is a negated coil.
            ExprKind::Unary(UnaryOp::Not, inner) if !self.is_contact(value) => (CoilForm::Negated, &**inner),
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => (CoilForm::Plain, value),
        };
        let from = self.condition(condition, Wire::RAIL);
        let form = self.coil_edge.take().unwrap_or(form);
        self.element(ElementKind::Coil { form, target: target.clone(), from, drive: None }, span);
    }
}

/// How many contacts an expression takes.
fn leaves(expr: &Expr) -> usize {
    match &expr.kind {
        ExprKind::Binary(BinaryOp::Xor, left, right) => 2 * (leaves(left) + leaves(right)),
        ExprKind::Binary(op, left, right) if op.is_logic() => leaves(left) + leaves(right),
        ExprKind::Unary(_, inner) => leaves(inner),
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => 1,
    }
}
