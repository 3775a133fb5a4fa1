//! Which part of one body is which of another one: what is the same stays together, what stands elsewhere has moved, and
//! what is much alike is the same part changed.

use super::token::{Print, Token};
use super::tree::{Node, Shape};
use similar::{Algorithm, DiffOp, capture_diff_slices};
use std::collections::{HashMap, HashSet, VecDeque};

/// A part of both bodies, or of one.
#[derive(Clone, Debug)]
pub(super) enum Step<'n> {
    Same(&'n Node, &'n Node),
    /// The same in another place.
    Moved(&'n Node, &'n Node),
    /// Much alike, with what is in them.
    Changed(&'n Node, &'n Node, Vec<Step<'n>>),
    Gone(&'n Node),
    /// New, with what of it was there before, elsewhere.
    New(&'n Node, Vec<Step<'n>>),
}

/// Aligns two lists of parts.
pub(super) fn align<'n>(left: &'n [Node], right: &'n [Node]) -> Vec<Step<'n>> {
    let mut steps = level(left, right);
    across(&mut steps);
    steps
}

/// Lists that are aligned at one level, and what is in pairs that differ.
fn level<'n>(left: &'n [Node], right: &'n [Node]) -> Vec<Step<'n>> {
    let prints = |list: &[Node]| list.iter().map(|node| node.whole).collect::<Vec<Print>>();
    let (a, b) = (prints(left), prints(right));
    let ops = capture_diff_slices(Algorithm::Patience, &a, &b);
    // What stands on one side only, by its whole: in order, so that the first is taken for the first.
    let mut lone: HashMap<Print, VecDeque<usize>> = HashMap::new();
    let mut gaps: Vec<(Vec<usize>, Vec<usize>)> = Vec::new();
    let mut out: Vec<(usize, Option<Step<'n>>)> = Vec::new();
    for op in &ops {
        if let DiffOp::Equal { old_index, new_index, len } = *op {
            let pairs = (0..len).map(|at| (&left[old_index + at], &right[new_index + at]));
            out.extend(pairs.map(|(l, r)| (0, Some(Step::Same(l, r)))));
            continue;
        }
        let (old, new) = (op.old_range(), op.new_range());
        old.clone().for_each(|at| lone.entry(a[at]).or_default().push_back(at));
        // A place for what is found out about the gap.
        out.push((gaps.len(), None));
        gaps.push((old.collect(), new.collect()));
    }
    let mut moved: HashMap<usize, usize> = HashMap::new();
    for (_, new) in &gaps {
        for at in new.iter().filter(|at| right[**at].says_something()) {
            if let Some(from) = lone.get_mut(&b[*at]).and_then(VecDeque::pop_front) {
                moved.insert(*at, from);
            }
        }
    }
    let away: HashSet<usize> = moved.values().copied().collect();
    let mut filled: Vec<Vec<Step<'n>>> = Vec::new();
    for (old, new) in &gaps {
        let old: Vec<&Node> = old.iter().filter(|at| !away.contains(at)).map(|at| &left[*at]).collect();
        let staying: Vec<&Node> = new.iter().filter(|at| !moved.contains_key(at)).map(|at| &right[*at]).collect();
        let mut steps: VecDeque<Step<'n>> = gap(&old, &staying).into();
        // What came from elsewhere stands where it stands now.
        let mut here = Vec::new();
        for at in new {
            match moved.get(at) {
                Some(from) => here.push(Step::Moved(&left[*from], &right[*at])),
                None => {
                    while let Some(step) = steps.pop_front() {
                        let is_gone = matches!(step, Step::Gone(_));
                        here.push(step);
                        if !is_gone {
                            break;
                        }
                    }
                }
            }
        }
        here.extend(steps);
        filled.push(here);
    }
    let mut filled = filled.into_iter();
    out.into_iter().flat_map(|(_, step)| step.map_or_else(|| filled.next().unwrap_or_default(), |s| vec![s])).collect()
}

/// What is in two parts that differ. Elements that are joined in the same way are the same elements, one for one.
fn inside<'n>(left: &'n Node, right: &'n Node) -> Vec<Step<'n>> {
    let shapes = |node: &Node| node.children.iter().map(|child| child.shape).collect::<Vec<Shape>>();
    if left.shape != Shape::Network || left.joined != right.joined || shapes(left) != shapes(right) {
        return level(&left.children, &right.children);
    }
    let pairs = left.children.iter().zip(&right.children);
    let step = |(a, b): (&'n Node, &'n Node)| match a.whole == b.whole {
        true => Step::Same(a, b),
        false => Step::Changed(a, b, Vec::new()),
    };
    pairs.map(step).collect()
}

impl Node {
    /// Whether it would be missed elsewhere: not so a rung or statement of nothing.
    fn says_something(&self) -> bool {
        !self.children.is_empty() || self.tokens.len() > 1
    }
}

/// Pairs of places that are tried in a gap, at most; larger gaps are paired by what their parts write.
const MOST_TRIED: usize = 10_000;

/// Parts of a gap: those that are much alike are pairs, in order.
fn gap<'n>(left: &[&'n Node], right: &[&'n Node]) -> Vec<Step<'n>> {
    let pairs = match left.len() * right.len() {
        0 => Vec::new(),
        product if product <= MOST_TRIED => nearest(left, right),
        _ => by_target(left, right),
    };
    let (mut i, mut j, mut out) = (0, 0, Vec::new());
    let gone = |node: &&'n Node| Step::Gone(node);
    let new = |node: &&'n Node| Step::New(node, Vec::new());
    for (l, r) in pairs {
        out.extend(left[i..l].iter().map(gone));
        out.extend(right[j..r].iter().map(new));
        out.push(Step::Changed(left[l], right[r], inside(left[l], right[r])));
        (i, j) = (l + 1, r + 1);
    }
    out.extend(left[i..].iter().map(gone));
    out.extend(right[j..].iter().map(new));
    out
}

/// How alike two parts are, from 0 to 1000, if they may be one part that was changed.
fn likeness(left: &Node, right: &Node) -> u32 {
    if left.shape != right.shape {
        return 0;
    }
    let (mut a, mut b) = (bag(left), bag(right));
    a.sort_unstable();
    b.sort_unstable();
    let (mut i, mut j, mut shared) = (0, 0, 0);
    while i < a.len() && j < b.len() {
        match a[i].cmp(b[j]) {
            std::cmp::Ordering::Less => i += 1,
            std::cmp::Ordering::Greater => j += 1,
            std::cmp::Ordering::Equal => (i, j, shared) = (i + 1, j + 1, shared + 1),
        }
    }
    let share = (2000 * shared / (a.len() + b.len()).max(1)) as u32;
    // What writes the same is likely the same part, whatever it says.
    match (target(left), target(right)) {
        (Some(a), Some(b)) if a == b => share.max(LIKE) + 200,
        _ => share,
    }
}

/// How alike two parts must be.
const LIKE: u32 = 500;

/// Tokens of a part that are compared at most.
const MOST_TOKENS: usize = 300;

fn bag(node: &Node) -> Vec<&Token> {
    let mut out: Vec<&Token> = Vec::new();
    node.each(&mut |inner| {
        if out.len() < MOST_TOKENS {
            out.extend(&inner.tokens);
        }
    });
    out
}

/// What a part writes or calls: of a statement what stands in front, of a rung or network its first coil or store.
fn target(node: &Node) -> Option<Vec<&Token>> {
    let after = |tokens: &'_ [Token]| tokens.iter().skip(1).filter(|t| **t != Token::Sign("NOT")).count();
    match node.shape {
        Shape::Step => {
            let end = node.tokens.iter().position(|t| matches!(t, Token::Sign(":=" | "(")))?;
            Some(node.tokens[..end].iter().collect())
        }
        Shape::Rung | Shape::Network => {
            let writes = |child: &&Node| match child.shape {
                Shape::Coil => true,
                Shape::Instruction => matches!(child.tokens.first(), Some(Token::Sign("ST" | "S" | "R"))),
                Shape::End => child.tokens.first() == Some(&Token::Sign("=>")),
                Shape::Box => child.tokens.get(1) == Some(&Token::Sign(":")),
                Shape::Step
                | Shape::If
                | Shape::Branch
                | Shape::Else
                | Shape::Case
                | Shape::Label
                | Shape::For
                | Shape::While
                | Shape::Repeat
                | Shape::Rung
                | Shape::Nested
                | Shape::Network
                | Shape::Contact
                | Shape::Leave => false,
            };
            let found = node.children.iter().find(writes).filter(|child| after(&child.tokens) > 0)?;
            let names = found.tokens.iter().filter(|t| matches!(t, Token::Name(_) | Token::Part(_) | Token::Value(_)));
            Some(names.take(if found.shape == Shape::Box { 2 } else { usize::MAX }).collect())
        }
        // The variable or instance that an element stands for.
        Shape::Contact | Shape::Coil | Shape::Instruction | Shape::Nested => {
            Some(node.tokens.iter().filter(|t| matches!(t, Token::Name(_) | Token::Part(_))).collect::<Vec<_>>())
                .filter(|names| !names.is_empty())
        }
        Shape::Box => Some(node.tokens.iter().take_while(|t| **t != Token::Sign(":=")).collect()),
        // There is one of it at most.
        Shape::Else => Some(Vec::new()),
        Shape::If
        | Shape::Branch
        | Shape::Case
        | Shape::Label
        | Shape::For
        | Shape::While
        | Shape::Repeat
        | Shape::End
        | Shape::Leave => None,
    }
}

/// Pairs in order whose likeness is together the greatest.
fn nearest(left: &[&Node], right: &[&Node]) -> Vec<(usize, usize)> {
    let (rows, columns) = (left.len(), right.len());
    let like: Vec<Vec<u32>> = left.iter().map(|l| right.iter().map(|r| likeness(l, r)).collect()).collect();
    // Where one part stands against one there is little else that it could be.
    let least = if rows == 1 && columns == 1 { LIKE / 2 } else { LIKE };
    let mut best = vec![vec![0u32; columns + 1]; rows + 1];
    for i in (0..rows).rev() {
        for j in (0..columns).rev() {
            let pair = if like[i][j] >= least { like[i][j] + best[i + 1][j + 1] } else { 0 };
            best[i][j] = pair.max(best[i + 1][j]).max(best[i][j + 1]);
        }
    }
    let (mut i, mut j, mut out) = (0, 0, Vec::new());
    while i < rows && j < columns {
        if like[i][j] >= least && best[i][j] == like[i][j] + best[i + 1][j + 1] {
            out.push((i, j));
            (i, j) = (i + 1, j + 1);
        } else if best[i][j] == best[i + 1][j] {
            i += 1;
        } else {
            j += 1;
        }
    }
    out
}

/// Pairs in order of those that write the same.
fn by_target(left: &[&Node], right: &[&Node]) -> Vec<(usize, usize)> {
    let mut there: HashMap<(Shape, Vec<&Token>), VecDeque<usize>> = HashMap::new();
    for (at, node) in left.iter().enumerate() {
        if let Some(target) = target(node) {
            there.entry((node.shape, target)).or_default().push_back(at);
        }
    }
    let (mut out, mut last) = (Vec::new(), None);
    for (at, node) in right.iter().enumerate() {
        let Some(target) = target(node) else { continue };
        let Some(list) = there.get_mut(&(node.shape, target)) else { continue };
        while list.front().is_some_and(|first| last.is_some_and(|last| *first <= last)) {
            list.pop_front();
        }
        if let Some(first) = list.pop_front() {
            out.push((first, at));
            last = Some(first);
        }
    }
    out
}

/// What is gone in one place and stands in a new part elsewhere has moved there.
fn across(steps: &mut Vec<Step<'_>>) {
    let mut gone: HashMap<Print, VecDeque<&Node>> = HashMap::new();
    collect_gone(steps, &mut gone);
    if gone.is_empty() {
        return;
    }
    let mut moved = HashSet::new();
    find_again(steps, &mut gone, &mut moved);
    if !moved.is_empty() {
        drop_moved(steps, &moved);
    }
}

fn collect_gone<'n>(steps: &[Step<'n>], gone: &mut HashMap<Print, VecDeque<&'n Node>>) {
    for step in steps {
        match step {
            Step::Gone(node) => offer(node, gone),
            Step::Changed(_, _, inner) => collect_gone(inner, gone),
            Step::Same(..) | Step::Moved(..) | Step::New(..) => {}
        }
    }
}

/// A part that is gone, and the statements in it, may stand elsewhere.
fn offer<'n>(node: &'n Node, gone: &mut HashMap<Print, VecDeque<&'n Node>>) {
    if node.shape.is_element() {
        return;
    }
    if node.says_something() && !matches!(node.shape, Shape::Branch | Shape::Else | Shape::Label) {
        gone.entry(node.whole).or_default().push_back(node);
    }
    if node.shape != Shape::Network && node.shape != Shape::Rung {
        node.children.iter().for_each(|child| offer(child, gone));
    }
}

fn find_again<'n>(
    steps: &mut Vec<Step<'n>>,
    gone: &mut HashMap<Print, VecDeque<&'n Node>>,
    moved: &mut HashSet<*const Node>,
) {
    for step in steps {
        match step {
            Step::New(node, inner) => {
                let node: &'n Node = node;
                let here = gone.get_mut(&node.whole).and_then(VecDeque::pop_front);
                if let Some(from) = here.filter(|from| !moved.contains(&std::ptr::from_ref(*from))) {
                    moved.insert(std::ptr::from_ref(from));
                    *step = Step::Moved(from, node);
                } else if !node.shape.is_element() && node.shape != Shape::Rung && node.shape != Shape::Network {
                    *inner = node.children.iter().map(|child| Step::New(child, Vec::new())).collect();
                    find_again(inner, gone, moved);
                    let has_old = |steps: &[Step<'_>]| steps.iter().any(Step::has_old);
                    if !has_old(inner) {
                        inner.clear();
                    }
                }
            }
            Step::Changed(_, _, inner) => find_again(inner, gone, moved),
            Step::Same(..) | Step::Moved(..) | Step::Gone(_) => {}
        }
    }
}

impl Step<'_> {
    fn has_old(&self) -> bool {
        match self {
            Step::Same(..) | Step::Moved(..) | Step::Changed(..) | Step::Gone(_) => true,
            Step::New(_, inner) => inner.iter().any(Step::has_old),
        }
    }
}

/// Takes away what is gone no more, and what of it is left where only a part of it moved.
fn drop_moved(steps: &mut Vec<Step<'_>>, moved: &HashSet<*const Node>) {
    steps.retain_mut(|step| match step {
        Step::Gone(node) => !moved.contains(&std::ptr::from_ref(*node)),
        Step::Changed(_, _, inner) => {
            drop_moved(inner, moved);
            true
        }
        Step::Same(..) | Step::Moved(..) | Step::New(..) => true,
    });
}
