//! Writing statements and expressions as a careful colleague lays them out.

use crate::lang::written::{end_line, leading};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Call, CaseLabel, Expr, ExprKind, Operand, Stmt, StmtKind};

/// Four blanks a level.
pub(crate) fn indentation(level: usize) -> String {
    "    ".repeat(level)
}

/// Lines longer than this are broken at their operators or arguments.
const WIDTH: usize = 100;

/// Writes a list of statements.
pub(crate) fn statements(out: &mut String, list: &[Stmt], level: usize) {
    for (index, stmt) in list.iter().enumerate() {
        let pad = indentation(level);
        if index == 0 {
            let mut first = stmt.notes.clone();
            first.blank_before = false;
            leading(out, &first, &pad);
        } else {
            leading(out, &stmt.notes, &pad);
        }
        statement(out, stmt, level);
    }
}

fn statement(out: &mut String, stmt: &Stmt, level: usize) {
    let pad = indentation(level);
    match &stmt.kind {
        // An empty statement with comments is only the comments.
        StmtKind::Empty if !stmt.notes.leading.is_empty() && stmt.notes.trailing.is_empty() => return,
        StmtKind::Empty => out.push_str(&format!("{pad};")),
        StmtKind::Assign(target, value) => {
            let head = format!("{pad}{} := ", expression(target));
            broken(out, &head, value, level);
            out.push(';');
        }
        StmtKind::Call(c) => {
            let line = format!("{pad}{};", call(c));
            if line.chars().count() <= WIDTH || c.args.len() < 2 {
                out.push_str(&line);
            } else {
                out.push_str(&format!("{pad}{}(\n", expression(&c.callee)));
                let inner = indentation(level + 1);
                let args: Vec<String> = c.args.iter().map(|a| format!("{inner}{}", argument(a))).collect();
                out.push_str(&format!("{}\n{pad});", args.join(",\n")));
            }
        }
        StmtKind::If(branches, otherwise) => {
            for (index, (condition, body)) in branches.iter().enumerate() {
                let word = if index == 0 { "IF" } else { "ELSIF" };
                out.push_str(&format!("{pad}{word} {} THEN\n", expression(condition)));
                statements(out, body, level + 1);
            }
            if let Some(body) = otherwise {
                out.push_str(&format!("{pad}ELSE\n"));
                statements(out, body, level + 1);
            }
            out.push_str(&format!("{pad}END_IF;"));
        }
        StmtKind::Case(selector, branches, otherwise) => {
            out.push_str(&format!("{pad}CASE {} OF\n", expression(selector)));
            for branch in branches {
                let inner = indentation(level + 1);
                let mut notes = branch.notes.clone();
                notes.blank_before = false;
                leading(out, &notes, &inner);
                let labels: Vec<String> = branch.labels.iter().map(label).collect();
                out.push_str(&format!("{inner}{}:\n", labels.join(", ")));
                statements(out, &branch.body, level + 2);
            }
            if let Some(body) = otherwise {
                out.push_str(&format!("{pad}ELSE\n"));
                statements(out, body, level + 1);
            }
            out.push_str(&format!("{pad}END_CASE;"));
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

fn loop_or_word(out: &mut String, kind: &StmtKind, level: usize) {
    let pad = indentation(level);
    match kind {
        StmtKind::For(head, body) => {
            let by = head.by.as_ref().map_or(String::new(), |by| format!(" BY {}", expression(by)));
            out.push_str(&format!(
                "{pad}FOR {} := {} TO {}{by} DO\n",
                expression(&head.var),
                expression(&head.from),
                expression(&head.to)
            ));
            statements(out, body, level + 1);
            out.push_str(&format!("{pad}END_FOR;"));
        }
        StmtKind::While(condition, body) => {
            out.push_str(&format!("{pad}WHILE {} DO\n", expression(condition)));
            statements(out, body, level + 1);
            out.push_str(&format!("{pad}END_WHILE;"));
        }
        StmtKind::Repeat(body, condition) => {
            out.push_str(&format!("{pad}REPEAT\n"));
            statements(out, body, level + 1);
            out.push_str(&format!("{pad}UNTIL {} END_REPEAT;", expression(condition)));
        }
        StmtKind::Exit => out.push_str(&format!("{pad}EXIT;")),
        StmtKind::Continue => out.push_str(&format!("{pad}CONTINUE;")),
        StmtKind::Return => out.push_str(&format!("{pad}RETURN;")),
        StmtKind::Empty | StmtKind::Assign(..) | StmtKind::Call(_) | StmtKind::If(..) | StmtKind::Case(..) => {}
    }
}

/// Writes `head value`, broken before the outermost operators if the line gets long.
fn broken(out: &mut String, head: &str, value: &Expr, level: usize) {
    let whole = expression(value);
    out.push_str(head);
    if head.chars().count() + whole.chars().count() < WIDTH {
        out.push_str(&whole);
        return;
    }
    let ExprKind::Binary(op, ..) = &value.kind else {
        out.push_str(&whole);
        return;
    };
    let mut parts = Vec::new();
    chain(value, *op, &mut parts);
    let pad = indentation(level + 1);
    out.push_str(&parts.join(&format!("\n{pad}{} ", op.symbol())));
}

/// The operands of a chain of one operator, each ready to stand beside it.
fn chain(expr: &Expr, op: BinaryOp, parts: &mut Vec<String>) {
    if let ExprKind::Binary(inner, left, right) = &expr.kind
        && *inner == op
    {
        chain_left(left, op, parts);
        parts.push(operand(right, op, Side::Right));
    }
}

fn chain_left(left: &Expr, op: BinaryOp, parts: &mut Vec<String>) {
    if let ExprKind::Binary(inner, ..) = &left.kind
        && *inner == op
        && !op.is_comparison()
        && op != BinaryOp::Power
    {
        chain(left, op, parts);
    } else {
        parts.push(operand(left, op, Side::Left))
    }
}

fn label(label: &CaseLabel) -> String {
    match label {
        CaseLabel::One(value) => expression(value),
        CaseLabel::Range(low, high) => format!("{}..{}", expression(low), expression(high)),
    }
}

fn argument(arg: &Arg) -> String {
    match arg {
        Arg::Plain(value) => value_text(value),
        Arg::Input(name, value) => format!("{} := {}", name.text, value_text(value)),
        Arg::Output { name, negated, target } => {
            format!("{}{} => {}", if *negated { "NOT " } else { "" }, name.text, expression(target))
        }
    }
}

fn value_text(value: &Operand) -> String {
    match value {
        Operand::Expr(expr) => expression(expr),
        // Instruction lists in arguments exist in instruction list only; translation takes them apart.
        Operand::List(_) => "(...)".to_string(),
    }
}

fn call(call: &Call) -> String {
    let args: Vec<String> = call.args.iter().map(argument).collect();
    format!("{}({})", expression(&call.callee), args.join(", "))
}

#[derive(Clone, Copy, PartialEq)]
enum Side {
    Left,
    Right,
}

/// Writes an expression, with the parentheses it needs and those that a reader is glad of.
pub(crate) fn expression(expr: &Expr) -> String {
    match &expr.kind {
        ExprKind::Literal(literal) => literal.text.clone(),
        ExprKind::Name(name) | ExprKind::Address(name) => name.text.clone(),
        ExprKind::Field(base, field) => format!("{}.{}", expression(base), field.text),
        ExprKind::Index(base, indices) => {
            let list: Vec<String> = indices.iter().map(expression).collect();
            format!("{}[{}]", expression(base), list.join(", "))
        }
        ExprKind::Unary(op, inner) => {
            let word = if *op == UnaryOp::Negate { "-" } else { "NOT " };
            if let ExprKind::Unary(..) | ExprKind::Binary(..) = inner.kind {
                format!("{word}({})", expression(inner))
            } else {
                format!("{word}{}", expression(inner))
            }
        }
        ExprKind::Binary(op, ..) if op.is_comparison() || *op == BinaryOp::Power => {
            let ExprKind::Binary(_, left, right) = &expr.kind else { return String::new() };
            format!("{} {} {}", operand(left, *op, Side::Left), op.symbol(), operand(right, *op, Side::Right))
        }
        ExprKind::Binary(op, ..) => {
            let mut parts = Vec::new();
            chain(expr, *op, &mut parts);
            parts.join(&format!(" {} ", op.symbol()))
        }
        ExprKind::Call(c) => call(c),
    }
}

fn operand(expr: &Expr, parent: BinaryOp, side: Side) -> String {
    let text = expression(expr);
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
    if needs { format!("({text})") } else { text }
}
