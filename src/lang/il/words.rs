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

const OPERATORS: &[(&str, BinaryOp)] = &[
    ("AND", BinaryOp::And),
    ("OR", BinaryOp::Or),
    ("XOR", BinaryOp::Xor),
    ("ADD", BinaryOp::Add),
    ("SUB", BinaryOp::Sub),
    ("MUL", BinaryOp::Mul),
    ("DIV", BinaryOp::Div),
    ("MOD", BinaryOp::Mod),
    ("GT", BinaryOp::Gt),
    ("GE", BinaryOp::Ge),
    ("EQ", BinaryOp::Eq),
    ("NE", BinaryOp::Ne),
    ("LE", BinaryOp::Le),
    ("LT", BinaryOp::Lt),
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
            let (_, op) = OPERATORS.iter().find(|(name, _)| *name == other)?;
            Word::Op(*op, false)
        }
    })
}

/// The operator of a word that joins the two results loaded last: a sheet writes it `OR LAST`.
pub(crate) fn last_results(meaning: &str) -> Option<BinaryOp> {
    let operator = meaning.to_ascii_uppercase();
    let operator = operator.strip_suffix(" LAST")?;
    OPERATORS.iter().find(|(name, _)| *name == operator).map(|(_, op)| *op)
}

/// True for an input operator.
pub(super) fn is_pin(text: &str) -> bool {
    PINS.iter().any(|p| p.eq_ignore_ascii_case(text))
}

/// True for any operator word.
pub(crate) fn is_operator(text: &str) -> bool {
    word(text).is_some() || is_pin(text)
}

/// The suffix of a jump, call or return.
pub(super) const fn suffix(when: When) -> &'static str {
    match when {
        When::Always => "",
        When::IfTrue => "C",
        When::IfFalse => "CN",
    }
}
