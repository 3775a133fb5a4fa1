//! What is undone to explain a difference: in lists and ladders as well as in text, on either side; and differences that look
//! like a trap and are none, of which no trap is named.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::twin::{Effort, Hint, Twin, Verdict, compare_twin};

/// A pair: its language, variables, both bodies, the trap that is due, and words that its reason must have.
type Row = (Language, &'static str, [&'static str; 2], &'static [u8], &'static str);

const TIMER: &str = "VAR T : TON; END_VAR";
const COUNTER: &str = "VAR C : CTU; END_VAR";

const ROWS: &[Row] = &[
    // The same mistake in a list, and on the other side.
    (
        Language::Il,
        COUNTER,
        [
            "CAL C(CU := Low, R := Ack, PV := 3)\nLD C.CV\nEQ 3\nST Alarm\n",
            "CAL C(CU := Low, R := Ack, PV := 3)\nLD C.CV\nGE 3\nST Alarm\n",
        ],
        &[9],
        "`>=` in place of `=`",
    ),
    (Language::Il, "", ["LD Level\nGT 20\nST Alarm\n", "LD Level\nGE 20\nST Alarm\n"], &[20], "`>=` in place of `>`"),
    (
        Language::Il,
        TIMER,
        ["CAL T(IN := Low, PT := T#2s)\nLD T.Q\nST Alarm\n", "LD T.Q\nST Alarm\nCAL T(IN := Low, PT := T#2s)\n"],
        &[5],
        "in front of",
    ),
    (
        Language::Il,
        "VAR Mid : BOOL; END_VAR",
        ["LD Low\nAND Key\nST Mid\nLD Mid\nST Alarm\n", "LD Mid\nST Alarm\nLD Low\nAND Key\nST Mid\n"],
        &[22],
        "in front of",
    ),
    (
        Language::Il,
        "",
        ["LD Low\nS Alarm\nLD Ack\nR Alarm\n", "LD Ack\nR Alarm\nLD Low\nS Alarm\n"],
        &[13],
        "in front of",
    ),
    (
        Language::Il,
        TIMER,
        ["CAL T(IN := Low, PT := T#500ms)\nLD T.Q\nST Alarm\n", "CAL T(IN := Low, PT := T#5s)\nLD T.Q\nST Alarm\n"],
        &[1],
        "in place of",
    ),
    (
        Language::Il,
        "",
        ["LD Low\nST Alarm\nRET\nLD Key\nST Lamp\n", "LD Low\nST Alarm\nLD Key\nST Lamp\n"],
        &[23],
        "without the end",
    ),
    // In a ladder.
    (
        Language::Ld,
        "",
        [
            "\n    |  Low   Key   Alarm  |\n    +--| |---| |----( )---+\n",
            "\n    |  Low   Key   Alarm  |\n    +--| |---|/|----( )---+\n",
        ],
        &[14],
        "asked for the opposite",
    ),
    (
        Language::Ld,
        "",
        [
            "\n    |  Low   Alarm  |\n    +--| |----(S)---+\n\n    |  Ack   Alarm  |\n    +--| |----(R)---+\n",
            "\n    |  Ack   Alarm  |\n    +--| |----(R)---+\n\n    |  Low   Alarm  |\n    +--| |----(S)---+\n",
        ],
        &[13],
        "in front of",
    ),
    // In text: what decides, what is kept, what is called.
    (
        Language::St,
        "",
        ["IF Low THEN Dose := Level; END_IF;", "IF Low THEN Dose := Level; ELSE Dose := 0; END_IF;"],
        &[27],
        "ELSE",
    ),
    (
        Language::St,
        "VAR A : CTU; END_VAR",
        ["A(CU := Low, PV := 3); Dose := A.CV;", "A(CU := Low, PV := 3); Dose := MIN(A.CV, 3);"],
        &[8],
        "no more than its preset",
    ),
    (
        Language::St,
        "VAR N : INT; END_VAR",
        ["N := Level / 4; Dose := N;", "N := REAL_TO_INT(INT_TO_REAL(Level) / 4.0); Dose := N;"],
        &[28],
        "cut off",
    ),
    (
        Language::St,
        "VAR R : R_TRIG; END_VAR",
        [
            "R(CLK := Low); IF R.Q THEN Lamp := NOT Lamp; END_IF;",
            "IF Key THEN R(CLK := Low); IF R.Q THEN Lamp := NOT Lamp; END_IF; END_IF;",
        ],
        &[],
        "",
    ),
    // What looks like a trap, and is none.
    (
        Language::St,
        TIMER,
        ["T(IN := Low, PT := T#700ms); Alarm := T.Q;", "T(IN := Low, PT := T#900ms); Alarm := T.Q;"],
        &[],
        "",
    ),
    (Language::St, COUNTER, ["C(CU := Low, PV := 4); Alarm := C.Q;", "C(CU := Low, PV := 6); Alarm := C.Q;"], &[], ""),
    (Language::St, "", ["Alarm := Low AND Key;", "Alarm := Low AND Key AND Ack;"], &[], ""),
    (Language::St, "", ["Alarm := Level > 20;", "Alarm := Level > 35;"], &[], ""),
    (Language::St, "", ["Alarm := Low OR Key;", "Alarm := Low XOR Key;"], &[], ""),
    (Language::St, "", ["Dose := Level + 1;", "Dose := Level + 2;"], &[], ""),
    (Language::Il, "", ["LD Low\nOR Key\nST Alarm\n", "LD Low\nOR Ack\nST Alarm\n"], &[], ""),
];

fn hints(row: &Row) -> Vec<Hint> {
    let (language, vars, bodies, ..) = row;
    let points = "VAR_INPUT Low, Ack, Key : BOOL; Level : INT (0..100); END_VAR\nVAR_OUTPUT Alarm, Lamp : BOOL; Dose : INT; END_VAR";
    let [left, right] = [("old", bodies[0]), ("new", bodies[1])]
        .map(|(name, body)| version(name, &format!("PROGRAM P\n{points}\n{vars}\n{body}\nEND_PROGRAM\n"), *language));
    let verdict = compare_twin(&Twin::new(&left, &right), &Effort { faults: 0, ..Effort::default() }, |_| {});
    let Verdict::Different(d) = verdict else { panic!("{bodies:?}: {}", honest_twin::show::verdict(&verdict)) };
    d.explanation.hints
}

#[test]
fn the_mistake_is_named_and_nothing_else() {
    let mut wrong = Vec::new();
    for row in ROWS {
        let (language, vars, bodies, due, words) = row;
        // Whichever side has it.
        let mirrored = (*language, *vars, [bodies[1], bodies[0]], *due, *words);
        for row in [row, &mirrored] {
            let found = hints(row);
            let fits = match due {
                [] => found.is_empty(),
                due => {
                    found.first().is_some_and(|h| due.contains(&h.trap)) && found.iter().all(|h| due.contains(&h.trap))
                }
            };
            let told = found.iter().any(|h| h.why.contains(words)) || words.is_empty() || row.2[0] == bodies[1];
            if !fits || !told {
                wrong.push(format!("{:?}: {:?}", row.2, found.iter().map(|h| (h.trap, &h.why)).collect::<Vec<_>>()));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
