//! The tokens that structured text, instruction list and declarations share.
#![allow(clippy::wildcard_enum_match_arm, reason = "there are many tokens; one that is not wanted is an error")]

use crate::model::sheet::Sheet;
use crate::model::{Comment, CommentKind};
use crate::source::{Diagnostic, FileId, Span, codes};
use logos::Logos;

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
}

/// Cuts a text that stands at `base` of its file into tokens; never fails, problems are collected. With a sheet, what has
/// the shape of one of its addresses is one.
pub(crate) fn tokenize(text: &str, file: FileId, base: u32, sheet: Option<&Sheet>) -> Tokens {
    let mut out = Tokens { tokens: Vec::new(), comments: Vec::new(), problems: Vec::new() };
    let mut last_end = 0usize;
    let mut line_is_fresh = true;
    let mut lexer = Tok::lexer(text);
    while let Some(mut next) = lexer.next() {
        if let Some(sheet) = sheet
            && let Some(more) = address_beyond(sheet, text, &lexer.span(), next)
        {
            lexer.bump(more);
            next = Ok(Tok::Address);
        }
        let range = lexer.span();
        let span = Span { file, start: base + range.start as u32, end: base + range.end as u32 };
        let gap = text.get(last_end..range.start).unwrap_or("");
        let lines = gap.matches('\n').count();
        // What follows a line comment is on a new line even though the comment ate the line's text.
        let fresh = line_is_fresh || lines > 0;
        let blank = lines > 1 && last_end > 0;
        last_end = range.end;
        match next {
            Err(()) => {
                let what = lexer.slice();
                let message = if what.starts_with('\'') {
                    Diagnostic::error(codes::UNENDED, span, "this string does not end on its line")
                } else {
                    Diagnostic::error(codes::CHARACTER, span, format!("`{what}` begins nothing in this language"))
                };
                out.problems.push(message);
                line_is_fresh = false;
            }
            Ok(Tok::Unended) => {
                out.problems.push(
                    Diagnostic::error(
                        codes::UNENDED,
                        Span { end: span.start + 2, ..span },
                        "this comment never ends; the rest of the file is part of it",
                    )
                    .help("close it; comments nest, so each opening needs its own end"),
                );
            }
            Ok(kind @ (Tok::ParenComment | Tok::SlashComment | Tok::LineComment | Tok::Pragma)) => {
                out.comments.push(PlacedComment {
                    comment: comment(kind, lexer.slice()),
                    before: out.tokens.len(),
                    own_line: fresh,
                    blank_before: blank,
                    taken: false,
                });
                line_is_fresh = fresh;
            }
            Ok(kind) => {
                out.tokens.push(Token { kind, span, first_on_line: fresh, blank_before: blank });
                line_is_fresh = false;
            }
        }
    }
    let end = base + text.len() as u32;
    let span = Span { file, start: end, end };
    out.tokens.push(Token { kind: Tok::End, span, first_on_line: true, blank_before: false });
    out
}

/// If an address of the sheet begins where this token does: how far it goes beyond the token.
fn address_beyond(sheet: &Sheet, text: &str, token: &std::ops::Range<usize>, kind: Result<Tok, ()>) -> Option<usize> {
    if !matches!(kind, Ok(Tok::Word | Tok::Address)) {
        return None;
    }
    let length = sheet.address_length(text.get(token.start..)?)?;
    length.checked_sub(token.end - token.start)
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
