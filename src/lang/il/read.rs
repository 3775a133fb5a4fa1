//! Reading instructions: one a line, with its label, operator, operands and comments.

use super::words::{Word, is_operator, is_pin, last_results, word};
use crate::lang::bodies::UNIT_ENDS;
use crate::lang::cursor::{Cursor, Read, Stop};
use crate::lang::expr;
use crate::lang::token::Tok;
use crate::model::ops::BinaryOp;
use crate::model::sheet::{Holds, Routines, Separator, Sheet};
use crate::model::{Arg, Body, Call, Expr, ExprKind, FunctionForm, Instr, InstrKind, Name, Operand, When};
use crate::source::{Diagnostic, Span, codes};
use std::collections::{HashMap, HashSet};

/// Reads the instructions of a unit and its end word; all there are if that is empty.
pub(crate) fn body(cursor: &mut Cursor<'_>, end: &str) -> Body {
    let mut all = Vec::new();
    loop {
        list(cursor, &mut all);
        if cursor.eat_word(end) || (end.is_empty() && cursor.is_end()) {
            break;
        }
        let span = cursor.span();
        let message = format!("expected an instruction or `{end}`, found {}", cursor.found());
        cursor.problem(Diagnostic::error(codes::EXPECTED, span, message));
        if cursor.is_end() || cursor.at_any(UNIT_ENDS) {
            cursor.eat(Tok::Word);
            break;
        }
        cursor.bump();
    }
    label_steps(cursor, &mut all);
    Body::Instructions(all)
}

/// Instructions whose step number a jump names get a label; steps of other units stand at other places.
fn label_steps(cursor: &Cursor<'_>, list: &mut [Instr]) {
    if cursor.steps.is_empty() {
        return;
    }
    let jumps = list.iter().filter_map(|i| if let InstrKind::Jump(_, label) = &i.kind { Some(label) } else { None });
    let targets: HashSet<String> = jumps.map(|label| label.text.clone()).collect();
    let numbers: HashMap<u32, &String> =
        cursor.steps.iter().map(|(token, number)| (cursor.token_at(*token).span.start, number)).collect();
    for instr in list.iter_mut().filter(|i| i.label.is_none()) {
        let Some(number) = numbers.get(&instr.span.start) else { continue };
        let label = step_label(number);
        if targets.contains(&label) {
            instr.label = Some(Name { text: label, span: Span { end: instr.span.start, ..instr.span } });
        }
    }
}

fn step_label(number: &str) -> String {
    format!("Step_{number}")
}

/// Reads instructions until `)` or the end of the unit.
fn list(cursor: &mut Cursor<'_>, out: &mut Vec<Instr>) {
    loop {
        if cursor.is_end() || cursor.kind() == Tok::Close || cursor.at_any(UNIT_ENDS) {
            let notes = cursor.leading();
            if !notes.leading.is_empty() {
                let span = cursor.span();
                let span = Span { end: span.start, ..span };
                out.push(Instr { label: None, kind: InstrKind::Empty, span, notes });
            }
            return;
        }
        let before = cursor.at;
        match instruction(cursor) {
            Ok(instruction) => out.push(instruction),
            Err(_) => recover(cursor, before),
        }
    }
}

/// Skips to the next line that does not begin with a parenthesis.
fn recover(cursor: &mut Cursor<'_>, before: usize) {
    if cursor.at == before {
        cursor.bump();
    }
    while !cursor.is_end() && !cursor.at_any(UNIT_ENDS) {
        let token = cursor.token();
        if token.first_on_line && token.kind != Tok::Close {
            return;
        }
        cursor.bump();
    }
}

fn instruction(cursor: &mut Cursor<'_>) -> Read<Instr> {
    let mut notes = cursor.leading();
    let start = cursor.span();
    let label = if cursor.kind() == Tok::Word && cursor.ahead(1).kind == Tok::Colon {
        let name = cursor.name_here();
        cursor.bump();
        Some(name)
    } else {
        None
    };
    let alone = label.is_some() && (cursor.token().first_on_line || cursor.is_end());
    let kind = if alone { InstrKind::Empty } else { cursor.nested(operation)? };
    if label.is_none() && cursor.eat(Tok::Semicolon) {
        let span = cursor.last_span();
        cursor.problem(Diagnostic::error(codes::EXPECTED, span, "instructions end with their line, not with `;`"));
    }
    let span = start.to(cursor.last_span());
    cursor.finish(&mut notes);
    if !ends_line(cursor) {
        let message = format!("one instruction a line: expected the end of the line, found {}", cursor.found());
        let span = cursor.span();
        return cursor.stop(codes::EXPECTED, span, message);
    }
    Ok(Instr { label, kind, span, notes })
}

fn operation(cursor: &mut Cursor<'_>) -> Read<InstrKind> {
    if cursor.kind() == Tok::Ampersand {
        let and = cursor.bump();
        // `&N` is ANDN; the N belongs to the operator only where it touches it.
        let negated = cursor.at_word("N") && cursor.span().start == and.span.end;
        if negated {
            cursor.bump();
        }
        return operator(cursor, BinaryOp::And, negated);
    }
    if cursor.kind() != Tok::Word {
        return cursor.stop_expected("an instruction");
    }
    if let Some(sheet) = cursor.sheet {
        return worded(cursor, sheet);
    }
    standard(cursor)
}

/// An instruction in the words of a sheet.
fn worded(cursor: &mut Cursor<'_>, sheet: &Sheet) -> Read<InstrKind> {
    let text = cursor.text().to_string();
    if sheet.scan.end.as_ref().is_some_and(|end| end.eq_ignore_ascii_case(&text)) {
        cursor.bump();
        return Ok(InstrKind::Return(When::Always));
    }
    if let Some(routines) = &sheet.routines
        && let Some(kind) = routine(cursor, routines, sheet.listing.operands)?
    {
        return Ok(kind);
    }
    if sheet.is_device_word(&text) && drives_device(cursor, sheet) {
        let word = cursor.name_here();
        let device = variable(cursor)?;
        let mut operands = vec![device];
        while cursor.eat(Tok::Comma) || (parted_by_blanks(cursor) && !ends_line(cursor)) {
            operands.push(expr::simple(cursor)?);
        }
        return Ok(InstrKind::Worded { word, operands, apart: sheet.listing.operands, list: None });
    }
    match sheet.word(&text).map(str::to_string) {
        Some(meaning) if last_results(&meaning).is_some() => {
            let word = cursor.name_here();
            Ok(InstrKind::Worded { word, operands: Vec::new(), apart: sheet.listing.operands, list: None })
        }
        Some(meaning) => match word(&meaning) {
            Some(word) => {
                cursor.bump();
                with_operands(cursor, word)
            }
            None => {
                let mut kind = function(cursor)?;
                if let InstrKind::Function(call, _) = &mut kind {
                    let span = call.callee.span;
                    call.callee.kind = ExprKind::Name(Name { text: meaning, span });
                }
                Ok(kind)
            }
        },
        // What a sheet has no word of its own for is said in the standard's.
        None if sheet.word_for(&text).is_none() => standard(cursor),
        None if word(&text).is_some() => {
            let span = cursor.span();
            let mut problem =
                Diagnostic::error(codes::DIALECT, span, format!("`{text}` is no word of the lists of {}", sheet.name));
            problem.help = sheet.word_for(&text).map(|own| format!("they say `{own}`"));
            cursor.problem(problem);
            Err(Stop)
        }
        None => function(cursor),
    }
}

/// The beginning or end of a routine, or a call of one.
fn routine(cursor: &mut Cursor<'_>, routines: &Routines, apart: Separator) -> Read<Option<InstrKind>> {
    let text = cursor.text();
    if routines.end.eq_ignore_ascii_case(text) {
        return Ok(Some(InstrKind::Worded { word: cursor.name_here(), operands: Vec::new(), apart, list: None }));
    }
    let when = routines.calls(text);
    if when.is_none() && !routines.begin.eq_ignore_ascii_case(text) {
        return Ok(None);
    }
    let word = cursor.name_here();
    same_line(cursor, "a routine")?;
    if !matches!(cursor.kind(), Tok::Word | Tok::Int) {
        return cursor.stop_expected("a routine's name or number");
    }
    let said = cursor.name_here();
    let name = |text: String| Expr { span: said.span, kind: ExprKind::Name(Name { text, span: said.span }) };
    let block = Routines::block(&said.text);
    Ok(Some(match when {
        None => InstrKind::Worded { word, operands: vec![name(block)], apart, list: None },
        Some(when) => {
            let callee = name(Routines::instance(&block));
            InstrKind::Call(when, Call { callee, args: Vec::new(), span: said.span })
        }
    }))
}

/// True if a device, or something with values behind it, follows the word here.
fn drives_device(cursor: &Cursor<'_>, sheet: &Sheet) -> bool {
    let next = cursor.ahead(1);
    if next.first_on_line {
        return false;
    }
    let only_for_devices = sheet.word(cursor.text()).is_none() && word(cursor.text()).is_none();
    let area = sheet.locate(cursor.slice(next.span)).ok().map(|(area, _)| sheet.areas[area].holds);
    let third = cursor.ahead(2);
    let more = third.kind == Tok::Comma || (parted_by_blanks(cursor) && !third.first_on_line && third.kind != Tok::End);
    only_for_devices || area == Some(Holds::Device) || more
}

fn parted_by_blanks(cursor: &Cursor<'_>) -> bool {
    cursor.sheet.is_some_and(|sheet| sheet.listing.operands == Separator::Blank)
}

fn ends_line(cursor: &Cursor<'_>) -> bool {
    cursor.token().first_on_line || cursor.is_end() || cursor.kind() == Tok::Close
}

fn standard(cursor: &mut Cursor<'_>) -> Read<InstrKind> {
    let text = cursor.text();
    if let Some(word) = word(text) {
        let formal = matches!(word, Word::Op(..) | Word::Not) && is_formal(cursor);
        if !formal {
            cursor.bump();
            return with_operands(cursor, word);
        }
    }
    if is_pin(text) && cursor.ahead(1).kind == Tok::Word && !cursor.ahead(1).first_on_line {
        let pin = cursor.name_here();
        return Ok(InstrKind::Pin(pin, expr::variable(cursor)?));
    }
    function(cursor)
}

/// `ADD(IN1 := a, IN2 := b)`: a function call with the name of an operator.
fn is_formal(cursor: &Cursor<'_>) -> bool {
    cursor.ahead(1).kind == Tok::Open && cursor.ahead(2).kind == Tok::Word && cursor.ahead(3).kind == Tok::Assign
}

fn with_operands(cursor: &mut Cursor<'_>, word: Word) -> Read<InstrKind> {
    Ok(match word {
        Word::Load(negated) => InstrKind::Load(negated, operand(cursor)?),
        Word::Store(negated) => InstrKind::Store(negated, variable(cursor)?),
        Word::Set => InstrKind::Set(variable(cursor)?),
        Word::Reset => InstrKind::Reset(variable(cursor)?),
        Word::Not => InstrKind::Not,
        Word::Op(op, negated) => return operator(cursor, op, negated),
        Word::Jump(when) => InstrKind::Jump(when, label(cursor)?),
        Word::Return(when) => InstrKind::Return(when),
        Word::Call(when) => {
            let callee = variable(cursor)?;
            let args = if cursor.kind() == Tok::Open { expr::arguments(cursor, &mut value)? } else { Vec::new() };
            let span = callee.span.to(cursor.last_span());
            InstrKind::Call(when, Call { callee, args, span })
        }
    })
}

fn label(cursor: &mut Cursor<'_>) -> Read<Name> {
    same_line(cursor, "a label")?;
    if cursor.kind() == Tok::Int && cursor.sheet.is_some_and(|s| s.listing.step_numbers) {
        let name = cursor.name_here();
        return Ok(Name { text: step_label(name.text.trim_start_matches('0')), ..name });
    }
    if cursor.kind() != Tok::Word {
        return cursor.stop_expected("a label");
    }
    Ok(cursor.name_here())
}

fn same_line(cursor: &mut Cursor<'_>, what: &str) -> Read<()> {
    if !cursor.token().first_on_line {
        return Ok(());
    }
    let span = cursor.last_span();
    let message = format!("expected {what} behind `{}` on the same line", cursor.slice(span));
    cursor.stop(codes::EXPECTED, span, message)
}

fn operand(cursor: &mut Cursor<'_>) -> Read<Expr> {
    same_line(cursor, "a value")?;
    expr::simple(cursor)
}

fn variable(cursor: &mut Cursor<'_>) -> Read<Expr> {
    same_line(cursor, "a variable")?;
    expr::variable(cursor)
}

/// What stands behind AND, ADD, GT and so on: an operand, or a parenthesis.
fn operator(cursor: &mut Cursor<'_>, op: BinaryOp, negated: bool) -> Read<InstrKind> {
    same_line(cursor, "a value or `(`")?;
    if cursor.kind() != Tok::Open {
        return Ok(InstrKind::Op(op, negated, Operand::Expr(expr::simple(cursor)?)));
    }
    Ok(InstrKind::Op(op, negated, Operand::List(parenthesis(cursor)?)))
}

/// `( a` or `(`, then instructions, then `)`. The short form loads its operand.
fn parenthesis(cursor: &mut Cursor<'_>) -> Read<Vec<Instr>> {
    let opened = cursor.bump().span;
    let mut inner = Vec::new();
    if !cursor.token().first_on_line && (cursor.kind() != Tok::Word || !is_operator(cursor.text()) || short(cursor)) {
        let mut notes = cursor.leading();
        let start = cursor.span();
        let value = expr::simple(cursor)?;
        cursor.finish(&mut notes);
        inner.push(Instr { label: None, kind: InstrKind::Load(false, value), span: start, notes });
    }
    cursor.nested(|cursor| {
        list(cursor, &mut inner);
        Ok(())
    })?;
    if cursor.eat(Tok::Close) {
        return Ok(inner);
    }
    let span = cursor.span();
    let message = format!("expected `)`, found {}", cursor.found());
    cursor.problem(
        Diagnostic::error(codes::EXPECTED, span, message).related(opened, "this parenthesis is open".to_string()),
    );
    Err(Stop)
}

/// `AND( S` with a variable named like an operator: its line ends right behind it.
fn short(cursor: &Cursor<'_>) -> bool {
    cursor.ahead(1).first_on_line || matches!(cursor.ahead(1).kind, Tok::Close | Tok::Dot)
}

/// The value of a formal argument: an operand or a parenthesised list.
fn value(cursor: &mut Cursor<'_>) -> Read<Operand> {
    if cursor.kind() == Tok::Open {
        return Ok(Operand::List(parenthesis(cursor)?));
    }
    Ok(Operand::Expr(expr::simple(cursor)?))
}

/// `SEL a, b` on the current result, or `SEL(G := a, ...)` with all its arguments.
fn function(cursor: &mut Cursor<'_>) -> Read<InstrKind> {
    let name = cursor.name_here();
    let start = name.span;
    let callee = Expr { span: name.span, kind: ExprKind::Name(name) };
    if cursor.kind() == Tok::Open && !cursor.token().first_on_line {
        let args = expr::arguments(cursor, &mut value)?;
        let call = Call { callee, args, span: start.to(cursor.last_span()) };
        return Ok(InstrKind::Function(call, FunctionForm::Formal));
    }
    let mut args = Vec::new();
    while !cursor.token().first_on_line && !cursor.is_end() && cursor.kind() != Tok::Close {
        args.push(Arg::Plain(Operand::Expr(expr::simple(cursor)?)));
        if !cursor.eat(Tok::Comma) && !parted_by_blanks(cursor) {
            break;
        }
    }
    let call = Call { callee, args, span: start.to(cursor.last_span()) };
    Ok(InstrKind::Function(call, FunctionForm::CurrentResult))
}
