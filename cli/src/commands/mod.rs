//! One file a command.

mod changes;
mod check;
mod compare;
mod demo;
mod dialects;
mod draw;
mod prove;
mod run;
mod serve;
mod shadow;
mod translate;
pub(crate) mod trying;

use crate::Outcome;
use crate::args::{Call, Command};

/// Does what was asked for.
pub(crate) fn run(call: &Call) -> Result<Outcome, String> {
    match &call.command {
        Command::Demo => demo::run(call.json),
        Command::Check(args) => check::run(args, call.json),
        Command::Translate(args) => translate::run(args, call.json),
        Command::Run(args) => run::run(args, call.json),
        Command::Compare(args) => compare::run(args, call.json),
        Command::Merge(args) => compare::merge(args, call.json),
        Command::Prove(args) => prove::run(args, call.json),
        Command::Changes(args) => changes::run(args, call.json),
        Command::Draw(args) => draw::run(args, call.json),
        Command::Try(args) => trying::run(args, call.json),
        Command::Serve(args) => serve::run(args, call.json),
        Command::Shadow(args) => shadow::run(args, call.json),
        Command::Dialects(args) => dialects::run(args, call.json),
    }
}
