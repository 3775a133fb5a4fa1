//! The rack: which points its cards have.

use crate::model::sheet::{ProtocolTable, Sheet};
use std::ops::Range;

/// Where a card's points are.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Placed {
    /// The card's name.
    pub name: String,
    /// The area, by its place in the sheet.
    pub area: usize,
    /// Numbers of its points, counted from 0 through the area.
    pub points: Range<u32>,
}

/// Gives each card its points: first those with a start address, then the others, each the lowest run that is free.
///
/// # Errors
/// The first card that has no place, by its number, with the reason.
pub fn places(sheet: &Sheet) -> Result<Vec<Placed>, (usize, String)> {
    let mut out: Vec<Option<Placed>> = vec![None; sheet.cards.len()];
    for automatic in [false, true] {
        for (number, card) in sheet.cards.iter().enumerate().filter(|(_, c)| c.start.is_none() == automatic) {
            let wrong = |message: String| Err((number, format!("card `{}`: {message}", card.name)));
            let Some((area, of)) = sheet.area(&card.area) else {
                return wrong(format!("there is no area `{}`", card.area));
            };
            if card.points == 0 {
                return wrong("it has no points".to_string());
            }
            let taken: Vec<&Placed> = out.iter().flatten().filter(|p| p.area == area).collect();
            let overlap =
                |r: &Range<u32>| taken.iter().copied().find(|p| p.points.start < r.end && r.start < p.points.end);
            let from = |start: u32| start..start.saturating_add(card.points);
            let points = match &card.start {
                Some(start) => match of.parsed.read(start) {
                    Ok(index) => from(index),
                    Err(error) => return wrong(error.message),
                },
                None => {
                    let free = taken.iter().map(|p| p.points.end).chain([0]).filter(|s| overlap(&from(*s)).is_none());
                    free.min().map_or(0..0, from)
                }
            };
            if let Some(other) = overlap(&points) {
                let point = of.parsed.write(points.start.max(other.points.start)).unwrap_or_default();
                return wrong(format!("`{point}` is taken by card `{}` already", other.name));
            }
            if points.end > of.parsed.count() {
                return wrong(format!("its {} points go beyond the end of `{}`", card.points, card.area));
            }
            out[number] = Some(Placed { name: card.name.clone(), area, points });
        }
    }
    Ok(out.into_iter().flatten().collect())
}

/// Where the open protocol has a point: its table, and its protocol address counted from 0. `None` if the sheet does not say.
#[must_use]
pub fn protocol_place(sheet: &Sheet, area: usize, index: u32) -> Option<(ProtocolTable, u32)> {
    let protocol = sheet.areas.get(area)?.protocol?;
    let of_card = || {
        let placed = places(sheet).ok()?;
        let card = placed.iter().find(|p| p.area == area && p.points.contains(&index))?;
        let start = sheet.cards.iter().find(|c| c.name == card.name)?.protocol?;
        Some(start + (index - card.points.start))
    };
    let said = sheet.cards.iter().any(|c| c.protocol.is_some());
    let number = if said { of_card() } else { None };
    Some((protocol.table, number.unwrap_or(protocol.start + index)))
}

/// Why a point is not there: no card of the rack has it. `None` if one does, or if the area has no cards.
#[must_use]
pub fn lacks(sheet: &Sheet, area: usize, index: u32) -> Option<String> {
    let all = places(sheet).ok()?;
    let cards: Vec<&Placed> = all.iter().filter(|p| p.area == area).collect();
    if cards.is_empty() || cards.iter().any(|p| p.points.contains(&index)) {
        return None;
    }
    let of = &sheet.areas[area].parsed;
    let run = |p: &&Placed| {
        let (first, last) = (of.write(p.points.start), of.write(p.points.end - 1));
        format!("{} has {} to {}", p.name, first.unwrap_or_default(), last.unwrap_or_default())
    };
    Some(format!("no card has this point: {}", cards.iter().map(run).collect::<Vec<_>>().join(", ")))
}
