//! Expressions, calls and variables, as structured text has them; instruction list uses the parts.
#![allow(clippy::wildcard_enum_match_arm, reason = "there are many tokens; one that is not wanted is an error")]

use super::cursor::{Cursor, Read};
use super::literal;
use super::token::Tok;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Call, Expr, ExprKind, Operand};
use crate::source::codes;

/// An expression with its depth, so that no chain of operators can exhaust the stack of what walks it.
struct Deep {
    expr: Expr,
    depth: u32,
}

/// Reads an expression.
pub(super) fn read(cursor: &mut Cursor<'_>) -> Read<Expr> {
    Ok(deep(cursor, 0)?.expr)
}

fn deep(cursor: &mut Cursor<'_>, least: u8) -> Read<Deep> {
    cursor.nested(|cursor| binary(cursor, least))
}

fn operator(cursor: &Cursor<'_>) -> Option<BinaryOp> {
    Some(match cursor.kind() {
        Tok::Plus => BinaryOp::Add,
        Tok::Minus => BinaryOp::Sub,
        Tok::Star => BinaryOp::Mul,
        Tok::Slash => BinaryOp::Div,
        Tok::Power => BinaryOp::Power,
        Tok::Equal => BinaryOp::Eq,
        Tok::NotEqual => BinaryOp::Ne,
        Tok::Less => BinaryOp::Lt,
        Tok::LessEqual => BinaryOp::Le,
        Tok::Greater => BinaryOp::Gt,
        Tok::GreaterEqual => BinaryOp::Ge,
        Tok::Ampersand => BinaryOp::And,
        Tok::Word => [BinaryOp::And, BinaryOp::Or, BinaryOp::Xor, BinaryOp::Mod]
            .into_iter()
            .find(|op| cursor.at_word(op.symbol()))?,
        _ => return None,
    })
}

/// Operators of equal binding group from the left, all of them, as the standard says.
fn binary(cursor: &mut Cursor<'_>, least: u8) -> Read<Deep> {
    let mut left = unary(cursor)?;
    while let Some(op) = operator(cursor).filter(|op| op.binding() > least) {
        cursor.bump();
        let right = deep(cursor, op.binding())?;
        let span = left.expr.span.to(right.expr.span);
        let depth = left.depth.max(right.depth) + 1;
        if depth > cursor.limits.expression_depth {
            let message = format!(
                "this expression is more than {} operators deep; split it with a variable",
                cursor.limits.expression_depth
            );
            return cursor.stop(codes::LIMIT, span, message);
        }
        left =
            Deep { expr: Expr { kind: ExprKind::Binary(op, Box::new(left.expr), Box::new(right.expr)), span }, depth };
    }
    Ok(left)
}

fn unary(cursor: &mut Cursor<'_>) -> Read<Deep> {
    let op = match cursor.kind() {
        Tok::Minus => Some(UnaryOp::Negate),
        Tok::Plus => {
            cursor.bump();
            return cursor.nested(unary);
        }
        Tok::Word if cursor.at_word("NOT") => Some(UnaryOp::Not),
        _ => None,
    };
    let Some(op) = op else { return primary(cursor) };
    let start = cursor.bump().span;
    let inner = cursor.nested(unary)?;
    let span = start.to(inner.expr.span);
    Ok(Deep { expr: Expr { kind: ExprKind::Unary(op, Box::new(inner.expr)), span }, depth: inner.depth + 1 })
}

fn primary(cursor: &mut Cursor<'_>) -> Read<Deep> {
    if cursor.eat(Tok::Open) {
        let inner = deep(cursor, 0)?;
        cursor.expect(Tok::Close, "`)`")?;
        return Ok(inner);
    }
    if literal::begins(cursor) {
        return Ok(Deep { expr: literal_expr(cursor)?, depth: 1 });
    }
    // `NOT(...)` is read as the operator; the other functions named like operators need their parenthesis.
    let operator_function =
        operator(cursor).is_some() && cursor.ahead(1).kind == Tok::Open && cursor.kind() == Tok::Word;
    if operator_function || cursor.kind() == Tok::Word {
        let start = cursor.span();
        if operator_function || (cursor.ahead(1).kind == Tok::Open && !cursor.at_any(&["IF", "WHILE"])) {
            let name = if operator_function { cursor.name_here() } else { cursor.name("a function's name")? };
            let callee = Expr { span: name.span, kind: ExprKind::Name(name) };
            let mut depth = 0;
            let args = arguments(cursor, &mut |cursor| {
                let inner = deep(cursor, 0)?;
                depth = depth.max(inner.depth);
                Ok(Operand::Expr(inner.expr))
            })?;
            let span = start.to(cursor.last_span());
            let call = Call { callee, args, span };
            return Ok(Deep { expr: Expr { kind: ExprKind::Call(Box::new(call)), span }, depth: depth + 1 });
        }
    }
    deep_variable(cursor)
}

/// A literal as an expression.
pub(super) fn literal_expr(cursor: &mut Cursor<'_>) -> Read<Expr> {
    let (literal, span) = literal::placed(cursor)?;
    Ok(Expr { kind: ExprKind::Literal(literal), span })
}

/// A literal or a variable, with a sign in front of a number: what stands behind an operator of instruction list.
pub(super) fn simple(cursor: &mut Cursor<'_>) -> Read<Expr> {
    if cursor.kind() == Tok::Minus {
        let start = cursor.bump().span;
        let inner = literal_expr(cursor)?;
        let span = start.to(inner.span);
        return Ok(Expr { kind: ExprKind::Unary(UnaryOp::Negate, Box::new(inner)), span });
    }
    if literal::begins(cursor) { literal_expr(cursor) } else { variable(cursor) }
}

/// A variable: a name or an address, then fields and indices.
pub(super) fn variable(cursor: &mut Cursor<'_>) -> Read<Expr> {
    Ok(deep_variable(cursor)?.expr)
}

fn deep_variable(cursor: &mut Cursor<'_>) -> Read<Deep> {
    let start = cursor.span();
    let mut expr = if cursor.kind() == Tok::Address {
        let name = cursor.name_here();
        Expr { kind: ExprKind::Address(name), span: start }
    } else {
        let name = cursor.name("a value")?;
        Expr { kind: ExprKind::Name(name), span: start }
    };
    let (mut steps, mut depth) = (0, 1);
    loop {
        steps += 1;
        if steps > cursor.limits.nesting {
            let span = cursor.span();
            return cursor.stop(codes::LIMIT, span, "too many fields and indices behind one name");
        }
        if cursor.kind() == Tok::Dot {
            cursor.bump();
            // `%X3`: a part of a bit string.
            let is_part = cursor.kind() == Tok::Address;
            let name = if is_part { cursor.name_here() } else { cursor.name("a field's name")? };
            let span = start.to(name.span);
            expr = Expr { kind: ExprKind::Field(Box::new(expr), name), span };
        } else if cursor.eat(Tok::OpenIndex) {
            let mut indices = Vec::new();
            loop {
                let index = deep(cursor, 0)?;
                depth = depth.max(index.depth + 1);
                indices.push(index.expr);
                if !cursor.eat(Tok::Comma) {
                    break;
                }
            }
            cursor.expect(Tok::CloseIndex, "`]`")?;
            let span = start.to(cursor.last_span());
            expr = Expr { kind: ExprKind::Index(Box::new(expr), indices), span };
        } else {
            return Ok(Deep { expr, depth });
        }
    }
}

/// `( ... )` of a call; `value` reads what an argument may be in the language at hand.
pub(super) fn arguments(
    cursor: &mut Cursor<'_>,
    value: &mut dyn FnMut(&mut Cursor<'_>) -> Read<Operand>,
) -> Read<Vec<Arg>> {
    cursor.expect(Tok::Open, "`(`")?;
    let mut args = Vec::new();
    while cursor.kind() != Tok::Close {
        args.push(argument(cursor, value)?);
        if !cursor.eat(Tok::Comma) {
            break;
        }
    }
    cursor.expect(Tok::Close, "`,` or `)`")?;
    Ok(args)
}

fn argument(cursor: &mut Cursor<'_>, value: &mut dyn FnMut(&mut Cursor<'_>) -> Read<Operand>) -> Read<Arg> {
    let negated = cursor.at_word("NOT") && cursor.ahead(1).kind == Tok::Word && cursor.ahead(2).kind == Tok::Arrow;
    if negated {
        cursor.bump();
    }
    if cursor.kind() == Tok::Word {
        match cursor.ahead(1).kind {
            Tok::Assign => {
                let name = cursor.name_here();
                cursor.bump();
                return Ok(Arg::Input(name, value(cursor)?));
            }
            Tok::Arrow => {
                let name = cursor.name_here();
                cursor.bump();
                return Ok(Arg::Output { name, negated, target: variable(cursor)? });
            }
            _ => {}
        }
    }
    Ok(Arg::Plain(value(cursor)?))
}
