//! A drawing as SVG: what a pen of ours can do, and in which colours.

use crate::changes::LineState;
use svg::node::element::{Circle, Group, Line, Path, Rectangle, Text};
use svg::{Document, Node};

/// Width of a character and height of a line, in pixels.
pub(super) const CHAR: f64 = 7.4;
pub(super) const LINE: f64 = 17.0;
const SIZE: f64 = 12.2;
const FONT: &str = "DejaVu Sans Mono, Liberation Mono, Menlo, Consolas, monospace";

/// What something is drawn for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Ink {
    /// Lines and names of a drawing.
    Plain,
    /// What conducts.
    On,
    /// What does not, where the two are told apart.
    Off,
    /// Titles.
    Title,
    /// What is said about a drawing.
    Note,
    /// Values.
    Value,
}

impl Ink {
    const fn colour(self) -> &'static str {
        match self {
            Ink::Plain => "#22313a",
            Ink::On => "#a8480b",
            Ink::Off => "#9aa5ab",
            Ink::Title => "#12456b",
            Ink::Note => "#6b7780",
            Ink::Value => "#5a2d82",
        }
    }

    const fn weight(self) -> f64 {
        match self {
            Ink::On => 3.4,
            Ink::Off => 1.0,
            Ink::Plain | Ink::Title | Ink::Note | Ink::Value => 1.5,
        }
    }
}

/// A picture that grows downwards.
pub(super) struct Picture {
    group: Group,
    pub(super) width: f64,
    pub(super) height: f64,
}

impl Picture {
    pub(super) fn new() -> Picture {
        Picture { group: Group::new(), width: 0.0, height: 0.0 }
    }

    fn add(&mut self, node: impl Node, right: f64, bottom: f64) {
        self.group.append(node);
        self.width = self.width.max(right);
        self.height = self.height.max(bottom);
    }

    pub(super) fn line(&mut self, (x1, y1): (f64, f64), (x2, y2): (f64, f64), ink: Ink) {
        let line = Line::new()
            .set("x1", round(x1))
            .set("y1", round(y1))
            .set("x2", round(x2))
            .set("y2", round(y2))
            .set("stroke", ink.colour())
            .set("stroke-width", ink.weight());
        self.add(line, x1.max(x2), y1.max(y2));
    }

    pub(super) fn dot(&mut self, (x, y): (f64, f64), ink: Ink) {
        let radius = if ink == Ink::On { 3.4 } else { 2.6 };
        let circle = Circle::new().set("cx", round(x)).set("cy", round(y)).set("r", radius).set("fill", ink.colour());
        self.add(circle, x, y);
    }

    pub(super) fn ring(&mut self, (x, y): (f64, f64), ink: Ink) {
        let circle = Circle::new()
            .set("cx", round(x))
            .set("cy", round(y))
            .set("r", 3.4)
            .set("fill", "white")
            .set("stroke", ink.colour())
            .set("stroke-width", 1.5);
        self.add(circle, x, y);
    }

    /// A rectangle with round corners, filled if asked for.
    pub(super) fn frame(&mut self, (x, y): (f64, f64), (w, h): (f64, f64), radius: f64, fill: &str, ink: Ink) {
        let rectangle = Rectangle::new()
            .set("x", round(x))
            .set("y", round(y))
            .set("width", round(w))
            .set("height", round(h))
            .set("rx", radius)
            .set("fill", fill.to_string())
            .set("stroke", ink.colour())
            .set("stroke-width", if ink == Ink::On { 2.4 } else { 1.4 });
        self.add(rectangle, x + w, y + h);
    }

    /// The ground of something that changed: told by a heavy edge and a sign as well as by its colour.
    pub(super) fn changed(&mut self, (x, y): (f64, f64), (w, h): (f64, f64), state: LineState) {
        let (sign, fill, edge, dashes) = match state {
            LineState::Same => return,
            LineState::Changed => ("~", "#fbf1d8", "#8a6100", ""),
            LineState::Moved => (">", "#e6edf7", "#2d4f8a", "8 3"),
            LineState::Gone => ("-", "#f7e4dc", "#a8480b", "3 3"),
            LineState::New => ("+", "#def0ea", "#1d6b5c", ""),
        };
        let mut rectangle = Rectangle::new()
            .set("x", round(x))
            .set("y", round(y))
            .set("width", round(w))
            .set("height", round(h))
            .set("rx", 3)
            .set("fill", fill)
            .set("stroke", edge)
            .set("stroke-width", 2.6);
        if !dashes.is_empty() {
            rectangle = rectangle.set("stroke-dasharray", dashes);
        }
        self.add(rectangle, x + w, y + h);
        let text = Text::new(sign)
            .set("x", round(x + w + 2.0))
            .set("y", round(y + 10.0))
            .set("font-family", FONT)
            .set("font-size", SIZE + 3.0)
            .set("font-weight", "bold")
            .set("fill", edge);
        self.add(text, x + w + 12.0, y + h);
    }

    /// Paper over what lies below.
    pub(super) fn paper(&mut self, (x, y): (f64, f64), (w, h): (f64, f64)) {
        let rectangle = Rectangle::new()
            .set("x", round(x))
            .set("y", round(y))
            .set("width", round(w))
            .set("height", round(h))
            .set("fill", "white");
        self.add(rectangle, x + w, y + h);
    }

    /// A shape from corner to corner.
    pub(super) fn shape(&mut self, points: &[(f64, f64)], ink: Ink) {
        let steps: Vec<String> = points.iter().map(|(x, y)| format!("{} {}", round(*x), round(*y))).collect();
        let path = Path::new().set("d", format!("M {} Z", steps.join(" L "))).set("fill", ink.colour());
        self.add(path, 0.0, 0.0);
    }

    /// A text that begins at `x`, its middle at the height `y`.
    pub(super) fn text(&mut self, x: f64, y: f64, text: &str, ink: Ink) {
        self.set_text(x, y, text, ink, "start");
    }

    /// A text around `x`.
    pub(super) fn centred(&mut self, x: f64, y: f64, text: &str, ink: Ink) {
        self.set_text(x, y, text, ink, "middle");
    }

    fn set_text(&mut self, x: f64, y: f64, text: &str, ink: Ink, anchor: &str) {
        let size = match ink {
            Ink::Title => SIZE + 1.0,
            Ink::Note | Ink::Value => SIZE - 1.6,
            Ink::Plain | Ink::On | Ink::Off => SIZE,
        };
        let width = text.chars().count() as f64 * size * 0.603;
        // Blanks are kept by being none that could be folded.
        let node = Text::new(text.replace(' ', "\u{a0}"))
            .set("x", round(x))
            .set("y", round(y + size * 0.36))
            .set("font-family", FONT)
            .set("font-size", size)
            .set("font-weight", if ink == Ink::Title { "bold" } else { "normal" })
            .set("fill", ink.colour())
            .set("text-anchor", anchor.to_string());
        let right = if anchor == "start" { x + width } else { x + width / 2.0 };
        self.add(node, right, y + size);
    }

    /// A value in a tag of its own.
    pub(super) fn tag(&mut self, x: f64, y: f64, text: &str) {
        let width = text.chars().count() as f64 * (SIZE - 1.6) * 0.603 + 6.0;
        self.frame((x, y - 7.5), (width, 15.0), 4.0, "#f3ecf8", Ink::Value);
        self.text(x + 3.0, y, text, Ink::Value);
    }

    /// Puts another picture into this one.
    pub(super) fn place(&mut self, other: Picture, x: f64, y: f64, scale: f64) {
        let (right, bottom) = (x + other.width * scale, y + other.height * scale);
        let shift = format!("translate({} {}) scale({scale:.4})", round(x), round(y));
        self.add(other.group.set("transform", shift), right, bottom);
    }

    /// The document, on white, at least as wide as asked.
    pub(super) fn document(self, least: f64) -> String {
        let (width, height) = (self.width.max(least) + 12.0, self.height + 12.0);
        let ground = Rectangle::new().set("width", "100%").set("height", "100%").set("fill", "white");
        let document = Document::new()
            .set("viewBox", (0, 0, width.ceil() as i64, height.ceil() as i64))
            .set("width", width.ceil() as i64)
            .set("height", height.ceil() as i64)
            .add(ground)
            .add(self.group);
        document.to_string()
    }
}

fn round(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}
