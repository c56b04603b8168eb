//! Faces that face one way already, and which of these regions lie back to front.
//!
//! ```text
//! edges whose two sides run opposite ways ─▶ regions ─┐
//! edges whose two sides run the same way ─────────────┴▶ a small graph ─▶ patches, parities
//! ```
//!
//! Regions are disjoint sets, joined by several threads; the graph of regions is walked by one.
//! A clean mesh has no edge in that graph. Cost: near-linear in edges.

use super::{Edges, SharedSets};
use crate::mesh::{EdgeId, FaceId, Mesh};
use crate::parallel::chosen;

/// Regions of faces that face one way, gathered into patches.
pub(crate) struct Consistent {
    /// For every face, its region; regions are numbered by their lowest faces.
    pub region: Vec<u32>,
    /// For every region, its patch; patches are numbered by their lowest faces.
    pub patch: Vec<u32>,
    /// For every region, whether it faces the other way than its patch's first region.
    pub turned: Vec<bool>,
    /// For every patch, whether no turning of its regions makes it consistent.
    pub one_sided: Vec<bool>,
}

impl Consistent {
    /// Whether no turning makes a face's patch consistent.
    pub fn is_one_sided(&self, face: FaceId) -> bool {
        self.one_sided[self.patch[self.region[face.index()] as usize] as usize]
    }

    pub fn of(mesh: &Mesh, edges: &Edges) -> Self {
        let sets = SharedSets::new(mesh.face_count());
        let mut misoriented: Vec<EdgeId> = chosen(edges.len(), 4096, |edge| {
            let edge = EdgeId::new(edge);
            match edges.sides(edge) {
                [a, b] if a.runs_up() != b.runs_up() => {
                    sets.join(a.face.0, b.face.0);
                    None
                }
                sides => (sides.len() == 2).then_some(edge),
            }
        });
        misoriented.shrink_to_fit();
        let mut region = sets.roots();
        let mut regions = 0;
        for face in 0..region.len() {
            // A root is the lowest of its set, so it has its number already.
            region[face] = match region[face] as usize {
                root if root == face => {
                    regions += 1;
                    regions - 1
                }
                root => region[root],
            };
        }
        let neighbours = Neighbours::of(edges, &misoriented, &region, regions as usize);
        let mut found = Self {
            region,
            patch: vec![UNSEEN; regions as usize],
            turned: vec![false; regions as usize],
            one_sided: Vec::new(),
        };
        for seed in 0..regions as usize {
            if found.patch[seed] == UNSEEN {
                found.gather(seed, &neighbours);
            }
        }
        found
    }

    /// Makes a patch of a region and all that it is joined to.
    fn gather(&mut self, seed: usize, neighbours: &Neighbours) {
        let patch = self.one_sided.len() as u32;
        let mut one_sided = false;
        let mut waiting = vec![seed as u32];
        self.patch[seed] = patch;
        while let Some(region) = waiting.pop() {
            let turned = !self.turned[region as usize];
            for &other in neighbours.of_region(region) {
                let there = other as usize;
                if self.patch[there] == UNSEEN {
                    self.patch[there] = patch;
                    self.turned[there] = turned;
                    waiting.push(other);
                } else if self.turned[there] != turned {
                    one_sided = true;
                }
            }
        }
        self.one_sided.push(one_sided);
    }
}

const UNSEEN: u32 = u32::MAX;

/// Which regions lie back to front beside which.
struct Neighbours {
    starts: Vec<u32>,
    list: Vec<u32>,
}

impl Neighbours {
    fn of(edges: &Edges, misoriented: &[EdgeId], region: &[u32], regions: usize) -> Self {
        let mut pairs: Vec<[u32; 2]> = Vec::with_capacity(misoriented.len() * 2);
        for &edge in misoriented {
            if let [a, b] = edges.sides(edge) {
                let [a, b] = [a, b].map(|side| region[side.face.index()]);
                pairs.extend([[a, b], [b, a]]);
            }
        }
        pairs.sort_unstable();
        pairs.dedup();
        let mut starts = vec![0; regions + 1];
        pairs
            .iter()
            .for_each(|pair| starts[pair[0] as usize + 1] += 1);
        for region in 0..regions {
            starts[region + 1] += starts[region];
        }
        let list = pairs.into_iter().map(|pair| pair[1]).collect();
        Self { starts, list }
    }

    fn of_region(&self, region: u32) -> &[u32] {
        let region = region as usize;
        &self.list[self.starts[region] as usize..self.starts[region + 1] as usize]
    }
}
