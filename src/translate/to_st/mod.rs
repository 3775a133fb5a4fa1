//! Instruction list to structured text: the current result becomes expressions ([`current`]), jumps become
//! branches and loops ([`flow`]), and the outcome is put as a person would ([`polish`]).

mod current;
mod flow;
mod live;
mod polish;
mod relocate;
mod simplify;
mod types;

use super::ledger::Entry;
use super::names::Namer;
use super::{Context, Translated};
use crate::model::{Body, Expr, Instr, Notes, Stmt, TypeSpec};
use crate::source::Span;

/// Straight code with jumps: what is left of instructions when the current result is gone.
#[derive(Clone, Debug)]
enum Line {
    Stmt(Stmt),
    Label(String),
    /// A jump, if the condition holds or in any case.
    Jump(Option<Expr>, String, Span, Notes),
    Return(Option<Expr>, Span, Notes),
}

/// Variables and ledger entries that translation adds.
struct Additions<'c> {
    context: &'c Context<'c>,
    namer: Namer,
    added: Vec<(String, TypeSpec)>,
    ledger: Vec<Entry>,
}

/// Translates the instructions of a unit.
pub(super) fn body(context: &Context<'_>, namer: Namer, list: &[Instr]) -> Translated {
    let additions = Additions { context, namer, added: Vec::new(), ledger: Vec::new() };
    let (lines, mut additions) = current::lines(additions, list);
    let statements = flow::statements(lines, &mut additions);
    let statements = polish::list(statements, context);
    Translated { body: Body::Statements(statements), added: additions.added, ledger: additions.ledger }
}
