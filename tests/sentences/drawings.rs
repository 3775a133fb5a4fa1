//! Drawings.

use super::{Row, blocks, ladder};

#[allow(clippy::too_many_lines, reason = "a table")]
pub(super) fn rows() -> Vec<Row> {
    vec![
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|--| |-------( )-------| \n  |",
            &[
                "5:3 error R08: each line of a rung begins at the left rail, with `|` or `+`",
                "5:3 error R08: this wire ends in the air",
                "5:3 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|--| |---  --( )-------|",
            &[
                "4:9 error R08: this wire ends in the air",
                "4:12 error R08: this wire ends in the air",
                "4:14 error R08: nothing feeds the wire that leads here",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|--[ ]-------( )-------|",
            &[
                "3:5 error R08: `a` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
                "4:3 error R08: this wire ends in the air",
                "4:4 error R01: `[` means nothing in a drawing",
                "4:6 error R01: `]` means nothing in a drawing",
                "4:7 error R08: this wire ends in the air",
                "4:14 error R08: nothing feeds the wire that leads here",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|--|x|-------( )-------|",
            &[
                "3:5 error R08: `a` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
                "4:3 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
                "4:4 error R08: this wire ends in the air",
                "4:5 error R08: `x` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
                "4:6 error R08: this wire ends in the air",
                "4:7 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
                "4:14 error R08: nothing feeds the wire that leads here",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|--| |-------(X)-------|",
            &[
                "3:15 error R08: `o` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
                "4:14 error R01: `(` means nothing in a drawing",
                "4:16 error R01: `)` means nothing in a drawing",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a                  |\n|--| |-------( )-------|",
            &["4:14 error R08: this coil has no name above it | write it on the line above, over the middle"],
        ),
        ladder(
            "a, o : BOOL;",
            "|             o        |\n|--| |-------( )-------|",
            &[
                "4:4 error R08: this contact has no name above it | write it on the line above, over the middle",
                "4:14 error R08: nothing feeds the wire that leads here",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|--| |---?---( )-------|",
            &[
                "4:9 error R08: this wire ends in the air",
                "4:10 error R01: `?` means nothing in a drawing",
                "4:11 error R08: this wire ends in the air",
                "4:14 error R08: nothing feeds the wire that leads here",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "    a         o        |\n----| |-------( )------|",
            &[
                "3:5 error R08: each line of a rung begins at the left rail, with `|` or `+`",
                "4:1 error R08: each line of a rung begins at the left rail, with `|` or `+`",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         5        |\n|--| |-------( )-------|",
            &["3:15 error C07: a variable is needed here"],
        ),
        ladder(
            "n, o : INT;",
            "|   n         o        |\n|--| |-------( )-------|",
            &["3:5 error C04: this is INT, but BOOL is needed | convert it: INT_TO_BOOL(...)"],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|\t--| |-------( )------|",
            &[
                "4:2 error R01: a tab in a drawing stands in no certain column | write blanks",
                "4:3 error R08: this wire ends in the air",
                "4:5 error R08: nothing feeds the wire that leads here",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a            |\n|--| |---->> Gone|",
            &[
                "4:10 error R08: this wire ends in the air",
                "4:11 error R01: `>` means nothing in a drawing",
                "4:12 error R01: `>` means nothing in a drawing",
                "4:14 error R08: `Gone` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a   stray   o      |\n|--| |---------( )-----|",
            &[
                "3:9 error R08: `stray` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a + b       o      |\n|--| |---------( )-----|",
            &[
                "3:7 error R08: this wire ends in the air",
                "3:9 error R08: `b` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            ],
        ),
        ladder(
            "a, o, q : BOOL;",
            "|   a         o        |\n|--| |-------( )-------|\n|              q       |\n|--          -( )------|",
            &[
                "6:3 error R08: this wire ends in the air",
                "6:14 error R08: this wire ends in the air",
                "6:15 error R08: nothing feeds the wire that leads here",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|  a  o  |",
            &[
                "3:4 error R08: `a` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
                "3:7 error R08: `o` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            ],
        ),
        ladder(
            "a, o : BOOL;",
            "|   a         o        |\n|--| |-------( )-------|\nPROGRAM Q",
            &[
                "5:1 error R08: each line of a rung begins at the left rail, with `|` or `+`",
                "5:1 error R08: `PROGRAM` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
                "5:9 error R08: `Q` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            ],
        ),
        ladder(
            "T : TON; o : BOOL;",
            "|   T         o        |\n|--| |-------( )-------|",
            &[
                "3:5 error C04: this is TON, but BOOL is needed | a function block has no value; read one of its outputs: Q, ET",
            ],
        ),
        blocks(
            "a, b, o : BOOL;",
            "      +-----+\na ----|     |---- o\nb ----|     |\n      +-----+",
            &[
                "4:6 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
                "4:14 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
                "4:19 error R08: nothing feeds the wire that leads here",
                "5:6 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
            ],
        ),
        blocks(
            "a, b, o : BOOL;",
            "      +-----+\n      | AND |\na ----|     |---- o\nb ----|     |\n      +--+--+\n         |",
            &[
                "4:9 error R08: `AND` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
                "5:6 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
                "5:14 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
                "5:19 error R08: nothing feeds the wire that leads here",
                "6:6 error R08: this wire runs into another without joining it | write `+` where wires join; where they cross, let `|` stand between two `-`",
                "8:10 error R08: this wire ends in the air",
            ],
        ),
        blocks(
            "a, b, o : BOOL;",
            "      +-------+\n      | RINSE |\na ----|       |---- o\n      +-------+",
            &["4:9 error C01: there is no function `RINSE` | did you mean `SINCE`?"],
        ),
        blocks(
            "a, b, o : BOOL; T : TOF;",
            "          T\n      +-------+\n      |  TON  |\na ----|IN    Q|---- o\nT#1s--|PT     |\n      +-------+",
            &["5:10 error C04: the box says `TON`, but this instance is declared as TOF"],
        ),
        blocks(
            "a, b, o : BOOL;",
            "      +-----+\n      | AND |\na ----|     |---- 5\nb ----|     |\n      +-----+",
            &["5:19 error C07: a variable is needed here"],
        ),
        blocks(
            "a, o : BOOL; n : INT;",
            "      +-----+\n      | AND |\na ----|     |---- n\nn ----|     |\n      +-----+",
            &[
                "5:1 error C04: `AND` does not take BOOL and INT | bring both to one type, for instance with INT_TO_BOOL(...)",
            ],
        ),
    ]
}
