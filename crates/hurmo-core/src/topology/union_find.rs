//! Disjoint sets over `0..n`.

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
