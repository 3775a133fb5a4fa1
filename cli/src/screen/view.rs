//! The screen as it is laid out. Power, values that are on, and what is forced are told by signs and weight; colour comes on top
//! of that, and stays away where it is not wanted.

use super::app::{App, Focus};
use super::strip::strip;
use honest_twin::model::{Value, format_duration};
use honest_twin::scan::{Direction, Moment};
use honest_twin::session::Stands;
use honest_twin::show::{self, Live, Row, Tone, Which};
use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Position, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::{Block, BorderType, Clear, Paragraph};

/// Columns of the lists on the left.
const LISTS: u16 = 32;

/// From this width on two versions stand side by side.
const BESIDE: u16 = 110;

/// Signals in the strip of time, at most.
const SIGNALS: u16 = 6;

fn style(tone: Tone) -> Style {
    let plain = Style::default();
    let coloured = |style: Style, colour: Color| if has_colour() { style.fg(colour) } else { style };
    match tone {
        Tone::Plain => plain,
        Tone::Title => plain.add_modifier(Modifier::BOLD),
        // Of the 256 colours those that stand out on white and on black.
        Tone::On => coloured(plain.add_modifier(Modifier::BOLD), Color::Indexed(166)),
        Tone::Off => plain.add_modifier(Modifier::DIM),
        Tone::Value => coloured(plain, Color::Indexed(31)),
    }
}

/// The convention of terminals: whoever sets NO_COLOR wants none.
fn has_colour() -> bool {
    std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty())
}

fn frame(title: &str, focused: bool) -> Block<'_> {
    let kind = if focused { BorderType::Thick } else { BorderType::Plain };
    Block::bordered().border_type(kind).title(Span::styled(format!(" {title} "), style(Tone::Title)))
}

/// Draws all of it.
pub(crate) fn draw(app: &mut App<'_>, frame: &mut Frame<'_>) {
    let area = frame.area();
    let small = area.width < 56 || area.height < 16;
    let strip = if small { 0 } else { SIGNALS.min(area.height / 5) + 1 };
    let [head, body, below, answer, foot] = Layout::vertical([
        Constraint::Length(1),
        Constraint::Min(3),
        Constraint::Length(strip),
        Constraint::Length(super::app::ANSWER as u16),
        Constraint::Length(1),
    ])
    .areas(area);
    header(app, frame, head);
    let stands = app.session.stands();
    if small {
        inputs(app, &stands, frame, body);
    } else {
        let [left, right] = Layout::horizontal([Constraint::Length(LISTS), Constraint::Min(20)]).areas(body);
        let count = app.inputs().len() as u16 + 2;
        let [above, under] =
            Layout::vertical([Constraint::Length(count.min(left.height / 2).max(3)), Constraint::Min(3)]).areas(left);
        inputs(app, &stands, frame, above);
        values(app, &stands, frame, under);
        rungs(app, frame, right);
        signals(app, frame, below);
    }
    // A long answer lies over the screen and need not begin here as well.
    let short = app.answer.iter().filter(|_| app.over.is_none()).take(super::app::ANSWER);
    let lines: Vec<Line<'_>> = short.map(|line| Line::raw(line.as_str())).collect();
    frame.render_widget(Paragraph::new(lines), answer);
    footer(app, frame, foot);
    over(app, frame, area);
}

fn header(app: &App<'_>, frame: &mut Frame<'_>, area: Rect) {
    let versions: Vec<&str> = app.session.versions().map(|version| version.name()).collect();
    let at = app.session.at().map_or("power-up".to_string(), |at| format_duration(at.0));
    let back = if app.session.is_back() { "  (back in time)" } else { "" };
    let stopped = if app.session.controller(0).is_stopped() { "  STOP" } else { "" };
    let text = format!(
        " {}   {at}   {} scans   {}{back}{stopped}",
        versions.join(" beside "),
        app.session.scans(),
        app.pace()
    );
    let line = Line::styled(
        format!("{text:<width$}", width = area.width as usize),
        Style::default().add_modifier(Modifier::REVERSED),
    );
    frame.render_widget(line, area);
}

fn footer(app: &App<'_>, frame: &mut Frame<'_>, area: Rect) {
    match &app.entry {
        Some(entry) => {
            frame.render_widget(Line::raw(format!("> {}", entry.text())), area);
            let column = area.x + 2 + entry.column() as u16;
            frame.set_cursor_position(Position::new(column.min(area.right().saturating_sub(1)), area.y));
        }
        None => {
            let keys = "space toggle  p press  f force  s scan  g go  left back  Enter act  ? keys";
            frame.render_widget(Line::styled(keys, style(Tone::Off)), area);
        }
    }
}

/// A value as a list shows it.
fn shown(value: &Value) -> (String, Tone) {
    match value {
        Value::Bool(true) => ("on".to_string(), Tone::On),
        Value::Bool(false) => ("off".to_string(), Tone::Off),
        other @ (Value::Time(_) | Value::Int(_) | Value::Real(_) | Value::Enum(..) | Value::Text(_)) => {
            (other.said(), Tone::Value)
        }
    }
}

/// A name cut to a width, filled with blanks.
fn fitted(text: &str, width: usize) -> String {
    let cut: String = if text.chars().count() > width {
        text.chars().take(width.saturating_sub(1)).chain(['…']).collect()
    } else {
        text.to_string()
    };
    format!("{cut:<width$}")
}

fn inputs(app: &App<'_>, stands: &Stands, frame: &mut Frame<'_>, area: Rect) {
    let block = self::frame("inputs", app.focus == Focus::Inputs);
    let inner = block.inner(area);
    let names = app.inputs();
    let visible = inner.height as usize;
    let first = app.chosen.saturating_sub(visible.saturating_sub(1));
    let is_closed = |name: &String| stands.points.iter().any(|p| p.what == "input" && p.name == *name && p.rests_on);
    let mut lines = Vec::new();
    let own =
        |name: &String| app.standing(name).and_then(|(.., address)| address).filter(|a| !a.eq_ignore_ascii_case(name));
    let addresses = names.iter().filter_map(own).map(|address| address.chars().count() + 1).max().unwrap_or(0).min(9);
    // How it is wired is told where one is closed at rest.
    let wired = if names.iter().any(is_closed) { 3 } else { 0 };
    for (number, name) in names.iter().enumerate().skip(first).take(visible) {
        let Some((value, forced, address)) = app.standing(name) else { continue };
        let (text, tone) = shown(&value);
        let mark = if number == app.chosen { ">" } else { " " };
        let room = (inner.width as usize).saturating_sub(9 + addresses + wired);
        let address = address.filter(|address| !address.eq_ignore_ascii_case(name)).unwrap_or_default();
        lines.push(Line::from(vec![
            Span::raw(format!("{mark} {} ", fitted(name, room))),
            Span::styled(fitted(&text, 5), style(tone)),
            Span::styled(if forced { "F" } else { " " }, style(Tone::Title)),
            Span::raw(fitted(if is_closed(name) { " NC" } else { "" }, wired)),
            Span::styled(format!(" {}", fitted(&address, addresses.saturating_sub(1))), style(Tone::Off)),
        ]));
    }
    frame.render_widget(Paragraph::new(lines).block(block), area);
}

/// Outputs, timers and counters, and what is watched; where versions differ both values.
fn values(app: &mut App<'_>, stands: &Stands, frame: &mut Frame<'_>, area: Rect) {
    let block = self::frame("outputs, devices, watched", app.focus == Focus::Values);
    let inner = block.inner(area);
    let width = inner.width as usize;
    let held = stands.held.iter().map(|held| Line::styled(held.clone(), style(Tone::Title)));
    let mut lines: Vec<Line<'_>> = held.collect();
    for point in stands.points.iter().filter(|point| point.what != "input") {
        let side = if point.side == 1 { "2:" } else { "" };
        let room = width.saturating_sub(12);
        let tone = match point.value.as_str() {
            "TRUE" => Tone::On,
            "FALSE" => Tone::Off,
            _ => Tone::Value,
        };
        let text = match point.value.as_str() {
            "TRUE" => "on",
            "FALSE" => "off",
            other => other.trim_start_matches("T#"),
        };
        lines.push(Line::from(vec![
            Span::raw(format!("{} ", fitted(&format!("{side}{}", point.name), room))),
            Span::styled(fitted(text, 10), style(tone)),
            Span::styled(if point.forced { "F" } else { "" }, style(Tone::Title)),
        ]));
    }
    for device in &stands.devices {
        let side = if device.side == 1 { "2:" } else { "" };
        let done = if device.done == Some(true) { "*" } else { " " };
        let room = (width / 2).saturating_sub(3);
        lines.push(Line::from(vec![
            Span::raw(format!("{}{done} ", fitted(&format!("{side}{}", device.name), room))),
            Span::styled(device.as_time.clone().unwrap_or_else(|| device.reading.clone()), style(Tone::Value)),
        ]));
    }
    let visible = inner.height as usize;
    app.values = app.values.min(lines.len().saturating_sub(visible));
    let shown: Vec<Line<'_>> = lines.into_iter().skip(app.values).take(visible).collect();
    frame.render_widget(Paragraph::new(shown).block(block), area);
}

fn rungs(app: &mut App<'_>, frame: &mut Frame<'_>, area: Rect) {
    let moments = app.session.moments().ok().flatten().map(<[Moment]>::to_vec);
    let several = app.session.versions().count() > 1;
    if several && area.width >= BESIDE - LISTS {
        let halves: [Rect; 2] = Layout::horizontal([Constraint::Fill(1), Constraint::Fill(1)]).areas(area);
        for (side, half) in halves.into_iter().enumerate() {
            rungs_of(app, frame, half, side, moments.as_deref());
        }
    } else {
        rungs_of(app, frame, area, app.side, moments.as_deref());
    }
}

fn rungs_of(app: &mut App<'_>, frame: &mut Frame<'_>, area: Rect, side: usize, moments: Option<&[Moment]>) {
    let name = app.session.versions().nth(side).map_or(String::new(), |version| version.name().to_string());
    let which = app.which(side);
    let unit = which.unit.clone().unwrap_or_default();
    let title = format!("{name}: {unit}");
    let block = self::frame(&title, app.focus == Focus::Rungs);
    let inner = block.inner(area);
    let rows = rows(app, side, &which, moments, inner);
    let line = |row: &Row| {
        let spans = row.pieces.iter().map(|(text, tone)| Span::styled(text.clone(), style(*tone)));
        Line::from(spans.collect::<Vec<_>>())
    };
    let lines: Vec<Line<'_>> = rows.iter().map(line).collect();
    frame.render_widget(Paragraph::new(lines).block(block), area);
}

/// The rows of the networks that there is room for, from the one that stands at the top.
fn rows(app: &mut App<'_>, side: usize, which: &Which, moments: Option<&[Moment]>, area: Rect) -> Vec<Row> {
    let Some(version) = app.session.versions().nth(side) else { return Vec::new() };
    let all = show::networks(version.checked(), which);
    let last = all.len().saturating_sub(1);
    let top = app.top.min(last);
    // A network is two rows at least.
    let chosen: Vec<usize> = all.into_iter().skip(top).take(area.height as usize / 2 + 1).collect();
    let which = Which { networks: Some(chosen), naming: None, ..which.clone() };
    let mut live = Live::new(app.session.controller(side), "");
    live.moment = moments.and_then(|moments| moments.get(side));
    let rows = show::rows(version.checked(), &which, Some(&live), area.width as usize);
    app.top = top;
    // The heading of the unit stands in the frame.
    rows.into_iter().skip(2).take(area.height as usize).collect()
}

/// What BOOLs did lately: outputs first, then the chosen input and the others.
fn signals(app: &App<'_>, frame: &mut Frame<'_>, area: Rect) {
    let until = app.session.scans();
    let from = until.saturating_sub(app.strip);
    let span = match (app.session.at(), from) {
        (Some(at), _) => format!("to {}", format_duration(at.0)),
        (None, _) => String::new(),
    };
    let rows = area.height.saturating_sub(1) as usize;
    let mut lines = vec![Line::styled(format!("the last {} scans {span}", until - from), style(Tone::Off))];
    let machine = app.session.controller(0).machine();
    let bools = |direction: Direction| -> Vec<String> {
        let points = machine.points_of(direction).filter(|(_, p)| p.ty.to_string() == "BOOL");
        points.map(|(_, point)| point.name.clone()).collect()
    };
    let mut names = bools(Direction::Output);
    let inputs = bools(Direction::Input);
    names.truncate(rows.saturating_sub(1).max(1));
    names.extend(app.inputs().get(app.chosen).filter(|name| inputs.contains(name)).cloned());
    names.extend(inputs.into_iter().filter(|name| !names.contains(name)).collect::<Vec<_>>());
    let width = (area.width as usize).saturating_sub(LISTS as usize / 2 + 1);
    for name in names.into_iter().take(rows) {
        let turns = app.session.strip(0, &name, from);
        let drawn = strip(&turns, from, until.max(from + 1), width);
        lines.push(Line::from(vec![Span::raw(format!("{} ", fitted(&name, LISTS as usize / 2))), Span::raw(drawn)]));
    }
    frame.render_widget(Paragraph::new(lines), area);
}

/// A long answer over the screen.
fn over(app: &App<'_>, frame: &mut Frame<'_>, area: Rect) {
    let Some(from) = app.over else { return };
    let width = app.answer.iter().map(|line| line.chars().count()).max().unwrap_or(0).max(20) as u16 + 4;
    let height = app.answer.len() as u16 + 2;
    let [_, middle, _] =
        Layout::horizontal([Constraint::Fill(1), Constraint::Length(width.min(area.width)), Constraint::Fill(1)])
            .areas(area);
    let [_, place, _] =
        Layout::vertical([Constraint::Fill(1), Constraint::Length(height.min(area.height)), Constraint::Fill(1)])
            .areas(middle);
    let lines: Vec<Line<'_>> = app.answer.iter().skip(from).map(|line| Line::raw(format!(" {line}"))).collect();
    frame.render_widget(Clear, place);
    let block = self::frame("a key goes on; up and down scroll", true);
    frame.render_widget(Paragraph::new(lines).block(block), place);
}
