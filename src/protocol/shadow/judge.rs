//! What a poll has seen is held against the copies; where none explains it, other ways are tried.

use super::copy::{Copy, Moment, Stretch};
use super::{Apart, Begin, Shadow, whole};
use crate::lang::statement_at;
use crate::model::{Duration, Family, Value};
use crate::scan::{Direction, Machine, PointId};

/// Polls between two marks, and how many marks there are.
const APART: usize = 20;
const MARKS: usize = 12;

/// How many ways are followed at once to explain one poll, at most and at least, and how many operations they may take.
const MOST_WAYS: u64 = 400;
const LEAST_WAYS: u64 = 64;
const WORK: u64 = 400_000_000;

/// Most polls for which other ways are tried.
const MOST_RESCUES: u32 = 200;

/// A poll that is to be judged.
pub(super) struct Due {
    pub(super) poll: usize,
    pub(super) at: Duration,
}

/// Copies as they were after a poll.
pub(super) struct Mark {
    /// The poll's place among those that are kept.
    kept: usize,
    scan: i64,
    copies: Vec<Copy>,
}

/// Ways in which inputs may have moved.
struct Ways {
    copies: Vec<Copy>,
    most: usize,
    tried: u64,
    /// The next poll to judge, by its place among those that are kept.
    due: usize,
}

impl Ways {
    /// As many as there may be, each as one of some others.
    fn fill(&mut self, of: &[Copy], rng: &mut fastrand::Rng) {
        while self.copies.len() < self.most {
            self.copies.push(of[rng.usize(..of.len())].fork());
            self.tried += 1;
        }
    }
}

/// What the twin remembers that no output shows: since when copies have been apart in it.
pub(super) struct Hidden(Vec<(PointId, Option<Duration>)>);

impl Hidden {
    pub(super) fn of(machine: &Machine) -> Hidden {
        let points = machine.points_of(Direction::Internal);
        let discrete =
            points.filter(|(_, point)| matches!(point.ty.family(), Family::Bool | Family::Int | Family::Bits));
        Hidden(discrete.map(|(id, _)| (id, None)).collect())
    }

    /// Looks at the copies after a poll. The first point in which they have been apart for a time, if one has.
    fn look(&mut self, copies: &[Copy], at: Duration, time: Duration) -> Option<PointId> {
        let (first, others) = copies.split_first()?;
        for (point, since) in &mut self.0 {
            let value = first.controller.get_slot(*point);
            if others.iter().all(|copy| copy.controller.get_slot(*point) == value) {
                *since = None;
            } else if at.minus(*since.get_or_insert(at)) > time {
                return Some(*point);
            }
        }
        None
    }
}

impl Shadow<'_> {
    /// Judges the polls around which the twin has run.
    pub(super) fn judge(&mut self) {
        let window = self.window();
        let run_until = self.ground.began_at(self.scan - 1);
        let is_over = |due: &Due| due.at.plus(window) <= run_until.plus(self.ground.time);
        let over = self.due.iter().take_while(|due| is_over(due)).count();
        for Due { poll, at } in self.due.drain(..over).collect::<Vec<_>>() {
            if self.apart.is_some() {
                break;
            }
            // Before a scan has run after the first poll nobody knows what the outputs are.
            if at.minus(self.ground.began) > window {
                self.judge_poll(poll, at, window);
            }
            self.judged += 1;
            self.look_inside(at, window);
        }
    }

    /// Where what copies remember stays apart though inputs are still, what comes later may hang on what was not seen.
    fn look_inside(&mut self, at: Duration, window: Duration) {
        let span = Duration::from_nanos(window.nanos().saturating_mul(4));
        if let (Some(point), false) = (self.hidden.look(&self.copies, at, span), self.blurred)
            && self.is_still(at, window)
        {
            self.blurred = true;
            let (name, when) = (&self.version.machine().point(point).name, whole(at.minus(self.ground.began)));
            self.unsure.push(format!(
                "what {name} is after {when} hangs on when, between two polls, inputs changed: poll faster"
            ));
        }
    }

    /// Whether no input moved around a moment.
    fn is_still(&self, at: Duration, window: Duration) -> bool {
        let (from, to) = (at.minus(window), at.plus(window));
        !self.moved.iter().any(|[before, behind]| *before <= to && *behind >= from)
    }

    /// The first output in step that a copy does not explain.
    fn unexplained(&self, copy: &Copy, outputs: &[Value], at: Duration, window: Duration) -> Option<usize> {
        (0..outputs.len())
            .find(|output| self.in_step[*output] && !copy.within(*output, at, window).contains(&outputs[*output]))
    }

    fn judge_poll(&mut self, poll: usize, at: Duration, window: Duration) {
        let outputs = self.kept[poll - self.dropped as usize].outputs.clone();
        for (output, value) in outputs.iter().enumerate() {
            let agrees = |copy: &Copy| copy.within(output, at, window).contains(value);
            self.in_step[output] = self.in_step[output] || self.copies.iter().any(agrees);
        }
        let wrong: Vec<Option<usize>> =
            self.copies.iter().map(|copy| self.unexplained(copy, &outputs, at, window)).collect();
        let able: Vec<usize> = (0..wrong.len()).filter(|copy| wrong[*copy].is_none()).collect();
        if able.is_empty() {
            self.nobody_explains(poll, at, window, &outputs, wrong[0].unwrap_or_default());
            return;
        }
        // Whoever does not explain what was seen goes on as one that does, each as another where there are several.
        for (number, copy) in (0..wrong.len()).filter(|copy| wrong[*copy].is_some()).enumerate() {
            let model = self.copies[able[number % able.len()]].fork();
            self.copies[copy].become_as(&model);
        }
    }

    /// No copy explains a poll: other ways are tried, then it is told.
    fn nobody_explains(&mut self, poll: usize, at: Duration, window: Duration, outputs: &[Value], output: usize) {
        let mut twin: Vec<String> =
            self.copies.iter().flat_map(|copy| copy.within(output, at, window)).map(|value| value.readable()).collect();
        twin.sort();
        twin.dedup();
        let point = self.ground.outputs[output].point;
        let project = self.version.checked().project();
        let writer = self.copies[1].controller.writer(point);
        let mut apart = Apart {
            output: self.ground.outputs[output].name.clone(),
            at: whole(at.minus(self.ground.began)),
            poll,
            device: outputs[output].readable(),
            twin,
            statement: writer.map(|span| [project.place(span), statement_at(project, span)]),
            ways: 0,
        };
        // While inputs move other ways are tried once; when they are still, it is settled.
        let is_doubted = self.doubted.as_ref().is_some_and(|first| first.output == apart.output);
        if !self.blurred && (!is_doubted || self.is_still(at, window)) {
            match self.rescue(poll, window) {
                Ok(copy) => {
                    self.copies.iter_mut().for_each(|own| own.become_as(&copy));
                    return;
                }
                Err(ways) => apart.ways = ways,
            }
        }
        let doubt = if self.blurred {
            "what went before was not seen whole"
        } else if self.begin == Begin::Running {
            "it remembered something else when this began"
        } else if apart.ways == 0 && !is_doubted {
            "there were too many polls to try other ways for"
        } else if self.is_still(at, window) {
            self.apart = Some(self.doubted.take().filter(|first| first.output == apart.output).unwrap_or(apart));
            return;
        } else {
            // While inputs move nothing is sure; if it stays so when they are still, it is.
            self.doubted.get_or_insert(apart);
            return;
        };
        // From here on the twin may be somewhere else.
        self.blurred = true;
        if !self.unsure.iter().any(|said| said.starts_with(&format!("{} was", apart.output))) {
            self.unsure.push(apart.or(doubt));
        }
    }

    /// A copy that explains all up to a poll, of many that run from the oldest mark on; or how many ways were tried. Those that
    /// do not explain what was seen make room for more of those that do, so that a chain of things that each happen seldom is
    /// met as well.
    fn rescue(&mut self, poll: usize, window: Duration) -> Result<Copy, u64> {
        let Some(mark) = self.marks.front() else { return Err(0) };
        if self.rescues >= MOST_RESCUES {
            return Err(0);
        }
        self.rescues += 1;
        let scans = (self.scan - mark.scan).max(1) as u64;
        let most = (WORK / scans / self.version.machine().operations().max(1) as u64).clamp(LEAST_WAYS, MOST_WAYS);
        let mut rng = self.rng.fork();
        let mut ways = Ways { copies: Vec::new(), most: most as usize, tried: 0, due: mark.kept + 1 };
        ways.fill(&mark.copies, &mut rng);
        let last = poll - self.dropped as usize;
        let mut scan = mark.scan;
        for at in mark.kept + 1..self.kept.len() {
            let (before, now) = (&self.kept[at - 1].inputs, &self.kept[at].inputs);
            let until = self.kept[at].at;
            let keep = self.kept_for(self.kept[ways.due.min(at)].at, until);
            for copy in &mut ways.copies {
                let mut own = rng.fork();
                let stretch = Stretch { before, now, until, scan, keep };
                copy.run(&self.ground, stretch, |_| Moment::by_chance(&mut own), &mut rng);
            }
            scan = self.ground.scan_after(until);
            self.sift(&mut ways, last, window, self.ground.began_at(scan), &mut rng)?;
        }
        // At the end the copies have run on beyond the last poll.
        if let Some(inputs) = self.kept.last().map(|kept| &kept.inputs).filter(|_| scan < self.scan) {
            let until = self.ground.began_at(self.scan - 1);
            let keep = self.kept_for(self.kept[ways.due.min(self.kept.len() - 1)].at, until);
            let stretch = Stretch { before: inputs, now: inputs, until, scan, keep };
            ways.copies.iter_mut().for_each(|copy| copy.run(&self.ground, stretch, |_| Moment::Late, &mut rng));
        }
        self.sift(&mut ways, last, window, self.ground.began_at(self.scan), &mut rng)?;
        ways.copies.pop().ok_or(ways.tried)
    }

    /// Lets go of the ways that do not explain a poll that can be judged now; how many were tried, if none is left.
    fn sift(
        &self,
        ways: &mut Ways,
        last: usize,
        window: Duration,
        until: Duration,
        rng: &mut fastrand::Rng,
    ) -> Result<(), u64> {
        while ways.due <= last && self.kept[ways.due].at.plus(window) <= until {
            let seen = &self.kept[ways.due];
            ways.copies.retain(|copy| self.unexplained(copy, &seen.outputs, seen.at, window).is_none());
            ways.due += 1;
            if ways.copies.is_empty() {
                return Err(ways.tried);
            }
        }
        if ways.copies.len() * 2 < ways.most {
            let able: Vec<Copy> = ways.copies.iter().map(Copy::fork).collect();
            ways.fill(&able, rng);
        }
        Ok(())
    }

    /// Keeps the copies as they are, now and then.
    pub(super) fn mark(&mut self) {
        let kept = self.kept.len() - 1;
        if self.marks.back().is_some_and(|mark| mark.kept + APART > kept) {
            return;
        }
        // The way back is as long as the oldest mark is old: all before it has been judged.
        while self.marks.len() >= MARKS {
            self.marks.pop_front();
        }
        self.marks.push_back(Mark { kept, scan: self.scan, copies: self.copies.iter().map(Copy::fork).collect() });
    }
}
