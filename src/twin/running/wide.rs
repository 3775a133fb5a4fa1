//! Many scenarios at a time: the circuit of both versions, with stimuli drawn as planes of bits.
//!
//! Every scenario of a batch has paces of its own: each input changes once in 2 to 2,048 scans on average, as a step or
//! as a pulse of one scan, alone or together with others. Nothing is noted but whether the versions part; where they
//! do, the batch is drawn again from its seed and that one scenario written down, for the tape to show it.

use crate::circuit::{ALL, Algebra, NONE, Plane, Planes, Simulator, bit};
use crate::scan::Power;
use crate::twin::both::Outset;
use crate::twin::generate::{Generator, Input};
use crate::twin::laid::{Course, Laid, Piece};
use crate::twin::scenario::{Act, Change, Scenario};
use crate::twin::{Halt, Twin};
use fastrand::Rng;
use std::sync::Arc;

/// Paces: once in 2, in 4, ... in 2,048 scans.
const PACES: usize = 11;

/// Values of a number that are tried in one batch.
const VALUES: usize = 16;

/// Groups of four values.
const GROUPS: usize = VALUES / 4;

/// Bits of a circuit at most: 32 bytes each for every batch that runs.
const MOST_BITS: usize = 4_000_000;

/// Scans that each piece is run for, one piece after the other.
const SCANS_OF_A_PIECE: u64 = 64;

/// Both versions as a circuit that is ready to run.
pub(in crate::twin) struct Wide {
    laid: Laid,
    /// What it is run in, if not as a whole.
    pieces: Option<Vec<Piece>>,
    /// What each input is before anything happens.
    rest: Vec<i64>,
    halt: Halt,
}

/// What a batch showed.
pub(in crate::twin) struct Batch {
    /// Scans on each side, of all its scenarios together.
    pub(in crate::twin) scans: u64,
    /// Those of them that tell nothing, as a loop ran more rounds than the circuit holds.
    pub(in crate::twin) lost: u64,
    /// A scenario in which the versions seem to part.
    pub(in crate::twin) found: Option<Scenario>,
}

impl Wide {
    /// The circuit of a twin.
    ///
    /// # Errors
    /// Why there is none, in one sentence.
    pub(in crate::twin) fn new(twin: &Twin<'_>) -> Result<Wide, String> {
        let laid = Laid::new(twin, &Outset::of(twin))?;
        let bits = laid.whole.plan.bits;
        if bits > MOST_BITS {
            return Err(format!("it would have {bits} bits"));
        }
        Ok(Wide { pieces: laid.pieces(), laid, rest: rest(twin), halt: twin.halt.clone() })
    }

    fn pieces(&self) -> &[Piece] {
        self.pieces.as_deref().unwrap_or(std::slice::from_ref(&self.laid.whole))
    }

    /// What a scan of a batch costs, in operations of the tape.
    pub(in crate::twin) fn scan_cost(&self) -> u64 {
        self.pieces().iter().map(Piece::scan_cost).sum()
    }

    /// Runs a batch of so many scans at most; the same seed runs the same, unless it is halted.
    pub(in crate::twin) fn batch(&self, generator: &Generator, seed: u64, most: u64) -> Batch {
        let mut feed = Feed::new(generator, &self.rest, seed);
        let scans = feed.length.min(most);
        let mut tracks: Vec<Track<'_>> = self.pieces().iter().map(|piece| Track::new(&self.laid, piece)).collect();
        let (mut lost, mut scan, mut given) = (0, 0, Vec::new());
        while scan < scans {
            if self.halt.has_rung() {
                return Batch { scans: scan * 256, lost, found: None };
            }
            let at_once = if self.pieces.is_some() { SCANS_OF_A_PIECE } else { 1 };
            let end = (scan + at_once).min(scans);
            given.resize_with((end - scan) as usize, Given::default);
            given.iter_mut().zip(scan..).for_each(|(given, scan)| feed.give_next(scan, given));
            // Of all pieces the scan in which the versions part first.
            let mut found: Option<(usize, usize)> = None;
            for track in &mut tracks {
                let until = found.map_or(given.len(), |(at, _)| at);
                found = track.run(&self.laid, &given[..until]).or(found);
            }
            if let Some((at, lane)) = found {
                let last = scan + at as u64;
                let found = Some(Feed::new(generator, &self.rest, seed).written(lane, last));
                return Batch { scans: (last + 1) * 256, lost, found };
            }
            scan = end;
            let beyond = tracks.iter().fold(NONE, |beyond, track| or(beyond, track.course.beyond()));
            lost += beyond.iter().map(|lanes| u64::from(lanes.count_ones())).sum::<u64>();
            // Where no lane is left there is nothing more to see.
            if beyond == ALL {
                break;
            }
        }
        Batch { scans: scan * 256, lost, found: None }
    }
}

/// What all lanes are given in a scan: where power is lost before it, and the inputs.
#[derive(Default)]
struct Given {
    power: Plane,
    inputs: Vec<Vec<Plane>>,
}

/// A piece of the circuit on its way through a batch.
struct Track<'p> {
    piece: &'p Piece,
    simulator: Simulator,
    course: Course,
}

impl Track<'_> {
    fn new<'p>(laid: &Laid, piece: &'p Piece) -> Track<'p> {
        Track { piece, simulator: Simulator::new(Arc::clone(&piece.plan)), course: laid.course() }
    }

    /// Runs scans; the first in which the versions part, and a lane in which they do. What comes after it is not run.
    fn run(&mut self, laid: &Laid, given: &[Given]) -> Option<(usize, usize)> {
        for (at, given) in given.iter().enumerate() {
            if given.power != NONE && !laid.lasting {
                self.simulator.power_cycle(given.power);
            }
            give(&given.inputs, &mut self.simulator, usize::from(laid.is_timed()));
            let parts = laid.scan(self.piece, &mut self.simulator, &mut self.course);
            if let Some(lane) = (0..256).find(|lane| bit(&parts, *lane)) {
                return Some((at, lane));
            }
            self.simulator.advance();
        }
        None
    }
}

/// Gives the inputs of both versions values; those of the circuit that say how time passes, so many, are in front of them.
fn give(inputs: &[Vec<Plane>], simulator: &mut Simulator, times: usize) {
    simulator.give(|id| (id.0 as usize).checked_sub(times).and_then(|number| inputs.get(number)).map(Vec::as_slice));
}

pub(in crate::twin) fn plane_of(value: bool) -> Plane {
    Planes.constant(value)
}

fn and(a: Plane, b: Plane) -> Plane {
    Planes.and(a, b)
}

fn or(a: Plane, b: Plane) -> Plane {
    Planes.or(a, b)
}

fn mux(c: Plane, a: Plane, b: Plane) -> Plane {
    Planes.mux(c, a, b)
}

fn any(rng: &mut Rng) -> Plane {
    [rng.u64(..), rng.u64(..), rng.u64(..), rng.u64(..)]
}

/// What batches of stimuli are drawn from.
pub(crate) struct Stimuli {
    generator: Generator,
    /// What each input is before anything happens.
    rest: Vec<i64>,
    /// Ends what goes on with them.
    pub(crate) halt: Halt,
}

impl Stimuli {
    /// For a twin.
    pub(crate) fn new(twin: &Twin<'_>) -> Stimuli {
        Stimuli { generator: Generator::new(twin, 0), rest: rest(twin), halt: twin.halt.clone() }
    }

    /// A batch; the same seed gives the same.
    pub(crate) fn feed(&self, seed: u64) -> Feed {
        Feed::new(&self.generator, &self.rest, seed)
    }

    /// To the next scan; gives where power is switched off and on before it.
    pub(crate) fn next(&self, feed: &mut Feed, scan: u64) -> Plane {
        feed.next(scan)
    }
}

/// What each input is before anything happens.
pub(crate) fn rest(twin: &Twin<'_>) -> Vec<i64> {
    let initial = |p: &crate::twin::Pair| twin.left.machine.initial(twin.left.machine.point(p.left));
    twin.pairing.inputs.iter().map(|p| p.rest.unwrap_or_else(|| initial(p))).collect()
}

/// What is given to all scenarios of a batch, scan by scan.
pub(crate) struct Feed {
    pub(crate) rng: Rng,
    length: u64,
    /// Of each input, lowest bit first.
    now: Vec<Vec<Plane>>,
    inputs: Vec<Pace>,
    /// In which scenarios power is switched off and on, and how often.
    power: [Plane; PACES],
}

/// How one input changes.
struct Pace {
    /// Which scenarios go at which pace.
    classes: [Plane; PACES],
    /// Where it goes back after one scan.
    pulses: Plane,
    /// Where it changes together with the first input.
    together: Plane,
    /// Values it takes, if it is a number.
    values: Vec<i64>,
    /// Of each of its bits, lowest first: which values have it set, four to a group.
    digits: Vec<[u8; GROUPS]>,
    rest: i64,
}

impl Feed {
    fn new(generator: &Generator, rest: &[i64], seed: u64) -> Feed {
        let mut rng = Rng::with_seed(seed);
        // Most batches are short; some are as long as what is slow wants.
        let length = 64 << rng.u32(0..8);
        let inputs: Vec<Pace> = (0..generator.inputs.len())
            .map(|input| {
                let count = if matches!(generator.inputs[input], Input::Bool) { 0 } else { VALUES };
                let values: Vec<i64> = (0..count).map(|_| generator.value(&mut rng, input)).collect();
                Pace {
                    classes: classes(&mut rng, true),
                    pulses: and(any(&mut rng), any(&mut rng)),
                    together: and(any(&mut rng), any(&mut rng)),
                    digits: digits(&values),
                    values,
                    rest: rest[input],
                }
            })
            .collect();
        // As many bits as the values need, the last of them a sign.
        let bits = |value: i64| 65 - (if value < 0 { !value } else { value }).leading_zeros();
        let all = |pace: &Pace| pace.values.iter().copied().chain([pace.rest]).map(bits).max().unwrap_or(1).min(64);
        let width = |pace: &Pace| if pace.values.is_empty() { 1 } else { all(pace) };
        let now = inputs.iter().map(|p| (0..width(p)).map(|at| plane_of(p.rest >> at & 1 == 1)).collect()).collect();
        let power = classes(&mut rng, false);
        Feed { rng, length, now, inputs, power }
    }

    /// To the next scan; gives where power is switched off and on before it.
    fn next(&mut self, scan: u64) -> Plane {
        let mut first = NONE;
        for (number, pace) in self.inputs.iter().enumerate() {
            let mut change = events(&mut self.rng, &pace.classes);
            if number == 0 {
                first = change;
            } else {
                change = mux(pace.together, first, change);
            }
            let now = &mut self.now[number];
            if pace.values.is_empty() {
                let toggled = Planes.xor(now[0], change);
                let at_rest = plane_of(pace.rest & 1 == 1);
                let pulsed = Planes.xor(at_rest, change);
                now[0] = mux(pace.pulses, pulsed, toggled);
            } else if change != NONE {
                let sums = sums(&takers(&mut self.rng));
                for (plane, digit) in now.iter_mut().zip(&pace.digits) {
                    let bits = sums.iter().zip(digit).fold(NONE, |bits, (sums, set)| or(bits, sums[usize::from(*set)]));
                    *plane = mux(change, bits, *plane);
                }
            }
        }
        let power = events(&mut self.rng, &self.power);
        if scan == 0 { NONE } else { power }
    }

    /// What an input is now in a scenario.
    pub(crate) fn value(&self, input: usize, lane: usize) -> i64 {
        let planes = &self.now[input];
        let is_negative = !self.inputs[input].values.is_empty() && planes.last().is_some_and(|plane| bit(plane, lane));
        let above = if is_negative { !0i64 << (planes.len() - 1) } else { 0 };
        planes.iter().enumerate().fold(above, |value, (at, plane)| value | i64::from(bit(plane, lane)) << at)
    }

    /// To the next scan; tells what is given in it.
    fn give_next(&mut self, scan: u64, given: &mut Given) {
        given.power = self.next(scan);
        given.inputs.clone_from(&self.now);
    }

    /// Gives the inputs of both versions what they are now; those of the circuit that say how time passes, so many, are in
    /// front of them.
    pub(crate) fn give(&self, simulator: &mut Simulator, times: usize) {
        give(&self.now, simulator, times);
    }

    /// One scenario of the batch, up to a scan.
    fn written(mut self, lane: usize, last: u64) -> Scenario {
        let mut acts: Vec<Act> = Vec::new();
        let mut before: Vec<i64> = self.inputs.iter().map(|p| p.rest).collect();
        for scan in 0..=last {
            let power = self.next(scan);
            if bit(&power, lane) {
                acts.push(Act::Power(Power::Cycle));
            }
            for (input, before) in before.iter_mut().enumerate() {
                let value = self.value(input, lane);
                if std::mem::replace(before, value) != value {
                    acts.push(Act::Set(Change { input, value }));
                }
            }
            match acts.last_mut() {
                Some(Act::Wait(scans)) => *scans += 1,
                _ => acts.push(Act::Wait(1)),
            }
        }
        Scenario { acts }
    }
}

/// Gives each scenario a pace; not all of them one of the fast ones.
fn classes(rng: &mut Rng, fast: bool) -> [Plane; PACES] {
    let mut out = [NONE; PACES];
    for lane in 0..256usize {
        let class = if fast { rng.usize(0..PACES) } else { rng.usize(5..PACES * 3) };
        if let Some(plane) = out.get_mut(class) {
            plane[lane / 64] |= 1 << (lane % 64);
        }
    }
    out
}

/// Which scenarios take each of the values of a number: each scenario one of them.
fn takers(rng: &mut Rng) -> [Plane; VALUES] {
    let mut out = [ALL; VALUES];
    for digit in 0..VALUES.trailing_zeros() {
        let set = any(rng);
        for (number, takers) in out.iter_mut().enumerate() {
            *takers = and(*takers, if number >> digit & 1 == 1 { set } else { Planes.not(set) });
        }
    }
    out
}

/// Of each bit which values have it set, four values to a group.
fn digits(values: &[i64]) -> Vec<[u8; GROUPS]> {
    let group = |at: usize, four: &[i64]| {
        four.iter().enumerate().fold(0u8, |set, (n, value)| set | ((value >> at & 1) as u8) << n)
    };
    let digit = |at| {
        let mut out = [0; GROUPS];
        out.iter_mut().zip(values.chunks(4)).for_each(|(out, four)| *out = group(at, four));
        out
    };
    (0..64).map(digit).collect()
}

/// Of each group of four values: which scenarios take one of a set of them.
fn sums(takers: &[Plane; VALUES]) -> [[Plane; 16]; GROUPS] {
    let mut out = [[NONE; 16]; GROUPS];
    for (sums, four) in out.iter_mut().zip(takers.chunks(4)) {
        for set in 1..16usize {
            sums[set] = or(sums[set & (set - 1)], four[set.trailing_zeros() as usize]);
        }
    }
    out
}

/// Where something happens in this scan.
fn events(rng: &mut Rng, classes: &[Plane; PACES]) -> Plane {
    let mut often = ALL;
    let mut out = NONE;
    for class in classes {
        often = and(often, any(rng));
        out = or(out, and(*class, often));
    }
    out
}
