//! Structured text as ladders.

use super::{Row, hold};
use honest_twin::lang::Language;

const LADDERS: &[Row] = &[
    (
        "a contact and a coil",
        "Valve := Low;",
        "
    |  Low   Valve  |
    +--| |----( )---+",
    ),
    (
        "a closed contact",
        "Valve := NOT Low;",
        "
    |  Low   Valve  |
    +--|/|----( )---+",
    ),
    (
        "in a row",
        "Valve := Low AND NOT High AND Rinse;",
        "
    |  Low  High    Rinse   Valve  |
    +--| |---|/|-----| |-----( )---+",
    ),
    (
        "one above the other",
        "Valve := Low OR High;",
        "
    |  Low      Valve  |
    +--| |---+---( )---+
    | High   |         |
    +--| |---+         |",
    ),
    (
        "a branch within a row",
        "Valve := Low AND (High OR Rinse) AND Ack;",
        "
    |  Low     High      Ack   Valve  |
    +--| |--+---| |---+--| |----( )---+
    |       |  Rinse  |               |
    |       +---| |---+               |",
    ),
    (
        "branches of several contacts",
        "Valve := Low AND High OR Rinse AND NOT Ack;",
        "
    |   Low   High      Valve  |
    +---| |----| |---+---( )---+
    |  Rinse   Ack   |         |
    +---| |----|/|---+         |",
    ),
    (
        "a branch within a branch",
        "Valve := Low AND (High OR Rinse AND (Ack OR Low));",
        "
    |  Low     High              Valve  |
    +--| |--+---| |-----------+---( )---+
    |       |  Rinse     Ack  |         |
    |       +---| |---+--| |--+         |
    |                 |  Low  |         |
    |                 +--| |--+         |",
    ),
    (
        "a negated bracket",
        "Valve := NOT (Low AND High);",
        "
    |  Low  High    Valve  |
    +--| |---| |-----(/)---+",
    ),
    (
        "exclusive or is two branches",
        "Valve := Low XOR High;",
        "
    |  Low  High      Valve  |
    +--| |---|/|---+---( )---+
    |  Low  High   |         |
    +--|/|---| |---+         |",
    ),
    (
        "two coils of one condition",
        "Valve := Low OR High; Alarm := Low OR High;",
        "
    |  Low      Valve  |
    +--| |---+---( )---+
    | High   |  Alarm  |
    +--| |---+---( )---+",
    ),
    (
        "set and reset coils",
        "IF Low THEN Valve := TRUE; END_IF; IF High THEN Valve := FALSE; END_IF;",
        "
    |  Low   Valve  |
    +--| |----(S)---+

    | High    Valve  |
    +--| |-----(R)---+",
    ),
    (
        "a comparison",
        "Valve := Flow > 12 AND Low;",
        "
    | Flow    Low   Valve  |
    +--|>|----| |----( )---+
    |  12                  |",
    ),
    (
        "a comparison in a branch",
        "Valve := Low OR Flow <= Level;",
        "
    |  Low       Valve  |
    +--| |----+---( )---+
    |  Flow   |         |
    +--|<=|---+         |
    |  Level            |",
    ),
    (
        "a timer",
        "Soak(IN := Low AND NOT High, PT := T#5s); Valve := Soak.Q;",
        "
    |                         Soak             |
    |  Low  High           +--------+   Valve  |
    +--| |---|/|-----------+IN TON Q+----( )---+
    |               T#5s --+PT    ET|          |
    |                      +--------+          |",
    ),
    (
        "a timer's outputs",
        "Soak(IN := Low, PT := Span, Q => Valve, ET => Left);",
        "
    |                  Soak                    |
    |  Low          +--------+          Valve  |
    +--| |----------+IN TON Q+-----------( )---+
    |        Span --+PT    ET+-- Left          |
    |               +--------+                 |",
    ),
    (
        "a counter",
        "Shots(CU := Rinse, R := Ack, PV := 6); Alarm := Shots.Q; Count := Shots.CV;",
        "
    |                Shots             |
    |  Rinse       +--------+   Alarm  |
    +---| |--------+CU CTU Q+----( )---+
    |   Ack        |      CV|          |
    +---| |--------+R       |          |
    |          6 --+PV      |          |
    |              +--------+          |

    |             +-----------+          |
    +-------------+EN MOVE ENO|          |
    |  Shots.CV --+           +-- Count  |
    |             +-----------+          |",
    ),
    (
        "a latch block",
        "Latch(S1 := Low, R := High); Valve := Latch.Q1;",
        "
    |           Latch             |
    |  Low    +--------+   Valve  |
    +--| |----+S1 SR Q1+----( )---+
    | High    |        |          |
    +--| |----+R       |          |
    |         +--------+          |",
    ),
    (
        "a number",
        "Sum := Flow;",
        "
    |         +-----------+        |
    +---------+EN MOVE ENO|        |
    |  Flow --+           +-- Sum  |
    |         +-----------+        |",
    ),
    (
        "a sum",
        "Sum := Flow + Level;",
        "
    |          +----------+        |
    +----------+EN ADD ENO|        |
    |   Flow --+          +-- Sum  |
    |  Level --+          |        |
    |          +----------+        |",
    ),
    (
        "a sum on a condition",
        "IF Low THEN Sum := Flow + Level; END_IF;",
        "
    |  Low           +----------+        |
    +--| |-----------+EN ADD ENO|        |
    |         Flow --+          +-- Sum  |
    |        Level --+          |        |
    |                +----------+        |",
    ),
    (
        "counting by hand",
        "IF Rinse AND NOT Ack THEN Count := Count + 1; END_IF;",
        "
    |  Rinse   Ack           +----------+          |
    +---| |----|/|-----------+EN ADD ENO|          |
    |                Count --+          +-- Count  |
    |                    1 --+          |          |
    |                        +----------+          |",
    ),
    (
        "either or",
        "IF Low THEN Sum := Flow; ELSE Sum := Level; END_IF;",
        "
    |  Low          +-----------+        |
    +--| |----------+EN MOVE ENO|        |
    |        Flow --+           +-- Sum  |
    |               +-----------+        |

    |  Low           +-----------+        |
    +--|/|-----------+EN MOVE ENO|        |
    |        Level --+           +-- Sum  |
    |                +-----------+        |",
    ),
    (
        "one of three",
        "IF Low THEN Sum := 1; ELSIF High THEN Sum := 2; ELSE Sum := 3; END_IF;",
        "
    |  Low       +-----------+        |
    +--| |-------+EN MOVE ENO|        |
    |        1 --+           +-- Sum  |
    |            +-----------+        |

    |  Low  High        +-----------+        |
    +--|/|---| |--------+EN MOVE ENO|        |
    |               2 --+           +-- Sum  |
    |                   +-----------+        |

    |  Low  High        +-----------+        |
    +--|/|---|/|--------+EN MOVE ENO|        |
    |               3 --+           +-- Sum  |
    |                   +-----------+        |",
    ),
    (
        "CASE",
        "CASE Size OF 1: Sum := 10; 2: Sum := 20; ELSE Sum := 0; END_CASE;",
        "
    | Size         +-----------+        |
    +--|=|---------+EN MOVE ENO|        |
    |   1     10 --+           +-- Sum  |
    |              +-----------+        |

    | Size         +-----------+        |
    +--|=|---------+EN MOVE ENO|        |
    |   2     20 --+           +-- Sum  |
    |              +-----------+        |

    |  Size   Size       +-----------+        |
    +--|<>|---|<>|-------+EN MOVE ENO|        |
    |    1      2    0 --+           +-- Sum  |
    |                    +-----------+        |",
    ),
    (
        "an edge contact",
        "Seen(CLK := Low); IF Seen.Q THEN Count := Count + 1; END_IF;",
        "
    |             Seen                                      |
    |  Low   +------------+           +----------+          |
    +--| |---+CLK R_TRIG Q+-----------+EN ADD ENO|          |
    |        +------------+   Count --+          +-- Count  |
    |                             1 --+          |          |
    |                                 +----------+          |",
    ),
    (
        "RETURN",
        "IF Low THEN RETURN; END_IF; Valve := High;",
        "
    |  Low             |
    +--| |---<RETURN>  |

    | High    Valve  |
    +--| |-----( )---+",
    ),
    (
        "a loop",
        "i := 0; WHILE i < 4 DO i := i + 1; END_WHILE;",
        "
    |      +-----------+      |
    +------+EN MOVE ENO|      |
    |  0 --+           +-- i  |
    |      +-----------+      |

    While1:
    |    i                 |
    +--|>=|--->>EndWhile1  |
    |    4                 |

    |      +----------+      |
    +------+EN ADD ENO|      |
    |  i --+          +-- i  |
    |  1 --+          |      |
    |      +----------+      |

    +-->>While1  |

    EndWhile1:",
    ),
    (
        "a function",
        "Sum := LIMIT(0, Flow, 100);",
        "
    |         +------------+        |
    +---------+EN LIMIT ENO|        |
    |     0 --+MN          +-- Sum  |
    |  Flow --+IN          |        |
    |   100 --+MX          |        |
    |         +------------+        |",
    ),
    (
        "a choice",
        "Sum := SEL(Low, Flow, Level);",
        "
    |          +----------+        |
    +----------+EN SEL ENO|        |
    |    Low --+G         +-- Sum  |
    |   Flow --+IN0       |        |
    |  Level --+IN1       |        |
    |          +----------+        |",
    ),
];

#[test]
fn texts_as_ladders() {
    hold(LADDERS, Language::St, Language::Ld);
}
