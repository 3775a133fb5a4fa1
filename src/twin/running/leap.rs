//! Long waits in few scans. Where nothing but time seems to go on, one long scan stands for many, to shortly before something
//! else happens. Where the same happens again and again but for numbers that grow, as with a counter behind a timer that restarts
//! itself, the numbers are counted on, to shortly before one of them comes to a constant of the programs. All of it is a guess: what
//! is found so counts only when every scan was run.

use super::run::Run;
use crate::model::{Duration, Instant};
use crate::scan::Controller;
use crate::twin::vocabulary::Vocabulary;
use std::collections::VecDeque;

/// Leaps in one wait that are looked for.
const MOST_LEAPS: u32 = 240;

/// Leaps that a period may consist of.
const LONGEST_PERIOD: usize = 8;

/// Where whole numbers of the standard's types end, besides the constants of the programs.
const ENDS: [i64; 8] = [-32_768, -128, 0, 127, 255, 32_767, 65_535, 2_147_483_647];

/// The leaps of one wait.
#[derive(Default)]
pub(in crate::twin) struct Leaps {
    count: u32,
    /// What was so before each of the last ones.
    before: VecDeque<Moment>,
    /// Constants of both programs, once they are asked for.
    marks: Option<Vec<i64>>,
}

/// What both controllers hold at a moment, as numbers.
struct Moment {
    numbers: [Vec<i64>; 2],
    now: i64,
    scan: u64,
}

/// What goes on again and again.
struct Period {
    scans: u64,
    /// By how much each number grows in it.
    grows: [Vec<i64>; 2],
}

impl Run<'_> {
    /// Leaps over so many scans at most; how many it were.
    pub(super) fn leap(&mut self, leaps: &mut Leaps, most: u64) -> u64 {
        leaps.count += 1;
        if leaps.count > MOST_LEAPS {
            // What never comes to rest is leapt over all the same; running it whole will tell.
            self.pace.leap(most);
            return most;
        }
        let numbers = self.controllers.each_ref().map(Controller::numbers);
        leaps.before.push_back(Moment { numbers, now: self.pace.now(), scan: self.scan });
        if leaps.before.len() > 2 * LONGEST_PERIOD + 1 {
            leaps.before.pop_front();
        }
        if let Some(period) = leaps.period() {
            let times = self.times(leaps, &period).min(most / period.scans);
            if times > 0 {
                for (controller, grows) in self.controllers.iter_mut().zip(&period.grows) {
                    controller.shift(grows, times as i64);
                }
                self.pace.leap(period.scans * times);
                leaps.before.clear();
                return period.scans * times;
            }
        }
        let quiet = self.quiet(most);
        self.pace.leap(quiet);
        quiet
    }

    /// How many periods it is until shortly before a number that grows comes to a constant.
    fn times(&self, leaps: &mut Leaps, period: &Period) -> u64 {
        let twin = self.twin;
        let marks = leaps.marks.get_or_insert_with(|| {
            let found = Vocabulary::of_twin(twin);
            let all = found.numbers.into_iter().chain(found.times).chain(ENDS);
            // What is above a constant is not at it.
            all.flat_map(|mark| [mark.saturating_sub(1), mark, mark.saturating_add(1)]).collect()
        });
        let mut times = u64::MAX;
        for (controller, grows) in self.controllers.iter().zip(&period.grows) {
            let watches = &controller.machine().tape().watches;
            // When something began is no number that the program sees.
            let growing = controller.memory().iter().zip(grows).zip(0u32..).filter(|(_, slot)| !watches.contains(slot));
            for ((number, by), _) in growing.filter(|((_, by), _)| **by != 0) {
                let ways =
                    marks.iter().map(|mark| mark.wrapping_sub(*number)).filter(|way| way.signum() == by.signum());
                let nearest = ways.map(|way| (way / by) as u64).min().unwrap_or(u64::MAX);
                times = times.min(nearest.saturating_sub(2));
            }
        }
        times
    }

    /// For how many scans, of so many at most, nothing seems to change but what measures time: found by trying single
    /// long scans, so it is a guess.
    fn quiet(&mut self, most: u64) -> u64 {
        let before: Vec<Vec<i64>> = self.controllers.iter().map(|c| c.memory().to_vec()).collect();
        let states = self.controllers.each_ref().map(Controller::save);
        let try_leap = |run: &mut Self, scans: u64| {
            let mut pace = run.pace.clone();
            pace.leap(scans);
            for (controller, state) in run.controllers.iter_mut().zip(&states) {
                controller.restore(state);
                controller.scan(Instant(Duration::from_nanos(pace.now())));
            }
            [0, 1].map(|side: usize| run.controllers[side].memory().to_vec())
        };
        let next = try_leap(self, 0);
        // What moves from one scan to the next measures time, or so it seems.
        let moves: Vec<Vec<bool>> =
            before.iter().zip(&next).map(|(a, b)| a.iter().zip(b).map(|(x, y)| x != y).collect()).collect();
        let is_quiet = |now: &[Vec<i64>; 2]| {
            now.iter()
                .zip(&before)
                .zip(&moves)
                .all(|((now, before), moves)| now.iter().zip(before).zip(moves).all(|((a, b), moves)| *moves || a == b))
        };
        let (mut low, mut high) = (0, most);
        let mut guess = most;
        while low < high {
            if is_quiet(&try_leap(self, guess)) {
                low = guess;
            } else {
                high = guess - 1;
            }
            guess = low + (high - low).div_ceil(2);
        }
        self.controllers.iter_mut().zip(&states).for_each(|(c, state)| c.restore(state));
        low.saturating_sub(2)
    }
}

impl Leaps {
    /// The shortest period, if the last moments show one twice.
    fn period(&self) -> Option<Period> {
        let count = self.before.len();
        let last = self.before.back()?;
        (1..=LONGEST_PERIOD).take_while(|leaps| 2 * leaps < count).find_map(|leaps| {
            let (one, two) = (&self.before[count - 1 - leaps], &self.before[count - 1 - 2 * leaps]);
            let scans = last.scan - one.scan;
            let is_even = scans == one.scan - two.scan && last.now - one.now == one.now - two.now;
            let grows = |side: usize| {
                let numbers = [last, one, two].map(|moment| &moment.numbers[side]);
                let each = numbers[0].iter().zip(numbers[1]).zip(numbers[2]);
                let grows: Option<Vec<i64>> = each
                    .map(|((last, one), two)| {
                        let by = last.wrapping_sub(*one);
                        (by == one.wrapping_sub(*two)).then_some(by)
                    })
                    .collect();
                grows
            };
            is_even.then(|| Some(Period { scans, grows: [grows(0)?, grows(1)?] })).flatten()
        })
    }
}
