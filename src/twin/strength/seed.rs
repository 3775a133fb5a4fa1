//! Seeding one fault.

use super::Mutation;
use crate::check::Checked;
use crate::check::sites::{self, Pass, Site};
use crate::check::typed::{PathStep, Place, Root, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind, Ty, Var};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Duration, Elem, Retain, When};
use crate::source::Span;

/// Where the sites of each kind are.
pub(super) fn sites(checked: &Checked, scan: Duration) -> Vec<(Mutation, Vec<Span>)> {
    let mut same = checked.clone();
    Mutation::ALL.iter().map(|kind| (*kind, Seeder::over(&mut same, *kind, usize::MAX, scan).seen)).collect()
}

/// The project with a fault of this kind at this site, if there is one.
pub(super) fn seeded(checked: &Checked, kind: Mutation, site: usize, scan: Duration) -> Option<Checked> {
    let mut changed = checked.clone();
    let is_there = Seeder::over(&mut changed, kind, site, scan).seen.len() > site;
    is_there.then_some(changed)
}

/// Fields Q and CLK of edge blocks, by unit.
fn edges(checked: &Checked) -> Vec<(u32, u32, u32)> {
    let field = |unit: &crate::check::typed::TUnit, name: &str| {
        unit.vars.iter().position(|v| v.name.eq_ignore_ascii_case(name)).map(|n| n as u32)
    };
    let edges = checked.units.iter().enumerate().filter(|(_, u)| matches!(u.name.as_str(), "R_TRIG" | "F_TRIG"));
    edges.filter_map(|(n, u)| Some((n as u32, field(u, "Q")?, field(u, "CLK")?))).collect()
}

pub(super) struct Seeder {
    kind: Mutation,
    /// Which site is changed.
    wanted: usize,
    /// Where the sites are that were passed.
    seen: Vec<Span>,
    scan: Duration,
    /// Fields Q and CLK of edge blocks, by unit.
    edges: Vec<(u32, u32, u32)>,
}

impl Seeder {
    /// One that looks at single expressions.
    pub(super) fn of(checked: &Checked, kind: Mutation, scan: Duration) -> Seeder {
        Seeder { kind, wanted: usize::MAX, seen: Vec::new(), scan, edges: edges(checked) }
    }

    /// Whether a fault of this kind can be seeded into an expression itself, and the expression with it.
    pub(super) fn mutated(&mut self, expr: &TExpr, vars: &[Var]) -> Option<TExpr> {
        let mut changed = expr.clone();
        (self.wanted, self.seen) = (0, Vec::new());
        self.expr(&mut changed, vars);
        (!self.seen.is_empty()).then_some(changed)
    }

    /// Whether a fault of this kind can be seeded into an expression itself.
    pub(super) fn is_site(&mut self, expr: &mut TExpr, vars: &[Var]) -> bool {
        (self.wanted, self.seen) = (usize::MAX, Vec::new());
        self.expr(expr, vars);
        !self.seen.is_empty()
    }

    fn over(checked: &mut Checked, kind: Mutation, wanted: usize, scan: Duration) -> Seeder {
        let mut seeder = Seeder { kind, wanted, seen: Vec::new(), scan, edges: edges(checked) };
        if kind == Mutation::Retention {
            let globals = checked.globals.iter_mut();
            let own = checked.units.iter_mut().filter(|u| !u.built_in).flat_map(|u| &mut u.vars);
            globals.chain(own).for_each(|var| seeder.retention(var));
            return seeder;
        }
        for unit in checked.units.iter_mut().filter(|u| !u.built_in) {
            let vars = unit.vars.clone();
            sites::unit(unit, &mut |pass, site| match (pass, site) {
                (Pass::Down, Site::Expr(expr)) => seeder.expr(expr, &vars),
                (Pass::Down, Site::Statements(list)) => seeder.statements(list),
                (Pass::Down, Site::Instructions(list)) => seeder.instructions(list),
                (Pass::Up, Site::Expr(_) | Site::Statements(_) | Site::Instructions(_)) => {}
            });
        }
        seeder
    }

    /// Counts a site; true if it is the one to change.
    fn here(&mut self, span: Span) -> bool {
        self.seen.push(span);
        self.seen.len() - 1 == self.wanted
    }

    fn retention(&mut self, var: &mut Var) {
        if var.retain == Retain::Retain && !var.constant && self.here(var.span) {
            var.retain = Retain::NonRetain;
        }
    }

    fn expr(&mut self, expr: &mut TExpr, vars: &[Var]) {
        match self.kind {
            Mutation::Contact => {
                if matches!(expr.kind, TKind::Read(_)) && expr.ty == Ty::BOOL && self.here(expr.span) {
                    let inner = expr.clone();
                    expr.kind = TKind::Unary(UnaryOp::Not, Box::new(inner));
                }
            }
            Mutation::Name => self.name(expr, vars),
            Mutation::Preset | Mutation::Tick => self.constant(expr),
            Mutation::Comparison => self.comparison(expr),
            Mutation::Dominance => self.dominance(expr),
            Mutation::Edge => self.edge(expr, vars),
            Mutation::Dropped | Mutation::Moved | Mutation::Retention => {}
        }
    }

    fn name(&mut self, expr: &mut TExpr, vars: &[Var]) {
        let TKind::Read(Place { root: Root::Local(number), steps, .. }) = &mut expr.kind else { return };
        let (Some(own), true) = (vars.get(*number as usize), steps.is_empty()) else { return };
        let like = |v: &Var| v.ty == own.ty && v.global.is_none() && !v.is_hidden();
        let count = vars.len();
        let other = (1..count).map(|by| (*number as usize + by) % count).find(|n| like(&vars[*n]));
        if let (Some(other), true) = (other, !own.is_hidden())
            && self.here(expr.span)
        {
            *number = other as u32;
        }
    }

    fn constant(&mut self, expr: &mut TExpr) {
        let TKind::Const(value) = expr.kind else { return };
        let is_time = expr.ty.elem().is_some_and(Elem::is_time);
        let is_number = expr.ty.elem().is_some_and(|e| e.shape().is_some() && e != Elem::Bool && !e.is_time());
        let new = match (self.kind, is_time, is_number) {
            (Mutation::Preset, true, _) => value.saturating_add(self.scan.nanos()),
            (Mutation::Preset, _, true) if (2..100_000).contains(&value) => value + 1,
            (Mutation::Tick, true, _) if value > 0 => value.saturating_mul(10),
            _ => return,
        };
        if self.here(expr.span) {
            expr.kind = TKind::Const(new);
        }
    }

    fn comparison(&mut self, expr: &mut TExpr) {
        let TKind::Binary(op, ..) = &mut expr.kind else { return };
        let Some(other) = op.mistaken_for().first() else { return };
        if self.here(expr.span) {
            *op = *other;
        }
    }

    /// `a OR (b AND c)` becomes `(a OR b) AND c`, and back: what set or reset first no longer does.
    fn dominance(&mut self, expr: &mut TExpr) {
        let TKind::Binary(outer @ (BinaryOp::Or | BinaryOp::And), typing, left, right) = &expr.kind else { return };
        if expr.ty != Ty::BOOL {
            return;
        }
        let other = if *outer == BinaryOp::Or { BinaryOp::And } else { BinaryOp::Or };
        let inner_of = |e: &TExpr| matches!(&e.kind, TKind::Binary(op, ..) if *op == other);
        let (alone, inner) = match (inner_of(left), inner_of(right)) {
            (_, true) => (left, right),
            (true, _) => (right, left),
            _ => return,
        };
        let TKind::Binary(_, _, b, c) = &inner.kind else { return };
        let grouped =
            TExpr { kind: TKind::Binary(*outer, *typing, alone.clone(), b.clone()), ty: Ty::BOOL, span: expr.span };
        let new = TKind::Binary(other, *typing, Box::new(grouped), c.clone());
        if self.here(expr.span) {
            expr.kind = new;
        }
    }

    fn edge(&mut self, expr: &mut TExpr, vars: &[Var]) {
        let TKind::Read(Place { root: Root::Local(number), steps, .. }) = &mut expr.kind else { return };
        let Some(Ty::Block(unit)) = vars.get(*number as usize).map(|v| &v.ty) else { return };
        let (Some((_, q, level)), [PathStep::Field(field)]) =
            (self.edges.iter().find(|(u, ..)| *u == unit.0).copied(), steps.as_mut_slice())
        else {
            return;
        };
        if *field == q && self.here(expr.span) {
            *field = level;
        }
    }

    fn statements(&mut self, list: &mut Vec<TStmt>) {
        if self.kind == Mutation::Moved {
            for at in 1..list.len() {
                if self.here(list[at].span) {
                    list.swap(at - 1, at);
                    return;
                }
            }
        }
        if self.kind != Mutation::Dropped {
            return;
        }
        for at in 0..list.len() {
            let span = list[at].span;
            match &mut list[at].kind {
                TStmtKind::If(branches, otherwise) => {
                    for (condition, body) in branches.iter_mut() {
                        if self.here(condition.span) {
                            body.clear();
                            return;
                        }
                    }
                    if let Some(first) = otherwise.first().map(|s| s.span)
                        && self.here(first)
                    {
                        otherwise.clear();
                        return;
                    }
                }
                TStmtKind::Case(_, arms, _) => {
                    for (_, body) in arms.iter_mut() {
                        if let Some(first) = body.first().map(|s| s.span)
                            && self.here(first)
                        {
                            body.clear();
                            return;
                        }
                    }
                }
                TStmtKind::Assign(..) if self.here(span) => {
                    list.remove(at);
                    return;
                }
                TStmtKind::Assign(..)
                | TStmtKind::Call(_)
                | TStmtKind::Restart(_)
                | TStmtKind::For(_)
                | TStmtKind::While(..)
                | TStmtKind::Repeat(..)
                | TStmtKind::Exit
                | TStmtKind::Continue
                | TStmtKind::Return => {}
            }
        }
    }

    fn instructions(&mut self, list: &mut [TInstr]) {
        for instr in list {
            let span = instr.span;
            let writes = matches!(instr.kind, TInstrKind::Set(_) | TInstrKind::Reset(_) | TInstrKind::Store(..));
            match (self.kind, &instr.kind) {
                (Mutation::Dropped, TInstrKind::Jump(When::IfTrue | When::IfFalse, _)) if self.here(span) => {
                    instr.kind = TInstrKind::Nop;
                    return;
                }
                (Mutation::Dropped, _) if writes && self.here(span) => {
                    instr.kind = TInstrKind::Nop;
                    return;
                }
                (Mutation::Dominance, TInstrKind::Set(place)) if self.here(span) => {
                    // The other word: what was set is reset.
                    instr.kind = TInstrKind::Reset(place.clone());
                    return;
                }
                _ => {}
            }
        }
    }
}
