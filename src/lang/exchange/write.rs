//! From the items of a file to a document.

use super::draw;
use crate::lang::st::expression;
use crate::lang::{Language, Unwritable, il, st};
use crate::model::{
    Body, Comment, Configuration, Envelope, Expr, Init, Item, Notes, Retain, Section, TypeDecl, TypeSpec, Unit,
    UnitKind, VarDecl, VarSection,
};
use quick_xml::Writer;
use quick_xml::events::{BytesCData, BytesDecl, BytesEnd, BytesStart, BytesText, Event};

/// The schema's namespace, and that of the texts in it.
const NAMESPACE: &str = "http://www.plcopen.org/xml/tc6_0201";
const XHTML: &str = "http://www.w3.org/1999/xhtml";

/// A document while it is written.
pub(super) struct Document {
    writer: Writer<Vec<u8>>,
}

pub(super) type Attributes<'a> = &'a [(&'a str, &'a str)];

impl Document {
    fn event(&mut self, event: Event<'_>) {
        // Writing into memory cannot fail.
        let _ = self.writer.write_event(event);
    }

    fn start(name: &str, attributes: Attributes<'_>) -> BytesStart<'static> {
        let mut start = BytesStart::new(name.to_string());
        for (key, value) in attributes {
            start.push_attribute((*key, *value));
        }
        start
    }

    /// An element with what `inner` writes in it.
    pub(super) fn element(&mut self, name: &str, attributes: Attributes<'_>, inner: impl FnOnce(&mut Self)) {
        self.event(Event::Start(Self::start(name, attributes)));
        inner(self);
        self.event(Event::End(BytesEnd::new(name.to_string())));
    }

    /// Begins an element; [`Document::close`] ends it.
    pub(super) fn open(&mut self, name: &str, attributes: Attributes<'_>) {
        self.event(Event::Start(Self::start(name, attributes)));
    }

    pub(super) fn close(&mut self, name: &str) {
        self.event(Event::End(BytesEnd::new(name.to_string())));
    }

    pub(super) fn empty(&mut self, name: &str, attributes: Attributes<'_>) {
        self.event(Event::Empty(Self::start(name, attributes)));
    }

    /// An element that holds a short text.
    pub(super) fn said(&mut self, name: &str, attributes: Attributes<'_>, text: &str) {
        self.element(name, attributes, |s| s.event(Event::Text(BytesText::new(text))));
    }

    /// What stood so in another file.
    pub(super) fn raw(&mut self, text: &str) {
        let _ = self.writer.write_indent();
        self.writer.get_mut().extend_from_slice(text.as_bytes());
    }

    /// The text of a body, line by line as it is.
    fn lines(&mut self, text: &str) {
        self.element("xhtml", &[("xmlns", XHTML)], |s| {
            for part in BytesCData::escaped(text) {
                s.event(Event::CData(part));
            }
        });
    }

    /// Comments, each a paragraph.
    pub(super) fn paragraphs(&mut self, comments: &[Comment]) {
        self.element("xhtml", &[("xmlns", XHTML)], |s| {
            for comment in comments {
                s.said("p", &[], &comment.text);
            }
        });
    }

    /// What other tools keep, then the comments: in the order of the schema.
    fn notes(&mut self, notes: &Notes) {
        for kept in &notes.kept {
            self.raw(kept);
        }
        let comments: Vec<Comment> = notes.leading.iter().chain(&notes.trailing).cloned().collect();
        if !comments.is_empty() {
            self.element("documentation", &[], |s| s.paragraphs(&comments));
        }
    }
}

/// Writes the items of one file.
///
/// # Errors
/// Everything the format has no word for; then nothing is written.
pub(crate) fn file<'a>(items: impl Iterator<Item = &'a Item> + Clone, name: &str) -> Result<String, Vec<Unwritable>> {
    let unwritable: Vec<Unwritable> = items.clone().flat_map(edges).collect();
    if !unwritable.is_empty() {
        return Err(unwritable);
    }
    let envelope = items.clone().find_map(|i| if let Item::Envelope(e) = i { Some(e) } else { None });
    let mut sheet = Document { writer: Writer::new_with_indent(Vec::new(), b' ', 2) };
    sheet.event(Event::Decl(BytesDecl::new("1.0", Some("utf-8"), None)));
    let own = format!("xmlns=\"{NAMESPACE}\"");
    // Another tool may have named the namespace by a prefix; what is written here has none.
    let attributes = match envelope.map(|e| e.attributes.as_str()) {
        Some(kept) if kept.contains("xmlns=") => kept.to_string(),
        Some(kept) => format!("{own} {kept}").trim_end().to_string(),
        None => own,
    };
    sheet.event(Event::Start(BytesStart::from_content(format!("project {attributes}"), 7)));
    headers(&mut sheet, envelope, name);
    sheet.element("types", &[], |s| {
        s.element("dataTypes", &[], |s| {
            items.clone().for_each(|i| {
                if let Item::Type(decl) = i {
                    data_type(s, decl);
                }
            });
        });
        s.element("pous", &[], |s| {
            items.clone().for_each(|i| {
                if let Item::Unit(u) = i {
                    unit(s, u);
                }
            });
        });
    });
    sheet.element("instances", &[], |s| {
        s.element("configurations", &[], |s| {
            items.clone().for_each(|i| match i {
                Item::Configuration(c) => configuration(s, c),
                // The format knows globals only inside a configuration.
                Item::Globals(section) => {
                    s.element("configuration", &[("name", "Globals")], |s| var_section(s, section));
                }
                Item::Type(_) | Item::Unit(_) | Item::Envelope(_) => {}
            });
        });
    });
    for rest in envelope.map_or(&[][..], |e| e.rest.as_slice()) {
        sheet.raw(rest);
    }
    sheet.event(Event::End(BytesEnd::new("project")));
    let mut text = String::from_utf8(sheet.writer.into_inner()).unwrap_or_default();
    text.push('\n');
    Ok(text)
}

/// Inputs with R_EDGE or F_EDGE: the schema has no place for them.
fn edges(item: &Item) -> Vec<Unwritable> {
    let Item::Unit(unit) = item else { return Vec::new() };
    let vars = unit.sections.iter().flat_map(|s| &s.vars).filter(|v| v.edge.is_some());
    vars.flat_map(|v| &v.names)
        .map(|name| Unwritable {
            what: format!("`{}`, an input with R_EDGE or F_EDGE,", name.text),
            span: name.span,
            language: Language::Ld,
        })
        .collect()
}

fn headers(sheet: &mut Document, envelope: Option<&Envelope>, name: &str) {
    let kept = envelope.map_or(&[][..], |e| e.headers.as_slice());
    if !kept.is_empty() {
        kept.iter().for_each(|h| sheet.raw(h));
        return;
    }
    // The library reads no clock: who needs the date knows it.
    let header = [
        ("companyName", ""),
        ("productName", "Honest Twin"),
        ("productVersion", env!("CARGO_PKG_VERSION")),
        ("creationDateTime", "1970-01-01T00:00:00"),
    ];
    sheet.empty("fileHeader", &header);
    let stem = name.rsplit(['/', '\\']).next().unwrap_or(name);
    let stem = stem.rsplit_once('.').map_or(stem, |(s, _)| s);
    sheet.element("contentHeader", &[("name", stem)], |s| {
        s.element("coordinateInfo", &[], |s| {
            for language in ["fbd", "ld", "sfc"] {
                s.element(language, &[], |s| s.empty("scaling", &[("x", "1"), ("y", "1")]));
            }
        });
    });
}

fn data_type(sheet: &mut Document, decl: &TypeDecl) {
    sheet.element("dataType", &[("name", &decl.name.text)], |s| {
        s.element("baseType", &[], |s| spec(s, &decl.spec));
        if let Some(value) = &decl.init {
            s.element("initialValue", &[], |s| init(s, value));
        }
        let leading = decl.above.leading.iter().chain(&decl.notes.leading).cloned().collect();
        s.notes(&Notes { leading, ..decl.notes.clone() });
    });
}

fn spec(sheet: &mut Document, spec_: &TypeSpec) {
    match spec_ {
        TypeSpec::Elem(elem, _) => sheet.empty(elem.name(), &[]),
        TypeSpec::String(None, _) => sheet.empty("string", &[]),
        TypeSpec::String(Some(length), _) => sheet.empty("string", &[("length", &expression(length))]),
        TypeSpec::Named(name) => sheet.empty("derived", &[("name", &name.text)]),
        TypeSpec::Range(elem, low, high, _) => {
            let name = if elem.is_signed_integer() { "subrangeSigned" } else { "subrangeUnsigned" };
            sheet.element(name, &[], |s| {
                s.empty("range", &[("lower", &expression(low)), ("upper", &expression(high))]);
                s.element("baseType", &[], |s| s.empty(elem.name(), &[]));
            });
        }
        TypeSpec::Enum(base, values, _) => sheet.element("enum", &[], |s| {
            s.element("values", &[], |s| {
                for (name, value) in values {
                    match value {
                        Some(value) => s.empty("value", &[("name", &name.text), ("value", &expression(value))]),
                        None => s.empty("value", &[("name", &name.text)]),
                    }
                }
            });
            if let Some(base) = base {
                s.element("baseType", &[], |s| s.empty(base.name(), &[]));
            }
        }),
        TypeSpec::Array(bounds, of, _) => sheet.element("array", &[], |s| {
            for (low, high) in bounds {
                s.empty("dimension", &[("lower", &expression(low)), ("upper", &expression(high))]);
            }
            s.element("baseType", &[], |s| spec(s, of));
        }),
        TypeSpec::Struct(fields, _) => {
            sheet.element("struct", &[], |s| fields.iter().for_each(|f| variables(s, f)));
        }
    }
}

fn init(sheet: &mut Document, value: &Init) {
    let simple = |s: &mut Document, e: &Expr| s.empty("simpleValue", &[("value", &expression(e))]);
    match value {
        Init::Expr(value) => simple(sheet, value),
        Init::Array(values, _) => sheet.element("arrayValue", &[], |s| {
            for (times, value) in values {
                s.element("value", &[("repetitionValue", &times.to_string())], |s| init(s, value));
            }
        }),
        Init::Struct(fields, _) => sheet.element("structValue", &[], |s| {
            for (name, value) in fields {
                s.element("value", &[("member", &name.text)], |s| init(s, value));
            }
        }),
    }
}

fn variables(sheet: &mut Document, decl: &VarDecl) {
    for name in &decl.names {
        let mut attributes = vec![("name", name.text.as_str())];
        if let Some(address) = &decl.address {
            attributes.push(("address", &address.text));
        }
        sheet.element("variable", &attributes, |s| {
            s.element("type", &[], |s| spec(s, &decl.spec));
            if let Some(value) = &decl.init {
                s.element("initialValue", &[], |s| init(s, value));
            }
            s.notes(&decl.notes);
        });
    }
}

fn var_section(sheet: &mut Document, section: &VarSection) {
    let name = match section.section {
        Section::Local => "localVars",
        Section::Temp => "tempVars",
        Section::Input => "inputVars",
        Section::Output => "outputVars",
        Section::InOut => "inOutVars",
        Section::External => "externalVars",
        Section::Global => "globalVars",
    };
    let mut attributes = Vec::new();
    if section.constant {
        attributes.push(("constant", "true"));
    }
    match section.retain {
        Retain::Retain => attributes.push(("retain", "true")),
        Retain::NonRetain => attributes.push(("nonretain", "true")),
        Retain::Unsaid => {}
    }
    sheet.element(name, &attributes, |s| {
        section.vars.iter().for_each(|v| variables(s, v));
        let leading = section.notes.leading.iter().chain(&section.tail).cloned().collect();
        s.notes(&Notes { leading, ..section.notes.clone() });
    });
}

fn unit(sheet: &mut Document, unit: &Unit) {
    let kind = match unit.kind {
        UnitKind::Program => "program",
        UnitKind::Function => "function",
        UnitKind::FunctionBlock => "functionBlock",
    };
    sheet.element("pou", &[("name", &unit.name.text), ("pouType", kind)], |s| {
        s.element("interface", &[], |s| {
            if let Some(result) = &unit.result {
                s.element("returnType", &[], |s| spec(s, result));
            }
            unit.sections.iter().for_each(|section| var_section(s, section));
        });
        s.element("body", &[], |s| match &unit.body {
            Body::Statements(list) => s.element("ST", &[], |s| {
                let mut text = "\n".to_string();
                st::statements(&mut text, list, 1);
                s.lines(&text);
            }),
            Body::Instructions(list) => s.element("IL", &[], |s| {
                let mut text = "\n".to_string();
                il::instructions(&mut text, list, 1);
                s.lines(&text);
            }),
            Body::Ladder(list) => s.element("LD", &[], |s| draw::networks(s, list, crate::lang::DrawnStyle::Ladder)),
            Body::Blocks(list) => s.element("FBD", &[], |s| draw::networks(s, list, crate::lang::DrawnStyle::Blocks)),
        });
        s.notes(&unit.notes);
    });
}

fn configuration(sheet: &mut Document, configuration: &Configuration) {
    sheet.element("configuration", &[("name", &configuration.name.text)], |s| {
        let name = configuration.resource.as_ref().map_or("Resource", |(name, _)| name.text.as_str());
        s.element("resource", &[("name", name)], |s| {
            for task in &configuration.tasks {
                let values: Vec<(String, String)> =
                    task.args.iter().map(|(n, v)| (n.text.to_ascii_lowercase(), expression(v))).collect();
                let mut attributes = vec![("name", task.name.text.as_str())];
                attributes.extend(values.iter().map(|(n, v)| (n.as_str(), v.as_str())));
                if !values.iter().any(|(n, _)| n == "priority") {
                    attributes.push(("priority", "0"));
                }
                s.element("task", &attributes, |s| {
                    for program in configuration.programs.iter().filter(|p| p.task.as_ref() == Some(&task.name)) {
                        instance(s, program);
                    }
                    s.notes(&task.notes);
                });
            }
            configuration.programs.iter().filter(|p| p.task.is_none()).for_each(|p| instance(s, p));
        });
        configuration.globals.iter().for_each(|section| var_section(s, section));
        s.notes(&configuration.notes);
    });
}

fn instance(sheet: &mut Document, program: &crate::model::ProgramDecl) {
    let attributes = [("name", program.name.text.as_str()), ("typeName", program.unit.text.as_str())];
    sheet.element("pouInstance", &attributes, |s| s.notes(&program.notes));
}
