//! Edits as people make them, one at a time, on what a reader makes of a text; each knows what it has to be told as.

use super::bodies::{add, branch, form, moved, operand, operator, remove, rename, reorder, value};
use fastrand::Rng;
use honest_twin::changes::{Group, Kind};
use honest_twin::model::{
    Body, Comment, CommentKind, Elem, Expr, ExprKind, Init, Item, Literal, LiteralValue, Name, Notes, Retain, Section,
    TypeSpec, Unit, VarDecl, VarSection,
};
use honest_twin::source::{FileId, Span};

/// The kinds of edits.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum Edit {
    RenameVariable,
    RenameProgram,
    Move,
    ReorderDeclarations,
    Value,
    Form,
    Branch,
    Operand,
    Operator,
    AddPart,
    RemovePart,
    Initial,
    Type,
    Retention,
    Address,
    Class,
    AddVariable,
    Comment,
    VariableComment,
    Blank,
    Interval,
    Priority,
    Sequence,
}

pub(crate) const EDITS: [Edit; 23] = [
    Edit::RenameVariable,
    Edit::RenameProgram,
    Edit::Move,
    Edit::ReorderDeclarations,
    Edit::Value,
    Edit::Form,
    Edit::Branch,
    Edit::Operand,
    Edit::Operator,
    Edit::AddPart,
    Edit::RemovePart,
    Edit::Initial,
    Edit::Type,
    Edit::Retention,
    Edit::Address,
    Edit::Class,
    Edit::AddVariable,
    Edit::Comment,
    Edit::VariableComment,
    Edit::Blank,
    Edit::Interval,
    Edit::Priority,
    Edit::Sequence,
];

impl Edit {
    /// What it has to be told as.
    pub(crate) fn told(self) -> (Group, Kind) {
        match self {
            Edit::RenameVariable | Edit::RenameProgram => (Group::Texts, Kind::Renamed),
            Edit::Move => (Group::Logic, Kind::Moved),
            Edit::ReorderDeclarations | Edit::Blank => (Group::Texts, Kind::Layout),
            Edit::Value => (Group::Logic, Kind::Value),
            Edit::Form => (Group::Logic, Kind::Form),
            Edit::Branch => (Group::Logic, Kind::Branch),
            Edit::Operand => (Group::Logic, Kind::Operand),
            Edit::Operator => (Group::Logic, Kind::Operator),
            Edit::AddPart => (Group::Logic, Kind::Added),
            Edit::RemovePart => (Group::Logic, Kind::Removed),
            Edit::Initial => (Group::Data, Kind::Initial),
            Edit::Type => (Group::Data, Kind::Type),
            Edit::Retention => (Group::Data, Kind::Retention),
            Edit::Class => (Group::Data, Kind::Class),
            Edit::AddVariable => (Group::Data, Kind::Added),
            Edit::Address => (Group::Points, Kind::Address),
            Edit::Comment | Edit::VariableComment => (Group::Texts, Kind::Comment),
            Edit::Interval => (Group::Timing, Kind::Interval),
            Edit::Priority => (Group::Timing, Kind::Priority),
            Edit::Sequence => (Group::Timing, Kind::Sequence),
        }
    }
}

pub(super) const HERE: Span = Span { file: FileId(0), start: 0, end: 0 };

pub(super) fn name(text: &str) -> Name {
    Name::new(text, HERE)
}

pub(super) fn named(text: &str) -> Expr {
    Expr { kind: ExprKind::Name(name(text)), span: HERE }
}

fn number(value: i128) -> Expr {
    let literal = Literal { text: value.to_string(), typed: None, value: LiteralValue::Int(value) };
    Expr { kind: ExprKind::Literal(literal), span: HERE }
}

/// The last unit, which is the program.
pub(crate) fn program(items: &mut [Item]) -> &mut Unit {
    items.iter_mut().rev().find_map(|item| if let Item::Unit(unit) = item { Some(unit) } else { None }).unwrap()
}

/// Makes an edit; false if there is nothing to be edited so.
pub(crate) fn make(edit: Edit, items: &mut [Item], rng: &mut Rng) -> bool {
    match edit {
        Edit::Interval | Edit::Priority | Edit::Sequence => return configuration(edit, items),
        Edit::RenameProgram => {
            let old = program(items).name.text.clone();
            program(items).name.text = "HatcheryAnew".to_string();
            for item in items.iter_mut() {
                if let Item::Configuration(configuration) = item {
                    let own = configuration.programs.iter_mut().filter(|program| program.unit.is(&old));
                    own.for_each(|program| program.unit.text = "HatcheryAnew".to_string());
                }
            }
            return true;
        }
        _ => {}
    }
    let unit = program(items);
    match edit {
        Edit::RenameVariable => rename(unit, rng),
        Edit::Move => moved(unit, rng),
        Edit::ReorderDeclarations => reorder(unit, rng),
        Edit::Value => value(unit, rng),
        Edit::Form => form(unit, rng),
        Edit::Branch => branch(unit, rng),
        Edit::Operand => operand(unit, rng),
        Edit::Operator => operator(unit, rng),
        Edit::AddPart => add(unit, rng),
        Edit::RemovePart => remove(unit, rng),
        Edit::Comment | Edit::VariableComment => comment(edit, unit, rng),
        Edit::Blank => blank(unit, rng),
        Edit::AddVariable => {
            unit.sections.push(section(Section::Local, vec![declaration("Newcomer", Elem::Dint)]));
            true
        }
        Edit::Initial | Edit::Type | Edit::Retention | Edit::Address | Edit::Class => declared(edit, unit, rng),
        Edit::RenameProgram | Edit::Interval | Edit::Priority | Edit::Sequence => false,
    }
}

fn section(section: Section, vars: Vec<VarDecl>) -> VarSection {
    VarSection {
        section,
        retain: Retain::Unsaid,
        constant: false,
        vars,
        span: HERE,
        notes: Notes::default(),
        tail: Vec::new(),
    }
}

fn declaration(text: &str, elem: Elem) -> VarDecl {
    VarDecl {
        names: vec![name(text)],
        address: None,
        edge: None,
        spec: TypeSpec::Elem(elem, HERE),
        init: None,
        notes: Notes::default(),
    }
}

fn configuration(edit: Edit, items: &mut [Item]) -> bool {
    let found = items.iter_mut().find_map(|item| if let Item::Configuration(c) = item { Some(c) } else { None });
    let Some(configuration) = found else { return false };
    let mut set = |at: usize, text: &str, value: LiteralValue| {
        let literal = Literal { text: text.to_string(), typed: None, value };
        configuration.tasks[0].args[at].1.kind = ExprKind::Literal(literal);
    };
    match edit {
        Edit::Interval => set(0, "T#40ms", LiteralValue::Time(40_000_000, false)),
        Edit::Priority => set(1, "7", LiteralValue::Int(7)),
        _ => configuration.programs.swap(0, 1),
    }
    true
}

/// A variable that no program uses until a part is added.
pub(crate) fn spare(elem: Elem) -> VarSection {
    section(Section::Local, vec![declaration("Spare", elem)])
}

fn declared(edit: Edit, unit: &mut Unit, rng: &mut Rng) -> bool {
    let elem = |decl: &VarDecl| if let TypeSpec::Elem(elem, _) = decl.spec { Some(elem) } else { None };
    let mut fits: Vec<(usize, usize)> = Vec::new();
    for (s, section) in unit.sections.iter().enumerate() {
        for (v, decl) in section.vars.iter().enumerate() {
            let single = decl.names.len() == 1 && decl.address.is_none();
            let local = section.section == Section::Local && section.vars.len() == 1 && decl.names.len() == 1;
            let is_one = match edit {
                Edit::Initial => elem(decl).is_some() && section.section != Section::Input && single,
                Edit::Type => elem(decl) == Some(Elem::Int) && section.section == Section::Local && single,
                Edit::Retention => local && !section.constant && section.retain == Retain::Unsaid,
                Edit::Class => local && !section.constant && elem(decl).is_some(),
                _ => elem(decl) == Some(Elem::Bool) && single && section.section != Section::Input,
            };
            fits.extend(is_one.then_some((s, v)));
        }
    }
    let Some((s, v)) = rng.choice(&fits).copied() else { return false };
    let section = &mut unit.sections[s];
    let decl = &mut section.vars[v];
    match edit {
        Edit::Initial => {
            let init = match elem(decl) {
                Some(Elem::Bool) => named(if decl.init.is_some() { "FALSE" } else { "TRUE" }),
                Some(Elem::Int | Elem::Dint | Elem::Uint) => number(if decl.init.is_some() { 77 } else { 3 }),
                _ => return false,
            };
            decl.init = Some(Init::Expr(init));
        }
        Edit::Type => decl.spec = TypeSpec::Elem(Elem::Dint, HERE),
        Edit::Retention => section.retain = Retain::Retain,
        Edit::Class => section.constant = true,
        _ => decl.address = Some(name(if section.section == Section::Output { "%QX7.1" } else { "%MX7.1" })),
    }
    true
}

fn comment(edit: Edit, unit: &mut Unit, rng: &mut Rng) -> bool {
    let notes: Vec<&mut Notes> = match (edit, &mut unit.body) {
        (Edit::VariableComment, _) => {
            let decls = unit.sections.iter_mut().flat_map(|s| &mut s.vars);
            decls.filter(|decl| decl.names.len() == 1).map(|decl| &mut decl.notes).collect()
        }
        (_, Body::Statements(list)) => list.iter_mut().map(|stmt| &mut stmt.notes).collect(),
        (_, Body::Instructions(list)) => {
            list.iter_mut().map(|i| &mut i.notes).filter(|notes| !notes.leading.is_empty()).collect()
        }
        (_, Body::Ladder(list) | Body::Blocks(list)) => list.iter_mut().map(|network| &mut network.notes).collect(),
    };
    let mut notes = notes;
    if notes.is_empty() {
        return false;
    }
    let at = rng.usize(0..notes.len());
    let text = format!("seen to by the keeper {}", rng.u8(..));
    let new = Comment { kind: CommentKind::Paren, text };
    match (edit, notes[at].leading.first_mut()) {
        (Edit::VariableComment, _) => notes[at].trailing = vec![new],
        (_, Some(first)) => *first = new,
        (_, None) => notes[at].leading.push(new),
    }
    true
}

/// A blank line more above a statement or an instruction.
fn blank(unit: &mut Unit, rng: &mut Rng) -> bool {
    let mut notes: Vec<&mut Notes> = match &mut unit.body {
        Body::Statements(list) => list.iter_mut().skip(1).map(|stmt| &mut stmt.notes).collect(),
        Body::Instructions(list) => list.iter_mut().skip(1).map(|instr| &mut instr.notes).collect(),
        Body::Ladder(_) | Body::Blocks(_) => return false,
    };
    if notes.is_empty() {
        return false;
    }
    let at = rng.usize(0..notes.len());
    notes[at].blank_before = !notes[at].blank_before;
    true
}
