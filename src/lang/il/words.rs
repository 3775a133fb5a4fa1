//! The operators of instruction list and their modifiers.

use crate::model::When;
use crate::model::ops::BinaryOp;

/// An operator with its modifiers taken apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Word {
    Load(bool),
    Store(bool),
    Set,
    Reset,
    Not,
    Op(BinaryOp, bool),
    Jump(When),
    Call(When),
    Return(When),
}

/// Input operators of the standard blocks that are no other operator as well (S, R and LD are resolved by what
/// their operand is).
const PINS: &[&str] = &["IN", "PT", "CU", "CD", "PV", "CLK", "S1", "R1"];

const OPERATORS: &[(&str, BinaryOp, bool)] = &[
    ("AND", BinaryOp::And, true),
    ("OR", BinaryOp::Or, true),
    ("XOR", BinaryOp::Xor, true),
    ("ADD", BinaryOp::Add, false),
    ("SUB", BinaryOp::Sub, false),
    ("MUL", BinaryOp::Mul, false),
    ("DIV", BinaryOp::Div, false),
    ("MOD", BinaryOp::Mod, false),
    ("GT", BinaryOp::Gt, false),
    ("GE", BinaryOp::Ge, false),
    ("EQ", BinaryOp::Eq, false),
    ("NE", BinaryOp::Ne, false),
    ("LE", BinaryOp::Le, false),
    ("LT", BinaryOp::Lt, false),
];

/// The operator a word stands for.
pub(super) fn word(text: &str) -> Option<Word> {
    let upper = text.to_ascii_uppercase();
    Some(match upper.as_str() {
        "LD" => Word::Load(false),
        "LDN" => Word::Load(true),
        "ST" => Word::Store(false),
        "STN" => Word::Store(true),
        "S" => Word::Set,
        "R" => Word::Reset,
        "NOT" => Word::Not,
        "JMP" => Word::Jump(When::Always),
        "JMPC" => Word::Jump(When::IfTrue),
        "JMPCN" => Word::Jump(When::IfFalse),
        "CAL" => Word::Call(When::Always),
        "CALC" => Word::Call(When::IfTrue),
        "CALCN" => Word::Call(When::IfFalse),
        "RET" => Word::Return(When::Always),
        "RETC" => Word::Return(When::IfTrue),
        "RETCN" => Word::Return(When::IfFalse),
        "ANDN" => Word::Op(BinaryOp::And, true),
        "ORN" => Word::Op(BinaryOp::Or, true),
        "XORN" => Word::Op(BinaryOp::Xor, true),
        other => {
            let (_, op, _) = OPERATORS.iter().find(|(name, ..)| *name == other)?;
            Word::Op(*op, false)
        }
    })
}

/// True for an input operator.
pub(super) fn is_pin(text: &str) -> bool {
    PINS.iter().any(|p| p.eq_ignore_ascii_case(text))
}

/// True for any operator word.
pub(crate) fn is_operator(text: &str) -> bool {
    word(text).is_some() || is_pin(text)
}

/// True if an operator takes the modifier N.
pub(super) fn takes_not(op: BinaryOp) -> bool {
    OPERATORS.iter().any(|(_, o, not)| *o == op && *not)
}

/// The suffix of a jump, call or return.
pub(super) const fn suffix(when: When) -> &'static str {
    match when {
        When::Always => "",
        When::IfTrue => "C",
        When::IfFalse => "CN",
    }
}
