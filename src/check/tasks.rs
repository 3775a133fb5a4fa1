//! The configuration: which programs run, and how often.

use super::env::{Env, key};
use super::typed::UnitId;
use super::{RunProgram, is_program};
use crate::model::{Configuration, Expr, ExprKind, Item, LiteralValue, Name, Project, TaskDecl};
use crate::source::{Span, codes};
use std::collections::HashMap;

/// What a task says of itself, as the standard names it.
const PARAMETERS: [&str; 3] = ["INTERVAL", "SINGLE", "PRIORITY"];

impl<'p> Env<'p> {
    /// The programs that run: those of the configuration, or all there are.
    pub(super) fn programs(&mut self, project: &'p Project) -> Vec<RunProgram> {
        let configurations: Vec<&Configuration> =
            project.items.iter().filter_map(|i| if let Item::Configuration(c) = i { Some(c) } else { None }).collect();
        if let Some(second) = configurations.get(1) {
            self.error(codes::UNSUPPORTED, second.name.span, "more than one configuration is not supported");
        }
        let Some(configuration) = configurations.first() else {
            return self
                .units
                .iter()
                .enumerate()
                .filter(|(_, u)| is_program(u))
                .map(|(i, u)| RunProgram { instance: u.name.clone(), unit: UnitId(i as u32), interval: 0 })
                .collect();
        };
        self.each_once(configuration.tasks.iter().map(|t| &t.name));
        self.each_once(configuration.programs.iter().map(|p| &p.name));
        let intervals: Vec<(&Name, i64)> =
            configuration.tasks.iter().map(|task| (&task.name, self.interval(task))).collect();
        let mut out = Vec::new();
        for program in &configuration.programs {
            let unit = self.unit_names.get(&key(&program.unit.text)).copied();
            let Some(unit) = unit.filter(|u| is_program(&self.units[u.0 as usize])) else {
                let message = format!("there is no program `{}`", program.unit.text);
                self.error(codes::UNKNOWN_NAME, program.unit.span, message);
                continue;
            };
            let mut interval = 0;
            if let Some(task) = &program.task {
                match intervals.iter().find(|(name, _)| *name == task) {
                    Some((_, found)) => interval = *found,
                    None => self.error(codes::UNKNOWN_NAME, task.span, format!("there is no task `{}`", task.text)),
                }
            }
            out.push(RunProgram { instance: program.name.text.clone(), unit, interval });
        }
        out
    }

    fn each_once<'n>(&mut self, names: impl Iterator<Item = &'n Name>) {
        let mut seen: HashMap<String, Span> = HashMap::new();
        for name in names {
            if let Some(first) = seen.insert(key(&name.text), name.span) {
                self.duplicate(name, first);
            }
        }
    }

    /// How often a task runs, in nanoseconds; 0 is in every scan. What it says otherwise is checked as well.
    fn interval(&mut self, task: &TaskDecl) -> i64 {
        let mut interval = 0;
        for (at, (name, value)) in task.args.iter().enumerate() {
            let is = |word: &str| name.text.eq_ignore_ascii_case(word);
            if task.args[..at].iter().any(|(other, _)| is(&other.text)) {
                self.error(codes::ARGUMENT, name.span, "this is said twice");
            }
            if is("SINGLE") {
                self.error(codes::UNSUPPORTED, name.span, "a task that waits for an event (SINGLE) is not supported");
            } else if is("INTERVAL") {
                match literal(value) {
                    Some(LiteralValue::Time(nanos, _)) if *nanos >= 0 => interval = *nanos,
                    _ => self.error(codes::TYPE, value.span, "INTERVAL is a duration, written out: T#10ms"),
                }
            } else if is("PRIORITY") {
                if !matches!(literal(value), Some(LiteralValue::Int(0..=65_535))) {
                    self.error(codes::TYPE, value.span, "PRIORITY is a whole number, written out; 0 is the first");
                }
            } else {
                let message = format!("a task says {}, not `{}`", PARAMETERS.join(", "), name.text);
                self.error(codes::ARGUMENT, name.span, message);
            }
        }
        interval
    }
}

fn literal(value: &Expr) -> Option<&LiteralValue> {
    if let ExprKind::Literal(literal) = &value.kind { Some(&literal.value) } else { None }
}
