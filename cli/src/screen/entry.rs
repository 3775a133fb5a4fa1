//! The line for acts: editing, what was typed before, and completion.

/// A line being typed.
#[derive(Debug, Default)]
pub(crate) struct Entry {
    text: Vec<char>,
    /// Where the next character goes.
    at: usize,
    /// Which of the earlier lines is shown, counted from the last.
    back: usize,
    /// What was typed before an earlier line was shown.
    kept: String,
}

impl Entry {
    /// A line that begins with something.
    pub(crate) fn with(text: &str) -> Entry {
        let text: Vec<char> = text.chars().collect();
        Entry { at: text.len(), text, ..Entry::default() }
    }

    pub(crate) fn text(&self) -> String {
        self.text.iter().collect()
    }

    /// The column of the cursor.
    pub(crate) fn column(&self) -> usize {
        self.at
    }

    pub(crate) fn insert(&mut self, c: char) {
        self.text.insert(self.at, c);
        self.at += 1;
    }

    pub(crate) fn backspace(&mut self) {
        if self.at > 0 {
            self.at -= 1;
            self.text.remove(self.at);
        }
    }

    pub(crate) fn delete(&mut self) {
        if self.at < self.text.len() {
            self.text.remove(self.at);
        }
    }

    pub(crate) fn left(&mut self) {
        self.at = self.at.saturating_sub(1);
    }

    pub(crate) fn right(&mut self) {
        self.at = (self.at + 1).min(self.text.len());
    }

    pub(crate) fn home(&mut self) {
        self.at = 0;
    }

    pub(crate) fn end(&mut self) {
        self.at = self.text.len();
    }

    fn show(&mut self, text: &str) {
        self.text = text.chars().collect();
        self.at = self.text.len();
    }

    /// The line before, of those that were typed.
    pub(crate) fn earlier(&mut self, history: &[String]) {
        if self.back == 0 {
            self.kept = self.text();
        }
        if let Some(line) = history.len().checked_sub(self.back + 1).and_then(|at| history.get(at)) {
            self.back += 1;
            self.show(&line.clone());
        }
    }

    /// The line behind.
    pub(crate) fn later(&mut self, history: &[String]) {
        match self.back {
            0 => {}
            1 => {
                self.back = 0;
                self.show(&self.kept.clone());
            }
            _ => {
                self.back -= 1;
                let line = history.get(history.len() - self.back).cloned().unwrap_or_default();
                self.show(&line);
            }
        }
    }

    /// Completes the word before the cursor as far as all that begin with it agree; gives them if there are several.
    pub(crate) fn complete<'n>(&mut self, words: &[&'n str], names: &[&'n str]) -> Vec<&'n str> {
        let before: String = self.text[..self.at].iter().collect();
        let start = before.rfind([' ', ',']).map_or(0, |at| at + 1);
        let word = &before[start..];
        let is_first = before[..start].trim().is_empty();
        let list = if is_first { words } else { names };
        let begins = |name: &&str| {
            name.get(..word.len()).is_some_and(|head| head.eq_ignore_ascii_case(word)) && !word.is_empty()
        };
        let fitting: Vec<&str> = list.iter().copied().filter(begins).collect();
        let Some(first) = fitting.first() else { return Vec::new() };
        let common = |length: usize| {
            fitting.iter().all(|name| name.get(..length).is_some_and(|h| h.eq_ignore_ascii_case(&first[..length])))
        };
        let ends = first.char_indices().map(|(at, c)| at + c.len_utf8()).take_while(|end| common(*end));
        let longest = ends.last().unwrap_or(word.len()).max(word.len());
        let mut completed: String = first[..longest].to_string();
        if fitting.len() == 1 {
            completed.push(' ');
        }
        let from = self.at - word.chars().count();
        self.text.splice(from..self.at, completed.chars());
        self.at = from + completed.chars().count();
        if fitting.len() == 1 { Vec::new() } else { fitting }
    }
}

#[cfg(test)]
mod tests {
    use super::Entry;

    #[test]
    fn a_line_is_edited() {
        let mut entry = Entry::with("hold Key");
        entry.left();
        entry.insert('x');
        entry.delete();
        entry.backspace();
        entry.home();
        entry.insert('#');
        entry.right();
        assert_eq!((entry.text().as_str(), entry.column()), ("#hold Ke", 2));
        entry.end();
        assert_eq!(entry.column(), 8);
    }

    #[test]
    fn earlier_lines_come_back_and_go_again() {
        let history = ["scan".to_string(), "now".to_string()];
        let mut entry = Entry::with("wa");
        let mut seen = Vec::new();
        for _ in 0..3 {
            entry.earlier(&history);
            seen.push(entry.text());
        }
        for _ in 0..3 {
            entry.later(&history);
            seen.push(entry.text());
        }
        assert_eq!(seen, ["now", "scan", "scan", "now", "wa", "wa"]);
    }

    #[test]
    fn words_are_completed_as_far_as_they_agree() {
        let (words, names) = (["hold", "help", "watch"], ["RinsePump", "Rinses", "Alarm"]);
        let row = |typed: &str| {
            let mut entry = Entry::with(typed);
            let open = entry.complete(&words, &names).len();
            (entry.text(), open)
        };
        assert_eq!(row("w"), ("watch ".to_string(), 0));
        assert_eq!(row("h"), ("h".to_string(), 2));
        assert_eq!(row("watch ri"), ("watch Rinse".to_string(), 2));
        assert_eq!(row("watch Alarm,rinsep"), ("watch Alarm,RinsePump ".to_string(), 0));
        assert_eq!(row("watch x"), ("watch x".to_string(), 0));
        assert_eq!(row("watch "), ("watch ".to_string(), 0));
    }
}
