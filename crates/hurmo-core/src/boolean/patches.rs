//! Shards that hang together through edges with two sides: on each side of a patch, every solid
//! winds as often everywhere.

use super::shards::All;
use crate::topology::UnionFind;
use rayon::prelude::*;

/// The shards of each patch in a row.
pub(super) struct Patches {
    pub shards: Vec<u32>,
    pub begins: Vec<usize>,
}

impl Patches {
    pub fn len(&self) -> usize {
        self.begins.len() - 1
    }

    pub fn of(&self, patch: usize) -> &[u32] {
        &self.shards[self.begins[patch]..self.begins[patch + 1]]
    }
}

pub(super) fn patches(all: &All<'_, '_>, solids: usize) -> Patches {
    let mut sides: Vec<([u32; 2], u32, bool)> = (0..all.len() as u32)
        .into_par_iter()
        .filter(|&shard| all.is_there(shard))
        .flat_map_iter(|shard| {
            let [a, b, c] = all.corners(shard);
            [(a, b), (b, c), (c, a)].map(|(from, to)| match from < to {
                true => ([from, to], shard, true),
                false => ([to, from], shard, false),
            })
        })
        .collect();
    sides.par_sort_unstable();
    let mut together = UnionFind::new(all.len());
    for edge in sides.chunk_by(|a, b| a.0 == b.0) {
        if let &[(_, one, up), (_, other, also_up)] = edge
            && up != also_up
            && all.steps(one, solids) == all.steps(other, solids)
        {
            together.join(one, other);
        }
    }
    let there = (0..all.len() as u32).filter(|&shard| all.is_there(shard));
    let mut order: Vec<(u32, u32)> = there.map(|shard| (together.find(shard), shard)).collect();
    order.par_sort_unstable();
    let mut begins: Vec<usize> = Vec::new();
    for (i, (root, _)) in order.iter().enumerate() {
        if i == 0 || order[i - 1].0 != *root {
            begins.push(i);
        }
    }
    begins.push(order.len());
    Patches {
        shards: order.into_iter().map(|(_, shard)| shard).collect(),
        begins,
    }
}
