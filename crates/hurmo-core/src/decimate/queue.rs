//! Edges by rising cost.
//!
//! Costs are worked out anew only when an edge comes up (lazily): an edge's cost can only rise
//! when its ends take in other vertices, since quadrics only grow, so the stored cost is a
//! lower bound. So costs never fall behind the one whose turn it is, and buckets by cost, each
//! sorted when its turn comes, need no heap (a monotone bucket queue, Dial 1969).

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

/// Buckets of costs that differ by at most 1.6%; the cheapest bucket is sorted when its turn
/// comes.
pub(super) struct Queue {
    buckets: Vec<Vec<Entry>>,
    /// The bucket whose turn it is.
    turn: usize,
    /// What is left of it, falling, so that the cheapest is last.
    sorted: Vec<Entry>,
}

/// So many bits of a cost make its bucket: the exponent, and six bits behind it.
const BUCKET_SHIFT: u32 = 23 - 6;

impl Queue {
    pub fn new(entries: Vec<Entry>) -> Self {
        let mut queue = Self {
            buckets: vec![Vec::new(); (u32::MAX >> 1 >> BUCKET_SHIFT) as usize + 1],
            turn: 0,
            sorted: Vec::new(),
        };
        entries.into_iter().for_each(|entry| queue.push(entry));
        queue
    }

    /// The cheapest edge.
    pub fn pop(&mut self) -> Option<Entry> {
        while self.sorted.is_empty() {
            let bucket = std::mem::take(self.buckets.get_mut(self.turn)?);
            if bucket.is_empty() {
                self.turn += 1;
                continue;
            }
            self.sorted = bucket;
            self.sorted.sort_unstable_by(|a, b| b.cmp(a));
            // Where two edges became one, both entries carry the same cost once it has been
            // worked out anew.
            self.sorted.dedup();
        }
        self.sorted.pop()
    }

    /// Puts an edge in; one that is cheaper than the bucket whose turn it is goes there.
    pub fn push(&mut self, entry: Entry) {
        let bucket = (entry.cost >> BUCKET_SHIFT) as usize;
        self.buckets[bucket.max(self.turn)].push(entry);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn comes_out_by_rising_cost_and_once() {
        let costs = [3.0, 0.0, 1e-30, 7e8, 3.0, 2.5, 1.0];
        let mut queue = Queue::new(costs.iter().map(|&c| Entry::new(c, 1, 2, 0)).collect());
        let mut out = Vec::new();
        while let Some(entry) = queue.pop() {
            out.push(entry.cost() as f32);
            if out.len() == 2 {
                queue.push(Entry::new(2.0, 5, 6, 0));
            }
        }
        assert_eq!(out, [0.0, 1e-30, 1.0, 2.0, 2.5, 3.0, 7e8]);
    }
}
