//! A device beside its twin: the same program is the same, each seeded change is found with its statement, and where polling
//! cannot tell nothing is claimed. The device is a machine that is served, asked as any client asks.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::protocol::{Begin, MIRROR, Numbers, Sample, Served, Shadow, Shadowed, Table, Writable};
use honest_twin::scan::ScanTime;
use honest_twin::show;
use honest_twin::twin::Version;
use honest_twin::twin::script::{Script, play};

const SCAN: Duration = Duration::from_millis(10);

/// Doses of a feeder: a key starts one, an eye over the bin starts the count over.
const DOSES: &str = "PROGRAM Doses
VAR_INPUT Key, Eye : BOOL; Aim : INT; END_VAR
VAR_OUTPUT Screw, Lamp : BOOL; Count, Rest : INT; END_VAR
VAR Turn : TON; Done : CTU; END_VAR
Screw := (Key OR Screw) AND NOT Turn.Q;
Turn(IN := Screw, PT := T#1s);
Done(CU := Screw, R := Eye, PV := 3);
Count := Done.CV;
Lamp := Done.Q OR Aim > 50;
Rest := Aim * 2 - Count;
END_PROGRAM";

/// What is changed in the twin, and the line that writes what is then seen.
const CHANGES: &[(&str, &str, &str)] = &[
    ("T#1s", "T#1400ms", "Screw :="),
    ("Key OR Screw", "Key", "Screw :="),
    ("R := Eye", "R := FALSE", "Count :="),
    ("PV := 3", "PV := 4", "Lamp :="),
    ("Done.Q OR", "Done.Q AND", "Lamp :="),
    ("> 50", ">= 50", "Lamp :="),
    ("* 2", "* 3", "Rest :="),
    ("- Count", "+ Count", "Rest :="),
    ("CU := Screw", "CU := Key", "Count :="),
    ("Done.CV", "Done.CV + 1", "Count :="),
];

/// A device that scans by itself, with a plant that moves its inputs at any moment.
struct Device {
    served: Served,
    rng: fastrand::Rng,
    /// Inputs stay for so long at least, in milliseconds, and for as much again at most.
    calm: i64,
    /// When each input moves next.
    next: [i64; 3],
    now: i64,
}

impl Device {
    fn new(version: &Version, seed: u64, calm: i64) -> Device {
        let numbers = Numbers::of(version.checked(), version.machine(), &[]).unwrap();
        let writable = Writable { inputs: true, ..Writable::default() };
        let mut served = Served::new(version, numbers, writable, SCAN);
        served.scan();
        let mut rng = fastrand::Rng::with_seed(seed);
        let next = [0, 1, 2].map(|_| rng.i64(300..300 + 2 * calm));
        Device { served, rng, calm, next, now: 0 }
    }

    /// Lets it run up to a moment.
    fn until(&mut self, moment: i64) {
        while self.now < moment {
            self.now += 1;
            for input in 0..3 {
                if self.next[input] == self.now {
                    // The eye sees the bin empty less often than somebody turns the key.
                    let often = if input == 1 { 8 } else { 1 };
                    self.next[input] += often * self.rng.i64(self.calm..=2 * self.calm);
                    let on = self.served.answer(&[2, 0, input as u8, 0, 1])[2] & 1 == 0;
                    let request = match input {
                        2 => {
                            let aim = *self.rng.choice(&[0_i16, 49, 50, 51, -3]).unwrap();
                            [vec![6], MIRROR.to_be_bytes().to_vec(), aim.to_be_bytes().to_vec()].concat()
                        }
                        _ => [
                            vec![5],
                            (MIRROR + input as u16).to_be_bytes().to_vec(),
                            vec![if on { 0xff } else { 0 }, 0],
                        ]
                        .concat(),
                    };
                    assert_eq!(self.served.answer(&request)[0], request[0]);
                }
            }
            // Its scans are not at the moments of the polls.
            if self.now % 10 == 7 {
                self.served.scan();
            }
        }
    }

    fn read(&mut self, shadow: &Shadow<'_>, at: i64) -> Sample {
        let mut words = Vec::new();
        for poll in shadow.polls() {
            // One request after the other, each two milliseconds later.
            self.until(self.now + 2);
            let code = match poll.table {
                Table::Coils => 1,
                Table::DiscreteInputs => 2,
                Table::HoldingRegisters => 3,
                Table::InputRegisters => 4,
            };
            let head = [poll.first.to_be_bytes(), poll.count.to_be_bytes()].concat();
            let answer = self.served.answer(&[vec![code], head].concat());
            assert_eq!(answer[0], code);
            words.push(match code {
                1 | 2 => {
                    (0..poll.count).map(|bit| u16::from(answer[2 + usize::from(bit / 8)] >> (bit % 8) & 1)).collect()
                }
                _ => answer[2..].chunks(2).map(|pair| u16::from_be_bytes([pair[0], pair[1]])).collect(),
            });
        }
        Sample { at: Duration::from_millis(at), took: Duration::from_millis(self.now - at), words }
    }
}

struct Course {
    seed: u64,
    period: i64,
    calm: i64,
    /// For so long, in milliseconds.
    span: i64,
    /// When nothing can be read, and for how long.
    gaps: &'static [(i64, i64)],
    begin: Begin,
}

const USUAL: Course = Course { seed: 1, period: 50, calm: 700, span: 60_000, gaps: &[], begin: Begin::PowerUp };

fn shadowed(device: &Version, twin: &Version, course: &Course) -> Shadowed {
    let numbers = Numbers::of(twin.checked(), twin.machine(), &[]).unwrap();
    let mut shadow = Shadow::new(twin, &numbers, course.begin, [SCAN, Duration::ZERO]).unwrap();
    let mut device = Device::new(device, course.seed, course.calm);
    let mut at = 20;
    while at < course.span && shadow.apart().is_none() {
        device.until(at);
        match course.gaps.iter().find(|(from, lasts)| (*from..from + lasts).contains(&at)) {
            Some((from, lasts)) => {
                at = from + lasts;
                device.until(at);
                shadow.gap("the connection was lost", Duration::from_millis(*lasts));
            }
            None => shadow.poll(&device.read(&shadow, at)),
        }
        at = (at + course.period).max(device.now + 1);
    }
    shadow.finish()
}

fn doses(change: Option<(&str, &str)>) -> Version {
    let text = change.map_or(DOSES.to_string(), |(from, to)| {
        assert!(DOSES.contains(from), "{from}");
        DOSES.replacen(from, to, 1)
    });
    version("doses", &text, Language::St)
}

#[test]
fn the_same_program_is_the_same_or_undecided_and_never_different() {
    let program = doses(None);
    let mut same = 0;
    for seed in 0..40 {
        let found = shadowed(&program, &program, &Course { seed, ..USUAL });
        assert_eq!(found.apart, None, "seed {seed}: {}", show::shadowed(&found));
        same += usize::from(found.is_same());
        assert!(found.polls > 1_000, "{}", found.polls);
    }
    println!("{same} of 40 are the same in what was seen");
    assert!(same >= 30, "polling of 50 ms can tell: {same}");
}

#[test]
fn each_seeded_change_is_found_with_its_statement() {
    let device = doses(None);
    let mut found_at_once = 0;
    for (from, to, statement) in CHANGES {
        let twin = doses(Some((from, to)));
        let mut told = Vec::new();
        for seed in 0..10 {
            let found = shadowed(&device, &twin, &Course { seed, ..USUAL });
            if let Some(apart) = &found.apart {
                let [place, text] = apart.statement.as_ref().unwrap();
                assert!(place.starts_with("doses.st:"), "{place}");
                told.push(text.clone());
            }
        }
        assert!(told.iter().any(|text| text.starts_with(statement)), "{to}: {told:?}");
        found_at_once += told.len();
    }
    println!("{found_at_once} of {} are different, the others undecided", 10 * CHANGES.len());
    assert!(found_at_once >= 8 * CHANGES.len(), "{found_at_once}");
}

/// Polls that are slower than what they should see are no proof of anything, in either direction.
#[test]
fn a_slow_poll_is_undecided() {
    let program = doses(None);
    for seed in 0..10 {
        let found = shadowed(&program, &program, &Course { seed, period: 900, calm: 300, ..USUAL });
        assert!(!found.is_same() && found.apart.is_none(), "seed {seed}: {}", show::shadowed(&found));
    }
}

/// A connection that is lost three times is told, and survived; short losses only make the window wider.
#[test]
fn losses_are_told_and_survived() {
    let program = doses(None);
    let short = Course { gaps: &[(10_000, 150), (20_000, 200), (30_000, 170)], ..USUAL };
    let long = Course { gaps: &[(10_000, 3_000), (20_000, 4_000), (30_000, 5_000)], ..USUAL };
    let (mut same, mut differ) = (0, 0);
    for seed in 0..10 {
        for course in [&short, &long] {
            let found = shadowed(&program, &program, &Course { seed, ..*course });
            assert_eq!(found.apart, None, "seed {seed}: {}", show::shadowed(&found));
            assert_eq!(found.gaps.len(), 3);
            same += usize::from(found.is_same());
        }
        let changed = doses(Some(("* 2", "* 3")));
        differ += usize::from(shadowed(&program, &changed, &Course { seed, ..short }).apart.is_some());
    }
    assert!(same > 0 && differ == 10, "{same} the same, {differ} different");
}

/// A device that has been running may remember something else: nothing is claimed of what hangs on that.
#[test]
fn what_a_running_device_remembers_is_not_known() {
    let program = doses(None);
    let changed = doses(Some(("* 2", "* 3")));
    let running = Course { begin: Begin::Running, ..USUAL };
    let found = shadowed(&program, &changed, &running);
    assert!(found.apart.is_none() && !found.is_same());
    assert!(found.unsure.iter().any(|why| why.contains("it remembered something else")), "{:?}", found.unsure);
    assert!(shadowed(&program, &program, &running).apart.is_none());
    // What never agrees is told as that.
    let other = doses(Some(("Aim * 2", "1000 + Aim")));
    let found = shadowed(&program, &other, &running);
    assert!(found.unsure.contains(&"Rest never agreed".to_string()), "{:?}", found.unsure);
}

#[test]
fn what_is_told_is_what_was_seen() {
    let program = doses(None);
    let same = shadowed(&program, &program, &Course { span: 20_000, ..USUAL });
    let different = shadowed(&program, &doses(Some(("* 2", "* 3"))), &USUAL);
    assert_eq!(different.around[0], ["after", "Key", "Eye", "Aim", "Screw", "Lamp", "Count", "Rest"]);
    insta::assert_snapshot!("shadowed", format!("{}\n{}", show::shadowed(&same), show::shadowed(&different)));
    let silent = version(
        "silent",
        "PROGRAM P VAR_INPUT a : BOOL; END_VAR VAR b : BOOL; END_VAR b := a; END_PROGRAM",
        Language::St,
    );
    let numbers = Numbers::of(silent.checked(), silent.machine(), &[]).unwrap();
    let shadow = Shadow::new(&silent, &numbers, Begin::Running, [SCAN, SCAN]);
    assert_eq!(shadow.unwrap_err().to_string(), "the program has no output that the protocol could show");
}

/// What the inputs were seen to do is a scenario, and the twin does on it what the device did, but for when it saw them.
#[test]
fn what_was_seen_is_a_scenario() {
    let program = doses(None);
    let numbers = Numbers::of(program.checked(), program.machine(), &[]).unwrap();
    let mut shadow = Shadow::new(&program, &numbers, Begin::PowerUp, [SCAN, Duration::ZERO]).unwrap();
    assert_eq!(shadow.scenario(), None);
    let mut device = Device::new(&program, 5, 700);
    for poll in 0..200 {
        device.until(20 + poll * 50);
        let sample = device.read(&shadow, 20 + poll * 50);
        shadow.poll(&sample);
    }
    let scenario = shadow.scenario().unwrap();
    let script = Script::read("seen", &scenario).unwrap_or_else(|e| panic!("{e}\n{scenario}"));
    let played = play(&script, &[&program], &ScanTime::Fixed(SCAN)).unwrap();
    let trace = &played.traces[0];
    let last = trace.rows().last().unwrap();
    assert_eq!(last.0.0, 999, "ten seconds in scans");
    let (seen, names) = (shadow.trace(), &trace.names);
    assert_eq!(seen.scans().len(), 200);
    for input in ["Key", "Eye", "Aim"] {
        let at = |names: &[String]| names.iter().position(|name| name == input).unwrap();
        assert_eq!(last.2[at(names)], seen.rows().last().unwrap().2[at(&seen.names)], "{scenario}");
    }
}
