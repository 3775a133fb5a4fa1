//! Random instruction lists with labels and jumps everywhere: whatever shape they have, the structured text does
//! the same in every scan.

use crate::common::{machine, trace, translated};
use fastrand::Rng;
use honest_twin::lang::Language;
use std::fmt::Write;

const HEAD: &str = "\
PROGRAM Feeder
VAR_INPUT
    a, b, c : BOOL;
    n : INT;
END_VAR
VAR_OUTPUT
    x, y, z : BOOL;
    i, j : INT;
    d : DINT;
END_VAR
VAR
    t : TON;
    e : R_TRIG;
    q : CTU;
    rounds : INT;
END_VAR
    LD      0
    ST      rounds
    LD      a
";

struct List {
    rng: Rng,
    out: String,
    labels: usize,
    /// The current result is BOOL; INT otherwise.
    bool_now: bool,
    /// Divisions by what may be zero.
    faults: bool,
}

impl List {
    fn line(&mut self, word: &str, operand: &str) {
        let _ = writeln!(self.out, "    {word:<7} {operand}");
    }

    fn pick(&mut self, of: &[&'static str]) -> &'static str {
        of[self.rng.usize(0..of.len())]
    }

    fn instruction(&mut self) {
        let bools = ["a", "b", "c", "x", "y", "z", "t.Q", "e.Q", "q.Q"];
        let ints = ["n", "i", "j", "q.CV", "3", "-2"];
        match self.rng.u8(0..16) {
            0 | 1 => {
                self.bool_now = true;
                let (word, operand) = (self.pick(&["LD", "LDN"]), self.pick(&bools));
                self.line(word, operand);
            }
            2 => {
                self.bool_now = false;
                // A literal would leave its type open, and what is stored or compared behind it is not always INT.
                let operand = self.pick(&ints[..4]);
                self.line("LD", operand);
            }
            3..=5 if self.bool_now => {
                let (word, operand) = (self.pick(&["AND", "OR", "XOR", "ANDN", "ORN"]), self.pick(&bools));
                if self.rng.u8(0..4) == 0 {
                    self.line(&format!("{word}("), operand);
                    let inner = self.pick(&bools);
                    self.line("AND", inner);
                    self.line(")", "");
                } else {
                    self.line(word, operand);
                }
            }
            3 | 4 => {
                let words: &[&'static str] =
                    if self.faults { &["ADD", "SUB", "MUL", "DIV"] } else { &["ADD", "SUB", "MUL"] };
                let (word, operand) = (self.pick(words), self.pick(&ints));
                self.line(word, operand);
            }
            5 => {
                let (word, operand) = (self.pick(&["GT", "LE", "EQ"]), self.pick(&ints));
                self.line(word, operand);
                self.bool_now = true;
            }
            6..=8 if self.bool_now => {
                let (word, operand) = (self.pick(&["ST", "ST", "STN", "S", "R"]), self.pick(&["x", "y", "z"]));
                self.line(word, operand);
            }
            6..=8 => {
                let operand = self.pick(&["i", "j", "d"]);
                self.line("ST", operand);
            }
            9 if self.bool_now => self.line("IN", "t"),
            10 if self.bool_now => {
                let word = self.pick(&["CALC", "CAL", "CALCN"]);
                self.line(word, "e(CLK := b)");
            }
            11 => self.line("CAL", "q(CU := x, R := c, PV := 3, CV => j)"),
            12 | 13 if self.bool_now => {
                let word = self.pick(&["JMPC", "JMPCN", "JMPC", "JMPCN", "JMP"]);
                let to = self.rng.usize(0..self.labels);
                self.line(word, &format!("L{to}"));
            }
            14 if self.bool_now && self.rng.u8(0..3) == 0 => {
                let word = self.pick(&["RETC", "RETCN"]);
                self.line(word, "");
            }
            _ if self.bool_now => self.line("NOT", ""),
            _ => self.line("MUL", "2"),
        }
    }
}

/// A list in which every label counts its rounds, so that no scan comes near the loop limit.
fn random(seed: u64) -> (String, String) {
    let mut rng = Rng::with_seed(seed);
    let labels = rng.usize(1..6);
    let mut list = List { rng, out: HEAD.to_string(), labels, bool_now: true, faults: seed.is_multiple_of(4) };
    for label in 0..labels {
        for _ in 0..list.rng.usize(1..7) {
            list.instruction();
        }
        // BOOL at every label, so that ways with different types do not meet.
        if !list.bool_now {
            list.line("GT", "1");
            list.bool_now = true;
        }
        let carries = list.rng.bool();
        let _ = writeln!(list.out, "L{label}:");
        if carries {
            list.line("ST", "z");
        }
        list.out.push_str(
            "    LD      rounds\n    ADD     1\n    ST      rounds\n    GT      6\n    RETC\n    LD      b\n",
        );
        if carries {
            list.line("OR", "z");
        }
    }
    for _ in 0..list.rng.usize(2..8) {
        list.instruction();
    }
    list.out.push_str("END_PROGRAM\n");
    let mut stimulus = "time_ms,a,b,c,n\n".to_string();
    for row in 0..40 {
        let _ = writeln!(
            stimulus,
            "{},{},{},{},{}",
            row * 10,
            list.rng.u8(0..2),
            list.rng.u8(0..2),
            list.rng.u8(0..2),
            list.rng.i8(-3..5)
        );
    }
    (list.out, stimulus)
}

#[test]
fn any_jumps_become_text_that_does_the_same() {
    let count = std::env::var("HONEST_TWIN_PROGRAMS").ok().and_then(|v| v.parse().ok()).unwrap_or(600);
    let mut steps = 0;
    for seed in 0..count {
        let (list, stimulus) = random(seed);
        let name = format!("seed {seed}");
        let original = trace(&machine(&name, &list, Language::Il), &stimulus, 50);
        let text = translated(&name, &list, Language::Il, Language::St);
        let as_text = trace(&machine(&name, &text, Language::St), &stimulus, 50);
        assert_eq!(original, as_text, "{name}: IL and ST\n{list}\n{text}");
        let again = translated(&name, &text, Language::St, Language::Il);
        assert_eq!(
            original,
            trace(&machine(&name, &again, Language::Il), &stimulus, 50),
            "{name}: and back\n{list}\n{text}\n{again}"
        );
        // Drawings take longer to lay out; some of the lists are enough.
        if seed.is_multiple_of(6) {
            for drawn in [Language::Ld, Language::Fbd] {
                let drawing = translated(&name, &list, Language::Il, drawn);
                let found = trace(&machine(&name, &drawing, drawn), &stimulus, 50);
                assert_eq!(original, found, "{name}: {}\n{list}\n{text}\n{drawing}", drawn.title());
            }
        }
        steps += u32::from(text.contains("CASE Step1 OF"));
    }
    println!("{count} lists; {steps} of them became a loop over numbered steps, the others have a shape");
}
