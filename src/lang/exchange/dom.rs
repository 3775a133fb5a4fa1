//! Walking over the elements of a document, whatever their namespace, with the places they stand at.

use crate::lang::cursor::{Cursor, Read};
use crate::lang::expr;
use crate::model::{Comment, CommentKind, Expr, Name};
use crate::source::{Code, Diagnostic, FileId, Limits, Source, Span, codes};
use roxmltree::Node;

/// A file while it is read.
pub(super) struct FileReader<'s> {
    pub(super) source: &'s Source,
    pub(super) file: FileId,
    pub(super) limits: Limits,
    pub(super) problems: Vec<Diagnostic>,
}

impl FileReader<'_> {
    pub(super) fn span(&self, node: Node<'_, '_>) -> Span {
        let range = node.range();
        // The opening tag is enough to find it by.
        let text = self.source.text.get(range.clone()).unwrap_or("");
        let end = range.start + text.find('>').map_or(text.len(), |at| at + 1);
        Span { file: self.file, start: range.start as u32, end: end as u32 }
    }

    pub(super) fn problem(&mut self, code: Code, span: Span, message: impl Into<String>) {
        if self.problems.len() <= self.limits.problems {
            self.problems.push(Diagnostic::error(code, span, message));
        }
    }

    pub(super) fn wrong(&mut self, node: Node<'_, '_>, message: impl Into<String>) {
        let span = self.span(node);
        self.problem(codes::EXCHANGE, span, message);
    }

    /// An element as it stands in the file.
    pub(super) fn raw(&self, node: Node<'_, '_>) -> String {
        self.source.text.get(node.range()).unwrap_or("").to_string()
    }

    /// The name in an attribute.
    pub(super) fn name(&mut self, node: Node<'_, '_>, attribute: &str) -> Option<Name> {
        let Some(found) = node.attributes().find(|a| a.name() == attribute).filter(|a| !a.value().trim().is_empty())
        else {
            self.wrong(node, format!("<{}> has no {attribute}", node.tag_name().name()));
            return None;
        };
        let range = found.range_value();
        let span = Span { file: self.file, start: range.start as u32, end: range.end as u32 };
        Some(Name { text: found.value().trim().to_string(), span })
    }

    /// Reads a text that stands in an element, with one of the readers of the textual languages. Places are exact
    /// where the text needs no entities, and close by where it does.
    pub(super) fn text<T>(
        &mut self,
        node: Node<'_, '_>,
        text: &str,
        read: impl FnOnce(&mut Cursor<'_>) -> Read<T>,
    ) -> Option<T> {
        let range = node.range();
        let raw = self.source.text.get(range.clone()).unwrap_or("");
        let base = range.start + raw.find(text).unwrap_or(0);
        let mut cursor = Cursor::standard(text, self.file, base as u32, self.limits);
        let result = read(&mut cursor);
        if result.is_ok() && !cursor.is_end() && cursor.problems.is_empty() {
            let (span, message) = (cursor.span(), format!("`{}` is too much here", cursor.text()));
            cursor.problem(Diagnostic::error(codes::EXPECTED, span, message));
        }
        let good = cursor.problems.is_empty();
        self.problems.extend(cursor.problems);
        result.ok().filter(|_| good)
    }

    /// The expression in an element.
    pub(super) fn expression(&mut self, node: Node<'_, '_>) -> Option<Expr> {
        let text = content(node);
        self.text(node, text.trim(), expr::read)
    }
}

/// The child elements of a name.
pub(super) fn children<'a, 'i>(node: Node<'a, 'i>, name: &'static str) -> impl Iterator<Item = Node<'a, 'i>> {
    elements(node).filter(move |n| n.tag_name().name() == name)
}

pub(super) fn child<'a, 'i>(node: Node<'a, 'i>, name: &'static str) -> Option<Node<'a, 'i>> {
    children(node, name).next()
}

pub(super) fn elements<'a, 'i>(node: Node<'a, 'i>) -> impl Iterator<Item = Node<'a, 'i>> {
    node.children().filter(Node::is_element)
}

pub(super) fn attribute<'a>(node: Node<'a, '_>, name: &str) -> Option<&'a str> {
    node.attributes().find(|a| a.name() == name).map(|a| a.value().trim())
}

/// All text in an element; paragraphs and breaks are line ends.
pub(super) fn content(node: Node<'_, '_>) -> String {
    let mut out = String::new();
    for inner in node.descendants() {
        if let Some(text) = inner.text().filter(|_| inner.is_text()) {
            out.push_str(text);
        } else if matches!(inner.tag_name().name(), "br" | "p" | "div") && !out.is_empty() {
            out.push('\n');
        }
    }
    out
}

/// The comments in `documentation`, or in a comment element: each paragraph is one.
pub(super) fn comments(node: Node<'_, '_>) -> Vec<Comment> {
    let paragraphs: Vec<Node<'_, '_>> = node.descendants().filter(|n| n.tag_name().name() == "p").collect();
    let parts = if paragraphs.is_empty() { vec![node] } else { paragraphs };
    let texts = parts.into_iter().map(|n| content(n).split_whitespace().collect::<Vec<_>>().join(" "));
    texts
        .filter(|t| !t.is_empty())
        .map(|t| Comment { kind: CommentKind::Paren, text: t.replace("*)", "* )").replace("(*", "( *") })
        .collect()
}
