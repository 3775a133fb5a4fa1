//! What is written, as a row of tokens: how it is laid out, the case of letters and how a number is spelled do not count.

use crate::model::{Arg, Call, CaseLabel, Expr, ExprKind, Init, Literal, LiteralValue, Operand, TypeSpec, VarDecl};
use std::hash::{DefaultHasher, Hash, Hasher};

/// One token. Names are in capitals.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Token {
    /// A variable, a unit, a type or a label.
    Name(String),
    /// A part of a variable or an input or output of a block.
    Part(String),
    /// A value that is written out.
    Value(String),
    /// An operator, a word of the language, a sign.
    Sign(&'static str),
}

impl Token {
    pub(super) fn name(text: &str) -> Token {
        Token::Name(text.to_uppercase())
    }

    pub(super) fn part(text: &str) -> Token {
        Token::Part(text.to_uppercase())
    }
}

/// A fingerprint of so many bits that no two things of a project share one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) struct Print(u128);

impl Print {
    pub(super) fn of(what: &impl Hash) -> Print {
        let half = |salt: u64| {
            let mut hasher = DefaultHasher::new();
            salt.hash(&mut hasher);
            what.hash(&mut hasher);
            u128::from(hasher.finish())
        };
        Print(half(1) << 64 | half(2))
    }
}

/// The tokens of an expression.
pub(super) fn expr(out: &mut Vec<Token>, of: &Expr) {
    match &of.kind {
        ExprKind::Literal(literal) => out.push(Token::Value(value(literal))),
        ExprKind::Name(name) => out.push(Token::name(&name.text)),
        ExprKind::Address(name) => out.push(Token::Value(name.text.to_uppercase())),
        ExprKind::Field(base, field) => {
            expr(out, base);
            out.extend([Token::Sign("."), Token::part(&field.text)]);
        }
        ExprKind::Index(base, indices) => {
            expr(out, base);
            out.push(Token::Sign("["));
            list(out, indices, expr);
            out.push(Token::Sign("]"));
        }
        ExprKind::Unary(op, inner) => {
            out.push(Token::Sign(if *op == crate::model::ops::UnaryOp::Negate { "-" } else { "NOT" }));
            grouped(out, inner, matches!(inner.kind, ExprKind::Unary(..) | ExprKind::Binary(..)));
        }
        ExprKind::Binary(op, left, right) => {
            // A chain of one operator stands without parentheses.
            let chained = |side: &Expr| matches!(&side.kind, ExprKind::Binary(inner, ..) if inner == op);
            let grouped_left = matches!(left.kind, ExprKind::Binary(..)) && !chained(left);
            grouped(out, left, grouped_left);
            out.push(Token::Sign(op.symbol()));
            grouped(out, right, matches!(right.kind, ExprKind::Binary(..)));
        }
        ExprKind::Call(inner) => call(out, inner),
    }
}

fn grouped(out: &mut Vec<Token>, of: &Expr, in_parentheses: bool) {
    if in_parentheses {
        out.push(Token::Sign("("));
    }
    expr(out, of);
    if in_parentheses {
        out.push(Token::Sign(")"));
    }
}

fn list<T>(out: &mut Vec<Token>, items: &[T], each: impl Fn(&mut Vec<Token>, &T)) {
    for (number, item) in items.iter().enumerate() {
        if number > 0 {
            out.push(Token::Sign(","));
        }
        each(out, item);
    }
}

/// The tokens of a call.
pub(super) fn call(out: &mut Vec<Token>, of: &Call) {
    expr(out, &of.callee);
    out.push(Token::Sign("("));
    list(out, &of.args, argument);
    out.push(Token::Sign(")"));
}

fn argument(out: &mut Vec<Token>, arg: &Arg) {
    match arg {
        Arg::Plain(operand) => operand_tokens(out, operand),
        Arg::Input(name, operand) => {
            out.extend([Token::part(&name.text), Token::Sign(":=")]);
            operand_tokens(out, operand);
        }
        Arg::Output { name, negated, target } => {
            out.extend(negated.then_some(Token::Sign("NOT")));
            out.extend([Token::part(&name.text), Token::Sign("=>")]);
            expr(out, target);
        }
    }
}

fn operand_tokens(out: &mut Vec<Token>, operand: &Operand) {
    match operand {
        Operand::Expr(value) => expr(out, value),
        // What is in the parentheses are parts of their own.
        Operand::List(_) => out.extend([Token::Sign("("), Token::Sign(")")]),
    }
}

/// The tokens of a label of CASE.
pub(super) fn label(out: &mut Vec<Token>, of: &CaseLabel) {
    match of {
        CaseLabel::One(value) => expr(out, value),
        CaseLabel::Range(low, high) => {
            expr(out, low);
            out.push(Token::Sign(".."));
            expr(out, high);
        }
    }
}

/// What a literal stands for, in one spelling.
fn value(literal: &Literal) -> String {
    let typed = literal.typed.as_ref().map_or(String::new(), |name| format!("{}#", name.text.to_uppercase()));
    let value = match &literal.value {
        LiteralValue::Bool(value) => value.to_string().to_uppercase(),
        LiteralValue::Int(value) => value.to_string(),
        LiteralValue::Real(value) => format!("{value:?}"),
        LiteralValue::Time(nanos, long) => format!("{}{nanos}ns", if *long { "LTIME#" } else { "T#" }),
        LiteralValue::Text(text) => format!("'{text}'"),
    };
    format!("{typed}{value}")
}

/// The tokens of a type as it is declared.
pub(super) fn spec(out: &mut Vec<Token>, of: &TypeSpec) {
    match of {
        TypeSpec::Elem(elem, _) => out.push(Token::Sign(elem.name())),
        TypeSpec::String(length, _) => {
            out.push(Token::Sign("STRING"));
            if let Some(length) = length {
                out.push(Token::Sign("["));
                expr(out, length);
                out.push(Token::Sign("]"));
            }
        }
        TypeSpec::Named(name) => out.push(Token::name(&name.text)),
        TypeSpec::Range(elem, low, high, _) => {
            out.extend([Token::Sign(elem.name()), Token::Sign("(")]);
            expr(out, low);
            out.push(Token::Sign(".."));
            expr(out, high);
            out.push(Token::Sign(")"));
        }
        TypeSpec::Enum(base, values, _) => {
            out.extend(base.map(|base| Token::Sign(base.name())));
            out.push(Token::Sign("("));
            list(out, values, |out, (name, value)| {
                out.push(Token::name(&name.text));
                if let Some(value) = value {
                    out.push(Token::Sign(":="));
                    expr(out, value);
                }
            });
            out.push(Token::Sign(")"));
        }
        TypeSpec::Array(bounds, of, _) => {
            out.extend([Token::Sign("ARRAY"), Token::Sign("[")]);
            list(out, bounds, |out, (low, high)| {
                expr(out, low);
                out.push(Token::Sign(".."));
                expr(out, high);
            });
            out.extend([Token::Sign("]"), Token::Sign("OF")]);
            spec(out, of);
        }
        TypeSpec::Struct(fields, _) => {
            out.push(Token::Sign("STRUCT"));
            fields.iter().for_each(|decl| field(out, decl));
        }
    }
}

fn field(out: &mut Vec<Token>, decl: &VarDecl) {
    out.extend(decl.names.iter().map(|name| Token::part(&name.text)));
    out.push(Token::Sign(":"));
    spec(out, &decl.spec);
    if let Some(value) = &decl.init {
        out.push(Token::Sign(":="));
        init(out, value);
    }
    out.push(Token::Sign(";"));
}

/// The tokens of an initial value.
pub(super) fn init(out: &mut Vec<Token>, of: &Init) {
    match of {
        Init::Expr(value) => expr(out, value),
        Init::Array(values, _) => {
            out.push(Token::Sign("["));
            list(out, values, |out, (times, value)| {
                out.extend((*times != 1).then(|| Token::Value(format!("{times} times"))));
                init(out, value);
            });
            out.push(Token::Sign("]"));
        }
        Init::Struct(fields, _) => {
            out.push(Token::Sign("("));
            list(out, fields, |out, (name, value)| {
                out.extend([Token::part(&name.text), Token::Sign(":=")]);
                init(out, value);
            });
            out.push(Token::Sign(")"));
        }
    }
}
