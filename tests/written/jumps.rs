//! Jumps and returns of many shapes as branches and loops.

use super::{Row, hold};
use honest_twin::lang::Language;

const JUMPS: &[Row] = &[
    (
        "a jump over",
        "LD Low
JMPC past
LD Flow
ST Sum
past:
LD High
ST Valve",
        "
    IF NOT Low THEN
        Sum := Flow;
    END_IF;
    Valve := High;",
    ),
    (
        "a jump over on FALSE",
        "LD Low
JMPCN past
LD Flow
ST Sum
past:
LD High
ST Valve",
        "
    IF Low THEN
        Sum := Flow;
    END_IF;
    Valve := High;",
    ),
    (
        "either or",
        "LD Low
JMPC one
LD 2
ST Sum
JMP done
one:
LD 1
ST Sum
done:
LD High
ST Valve",
        "
    IF Low THEN
        Sum := 1;
    ELSE
        Sum := 2;
    END_IF;
    Valve := High;",
    ),
    (
        "a jump that carries a value",
        "LD Low
JMPC one
LD Flow
JMP done
one:
LD Level
done:
ST Sum",
        "
    IF Low THEN
        Sum := Level;
    ELSE
        Sum := Flow;
    END_IF;",
    ),
    (
        "a ladder of jumps",
        "LD Size
EQ 1
JMPC one
LD Size
EQ 2
JMPC two
LD 0
ST Sum
JMP done
one:
LD 10
ST Sum
JMP done
two:
LD 20
ST Sum
done:
LD High
ST Valve",
        "
    CASE Size OF
        1:
            Sum := 10;
        2:
            Sum := 20;
    ELSE
        Sum := 0;
    END_CASE;
    Valve := High;",
    ),
    (
        "a jump back",
        "LD 0
ST i
again:
LD i
ADD 1
ST i
LT 4
JMPC again",
        "
    i := 0;
    REPEAT
        i := i + 1;
    UNTIL i >= 4 END_REPEAT;",
    ),
    (
        "a jump back from the middle",
        "LD 0
ST i
again:
LD i
GE 4
JMPC done
LD i
ADD 1
ST i
JMP again
done:
LD i
ST Count",
        "
    i := 0;
    WHILE i < 4 DO
        i := i + 1;
    END_WHILE;
    Count := i;",
    ),
    (
        "a return",
        "LD Low
RETC
LD High
ST Valve",
        "
    IF Low THEN
        RETURN;
    END_IF;
    Valve := High;",
    ),
    (
        "a return on FALSE",
        "LD Low
RETCN
LD High
ST Valve",
        "
    IF NOT Low THEN
        RETURN;
    END_IF;
    Valve := High;",
    ),
    (
        "two jumps to one place",
        "LD Low
JMPC past
LD High
JMPC past
LD Flow
ST Sum
past:
LD Rinse
ST Valve",
        "
    IF NOT (Low OR High) THEN
        Sum := Flow;
    END_IF;
    Valve := Rinse;",
    ),
    (
        "edges of a block",
        "LD Low
CLK Seen
LD Seen.Q
JMPCN past
LD Count
ADD 1
ST Count
past:
LD Rinse
ST Valve",
        "
    Seen(CLK := Low);
    IF Seen.Q THEN
        Count := Count + 1;
    END_IF;
    Valve := Rinse;",
    ),
    (
        "what it looks at is counted while it is needed",
        "LD Count
GT 5
JMPC past
ST Alarm
past:
LD Count
ADD 1
ST Count",
        "
    IF Count <= 5 THEN
        Alarm := Count > 5;
    END_IF;
    Count := Count + 1;",
    ),
    (
        "a result that two ways bring to a label",
        "LD Flow
GT 3
JMPC past
LD Level
GT 2
past:
ST Valve",
        "
VAR_TEMP
Result1 : BOOL;
    Result1 := Flow > 3;
    IF Flow <= 3 THEN
        Result1 := Level > 2;
    END_IF;
    Valve := Result1;
L01 exact",
    ),
    (
        "a result that three ways bring to a label",
        "LD Size
EQ 1
JMPC one
LD Size
EQ 2
JMPC two
LD Flow
JMP all
one:
LD Level
JMP all
two:
LD 7
all:
ADD 1
ST Sum",
        "
VAR_TEMP
Result1 : INT;
    CASE Size OF
        1:
            Result1 := Level;
        2:
            Result1 := 7;
    ELSE
        Result1 := Flow;
    END_CASE;
    Sum := Result1 + 1;
L01 exact",
    ),
    (
        "a result through a loop",
        "LD 0
ST i
LD 0
ST Sum
again:
LD Sum
ADD Tank[i]
ST Sum
LD i
ADD 1
ST i
LE 3
JMPC again
LD Sum
GT 20
ST Alarm",
        "
    i := 0;
    Sum := 0;
    REPEAT
        Sum := Sum + Tank[i];
        i := i + 1;
    UNTIL i > 3 END_REPEAT;
    Alarm := Sum > 20;",
    ),
    (
        "a loop that is left from within",
        "LD 0
ST i
again:
LD Tank[i]
EQ Flow
JMPC found
LD i
ADD 1
ST i
LE 3
JMPC again
LD -1
ST Count
RET
found:
LD i
ST Count",
        "
VAR_TEMP
Step1 : DINT;
    Step1 := 0;
    WHILE Step1 >= 0 DO
        CASE Step1 OF
            0:
                Step1 := 1;
                i := 0;
            1:
                Step1 := 2;
                IF Tank[i] = Flow THEN
                    Step1 := 4;
                END_IF;
            2:
                Step1 := 3;
                i := i + 1;
                IF i <= 3 THEN
                    Step1 := 1;
                END_IF;
            3:
                Step1 := 4;
                Count := -1;
                RETURN;
            4:
                Step1 := -1;
                Count := i;
        END_CASE;
    END_WHILE;
L02 conditional",
    ),
    (
        "a loop in a loop",
        "LD 0
ST i
outer:
LD 0
ST Count
inner:
LD Count
ADD 1
ST Count
LT Size
JMPC inner
LD i
ADD 1
ST i
LT 3
JMPC outer",
        "
    i := 0;
    REPEAT
        Count := 0;
        REPEAT
            Count := Count + 1;
        UNTIL Count >= Size END_REPEAT;
        i := i + 1;
    UNTIL i >= 3 END_REPEAT;",
    ),
    (
        "a jump into the middle of a decision",
        "LD Low
JMPC middle
LD High
JMPCN done
LD 1
ST Count
middle:
LD 2
ST Sum
done:
LD Rinse
ST Valve",
        "
VAR_TEMP
Step1 : DINT;
    Step1 := 0;
    WHILE Step1 >= 0 DO
        CASE Step1 OF
            0:
                Step1 := 1;
                IF Low THEN
                    Step1 := 3;
                END_IF;
            1:
                Step1 := 2;
                IF NOT High THEN
                    Step1 := 4;
                END_IF;
            2:
                Step1 := 3;
                Count := 1;
            3:
                Step1 := 4;
                Sum := 2;
            4:
                Step1 := -1;
                Valve := Rinse;
        END_CASE;
    END_WHILE;
L02 conditional",
    ),
    (
        "a return within a decision",
        "LD Low
JMPCN past
LD High
RETC
LD 1
ST Sum
past:
LD Rinse
ST Valve",
        "
    IF Low THEN
        IF High THEN
            RETURN;
        END_IF;
        Sum := 1;
    END_IF;
    Valve := Rinse;",
    ),
    (
        "a jump to the next line",
        "LD Low
JMPC next
next:
LD High
ST Valve",
        "
    Valve := High;",
    ),
    (
        "a jump over nothing but a label",
        "LD Low
JMP next
next:
ST Valve",
        "
    Valve := Low;",
    ),
    (
        "an IF whose branches both store",
        "LD Low
JMPCN other
LD Flow
ST Sum
LD TRUE
ST Valve
JMP done
other:
LD FALSE
ST Valve
done:
LD High
ST Heat",
        "
    IF Low THEN
        Sum := Flow;
        Valve := TRUE;
    ELSE
        Valve := FALSE;
    END_IF;
    Heat := High;",
    ),
];

#[test]
fn jumps_as_texts() {
    hold(JUMPS, Language::Il, Language::St);
}
