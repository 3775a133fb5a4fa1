//! Reading types and initial values.

use crate::lang::cursor::{Cursor, Read};
use crate::lang::expr;
use crate::lang::token::Tok;
use crate::model::{Elem, Expr, ExprKind, Init, LiteralValue, Name, Notes, TypeDecl, TypeSpec};
use crate::source::codes;

/// Reads the type behind a colon.
pub(in crate::lang) fn spec(cursor: &mut Cursor<'_>) -> Read<TypeSpec> {
    cursor.nested(spec_inner)
}

fn spec_inner(cursor: &mut Cursor<'_>) -> Read<TypeSpec> {
    let start = cursor.span();
    if cursor.eat_word("ARRAY") {
        return array(cursor);
    }
    if cursor.eat_word("STRUCT") {
        return structure(cursor);
    }
    if cursor.eat_word("STRING") {
        let length = if cursor.eat(Tok::OpenIndex) {
            let length = expr::read(cursor)?;
            cursor.expect(Tok::CloseIndex, "`]`")?;
            Some(Box::new(length))
        } else {
            None
        };
        return Ok(TypeSpec::String(length, start.to(cursor.last_span())));
    }
    if cursor.kind() == Tok::Open {
        return enumeration(cursor, None);
    }
    let Some(elem) = Elem::from_name(cursor.text()).filter(|_| cursor.kind() == Tok::Word) else {
        let word = cursor.text().to_ascii_uppercase();
        if matches!(
            word.as_str(),
            "WSTRING"
                | "DATE"
                | "TIME_OF_DAY"
                | "TOD"
                | "DATE_AND_TIME"
                | "DT"
                | "LDATE"
                | "POINTER"
                | "REF_TO"
                | "REFERENCE"
        ) {
            return cursor.stop(codes::UNSUPPORTED, start, format!("{word} is not supported"));
        }
        return Ok(TypeSpec::Named(cursor.name("a type")?));
    };
    cursor.bump();
    if cursor.kind() != Tok::Open {
        return Ok(TypeSpec::Elem(elem, start));
    }
    // `INT (0..9)` is a subrange, `INT (A := 1)` an enumeration with a base type.
    if cursor.ahead(1).kind == Tok::Word && !matches!(cursor.ahead(2).kind, Tok::Dots) {
        return enumeration(cursor, Some(elem));
    }
    cursor.bump();
    let low = expr::read(cursor)?;
    cursor.expect(Tok::Dots, "`..`")?;
    let high = expr::read(cursor)?;
    cursor.expect(Tok::Close, "`)`")?;
    Ok(TypeSpec::Range(elem, Box::new(low), Box::new(high), start.to(cursor.last_span())))
}

fn array(cursor: &mut Cursor<'_>) -> Read<TypeSpec> {
    let start = cursor.last_span();
    cursor.expect(Tok::OpenIndex, "`[`")?;
    let mut bounds = Vec::new();
    loop {
        let low = expr::read(cursor)?;
        cursor.expect(Tok::Dots, "`..`")?;
        bounds.push((low, expr::read(cursor)?));
        if !cursor.eat(Tok::Comma) {
            break;
        }
    }
    cursor.expect(Tok::CloseIndex, "`]`")?;
    cursor.expect_word("OF")?;
    let of = spec(cursor)?;
    Ok(TypeSpec::Array(bounds, Box::new(of), start.to(cursor.last_span())))
}

fn structure(cursor: &mut Cursor<'_>) -> Read<TypeSpec> {
    let start = cursor.last_span();
    let mut fields = Vec::new();
    while !cursor.at_word("END_STRUCT") {
        fields.push(super::read::var_decl(cursor)?);
    }
    cursor.bump();
    Ok(TypeSpec::Struct(fields, start.to(cursor.last_span())))
}

fn enumeration(cursor: &mut Cursor<'_>, base: Option<Elem>) -> Read<TypeSpec> {
    let start = cursor.expect(Tok::Open, "`(`")?.span;
    let mut values = Vec::new();
    loop {
        let name = cursor.name("a name for a value")?;
        let value = if cursor.eat(Tok::Assign) { Some(expr::read(cursor)?) } else { None };
        values.push((name, value));
        if !cursor.eat(Tok::Comma) {
            break;
        }
    }
    cursor.expect(Tok::Close, "`,` or `)`")?;
    Ok(TypeSpec::Enum(base, values, start.to(cursor.last_span())))
}

/// Reads one declaration of a TYPE section.
pub(super) fn type_decl(cursor: &mut Cursor<'_>) -> Read<TypeDecl> {
    let mut notes = cursor.leading();
    let name = cursor.name("a type's name")?;
    cursor.expect(Tok::Colon, "`:`")?;
    let spec = spec(cursor)?;
    let init = if cursor.eat(Tok::Assign) { Some(init(cursor)?) } else { None };
    cursor.want(Tok::Semicolon, "`;`");
    cursor.finish(&mut notes);
    Ok(TypeDecl { name, spec, init, notes, above: Notes::default() })
}

/// Reads an initial value.
pub(in crate::lang) fn init(cursor: &mut Cursor<'_>) -> Read<Init> {
    cursor.nested(init_inner)
}

fn init_inner(cursor: &mut Cursor<'_>) -> Read<Init> {
    let start = cursor.span();
    if cursor.eat(Tok::OpenIndex) {
        let mut values = Vec::new();
        while cursor.kind() != Tok::CloseIndex {
            values.push(repeated(cursor)?);
            if !cursor.eat(Tok::Comma) {
                break;
            }
        }
        cursor.expect(Tok::CloseIndex, "`,` or `]`")?;
        return Ok(Init::Array(values, start.to(cursor.last_span())));
    }
    let is_struct =
        cursor.kind() == Tok::Open && cursor.ahead(1).kind == Tok::Word && cursor.ahead(2).kind == Tok::Assign;
    if !is_struct {
        return Ok(Init::Expr(expr::read(cursor)?));
    }
    cursor.bump();
    let mut fields: Vec<(Name, Init)> = Vec::new();
    while cursor.kind() != Tok::Close {
        let name = cursor.name("a field's name")?;
        cursor.expect(Tok::Assign, "`:=`")?;
        fields.push((name, init(cursor)?));
        if !cursor.eat(Tok::Comma) {
            break;
        }
    }
    cursor.expect(Tok::Close, "`,` or `)`")?;
    Ok(Init::Struct(fields, start.to(cursor.last_span())))
}

/// `value` or `3(value)`; `3()` repeats the default, which is what is left out means too.
fn repeated(cursor: &mut Cursor<'_>) -> Read<(u32, Init)> {
    if !(cursor.kind() == Tok::Int && cursor.ahead(1).kind == Tok::Open) {
        return Ok((1, init(cursor)?));
    }
    let count: Expr = expr::literal_expr(cursor)?;
    let times = if let ExprKind::Literal(l) = &count.kind {
        if let LiteralValue::Int(n) = l.value { u32::try_from(n).ok().filter(|n| *n <= 1_000_000) } else { None }
    } else {
        None
    };
    let Some(times) = times else {
        return cursor.stop(codes::LIMIT, count.span, "a value is repeated at most 1000000 times");
    };
    cursor.expect(Tok::Open, "`(`")?;
    let value = init(cursor)?;
    cursor.expect(Tok::Close, "`)`")?;
    Ok((times, value))
}
