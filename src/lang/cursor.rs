//! Walking over tokens: expectations, recovery, comments, and the bounds on nesting.

use super::token::{Conventions, PlacedComment, Tok, Token, tokenize};
use crate::model::sheet::Sheet;
use crate::model::{Comment, Name, Notes};
use crate::source::{Code, Diagnostic, FileId, Limits, Source, Span, codes};

/// The reader gave up on something; the problem has been recorded.
#[derive(Debug)]
pub(crate) struct Stop;

pub(crate) type Read<T> = Result<T, Stop>;

/// A position in the tokens of one text.
pub(crate) struct Cursor<'s> {
    text: &'s str,
    /// Where the text begins in its file.
    base: u32,
    tokens: Vec<Token>,
    comments: Vec<PlacedComment>,
    /// First comment that may still be untaken.
    next_comment: usize,
    pub(crate) at: usize,
    pub(crate) problems: Vec<Diagnostic>,
    pub(crate) limits: Limits,
    nesting: u32,
    /// Where bodies are drawings: the source only holds the declarations.
    pub(crate) drawn: Option<&'s super::grid::Drawn<'s>>,
    /// The conventions of the text, if they are not the standard's.
    pub(crate) sheet: Option<&'s Sheet>,
    /// Numbers in front of instructions, each with the index of the token behind it.
    pub(crate) steps: Vec<(usize, String)>,
}

/// Words that cannot be names, in any body.
const RESERVED: &[&str] = &[
    "AND",
    "ARRAY",
    "AT",
    "BY",
    "CASE",
    "CONFIGURATION",
    "CONSTANT",
    "CONTINUE",
    "DO",
    "ELSE",
    "ELSIF",
    "END_CASE",
    "END_CONFIGURATION",
    "END_FOR",
    "END_FUNCTION",
    "END_FUNCTION_BLOCK",
    "END_IF",
    "END_PROGRAM",
    "END_REPEAT",
    "END_RESOURCE",
    "END_STRUCT",
    "END_TYPE",
    "END_VAR",
    "END_WHILE",
    "EXIT",
    "FALSE",
    "FOR",
    "FUNCTION",
    "FUNCTION_BLOCK",
    "IF",
    "MOD",
    "NON_RETAIN",
    "NOT",
    "OF",
    "OR",
    "PROGRAM",
    "REPEAT",
    "RESOURCE",
    "RETAIN",
    "RETURN",
    "STRING",
    "STRUCT",
    "TASK",
    "THEN",
    "TO",
    "TRUE",
    "TYPE",
    "UNTIL",
    "VAR",
    "VAR_EXTERNAL",
    "VAR_GLOBAL",
    "VAR_INPUT",
    "VAR_IN_OUT",
    "VAR_OUTPUT",
    "VAR_TEMP",
    "WHILE",
    "WITH",
    "XOR",
];

/// True for a word that cannot be a name.
pub(crate) fn is_reserved(word: &str) -> bool {
    RESERVED.binary_search_by(|r| r.bytes().cmp(word.bytes().map(|b| b.to_ascii_uppercase()))).is_ok()
}

impl<'s> Cursor<'s> {
    /// Walks over a whole text.
    pub(crate) fn new(file: FileId, source: &'s Source, limits: Limits, conventions: Conventions<'s>) -> Self {
        Cursor::over(&source.text, file, 0, limits, conventions)
    }

    /// Walks over an operand of a drawing.
    pub(crate) fn operand(source: &'s Source, part: Span, limits: Limits, sheet: Option<&'s Sheet>) -> Self {
        let conventions = Conventions { sheet, is_drawn: true, ..Conventions::default() };
        Cursor::over(source.slice(part), part.file, part.start, limits, conventions)
    }

    /// Walks over a text of the standard that stands at a place of a file.
    pub(crate) fn standard(text: &'s str, file: FileId, base: u32, limits: Limits) -> Self {
        Cursor::over(text, file, base, limits, Conventions::default())
    }

    fn over(text: &'s str, file: FileId, base: u32, limits: Limits, conventions: Conventions<'s>) -> Self {
        let tokens = tokenize(text, file, base, conventions);
        Cursor {
            text,
            base,
            tokens: tokens.tokens,
            comments: tokens.comments,
            next_comment: 0,
            at: 0,
            problems: tokens.problems,
            limits,
            nesting: 0,
            drawn: None,
            sheet: conventions.sheet,
            steps: tokens.steps,
        }
    }

    pub(crate) fn token(&self) -> Token {
        self.tokens[self.at.min(self.tokens.len() - 1)]
    }

    /// The token of an index.
    pub(crate) fn token_at(&self, index: usize) -> Token {
        self.tokens[index.min(self.tokens.len() - 1)]
    }

    pub(crate) fn ahead(&self, by: usize) -> Token {
        self.tokens[(self.at + by).min(self.tokens.len() - 1)]
    }

    pub(crate) fn kind(&self) -> Tok {
        self.token().kind
    }

    pub(crate) fn span(&self) -> Span {
        self.token().span
    }

    /// Where the last token taken stands.
    pub(crate) fn last_span(&self) -> Span {
        self.tokens[self.at.saturating_sub(1).min(self.tokens.len() - 1)].span
    }

    pub(crate) fn slice(&self, span: Span) -> &'s str {
        let at = |offset: u32| offset.saturating_sub(self.base) as usize;
        self.text.get(at(span.start)..at(span.end)).unwrap_or("")
    }

    pub(crate) fn text(&self) -> &'s str {
        self.slice(self.span())
    }

    pub(crate) fn bump(&mut self) -> Token {
        let token = self.token();
        if self.at < self.tokens.len() - 1 {
            self.at += 1;
        }
        token
    }

    pub(crate) fn is_end(&self) -> bool {
        self.kind() == Tok::End
    }

    pub(crate) fn at_word(&self, word: &str) -> bool {
        self.kind() == Tok::Word && self.text().eq_ignore_ascii_case(word)
    }

    pub(crate) fn at_any(&self, words: &[&str]) -> bool {
        self.kind() == Tok::Word && words.iter().any(|w| self.text().eq_ignore_ascii_case(w))
    }

    pub(crate) fn eat(&mut self, kind: Tok) -> bool {
        let found = self.kind() == kind;
        if found {
            self.bump();
        }
        found
    }

    pub(crate) fn eat_word(&mut self, word: &str) -> bool {
        let found = self.at_word(word);
        if found {
            self.bump();
        }
        found
    }

    pub(crate) fn problem(&mut self, problem: Diagnostic) {
        // One more than the limit marks that there were more.
        if self.problems.len() <= self.limits.problems {
            self.problems.push(problem);
        }
    }

    pub(crate) fn stop<T>(&mut self, code: Code, span: Span, message: impl Into<String>) -> Read<T> {
        self.problem(Diagnostic::error(code, span, message));
        Err(Stop)
    }

    /// What stands here, for a message.
    pub(crate) fn found(&self) -> String {
        if self.is_end() { "the end of the file".to_string() } else { format!("`{}`", self.text()) }
    }

    pub(crate) fn stop_expected<T>(&mut self, what: &str) -> Read<T> {
        let message = format!("expected {what}, found {}", self.found());
        let span = self.span();
        self.stop(codes::EXPECTED, span, message)
    }

    pub(crate) fn expect(&mut self, kind: Tok, what: &str) -> Read<Token> {
        if self.kind() == kind { Ok(self.bump()) } else { self.stop_expected(what) }
    }

    pub(crate) fn expect_word(&mut self, word: &str) -> Read<Token> {
        if self.at_word(word) { Ok(self.bump()) } else { self.stop_expected(&format!("`{word}`")) }
    }

    /// Like [`Cursor::expect`], but only reports and goes on: for separators whose lack confuses nothing.
    pub(crate) fn want(&mut self, kind: Tok, what: &str) {
        if !self.eat(kind) {
            let span = self.last_span();
            let at = Span { start: span.end, end: span.end, ..span };
            let message = format!("expected {what} here, before {}", self.found());
            self.problem(Diagnostic::error(codes::EXPECTED, at, message));
        }
    }

    pub(crate) fn name(&mut self, what: &str) -> Read<Name> {
        if self.kind() != Tok::Word {
            return self.stop_expected(what);
        }
        if is_reserved(self.text()) {
            let message = format!("expected {what}, but `{}` is a word of the language", self.text());
            let span = self.span();
            return self.stop(codes::EXPECTED, span, message);
        }
        Ok(self.name_here())
    }

    /// The word here as a name, whatever it is.
    pub(crate) fn name_here(&mut self) -> Name {
        let span = self.bump().span;
        Name { text: self.slice(span).to_string(), span }
    }

    /// Runs `read` one level deeper, or refuses when that is too deep.
    pub(crate) fn nested<T>(&mut self, read: impl FnOnce(&mut Self) -> Read<T>) -> Read<T> {
        if self.nesting >= self.limits.nesting {
            let span = self.span();
            let message = format!("nested more than {} deep", self.limits.nesting);
            return self.stop(codes::LIMIT, span, message);
        }
        self.nesting += 1;
        let result = read(self);
        self.nesting -= 1;
        result
    }

    /// Comments above the token here, and whether a blank line stands above them.
    pub(crate) fn leading(&mut self) -> Notes {
        let mut notes = Notes { blank_before: self.token().blank_before, ..Notes::default() };
        let comments = self.take_comments(self.at, |_| true);
        if let Some(first) = comments.first() {
            notes.blank_before = first.blank_before;
        }
        notes.leading = comments.into_iter().map(|c| c.comment).collect();
        notes
    }

    /// The comments above the next token that a blank line sets off from it: the heading of a text that is nothing
    /// but a body.
    pub(crate) fn heading(&mut self) -> Notes {
        let above: Vec<&PlacedComment> =
            self.comments[self.next_comment..].iter().take_while(|c| c.before <= self.at).collect();
        let own = if self.token().blank_before {
            above.len()
        } else {
            above.iter().rposition(|c| c.blank_before).unwrap_or(0)
        };
        let last = self.next_comment + own;
        let heading = self.comments[self.next_comment..last].iter_mut();
        let leading = heading
            .map(|c| {
                c.taken = true;
                c.comment.clone()
            })
            .collect();
        self.next_comment = last;
        Notes { leading, ..Notes::default() }
    }

    /// Adds to `notes` the comments inside what was just read, and those behind it on its line.
    pub(crate) fn finish(&mut self, notes: &mut Notes) {
        let inside = self.take_comments(self.at.saturating_sub(1), |_| true);
        notes.leading.extend(inside.into_iter().map(|c| c.comment));
        self.trailing(notes);
    }

    /// Adds to `notes` the comments on the line of the last token taken.
    pub(crate) fn trailing(&mut self, notes: &mut Notes) {
        let behind = self.take_comments(self.at, |c| !c.own_line);
        notes.trailing.extend(behind.into_iter().map(|c| c.comment));
    }

    fn take_comments(&mut self, up_to: usize, wanted: fn(&PlacedComment) -> bool) -> Vec<PlacedComment> {
        let mut taken = Vec::new();
        let mut index = self.next_comment;
        while let Some(comment) = self.comments.get_mut(index).filter(|c| c.before <= up_to) {
            if !comment.taken {
                if !wanted(comment) {
                    break;
                }
                comment.taken = true;
                taken.push(comment.clone());
            }
            index += 1;
        }
        while self.comments.get(self.next_comment).is_some_and(|c| c.taken) {
            self.next_comment += 1;
        }
        taken
    }

    /// Comments that stand before the token here, as plain comments.
    pub(crate) fn loose_comments(&mut self) -> Vec<Comment> {
        self.leading().leading
    }
}
