//! The current result as an expression that is carried along and written where it is stored or decided on.
//!
//! The expression is only good while nothing it looks at is written. Before something is, and the result is still
//! needed, it goes into a variable (or is the variable it was just stored to).

use super::simplify::{depth, may_fault, mentions, negate, root, size};
use super::types::Types;
use super::{Additions, Line, live};
use crate::check::typed::Ty;
use crate::model::ops::UnaryOp;
use crate::model::{
    Arg, Call, Comment, CommentKind, Elem, Expr, ExprKind, FunctionForm, Instr, InstrKind, Name, Notes, Operand,
    Section, Stmt, StmtKind, TypeSpec, UnitKind, When,
};
use crate::source::Span;
use crate::translate::ledger::{Grade, KEPT_FOR_FAULT, UNREACHABLE_KEPT};
use std::collections::HashMap;

mod labels;

/// Expressions that are used again are put into a variable when they have more parts than this.
const WORTH_A_VARIABLE: usize = 12;
/// No expression nests deeper; readers have limits too.
const DEEPEST: usize = 60;

pub(super) fn lines<'c>(additions: Additions<'c>, list: &[Instr]) -> (Vec<Line>, Additions<'c>) {
    let types = Types::of(&additions.context.typed.code);
    let mut reader = CurrentReader {
        additions,
        types,
        out: Vec::new(),
        current: None,
        notes: Notes::default(),
        facts: HashMap::new(),
        results: HashMap::new(),
    };
    reader.top(list);
    (reader.out, reader.additions)
}

/// The current result.
#[derive(Clone)]
struct Current {
    expr: Expr,
    /// Where it was computed last, to find its type.
    at: Span,
    /// It has been written somewhere.
    used: bool,
}

struct CurrentReader<'c> {
    additions: Additions<'c>,
    types: Types,
    out: Vec<Line>,
    current: Option<Current>,
    /// Comments of instructions that have not become a statement yet.
    notes: Notes,
    /// What is known of the labels.
    facts: HashMap<String, labels::Fact>,
    /// The variables that carry a current result to a label.
    results: HashMap<String, Expr>,
}

impl CurrentReader<'_> {
    fn top(&mut self, list: &[Instr]) {
        let live = live::before(list);
        let reached = live::reached(list);
        self.facts = labels::facts(list, &live, &reached);
        for (key, fact) in &self.facts {
            let stored = labels::stored_at(fact, list, &live);
            self.results.extend(stored.map(|target| (key.clone(), target)));
        }
        let mut index = 0;
        while index < list.len() {
            let instr = &list[index];
            if !reached[index] {
                index = self.never_reached(list, &reached, index);
                continue;
            }
            if let Some(label) = &instr.label {
                self.label(label);
            }
            let group = self.group(&list[index..]);
            self.take_notes(instr);
            if group > 0 {
                self.set_and_reset(&list[index..index + group], live[index + group]);
                index += group;
                continue;
            }
            let live_after = live[index + 1];
            self.instruction(instr, live_after);
            index += 1;
        }
        self.drop_current();
        self.loose_notes();
    }

    /// Instructions that no scan reaches stay as a comment.
    fn never_reached(&mut self, list: &[Instr], reached: &[bool], from: usize) -> usize {
        let end = (from..list.len()).find(|i| reached[*i]).unwrap_or(list.len());
        let context = self.additions.context;
        let mut texts = Vec::new();
        for instr in &list[from..end] {
            self.notes.leading.extend(instr.notes.leading.iter().chain(&instr.notes.trailing).cloned());
            texts.push(context.checked.project().excerpt(instr.span).replace("(*", "").replace("*)", ""));
        }
        let text = format!("no scan reaches this: {}", texts.join("; "));
        self.notes.leading.push(Comment { kind: CommentKind::Paren, text });
        let reason =
            "no scan reaches these instructions: they stand behind a jump or return and no jump leads to them; \
                      they are kept as a comment"
                .to_string();
        let entry = context.entry(UNREACHABLE_KEPT, Grade::Exact, list[from].span, None, reason);
        self.additions.ledger.push(entry);
        self.loose_notes();
        end
    }

    fn take_notes(&mut self, instr: &Instr) {
        if self.notes.leading.is_empty() && self.notes.trailing.is_empty() {
            self.notes.blank_before |= instr.notes.blank_before;
        }
        // A comment behind an instruction that does not end a statement goes above the statement.
        let trailing = std::mem::take(&mut self.notes.trailing);
        self.notes.leading.extend(trailing);
        self.notes.leading.extend(instr.notes.leading.iter().cloned());
        self.notes.trailing.extend(instr.notes.trailing.iter().cloned());
    }

    /// Comments that belong to no statement become lines of their own.
    fn loose_notes(&mut self) {
        let mut notes = std::mem::take(&mut self.notes);
        let trailing: Vec<Comment> = std::mem::take(&mut notes.trailing);
        notes.leading.extend(trailing);
        if !notes.leading.is_empty() {
            let span = self.additions.context.unit.name.span;
            self.out.push(Line::Stmt(Stmt { kind: StmtKind::Empty, span, notes }));
        }
    }

    fn emit(&mut self, kind: StmtKind, span: Span) {
        let notes = std::mem::take(&mut self.notes);
        self.out.push(Line::Stmt(Stmt { kind, span, notes }));
    }

    /// A statement that comes before the one whose comments are waiting.
    fn emit_before(&mut self, kind: StmtKind, span: Span) {
        let notes = Notes { blank_before: std::mem::take(&mut self.notes.blank_before), ..Notes::default() };
        self.out.push(Line::Stmt(Stmt { kind, span, notes }));
    }

    fn type_at(&self, at: Span) -> TypeSpec {
        match self.types.results.get(&at) {
            Some(ty) => self.additions.context.spec(ty, at),
            None => TypeSpec::Elem(Elem::Int, at),
        }
    }

    fn added(&mut self, base: &str, spec: TypeSpec, span: Span, why: &str) -> Expr {
        let text = self.additions.namer.fresh(base);
        self.additions.added.push((text.clone(), spec));
        let entry = self.additions.context.added_entry(&text, why, span);
        self.additions.ledger.push(entry);
        Expr::variable(text, span)
    }

    /// Puts the current result into a variable.
    fn keep(&mut self, why: &str) {
        let Some(current) = self.current.clone() else { return };
        if matches!(current.expr.kind, ExprKind::Literal(_)) {
            return;
        }
        let spec = self.type_at(current.at);
        let held = self.added("Result", spec, current.at, why);
        self.emit_before(StmtKind::Assign(held.clone(), current.expr), current.at);
        self.current = Some(Current { expr: held, at: current.at, used: true });
    }

    /// A new current result takes the place of the old one; one that nothing used is still computed if it may fault.
    fn drop_current(&mut self) {
        let Some(current) = self.current.take() else { return };
        if !current.used && may_fault(&current.expr) {
            let spec = self.type_at(current.at);
            let why = "its value is not used, but computing it may be a fault";
            let held = self.added("Unused", spec, current.at, why);
            if let Some(entry) = self.additions.ledger.last_mut() {
                entry.code = KEPT_FOR_FAULT;
            }
            self.emit_before(StmtKind::Assign(held, current.expr), current.at);
        }
    }

    fn set(&mut self, expr: Expr, at: Span) {
        let deep = depth(&expr) > DEEPEST;
        self.current = Some(Current { expr, at, used: false });
        if deep {
            self.keep("the expression would be nested too deeply");
        }
    }

    /// The current result, to be written into a statement.
    fn value(&mut self) -> Expr {
        match &mut self.current {
            Some(current) => {
                current.used = true;
                current.expr.clone()
            }
            // The checker lets nothing through that uses a result before there is one.
            None => Expr::truth(true, self.additions.context.unit.name.span),
        }
    }

    /// Whether the current result has more parts than are written twice.
    fn is_long(&self) -> bool {
        self.current.as_ref().is_some_and(|c| size(&c.expr) > WORTH_A_VARIABLE)
    }

    /// Before `name` is written (or everything, for `None`): saves the current result if it looks at it.
    fn before_write(&mut self, name: Option<&str>, needed: bool) {
        let Some(current) = &self.current else { return };
        let hit = match name {
            Some(name) => mentions(&current.expr, name) || self.shares(name),
            None => !matches!(current.expr.kind, ExprKind::Literal(_)),
        };
        if hit && needed {
            self.keep("the current result is used again after something it was computed from has changed");
        } else if hit {
            // Nothing needs it any more; what could fault must happen before the write.
            self.drop_current();
        }
    }

    /// A variable passed by reference may be any other one.
    fn shares(&self, name: &str) -> bool {
        let vars = &self.additions.context.typed.vars;
        vars.iter().any(|v| v.section == Section::InOut)
            && vars
                .iter()
                .any(|v| v.name.eq_ignore_ascii_case(name) && matches!(v.section, Section::InOut | Section::External))
    }

    fn is_block(&self, operand: &Expr) -> bool {
        let ExprKind::Name(name) = &operand.kind else { return false };
        matches!(self.additions.context.variable_type(&name.text), Some(Ty::Block(_)))
    }

    /// How many instructions from here on are S and R of one current result.
    fn group(&self, list: &[Instr]) -> usize {
        let is_set = |instr: &Instr| {
            if let InstrKind::Set(target) | InstrKind::Reset(target) = &instr.kind {
                !self.is_block(target)
            } else {
                false
            }
        };
        let first = usize::from(list.first().is_some_and(is_set));
        first + list[first..].iter().take_while(|i| first > 0 && is_set(i) && i.label.is_none()).count()
    }

    /// `S a`, `R b` in a row: one IF, for the current result does not change in between.
    fn set_and_reset(&mut self, list: &[Instr], needed: bool) {
        let targets: Vec<&Expr> = list
            .iter()
            .filter_map(|i| if let InstrKind::Set(t) | InstrKind::Reset(t) = &i.kind { Some(t) } else { None })
            .collect();
        let clobbered = needed
            && self
                .current
                .as_ref()
                .is_some_and(|c| targets.iter().filter_map(|t| root(t)).any(|r| mentions(&c.expr, r)));
        if clobbered {
            self.keep("the current result is used again after something it was computed from has changed");
        } else if needed && self.is_long() {
            self.keep("a long current result is used more than once");
        }
        let condition = self.value();
        let mut body = Vec::new();
        for (position, instr) in list.iter().enumerate() {
            let (InstrKind::Set(target) | InstrKind::Reset(target)) = &instr.kind else { continue };
            let value = Expr::truth(matches!(instr.kind, InstrKind::Set(_)), instr.span);
            let mut notes = if position == 0 { Notes::default() } else { instr.notes.clone() };
            notes.blank_before = false;
            if position == 0 {
                notes.trailing = std::mem::take(&mut self.notes.trailing);
            }
            body.push(Stmt { kind: StmtKind::Assign(target.clone(), value), span: instr.span, notes });
        }
        self.emit(StmtKind::If(vec![(condition, body)], None), list[0].span);
    }

    fn instruction(&mut self, instr: &Instr, needed: bool) {
        let span = instr.span;
        match &instr.kind {
            InstrKind::Empty => {
                if instr.label.is_none() {
                    self.loose_notes();
                }
            }
            InstrKind::Load(false, operand) if self.is_block(operand) => self.pin("LD", operand, needed, span),
            InstrKind::Set(operand) => self.pin("S", operand, needed, span),
            InstrKind::Reset(operand) => self.pin("R", operand, needed, span),
            InstrKind::Pin(pin, operand) => self.pin(&pin.text, operand, needed, span),
            InstrKind::Store(negated, target) => self.store(*negated, target, needed, span),
            InstrKind::Jump(when, label) => {
                let key = label.text.to_uppercase();
                if self.facts.get(&key).is_some_and(|f| f.needed) {
                    self.carry(&key, *when == When::Always);
                }
                let condition = self.condition(*when);
                let notes = std::mem::take(&mut self.notes);
                self.out.push(Line::Jump(condition, key, span, notes));
                self.after_decision(*when, needed);
            }
            InstrKind::Return(when) => {
                let condition = self.condition(*when);
                let notes = std::mem::take(&mut self.notes);
                self.out.push(Line::Return(condition, span, notes));
                self.after_decision(*when, needed);
            }
            InstrKind::Call(when, call) => self.block_call(*when, call, needed, span),
            InstrKind::Load(..)
            | InstrKind::Not
            | InstrKind::Op(..)
            | InstrKind::Function(..)
            | InstrKind::Worded { .. } => self.compute(instr),
        }
    }

    fn after_decision(&mut self, when: When, needed: bool) {
        if when == When::Always {
            self.current = None;
        } else if needed && self.is_long() {
            // It was decided on and is used again: say it once. The decision has been written already, so only
            // what follows reads the variable.
            self.keep("a long current result is used more than once");
        }
    }

    fn condition(&mut self, when: When) -> Option<Expr> {
        match when {
            When::Always => None,
            When::IfTrue => Some(self.value()),
            When::IfFalse => {
                let value = self.value();
                Some(negate(&value))
            }
        }
    }

    /// Instructions that only make a new current result.
    fn compute(&mut self, instr: &Instr) {
        let span = instr.span;
        let not = |expr: Expr, negated: bool| if negated { negate_value(&expr) } else { expr };
        match &instr.kind {
            InstrKind::Load(negated, operand) => {
                self.drop_current();
                self.set(not(operand.clone(), *negated), span);
            }
            InstrKind::Not => {
                let value = self.value();
                self.set(negate_value(&value), span);
            }
            InstrKind::Op(op, negated, operand) => {
                let right = self.operand(operand);
                let left = self.value();
                let right = not(right, *negated);
                let whole = ExprKind::Binary(*op, Box::new(left), Box::new(right));
                self.set(Expr { kind: whole, span }, span);
            }
            InstrKind::Function(call, form) => {
                let args: Vec<Arg> = call.args.iter().map(|a| self.argument(a)).collect();
                let first = match form {
                    FunctionForm::CurrentResult => Some(Arg::Plain(Operand::Expr(self.value()))),
                    FunctionForm::Formal => {
                        self.drop_current();
                        None
                    }
                };
                let args: Vec<Arg> = first.into_iter().chain(args).collect();
                let args = if *form == FunctionForm::Formal { self.by_position(&call.callee, args) } else { args };
                let call = Call { callee: call.callee.clone(), args, span };
                let expr = Expr { kind: ExprKind::Call(Box::new(call)), span };
                self.set(expr, span);
                if self.has_effects(instr) {
                    self.keep("the function does more than give a value, so it is called where it stood");
                }
            }
            InstrKind::Empty
            | InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => {}
        }
    }

    /// Arguments of a standard function in the order of its parameters need no names.
    fn by_position(&self, callee: &Expr, args: Vec<Arg>) -> Vec<Arg> {
        let ExprKind::Name(name) = &callee.kind else { return args };
        let user = self.additions.context.checked.units.iter().any(|u| u.name.eq_ignore_ascii_case(&name.text));
        let Some(function) = crate::model::functions::Function::from_name(&name.text).filter(|_| !user) else {
            return args;
        };
        let in_order = args.iter().enumerate().all(|(position, arg)| {
            matches!(arg, Arg::Input(n, _) if function.row().parameters.position(&n.text) == Some(position))
        });
        if !in_order {
            return args;
        }
        args.into_iter().map(|arg| if let Arg::Input(_, value) = arg { Arg::Plain(value) } else { arg }).collect()
    }

    /// A function that writes outside itself.
    fn has_effects(&self, instr: &Instr) -> bool {
        let InstrKind::Function(call, _) = &instr.kind else { return false };
        let ExprKind::Name(name) = &call.callee.kind else { return false };
        let units = &self.additions.context.checked.units;
        let Some(unit) = units.iter().find(|u| u.name.eq_ignore_ascii_case(&name.text)) else { return false };
        let outputs = call.args.iter().any(|a| matches!(a, Arg::Output { .. }));
        let by_reference = unit.vars.iter().any(|v| matches!(v.section, Section::InOut | Section::External));
        unit.kind == UnitKind::Function
            && (outputs || by_reference || !self.additions.context.checked.globals.is_empty())
    }

    fn operand(&mut self, operand: &Operand) -> Expr {
        match operand {
            Operand::Expr(expr) => expr.clone(),
            Operand::List(list) => self.parenthesis(list),
        }
    }

    fn argument(&mut self, arg: &Arg) -> Arg {
        match arg {
            Arg::Plain(value) => Arg::Plain(Operand::Expr(self.operand(value))),
            Arg::Input(name, value) => Arg::Input(name.clone(), Operand::Expr(self.operand(value))),
            Arg::Output { .. } => arg.clone(),
        }
    }

    /// What a parenthesis leaves as its own current result.
    fn parenthesis(&mut self, list: &[Instr]) -> Expr {
        let writes = |i: &Instr| {
            matches!(
                i.kind,
                InstrKind::Store(..)
                    | InstrKind::Set(_)
                    | InstrKind::Reset(_)
                    | InstrKind::Call(..)
                    | InstrKind::Pin(..)
            ) || self.has_effects(i)
        };
        if list.iter().any(writes) {
            self.keep("the parenthesis writes variables");
        }
        let outer = self.current.take();
        let live = live::before(list);
        for (index, instr) in list.iter().enumerate() {
            self.take_notes(instr);
            // The last result is needed: it is the value of the parenthesis.
            let needed = live[index + 1] || index + 1 == list.len();
            if let InstrKind::Set(target) | InstrKind::Reset(target) = &instr.kind
                && !self.is_block(target)
            {
                self.set_and_reset(std::slice::from_ref(instr), needed);
            } else {
                self.instruction(instr, needed)
            }
        }
        let value = self.value();
        self.current = outer;
        value
    }

    fn store(&mut self, negated: bool, target: &Expr, needed: bool, span: Span) {
        let value = self.value();
        let written = root(target).map(str::to_string);
        let looks = written.as_deref().is_some_and(|name| mentions(&value, name) || self.shares(name));
        let same_type = !self.types.widening.get(&span).copied().unwrap_or(true);
        let simple = matches!(value.kind, ExprKind::Literal(_) | ExprKind::Name(_));
        // An index may look at what is written.
        let plain_target = matches!(target.kind, ExprKind::Name(_) | ExprKind::Address(_));
        let from_target = needed && plain_target && same_type && !negated && (looks || !simple);
        if needed && looks && !from_target {
            self.keep("the current result is used again after something it was computed from has changed");
        }
        let value = self.value();
        if value == *target && !negated && !needed {
            // Every way that leads here has stored it already.
            self.current = None;
            return;
        }
        let written_value = if negated { negate_value(&value) } else { value };
        self.emit(StmtKind::Assign(target.clone(), written_value), span);
        if from_target {
            let at = self.current.as_ref().map_or(span, |c| c.at);
            self.current = Some(Current { expr: target.clone(), at, used: true });
        } else if !needed {
            self.current = None;
        } else if self.is_long() {
            self.keep("a long current result is used more than once");
        }
    }

    /// An input operator: a call with one input.
    fn pin(&mut self, pin: &str, instance: &Expr, needed: bool, span: Span) {
        let value = self.value();
        self.before_write(root(instance).map(str::to_string).as_deref(), needed);
        let name = Name { text: pin.to_string(), span };
        let args = vec![Arg::Input(name, Operand::Expr(value))];
        self.emit(StmtKind::Call(Call { callee: instance.clone(), args, span }), span);
    }

    fn block_call(&mut self, when: When, call: &Call, needed: bool, span: Span) {
        let condition = self.condition(when);
        // Arguments may be lists of their own; they leave this current result alone.
        let args: Vec<Arg> = call.args.iter().map(|a| self.argument(a)).collect();
        let everything = self.calls_into_user_code(call);
        if everything {
            self.before_write(None, needed);
        } else {
            let written = call.args.iter().filter_map(|a| match a {
                Arg::Output { target, .. } => root(target),
                Arg::Input(_, Operand::Expr(value)) => root(value),
                Arg::Plain(_) | Arg::Input(..) => None,
            });
            let written: Vec<String> = written.chain(root(&call.callee)).map(str::to_string).collect();
            for name in written {
                self.before_write(Some(&name), needed);
            }
        }
        let call = StmtKind::Call(Call { callee: call.callee.clone(), args, span });
        match condition {
            None => self.emit(call, span),
            Some(condition) => {
                let inner = Stmt { kind: call, span, notes: Notes::default() };
                self.emit(StmtKind::If(vec![(condition, vec![inner])], None), span);
            }
        }
    }

    /// True if a block may write globals or what it got by reference.
    fn calls_into_user_code(&self, call: &Call) -> bool {
        let ExprKind::Name(name) = &call.callee.kind else { return true };
        match self.additions.context.variable_type(&name.text) {
            Some(Ty::Block(unit)) => {
                let unit = self.additions.context.checked.unit(*unit);
                !unit.built_in && !self.additions.context.checked.globals.is_empty()
            }
            _ => true,
        }
    }
}

/// NOT of a value, which may be a bit string.
fn negate_value(expr: &Expr) -> Expr {
    if let ExprKind::Unary(UnaryOp::Not, inner) = &expr.kind {
        (**inner).clone()
    } else {
        Expr { kind: ExprKind::Unary(UnaryOp::Not, Box::new(expr.clone())), span: expr.span }
    }
}
