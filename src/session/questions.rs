//! Expressions that are asked of the versions on the bench.

use crate::check::probe;
use crate::scan::{Controller, Machine};
use crate::twin::{Twin, Version};

/// What is asked, and machines that can be asked it.
#[derive(Clone)]
pub(super) struct Questions {
    asked: Vec<String>,
    machines: Vec<Machine>,
}

impl Questions {
    /// No questions yet.
    pub(super) fn new(twin: &Twin<'_>) -> Questions {
        let machines = sides(twin).map(|version| version.machine().clone()).collect();
        Questions { asked: Vec::new(), machines }
    }

    /// Controllers of the machines, just powered up.
    pub(super) fn controllers(&self) -> Vec<Controller> {
        self.machines.iter().map(Controller::new).collect()
    }

    /// Makes an expression one that can be asked of all versions; `is_question` if it must be BOOL.
    pub(super) fn add(&mut self, twin: &Twin<'_>, text: &str, is_question: bool) -> Result<usize, String> {
        if let Some(at) = self.asked.iter().position(|known| known == text) {
            return Ok(at);
        }
        let asked: Vec<&str> = self.asked.iter().map(String::as_str).chain([text]).collect();
        let mut machines = Vec::new();
        for version in sides(twin) {
            let wrong = |why: String| if twin.is_single() { why } else { format!("{}: {why}", version.name) };
            let mut probes = version.probes.clone();
            for text in &asked {
                probes.push(probe(&version.checked, text).map_err(|e| wrong(e.to_string()))?);
            }
            if is_question && !probes.last().is_some_and(crate::check::Probe::is_bool) {
                return Err(wrong(format!("`{text}` is not BOOL, so it cannot be expected")));
            }
            machines.push(Machine::with_probes(&version.checked, &probes).map_err(|e| wrong(e.to_string()))?);
        }
        self.machines = machines;
        self.asked.push(text.to_string());
        Ok(self.asked.len() - 1)
    }

    /// The value of an expression on a version as it stands.
    pub(super) fn ask(
        &mut self,
        twin: &Twin<'_>,
        controllers: &mut [Controller],
        side: usize,
        text: &str,
    ) -> Result<Option<i64>, String> {
        let number = self.add(twin, text, false)?;
        let Some(version) = sides(twin).nth(side) else { return Ok(None) };
        let number = version.probes.len() + number;
        let controller = &mut controllers[side];
        if controller.machine().probes() <= number && !controller.adopt(&self.machines[side]) {
            return Err(format!(
                "`{text}`: a string cannot be asked for once others have been made; ask it at the start"
            ));
        }
        Ok(controller.ask(number))
    }
}

/// The versions that run.
pub(super) fn sides<'t>(twin: &'t Twin<'_>) -> impl Iterator<Item = &'t Version> {
    let versions = twin.versions();
    versions.into_iter().take(if twin.is_single() { 1 } else { 2 })
}
