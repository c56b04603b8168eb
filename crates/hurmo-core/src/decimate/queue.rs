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

    /// The least cost that is dearer than this one by more than rounding.
    pub fn at_most(&self) -> f64 {
        f64::from(f32::from_bits(self.cost + 2))
    }

    fn bucket(&self) -> usize {
        (self.cost >> BUCKET_SHIFT) as usize
    }
}

/// Buckets of costs that differ by at most 1.6%; the cheapest bucket is sorted when its turn
/// comes.
pub(super) struct Queue {
    buckets: Vec<Vec<Entry>>,
    /// Which bucket is the first that there is.
    first: usize,
    /// The bucket whose turn it is.
    turn: usize,
    /// What is left of it, falling, so that the cheapest is last.
    sorted: Vec<Entry>,
}

/// This many bits of a cost make its bucket: the exponent, and six bits behind it.
const BUCKET_SHIFT: u32 = 23 - 6;

impl Queue {
    pub fn new(entries: Vec<Entry>) -> Self {
        let first = entries.iter().map(Entry::bucket).min().unwrap_or(0);
        let mut queue = Self {
            buckets: Vec::new(),
            first,
            turn: 0,
            sorted: Vec::new(),
        };
        entries.into_iter().for_each(|entry| queue.push(entry));
        queue
    }

    /// Sees to it that the cheapest edge, if there is any, is sorted out.
    fn sort_out(&mut self) {
        while self.sorted.is_empty() && self.turn < self.buckets.len() {
            let bucket = std::mem::take(&mut self.buckets[self.turn]);
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
    }

    /// The cheapest edge, which stays.
    pub fn peek(&mut self) -> Option<Entry> {
        self.sort_out();
        self.sorted.last().copied()
    }

    /// The cheapest edge, if it costs no more than this.
    pub fn pop_up_to(&mut self, most: f64) -> Option<Entry> {
        self.sort_out();
        self.sorted.pop_if(|entry| entry.cost() <= most)
    }

    /// Puts an edge in; one that is cheaper than the bucket whose turn it is goes there.
    pub fn push(&mut self, entry: Entry) {
        let bucket = entry.bucket().saturating_sub(self.first).max(self.turn);
        if bucket >= self.buckets.len() {
            self.buckets.resize_with(bucket + 1, Vec::new);
        }
        self.buckets[bucket].push(entry);
    }

    /// What so large a share of the edges costs at most, to within a bucket; before any was
    /// taken out.
    pub fn cost_of_share(&self, share: f64) -> Option<f64> {
        let all: usize = self.buckets.iter().map(Vec::len).sum();
        let mut left = (all as f64 * share) as usize;
        for bucket in &self.buckets {
            if bucket.len() > left {
                return bucket.iter().map(Entry::cost).max_by(f64::total_cmp);
            }
            left -= bucket.len();
        }
        None
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
        while let Some(entry) = queue.pop_up_to(f64::INFINITY) {
            out.push(entry.cost() as f32);
            if out.len() == 2 {
                queue.push(Entry::new(2.0, 5, 6, 0));
            }
        }
        assert_eq!(out, [0.0, 1e-30, 1.0, 2.0, 2.5, 3.0, 7e8]);
    }
}
