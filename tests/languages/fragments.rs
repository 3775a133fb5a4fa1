//! Pasted statements, instructions, rungs and boxes without a head and without declarations: what they are taken for, and
//! that they mean what they mean between a head and its end.

use crate::common::{machine, trace};
use honest_twin::check::{Checked, check, declarations, verify};
use honest_twin::lang::{LANGUAGES, Language, read_project};
use honest_twin::source::Source;
use honest_twin::translate::translate;
use std::fmt::Write;

const PUMP: [(&str, Language); 4] = [
    (
        "// the screen is rinsed until the head falls\nRinse := (Head OR Rinse) AND NOT Low;\nSettle(IN := Rinse, PT := T#3s);\n\
         Pump := Settle.Q;\nCount(CU := Pump, R := Reset, PV := 3);\nService := Count.Q;\nLeft := 3 - Count.CV;\n",
        Language::St,
    ),
    (
        "LD Head\nOR Rinse\nANDN Low\nST Rinse\nCAL Settle(IN := Rinse, PT := T#3s)\nLD Settle.Q\nST Pump\n\
         CAL Count(CU := Pump, R := Reset, PV := 3)\nLD Count.Q\nST Service\nLD 3\nSUB Count.CV\nST Left\n",
        Language::Il,
    ),
    (
        "
 |  Head        Low     Rinse  |
 +---| |---+----|/|------( )---+
 |  Rinse  |                   |
 +---| |---+                   |

 |                 Settle              |
 |  Rinse        +--------+    Pump    |
 +---| |---------+IN TON Q+-----( )----+
 |       T#3s ---+PT    ET|            |
 |               +--------+            |

 |                 Count               |
 |  Pump         +--------+  Service   |
 +---| |---------+CU CTU Q+-----( )----+
 |  Reset        |      CV|            |
 +---| |---------+R       |            |
 |          3 ---+PV      |            |
 |               +--------+            |
",
        Language::Ld,
    ),
    (
        "
           +----+     +-----+
  Head ----+ OR +-----+ AND +---- Rinse
  Rinse ---+    |     |     |
           +----+ +--o+     |
                  |   +-----+
  Low ------------+

             Settle
           +--------+
  Rinse ---+IN TON Q+---- Pump
  T#3s ----+PT    ET|
           +--------+
",
        Language::Fbd,
    ),
];

fn fragment(text: &str, language: Language) -> Result<Checked, String> {
    let source = Source::new(format!("pasted.{}", language.ending()), text);
    let (project, problems) = read_project(vec![(source, language)]);
    let (checked, all) = verify(project, problems);
    checked.ok_or_else(|| all.0.iter().map(|p| format!("{} {}\n", p.code.0, p.message)).collect())
}

#[test]
fn what_declares_nothing_is_declared_by_its_use() {
    let mut out = String::new();
    for (text, language) in PUMP {
        let checked = fragment(text, language).unwrap_or_else(|p| panic!("{p}"));
        let hint = checked.warnings().0.iter().find(|w| w.code.0 == "H11").unwrap();
        let _ = writeln!(out, "=== {}\n{}\n{}", language.title(), hint.message, hint.help.clone().unwrap_or_default());
        let _ = writeln!(out, "{}", translate(&checked, Language::St).unwrap().files[0].text);
    }
    insta::assert_snapshot!(out);
}

/// A fragment does what the same text does with the declarations that it lacks, in each language it is translated to.
#[test]
fn a_fragment_means_what_it_means_with_a_head() {
    let stimulus = "time_ms,Head,Low,Reset\n0,0,0,0\n50,1,0,0\n100,0,0,0\n4000,0,1,0\n4100,1,0,0\n9000,0,0,1\n";
    for (text, language) in PUMP {
        let checked = fragment(text, language).unwrap();
        // The diagram has no reset.
        let columns = if language == Language::Fbd { 3 } else { 4 };
        let cut = |line: &str| line.split(',').take(columns).collect::<Vec<_>>().join(",") + "\n";
        let stimulus: String = stimulus.lines().map(cut).collect();
        let run = |text: &str, language| trace(&machine("whole", text, language), &stimulus, 1000);
        let whole = translate(&checked, language).unwrap().files[0].text.clone();
        assert!(whole.contains("PROGRAM pasted"), "{whole}");
        let expected = run(&whole, language);
        assert!(expected.0.lines().any(|l| l.contains(",1")), "{whole}");
        for &other in LANGUAGES {
            let translated = translate(&checked, other).unwrap().files[0].text.clone();
            assert_eq!(run(&translated, other), expected, "{translated}");
        }
    }
}

/// What begins or ends a unit somewhere is no fragment, whatever else is wrong with it; and a fragment with mistakes has
/// its problems at their places.
#[test]
fn a_head_that_is_misspelt_makes_no_fragment() {
    let cases = [
        ("PROGRM Main\nVAR x : BOOL; END_VAR\nx := TRUE;\nEND_PROGRAM\n", Language::St),
        ("x := TRUE;\nEND_PROGRAM\n", Language::St),
        ("VAR x : BOOL; END_VAR\nx := TRUE;\n", Language::St),
        ("Pump := Head AND;\n", Language::St),
        ("LD Head\nANDX Low\nST Pump\n", Language::Il),
        ("Pump := Head + 1;\nPump := T#3s;\n", Language::St),
        ("", Language::St),
        ("(* nothing *)\n", Language::Il),
    ];
    let mut out = String::new();
    for (text, language) in cases {
        let _ = writeln!(out, "--- {}", text.escape_debug());
        out.push_str(&fragment(text, language).err().unwrap_or_else(|| "read\n".to_string()));
    }
    insta::assert_snapshot!(out);
}

#[test]
fn declarations_say_the_section() {
    let (project, _) = read_project(vec![(Source::new("pasted.st", PUMP[0].0), Language::St)]);
    let all: Vec<String> =
        declarations(&project).iter().map(|d| format!("{} {} : {}", d.section, d.name, d.ty)).collect();
    assert_eq!(
        all,
        [
            "VAR_INPUT Head : BOOL",
            "VAR Rinse : BOOL",
            "VAR_INPUT Low : BOOL",
            "VAR Settle : TON",
            "VAR Pump : BOOL",
            "VAR Count : CTU",
            "VAR_INPUT Reset : BOOL",
            "VAR_OUTPUT Service : BOOL",
            "VAR_OUTPUT Left : INT",
        ]
    );
    assert!(check(project).is_ok());
}
