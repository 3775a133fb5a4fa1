//! Ladders drawn by hand as structured text.

use super::{Row, hold};
use honest_twin::lang::Language;

const TOURS: &[Row] = &[
    (
        "a contact and a coil",
        "|  Low   Valve  |
+--| |----( )---+",
        "
    Valve := Low;",
    ),
    (
        "a negated coil",
        "|  Low   Valve  |
+--| |----(/)---+",
        "
    Valve := NOT Low;",
    ),
    (
        "set and reset",
        "|  Low   Valve  |
+--| |----(S)---+

|  High   Valve  |
+--| |-----(R)---+",
        "
    IF Low THEN
        Valve := TRUE;
    END_IF;

    IF High THEN
        Valve := FALSE;
    END_IF;",
    ),
    (
        "a contact of a rising edge",
        "|  Low   Valve  |
+--|P|----( )---+",
        "
LowBefore1 : BOOL;
    Valve := Low AND NOT LowBefore1;
    LowBefore1 := Low;
L01 exact",
    ),
    (
        "a contact of a falling edge in a row",
        "|  Low  High   Valve  |
+--|N|---| |----( )---+",
        "
LowBefore1 : BOOL;
    Valve := LowBefore1 AND NOT Low AND High;
    LowBefore1 := Low;
L01 exact",
    ),
    (
        "a coil of a rising edge",
        "|  Low   Valve  |
+--| |----(P)---+",
        "
ValveBefore1 : BOOL;
    Valve := Low AND NOT ValveBefore1;
    ValveBefore1 := Low;
L01 exact",
    ),
    (
        "two coils behind each other",
        "|  Low   Valve  High   Alarm  |
+--| |----( )----| |----( )---+",
        "
    Valve := Low;
    Alarm := Low AND High;",
    ),
    (
        "a branch that ends at two coils",
        "|  Low      Valve  |
+--| |---+---( )---+
|        |  Alarm  |
|        +---(/)---+",
        "
    Valve := Low;
    Alarm := NOT Low;",
    ),
    (
        "a branch with a contact of its own",
        "|  Low           Valve  |
+--| |---+--------( )---+
|        |  High  Alarm |
|        +--|/|----( )--+",
        "
    Valve := Low;
    Alarm := Low AND NOT High;",
    ),
    (
        "a bridge is no branch",
        "|  Low     High      Valve  |
+--| |--+---| |---+---( )---+
| Rinse |   Ack   |         |
+--| |--+---|/|---+         |",
        "
    Valve := (Low OR Rinse) AND (High OR NOT Ack);",
    ),
    (
        "comparisons",
        "| Flow  Level   Valve  |
+--|>|---|<|-----( )---+
|  12     3            |",
        "
    Valve := (Flow > 12) AND (Level < 3);",
    ),
    (
        "a jump",
        "|  Low           |
+--| |-->>past   |

|  High   Valve  |
+--| |-----( )---+

past:
|  Rinse   Alarm  |
+---| |-----( )---+",
        "
    IF NOT Low THEN
        Valve := High;
    END_IF;

    Alarm := Rinse;",
    ),
    (
        "a return",
        "|  Low             |
+--| |---<RETURN>  |

| High    Valve  |
+--| |-----( )---+",
        "
    IF Low THEN
        RETURN;
    END_IF;

    Valve := High;",
    ),
    (
        "a timer between contacts",
        "|              Soak                   |
|  Low      +--------+   High  Valve  |
+--| |------+IN TON Q+----| |---( )---+
|    T#5s --+PT    ET|                |
|           +--------+                |",
        "
    Soak(IN := Low, PT := T#5s);
    Valve := Soak.Q AND High;",
    ),
    (
        "a box on a condition",
        "|  Low           +----------+        |
+--| |-----------+EN ADD ENO|        |
|         Flow --+          +-- Sum  |
|        Level --+          |        |
|                +----------+        |",
        "
    IF Low THEN
        Sum := Flow + Level;
    END_IF;",
    ),
    (
        "what ENO leads on to",
        "|  Low           +----------+         Valve |
+--| |-----------+EN DIV ENO+----------( )--+
|         Flow --+          +-- Sum         |
|         Size --+          |               |
|                +----------+               |",
        "
    IF Low THEN
        Sum := Flow / Size;
    END_IF;
    Valve := Low;",
    ),
    (
        "a coil that stands alone",
        "|  Valve  |
+---( )---+",
        "
    Valve := TRUE;",
    ),
    (
        "a coil before the contact that asks for it",
        "|  Low               Valve    Alarm  |
+--| |----+-----------| |------( )---+
|         |  Valve                   |
|         +---( )--------------------+",
        "
    Valve := Low;
    Alarm := Low AND Valve;",
    ),
];

#[test]
fn ladders_as_texts() {
    hold(TOURS, Language::Ld, Language::St);
}
