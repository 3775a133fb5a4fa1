//! Facts one by one: said as bits they are what they are as numbers; what is sought holds where it was read off; what induction
//! keeps holds in states that it has not seen, and in the states that a scan makes of those.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use super::Means;
use super::computed::computed;
use super::cube::{Cube, Literal};
use super::directed::{Directed, directed};
use super::facts::{Claim, Fact, Guard, Held, Term};
use super::forward::told;
use super::induct::{Depth, Groups, Round, induct};
use super::seek::{seek, seek_logic};
use super::solve::Budget;
use super::system::System;
use crate::check::check;
use crate::circuit::{Bit, Graph};
use crate::lang::{Language, read_project};
use crate::source::Source;
use crate::twin::{Scenario, Stimuli, Twin, Verdict, Version, shown};
use fastrand::Rng;

fn version(name: &str, declared: &str, body: &str) -> Version {
    let text = format!(
        "PROGRAM P VAR_INPUT Low, Key : BOOL; Level : SINT; END_VAR VAR_OUTPUT Alarm : BOOL; Doses : INT; END_VAR {declared} {body}
         END_PROGRAM"
    );
    let (project, problems) = read_project(vec![(Source::new(name, text), Language::St)]);
    assert!(!problems.has_errors(), "{problems:?}");
    Version::new(name, check(project).unwrap()).unwrap()
}

/// Pairs with registers of many kinds: bits, numbers of several widths with and without a sign, times, retained and not.
fn pairs() -> Vec<[Version; 2]> {
    let texts = [
        (
            ["VAR N : INT; Was : BOOL; T : TON; END_VAR", "VAR M : INT := 30; E : R_TRIG; T : TON; END_VAR"],
            [
                "IF Low AND NOT Was AND N < 30 THEN N := N + 1; END_IF; Was := Low; T(IN := Low, PT := T#90ms);
                 Alarm := T.Q OR N = 30; Doses := N;",
                "E(CLK := Low); IF E.Q AND M > 0 THEN M := M - 1; END_IF; T(IN := Low, PT := T#90ms);
                 Alarm := T.Q OR M = 0; Doses := 30 - M;",
            ],
        ),
        (
            [
                "VAR RETAIN N : USINT; END_VAR VAR Step : SINT; END_VAR",
                "VAR RETAIN N : UINT; END_VAR VAR A, B, C : BOOL; END_VAR",
            ],
            [
                "IF Key THEN Step := 0; ELSIF Low AND Step < 2 THEN Step := Step + 1; END_IF;
                 IF Step = 2 AND N < 200 THEN N := N + 1; END_IF; Alarm := Step = 1; Doses := N;",
                "IF Key THEN B := FALSE; C := FALSE; ELSIF Low THEN C := B; B := TRUE; END_IF; A := NOT B;
                 IF C AND N < 200 THEN N := N + 1; END_IF; Alarm := B AND NOT C; Doses := UINT_TO_INT(N);",
            ],
        ),
        (
            ["VAR Most, Least : SINT; END_VAR", "VAR High, Deep : INT; END_VAR"],
            [
                "Most := MAX(Most, Level); Least := MIN(Least, Level); Alarm := Most > 100; Doses := Most - Least;",
                "IF Level > High THEN High := Level; END_IF; IF Level < Deep THEN Deep := Level; END_IF;
                 Alarm := High >= 101; Doses := High - Deep;",
            ],
        ),
        (
            [
                "VAR Q : ARRAY[0..2] OF SINT; N, i : INT; END_VAR",
                "VAR Q : ARRAY[0..2] OF SINT; First, N : INT; W : BYTE; END_VAR",
            ],
            [
                "IF Key AND N > 0 THEN Q[0] := Q[1]; Q[1] := Q[2]; N := N - 1; END_IF;
                 IF Low AND N < 3 THEN Q[N] := Level; N := N + 1; END_IF; Alarm := N = 3; Doses := Q[0];",
                "IF Key AND N > 0 THEN First := (First + 1) MOD 3; N := N - 1; END_IF;
                 IF Low AND N < 3 THEN Q[(First + N) MOD 3] := Level; N := N + 1; END_IF;
                 W := SHL(W, 1); W.%X0 := N = 3; Alarm := W.%X0; Doses := Q[First];",
            ],
        ),
    ];
    texts.map(|(vars, bodies)| [version("left", vars[0], bodies[0]), version("right", vars[1], bodies[1])]).into()
}

/// What registers hold in a state.
struct State<'a> {
    system: &'a System,
    states: &'a [Vec<u64>],
    number: usize,
}

impl State<'_> {
    fn bit(&self, bit: usize) -> bool {
        self.states[bit][self.number / 64] >> (self.number % 64) & 1 == 1
    }

    fn value(&self, register: usize) -> i64 {
        let place = self.system.plan.registers[register].place;
        let own = self.system.bits.iter().enumerate().filter(|(_, (of, _))| *of == register);
        let raw = own.fold(0u64, |all, (bit, (_, at))| all | u64::from(self.bit(bit)) << at);
        let width = u32::from(place.width);
        let shift = 64 - width.min(64);
        if place.signed { (raw << shift) as i64 >> shift } else { raw as i64 }
    }
}

fn each_state<'a>(system: &'a System, states: &'a [Vec<u64>]) -> impl Iterator<Item = State<'a>> {
    let count = states.first().map_or(0, |words| words.len() * 64);
    (0..count).map(move |number| State { system, states, number })
}

/// A fact of any kind, with values that are near those that registers hold.
fn drawn(rng: &mut Rng, values: &[i64], widths: &[u8]) -> Fact {
    let count = values.len();
    let mut register = || rng.usize(..count);
    let (u, v, g, h) = (register(), register(), register(), register());
    let mut near = |value: i64| value + rng.i64(-1..=1);
    let (at_u, at_g, at_h) = (near(values[u]), near(values[g]), near(values[h]));
    let guard = match rng.u8(..3) {
        0 => Guard::Always,
        1 => Guard::Where((g, at_g)),
        _ => Guard::Both((g, at_g), (h, at_h)),
    };
    let mut cap = || if rng.bool() { i64::MAX } else { rng.i64(1..40) };
    let (u_term, v_term) = (Term { register: u, cap: cap() }, Term { register: v, cap: cap() });
    let claim = match rng.u8(..7) {
        0 => Claim::Constant { u, c: at_u },
        1 => Claim::AtMost { u, c: at_u },
        2 => {
            let mut literal = |register: usize| match rng.u8(..3) {
                0 => {
                    let at = rng.u8(..8);
                    let is = (values[register] >> at & 1 == 1) ^ (rng.u8(..6) == 0);
                    // Bits that the register has not are those of its sign.
                    let at = at.min(widths[register] - 1);
                    Literal::Bit { register, at, is }
                }
                1 => Literal::Least { register, c: values[register] - rng.i64(-1..4) },
                _ => Literal::Most { register, c: values[register] + rng.i64(-1..4) },
            };
            Claim::Never(Cube::new(vec![literal(u), literal(v), literal(g)]))
        }
        3 => {
            let terms = [u, v, g].map(|register| (register, rng.i64(1..90) * if rng.bool() { 1 } else { -1 }));
            let sum: i64 = terms.iter().map(|(register, k)| k * values[*register]).sum();
            Claim::Sum { terms: terms.into(), c: sum + rng.i64(-1..=1), is_most: rng.bool() }
        }
        4 => {
            let mut held = |register: usize| {
                let bit = rng.bool().then(|| rng.u8(..widths[register]));
                Held { register, bit }
            };
            Claim::Alike(held(u), held(v))
        }
        _ => {
            let (u, v) = (u_term, v_term);
            let (ku, kv) = (rng.i64(1..12), if rng.bool() { rng.i64(1..12) } else { -rng.i64(1..12) });
            let (ku, kv) = if rng.bool() { (ku, kv) } else { (-ku, -kv) };
            let of = |t: Term| values[t.register].min(t.cap);
            Claim::Line { u, ku, v, kv, c: ku * of(u) + kv * of(v) + rng.i64(-1..=1) }
        }
    };
    Fact { guard, claim }
}

/// The solver and the certificate see a fact as bits; the search for facts sees it as numbers. Both mean the same.
#[test]
fn a_fact_said_as_bits_is_the_fact() {
    let mut rng = Rng::with_seed(11);
    let (mut holds, mut fails) = (0, 0);
    for versions in pairs() {
        let twin = Twin::new(&versions[0], &versions[1]);
        let system = System::new(&twin, &[]).unwrap();
        let places: Vec<_> = system.plan.registers.iter().map(|register| register.place).collect();
        for _ in 0..4_000 {
            let values: Vec<i64> = places
                .iter()
                .map(|place| {
                    let wide = u32::from(place.width).min(20);
                    let most = (1i64 << wide) - 1;
                    if place.signed { rng.i64(-(most / 2) - 1..=most / 2) } else { rng.i64(0..=most) }
                })
                .collect();
            let widths: Vec<u8> = places.iter().map(|place| place.width).collect();
            let fact = drawn(&mut rng, &values, &widths);
            let bits: Vec<Vec<Bit>> = places
                .iter()
                .zip(&values)
                .map(|(place, value)| (0..place.width).map(|at| Bit::FALSE.flip(value >> at & 1 == 1)).collect())
                .collect();
            let bit = fact.bit(&mut Graph::new(), &system, &bits);
            let wanted = fact.holds(|register| values[register]);
            assert_eq!(bit, Bit::FALSE.flip(wanted), "{fact:?} of {values:?}");
            holds += u32::from(wanted);
            fails += u32::from(!wanted);
        }
    }
    assert!(holds > 1_000 && fails > 1_000, "{holds} hold, {fails} fail");
}

#[test]
fn a_fact_of_registers_with_other_numbers_is_the_same_fact() {
    let mut rng = Rng::with_seed(12);
    for _ in 0..2_000 {
        let values: Vec<i64> = (0..6).map(|_| rng.i64(-30..30)).collect();
        let mut to: Vec<usize> = (0..6).collect();
        rng.shuffle(&mut to);
        let fact = drawn(&mut rng, &values, &[8; 6]);
        let there = |register: usize| values[to.iter().position(|t| *t == register).unwrap()];
        assert_eq!(fact.renumbered(&to).holds(there), fact.holds(|register| values[register]), "{fact:?} to {to:?}");
        let mut registers: Vec<usize> = fact.registers().map(|register| to[register]).collect();
        let mut renumbered: Vec<usize> = fact.renumbered(&to).registers().collect();
        registers.sort_unstable();
        renumbered.sort_unstable();
        assert_eq!(registers, renumbered, "{fact:?}");
    }
}

/// What is sought holds in the states that it was read off and at power-up; it is only a guess, so it may fail elsewhere.
#[test]
fn what_is_sought_holds_where_it_was_read_off() {
    let (mut all, mut ways) = (0, 0);
    for versions in pairs() {
        let twin = Twin::new(&versions[0], &versions[1]);
        let system = System::new(&twin, &[]).unwrap();
        let states = system.states(&Stimuli::new(&twin));
        let groups = Groups::seen(&system, &states);
        let own = groups.own(&system);
        let budget = Budget { conflicts: Means::default().conflicts, ..Budget::default() };
        let of_numbers = seek(&system, &states, &own, Depth::Relations);
        let of_bits = seek_logic(&system, &states, &own);
        let of_computed = computed(&system, &states, &groups, &budget);
        ways += of_computed.len();
        let sought = [of_numbers, of_bits, of_computed].concat();
        all += sought.len();
        for state in each_state(&system, &states) {
            for fact in &sought {
                assert!(fact.holds(|register| state.value(register)), "{fact:?} in state {}", state.number);
            }
            groups_hold(&groups, &state);
        }
        for fact in &sought {
            assert!(fact.holds(|register| system.plan.registers[register].init), "{fact:?} at power-up");
        }
    }
    assert!(all > 20 && ways > 10, "{all} facts, {ways} of what is computed");
}

fn groups_hold(groups: &Groups, state: &State<'_>) {
    for ((bit, flip), other) in groups.claims() {
        let other_side = other.is_some_and(|(bit, flip)| state.bit(bit) ^ flip);
        assert_eq!(state.bit(bit) ^ flip, other_side, "bit {bit} beside {other:?} in state {}", state.number);
    }
}

/// Induction is shown a few states only, so that most of what it takes for true is wrong. What it keeps holds in thousands of
/// states that it was not shown.
#[test]
fn what_induction_keeps_holds_in_states_it_has_not_seen() {
    let budget = Budget { conflicts: Means::default().conflicts, ..Budget::default() };
    let (mut kept, mut of_places) = (0, 0);
    for versions in pairs() {
        let twin = Twin::new(&versions[0], &versions[1]);
        let system = System::new(&twin, &[]).unwrap();
        let states = system.states(&Stimuli::new(&twin));
        // And in those that come after them.
        let mut all = system.further(&states, 3);
        all.extend(states[system.bits.len()..].iter().map(|words| words.repeat(4)));
        for few in [1, 2, 5] {
            let shown: Vec<Vec<u64>> = all.iter().map(|words| words[..few].to_vec()).collect();
            let depths = [Depth::Alike, Depth::Numbers, Depth::Placed, Depth::Logic, Depth::Relations, Depth::Computed];
            for depth in depths {
                // In a few states there may be nothing that looks like an index.
                let Some(found) = induct(&system, shown.clone(), &budget, depth, |_| true) else {
                    assert_eq!(depth, Depth::Placed);
                    continue;
                };
                of_places += usize::from(depth == Depth::Placed) * found.facts.len();
                assert!(depth != Depth::Alike || found.facts.is_empty());
                for state in each_state(&system, &all) {
                    groups_hold(&found.groups, &state);
                    for fact in &found.facts {
                        assert!(fact.holds(|r| state.value(r)), "{depth:?}: {fact:?} in state {}", state.number);
                    }
                }
                kept += found.groups.facts() + found.facts.len();
            }
        }
    }
    assert!(kept > 100 && of_places > 10, "{kept}, {of_places}");
}

/// What is told to stop has found nothing, at whatever round that is.
#[test]
fn induction_that_is_stopped_claims_nothing() {
    let versions = &pairs()[0];
    let twin = Twin::new(&versions[0], &versions[1]);
    let system = System::new(&twin, &[]).unwrap();
    let states = system.states(&Stimuli::new(&twin));
    let budget = Budget { conflicts: Means::default().conflicts, ..Budget::default() };
    for rounds in 0..3 {
        let (mut left, mut stopped) = (rounds, false);
        let found = induct(&system, states.clone(), &budget, Depth::Logic, |_| {
            stopped |= left == 0;
            left -= 1;
            !stopped
        });
        assert_eq!(found.is_none(), stopped, "after {rounds} rounds");
        assert!(stopped || rounds > 0);
    }
}

/// Following back from broken goals, nothing being known beforehand: what is kept out is in no state that occurs, and a way is one
/// that the engine goes.
#[test]
fn what_is_followed_back_is_kept_out_or_reached() {
    let head = "VAR N, K : INT; Step : SINT; END_VAR";
    let count = "IF Key THEN N := 0; ELSIF Low AND N < 30 THEN N := N + 1; END_IF; Doses := N;";
    let steps =
        "CASE Step OF 0: IF Low THEN Step := 1; END_IF; 1: IF Key THEN Step := 2; END_IF; 2: Step := 0; END_CASE;";
    let doors = "IF Level = 17 AND N < 4 THEN N := N + 1; ELSIF Level = 18 THEN N := 0; END_IF;";
    // Statements of both, what each gives to the alarm, and whether they part.
    let cases = [
        (count, ["N >= 30", "N = 30"], false),
        (count, ["N >= 30", "N = 31"], true),
        (count, ["N > 7 AND N < 9", "N = 8"], false),
        (steps, ["Step = 2", "Step > 1"], false),
        (steps, ["Step <> 1", "Step = 0"], true),
        (doors, ["N = 4", "N > 3"], false),
        (doors, ["N = 4", "N > 4"], true),
    ];
    for (body, alarms, parts) in cases {
        let [left, right] = alarms.map(|alarm| version("v", head, &format!("{body} Alarm := {alarm};")));
        let twin = Twin::new(&left, &right);
        let system = System::new(&twin, &[]).unwrap();
        let states = system.states(&Stimuli::new(&twin));
        let budget = Budget { conflicts: Means::default().conflicts, ..Budget::default() };
        // Each bit by itself.
        let bits = (0..system.bits.len()).map(|bit| vec![(bit, false)]);
        let mut alone = Groups::none(&system);
        alone.groups.extend(bits);
        let round = Round::new(&system, &alone, &[], &states, &budget).unwrap();
        match directed(&system, &round, &system.goals, &budget, || true) {
            Directed::Kept(facts) => {
                assert!(!parts, "{alarms:?} are said to be the same");
                for state in each_state(&system, &states) {
                    for fact in &facts {
                        assert!(fact.holds(|r| state.value(r)), "{alarms:?}: {fact:?} in state {}", state.number);
                    }
                }
            }
            Directed::Way(way) => {
                assert!(parts, "{alarms:?} are said to part");
                let (twin, scenario) = told((&twin, &system), &Scenario::default(), &way);
                assert!(matches!(shown(&twin, &scenario), Some(Verdict::Different(_))), "{alarms:?}: {scenario:?}");
            }
            Directed::Open => panic!("{alarms:?} are left open"),
        }
    }
}
