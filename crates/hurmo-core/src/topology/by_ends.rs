//! What lies on edges, gathered by their two ends: the sort that edge tables are made by.
//!
//! ```text
//! items ──spread over ranges of lower ends──▶ buckets ──sorted by both ends──▶ rows
//! ```
//!
//! Stretches of sources, then buckets, are worked on in parallel. Cost: O(items) time but for the sorting
//! round each lower end, which has about three edges.

use crate::parallel::mapped;
use std::ops::Range;

/// An item on an edge.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct OnEdge<T> {
    /// The ends of the edge, the lower first.
    pub ends: [u32; 2],
    /// What lies on it.
    pub item: T,
}

/// What has items on edges.
pub(crate) trait Sources: Sync {
    /// What they have there.
    type Item: Copy + Default + Ord + Send + Sync;

    /// How many sources there are.
    fn count(&self) -> usize;

    /// No end has this number, or a higher one.
    fn ends(&self) -> usize;

    /// Calls `visit` with each item of a source.
    fn each(&self, source: usize, visit: impl FnMut(OnEdge<Self::Item>));
}

/// This many ends, as a power of two, are of one bucket: their items fit the cache.
const BITS: u32 = 12;
/// This many sources are gone through at a time.
const STRETCH: usize = 1 << 18;

/// What `row` makes of all items, range of lower ends by range; it gets them sorted by their ends, those of one edge
/// in their own order.
pub(crate) fn rows<S: Sources, R: Send>(
    sources: &S,
    row: impl Fn(&[OnEdge<S::Item>]) -> R + Sync,
) -> Vec<R> {
    let buckets = Buckets::of(sources);
    mapped(buckets.count, 1, |bucket| row(&buckets.sorted(bucket)))
}

/// All items, those on edges with their lower end in one range together.
struct Buckets<T> {
    count: usize,
    ends: usize,
    /// Of each stretch of sources, its items by bucket, and where each bucket begins among them.
    stretches: Vec<(Vec<OnEdge<T>>, Vec<u32>)>,
}

impl<T: Copy + Default + Ord + Send + Sync> Buckets<T> {
    fn of<S: Sources<Item = T>>(sources: &S) -> Self {
        let count = sources.ends().div_ceil(1 << BITS);
        let stretches = mapped(sources.count().div_ceil(STRETCH), 1, |stretch| {
            let from = stretch * STRETCH;
            spread(sources, from..(from + STRETCH).min(sources.count()), count)
        });
        Self {
            count,
            ends: sources.ends(),
            stretches,
        }
    }

    /// The items of a bucket, in the order of their sources.
    fn items(&self, bucket: usize) -> impl Iterator<Item = &OnEdge<T>> {
        (self.stretches.iter()).flat_map(move |(items, starts)| {
            &items[starts[bucket] as usize..starts[bucket + 1] as usize]
        })
    }

    /// The items of a bucket, sorted.
    fn sorted(&self, bucket: usize) -> Vec<OnEdge<T>> {
        let first = bucket << BITS;
        let ends = (self.ends - first).min(1 << BITS);
        let mut starts = vec![0u32; ends + 1];
        let at = |item: &OnEdge<T>| item.ends[0] as usize - first;
        for item in self.items(bucket) {
            starts[at(item) + 1] += 1;
        }
        for end in 0..ends {
            starts[end + 1] += starts[end];
        }
        let mut sorted = vec![OnEdge::default(); starts[ends] as usize];
        let mut next = starts.clone();
        for item in self.items(bucket) {
            let slot = &mut next[at(item)];
            sorted[*slot as usize] = *item;
            *slot += 1;
        }
        for of_end in starts.windows(2) {
            let of_end = &mut sorted[of_end[0] as usize..of_end[1] as usize];
            of_end.sort_unstable_by_key(|item| (item.ends[1], item.item));
        }
        sorted
    }
}

/// The items of a stretch of sources by bucket, and where each bucket begins.
fn spread<S: Sources>(
    sources: &S,
    stretch: Range<usize>,
    buckets: usize,
) -> (Vec<OnEdge<S::Item>>, Vec<u32>) {
    let bucket = |item: &OnEdge<S::Item>| (item.ends[0] >> BITS) as usize;
    let mut starts = vec![0u32; buckets + 1];
    for source in stretch.clone() {
        sources.each(source, |item| starts[bucket(&item) + 1] += 1);
    }
    for bucket in 0..buckets {
        starts[bucket + 1] += starts[bucket];
    }
    let mut next = starts.clone();
    let mut items = vec![OnEdge::default(); starts[buckets] as usize];
    for source in stretch {
        sources.each(source, |item| {
            let slot = &mut next[bucket(&item)];
            items[*slot as usize] = item;
            *slot += 1;
        });
    }
    (items, starts)
}
