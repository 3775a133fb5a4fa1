//! The command line of Honest Twin: arguments, files, progress and colour. What it does is in the library.

mod args;
mod case;
mod commands;
mod evidence;
mod files;
mod interrupt;
mod meant;
mod pictures;
mod problems;
mod screen;

use clap::Parser;
use std::process::ExitCode;

/// How a command ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Outcome {
    /// Done; for a comparison the same.
    Done,
    /// Problems found, or different.
    Found,
    /// The call or a file was wrong.
    Wrong,
    /// Nothing can be said.
    Undecided,
}

impl From<Outcome> for ExitCode {
    fn from(outcome: Outcome) -> Self {
        ExitCode::from(match outcome {
            Outcome::Done => 0,
            Outcome::Found => 1,
            Outcome::Wrong => 2,
            Outcome::Undecided => 3,
        })
    }
}

fn main() -> ExitCode {
    let call = args::Call::parse();
    match commands::run(&call) {
        Ok(outcome) => outcome.into(),
        Err(message) => {
            problems::complain(&message, call.json);
            Outcome::Wrong.into()
        }
    }
}
