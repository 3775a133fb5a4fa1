//! Text in, values out: the library touches no files, no clock and no terminal. What people do with it:
//!
//! **Read and check** a program; every problem has a place, and what passes has a meaning.
//!
//! ```
//! use honest_twin::{Language, Source, check, read_project};
//!
//! let text = "PROGRAM Oxygen VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR Alarm := Lwo; END_PROGRAM";
//! let (project, problems) = read_project(vec![(Source::new("oxygen.st", text), Language::St)]);
//! assert!(!problems.has_errors());
//! let problems = check(project).unwrap_err();
//! let first = problems.0.first().unwrap();
//! assert_eq!((first.code.0, first.message.as_str()), ("C01", "unknown name `Lwo`"));
//! assert_eq!(first.help.as_deref(), Some("did you mean `Low`?"));
//! ```
//!
//! **Translate** it, with a ledger of what is not one to one.
//!
//! ```
//! use honest_twin::{Language, Source, check, read_project, translate};
//!
//! let text = "PROGRAM Oxygen\nVAR_INPUT Low, Quit : BOOL; END_VAR\nVAR_OUTPUT Alarm : BOOL; END_VAR\n\
//!             LD Low\nOR Alarm\nANDN Quit\nST Alarm\nEND_PROGRAM";
//! let (project, _) = read_project(vec![(Source::new("oxygen.il", text), Language::Il)]);
//! let written = translate(&check(project).unwrap(), Language::St).unwrap();
//! assert!(written.files[0].text.contains("Alarm := (Low OR Alarm) AND NOT Quit;"));
//! assert!(written.ledger.is_empty());
//! ```
//!
//! **Run** it scan by scan in virtual time.
//!
//! ```
//! use honest_twin::model::{Duration, Instant, Value};
//! use honest_twin::{Controller, Language, Machine, Source, check, read_project};
//!
//! let text = "PROGRAM Oxygen VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR VAR Late : TON; END_VAR
//!             Late(IN := Low, PT := T#3s); Alarm := Late.Q; END_PROGRAM";
//! let (project, _) = read_project(vec![(Source::new("oxygen.st", text), Language::St)]);
//! let mut controller = Controller::new(&Machine::new(&check(project).unwrap()).unwrap());
//! controller.set_named("Low", &Value::Bool(true)).unwrap();
//! for scan in 0..=300 {
//!     assert_eq!(controller.get_named("Alarm"), Ok(Value::Bool(false)));
//!     controller.scan(Instant(Duration::from_millis(10 * scan)));
//! }
//! assert_eq!(controller.get_named("Alarm"), Ok(Value::Bool(true)));
//! ```
//!
//! **Compare** two versions on scenarios, and **prove** what no scenario has parted.
//!
//! ```
//! use honest_twin::prove::{Means, prove};
//! use honest_twin::twin::Twin;
//! use honest_twin::{Effort, Language, Source, Verdict, Version, check, compare, read_project};
//!
//! let version = |name: &str, body: &str| {
//!     let text = format!(
//!         "PROGRAM Feeder VAR_INPUT Dose, Quit : BOOL; END_VAR VAR_OUTPUT Screw : BOOL; END_VAR {body} END_PROGRAM"
//!     );
//!     let (project, _) = read_project(vec![(Source::new(name, text), Language::St)]);
//!     Version::new(name, check(project).unwrap()).unwrap()
//! };
//! let old = version("old", "Screw := (Screw OR Dose) AND NOT Quit;");
//! let new = version("new", "IF Quit THEN Screw := FALSE; ELSIF Dose THEN Screw := TRUE; END_IF;");
//! let wrong = version("wrong", "IF Dose THEN Screw := TRUE; ELSIF Quit THEN Screw := FALSE; END_IF;");
//! assert!(matches!(compare(&old, &wrong, &Effort::default(), |_| ()), Verdict::Different(_)));
//! assert!(matches!(prove(&Twin::new(&old, &new), &Means::default(), |_| true), Verdict::Proved(_)));
//! ```
//!
#![doc = include_str!("../README.md")]
// Whoever adds an operation, a function, a kind of statement or of gate is led by the compiler to all who give it meaning.
#![deny(clippy::wildcard_enum_match_arm)]

pub mod changes;
pub mod check;
pub mod circuit;
pub mod dialect;
pub mod facts;
pub mod lang;
pub mod model;
pub mod protocol;
pub mod prove;
pub mod recheck;
pub mod scan;
pub mod session;
pub mod show;
pub mod source;
pub mod translate;
pub mod twin;

pub use check::{Checked, check};
pub use lang::{Language, read_project};
pub use scan::{Controller, Machine, ScanTime, Stimulus};
pub use source::Source;
pub use translate::translate;
pub use twin::{Effort, Verdict, Version, compare};
