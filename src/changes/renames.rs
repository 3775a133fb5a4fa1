//! What goes by another name: found by where it is used and how it is declared, so that a new name is told once and not
//! in every line in which it stands.

use super::declared::Declared;
use super::token::{Print, Token};
use super::tree::{Node, Shape};
use crate::model::Section;
use std::collections::{BTreeMap, HashMap, HashSet};

/// New names in capitals, each with the old one.
pub(super) type Names = HashMap<String, String>;

/// Something that has a name on one side only.
struct Lone {
    name: String,
    /// What kind of thing it is; only things of one kind are taken for one another.
    kind: Vec<Token>,
    address: Option<String>,
}

/// Whether an address that is another one tells two variables apart: within one way of writing them it does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Addresses {
    Tell,
    DoNotTell,
}

/// Of variables that only one side has those that are the same by another name.
pub(super) fn variables([left, right]: [&[Declared<'_>]; 2], bodies: [&[Node]; 2], addresses: Addresses) -> Names {
    let labels = bodies.map(labels);
    let lone = |own: &[Declared<'_>], own_labels: &[String], other: &[Declared<'_>], other_labels: &[String]| {
        let there: HashSet<String> = other.iter().map(Declared::key).collect();
        let mut out: Vec<Lone> = own
            .iter()
            // What is external goes by the name of its global.
            .filter(|var| !there.contains(&var.key()) && var.section != Section::External)
            .map(|var| Lone { name: var.key(), kind: kind(var), address: var.address.clone() })
            .collect();
        let labels = own_labels.iter().filter(|label| !other_labels.contains(label));
        out.extend(labels.map(|label| Lone { name: label.clone(), kind: vec![Token::Sign("label")], address: None }));
        out
    };
    let old = lone(left, &labels[0], right, &labels[1]);
    let new = lone(right, &labels[1], left, &labels[0]);
    pair(&old, &new, bodies, addresses)
}

fn kind(var: &Declared<'_>) -> Vec<Token> {
    let mut out = var.spec.clone();
    out.push(Token::Sign(var.section.word()));
    out
}

/// The labels of a body, in order.
fn labels(nodes: &[Node]) -> Vec<String> {
    let mut out = Vec::new();
    for node in nodes {
        node.each(&mut |inner| {
            if let [Token::Name(label), Token::Sign(":"), ..] = inner.tokens.as_slice() {
                // A box has the name of its function in front, and its instance.
                let is_label = matches!(inner.shape, Shape::Network | Shape::Instruction | Shape::Nested);
                out.extend(is_label.then(|| label.clone()));
            }
        });
    }
    out
}

fn named(token: &Token) -> Option<&str> {
    if let Token::Name(name) = token { Some(name.as_str()) } else { None }
}

/// Where a name stands, with how often: the rows of tokens with the name and all lone names left open.
type Uses = BTreeMap<Print, usize>;

fn uses(nodes: &[Node], lone: &HashSet<&str>) -> HashMap<String, Uses> {
    let mut out: HashMap<String, Uses> = HashMap::new();
    let mut row = |tokens: &[&Token]| {
        let mut names: Vec<&str> = tokens.iter().filter_map(|t| named(t)).filter(|n| lone.contains(n)).collect();
        names.sort_unstable();
        names.dedup();
        for name in names {
            let open: Vec<Token> = tokens
                .iter()
                .map(|token| match named(token) {
                    Some(own) if own == name => Token::Sign("this"),
                    Some(other) if lone.contains(other) => Token::Sign("another"),
                    Some(_) | None => (*token).clone(),
                })
                .collect();
            *out.entry(name.to_string()).or_default().entry(Print::of(&open)).or_default() += 1;
        }
    };
    for node in nodes {
        node.each(&mut |inner| match inner.shape {
            Shape::Rung | Shape::Network => {
                let mut tokens = Vec::new();
                inner.each(&mut |part| tokens.extend(&part.tokens));
                row(&tokens);
            }
            Shape::Instruction
            | Shape::Nested
            | Shape::Contact
            | Shape::Coil
            | Shape::Box
            | Shape::End
            | Shape::Leave => {}
            Shape::Step
            | Shape::If
            | Shape::Branch
            | Shape::Else
            | Shape::Case
            | Shape::Label
            | Shape::For
            | Shape::While
            | Shape::Repeat => row(&inner.tokens.iter().collect::<Vec<_>>()),
        });
    }
    out
}

fn pair(old: &[Lone], new: &[Lone], bodies: [&[Node]; 2], addresses: Addresses) -> Names {
    let mut out = Names::new();
    if old.is_empty() || new.is_empty() {
        return out;
    }
    let names = |list: &[Lone]| list.iter().map(|lone| lone.name.clone()).collect::<Vec<_>>();
    let (old_names, new_names) = (names(old), names(new));
    let set = |list: &[String]| list.iter().cloned().collect::<HashSet<String>>();
    let (old_set, new_set) = (set(&old_names), set(&new_names));
    let used_old = uses(bodies[0], &old_set.iter().map(String::as_str).collect());
    let used_new = uses(bodies[1], &new_set.iter().map(String::as_str).collect());
    // Where the old ones stand, so that only those are looked at that share a place with a new one.
    let mut places: HashMap<Print, Vec<usize>> = HashMap::new();
    for (number, lone) in old.iter().enumerate() {
        for print in used_old.get(&lone.name).into_iter().flat_map(BTreeMap::keys) {
            places.entry(*print).or_default().push(number);
        }
    }
    let mut found: Vec<(usize, usize, usize)> = Vec::new();
    for (number, lone) in new.iter().enumerate() {
        let own = used_new.get(&lone.name);
        let total: usize = own.map_or(0, |uses| uses.values().sum());
        let mut shared: BTreeMap<usize, usize> = BTreeMap::new();
        for (print, count) in own.into_iter().flatten() {
            for other in places.get(print).into_iter().flatten() {
                let there = used_old.get(&old[*other].name).and_then(|uses| uses.get(print)).copied().unwrap_or(0);
                *shared.entry(*other).or_default() += there.min(*count);
            }
        }
        for (other, shared) in shared {
            let there: usize = used_old.get(&old[other].name).map_or(0, |uses| uses.values().sum());
            let share = 1000 * shared / total.max(there).max(1);
            if share >= 500 && alike(&old[other], lone, addresses) {
                found.push((1000 - share, other, number));
            }
        }
        let same_place = |other: &Lone| other.address.is_some() && other.address == lone.address;
        let there = old.iter().position(|other| same_place(other) && other.kind == lone.kind);
        found.extend(there.map(|other| (0, other, number)));
    }
    // The best first; among those that are as good the order of declaration tells.
    found.sort_unstable();
    let (mut taken_old, mut taken_new) = (HashSet::new(), HashSet::new());
    for (_, other, number) in found {
        if !taken_old.contains(&other) && !taken_new.contains(&number) {
            taken_old.insert(other);
            taken_new.insert(number);
            out.insert(new[number].name.clone(), old[other].name.clone());
        }
    }
    // What nobody uses is known by its declaration, where only one is there.
    if let ([(_, a)], [(_, b)]) = (left_over(old, &taken_old).as_slice(), left_over(new, &taken_new).as_slice())
        && alike(a, b, addresses)
        && !used_old.contains_key(&a.name)
        && !used_new.contains_key(&b.name)
    {
        out.insert(b.name.clone(), a.name.clone());
    }
    out
}

fn left_over<'l>(list: &'l [Lone], taken: &HashSet<usize>) -> Vec<(usize, &'l Lone)> {
    list.iter().enumerate().filter(|(number, _)| !taken.contains(number)).collect()
}

fn alike(old: &Lone, new: &Lone, addresses: Addresses) -> bool {
    let elsewhere = matches!((&old.address, &new.address), (Some(a), Some(b)) if a != b);
    old.kind == new.kind && !(elsewhere && addresses == Addresses::Tell)
}

/// The nodes with old names in place of new ones; their fingerprints are made anew.
pub(super) fn apply(nodes: &mut [Node], own: &Names, shared: &Shared) {
    for node in nodes {
        rename(node, own, shared);
        node.seal();
    }
}

/// True if anything in it goes by another name.
fn rename(node: &mut Node, own: &Names, shared: &Shared) -> bool {
    let mut renamed = false;
    for token in &mut node.tokens {
        let before = token.clone();
        shared.old(token, own);
        renamed |= *token != before;
    }
    let is_network = node.shape == Shape::Network;
    for child in &mut node.children {
        let inner = rename(child, own, shared);
        renamed |= inner && is_network;
    }
    if renamed {
        node.layout = None;
    }
    renamed
}

/// New names that go for the whole project.
#[derive(Clone, Debug, Default)]
pub(super) struct Shared {
    /// Of units, types, values of enumerations and globals.
    pub(super) names: Names,
    /// Of fields, inputs and outputs.
    pub(super) parts: Names,
}

impl Shared {
    /// Puts the old name in the place of a new one.
    pub(super) fn old(&self, token: &mut Token, own: &Names) {
        match token {
            Token::Name(name) => {
                if let Some(old) = own.get(name.as_str()).or_else(|| self.names.get(name.as_str())) {
                    name.clone_from(old);
                }
            }
            Token::Part(name) => {
                if let Some(old) = self.parts.get(name.as_str()) {
                    name.clone_from(old);
                }
            }
            Token::Value(_) | Token::Sign(_) => {}
        }
    }

    /// As [`Shared::old`], of a row of tokens.
    pub(super) fn row(&self, tokens: &[Token], own: &Names) -> Vec<Token> {
        let mut out = tokens.to_vec();
        out.iter_mut().for_each(|token| self.old(token, own));
        out
    }
}
