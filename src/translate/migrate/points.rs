//! Points and words: where they go, and why.

use super::{AddressMap, MapRow, Work};
use crate::dialect::rack;
use crate::model::sheet::{Holds, MemoryArea};
use crate::model::{Elem, Item, Name, Retain, TypeSpec, VarDecl, VarSection};
use crate::translate::Grade;
use crate::translate::ledger::NO_PLACE;
use std::collections::HashSet;

/// A located variable, and what is asked of its new place.
struct Point {
    unit: String,
    name: String,
    old: (usize, u32),
    bits: u32,
    retained: bool,
    comment: String,
}

impl Work {
    /// Gives every located variable its place in the target; writes the addresses as the checker will know them.
    pub(super) fn points(&mut self, map: Option<&AddressMap>) -> Result<(), Vec<String>> {
        let mut points = self.located();
        points.sort_by_key(|p| p.old);
        let mut taken: HashSet<(usize, u32)> = HashSet::new();
        let mut problems = Vec::new();
        // What the map says comes first, then those that can keep their number.
        let mut places: Vec<Option<((usize, u32), String)>> = vec![None; points.len()];
        for (point, place) in points.iter().zip(&mut places) {
            let old = self.from.written(point.old);
            let Some(row) = map.and_then(|m| m.find(&old, &point.name)).filter(|r| !r.new.is_empty()) else { continue };
            match self.to.sheet().locate(&row.new) {
                Err(error) => problems.push(format!("`{}` for `{old}`: {}", row.new, error.message)),
                Ok(at) if !self.fits(point, at.0) => {
                    problems.push(format!("`{}` for `{old}`: that area is for something else", row.new));
                }
                Ok(at) if !taken.insert(at) => problems.push(format!("`{}` for `{old}` is taken already", row.new)),
                Ok(at) => {
                    *place = Some((at, if row.why.is_empty() { "by the map".to_string() } else { row.why.clone() }))
                }
            }
        }
        if !problems.is_empty() {
            return Err(problems);
        }
        for (point, place) in points.iter().zip(&mut places).filter(|(_, place)| place.is_none()) {
            let areas = self.to.sheet().areas.iter().enumerate().map(|(a, _)| a);
            let same = areas.filter(|a| self.fits(point, *a)).map(|a| (a, point.old.1));
            let same: Vec<(usize, u32)> = same.filter(|at| self.is_free(point, *at, &taken)).collect();
            if let Some(at) = same.first() {
                taken.insert(*at);
                *place = Some((*at, "the same point".to_string()));
            }
        }
        for (point, place) in points.iter().zip(&mut places).filter(|(_, place)| place.is_none()) {
            let areas = (0..self.to.sheet().areas.len()).filter(|a| self.fits(point, *a));
            let all = areas.flat_map(|a| (0..self.to.sheet().areas[a].parsed.count()).map(move |i| (a, i)));
            if let Some(at) = all.into_iter().find(|at| self.is_free(point, *at, &taken)) {
                taken.insert(at);
                *place = Some((at, "the first that is free".to_string()));
            }
        }
        for (point, place) in points.iter().zip(places) {
            self.move_point(point, place);
        }
        self.first_scan();
        Ok(())
    }

    fn move_point(&mut self, point: &Point, place: Option<((usize, u32), String)>) {
        let old = self.from.written(point.old);
        let known = place.as_ref().map(|(at, _)| self.to.address(*at));
        let (new, why) = match &place {
            Some((at, why)) => (self.to.written(*at), why.clone()),
            None => {
                let kept = if point.retained { ", and declared RETAIN" } else { "" };
                let reason = format!(
                    "`{}` at {old} has no place in {}; it is kept as a variable{kept}",
                    point.name,
                    self.to.sheet().name
                );
                self.entry(NO_PLACE, Grade::Lost, &point.unit, Some(&point.name), reason, Some(16));
                (String::new(), "no area for it".to_string())
            }
        };
        let (symbol, comment) = (point.name.clone(), point.comment.clone());
        self.map.rows.push(MapRow { old, symbol, comment, new, why });
        let (unit, name) = (point.unit.clone(), point.name.clone());
        self.each_declaration(|of, _, decl| {
            if of == unit && decl.names.first().is_some_and(|n| n.text == name) {
                decl.address = known.clone().map(|text| Name { text, span: decl.names[0].span });
            }
        });
    }

    fn located(&mut self) -> Vec<Point> {
        let from = self.from.clone();
        let mut out = Vec::new();
        self.each_declaration(|unit, retain, decl| {
            let Some(old) = decl.address.as_ref().and_then(|a| from.locate(&a.text)) else { return };
            let is_flag = from.sheet().first_scan() == Some(old);
            if is_flag || from.sheet().areas[old.0].holds == Holds::Device || matches!(decl.spec, TypeSpec::Named(_)) {
                return;
            }
            let bits = if let TypeSpec::Elem(elem, _) | TypeSpec::Range(elem, ..) = &decl.spec {
                elem.shape().map_or(64, |s| u32::from(s.bits))
            } else {
                0
            };
            let comments = decl.notes.leading.iter().chain(&decl.notes.trailing).map(|c| c.text.clone());
            let comment = comments.collect::<Vec<_>>().join(" ");
            let name = decl.names.first().map_or(String::new(), |n| n.text.clone());
            out.push(Point { unit: unit.to_string(), name, old, bits, retained: retain == Retain::Retain, comment });
        });
        out
    }

    /// True for an area that holds what the point holds, for the same purpose.
    fn fits(&self, point: &Point, area: usize) -> bool {
        let (old, new) = (&self.from.sheet().areas[point.old.0], &self.to.sheet().areas[area]);
        let word =
            Elem::from_name(&self.to.sheet().numbers.word).and_then(Elem::shape).map_or(16, |s| u32::from(s.bits));
        let wide = old.holds == Holds::Bit || self.to.is_standard || point.bits == word;
        old.role == new.role && old.holds == new.holds && wide
    }

    fn is_free(&self, point: &Point, at: (usize, u32), taken: &HashSet<(usize, u32)>) -> bool {
        let area: &MemoryArea = &self.to.sheet().areas[at.0];
        let keeps = self.to.is_standard || area.is_retained(at.1) == point.retained;
        let first_scan = self.to.sheet().first_scan() == Some(at);
        at.1 < area.parsed.count()
            && keeps
            && !first_scan
            && !taken.contains(&at)
            && rack::lacks(self.to.sheet(), at.0, at.1).is_none()
    }

    /// Goes over all declarations, with the unit (empty: global) and what its section says of power.
    pub(super) fn each_declaration(&mut self, mut found: impl FnMut(&str, Retain, &mut VarDecl)) {
        let mut go = |unit: &str, sections: &mut [VarSection]| {
            for section in sections {
                let retain = section.retain;
                section.vars.iter_mut().for_each(|decl| found(unit, retain, decl));
            }
        };
        for item in &mut self.items {
            match item {
                Item::Unit(unit) => go(&unit.name.text.clone(), &mut unit.sections),
                Item::Globals(section) => go("", std::slice::from_mut(section)),
                Item::Configuration(c) => go("", &mut c.globals),
                Item::Type(_) | Item::Envelope(_) => {}
            }
        }
    }
}
