//! The tokens that structured text, instruction list and declarations share.
#![allow(clippy::wildcard_enum_match_arm, reason = "there are many tokens; one that is not wanted is an error")]

use crate::model::sheet::Sheet;
use crate::model::{Comment, CommentKind};
use crate::source::{Diagnostic, FileId, Span, codes};
use logos::Logos;
use std::ops::Range;

/// What a token is.
#[derive(Logos, Clone, Copy, Debug, PartialEq, Eq)]
#[logos(skip r"[ \t\r\n\f\u{feff}]+")]
pub(crate) enum Tok {
    #[token("(*", paren_comment)]
    ParenComment,
    #[token("/*", slash_comment)]
    SlashComment,
    #[regex(r"//[^\n]*", allow_greedy = true)]
    LineComment,
    #[regex(r"\{[^}]*\}")]
    Pragma,
    #[regex(r"[\p{XID_Start}_]\p{XID_Continue}*")]
    Word,
    /// `INT#` in front of a literal.
    #[regex(r"[\p{XID_Start}_]\p{XID_Continue}*#")]
    Prefix,
    #[regex(r"(?i)(t|time|lt|ltime)#[+-]?[0-9][0-9_.a-z]*")]
    Duration,
    #[regex(r"[0-9][0-9_]*")]
    Int,
    #[regex(r"[0-9][0-9_]*#[0-9A-Za-z_]+")]
    Based,
    #[regex(r"[0-9][0-9_]*\.[0-9][0-9_]*([eE][+-]?[0-9]+)?")]
    #[regex(r"[0-9][0-9_]*[eE][+-]?[0-9]+")]
    Real,
    #[regex(r"'([^'$\n]|\$[^\n])*'")]
    Text,
    #[regex(r"%[A-Za-z0-9_.*]+")]
    Address,
    #[token(":=")]
    Assign,
    #[token("=>")]
    Arrow,
    #[token("..")]
    Dots,
    #[token("**")]
    Power,
    #[token("<>")]
    NotEqual,
    #[token("<=")]
    LessEqual,
    #[token(">=")]
    GreaterEqual,
    #[token("<")]
    Less,
    #[token(">")]
    Greater,
    #[token("=")]
    Equal,
    #[token("+")]
    Plus,
    #[token("-")]
    Minus,
    #[token("*")]
    Star,
    #[token("/")]
    Slash,
    #[token("&")]
    Ampersand,
    #[token("(")]
    Open,
    #[token(")")]
    Close,
    #[token("[")]
    OpenIndex,
    #[token("]")]
    CloseIndex,
    #[token(",")]
    Comma,
    #[token(";")]
    Semicolon,
    #[token(":")]
    Colon,
    #[token(".")]
    Dot,
    /// `K50`: a number as the lists of a sheet write it.
    Constant,
    /// A comment without an end; made by the callbacks.
    Unended,
    /// The end of the text.
    End,
}

fn paren_comment(lex: &mut logos::Lexer<Tok>) -> Tok {
    nested(lex, b"(*", b"*)", Tok::ParenComment)
}

fn slash_comment(lex: &mut logos::Lexer<Tok>) -> Tok {
    nested(lex, b"/*", b"*/", Tok::SlashComment)
}

/// Comments nest (third edition).
fn nested(lex: &mut logos::Lexer<Tok>, open: &[u8], close: &[u8], kind: Tok) -> Tok {
    let rest = lex.remainder().as_bytes();
    let mut depth = 1usize;
    let mut at = 0;
    while at + 1 < rest.len() {
        if rest[at..].starts_with(close) {
            depth -= 1;
            at += 2;
            if depth == 0 {
                lex.bump(at);
                return kind;
            }
        } else if rest[at..].starts_with(open) {
            depth += 1;
            at += 2;
        } else {
            at += 1;
        }
    }
    lex.bump(rest.len());
    Tok::Unended
}

/// A token with its place.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Token {
    pub(crate) kind: Tok,
    pub(crate) span: Span,
    /// A line end stands between this and the token before.
    pub(crate) first_on_line: bool,
    /// A blank line stands between this and the token or comment before.
    pub(crate) blank_before: bool,
}

/// A comment with the token it stands before.
#[derive(Clone, Debug)]
pub(crate) struct PlacedComment {
    pub(crate) comment: Comment,
    /// Index of the token behind it.
    pub(crate) before: usize,
    /// Nothing but blanks stands before it on its line.
    pub(crate) own_line: bool,
    pub(crate) blank_before: bool,
    pub(crate) taken: bool,
}

/// A text as tokens.
pub(crate) struct Tokens {
    pub(crate) tokens: Vec<Token>,
    pub(crate) comments: Vec<PlacedComment>,
    pub(crate) problems: Vec<Diagnostic>,
    /// Numbers that stand in front of instructions, each with the index of the token behind it.
    pub(crate) steps: Vec<(usize, String)>,
}

/// By what a text is read, beside the standard.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Conventions<'s> {
    /// What has the shape of one of its addresses is one.
    pub(crate) sheet: Option<&'s Sheet>,
    /// Where in the text its listing's layout holds.
    pub(crate) lists: &'s [Span],
    /// The text is an operand of a drawing: constants and addresses are written as in a list.
    pub(crate) is_drawn: bool,
}

/// Cuts a text that stands at `base` of its file into tokens; never fails, problems are collected.
pub(crate) fn tokenize(text: &str, file: FileId, base: u32, conventions: Conventions<'_>) -> Tokens {
    let out = Tokens { tokens: Vec::new(), comments: Vec::new(), problems: Vec::new(), steps: Vec::new() };
    let sheet = conventions.sheet;
    let (done, lines, own) = (0, 0, conventions.is_drawn);
    let mut scanner = Scanner { text, file, base, sheet, own, done, lines, fresh: true, out };
    for list in conventions.lists {
        let (start, end) = (list.start.saturating_sub(base) as usize, list.end.saturating_sub(base) as usize);
        scanner.part(scanner.done..start);
        scanner.list(start..end);
    }
    scanner.part(scanner.done..text.len());
    let end = base + text.len() as u32;
    let span = Span { file, start: end, end };
    scanner.out.tokens.push(Token { kind: Tok::End, span, first_on_line: true, blank_before: false });
    scanner.out
}

/// A text while it is cut.
pub(super) struct Scanner<'s> {
    pub(super) text: &'s str,
    file: FileId,
    base: u32,
    pub(super) sheet: Option<&'s Sheet>,
    /// Constants and addresses are written as in a list of the sheet.
    pub(super) own: bool,
    /// The text has been looked at up to here.
    pub(super) done: usize,
    /// Line ends behind the last token or comment.
    pub(super) lines: usize,
    /// What comes next is the first on its line.
    fresh: bool,
    pub(super) out: Tokens,
}

impl Scanner<'_> {
    fn span(&self, range: &Range<usize>) -> Span {
        Span { file: self.file, start: self.base + range.start as u32, end: self.base + range.end as u32 }
    }

    /// Takes in the gap before what begins at `start`: whether that is first on its line, and whether a blank line stands
    /// before it.
    fn gap(&mut self, start: usize) -> (bool, bool) {
        let lines = self.lines + self.text.get(self.done..start).unwrap_or("").matches('\n').count();
        self.lines = 0;
        let anything = !self.out.tokens.is_empty() || !self.out.comments.is_empty();
        // What follows a line comment is on a new line even though the comment ate the line's text.
        (self.fresh || lines > 0, lines > 1 && anything)
    }

    /// Cuts a part of the text.
    pub(super) fn part(&mut self, range: Range<usize>) {
        let mut lexer = Tok::lexer(&self.text[..range.end]);
        lexer.bump(range.start);
        loop {
            let before = lexer.span().end;
            let own = if self.own { self.own_token(before, range.end) } else { None };
            let (next, range) = match own {
                Some((kind, own)) => {
                    lexer.bump(own.end - before);
                    (Ok(kind), own)
                }
                None => {
                    let Some(mut next) = lexer.next() else { break };
                    if let Some(sheet) = self.sheet.filter(|_| !self.own)
                        && let Some(more) = self.address_beyond(sheet, &lexer.span(), next)
                    {
                        lexer.bump(more);
                        next = Ok(Tok::Address);
                    }
                    (next, lexer.span())
                }
            };
            self.take(next, range);
        }
        self.lines += self.text.get(self.done..range.end).unwrap_or("").matches('\n').count();
        self.done = range.end;
    }

    fn take(&mut self, next: Result<Tok, ()>, range: Range<usize>) {
        let span = self.span(&range);
        let (fresh, blank) = self.gap(range.start);
        self.done = range.end;
        let what = &self.text[range];
        match next {
            Err(()) => {
                let message = if what.starts_with('\'') {
                    Diagnostic::error(codes::UNENDED, span, "this string does not end on its line")
                } else {
                    Diagnostic::error(codes::CHARACTER, span, format!("`{what}` begins nothing in this language"))
                };
                self.out.problems.push(message);
                self.fresh = false;
            }
            Ok(Tok::Unended) => {
                self.out.problems.push(
                    Diagnostic::error(
                        codes::UNENDED,
                        Span { end: span.start + 2, ..span },
                        "this comment never ends; the rest of the file is part of it",
                    )
                    .help("close it; comments nest, so each opening needs its own end"),
                );
            }
            Ok(kind @ (Tok::ParenComment | Tok::SlashComment | Tok::LineComment | Tok::Pragma)) => {
                self.note(comment(kind, what), fresh, blank);
            }
            Ok(kind) => {
                self.out.tokens.push(Token { kind, span, first_on_line: fresh, blank_before: blank });
                self.fresh = false;
            }
        }
    }

    fn note(&mut self, comment: Comment, own_line: bool, blank_before: bool) {
        let before = self.out.tokens.len();
        self.out.comments.push(PlacedComment { comment, before, own_line, blank_before, taken: false });
        self.fresh = own_line;
    }

    /// A comment by a listing's own sign.
    pub(super) fn comment(&mut self, text: Range<usize>) {
        let (fresh, blank) = self.gap(text.start);
        self.done = text.end;
        let text = self.text[text].trim().to_string();
        self.note(Comment { kind: CommentKind::Line, text }, fresh, blank);
    }

    /// A constant or an address as lists of the sheet write them, if one is the next token behind `from`.
    fn own_token(&self, from: usize, end: usize) -> Option<(Tok, Range<usize>)> {
        let sheet = self.sheet?;
        let rest = self.text.get(from..end)?;
        let start = from + rest.len() - rest.trim_start().len();
        let rest = self.text.get(start..end)?;
        if rest.starts_with(|c: char| c.is_ascii_alphanumeric() || c == '%')
            && let Some(length) = sheet.address_length(rest)
        {
            return Some((Tok::Address, start..start + length));
        }
        let constant = sheet.listing.constant_at(rest)?;
        Some((Tok::Constant, start..start + constant.length))
    }

    /// If an address of the sheet begins where this token does: how far it goes beyond the token. A number is one only where
    /// a declaration says so.
    fn address_beyond(&self, sheet: &Sheet, token: &Range<usize>, kind: Result<Tok, ()>) -> Option<usize> {
        let is_at = || {
            let last = self.out.tokens.last().filter(|t| t.kind == Tok::Word)?;
            let word = self.text.get((last.span.start - self.base) as usize..(last.span.end - self.base) as usize)?;
            word.eq_ignore_ascii_case("AT").then_some(())
        };
        let may_be = match kind {
            Ok(Tok::Word | Tok::Address) => true,
            Ok(Tok::Int | Tok::Real) => is_at().is_some(),
            _ => false,
        };
        let length = if may_be { sheet.address_length(self.text.get(token.start..)?)? } else { return None };
        length.checked_sub(token.end - token.start)
    }
}

fn comment(kind: Tok, text: &str) -> Comment {
    let (kind, cut) = match kind {
        Tok::SlashComment => (CommentKind::Slash, 2),
        Tok::LineComment => (CommentKind::Line, 2),
        Tok::Pragma => (CommentKind::Pragma, 1),
        _ => (CommentKind::Paren, 2),
    };
    let end = if kind == CommentKind::Line { text.len() } else { text.len() - cut };
    Comment { kind, text: text.get(cut..end).unwrap_or("").trim().to_string() }
}
