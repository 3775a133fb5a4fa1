//! Terminals: within one dialect a point is where it is wired. What has exchanged its address is compared by that, what has
//! moved is held against nothing, until somebody says that the wires move along.

use crate::common::dialects::wired;
use honest_twin::prove::{Means, prove};
use honest_twin::show;
use honest_twin::twin::{Effort, Mapping, Twin, Verdict, compare_twin};

#[test]
fn exchanged_terminals_are_compared_by_terminal() {
    let text = |[a, b, c]: [&str; 3]| {
        format!(
            "PROGRAM Main VAR Feed AT {a}, Hold AT {b} : BOOL; END_VAR VAR Gate AT {c} : BOOL; END_VAR
             Gate := (Feed OR Gate) AND NOT Hold; END_PROGRAM"
        )
        .replace(", Hold AT", " : BOOL; Hold AT")
    };
    let effort = Effort { scenarios: 60, scans: 6_000, faults: 0, ..Effort::default() };
    let means = Means { effort: effort.clone(), conditions: false, ..Means::default() };
    for (family, places) in [
        ("iec", ["%IX0.0", "%IX0.1", "%QX0.0", "%IX3.0"]),
        ("byte-bit", ["SENSE0.0", "SENSE0.1", "ACT0.0", "SENSE3.0"]),
    ] {
        let [a, b, c, far] = places;
        let [left, right] = wired(family, &text([a, b, c]), &text([b, a, c]));
        let mut twin = Twin::new(&left, &right);
        for verdict in [compare_twin(&twin, &effort, |_| {}), prove(&twin, &means, |_| true)] {
            let text = show::verdict(&verdict);
            assert!(matches!(verdict, Verdict::Different(_)), "{family}: {text}");
            let limit = format!(
                "LIMITED: input Feed: at {a} on the left and at {b} on the right, so it is compared by its terminal, with Hold"
            );
            assert!(text.contains(&limit), "{family}: {text}");
        }
        assert!(show::junit(&twin, &compare_twin(&twin, &effort, |_| {}), &[]).unwrap().contains("name=\"limited\""));
        // Whoever says that the wires move along has it compared by name, both names at once.
        twin.pairing.agree("feed").unwrap();
        let verdict = prove(&twin, &means, |_| true);
        let text_of = show::verdict(&verdict);
        assert!(matches!(verdict, Verdict::Proved(_)), "{family}: {text_of}");
        assert_eq!(text_of.matches("its wire moves along, as was agreed").count(), 2, "{family}: {text_of}");
        // Moved, not exchanged: on the right nothing hears that terminal, until somebody has said that the wire moves along.
        let [left, right] = wired(family, &text([a, b, c]), &text([a, far, c]));
        let mut twin = Twin::new(&left, &right);
        for verdict in [compare_twin(&twin, &effort, |_| {}), prove(&twin, &means, |_| true)] {
            let Verdict::Different(difference) = &verdict else { panic!("{family}: {}", show::verdict(&verdict)) };
            let told = show::verdict(&verdict);
            assert!(
                told.contains(&format!("LIMITED: input Hold: at {b} on the left and at {far} on the right")),
                "{told}"
            );
            assert!(difference.stimulus.contains("Hold") && difference.name == "Gate", "{told}");
        }
        let objection = twin.pairing.unsettled_objection().unwrap();
        assert!(
            objection.contains(&format!("input Hold: at {b} on the left and at {far} on the right")),
            "{objection}"
        );
        twin.pairing.pair([&left, &right], ["Hold", "Hold"], Mapping::Same).unwrap();
        assert!(matches!(prove(&twin, &means, |_| true), Verdict::Proved(_)), "{family}");
    }
    // What makes no difference at either terminal is proved, by terminal.
    let [left, right] = ["%IX0.0 : BOOL; b AT %IX0.1", "%IX0.1 : BOOL; b AT %IX0.0"].map(|places| {
        format!("PROGRAM Main VAR a AT {places} : BOOL; END_VAR VAR_OUTPUT p : BOOL; END_VAR p := a OR b; END_PROGRAM")
    });
    let [left, right] = wired("iec", &left, &right);
    let verdict = prove(&Twin::new(&left, &right), &means, |_| true);
    assert!(matches!(verdict, Verdict::Proved(_)) && show::verdict(&verdict).contains("with b"));
}

/// Any number of terminals may change places: what leads back to itself is exchanged, the rest has moved; a long list is cut
/// in text and whole in the pairing.
#[test]
fn terminals_change_places_in_rings_and_chains() {
    let text = |places: &[usize]| {
        let inputs: String = places.iter().enumerate().map(|(n, at)| format!("x{n} AT %IX{at}.0 : BOOL; ")).collect();
        let all: Vec<String> = (0..places.len()).map(|n| format!("x{n}")).collect();
        format!("PROGRAM P VAR {inputs} END_VAR VAR_OUTPUT o : BOOL; END_VAR o := {}; END_PROGRAM", all.join(" AND "))
    };
    let straight = |count: usize| (0..count).collect::<Vec<_>>();
    let case = |left: &[usize], right: &[usize]| {
        let [left, right] = wired("iec", &text(left), &text(right));
        let twin = Twin::new(&left, &right);
        let exchanged = twin.pairing.moved().iter().filter(|m| m.with.is_some()).count();
        let verdict = show::verdict(&compare_twin(
            &twin,
            &Effort { scenarios: 4, scans: 400, faults: 0, ..Effort::default() },
            |_| {},
        ));
        (exchanged, twin.pairing.moved().len() - exchanged, twin.pairing.unsettled_objection().is_some(), verdict)
    };
    // A ring of three beside one that stays and one that goes to an address of its own.
    let (exchanged, moved, open, text_of) = case(&straight(5), &[1, 2, 0, 3, 9]);
    assert!((exchanged, moved, open) == (3, 1, true) && text_of.contains("input x4: at %IX4.0"), "{text_of}");
    // A chain: each goes to where the next one was, the last to a new address.
    assert_eq!(case(&straight(4), &[1, 2, 3, 8]).0, 0);
    assert_eq!(case(&straight(4), &[1, 2, 3, 8]).1, 4);
    // Two rings.
    let (exchanged, moved, open, _) = case(&straight(5), &[1, 0, 3, 4, 2]);
    assert_eq!((exchanged, moved, open), (5, 0, false));
    let ring: Vec<usize> = (0..200).map(|n| (n + 1) % 200).collect();
    let (exchanged, _, _, text_of) = case(&straight(200), &ring);
    assert_eq!((exchanged, text_of.matches("LIMITED: input x").count()), (200, 12));
    assert!(text_of.contains("LIMITED: and in 188 more points; the report and the JSON name all"), "{text_of}");
}

/// An output at a terminal of its own: what it showed there is shown there no more. A terminal that another point has taken
/// is not looked at, and what makes no difference at a free terminal is not called the same either.
#[test]
fn a_terminal_that_is_free_on_the_right_shows_nothing() {
    let text = |input: &str, output: &str, other: &str| {
        format!(
            "PROGRAM Main VAR Feed AT {input} : BOOL; Lid AT {other} : BOOL; END_VAR VAR Gate AT {output} : BOOL; END_VAR
             VAR_OUTPUT Both AT %QX7.0 : BOOL; END_VAR Gate := Feed; Both := Feed AND NOT Feed AND Lid; END_PROGRAM"
        )
    };
    let old = text("%IX0.0", "%QX0.0", "%IX5.0");
    let effort = Effort { scenarios: 40, scans: 4_000, faults: 0, ..Effort::default() };
    let means = Means { effort: effort.clone(), conditions: false, ..Means::default() };
    for (new, differs) in [
        (text("%IX0.0", "%QX0.1", "%IX5.0"), Some("Gate")),
        (text("%IX0.1", "%QX0.0", "%IX5.0"), Some("Gate")),
        // Nothing hangs on the lid: no difference, and no sameness either.
        (text("%IX0.0", "%QX0.0", "%IX5.1"), None),
        // The lid has taken the terminal of the feed.
        (text("%IX0.1", "%QX0.0", "%IX0.0"), None),
    ] {
        let [left, right] = wired("iec", &old, &new);
        let twin = Twin::new(&left, &right);
        for verdict in [compare_twin(&twin, &effort, |_| {}), prove(&twin, &means, |_| true)] {
            let told = show::verdict(&verdict);
            match (&verdict, differs) {
                (Verdict::Different(difference), Some(name)) => assert_eq!(difference.name, name, "{told}"),
                (Verdict::Undecided { reason, .. }, None) => {
                    assert!(reason.contains("points are at other terminals"), "{told}");
                }
                _ => panic!("{new}\n{told}"),
            }
        }
    }
    // The lamp on the right hears a terminal that the left has not: nothing is said of it while the key has moved.
    let lamp = |key: &str, rule: &str| {
        format!(
            "PROGRAM Main VAR Key AT {key} : BOOL; Feed AT %IX1.0 : BOOL; END_VAR
             VAR_OUTPUT Gate AT %QX0.0, Lamp AT %QX0.1 : BOOL; END_VAR Gate := Key; Lamp := {rule}; END_PROGRAM"
        )
        .replace("%QX0.0, Lamp", "%QX0.0 : BOOL; Lamp")
    };
    let [left, right] = wired("iec", &lamp("%IX0.0", "Feed"), &lamp("%IX0.1", "Feed OR Key"));
    let Verdict::Different(difference) =
        prove(&Twin::new(&left, &right), &Means { conditions: true, ..means }, |_| true)
    else {
        panic!("the key has moved")
    };
    assert!(difference.name == "Gate" && difference.proved.is_empty(), "{:?}", difference.proved);
    let [left, right] = wired("iec", &old, &text("%IX0.0", "%QX0.1", "%IX5.0"));
    let told = show::verdict(&compare_twin(&Twin::new(&left, &right), &effort, |_| {}));
    assert!(told.contains("new: nothing stands at that terminal\n"), "{told}");
    assert!(told.contains("in new nothing stands at the terminal of Gate"), "{told}");
}
