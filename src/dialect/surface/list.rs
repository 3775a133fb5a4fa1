//! Instruction lists in the dialect's words.

use super::SurfaceWriter;
use crate::dialect::walk::{self, Leaves, Want};
use crate::model::sheet::{Operation, Separator};
use crate::model::{Arg, Call, Expr, ExprKind, FunctionForm, Instr, InstrKind, Name, Notes, Operand, UnitKind, When};
use crate::source::Span;

impl SurfaceWriter<'_> {
    pub(super) fn write_list(&mut self, list: &mut Vec<Instr>, want: Want) {
        let mut known = std::mem::take(list);
        self.fold_calls(&mut known);
        let mut out: Vec<Instr> = Vec::new();
        for at in 0..known.len() {
            let mut instr = known[at].clone();
            if let InstrKind::Worded { operands, .. } = &mut instr.kind {
                let (device, values) = operands.split_at_mut(1);
                device.iter_mut().for_each(|d| self.instance(d));
                values.iter_mut().for_each(|v| walk::expr(self, v, Want::Word));
            } else {
                walk::instruction(self, &mut instr, &known[at + 1..], want);
            }
            if let Some(kind) = super::routines::call(&instr.kind, &self.routines, self.sheet) {
                instr.kind = kind;
            }
            instr = match self.joined(instr, &mut out) {
                Some(instr) => instr,
                None => continue,
            };
            self.word(&mut instr);
            out.push(instr);
        }
        *list = out;
    }

    /// A parenthesis becomes a result of its own and a word that joins it, where the dialect has such a word; otherwise the
    /// instruction comes back.
    fn joined(&self, instr: Instr, out: &mut Vec<Instr>) -> Option<Instr> {
        let InstrKind::Op(op, negated, Operand::List(list)) = &instr.kind else { return Some(instr) };
        let Some(own) = self.sheet.word_for(&format!("{} LAST", op.function())) else { return Some(instr) };
        let span = instr.span;
        let first = out.len();
        out.extend(list.iter().cloned());
        if let Some(head) = out.get_mut(first) {
            head.notes.leading.splice(0..0, instr.notes.leading.clone());
            head.notes.blank_before |= instr.notes.blank_before;
        }
        let notes = Notes { leading: Vec::new(), blank_before: false, ..instr.notes.clone() };
        if *negated {
            let mut not = Instr { label: None, kind: InstrKind::Not, span, notes: Notes::default() };
            self.word(&mut not);
            out.push(not);
        }
        let word = Name { text: own.to_string(), span };
        let kind = InstrKind::Worded { word, operands: Vec::new(), apart: Separator::Comma, list: None };
        out.push(Instr { label: None, kind, span, notes });
        None
    }

    /// Calls of numbered devices become the words that drive them, where one does all that the call does.
    fn fold_calls(&self, list: &mut Vec<Instr>) {
        let mut at = 0;
        while at < list.len() {
            if let InstrKind::Call(When::Always, call) = &list[at].kind
                && let Some((op, span)) = self.operation(call, &list[..at])
            {
                let call = call.clone();
                at = fold(list, at, &call, &op, self.sheet.listing.operands, span);
            }
            at += 1;
        }
    }

    /// The operation that does what a call does: it takes just those inputs that the call and the stores before it give.
    fn operation(&self, call: &Call, before: &[Instr]) -> Option<(Operation, Span)> {
        let device = self.device(&call.callee).filter(|d| d.numbers.is_some())?;
        let mut given: Vec<&str> = Vec::new();
        for arg in &call.args {
            if let Arg::Input(name, _) = arg { given.push(&name.text) } else { return None }
        }
        let fits = |op: &&Operation| {
            let stored = stores(before, &call.callee, &op.power, &given);
            let all: Vec<&String> = op.power.iter().chain(&op.operands).collect();
            let has = |pin: &str| given.iter().chain(&stored).any(|g| g.eq_ignore_ascii_case(pin));
            all.iter().all(|pin| has(pin))
                && given.iter().all(|g| all.iter().any(|pin| pin.eq_ignore_ascii_case(g)))
                && op
                    .operands
                    .iter()
                    .all(|o| call.args.iter().any(|a| matches!(a, Arg::Input(n, Operand::Expr(_)) if n.is(o))))
        };
        device.ops.iter().filter(|op| op.result.is_none()).find(fits).map(|op| (op.clone(), call.span))
    }

    /// Puts an instruction into the dialect's words.
    fn word(&self, instr: &mut Instr) {
        if self.sheet.words.is_empty() {
            return;
        }
        let span = instr.span;
        let suffix = |negated: &bool| if *negated { "N" } else { "" };
        let when = |when: &When| match when {
            When::Always => "",
            When::IfTrue => "C",
            When::IfFalse => "CN",
        };
        let (operator, operands, list) = match &instr.kind {
            InstrKind::Load(n, value) => (format!("LD{}", suffix(n)), vec![value.clone()], None),
            InstrKind::Store(n, to) => (format!("ST{}", suffix(n)), vec![to.clone()], None),
            InstrKind::Set(to) => ("S".to_string(), vec![to.clone()], None),
            InstrKind::Reset(to) => ("R".to_string(), vec![to.clone()], None),
            InstrKind::Not => ("NOT".to_string(), Vec::new(), None),
            InstrKind::Op(op, n, Operand::Expr(value)) => {
                (format!("{}{}", op.function(), suffix(n)), vec![value.clone()], None)
            }
            InstrKind::Op(op, n, Operand::List(list)) => {
                (format!("{}{}", op.function(), suffix(n)), Vec::new(), Some(list.clone()))
            }
            InstrKind::Jump(w, label) => {
                (format!("JMP{}", when(w)), vec![Expr { kind: ExprKind::Name(label.clone()), span }], None)
            }
            InstrKind::Return(w) => (format!("RET{}", when(w)), Vec::new(), None),
            InstrKind::Function(call, FunctionForm::CurrentResult) => {
                let ExprKind::Name(name) = &call.callee.kind else { return };
                let Some(own) = self.sheet.word_for(&name.text) else { return };
                let mut call = call.clone();
                call.callee.kind = ExprKind::Name(Name { text: own.to_string(), span });
                instr.kind = InstrKind::Function(call, FunctionForm::CurrentResult);
                return;
            }
            // Calls keep their arguments in the standard's parentheses, behind the standard's word.
            InstrKind::Empty
            | InstrKind::Call(..)
            | InstrKind::Function(..)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => return,
        };
        if let Some(own) = self.sheet.word_for(&operator) {
            let word = Name { text: own.to_string(), span };
            instr.kind = InstrKind::Worded { word, operands, apart: self.sheet.listing.operands, list };
        }
    }

    /// Where a program's list ends.
    pub(super) fn end(&self, kind: UnitKind, list: &mut Vec<Instr>) {
        let Some(end) = self.sheet.scan.end.as_ref().filter(|_| kind == UnitKind::Program) else { return };
        let span = list.last().map_or(Span { file: crate::source::FileId(0), start: 0, end: 0 }, |i| i.span);
        let word = Name { text: end.clone(), span };
        let leaves = self.sheet.word_for("RET").unwrap_or("RET").to_string();
        let marker = InstrKind::Worded { word, operands: Vec::new(), apart: Separator::Comma, list: None };
        let ends = |i: &Instr| match &i.kind {
            InstrKind::Return(When::Always) => true,
            InstrKind::Worded { word, .. } => word.is(&leaves) || word.is(end),
            InstrKind::Empty
            | InstrKind::Load(..)
            | InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Not
            | InstrKind::Op(..)
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Function(..)
            | InstrKind::Pin(..) => false,
        };
        // The first place from which nothing goes on is the end; a list without one gets its marker.
        match list.iter_mut().find(|i| ends(i)) {
            Some(first) => first.kind = marker,
            None => list.push(Instr { label: None, kind: marker, span, notes: Notes::default() }),
        }
    }
}

/// The inputs of an instance that stores right before its call give, of those that are still wanted.
fn stores<'l>(before: &'l [Instr], callee: &Expr, power: &[String], given: &[&str]) -> Vec<&'l str> {
    let mut out: Vec<&str> = Vec::new();
    for instr in before.iter().rev() {
        match &instr.kind {
            InstrKind::Store(false, Expr { kind: ExprKind::Field(base, pin), .. }) if **base == *callee => {
                let wanted = power.iter().any(|p| pin.is(p)) && !given.iter().any(|g| pin.is(g));
                if !wanted || out.iter().any(|o| pin.is(o)) {
                    break;
                }
                out.push(&pin.text);
            }
            InstrKind::Load(..) | InstrKind::Op(..) | InstrKind::Not => {}
            InstrKind::Empty
            | InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Function(..)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => break,
        }
    }
    out
}

/// Replaces the call at `at`, and the stores before it, by the word; gives where the word stands then.
fn fold(list: &mut Vec<Instr>, at: usize, call: &Call, op: &Operation, apart: Separator, span: Span) -> usize {
    let is_store = |instr: &Instr| {
        if let InstrKind::Store(false, Expr { kind: ExprKind::Field(base, pin), .. }) = &instr.kind {
            **base == call.callee && op.power.iter().any(|p| pin.is(p))
        } else {
            false
        }
    };
    let mut first = at;
    let mut seen = 0;
    while first > 0 && seen < op.power.len() {
        let instr = &list[first - 1];
        let stored = is_store(instr);
        if !(stored || matches!(instr.kind, InstrKind::Load(..) | InstrKind::Op(..) | InstrKind::Not)) {
            break;
        }
        seen += usize::from(stored);
        first -= 1;
    }
    let mut call_notes = list[at].notes.clone();
    let label = list[at].label.clone();
    let mut made: Vec<Instr> = Vec::new();
    // Conditions come in the order of the operation: first those that were stored, as they stand.
    for instr in &list[first..at] {
        if is_store(instr) {
            call_notes.leading.splice(0..0, instr.notes.leading.clone());
            call_notes.trailing.splice(0..0, instr.notes.trailing.clone());
        } else {
            made.push(instr.clone());
        }
    }
    for power in &op.power {
        let given = call.args.iter().find_map(|a| {
            if let Arg::Input(name, value) = a
                && name.is(power)
            {
                Some(value.clone())
            } else {
                None
            }
        });
        match given {
            Some(Operand::Expr(value)) => {
                let (negated, value) = plain(value);
                made.push(Instr { label: None, kind: InstrKind::Load(negated, value), span, notes: Notes::default() });
            }
            Some(Operand::List(list)) => made.extend(list),
            None => {}
        }
    }
    if let Some(head) = made.first_mut().filter(|_| first == at) {
        head.notes.leading.splice(0..0, std::mem::take(&mut call_notes.leading));
        head.notes.blank_before |= std::mem::take(&mut call_notes.blank_before);
    }
    let mut operands = vec![call.callee.clone()];
    operands.extend(op.operands.iter().filter_map(|o| {
        call.args.iter().find_map(|a| {
            if let Arg::Input(name, Operand::Expr(value)) = a
                && name.is(o)
            {
                Some(value.clone())
            } else {
                None
            }
        })
    }));
    let word = Name { text: op.word.clone(), span };
    made.push(Instr { label, kind: InstrKind::Worded { word, operands, apart, list: None }, span, notes: call_notes });
    let last = first + made.len() - 1;
    list.splice(first..=at, made);
    last
}

/// `NOT x` is loaded with the negated word.
fn plain(value: Expr) -> (bool, Expr) {
    match value.kind {
        ExprKind::Unary(crate::model::ops::UnaryOp::Not, inner) => (true, *inner),
        kind @ (ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_)) => (false, Expr { kind, span: value.span }),
    }
}
