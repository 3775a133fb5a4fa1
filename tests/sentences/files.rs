//! Files, declarations and documents.

use super::{Row, document, file};

#[allow(clippy::too_many_lines, reason = "a table")]
pub(super) fn rows() -> Vec<Row> {
    vec![
        file(
            "FUNCTION Twice : INT\nVAR_INPUT a : INT; END_VAR\nTwice := 2 * a;\nEND_FUNCTION\nPROGRAM P\nVAR x : INT; END_VAR\nx := Twice(1, 2);\nEND_PROGRAM\n",
            &["7:6 error C06: `Twice` takes 1 input"],
        ),
        file(
            "FUNCTION_BLOCK Keep\nVAR_IN_OUT n : INT; END_VAR\nn := n + 1;\nEND_FUNCTION_BLOCK\nPROGRAM P\nVAR k : Keep; END_VAR\nk();\nEND_PROGRAM\n",
            &["7:1 error C06: `n` (VAR_IN_OUT) must be given"],
        ),
        file(
            "FUNCTION_BLOCK Keep\nVAR_IN_OUT n : INT; END_VAR\nn := n + 1;\nEND_FUNCTION_BLOCK\nPROGRAM P\nVAR k : Keep; d : DINT; END_VAR\nk(n := d);\nk(n := 3);\nEND_PROGRAM\n",
            &[
                "7:8 error C04: this is DINT, but exactly INT is needed",
                "8:1 error C06: `n` (VAR_IN_OUT) must be given",
                "8:8 error C07: a variable is needed here",
            ],
        ),
        file(
            "PROGRAM P\nVAR CONSTANT Most : INT := 5; END_VAR\nMost := 6;\nEND_PROGRAM\n",
            &["3:1 error C07: `Most` is a constant and cannot be written"],
        ),
        file(
            "FUNCTION_BLOCK Doser\nVAR_INPUT Go : BOOL; END_VAR\nGo := TRUE;\nEND_FUNCTION_BLOCK\nPROGRAM P\nVAR d : Doser; END_VAR\nd(Go := TRUE);\nEND_PROGRAM\n",
            &[
                "3:1 error C07: `Go` is an input and cannot be written here | copy it to a variable of its own, or declare it VAR_IN_OUT",
            ],
        ),
        file(
            "TYPE Phase : (Rest, Rinse); END_TYPE\nPROGRAM P\nVAR n : INT; END_VAR\nPhase := 3;\nn := TON;\nEND_PROGRAM\n",
            &[
                "4:1 error C01: unknown name `Phase` | declare it; `check --declare` writes the declaration of `Phase`",
                "5:6 error C01: `TON` is a FUNCTION_BLOCK, not a variable",
            ],
        ),
        file(
            "FUNCTION Twice\nVAR_INPUT a : INT; END_VAR\nEND_FUNCTION\nPROGRAM P\nEND_PROGRAM\n",
            &[
                "1:10 error R03: a function needs a type for its value | write `FUNCTION Twice : BOOL`, or make it a FUNCTION_BLOCK",
            ],
        ),
        file(
            "FUNCTION Twice : INT\nVAR RETAIN a : INT; END_VAR\nTwice := a;\nEND_FUNCTION\nPROGRAM P\nVAR x : INT; END_VAR\nx := Twice();\nEND_PROGRAM\n",
            &["2:1 error C07: a function keeps nothing from call to call, so nothing in it can be RETAIN"],
        ),
        file(
            "PROGRAM P\nVAR_EXTERNAL Sum : INT; END_VAR\nSum := 1;\nEND_PROGRAM\n",
            &["2:14 error C01: `Sum` is external, but no VAR_GLOBAL declares it"],
        ),
        file(
            "PROGRAM P\nVAR_INPUT n : INT R_EDGE; END_VAR\nVAR_OUTPUT o : BOOL; END_VAR\no := n > 0;\nEND_PROGRAM\n",
            &["2:11 error C04: R_EDGE and F_EDGE stand behind BOOL inputs of programs and function blocks"],
        ),
        file(
            "CONFIGURATION C\nPROGRAM One : P;\nEND_CONFIGURATION\nCONFIGURATION D\nPROGRAM Two : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
            &["4:15 error R06: more than one configuration is not supported"],
        ),
        file(
            "CONFIGURATION C\nTASK Fast(INTERVAL := T#10ms, PRIORITY := 1);\nPROGRAM One WITH Slow : P;\nPROGRAM Two WITH Fast : Q;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
            &["3:18 error C01: there is no task `Slow`", "4:25 error C01: there is no program `Q`"],
        ),
        file(
            "CONFIGURATION C\nTASK Alarm(SINGLE := TRUE, PRIORITY := 1);\nPROGRAM One WITH Alarm : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
            &["2:12 error R06: a task that waits for an event (SINGLE) is not supported"],
        ),
        file(
            "CONFIGURATION C\nTASK Fast(INTERVAL := T#0ms, PRIORITY := 1);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
            &[],
        ),
        file(
            "CONFIGURATION C\nRESOURCE R ON Main\nPROGRAM One : P;\nEND_RESOURCE\nRESOURCE S ON Other\nPROGRAM Two : P;\nEND_RESOURCE\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
            &[
                "5:1 error R06: more than one resource is not supported",
                "6:13 error R03: expected a value, found `:`",
                "7:1 error R03: expected a value, but `END_RESOURCE` is a word of the language",
            ],
        ),
        file(
            "CONFIGURATION C\nRINSE;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
            &["2:1 error R03: expected VAR_GLOBAL, RESOURCE, TASK, PROGRAM or END_CONFIGURATION, found `RINSE`"],
        ),
        file(
            "TYPE Dose : STRUCT Grams : INT; END_STRUCT END_TYPE\nPROGRAM P\nVAR d : Dose := (Kilos := 3); END_VAR\nd.Grams := 1;\nEND_PROGRAM\n",
            &[
                "1:43 error R03: expected `;` here, before `END_TYPE`",
                "3:18 error C01: there is no `Kilos` here | it has Grams",
            ],
        ),
        file(
            "TYPE Dose : STRUCT Next : Dose; END_STRUCT END_TYPE\nPROGRAM P\nVAR d : Dose; END_VAR\nEND_PROGRAM\n",
            &["1:6 error C03: type `Dose` contains itself", "1:43 error R03: expected `;` here, before `END_TYPE`"],
        ),
        file(
            "PROGRAM P\nVAR p : P; q : Blower; END_VAR\nEND_PROGRAM\n",
            &[
                "2:9 error C03: `P` is a PROGRAM, not a type",
                "2:16 error C03: there is no type or function block `Blower`",
            ],
        ),
        file(
            "FUNCTION_BLOCK A\nVAR b : B; END_VAR\nb();\nEND_FUNCTION_BLOCK\nFUNCTION_BLOCK B\nVAR a : A; END_VAR\na();\nEND_FUNCTION_BLOCK\nPROGRAM P\nVAR x : A; END_VAR\nx();\nEND_PROGRAM\n",
            &[
                "2:5 error C08: `B` reaches itself here | a controller has no recursion; use a loop",
                "6:5 error C08: `A` reaches itself here | a controller has no recursion; use a loop",
            ],
        ),
        file(
            "FUNCTION Twice : INT\nVAR_INPUT a : INT; END_VAR\nVAR b : INT; END_VAR\nb := a;\nEND_FUNCTION\nPROGRAM P\nVAR x : INT; END_VAR\nx := Twice(1);\nEND_PROGRAM\n",
            &["1:10 warning H02: function `Twice` never gets its value"],
        ),
        file(
            "PROGRAM P\nVAR_OUTPUT o, q : BOOL; END_VAR\nVAR n, m : INT; T : TON; END_VAR\no := m > 1 AND T.Q;\nEND_PROGRAM\n",
            &[
                "2:15 warning H02: output `q` is never written",
                "3:5 warning H01: `n` is never used",
                "3:8 warning H02: `m` is read but never written: it stays at its initial value",
                "3:17 warning H02: `T` is read but never called: its outputs stay at their initial values",
            ],
        ),
        file(
            "PROGRAM P\nVAR_OUTPUT o : BOOL; END_VAR\nVAR_INPUT a, b : BOOL; END_VAR\no := a;\no := b;\nEND_PROGRAM\n",
            &[
                "5:1 warning H04: output `o` is written in two places / first written here | in every scan the last write wins (trap 13)",
            ],
        ),
        file("CLASS Doser\nEND_CLASS\n", &["1:1 error R06: CLASS is not supported"]),
        file(
            "x := 1;\nPROGRAM P\nEND_PROGRAM\n",
            &[
                "1:1 error R07: `x` stands outside every unit | a file holds PROGRAM, FUNCTION, FUNCTION_BLOCK, TYPE, VAR_GLOBAL and CONFIGURATION",
            ],
        ),
        file("", &["1:1 error R03: this file declares nothing | is it the file that was meant?"]),
        file("(* only a comment *)\n", &["1:1 error R03: this file declares nothing | is it the file that was meant?"]),
        file("PROGRAM P\nVAR n : INT END_VAR\nEND_PROGRAM\n", &["2:12 error R03: expected `;` here, before `END_VAR`"]),
        file(
            "PROGRAM\nEND_PROGRAM\n",
            &["2:1 error R03: expected a name for the unit, but `END_PROGRAM` is a word of the language"],
        ),
        file("PROGRAM P\nVAR n INT; END_VAR\nEND_PROGRAM\n", &["2:7 error R03: expected `:` and a type, found `INT`"]),
        file(
            "PROGRAM P\nVAR_TEMP n : INT; END_VAR\nn := 1;\n",
            &["4:1 error R03: expected a statement or `END_PROGRAM`, found the end of the file"],
        ),
        file("INTERFACE Doser\nEND_INTERFACE\n", &["1:1 error R06: INTERFACE is not supported"]),
        document("<project>", &["1:1 error R09: this is no XML: the root node was opened but never closed"]),
        document(
            r#"<?xml version="1.0"?>
<other/>
"#,
            &["2:1 error R09: <other> is no project of the exchange format"],
        ),
        document(
            r#"<?xml version="1.0" encoding="utf-8"?>
<Project xmlns="www.iec.ch/public/TC65SC65BWG7TF10" schemaVersion="1"><FileHeader companyName="" productName="" productVersion=""/><ContentHeader name="x" creationDateTime="2026-01-01T00:00:00"/><Types><GlobalNamespace/></Types><Instances/></Project>
"#,
            &["2:1 error R09: <Project> is no project of the exchange format"],
        ),
    ]
}
