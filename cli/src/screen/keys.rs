//! The keys: what each does, in the order in which the help shows them. The help and the app have them from here.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

/// What a key is for, while no line is typed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Does {
    Up,
    Down,
    PageUp,
    PageDown,
    Focus,
    Toggle,
    Press,
    Hold,
    Drop,
    Force,
    Value,
    Scan,
    ManyScans,
    UntilChange,
    Go,
    Faster,
    Slower,
    BackScan,
    ForwardScan,
    BackAct,
    ForwardAct,
    Start,
    End,
    Line,
    Watch,
    Show,
    Unit,
    Other,
    Longer,
    Shorter,
    Help,
    Quit,
}

/// Each with its name on the keyboard and what it does.
pub(crate) const KEYS: &[(KeyCode, Does, &str, &str)] = &[
    (KeyCode::Char(' '), Does::Toggle, "space", "toggle the chosen input"),
    (KeyCode::Char('p'), Does::Press, "p", "press it for 100 ms"),
    (KeyCode::Char('h'), Does::Hold, "h", "hold it"),
    (KeyCode::Char('d'), Does::Drop, "d", "drop it"),
    (KeyCode::Char('f'), Does::Force, "f", "force it on, off, release it"),
    (KeyCode::Char('v'), Does::Value, "v", "give it a value"),
    (KeyCode::Char('s'), Does::Scan, "s", "one scan"),
    (KeyCode::Char('t'), Does::ManyScans, "t", "ten scans"),
    (KeyCode::Char('n'), Does::UntilChange, "n", "on until an output changes"),
    (KeyCode::Char('g'), Does::Go, "g", "go by the clock, and pause"),
    (KeyCode::Char('+'), Does::Faster, "+", "faster"),
    (KeyCode::Char('-'), Does::Slower, "-", "slower"),
    (KeyCode::Left, Does::BackScan, "left", "a scan back"),
    (KeyCode::Right, Does::ForwardScan, "right", "a scan forward again"),
    (KeyCode::Char('['), Does::BackAct, "[", "an act back"),
    (KeyCode::Char(']'), Does::ForwardAct, "]", "an act forward again"),
    (KeyCode::Home, Does::Start, "Home", "to power-up"),
    (KeyCode::End, Does::End, "End", "to where you have come"),
    (KeyCode::Tab, Does::Focus, "Tab", "inputs, values, rungs"),
    (KeyCode::Up, Does::Up, "up", "up in that list"),
    (KeyCode::Down, Does::Down, "down", "down"),
    (KeyCode::PageUp, Does::PageUp, "PgUp", "rungs before"),
    (KeyCode::PageDown, Does::PageDown, "PgDn", "rungs behind"),
    (KeyCode::Char('u'), Does::Unit, "u", "the next unit's rungs"),
    (KeyCode::Char('o'), Does::Other, "o", "the other version's rungs"),
    (KeyCode::Char('/'), Does::Show, "/", "only rungs with a name"),
    (KeyCode::Char('w'), Does::Watch, "w", "watch a name"),
    (KeyCode::Char('z'), Does::Longer, "z", "more time in the strip"),
    (KeyCode::Char('x'), Does::Shorter, "x", "less time in it"),
    (KeyCode::Enter, Does::Line, "Enter", "type an act (help: all)"),
    (KeyCode::Char('?'), Does::Help, "?", "these keys"),
    (KeyCode::Char('q'), Does::Quit, "q", "the end"),
];

/// What a key does.
pub(crate) fn does(key: &KeyEvent) -> Option<Does> {
    if is_end(key) {
        return Some(Does::Quit);
    }
    if key.modifiers.contains(KeyModifiers::CONTROL) {
        return None;
    }
    KEYS.iter().find(|(code, ..)| *code == key.code).map(|(_, does, ..)| *does)
}

/// Ctrl-C ends it everywhere.
pub(crate) fn is_end(key: &KeyEvent) -> bool {
    key.code == KeyCode::Char('c') && key.modifiers.contains(KeyModifiers::CONTROL)
}
