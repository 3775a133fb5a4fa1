//! Changes as JUnit XML: a case for each unit and each group.

use super::words;
use crate::changes::{Changes, Group, Overall, UnitState};
use crate::show::WriteError;
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};

/// What became of a case.
enum Outcome {
    Met,
    Failed(String),
    Open(String),
}

/// A test case for each unit (it does the same), and one for each group beside logic (nothing of it changed).
///
/// # Errors
/// If the document cannot be written, which is a mistake of ours.
pub fn junit(changes: &Changes) -> Result<String, WriteError> {
    let cases = cases(changes);
    let failed = cases.iter().filter(|(_, outcome)| matches!(outcome, Outcome::Failed(_))).count();
    let open = cases.iter().filter(|(_, outcome)| matches!(outcome, Outcome::Open(_))).count();
    let name = format!("{} and {}", changes.versions[0], changes.versions[1]);
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None))).map_err(WriteError::new)?;
    let suite = writer.create_element("testsuite").with_attributes([
        ("name", name.as_str()),
        ("tests", &cases.len().to_string()),
        ("failures", &failed.to_string()),
        ("skipped", &open.to_string()),
    ]);
    suite
        .write_inner_content(|writer| {
            for (case, outcome) in &cases {
                let element =
                    writer.create_element("testcase").with_attributes([("classname", "changes"), ("name", case)]);
                match outcome {
                    Outcome::Met => element.write_empty()?,
                    Outcome::Failed(why) | Outcome::Open(why) => element.write_inner_content(|writer| {
                        let inner = if matches!(outcome, Outcome::Open(_)) { "skipped" } else { "failure" };
                        let first = why.lines().next().unwrap_or_default();
                        let element = writer.create_element(inner).with_attribute(("message", first));
                        element.write_text_content(BytesText::new(why)).map(|_| ())
                    })?,
                };
            }
            Ok(())
        })
        .map_err(WriteError::new)?;
    String::from_utf8(writer.into_inner()).map(|text| text + "\n").map_err(WriteError::new)
}

fn cases(changes: &Changes) -> Vec<(String, Outcome)> {
    let whole = (
        "all of it".to_string(),
        match changes.stood.overall {
            Overall::Nothing | Overall::NothingThatRuns | Overall::Proved | Overall::Tested => Outcome::Met,
            Overall::Different => Outcome::Failed(super::text::text(changes)),
            Overall::Changed | Overall::Undecided => Outcome::Open(words::headline(changes)),
        },
    );
    let unit = |unit: &crate::changes::UnitChange| {
        let own = unit.changes.iter().filter_map(|number| changes.change(*number));
        let lines: Vec<String> = own.map(|change| format!("{} {}", change.number, words::title(change))).collect();
        let said = || format!("{}\n{}", words::state(unit.state), lines.join("\n"));
        let outcome = match (unit.state, &unit.verdict) {
            (UnitState::Same | UnitState::Texts | UnitState::Renamed, _) => Outcome::Met,
            (_, Some(verdict)) => match verdict.outcome {
                Overall::Proved | Overall::Tested | Overall::Nothing | Overall::NothingThatRuns => Outcome::Met,
                Overall::Different => Outcome::Failed(format!("{}\n{}", words::verdict(verdict), said())),
                Overall::Changed | Overall::Undecided => {
                    Outcome::Open(format!("{}\n{}", words::verdict(verdict), said()))
                }
            },
            (UnitState::Changed | UnitState::OnlyLeft | UnitState::OnlyRight, None) => Outcome::Open(said()),
        };
        (format!("{} {}", unit.kind, unit.name()), outcome)
    };
    let group = |of: &crate::changes::GroupVerdict| {
        let own = changes.changes.iter().filter(|change| change.group == of.group);
        let lines: Vec<String> =
            own.map(|change| format!("{} {} {}", change.number, words::title(change), change.note)).collect();
        let outcome = match of.changes {
            0 => Outcome::Met,
            _ => Outcome::Failed(format!("{}\n{}", words::group(of), lines.join("\n"))),
        };
        (of.group.word().to_string(), outcome)
    };
    // Logic is told unit by unit, and texts fail nothing.
    let groups = changes.stood.groups.iter().filter(|of| !matches!(of.group, Group::Logic | Group::Texts));
    std::iter::once(whole).chain(changes.units.iter().map(unit)).chain(groups.map(group)).collect()
}
