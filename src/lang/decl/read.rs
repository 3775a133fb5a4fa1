//! Reading a file: units, variables, types and configurations around bodies of one language.

use super::types::{init, spec, type_decl};
use crate::lang::cursor::{Cursor, Read};
use crate::lang::expr;
use crate::lang::token::Tok;
use crate::model::functions::Function;
use crate::model::{
    Body, CommentKind, Configuration, Edge, Head, Item, Name, Notes, ProgramDecl, Retain, Section, TaskDecl, Unit,
    UnitKind, VarDecl, VarSection,
};
use crate::source::{Diagnostic, Span, codes};

const BEGINNINGS: &[&str] = &["PROGRAM", "FUNCTION", "FUNCTION_BLOCK", "TYPE", "VAR_GLOBAL", "CONFIGURATION"];

/// Reads a body up to the given end word, and takes the end word.
pub(in crate::lang) type ReadBody = fn(&mut Cursor<'_>, &str) -> Body;

/// Reads a whole file; problems are left in the cursor.
pub(in crate::lang) fn file(cursor: &mut Cursor<'_>, body: ReadBody) -> Vec<Item> {
    let mut items = Vec::new();
    while !cursor.is_end() {
        let before = cursor.at;
        let read = match cursor.text().to_ascii_uppercase().as_str() {
            "TYPE" => types(cursor, &mut items),
            "VAR_GLOBAL" => section(cursor).map(|s| items.push(Item::Globals(s))),
            "CONFIGURATION" => configuration(cursor).map(|c| items.push(Item::Configuration(c))),
            "PROGRAM" => unit(cursor, UnitKind::Program, body).map(|u| items.push(Item::Unit(u))),
            "FUNCTION" => unit(cursor, UnitKind::Function, body).map(|u| items.push(Item::Unit(u))),
            "FUNCTION_BLOCK" => unit(cursor, UnitKind::FunctionBlock, body).map(|u| items.push(Item::Unit(u))),
            word @ ("CLASS" | "INTERFACE" | "NAMESPACE" | "USING") => {
                let span = cursor.span();
                cursor.stop(codes::UNSUPPORTED, span, format!("{word} is not supported"))
            }
            _ => {
                let span = cursor.span();
                let message = format!("{} stands outside every unit", cursor.found());
                cursor.problem(
                    Diagnostic::error(codes::STRAY, span, message)
                        .help("a file holds PROGRAM, FUNCTION, FUNCTION_BLOCK, TYPE, VAR_GLOBAL and CONFIGURATION"),
                );
                Err(crate::lang::cursor::Stop)
            }
        };
        if read.is_err() {
            if cursor.at == before {
                cursor.bump();
            }
            while !at_next_item(cursor) {
                cursor.bump();
            }
        }
    }
    items
}

/// Reads a text that is nothing but a body: a program that is called like its file.
pub(in crate::lang) fn fragment(cursor: &mut Cursor<'_>, file: &str, body: ReadBody) -> Unit {
    let stem = file.rsplit(['/', '\\']).next().unwrap_or(file).split('.').next().unwrap_or("");
    let mut text: String = stem.chars().map(|c| if c.is_alphanumeric() { c } else { '_' }).collect();
    let is_taken = crate::lang::cursor::is_reserved(&text) || Function::from_name(&text).is_some();
    if !text.starts_with(|c: char| c.is_alphabetic()) || is_taken {
        text.insert_str(0, "Program_");
    }
    // Of a drawing nothing is left here but its end.
    let start = if cursor.is_end() { 0 } else { cursor.span().start };
    let span = Span { start, end: start, ..cursor.span() };
    let notes = cursor.heading();
    let mut body = body(cursor, "");
    // What a text says of itself in braces is about all of it.
    let first = match &mut body {
        Body::Statements(list) => list.first_mut().map(|stmt| &mut stmt.notes),
        Body::Instructions(list) => list.first_mut().map(|instr| &mut instr.notes),
        Body::Ladder(list) | Body::Blocks(list) => list.first_mut().map(|network| &mut network.notes),
    };
    if let Some(first) = first {
        first.leading.retain(|c| c.kind != CommentKind::Pragma || !notes.leading.contains(c));
    }
    let (kind, name) = (UnitKind::Program, Name { text, span });
    Unit { kind, name, result: None, sections: Vec::new(), body, notes, head: Head::Missing }
}

/// True where reading can go on behind something that could not be read.
fn at_next_item(cursor: &Cursor<'_>) -> bool {
    cursor.is_end() || (cursor.token().first_on_line && cursor.at_any(BEGINNINGS))
}

fn types(cursor: &mut Cursor<'_>, items: &mut Vec<Item>) -> Read<()> {
    let above = cursor.leading();
    cursor.bump();
    let first = items.len();
    while !cursor.at_word("END_TYPE") {
        if cursor.is_end() {
            return cursor.stop_expected("`END_TYPE`");
        }
        items.push(Item::Type(type_decl(cursor)?));
    }
    cursor.bump();
    if let Some(Item::Type(decl)) = items.get_mut(first) {
        decl.above = above;
    }
    Ok(())
}

fn unit(cursor: &mut Cursor<'_>, kind: UnitKind, body: ReadBody) -> Read<Unit> {
    let mut notes = cursor.leading();
    cursor.bump();
    let name = cursor.name("a name for the unit")?;
    let result = if kind == UnitKind::Function && cursor.eat(Tok::Colon) { Some(spec(cursor)?) } else { None };
    cursor.eat(Tok::Semicolon);
    cursor.finish(&mut notes);
    let mut sections = Vec::new();
    while cursor.at_any(&["VAR", "VAR_INPUT", "VAR_OUTPUT", "VAR_IN_OUT", "VAR_TEMP", "VAR_EXTERNAL", "VAR_GLOBAL"]) {
        match section(cursor) {
            Ok(section) => sections.push(section),
            Err(_) => skip_section(cursor),
        }
    }
    let body = body(cursor, &format!("END_{}", kind.word()));
    Ok(Unit { kind, name, result, sections, body, notes, head: Head::Written })
}

fn skip_section(cursor: &mut Cursor<'_>) {
    while !at_next_item(cursor) {
        if cursor.eat_word("END_VAR") {
            return;
        }
        cursor.bump();
    }
}

fn section(cursor: &mut Cursor<'_>) -> Read<VarSection> {
    let mut notes = cursor.leading();
    let span = cursor.span();
    let section = match cursor.text().to_ascii_uppercase().as_str() {
        "VAR_INPUT" => Section::Input,
        "VAR_OUTPUT" => Section::Output,
        "VAR_IN_OUT" => Section::InOut,
        "VAR_TEMP" => Section::Temp,
        "VAR_EXTERNAL" => Section::External,
        "VAR_GLOBAL" => Section::Global,
        _ => Section::Local,
    };
    cursor.bump();
    let (mut retain, mut constant) = (Retain::Unsaid, false);
    loop {
        if cursor.eat_word("RETAIN") {
            retain = Retain::Retain;
        } else if cursor.eat_word("NON_RETAIN") {
            retain = Retain::NonRetain;
        } else if cursor.eat_word("CONSTANT") {
            constant = true;
        } else if !(cursor.eat_word("PUBLIC") || cursor.eat_word("PRIVATE") || cursor.eat_word("INTERNAL")) {
            break;
        }
    }
    cursor.finish(&mut notes);
    let mut vars = Vec::new();
    while !cursor.at_word("END_VAR") {
        if cursor.is_end() || cursor.at_any(BEGINNINGS) {
            return cursor.stop_expected("`END_VAR`");
        }
        match var_decl(cursor) {
            Ok(decl) => vars.push(decl),
            Err(_) => skip_decl(cursor),
        }
    }
    let tail = cursor.loose_comments();
    cursor.bump();
    cursor.eat(Tok::Semicolon);
    cursor.trailing(&mut notes);
    Ok(VarSection { section, retain, constant, vars, span, notes, tail })
}

/// A bad declaration is skipped to its semicolon, so that the next one is still read.
fn skip_decl(cursor: &mut Cursor<'_>) {
    while !cursor.is_end() && !cursor.at_word("END_VAR") && !cursor.at_any(BEGINNINGS) {
        if cursor.eat(Tok::Semicolon) {
            return;
        }
        cursor.bump();
    }
}

/// `a, b AT %IX0.0 : BOOL := TRUE;`
pub(super) fn var_decl(cursor: &mut Cursor<'_>) -> Read<VarDecl> {
    let mut notes = cursor.leading();
    let mut names = Vec::new();
    if !cursor.at_word("AT") {
        names.push(cursor.name("a variable's name")?);
        while cursor.eat(Tok::Comma) {
            names.push(cursor.name("a variable's name")?);
        }
    }
    let address = if cursor.eat_word("AT") {
        cursor.expect(Tok::Address, "an address such as %IX0.0")?;
        let span = cursor.last_span();
        Some(Name { text: cursor.slice(span).to_string(), span })
    } else {
        None
    };
    if names.is_empty() {
        // `AT %QX0.0 : BOOL;` has no name of its own; it is known by its address.
        names.extend(address.clone());
    }
    cursor.expect(Tok::Colon, "`:` and a type")?;
    let spec = spec(cursor)?;
    let edge = if cursor.eat_word("R_EDGE") {
        Some(Edge::Rising)
    } else if cursor.eat_word("F_EDGE") {
        Some(Edge::Falling)
    } else {
        None
    };
    let init = if cursor.eat(Tok::Assign) { Some(init(cursor)?) } else { None };
    cursor.want(Tok::Semicolon, "`;`");
    cursor.finish(&mut notes);
    Ok(VarDecl { names, address, edge, spec, init, notes })
}

fn configuration(cursor: &mut Cursor<'_>) -> Read<Configuration> {
    let notes = cursor.leading();
    cursor.bump();
    let name = cursor.name("a name for the configuration")?;
    let mut out =
        Configuration { name, resource: None, globals: Vec::new(), tasks: Vec::new(), programs: Vec::new(), notes };
    while !cursor.at_word("END_CONFIGURATION") {
        if cursor.at_word("VAR_GLOBAL") {
            out.globals.push(section(cursor)?);
        } else if cursor.at_word("TASK") {
            let task = task(cursor)?;
            out.tasks.push(task);
        } else if cursor.at_word("PROGRAM") {
            let program = program(cursor)?;
            out.programs.push(program);
        } else if cursor.at_word("RESOURCE") {
            let span = cursor.bump().span;
            let name = cursor.name("a name for the resource")?;
            cursor.expect_word("ON")?;
            let target = cursor.name("the kind of the resource")?;
            if out.resource.replace((name, target)).is_some() {
                return cursor.stop(codes::UNSUPPORTED, span, "more than one resource is not supported");
            }
        } else if cursor.at_word("END_RESOURCE") && out.resource.is_some() {
            cursor.bump();
        } else {
            return cursor.stop_expected("VAR_GLOBAL, RESOURCE, TASK, PROGRAM or END_CONFIGURATION");
        }
    }
    cursor.bump();
    Ok(out)
}

fn task(cursor: &mut Cursor<'_>) -> Read<TaskDecl> {
    let mut notes = cursor.leading();
    cursor.bump();
    let name = cursor.name("a name for the task")?;
    cursor.expect(Tok::Open, "`(`")?;
    let mut args = Vec::new();
    while cursor.kind() != Tok::Close {
        let parameter: Name = cursor.name("INTERVAL, SINGLE or PRIORITY")?;
        cursor.expect(Tok::Assign, "`:=`")?;
        args.push((parameter, expr::read(cursor)?));
        if !cursor.eat(Tok::Comma) {
            break;
        }
    }
    cursor.expect(Tok::Close, "`,` or `)`")?;
    cursor.want(Tok::Semicolon, "`;`");
    cursor.finish(&mut notes);
    Ok(TaskDecl { name, args, notes })
}

fn program(cursor: &mut Cursor<'_>) -> Read<ProgramDecl> {
    let mut notes: Notes = cursor.leading();
    cursor.bump();
    let name = cursor.name("a name for the program instance")?;
    let task = if cursor.eat_word("WITH") { Some(cursor.name("a task's name")?) } else { None };
    cursor.expect(Tok::Colon, "`:` and a program")?;
    let unit = cursor.name("a program's name")?;
    cursor.want(Tok::Semicolon, "`;`");
    cursor.finish(&mut notes);
    Ok(ProgramDecl { name, task, unit, notes })
}
