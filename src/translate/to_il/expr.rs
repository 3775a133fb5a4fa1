//! Expressions as loads, operators and parentheses.

use super::ListWriter;
use crate::check::typed::Ty;
use crate::model::functions::Function;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Call, Expr, ExprKind, FunctionForm, Instr, InstrKind, Name, Notes, Operand, Section};
use crate::source::Span;
use crate::translate::ledger::{Grade, NEGATION};
use crate::translate::literals::{is_simple, number, with_types};

impl ListWriter<'_> {
    /// Makes the value of an expression the current result.
    pub(super) fn load(&mut self, expr: &Expr) {
        let span = expr.span;
        match &expr.kind {
            _ if is_simple(expr) => self.emit(InstrKind::Load(false, expr.clone()), span),
            ExprKind::Unary(UnaryOp::Not, inner) if is_simple(inner) => {
                self.emit(InstrKind::Load(true, (**inner).clone()), span);
            }
            ExprKind::Unary(UnaryOp::Not, inner) => {
                self.load(inner);
                self.emit(InstrKind::Not, span);
            }
            ExprKind::Unary(UnaryOp::Negate, inner) => {
                self.load(inner);
                let reason = "instruction list has no minus sign for a value: it is multiplied by -1".to_string();
                let entry = self.context.entry(NEGATION, Grade::Exact, span, None, reason);
                self.ledger.push(entry);
                let minus_one = number("1", 1, span);
                let minus_one = Expr { kind: ExprKind::Unary(UnaryOp::Negate, Box::new(minus_one)), span };
                self.emit(InstrKind::Op(BinaryOp::Mul, false, Operand::Expr(minus_one)), span);
            }
            ExprKind::Binary(BinaryOp::Power, left, right) => {
                let callee = Expr { kind: ExprKind::Name(Name::new("EXPT", span)), span };
                let args = [left, right].map(|e| Arg::Plain(Operand::Expr((**e).clone()))).to_vec();
                self.function(&Call { callee, args, span });
            }
            ExprKind::Binary(op, left, right) => {
                self.load(left);
                self.apply(*op, right, span);
            }
            ExprKind::Call(call) => self.function(call),
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..) => self.emit(InstrKind::Load(false, expr.clone()), span),
        }
    }

    /// Applies an operator with the current result on its left.
    fn apply(&mut self, op: BinaryOp, right: &Expr, span: Span) {
        let (negated, right) = if let ExprKind::Unary(UnaryOp::Not, inner) = &right.kind
            && op.is_logic()
        {
            (true, &**inner)
        } else {
            (false, right)
        };
        let operand = self.argument(right);
        self.emit(InstrKind::Op(op, negated, operand), span);
    }

    /// A value in an argument or behind an operator: itself if it is simple, a parenthesised list if not.
    pub(super) fn argument(&mut self, value: &Expr) -> Operand {
        if is_simple(value) {
            return Operand::Expr(value.clone());
        }
        let outer = std::mem::take(&mut self.out);
        let labels = std::mem::take(&mut self.labels);
        let notes = std::mem::take(&mut self.notes);
        self.load(value);
        self.labels = labels;
        self.notes = notes;
        Operand::List(std::mem::replace(&mut self.out, outer))
    }

    /// A function call; its value becomes the current result.
    pub(super) fn function(&mut self, call: &Call) {
        let span = call.span;
        let ExprKind::Name(callee) = &call.callee.kind else { return };
        let user = self.context.checked.units.iter().find(|u| u.name.eq_ignore_ascii_case(&callee.text));
        if let Some(typed) = self.choices.get(&span).and_then(Ty::elem).and_then(|elem| with_types(call, elem)) {
            return self.function(&typed);
        }
        let standard = if user.is_some() { None } else { Function::from_name(&callee.text) };
        let by_position = call.args.iter().all(|a| matches!(a, Arg::Plain(_)));
        let plain: Vec<&Expr> = call
            .args
            .iter()
            .filter_map(|a| if let Arg::Plain(Operand::Expr(e)) = a { Some(e) } else { None })
            .collect();
        // `ADD(a, b)` is `a` with the operator behind it.
        if let (Some(Function::Operator(op)), true) = (standard, by_position) {
            let chains = !op.is_comparison() || plain.len() == 2;
            if chains && op != BinaryOp::Power && plain.len() >= 2 {
                self.load(plain[0]);
                for right in &plain[1..] {
                    self.apply(op, right, span);
                }
                return;
            }
        }
        // `LT a, b` would be read as the operator, which takes one operand.
        let is_operator = crate::lang::il::is_operator(&callee.text);
        if by_position && !is_operator && !plain.is_empty() && plain[1..].iter().all(|e| is_simple(e)) {
            self.load(plain[0]);
            let args = plain[1..].iter().map(|e| Arg::Plain(Operand::Expr((*e).clone()))).collect();
            let call = Call { callee: call.callee.clone(), args, span };
            self.emit(InstrKind::Function(call, FunctionForm::CurrentResult), span);
            return;
        }
        let parameter = |position: usize| match (user, standard) {
            (Some(unit), _) => unit
                .vars
                .iter()
                .filter(|v| matches!(v.section, Section::Input | Section::InOut))
                .nth(position)
                .map(|v| v.name.clone()),
            (None, Some(function)) => function.row().parameters.name(position),
            _ => None,
        };
        let names: Vec<String> = (0..call.args.len()).map(|p| parameter(p).unwrap_or_default()).collect();
        let mut args = Vec::new();
        for (arg, parameter) in call.args.iter().zip(names) {
            args.push(match arg {
                Arg::Plain(Operand::Expr(value)) => Arg::Input(Name::new(parameter, value.span), self.argument(value)),
                Arg::Input(to, Operand::Expr(value)) => Arg::Input(to.clone(), self.argument(value)),
                other @ (Arg::Plain(_) | Arg::Input(..) | Arg::Output { .. }) => other.clone(),
            });
        }
        let call = Call { callee: call.callee.clone(), args, span };
        self.emit(InstrKind::Function(call, FunctionForm::Formal), span);
    }
}

/// A list of instructions that computes `left op right`, for a parenthesis.
pub(super) fn compare(left: &Expr, op: BinaryOp, right: Operand) -> Vec<Instr> {
    let span = left.span;
    let instr = |kind| Instr { label: None, kind, span, notes: Notes::default() };
    vec![instr(InstrKind::Load(false, left.clone())), instr(InstrKind::Op(op, false, right))]
}
