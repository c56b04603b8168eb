//! In which order unknowns are eliminated, and which together: the tree of fronts of a system.
//!
//! The order is by approximate minimum degree. Unknowns one after the other with the same rows below them make
//! one front; a front joins its parent where that stores few zeros (Ashcraft & Grimes 1989, The Influence of Relaxed
//! Supernode Partitions on the Multifrontal Method).

use super::Rows;
use rsparse::data::{Sprs, Symb};
use rsparse::schol;

/// The order as it is, and by approximate minimum degree, which takes three rows or more.
const NATURAL: i8 = -1;
const LEAST_DEGREE: i8 = 0;
/// The share of zeros that a front may store.
const ZEROS: f64 = 0.15;
/// A front of no more columns than this may store any.
const NARROW: usize = 4;

/// No front.
pub(super) const NONE: u32 = u32::MAX;

/// Columns that are eliminated together.
#[derive(Default)]
pub(super) struct Shape {
    pub first: u32,
    pub width: usize,
    /// The rows below its columns that are not zero, in rising order.
    pub below: Vec<u32>,
    pub children: Vec<u32>,
}

/// The fronts of a system; children come before their parents.
pub(super) struct Tree {
    /// By unknown: its column.
    pub places: Vec<u32>,
    pub fronts: Vec<Shape>,
    /// By column, its rows from the diagonal down, with their numbers.
    pub columns: Rows,
}

impl Tree {
    /// Of the lower half of a system.
    pub fn of(lower: &Rows) -> Self {
        let order = Order::of(lower);
        let terms =
            (0..lower.count()).flat_map(|i| lower.of(i).iter().map(move |entry| (i, *entry)));
        let placed = terms.map(|(i, (j, number))| {
            let [a, b] = [order.places[i], order.places[j as usize]];
            (a.min(b), a.max(b), number)
        });
        let columns = Rows::summed(lower.count(), placed.collect());
        let mut fronts: Vec<Shape> = order
            .runs()
            .into_iter()
            .map(|run| Shape {
                first: run.first as u32,
                width: run.width,
                ..Shape::default()
            })
            .collect();
        fill(&mut fronts, &columns);
        Self {
            places: order.places,
            fronts,
            columns,
        }
    }
}

/// Finds the rows below fronts, and their children.
fn fill(fronts: &mut [Shape], columns: &Rows) {
    let mut front_of = vec![0; columns.count()];
    for (s, front) in fronts.iter().enumerate() {
        front_of[front.first as usize..][..front.width].fill(s as u32);
    }
    let mut marks = vec![NONE; columns.count()];
    for s in 0..fronts.len() {
        let first = fronts[s].first as usize;
        let end = first + fronts[s].width;
        let own = (first..end).flat_map(|column| columns.of(column).iter().map(|entry| entry.0));
        let children = fronts[s].children.iter();
        let inherited = children.flat_map(|&child| fronts[child as usize].below.iter().copied());
        let mut below = Vec::new();
        for row in own.chain(inherited) {
            if row as usize >= end && marks[row as usize] != s as u32 {
                marks[row as usize] = s as u32;
                below.push(row);
            }
        }
        below.sort_unstable();
        if let Some(&row) = below.first() {
            fronts[front_of[row as usize] as usize]
                .children
                .push(s as u32);
        }
        fronts[s].below = below;
    }
}

/// An order of columns in which each comes after all that it depends on, those right before it.
struct Order {
    places: Vec<u32>,
    /// By column, the first one that depends on it; [`NONE`] if none does.
    parents: Vec<u32>,
    /// By column, how many rows it has from the diagonal down.
    counts: Vec<usize>,
}

/// Columns one after the other that are eliminated together.
struct Run {
    first: usize,
    width: usize,
    /// Rows from the first column's diagonal down.
    rows: usize,
    /// What is stored more than need be.
    zeros: usize,
}

impl Order {
    fn of(lower: &Rows) -> Self {
        let count = lower.count();
        // By columns, a lower half is the upper half that is asked for.
        let matrix = Sprs {
            nzmax: lower.list.len(),
            m: count,
            n: count,
            p: lower.starts.iter().map(|&start| start as isize).collect(),
            i: lower.list.iter().map(|entry| entry.0 as usize).collect(),
            x: lower.list.iter().map(|entry| entry.1).collect(),
        };
        let Symb {
            pinv, parent, cp, ..
        } = schol(&matrix, if count < 3 { NATURAL } else { LEAST_DEGREE });
        let ranks = children_first(&parent);
        let mut parents = vec![NONE; count];
        let mut counts = vec![0; count];
        for (column, &up) in parent.iter().enumerate() {
            let rank = ranks[column] as usize;
            counts[rank] = (cp[column + 1] - cp[column]) as usize;
            if up >= 0 {
                parents[rank] = ranks[up as usize];
            }
        }
        let place = |i: usize| pinv.as_ref().map_or(i, |to| to[i] as usize);
        Self {
            places: (0..count).map(|i| ranks[place(i)]).collect(),
            parents,
            counts,
        }
    }

    /// Columns in runs with the same rows below, or nearly so.
    fn runs(&self) -> Vec<Run> {
        let mut runs: Vec<Run> = Vec::new();
        for (column, &rows) in self.counts.iter().enumerate() {
            let mut own = Run {
                first: column,
                width: 1,
                rows,
                zeros: 0,
            };
            while let Some(run) = runs.last()
                && self.parents[own.first - 1] as usize >= own.first
                && (self.parents[own.first - 1] as usize) < own.first + own.width
                && let Some(joined) = run.joined(&own)
            {
                runs.pop();
                own = joined;
            }
            runs.push(own);
        }
        runs
    }
}

impl Run {
    /// With one right after it, if that is worth it.
    fn joined(&self, next: &Self) -> Option<Self> {
        let rows = self.width + next.rows;
        let joined = Self {
            first: self.first,
            width: self.width + next.width,
            rows,
            zeros: self.zeros + next.zeros + self.width * (rows - self.rows),
        };
        let stored = (joined.rows * joined.width) as f64;
        let is_worth_it = joined.width <= NARROW || joined.zeros as f64 <= ZEROS * stored;
        is_worth_it.then_some(joined)
    }
}

/// By node of a forest, its rank in an order in which the descendants of each come right before it. `parents`: below
/// nought for roots.
fn children_first(parents: &[isize]) -> Vec<u32> {
    let mut children = vec![Vec::new(); parents.len()];
    let mut next: Vec<(usize, bool)> = Vec::new();
    for (node, &parent) in parents.iter().enumerate().rev() {
        match parent {
            0.. => children[parent as usize].push(node),
            _ => next.push((node, false)),
        }
    }
    let mut ranks = vec![0; parents.len()];
    let mut rank = 0;
    while let Some((node, is_open)) = next.pop() {
        if is_open {
            ranks[node] = rank;
            rank += 1;
        } else {
            next.push((node, true));
            next.extend(children[node].iter().map(|&child| (child, false)));
        }
    }
    ranks
}
