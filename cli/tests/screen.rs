//! `try` on a full screen: keys into a pseudo-terminal, the screen read back as text.
#![cfg(unix)]
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use portable_pty::{Child, CommandBuilder, PtyPair, PtySize, native_pty_system};
use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().to_path_buf()
}

fn sized(lines: u16) -> std::num::NonZero<u16> {
    std::num::NonZero::new(lines).unwrap()
}

/// A program in a terminal of its own.
struct Terminal {
    pair: PtyPair,
    child: Box<dyn Child + Send + Sync>,
    keys: Box<dyn Write + Send>,
    screen: Arc<Mutex<vt100::Parser>>,
}

impl Terminal {
    fn open(args: &[&str], rows: u16, cols: u16, env: &[(&str, &str)]) -> Terminal {
        let size = PtySize { rows, cols, pixel_width: 0, pixel_height: 0 };
        let pair = native_pty_system().openpty(size).unwrap();
        let mut command = CommandBuilder::new(env!("CARGO_BIN_EXE_honest-twin"));
        command.cwd(root());
        command.arg("try");
        command.args(args);
        command.env("TERM", "xterm-256color");
        command.env_remove("NO_COLOR");
        env.iter().for_each(|(name, value)| command.env(name, value));
        let child = pair.slave.spawn_command(command).unwrap();
        let mut output = pair.master.try_clone_reader().unwrap();
        let keys = pair.master.take_writer().unwrap();
        let screen = Arc::new(Mutex::new(vt100::Parser::new(sized(rows), sized(cols), 0)));
        let seen = Arc::clone(&screen);
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count) = output.read(&mut bytes) {
                if count == 0 {
                    break;
                }
                seen.lock().unwrap().process(&bytes[..count]);
            }
        });
        Terminal { pair, child, keys, screen }
    }

    fn text(&self) -> String {
        self.screen.lock().unwrap().screen().contents()
    }

    /// Types keys, then waits until all parts are on the screen; gives it.
    fn see(&mut self, keys: &str, parts: &[&str]) -> String {
        self.keys.write_all(keys.as_bytes()).unwrap();
        self.keys.flush().unwrap();
        let begin = Instant::now();
        loop {
            let text = self.text();
            if parts.iter().all(|part| text.contains(part)) {
                return text;
            }
            assert!(begin.elapsed() < Duration::from_secs(20), "{keys:?}: {parts:?} are not on the screen\n{text}");
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// How it ended, after the last keys.
    fn end(&mut self, keys: &str) -> u32 {
        self.keys.write_all(keys.as_bytes()).unwrap();
        let begin = Instant::now();
        loop {
            if let Some(status) = self.child.try_wait().unwrap() {
                std::thread::sleep(Duration::from_millis(50));
                return status.exit_code();
            }
            assert!(begin.elapsed() < Duration::from_secs(20), "it goes on\n{}", self.text());
            std::thread::sleep(Duration::from_millis(20));
        }
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        let _ = self.child.kill();
    }
}

const DOWN: &str = "\x1b[B";
const LEFT: &str = "\x1b[D";
const RIGHT: &str = "\x1b[C";
const PAGE_DOWN: &str = "\x1b[6~";

#[test]
fn inputs_are_toggled_pressed_forced_and_time_goes_back() {
    let mut terminal = Terminal::open(&["demo/rinse.il"], 24, 80, &[]);
    // The keys stand on the last line, which is drawn last.
    let parts = ["rinse.il   power-up   0 scans   paused x1", "> LevelHigh", "RinseCount", "Enter act  ? keys"];
    let first = terminal.see("", &parts);
    assert_eq!(first.lines().count(), 24, "{first}");
    // The second input: a press of a tenth of a second.
    terminal.see(DOWN, &["> TestKey"]);
    terminal.see("p", &["90ms   10 scans", "RinsePump          on", "1 of 6"]);
    terminal.see("s", &["100ms   11 scans", "RinsePump          off"]);
    // Back into the press, and forward again.
    terminal.see(LEFT, &["90ms   10 scans", "(back in time)", "RinsePump          on"]);
    terminal.see(RIGHT, &["100ms   11 scans", "RinsePump          off"]);
    terminal.see(" ", &["TestKey is on from the next scan on"]);
    terminal.see("t", &["200ms   21 scans", "2 of 6"]);
    terminal.see("f", &["TestKey is held at on", "on   F"]);
    terminal.see("f", &["TestKey is held at off", "off  F"]);
    terminal.see("f", &["TestKey is held no more"]);
    // An act in words, with its name completed.
    terminal.see("\r", &["> "]);
    terminal.see("change RinseTime.P\t", &["RinseTime.PT RinseTime.Preset"]);
    terminal.see("T to 1s\r", &["RinseTime.PT is changed to 1s"]);
    terminal.see("?", &["toggle the chosen input", "the end"]);
    terminal.see("x", &["│change RinseTime.PT to 1s"]);
    assert_eq!(terminal.end("q"), 0);
    assert!(!terminal.screen.lock().unwrap().screen().alternate_screen(), "the terminal is left as it was");
    assert!(!terminal.screen.lock().unwrap().screen().hide_cursor());
}

#[test]
fn rungs_have_power_and_time_goes_by_the_clock() {
    let mut terminal = Terminal::open(&["demo/raceway.ld"], 40, 120, &[]);
    terminal.see("", &["raceway.ld: Raceway", "Each demand changes which blower is on duty"]);
    terminal.see(" s", &["├━━━┫P┣", "━━━━(●)━━━━┤", "BlowerB"]);
    terminal.see("s", &["┤P├"]);
    terminal.see(PAGE_DOWN, &["One dose for each press"]);
    terminal.see("/Horn\r", &["only rungs with Horn", "Beacon   Silent   Horn"]);
    terminal.see("\rshow all\r", &["Each demand changes"]);
    // A hundred times as fast as the clock: seconds go by in a moment, until it is paused.
    terminal.see("++++++g", &["goes x100"]);
    std::thread::sleep(Duration::from_millis(300));
    let text = terminal.see("g", &["paused x100"]);
    let scans: u64 = text
        .lines()
        .next()
        .unwrap()
        .split(" scans")
        .next()
        .unwrap()
        .split_whitespace()
        .next_back()
        .unwrap()
        .parse()
        .unwrap();
    assert!(scans > 100, "{text}");
    assert_eq!(terminal.end("q"), 0);
}

#[test]
fn two_versions_stand_side_by_side_and_stop_where_they_part() {
    let mut terminal = Terminal::open(&["demo/rinse.il", "--beside", "demo/rinse_by_hand.st"], 40, 120, &[]);
    terminal.see("", &["rinse.il beside rinse_by_hand.st", "rinse.il: DrumFilter", "rinse_by_hand.st: DrumFilter"]);
    terminal.see("\rpress TestKey 6 times, 50ms on, 50ms off\r", &["THE VERSIONS DIFFER: ServiceDue"]);
    terminal.see("x", &["2:ServiceDue", "paused"]);
    // The exit status says that something was found, by Ctrl-C as well.
    assert_eq!(terminal.end("\x03"), 1);
}

#[test]
fn narrow_resized_and_colourless_terminals_are_served() {
    let mut terminal = Terminal::open(&["demo/rinse.il"], 12, 40, &[("NO_COLOR", "1")]);
    terminal.see("", &["inputs", "> LevelHigh", "off"]);
    terminal.see("p", &["90ms   10 scans"]);
    terminal.pair.master.resize(PtySize { rows: 24, cols: 80, pixel_width: 0, pixel_height: 0 }).unwrap();
    terminal.screen.lock().unwrap().screen_mut().set_size(sized(24), sized(80));
    terminal.see("s", &["outputs, devices, watched", "RinsePump"]);
    let coloured = {
        let parser = terminal.screen.lock().unwrap();
        let screen = parser.screen();
        (0..24).any(|row| {
            (0..80).any(|column| screen.cell(row, column).is_some_and(|c| c.fgcolor() != vt100::Color::Default))
        })
    };
    assert!(!coloured, "no colour was wanted");
    terminal.pair.master.resize(PtySize { rows: 4, cols: 12, pixel_width: 0, pixel_height: 0 }).unwrap();
    terminal.screen.lock().unwrap().screen_mut().set_size(sized(4), sized(12));
    terminal.keys.write_all(b"sss").unwrap();
    std::thread::sleep(Duration::from_millis(200));
    assert_eq!(terminal.end("q"), 0);
}
