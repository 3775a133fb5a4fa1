//! Instruction lists whose current result is needed longer than it is good.

use super::{Row, hold};
use honest_twin::lang::Language;

const CURRENTS: &[Row] = &[
    (
        "what it looks at is set while it is needed",
        "LD Alarm
AND Low
S Alarm
ST Valve",
        "
VAR_TEMP
Result1 : BOOL;
    Result1 := Alarm AND Low;
    IF Result1 THEN
        Alarm := TRUE;
    END_IF;
    Valve := Result1;
L01 exact",
    ),
    (
        "a store in the middle of a chain",
        "LD Count
ADD 1
ST Sum
MUL Count
ST Count
GT Sum
ST Alarm",
        "
    Sum := Count + 1;
    Count := Sum * Count;
    Alarm := Count > Sum;",
    ),
    (
        "a long result that is used twice",
        "LD Low
AND High
OR Rinse
AND Ack
ORN Low
ANDN High
OR Rinse
XOR Ack
AND Low
OR High
ANDN Rinse
OR Ack
S Valve
R Alarm
ST Heat",
        "
VAR_TEMP
Result1 : BOOL;
    Result1 := ((((((((((Low AND High) OR Rinse) AND Ack) OR NOT Low) AND NOT High) OR Rinse) XOR Ack) AND Low) OR High) AND NOT Rinse)
        OR Ack;
    IF Result1 THEN
        Valve := TRUE;
        Alarm := FALSE;
    END_IF;
    Heat := Result1;
L01 exact",
    ),
    (
        "a parenthesis that writes",
        "LD Low
AND( High
ST Mem
OR Rinse
)
ST Valve",
        "
VAR_TEMP
Result1 : BOOL;
    Result1 := Low;
    Mem := High;
    Valve := Result1 AND (High OR Rinse);
L01 exact",
    ),
    (
        "a parenthesis that sets",
        "LD Flow
ADD( Level
ST Sum
MUL 2
)
ST Count",
        "
VAR_TEMP
Result1 : INT;
    Result1 := Flow;
    Sum := Level;
    Count := Result1 + Level * 2;
L01 exact",
    ),
    (
        "a result that is kept through a call",
        "LD Low
OR High
CAL Soak(IN := Rinse, PT := T#1s)
AND Soak.Q
ST Valve",
        "
    Soak(IN := Rinse, PT := T#1s);
    Valve := (Low OR High) AND Soak.Q;",
    ),
    (
        "a result of what the call writes",
        "LD Soak.Q
ANDN Low
CAL Soak(IN := Rinse, PT := T#1s)
ST Valve",
        "
VAR_TEMP
Result1 : BOOL;
    Result1 := Soak.Q AND NOT Low;
    Soak(IN := Rinse, PT := T#1s);
    Valve := Result1;
L01 exact",
    ),
    (
        "a call on a condition that looks at itself",
        "LDN Soak.Q
AND Low
CALC Soak(IN := TRUE, PT := T#1s)
ST Valve",
        "
VAR_TEMP
Result1 : BOOL;
    Result1 := NOT Soak.Q AND Low;
    IF NOT Soak.Q AND Low THEN
        Soak(IN := TRUE, PT := T#1s);
    END_IF;
    Valve := Result1;
L01 exact",
    ),
    (
        "a label that nothing jumps to",
        "here:
LD Low
ST Valve",
        "
    Valve := Low;",
    ),
    (
        "set and reset of numbers by brackets",
        "LD Low
AND( Flow
GT( Level
ADD 1
)
)
S Valve",
        "
    IF Low AND (Flow > Level + 1) THEN
        Valve := TRUE;
    END_IF;",
    ),
    (
        "MOD and brackets",
        "LD Flow
MOD( Size
ADD 3
)
ST Sum",
        "
    Sum := Flow MOD (Size + 3);",
    ),
    (
        "comparing what is compared",
        "LD Flow
GT 3
EQ Low
ST Valve",
        "
    Valve := (Flow > 3) = Low;",
    ),
    (
        "a chain of conversions",
        "LD Flow
INT_TO_REAL
MUL 1.5
REAL_TO_INT
ST Sum",
        "
    Sum := REAL_TO_INT(INT_TO_REAL(Flow) * 1.5);",
    ),
    (
        "a function of a bracket",
        "LD Flow
ADD( Level
MAX 3
)
ST Sum",
        "
    Sum := Flow + MAX(Level, 3);",
    ),
    (
        "a negated store of a comparison",
        "LD Flow
GT 3
STN Valve",
        "
    Valve := NOT (Flow > 3);",
    ),
    (
        "a numbered element by a result",
        "LD Size
MOD 4
ST i
LD Tank[i]
ADD Flow
ST Tank[i]",
        "
    i := Size MOD 4;
    Tank[i] := Tank[i] + Flow;",
    ),
    (
        "a counter with a load",
        "CAL Stock(CD := Rinse, LD := Ack, PV := Size)
LD Stock.Q
ST Alarm
LD Stock.CV
ST Count",
        "
    Stock(CD := Rinse, LD := Ack, PV := Size);
    Alarm := Stock.Q;
    Count := Stock.CV;",
    ),
    (
        "an off-delay and a pulse",
        "CAL Drain(IN := Low, PT := T#3s)
CAL Puff(IN := Drain.Q, PT := T#1s)
LD Puff.Q
ANDN High
ST Valve",
        "
    Drain(IN := Low, PT := T#3s);
    Puff(IN := Drain.Q, PT := T#1s);
    Valve := Puff.Q AND NOT High;",
    ),
    (
        "an edge that falls",
        "CAL Gone(CLK := Low)
LD Gone.Q
S Alarm
LD Ack
R Alarm",
        "
    Gone(CLK := Low);
    IF Gone.Q THEN
        Alarm := TRUE;
    END_IF;
    IF Ack THEN
        Alarm := FALSE;
    END_IF;",
    ),
    (
        "a latch block that resets first",
        "CAL Hold(S := Low, R1 := High)
LD Hold.Q1
ST Heat",
        "
    Hold(S := Low, R1 := High);
    Heat := Hold.Q1;",
    ),
    (
        "a duration of a product",
        "LD Size
MUL 100
INT_TO_TIME
ST Left",
        "
    Left := INT_TO_TIME(Size * 100);",
    ),
    (
        "what is loaded is a constant",
        "LD TRUE
ST Valve
LD 16#F0
ST Sum",
        "
    Valve := TRUE;
    Sum := 16#F0;",
    ),
    (
        "nested brackets with a store behind",
        "LD Low
AND( High
OR( Rinse
AND Ack
)
)
S Valve
R Heat",
        "
    IF Low AND (High OR (Rinse AND Ack)) THEN
        Valve := TRUE;
        Heat := FALSE;
    END_IF;",
    ),
];

#[test]
fn long_results_as_texts() {
    hold(CURRENTS, Language::Il, Language::St);
}
