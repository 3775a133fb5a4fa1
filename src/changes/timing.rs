//! Tasks and programs: which run, how often, and in which order.

use super::token::{self, Token};
use super::tree::{comments, words};
use super::units::HeldNames;
use super::{Both, Cause, Group, Kind};
use crate::model::{Configuration, Item, Notes, Project, TaskDecl};
use crate::source::Span;

/// What differs of tasks and programs.
pub(super) fn told(both: &mut Both<'_>, names: &HeldNames) {
    let [left, right] = both.sides.map(|checked| configuration(checked.project()));
    match (left, right) {
        (Some(left), Some(right)) => configured(both, [left, right], names),
        (Some(_), None) | (None, Some(_)) => {
            let side = usize::from(left.is_none());
            let kind = if side == 0 { Kind::Removed } else { Kind::Added };
            let configuration = left.or(right);
            let mut sides = [None, None];
            if let Some(configuration) = configuration {
                let name = &configuration.name;
                sides[side] = both.spot(side, name.span, format!("CONFIGURATION {}", name.text));
            }
            let told = both.tell((Group::Timing, kind), None, "configuration");
            told.sides(sides).cause(Cause::Everything("what runs, and how often, is configured otherwise"));
        }
        (None, None) => {}
    }
    sequence(both, names);
}

fn configuration(project: &Project) -> Option<&Configuration> {
    project.items.iter().find_map(|item| if let Item::Configuration(c) = item { Some(c) } else { None })
}

const SPEED: Cause = Cause::Everything("a task runs otherwise");

fn configured(both: &mut Both<'_>, [left, right]: [&Configuration; 2], names: &HeldNames) {
    texts(both, &left.name.text, [(&left.notes, left.name.span), (&right.notes, right.name.span)]);
    for old in &left.tasks {
        match right.tasks.iter().find(|new| new.name == old.name) {
            Some(new) => task(both, [old, new]),
            None => {
                let sides = [both.spot(0, old.name.span, said(old)), None];
                both.tell((Group::Timing, Kind::Removed), None, format!("task {}", old.name.text)).sides(sides);
            }
        }
    }
    for new in right.tasks.iter().filter(|new| !left.tasks.iter().any(|old| old.name == new.name)) {
        let sides = [None, both.spot(1, new.name.span, said(new))];
        both.tell((Group::Timing, Kind::Added), None, format!("task {}", new.name.text)).sides(sides);
    }
    for old in &left.programs {
        let Some(new) = right.programs.iter().find(|new| new.name == old.name) else {
            let sides = [both.spot(0, old.name.span, format!("PROGRAM {} : {}", old.name.text, old.unit.text)), None];
            let told = both.tell((Group::Timing, Kind::Removed), None, format!("program {}", old.name.text));
            told.sides(sides).cause(SPEED);
            continue;
        };
        let of_task = |name: Option<&crate::model::Name>| name.map_or("no task".to_string(), |n| n.text.to_uppercase());
        let (a, b) = (of_task(old.task.as_ref()), of_task(new.task.as_ref()));
        if a != b {
            let sides = [both.spot(0, old.name.span, &a), both.spot(1, new.name.span, &b)];
            let told = both.tell((Group::Timing, Kind::Task), None, format!("program {}", old.name.text));
            told.sides(sides).note(format!("{a} became {b}")).cause(SPEED);
        }
        if old.unit.text.to_uppercase() != names.old(&new.unit.text) {
            let note = format!("{} became {}", old.unit.text, new.unit.text);
            let told = both.tell((Group::Timing, Kind::Operand), None, format!("program {}", old.name.text));
            told.note(note).cause(Cause::Everything("another program runs"));
        }
        texts(both, &old.name.text, [(&old.notes, old.name.span), (&new.notes, new.name.span)]);
    }
    for new in right.programs.iter().filter(|new| !left.programs.iter().any(|old| old.name == new.name)) {
        let sides = [None, both.spot(1, new.name.span, format!("PROGRAM {} : {}", new.name.text, new.unit.text))];
        let told = both.tell((Group::Timing, Kind::Added), None, format!("program {}", new.name.text));
        told.sides(sides).cause(SPEED);
    }
}

fn said(task: &TaskDecl) -> String {
    let args: Vec<String> = task
        .args
        .iter()
        .map(|(name, value)| format!("{} := {}", name.text, crate::lang::st::expression(value)))
        .collect();
    format!("TASK {}({})", task.name.text, args.join(", "))
}

fn task(both: &mut Both<'_>, [old, new]: [&TaskDecl; 2]) {
    let value = |task: &TaskDecl, name: &str| -> Option<(Vec<Token>, String)> {
        let (_, value) = task.args.iter().find(|(own, _)| own.is(name))?;
        let mut tokens = Vec::new();
        token::expr(&mut tokens, value);
        Some((tokens, crate::lang::st::expression(value)))
    };
    let mut names: Vec<String> = old.args.iter().chain(&new.args).map(|(name, _)| name.text.to_uppercase()).collect();
    names.sort_unstable();
    names.dedup();
    for name in names {
        let (a, b) = (value(old, &name), value(new, &name));
        let tokens = |side: &Option<(Vec<Token>, String)>| side.as_ref().map(|(tokens, _)| words(tokens));
        if tokens(&a) == tokens(&b) {
            continue;
        }
        let is_interval = name == "INTERVAL";
        let text = |side: Option<(Vec<Token>, String)>| side.map_or("nothing".to_string(), |(_, text)| text);
        let texts = [text(a), text(b)];
        let note = format!("{} became {}", texts[0], texts[1]);
        let sides = [both.spot(0, old.name.span, &texts[0]), both.spot(1, new.name.span, &texts[1])];
        let kind = if is_interval { Kind::Interval } else { Kind::Priority };
        let told = both.tell((Group::Timing, kind), None, format!("task {}", old.name.text));
        told.sides(sides).note(note);
        // Programs run in their order whatever the priority of their tasks.
        if is_interval {
            told.cause(SPEED);
        }
    }
    texts(both, &old.name.text, [(&old.notes, old.name.span), (&new.notes, new.name.span)]);
}

fn texts(both: &mut Both<'_>, subject: &str, sides: [(&Notes, Span); 2]) {
    let said = sides.map(|(notes, _)| comments(notes.leading.iter().chain(&notes.trailing)));
    if said[0] != said[1] {
        let spots = [0, 1].map(|side| {
            let spot = both.spot(side, sides[side].1, said[side].join(" / "));
            spot.filter(|spot| !spot.text.is_empty())
        });
        both.tell((Group::Texts, Kind::Comment), None, subject).sides(spots);
    }
}

/// The order in which programs run that both have.
fn sequence(both: &mut Both<'_>, names: &HeldNames) {
    let left: Vec<String> = both.sides[0].programs().map(str::to_uppercase).collect();
    let right: Vec<String> = both.sides[1].programs().map(|name| names.old(name)).collect();
    let both_have = |own: &[String], other: &[String]| {
        own.iter().filter(|name| other.contains(name)).cloned().collect::<Vec<String>>()
    };
    let (a, b) = (both_have(&left, &right), both_have(&right, &left));
    if a != b {
        let note = format!("{} became {}", a.join(", "), b.join(", "));
        let told = both.tell((Group::Timing, Kind::Sequence), None, "programs");
        told.note(note).cause(Cause::Everything("programs run in another order"));
    }
}
