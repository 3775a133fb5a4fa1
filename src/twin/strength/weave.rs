//! All seeded faults in one program, each behind a selector of its own: where none is set it is the program as it was, and
//! where one is set it is the program with that fault. So a circuit of it runs each fault in a lane, all at once.
//!
//! What a selector chooses is made of the program as it was, since no more than one of them is set at a time; so faults in
//! faults do not multiply.

use super::Mutation;
use super::seed::Seeder;
use crate::check::Checked;
use crate::check::sites::{self, Pass, Site};
use crate::check::typed::{Origin, Place, Root, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind, Ty, Var};
use crate::model::functions::Function;
use crate::model::{Duration, Section, When};
use crate::source::Span;
use std::collections::HashMap;

/// A project with faults behind selectors.
pub(super) struct Woven {
    pub(super) checked: Checked,
    /// Of each fault the name of the global that selects it; none where it cannot be put behind one.
    pub(super) selectors: Vec<Option<String>>,
}

/// The kinds of faults in expressions.
const IN_EXPRESSIONS: [Mutation; 7] = [
    Mutation::Contact,
    Mutation::Name,
    Mutation::Preset,
    Mutation::Tick,
    Mutation::Comparison,
    Mutation::Dominance,
    Mutation::Edge,
];

/// Weaves faults, each a kind and a site as [`super::seed`] counts them, into a project.
pub(super) fn weave(checked: &Checked, faults: &[(Mutation, usize)], scan: Duration) -> Woven {
    let mut out = checked.clone();
    let mut weaver = Weaver {
        wanted: faults.iter().enumerate().map(|(fault, at)| (*at, fault)).collect(),
        seen: HashMap::new(),
        seeders: IN_EXPRESSIONS.iter().map(|kind| (*kind, Seeder::of(checked, *kind, scan))).collect(),
        first: out.globals.len() as u32,
        open: Vec::new(),
        done: vec![false; faults.len()],
    };
    for unit in out.units.iter_mut().filter(|u| !u.built_in) {
        let vars = unit.vars.clone();
        sites::unit(unit, &mut |pass, site| match (pass, site) {
            (Pass::Down, Site::Expr(expr)) => weaver.expr(expr, &vars),
            (Pass::Down, Site::Statements(list)) => weaver.statements(list),
            (Pass::Down, Site::Instructions(list)) => weaver.instructions(list),
            (Pass::Up, Site::Expr(expr)) => weaver.end_expr(expr),
            (Pass::Up, Site::Statements(list)) => weaver.end_statements(list),
            (Pass::Up, Site::Instructions(list)) => weaver.end_instructions(list),
        });
    }
    let span = out.units.first().map_or(Span { file: crate::source::FileId(0), start: 0, end: 0 }, |u| u.span);
    let name = |fault: usize| format!("seeded fault {fault}");
    out.globals.extend((0..faults.len()).map(|fault| selector(name(fault), span)));
    let selectors = weaver.done.iter().enumerate().map(|(fault, done)| done.then(|| name(fault))).collect();
    Woven { checked: out, selectors }
}

/// A global that is given from outside and that no text can name.
fn selector(name: String, span: Span) -> Var {
    Var::hidden(name, Ty::BOOL, Section::Input, Origin::Between, span)
}

/// What is to be put around a site when all that is in it has been visited.
enum Open {
    Expr(Vec<(usize, TExpr)>),
    Statements(Vec<Change>),
    Instructions(Vec<(usize, usize, Write)>),
}

/// A change of a list of statements: the fault, and the number of the statement.
enum Change {
    /// The statement before it and it itself, as they were, which change places.
    Moved(usize, usize, Box<[TStmt; 2]>),
    /// It is left out.
    Dropped(usize, usize),
    /// What stands in one of its branches is left out; the one behind the last is ELSE.
    Emptied(usize, usize, usize),
}

/// A change of an instruction that writes.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Write {
    Dropped,
    ResetInstead,
}

struct Weaver {
    wanted: HashMap<(Mutation, usize), usize>,
    seen: HashMap<Mutation, usize>,
    seeders: Vec<(Mutation, Seeder)>,
    /// The number of the first selector among the globals.
    first: u32,
    open: Vec<Open>,
    done: Vec<bool>,
}

impl Weaver {
    /// Counts a site; gives the fault that is wanted there.
    fn count(&mut self, kind: Mutation) -> Option<usize> {
        let seen = self.seen.entry(kind).or_default();
        *seen += 1;
        self.wanted.get(&(kind, *seen - 1)).copied()
    }

    fn selected(&self, fault: usize, span: Span) -> TExpr {
        read(Place { root: Root::Global(self.first + fault as u32), steps: Vec::new(), ty: Ty::BOOL, span })
    }

    fn expr(&mut self, expr: &mut TExpr, vars: &[Var]) {
        let mut changes = Vec::new();
        for number in 0..self.seeders.len() {
            let (kind, seeder) = &mut self.seeders[number];
            let kind = *kind;
            if !seeder.is_site(expr, vars) {
                continue;
            }
            let Some(fault) = self.count(kind) else { continue };
            if let Some(changed) = self.seeders[number].1.mutated(expr, vars)
                && is_plain(&expr.ty)
            {
                self.done[fault] = true;
                changes.push((fault, changed));
            }
        }
        self.open.push(Open::Expr(changes));
    }

    fn end_expr(&mut self, expr: &mut TExpr) {
        let Some(Open::Expr(changes)) = self.open.pop() else { return };
        for (fault, changed) in changes {
            let was = std::mem::replace(expr, truth(false, changed.span));
            *expr = choice(self.selected(fault, changed.span), was, changed);
        }
    }

    fn statements(&mut self, list: &[TStmt]) {
        let mut changes = Vec::new();
        for at in 1..list.len() {
            if let Some(fault) = self.count(Mutation::Moved) {
                self.done[fault] = true;
                changes.push(Change::Moved(fault, at, Box::new([list[at - 1].clone(), list[at].clone()])));
            }
        }
        for (at, stmt) in list.iter().enumerate() {
            let branches: Vec<usize> = match &stmt.kind {
                TStmtKind::If(branches, otherwise) => {
                    let last = (!otherwise.is_empty()).then_some(branches.len());
                    (0..branches.len()).chain(last).collect()
                }
                TStmtKind::Case(_, arms, _) => (0..arms.len()).filter(|arm| !arms[*arm].1.is_empty()).collect(),
                TStmtKind::Assign(..) => {
                    if let Some(fault) = self.count(Mutation::Dropped) {
                        self.done[fault] = true;
                        changes.push(Change::Dropped(fault, at));
                    }
                    continue;
                }
                TStmtKind::Call(_)
                | TStmtKind::Restart(_)
                | TStmtKind::For(_)
                | TStmtKind::While(..)
                | TStmtKind::Repeat(..)
                | TStmtKind::Exit
                | TStmtKind::Continue
                | TStmtKind::Return => continue,
            };
            for branch in branches {
                if let Some(fault) = self.count(Mutation::Dropped) {
                    self.done[fault] = true;
                    changes.push(Change::Emptied(fault, at, branch));
                }
            }
        }
        self.open.push(Open::Statements(changes));
    }

    fn end_statements(&mut self, list: &mut [TStmt]) {
        let Some(Open::Statements(changes)) = self.open.pop() else { return };
        let mut instead: HashMap<usize, Vec<(TExpr, Vec<TStmt>)>> = HashMap::new();
        for change in changes {
            match change {
                Change::Moved(fault, at, two) => {
                    let [before, this] = *two;
                    let selected = self.selected(fault, this.span);
                    instead.entry(at - 1).or_default().push((selected.clone(), vec![this]));
                    instead.entry(at).or_default().push((selected, vec![before]));
                }
                Change::Dropped(fault, at) => {
                    let selected = self.selected(fault, list[at].span);
                    instead.entry(at).or_default().push((selected, Vec::new()));
                }
                Change::Emptied(fault, at, branch) => {
                    let selected = self.selected(fault, list[at].span);
                    let body = match &mut list[at].kind {
                        TStmtKind::If(branches, otherwise) => {
                            branches.get_mut(branch).map_or(otherwise, |(_, body)| body)
                        }
                        TStmtKind::Case(_, arms, otherwise) => arms.get_mut(branch).map_or(otherwise, |(_, body)| body),
                        TStmtKind::Assign(..)
                        | TStmtKind::Call(_)
                        | TStmtKind::Restart(_)
                        | TStmtKind::For(_)
                        | TStmtKind::While(..)
                        | TStmtKind::Repeat(..)
                        | TStmtKind::Exit
                        | TStmtKind::Continue
                        | TStmtKind::Return => continue,
                    };
                    let was = std::mem::take(body);
                    let span = selected.span;
                    body.push(TStmt { kind: TStmtKind::If(vec![(selected, Vec::new())], was), span });
                }
            }
        }
        for (at, branches) in instead {
            let span = list[at].span;
            let empty = TStmt { kind: TStmtKind::If(Vec::new(), Vec::new()), span };
            let was = std::mem::replace(&mut list[at], empty);
            list[at].kind = TStmtKind::If(branches, vec![was]);
        }
    }

    fn instructions(&mut self, list: &[TInstr]) {
        let mut changes = Vec::new();
        for (at, instr) in list.iter().enumerate() {
            match &instr.kind {
                // A jump that is left out takes the current result with it; such a fault is tried by itself.
                TInstrKind::Jump(When::IfTrue | When::IfFalse, _) => {
                    self.count(Mutation::Dropped);
                }
                TInstrKind::Set(place) | TInstrKind::Reset(place) => {
                    // As they are counted: the one that is dropped first.
                    let mut kinds = vec![(Mutation::Dropped, Write::Dropped)];
                    if matches!(instr.kind, TInstrKind::Set(_)) {
                        kinds.push((Mutation::Dominance, Write::ResetInstead));
                    }
                    for (kind, write) in kinds {
                        if let Some(fault) = self.count(kind).filter(|_| place.ty == Ty::BOOL) {
                            self.done[fault] = true;
                            changes.push((fault, at, write));
                        }
                    }
                }
                TInstrKind::Store(place, value) => {
                    let fits = is_plain(&place.ty) && place.ty == value.ty;
                    if let Some(fault) = self.count(Mutation::Dropped).filter(|_| fits) {
                        self.done[fault] = true;
                        changes.push((fault, at, Write::Dropped));
                    }
                }
                TInstrKind::Nop
                | TInstrKind::Compute(_)
                | TInstrKind::Jump(When::Always, _)
                | TInstrKind::Call(..)
                | TInstrKind::Restart(_)
                | TInstrKind::Return(_) => {}
            }
        }
        self.open.push(Open::Instructions(changes));
    }

    fn end_instructions(&mut self, list: &mut [TInstr]) {
        let Some(Open::Instructions(changes)) = self.open.pop() else { return };
        for (fault, at, write) in changes {
            let instr = &mut list[at];
            let span = instr.span;
            let current = TExpr { kind: TKind::Current, ty: Ty::BOOL, span };
            let (place, value) = match std::mem::replace(&mut instr.kind, TInstrKind::Nop) {
                TInstrKind::Set(place) => (place.clone(), choice(current.clone(), read(place), truth(true, span))),
                TInstrKind::Reset(place) => (place.clone(), choice(current.clone(), read(place), truth(false, span))),
                TInstrKind::Store(place, value) => (place, value),
                other @ (TInstrKind::Nop
                | TInstrKind::Compute(_)
                | TInstrKind::Jump(..)
                | TInstrKind::Call(..)
                | TInstrKind::Restart(_)
                | TInstrKind::Return(_)) => {
                    instr.kind = other;
                    continue;
                }
            };
            let changed = match write {
                Write::Dropped => read(place.clone()),
                Write::ResetInstead => choice(current, read(place.clone()), truth(false, span)),
            };
            instr.kind = TInstrKind::Store(place, choice(self.selected(fault, span), value, changed));
        }
    }
}

/// Types whose values a selector can choose between.
fn is_plain(ty: &Ty) -> bool {
    ty.elem().is_some()
}

fn truth(value: bool, span: Span) -> TExpr {
    TExpr { kind: TKind::Const(i64::from(value)), ty: Ty::BOOL, span }
}

fn read(place: Place) -> TExpr {
    TExpr { ty: place.ty.clone(), span: place.span, kind: TKind::Read(place) }
}

/// The second where the condition holds, the first elsewhere.
fn choice(condition: TExpr, otherwise: TExpr, then: TExpr) -> TExpr {
    let (ty, span) = (otherwise.ty.clone(), otherwise.span);
    TExpr { kind: TKind::Function(Function::Sel, vec![condition, otherwise, then]), ty, span }
}
