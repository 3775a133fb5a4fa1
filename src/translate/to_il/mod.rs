//! Structured text to instruction list: parentheses instead of temporaries, S and R where they fit, labels that
//! say what they are for.

mod expr;
mod flow;

use super::ledger::Entry;
use super::names::Namer;
use super::{Context, Translated};
use crate::check::typed::{Code, TKind, TStmt, TStmtKind, Ty, UnitId};
use crate::check::walk::walk_block;
use crate::model::functions::TypeRule;
use crate::model::ops::UnaryOp;
use crate::model::{
    Arg, Body, Call, Expr, ExprKind, Instr, InstrKind, LiteralValue, Name, Notes, Operand, Section, Stmt, StmtKind,
    TypeSpec, When,
};
use crate::source::{FileId, Span};
use std::collections::HashMap;

/// Translates the statements of a unit.
pub(super) fn body(context: &Context<'_>, namer: Namer, list: &[Stmt]) -> Translated {
    let mut typed = HashMap::new();
    let mut choices = HashMap::new();
    if let Code::Block(block) = &context.typed.code {
        super::index(block, &mut typed);
        walk_block(block, &mut |expr| {
            if let TKind::Function(function, _) = &expr.kind
                && let TypeRule::Choice(_) = function.row().rule
            {
                choices.insert(expr.span, expr.ty.clone());
            }
        });
    }
    let mut writer = ListWriter {
        context,
        namer,
        callees: super::callees(&typed),
        typed,
        choices,
        out: Vec::new(),
        labels: Vec::new(),
        notes: Notes::default(),
        loops: Vec::new(),
        added: Vec::new(),
        ledger: Vec::new(),
    };
    writer.statements(list);
    writer.end_labels();
    Translated {
        body: Body::Instructions(writer.out),
        added: writer.added,
        kept: Vec::new(),
        removed: Vec::new(),
        ledger: writer.ledger,
    }
}

/// The labels of a loop around the code at hand.
struct LoopLabels {
    exit: String,
    next: String,
    next_used: bool,
}

struct ListWriter<'c> {
    context: &'c Context<'c>,
    namer: Namer,
    typed: HashMap<Span, &'c TStmt>,
    callees: HashMap<(FileId, u32), UnitId>,
    /// Types of SEL and MUX, by their place.
    choices: HashMap<Span, Ty>,
    out: Vec<Instr>,
    /// Labels that wait for the next instruction.
    labels: Vec<(String, Span)>,
    /// Comments that wait for the next instruction.
    notes: Notes,
    loops: Vec<LoopLabels>,
    added: Vec<(String, TypeSpec)>,
    ledger: Vec<Entry>,
}

impl ListWriter<'_> {
    fn emit(&mut self, kind: InstrKind, span: Span) {
        // A label ends what stands above it; comments and blank lines begin what stands below.
        let begins = self.notes.blank_before || !self.notes.leading.is_empty();
        self.flush_labels(usize::from(!begins));
        let label = self.labels.pop().map(|(text, span)| Name::new(text, span));
        let notes = std::mem::take(&mut self.notes);
        self.out.push(Instr { label, kind, span, notes });
    }

    /// All waiting labels but `kept` get lines of their own.
    fn flush_labels(&mut self, kept: usize) {
        let waiting = self.labels.len().saturating_sub(kept);
        for (text, span) in self.labels.drain(..waiting).collect::<Vec<_>>() {
            let notes = Notes::default();
            self.out.push(Instr { label: Some(Name::new(text, span)), kind: InstrKind::Empty, span, notes });
        }
    }

    fn end_labels(&mut self) {
        for (text, span) in std::mem::take(&mut self.labels) {
            let notes = Notes::default();
            self.out.push(Instr { label: Some(Name::new(text, span)), kind: InstrKind::Empty, span, notes });
        }
        if !self.notes.leading.is_empty() {
            let span = self.context.unit.name.span;
            let notes = std::mem::take(&mut self.notes);
            self.out.push(Instr { label: None, kind: InstrKind::Empty, span, notes });
        }
    }

    fn place_label(&mut self, text: String, span: Span) {
        self.labels.push((text, span));
    }

    fn jump(&mut self, when: When, to: &str, span: Span) {
        self.emit(InstrKind::Jump(when, Name::new(to, span)), span);
    }

    /// A variable that holds a value the list cannot keep.
    fn added(&mut self, base: &str, spec: TypeSpec, why: &str, span: Span) -> Expr {
        let text = self.namer.fresh(base);
        self.added.push((text.clone(), spec));
        let entry = self.context.added_entry(&text, why, span);
        self.ledger.push(entry);
        Expr::variable(text, span)
    }

    fn statements(&mut self, list: &[Stmt]) {
        for stmt in list {
            self.take_notes(&stmt.notes);
            if matches!(stmt.kind, StmtKind::Empty) {
                let span = stmt.span;
                if !self.notes.leading.is_empty() || !stmt.notes.trailing.is_empty() {
                    self.notes.leading.extend(stmt.notes.trailing.iter().cloned());
                    self.emit(InstrKind::Empty, span);
                }
                continue;
            }
            self.statement(stmt);
            if let Some(last) = self.out.last_mut() {
                last.notes.trailing.extend(stmt.notes.trailing.iter().cloned());
            }
        }
    }

    fn take_notes(&mut self, notes: &Notes) {
        self.notes.blank_before |= notes.blank_before;
        self.notes.leading.extend(notes.leading.iter().cloned());
    }

    fn statement(&mut self, stmt: &Stmt) {
        let span = stmt.span;
        match &stmt.kind {
            StmtKind::Empty => {}
            StmtKind::Assign(target, value) => {
                self.load(value);
                self.emit(InstrKind::Store(false, target.clone()), span);
            }
            StmtKind::Call(call) => self.call(call),
            StmtKind::If(branches, otherwise) => {
                let short = self.set_or_reset(branches, otherwise.as_deref(), span)
                    || self.leave_if(branches, otherwise.as_deref(), span);
                if !short {
                    self.conditional(branches, otherwise.as_deref(), span);
                }
            }
            StmtKind::Case(selector, branches, otherwise) => self.case(selector, branches, otherwise.as_deref(), span),
            StmtKind::For(head, body) => self.for_loop(head, body, span),
            StmtKind::While(condition, body) => self.while_loop(condition, body, span),
            StmtKind::Repeat(body, condition) => self.repeat_loop(body, condition, span),
            StmtKind::Exit => {
                if let Some(inner) = self.loops.last() {
                    let to = inner.exit.clone();
                    self.jump(When::Always, &to, span);
                }
            }
            StmtKind::Continue => {
                if let Some(inner) = self.loops.last_mut() {
                    inner.next_used = true;
                    let to = inner.next.clone();
                    self.jump(When::Always, &to, span);
                }
            }
            StmtKind::Return => self.emit(InstrKind::Return(When::Always), span),
        }
    }

    /// A call of a block, or of a function for its effect.
    fn call(&mut self, call: &Call) {
        let is_function = if let ExprKind::Name(n) = &call.callee.kind {
            self.context.variable_type(&n.text).is_none()
        } else {
            false
        };
        let is_restart = matches!(&call.callee.kind, ExprKind::Name(n) if n.text.eq_ignore_ascii_case("RESTART"));
        if is_function && !is_restart {
            self.function(call);
            return;
        }
        let parameters = self.block_parameters(&call.callee);
        let mut args = Vec::new();
        for (position, arg) in call.args.iter().enumerate() {
            args.push(match arg {
                Arg::Plain(Operand::Expr(value)) if !is_restart => {
                    let text = parameters.get(position).cloned().unwrap_or_default();
                    Arg::Input(Name::new(text, value.span), self.argument(value))
                }
                Arg::Input(to, Operand::Expr(value)) => Arg::Input(to.clone(), self.argument(value)),
                other @ (Arg::Plain(_) | Arg::Input(..) | Arg::Output { .. }) => other.clone(),
            });
        }
        let call = Call { callee: call.callee.clone(), args, span: call.span };
        let span = call.span;
        self.emit(InstrKind::Call(When::Always, call), span);
    }

    /// Names of a block's inputs in order, for arguments given by position.
    fn block_parameters(&self, callee: &Expr) -> Vec<String> {
        let unit = self.callees.get(&(callee.span.file, callee.span.start)).copied();
        let Some(unit) = unit else { return Vec::new() };
        let vars = self.context.checked.unit(unit).vars.iter();
        vars.filter(|v| matches!(v.section, Section::Input | Section::InOut)).map(|v| v.name.clone()).collect()
    }

    /// `IF c THEN EXIT; END_IF` is one conditional jump; with RETURN it is RETC.
    fn leave_if(&mut self, branches: &[(Expr, Vec<Stmt>)], otherwise: Option<&[Stmt]>, span: Span) -> bool {
        let ([(condition, body)], None) = (branches, otherwise) else { return false };
        let [Stmt { kind: StmtKind::Exit | StmtKind::Continue | StmtKind::Return, notes, .. }] = body.as_slice() else {
            return false;
        };
        self.take_notes(notes);
        let (condition, when) = if let ExprKind::Unary(UnaryOp::Not, inner) = &condition.kind {
            (&**inner, When::IfFalse)
        } else {
            (condition, When::IfTrue)
        };
        self.load(condition);
        match (&body[0].kind, self.loops.last_mut()) {
            (StmtKind::Exit, Some(inner)) => {
                let to = inner.exit.clone();
                self.jump(when, &to, span);
            }
            (StmtKind::Continue, Some(inner)) => {
                inner.next_used = true;
                let to = inner.next.clone();
                self.jump(when, &to, span);
            }
            _ => self.emit(InstrKind::Return(when), span),
        }
        true
    }

    /// `IF c THEN x := TRUE; END_IF` is `S x`, with FALSE `R x`; several of them in a row too.
    fn set_or_reset(&mut self, branches: &[(Expr, Vec<Stmt>)], otherwise: Option<&[Stmt]>, span: Span) -> bool {
        let [(condition, body)] = branches else { return false };
        if otherwise.is_some() || body.is_empty() {
            return false;
        }
        let mut writes = Vec::new();
        for stmt in body {
            let StmtKind::Assign(target, value) = &stmt.kind else { return false };
            let ExprKind::Literal(literal) = &value.kind else { return false };
            let (LiteralValue::Bool(set), None) = (&literal.value, &literal.typed) else { return false };
            let bool_target = matches!(self.typed.get(&stmt.span).map(|t| &t.kind),
                Some(TStmtKind::Assign(place, _)) if place.ty == Ty::BOOL);
            if !bool_target || !matches!(target.kind, ExprKind::Name(_) | ExprKind::Address(_) | ExprKind::Field(..)) {
                return false;
            }
            writes.push((*set, target.clone(), stmt));
        }
        self.load(condition);
        for (set, target, stmt) in writes {
            self.take_notes(&stmt.notes);
            let kind = if set { InstrKind::Set(target) } else { InstrKind::Reset(target) };
            self.emit(kind, span);
            if let Some(last) = self.out.last_mut() {
                last.notes.trailing.extend(stmt.notes.trailing.iter().cloned());
            }
        }
        true
    }
}
