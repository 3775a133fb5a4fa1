//! Where elements go: a column (level) and a row for each, and which cells wires need between them.
//!
//! Levels and the channels between them are called slots: channel, level, channel, level, ... from the left. A wire
//! has one vertical line, in the channel right of what feeds it; a cell (slot, row) belongs to one element or one wire.
//! So wires may cross, but never share a line, and any order of the vertical lines in a channel is right.

use super::Style;
use super::layout::Measure;
use crate::model::{Network, Users, Wire};
use std::collections::{BTreeMap, HashMap, HashSet};

/// What must be kept by the placement besides the wires.
#[derive(Clone, Debug, Default)]
pub(super) struct Orders {
    /// The second runs in a later column than the first.
    pub(super) after: HashSet<(usize, usize)>,
    /// These do not move to the last column, though nothing follows them.
    pub(super) early: HashSet<usize>,
    /// Each element lies below all before it.
    pub(super) stairs: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Owner {
    Element(usize),
    Wire(Wire),
    /// From a coil to the right rail.
    Tail(usize),
}

/// A cell (slot and row) with who has it.
type Taken = ((usize, usize), Owner);

/// Where everything goes.
#[derive(Clone, Debug)]
pub(super) struct Placement {
    pub(super) level: Vec<usize>,
    pub(super) row: Vec<usize>,
    pub(super) levels: usize,
    pub(super) height: usize,
    /// For each wire that leads back, the row it leads back on.
    pub(super) back: BTreeMap<Wire, usize>,
}

/// Who feeds and who takes each wire.
pub(super) struct Usage {
    fed: Users,
    taken: Users,
}

impl Usage {
    pub(super) fn of(network: &Network) -> Usage {
        let (fed, taken) = network.usage();
        Usage { fed, taken }
    }

    pub(super) fn feeders(&self, wire: Wire) -> &[usize] {
        self.fed.get(&wire).map_or(&[], Vec::as_slice)
    }

    pub(super) fn users(&self, wire: Wire) -> &[usize] {
        self.taken.get(&wire).map_or(&[], Vec::as_slice)
    }

    /// The element takes the wire before it is fed: it carries the value of the previous evaluation.
    pub(super) fn leads_back(&self, wire: Wire, user: usize) -> bool {
        self.feeders(wire).iter().any(|f| *f >= user)
    }
}

/// Places the elements of a network.
pub(super) fn place(
    network: &Network,
    measures: &[Measure],
    style: Style,
    usage: &Usage,
    orders: &Orders,
) -> Placement {
    let level = levels(network, style, usage, orders);
    let levels = level.iter().max().map_or(0, |l| l + 1);
    let count = network.elements.len();
    let placement = Placement { level, row: vec![0; count], levels, height: 0, back: BTreeMap::new() };
    let mut placer = Placer {
        network,
        measures,
        style,
        usage,
        cells: HashMap::new(),
        placed: vec![false; count],
        out: placement,
        stairs: orders.stairs,
    };
    if style == Style::Ladder {
        placer.along(Wire::RAIL, 0);
    }
    for at in 0..count {
        placer.element(at);
    }
    placer.backwards();
    placer.out
}

fn levels(network: &Network, style: Style, usage: &Usage, orders: &Orders) -> Vec<usize> {
    let count = network.elements.len();
    let mut before: Vec<Vec<usize>> = vec![Vec::new(); count];
    for (first, second) in &orders.after {
        before[*second].push(*first);
    }
    let mut level = vec![0usize; count];
    for at in 0..count {
        let mut least = before[at].iter().map(|b| level[*b] + 1).max().unwrap_or(0);
        let kind = &network.elements[at].kind;
        kind.inputs(&mut |wire| {
            for feeder in usage.feeders(wire).iter().filter(|f| **f < at) {
                least = least.max(level[*feeder] + 1);
            }
        });
        // What feeds a wire that leads back stands right of what takes it.
        kind.outputs(&mut |wire| {
            for user in usage.users(wire).iter().filter(|u| **u < at) {
                least = least.max(level[*user] + 1);
            }
        });
        level[at] = least;
    }
    let last = level.iter().max().copied().unwrap_or(0);
    for at in (0..count).rev() {
        let kind = &network.elements[at].kind;
        if style == Style::Ladder {
            if kind.ends() && !orders.early.contains(&at) {
                level[at] = last;
            }
            continue;
        }
        // Boxes stand close to what takes their values.
        let mut least = usize::MAX;
        let mut straight = true;
        kind.outputs(&mut |wire| {
            for user in usage.users(wire) {
                straight &= *user > at;
                least = least.min(level[*user]);
            }
        });
        kind.inputs(&mut |wire| straight &= !usage.leads_back(wire, at));
        if straight && least != usize::MAX && least > level[at] + 1 {
            level[at] = least - 1;
        }
    }
    level
}

struct Placer<'p> {
    network: &'p Network,
    measures: &'p [Measure],
    style: Style,
    usage: &'p Usage,
    /// Who has which cell: slot and row.
    cells: HashMap<(usize, usize), Owner>,
    placed: Vec<bool>,
    out: Placement,
    stairs: bool,
}

impl Placer<'_> {
    /// Places what takes a wire, and what follows it, before what stands beside it: branches stay together.
    fn along(&mut self, wire: Wire, depth: usize) {
        for &user in self.usage.users(wire) {
            if self.placed[user] {
                continue;
            }
            self.element(user);
            // A chain longer than this is placed in the order in which it runs.
            if depth < 400 {
                let mut next = Vec::new();
                self.network.elements[user].kind.outputs(&mut |w| next.push(w));
                next.into_iter().for_each(|w| self.along(w, depth + 1));
            }
        }
    }

    /// The channel in which a wire's vertical line stands, as a slot.
    fn channel(&self, wire: Wire) -> usize {
        self.usage.feeders(wire).iter().map(|f| channel_behind(self.out.level[*f])).max().unwrap_or(0)
    }

    fn element(&mut self, at: usize) {
        if std::mem::replace(&mut self.placed[at], true) {
            return;
        }
        let measure = &self.measures[at];
        let (wish, straight) = if self.stairs { (self.out.height, true) } else { self.wish(at) };
        let (mut row, mut cells) = self.fit(at, wish);
        if !(straight && row == wish) {
            // Room above for the title of a box further along, so that the wire to it runs straight.
            (row, cells) = self.fit(at, row + self.headroom(at));
        }
        self.cells.extend(cells);
        self.out.row[at] = row;
        self.out.height = self.out.height.max(row + measure.height);
    }

    /// The first row from `row` on where an element fits, and the cells it takes there.
    fn fit(&self, at: usize, mut row: usize) -> (usize, Vec<Taken>) {
        loop {
            match self.needs(at, row) {
                Some(cells) => return (row, cells),
                None => row += 1,
            }
        }
    }

    /// How much higher than this element the tallest thing straight behind it begins.
    fn headroom(&self, at: usize) -> usize {
        let (mut here, mut most) = (at, 0);
        let own = self.measures[at].inputs.first().or(self.measures[at].outputs.first()).map_or(0, |p| p.1);
        for _ in 0..self.measures.len() {
            let Some((wire, _)) = self.measures[here].outputs.first() else { break };
            let Some(&next) = self.usage.users(*wire).first().filter(|n| !self.placed[**n]) else { break };
            let Some((_, port)) = self.measures[next].inputs.iter().find(|(w, _)| w == wire) else { break };
            most = most.max(port.saturating_sub(own));
            here = next;
        }
        most
    }

    /// The row at which an element would best begin, and whether a wire runs straight to it there.
    fn wish(&self, at: usize) -> (usize, bool) {
        let measure = &self.measures[at];
        let port_row = |other: usize, ports: &[(Wire, usize)], wire: Wire| {
            ports.iter().find(|(w, _)| *w == wire).map(|(_, r)| self.out.row[other] + r)
        };
        for (wire, port) in &measure.inputs {
            let feeder = self.usage.feeders(*wire).iter().find(|f| **f != at && self.placed[**f]);
            if let Some(row) = feeder.and_then(|f| port_row(*f, &self.measures[*f].outputs, *wire)) {
                return (row.saturating_sub(*port), row >= *port);
            }
        }
        for (wire, port) in &measure.outputs {
            let beside = self.usage.feeders(*wire).iter().filter(|f| **f != at && self.placed[**f]);
            let row = beside.filter_map(|f| port_row(*f, &self.measures[*f].outputs, *wire)).max();
            if let Some(row) = row {
                return (row + 1, false);
            }
            let user = self.usage.users(*wire).iter().find(|u| **u != at && self.placed[**u]);
            if let Some(row) = user.and_then(|u| port_row(*u, &self.measures[*u].inputs, *wire)) {
                return (row.saturating_sub(*port), row >= *port);
            }
        }
        (self.out.height, false)
    }

    /// The cells an element at a row would take; `None` if one of them is taken.
    fn needs(&self, at: usize, row: usize) -> Option<Vec<Taken>> {
        let level = self.out.level[at];
        let measure = &self.measures[at];
        let mut out: Vec<Taken> = Vec::new();
        for down in 0..measure.height {
            out.push(((slot(level), row + down), Owner::Element(at)));
        }
        for (wire, port) in &measure.inputs {
            let behind = slot(level) - 1;
            let from = if self.usage.leads_back(*wire, at) { behind } else { self.channel(*wire) };
            out.extend((from..=behind).map(|s| ((s, row + port), Owner::Wire(*wire))));
        }
        for (wire, port) in &measure.outputs {
            let to = self.channel(*wire);
            out.extend((slot(level) + 1..=to).map(|s| ((s, row + port), Owner::Wire(*wire))));
        }
        if let (Style::Ladder, Some(port)) = (self.style, measure.tail) {
            out.extend((slot(level) + 1..=self.out.levels * 2).map(|s| ((s, row + port), Owner::Tail(at))));
        }
        out.iter().all(|(cell, owner)| self.cells.get(cell).is_none_or(|there| there == owner)).then_some(out)
    }

    /// Rows below everything for wires that lead back.
    fn backwards(&mut self) {
        for (at, measure) in self.measures.iter().enumerate() {
            for (wire, _) in &measure.inputs {
                if self.usage.leads_back(*wire, at) && !self.out.back.contains_key(wire) {
                    self.out.back.insert(*wire, self.out.height);
                    self.out.height += 1;
                }
            }
        }
    }
}

/// The slot of a level.
pub(super) const fn slot(level: usize) -> usize {
    2 * level + 1
}

/// The slot of the channel right of a level.
pub(super) const fn channel_behind(level: usize) -> usize {
    2 * level + 2
}
