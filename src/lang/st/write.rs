//! Writing statements and expressions as a careful colleague lays them out.

use crate::lang::written::{comments, end_line, leading};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Call, CaseLabel, Expr, ExprKind, Notes, Operand, Stmt, StmtKind};

/// Four blanks a level.
pub(in crate::lang) fn indentation(level: usize) -> String {
    "    ".repeat(level)
}

/// Lines longer than this are broken at their operators or arguments.
const WIDTH: usize = 100;

/// Begins a line.
fn pad(out: &mut String, level: usize) {
    (0..level).for_each(|_| out.push_str("    "));
}

/// Writes a list of statements.
pub(crate) fn statements(out: &mut String, list: &[Stmt], level: usize) {
    for (index, stmt) in list.iter().enumerate() {
        notes_above(out, &stmt.notes, level, index > 0);
        statement(out, stmt, level);
    }
}

/// The comments above something, behind a blank line if one stood there and `blank` allows it.
fn notes_above(out: &mut String, notes: &Notes, level: usize, blank: bool) {
    match (blank && notes.blank_before, notes.leading.as_slice()) {
        (false, []) => {}
        (true, _) => leading(out, notes, &indentation(level)),
        (false, list) => comments(out, list, &indentation(level)),
    }
}

fn statement(out: &mut String, stmt: &Stmt, level: usize) {
    match &stmt.kind {
        // An empty statement with comments is only the comments.
        StmtKind::Empty if !stmt.notes.leading.is_empty() && stmt.notes.trailing.is_empty() => return,
        StmtKind::Empty => {
            pad(out, level);
            out.push(';');
        }
        StmtKind::Assign(target, value) => {
            let from = out.len();
            pad(out, level);
            put(out, target);
            out.push_str(" := ");
            broken(out, from, value, level);
            out.push(';');
        }
        StmtKind::Call(c) => call_statement(out, c, level),
        StmtKind::If(branches, otherwise) => {
            for (index, (condition, body)) in branches.iter().enumerate() {
                pad(out, level);
                out.push_str(if index == 0 { "IF " } else { "ELSIF " });
                put(out, condition);
                out.push_str(" THEN\n");
                statements(out, body, level + 1);
            }
            otherwise_and_end(out, otherwise.as_deref(), "END_IF;", level);
        }
        StmtKind::Case(selector, branches, otherwise) => {
            pad(out, level);
            out.push_str("CASE ");
            put(out, selector);
            out.push_str(" OF\n");
            for branch in branches {
                notes_above(out, &branch.notes, level + 1, false);
                pad(out, level + 1);
                separated(out, &branch.labels, ", ", label);
                out.push_str(":\n");
                statements(out, &branch.body, level + 2);
            }
            otherwise_and_end(out, otherwise.as_deref(), "END_CASE;", level);
        }
        StmtKind::For(..)
        | StmtKind::While(..)
        | StmtKind::Repeat(..)
        | StmtKind::Exit
        | StmtKind::Continue
        | StmtKind::Return => loop_or_word(out, &stmt.kind, level),
    }
    end_line(out, &stmt.notes);
}

fn otherwise_and_end(out: &mut String, otherwise: Option<&[Stmt]>, end: &str, level: usize) {
    if let Some(body) = otherwise {
        pad(out, level);
        out.push_str("ELSE\n");
        statements(out, body, level + 1);
    }
    pad(out, level);
    out.push_str(end);
}

/// A call as a statement; one that gets too long has its arguments on lines of their own.
fn call_statement(out: &mut String, c: &Call, level: usize) {
    let from = out.len();
    pad(out, level);
    call(out, c);
    out.push(';');
    if fits(&out[from..], WIDTH) || c.args.len() < 2 {
        return;
    }
    out.truncate(from);
    pad(out, level);
    put(out, &c.callee);
    out.push_str("(\n");
    separated(out, &c.args, ",\n", |out, arg| {
        pad(out, level + 1);
        argument(out, arg);
    });
    out.push('\n');
    pad(out, level);
    out.push_str(");");
}

/// True if a text has at most so many characters.
fn fits(text: &str, width: usize) -> bool {
    text.len() <= width || text.chars().count() <= width
}

/// Writes all of a list, with something between each and the next.
pub(in crate::lang) fn separated<T>(
    out: &mut String,
    list: &[T],
    between: &str,
    mut each: impl FnMut(&mut String, &T),
) {
    for (index, part) in list.iter().enumerate() {
        if index > 0 {
            out.push_str(between);
        }
        each(out, part);
    }
}

fn loop_or_word(out: &mut String, kind: &StmtKind, level: usize) {
    pad(out, level);
    match kind {
        StmtKind::For(head, body) => {
            out.push_str("FOR ");
            put(out, &head.var);
            out.push_str(" := ");
            put(out, &head.from);
            out.push_str(" TO ");
            put(out, &head.to);
            if let Some(by) = &head.by {
                out.push_str(" BY ");
                put(out, by);
            }
            out.push_str(" DO\n");
            statements(out, body, level + 1);
            pad(out, level);
            out.push_str("END_FOR;");
        }
        StmtKind::While(condition, body) => {
            out.push_str("WHILE ");
            put(out, condition);
            out.push_str(" DO\n");
            statements(out, body, level + 1);
            pad(out, level);
            out.push_str("END_WHILE;");
        }
        StmtKind::Repeat(body, condition) => {
            out.push_str("REPEAT\n");
            statements(out, body, level + 1);
            pad(out, level);
            out.push_str("UNTIL ");
            put(out, condition);
            out.push_str(" END_REPEAT;");
        }
        StmtKind::Exit => out.push_str("EXIT;"),
        StmtKind::Continue => out.push_str("CONTINUE;"),
        StmtKind::Return => out.push_str("RETURN;"),
        StmtKind::Empty | StmtKind::Assign(..) | StmtKind::Call(_) | StmtKind::If(..) | StmtKind::Case(..) => {}
    }
}

/// Writes the value of a line that begins at `from`; it is broken before its outermost operators if the line gets long.
fn broken(out: &mut String, from: usize, value: &Expr, level: usize) {
    let head = out.len();
    put(out, value);
    if fits(&out[from..], WIDTH - 1) {
        return;
    }
    if let ExprKind::Binary(op, ..) = &value.kind {
        out.truncate(head);
        chain(out, value, *op, &format!("\n{}", indentation(level + 1)));
    }
}

/// The operands of a chain of one operator, the operator before each but the first, behind `gap`.
fn chain(out: &mut String, expr: &Expr, op: BinaryOp, gap: &str) {
    let ExprKind::Binary(_, left, right) = &expr.kind else { return };
    let goes_on = matches!(&left.kind, ExprKind::Binary(inner, ..) if *inner == op);
    if goes_on && !op.is_comparison() && op != BinaryOp::Power {
        chain(out, left, op, gap);
    } else {
        operand(out, left, op, Side::Left);
    }
    out.extend([gap, op.symbol(), " "]);
    operand(out, right, op, Side::Right);
}

fn label(out: &mut String, label: &CaseLabel) {
    match label {
        CaseLabel::One(value) => put(out, value),
        CaseLabel::Range(low, high) => {
            put(out, low);
            out.push_str("..");
            put(out, high);
        }
    }
}

fn argument(out: &mut String, arg: &Arg) {
    match arg {
        Arg::Plain(value) => value_text(out, value),
        Arg::Input(name, value) => {
            out.extend([&name.text, " := "]);
            value_text(out, value);
        }
        Arg::Output { name, negated, target } => {
            out.extend([if *negated { "NOT " } else { "" }, &name.text, " => "]);
            put(out, target);
        }
    }
}

fn value_text(out: &mut String, value: &Operand) {
    match value {
        Operand::Expr(expr) => put(out, expr),
        // Instruction lists in arguments exist in instruction list only; translation takes them apart.
        Operand::List(_) => out.push_str("(...)"),
    }
}

fn call(out: &mut String, call: &Call) {
    put(out, &call.callee);
    out.push('(');
    separated(out, &call.args, ", ", argument);
    out.push(')');
}

#[derive(Clone, Copy, PartialEq)]
enum Side {
    Left,
    Right,
}

/// An expression as text, with the parentheses it needs and those that a reader is glad of.
pub(crate) fn expression(expr: &Expr) -> String {
    let mut out = String::new();
    put(&mut out, expr);
    out
}

/// As [`expression`], behind what is there already.
pub(in crate::lang) fn put(out: &mut String, expr: &Expr) {
    match &expr.kind {
        ExprKind::Literal(literal) => out.push_str(&literal.text),
        ExprKind::Name(name) | ExprKind::Address(name) => out.push_str(&name.text),
        ExprKind::Field(base, field) => {
            put(out, base);
            out.extend([".", &field.text]);
        }
        ExprKind::Index(base, indices) => {
            put(out, base);
            out.push('[');
            separated(out, indices, ", ", put);
            out.push(']');
        }
        ExprKind::Unary(op, inner) => {
            out.push_str(if *op == UnaryOp::Negate { "-" } else { "NOT " });
            let composed = matches!(inner.kind, ExprKind::Unary(..) | ExprKind::Binary(..));
            enclosed(out, inner, composed);
        }
        ExprKind::Binary(op, ..) => chain(out, expr, *op, " "),
        ExprKind::Call(c) => call(out, c),
    }
}

/// In parentheses, if it needs them.
fn enclosed(out: &mut String, expr: &Expr, needs: bool) {
    if needs {
        out.push('(');
    }
    put(out, expr);
    if needs {
        out.push(')');
    }
}

fn operand(out: &mut String, expr: &Expr, parent: BinaryOp, side: Side) {
    let needs = match &expr.kind {
        ExprKind::Binary(op, ..) => {
            let looser = op.binding() < parent.binding() || (op.binding() == parent.binding() && side == Side::Right);
            // `a AND b OR c` is legal; nobody wants to look up which binds tighter.
            let unclear = (parent.is_logic() && *op != parent) || (parent.is_comparison() && op.is_comparison());
            looser || unclear || parent == BinaryOp::Power
        }
        ExprKind::Unary(UnaryOp::Negate, _) => side == Side::Right,
        ExprKind::Unary(UnaryOp::Not, _) => !parent.is_logic(),
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Call(_) => false,
    };
    enclosed(out, expr, needs);
}
