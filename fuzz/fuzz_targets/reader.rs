//! What each reader's target does: reads the bytes, checks what came of it, and takes it as far as it goes.

use honest_twin::lang::{Form, LANGUAGES, read_project};
use honest_twin::source::Source;

/// Reads bytes in a form; nothing may panic, and what can be checked can be built and written in every language.
pub fn read(data: &[u8], form: Form) {
    let text = String::from_utf8_lossy(data).to_string();
    let (project, problems) = read_project(vec![(Source::new("fuzz", text), form)]);
    if let (Some(checked), _) = honest_twin::check::verify(project, problems) {
        let _ = honest_twin::Machine::new(&checked);
        for &to in LANGUAGES {
            let _ = honest_twin::translate(&checked, to);
        }
    }
}
