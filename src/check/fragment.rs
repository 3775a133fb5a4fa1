//! Texts without a head: pasted statements, rungs or lines. They are taken for a program, and what they use is declared by
//! how it is used; in a dialect only instances are, for values have addresses there.

use super::declare::{Declaration, declarations};
use super::env::key;
use crate::lang::type_spec;
use crate::model::{
    Body, Comment, CommentKind, Expr, ExprKind, FunctionForm, Head, Instr, InstrKind, Item, Mention, Name, Notes,
    Project, Retain, Section, StmtKind, Unit, VarDecl, VarSection, Walk, each_statement,
};
use crate::source::{Diagnostic, Span, codes};
use std::collections::{HashMap, HashSet};

/// The project with its fragments as programs that declare what they use, and a hint for each of them.
pub(super) fn complete(mut project: Project) -> (Project, Vec<Diagnostic>) {
    let is_fragment = |item: &Item| matches!(item, Item::Unit(unit) if unit.head == Head::Missing);
    if !project.items.iter().any(is_fragment) {
        return (project, Vec::new());
    }
    let mut lacking = declarations(&project);
    if project.library.is_some() {
        // Lists of a dialect speak of addresses: a name that is none is more likely a mistake than a point.
        lacking.retain(|d| d.is_instance);
    }
    let mut said = Vec::new();
    for item in &mut project.items {
        let Item::Unit(unit) = item else { continue };
        if unit.head == Head::Written {
            continue;
        }
        unit.head = Head::Written;
        let own: Vec<&Declaration> = lacking.iter().filter(|d| d.unit == unit.name.text).collect();
        for section in [Section::Input, Section::Output, Section::Local] {
            let vars: Vec<VarDecl> =
                own.iter().filter(|d| d.section == section.word()).filter_map(|d| declared(d)).collect();
            add(&mut unit.sections, section, vars, unit.name.span);
        }
        said.extend(told(unit, &own));
    }
    (project, said)
}

fn declared(declaration: &Declaration) -> Option<VarDecl> {
    let span = declaration.span;
    let comment = |text: &str| Comment { kind: CommentKind::Paren, text: text.to_string() };
    let trailing = declaration.remark().map(comment).into_iter().collect();
    Some(VarDecl {
        names: vec![Name::new(declaration.name.clone(), span)],
        address: None,
        edge: None,
        spec: type_spec(&declaration.ty, span)?,
        init: None,
        notes: Notes { trailing, ..Notes::default() },
    })
}

fn add(sections: &mut Vec<VarSection>, section: Section, vars: Vec<VarDecl>, span: Span) {
    if vars.is_empty() {
        return;
    }
    let (notes, tail) = (Notes::default(), Vec::new());
    sections.push(VarSection { section, retain: Retain::Unsaid, constant: false, vars, span, notes, tail });
}

/// What was taken for what; nothing if all of it was known, as in a list whose addresses say it.
fn told(unit: &Unit, own: &[&Declaration]) -> Option<Diagnostic> {
    if own.is_empty() {
        return None;
    }
    let names = |section: Section| -> String {
        let list: Vec<&str> = own.iter().filter(|d| d.section == section.word()).map(|d| d.name.as_str()).collect();
        let shown = list.iter().take(MOST_NAMED).copied().collect::<Vec<_>>().join(", ");
        match list.len().checked_sub(MOST_NAMED).filter(|more| *more > 0) {
            Some(more) => format!("{shown} and {more} more"),
            None if list.is_empty() => "none".to_string(),
            None => shown,
        }
    };
    let message = format!(
        "this text declares nothing; by how names are used its inputs are: {}; outputs: {}; memory: {}",
        names(Section::Input),
        names(Section::Output),
        names(Section::Local)
    );
    let help = format!("it is taken for PROGRAM {}; `check --declare` writes the declarations", unit.name.text);
    Some(Diagnostic::warning(codes::FRAGMENT, unit.name.span, message).help(help))
}

/// Names of a kind that a hint lists before it counts the others.
const MOST_NAMED: usize = 12;

/// What the names of fragments are by how they are used.
pub(super) struct Sections(HashMap<String, HashMap<String, Uses>>);

/// In which pieces of a body a name is read, and in which it is written.
#[derive(Default)]
struct Uses {
    read: HashSet<usize>,
    written: HashSet<usize>,
}

impl Sections {
    /// Looks through the fragments of a project.
    pub(super) fn new(project: &Project) -> Sections {
        let fragments = project.items.iter().filter_map(|item| match item {
            Item::Unit(unit) if unit.head == Head::Missing => Some((unit.name.text.clone(), uses(&unit.body))),
            Item::Unit(_) | Item::Type(_) | Item::Globals(_) | Item::Configuration(_) | Item::Envelope(_) => None,
        });
        Sections(fragments.collect())
    }

    /// Where a name of a unit is to be declared.
    pub(super) fn of(&self, unit: &str, name: &str) -> Section {
        let Some(uses) = self.0.get(unit).and_then(|names| names.get(&key(name))) else { return Section::Local };
        if uses.written.is_empty() {
            Section::Input
        } else if uses.read.is_subset(&uses.written) {
            // What only its own rung reads holds itself.
            Section::Output
        } else {
            Section::Local
        }
    }
}

fn uses(body: &Body) -> HashMap<String, Uses> {
    let mut out: HashMap<String, Uses> = HashMap::new();
    let mut note = |piece: usize, expr: &Expr, used: Mention| {
        if let ExprKind::Name(name) = &expr.kind {
            let uses = out.entry(key(&name.text)).or_default();
            match used {
                Mention::Read => uses.read.insert(piece),
                Mention::Written => uses.written.insert(piece),
                Mention::Called | Mention::Function => false,
            };
        }
        Walk::Into
    };
    match body {
        Body::Statements(list) => {
            for (piece, stmt) in list.iter().enumerate() {
                stmt.walk(&mut |expr, used| note(piece, expr, used));
            }
            // What a loop counts with is nobody's output, though nothing else reads it.
            each_statement(list, &mut |stmt| {
                if let StmtKind::For(head, _) = &stmt.kind {
                    note(usize::MAX, &head.var, Mention::Read);
                }
            });
        }
        Body::Instructions(list) => {
            for (piece, instr) in pieces(list) {
                instr.own(&mut |expr, used| expr.walk(used, &mut |expr, used| note(piece, expr, used)));
            }
        }
        Body::Ladder(list) | Body::Blocks(list) => {
            for (piece, network) in list.iter().enumerate() {
                for element in &network.elements {
                    element.own(&mut |expr, used| expr.walk(used, &mut |expr, used| note(piece, expr, used)));
                }
            }
        }
    }
    out
}

/// The instructions of a list with the number of their piece: one begins with each load or call behind something that has
/// taken the result.
fn pieces(list: &[Instr]) -> impl Iterator<Item = (usize, &Instr)> {
    let (mut piece, mut taken) = (0, false);
    list.iter().map(move |instr| {
        let is_formal = matches!(instr.kind, InstrKind::Function(_, FunctionForm::Formal));
        let begins = is_formal || matches!(instr.kind, InstrKind::Load(..) | InstrKind::Call(..));
        piece += usize::from(begins && taken);
        taken = match &instr.kind {
            InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => true,
            InstrKind::Empty => taken,
            InstrKind::Load(..) | InstrKind::Op(..) | InstrKind::Not | InstrKind::Function(..) => false,
        };
        (piece, instr)
    })
}
