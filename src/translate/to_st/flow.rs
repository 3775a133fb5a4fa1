//! Jumps become IF, WHILE, REPEAT and FOR where they have that shape. Where they do not, the whole body becomes a
//! loop over numbered steps, which is always right and seldom pretty.

use super::simplify::{may_fault, mentions, negate, root};
use super::{Additions, Line, relocate};
use crate::model::ops::BinaryOp;
use crate::model::{
    CaseBranch, CaseLabel, Elem, Expr, ExprKind, ForHead, Literal, LiteralValue, Notes, Stmt, StmtKind, TypeSpec,
};
use crate::source::Span;
use crate::translate::ledger::{Grade, STEP_LOOP, UNREACHABLE_KEPT};
use std::collections::{HashMap, HashSet};

/// A line without labels: jumps know the line they go to.
#[derive(Clone, Debug)]
pub(super) enum Flat {
    Stmt(Stmt),
    Jump(Option<Expr>, usize, Span, Notes),
    Return(Option<Expr>, Span, Notes),
}

/// The jumps have no shape that structured text knows.
struct Unshapely;

type Shaped<T> = Result<T, Unshapely>;

/// Makes statements of lines.
pub(super) fn statements(lines: Vec<Line>, additions: &mut Additions<'_>) -> Vec<Stmt> {
    let original = joined(flatten(lines));
    let mut flat = original.clone();
    let mut done = HashSet::new();
    loop {
        match shaped(&flat, additions) {
            Ok(list) => return list,
            // Code that stands elsewhere than where it is decided on is brought there, piece by piece.
            Err(Unshapely) if relocate::one(&mut flat, &mut done) => {}
            Err(Unshapely) => return steps(&original, additions),
        }
    }
}

fn shaped(flat: &[Flat], additions: &mut Additions<'_>) -> Shaped<Vec<Stmt>> {
    let mut shaper = Shaper { flat, additions, unreachable: Vec::new() };
    let end = flat.len();
    let whole = Region { low: 0, high: end, follow: end, exit: None, next: None, head: None };
    let list = shaper.region(&whole)?;
    for span in std::mem::take(&mut shaper.unreachable) {
        let reason = "no scan reaches this code; it is kept behind a condition that is never true".to_string();
        let entry = additions.context.entry(UNREACHABLE_KEPT, Grade::Exact, span, None, reason);
        additions.ledger.push(entry);
    }
    Ok(list)
}

fn flatten(lines: Vec<Line>) -> Vec<Flat> {
    let mut labels = HashMap::new();
    let mut at = 0;
    for line in &lines {
        if let Line::Label(label) = line {
            labels.insert(label.clone(), at);
        } else {
            at += 1
        }
    }
    lines
        .into_iter()
        .filter_map(|line| match line {
            Line::Label(_) => None,
            Line::Stmt(stmt) => Some(Flat::Stmt(stmt)),
            Line::Jump(condition, to, span, notes) => {
                Some(Flat::Jump(condition, labels.get(&to).copied().unwrap_or(at), span, notes))
            }
            Line::Return(condition, span, notes) => Some(Flat::Return(condition, span, notes)),
        })
        .collect()
}

/// Two conditional jumps in a row to one place are one with OR, if nothing jumps between them. Both sides of OR are
/// computed, so the second must not be one that may fault: the first may be there to keep it from that.
fn joined(mut flat: Vec<Flat>) -> Vec<Flat> {
    let mut at = 0;
    while at + 1 < flat.len() {
        if !matches!((&flat[at], &flat[at + 1]), (Flat::Jump(Some(_), ..), Flat::Jump(Some(_), ..))) {
            at += 1;
            continue;
        }
        let both = match (&flat[at], &flat[at + 1]) {
            (Flat::Jump(Some(a), to, span, notes), Flat::Jump(Some(b), also, ..))
                if to == also && *to != at + 1 && !may_fault(b) =>
            {
                let or = ExprKind::Binary(BinaryOp::Or, Box::new(a.clone()), Box::new(b.clone()));
                Some(Flat::Jump(Some(Expr { kind: or, span: *span }), *to, *span, notes.clone()))
            }
            _ => None,
        };
        let between = flat.iter().any(|f| matches!(f, Flat::Jump(_, to, ..) if *to == at + 1));
        match both.filter(|_| !between) {
            Some(one) => {
                flat[at] = one;
                flat.remove(at + 1);
                for line in &mut flat {
                    if let Flat::Jump(_, to, ..) = line
                        && *to > at
                    {
                        *to -= 1;
                    }
                }
            }
            None => at += 1,
        }
    }
    flat
}

/// A run of lines and what surrounds it.
#[derive(Clone, Copy)]
struct Region {
    low: usize,
    high: usize,
    /// Where it goes on behind the region.
    follow: usize,
    /// Where EXIT goes.
    exit: Option<usize>,
    /// Where CONTINUE goes.
    next: Option<usize>,
    /// The head of the loop whose body this is.
    head: Option<usize>,
}

/// True if a line outside `low..high`, other than `guard`, jumps into it.
pub(super) fn entered(flat: &[Flat], low: usize, high: usize, guard: usize) -> bool {
    flat.iter().enumerate().any(|(from, line)| {
        matches!(line, Flat::Jump(_, to, ..) if (low..high).contains(to) && !(low..high).contains(&from) && from != guard)
    })
}

struct Shaper<'f, 'a, 'c> {
    flat: &'f [Flat],
    additions: &'a mut Additions<'c>,
    unreachable: Vec<Span>,
}

impl Shaper<'_, '_, '_> {
    fn entered(&self, low: usize, high: usize, guard: usize) -> bool {
        entered(self.flat, low, high, guard)
    }

    fn region(&mut self, region: &Region) -> Shaped<Vec<Stmt>> {
        let mut out = Vec::new();
        let mut at = region.low;
        while at < region.high {
            if region.head != Some(at)
                && let Some(last) = self.last_back_jump(at, region.high)
            {
                at = self.any_loop(region, at, last, &mut out)?;
                continue;
            }
            at = match &self.flat[at] {
                Flat::Stmt(stmt) => {
                    out.push(stmt.clone());
                    at + 1
                }
                Flat::Return(condition, span, notes) => {
                    out.push(guarded(condition.clone(), StmtKind::Return, *span, notes.clone()));
                    at + 1
                }
                Flat::Jump(None, to, span, notes) => self.plain_jump(region, at, *to, *span, notes, &mut out)?,
                Flat::Jump(Some(condition), to, span, notes) => {
                    let (condition, notes) = (condition.clone(), notes.clone());
                    self.decision(region, at, condition, *to, *span, notes, &mut out)?
                }
            };
        }
        Ok(out)
    }

    fn last_back_jump(&self, head: usize, high: usize) -> Option<usize> {
        (head..high).rev().find(|at| matches!(&self.flat[*at], Flat::Jump(_, to, ..) if *to == head))
    }

    /// The statement for a jump that leaves or restarts the loop, or ends the unit.
    fn leaves(&self, region: &Region, to: usize) -> Option<StmtKind> {
        if region.exit == Some(to) {
            Some(StmtKind::Exit)
        } else if region.next == Some(to) {
            Some(StmtKind::Continue)
        } else if to == self.flat.len() {
            Some(StmtKind::Return)
        } else {
            None
        }
    }

    fn plain_jump(
        &mut self,
        region: &Region,
        at: usize,
        to: usize,
        span: Span,
        notes: &Notes,
        out: &mut Vec<Stmt>,
    ) -> Shaped<usize> {
        let falls_through = (to == region.follow || to == region.high) && at + 1 == region.high;
        if falls_through {
            comments_only(notes, span, out);
            return Ok(at + 1);
        }
        let inside = (to == region.follow).then_some(region.high).or((to <= region.high).then_some(to));
        if let Some(target) = inside.filter(|t| *t > at)
            && !self.entered(at + 1, target, at)
        {
            // Nothing reaches what is jumped over; it stays, where a reader can see that.
            comments_only(notes, span, out);
            let inner = Region { low: at + 1, high: target, follow: to, ..*region };
            let dead = self.region(&inner)?;
            if dead.iter().all(|s| matches!(s.kind, StmtKind::Empty)) {
                out.extend(dead);
            } else {
                self.unreachable.push(span);
                out.push(Stmt {
                    kind: StmtKind::If(vec![(Expr::truth(false, span), dead)], None),
                    span,
                    notes: Notes::default(),
                });
            }
            return Ok(target);
        }
        match self.leaves(region, to) {
            Some(kind) => {
                out.push(Stmt { kind, span, notes: notes.clone() });
                Ok(at + 1)
            }
            None => Err(Unshapely),
        }
    }

    #[allow(clippy::too_many_arguments, reason = "the parts of one jump")]
    fn decision(
        &mut self,
        region: &Region,
        at: usize,
        condition: Expr,
        to: usize,
        span: Span,
        notes: Notes,
        out: &mut Vec<Stmt>,
    ) -> Shaped<usize> {
        let target = if to == region.follow && to != region.high { region.high } else { to };
        let over = target > at && target <= region.high;
        if !over || self.entered(at + 1, target, at) {
            return match self.leaves(region, to) {
                Some(kind) => {
                    out.push(guarded(Some(condition), kind, span, notes));
                    Ok(at + 1)
                }
                None => Err(Unshapely),
            };
        }
        if let Some(end) = self.else_end(region, at, target) {
            let high = if end == region.follow && end != region.high { region.high } else { end };
            let then = Region { low: at + 1, high: target - 1, follow: end, head: None, ..*region };
            let otherwise = Region { low: target, high, follow: end, head: None, ..*region };
            let then = self.region(&then)?;
            let otherwise = self.region(&otherwise)?;
            out.push(branch(condition, then, otherwise, span, notes));
            return Ok(high);
        }
        let follow = if target == region.high { region.follow } else { target };
        let then = self.region(&Region { low: at + 1, high: target, follow, head: None, ..*region })?;
        out.push(branch(condition, then, Vec::new(), span, notes));
        Ok(target)
    }

    /// Where an ELSE ends: the part before it ends with a jump over it.
    fn else_end(&self, region: &Region, at: usize, target: usize) -> Option<usize> {
        if target < at + 2 {
            return None;
        }
        let Flat::Jump(None, end, ..) = &self.flat[target - 1] else { return None };
        let end = *end;
        let high = if end == region.follow && end != region.high { region.high } else { end };
        let forward = high > target && high <= region.high;
        (forward && !self.entered(target, high, at)).then_some(end)
    }

    fn any_loop(&mut self, region: &Region, head: usize, last: usize, out: &mut Vec<Stmt>) -> Shaped<usize> {
        let exit = last + 1;
        if self.entered(head + 1, exit, usize::MAX) {
            return Err(Unshapely);
        }
        // A jump to the line behind may be what the surrounding code calls its end.
        let exit_target = if exit == region.high { region.follow } else { exit };
        let others = (head..last).any(|k| matches!(&self.flat[k], Flat::Jump(_, to, ..) if *to == head));
        let body = |low: usize, high: usize, next: usize| Region {
            low,
            high,
            follow: next,
            exit: Some(exit_target),
            next: Some(next),
            head: Some(head),
        };
        let Flat::Jump(back, _, span, notes) = &self.flat[last] else { return Err(Unshapely) };
        let (span, notes) = (*span, notes.clone());
        if let Some(condition) = back.clone().filter(|_| !others) {
            let list = self.region(&body(head, last, last))?;
            out.push(Stmt { kind: StmtKind::Repeat(list, negate(&condition)), span, notes });
            return Ok(exit);
        }
        if back.is_some() {
            // Other jumps to the head: WHILE TRUE, left when the last condition does not hold.
            // Falling off the end leads to that condition, a jump to the head passes it by.
            let mut list = self.region(&Region { follow: last, ..body(head, last, head) })?;
            let leave = back.clone().map(|c| negate(&c));
            list.push(guarded(leave, StmtKind::Exit, span, notes));
            out.push(Stmt { kind: StmtKind::While(Expr::truth(true, span), list), span, notes: Notes::default() });
            return Ok(exit);
        }
        let test = if let Flat::Jump(Some(condition), to, _, notes) = &self.flat[head]
            && (*to == exit || *to == exit_target)
        {
            Some((condition.clone(), notes.clone()))
        } else {
            None
        };
        let Some((condition, head_notes)) = test else {
            let list = self.region(&body(head, last, head))?;
            out.push(Stmt { kind: StmtKind::While(Expr::truth(true, span), list), span, notes });
            return Ok(exit);
        };
        if let Some(for_loop) = self.for_loop(&condition, head, last, exit_target, out)? {
            let notes = out.pop().map(|s| s.notes).unwrap_or_default();
            out.push(Stmt { kind: for_loop, span, notes: merged(notes, head_notes) });
            return Ok(exit);
        }
        let list = self.region(&body(head + 1, last, head))?;
        out.push(Stmt { kind: StmtKind::While(negate(&condition), list), span, notes: head_notes });
        Ok(exit)
    }

    /// `k := a;` before, `k > b` as the way out, `k := k + c` at the end: a FOR.
    fn for_loop(
        &mut self,
        condition: &Expr,
        head: usize,
        last: usize,
        exit: usize,
        out: &[Stmt],
    ) -> Shaped<Option<StmtKind>> {
        let Some(Stmt { kind: StmtKind::Assign(var, from), .. }) = out.last() else { return Ok(None) };
        let ExprKind::Binary(op @ (BinaryOp::Gt | BinaryOp::Lt), tested, to) = &condition.kind else { return Ok(None) };
        let Flat::Stmt(Stmt { kind: StmtKind::Assign(stepped, step), notes, .. }) = &self.flat[last - 1] else {
            return Ok(None);
        };
        let Some(by) = increment(step, var) else { return Ok(None) };
        let direction = if *op == BinaryOp::Gt { by > 0 } else { by < 0 };
        let plain = matches!(var.kind, ExprKind::Name(_)) && **tested == *var && *stepped == *var;
        if !plain || !direction || !notes.leading.is_empty() || last - 1 <= head || !self.stays(to, var, head, last) {
            return Ok(None);
        }
        // An entry at the increment is CONTINUE; entries elsewhere were ruled out.
        let region = Region {
            low: head + 1,
            high: last - 1,
            follow: last - 1,
            exit: Some(exit),
            next: Some(last - 1),
            head: None,
        };
        let body = self.region(&region)?;
        let by = (by != 1).then(|| integer(by, var.span));
        let head = ForHead { var: var.clone(), from: from.clone(), to: (**to).clone(), by };
        Ok(Some(StmtKind::For(Box::new(head), body)))
    }

    /// True if a limit is a literal, or a variable that nothing in the loop writes.
    fn stays(&self, limit: &Expr, var: &Expr, head: usize, last: usize) -> bool {
        match &limit.kind {
            ExprKind::Literal(_) => true,
            ExprKind::Unary(_, inner) => {
                self.stays(inner, var, head, last) && matches!(inner.kind, ExprKind::Literal(_))
            }
            ExprKind::Name(name) if limit != var => {
                let vars = &self.additions.context.typed.vars;
                let own = vars.iter().any(|v| v.name.eq_ignore_ascii_case(&name.text) && v.global.is_none())
                    || self.additions.added.iter().any(|(n, _)| n.eq_ignore_ascii_case(&name.text));
                let shared = vars.iter().any(|v| v.section == crate::model::Section::InOut);
                own && !shared
                    && self.flat[head..last]
                        .iter()
                        .all(|line| if let Flat::Stmt(stmt) = line { !writes(stmt, &name.text) } else { true })
            }
            ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => false,
        }
    }
}

/// True if a statement may write a variable; calls may write what they are given.
fn writes(stmt: &Stmt, name: &str) -> bool {
    match &stmt.kind {
        StmtKind::Assign(target, _) => root(target).is_some_and(|r| r.eq_ignore_ascii_case(name)),
        StmtKind::Call(call) => {
            let whole = Expr { kind: ExprKind::Call(Box::new(call.clone())), span: call.span };
            mentions(&whole, name) || root(&call.callee).is_some_and(|r| r.eq_ignore_ascii_case(name))
        }
        StmtKind::If(branches, otherwise) => {
            branches.iter().flat_map(|(_, b)| b).chain(otherwise.iter().flatten()).any(|s| writes(s, name))
        }
        StmtKind::Empty
        | StmtKind::Case(..)
        | StmtKind::For(..)
        | StmtKind::While(..)
        | StmtKind::Repeat(..)
        | StmtKind::Exit
        | StmtKind::Continue
        | StmtKind::Return => false,
    }
}

/// The constant that `var + c` or `var - c` adds.
fn increment(step: &Expr, var: &Expr) -> Option<i64> {
    let ExprKind::Binary(op @ (BinaryOp::Add | BinaryOp::Sub), left, right) = &step.kind else { return None };
    if **left != *var {
        return None;
    }
    let value = match &right.kind {
        ExprKind::Literal(l) => literal_int(l)?,
        ExprKind::Unary(crate::model::ops::UnaryOp::Negate, inner) => {
            if let ExprKind::Literal(l) = &inner.kind {
                -literal_int(l)?
            } else {
                return None;
            }
        }
        ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => return None,
    };
    Some(if *op == BinaryOp::Add { value } else { -value })
}

fn literal_int(literal: &Literal) -> Option<i64> {
    match (&literal.value, &literal.typed) {
        (LiteralValue::Int(i), None) => i64::try_from(*i).ok(),
        _ => None,
    }
}

fn integer(value: i64, span: Span) -> Expr {
    let literal = |v: i128| Literal { text: v.to_string(), typed: None, value: LiteralValue::Int(v) };
    let positive = Expr { kind: ExprKind::Literal(literal(i128::from(value).abs())), span };
    if value >= 0 {
        return positive;
    }
    Expr { kind: ExprKind::Unary(crate::model::ops::UnaryOp::Negate, Box::new(positive)), span }
}

fn merged(mut a: Notes, b: Notes) -> Notes {
    a.leading.extend(b.leading);
    a.trailing.extend(b.trailing);
    a
}

fn comments_only(notes: &Notes, span: Span, out: &mut Vec<Stmt>) {
    let mut notes = notes.clone();
    let trailing = std::mem::take(&mut notes.trailing);
    notes.leading.extend(trailing);
    if !notes.leading.is_empty() {
        out.push(Stmt { kind: StmtKind::Empty, span, notes });
    }
}

fn guarded(condition: Option<Expr>, kind: StmtKind, span: Span, notes: Notes) -> Stmt {
    match condition {
        None => Stmt { kind, span, notes },
        Some(condition) => {
            let inner = Stmt { kind, span, notes: Notes::default() };
            Stmt { kind: StmtKind::If(vec![(condition, vec![inner])], None), span, notes }
        }
    }
}

/// A jump over `then` when `condition` holds: `IF NOT condition THEN then ELSE otherwise`.
fn branch(condition: Expr, then: Vec<Stmt>, otherwise: Vec<Stmt>, span: Span, notes: Notes) -> Stmt {
    let kind = if then.is_empty() && !otherwise.is_empty() {
        StmtKind::If(vec![(condition, otherwise)], None)
    } else {
        let otherwise = (!otherwise.is_empty()).then_some(otherwise);
        StmtKind::If(vec![(negate(&condition), then)], otherwise)
    };
    Stmt { kind, span, notes }
}

/// The fallback: numbered steps in a loop, each ending with the number of the next.
fn steps(flat: &[Flat], additions: &mut Additions<'_>) -> Vec<Stmt> {
    let span = additions.context.unit.name.span;
    let name = additions.namer.fresh("Step");
    additions.added.push((name.clone(), TypeSpec::Elem(Elem::Dint, span)));
    let reason = format!(
        "the jumps have no shape of branches and loops: they became a loop over numbered steps in `{name}`; \
         the same unless a scan comes near the loop limit, which this loop reaches earlier"
    );
    additions.ledger.push(additions.context.entry(STEP_LOOP, Grade::Conditional, span, Some(name.clone()), reason));
    let step = Expr::variable(name, span);
    let plain = |kind| Stmt { kind, span, notes: Notes::default() };
    let go = |to: i64| plain(StmtKind::Assign(step.clone(), integer(to, span)));
    let mut starts: Vec<usize> = vec![0];
    for (at, line) in flat.iter().enumerate() {
        match line {
            Flat::Jump(_, to, ..) => starts.extend([*to, at + 1]),
            Flat::Return(..) => starts.push(at + 1),
            Flat::Stmt(_) => {}
        }
    }
    starts.sort_unstable();
    starts.dedup();
    starts.retain(|s| *s < flat.len());
    let number = |line: usize| starts.iter().position(|s| *s == line).map_or(-1, |n| n as i64);
    let mut branches = Vec::new();
    for (index, &start) in starts.iter().enumerate() {
        let end = starts.get(index + 1).copied().unwrap_or(flat.len());
        let mut body = vec![go(number(end))];
        let mut list = Vec::new();
        for line in &flat[start..end] {
            match line {
                Flat::Stmt(stmt) => list.push(stmt.clone()),
                Flat::Jump(condition, to, at, notes) => {
                    let target = Stmt { span: *at, notes: notes.clone(), ..go(number(*to)) };
                    list.push(match condition {
                        None => target,
                        Some(c) => guarded(Some(c.clone()), target.kind, *at, notes.clone()),
                    });
                }
                Flat::Return(condition, at, notes) => {
                    list.push(guarded(condition.clone(), StmtKind::Return, *at, notes.clone()));
                }
            }
        }
        body.append(&mut list);
        let labels = vec![CaseLabel::One(integer(index as i64, span))];
        branches.push(CaseBranch { labels, body, notes: Notes::default() });
    }
    let case = plain(StmtKind::Case(step.clone(), branches, None));
    let zero = integer(0, span);
    let more = ExprKind::Binary(BinaryOp::Ge, Box::new(step.clone()), Box::new(zero));
    vec![go(0), plain(StmtKind::While(Expr { kind: more, span }, vec![case]))]
}
