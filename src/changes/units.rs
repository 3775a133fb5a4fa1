//! Units, types and globals of both projects: which is which, and what of each changed.

use super::declared::{Declared, declared, section_comments};
use super::ledger::{self, Ledgers};
use super::renames::{self, Addresses, Names, Shared};
use super::token::{Print, Token};
use super::told::{Teller, Told};
use super::tree::{Node, comments, parts};
use super::{Both, Cause, Group, Kind, LedgerLine, UnitChange, UnitState, align, data};
use crate::check::Checked;
use crate::lang::{Language, language_of, read_project};
use crate::model::{Item, Project, TypeDecl, Unit, UnitKind, VarSection};
use crate::source::Span;
use crate::translate::translate;
use std::collections::{BTreeMap, HashMap, HashSet};

/// New names of both projects.
#[derive(Clone, Debug, Default)]
pub(super) struct HeldNames {
    pub(super) shared: Shared,
    /// Of variables and labels, by the name of their unit on the left, in capitals.
    pub(super) own: HashMap<String, Names>,
}

/// What was found out about units.
#[derive(Default)]
pub(super) struct Held {
    pub(super) units: Vec<UnitChange>,
    pub(super) names: HeldNames,
    /// Where operations come from that are as they were, and where those that are not, left and right.
    pub(super) same: [HashSet<Span>; 2],
    pub(super) other: [HashSet<Span>; 2],
}

/// A unit with its body as parts.
struct Body<'p> {
    unit: &'p Unit,
    nodes: Vec<Node>,
}

/// The sections of globals, in order.
pub(super) fn global_sections(project: &Project) -> Vec<&VarSection> {
    fn of_item(item: &Item) -> &[VarSection] {
        match item {
            Item::Globals(section) => std::slice::from_ref(section),
            Item::Configuration(configuration) => configuration.globals.as_slice(),
            Item::Type(_) | Item::Unit(_) | Item::Envelope(_) => &[],
        }
    }
    project.items.iter().flat_map(of_item).collect()
}

fn types(project: &Project) -> Vec<&TypeDecl> {
    project.items.iter().filter_map(|item| if let Item::Type(decl) = item { Some(decl) } else { None }).collect()
}

/// Holds units, types and globals of both projects against each other.
pub(super) fn held(both: &mut Both<'_>) -> Held {
    let [left, right] = both.sides.map(Checked::project);
    let bodies = [left, right].map(|project| {
        let each = project.units().map(|unit| Body { unit, nodes: parts(project, &unit.body) });
        each.map(|mut body| {
            body.nodes.iter_mut().for_each(Node::seal);
            body
        })
        .collect::<Vec<_>>()
    });
    let pairs = pair_units(&bodies);
    let addresses = match (&left.library, &right.library) {
        (Some(a), Some(b)) if a.sheet.name != b.sheet.name => Addresses::DoNotTell,
        (Some(_), None) | (None, Some(_)) => Addresses::DoNotTell,
        (Some(_), Some(_)) | (None, None) => Addresses::Tell,
    };
    let mut out = Held::default();
    let globals = [left, right].map(|project| declared(project, global_sections(project).into_iter()));
    out.names.shared = shared_names(both, &bodies, &pairs, &globals, addresses);
    data::types(both, [types(left), types(right)], &out.names.shared);
    data::variables(both, None, &globals, &out.names.shared, &Names::new());
    let comments = [left, right].map(|project| section_comments(global_sections(project).into_iter()));
    data::section_texts(both, None, &comments);
    let [mut left_bodies, mut right_bodies] = bodies.map(|list| list.into_iter().map(Some).collect::<Vec<_>>());
    let translated = Translated::of(both, &pairs, [&left_bodies, &right_bodies]);
    let mut ledgers = Ledgers::default();
    let mut take = |a: Option<usize>, b: Option<usize>| {
        (a.and_then(|a| left_bodies[a].take()), b.and_then(|b| right_bodies[b].take()))
    };
    for (a, b) in pairs {
        match take(a, b) {
            (Some(old), Some(new)) => {
                let to = language_of(&new.unit.body);
                let is_moved = language_of(&old.unit.body) != to || ledger::is_migration(both);
                let lines = is_moved.then(|| ledgers.of(both, &old.unit.name.text, &old.nodes, to));
                paired(both, &mut out, [old, new], &translated, addresses);
                if let (Some(unit), Some(lines)) = (out.units.last_mut(), lines) {
                    unit.ledger = lines;
                }
            }
            (Some(old), None) => lone(both, &mut out, &old, 0),
            (None, Some(new)) => lone(both, &mut out, &new, 1),
            (None, None) => {}
        }
    }
    out
}

/// Which unit is which: by name, and where only one side has a name, by what it does. In the order of the left, those that
/// only the right has where they stand there.
fn pair_units(bodies: &[Vec<Body<'_>>; 2]) -> Vec<(Option<usize>, Option<usize>)> {
    let [left, right] = bodies;
    let key = |body: &Body<'_>| (body.unit.name.text.to_uppercase(), body.unit.kind);
    let there: HashMap<(String, UnitKind), usize> =
        right.iter().enumerate().map(|(at, body)| (key(body), at)).collect();
    let mut partner: Vec<Option<usize>> = left.iter().map(|body| there.get(&key(body)).copied()).collect();
    let mut free: Vec<usize> = (0..right.len()).filter(|at| !partner.contains(&Some(*at))).collect();
    let mut candidates: Vec<(usize, usize, usize)> = Vec::new();
    let alone: Vec<usize> = (0..left.len()).filter(|at| partner[*at].is_none()).collect();
    let programs = |list: &[Body<'_>]| list.iter().filter(|body| body.unit.kind == UnitKind::Program).count();
    let single = programs(left) == 1 && programs(right) == 1;
    for a in &alone {
        for b in &free {
            let (old, new) = (&left[*a], &right[*b]);
            if old.unit.kind == new.unit.kind {
                let likeness = likeness(old, new);
                let only = single && old.unit.kind == UnitKind::Program;
                candidates.extend((likeness >= 500 || only).then_some((1000 - likeness, *a, *b)));
            }
        }
    }
    candidates.sort_unstable();
    for (_, a, b) in candidates {
        if partner[a].is_none() && free.contains(&b) {
            partner[a] = Some(b);
            free.retain(|at| *at != b);
        }
    }
    let mut out: Vec<(Option<usize>, Option<usize>)> =
        partner.iter().enumerate().map(|(at, other)| (Some(at), *other)).collect();
    for b in free {
        // Behind the unit that stands in front of it on the right.
        let before = (0..b).rev().find_map(|at| out.iter().position(|(_, other)| *other == Some(at)));
        out.insert(before.map_or(0, |at| at + 1), (None, Some(b)));
    }
    out
}

/// How much of two bodies and their declarations is the same, of 1000; names of variables left open.
fn likeness(left: &Body<'_>, right: &Body<'_>) -> usize {
    let prints = |body: &Body<'_>| {
        let mut out: BTreeMap<Print, usize> = BTreeMap::new();
        let mut total = 0;
        for node in &body.nodes {
            node.each(&mut |inner| {
                let open: Vec<Token> = inner.tokens.iter().map(opened).collect();
                *out.entry(Print::of(&open)).or_default() += 1;
                total += 1;
            });
        }
        (out, total)
    };
    let ((a, count_a), (b, count_b)) = (prints(left), prints(right));
    let shared: usize = a.iter().map(|(print, count)| (*count).min(b.get(print).copied().unwrap_or(0))).sum();
    (2000 * shared).checked_div(count_a + count_b).unwrap_or(0)
}

fn opened(token: &Token) -> Token {
    match token {
        Token::Name(_) => Token::Sign("name"),
        Token::Part(_) | Token::Value(_) | Token::Sign(_) => token.clone(),
    }
}

/// New names that go for the whole project: of units, types, their values and fields, and globals.
fn shared_names(
    both: &mut Both<'_>,
    bodies: &[Vec<Body<'_>>; 2],
    pairs: &[(Option<usize>, Option<usize>)],
    globals: &[Vec<Declared<'_>>; 2],
    addresses: Addresses,
) -> Shared {
    let mut shared = Shared::default();
    for (a, b) in pairs.iter().filter_map(|(a, b)| Some(((*a)?, (*b)?))) {
        let (old, new) = (bodies[0][a].unit, bodies[1][b].unit);
        if old.name != new.name {
            shared.names.insert(new.name.text.to_uppercase(), old.name.text.to_uppercase());
            let sides = [both.spot(0, old.name.span, &old.name.text), both.spot(1, new.name.span, &new.name.text)];
            let told = both.tell((Group::Texts, Kind::Renamed), Some(&old.name.text), old.kind.word());
            told.sides(sides).note(format!("{} became {}", old.name.text, new.name.text));
        }
        for (new, old) in outer_names([old, new], [both.sides[0].project(), both.sides[1].project()]) {
            shared.parts.insert(new, old);
        }
    }
    let projects = both.sides.map(Checked::project);
    data::type_names(both, [types(projects[0]), types(projects[1])], &mut shared);
    let nodes = [0, 1].map(|side: usize| bodies[side].iter().flat_map(|b| b.nodes.clone()).collect::<Vec<Node>>());
    let names = renames::variables([&globals[0], &globals[1]], [&nodes[0], &nodes[1]], addresses);
    data::tell_renamed(both, None, globals, &names);
    shared.names.extend(names);
    shared
}

/// New names of what callers of a unit give and take.
fn outer_names([old, new]: [&Unit; 2], projects: [&Project; 2]) -> Vec<(String, String)> {
    let of = |unit: &Unit, project| -> Vec<(String, Vec<Token>)> {
        let list = declared(project, unit.sections.iter());
        list.iter().filter(|var| var.is_outer()).map(|var| (var.key(), var.spec.clone())).collect()
    };
    let (a, b) = (of(old, projects[0]), of(new, projects[1]));
    let lone = |own: &[(String, Vec<Token>)], other: &[(String, Vec<Token>)]| {
        let there: HashSet<&String> = other.iter().map(|(name, _)| name).collect();
        own.iter().filter(|(name, _)| !there.contains(name)).cloned().collect::<Vec<_>>()
    };
    let (gone, come) = (lone(&a, &b), lone(&b, &a));
    // The unit's own lines tell which is which; here it only must be clear.
    match (gone.as_slice(), come.as_slice()) {
        ([(old, kind)], [(new, other)]) if kind == other => vec![(new.clone(), old.clone())],
        _ => Vec::new(),
    }
}

/// Both projects in structured text, for units whose bodies are in two languages.
struct Translated {
    /// Each with its checked project's text, as it was read back.
    projects: Option<[Project; 2]>,
    why: Option<String>,
}

impl Translated {
    fn of(
        both: &Both<'_>,
        pairs: &[(Option<usize>, Option<usize>)],
        bodies: [&Vec<Option<Body<'_>>>; 2],
    ) -> Translated {
        let language = |side: usize, at: usize| bodies[side][at].as_ref().map(|body| language_of(&body.unit.body));
        let needed = pairs.iter().any(|(a, b)| match (a, b) {
            (Some(a), Some(b)) => language(0, *a) != language(1, *b),
            (Some(_) | None, None) | (None, Some(_)) => false,
        });
        if !needed {
            return Translated { projects: None, why: None };
        }
        match (in_text(both.sides[0]), in_text(both.sides[1])) {
            (Ok(left), Ok(right)) => Translated { projects: Some([left, right]), why: None },
            (Err(why), _) | (_, Err(why)) => Translated { projects: None, why: Some(why) },
        }
    }

    fn bodies(&self, names: [&str; 2]) -> Option<[(&Project, &Unit); 2]> {
        let projects = self.projects.as_ref()?;
        let find = |side: usize| {
            let unit = projects[side].units().find(|unit| unit.name.is(names[side]))?;
            Some((&projects[side], unit))
        };
        Some([find(0)?, find(1)?])
    }
}

/// A project in structured text, read back.
fn in_text(checked: &Checked) -> Result<Project, String> {
    let written =
        translate(checked, Language::St).map_err(|list| list.first().map_or(String::new(), |e| e.to_string()))?;
    let files: Vec<_> = written.files.into_iter().map(|file| (file, Language::St)).collect();
    let (project, problems) = match &checked.project().library {
        Some(library) => crate::dialect::read_project_in(files, library),
        None => read_project(files),
    };
    if problems.has_errors() { Err("its translation cannot be read".to_string()) } else { Ok(project) }
}

/// A unit that both have.
fn paired(
    both: &mut Both<'_>,
    out: &mut Held,
    [old, mut new]: [Body<'_>; 2],
    translated: &Translated,
    addresses: Addresses,
) {
    let units = [old.unit, new.unit];
    let name = old.unit.name.text.clone();
    let projects = both.sides.map(Checked::project);
    let vars = [0, 1].map(|side| declared(projects[side], units[side].sections.iter()));
    let own = renames::variables([&vars[0], &vars[1]], [&old.nodes, &new.nodes], addresses);
    data::tell_renamed(both, Some(&name), &vars, &own);
    renames::apply(&mut new.nodes, &own, &out.names.shared);
    data::unit_head(both, units, &out.names.shared);
    data::variables(both, Some([&name, &new.unit.name.text]), &vars, &out.names.shared, &own);
    let languages = units.map(|unit| language_of(&unit.body));
    let told = match languages[0] == languages[1] {
        true => {
            let steps = align::align(&old.nodes, &new.nodes);
            let mut teller = Teller { both, unit: &name, told: Told::default(), rung: None, as_written: true };
            teller.steps(&steps, 0);
            teller.told
        }
        false => other_language(both, &out.names.shared, [&old, &new], translated, addresses),
    };
    unit_texts(both, units, &told);
    for side in [0, 1] {
        out.same[side].extend(&told.same[side]);
        out.other[side].extend(&told.other[side]);
    }
    out.names.own.insert(name.to_uppercase(), own);
    out.units.push(UnitChange {
        kind: old.unit.kind.word().to_string(),
        names: units.map(|unit| Some(unit.name.text.clone())),
        languages: languages.map(Some),
        state: UnitState::Same,
        changes: Vec::new(),
        verdict: None,
        ledger: Vec::<LedgerLine>::new(),
        rows: told.rows,
    });
}

/// Bodies in two languages: both as structured text.
fn other_language(
    both: &mut Both<'_>,
    shared: &Shared,
    bodies: [&Body<'_>; 2],
    translated: &Translated,
    addresses: Addresses,
) -> Told {
    let units = bodies.map(|body| body.unit);
    let name = &units[0].name.text;
    let words = units.map(|unit| language_of(&unit.body).title());
    let sides = [0, 1].map(|side| both.spot(side, units[side].name.span, words[side]));
    let spans = bodies.map(|body| body.nodes.iter().flat_map(Node::spans).collect::<Vec<Span>>());
    let mut note = translated.why.clone().unwrap_or_default();
    let texts = translated.bodies(units.map(|unit| unit.name.text.as_str()));
    let mut told = Told::default();
    if let Some(texts) = texts {
        let [mut old, mut new] = texts.map(|(project, unit)| parts(project, &unit.body));
        old.iter_mut().for_each(Node::seal);
        let vars = texts.map(|(project, unit)| declared(project, unit.sections.iter()));
        let own = renames::variables([&vars[0], &vars[1]], [&old, &new], addresses);
        renames::apply(&mut new, &own, shared);
        let steps = align::align(&old, &new);
        let before = both.found.len();
        let mut teller = Teller { both, unit: name, told: Told::default(), rung: None, as_written: false };
        teller.steps(&steps, 0);
        told = teller.told;
        // Places in a text that is made on the way are nobody's.
        for found in &mut both.found[before..] {
            for (side, spot) in found.change.sides.iter_mut().enumerate() {
                if let Some(spot) = spot {
                    spot.place = format!("{}, network {}", units[side].name.text, spot.network.unwrap_or(1));
                    spot.spans.clear();
                }
            }
            if found.change.group == Group::Logic {
                found.cause = Cause::Parts(spans.clone());
            }
        }
        note = match both.found[before..].iter().any(|found| found.change.group == Group::Logic) {
            true => "both as structured text".to_string(),
            false => "the same, written as structured text".to_string(),
        };
    }
    both.tell((Group::Logic, Kind::Language), Some(name), "body")
        .sides(sides)
        .note(note)
        .cause(Cause::Parts(spans.clone()));
    told.same = Default::default();
    told.laid.clear();
    told.other = spans.map(|list| list.into_iter().collect());
    told
}

/// Comments around a unit, and how it is laid out.
fn unit_texts(both: &mut Both<'_>, units: [&Unit; 2], told: &Told) {
    let name = &units[0].name.text;
    let above = units.map(|unit| comments(unit.notes.leading.iter().chain(&unit.notes.trailing)));
    if above[0] != above[1] {
        let sides = [0, 1].map(|side| {
            let spot = both.spot(side, units[side].name.span, above[side].join(" / "));
            spot.filter(|spot| !spot.text.is_empty())
        });
        both.tell((Group::Texts, Kind::Comment), Some(name), units[0].kind.word()).sides(sides);
    }
    let sections = units.map(|unit| section_comments(unit.sections.iter()));
    data::section_texts(both, Some(name), &sections);
    if let Some([left, right]) = told.laid.first() {
        let project = both.sides.map(Checked::project);
        let sides = [(0, *left), (1, *right)].map(|(side, span)| both.spot(side, span, project[side].excerpt(span)));
        let note = match told.laid.len() {
            1 => "in one place".to_string(),
            many => format!("in {many} places"),
        };
        both.tell((Group::Texts, Kind::Layout), Some(name), "layout").sides(sides).note(note);
    }
}

/// A unit that only one side has.
fn lone(both: &mut Both<'_>, out: &mut Held, body: &Body<'_>, side: usize) {
    let unit = body.unit;
    let (kind, state) =
        if side == 0 { (Kind::Removed, UnitState::OnlyLeft) } else { (Kind::Added, UnitState::OnlyRight) };
    let mut sides = [None, None];
    sides[side] = both.spot(side, unit.name.span, format!("{} {}", unit.kind.word(), unit.name.text));
    let spans: Vec<Span> = body.nodes.iter().flat_map(Node::spans).collect();
    let mut cause = [Vec::new(), Vec::new()];
    cause[side] = spans.clone();
    let told = both.tell((Group::Logic, kind), Some(&unit.name.text), unit.kind.word());
    told.sides(sides).cause(Cause::Parts(cause));
    out.other[side].extend(spans);
    let mut own = [None, None];
    own[side] = Some(unit.name.text.clone());
    let mut languages = [None, None];
    languages[side] = Some(language_of(&unit.body));
    out.units.push(UnitChange {
        kind: unit.kind.word().to_string(),
        names: own,
        languages,
        state,
        changes: Vec::new(),
        verdict: None,
        ledger: Vec::new(),
        rows: Vec::new(),
    });
}
