//! Variables, types and initial values: each is put as the text that a declaration would have, and read from that.

use super::dom::{FileReader, attribute, child, children, comments, elements};
use crate::lang::decl;
use crate::model::{Init, Item, Name, Notes, Retain, Section, TypeDecl, TypeSpec, VarDecl, VarSection};
use crate::source::codes;
use roxmltree::Node;

/// Types nest no deeper.
const DEEPEST: u32 = 40;

impl FileReader<'_> {
    /// `<localVars>` and the others of an interface.
    pub(super) fn section(&mut self, node: Node<'_, '_>, section: Section) -> VarSection {
        let said = |name| attribute(node, name) == Some("true") || attribute(node, name) == Some("1");
        let retain = match (said("retain"), said("nonretain")) {
            (true, _) => Retain::Retain,
            (_, true) => Retain::NonRetain,
            _ => Retain::Unsaid,
        };
        let vars = children(node, "variable").filter_map(|n| self.variable(n)).collect();
        let notes = self.notes(node);
        let span = self.span(node);
        VarSection { section, retain, constant: said("constant"), vars, span, notes, tail: Vec::new() }
    }

    /// Comments of an element, and what other tools keep in it.
    pub(super) fn notes(&mut self, node: Node<'_, '_>) -> Notes {
        let leading = children(node, "documentation").flat_map(comments).collect();
        let kept = children(node, "addData").map(|n| self.raw(n)).collect();
        Notes { leading, kept, ..Notes::default() }
    }

    fn variable(&mut self, node: Node<'_, '_>) -> Option<VarDecl> {
        let name = self.name(node, "name")?;
        let spec = child(node, "type").and_then(|ty| self.spec(ty));
        let Some(spec) = spec else {
            self.wrong(node, format!("variable `{}` has no type that can be read", name.text));
            return None;
        };
        let init = child(node, "initialValue").and_then(|n| self.init(n));
        let address = attribute(node, "address").filter(|a| !a.is_empty());
        let address = address.and_then(|_| self.name(node, "address"));
        Some(VarDecl { names: vec![name], address, edge: None, spec, init, notes: self.notes(node) })
    }

    /// The type in `<type>`, `<baseType>` and their like.
    pub(super) fn spec(&mut self, node: Node<'_, '_>) -> Option<TypeSpec> {
        let text = self.type_text(node, 0)?;
        self.text(node, &text, decl::spec)
    }

    fn type_text(&mut self, node: Node<'_, '_>, depth: u32) -> Option<String> {
        let inner = elements(node).find(|n| !matches!(n.tag_name().name(), "addData" | "documentation"))?;
        if depth > DEEPEST {
            let span = self.span(node);
            self.problem(codes::LIMIT, span, format!("types nested more than {DEEPEST} deep"));
            return None;
        }
        let base = |sheet: &mut Self| child(inner, "baseType").and_then(|n| sheet.type_text(n, depth + 1));
        let range = |n: Node<'_, '_>| {
            let (low, high) = (attribute(n, "lower").unwrap_or(""), attribute(n, "upper").unwrap_or(""));
            format!("{low}..{high}")
        };
        match inner.tag_name().name() {
            "derived" => attribute(inner, "name").map(str::to_string),
            "string" => Some(match attribute(inner, "length") {
                Some(length) => format!("STRING[{length}]"),
                None => "STRING".to_string(),
            }),
            "array" => {
                let bounds: Vec<String> = children(inner, "dimension").map(range).collect();
                let of = base(self)?;
                Some(format!("ARRAY [{}] OF {of}", bounds.join(", ")))
            }
            "subrangeSigned" | "subrangeUnsigned" => {
                let of = base(self)?;
                let within = child(inner, "range").map_or(String::new(), range);
                Some(format!("{of} ({within})"))
            }
            "enum" => {
                let values = child(inner, "values").map_or(Vec::new(), |values| {
                    children(values, "value")
                        .filter_map(|v| {
                            let name = attribute(v, "name")?;
                            let value = attribute(v, "value").map_or(String::new(), |n| format!(" := {n}"));
                            Some(format!("{name}{value}"))
                        })
                        .collect()
                });
                let of = base(self).map_or(String::new(), |b| format!("{b} "));
                Some(format!("{of}({})", values.join(", ")))
            }
            "struct" => {
                let mut fields = String::new();
                for field in children(inner, "variable") {
                    let name = attribute(field, "name")?;
                    let ty = child(field, "type").and_then(|n| self.type_text(n, depth + 1))?;
                    let init = child(field, "initialValue").and_then(|n| init_text(n, 0));
                    let init = init.map_or(String::new(), |i| format!(" := {i}"));
                    fields.push_str(&format!("{name} : {ty}{init};\n"));
                }
                Some(format!("STRUCT\n{fields}END_STRUCT"))
            }
            "pointer" | "wstring" => {
                let span = self.span(inner);
                self.problem(codes::UNSUPPORTED, span, format!("<{}> is not supported", inner.tag_name().name()));
                None
            }
            word => Some(word.to_ascii_uppercase()),
        }
    }

    pub(super) fn init(&mut self, node: Node<'_, '_>) -> Option<Init> {
        let text = init_text(node, 0)?;
        self.text(node, &text, decl::init)
    }

    /// `<dataType>`
    pub(super) fn data_type(&mut self, node: Node<'_, '_>) -> Option<Item> {
        let name = self.name(node, "name")?;
        let spec = child(node, "baseType").and_then(|n| self.spec(n))?;
        let init = child(node, "initialValue").and_then(|n| self.init(n));
        let notes = self.notes(node);
        Some(Item::Type(TypeDecl { name, spec, init, notes, above: Notes::default() }))
    }

    /// The type of a function's value.
    pub(super) fn result(&mut self, interface: Option<Node<'_, '_>>, name: &Name) -> Option<TypeSpec> {
        let found = interface.and_then(|i| child(i, "returnType")).and_then(|n| self.spec(n));
        if found.is_none() {
            let message = format!("function `{}` has no type for its value", name.text);
            self.problem(codes::EXCHANGE, name.span, message);
        }
        found
    }
}

/// An initial value as text.
fn init_text(node: Node<'_, '_>, depth: u32) -> Option<String> {
    let inner = elements(node).next().filter(|_| depth <= DEEPEST)?;
    match inner.tag_name().name() {
        "simpleValue" => attribute(inner, "value").map(str::to_string),
        "arrayValue" => {
            let values: Option<Vec<String>> = children(inner, "value")
                .map(|v| {
                    let value = init_text(v, depth + 1)?;
                    Some(match attribute(v, "repetitionValue") {
                        Some(times) if times != "1" => format!("{times}({value})"),
                        _ => value,
                    })
                })
                .collect();
            Some(format!("[{}]", values?.join(", ")))
        }
        "structValue" => {
            let values: Option<Vec<String>> = children(inner, "value")
                .map(|v| Some(format!("{} := {}", attribute(v, "member")?, init_text(v, depth + 1)?)))
                .collect();
            Some(format!("({})", values?.join(", ")))
        }
        _ => None,
    }
}
