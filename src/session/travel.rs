//! Back and forward in time.

use super::acts::Way;
use super::log::Position;
use super::{ActError, Session, Told, Went};
use crate::scan::Controller;

impl Session {
    pub(super) fn back(&mut self, way: Way) -> Result<Told, ActError> {
        let here = self.bench.position();
        let to = match way {
            Way::Acts(count) => match self.done.checked_sub(count) {
                Some(done) => self.past[done].from,
                None if self.done == 0 => return Err("there is nothing to go back to".to_string().into()),
                None => return Err(format!("there are {} acts to go back", self.done).into()),
            },
            Way::Scans(scans) => self.after(here.scan.saturating_sub(scans)),
            Way::By(time) => {
                let now = self.bench.began().unwrap_or_default().0.nanos();
                self.after(self.scans_at(now.saturating_sub(time.nanos())))
            }
            Way::To(time) => self.after(self.scans_at(time.nanos())),
            Way::End => Position::default(),
        };
        if to > here {
            return Err("that lies ahead; `forward` goes there".to_string().into());
        }
        self.travel(to)
    }

    pub(super) fn forward(&mut self, way: Way) -> Result<Told, ActError> {
        let here = self.bench.position();
        let to = match way {
            Way::Acts(count) => match self.past.get(self.done + count - 1) {
                Some(past) => past.to,
                None => return Err(format!("there are {} acts to go forward", self.past.len() - self.done).into()),
            },
            Way::Scans(scans) => self.after(here.scan.saturating_add(scans)),
            Way::By(time) => {
                let now = self.bench.began().unwrap_or_default().0.nanos();
                self.after(self.scans_at(now.saturating_add(time.nanos())))
            }
            Way::To(time) => self.after(self.scans_at(time.nanos())),
            Way::End => self.end,
        };
        if to > self.end {
            return Err("nobody has been there yet; `wait` lets time go by".to_string().into());
        }
        if to < here {
            return Err("that lies behind; `back` goes there".to_string().into());
        }
        self.travel(to)
    }

    /// After so many scans, with all that happened before them and nothing since.
    fn after(&self, scans: u64) -> Position {
        let log = self.bench.log.partition_point(|entry| entry.scan < scans);
        Position { scan: scans, log }
    }

    /// How many scans have begun at a moment.
    fn scans_at(&self, nanos: i64) -> u64 {
        let (mut low, mut high) = (0, self.end.scan.max(self.bench.position().scan) + 1);
        // The first scan that begins later.
        while low < high {
            let middle = low + (high - low) / 2;
            if self.bench.instant(middle).0.nanos() > nanos { high = middle } else { low = middle + 1 }
        }
        low
    }

    fn travel(&mut self, to: Position) -> Result<Told, ActError> {
        let (points, shown) = (self.values(), self.stands().devices);
        self.bench.go(to)?;
        self.devices = super::devices::devices(self.bench.twin(), &self.bench.controllers);
        self.done = self.past.partition_point(|past| past.to <= to);
        debug_assert!(self.bench.controllers.iter().all(|c: &Controller| c.scans() == to.scan));
        let points = points.into_iter().zip(self.values()).filter(|(was, is)| was != is);
        let mut points: Vec<_> = points.map(|((side, name, was), (_, _, is))| (side, name, was, is)).collect();
        // What both versions do alike is told once.
        let all = points.clone();
        points.retain(|(side, name, was, is)| *side == 0 || !all.contains(&(0, name.clone(), was.clone(), is.clone())));
        let stands = self.stands();
        let devices = stands.devices.into_iter().filter(|device| !shown.contains(device)).collect();
        let (at, scans, held) = (stands.at, stands.scans, stands.held);
        Ok(Told::Went(Box::new(Went { at, scans, points, devices, held })))
    }
}
