//! `try` on a full screen: the loop between keys, the clock and the session.

mod app;
mod entry;
mod keys;
mod strip;
mod view;

use crate::Outcome;
use crate::args::Try;
use app::{App, Flow};
use honest_twin::session::Session;
use ratatui::crossterm::event::{self, Event, KeyEventKind};
use std::time::{Duration, Instant};

/// Time from one picture to the next: fifty a second.
const FRAME: Duration = Duration::from_millis(20);

/// Drives a session from the keyboard. The terminal is left as it was, also after an error.
pub(crate) fn run(session: Session, args: &Try) -> Result<Outcome, String> {
    let mut app = App::new(session, args);
    let mut terminal =
        ratatui::try_init().map_err(|e| format!("this terminal has no full screen ({e}); try --lines"))?;
    let ended = go(&mut app, &mut terminal);
    ratatui::restore();
    // A terminal that was closed is a way to end.
    let _ = ended;
    Ok(if app.has_found() { Outcome::Found } else { Outcome::Done })
}

fn go(app: &mut App<'_>, terminal: &mut ratatui::DefaultTerminal) -> std::io::Result<()> {
    let mut before = Instant::now();
    loop {
        terminal.draw(|frame| view::draw(app, frame))?;
        let due = before + FRAME;
        let wait =
            if app.is_running() { due.saturating_duration_since(Instant::now()) } else { Duration::from_millis(250) };
        if event::poll(wait)? {
            match event::read()? {
                Event::Key(key) if key.kind != KeyEventKind::Release => {
                    if app.key(key) == Flow::Quit {
                        return Ok(());
                    }
                }
                Event::Key(_)
                | Event::Resize(..)
                | Event::FocusGained
                | Event::FocusLost
                | Event::Mouse(_)
                | Event::Paste(_) => {}
            }
        }
        let now = Instant::now();
        app.elapse(now.duration_since(before));
        before = now;
    }
}
