//! Edits of bodies: names, values, forms, branches, operands, operators, parts.

use super::edit::{HERE, named};
use fastrand::Rng;
use honest_twin::model::ops::{BinaryOp, UnaryOp};
use honest_twin::model::{
    Body, ContactForm, Elem, Element, ElementKind, Expr, ExprKind, Feed, Instr, InstrKind, LiteralValue, Mention, Name,
    Network, Notes, Operand, Section, Stmt, StmtKind, TypeSpec, Unit, VarSection, Walk, Wire, each_statement_mut,
};

/// Calls `found` with each expression of a body that is read or written.
fn each_expr(unit: &mut Unit, found: &mut dyn FnMut(&mut Expr, Mention)) {
    let mut walk = |expr: &mut Expr, used: Mention| {
        expr.walk_mut(used, &mut |inner, used| {
            found(inner, used);
            Walk::Into
        });
    };
    match &mut unit.body {
        Body::Statements(list) => each_statement_mut(list, &mut |stmt| stmt.own_mut(&mut walk)),
        Body::Instructions(list) => list.iter_mut().for_each(|instr| instr.own_mut(&mut walk)),
        Body::Ladder(list) | Body::Blocks(list) => {
            list.iter_mut().flat_map(|n| &mut n.elements).for_each(|element| element.own_mut(&mut walk));
        }
    }
}

/// Changes one of the expressions that fit.
fn one_expr(unit: &mut Unit, rng: &mut Rng, fits: impl Fn(&Expr, Mention) -> bool, change: impl Fn(&mut Expr)) -> bool {
    let mut count = 0;
    each_expr(unit, &mut |expr, used| count += usize::from(fits(expr, used)));
    if count == 0 {
        return false;
    }
    let (wanted, mut at) = (rng.usize(0..count), 0);
    each_expr(unit, &mut |expr, used| {
        if fits(expr, used) {
            if at == wanted {
                change(expr);
            }
            at += 1;
        }
    });
    true
}

/// The names of variables of a type.
fn of_type(unit: &Unit, elem: Elem) -> Vec<String> {
    let decls = unit.sections.iter().filter(|section| !section.constant).flat_map(|section| &section.vars);
    let own = decls.filter(|decl| matches!(decl.spec, TypeSpec::Elem(own, _) if own == elem));
    own.flat_map(|decl| decl.names.iter().map(|n| n.text.clone())).collect()
}

pub(super) fn rename(unit: &mut Unit, rng: &mut Rng) -> bool {
    let decls: Vec<String> =
        unit.sections.iter().flat_map(|s| &s.vars).flat_map(|d| &d.names).map(|n| n.text.clone()).collect();
    if decls.is_empty() {
        return false;
    }
    let old = decls[rng.usize(0..decls.len())].clone();
    let new = "TroutName";
    for decl in unit.sections.iter_mut().flat_map(|s| &mut s.vars) {
        decl.names.iter_mut().filter(|n| n.is(&old)).for_each(|n| n.text = new.to_string());
    }
    each_expr(unit, &mut |expr, _| {
        if let ExprKind::Name(own) = &mut expr.kind
            && own.is(&old)
        {
            own.text = new.to_string();
        }
    });
    true
}

/// Where the rungs of a list begin; nothing if it jumps or has labels, so that order means more than order.
fn rungs(list: &[Instr]) -> Vec<usize> {
    let plain = list.iter().all(|instr| instr.label.is_none() && !matches!(instr.kind, InstrKind::Jump(..)));
    let begins = |instr: &Instr| {
        matches!(instr.kind, InstrKind::Load(..) | InstrKind::Call(honest_twin::model::When::Always, _))
    };
    if !plain || list.first().is_none_or(|first| !begins(first)) {
        return Vec::new();
    }
    (0..list.len()).filter(|at| begins(&list[*at])).collect()
}

pub(super) fn moved(unit: &mut Unit, rng: &mut Rng) -> bool {
    fn shift<T: PartialEq>(list: &mut Vec<T>, rng: &mut Rng) -> bool {
        if list.len() < 3 {
            return false;
        }
        let from = rng.usize(0..list.len());
        let taken = list.remove(from);
        let to = (from + 1 + rng.usize(0..list.len() - 1)) % (list.len() + 1);
        // What is twice there has not moved.
        let twice = list.contains(&taken);
        list.insert(to, taken);
        !twice && to != from
    }
    match &mut unit.body {
        Body::Statements(list) => shift(list, rng),
        Body::Ladder(list) | Body::Blocks(list) => {
            list.iter().all(|network| network.label.is_none()) && shift(list, rng)
        }
        Body::Instructions(list) => {
            let starts = rungs(list);
            if starts.len() < 3 {
                return false;
            }
            let mut parts: Vec<Vec<Instr>> = Vec::new();
            for start in starts.iter().rev() {
                parts.insert(0, list.split_off(*start));
            }
            let done = shift(&mut parts, rng);
            *list = parts.concat();
            done
        }
    }
}

pub(super) fn reorder(unit: &mut Unit, rng: &mut Rng) -> bool {
    let fits = |s: &&mut VarSection| s.section == Section::Local && s.vars.len() > 1;
    let Some(section) = unit.sections.iter_mut().find(fits) else { return false };
    let at = rng.usize(0..section.vars.len() - 1);
    section.vars.swap(at, at + 1);
    true
}

pub(super) fn value(unit: &mut Unit, rng: &mut Rng) -> bool {
    let is_number = |expr: &Expr, _: Mention| {
        let ExprKind::Literal(literal) = &expr.kind else { return false };
        matches!(literal.value, LiteralValue::Int(_) | LiteralValue::Time(..))
    };
    one_expr(unit, rng, is_number, |expr| {
        if let ExprKind::Literal(literal) = &mut expr.kind {
            match &mut literal.value {
                LiteralValue::Int(value) => {
                    *value += 1;
                    let typed = literal.typed.as_ref().map_or(String::new(), |t| format!("{}#", t.text));
                    literal.text = format!("{typed}{value}");
                }
                LiteralValue::Time(nanos, _) => {
                    *nanos += 10_000_000;
                    literal.text = format!("T#{}ms", *nanos / 1_000_000);
                }
                _ => {}
            }
        }
    })
}

/// Asks something the other way round.
pub(super) fn form(unit: &mut Unit, rng: &mut Rng) -> bool {
    match &mut unit.body {
        Body::Statements(_) => one_expr(
            unit,
            rng,
            |expr, _| matches!(&expr.kind, ExprKind::Unary(UnaryOp::Not, _)),
            |expr| {
                if let ExprKind::Unary(_, inner) = &expr.kind {
                    *expr = (**inner).clone();
                }
            },
        ),
        Body::Instructions(list) => {
            let fits = |kind: &InstrKind| match kind {
                InstrKind::Op(op, _, Operand::Expr(_)) => op.is_logic(),
                _ => false,
            };
            let found: Vec<usize> = (0..list.len()).filter(|at| fits(&list[*at].kind)).collect();
            let Some(at) = rng.choice(&found) else { return false };
            if let InstrKind::Op(_, negated, _) = &mut list[*at].kind {
                *negated = !*negated;
            }
            true
        }
        Body::Ladder(list) => {
            let mut contacts: Vec<&mut ContactForm> = list
                .iter_mut()
                .flat_map(|network| &mut network.elements)
                .filter_map(|e| if let ElementKind::Contact { form, .. } = &mut e.kind { Some(form) } else { None })
                .filter(|form| matches!(form, ContactForm::Open | ContactForm::Closed))
                .collect();
            if contacts.is_empty() {
                return false;
            }
            let at = rng.usize(0..contacts.len());
            *contacts[at] = if *contacts[at] == ContactForm::Open { ContactForm::Closed } else { ContactForm::Open };
            true
        }
        Body::Blocks(list) => {
            let is_logic = |name: &Name| ["AND", "OR"].iter().any(|own| name.is(own));
            let blocks = list.iter_mut().flat_map(|network| &mut network.elements).filter_map(|element| {
                if let ElementKind::Block(block) = &mut element.kind { Some(block) } else { None }
            });
            let mut pins: Vec<&mut bool> = blocks
                .filter(|block| is_logic(&block.name))
                .flat_map(|block| &mut block.inputs)
                .map(|pin| &mut pin.negated)
                .collect();
            if pins.is_empty() {
                return false;
            }
            let at = rng.usize(0..pins.len());
            *pins[at] = !*pins[at];
            true
        }
    }
}

/// One condition more.
pub(super) fn branch(unit: &mut Unit, rng: &mut Rng) -> bool {
    let bools = of_type(unit, Elem::Bool);
    let Some(other) = rng.choice(&bools).cloned() else { return false };
    match &mut unit.body {
        Body::Statements(list) => {
            let mut count = 0;
            each_statement_mut(list, &mut |stmt| {
                if let StmtKind::If(branches, _) = &stmt.kind {
                    count += branches.len();
                }
            });
            if count == 0 {
                return false;
            }
            let (wanted, mut at) = (rng.usize(0..count), 0);
            each_statement_mut(list, &mut |stmt| {
                if let StmtKind::If(branches, _) = &mut stmt.kind {
                    for (condition, _) in branches {
                        if at == wanted {
                            let kind =
                                ExprKind::Binary(BinaryOp::And, Box::new(condition.clone()), Box::new(named(&other)));
                            *condition = Expr { kind, span: HERE };
                        }
                        at += 1;
                    }
                }
            });
            true
        }
        Body::Instructions(list) => {
            let is_store = |at: &usize| {
                *at > 0 && matches!(list[*at].kind, InstrKind::Store(false, _)) && bool_store(list, *at, &bools)
            };
            let found: Vec<usize> = (0..list.len()).filter(is_store).collect();
            let Some(at) = rng.choice(&found).copied() else { return false };
            let kind = InstrKind::Op(BinaryOp::And, false, Operand::Expr(named(&other)));
            list.insert(at, Instr { label: None, kind, span: HERE, notes: Notes::default() });
            true
        }
        Body::Ladder(list) => {
            let network = rng.usize(0..list.len());
            let elements = &mut list[network].elements;
            let Some(at) = elements.iter().position(|e| matches!(e.kind, ElementKind::Coil { .. })) else {
                return false;
            };
            let fresh = Wire(900);
            let ElementKind::Coil { from, .. } = &mut elements[at].kind else { return false };
            let before = std::mem::replace(from, fresh);
            let kind =
                ElementKind::Contact { form: ContactForm::Open, operand: named(&other), from: before, to: fresh };
            elements.insert(at, Element { kind, span: HERE, at: None, kept: Vec::new() });
            true
        }
        Body::Blocks(list) => {
            let is_logic = |name: &Name| ["AND", "OR"].iter().any(|own| name.is(own));
            let mut blocks: Vec<_> = list
                .iter_mut()
                .flat_map(|network| &mut network.elements)
                .filter_map(|e| if let ElementKind::Block(block) = &mut e.kind { Some(block) } else { None })
                .filter(|block| is_logic(&block.name))
                .collect();
            if blocks.is_empty() {
                return false;
            }
            let at = rng.usize(0..blocks.len());
            let name = blocks[at].inputs.last().and_then(|pin| pin.name.clone()).is_some();
            let pin = honest_twin::model::InPin { name: None, negated: false, feed: Feed::Value(named(&other)) };
            blocks[at].inputs.push(pin);
            !name
        }
    }
}

/// Whether a store keeps a BOOL, so that one more AND in front of it has a meaning.
fn bool_store(list: &[Instr], at: usize, bools: &[String]) -> bool {
    let InstrKind::Store(_, to) = &list[at].kind else { return false };
    matches!(&to.kind, ExprKind::Name(name) if bools.iter().any(|own| name.is(own)))
        && !matches!(list[at - 1].kind, InstrKind::Store(..) | InstrKind::Set(_) | InstrKind::Reset(_))
}

pub(super) fn operand(unit: &mut Unit, rng: &mut Rng) -> bool {
    let bools = of_type(unit, Elem::Bool);
    if bools.len() < 2 {
        return false;
    }
    let new = bools[rng.usize(0..bools.len())].clone();
    let is_other = |expr: &Expr, used: Mention| {
        let ExprKind::Name(own) = &expr.kind else { return false };
        used == Mention::Read && !own.is(&new) && bools.iter().any(|name| own.is(name))
    };
    one_expr(unit, rng, is_other, |expr| *expr = named(&new))
}

pub(super) fn operator(unit: &mut Unit, rng: &mut Rng) -> bool {
    fn other(op: BinaryOp) -> Option<BinaryOp> {
        Some(match op {
            BinaryOp::And => BinaryOp::Or,
            BinaryOp::Or => BinaryOp::And,
            BinaryOp::Lt => BinaryOp::Le,
            BinaryOp::Le => BinaryOp::Lt,
            BinaryOp::Gt => BinaryOp::Ge,
            BinaryOp::Ge => BinaryOp::Gt,
            BinaryOp::Eq => BinaryOp::Ne,
            BinaryOp::Add => BinaryOp::Sub,
            _ => return None,
        })
    }
    match &mut unit.body {
        Body::Statements(_) => one_expr(
            unit,
            rng,
            // Of a chain of several the parentheses would change with it.
            |expr, _| match &expr.kind {
                ExprKind::Binary(op, left, right) => {
                    let is_plain = |side: &Expr| !matches!(side.kind, ExprKind::Binary(..));
                    other(*op).is_some() && is_plain(left) && is_plain(right)
                }
                _ => false,
            },
            |expr| {
                if let ExprKind::Binary(op, ..) = &mut expr.kind {
                    *op = other(*op).unwrap();
                }
            },
        ),
        Body::Instructions(list) => {
            let fits = |at: &usize| matches!(&list[*at].kind, InstrKind::Op(op, ..) if other(*op).is_some());
            let found: Vec<usize> = (0..list.len()).filter(fits).collect();
            let Some(at) = rng.choice(&found) else { return false };
            if let InstrKind::Op(op, ..) = &mut list[*at].kind {
                *op = other(*op).unwrap();
            }
            true
        }
        Body::Ladder(list) | Body::Blocks(list) => {
            for element in list.iter_mut().flat_map(|network| &mut network.elements) {
                if let ElementKind::Compare { op, .. } = &mut element.kind
                    && let Some(new) = other(*op)
                {
                    *op = new;
                    return true;
                }
            }
            false
        }
    }
}

pub(super) fn add(unit: &mut Unit, rng: &mut Rng) -> bool {
    let bools = of_type(unit, Elem::Bool);
    let Some(read) = rng.choice(&bools).cloned() else { return false };
    // What is written is written nowhere else, so that the new part is like no other one.
    let target = "Spare";
    let bare = |kind| Instr { label: None, kind, span: HERE, notes: Notes::default() };
    match &mut unit.body {
        Body::Statements(list) => {
            let kind = StmtKind::Assign(named(target), named(&read));
            let at = rng.usize(0..=list.len());
            list.insert(at, Stmt { kind, span: HERE, notes: Notes::default() });
        }
        Body::Instructions(list) => {
            list.push(bare(InstrKind::Load(false, named(&read))));
            list.push(bare(InstrKind::Store(false, named(target))));
        }
        Body::Ladder(list) => {
            let form = ContactForm::Open;
            let contact = ElementKind::Contact { form, operand: named(&read), from: Wire::RAIL, to: Wire(1) };
            let coil = honest_twin::model::CoilForm::Plain;
            let coil = ElementKind::Coil { form: coil, target: named(target), from: Wire(1), drive: None };
            list.push(network(vec![contact, coil]));
        }
        Body::Blocks(list) => {
            let source = ElementKind::Source { value: named(&read), to: Wire(1) };
            let sink = ElementKind::Sink { target: named(target), from: Wire(1) };
            list.push(network(vec![source, sink]));
        }
    }
    true
}

fn network(kinds: Vec<ElementKind>) -> Network {
    let elements = kinds.into_iter().map(|kind| Element { kind, span: HERE, at: None, kept: Vec::new() }).collect();
    Network { label: None, elements, span: HERE, notes: Notes::default() }
}

pub(super) fn remove(unit: &mut Unit, rng: &mut Rng) -> bool {
    match &mut unit.body {
        Body::Statements(list) if list.len() > 1 => drop(list.remove(rng.usize(0..list.len()))),
        Body::Ladder(list) | Body::Blocks(list) if list.len() > 1 => {
            if list.iter().any(|network| network.label.is_some()) {
                return false;
            }
            drop(list.remove(rng.usize(0..list.len())));
        }
        Body::Instructions(list) => {
            let starts = rungs(list);
            if starts.len() < 2 {
                return false;
            }
            let at = rng.usize(0..starts.len());
            let end = starts.get(at + 1).copied().unwrap_or(list.len());
            list.drain(starts[at]..end);
        }
        Body::Statements(_) | Body::Ladder(_) | Body::Blocks(_) => return false,
    }
    true
}
