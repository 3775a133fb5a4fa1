//! Instruction list to structured text: the current result becomes expressions ([`current`]), jumps become
//! branches and loops ([`flow`]), and the outcome is put as a person would ([`polish`]).

mod chain;
mod current;
mod flow;
mod live;
mod network;
mod polish;
mod relocate;
mod simplify;
mod types;

pub(super) use simplify::{mentions, root};

use super::ledger::Entry;
use super::names::Namer;
use super::{Context, Translated};
use crate::model::{Body, Expr, Instr, Network, Notes, Stmt, TypeSpec};
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
    /// Those that keep their values from scan to scan.
    kept: Vec<(String, TypeSpec)>,
    ledger: Vec<Entry>,
}

/// Translates the instructions of a unit.
pub(super) fn body(context: &Context<'_>, namer: Namer, list: &[Instr]) -> Translated {
    let (lines, mut additions) = current::lines(Additions::new(context, namer), list);
    let statements = flow::statements(lines, &mut additions);
    finish(context, statements, additions)
}

/// Translates the networks of a unit.
pub(super) fn networks(context: &Context<'_>, namer: Namer, list: &[Network]) -> Translated {
    let (lines, mut additions) = network::lines(Additions::new(context, namer), list);
    let statements = chain::join(flow::statements(lines, &mut additions), context);
    finish(context, statements, additions)
}

impl<'c> Additions<'c> {
    fn new(context: &'c Context<'c>, namer: Namer) -> Self {
        Additions { context, namer, added: Vec::new(), kept: Vec::new(), ledger: Vec::new() }
    }
}

fn finish(context: &Context<'_>, statements: Vec<Stmt>, additions: Additions<'_>) -> Translated {
    let statements = polish::list(statements, context);
    let Additions { added, kept, ledger, .. } = additions;
    Translated { body: Body::Statements(statements), added, kept, removed: Vec::new(), ledger }
}
