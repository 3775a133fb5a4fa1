//! From a document to the items of a file.

use super::diagram::{Drawing, networks};
use super::dom::{FileReader, attribute, child, children, comments, content, elements};
use crate::lang::expr;
use crate::lang::{il, st};
use crate::model::{
    Body, Configuration, Envelope, Head, Item, Name, Notes, ProgramDecl, Section, TaskDecl, Unit, UnitKind,
};
use crate::source::{Diagnostic, FileId, Limits, Source, Span, codes};
use quick_xml::{Reader, events::Event};
use roxmltree::{Document, Node, ParsingOptions};

/// Elements of one file.
const MOST_NODES: u32 = 4_000_000;

/// Attributes of one element: each is compared with all others of its element.
const MOST_ATTRIBUTES: usize = 1_000;

/// Where an element with too many attributes ends.
fn crowded(text: &str) -> Option<usize> {
    let mut reader = Reader::from_str(text);
    loop {
        match reader.read_event() {
            Ok(Event::Start(element) | Event::Empty(element)) => {
                let count = element.attributes().with_checks(false).take(MOST_ATTRIBUTES + 1).count();
                if count > MOST_ATTRIBUTES {
                    return usize::try_from(reader.buffer_position()).ok();
                }
            }
            // What is no XML is told by who reads it.
            Ok(Event::Eof) | Err(_) => return None,
            Ok(_) => {}
        }
    }
}

/// Reads a file of the exchange format.
pub(crate) fn file(file: FileId, source: &Source, limits: Limits) -> (Vec<Item>, Vec<Diagnostic>) {
    let options = ParsingOptions { allow_dtd: false, nodes_limit: MOST_NODES, ..ParsingOptions::default() };
    if let Some(at) = crowded(&source.text) {
        let span = Span { file, start: at as u32, end: at as u32 };
        let message = format!("an element has at most {MOST_ATTRIBUTES} attributes");
        return (Vec::new(), vec![Diagnostic::error(codes::LIMIT, span, message)]);
    }
    let document = match Document::parse_with_options(&source.text, options) {
        Ok(document) => document,
        Err(problem) => {
            let span = place(source, file, problem.pos());
            return (Vec::new(), vec![Diagnostic::error(codes::EXCHANGE, span, format!("this is no XML: {problem}"))]);
        }
    };
    let mut sheet = FileReader { source, file, limits, problems: Vec::new() };
    let root = document.root_element();
    let mut items = Vec::new();
    if root.tag_name().name() == "project" {
        sheet.project(root, &mut items);
    } else {
        sheet.wrong(root, format!("<{}> is no project of the exchange format", root.tag_name().name()));
    }
    (items, sheet.problems)
}

fn place(source: &Source, file: FileId, at: roxmltree::TextPos) -> Span {
    let line = source.text.split_inclusive('\n').take(at.row.saturating_sub(1) as usize).map(str::len).sum::<usize>();
    let mut start = (line + at.col.saturating_sub(1) as usize).min(source.text.len());
    while !source.text.is_char_boundary(start) {
        start -= 1;
    }
    Span { file, start: start as u32, end: start as u32 }
}

impl FileReader<'_> {
    fn project(&mut self, root: Node<'_, '_>, items: &mut Vec<Item>) {
        let tag = self.source.slice(self.span(root));
        let attributes = tag.trim_end_matches(['>', '/']).split_once(char::is_whitespace).map_or("", |(_, a)| a);
        let mut envelope = Envelope {
            attributes: attributes.trim().to_string(),
            headers: Vec::new(),
            rest: Vec::new(),
            span: self.span(root),
        };
        for node in elements(root) {
            match node.tag_name().name() {
                "fileHeader" | "contentHeader" => envelope.headers.push(self.raw(node)),
                "types" => {
                    for ty in children(node, "dataTypes").flat_map(|n| children(n, "dataType")) {
                        items.extend(self.data_type(ty));
                    }
                    for pou in children(node, "pous").flat_map(|n| children(n, "pou")) {
                        items.extend(self.unit(pou).map(Item::Unit));
                    }
                }
                "instances" => {
                    for configurations in children(node, "configurations") {
                        for configuration in children(configurations, "configuration") {
                            self.instances(configuration, items);
                        }
                    }
                }
                _ => envelope.rest.push(self.raw(node)),
            }
        }
        items.insert(0, Item::Envelope(envelope));
    }

    fn unit(&mut self, node: Node<'_, '_>) -> Option<Unit> {
        let name = self.name(node, "name")?;
        let kind = match attribute(node, "pouType") {
            Some("program") => UnitKind::Program,
            Some("function") => UnitKind::Function,
            Some("functionBlock") => UnitKind::FunctionBlock,
            _ => {
                self.wrong(node, "pouType is program, function or functionBlock");
                return None;
            }
        };
        let interface = child(node, "interface");
        let result = if kind == UnitKind::Function { self.result(interface, &name) } else { None };
        let mut sections = Vec::new();
        for part in interface.into_iter().flat_map(elements) {
            let section = match part.tag_name().name() {
                "localVars" => Section::Local,
                "tempVars" => Section::Temp,
                "inputVars" => Section::Input,
                "outputVars" => Section::Output,
                "inOutVars" => Section::InOut,
                "externalVars" => Section::External,
                "globalVars" => Section::Global,
                _ => continue,
            };
            sections.push(self.section(part, section));
        }
        for part in elements(node).filter(|n| matches!(n.tag_name().name(), "actions" | "transitions")) {
            let span = self.span(part);
            self.problem(codes::UNSUPPORTED, span, format!("<{}> are not supported", part.tag_name().name()));
        }
        let mut bodies = children(node, "body");
        let body = match bodies.next() {
            Some(body) => self.body(body)?,
            None => Body::Statements(Vec::new()),
        };
        if let Some(second) = bodies.next() {
            self.wrong(second, format!("`{}` has more than one body", name.text));
        }
        let notes = self.notes(node);
        Some(Unit { kind, name, result, sections, body, notes, head: Head::Written })
    }

    fn body(&mut self, node: Node<'_, '_>) -> Option<Body> {
        for inner in elements(node) {
            match inner.tag_name().name() {
                "ST" => {
                    let text = content(inner);
                    return Some(
                        self.text(inner, &text, |c| Ok(st::body(c, ""))).unwrap_or(Body::Statements(Vec::new())),
                    );
                }
                "IL" => {
                    let text = content(inner);
                    let read = self.text(inner, &text, |c| Ok(il::body(c, "")));
                    return Some(read.unwrap_or(Body::Instructions(Vec::new())));
                }
                "LD" => return Some(Body::Ladder(networks(self, inner, Drawing::Ladder))),
                "FBD" => return Some(Body::Blocks(networks(self, inner, Drawing::Blocks))),
                "addData" | "documentation" => {}
                other => {
                    let span = self.span(inner);
                    self.problem(codes::UNSUPPORTED, span, format!("bodies in {other} are not supported"));
                    return None;
                }
            }
        }
        Some(Body::Statements(Vec::new()))
    }

    /// A configuration; without a resource it only holds globals.
    fn instances(&mut self, node: Node<'_, '_>, items: &mut Vec<Item>) {
        let Some(configuration) = self.configuration(node) else { return };
        if configuration.resource.is_none() {
            items.extend(configuration.globals.into_iter().map(Item::Globals));
        } else {
            items.push(Item::Configuration(configuration));
        }
    }

    fn configuration(&mut self, node: Node<'_, '_>) -> Option<Configuration> {
        let name = self.name(node, "name")?;
        let notes = self.notes(node);
        let mut out =
            Configuration { name, resource: None, globals: Vec::new(), tasks: Vec::new(), programs: Vec::new(), notes };
        for part in elements(node) {
            match part.tag_name().name() {
                "globalVars" => out.globals.push(self.section(part, Section::Global)),
                "resource" => {
                    let name = self.name(part, "name")?;
                    if out.resource.is_some() {
                        let span = self.span(part);
                        self.problem(codes::UNSUPPORTED, span, "more than one resource is not supported");
                    }
                    let target = Name { text: "Controller".to_string(), span: name.span };
                    out.resource = Some((name, target));
                    self.resource(part, &mut out);
                }
                _ => {}
            }
        }
        Some(out)
    }

    fn resource(&mut self, node: Node<'_, '_>, out: &mut Configuration) {
        for part in elements(node) {
            match part.tag_name().name() {
                "globalVars" => out.globals.push(self.section(part, Section::Global)),
                "task" => {
                    let Some(name) = self.name(part, "name") else { continue };
                    let mut args = Vec::new();
                    for (attribute, word) in [("single", "SINGLE"), ("interval", "INTERVAL"), ("priority", "PRIORITY")]
                    {
                        let Some(text) = super::dom::attribute(part, attribute).filter(|t| !t.is_empty()) else {
                            continue;
                        };
                        let text = text.to_string();
                        if let Some(value) = self.text(part, &text, expr::read) {
                            args.push((Name { text: word.to_string(), span: value.span }, value));
                        }
                    }
                    let task = Some(name.clone());
                    out.tasks.push(TaskDecl { name, args, notes: self.notes(part) });
                    for instance in children(part, "pouInstance") {
                        self.program(instance, task.clone(), out);
                    }
                }
                "pouInstance" => self.program(part, None, out),
                _ => {}
            }
        }
    }

    fn program(&mut self, node: Node<'_, '_>, task: Option<Name>, out: &mut Configuration) {
        let unit = if attribute(node, "typeName").is_some() { "typeName" } else { "type" };
        if let (Some(name), Some(unit)) = (self.name(node, "name"), self.name(node, unit)) {
            let leading = children(node, "documentation").flat_map(comments).collect();
            let notes = Notes { leading, ..Notes::default() };
            out.programs.push(ProgramDecl { name, task, unit, notes });
        }
    }
}
