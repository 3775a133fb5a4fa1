//! Runs an oxygen alarm in virtual time and prints what a keeper would have seen, minute by minute.
//!
//! `cargo run --example oxygen_alarm`
#![allow(clippy::print_stdout, reason = "an example prints")]

use honest_twin::check::check;
use honest_twin::lang::{Language, read_project};
use honest_twin::model::{Duration, Value};
use honest_twin::scan::{Clock, Controller, Machine, ScanTime};
use honest_twin::source::Source;

const ALARM: &str = "
PROGRAM OxygenAlarm
VAR_INPUT
    Oxygen : REAL := 9.0;      (* milligrams a litre *)
    Acknowledge : BOOL;
END_VAR
VAR_OUTPUT
    Blower : BOOL;             (* standby blower *)
    Pager : BOOL;
END_VAR
VAR
    Low : TON;
    VeryLow : TON;
END_VAR
    // The standby blower helps when the water has been poor for half a minute ...
    Low(IN := Oxygen < 7.0, PT := T#30s);
    IF Low.Q THEN Blower := TRUE; ELSIF Oxygen > 8.0 THEN Blower := FALSE; END_IF;
    // ... and the keeper is called when that does not help.
    VeryLow(IN := Blower AND (Oxygen < 6.0), PT := T#2m);
    Pager := (VeryLow.Q OR Pager) AND NOT Acknowledge;
END_PROGRAM
";

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let (project, problems) = read_project(vec![(Source::new("oxygen.st", ALARM), Language::St)]);
    assert!(!problems.has_errors());
    let checked = check(project).map_err(|p| p.0[0].message.clone())?;
    let machine = Machine::new(&checked)?;
    let mut controller = Controller::new(&machine);
    let time = ScanTime::Fixed(Duration::from_millis(100));
    let clock: Clock<'_> = time.clock();
    println!("{:>8} {:>8} {:>8} {:>6}", "time", "oxygen", "blower", "pager");
    let mut last = String::new();
    // An hour of hatchery, as fast as it computes.
    for at in clock.take_while(|at| at.0 < Duration::from_millis(3_600_000)) {
        let minutes = at.0.millis() as f64 / 60_000.0;
        let oxygen = 7.5 + 2.5 * (minutes / 9.0).cos();
        controller.set_named("Oxygen", &Value::Real(oxygen))?;
        controller.set_named("Acknowledge", &Value::Bool((40.0..40.1).contains(&minutes)))?;
        controller.scan(at);
        let seen = format!("{:>8} {:>6}", controller.get_named("Blower")?, controller.get_named("Pager")?);
        if seen != last {
            println!("{:>5}m{:02}s {oxygen:>8.2} {seen}", at.0.millis() / 60_000, at.0.millis() / 1000 % 60);
            last = seen;
        }
    }
    Ok(())
}
