//! Reading statements.
#![allow(clippy::wildcard_enum_match_arm, reason = "there are many tokens; one that is not wanted is an error")]

use crate::lang::bodies::UNIT_ENDS;
use crate::lang::cursor::{Cursor, Read};
use crate::lang::expr;
use crate::lang::token::Tok;
use crate::model::{Body, Call, CaseBranch, CaseLabel, Expr, ExprKind, ForHead, Operand, Stmt, StmtKind};
use crate::source::{Diagnostic, Span, codes};

const ENDS: &[&str] = &[
    "END_IF",
    "END_CASE",
    "END_FOR",
    "END_WHILE",
    "END_REPEAT",
    "END_PROGRAM",
    "END_FUNCTION",
    "END_FUNCTION_BLOCK",
    "ELSE",
    "ELSIF",
    "UNTIL",
];
const OPENINGS: &[&str] = &["IF", "CASE", "FOR", "WHILE", "REPEAT", "EXIT", "RETURN", "CONTINUE"];

/// Reads the statements of a unit and its end word; all there are if that is empty.
pub(crate) fn body(cursor: &mut Cursor<'_>, end: &str) -> Body {
    let mut all = Vec::new();
    loop {
        all.extend(list(cursor, &[end]));
        if cursor.eat_word(end) || (end.is_empty() && cursor.is_end()) {
            break;
        }
        let span = cursor.span();
        let message = format!("expected a statement or `{end}`, found {}", cursor.found());
        cursor.problem(Diagnostic::error(codes::EXPECTED, span, message));
        if cursor.is_end() || cursor.at_any(UNIT_ENDS) {
            cursor.eat(Tok::Word);
            break;
        }
        cursor.bump();
        cursor.eat(Tok::Semicolon);
    }
    Body::Statements(all)
}

/// Reads statements until a word that ends a list; `own` are those that end this one.
fn list(cursor: &mut Cursor<'_>, own: &[&str]) -> Vec<Stmt> {
    until(cursor, &|cursor| cursor.at_any(own))
}

/// Reads statements until `ends`, or a word that ends any list. Comments before such a word are kept; those before the
/// labels of a CASE belong to the branch below.
fn until(cursor: &mut Cursor<'_>, ends: &dyn Fn(&Cursor<'_>) -> bool) -> Vec<Stmt> {
    let mut out = Vec::new();
    while !cursor.is_end() && !ends(cursor) && !cursor.at_any(ENDS) {
        let before = cursor.at;
        match statement(cursor) {
            Ok(statement) => out.push(statement),
            Err(_) => recover(cursor, before),
        }
    }
    if !at_labels(cursor) {
        let notes = cursor.leading();
        if !notes.leading.is_empty() {
            let span = cursor.span();
            out.push(Stmt { kind: StmtKind::Empty, span: Span { end: span.start, ..span }, notes });
        }
    }
    out
}

/// Skips what could not be read: to behind the next semicolon, or to a word that begins or ends something.
fn recover(cursor: &mut Cursor<'_>, before: usize) {
    if cursor.at == before {
        cursor.bump();
    }
    while !cursor.is_end() && !cursor.at_any(ENDS) {
        if cursor.eat(Tok::Semicolon) {
            return;
        }
        if cursor.token().first_on_line && cursor.at_any(OPENINGS) {
            return;
        }
        cursor.bump();
    }
}

fn statement(cursor: &mut Cursor<'_>) -> Read<Stmt> {
    let mut notes = cursor.leading();
    let start = cursor.span();
    let kind = cursor.nested(|cursor| {
        Ok(match cursor.text().to_ascii_uppercase().as_str() {
            ";" => StmtKind::Empty,
            "IF" => conditional(cursor)?,
            "CASE" => case(cursor)?,
            "FOR" => for_loop(cursor)?,
            "WHILE" => while_loop(cursor)?,
            "REPEAT" => repeat_loop(cursor)?,
            "EXIT" => word(cursor, StmtKind::Exit),
            "CONTINUE" => word(cursor, StmtKind::Continue),
            "RETURN" => word(cursor, StmtKind::Return),
            _ => assignment_or_call(cursor)?,
        })
    })?;
    let span = start.to(cursor.last_span());
    cursor.want(Tok::Semicolon, "`;`");
    cursor.finish(&mut notes);
    Ok(Stmt { kind, span, notes })
}

fn word(cursor: &mut Cursor<'_>, kind: StmtKind) -> StmtKind {
    cursor.bump();
    kind
}

fn assignment_or_call(cursor: &mut Cursor<'_>) -> Read<StmtKind> {
    let target = expr::variable(cursor)?;
    match cursor.kind() {
        Tok::Assign => {
            cursor.bump();
            Ok(StmtKind::Assign(target, expr::read(cursor)?))
        }
        Tok::Open => {
            let args = expr::arguments(cursor, &mut |cursor| Ok(Operand::Expr(expr::read(cursor)?)))?;
            let span = target.span.to(cursor.last_span());
            Ok(StmtKind::Call(Call { callee: target, args, span }))
        }
        Tok::Equal => {
            let span = cursor.span();
            cursor.problem(
                Diagnostic::error(codes::EXPECTED, span, "`=` compares; an assignment is written `:=`")
                    .help("write `:=`"),
            );
            cursor.bump();
            Ok(StmtKind::Assign(target, expr::read(cursor)?))
        }
        _ => cursor.stop_expected("`:=` or `(`"),
    }
}

fn end(cursor: &mut Cursor<'_>, word: &str, opened: Span, what: &str) -> Read<()> {
    if cursor.eat_word(word) {
        return Ok(());
    }
    let span = cursor.span();
    let message = format!("expected `{word}`, found {}", cursor.found());
    cursor.problem(Diagnostic::error(codes::EXPECTED, span, message).related(opened, format!("this {what} is open")));
    Err(crate::lang::cursor::Stop)
}

fn conditional(cursor: &mut Cursor<'_>) -> Read<StmtKind> {
    let opened = cursor.bump().span;
    let mut branches = Vec::new();
    loop {
        let condition = condition(cursor, "THEN");
        branches.push((condition, list(cursor, &["ELSIF", "ELSE", "END_IF"])));
        if !cursor.eat_word("ELSIF") {
            break;
        }
    }
    let otherwise = if cursor.eat_word("ELSE") { Some(list(cursor, &["END_IF"])) } else { None };
    end(cursor, "END_IF", opened, "IF")?;
    Ok(StmtKind::If(branches, otherwise))
}

/// A condition and the word behind it. A bad condition is skipped up to that word, and a missing word is only
/// reported, so that what it guards is read in any case.
fn condition(cursor: &mut Cursor<'_>, word: &str) -> Expr {
    let condition = up_to(cursor, &[word]);
    if !cursor.eat_word(word) {
        let span = cursor.last_span();
        let at = Span { start: span.end, ..span };
        let message = format!("expected `{word}` here, before {}", cursor.found());
        cursor.problem(Diagnostic::error(codes::EXPECTED, at, message));
    }
    condition
}

/// An expression that ends before one of some words; what cannot be read is skipped up to there.
fn up_to(cursor: &mut Cursor<'_>, words: &[&str]) -> Expr {
    let start = cursor.span();
    expr::read(cursor).unwrap_or_else(|_| {
        let stops = |c: &Cursor<'_>| c.is_end() || c.at_any(words) || c.at_any(ENDS) || c.kind() == Tok::Semicolon;
        while !stops(cursor) {
            cursor.bump();
        }
        missing(start)
    })
}

/// Stands for an expression whose problem has been reported.
fn missing(span: Span) -> Expr {
    let literal = crate::model::Literal {
        text: "FALSE".to_string(),
        typed: None,
        value: crate::model::LiteralValue::Bool(false),
    };
    Expr { kind: ExprKind::Literal(literal), span }
}

fn case(cursor: &mut Cursor<'_>) -> Read<StmtKind> {
    let opened = cursor.bump().span;
    let selector = expr::read(cursor)?;
    cursor.expect_word("OF")?;
    let mut branches: Vec<CaseBranch> = Vec::new();
    while !cursor.is_end() && !cursor.at_any(ENDS) {
        let notes = cursor.leading();
        let labels = labels(cursor)?;
        let body = until(cursor, &at_labels);
        branches.push(CaseBranch { labels, body, notes });
    }
    let otherwise = if cursor.eat_word("ELSE") { Some(list(cursor, &["END_CASE"])) } else { None };
    end(cursor, "END_CASE", opened, "CASE")?;
    Ok(StmtKind::Case(selector, branches, otherwise))
}

fn labels(cursor: &mut Cursor<'_>) -> Read<Vec<CaseLabel>> {
    let mut labels = Vec::new();
    loop {
        let low = expr::read(cursor)?;
        labels.push(if cursor.eat(Tok::Dots) {
            CaseLabel::Range(low, expr::read(cursor)?)
        } else {
            CaseLabel::One(low)
        });
        if !cursor.eat(Tok::Comma) {
            break;
        }
    }
    cursor.expect(Tok::Colon, "`:` behind the labels of a branch")?;
    Ok(labels)
}

/// True where labels begin: values, ranges and commas, then a colon.
fn at_labels(cursor: &Cursor<'_>) -> bool {
    let mut by = 0;
    loop {
        let Some(behind) = label_value(cursor, by) else { return false };
        by = behind;
        if cursor.ahead(by).kind == Tok::Dots {
            let Some(behind) = label_value(cursor, by + 1) else { return false };
            by = behind;
        }
        match cursor.ahead(by).kind {
            Tok::Colon => return true,
            Tok::Comma if by < 10_000 => by += 1,
            _ => return false,
        }
    }
}

/// Where a value of a label ends: a number with its sign and type, or a name.
fn label_value(cursor: &Cursor<'_>, mut by: usize) -> Option<usize> {
    let typed = cursor.ahead(by).kind == Tok::Prefix;
    by += usize::from(typed);
    by += usize::from(cursor.ahead(by).kind == Tok::Minus);
    match cursor.ahead(by).kind {
        Tok::Int | Tok::Based => Some(by + 1),
        Tok::Word if !crate::lang::cursor::is_reserved(cursor.slice(cursor.ahead(by).span)) => Some(by + 1),
        _ => None,
    }
}

fn for_loop(cursor: &mut Cursor<'_>) -> Read<StmtKind> {
    let opened = cursor.bump().span;
    let var = expr::variable(cursor)?;
    cursor.expect(Tok::Assign, "`:=`")?;
    let from = expr::read(cursor)?;
    cursor.expect_word("TO")?;
    let to = up_to(cursor, &["BY", "DO"]);
    let by = if cursor.eat_word("BY") { Some(up_to(cursor, &["DO"])) } else { None };
    if !cursor.eat_word("DO") {
        let message = format!("expected `DO` here, before {}", cursor.found());
        let span = cursor.last_span();
        cursor.problem(Diagnostic::error(codes::EXPECTED, Span { start: span.end, ..span }, message));
    }
    let body = list(cursor, &["END_FOR"]);
    end(cursor, "END_FOR", opened, "FOR")?;
    Ok(StmtKind::For(Box::new(ForHead { var, from, to, by }), body))
}

fn while_loop(cursor: &mut Cursor<'_>) -> Read<StmtKind> {
    let opened = cursor.bump().span;
    let condition = condition(cursor, "DO");
    let body = list(cursor, &["END_WHILE"]);
    end(cursor, "END_WHILE", opened, "WHILE")?;
    Ok(StmtKind::While(condition, body))
}

fn repeat_loop(cursor: &mut Cursor<'_>) -> Read<StmtKind> {
    let opened = cursor.bump().span;
    let body = list(cursor, &["UNTIL"]);
    end(cursor, "UNTIL", opened, "REPEAT")?;
    let condition = expr::read(cursor)?;
    cursor.eat(Tok::Semicolon);
    end(cursor, "END_REPEAT", opened, "REPEAT")?;
    Ok(StmtKind::Repeat(body, condition))
}
