//! Certificates written by hand, one that proves and one for each way in which it does not: the checker accepts the first
//! and says of the others what is wanting.

use honest_twin::recheck::{Doubt, recheck};
use proptest::prelude::*;

/// A graph of the AIGER format. A literal is twice a variable's number, plus 1 if it is inverted; variable 0 is FALSE,
/// inputs come first, then latches, then gates.
#[derive(Clone, Default)]
struct Graph {
    inputs: usize,
    latches: Vec<u32>,
    outputs: Vec<u32>,
    bad: Vec<u32>,
    constraints: Vec<u32>,
    gates: Vec<[u32; 2]>,
    symbols: Vec<&'static str>,
}

impl Graph {
    fn bytes(&self) -> Vec<u8> {
        let most = self.inputs + self.latches.len() + self.gates.len();
        let counts = [most, self.inputs, self.latches.len(), self.outputs.len(), self.gates.len()];
        let more = [self.bad.len(), self.constraints.len()];
        let words: Vec<String> = counts.iter().chain(&more).map(ToString::to_string).collect();
        let mut out = format!("aig {}\n", words.join(" ")).into_bytes();
        for literal in [&self.latches, &self.outputs, &self.bad, &self.constraints].into_iter().flatten() {
            out.extend(format!("{literal}\n").into_bytes());
        }
        let first = 1 + self.inputs + self.latches.len();
        for (number, gate) in self.gates.iter().enumerate() {
            let own = 2 * (first + number) as u32;
            for mut delta in [own - gate[0], gate[0] - gate[1]] {
                while delta > 0x7F {
                    out.push(delta as u8 & 0x7F | 0x80);
                    delta >>= 7;
                }
                out.push(delta as u8);
            }
        }
        for symbol in &self.symbols {
            out.extend(format!("{symbol}\n").into_bytes());
        }
        out
    }
}

/// Two versions that keep an input, each in a latch of its own; the fact is that both keep the same, and what must not be
/// is that they show something else. Literal 13 is TRUE where the latches differ.
fn miter() -> Graph {
    Graph {
        inputs: 1,
        latches: vec![2, 2],
        outputs: vec![13],
        bad: vec![13],
        gates: vec![[7, 4], [6, 5], [11, 9]],
        symbols: vec!["i0 Low", "l0 old Alarm", "l1 new Alarm", "o0 not so: both keep the same", "b0 not so: Alarm"],
        ..Graph::default()
    }
}

/// The claims as outputs that are never TRUE: of one fact two, of one goal one.
fn certificate() -> Graph {
    Graph { inputs: 1, outputs: vec![0, 0, 0], ..Graph::default() }
}

#[test]
fn what_proves_is_accepted() {
    let checked = recheck(&miter().bytes(), &certificate().bytes()).unwrap();
    assert_eq!((checked.latches, checked.inputs, checked.gates, checked.facts), (2, 1, 3, 1));
    assert_eq!((checked.goals, checked.outputs, checked.assumed.len()), (vec!["Alarm".to_string()], 3, 0));
}

/// What is wanting of a miter after a change.
fn doubt(change: impl FnOnce(&mut Graph)) -> Doubt {
    let mut graph = miter();
    change(&mut graph);
    recheck(&graph.bytes(), &certificate().bytes()).unwrap_err()
}

fn unfit(file: &'static str, why: &'static str) -> Doubt {
    Doubt::Unfit { file, why }
}

#[test]
fn each_refusal_says_what_is_wanting() {
    assert_eq!(doubt(|g| g.latches[1] = 3), Doubt::NotKept("both keep the same".to_string()));
    assert_eq!(doubt(|g| g.bad[0] = 4), Doubt::DoesNotFollow("Alarm".to_string()));
    // That they differ holds nowhere at power-up, where both are 0.
    assert_eq!(doubt(|g| g.outputs[0] = 12), Doubt::AtPowerUp("both keep the same".to_string()));
    assert_eq!(doubt(|g| g.outputs[0] = 2), unfit("miter.aig", "a fact is about an input"));
    let why = "it has no bad states that would have to be ruled out";
    assert_eq!(doubt(|g| g.bad.clear()), unfit("miter.aig", why));
    let why = "its outputs are not those of the facts and goals";
    assert_eq!(doubt(|g| g.outputs.push(13)), unfit("certificate.aig", why));
    let why = "it has a constraint that does not say of two results of an unknown function that they are the same";
    assert_eq!(doubt(|g| g.constraints.push(13)), unfit("miter.aig", why));
    // What is assumed may speak of what is given, not of what the versions keep.
    let why = "what it assumes speaks of more than what is given";
    let assumed = |g: &mut Graph, literal: u32| {
        g.constraints.push(literal);
        g.symbols.push("c0 assumed: Low is never on");
    };
    assert_eq!(doubt(|g| assumed(g, 4)), unfit("miter.aig", why));
    let why = "it assumes something, and has no input that takes power away";
    assert_eq!(doubt(|g| assumed(g, 3)), unfit("miter.aig", why));
    // What can never be met would let anything follow.
    let power = |g: &mut Graph, literal: u32| {
        assumed(g, literal);
        g.symbols.push("i0 power");
        g.symbols.retain(|symbol| *symbol != "i0 Low");
    };
    assert_eq!(doubt(|g| power(g, 0)), Doubt::Contradiction);
}

#[test]
fn the_other_file_is_checked_as_well() {
    let said = |change: fn(&mut Graph)| {
        let mut graph = certificate();
        change(&mut graph);
        recheck(&miter().bytes(), &graph.bytes()).unwrap_err()
    };
    assert!(matches!(said(|g| g.outputs[1] = 2), Doubt::Output(_)));
    assert!(matches!(said(|g| g.outputs[2] = 1), Doubt::Output(_)));
    let why = "it has latches or constraints";
    assert_eq!(said(|g| g.latches.push(0)), unfit("certificate.aig", why));
    assert_eq!(said(|g| g.constraints.push(1)), unfit("certificate.aig", why));
}

#[test]
fn what_is_no_graph_is_told() {
    let good = certificate().bytes();
    let unreadable = |bytes: &[u8], why: &str| {
        let Err(Doubt::Unreadable { file: "miter.aig", why: said }) = recheck(bytes, &good) else { panic!("{why}") };
        assert!(said.contains(why), "{said}");
    };
    unreadable(b"", "it ends in the middle of a line");
    unreadable(b"aag 0 0 0 0 0\n", "it does not begin with `aig`");
    unreadable(b"aig 0 0\n", "does not say how much there is of what");
    unreadable(b"aig a b c d e\n", "does not say how much there is of what");
    unreadable(b"aig 9 1 0 0 0\n", "promises what the file has not");
    unreadable(b"aig 99999999 99999999 0 0 0\n", "promises what the file has not");
    unreadable(b"aig 0 0 0 1 0\nx\n", "`x` is no literal");
    unreadable(b"aig 0 0 0 1 0\n8\n", "something reads what is not there");
    unreadable(b"aig 1 0 1 0 0\n0 1\n", "is no latch that begins with 0");
    unreadable(b"aig 1 0 0 0 1\n", "it ends among its gates");
    unreadable(b"aig 2 1 0 0 1\n\x00\x00", "a gate reads what is not there");
    unreadable(b"aig 2 1 0 0 1\n\xFF\xFF\xFF\xFF\xFF\xFF", "a number that is too large");
    unreadable(b"aig 1 1 0 0 0 0 0 1\n", "properties about what happens in the end");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 2_000, failure_persistence: None, ..ProptestConfig::default() })]

    /// A byte that is changed makes the checker doubt, or the graph still proves; it never makes it fall over, and what
    /// is accepted still says what it says of the goal: without a fact that is kept nothing is.
    #[test]
    fn a_changed_byte_is_no_way_round(at in 0usize..400, to in any::<u8>()) {
        let mut bytes = miter().bytes();
        let at = at % bytes.len();
        bytes[at] = to;
        if let Ok(checked) = recheck(&bytes, &certificate().bytes()) {
            prop_assert_eq!((checked.facts, checked.goals.len(), checked.outputs), (1, 1, 3));
        }
        let _ = recheck(&bytes[..at], &certificate().bytes());
    }
}
