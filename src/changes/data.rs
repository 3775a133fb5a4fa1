//! Variables and types: what of their declarations changed.

use super::declared::Declared;
use super::renames::{Names, Shared};
use super::token::{self, Token};
use super::tree::comments;
use super::{Both, Cause, Group, Kind, Spot};
use crate::model::{Edge, Item, Project, Retain, Section, TypeDecl, TypeSpec, Unit, UnitKind, VarSection};
use std::collections::{HashMap, HashSet};

/// The names of a unit on both sides; `None` for globals.
type Owner<'o> = Option<[&'o str; 2]>;

/// The declarations of variables, held against each other.
pub(super) fn variables(
    both: &mut Both<'_>,
    owner: Owner<'_>,
    vars: &[Vec<Declared<'_>>; 2],
    shared: &Shared,
    own: &Names,
) {
    let old_name = |var: &Declared<'_>| {
        let key = var.key();
        let is_shared = owner.is_none() || var.section == Section::External;
        own.get(&key).or_else(|| shared.names.get(&key).filter(|_| is_shared)).cloned().unwrap_or(key)
    };
    let there: HashMap<String, usize> = vars[1].iter().enumerate().map(|(at, var)| (old_name(var), at)).collect();
    let mut partners = Vec::new();
    for old in &vars[0] {
        match there.get(&old.key()) {
            Some(at) => {
                partners.push(*at);
                pair(both, owner, [old, &vars[1][*at]], shared, own);
            }
            None => alone(both, owner, old, 0),
        }
    }
    let taken: HashSet<usize> = partners.iter().copied().collect();
    for (_, new) in vars[1].iter().enumerate().filter(|(at, _)| !taken.contains(at)) {
        alone(both, owner, new, 1);
    }
    order(both, owner, vars, &partners);
}

/// What is said of a variable, as its declaration has it.
fn said(var: &Declared<'_>) -> String {
    let address = var.address.as_ref().map_or(String::new(), |address| format!(" AT {address}"));
    let init = if var.init.is_empty() { String::new() } else { format!(" := {}", plain(&var.init)) };
    format!("{} {}{address} : {}{init}", var.section.word(), var.name.text, plain(&var.spec))
}

/// Tokens as they are told: times in their usual spelling.
fn plain(tokens: &[Token]) -> String {
    let each = tokens.iter().map(|token| match token {
        Token::Value(text) => usual(text),
        Token::Name(text) | Token::Part(text) => text.clone(),
        Token::Sign(text) => (*text).to_string(),
    });
    each.collect::<Vec<_>>().join(" ")
}

fn usual(value: &str) -> String {
    let time = value.strip_prefix("T#").and_then(|rest| rest.strip_suffix("ns"));
    match time.and_then(|nanos| nanos.parse().ok()) {
        Some(nanos) => crate::model::format_duration(crate::model::Duration::from_nanos(nanos)),
        None => value.to_string(),
    }
}

fn cause(owner: Owner<'_>, names: [Option<&str>; 2]) -> Cause {
    let unit = owner.map_or([None, None], |names| names.map(|name| Some(name.to_string())));
    Cause::Variable(unit, names.map(|name| name.map(str::to_string)))
}

fn alone(both: &mut Both<'_>, owner: Owner<'_>, var: &Declared<'_>, side: usize) {
    let kind = if side == 0 { Kind::Removed } else { Kind::Added };
    let (mut sides, mut names) = ([None, None], [None, None]);
    sides[side] = both.spot(side, var.name.span, said(var));
    names[side] = Some(var.name.text.as_str());
    let told = both.tell((Group::Data, kind), owner.map(|o| o[0]), &var.name.text);
    told.sides(sides).cause(cause(owner, names));
}

fn pair(both: &mut Both<'_>, owner: Owner<'_>, [old, new]: [&Declared<'_>; 2], shared: &Shared, own: &Names) {
    let new_spec = shared.row(&new.spec, own);
    let new_init = shared.row(&new.init, own);
    let is_wired = old.section == Section::Input && (old.address.is_some() || new.address.is_some());
    let differ = [
        (old.spec != new_spec, Group::Data, Kind::Type, [plain(&old.spec), plain(&new.spec)]),
        (
            old.init != new_init,
            if is_wired { Group::Points } else { Group::Data },
            if is_wired { Kind::Wiring } else { Kind::Initial },
            [old, new].map(|var| if var.init.is_empty() { "the usual".to_string() } else { plain(&var.init) }),
        ),
        (
            old.retain != new.retain,
            Group::Data,
            Kind::Retention,
            [old, new].map(|var| retained(var.retain).to_string()),
        ),
        (class(old) != class(new), Group::Data, Kind::Class, [class(old), class(new)]),
        (
            old.address != new.address,
            Group::Points,
            Kind::Address,
            [old, new].map(|var| var.address.clone().unwrap_or_else(|| "no address".to_string())),
        ),
    ];
    for (_, group, kind, texts) in differ.into_iter().filter(|(differs, ..)| *differs) {
        let note = format!("{} became {}", texts[0], texts[1]);
        let sides = spots(both, [old, new], texts);
        let names = [old, new].map(|var| Some(var.name.text.as_str()));
        let cause = match (old.constant || new.constant, cause(owner, names)) {
            (true, Cause::Variable(units, names)) => constant(both, units, names),
            (_, cause) => cause,
        };
        let told = both.tell((group, kind), owner.map(|o| o[0]), &old.name.text);
        told.sides(sides).note(note).cause(cause);
    }
    if old.comments != new.comments {
        let sides = spots(both, [old, new], [old, new].map(|var| var.comments.join(" / ")));
        let sides = sides.map(|spot| spot.filter(|spot| !spot.text.is_empty()));
        both.tell((Group::Texts, Kind::Comment), owner.map(|o| o[0]), &old.name.text).sides(sides);
    }
}

/// The cause of a changed constant: where declarations are made of it, everything.
fn constant(both: &Both<'_>, units: [Option<String>; 2], names: [Option<String>; 2]) -> Cause {
    let in_declarations = (0..2).any(|side: usize| {
        let wanted = names[side].as_deref().map(Token::name);
        let is_it = |tokens: &[Token]| wanted.as_ref().is_some_and(|wanted| tokens.contains(wanted));
        let mut tokens = Vec::new();
        let project = both.sides[side].project();
        for item in &project.items {
            match item {
                Item::Type(decl) => {
                    token::spec(&mut tokens, &decl.spec);
                    decl.init.iter().for_each(|init| token::init(&mut tokens, init));
                }
                Item::Unit(unit) => sections(&mut tokens, project, &unit.sections),
                Item::Globals(section) => sections(&mut tokens, project, std::slice::from_ref(section)),
                Item::Configuration(configuration) => sections(&mut tokens, project, &configuration.globals),
                Item::Envelope(_) => {}
            }
        }
        is_it(&tokens)
    });
    match in_declarations {
        true => Cause::Everything("a constant changed that declarations are made of"),
        false => Cause::Constant(units, names),
    }
}

/// The tokens of types and initial values.
fn sections(out: &mut Vec<Token>, project: &Project, list: &[VarSection]) {
    for var in super::declared::declared(project, list.iter()) {
        out.extend(var.spec);
        out.extend(var.init);
    }
}

fn spots(both: &Both<'_>, vars: [&Declared<'_>; 2], texts: [String; 2]) -> [Option<Spot>; 2] {
    let [left, right] = texts;
    [both.spot(0, vars[0].name.span, left), both.spot(1, vars[1].name.span, right)]
}

const fn retained(retain: Retain) -> &'static str {
    match retain {
        Retain::Unsaid => "not retained",
        Retain::Retain => "RETAIN",
        Retain::NonRetain => "NON_RETAIN",
    }
}

fn class(var: &Declared<'_>) -> String {
    let edge = match var.edge {
        Some(Edge::Rising) => " R_EDGE",
        Some(Edge::Falling) => " F_EDGE",
        None => "",
    };
    format!("{}{}{edge}", var.section.word(), if var.constant { " CONSTANT" } else { "" })
}

/// Inputs and outputs that stand in another order: a call by position then means another one. Of the rest the order says
/// nothing.
fn order(both: &mut Both<'_>, owner: Owner<'_>, vars: &[Vec<Declared<'_>>; 2], partners: &[usize]) {
    let Some([name, _]) = owner else { return };
    let is_outer = |at: &&usize| vars[1][**at].is_outer();
    let outer: Vec<usize> = partners.iter().filter(is_outer).copied().collect();
    let rest: Vec<usize> = partners.iter().filter(|at| !is_outer(at)).copied().collect();
    let is_program = |both: &Both<'_>| {
        both.sides[0].units.iter().any(|u| u.name.eq_ignore_ascii_case(name) && u.kind == UnitKind::Program)
    };
    let names = |list: &[usize]| list.iter().map(|at| vars[1][*at].name.text.as_str()).collect::<Vec<_>>().join(", ");
    let mut sorted = outer.clone();
    sorted.sort_unstable();
    if sorted != outer && !is_program(both) {
        let note = format!("{} became {}", names(&outer), names(&sorted));
        let told = both.tell((Group::Data, Kind::Order), Some(name), "inputs and outputs");
        told.note(note).cause(Cause::Everything("inputs and outputs stand in another order"));
        return;
    }
    let by_class = sorted != outer || !rest.is_sorted();
    if by_class {
        both.tell((Group::Texts, Kind::Layout), Some(name), "order of declarations");
    }
}

/// New names of variables, a change each.
pub(super) fn tell_renamed(both: &mut Both<'_>, unit: Option<&str>, vars: &[Vec<Declared<'_>>; 2], names: &Names) {
    if names.is_empty() {
        return;
    }
    let there: HashMap<String, &Declared<'_>> = vars[0].iter().map(|var| (var.key(), var)).collect();
    for new in &vars[1] {
        let Some(old) = names.get(&new.key()).and_then(|old| there.get(old)).copied() else { continue };
        let sides = spots(both, [old, new], [old.name.text.clone(), new.name.text.clone()]);
        let note = format!("{} became {}", old.name.text, new.name.text);
        both.tell((Group::Texts, Kind::Renamed), unit, &old.name.text).sides(sides).note(note);
    }
    // What is left are labels.
    let mut labels: Vec<(&String, &String)> =
        names.iter().filter(|(new, _)| !vars[1].iter().any(|var| var.key() == **new)).collect();
    labels.sort_unstable();
    for (new, old) in labels {
        let note = format!("{old} became {new}");
        both.tell((Group::Texts, Kind::Renamed), unit, format!("label {old}")).note(note);
    }
}

/// The kind and the type of a unit.
pub(super) fn unit_head(both: &mut Both<'_>, units: [&Unit; 2], shared: &Shared) {
    let result = |unit: &Unit| {
        let mut out = Vec::new();
        unit.result.iter().for_each(|result| token::spec(&mut out, result));
        out
    };
    let (old, new) = (result(units[0]), shared.row(&result(units[1]), &Names::new()));
    if old != new {
        let texts = [plain(&old), plain(&new)];
        let sides = [both.spot(0, units[0].name.span, &texts[0]), both.spot(1, units[1].name.span, &texts[1])];
        let note = format!("{} became {}", texts[0], texts[1]);
        let name = units[0].name.text.clone();
        let told = both.tell((Group::Data, Kind::Type), Some(&name), "result");
        told.sides(sides).note(note).cause(Cause::Everything("the type of a function changed"));
    }
}

/// Comments of sections.
pub(super) fn section_texts(both: &mut Both<'_>, unit: Option<&str>, texts: &[Vec<String>; 2]) {
    if texts[0] == texts[1] {
        return;
    }
    let told = both.tell((Group::Texts, Kind::Comment), unit, "declarations");
    told.note(format!("{} became {}", quoted(&texts[0]), quoted(&texts[1])));
}

fn quoted(texts: &[String]) -> String {
    if texts.is_empty() { "no comment".to_string() } else { format!("\"{}\"", texts.join(" / ")) }
}

/// New names of types, of the values of enumerations and of fields.
pub(super) fn type_names(both: &mut Both<'_>, types: [Vec<&TypeDecl>; 2], shared: &mut Shared) {
    let lone = |own: &[&TypeDecl], other: &[&TypeDecl]| {
        let is_lone = |decl: &&&TypeDecl| !other.iter().any(|o| o.name == decl.name);
        (0..own.len()).filter(|at| is_lone(&&own[*at])).collect::<Vec<_>>()
    };
    let (gone, come) = (lone(&types[0], &types[1]), lone(&types[1], &types[0]));
    let mut taken = Vec::new();
    for at in gone {
        let old = types[0][at];
        let same = come.iter().find(|new| !taken.contains(*new) && types[1][**new].spec == old.spec);
        let Some(new) = same else { continue };
        taken.push(*new);
        let new = types[1][*new];
        shared.names.insert(new.name.text.to_uppercase(), old.name.text.to_uppercase());
        let sides = [both.spot(0, old.name.span, &old.name.text), both.spot(1, new.name.span, &new.name.text)];
        let note = format!("{} became {}", old.name.text, new.name.text);
        both.tell((Group::Texts, Kind::Renamed), None, &old.name.text).sides(sides).note(note);
    }
    for old in &types[0] {
        let Some(new) = types[1].iter().find(|new| new.name == old.name) else { continue };
        for (old, new, is_value) in inner_names(&old.spec, &new.spec) {
            let list = if is_value { &mut shared.names } else { &mut shared.parts };
            list.insert(new.to_uppercase(), old.to_uppercase());
            both.tell((Group::Texts, Kind::Renamed), None, &old).note(format!("{old} became {new}"));
        }
    }
}

/// Names of values and fields that stand in the place of others, with all else the same.
fn inner_names(old: &TypeSpec, new: &TypeSpec) -> Vec<(String, String, bool)> {
    match (old, new) {
        (TypeSpec::Enum(a, old, _), TypeSpec::Enum(b, new, _)) if a == b && old.len() == new.len() => {
            if old.iter().zip(new).any(|((_, a), (_, b))| a != b) {
                return Vec::new();
            }
            let is_there = |name: &crate::model::Name| old.iter().any(|(n, _)| n == name);
            let differ = old.iter().zip(new).filter(|((a, _), (b, _))| a != b && !is_there(b));
            differ.map(|((a, _), (b, _))| (a.text.clone(), b.text.clone(), true)).collect()
        }
        (TypeSpec::Struct(old, _), TypeSpec::Struct(new, _)) if old.len() == new.len() => {
            let names = |a: &crate::model::VarDecl, b: &crate::model::VarDecl| {
                let alike = a.spec == b.spec && a.init == b.init && a.names.len() == b.names.len();
                let pairs = a.names.iter().zip(&b.names).filter(|(a, b)| a != b && alike);
                pairs.map(|(a, b)| (a.text.clone(), b.text.clone(), false)).collect::<Vec<_>>()
            };
            old.iter().zip(new).flat_map(|(a, b)| names(a, b)).collect()
        }
        _ => Vec::new(),
    }
}

/// User types, held against each other.
pub(super) fn types(both: &mut Both<'_>, types: [Vec<&TypeDecl>; 2], shared: &Shared) {
    let row = |decl: &TypeDecl| {
        let mut out = Vec::new();
        token::spec(&mut out, &decl.spec);
        if let Some(init) = &decl.init {
            out.push(Token::Sign(":="));
            token::init(&mut out, init);
        }
        out
    };
    let old_name = |decl: &TypeDecl| {
        let key = decl.name.text.to_uppercase();
        shared.names.get(&key).cloned().unwrap_or(key)
    };
    let why = Cause::Everything("a type changed");
    for old in &types[0] {
        let Some(new) = types[1].iter().find(|new| old_name(new) == old.name.text.to_uppercase()) else {
            let sides = [both.spot(0, old.name.span, plain(&row(old))), None];
            both.tell((Group::Data, Kind::Removed), None, &old.name.text).sides(sides);
            continue;
        };
        let (a, b) = (row(old), row(new));
        if a != shared.row(&b, &Names::new()) {
            let texts = [plain(&a), plain(&b)];
            let note = super::told::differing(&texts[0], &texts[1]);
            let sides = [both.spot(0, old.name.span, &texts[0]), both.spot(1, new.name.span, &texts[1])];
            let told = both.tell((Group::Data, Kind::Type), None, &old.name.text);
            told.sides(sides).note(note).cause(why.clone());
        }
        let notes = [old, new]
            .map(|decl| comments(decl.above.leading.iter().chain(&decl.notes.leading).chain(&decl.notes.trailing)));
        if notes[0] != notes[1] {
            let sides =
                [both.spot(0, old.name.span, notes[0].join(" / ")), both.spot(1, new.name.span, notes[1].join(" / "))];
            both.tell((Group::Texts, Kind::Comment), None, &old.name.text).sides(sides);
        }
    }
    for new in &types[1] {
        if !types[0].iter().any(|old| old_name(new) == old.name.text.to_uppercase()) {
            let sides = [None, both.spot(1, new.name.span, plain(&row(new)))];
            both.tell((Group::Data, Kind::Added), None, &new.name.text).sides(sides);
        }
    }
}
