//! Loops, decisions and longer expressions as instruction lists.

use super::{Row, hold};
use honest_twin::lang::Language;

const DECISIONS: &[Row] = &[
    (
        "IF around one coil",
        "IF Low THEN Valve := TRUE; END_IF;",
        "
    LD      Low
    S       Valve",
    ),
    (
        "IF around one coil that is cleared",
        "IF Low THEN Valve := FALSE; END_IF;",
        "
    LD      Low
    R       Valve",
    ),
    (
        "a latch of two IFs",
        "IF Low THEN Valve := TRUE; END_IF; IF High THEN Valve := FALSE; END_IF;",
        "
    LD      Low
    S       Valve
    LD      High
    R       Valve",
    ),
    (
        "IF and ELSE",
        "IF Low THEN Sum := Flow; ELSE Sum := Level; END_IF;",
        "
    LD      Low
    JMPCN   Else1
    LD      Flow
    ST      Sum
    JMP     EndIf1
Else1:
    LD      Level
    ST      Sum
EndIf1:",
    ),
    (
        "IF and ELSIF",
        "IF Low THEN Sum := 1; ELSIF High THEN Sum := 2; ELSE Sum := 3; END_IF;",
        "
    LD      Low
    JMPCN   Else1
    LD      1
    ST      Sum
    JMP     EndIf1
Else1:
    LD      High
    JMPCN   Else2
    LD      2
    ST      Sum
    JMP     EndIf1
Else2:
    LD      3
    ST      Sum
EndIf1:",
    ),
    (
        "IF within IF",
        "IF Low THEN IF High THEN Sum := 1; END_IF; Count := 2; END_IF;",
        "
    LD      Low
    JMPCN   EndIf1
    LD      High
    JMPCN   EndIf2
    LD      1
    ST      Sum
EndIf2:
    LD      2
    ST      Count
EndIf1:",
    ),
    (
        "a negated condition",
        "IF NOT (Low OR High) THEN Sum := 0; END_IF;",
        "
    LD      Low
    OR      High
    JMPC    EndIf1
    LD      0
    ST      Sum
EndIf1:",
    ),
    (
        "two coils of one condition",
        "Valve := Low OR High; Alarm := Valve;",
        "
    LD      Low
    OR      High
    ST      Valve
    LD      Valve
    ST      Alarm",
    ),
    (
        "one value to two variables",
        "Valve := Low; Alarm := Low;",
        "
    LD      Low
    ST      Valve
    LD      Low
    ST      Alarm",
    ),
    (
        "a counter by hand",
        "IF Rinse THEN Count := Count + 1; END_IF;",
        "
    LD      Rinse
    JMPCN   EndIf1
    LD      Count
    ADD     1
    ST      Count
EndIf1:",
    ),
    (
        "CASE over numbers",
        "CASE Size OF 1: Sum := 10; 2: Sum := 20; ELSE Sum := 0; END_CASE;",
        "
    LD      Size
    EQ      1
    JMPCN   Next1
    LD      10
    ST      Sum
    JMP     EndCase1
Next1:
    LD      Size
    EQ      2
    JMPCN   Next2
    LD      20
    ST      Sum
    JMP     EndCase1
Next2:
    LD      0
    ST      Sum
EndCase1:",
    ),
    (
        "CASE with ranges",
        "CASE Size OF 0..4: Sum := 1; 5, 7: Sum := 2; END_CASE;",
        "
    LD      Size
    GE      0
    AND(    Size
        LE      4
    )
    JMPCN   Next1
    LD      1
    ST      Sum
    JMP     EndCase1
Next1:
    LD      Size
    EQ      5
    OR(     Size
        EQ      7
    )
    JMPCN   EndCase1
    LD      2
    ST      Sum
EndCase1:",
    ),
    (
        "FOR",
        "Sum := 0; FOR i := 0 TO 3 DO Sum := Sum + Tank[i]; END_FOR;",
        "
    LD      0
    ST      Sum
    LD      0
    ST      i
For1:
    LD      i
    GT      3
    JMPC    EndFor1
    LD      Sum
    ADD     Tank[i]
    ST      Sum
    LD      i
    ADD     1
    ST      i
    JMP     For1
EndFor1:",
    ),
    (
        "FOR by steps down",
        "FOR i := 3 TO 0 BY -1 DO Tank[i] := i; END_FOR;",
        "
    LD      3
    ST      i
For1:
    LD      i
    LT      0
    JMPC    EndFor1
    LD      i
    ST      Tank[i]
    LD      i
    ADD     -1
    ST      i
    JMP     For1
EndFor1:",
    ),
    (
        "WHILE",
        "i := 0; WHILE i < 4 DO i := i + 1; END_WHILE;",
        "
    LD      0
    ST      i
While1:
    LD      i
    LT      4
    JMPCN   EndWhile1
    LD      i
    ADD     1
    ST      i
    JMP     While1
EndWhile1:",
    ),
    (
        "REPEAT",
        "i := 0; REPEAT i := i + 1; UNTIL i >= 4 END_REPEAT;",
        "
    LD      0
    ST      i
Repeat1:
    LD      i
    ADD     1
    ST      i
    LD      i
    GE      4
    JMPCN   Repeat1",
    ),
    (
        "EXIT",
        "FOR i := 0 TO 3 DO IF Tank[i] = 0 THEN EXIT; END_IF; END_FOR;",
        "
    LD      0
    ST      i
For1:
    LD      i
    GT      3
    JMPC    EndFor1
    LD      Tank[i]
    EQ      0
    JMPC    EndFor1
    LD      i
    ADD     1
    ST      i
    JMP     For1
EndFor1:",
    ),
    (
        "RETURN",
        "IF Low THEN RETURN; END_IF; Valve := High;",
        "
    LD      Low
    RETC
    LD      High
    ST      Valve",
    ),
    (
        "EXIT in WHILE",
        "i := 0; WHILE i < 4 DO i := i + 1; IF Tank[i MOD 4] = Flow THEN EXIT; END_IF; END_WHILE;",
        "
    LD      0
    ST      i
While1:
    LD      i
    LT      4
    JMPCN   EndWhile1
    LD      i
    ADD     1
    ST      i
    LD      Tank[i MOD 4]
    EQ      Flow
    JMPC    EndWhile1
    JMP     While1
EndWhile1:",
    ),
    (
        "a loop in a loop",
        "FOR i := 0 TO 3 DO Count := 0; WHILE Count < Size AND Count < 5 DO Count := Count + 1; END_WHILE; END_FOR;",
        "
    LD      0
    ST      i
For1:
    LD      i
    GT      3
    JMPC    EndFor1
    LD      0
    ST      Count
While1:
    LD      Count
    LT      Size
    AND(    Count
        LT      5
    )
    JMPCN   EndWhile1
    LD      Count
    ADD     1
    ST      Count
    JMP     While1
EndWhile1:
    LD      i
    ADD     1
    ST      i
    JMP     For1
EndFor1:",
    ),
    (
        "FOR with a step that is a variable",
        "IF Size > 0 THEN FOR i := 0 TO 3 BY Size DO Sum := Sum + 1; END_FOR; END_IF;",
        "
VAR_TEMP
StepWidth1 : INT;
    LD      Size
    GT      0
    JMPCN   EndIf1
    LD      0
    ST      i
    LD      Size
    ST      StepWidth1
For1:
    LD      StepWidth1
    GE      0
    AND(    i
        GT      3
    )
    OR(     StepWidth1
        LT      0
        AND(    i
            LT      3
        )
    )
    JMPC    EndFor1
    LD      Sum
    ADD     1
    ST      Sum
    LD      i
    ADD     StepWidth1
    ST      i
    JMP     For1
EndFor1:
EndIf1:
L01 exact",
    ),
    (
        "FOR up to a sum",
        "FOR i := 0 TO Level MOD 4 + 0 DO Tank[i] := 0; END_FOR;",
        "
VAR_TEMP
Limit1 : INT;
    LD      Level
    MOD     4
    ADD     0
    ST      Limit1
    LD      0
    ST      i
For1:
    LD      i
    GT      Limit1
    JMPC    EndFor1
    LD      0
    ST      Tank[i]
    LD      i
    ADD     1
    ST      i
    JMP     For1
EndFor1:
L01 exact",
    ),
    (
        "CASE of a sum",
        "CASE Flow + Level OF 1: Sum := 1; 2..4: Sum := 2; END_CASE;",
        "
VAR_TEMP
Selector1 : INT;
    LD      Flow
    ADD     Level
    ST      Selector1
    LD      Selector1
    EQ      1
    JMPCN   Next1
    LD      1
    ST      Sum
    JMP     EndCase1
Next1:
    LD      Selector1
    GE      2
    AND(    Selector1
        LE      4
    )
    JMPCN   EndCase1
    LD      2
    ST      Sum
EndCase1:
L01 exact",
    ),
    (
        "CASE within CASE",
        "CASE Size OF 1: CASE Flow OF 1: Sum := 11; ELSE Sum := 10; END_CASE; ELSE Sum := 0; END_CASE;",
        "
    LD      Size
    EQ      1
    JMPCN   Next1
    LD      Flow
    EQ      1
    JMPCN   Next2
    LD      11
    ST      Sum
    JMP     EndCase2
Next2:
    LD      10
    ST      Sum
EndCase2:
    JMP     EndCase1
Next1:
    LD      0
    ST      Sum
EndCase1:",
    ),
    (
        "IF within a loop",
        "FOR i := 0 TO 3 DO IF Tank[i] > Sum THEN Sum := Tank[i]; END_IF; END_FOR;",
        "
    LD      0
    ST      i
For1:
    LD      i
    GT      3
    JMPC    EndFor1
    LD      Tank[i]
    GT      Sum
    JMPCN   EndIf1
    LD      Tank[i]
    ST      Sum
EndIf1:
    LD      i
    ADD     1
    ST      i
    JMP     For1
EndFor1:",
    ),
    (
        "RETURN within a loop",
        "FOR i := 0 TO 3 DO IF Tank[i] = Flow THEN RETURN; END_IF; END_FOR; Count := -1;",
        "
    LD      0
    ST      i
For1:
    LD      i
    GT      3
    JMPC    EndFor1
    LD      Tank[i]
    EQ      Flow
    RETC
    LD      i
    ADD     1
    ST      i
    JMP     For1
EndFor1:
    LD      -1
    ST      Count",
    ),
    (
        "three of a kind",
        "IF Low THEN Valve := TRUE; Alarm := TRUE; Heat := FALSE; END_IF;",
        "
    LD      Low
    S       Valve
    S       Alarm
    R       Heat",
    ),
    (
        "set of a comparison",
        "IF Flow > 10 THEN Valve := TRUE; END_IF;",
        "
    LD      Flow
    GT      10
    S       Valve",
    ),
    (
        "set of a negated bracket",
        "IF NOT (Low AND High) THEN Valve := TRUE; END_IF;",
        "
    LD      Low
    AND     High
    NOT
    S       Valve",
    ),
    (
        "ELSE alone",
        "IF Low THEN ; ELSE Valve := TRUE; END_IF;",
        "
    LD      Low
    JMPC    EndIf1
    LD      TRUE
    ST      Valve
EndIf1:",
    ),
    (
        "a coil that holds itself",
        "Valve := (Low OR Valve) AND NOT High;",
        "
    LD      Low
    OR      Valve
    ANDN    High
    ST      Valve",
    ),
    (
        "a difference of products",
        "Sum := Flow * Level - Size * (Flow - 1);",
        "
    LD      Flow
    MUL     Level
    SUB(    Size
        MUL(    Flow
            SUB     1
        )
    )
    ST      Sum",
    ),
    (
        "a comparison of what is compared",
        "Valve := (Flow > 3) = Low;",
        "
    LD      Flow
    GT      3
    EQ      Low
    ST      Valve",
    ),
    (
        "a negated comparison",
        "Valve := NOT (Flow > 3);",
        "
    LD      Flow
    GT      3
    NOT
    ST      Valve",
    ),
    (
        "a function of comparisons",
        "Sum := SEL(Flow > Level, Flow, Level);",
        "
    LD      Flow
    GT      Level
    SEL     Flow, Level
    ST      Sum",
    ),
];

#[test]
fn decisions_as_lists() {
    hold(DECISIONS, Language::St, Language::Il);
}
