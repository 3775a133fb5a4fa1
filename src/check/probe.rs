//! Expressions that are asked of a project from outside: rules, expectations, conditions to wait for.

use super::env::Env;
use super::typed::{TExpr, Ty};
use super::walk::walk;
use super::{Checked, Guessed};
use crate::dialect;
use crate::source::FileId;

/// An expression over the variables of one program.
#[derive(Clone, Debug)]
pub struct Probe {
    /// Number of the program among those that run.
    pub(crate) program: usize,
    pub(crate) expr: TExpr,
}

/// Why an expression cannot be asked of a project.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ProbeError {
    /// It is not one expression of structured text.
    #[error("{0}")]
    Unreadable(String),
    /// It names what the project does not have, or has no type; as `check` says it.
    #[error("{0}")]
    Wrong(String),
    /// It reads an address that no program uses.
    #[error("an address that the program does not use has no value")]
    UnusedAddress,
    /// It is neither a number nor a BOOL.
    #[error("its value is no number and no BOOL")]
    NoValue,
    /// No program runs.
    #[error("there is no program")]
    NoProgram,
}

impl Probe {
    /// Goes over the expression and its parts, outermost first.
    pub(crate) fn walk(&self, found: &mut impl FnMut(&TExpr)) {
        walk(&self.expr, found);
    }

    /// True if its value is BOOL.
    #[must_use]
    pub fn is_bool(&self) -> bool {
        self.expr.ty == Ty::BOOL
    }
}

/// Where the text of a probe stands: in no file.
const NOWHERE: FileId = FileId(u32::MAX - 2);

/// Reads an expression of structured text in the first program of a project that knows its names.
///
/// # Errors
/// The first thing that is wrong with it.
pub fn probe(checked: &Checked, text: &str) -> Result<Probe, ProbeError> {
    let expr = crate::lang::read_expression(text, NOWHERE).map_err(ProbeError::Unreadable)?;
    let mut env = Env::new(Guessed::new());
    env.collect(checked.project(), dialect::standard_blocks());
    env.signatures();
    env.bodies();
    let mut first = None;
    for (number, program) in checked.programs.iter().enumerate() {
        env.problems.clear();
        env.current = program.unit;
        let typed = env.expr(&expr);
        let typed = env.settled(typed);
        if env.globals.len() > checked.globals.len() {
            first = first.or(Some(ProbeError::UnusedAddress));
            continue;
        }
        match env.problems.first() {
            None if typed.ty.elem().is_some() => return Ok(Probe { program: number, expr: typed }),
            None => first = first.or(Some(ProbeError::NoValue)),
            Some(problem) => first = first.or_else(|| Some(ProbeError::Wrong(problem.message.clone()))),
        }
    }
    Err(first.unwrap_or(ProbeError::NoProgram))
}
