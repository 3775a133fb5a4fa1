//! Rungs and boxes.

use super::Body;

/// Ladders.
pub(super) const LD: &[Body] = &[
    ("a, o : BOOL;", "|   a     \n+--| |---+", &["4:10 error R08: this wire ends in the air"]),
    (
        "a, o : BOOL;",
        "|   a     o   |\n+--| |---(Q)--+",
        &[
            "3:11 error R08: `o` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            "4:10 error R01: `(` means nothing in a drawing",
            "4:12 error R01: `)` means nothing in a drawing",
        ],
    ),
    (
        "a, o : BOOL;",
        "|  o   |\n+--(R)--+",
        &[
            "2:5 warning H01: `a` is never used",
            "3:1 warning H12: this line is shifted by a character; it is read as if it were not | `translate --to ld` draws it anew",
        ],
    ),
    (
        "n : INT;",
        "|   n     n   |\n+--| |---( )--+",
        &["3:5 error C04: this is INT, but BOOL is needed | convert it: INT_TO_BOOL(...)"],
    ),
    ("a, o : BOOL; n : INT;", "|   a     n   |\n+--| |---(S)--+", &["3:11 error C04: a coil acts on BOOL, not on INT"]),
    (
        "a : BOOL; T : TON;",
        "|          +--------+  |\n|   a      |        |  |\n+--| |-----+IN TON Q+  |\n|          |        |  |\n|          +--------+  |",
        &[
            "5:16 error C04: `TON` is a block, and has no value | declare an instance of it; the instance is called, and its outputs are read",
        ],
    ),
    (
        "a : BOOL; T : TON;",
        "|             U         |\n|   a      +--------+   |\n+--| |-----+IN TON Q+   |\n|          +--------+   |",
        &["3:15 error C01: unknown name `U` | declare it; `check --declare` writes the declaration of `U`"],
    ),
    (
        "a : BOOL; T : TON;",
        "|             T         |\n|   a      +--------+   |\n+--| |-----+IN CTU Q+   |\n|          +--------+   |",
        &["5:16 error C04: the box says `CTU`, but this instance is declared as TON"],
    ),
    (
        "a : BOOL; T : TON;",
        "|             T         |\n|   a      +---------+   |\n+--| |-----+RUN TON Q+   |\n|          +---------+   |",
        &[
            "3:1 warning H12: this line is shifted by a character; it is read as if it were not | `translate --to ld` draws it anew",
            "5:13 error C06: `TON` has no input `RUN` | it has IN, PT",
        ],
    ),
    ("a, o : BOOL;", "|   a             |\n+--| |--->>there  |", &["4:12 error C09: there is no label `there`"]),
    (
        "a, o : BOOL;",
        "here:\nhere:\n|   a     o   |\n+--| |---( )--+",
        &["4:1 error C02: `here` is declared twice / first declared here"],
    ),
    (
        "a, o : BOOL; n : INT;",
        "|   n     o   |\n+--|>|---( )--+",
        &[
            "4:4 error R08: this comparing contact has no second value below it | write it on the line below, over the middle",
            "4:10 error R08: nothing feeds the wire that leads here",
        ],
    ),
    (
        "a, o : BOOL; n : INT;",
        "|   a     o   |\n+--|>|---( )--+\n|   3         |",
        &["5:5 error C05: 3 does not fit BOOL, which holds 0 to 1"],
    ),
    (
        "a, o : BOOL;",
        "|         o   |\n+--| |---( )--+",
        &[
            "4:4 error R08: this contact has no name above it | write it on the line above, over the middle",
            "4:10 error R08: nothing feeds the wire that leads here",
        ],
    ),
    (
        "a, o : BOOL;",
        "|   a         |\n+--| |---( )--+",
        &["4:10 error R08: this coil has no name above it | write it on the line above, over the middle"],
    ),
    (
        "a, o : BOOL;",
        "|  a + 1   o   |\n+--| |----( )--+",
        &[
            "3:6 error R08: this wire ends in the air",
            "3:8 error R08: `1` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
        ],
    ),
    (
        "a, o : BOOL;",
        "|   a     o   |\n+--| |---( )--+\n\nrest of it",
        &[
            "6:1 error R08: each line of a rung begins at the left rail, with `|` or `+`",
            "6:1 error R08: `rest` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            "6:6 error R08: `of` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            "6:9 error R08: `it` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
        ],
    ),
    (
        "a, o : BOOL;",
        "|   a            |\n+--| |---|<RET>| |",
        &[
            "4:9 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
            "4:10 error R08: this wire ends in the air",
            "4:11 error R01: `<` means nothing in a drawing",
            "4:12 error R08: `RET` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            "4:15 error R01: `>` means nothing in a drawing",
            "4:16 error R08: this wire ends in the air",
        ],
    ),
    (
        "a, o : BOOL;",
        "(* never closed\n|   a     o   |\n+--| |---( )--+",
        &[
            "3:1 error R02: this comment never ends; the rest of the file is part of it | close it; comments nest, so each opening needs its own end",
            "7:1 error R03: expected `END_PROGRAM`, found the end of the file",
        ],
    ),
    (
        "a, o : BOOL; n : INT;",
        "|   a   +-----+     o  |\n+--| |--+     +----( )-+\n|       +-----+        |",
        &[
            "2:5 warning H02: `a` is read but never written: it stays at its initial value",
            "2:18 warning H01: `n` is never used",
        ],
    ),
    (
        "a, o : BOOL; n : INT;",
        "|   a   +---------+     o  |\n+--| |--+EN FISH  +----( )-+\n|       +---------+        |",
        &["4:13 error C01: there is no function `FISH`"],
    ),
    (
        "a, o : BOOL;",
        "|        +----------+     o  |\n+--------+IN TON Q  +----( )-+\n|        +----------+        |",
        &["4:18 error C01: there is no function `Q`"],
    ),
];

/// Function block diagrams.
pub(super) const FBD: &[Body] = &[
    ("a, o : BOOL;", "a --- ", &["3:5 error R08: this wire ends in the air"]),
    (
        "a, o : BOOL;",
        " --- o",
        &["3:2 error R08: this wire ends in the air", "3:6 error R08: nothing feeds the wire that leads here"],
    ),
    (
        "a, o : BOOL;",
        "a --- b",
        &["3:7 error C01: unknown name `b` | declare it; `check --declare` writes the declaration of `b`"],
    ),
    (
        "a, o : BOOL;",
        "   +-----+\na -+ AND +- o\n   +-----+",
        &["2:5 warning H02: `a` is read but never written: it stays at its initial value"],
    ),
    (
        "a, o : BOOL; n : INT;",
        "    +-----+\na --+ AND +-- o\nn --+     |\n    +-----+",
        &[
            "4:1 error C04: `AND` does not take BOOL and INT | bring both to one type, for instance with INT_TO_BOOL(...)",
        ],
    ),
    ("a, o : BOOL;", "    +------+\na --+ FISH +-- o\n    +------+", &["4:7 error C01: there is no function `FISH`"]),
    (
        "a, o : BOOL;",
        "     +-----+\na ---+ AND +--+-- o\na ---+     |  |\n     +-----+  |\n     +-----+  |\na ---+ OR  +--+\na ---+     |\n     +-----+",
        &["7:6 error R08: two outputs meet on this wire; join them with an OR box"],
    ),
    (
        "a, o : BOOL;",
        "     +-----+\na ---+ AND |\na ---+ OR  +-- o\n     +-----+",
        &["5:8 error R08: this box is `AND` and `OR` at once"],
    ),
    (
        "a, o : BOOL;",
        "     +-----+\na ---+ AND +-- 3\na ---+     |\n     +-----+",
        &["4:16 error C07: a variable is needed here"],
    ),
    (
        "a, o : BOOL; n : INT;",
        "     +----------+\nn ---+ EN ADD   +-- o\n     +----------+",
        &["4:1 error C04: this is INT, but BOOL is needed | convert it: INT_TO_BOOL(...)"],
    ),
    ("a, o : BOOL;", ">hot>", &["3:1 error R08: no wire leads to or from this connector"]),
    ("a, o : BOOL;", "a ---->hot>", &["3:1 error R08: nothing takes this value"]),
    ("a, o : BOOL;", ">hot>---- o", &["3:11 error R08: nothing feeds the wire that leads here"]),
    (
        "a, o : BOOL;",
        "     +-----+\n     | AND +-- o\n  +--+     |\n     +-----+",
        &["3:6 error R08: nothing feeds the wire that leads here", "5:3 error R08: this wire ends in the air"],
    ),
    (
        "a, o : BOOL;",
        "      +-----+\na ---o+ NOT +o-- o\n      +-----+",
        &["2:5 warning H02: `a` is read but never written: it stays at its initial value"],
    ),
    (
        "a, o : BOOL;",
        "      +-----+\na ----+ AND +--- o\na ----+     |\na --+-+-----+",
        &[
            "6:6 error R08: this wire runs against the edge of a box, where no pin is | pins are on the lines between the upper and the lower edge",
        ],
    ),
    (
        "T : TON; a, o : BOOL;",
        "          T\n      +--------+\na ----+IN TON Q+-- o\n      |     FISH+\n      +--------+",
        &[
            "2:14 warning H02: `a` is read but never written: it stays at its initial value",
            "6:7 warning H12: this line is shifted by a character; it is read as if it were not | `translate --to fbd` draws it anew",
        ],
    ),
    ("a, o : BOOL;", "a -->>there", &["3:7 error C09: there is no label `there`"]),
    ("a, o : BOOL;", "a ---<RETURN>--- o", &["3:18 error R08: nothing feeds the wire that leads here"]),
];
