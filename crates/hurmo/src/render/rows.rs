//! Reports for other programs: a row a model as CSV, a test case a check as JUnit XML.

use super::place;
use crate::out;
use anyhow::Result;
use hurmo_core::audit::{CHECKS, Level};
use hurmo_pipeline::record::{AuditReport, ModelReport};
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesEnd, BytesStart, BytesText, Event};

/// A table with one row a model, and a column for the count of each check; empty where it was
/// not run. Unreadable models have a row with the reason.
pub fn csv(report: &AuditReport) -> Result<String> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let measures = [
        "path",
        "format",
        "passes",
        "error",
        "vertices",
        "edges",
        "faces",
        "triangles",
        "quads",
        "ngons",
        "parts",
        "rims",
        "area",
        "volume",
        "diagonal",
        "watertight",
    ];
    let checks = CHECKS.iter().map(|check| check.name);
    writer.write_record(measures.into_iter().chain(checks))?;
    for model in &report.models {
        let mesh = &model.audit.mesh;
        let mut row = vec![
            model.path.clone(),
            model.format.to_string(),
            model.passes.to_string(),
            String::new(),
        ];
        let counts = [
            mesh.vertices,
            mesh.edges,
            mesh.faces,
            mesh.triangles,
            mesh.quads,
            mesh.ngons,
            mesh.parts,
            mesh.rims,
        ];
        row.extend(counts.map(|count| count.to_string()));
        row.extend([mesh.area, mesh.volume, mesh.diagonal].map(|x| x.to_string()));
        row.push(mesh.watertight.to_string());
        row.extend(CHECKS.iter().map(|check| {
            let mut findings = model.audit.findings.iter();
            let found = findings.find(|finding| finding.check == check.name);
            found.map_or(String::new(), |finding| finding.count.to_string())
        }));
        writer.write_record(row)?;
    }
    for unreadable in &report.unreadable {
        let mut row = vec![String::new(); measures.len() + CHECKS.len()];
        row[0].clone_from(&unreadable.path);
        row[2] = "false".into();
        row[3].clone_from(&unreadable.error);
        writer.write_record(row)?;
    }
    Ok(String::from_utf8(writer.into_inner()?)?)
}

/// A test suite a model, in it a test case a check: what blocks fails, what can't be read is an
/// error, what warns passes with its message, what could not be run is skipped.
pub fn junit(report: &AuditReport) -> Result<String> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    let cases: usize = report.models.iter().map(cases).sum();
    let failures: usize = report.models.iter().map(failures).sum();
    let mut suites = BytesStart::new("testsuites");
    suites.push_attribute(("name", format!("hurmo audit for {}", report.brief).as_str()));
    suites.push_attribute((
        "tests",
        (cases + report.unreadable.len()).to_string().as_str(),
    ));
    suites.push_attribute(("failures", failures.to_string().as_str()));
    suites.push_attribute(("errors", report.unreadable.len().to_string().as_str()));
    writer.write_event(Event::Start(suites))?;
    for model in &report.models {
        suite(&mut writer, model)?;
    }
    for unreadable in &report.unreadable {
        let mut suite = BytesStart::new("testsuite");
        suite.push_attribute(("name", unreadable.path.as_str()));
        suite.push_attribute(("tests", "1"));
        suite.push_attribute(("failures", "0"));
        suite.push_attribute(("errors", "1"));
        writer.write_event(Event::Start(suite))?;
        case(&mut writer, &unreadable.path, "readable", |writer| {
            text_element(writer, "error", Some(&unreadable.error), "")
        })?;
        writer.write_event(Event::End(BytesEnd::new("testsuite")))?;
    }
    writer.write_event(Event::End(BytesEnd::new("testsuites")))?;
    let mut text = String::from_utf8(writer.into_inner())?;
    text.push('\n');
    // XML has no control characters, not even as references.
    Ok(text.replace(out::steers, "\u{fffd}"))
}

type Xml = Writer<Vec<u8>>;

fn cases(model: &ModelReport) -> usize {
    model.audit.findings.len() + model.audit.not_run.len() + usize::from(is_empty(model))
}

fn failures(model: &ModelReport) -> usize {
    model.audit.blocking().count() + usize::from(is_empty(model))
}

/// A model without faces passes no brief, whatever its findings.
fn is_empty(model: &ModelReport) -> bool {
    model.audit.mesh.faces == 0
}

fn suite(writer: &mut Xml, model: &ModelReport) -> Result<()> {
    let mut suite = BytesStart::new("testsuite");
    suite.push_attribute(("name", model.path.as_str()));
    suite.push_attribute(("tests", cases(model).to_string().as_str()));
    suite.push_attribute(("failures", failures(model).to_string().as_str()));
    suite.push_attribute(("errors", "0"));
    suite.push_attribute(("skipped", model.audit.not_run.len().to_string().as_str()));
    writer.write_event(Event::Start(suite))?;
    if is_empty(model) {
        case(writer, &model.path, "has-faces", |writer| {
            text_element(writer, "failure", Some("the model has no faces"), "")
        })?;
    }
    for finding in &model.audit.findings {
        let places: Vec<String> = finding.places.iter().map(place).collect();
        let message = format!("{} {}", finding.count, finding.check);
        case(writer, &model.path, finding.check, |writer| {
            match (finding.count, finding.level) {
                (0, _) => Ok(()),
                (_, Level::Block) => {
                    text_element(writer, "failure", Some(&message), &places.join("\n"))
                }
                (_, level) => {
                    let text = format!("{}: {message}\n{}", level.name(), places.join("\n"));
                    text_element(writer, "system-out", None, &text)
                }
            }
        })?;
    }
    for missing in &model.audit.not_run {
        case(writer, &model.path, missing.check, |writer| {
            text_element(writer, "skipped", Some(&missing.reason), "")
        })?;
    }
    writer.write_event(Event::End(BytesEnd::new("testsuite")))?;
    Ok(())
}

fn case(
    writer: &mut Xml,
    model: &str,
    name: &str,
    inner: impl FnOnce(&mut Xml) -> Result<()>,
) -> Result<()> {
    let mut case = BytesStart::new("testcase");
    case.push_attribute(("classname", model));
    case.push_attribute(("name", name));
    writer.write_event(Event::Start(case))?;
    inner(writer)?;
    writer.write_event(Event::End(BytesEnd::new("testcase")))?;
    Ok(())
}

fn text_element(writer: &mut Xml, element: &str, message: Option<&str>, text: &str) -> Result<()> {
    let mut start = BytesStart::new(element);
    if let Some(message) = message {
        start.push_attribute(("message", message));
    }
    writer.write_event(Event::Start(start))?;
    writer.write_event(Event::Text(BytesText::new(text)))?;
    writer.write_event(Event::End(BytesEnd::new(element)))?;
    Ok(())
}
