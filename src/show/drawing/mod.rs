//! Drawings of any program in any language: one network under another, with its number, title and label, and where
//! else its variables are written or read; two versions side by side; and one scan with its power and values.

mod lit;
mod marked;
mod network;
mod picture;
mod references;
mod terminal;

pub use lit::Live;
pub(in crate::show) use marked::{Marks, drawn};
pub use terminal::{Row, Tone, Which, networks, rows, terminal};

use crate::changes::Changes;
use crate::check::Checked;
use crate::lang::{DrawnStyle as Style, il, st};
use crate::model::{Body, Comment, Instr, Network, Stmt, Unit};
use picture::{CHAR, Ink, LINE, Picture};
use references::Uses;

/// Width of a page on which all can be read, in pixels.
const PAGE: f64 = 1_280.0;

/// How wide a drawing may be.
#[derive(Clone, Copy, Debug)]
pub struct Page {
    /// In pixels; at least 400.
    pub width: u32,
}

impl Default for Page {
    fn default() -> Self {
        Page { width: PAGE as u32 }
    }
}

impl Page {
    fn characters(self) -> usize {
        ((f64::from(self.width.max(400)) - 24.0) / CHAR) as usize
    }
}

/// What one network is drawn from.
enum Part<'u> {
    Drawn(&'u Network, Style),
    Statements(&'u [Stmt]),
    Instructions(&'u [Instr]),
}

/// The networks of a unit: of text, what stands between blank lines.
fn parts(unit: &Unit) -> Vec<Part<'_>> {
    match &unit.body {
        Body::Ladder(list) => list.iter().map(|n| Part::Drawn(n, Style::Ladder)).collect(),
        Body::Blocks(list) => list.iter().map(|n| Part::Drawn(n, Style::Blocks)).collect(),
        Body::Statements(list) => {
            groups(list, |s| s.notes.blank_before || !s.notes.leading.is_empty()).map(Part::Statements).collect()
        }
        Body::Instructions(list) => {
            groups(list, |i| i.notes.blank_before || !i.notes.leading.is_empty()).map(Part::Instructions).collect()
        }
    }
}

/// Lines of text that stand together at most.
const MOST_TOGETHER: usize = 300;

fn groups<T>(list: &[T], begins: fn(&T) -> bool) -> impl Iterator<Item = &[T]> {
    list.chunk_by(move |_, next| !begins(next)).flat_map(|group| group.chunks(MOST_TOGETHER))
}

impl Part<'_> {
    fn title(&self) -> Vec<&Comment> {
        let notes = match self {
            Part::Drawn(network, _) => Some(&network.notes),
            Part::Statements(list) => list.first().map(|s| &s.notes),
            Part::Instructions(list) => list.first().map(|i| &i.notes),
        };
        notes.map_or(Vec::new(), |n| n.leading.iter().collect())
    }

    fn label(&self) -> Option<&str> {
        if let Part::Drawn(network, _) = self { network.label.as_ref().map(|l| l.text.as_str()) } else { None }
    }

    fn uses(&self) -> Uses {
        let mut uses = Uses::default();
        match self {
            Part::Drawn(network, _) => network.elements.iter().for_each(|e| uses.element(e)),
            Part::Statements(list) => list.iter().for_each(|s| uses.statement(s)),
            Part::Instructions(list) => list.iter().for_each(|i| uses.instruction(i)),
        }
        uses
    }

    fn draw(&self, number: usize, page: usize, live: Option<&Live<'_>>, marks: &Marks) -> Picture {
        if let Part::Drawn(network, style) = self {
            network::draw(network, number, *style, page, live, marks)
        } else if marks.is_empty() {
            written(&self.text(), page, live)
        } else {
            marked::written(self, page, marks)
        }
    }

    /// Its text, without the title; nothing of what is drawn.
    fn text(&self) -> String {
        let mut text = String::new();
        match self {
            Part::Drawn(..) => {}
            Part::Statements(list) => {
                let mut bare = list.to_vec();
                bare.iter_mut().take(1).for_each(|s| s.notes.leading.clear());
                st::statements(&mut text, &bare, 0);
            }
            Part::Instructions(list) => {
                let mut bare = list.to_vec();
                bare.iter_mut().take(1).for_each(|i| i.notes.leading.clear());
                il::instructions(&mut text, &bare, 0);
            }
        }
        text
    }
}

/// Text with the values of its variables behind each line; what is too wide goes on in the next.
fn written(text: &str, characters: usize, live: Option<&Live<'_>>) -> Picture {
    let mut picture = Picture::new();
    let width = characters as f64 * CHAR;
    let mut y = LINE / 2.0;
    for line in text.lines() {
        let mut x = 0.0;
        for piece in pieces(line, characters.max(20)) {
            picture.text(8.0, y, &piece, Ink::Plain);
            x = 16.0 + piece.chars().count() as f64 * CHAR;
            y += LINE;
        }
        y -= LINE;
        for value in live.map_or(Vec::new(), |l| values(line, l)) {
            let wide = value.chars().count() as f64 * 6.4 + 14.0;
            if x + wide > width && x > 40.0 {
                x = 40.0;
                y += LINE;
            }
            picture.tag(x, y, &value);
            x += wide;
        }
        y += LINE;
    }
    picture
}

/// A line in pieces that fit, broken at blanks and further in from the second on.
fn pieces(line: &str, characters: usize) -> Vec<String> {
    let indent: String = line.chars().take_while(|c| *c == ' ').collect();
    let mut out = vec![indent.clone()];
    for word in line.split_whitespace() {
        let last = out.len() - 1;
        let begins = out[last].trim().is_empty();
        if !begins && out[last].chars().count() + word.chars().count() + 1 > characters {
            out.push(format!("{indent}    {word}"));
        } else if begins {
            out[last].push_str(word);
        } else {
            out[last].push(' ');
            out[last].push_str(word);
        }
    }
    if out.len() == 1 { vec![line.to_string()] } else { out }
}

/// The variables named in a line of text, with their values.
fn values(line: &str, live: &Live<'_>) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    for word in line.split(|c: char| !(c.is_alphanumeric() || matches!(c, '_' | '.'))).filter(|w| !w.is_empty()) {
        let word = word.trim_matches('.');
        let Some(value) = live.named(word) else { continue };
        let said = format!("{word}={}", value.said());
        if !out.contains(&said) {
            out.push(said);
        }
    }
    out
}

fn units(checked: &Checked) -> impl Iterator<Item = &Unit> {
    checked.project().units()
}

/// What is known of a scan, for one unit; only programs have values that can be told apart.
fn live_of<'l>(live: Option<&'l Live<'l>>, unit: &Unit) -> Option<Live<'l>> {
    let live = live.filter(|_| unit.kind == crate::model::UnitKind::Program)?;
    Some(live.of_program(&unit.name.text))
}

/// Draws a project as SVG: all units one under another.
#[must_use]
pub fn draw(checked: &Checked, page: Page, live: Option<&Live<'_>>) -> String {
    pages(checked, page, u32::MAX, live).swap_remove(0)
}

/// As [`draw`], on as many pages as it takes, none taller than so many pixels unless a single network is. A unit that goes on
/// on another page has its name there once more.
#[must_use]
pub fn pages(checked: &Checked, page: Page, tallest: u32, live: Option<&Live<'_>>) -> Vec<String> {
    let tallest = f64::from(tallest);
    let mut out = Vec::new();
    let (mut picture, mut y) = (Picture::new(), TOP);
    for unit in units(checked) {
        let live = live_of(live, unit);
        let drawn = unit_pictures(unit, page.characters(), live.as_ref(), Room { tallest, y });
        for (number, (drawn, turns)) in drawn.into_iter().enumerate() {
            if number > 0 || turns {
                out.push(std::mem::replace(&mut picture, Picture::new()));
                y = TOP;
            }
            let height = drawn.height;
            picture.place(drawn, 12.0, y, 1.0);
            y += height + 20.0;
        }
    }
    out.push(picture);
    out.into_iter().map(|picture| picture.document(f64::from(page.width) - 12.0)).collect()
}

/// Where a page begins.
const TOP: f64 = 10.0;

/// How tall a page may be, and how far down it is.
#[derive(Clone, Copy)]
struct Room {
    tallest: f64,
    y: f64,
}

fn heading(picture: &mut Picture, text: &str, width: f64) {
    picture.frame((0.0, 0.0), (width, 24.0), 4.0, "#e8eff4", Ink::Title);
    picture.text(10.0, 12.0, text, Ink::Title);
}

/// A unit, in pieces for a page each; with each whether it begins a page.
fn unit_pictures(unit: &Unit, characters: usize, live: Option<&Live<'_>>, room: Room) -> Vec<(Picture, bool)> {
    let mut title = format!("{} {}", unit.kind.word(), unit.name.text);
    if let Some(live) = live {
        title.push_str(&format!("   after {}", live.caption));
    }
    let begun = |title: &str| {
        let mut picture = Picture::new();
        heading(&mut picture, title, characters as f64 * CHAR);
        picture
    };
    let mut out = Vec::new();
    let (mut picture, mut y, mut left, mut turns) = (begun(&title), 36.0, room.tallest - room.y, false);
    let parts = parts(unit);
    let elsewhere = references::elsewhere(&parts.iter().map(Part::uses).collect::<Vec<_>>());
    for (number, (part, elsewhere)) in parts.iter().zip(&elsewhere).enumerate() {
        let drawn = network_picture(part, number, elsewhere, characters, live, &Marks::default());
        let is_first = y == 36.0;
        if y + drawn.height > left && (!is_first || (out.is_empty() && !turns && room.y > TOP)) {
            if !is_first {
                let next = begun(&format!("{title}, continued"));
                out.push((std::mem::replace(&mut picture, next), turns));
            }
            (y, left, turns) = (36.0, room.tallest, true);
        }
        let height = drawn.height;
        picture.place(drawn, 0.0, y, 1.0);
        y += height + 18.0;
    }
    out.push((picture, turns));
    out
}

/// A network with its number, title, label, and what its variables do elsewhere.
fn network_picture(
    part: &Part<'_>,
    number: usize,
    elsewhere: &[String],
    characters: usize,
    live: Option<&Live<'_>>,
    marks: &Marks,
) -> Picture {
    let mut picture = Picture::new();
    let width = characters as f64 * CHAR;
    picture.line((0.0, 0.0), (width, 0.0), Ink::Off);
    let label = part.label().map_or(String::new(), |l| format!("  {l}:"));
    picture.text(0.0, 11.0, &format!("{}{label}", number + 1), Ink::Title);
    let indent = (label.chars().count() as f64 + 5.0) * CHAR;
    let mut y = 11.0;
    for comment in part.title() {
        for line in wrapped(&comment.text, (characters as f64 * 0.92) as usize - label.chars().count() - 6) {
            picture.text(indent, y, &line, Ink::Title);
            y += LINE;
        }
    }
    y = y.max(11.0 + LINE) + 2.0;
    let drawn = part.draw(number, characters, live, marks);
    let height = drawn.height;
    picture.place(drawn, 0.0, y - LINE / 2.0, 1.0);
    y += height + 4.0;
    if !elsewhere.is_empty() {
        for line in wrapped(&elsewhere.join("; "), (characters as f64 * 1.1) as usize - 4) {
            picture.text(indent, y, &line, Ink::Note);
            y += LINE - 3.0;
        }
    }
    picture
}

fn wrapped(text: &str, width: usize) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    for word in text.split_whitespace() {
        match out.last_mut().filter(|l| l.chars().count() + word.chars().count() < width) {
            Some(line) => {
                line.push(' ');
                line.push_str(word);
            }
            None => out.push(word.to_string()),
        }
    }
    out
}

/// Draws two versions side by side, unit by unit and network by network. Networks stand beside each other when they
/// have the same title; those between are paired in order. What changed is marked where both are in one language.
#[must_use]
pub fn beside(changes: &Changes, left: &Checked, right: &Checked, names: [&str; 2], page: Page) -> String {
    let marks = [0, 1].map(|side| Marks::of(changes, side));
    let half = f64::from(page.width.max(400)) / 2.0 - 16.0;
    let characters = (half / CHAR) as usize;
    let mut picture = Picture::new();
    let mut y = 10.0;
    for unit in units(left) {
        let partner = changes.units.iter().find(|change| change.names[0].as_ref().is_some_and(|n| unit.name.is(n)));
        let partner = partner.and_then(|change| change.names[1].as_ref());
        let Some(other) = units(right).find(|u| partner.is_some_and(|name| u.name.is(name))) else { continue };
        for (x, name, unit) in [(12.0, names[0], unit), (20.0 + half, names[1], other)] {
            let mut head = Picture::new();
            heading(&mut head, &format!("{name}   {} {}", unit.kind.word(), unit.name.text), half - 8.0);
            picture.place(head, x, y, 1.0);
        }
        y += 34.0;
        let (a, b) = (parts(unit), parts(other));
        let cross = |p: &[Part<'_>]| references::elsewhere(&p.iter().map(Part::uses).collect::<Vec<_>>());
        let (cross_a, cross_b) = (cross(&a), cross(&b));
        for (i, j) in pairs(&a, &b) {
            let mut tallest: f64 = 0.0;
            for (x, part, cross, marks) in [
                (12.0, i.map(|i| (i, &a[i])), &cross_a, &marks[0]),
                (20.0 + half, j.map(|j| (j, &b[j])), &cross_b, &marks[1]),
            ] {
                let Some((number, part)) = part else { continue };
                let drawn = network_picture(part, number, &cross[number], characters, None, marks);
                let scale = ((half - 8.0) / drawn.width).min(1.0);
                tallest = tallest.max(drawn.height * scale);
                picture.place(drawn, x, y, scale);
            }
            y += tallest + 18.0;
        }
    }
    picture.document(f64::from(page.width) - 12.0)
}

/// Networks that stand beside each other.
fn pairs(a: &[Part<'_>], b: &[Part<'_>]) -> Vec<(Option<usize>, Option<usize>)> {
    let title = |p: &Part<'_>| p.title().first().map(|c| c.text.clone());
    let mut out = Vec::new();
    let (mut i, mut j) = (0, 0);
    while i < a.len() || j < b.len() {
        let here = a.get(i).and_then(title);
        let there = b.get(j).and_then(title);
        let later_right = here.as_ref().and_then(|t| (j..b.len()).find(|n| title(&b[*n]).as_ref() == Some(t)));
        let later_left = there.as_ref().and_then(|t| (i..a.len()).find(|n| title(&a[*n]).as_ref() == Some(t)));
        match (i < a.len(), j < b.len()) {
            (true, false) => out.push((Some(i), None)),
            (false, _) => out.push((None, Some(j))),
            // The right side has networks that belong to what is above.
            (true, true) if later_right.is_some_and(|n| n > j) => {
                out.push((None, Some(j)));
                j += 1;
                continue;
            }
            (true, true) if later_left.is_some_and(|n| n > i) => {
                out.push((Some(i), None));
                i += 1;
                continue;
            }
            (true, true) => out.push((Some(i), Some(j))),
        }
        i += usize::from(i < a.len());
        j += usize::from(j < b.len());
    }
    out
}
