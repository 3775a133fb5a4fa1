//! Expressions as loads, operators and parentheses.

use super::Writer;
use crate::check::typed::Ty;
use crate::model::functions::Function;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{
    Arg, Call, Elem, Expr, ExprKind, FunctionForm, Instr, InstrKind, Literal, LiteralValue, Notes, Operand, Section,
};
use crate::source::Span;
use crate::translate::ledger::{Grade, NEGATION};
use crate::translate::names::name;

impl Writer<'_> {
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
                let callee = Expr { kind: ExprKind::Name(name("EXPT", span)), span };
                let args = [left, right].map(|e| Arg::Plain(Operand::Expr((**e).clone()))).to_vec();
                self.function(&Call { callee, args, span });
            }
            ExprKind::Binary(op, left, right) => {
                self.load(left);
                self.apply(*op, right, span);
            }
            ExprKind::Call(call) => self.function(call),
            _ => self.emit(InstrKind::Load(false, expr.clone()), span),
        }
    }

    /// Applies an operator with the current result on its left.
    fn apply(&mut self, op: BinaryOp, right: &Expr, span: Span) {
        let (negated, right) = match &right.kind {
            ExprKind::Unary(UnaryOp::Not, inner) if op.is_logic() => (true, &**inner),
            _ => (false, right),
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
            (None, Some(function)) => function.parameters().name(position),
            _ => None,
        };
        let names: Vec<String> = (0..call.args.len()).map(|p| parameter(p).unwrap_or_default()).collect();
        let mut args = Vec::new();
        for (arg, parameter) in call.args.iter().zip(names) {
            args.push(match arg {
                Arg::Plain(Operand::Expr(value)) => Arg::Input(name(parameter, value.span), self.argument(value)),
                Arg::Input(to, Operand::Expr(value)) => Arg::Input(to.clone(), self.argument(value)),
                other => other.clone(),
            });
        }
        let call = Call { callee: call.callee.clone(), args, span };
        self.emit(InstrKind::Function(call, FunctionForm::Formal), span);
    }
}

/// A choice between literals only, with the type written in front of each: in a list nothing behind it could tell.
fn with_types(call: &Call, elem: Elem) -> Option<Call> {
    let open = |arg: &Arg| match arg {
        Arg::Plain(Operand::Expr(e)) | Arg::Input(_, Operand::Expr(e)) => is_open(e),
        _ => false,
    };
    let is_selector = |at: usize, arg: &Arg| match arg {
        Arg::Input(name, _) => name.text.eq_ignore_ascii_case("G") || name.text.eq_ignore_ascii_case("K"),
        _ => at == 0,
    };
    let choices = || call.args.iter().enumerate().filter(|(at, arg)| !is_selector(*at, arg));
    if elem == Elem::Bool || !choices().all(|(_, arg)| open(arg)) {
        return None;
    }
    let mut typed = call.clone();
    for (at, arg) in typed.args.iter_mut().enumerate() {
        if !is_selector(at, arg)
            && let Arg::Plain(Operand::Expr(e)) | Arg::Input(_, Operand::Expr(e)) = arg
        {
            write_type(e, elem);
        }
    }
    Some(typed)
}

/// True for an expression of literals without a type.
fn is_open(expr: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Literal(l) => l.typed.is_none() && matches!(l.value, LiteralValue::Int(_) | LiteralValue::Real(_)),
        ExprKind::Unary(UnaryOp::Negate, inner) => is_open(inner),
        ExprKind::Binary(_, left, right) => is_open(left) && is_open(right),
        _ => false,
    }
}

fn write_type(expr: &mut Expr, elem: Elem) {
    let span = expr.span;
    let typed = |text: &str, value: LiteralValue| {
        let text = format!("{}#{text}", elem.name());
        ExprKind::Literal(Literal { text, typed: Some(name(elem.name(), span)), value })
    };
    match &mut expr.kind {
        ExprKind::Literal(l) => expr.kind = typed(&l.text, l.value.clone()),
        ExprKind::Unary(_, inner) => match &inner.kind {
            ExprKind::Literal(Literal { text, value: LiteralValue::Int(i), .. }) => {
                expr.kind = typed(&format!("-{text}"), LiteralValue::Int(-i));
            }
            ExprKind::Literal(Literal { text, value: LiteralValue::Real(r), .. }) => {
                expr.kind = typed(&format!("-{text}"), LiteralValue::Real(-r));
            }
            _ => write_type(inner, elem),
        },
        ExprKind::Binary(_, left, right) => {
            write_type(left, elem);
            write_type(right, elem);
        }
        _ => {}
    }
}

/// True for what may stand behind an operator: a literal, with its sign, or a variable.
pub(super) fn is_simple(expr: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) | ExprKind::Field(..) | ExprKind::Index(..) => {
            true
        }
        ExprKind::Unary(UnaryOp::Negate, inner) => matches!(
            &inner.kind,
            ExprKind::Literal(Literal { typed: None, value: LiteralValue::Int(_) | LiteralValue::Real(_), .. })
        ),
        _ => false,
    }
}

/// An untyped integer.
pub(super) fn number(text: &str, value: i128, span: Span) -> Expr {
    let literal = Literal { text: text.to_string(), typed: None, value: LiteralValue::Int(value) };
    Expr { kind: ExprKind::Literal(literal), span }
}

/// A list of instructions that computes `left op right`, for a parenthesis.
pub(super) fn compare(left: &Expr, op: BinaryOp, right: Operand) -> Vec<Instr> {
    let span = left.span;
    let instr = |kind| Instr { label: None, kind, span, notes: Notes::default() };
    vec![instr(InstrKind::Load(false, left.clone())), instr(InstrKind::Op(op, false, right))]
}
