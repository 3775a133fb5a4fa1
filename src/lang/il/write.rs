//! Writing instructions in columns: label, operator, operands.

use super::words::suffix;
use crate::lang::st::expression;
use crate::lang::written::{end_line, leading};
use crate::model::{Arg, Call, FunctionForm, Instr, InstrKind, Operand};

const STEP: usize = 4;

/// Writes a list of instructions.
pub(crate) fn instructions(out: &mut String, list: &[Instr], level: usize) {
    for (index, instr) in list.iter().enumerate() {
        let mut notes = instr.notes.clone();
        notes.blank_before &= index > 0;
        leading(out, &notes, &" ".repeat(level * STEP));
        if let Some(label) = &instr.label {
            out.push_str(&format!("{}:", label.text));
            if matches!(instr.kind, InstrKind::Empty) {
                end_line(out, &notes);
                continue;
            }
            out.push('\n');
        }
        let before = out.len();
        operation(out, &instr.kind, level);
        if out.len() > before {
            end_line(out, &notes);
        }
    }
}

fn line(out: &mut String, level: usize, word: &str, operand: &str) {
    let pad = " ".repeat(level * STEP);
    if operand.is_empty() {
        out.push_str(&format!("{pad}{word}"));
    } else {
        out.push_str(&format!("{pad}{word:<7} {operand}"));
    }
}

fn operation(out: &mut String, kind: &InstrKind, level: usize) {
    match kind {
        InstrKind::Empty => {}
        InstrKind::Load(negated, value) => line(out, level, if *negated { "LDN" } else { "LD" }, &expression(value)),
        InstrKind::Store(negated, to) => line(out, level, if *negated { "STN" } else { "ST" }, &expression(to)),
        InstrKind::Set(to) => line(out, level, "S", &expression(to)),
        InstrKind::Reset(to) => line(out, level, "R", &expression(to)),
        InstrKind::Not => line(out, level, "NOT", ""),
        InstrKind::Op(op, negated, value) => {
            let word = format!("{}{}", op.function(), if *negated { "N" } else { "" });
            match value {
                Operand::Expr(value) => line(out, level, &word, &expression(value)),
                Operand::List(list) => parenthesis(out, list, level, &format!("{word}(")),
            }
        }
        InstrKind::Jump(when, label) => line(out, level, &format!("JMP{}", suffix(*when)), &label.text),
        InstrKind::Return(when) => line(out, level, &format!("RET{}", suffix(*when)), ""),
        InstrKind::Call(when, c) => {
            let word = format!("CAL{}", suffix(*when));
            if c.args.is_empty() {
                line(out, level, &word, &expression(&c.callee));
            } else {
                line(out, level, &word, &format!("{}(", expression(&c.callee)));
                arguments(out, c, level);
            }
        }
        InstrKind::Function(c, FunctionForm::Formal) => {
            line(out, level, &format!("{}(", expression(&c.callee)), "");
            arguments(out, c, level);
        }
        InstrKind::Function(c, FunctionForm::CurrentResult) => {
            let args: Vec<String> = c
                .args
                .iter()
                .map(|arg| if let Arg::Plain(Operand::Expr(value)) = arg { expression(value) } else { String::new() })
                .collect();
            line(out, level, &expression(&c.callee), &args.join(", "));
        }
        InstrKind::Worded { word, operands, apart, list } => {
            let operands: Vec<String> = operands.iter().map(expression).collect();
            match list {
                Some(list) => parenthesis(out, list, level, &format!("{}(", word.text)),
                None => line(out, level, &word.text, &operands.join(apart.text())),
            }
        }
        InstrKind::Pin(pin, instance) => line(out, level, &pin.text, &expression(instance)),
    }
}

/// `AND( a` with the rest below, then the closing parenthesis. The first load is written behind the opening one
/// where it is a plain one.
fn parenthesis(out: &mut String, list: &[Instr], level: usize, opening: &str) {
    let short = match list.first() {
        Some(Instr { kind: InstrKind::Load(false, value), label: None, notes, .. })
            if notes.leading.is_empty() && !is_word_of_list(value) =>
        {
            Some((value, notes))
        }
        _ => None,
    };
    match short {
        Some((value, notes)) => {
            line(out, level, opening, &expression(value));
            end_line(out, notes);
            instructions(out, &list[1..], level + 1);
        }
        None => {
            line(out, level, opening, "");
            out.push('\n');
            instructions(out, list, level + 1);
        }
    }
    line(out, level, ")", "");
}

/// A variable named like an operator is loaded in full, so that nobody (and no reader) mistakes it for one.
fn is_word_of_list(value: &crate::model::Expr) -> bool {
    super::is_operator(&expression(value))
}

/// Arguments longer than this stand on lines of their own.
const ONE_LINE: usize = 40;

fn arguments(out: &mut String, call: &Call, level: usize) {
    let short: Option<Vec<String>> = call.args.iter().map(short_argument).collect();
    if let Some(list) = short.map(|s| s.join(", ")).filter(|l| l.len() <= ONE_LINE) {
        out.push_str(&format!("{list})"));
        return;
    }
    out.push('\n');
    let pad = " ".repeat((level + 1) * STEP);
    for (index, arg) in call.args.iter().enumerate() {
        match arg {
            Arg::Plain(Operand::Expr(value)) => out.push_str(&format!("{pad}{}", expression(value))),
            Arg::Plain(Operand::List(list)) => {
                out.push_str(&pad);
                nested(out, list, level + 1);
            }
            Arg::Input(name, Operand::Expr(value)) => {
                out.push_str(&format!("{pad}{} := {}", name.text, expression(value)))
            }
            Arg::Input(name, Operand::List(list)) => {
                out.push_str(&format!("{pad}{} := ", name.text));
                nested(out, list, level + 1);
            }
            Arg::Output { name, negated, target } => {
                let not = if *negated { "NOT " } else { "" };
                out.push_str(&format!("{pad}{not}{} => {}", name.text, expression(target)));
            }
        }
        out.push_str(if index + 1 < call.args.len() { ",\n" } else { "\n" });
    }
    line(out, level, ")", "");
}

/// An argument that is no list.
fn short_argument(arg: &Arg) -> Option<String> {
    match arg {
        Arg::Plain(Operand::Expr(value)) => Some(expression(value)),
        Arg::Input(name, Operand::Expr(value)) => Some(format!("{} := {}", name.text, expression(value))),
        Arg::Output { name, negated, target } => {
            Some(format!("{}{} => {}", if *negated { "NOT " } else { "" }, name.text, expression(target)))
        }
        Arg::Plain(Operand::List(_)) | Arg::Input(_, Operand::List(_)) => None,
    }
}

fn nested(out: &mut String, list: &[Instr], level: usize) {
    out.push_str("(\n");
    instructions(out, list, level + 1);
    line(out, level, ")", "");
}
