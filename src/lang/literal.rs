//! Literals: numbers of every base, durations in every form, strings, and types in front of them.
#![allow(clippy::wildcard_enum_match_arm, reason = "there are many tokens; one that is not wanted is an error")]

use super::cursor::{Cursor, Read};
use super::token::Tok;
use crate::model::{Literal, LiteralValue, Name};
use crate::source::{Diagnostic, Span, codes};

/// True if a literal begins here (a sign belongs to an expression, not to a literal).
pub(super) fn begins(cursor: &Cursor<'_>) -> bool {
    matches!(cursor.kind(), Tok::Int | Tok::Based | Tok::Real | Tok::Text | Tok::Duration | Tok::Constant)
        || cursor.at_any(&["TRUE", "FALSE"])
        || cursor.kind() == Tok::Prefix
}

/// Reads a literal; `INT#-5` and `BOOL#TRUE` included. An enumeration value (`Mode#Auto`) also comes back as a
/// typed literal, with the value's name as text.
pub(super) fn read(cursor: &mut Cursor<'_>) -> Read<Literal> {
    if cursor.kind() == Tok::Constant {
        return Ok(constant(cursor));
    }
    let start = cursor.span();
    let typed = (cursor.kind() == Tok::Prefix).then(|| {
        let span = cursor.bump().span;
        Name { text: cursor.slice(span).trim_end_matches('#').to_string(), span }
    });
    let negative = typed.is_some() && cursor.kind() == Tok::Minus;
    if negative || (typed.is_some() && cursor.kind() == Tok::Plus) {
        cursor.bump();
    }
    let token = cursor.token();
    let text = cursor.slice(token.span);
    let value = match token.kind {
        Tok::Int | Tok::Based | Tok::Real if loose_underscore(text) => {
            Err("an underscore stands between two digits".to_string())
        }
        Tok::Int => integer(text, 10),
        Tok::Based => based(text),
        Tok::Real => real(text),
        Tok::Duration => duration(text),
        Tok::Text => string(&text[1..text.len() - 1]),
        Tok::Word if text.eq_ignore_ascii_case("TRUE") => Ok(LiteralValue::Bool(true)),
        Tok::Word if text.eq_ignore_ascii_case("FALSE") => Ok(LiteralValue::Bool(false)),
        Tok::Word if typed.is_some() && !negative => Ok(LiteralValue::Text(text.to_string())),
        _ => return cursor.stop_expected("a literal behind the type"),
    };
    cursor.bump();
    let span = start.to(token.span);
    let value = match value {
        Ok(value) => sign(negative, value),
        Err(why) => {
            cursor.problem(Diagnostic::error(codes::LITERAL, span, why));
            // Stands for what was meant, so that its place finds no fault with its type.
            match token.kind {
                Tok::Duration => LiteralValue::Time(0, false),
                Tok::Real => LiteralValue::Real(0.0),
                Tok::Text => LiteralValue::Text(String::new()),
                _ => LiteralValue::Int(0),
            }
        }
    };
    Ok(Literal { text: cursor.slice(span).to_string(), typed, value })
}

/// A number as the lists of a sheet write it; its text becomes the standard's.
fn constant(cursor: &mut Cursor<'_>) -> Literal {
    let span = cursor.bump().span;
    let text = cursor.slice(span);
    let found = cursor.sheet.and_then(|sheet| sheet.listing.constant_at(text));
    let (digits, radix, negative) =
        found.map_or((text, 10, false), |c| (&text[c.start..c.length], c.radix, c.negative));
    let value = match integer(digits, radix) {
        Ok(value) => sign(negative, value),
        Err(why) => {
            cursor.problem(Diagnostic::error(codes::LITERAL, span, why));
            LiteralValue::Int(0)
        }
    };
    let minus = if negative { "-" } else { "" };
    let base = if radix == 10 { String::new() } else { format!("{radix}#") };
    let digits = digits.trim_start_matches('0');
    let digits = if digits.is_empty() { "0" } else { digits };
    Literal { text: format!("{minus}{base}{}", digits.to_uppercase()), typed: None, value }
}

fn sign(negative: bool, value: LiteralValue) -> LiteralValue {
    match value {
        LiteralValue::Int(i) if negative => LiteralValue::Int(-i),
        LiteralValue::Real(r) if negative => LiteralValue::Real(-r),
        other @ (LiteralValue::Bool(_)
        | LiteralValue::Int(_)
        | LiteralValue::Real(_)
        | LiteralValue::Time(..)
        | LiteralValue::Text(_)) => other,
    }
}

type Value = Result<LiteralValue, String>;

/// An underscore with no digit on one of its sides.
fn loose_underscore(number: &str) -> bool {
    number.split('_').count() > 1
        && number.split('_').any(|part| {
            let digit = |c: Option<char>| c.is_some_and(|c| c.is_ascii_alphanumeric());
            !digit(part.chars().next()) || !digit(part.chars().last())
        })
}

fn integer(text: &str, radix: u32) -> Value {
    let digits: String = text.chars().filter(|c| *c != '_').collect();
    match u64::from_str_radix(&digits, radix) {
        Ok(number) => Ok(LiteralValue::Int(i128::from(number))),
        Err(_) if digits.chars().all(|c| c.is_digit(radix)) => {
            Err("this number is larger than any type holds (64 bits)".to_string())
        }
        Err(_) => {
            let bad = digits.chars().find(|c| !c.is_digit(radix)).unwrap_or(' ');
            Err(format!("{bad} is not a digit of base {radix}"))
        }
    }
}

fn based(text: &str) -> Value {
    let (base, digits) = text.split_once('#').unwrap_or(("10", text));
    match base.replace('_', "").as_str() {
        "2" => integer(digits, 2),
        "8" => integer(digits, 8),
        "16" => integer(digits, 16),
        other => Err(format!("the base of a number is 2, 8 or 16, not {other}")),
    }
}

fn real(text: &str) -> Value {
    match text.replace('_', "").parse::<f64>() {
        Ok(number) if number.is_finite() => Ok(LiteralValue::Real(number)),
        _ => Err("this number is larger than LREAL holds".to_string()),
    }
}

/// `T#1d2h3m4s5ms6us7ns`, units falling, the last one with a fraction if wanted; underscores anywhere.
fn duration(text: &str) -> Value {
    let (prefix, body) = text.split_once('#').unwrap_or(("T", text));
    let long = prefix.to_ascii_uppercase().starts_with('L');
    let body = body.replace('_', "").to_ascii_lowercase();
    let (negative, mut rest) = match body.strip_prefix('-') {
        Some(rest) => (true, rest),
        None => (false, body.strip_prefix('+').unwrap_or(&body)),
    };
    let mut total: i128 = 0;
    let mut previous = i128::MAX;
    while !rest.is_empty() {
        let end = rest.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(rest.len());
        let (number, tail) = rest.split_at(end);
        let end = tail.find(|c: char| c.is_ascii_digit() || c == '.').unwrap_or(tail.len());
        let (unit, tail) = tail.split_at(end);
        let size: i128 = match unit {
            "d" => 86_400_000_000_000,
            "h" => 3_600_000_000_000,
            "m" => 60_000_000_000,
            "s" => 1_000_000_000,
            "ms" => 1_000_000,
            "us" => 1_000,
            "ns" => 1,
            "" => return Err("a duration needs a unit: d, h, m, s, ms, us or ns".to_string()),
            other => return Err(format!("`{other}` is not a unit of time; d, h, m, s, ms, us and ns are")),
        };
        if size >= previous {
            return Err("the units of a duration go from large to small, each once".to_string());
        }
        previous = size;
        total += scaled(number, size, !tail.is_empty())?;
        rest = tail;
    }
    let total = if negative { -total } else { total };
    match i64::try_from(total) {
        Ok(nanos) => Ok(LiteralValue::Time(nanos, long)),
        Err(_) => Err("this duration is longer than TIME holds (about 292 years)".to_string()),
    }
}

/// What is wrong with a duration, in a sentence.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct DurationError(String);

/// Reads a duration written without its prefix: `10ms`, `1m30s`, `2.5s`.
///
/// # Errors
/// If it is none, or longer than a TIME.
pub fn read_duration(text: &str) -> Result<crate::model::Duration, DurationError> {
    match duration(&format!("T#{text}")).map_err(DurationError)? {
        LiteralValue::Time(nanos, _) if !text.is_empty() => Ok(crate::model::Duration::from_nanos(nanos)),
        LiteralValue::Bool(_)
        | LiteralValue::Int(_)
        | LiteralValue::Real(_)
        | LiteralValue::Time(..)
        | LiteralValue::Text(_) => Err(DurationError("a duration is a number with a unit, such as 10ms".to_string())),
    }
}

/// A decimal number times a unit, exactly, in nanoseconds.
fn scaled(number: &str, size: i128, more: bool) -> Result<i128, String> {
    let too_long = || "this duration is longer than TIME holds (about 292 years)".to_string();
    let (whole, fraction) = number.split_once('.').unwrap_or((number, ""));
    if !fraction.is_empty() && more {
        return Err("only the last unit of a duration may have a fraction".to_string());
    }
    if whole.is_empty() || fraction.contains('.') || number.ends_with('.') {
        return Err(format!("`{number}` is not a number"));
    }
    let whole: u64 = whole.parse().map_err(|_| too_long())?;
    let mut total = i128::from(whole).checked_mul(size).ok_or_else(too_long)?;
    let mut unit = size;
    for digit in fraction.chars() {
        let part = unit * i128::from(digit.to_digit(10).unwrap_or(0));
        if part % 10 != 0 {
            return Err("this duration is finer than a nanosecond".to_string());
        }
        total += part / 10;
        // Digits past the nanosecond can only be zeros.
        if unit % 10 == 0 {
            unit /= 10;
        } else if digit != '0' {
            return Err("this duration is finer than a nanosecond".to_string());
        }
    }
    Ok(total)
}

/// `$$ $' $L $N $P $R $T` and `$hh`.
fn string(body: &str) -> Value {
    let mut out = String::new();
    let mut chars = body.chars();
    while let Some(c) = chars.next() {
        if c != '$' {
            out.push(c);
            continue;
        }
        match chars.next().map(|c| c.to_ascii_uppercase()) {
            Some('$') => out.push('$'),
            Some('\'') => out.push('\''),
            Some('L' | 'N') => out.push('\n'),
            Some('P') => out.push('\u{c}'),
            Some('R') => out.push('\r'),
            Some('T') => out.push('\t'),
            Some(high) if high.is_ascii_hexdigit() => {
                let low = chars.next().and_then(|c| c.to_digit(16));
                let code = high.to_digit(16).zip(low).map(|(h, l)| h * 16 + l);
                match code.and_then(char::from_u32) {
                    Some(c) => out.push(c),
                    None => return Err("`$` needs two hexadecimal digits behind it".to_string()),
                }
            }
            _ => return Err("behind `$` stands $, ', L, N, P, R, T or two hexadecimal digits".to_string()),
        }
    }
    Ok(LiteralValue::Text(out))
}

/// An expression that is a literal with a place.
pub(super) fn placed(cursor: &mut Cursor<'_>) -> Read<(Literal, Span)> {
    let start = cursor.span();
    let literal = read(cursor)?;
    Ok((literal, start.to(cursor.last_span())))
}
