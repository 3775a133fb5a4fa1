//! From the text of a body to rows of characters, network by network.

use crate::model::{Comment, CommentKind, Name, Notes};
use crate::source::{Diagnostic, FileId, Span, codes};

/// Longest line and most lines of one network: a drawing that no one can read is none.
const MOST: usize = 4_000;

/// One line of a drawing: plain characters with the places they stand at.
#[derive(Clone, Debug)]
pub(super) struct TextRow {
    pub(super) chars: Vec<char>,
    /// Byte offset of each character, and of the line's end.
    pub(super) offsets: Vec<u32>,
}

/// The lines between two cuts of one network.
#[derive(Clone, Debug)]
pub(super) struct Canvas {
    pub(super) rows: Vec<TextRow>,
    pub(super) file: FileId,
}

impl Canvas {
    pub(super) fn at(&self, row: usize, column: usize) -> char {
        self.rows.get(row).and_then(|r| r.chars.get(column)).copied().unwrap_or(' ')
    }

    /// The character at a place that may lie outside.
    pub(super) fn near(&self, row: usize, column: usize, down: isize, right: isize) -> char {
        match (row.checked_add_signed(down), column.checked_add_signed(right)) {
            (Some(row), Some(column)) => self.at(row, column),
            _ => ' ',
        }
    }

    pub(super) fn span(&self, row: usize, from: usize, to: usize) -> Span {
        let offsets = &self.rows[row].offsets;
        let last = offsets.len() - 1;
        Span { file: self.file, start: offsets[from.min(last)], end: offsets[to.min(last)] }
    }

    pub(super) fn text(&self, row: usize, from: usize, to: usize) -> String {
        let chars = &self.rows[row].chars;
        chars[from.min(chars.len())..to.min(chars.len())].iter().collect()
    }
}

/// What stands between two blank lines: a network before its lines are looked at.
#[derive(Clone)]
pub(super) struct Piece {
    pub(super) label: Option<Name>,
    pub(super) notes: Notes,
    /// The canvases between cuts, from left to right of the drawing.
    pub(super) strips: Vec<Canvas>,
    pub(super) span: Span,
}

/// Cuts a body into networks. `start` is where the body begins in its file.
pub(super) fn pieces(text: &str, start: u32, file: FileId, problems: &mut Vec<Diagnostic>) -> Vec<Piece> {
    let (bare, comments) = without_comments(text, start, file, problems);
    let mut cutter = Cutter { out: Vec::new(), open: None, label: None, notes: Vec::new(), file };
    let mut offset = start;
    let mut comments = comments.into_iter().peekable();
    for line in bare.split_inclusive('\n') {
        let end = offset + line.len() as u32;
        let mut commented = false;
        while let Some((_, comment)) = comments.next_if(|(at, _)| *at < end) {
            commented = true;
            cutter.comment(comment, !line.trim().is_empty());
        }
        let blank = line.trim().is_empty();
        if blank && !commented {
            cutter.close();
            if cutter.label.is_some() {
                // A label alone: what stands below it is a network of its own.
                cutter.rest(Span { file, start: offset, end: offset });
            }
        } else if !blank {
            cutter.line(line.trim_end(), offset, problems);
        }
        offset = end;
    }
    cutter.close();
    cutter.rest(Span { file, start: offset, end: offset });
    cutter.out
}

struct Cutter {
    out: Vec<Piece>,
    open: Option<Piece>,
    label: Option<Name>,
    notes: Vec<Comment>,
    file: FileId,
}

impl Cutter {
    fn comment(&mut self, comment: Comment, beside: bool) {
        match &mut self.open {
            Some(piece) if beside => piece.notes.trailing.push(comment),
            _ => {
                self.close();
                self.notes.push(comment);
            }
        }
    }

    fn close(&mut self) {
        self.out.extend(self.open.take());
    }

    /// A label or comments at the end, with no drawing below.
    fn rest(&mut self, span: Span) {
        if self.label.is_some() || !self.notes.is_empty() {
            let piece = self.begin(span);
            self.out.push(piece);
        }
    }

    fn begin(&mut self, span: Span) -> Piece {
        let notes = Notes {
            leading: std::mem::take(&mut self.notes),
            trailing: Vec::new(),
            blank_before: true,
            kept: Vec::new(),
        };
        Piece { label: self.label.take(), notes, strips: Vec::new(), span }
    }

    fn line(&mut self, line: &str, offset: u32, problems: &mut Vec<Diagnostic>) {
        let lead = (line.len() - line.trim_start().len()) as u32;
        let span = Span { file: self.file, start: offset + lead, end: offset + line.len() as u32 };
        if self.open.is_none()
            && let Some(name) = line.trim().strip_suffix(':').map(str::trim_end).filter(|n| is_name(n))
        {
            let name_span = Span { end: span.start + name.len() as u32, ..span };
            if self.label.is_some() {
                // Two labels of one network: the first gets a network of its own.
                let piece = self.begin(span);
                self.out.push(piece);
            }
            self.label = Some(Name { text: name.to_string(), span: name_span });
            return;
        }
        if self.open.is_none() {
            self.open = Some(self.begin(span));
        }
        let Some(piece) = &mut self.open else { return };
        piece.span = piece.span.to(span);
        if line.trim().chars().all(|c| c == '~') {
            piece.strips.push(Canvas { rows: Vec::new(), file: self.file });
            return;
        }
        if piece.strips.is_empty() {
            piece.strips.push(Canvas { rows: Vec::new(), file: self.file });
        }
        let Some(canvas) = piece.strips.last_mut() else { return };
        if line.chars().count() > MOST || canvas.rows.len() >= MOST {
            if canvas.rows.len() <= MOST {
                let message = format!("a network has at most {MOST} lines of at most {MOST} characters");
                problems.push(Diagnostic::error(codes::LIMIT, span, message));
            }
            return;
        }
        canvas.rows.push(row(line, offset, self.file, problems));
    }
}

fn row(line: &str, offset: u32, file: FileId, problems: &mut Vec<Diagnostic>) -> TextRow {
    let mut out = TextRow { chars: Vec::new(), offsets: Vec::new() };
    for (at, c) in line.char_indices() {
        let start = offset + at as u32;
        if c == '\t' {
            let span = Span { file, start, end: start + 1 };
            problems.push(
                Diagnostic::error(codes::CHARACTER, span, "a tab in a drawing stands in no certain column")
                    .help("write blanks"),
            );
        }
        out.chars.push(plain(c));
        out.offsets.push(start);
    }
    out.offsets.push(offset + line.len() as u32);
    contacts(line, &mut out.chars);
    out
}

/// Contacts in box characters, `┤ ├`, as the two bars they are.
fn contacts(line: &str, chars: &mut [char]) {
    let raw: Vec<char> = line.chars().collect();
    for at in (0..raw.len()).filter(|at| raw[*at] == '┤') {
        let Some(width) = raw[at + 1..].iter().take(6).position(|c| *c == '├') else { continue };
        let inner: String = raw[at + 1..at + 1 + width].iter().collect();
        let symbol = matches!(inner.trim(), "" | "/" | "P" | "N" | "=" | "<>" | "<" | "<=" | ">" | ">=");
        if symbol && width > 0 {
            chars[at] = '|';
            chars[at + 1 + width] = '|';
        }
    }
}

/// Box-drawing characters as the plain ones they stand for.
fn plain(c: char) -> char {
    match c {
        '─' | '━' | '╌' | '╴' | '╶' | '═' => '-',
        '│' | '┃' | '╎' | '╵' | '╷' | '║' => '|',
        '┌' | '┐' | '└' | '┘' | '├' | '┤' | '┬' | '┴' | '┼' | '╭' | '╮' | '╰' | '╯' | '┏' | '┓' | '┗' | '┛' | '┣'
        | '┫' | '┳' | '┻' | '╋' | '╔' | '╗' | '╚' | '╝' | '╠' | '╣' | '╦' | '╩' | '╬' => '+',
        '○' | '◦' => 'o',
        c if c.is_whitespace() => ' ',
        c => c,
    }
}

pub(super) fn is_name(text: &str) -> bool {
    let mut chars = text.chars();
    chars.next().is_some_and(|c| c.is_alphabetic() || c == '_') && chars.all(|c| c.is_alphanumeric() || c == '_')
}

/// The text with blanks in place of its comments, and the comments with the places they begin at.
fn without_comments(
    text: &str,
    start: u32,
    file: FileId,
    problems: &mut Vec<Diagnostic>,
) -> (String, Vec<(u32, Comment)>) {
    let mut bare = String::with_capacity(text.len());
    let mut comments = Vec::new();
    // Whether nothing but blanks stands before on the line; up to where a pragma can end.
    let (mut begins_line, last_brace) = (true, text.rfind('}').unwrap_or_default());
    let mut at = 0;
    while at < text.len() {
        let rest = &text[at..];
        let Some((length, found)) = comment(rest, begins_line, at < last_brace) else {
            let c = rest.chars().next().unwrap_or_default();
            begins_line = c == '\n' || begins_line && c.is_whitespace();
            bare.push(c);
            at += c.len_utf8();
            continue;
        };
        let place = start + at as u32;
        match found {
            Some(comment) => comments.push((place, comment)),
            None => {
                let span = Span { file, start: place, end: place + 2 };
                let message = "this comment never ends; the rest of the body is part of it";
                problems.push(Diagnostic::error(codes::UNENDED, span, message));
            }
        }
        begins_line |= rest[..length].contains('\n');
        bare.extend(rest[..length].chars().flat_map(|c| {
            let blank = if c == '\n' { '\n' } else { ' ' };
            std::iter::repeat_n(blank, c.len_utf8())
        }));
        at += length;
    }
    (bare, comments)
}

/// The length of the comment that begins here, if one does, and the comment, if it ends.
fn comment(rest: &str, begins_line: bool, braces_close: bool) -> Option<(usize, Option<Comment>)> {
    let line = || rest.find('\n').unwrap_or(rest.len());
    let make = |kind, text: &str| Some(Comment { kind, text: text.trim().to_string() });
    if rest.starts_with("(*") {
        return Some(match nested_end(rest, "(*", "*)") {
            Some(end) => (end, make(CommentKind::Paren, &rest[2..end - 2])),
            None => (rest.len(), None),
        });
    }
    if !begins_line {
        return None;
    }
    if rest.starts_with("//") {
        return Some((line(), make(CommentKind::Line, &rest[2..line()])));
    }
    if rest.starts_with("/*") {
        return Some(match nested_end(rest, "/*", "*/") {
            Some(end) => (end, make(CommentKind::Slash, &rest[2..end - 2])),
            None => (rest.len(), None),
        });
    }
    let end = (braces_close && rest.starts_with('{')).then(|| rest.find('}')).flatten()? + 1;
    Some((end, make(CommentKind::Pragma, &rest[1..end - 1])))
}

fn nested_end(text: &str, open: &str, close: &str) -> Option<usize> {
    let (mut depth, mut at) = (0usize, 0);
    while at < text.len() {
        if text[at..].starts_with(open) {
            depth += 1;
            at += open.len();
        } else if text[at..].starts_with(close) {
            depth -= 1;
            at += close.len();
            if depth == 0 {
                return Some(at);
            }
        } else {
            at += text[at..].chars().next().map_or(1, char::len_utf8);
        }
    }
    None
}
