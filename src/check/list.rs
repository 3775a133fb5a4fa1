//! Instruction list: the type of the current result from instruction to instruction.

use super::env::Env;
use super::expr::Access;
use super::typed::{Root, TExpr, TInstr, TInstrKind, TKind, Ty};
use crate::model::functions::Function;
use crate::model::ops::UnaryOp;
use crate::model::{Arg, Call, Expr, FunctionForm, Instr, InstrKind, Name, Operand, Section, When};
use crate::source::{Diagnostic, Span, codes};
use std::collections::{HashMap, HashSet};

/// What is known of the current result.
#[derive(Clone)]
enum Current {
    /// Nothing has been loaded on any way here.
    Nothing,
    /// A value of this type.
    Value(Ty),
    /// A constant whose type is still open, computed where its type becomes known; or a whole structure or array,
    /// which is copied where it is stored.
    Open(TExpr),
    /// Different ways here left different types; the places.
    Mixed,
    /// A structure or array was loaded, and something wrote to it (or may have) before it was stored.
    Changed,
    /// No way leads here.
    Unreachable,
}

/// The labels of one list.
#[derive(Default)]
struct Labels {
    places: HashMap<String, Span>,
    /// What jumps seen so far bring to a label; `None` if they do not agree.
    brought: HashMap<String, Option<Ty>>,
    /// What a label assumed when it was passed, for jumps back to it.
    assumed: HashMap<String, Option<Ty>>,
    /// Labels behind which the current result is looked at before a new one is loaded.
    used: HashSet<String>,
    /// Jumps that hand on the current result of one label to another.
    handed: Vec<(String, String)>,
    /// Jumps back with another type than the label assumed; a problem only if the result is looked at there.
    suspicious: Vec<(String, Diagnostic)>,
    /// What an earlier reading found jumps to bring to a label, those further down included.
    later: HashMap<String, Option<Ty>>,
    /// A label is reached only from further down: the list must be read once more, knowing what comes from there.
    read_again: bool,
}

impl Labels {
    fn problems(mut self) -> Vec<Diagnostic> {
        loop {
            let before = self.used.len();
            for (from, to) in &self.handed {
                if self.used.contains(to) {
                    self.used.insert(from.clone());
                }
            }
            if self.used.len() == before {
                break;
            }
        }
        self.suspicious.into_iter().filter(|(label, _)| self.used.contains(label)).map(|(_, p)| p).collect()
    }
}

impl Env<'_> {
    /// Checks the instructions of a unit.
    pub(super) fn instruction_list(&mut self, list: &[Instr]) -> Vec<TInstr> {
        let mut labels = Labels::default();
        let jumps = list.iter().any(|i| matches!(i.kind, InstrKind::Jump(..)));
        for instr in list {
            if let Some(label) = &instr.label
                && let Some(first) = labels.places.insert(label.text.to_uppercase(), label.span)
            {
                self.duplicate(label, first);
            }
        }
        // With jumps about, no write is known to happen in every scan.
        self.guards += u32::from(jumps);
        let places = labels.places.clone();
        let (problems, guesses) = (self.problems.len(), self.guesses.len());
        let mut reader = ListChecker::new(self, labels, false);
        reader.all(list);
        let (mut out, mut labels) = (reader.out, reader.labels);
        // Each reading knows what the one before found to come from further down, until nothing new does.
        let mut known = HashMap::new();
        while labels.read_again && labels.brought != known {
            self.problems.truncate(problems);
            self.guesses.truncate(guesses);
            known = labels.brought;
            let again = Labels { places: places.clone(), later: known.clone(), ..Labels::default() };
            let mut reader = ListChecker::new(self, again, false);
            reader.all(list);
            (out, labels) = (reader.out, reader.labels);
        }
        self.problems.extend(labels.problems());
        self.guards -= u32::from(jumps);
        out
    }

    /// Checks a parenthesised list; its value is what it leaves as current result.
    pub(super) fn nested_list(&mut self, list: &[Instr]) -> TExpr {
        let span = match (list.first(), list.last()) {
            (Some(first), Some(last)) => first.span.to(last.span),
            _ => Span { file: crate::source::FileId(0), start: 0, end: 0 },
        };
        let mut reader = ListChecker::new(self, Labels::default(), true);
        reader.all(list);
        let (current, out) = (reader.current.clone(), reader.out);
        match current {
            // Only loads of open constants: the value itself, so that its type can still be found.
            Current::Open(value) if out.iter().all(|i| matches!(i.kind, TInstrKind::Nop)) => value,
            Current::Open(value) => {
                let value = self.settled(value);
                let ty = value.ty.clone();
                let mut out = out;
                out.push(TInstr { label: None, kind: TInstrKind::Compute(value), span });
                TExpr { kind: TKind::List(out), ty, span }
            }
            Current::Value(ty) => TExpr { kind: TKind::List(out), ty, span },
            Current::Nothing | Current::Mixed | Current::Changed | Current::Unreachable => {
                self.error(codes::CURRENT_RESULT, span, "these parentheses leave no value");
                self.unknown_expr(span)
            }
        }
    }
}

struct ListChecker<'e, 'p> {
    env: &'e mut Env<'p>,
    labels: Labels,
    current: Current,
    /// Labels from which the current result comes unchanged.
    origins: Vec<String>,
    out: Vec<TInstr>,
    nested: bool,
}

impl<'e, 'p> ListChecker<'e, 'p> {
    fn new(env: &'e mut Env<'p>, labels: Labels, nested: bool) -> Self {
        ListChecker { env, labels, current: Current::Nothing, origins: Vec::new(), out: Vec::new(), nested }
    }

    fn all(&mut self, list: &[Instr]) {
        let mut warned = false;
        for instr in list {
            if let Some(label) = &instr.label {
                self.label(label, instr.span);
            }
            let empty = matches!(instr.kind, InstrKind::Empty);
            if matches!(self.current, Current::Unreachable) && !empty && !warned {
                warned = true;
                self.env.problems.push(Diagnostic::warning(
                    codes::UNREACHABLE,
                    instr.span,
                    "no scan reaches this instruction: it stands behind a jump or return and has no label",
                ));
            }
            if !empty && !matches!(self.current, Current::Unreachable) {
                warned = false;
            }
            let kind = self.instruction(instr);
            self.out.push(TInstr { label: None, kind, span: instr.span });
        }
    }

    fn label(&mut self, label: &Name, span: Span) {
        // A constant whose type is open must have one before ways can meet.
        self.settle_current(span);
        let key = label.text.to_uppercase();
        let brought = self.labels.brought.get(&key).cloned();
        self.current = match (&self.current, brought) {
            (Current::Unreachable, Some(Some(ty))) => Current::Value(ty),
            (Current::Unreachable, None) => {
                self.labels.read_again = true;
                match self.labels.later.get(&key) {
                    Some(Some(ty)) => Current::Value(ty.clone()),
                    Some(None) => Current::Mixed,
                    None => Current::Unreachable,
                }
            }
            (Current::Value(here), Some(Some(ty))) if *here == ty => Current::Value(ty),
            (_, Some(_)) => Current::Mixed,
            (other, None) => other.clone(),
        };
        let assumed = if let Current::Value(ty) = &self.current { Some(ty.clone()) } else { None };
        self.labels.assumed.insert(key.clone(), assumed);
        self.origins.push(key.clone());
        if self.nested {
            self.env.error(codes::LABEL, label.span, "a label cannot stand inside parentheses");
        }
        self.out.push(TInstr { label: Some(key), kind: TInstrKind::Nop, span });
    }

    fn settle_current(&mut self, span: Span) {
        if let Current::Open(value) = &self.current {
            if !value.ty.is_untyped() {
                self.current = Current::Mixed;
                return;
            }
            let value = self.env.settled(value.clone());
            self.current = Current::Value(value.ty.clone());
            self.out.push(TInstr { label: None, kind: TInstrKind::Compute(value), span });
        }
    }

    /// The current result as a value to compute with.
    fn value(&mut self, span: Span) -> Option<TExpr> {
        self.labels.used.extend(self.origins.iter().cloned());
        let message = match &self.current {
            Current::Value(ty) => return Some(TExpr { kind: TKind::Current, ty: ty.clone(), span }),
            Current::Open(value) => return Some(value.clone()),
            Current::Unreachable => return None,
            Current::Nothing => "there is no current result yet; load one first",
            Current::Changed => "the structure or array that was loaded may have changed since",
            Current::Mixed => "the ways that meet at the label above bring current results of different types",
        };
        self.env.problems.push(
            Diagnostic::error(codes::CURRENT_RESULT, span, message).help("write LD with the value this should work on"),
        );
        None
    }

    fn condition(&mut self, when: When, span: Span) {
        self.settle_current(span);
        if when == When::Always {
            return;
        }
        if let Some(value) = self.value(span)
            && !value.ty.is_unknown()
            && value.ty != Ty::BOOL
        {
            let message = format!("the current result is {}, but a condition is BOOL", self.env.show(&value.ty));
            self.env.error(codes::CURRENT_RESULT, span, message);
        }
    }

    /// Makes `value` the current result.
    fn compute(&mut self, value: TExpr) -> TInstrKind {
        self.origins.clear();
        // A choice between literals is made now, so it needs its type now.
        let value = if super::constant::is_constant(&value) { value } else { self.env.settled(value) };
        if value.ty.is_untyped() || matches!(value.ty, Ty::Array(_) | Ty::Struct(_)) {
            self.current = Current::Open(value);
            return TInstrKind::Nop;
        }
        self.current = Current::Value(value.ty.clone());
        TInstrKind::Compute(value)
    }

    fn negated(&mut self, value: TExpr, negated: bool, span: Span) -> TExpr {
        if negated { self.env.unary(UnaryOp::Not, value, span) } else { value }
    }

    fn instruction(&mut self, instr: &Instr) -> TInstrKind {
        let span = instr.span;
        match &instr.kind {
            InstrKind::Empty => TInstrKind::Nop,
            InstrKind::Load(negated, operand) => {
                if !negated && let Some(call) = self.pin_call("LD", operand) {
                    return call;
                }
                let value = self.env.expr(operand);
                let value = self.negated(value, *negated, span);
                self.compute(value)
            }
            InstrKind::Store(negated, target) => self.store(*negated, target, span),
            InstrKind::Set(target) | InstrKind::Reset(target) => {
                let set = matches!(instr.kind, InstrKind::Set(_));
                if let Some(call) = self.pin_call(if set { "S" } else { "R" }, target) {
                    return call;
                }
                self.set_or_reset(set, target, span)
            }
            InstrKind::Not => match self.value(span) {
                Some(value) => {
                    let value = self.env.unary(UnaryOp::Not, value, span);
                    self.compute(value)
                }
                None => TInstrKind::Nop,
            },
            InstrKind::Op(op, negated, operand) => {
                let right = match operand {
                    Operand::Expr(expr) => self.env.expr(expr),
                    Operand::List(list) => self.env.nested_list(list),
                };
                let right = self.negated(right, *negated, span);
                let Some(left) = self.value(span) else { return TInstrKind::Nop };
                let value = self.env.binary(*op, left, right, span);
                self.compute(value)
            }
            InstrKind::Worded { word, .. } => {
                let message = format!("`{}` belongs to a dialect; say which one the text is written in", word.text);
                self.env.error(codes::DIALECT, word.span, message);
                TInstrKind::Nop
            }
            InstrKind::Jump(when, label) => self.jump(*when, label, span),
            InstrKind::Return(when) => {
                self.condition(*when, span);
                if *when == When::Always {
                    self.current = Current::Unreachable;
                }
                if self.nested {
                    self.env.error(codes::LABEL, span, "a return cannot stand inside parentheses");
                }
                TInstrKind::Return(*when)
            }
            InstrKind::Call(when, call) => {
                // A call in any case leaves the current result alone.
                if *when != When::Always {
                    self.condition(*when, span);
                }
                if let Some(restarted) = self.env.restart(call) {
                    return restarted.map_or(TInstrKind::Nop, TInstrKind::Restart);
                }
                self.written(None);
                self.env.block_call(call).map_or(TInstrKind::Nop, |call| TInstrKind::Call(*when, call))
            }
            InstrKind::Function(call, form) => self.function(call, *form, span),
            InstrKind::Pin(pin, instance) => self.pin(&pin.text, instance, span),
        }
    }

    fn store(&mut self, negated: bool, target: &Expr, span: Span) -> TInstrKind {
        let value = self.value(span);
        let place = self.env.place(target, Access::Write);
        let (Some(value), Some(place)) = (value.clone(), place) else {
            let unknown = self.env.unknown_type(target);
            if let Some(value) = value {
                let known = if value.ty.is_untyped() { super::coerce::guessed(&value) } else { value.ty };
                self.env.learn(&unknown, &known);
            }
            return TInstrKind::Nop;
        };
        let value = self.negated(value, negated, span);
        let want = place.ty.clone();
        let value = self.env.coerce(value, &want);
        self.written(Some(place.root));
        TInstrKind::Store(place, value)
    }

    /// Something is written: a variable, or (`None`) whatever a block writes. A whole structure or array in the
    /// current result is read where it is stored, so it must not have changed by then.
    fn written(&mut self, root: Option<Root>) {
        let Current::Open(TExpr { kind: TKind::Read(place), .. }) = &self.current else { return };
        let shared = self.env.units[self.env.current.0 as usize].vars.iter().any(|v| v.section == Section::InOut);
        if root.is_none_or(|r| r == place.root) || shared {
            self.current = Current::Changed;
        }
    }

    fn set_or_reset(&mut self, set: bool, target: &Expr, span: Span) -> TInstrKind {
        self.condition(When::IfTrue, span);
        self.env.guards += 1;
        let place = self.env.place(target, Access::Write);
        self.env.guards -= 1;
        match place {
            Some(place) if place.ty == Ty::BOOL && set => TInstrKind::Set(place),
            Some(place) if place.ty == Ty::BOOL => TInstrKind::Reset(place),
            Some(place) => {
                let message = format!("S and R act on BOOL, not on {}", self.env.show(&place.ty));
                self.env.error(codes::TYPE, target.span, message);
                TInstrKind::Nop
            }
            None => {
                let unknown = self.env.unknown_type(target);
                self.env.learn(&unknown, &Ty::BOOL);
                TInstrKind::Nop
            }
        }
    }

    fn jump(&mut self, when: When, label: &Name, span: Span) -> TInstrKind {
        self.condition(when, span);
        let key = label.text.to_uppercase();
        if self.nested {
            self.env.error(codes::LABEL, label.span, "a jump cannot stand inside parentheses");
        } else if !self.labels.places.contains_key(&key) {
            let help = self.env.compared.closest(&label.text, || self.labels.places.keys());
            let mut problem =
                Diagnostic::error(codes::LABEL, label.span, format!("there is no label `{}`", label.text));
            problem.help = help.map(|h| format!("did you mean `{h}`?"));
            self.env.problems.push(problem);
        }
        if let Current::Value(ty) = &self.current {
            if let Some(Some(assumed)) = self.labels.assumed.get(&key)
                && assumed != ty
            {
                let message = format!(
                    "the current result is {} here, but {} where the label stands",
                    self.env.show(ty),
                    self.env.show(assumed)
                );
                let problem = Diagnostic::error(codes::CURRENT_RESULT, span, message)
                    .help("load a value right behind the label, or bring both to one type");
                self.labels.suspicious.push((key.clone(), problem));
            }
            self.labels.handed.extend(self.origins.iter().map(|o| (o.clone(), key.clone())));
        }
        let brings = if let Current::Value(ty) = &self.current { Some(ty.clone()) } else { None };
        // A jump that nothing reaches brings nothing.
        if !matches!(self.current, Current::Unreachable) {
            let known = self.labels.brought.entry(key.clone()).or_insert_with(|| brings.clone());
            if *known != brings {
                *known = None;
            }
        }
        if when == When::Always {
            self.current = Current::Unreachable;
            self.origins.clear();
        }
        TInstrKind::Jump(when, key)
    }

    fn function(&mut self, call: &Call, form: FunctionForm, span: Span) -> TInstrKind {
        let first = match form {
            FunctionForm::Formal => None,
            FunctionForm::CurrentResult => {
                let name = super::env::key(&crate::lang::st::expression(&call.callee));
                let unit = self.env.unit_names.get(&name).copied();
                let unknown = unit.is_none() && Function::from_name(&name).is_none();
                if unknown {
                    let message = format!("`{name}` is neither an instruction nor a function");
                    self.env.error(codes::UNKNOWN_NAME, call.callee.span, message);
                    return TInstrKind::Nop;
                }
                let Some(value) = self.value(span) else { return TInstrKind::Nop };
                Some(value)
            }
        };
        let value = self.env.function_call(call, first);
        self.compute(value)
    }

    /// S, R and LD with a function block behind them are input operators.
    fn pin_call(&mut self, pin: &str, operand: &Expr) -> Option<TInstrKind> {
        let crate::model::ExprKind::Name(name) = &operand.kind else { return None };
        let (_, var) = self.env.variable(&name.text)?;
        if !matches!(var.ty, Ty::Block(_)) {
            return None;
        }
        Some(self.pin(pin, operand, operand.span))
    }

    /// `IN timer` is a call with that one input.
    fn pin(&mut self, pin: &str, instance: &Expr, span: Span) -> TInstrKind {
        self.settle_current(span);
        let Some(value) = self.value(span) else { return TInstrKind::Nop };
        let Some(mut call) = self.env.block_call(&Call { callee: instance.clone(), args: Vec::<Arg>::new(), span })
        else {
            return TInstrKind::Nop;
        };
        let vars = &self.env.units[call.unit.0 as usize].vars;
        let at = vars.iter().position(|v| v.name.eq_ignore_ascii_case(pin) && v.section == Section::Input);
        let Some(at) = at else {
            let message = format!("this block has no input `{pin}`");
            self.env.error(codes::ARGUMENT, span, message);
            return TInstrKind::Nop;
        };
        let want = vars[at].ty.clone();
        let value = self.env.coerce(value, &want);
        self.written(None);
        call.inputs.push((at as u32, value));
        TInstrKind::Call(When::Always, call)
    }
}
