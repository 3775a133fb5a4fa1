//! Lists as old controllers print them: a sheet says how they are laid out.

use super::token::Scanner;
use crate::model::sheet::Listing;
use std::ops::Range;

impl Scanner<'_> {
    /// Cuts a part of the text that is laid out as the sheet's listing: page heads are passed over, step numbers noted,
    /// comments found by their own signs, and lines put together that go on in the next.
    pub(super) fn list(&mut self, range: Range<usize>) {
        let Some(sheet) = self.sheet else { return };
        let listing = &sheet.listing;
        self.own = true;
        // A list that is the whole text begins with the head of its first page.
        let mut heads = if range.start == 0 { listing.head_lines } else { 0 };
        let mut at = range.start;
        let mut goes_on = false;
        while at < range.end {
            let mut end = self.line_end(at, range.end);
            let line = &self.text[at..end];
            if line.contains('\u{c}') {
                heads = listing.head_lines;
            }
            let is_head = listing.heads.iter().any(|h| line.trim_start().starts_with(h.as_str()));
            if heads > 0 || is_head {
                heads = heads.saturating_sub(1);
                at = end + 1;
                self.done = at.min(range.end);
                continue;
            }
            let mut sign = comment_sign(line, listing).map(|(sign, length)| (at + sign, length));
            let mut code = at..sign.map_or(end, |(sign, _)| sign);
            if let Some(open) = open_comment(&self.text[code.clone()]) {
                // A comment of the standard may be longer than its line.
                let inside = code.start + open + 2;
                let close = self.text[inside..range.end].find("*)").map_or(range.end, |n| inside + n + 2);
                end = self.line_end(close, range.end);
                (code.end, sign) = (end, None);
            }
            if listing.step_numbers && !goes_on {
                code.start += self.step_number(&self.text[code.clone()]);
            }
            goes_on = false;
            if let Some(sign) = &listing.continuation {
                let text = self.text[code.clone()].trim_end();
                if let Some(rest) = text.strip_suffix(sign.as_str()) {
                    code.end = code.start + rest.len();
                    goes_on = true;
                }
            }
            self.done = code.start;
            self.part(code);
            if let Some((sign, length)) = sign {
                self.done = sign;
                self.comment(sign + length..end);
            }
            self.lines += usize::from(!goes_on);
            at = end + 1;
            self.done = at.min(range.end);
        }
        self.done = range.end;
        self.own = false;
    }

    fn line_end(&self, from: usize, end: usize) -> usize {
        self.text[from..end].find('\n').map_or(end, |n| from + n)
    }

    /// Notes the number in front of an instruction; tells how long it is, with the blanks before it.
    fn step_number(&mut self, line: &str) -> usize {
        let blanks = line.len() - line.trim_start().len();
        let digits = line[blanks..].bytes().take_while(u8::is_ascii_digit).count();
        let rest = &line[blanks + digits..];
        if digits == 0 || rest.starts_with(|c: char| !c.is_whitespace()) {
            return 0;
        }
        let number = line[blanks..blanks + digits].trim_start_matches('0');
        let number = if number.is_empty() { "0" } else { number };
        self.out.steps.push((self.out.tokens.len(), number.to_string()));
        blanks + digits
    }
}

/// Where a line's comment begins, and how long its sign is: the first sign that stands in no string and in no comment of
/// the standard.
fn comment_sign(line: &str, listing: &Listing) -> Option<(usize, usize)> {
    let (mut quoted, mut inside) = (false, false);
    for (at, letter) in line.char_indices() {
        let rest = &line[at..];
        match letter {
            _ if inside => inside = !rest.starts_with("*)"),
            '\'' => quoted = !quoted,
            '(' if !quoted && rest.starts_with("(*") => inside = true,
            _ if quoted => {}
            // The end of a comment is no sign that is a star.
            ')' if line[..at].ends_with('*') => {}
            _ => {
                let sign = listing.comments.iter().filter(|s| rest.starts_with(s.as_str())).max_by_key(|s| s.len());
                if let Some(sign) = sign {
                    return Some((at, sign.len()));
                }
            }
        }
    }
    None
}

/// Where a comment of the standard begins that does not end in this text.
fn open_comment(text: &str) -> Option<usize> {
    let open = text.rfind("(*")?;
    (!text[open + 2..].contains("*)")).then_some(open)
}
