//! A comparison as JUnit XML, for what runs tests every night.

use crate::show::breach::breaches;
use crate::show::text::rule_text;
use crate::twin::script::Failure;
use crate::twin::{RuleResult, Twin, Verdict};
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};
use std::io;

/// One test case for each paired output, each rule and each expectation that was not met.
///
/// # Errors
/// If the document cannot be written, which is a mistake of ours.
pub fn junit(twin: &Twin<'_>, verdict: &Verdict, failures: &[Failure]) -> Result<String, String> {
    let mut cases: Vec<(String, Option<String>)> = Vec::new();
    let mut skipped = None;
    for pair in &twin.pairing.outputs {
        let failure = if let Verdict::Different(d) = verdict
            && d.name == pair.name
        {
            Some(super::verdict(verdict))
        } else {
            None
        };
        cases.push((format!("output {}", pair.name), failure));
    }
    match verdict {
        Verdict::Different(d) if !twin.pairing.outputs.iter().any(|p| p.name == d.name) => {
            cases.push((d.name.clone(), Some(super::verdict(verdict))));
        }
        Verdict::Undecided { reason, .. } => skipped = Some(reason.clone()),
        Verdict::Tested(_) | Verdict::Proved(_) | Verdict::Different(_) | Verdict::Broken(_) => {}
    }
    let versions = [twin.left.name.clone(), twin.right.name.clone()];
    let broken = |r: &RuleResult| (!r.holds()).then(|| rule_text(r, &versions) + &breaches(std::slice::from_ref(r)));
    cases.extend(verdict.rules().iter().map(|r| (r.label(), broken(r))));
    cases.extend(
        failures.iter().map(|f| (format!("{}, line {}, {}", f.scenario, f.line, f.version), Some(f.what.clone()))),
    );
    let name = match twin.is_single() {
        true => twin.left.name.clone(),
        false => format!("{} beside {}", twin.left.name, twin.right.name),
    };
    let bytes = write(&name, &cases, skipped.as_deref(), &twin.pairing.limits()).map_err(|e| e.to_string())?;
    String::from_utf8(bytes).map_err(|e| e.to_string())
}

fn write(
    name: &str,
    cases: &[(String, Option<String>)],
    skipped: Option<&str>,
    limits: &[String],
) -> io::Result<Vec<u8>> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    let failures = cases.iter().filter(|(_, f)| f.is_some()).count().to_string();
    let tests = cases.len().to_string();
    let others = cases.iter().filter(|(_, f)| f.is_none() && skipped.is_some()).count();
    let left_out = others.to_string();
    let counts = [("tests", tests.as_str()), ("failures", &failures), ("errors", "0"), ("skipped", &left_out)];
    writer.create_element("testsuites").with_attributes(counts).write_inner_content(|writer| {
        writer.create_element("testsuite").with_attribute(("name", name)).with_attributes(counts).write_inner_content(
            |writer| {
                if !limits.is_empty() {
                    writer.create_element("properties").write_inner_content(|writer| {
                        for limit in limits {
                            let property = writer.create_element("property").with_attribute(("name", "limited"));
                            property.with_attribute(("value", limit.as_str())).write_empty()?;
                        }
                        Ok(())
                    })?;
                }
                for (case, failure) in cases {
                    let element = writer
                        .create_element("testcase")
                        .with_attribute(("classname", name))
                        .with_attribute(("name", case.as_str()));
                    match (failure, skipped) {
                        (Some(text), _) => {
                            let message = text.lines().next().unwrap_or("").to_string();
                            element.write_inner_content(|writer| {
                                writer
                                    .create_element("failure")
                                    .with_attribute(("message", message.as_str()))
                                    .write_text_content(BytesText::new(text))?;
                                Ok(())
                            })?;
                        }
                        (None, Some(reason)) => {
                            element.write_inner_content(|writer| {
                                writer.create_element("skipped").with_attribute(("message", reason)).write_empty()?;
                                Ok(())
                            })?;
                        }
                        (None, None) => {
                            element.write_empty()?;
                        }
                    }
                }
                Ok(())
            },
        )?;
        Ok(())
    })?;
    Ok(writer.into_inner())
}
