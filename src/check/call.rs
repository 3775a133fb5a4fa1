//! Calls of functions and function blocks, by position or by name.

use super::env::{Env, key};
use super::expr::Access;
use super::meant::it_has;
use super::typed::{Callee, Place, TCall, TExpr, TKind, Taken, Ty, UnitId};
use crate::model::functions::{Function, Gives, Parameters, Selector, Takes, TypeRule};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Call, Elem, ExprKind, Name, Operand, Section, UnitKind};
use crate::source::{Diagnostic, Span, codes};

impl Env<'_> {
    /// An argument's value.
    fn operand(&mut self, operand: &Operand) -> TExpr {
        match operand {
            Operand::Expr(expr) => self.expr(expr),
            Operand::List(list) => self.nested_list(list),
        }
    }

    /// A function call as a value; `first` is instruction list's current result as the first argument.
    pub(super) fn function_call(&mut self, call: &Call, first: Option<TExpr>) -> TExpr {
        let ExprKind::Name(name) = &call.callee.kind else {
            self.error(
                codes::TYPE,
                call.span,
                "only functions have a value; a function block is called as a statement",
            );
            return self.unknown_expr(call.span);
        };
        if let Some(&unit) = self.unit_names.get(&key(&name.text)) {
            if self.units[unit.0 as usize].kind == UnitKind::Function {
                return self.user_function(call, unit, first);
            }
        } else if let Some(function) = Function::from_name(&name.text) {
            return self.standard_function(call, function, name, first);
        }
        if self.variable(&name.text).is_some() {
            let message =
                format!("`{}` is a variable and has no value when called; read one of its outputs", name.text);
            self.error(codes::TYPE, call.span, message);
        } else if self.unit_names.contains_key(&key(&name.text)) {
            self.problems.push(
                Diagnostic::error(codes::TYPE, name.span, format!("`{}` is a block, and has no value", name.text))
                    .help("declare an instance of it; the instance is called, and its outputs are read"),
            );
        } else {
            let units = self.units.iter().filter(|u| u.kind == UnitKind::Function).map(|u| u.name.as_str());
            let help = self.compared.closest(&name.text, || units.chain(Function::names().map(|n| -> &str { n })));
            let mut problem =
                Diagnostic::error(codes::UNKNOWN_NAME, name.span, format!("there is no function `{}`", name.text));
            problem.help = help.map(|h| format!("did you mean `{h}`?"));
            self.problems.push(problem);
        }
        for arg in &call.args {
            if let Arg::Plain(value) | Arg::Input(_, value) = arg {
                self.operand(value);
            }
        }
        self.unknown_expr(call.span)
    }

    /// Puts the arguments of a standard function in order.
    fn ordered(&mut self, call: &Call, parameters: Parameters, first: Option<TExpr>) -> Option<Vec<TExpr>> {
        let mut slots: Vec<Option<TExpr>> = first.into_iter().map(Some).collect();
        let mut good = true;
        for arg in &call.args {
            let (at, value, span) = match arg {
                Arg::Plain(value) => (slots.len(), value, call.span),
                Arg::Input(name, value) => match parameters.position(&name.text) {
                    Some(at) => (at, value, name.span),
                    None => {
                        self.error(codes::ARGUMENT, name.span, format!("this function has no input `{}`", name.text));
                        self.operand(value);
                        good = false;
                        continue;
                    }
                },
                Arg::Output { name, .. } => {
                    self.error(codes::ARGUMENT, name.span, format!("this function has no output `{}`", name.text));
                    good = false;
                    continue;
                }
            };
            let value = self.operand(value);
            if slots.len() <= at {
                slots.resize_with(at + 1, || None);
            }
            if slots[at].replace(value).is_some() {
                self.error(codes::ARGUMENT, span, "this input is given twice");
            }
        }
        let fits = match parameters {
            Parameters::Fixed(names) => slots.len() == names.len(),
            Parameters::Extensible(names, _) => slots.len() > names.len(),
        };
        // Of inputs with names the one that is not there can be told.
        let by_name = call.args.iter().any(|arg| matches!(arg, Arg::Input(..)));
        let behind = (by_name && parameters.name(slots.len()).is_some() && !fits).then_some(slots.len());
        let missing = slots.iter().position(Option::is_none).or(behind);
        if good && (!fits || missing.is_some()) {
            let message = match (parameters, missing) {
                (_, Some(at)) => format!("input {} is missing", parameters.name(at).unwrap_or_default()),
                (Parameters::Fixed(names), _) => {
                    format!("this takes {}, but {}", inputs(names.len()), given(slots.len()))
                }
                (Parameters::Extensible(names, _), _) => {
                    format!("this takes {} or more, but {}", inputs(names.len() + 1), given(slots.len()))
                }
            };
            self.error(codes::ARGUMENT, call.span, message);
            good = false;
        }
        let all: Vec<TExpr> = slots.into_iter().flatten().collect();
        (good && all.iter().all(|a| !a.ty.is_unknown())).then_some(all)
    }

    fn standard_function(&mut self, call: &Call, function: Function, name: &Name, first: Option<TExpr>) -> TExpr {
        let span = call.span;
        let row = function.row();
        let Some(args) = self.ordered(call, row.parameters, first) else {
            let ty = row.rule.result().map_or(Ty::Unknown(None), Ty::Elem);
            return TExpr { kind: TKind::Const(0), ty, span };
        };
        match row.rule {
            TypeRule::Operator(op) => self.operator_function(op, args, span),
            TypeRule::Not => match args.into_iter().next() {
                Some(inner) => self.unary(UnaryOp::Not, inner, span),
                None => self.unknown_expr(span),
            },
            // What is moved is itself: whole structures and literals without a type too.
            TypeRule::Same => args.into_iter().next().unwrap_or_else(|| self.unknown_expr(span)),
            TypeRule::Ordered => self.same_type(function, args, 0, span),
            TypeRule::Choice(selector) => self.select(function, args, selector, span),
            TypeRule::Each(takes, gives) => self.each_argument(function, args, (takes, gives), name, span),
        }
    }

    fn operator_function(&mut self, op: BinaryOp, args: Vec<TExpr>, span: Span) -> TExpr {
        if !op.is_comparison() {
            return args
                .into_iter()
                .reduce(|a, b| self.binary(op, a, b, span))
                .unwrap_or_else(|| self.unknown_expr(span));
        }
        // `LT(a, b, c)` is `(a < b) AND (b < c)`.
        let pairs: Vec<TExpr> =
            args.windows(2).map(|pair| self.binary(op, pair[0].clone(), pair[1].clone(), span)).collect();
        pairs
            .into_iter()
            .reduce(|a, b| self.binary(BinaryOp::And, a, b, span))
            .unwrap_or_else(|| self.unknown_expr(span))
    }

    /// MIN, MAX, LIMIT and the choices of SEL and MUX: all from `from` on have one type.
    fn same_type(&mut self, function: Function, mut args: Vec<TExpr>, from: usize, span: Span) -> TExpr {
        let typed: Vec<Ty> = args[from..].iter().filter(|a| !a.ty.is_untyped()).map(|a| a.ty.clone()).collect();
        let Some(mut ty) = typed.first().cloned() else {
            let ty = if args[from..].iter().any(|a| a.ty == Ty::LitReal) { Ty::LitReal } else { Ty::LitInt };
            return TExpr { kind: TKind::Function(function, args), ty, span };
        };
        for other in &typed[1..] {
            ty = match (&ty, other, ty.elem(), other.elem()) {
                (Ty::Text(a), Ty::Text(b), ..) => Ty::Text(*a.max(b)),
                (.., Some(a), Some(b)) => a.join(b).map_or(ty, Ty::Elem),
                _ => ty,
            };
        }
        let ordered = function.row().rule == TypeRule::Ordered;
        if (ordered && ty.elem().is_none_or(|e| e == Elem::Bool))
            || matches!(ty, Ty::Array(_) | Ty::Struct(_) | Ty::Block(_))
        {
            let message = format!("this function does not take {}", self.show(&ty));
            self.error(codes::TYPE, span, message);
            return self.unknown_expr(span);
        }
        let rest = args.split_off(from);
        args.extend(rest.into_iter().map(|a| self.coerce(a, &ty)));
        TExpr { kind: TKind::Function(function, args), ty, span }
    }

    fn select(&mut self, function: Function, mut args: Vec<TExpr>, selector: Selector, span: Span) -> TExpr {
        let first = self.settled(args[0].clone());
        let (fits, want) = match selector {
            Selector::Bool => (first.ty == Ty::BOOL, "BOOL"),
            Selector::Integer => (first.ty.elem().is_some_and(Elem::is_integer), "an integer"),
        };
        if !fits {
            let message = format!("the selector is {}, but {want} is needed", self.show(&first.ty));
            self.error(codes::TYPE, first.span, message);
        }
        args[0] = first;
        self.same_type(function, args, 1, span)
    }

    /// Brings arguments to what is taken, one by one.
    fn each_argument(
        &mut self,
        function: Function,
        args: Vec<TExpr>,
        (takes, gives): ([Option<Takes>; 2], Gives),
        name: &Name,
        span: Span,
    ) -> TExpr {
        let mut given = Vec::new();
        for (arg, takes) in args.into_iter().zip(takes.into_iter().flatten()) {
            match self.taken(arg, takes) {
                Ok(arg) => given.push(arg),
                Err(ty) => {
                    let message = format!("`{}` does not take {}", name.text, self.show(&ty));
                    self.error(codes::TYPE, span, message);
                    return self.unknown_expr(span);
                }
            }
        }
        let ty = match gives {
            Gives::Elem(elem) => Ty::Elem(elem),
            Gives::First => given.first().map_or(Ty::Unknown(None), |first| first.ty.clone()),
            Gives::Nothing => {
                self.error(codes::TYPE, span, format!("`{}` has no value", name.text));
                return self.unknown_expr(span);
            }
        };
        TExpr { kind: TKind::Function(function, given), ty, span }
    }

    /// An argument as it is taken, or its type, if that is not.
    fn taken(&mut self, arg: TExpr, takes: Takes) -> Result<TExpr, Ty> {
        let is = |arg: TExpr, fits: bool| if fits { Ok(arg) } else { Err(arg.ty) };
        match takes {
            Takes::Elem(elem) => Ok(self.coerce(arg, &Ty::Elem(elem))),
            Takes::Real => {
                let to = if arg.ty.elem() == Some(Elem::Real) { Elem::Real } else { Elem::Lreal };
                Ok(self.coerce(arg, &Ty::Elem(to)))
            }
            Takes::Watch => {
                let fits = arg.ty == Ty::Watch;
                is(arg, fits)
            }
            Takes::Any | Takes::Number | Takes::Pattern | Takes::Integer => {
                let arg = self.settled(arg);
                let fits = arg.ty.elem().is_some_and(|elem| match takes {
                    Takes::Number => elem.is_number(),
                    Takes::Pattern => elem.is_bits() || elem.is_integer(),
                    Takes::Integer => elem.is_integer(),
                    Takes::Any | Takes::Elem(_) | Takes::Real | Takes::Watch => true,
                });
                is(arg, fits)
            }
        }
    }

    fn user_function(&mut self, call: &Call, unit: UnitId, first: Option<TExpr>) -> TExpr {
        let ty = self.units[unit.0 as usize].vars.first().map_or(Ty::Unknown(None), |v| v.ty.clone());
        self.calls.push((self.current, unit, call.span));
        let call = self.bind(call, unit, Callee::Function, first);
        let span = call.span;
        TExpr { kind: TKind::Call(Box::new(call)), ty, span }
    }

    /// A call of a function block instance; `None` if it could not be resolved.
    pub(super) fn block_call(&mut self, call: &Call) -> Option<TCall> {
        let Some(place) = self.place(&call.callee, Access::Share) else {
            let ty = self.unknown_type(&call.callee);
            self.learn_pins(&ty, &call.args);
            for arg in &call.args {
                if let Arg::Plain(value) | Arg::Input(_, value) = arg {
                    self.operand(value);
                }
            }
            return None;
        };
        let Ty::Block(unit) = place.ty else {
            if !place.ty.is_unknown() {
                let message = format!("{} cannot be called; only function blocks can", self.show(&place.ty));
                self.error(codes::TYPE, call.callee.span, message);
            }
            return None;
        };
        // A block may reach itself through an instance that all share.
        self.calls.push((self.current, unit, call.span));
        Some(self.bind(call, unit, Callee::Block(place), None))
    }

    /// Binds arguments to the variables of a unit.
    fn bind(&mut self, call: &Call, unit: UnitId, callee: Callee, first: Option<TExpr>) -> TCall {
        let is_function = matches!(callee, Callee::Function);
        let mut out = TCall {
            callee,
            unit,
            inputs: Vec::new(),
            in_outs: Vec::new(),
            outputs: Vec::new(),
            en: None,
            eno: None,
            span: call.span,
        };
        let positional: Vec<u32> = self.parameters(unit, &[Section::Input, Section::InOut]);
        let mut next = 0usize;
        if let (Some(value), Some(&at)) = (first, positional.first()) {
            let want = self.units[unit.0 as usize].vars[at as usize].ty.clone();
            let value = self.coerce(value, &want);
            out.inputs.push((at, value));
            next = 1;
        }
        for arg in &call.args {
            match arg {
                Arg::Plain(value) => {
                    match positional.get(next) {
                        Some(&at) => self.bind_input(&mut out, at, value, call.span),
                        None => {
                            let name = self.units[unit.0 as usize].name.clone();
                            let message = format!("`{name}` takes {}", inputs(positional.len()));
                            self.error(codes::ARGUMENT, call.span, message);
                        }
                    }
                    next += 1;
                }
                Arg::Input(name, value) => self.named_input(&mut out, name, value, is_function),
                Arg::Output { name, negated, target } => self.named_output(&mut out, name, *negated, target),
            }
        }
        let in_outs = self.parameters(unit, &[Section::InOut]);
        let missing = in_outs.iter().filter(|at| !out.in_outs.iter().any(|(given, _)| given == *at));
        if let Some(&at) = missing.clone().next() {
            let name = self.units[unit.0 as usize].vars[at as usize].name.clone();
            self.error(codes::ARGUMENT, call.span, format!("`{name}` (VAR_IN_OUT) must be given"));
        }
        out
    }

    fn parameters(&self, unit: UnitId, sections: &[Section]) -> Vec<u32> {
        let vars = self.units[unit.0 as usize].vars.iter().enumerate();
        vars.filter(|(_, v)| sections.contains(&v.section)).map(|(i, _)| i as u32).collect()
    }

    fn parameter(&mut self, unit: UnitId, name: &Name, sections: &[Section], what: &str) -> Option<u32> {
        let vars = &self.units[unit.0 as usize].vars;
        let found = vars.iter().position(|v| v.name.eq_ignore_ascii_case(&name.text) && sections.contains(&v.section));
        if found.is_none() {
            let names: Vec<&str> =
                vars.iter().filter(|v| sections.contains(&v.section)).map(|v| v.name.as_str()).collect();
            let unit_name = &self.units[unit.0 as usize].name;
            let mut problem =
                Diagnostic::error(codes::ARGUMENT, name.span, format!("`{unit_name}` has no {what} `{}`", name.text));
            problem.help = match self.compared.closest(&name.text, || &names) {
                Some(other) => Some(format!("did you mean `{other}`?")),
                None => Some(it_has(&names)),
            };
            self.problems.push(problem);
        }
        found.map(|at| at as u32)
    }

    fn named_input(&mut self, out: &mut TCall, name: &Name, value: &Operand, is_function: bool) {
        let has_en = self.units[out.unit.0 as usize].vars.iter().any(|v| v.name.eq_ignore_ascii_case("EN"));
        if name.text.eq_ignore_ascii_case("EN") && !has_en {
            let value = self.operand(value);
            let value = self.coerce(value, &Ty::BOOL);
            if is_function {
                self.error(codes::UNSUPPORTED, name.span, "EN on a function in text is not supported; use IF");
            } else {
                out.en = Some(value);
            }
            return;
        }
        match self.parameter(out.unit, name, &[Section::Input, Section::InOut], "input") {
            Some(at) => self.bind_input(out, at, value, name.span),
            None => {
                self.operand(value);
            }
        }
    }

    fn bind_input(&mut self, out: &mut TCall, at: u32, value: &Operand, span: Span) {
        if out.inputs.iter().any(|(i, _)| *i == at) || out.in_outs.iter().any(|(i, _)| *i == at) {
            self.error(codes::ARGUMENT, span, "this input is given twice");
        }
        let var = &self.units[out.unit.0 as usize].vars[at as usize];
        let (want, section) = (var.ty.clone(), var.section);
        if section == Section::InOut {
            let place = match value {
                Operand::Expr(expr) => self.place(expr, Access::Share),
                Operand::List(_) => {
                    self.error(codes::ARGUMENT, span, "a VAR_IN_OUT takes a variable");
                    None
                }
            };
            if let Some(place) = place {
                if place.ty != want && !place.ty.is_unknown() && !want.is_unknown() {
                    let message =
                        format!("this is {}, but exactly {} is needed", self.show(&place.ty), self.show(&want));
                    self.error(codes::TYPE, place.span, message);
                }
                out.in_outs.push((at, place));
            }
            return;
        }
        let value = self.operand(value);
        let value = self.coerce(value, &want);
        self.resets_by_pin(out.unit, at, &value);
        out.inputs.push((at, value));
    }

    fn named_output(&mut self, out: &mut TCall, name: &Name, negated: bool, target: &crate::model::Expr) {
        let has_eno = self.units[out.unit.0 as usize].vars.iter().any(|v| v.name.eq_ignore_ascii_case("ENO"));
        let target_place = self.place(target, Access::Write);
        if name.text.eq_ignore_ascii_case("ENO") && !has_eno && out.eno.is_none() {
            out.eno = target_place.filter(|p| p.ty == Ty::BOOL);
            if out.eno.is_none() {
                self.error(codes::TYPE, target.span, "ENO is BOOL");
            }
            return;
        }
        let Some(output) = self.parameter(out.unit, name, &[Section::Output], "output") else { return };
        let ty = self.units[out.unit.0 as usize].vars[output as usize].ty.clone();
        let Some(target) = target_place else {
            let unknown = self.unknown_type(target);
            self.learn(&unknown, &ty);
            return;
        };
        let mut value = TExpr { kind: TKind::Current, ty, span: name.span };
        if negated {
            value = self.unary(UnaryOp::Not, value, name.span);
        }
        let want = target.ty.clone();
        let value = self.coerce(value, &want);
        out.outputs.push(Taken { output, target, value });
    }

    /// The place a kernel call restarts, if the call is one.
    pub(super) fn restart(&mut self, call: &Call) -> Option<Option<Place>> {
        let ExprKind::Name(name) = &call.callee.kind else { return None };
        let is_kernel = Function::from_name(&name.text) == Some(Function::Restart)
            && !self.unit_names.contains_key(&key(&name.text))
            && self.variable(&name.text).is_none();
        if !is_kernel {
            return None;
        }
        let [Arg::Plain(Operand::Expr(watch))] = call.args.as_slice() else {
            self.error(codes::ARGUMENT, call.span, "`RESTART` takes a stopwatch");
            return Some(None);
        };
        let place = self.place(watch, Access::Write);
        if place.as_ref().is_some_and(|p| p.ty != Ty::Watch) {
            self.error(codes::TYPE, watch.span, "`RESTART` takes a stopwatch");
            return Some(None);
        }
        Some(place)
    }
}

fn given(count: usize) -> String {
    if count == 1 { "1 is given".to_string() } else { format!("{count} are given") }
}

fn inputs(count: usize) -> String {
    match count {
        0 => "no inputs".to_string(),
        1 => "1 input".to_string(),
        n => format!("{n} inputs"),
    }
}
