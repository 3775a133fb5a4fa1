//! Instruction lists as structured text.

use super::{Row, hold};
use honest_twin::lang::Language;

const TEXTS: &[Row] = &[
    (
        "load and store",
        "LD Low
ST Valve",
        "
    Valve := Low;",
    ),
    (
        "store negated",
        "LD Low
STN Valve",
        "
    Valve := NOT Low;",
    ),
    (
        "load negated",
        "LDN Low
ST Valve",
        "
    Valve := NOT Low;",
    ),
    (
        "a chain",
        "LD Low
AND High
ANDN Rinse
ST Valve",
        "
    Valve := Low AND High AND NOT Rinse;",
    ),
    (
        "stored twice",
        "LD Low
ST Valve
ST Alarm",
        "
    Valve := Low;
    Alarm := Low;",
    ),
    (
        "stored in the middle",
        "LD Low
ST Valve
AND High
ST Alarm",
        "
    Valve := Low;
    Alarm := Low AND High;",
    ),
    (
        "or behind and takes all that is before it",
        "LD Low
AND High
OR Rinse
ST Valve",
        "
    Valve := (Low AND High) OR Rinse;",
    ),
    (
        "and behind or takes all that is before it",
        "LD Low
OR High
AND Rinse
ST Valve",
        "
    Valve := (Low OR High) AND Rinse;",
    ),
    (
        "brackets",
        "LD Low
AND( High
OR Rinse
)
ST Valve",
        "
    Valve := Low AND (High OR Rinse);",
    ),
    (
        "negated brackets",
        "LD Low
ANDN( High
OR Rinse
)
ST Valve",
        "
    Valve := Low AND NOT (High OR Rinse);",
    ),
    (
        "brackets in brackets",
        "LD Low
OR( High
AND( Rinse
ORN Ack
)
)
ST Valve",
        "
    Valve := Low OR (High AND (Rinse OR NOT Ack));",
    ),
    (
        "NOT of the current result",
        "LD Low
AND High
NOT
ST Valve",
        "
    Valve := NOT (Low AND High);",
    ),
    (
        "exclusive or",
        "LD Low
XOR High
ST Valve",
        "
    Valve := Low XOR High;",
    ),
    (
        "set and reset",
        "LD Low
S Valve
LD High
R Valve",
        "
    IF Low THEN
        Valve := TRUE;
    END_IF;
    IF High THEN
        Valve := FALSE;
    END_IF;",
    ),
    (
        "set and reset of one result",
        "LD Low
S Valve
R Alarm",
        "
    IF Low THEN
        Valve := TRUE;
        Alarm := FALSE;
    END_IF;",
    ),
    (
        "comparisons",
        "LD Flow
GT 12
ST Valve
LD Level
LE Flow
ST Alarm",
        "
    Valve := Flow > 12;
    Alarm := Level <= Flow;",
    ),
    (
        "a comparison within",
        "LD Low
AND( Flow
GE 3
)
ST Valve",
        "
    Valve := Low AND (Flow >= 3);",
    ),
    (
        "arithmetic",
        "LD Flow
ADD Level
SUB 3
MUL Size
ST Sum",
        "
    Sum := (Flow + Level - 3) * Size;",
    ),
    (
        "arithmetic in brackets",
        "LD Flow
SUB( Level
ADD 2
)
ST Sum",
        "
    Sum := Flow - (Level + 2);",
    ),
    (
        "remainder",
        "LD Flow
MOD 7
ST Sum",
        "
    Sum := Flow MOD 7;",
    ),
    (
        "a value that changes between",
        "LD Count
ADD 1
ST Count
GT 5
ST Alarm",
        "
    Count := Count + 1;
    Alarm := Count > 5;",
    ),
    (
        "what was stored stands for what it was computed from",
        "LD Flow
ADD Sum
ST Count
LD Level
ST Sum
LD Count
GT Sum
ST Alarm",
        "
    Count := Flow + Sum;
    Sum := Level;
    Alarm := Count > Sum;",
    ),
    (
        "a function of the current result",
        "LD Flow
ABS
ST Sum",
        "
    Sum := ABS(Flow);",
    ),
    (
        "a function with more inputs",
        "LD 0
LIMIT Flow, 100
ST Sum",
        "
    Sum := LIMIT(0, Flow, 100);",
    ),
    (
        "a conversion",
        "LD Flow
INT_TO_REAL
DIV 2.0
ST Mean",
        "
    Mean := INT_TO_REAL(Flow) / 2.0;",
    ),
    (
        "a timer called",
        "CAL Soak(IN := Low, PT := T#5s)
LD Soak.Q
ST Valve",
        "
    Soak(IN := Low, PT := T#5s);
    Valve := Soak.Q;",
    ),
    (
        "a timer called with a list as input",
        "CAL Soak(
IN := (
LD Low
ANDN High
),
PT := T#5s
)
LD Soak.Q
ST Valve",
        "
    Soak(IN := Low AND NOT High, PT := T#5s);
    Valve := Soak.Q;",
    ),
    (
        "a timer by its input operators",
        "LD T#5s
PT Soak
LD Low
IN Soak
LD Soak.Q
ST Valve",
        "
    Soak(PT := T#5s);
    Soak(IN := Low);
    Valve := Soak.Q;",
    ),
    (
        "a counter by its input operators",
        "LD 6
PV Shots
LD Ack
R Shots
LD Rinse
CU Shots
LD Shots.Q
ST Alarm",
        "
    Shots(PV := 6);
    Shots(R := Ack);
    Shots(CU := Rinse);
    Alarm := Shots.Q;",
    ),
    (
        "a latch by its input operators",
        "LD High
R Latch
LD Low
S1 Latch
LD Latch.Q1
ST Valve",
        "
    Latch(R := High);
    Latch(S1 := Low);
    Valve := Latch.Q1;",
    ),
    (
        "a call on a condition",
        "LD Low
CALC Shots(CU := Rinse, R := Ack, PV := 3)",
        "
    IF Low THEN
        Shots(CU := Rinse, R := Ack, PV := 3);
    END_IF;",
    ),
    (
        "a call on a condition that fails",
        "LD Low
CALCN Shots(CU := Rinse, R := Ack, PV := 3)",
        "
    IF NOT Low THEN
        Shots(CU := Rinse, R := Ack, PV := 3);
    END_IF;",
    ),
    (
        "a bit result goes into a number's choice",
        "LD Low
SEL Flow, Level
ST Sum",
        "
    Sum := SEL(Low, Flow, Level);",
    ),
    (
        "elements of arrays",
        "LD Tank[2]
ST Sum
LD Flow
ST Tank[i]",
        "
    Sum := Tank[2];
    Tank[i] := Flow;",
    ),
    (
        "comments stay where they are",
        "(* The valve *)
LD Low (* float *)
ANDN High // stands high
ST Valve

(* The alarm *)
LD High
ST Alarm",
        "
    (* The valve *)
    (* float *)
    // stands high
    Valve := Low AND NOT High;

    (* The alarm *)
    Alarm := High;",
    ),
    (
        "shifting",
        "LD Marks
SHL 2
ST Bits",
        "
    Bits := SHL(Marks, 2);",
    ),
    (
        "words",
        "LD Marks
AND 16#00FF
OR 16#0100
ST Bits",
        "
    Bits := (Marks AND 16#00FF) OR 16#0100;",
    ),
    (
        "times",
        "LD Span
SUB T#2s
ST Left",
        "
    Left := Span - T#2s;",
    ),
    (
        "a result that is loaded over",
        "LD Low
AND High
LD Rinse
ST Valve",
        "
    Valve := Rinse;",
    ),
];

#[test]
fn lists_as_texts() {
    hold(TEXTS, Language::Il, Language::St);
}
