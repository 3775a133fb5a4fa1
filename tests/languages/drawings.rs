//! What a drawing means, in its corners, with outputs worked out by hand; what is said about bad ones; and that the
//! layout says the same as the hand.

use crate::common::{machine, trace, translated};
use honest_twin::lang::{Form, Language, read_project};
use honest_twin::source::{Diagnostics, Source};

const LD: Language = Language::Ld;
const FBD: Language = Language::Fbd;

/// A program with BOOL inputs a, b, c, an INT input n, outputs x, y, z, k, and some blocks.
fn program(drawing: &str) -> String {
    format!(
        "PROGRAM P\nVAR_INPUT\n    a, b, c : BOOL;\n    n : INT;\nEND_VAR\nVAR_OUTPUT\n    x, y, z : BOOL;\n    k : INT;\n\
         END_VAR\nVAR\n    t : TON;\n    u : CTU;\n    e : R_TRIG;\nEND_VAR\n\n{drawing}\nEND_PROGRAM\n"
    )
}

/// The columns `x`, `y`, `z`, `k` of each scan; inputs are given scan by scan as `abc` and a number.
fn outputs(text: &str, language: Language, inputs: &[(&str, i16)]) -> Vec<String> {
    let mut stimulus = "time_ms,a,b,c,n\n".to_string();
    for (scan, (bits, n)) in inputs.iter().enumerate() {
        let bits: Vec<String> = bits.chars().map(String::from).collect();
        stimulus.push_str(&format!("{},{},{n}\n", scan * 10, bits.join(",")));
    }
    let run = |text: &str, form: Form| trace(&machine("drawing", text, form), &stimulus, inputs.len() as u64);
    let result = run(text, language.into());
    // Laid out by the tool, and as text, it does the same.
    let again = translated("again", text, language, language);
    assert_eq!(result, run(&again, language.into()), "{again}");
    assert_eq!(again, translated("twice", &again, language, language));
    for other in [Language::St, Language::Il, LD, FBD] {
        let other_text = translated("other", text, language, other);
        assert_eq!(result, run(&other_text, other.into()), "{other_text}");
    }
    let rows = result.0.lines().skip(1).map(|l| l.split(',').skip(6).collect::<Vec<_>>().join(" "));
    rows.chain(result.1).collect()
}

#[test]
fn elements_run_by_column_and_a_coil_is_seen_behind_it() {
    // x is written in an earlier column than the contact that asks for it, though it stands below.
    let drawing = "
|   a                   x        y  |
+--| |-----+-----------| |------( )-+
|          |  x                     |
|          +-( )--------------------+";
    assert_eq!(
        outputs(&program(drawing), LD, &[("000", 0), ("100", 0), ("000", 0)]),
        ["0 0 0 0", "1 1 0 0", "0 0 0 0"]
    );
    // In one column it is the upper that runs first, even if it is not drawn to the character.
    let drawing = "
|   a          x   |
+--| |---+----(/)--+
|        |  x      |
|        +---( )---+";
    assert_eq!(outputs(&program(drawing), LD, &[("000", 0), ("100", 0)]), ["0 0 0 0", "1 0 0 0"]);
}

#[test]
fn a_node_has_one_value_whatever_is_written_behind_it() {
    // Both coils take the power that was there before the first of them wrote.
    let drawing = "
|   x         x   |
+--|/|---+---(S)--+
|        |    y   |
|        +---( )--+";
    assert_eq!(outputs(&program(drawing), LD, &[("000", 0), ("000", 0)]), ["1 1 0 0", "1 0 0 0"]);
}

#[test]
fn an_edge_contact_that_is_jumped_over_sees_the_change_late() {
    // Trap 24: the press at the second scan is seen at the fourth, when the network runs again.
    let drawing = "
|   b                |
+--| |---->>behind   |

|   a     x   |
+--|P|---( )--+

behind:
|   x     y   |
+--| |---( )--+";
    let inputs = [("000", 0), ("110", 0), ("110", 0), ("100", 0), ("100", 0)];
    assert_eq!(outputs(&program(drawing), LD, &inputs), ["0 0 0 0", "0 0 0 0", "0 0 0 0", "1 1 0 0", "0 0 0 0"]);
}

#[test]
fn an_edge_contact_that_has_no_power_still_looks() {
    let drawing = "
|   b     a     x   |
+--| |---|P|---( )--+

|   a     y   |
+--|N|---( )--+";
    let inputs = [("100", 0), ("110", 0), ("010", 0), ("110", 0)];
    assert_eq!(outputs(&program(drawing), LD, &inputs), ["0 0 0 0", "0 0 0 0", "0 1 0 0", "1 0 0 0"]);
}

#[test]
fn a_box_without_enable_keeps_its_outputs() {
    let drawing = "
|   a      +---------+          |
+--| |-----+EN ADD ENO+         |
|      n --+         +-- k      |
|      1 --+         |          |
|          +---------+          |";
    // The right edge is not straight: no box.
    assert!(read(&program(drawing), LD).has_errors());
    let drawing = "
|   a      +----------+   x   |
+--| |-----+EN ADD ENO+--( )--+
|      n --+          +-- k   |
|      1 --+          |       |
|          +----------+       |";
    let inputs = [("100", 4), ("000", 9), ("100", 9)];
    assert_eq!(outputs(&program(drawing), LD, &inputs), ["1 0 0 5", "0 0 0 5", "1 0 0 10"]);
}

#[test]
fn a_wire_of_a_box_without_enable_keeps_its_value() {
    let drawing = "
         +----------+     +-----+
   a ----+EN ADD ENO|  +--+ MUL +--- k
   n ----+          +--+  |     |
   1 ----+          |  2 -+     |
         +----------+     +-----+";
    let inputs = [("100", 4), ("000", 9), ("100", 9)];
    assert_eq!(outputs(&program(drawing), FBD, &inputs), ["0 0 0 10", "0 0 0 10", "0 0 0 20"]);
}

#[test]
fn a_wire_that_leads_back_is_one_evaluation_old() {
    // k counts up by n: the sum of the evaluation before and n.
    let drawing = "
           +-----+
   n ------+ ADD +--+--- k
        +--+     |  |
        |  +-----+  |
        +-----------+";
    let text = program(drawing);
    // Its type hangs on its inputs, so the drawing must say it by a variable.
    let problems = problems_of(&text, FBD);
    assert!(problems.contains("the type of this wire, which leads back, cannot be told"), "{problems}");
    let drawing = "
           +----+      +-----+
   a ------+ OR +------+ AND +--+--- x
        +--+    |  b -o+     |  |
        |  +----+      +-----+  |
        +-----------------------+";
    let inputs = [("000", 0), ("100", 0), ("000", 0), ("010", 0), ("000", 0)];
    assert_eq!(outputs(&program(drawing), FBD, &inputs), ["0 0 0 0", "1 0 0 0", "1 0 0 0", "0 0 0 0", "0 0 0 0"]);
}

#[test]
fn wires_cross_without_touching() {
    let drawing = "
                   +-----+
   a --+-----------+ AND +--- x
       |    +------+     |
   b --|----+      +-----+
       |
       |    +------+
       +----+ NOT  +--- y
            +------+";
    let inputs = [("000", 0), ("100", 0), ("010", 0), ("110", 0)];
    assert_eq!(outputs(&program(drawing), FBD, &inputs), ["0 1 0 0", "0 0 0 0", "0 1 0 0", "1 0 0 0"]);
}

#[test]
fn box_characters_and_comparisons_are_read() {
    let drawing = "
│   a      n       x  │
├──┤ ├──┬──┤>=├───( )─┤
│   b   │   3         │
└──┤/├──┘             │";
    let inputs = [("000", 3), ("010", 9), ("110", 9), ("110", 2)];
    assert_eq!(outputs(&program(drawing), LD, &inputs), ["1 0 0 0", "0 0 0 0", "1 0 0 0", "0 0 0 0"]);
}

#[test]
fn coils_in_series_and_a_rung_that_goes_on_below() {
    let drawing = "
|   a          x         y     |
+--| |--------( )-------(S)----+

|   b                          |
+--| |----------------->go>    |
~~~~
|          c        z   |
| >go>----|/|------( )--+";
    let inputs = [("000", 0), ("110", 0), ("011", 0)];
    assert_eq!(outputs(&program(drawing), LD, &inputs), ["0 0 0 0", "1 1 1 0", "0 1 0 0"]);
}

#[test]
fn jumps_back_are_rounds() {
    let drawing = "
|         +-----------+        |
+---------+EN MOVE ENO|        |
|    0 ---+           +--- k   |
|         +-----------+        |

again:
|         +----------+        |
+---------+EN ADD ENO|        |
|    k ---+          +--- k   |
|    2 ---+          |        |
|         +----------+        |

|    k               |
+---|<|----->>again  |
|    n               |

|   k              |
+--|>|--<RETURN>   |
|   6              |

|         x  |
+--------(/)-+";
    let inputs = [("000", 5), ("000", 7), ("000", 0)];
    assert_eq!(outputs(&program(drawing), LD, &inputs), ["0 0 0 6", "0 0 0 8", "0 0 0 2"]);
}

#[test]
fn a_rung_wider_than_a_page_is_cut_and_stays_what_it_is() {
    let mut text =
        "PROGRAM P\nVAR_INPUT\n    a : BOOL;\nEND_VAR\nVAR_OUTPUT\n    x : BOOL;\nEND_VAR\nVAR\n".to_string();
    for n in 0..30 {
        text.push_str(&format!("    Interlock{n} : BOOL := TRUE;\n"));
    }
    let terms: Vec<String> = (0..30).map(|n| format!("(Interlock{n} OR NOT Interlock{n})")).collect();
    text.push_str(&format!("END_VAR\n    x := a AND {};\nEND_PROGRAM\n", terms.join(" AND ")));
    for language in [LD, FBD] {
        let drawing = translated("wide", &text, Language::St, language);
        assert!(drawing.lines().all(|l| l.chars().count() < 165), "{drawing}");
        assert!(drawing.contains("~~~~"), "{drawing}");
        assert_eq!(drawing, translated("again", &drawing, language, language));
        let run = |text: &str, form: Language| trace(&machine("wide", text, form), "time_ms,a\n0,0\n20,1\n", 4);
        assert_eq!(run(&text, Language::St), run(&drawing, language));
    }
}

/// Texts that look like edges and are none: the memory is not written in every case, or by something else.
#[test]
fn only_a_true_edge_becomes_an_edge_contact() {
    let text = |body: &str| {
        format!(
            "PROGRAM P\nVAR_INPUT\n    a, b, c : BOOL;\n    n : INT;\nEND_VAR\nVAR_OUTPUT\n    x, y, z : BOOL;\n    k : INT;\n\
             END_VAR\nVAR\n    was : BOOL;\n    late : BOOL := TRUE;\nEND_VAR\n{body}END_PROGRAM\n"
        )
    };
    let inputs = [("000", 0), ("100", 0), ("110", 0), ("010", 0), ("110", 0), ("100", 0), ("101", 0), ("111", 0)];
    for (body, is_edge) in [
        ("x := a AND NOT was;\nwas := a;\n", true),
        ("y := b;\nIF b AND a AND NOT was THEN\n    k := k + 1;\nEND_IF;\nz := c;\nwas := a;\n", true),
        ("x := (a OR b) AND NOT was;\nwas := a OR b;\n", false),
        ("x := NOT (a AND NOT was);\nwas := a;\n", false),
        ("IF a AND NOT was THEN\n    x := TRUE;\n    RETURN;\nEND_IF;\nwas := a;\n", false),
        ("x := a AND NOT was;\nIF b THEN\n    RETURN;\nEND_IF;\nwas := a;\n", false),
        ("x := a AND NOT was;\nwas := b;\n", false),
        ("x := a AND NOT was;\nwas := a;\ny := was;\n", false),
        ("x := a AND NOT late;\nlate := a;\n", false),
        ("z := y AND NOT was;\ny := a;\nwas := y;\n", false),
    ] {
        let text = text(body);
        let drawing = translated("edge", &text, Language::St, LD);
        assert_eq!(drawing.contains("|P|"), is_edge, "{text}{drawing}");
        outputs(&text, Language::St, &inputs);
    }
}

fn read(text: &str, language: Language) -> Diagnostics {
    let (project, problems) = read_project(vec![(Source::new("drawing", text), language)]);
    honest_twin::check::verify(project, problems).1
}

/// Problems as `line:column code message`.
fn problems_of(text: &str, language: Language) -> String {
    let source = Source::new("drawing", text);
    let said = read(text, language).0.into_iter().map(|p| {
        let at = source.line_column(p.span.start);
        format!("{}:{} {} {}\n", at.line, at.column, p.code.0, p.message)
    });
    said.collect()
}

#[test]
fn bad_drawings_are_told_all_at_once() {
    let drawing = "
|   a     b       x   |
+--| |---| |     ( )--+

|            c        |
+-----------| |-|     |

|                     |
+----| |------- y ?   |

|   a         z    |
+--| |--------( )--+
|   d   |          |
+--| |--+          |

|  k         |
+--| |--->>no|

|       +------+          |
+-------+IN   Q+---( )----+
|       +------+          |

| word |
+------+";
    insta::assert_snapshot!("bad_rungs", problems_of(&program(drawing), LD));
    let drawing = "
         +-----+
   a --+-+ AND +--- x
       | |     |
   b --+ +-----+

       +-----+
   c --+ XYZ +--- y
       +-----+

         t
       +-----+
   a --+IN TOF Q+--- z
       +-----+

   a --- t.Q

    t
   +------+
 a-+IN TP |
   |     Q+--- y
   +------+";
    insta::assert_snapshot!("bad_boxes", problems_of(&program(drawing), FBD));
}

/// `//`, `/*` and pragmas begin where nothing but blanks and comments stand before them on the line; `(*` anywhere.
#[test]
fn comments_begin_a_line_or_stand_behind_others() {
    let drawing = "
  (* one *) // two
|   a          x   |
+--| |--------( )--+

/* three,
   of two lines */   // four
\u{3000}{five}
|   b          y   |   (* six *)
+--| |--------( )--+";
    let text = program(drawing);
    assert_eq!(outputs(&text, LD, &[("100", 0), ("010", 0)]), ["1 0 0 0", "0 1 0 0"]);
    let told = translated("told", &text, LD, Language::St);
    for word in ["one", "two", "three", "four", "five", "six"] {
        assert!(told.contains(word), "{word}: {told}");
    }
}
