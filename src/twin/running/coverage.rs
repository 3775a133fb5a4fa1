//! What scenarios have seen of a version: statements, conditions, branches, what blocks do inside.

use crate::lang::Elements;
use crate::scan::{Seen, Want};
use crate::twin::{ResumeError, Version};
use serde::{Deserialize, Serialize};

/// One thing there is to see.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct CoveragePlace {
    /// `file:line`.
    pub place: String,
    /// The statement, instruction or expression.
    pub text: String,
    /// What there is to see of it.
    pub want: Want,
    /// True if it is the inside of a shipped block: its done, reset, limit.
    pub inside: bool,
    /// Of an expression: the number of its statement in the list.
    pub statement: Option<usize>,
    /// Whether it was seen.
    pub met: bool,
}

impl CoveragePlace {
    /// What is missing, in words.
    #[must_use]
    pub const fn missing(&self) -> &'static str {
        match self.want {
            Want::Runs => "never ran",
            Want::Is(true) => "was never TRUE",
            Want::Is(false) => "was never FALSE",
            Want::Left => "was never decided by its left side alone",
            Want::Right => "was never decided by its right side alone",
            Want::Branch(true) => "was never TRUE here",
            Want::Branch(false) => "was never FALSE here",
        }
    }
}

/// So many of so many.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Share {
    /// Seen.
    pub met: usize,
    /// Of all.
    pub of: usize,
}

/// What was seen of one version, and what was not.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Coverage {
    /// All there is: statements first, then conditions and branches.
    pub places: Vec<CoveragePlace>,
    /// Different changes of step variables and enumerations that were seen.
    pub transitions: usize,
}

impl Coverage {
    pub(crate) fn of(version: &Version, seen: &Seen, transitions: usize) -> Coverage {
        let project = version.checked.project();
        let goals = version.machine.goals();
        let mut statements = std::collections::HashMap::new();
        for (number, goal) in goals.iter().enumerate().filter(|(_, g)| g.want == Want::Runs) {
            statements.insert(goal.span, number);
        }
        let elements = Elements::of(project);
        let places = goals.iter().map(|goal| {
            let own = || match elements.element(goal.expr) {
                Some(element) => element.to_string(),
                None => crate::dialect::excerpt(project, goal.expr),
            };
            CoveragePlace {
                place: project.place(goal.span),
                text: if goal.inside { format!("{}: {}", elements.at(goal.span), own()) } else { own() },
                want: goal.want,
                inside: goal.inside,
                statement: statements.get(&goal.span).copied().filter(|_| goal.want != Want::Runs),
                met: goal.is_met(seen),
            }
        });
        Coverage { places: places.collect(), transitions }
    }

    fn share(&self, of: impl Fn(&CoveragePlace) -> bool) -> Share {
        let all: Vec<&CoveragePlace> = self.places.iter().filter(|p| of(p)).collect();
        Share { met: all.iter().filter(|p| p.met).count(), of: all.len() }
    }

    /// Statements and instructions that ran.
    #[must_use]
    pub fn statements(&self) -> Share {
        self.share(|p| p.want == Want::Runs)
    }

    /// Conditions: each TRUE and FALSE, and each side deciding alone.
    #[must_use]
    pub fn conditions(&self) -> Share {
        self.share(|p| !p.inside && matches!(p.want, Want::Is(_) | Want::Left | Want::Right))
    }

    /// Branches and jumps, both ways.
    #[must_use]
    pub fn branches(&self) -> Share {
        self.share(|p| !p.inside && matches!(p.want, Want::Branch(_)))
    }

    /// What shipped blocks do inside: done, reset, limits.
    #[must_use]
    pub fn blocks(&self) -> Share {
        self.share(|p| p.inside)
    }

    /// What was not seen; of a statement that never ran only that.
    pub fn unmet(&self) -> impl Iterator<Item = &CoveragePlace> {
        let ran = |p: &&CoveragePlace| p.statement.is_none_or(|s| self.places[s].met);
        self.places.iter().filter(|p| !p.met).filter(ran)
    }

    /// Adds what another run of the same version has seen.
    ///
    /// # Errors
    /// If it is of another version.
    pub fn join(&mut self, other: &Coverage) -> Result<(), ResumeError> {
        let same = self.places.len() == other.places.len()
            && self.places.iter().zip(&other.places).all(|(a, b)| a.text == b.text && a.want == b.want);
        if !same {
            return Err(ResumeError::OtherVersions);
        }
        self.places.iter_mut().zip(&other.places).for_each(|(a, b)| a.met |= b.met);
        self.transitions = self.transitions.max(other.transitions);
        Ok(())
    }
}
