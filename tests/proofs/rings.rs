//! Rings and queues: what one version moves along by a place another keeps where it is, and moves an index. Each kind once as it
//! should be, and with slips that part them; what parts them is never proved away.

use super::decided::{
    Row,
    Wanted::{Differs, Same},
};
use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::prove::{Means, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::twin::{Effort, Twin, Verdict};
use rayon::prelude::*;

const TRAYS: &str = "VAR_INPUT Weight : INT; Tray : BOOL; END_VAR VAR_OUTPUT Leaves : INT; END_VAR
    VAR S : ARRAY[0..5] OF INT; R : ARRAY[0..6] OF INT; i, Place : INT; END_VAR";

const MARKS: &str = "VAR_INPUT Dead : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR
    VAR W : WORD; R : ARRAY[0..7] OF BOOL; Place : INT; END_VAR";

const ORDERS: &str = "VAR_INPUT Grams : INT; Order, Fed : BOOL; END_VAR VAR_OUTPUT Next, Waiting : INT; END_VAR
    VAR Q : ARRAY[0..4] OF INT; N, Head, Tail, i : INT; Full : BOOL; END_VAR";

const MOVED: &str =
    "IF Tray THEN FOR i := 5 TO 1 BY -1 DO S[i] := S[i - 1]; END_FOR; S[0] := Weight; END_IF; Leaves := S[5];";

const RING: &str = "IF Tray THEN R[Place] := Weight; Place := (Place + 1) MOD 6; END_IF; Leaves := R[Place];";

const SHIFTED: &str = "IF Fed AND N > 0 THEN FOR i := 0 TO 3 DO Q[i] := Q[i + 1]; END_FOR; N := N - 1; END_IF;
     IF Order AND N < 4 THEN Q[N] := Grams; N := N + 1; END_IF; Next := SEL(N > 0, 0, Q[0]); Waiting := N;";

const COUNTED: &str = "IF Fed AND N > 0 THEN Head := (Head + 1) MOD 4; N := N - 1; END_IF;
     IF Order AND N < 4 THEN Q[(Head + N) MOD 4] := Grams; N := N + 1; END_IF;
     Next := SEL(N > 0, 0, Q[Head]); Waiting := N;";

const ENDS: &str =
    "IF Fed AND (Full OR Head <> Tail) THEN Head := Head + 1; IF Head > 3 THEN Head := 0; END_IF; Full := FALSE; END_IF;
     IF Order AND NOT Full THEN Q[Tail] := Grams; Tail := Tail + 1; IF Tail > 3 THEN Tail := 0; END_IF;
     Full := Head = Tail; END_IF; Next := SEL(Full OR Head <> Tail, 0, Q[Head]);
     Waiting := SEL(Full, (Tail - Head + 4) MOD 4, 4);";

pub(super) const RINGS: &[Row] = &[
    ("six trays moved along, and a ring of six", TRAYS, [MOVED, RING], Same),
    (
        "rings that turn against each other",
        TRAYS,
        [RING, "IF Tray THEN R[Place] := Weight; Place := SEL(Place = 0, Place - 1, 5); END_IF; Leaves := R[Place];"],
        Same,
    ),
    (
        "six trays moved along, and a ring of seven",
        TRAYS,
        [MOVED, "IF Tray THEN R[Place] := Weight; Place := (Place + 1) MOD 7; END_IF; Leaves := R[Place];"],
        Differs,
    ),
    (
        "eight marks in a word, and in a ring",
        MARKS,
        [
            "W := SHL(W, 1) AND 16#00FF; IF Dead THEN W := W OR 16#0001; END_IF; Alarm := (W AND 16#0081) = 16#0081;",
            "R[Place] := Dead; Place := (Place + 1) MOD 8; Alarm := Dead AND R[Place];",
        ],
        Same,
    ),
    (
        "eight marks in a word, and seven in a ring",
        MARKS,
        [
            "W := SHL(W, 1) AND 16#00FF; IF Dead THEN W := W OR 16#0001; END_IF; Alarm := (W AND 16#0081) = 16#0081;",
            "R[Place] := Dead; Place := (Place + 1) MOD 7; Alarm := Dead AND R[Place];",
        ],
        Differs,
    ),
    ("orders that move up, and a ring with its first and how many", ORDERS, [SHIFTED, COUNTED], Same),
    ("orders that move up, and a ring with both ends", ORDERS, [SHIFTED, ENDS], Same),
    ("a ring with its first and how many, and one with both ends", ORDERS, [COUNTED, ENDS], Same),
];

/// Slips in rings and queues: what stands in the program, and what stands there by mistake.
const SLIPS: &[(&str, &str, [&str; 2])] = &[
    (MOVED, RING, ["MOD 6", "MOD 5"]),
    (MOVED, RING, ["Leaves := R[Place]", "Leaves := R[(Place + 5) MOD 6]"]),
    (MOVED, RING, ["R[Place] := Weight; Place := (Place + 1) MOD 6", "Place := (Place + 1) MOD 6; R[Place] := Weight"]),
    (SHIFTED, COUNTED, ["N < 4", "N < 3"]),
    (SHIFTED, COUNTED, ["(Head + N) MOD 4", "(Head + N) MOD 5"]),
    (SHIFTED, COUNTED, ["Q[Head]", "Q[(Head + N) MOD 4]"]),
    (SHIFTED, COUNTED, ["Fed AND N > 0", "Fed AND N > 1"]),
    (SHIFTED, ENDS, ["Full := FALSE;", ""]),
    (SHIFTED, ENDS, ["Full := Head = Tail;", "Full := Head + 1 = Tail;"]),
    (COUNTED, ENDS, ["Tail > 3", "Tail > 4"]),
    (COUNTED, ENDS, ["Head > 3", "Head > 2"]),
];

/// Without a search, so that nothing is found but what the proof itself comes to: a pair with a slip is shown to differ or is left
/// undecided, and the pair without it is proved by facts about places, which a certificate repeats.
#[test]
fn a_slip_in_a_ring_is_never_proved_the_same() {
    let effort = Effort { scenarios: 1, faults: 0, ..Effort::default() };
    let means = Means { effort, conditions: false, ..Means::default() };
    let decided = |old: &str, new: &str| {
        let head = if old.contains("Tray") { TRAYS } else { ORDERS };
        let versions =
            [old, new].map(|body| version("v", &format!("PROGRAM P\n{head}\n{body}\nEND_PROGRAM\n"), Language::St));
        prove_certified(&Twin::new(&versions[0], &versions[1]), &means, |_| true)
    };
    let differ = SLIPS.par_iter().map(|(old, new, [right, wrong])| {
        assert!(new.contains(right), "{right} is not in {new}");
        let slipped = new.replacen(right, wrong, 1);
        let verdict = decided(old, &slipped).0;
        assert!(!matches!(verdict, Verdict::Proved(_) | Verdict::Broken(_)), "{slipped}");
        usize::from(matches!(verdict, Verdict::Different(_)))
    });
    let differ: usize = differ.sum();
    assert!(differ + 3 >= SLIPS.len(), "{differ} of {} are shown to differ", SLIPS.len());
    let (verdict, certificate) = decided(MOVED, RING);
    assert!(matches!(verdict, Verdict::Proved(_)));
    let certificate = certificate.unwrap();
    recheck(&certificate.miter, &certificate.certificate).unwrap();
    let told = "where v.Place = 2: v.S[5] = v.R[2]";
    assert!(certificate.facts.contains(told), "{}", certificate.facts);
}
