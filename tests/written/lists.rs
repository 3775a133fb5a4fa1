//! Structured text as instruction lists.

use super::{Row, hold};
use honest_twin::lang::Language;

const LISTS: &[Row] = &[
    (
        "a value",
        "Valve := Low;",
        "
    LD      Low
    ST      Valve",
    ),
    (
        "a negated value",
        "Valve := NOT Low;",
        "
    LDN     Low
    ST      Valve",
    ),
    (
        "a chain of one operator",
        "Valve := Low AND High AND Rinse;",
        "
    LD      Low
    AND     High
    AND     Rinse
    ST      Valve",
    ),
    (
        "negated operands have a letter of their own",
        "Valve := Low AND NOT High OR NOT Rinse;",
        "
    LD      Low
    ANDN    High
    ORN     Rinse
    ST      Valve",
    ),
    (
        "what binds weaker on the right is in brackets",
        "Valve := Low AND (High OR Rinse);",
        "
    LD      Low
    AND(    High
        OR      Rinse
    )
    ST      Valve",
    ),
    (
        "what binds weaker on the left is not",
        "Valve := (Low OR High) AND Rinse;",
        "
    LD      Low
    OR      High
    AND     Rinse
    ST      Valve",
    ),
    (
        "brackets within brackets",
        "Valve := Low OR High AND (Rinse OR Ack AND NOT Low);",
        "
    LD      Low
    OR(     High
        AND(    Rinse
            OR(     Ack
                ANDN    Low
            )
        )
    )
    ST      Valve",
    ),
    (
        "a negated bracket",
        "Valve := Low AND NOT (High OR Rinse);",
        "
    LD      Low
    ANDN(   High
        OR      Rinse
    )
    ST      Valve",
    ),
    (
        "exclusive or",
        "Valve := Low XOR High XOR NOT Rinse;",
        "
    LD      Low
    XOR     High
    XORN    Rinse
    ST      Valve",
    ),
    (
        "a comparison beside a contact",
        "Valve := Low AND Flow > 12;",
        "
    LD      Low
    AND(    Flow
        GT      12
    )
    ST      Valve",
    ),
    (
        "two comparisons",
        "Valve := Flow >= 3 AND Level < 9;",
        "
    LD      Flow
    GE      3
    AND(    Level
        LT      9
    )
    ST      Valve",
    ),
    (
        "comparing sums",
        "Valve := Flow + 1 <> Level - 2;",
        "
    LD      Flow
    ADD     1
    NE(     Level
        SUB     2
    )
    ST      Valve",
    ),
    (
        "arithmetic in a row",
        "Sum := Flow + Level - 3;",
        "
    LD      Flow
    ADD     Level
    SUB     3
    ST      Sum",
    ),
    (
        "products before sums",
        "Sum := Flow + Level * Size;",
        "
    LD      Flow
    ADD(    Level
        MUL     Size
    )
    ST      Sum",
    ),
    (
        "what is subtracted is a product",
        "Sum := Flow * 2 - Level / 3;",
        "
    LD      Flow
    MUL     2
    SUB(    Level
        DIV     3
    )
    ST      Sum",
    ),
    (
        "remainder",
        "Sum := Flow MOD 7;",
        "
    LD      Flow
    MOD     7
    ST      Sum",
    ),
    (
        "a minus",
        "Sum := -Flow;",
        "
    LD      Flow
    MUL     -1
    ST      Sum
L05 exact",
    ),
    (
        "a minus within",
        "Sum := Level - (-Flow);",
        "
    LD      Level
    SUB(    Flow
        MUL     -1
    )
    ST      Sum
L05 exact",
    ),
    (
        "powers of numbers with a point",
        "Mean := Share ** 2.0;",
        "
    LD      Share
    EXPT    2.0
    ST      Mean",
    ),
    (
        "times",
        "Left := Span - T#2s;",
        "
    LD      Span
    SUB     T#2s
    ST      Left",
    ),
    (
        "a time by a number",
        "Left := Span * 3;",
        "
    LD      Span
    MUL     3
    ST      Left",
    ),
    (
        "words",
        "Bits := Marks AND 16#00FF OR 16#0100;",
        "
    LD      Marks
    AND     16#00FF
    OR      16#0100
    ST      Bits",
    ),
    (
        "the complement of a word",
        "Bits := NOT Marks;",
        "
    LDN     Marks
    ST      Bits",
    ),
    (
        "a conversion",
        "Mean := INT_TO_REAL(Flow) / 2.0;",
        "
    LD      Flow
    INT_TO_REAL
    DIV     2.0
    ST      Mean",
    ),
    (
        "a conversion that nobody wrote",
        "Mean := Flow;",
        "
    LD      Flow
    ST      Mean",
    ),
    (
        "a function of one input",
        "Sum := ABS(Flow);",
        "
    LD      Flow
    ABS
    ST      Sum",
    ),
    (
        "a function of several inputs",
        "Sum := LIMIT(0, Flow, 100);",
        "
    LD      0
    LIMIT   Flow, 100
    ST      Sum",
    ),
    (
        "a function with names",
        "Sum := LIMIT(MN := 0, IN := Flow, MX := 100);",
        "
    LIMIT(MN := 0, IN := Flow, MX := 100)
    ST      Sum",
    ),
    (
        "a function of a sum",
        "Sum := MAX(Flow + 1, Level);",
        "
    LD      Flow
    ADD     1
    MAX     Level
    ST      Sum",
    ),
    (
        "functions within functions",
        "Sum := MIN(MAX(Flow, 0), Level);",
        "
    LD      Flow
    MAX     0
    MIN     Level
    ST      Sum",
    ),
    (
        "a choice",
        "Sum := SEL(Low, Flow, Level);",
        "
    LD      Low
    SEL     Flow, Level
    ST      Sum",
    ),
    (
        "one of several",
        "Sum := MUX(Size, Flow, Level, 7);",
        "
    LD      Size
    MUX     Flow, Level, 7
    ST      Sum",
    ),
    (
        "shifting",
        "Bits := SHL(Marks, 2);",
        "
    LD      Marks
    SHL     2
    ST      Bits",
    ),
    (
        "an element of an array",
        "Sum := Tank[2]; Tank[i MOD 4] := Flow;",
        "
    LD      Tank[2]
    ST      Sum
    LD      Flow
    ST      Tank[i MOD 4]",
    ),
    (
        "calling a timer",
        "Soak(IN := Low, PT := T#5s); Valve := Soak.Q;",
        "
    CAL     Soak(IN := Low, PT := T#5s)
    LD      Soak.Q
    ST      Valve",
    ),
    (
        "calling a timer with a condition",
        "Soak(IN := Low AND NOT High, PT := T#5s);",
        "
    CAL     Soak(
        IN := (
            LD      Low
            ANDN    High
        ),
        PT := T#5s
    )",
    ),
    (
        "what a call gives back",
        "Soak(IN := Low, PT := Span, Q => Valve, ET => Left);",
        "
    CAL     Soak(
        IN := Low,
        PT := Span,
        Q => Valve,
        ET => Left
    )",
    ),
    (
        "calling a counter",
        "Shots(CU := Rinse, R := Ack OR Low, PV := 6); Count := Shots.CV;",
        "
    CAL     Shots(
        CU := Rinse,
        R := (
            LD      Ack
            OR      Low
        ),
        PV := 6
    )
    LD      Shots.CV
    ST      Count",
    ),
    (
        "a latch block",
        "Latch(S1 := Low, R := High); Valve := Latch.Q1;",
        "
    CAL     Latch(S1 := Low, R := High)
    LD      Latch.Q1
    ST      Valve",
    ),
    (
        "edges",
        "Seen(CLK := Low); IF Seen.Q THEN Count := Count + 1; END_IF;",
        "
    CAL     Seen(CLK := Low)
    LD      Seen.Q
    JMPCN   EndIf1
    LD      Count
    ADD     1
    ST      Count
EndIf1:",
    ),
    (
        "setting an input of a block",
        "Soak.IN := Low; Soak(PT := T#1s);",
        "
    LD      Low
    ST      Soak.IN
    CAL     Soak(PT := T#1s)",
    ),
    (
        "shifts and masks",
        "Bits := (SHR(Marks, 8) AND 16#000F) XOR Bits;",
        "
    LD      Marks
    SHR     8
    AND     16#000F
    XOR     Bits
    ST      Bits",
    ),
    (
        "times that are compared",
        "Valve := Span >= T#1m30s;",
        "
    LD      Span
    GE      T#1m30s
    ST      Valve",
    ),
    (
        "a call within a decision",
        "IF Low THEN Shots(CU := Rinse, R := Ack, PV := 3); END_IF; Count := Shots.CV;",
        "
    LD      Low
    JMPCN   EndIf1
    CAL     Shots(CU := Rinse, R := Ack, PV := 3)
EndIf1:
    LD      Shots.CV
    ST      Count",
    ),
    (
        "several blocks",
        "Drain(IN := Low, PT := T#3s); Puff(IN := Drain.Q, PT := T#1s); Valve := Puff.Q AND NOT High;",
        "
    CAL     Drain(IN := Low, PT := T#3s)
    CAL     Puff(IN := Drain.Q, PT := T#1s)
    LD      Puff.Q
    ANDN    High
    ST      Valve",
    ),
    (
        "an element by a sum",
        "Tank[(i + 1) MOD 4] := Tank[i MOD 4] + 1;",
        "
    LD      Tank[i MOD 4]
    ADD     1
    ST      Tank[(i + 1) MOD 4]",
    ),
    (
        "comments",
        "(* The valve *)
Valve := Low; // float

(* The alarm *)
Alarm := High;",
        "
    (* The valve *)
    LD      Low
    ST      Valve  // float

    (* The alarm *)
    LD      High
    ST      Alarm",
    ),
];

#[test]
fn texts_as_lists() {
    hold(LISTS, Language::St, Language::Il);
}
