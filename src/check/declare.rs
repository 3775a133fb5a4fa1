//! Pasted code without declarations: the list of those it needs, with types inferred from how names are used.

use super::env::{Env, Guess, key};
use super::typed::{Ty, UnitId};
use crate::dialect;
use crate::model::{Project, Section, UnitKind};
use crate::source::Span;
use std::collections::HashMap;

/// A declaration that a unit lacks.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
pub struct Declaration {
    /// The unit it belongs into.
    pub unit: String,
    /// The name.
    pub name: String,
    /// The word of the section it belongs into: `VAR`, or, in a text without a head, what it is by how it is used:
    /// `VAR_INPUT` if it is only read, `VAR_OUTPUT` if nothing but what writes it reads it.
    pub section: &'static str,
    /// The type, as it is written in a declaration.
    pub ty: String,
    /// False if nothing told the type and BOOL was taken.
    pub sure: bool,
    /// True for an instance of a function block.
    pub is_instance: bool,
    /// What the type rests on, if several would fit.
    pub note: Option<String>,
    /// First use.
    pub span: Span,
}

impl Declaration {
    /// What is to be said behind the declaration: what its type rests on, or that nothing tells it.
    #[must_use]
    pub fn remark(&self) -> Option<&str> {
        match (&self.note, self.sure) {
            (Some(note), _) => Some(note),
            (None, false) => Some("nothing tells its type"),
            (None, true) => None,
        }
    }
}

/// The declarations that a project lacks, in the order in which the names are met.
#[must_use]
pub fn declarations(project: &Project) -> Vec<Declaration> {
    let mut assumed = HashMap::new();
    let mut guesses: Vec<Guess> = Vec::new();
    let mut notes: HashMap<(u32, String), String> = HashMap::new();
    // What is learnt of one name may tell the type of another; three rounds settle all but contrived cases.
    for _ in 0..4 {
        let (_, _, found) = super::run(project, assumed.clone());
        let mut more = false;
        for mut guess in found {
            let id = (guess.unit, key(&guess.name.text));
            if let Some((ty, note)) = guess.ty.is_none().then(|| block_with(project, &guess.pins)).flatten() {
                guess.ty = Some(ty);
                notes.extend(note.map(|n| (id.clone(), n)));
            }
            if let Some(ty) = &guess.ty {
                more |= assumed.insert(id, ty.clone()).is_none();
            }
            match guesses.iter_mut().find(|g| g.unit == guess.unit && g.name == guess.name) {
                Some(old) => old.ty = guess.ty.or(old.ty.take()),
                None => guesses.push(guess),
            }
        }
        if !more {
            break;
        }
    }
    let (checked, _, _) = super::run(project, HashMap::new());
    let sections = super::fragment::Sections::new(project);
    guesses.sort_by_key(|g| g.name.span);
    guesses
        .into_iter()
        .map(|guess| Declaration {
            section: match &guess.ty {
                Some(Ty::Block(_)) => Section::Local.word(),
                _ => sections.of(&checked.unit(UnitId(guess.unit)).name, &guess.name.text).word(),
            },
            unit: checked.unit(UnitId(guess.unit)).name.clone(),
            ty: guess.ty.as_ref().map_or("BOOL".to_string(), |ty| checked.type_name(ty)),
            sure: guess.ty.is_some(),
            is_instance: matches!(guess.ty, Some(Ty::Block(_))),
            note: notes.remove(&(guess.unit, key(&guess.name.text))),
            span: guess.name.span,
            name: guess.name.text,
        })
        .collect()
}

/// The function block that has all these pins; the first one where several have them, with a note that says so.
fn block_with(project: &Project, pins: &[String]) -> Option<(Ty, Option<String>)> {
    if pins.is_empty() {
        return None;
    }
    let mut env = Env::new(HashMap::new());
    env.collect(project, dialect::standard_blocks());
    env.signatures();
    let has = |unit: &super::typed::TUnit| {
        unit.kind == UnitKind::FunctionBlock
            && pins.iter().all(|p| {
                p == "EN"
                    || p == "ENO"
                    || unit.vars.iter().any(|v| {
                        key(&v.name) == *p && matches!(v.section, Section::Input | Section::Output | Section::InOut)
                    })
            })
    };
    let fits: Vec<(usize, &super::typed::TUnit)> = env.units.iter().enumerate().filter(|(_, u)| has(u)).collect();
    let (first, _) = *fits.first()?;
    let others: Vec<&str> = fits[1..].iter().map(|(_, u)| u.name.as_str()).take(3).collect();
    let note = (!others.is_empty()).then(|| format!("{} would fit as well", others.join(", ")));
    Some((Ty::Block(UnitId(first as u32)), note))
}
