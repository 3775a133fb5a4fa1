//! Moves a feeder from instruction list to structured text, then asks whether two versions behave the same.
//!
//! `cargo run --example feeder_moves`
#![allow(clippy::print_stdout, reason = "an example prints")]

use honest_twin::check::{Checked, check};
use honest_twin::lang::{Language, read_project};
use honest_twin::show;
use honest_twin::source::Source;
use honest_twin::translate::translate;
use honest_twin::twin::{Effort, Version, compare};

const OLD: &str = "
PROGRAM Feeder
VAR_INPUT
    Daylight, Empty : BOOL;
    Size : INT;                (* of the fish, in centimetres *)
END_VAR
VAR_OUTPUT
    Screw : BOOL;
    Doses : INT;
END_VAR
VAR
    Pause, Dose : TON;
    Grams : INT;
END_VAR
    (* What a dose is *)
    LD      Size
    LT      8
    JMPC    Small
    LD      Size
    LT      20
    JMPC    Middle
    LD      12
    JMP     Known
Small:
    LD      2
    JMP     Known
Middle:
    LD      6
Known:
    ST      Grams

    (* A dose, then a pause of two seconds *)
    LD      Daylight
    ANDN    Empty
    ANDN    Dose.Q
    ST      Pause.IN
    LD      T#2s
    ST      Pause.PT
    CAL     Pause
    LD      Grams
    MUL     10
    INT_TO_TIME
    ST      Dose.PT
    LD      Pause.Q
    ST      Dose.IN
    CAL     Dose
    LD      Pause.Q
    ST      Screw
    LD      Dose.Q
    JMPCN   Done
    LD      Doses
    ADD     1
    ST      Doses
Done:
END_PROGRAM
";

fn read(name: &str, text: &str, language: Language) -> Result<Checked, String> {
    let (project, problems) = read_project(vec![(Source::new(name, text), language)]);
    if problems.has_errors() {
        return Err(format!("{problems:?}"));
    }
    check(project).map_err(|p| format!("{p:?}"))
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let old = read("feeder.il", OLD, Language::Il)?;
    let translation = translate(&old, Language::St).map_err(|e| format!("{e:?}"))?;
    let text = &translation.files[0].text;
    println!("{text}");
    println!("{}", show::ledger(&translation.ledger, old.project()));
    // A pause of one scan more: nobody would see it at the machine.
    let slower = text.replace("T#2s", "T#2010ms");
    let old = Version::new("feeder.il", old)?;
    for (name, text) in [("feeder.st", text.as_str()), ("feeder.st with a longer pause", &slower)] {
        let new = Version::new(name, read(name, text, Language::St)?)?;
        let effort = Effort { scenarios: 1_000, ..Effort::default() };
        println!("{}", show::verdict(&compare(&old, &new, &effort, |_| {})));
    }
    Ok(())
}
