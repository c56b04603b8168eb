//! Edges by rising cost.
//!
//! Costs are worked out anew only when an edge comes up (lazily): an edge's cost can only rise
//! when its ends take in other vertices, since quadrics only grow, so the stored cost is a
//! lower bound. Most edges keep their first cost: those stand in one sorted list; the few that
//! come back are in a heap.

use rayon::prelude::*;
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// An edge in the queue. Ordered by cost, then by ends, so that ties are always settled the
/// same way.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Entry {
    /// Cost as bits: of numbers from 0 up, the order of bits is that of the numbers.
    cost: u32,
    /// One end.
    pub a: u32,
    /// The other.
    pub b: u32,
    /// The ages of both ends when the cost was worked out, added.
    pub age: u32,
}

impl Entry {
    pub fn new(cost: f64, a: u32, b: u32, age: u32) -> Self {
        Self {
            cost: (cost.max(0.0) as f32).to_bits(),
            a,
            b,
            age,
        }
    }

    pub fn cost(&self) -> f64 {
        f64::from(f32::from_bits(self.cost))
    }
}

pub(super) struct Queue {
    /// Falling, so that the cheapest is last.
    sorted: Vec<Entry>,
    returned: BinaryHeap<Reverse<Entry>>,
}

impl Queue {
    pub fn new(mut entries: Vec<Entry>) -> Self {
        entries.par_sort_unstable_by(|a, b| b.cmp(a));
        Self {
            sorted: entries,
            returned: BinaryHeap::new(),
        }
    }

    /// The cheapest edge.
    pub fn pop(&mut self) -> Option<Entry> {
        match (self.sorted.last(), self.returned.peek()) {
            (Some(a), Some(Reverse(b))) if b < a => self.returned.pop().map(|Reverse(e)| e),
            (Some(_), _) => self.sorted.pop(),
            (None, _) => self.returned.pop().map(|Reverse(e)| e),
        }
    }

    /// Puts an edge back.
    pub fn push(&mut self, entry: Entry) {
        self.returned.push(Reverse(entry));
    }
}
