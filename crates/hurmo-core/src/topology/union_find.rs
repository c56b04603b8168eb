//! Disjoint sets over `0..n`.

use std::sync::atomic::{AtomicU32, Ordering::Relaxed};

/// Union by lower index with path halving: a set's root is its lowest member, so roots are
/// the same whatever the order of unions.
#[derive(Clone, Debug)]
pub struct UnionFind {
    parent: Vec<u32>,
}

impl UnionFind {
    /// `count` sets of one member each.
    pub fn new(count: usize) -> Self {
        Self {
            parent: (0..count as u32).collect(),
        }
    }

    /// The lowest member of the set that holds `member`.
    #[inline]
    pub fn find(&mut self, mut member: u32) -> u32 {
        loop {
            let parent = self.parent[member as usize];
            if parent == member {
                return member;
            }
            let grandparent = self.parent[parent as usize];
            self.parent[member as usize] = grandparent;
            member = grandparent;
        }
    }

    /// Joins two sets; says whether they were apart.
    #[inline]
    pub fn join(&mut self, a: u32, b: u32) -> bool {
        let (a, b) = (self.find(a), self.find(b));
        let (low, high) = if a < b { (a, b) } else { (b, a) };
        self.parent[high as usize] = low;
        low != high
    }
}

/// The same for several threads at once, without locks (Anderson & Woll 1991, with roots by
/// lowest index).
pub struct SharedSets {
    parent: Vec<AtomicU32>,
}

impl SharedSets {
    /// `count` sets of one member each.
    pub fn new(count: usize) -> Self {
        Self {
            parent: (0..count as u32).map(AtomicU32::new).collect(),
        }
    }

    fn find(&self, mut member: u32) -> u32 {
        loop {
            let parent = self.parent[member as usize].load(Relaxed);
            if parent == member {
                return member;
            }
            let grandparent = self.parent[parent as usize].load(Relaxed);
            // Parents are never higher than their members, so a lost race loses only speed.
            let _ = self.parent[member as usize].compare_exchange_weak(
                parent,
                grandparent,
                Relaxed,
                Relaxed,
            );
            member = grandparent;
        }
    }

    /// Whether two members are in one set by now.
    pub fn together(&self, a: u32, b: u32) -> bool {
        self.find(a) == self.find(b)
    }

    /// Joins two sets.
    pub fn join(&self, a: u32, b: u32) {
        loop {
            let (a, b) = (self.find(a), self.find(b));
            if a == b {
                return;
            }
            let (low, high) = (a.min(b), a.max(b));
            let slot = &self.parent[high as usize];
            if slot.compare_exchange(high, low, Relaxed, Relaxed).is_ok() {
                return;
            }
        }
    }

    /// For every member, the lowest of its set.
    pub fn roots(&self) -> Vec<u32> {
        (0..self.parent.len() as u32)
            .map(|member| self.find(member))
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shared_sets_are_those_of_one_thread() {
        let pairs: Vec<(u32, u32)> = (0..40_000u32)
            .map(|i| {
                (
                    i.wrapping_mul(2_654_435_761) % 50_000,
                    i.wrapping_mul(40_503) % 50_000,
                )
            })
            .collect();
        let mut one = UnionFind::new(50_000);
        let shared = SharedSets::new(50_000);
        crate::parallel::for_each(pairs.len(), 1, |i| shared.join(pairs[i].0, pairs[i].1));
        for &(a, b) in &pairs {
            one.join(a, b);
            assert!(shared.together(a, b));
        }
        let roots: Vec<u32> = (0..50_000).map(|member| one.find(member)).collect();
        assert_eq!(shared.roots(), roots);
    }
}
