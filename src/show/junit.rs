//! A comparison as JUnit XML, for what runs tests every night: a case for each paired output, each rule and each expectation.
//! A case is met only if the verdict says so of it; what the verdict does not speak of is skipped. Whether that is tested or
//! proved stands in the properties, and the whole verdict in the output.

use super::said::{Said, VerdictKind, said};
use super::{WriteError, text};
use crate::twin::script::Failure;
use crate::twin::{Twin, Verdict};
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};
use std::io;

/// A test case.
struct Case {
    name: String,
    outcome: Outcome,
}

/// What became of a test case.
enum Outcome {
    Met,
    /// Not met; the text tells how.
    Failed(String),
    /// Nothing is known, for this reason.
    Open(String),
}

/// One test case for each paired output, each rule and each expectation that was not met.
///
/// # Errors
/// If the document cannot be written, which is a mistake of ours.
pub fn junit(twin: &Twin<'_>, verdict: &Verdict, failures: &[Failure]) -> Result<String, WriteError> {
    let said = said(verdict);
    let name = match twin.is_single() {
        true => twin.left.name.clone(),
        false => format!("{} beside {}", twin.left.name, twin.right.name),
    };
    let bytes = write(&name, &cases(twin, verdict, &said, failures), &said).map_err(WriteError::new)?;
    String::from_utf8(bytes).map_err(WriteError::new)
}

fn cases(twin: &Twin<'_>, verdict: &Verdict, said: &Said, failures: &[Failure]) -> Vec<Case> {
    let mut out: Vec<Case> = Vec::new();
    let differs = match verdict {
        Verdict::Different(difference) => Some(difference.name.as_str()),
        Verdict::Tested(_) | Verdict::Proved(_) | Verdict::Broken(_) | Verdict::Undecided { .. } => None,
    };
    // Of one version by itself nothing is compared.
    let outputs = if twin.is_single() { &[][..] } else { &twin.pairing.outputs };
    out.extend(outputs.iter().map(|pair| Case {
        name: format!("output {}", pair.name),
        outcome: match differs == Some(pair.name.as_str()) {
            true => Outcome::Failed(text::whole(said)),
            false => of_output(said, &pair.name),
        },
    }));
    // What differs may be no output: a fault that only one version has.
    if let Some(name) = differs.filter(|name| !outputs.iter().any(|pair| pair.name == *name)) {
        out.push(Case { name: name.to_string(), outcome: Outcome::Failed(text::whole(said)) });
    }
    if said.kind == VerdictKind::Undecided && outputs.is_empty() && said.rules.is_empty() {
        out.push(Case { name: "verdict".to_string(), outcome: Outcome::Open(said.sentences.join(" ")) });
    }
    out.extend(said.rules.iter().map(|rule| Case {
        name: rule.label.clone(),
        outcome: match (rule.is_broken, rule.is_unasked) {
            // The scenario of the rule that the verdict is about stands in the verdict itself.
            (true, _) if rule.shown.is_none() => Outcome::Failed(format!("{}\n{}", rule.text, text::whole(said))),
            (true, _) => Outcome::Failed(text::rule(rule)),
            (false, true) => Outcome::Open(rule.text.clone()),
            (false, false) => Outcome::Met,
        },
    }));
    out.extend(failures.iter().map(|failure| Case {
        name: format!("{}, line {}, {}", failure.scenario, failure.line, failure.version),
        outcome: Outcome::Failed(failure.what.clone()),
    }));
    out
}

/// What a verdict says of an output that is not the one that differs.
fn of_output(said: &Said, name: &str) -> Outcome {
    let is_proved =
        said.proved.iter().any(|part| part.conditions.is_empty() && part.outputs.iter().any(|output| output == name));
    match said.kind {
        VerdictKind::Proved | VerdictKind::Tested => Outcome::Met,
        VerdictKind::Different | VerdictKind::Broken | VerdictKind::Undecided if is_proved => Outcome::Met,
        VerdictKind::Different | VerdictKind::Broken => {
            Outcome::Open("not decided: the comparison ended at the first difference".to_string())
        }
        VerdictKind::Undecided => Outcome::Open(said.sentences.join(" ")),
    }
}

/// What stands beside the cases: the verdict, its limits and what is assumed.
fn properties(said: &Said) -> Vec<(&'static str, String)> {
    let verdict = [("verdict", text::headline(said))].into_iter();
    let limits = said.limits.iter().map(|limit| ("limited", limit.clone()));
    let proved = said.proved.iter().filter(|part| part.conditions.is_empty());
    let proved = proved.flat_map(|part| part.outputs.iter().map(|output| ("proved", output.clone())));
    let assumed = said.assumed.iter().map(|assumption| ("assumed", assumption.clone()));
    verdict.chain(limits).chain(proved).chain(assumed).collect()
}

fn write(name: &str, cases: &[Case], said: &Said) -> io::Result<Vec<u8>> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    let number = |is: fn(&Outcome) -> bool| cases.iter().filter(|case| is(&case.outcome)).count().to_string();
    let (tests, failed) = (cases.len().to_string(), number(|outcome| matches!(outcome, Outcome::Failed(_))));
    let open = number(|outcome| matches!(outcome, Outcome::Open(_)));
    let counts = [("tests", tests.as_str()), ("failures", &failed), ("errors", "0"), ("skipped", &open)];
    writer.create_element("testsuites").with_attributes(counts).write_inner_content(|writer| {
        let suite = writer.create_element("testsuite").with_attribute(("name", name)).with_attributes(counts);
        suite.write_inner_content(|writer| {
            writer.create_element("properties").write_inner_content(|writer| {
                for (name, value) in properties(said) {
                    let property = writer.create_element("property").with_attribute(("name", name));
                    property.with_attribute(("value", value.as_str())).write_empty()?;
                }
                Ok(())
            })?;
            cases.iter().try_for_each(|case| write_case(writer, name, case))?;
            // Where something failed the whole stands in the failure.
            if !matches!(said.kind, VerdictKind::Different | VerdictKind::Broken) {
                writer.create_element("system-out").write_text_content(BytesText::new(&text::whole(said)))?;
            }
            Ok(())
        })?;
        Ok(())
    })?;
    Ok(writer.into_inner())
}

fn write_case(writer: &mut Writer<Vec<u8>>, suite: &str, case: &Case) -> io::Result<()> {
    let element = writer
        .create_element("testcase")
        .with_attribute(("classname", suite))
        .with_attribute(("name", case.name.as_str()));
    match &case.outcome {
        Outcome::Met => element.write_empty()?,
        Outcome::Failed(text) => element.write_inner_content(|writer| {
            let message = text.lines().next().unwrap_or("");
            let failure = writer.create_element("failure").with_attribute(("message", message));
            failure.write_text_content(BytesText::new(text))?;
            Ok(())
        })?,
        Outcome::Open(reason) => element.write_inner_content(|writer| {
            writer.create_element("skipped").with_attribute(("message", reason.as_str())).write_empty()?;
            Ok(())
        })?,
    };
    Ok(())
}
