//! Where a variable is written or read: for each network of a unit, and where else.

use crate::model::{Element, Expr, ExprKind, Instr, Mention, Stmt, Walk, each_statement};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// What one network reads and writes: names as they are first written there.
#[derive(Clone, Debug, Default)]
pub(super) struct Uses {
    names: BTreeMap<String, String>,
    reads: BTreeSet<String>,
    writes: BTreeSet<String>,
}

impl Uses {
    fn note(&mut self, name: &str) -> String {
        let key = name.to_uppercase();
        self.names.entry(key.clone()).or_insert_with(|| name.to_string());
        key
    }

    /// Whether a name stands there.
    pub(super) fn has(&self, name: &str) -> bool {
        self.names.contains_key(&name.to_uppercase())
    }

    fn mention(&mut self, expr: &Expr, used: Mention) {
        expr.walk(used, &mut |part, used| {
            if let ExprKind::Name(name) | ExprKind::Address(name) = &part.kind {
                match used {
                    Mention::Read => {
                        let key = self.note(&name.text);
                        self.reads.insert(key);
                    }
                    Mention::Written | Mention::Called => {
                        let key = self.note(&name.text);
                        self.writes.insert(key);
                    }
                    Mention::Function => {}
                }
            }
            Walk::Into
        });
    }

    pub(super) fn element(&mut self, element: &Element) {
        element.own(&mut |expr, used| self.mention(expr, used));
    }

    pub(super) fn statement(&mut self, stmt: &Stmt) {
        each_statement(std::slice::from_ref(stmt), &mut |stmt| stmt.own(&mut |expr, used| self.mention(expr, used)));
    }

    pub(super) fn instruction(&mut self, instr: &Instr) {
        instr.own(&mut |expr, used| self.mention(expr, used));
    }
}

/// Networks that a line lists before it only counts the rest.
const MOST_LISTED: usize = 12;

/// The networks, counted from 1, in which each name stands, but for the one at hand.
fn list(of: Option<&Vec<usize>>, here: usize) -> Option<String> {
    let others = || of.into_iter().flatten().filter(|n| **n != here + 1);
    let first: Vec<String> = others().take(MOST_LISTED).map(usize::to_string).collect();
    let more = others().count() - first.len();
    let more = if more > 0 { format!(" and {more} more") } else { String::new() };
    (!first.is_empty()).then(|| format!("{}{more}", first.join(", ")))
}

/// For each name the networks, counted from 1, whose set has it.
fn index(all: &[Uses], of: fn(&Uses) -> &BTreeSet<String>) -> HashMap<&str, Vec<usize>> {
    let mut out: HashMap<&str, Vec<usize>> = HashMap::new();
    for (number, uses) in all.iter().enumerate() {
        of(uses).iter().for_each(|name| out.entry(name).or_default().push(number + 1));
    }
    out
}

/// For each network, what its variables do elsewhere: `Alarm: written in 2, read in 5`.
pub(super) fn elsewhere(all: &[Uses]) -> Vec<Vec<String>> {
    let (writes, reads) = (index(all, |uses| &uses.writes), index(all, |uses| &uses.reads));
    let mut out = Vec::new();
    for (here, uses) in all.iter().enumerate() {
        let mut lines = Vec::new();
        for (key, name) in &uses.names {
            let mut said = Vec::new();
            said.extend(list(writes.get(key.as_str()), here).map(|networks| format!("written in {networks}")));
            // Where else it is read matters to who writes it here.
            if uses.writes.contains(key) {
                said.extend(list(reads.get(key.as_str()), here).map(|networks| format!("read in {networks}")));
            }
            if !said.is_empty() {
                lines.push(format!("{name} {}", said.join(", ")));
            }
        }
        out.push(lines);
    }
    out
}
