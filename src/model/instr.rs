//! Instructions of instruction list, as they were written.

use super::ops::BinaryOp;
use super::sheet::Separator;
use super::{Call, Expr, Name, Notes, Operand};
use crate::source::Span;

/// An instruction of instruction list.
#[derive(Clone, Debug)]
pub struct Instr {
    /// `label:` in front of it.
    pub label: Option<Name>,
    /// What it does.
    pub kind: InstrKind,
    /// Where.
    pub span: Span,
    /// Comments.
    pub notes: Notes,
}

impl PartialEq for Instr {
    fn eq(&self, other: &Self) -> bool {
        self.label == other.label && self.kind == other.kind
    }
}

/// When a jump, call or return happens.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum When {
    /// Always.
    Always,
    /// Modifier `C`.
    IfTrue,
    /// Modifier `CN`.
    IfFalse,
}

/// What an instruction does.
#[derive(Clone, Debug, PartialEq)]
pub enum InstrKind {
    /// Only a label or comments.
    Empty,
    /// `LD` (or `LDN`).
    Load(bool, Expr),
    /// `ST` (or `STN`).
    Store(bool, Expr),
    /// `S`.
    Set(Expr),
    /// `R`.
    Reset(Expr),
    /// `NOT` on the current result.
    Not,
    /// An operator with the current result on its left; negated with modifier `N`.
    Op(BinaryOp, bool, Operand),
    /// `JMP`, `JMPC`, `JMPCN`.
    Jump(When, Name),
    /// `CAL`, `CALC`, `CALCN` of a function block.
    Call(When, Call),
    /// `RET`, `RETC`, `RETCN`.
    Return(When),
    /// A function: formal (all arguments in parentheses) or with the current result as its first argument.
    Function(Call, FunctionForm),
    /// An input operator, `IN timer`.
    Pin(Name, Expr),
    /// An instruction in a dialect's own words. It stands only between a text and what the checker knows; `list` is
    /// what a parenthesis behind the word holds.
    Worded {
        /// The word.
        word: Name,
        /// What stands behind it.
        operands: Vec<Expr>,
        /// What stands between its operands.
        apart: Separator,
        /// The instructions in its parenthesis.
        list: Option<Vec<Instr>>,
    },
}

/// How a function is called in instruction list.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FunctionForm {
    /// The current result is its first argument; the others follow on the line.
    CurrentResult,
    /// Everything stands in the parentheses.
    Formal,
}
