//! Where a variable is written or read: for each network of a unit, and where else.

use crate::model::{Element, Expr, ExprKind, Instr, Mention, Stmt, Walk, each_statement};
use std::collections::{BTreeMap, BTreeSet};

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

/// For each network, what its variables do elsewhere: `Alarm: written in 2, read in 5`.
pub(super) fn elsewhere(all: &[Uses]) -> Vec<Vec<String>> {
    let list = |numbers: Vec<usize>| numbers.iter().map(usize::to_string).collect::<Vec<_>>().join(", ");
    let mut out = Vec::new();
    for (here, uses) in all.iter().enumerate() {
        let mut lines = Vec::new();
        for (key, name) in &uses.names {
            let others = |of: fn(&Uses) -> &BTreeSet<String>| -> Vec<usize> {
                (0..all.len()).filter(|n| *n != here && of(&all[*n]).contains(key)).map(|n| n + 1).collect()
            };
            let (written, read) = (others(|u| &u.writes), others(|u| &u.reads));
            let mut said = Vec::new();
            if !written.is_empty() {
                said.push(format!("written in {}", list(written)));
            }
            // Where else it is read matters to who writes it here.
            if !read.is_empty() && uses.writes.contains(key) {
                said.push(format!("read in {}", list(read)));
            }
            if !said.is_empty() {
                lines.push(format!("{name} {}", said.join(", ")));
            }
        }
        out.push(lines);
    }
    out
}
