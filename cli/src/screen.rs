//! A stub for compile check.
use crate::{Outcome, args::Try};
use honest_twin::session::Session;
pub(crate) fn run(_s: Session, _a: &Try) -> Result<Outcome, String> { Err("not yet".into()) }
