//! What a textbook's edge collapse makes of a mesh, for tests and benches to hold the reduction
//! against.
//!
//! Plain quadrics (Garland & Heckbert 1997, Surface simplification using quadric error metrics), the
//! link condition, no face turned by more than 90°, quadrics of walls along borders: nothing else,
//! and no thought of speed.

use super::quadric::Quadric;
use crate::mesh::{Mesh, VertexId};
use glam::DVec3;
use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet, BinaryHeap};

struct Textbook {
    at: Vec<DVec3>,
    quadrics: Vec<Quadric>,
    triangles: Vec<Option<[usize; 3]>>,
    around: Vec<BTreeSet<usize>>,
    ages: Vec<usize>,
    living: usize,
}

/// A triangle mesh, reduced to each of some budgets, the largest first, on one way down. Faces must
/// be triangles, and no more than two on an edge.
pub fn textbook(mesh: &Mesh, budgets: &[usize]) -> Vec<Mesh> {
    debug_assert!(budgets.is_sorted_by(|a, b| a >= b));
    let mut work = Textbook::of(mesh);
    let mut heap = BinaryHeap::new();
    let all: BTreeSet<usize> = (0..work.at.len()).collect();
    work.push(&all, &mut heap);
    let reduced = budgets.iter().map(|&to| {
        work.reduce(to, &mut heap);
        work.mesh()
    });
    reduced.collect()
}

type Heap = BinaryHeap<Reverse<(u64, usize, usize, [usize; 2])>>;

impl Textbook {
    fn of(mesh: &Mesh) -> Self {
        let count = mesh.vertex_count();
        let triangles: Vec<Option<[usize; 3]>> = mesh
            .faces()
            .map(|(_, face)| Some([0, 1, 2].map(|i| face[i].index())))
            .collect();
        let mut work = Self {
            at: mesh.positions().to_vec(),
            quadrics: vec![Quadric::default(); count],
            around: vec![BTreeSet::new(); count],
            ages: vec![0; count],
            living: triangles.len(),
            triangles,
        };
        let mut sides: BTreeMap<[usize; 2], Vec<usize>> = BTreeMap::new();
        for t in 0..work.triangles.len() {
            let corners = work.triangle(t);
            let [p, q, r] = corners.map(|v| work.at[v]);
            let area = (q - p).cross(r - p) / 2.0;
            for i in 0..3 {
                let (v, w) = (corners[i], corners[(i + 1) % 3]);
                work.around[v].insert(t);
                work.quadrics[v] += Quadric::plane(area.normalize_or_zero(), p, area.length());
                sides.entry([v.min(w), v.max(w)]).or_default().push(t);
            }
        }
        for ([v, w], at) in sides.into_iter().filter(|(_, at)| at.len() == 1) {
            let [p, q, r] = work.triangle(at[0]).map(|v| work.at[v]);
            let along = work.at[w] - work.at[v];
            let wall = along.cross((q - p).cross(r - p)).normalize_or_zero();
            for end in [v, w] {
                let quadric = Quadric::plane(wall, work.at[v], 10.0 * along.length_squared());
                work.quadrics[end] += quadric;
            }
        }
        work
    }

    fn reduce(&mut self, to: usize, heap: &mut Heap) {
        while self.living > to {
            let Some(Reverse((_, a, b, ages))) = heap.pop() else {
                return;
            };
            if [self.ages[a], self.ages[b]] != ages || !self.may_collapse(a, b) {
                continue;
            }
            self.collapse(a, b);
            let mut here = self.neighbours(a);
            here.insert(a);
            self.push(&here, heap);
        }
    }

    /// The corners of a triangle that is there.
    fn triangle(&self, t: usize) -> [usize; 3] {
        self.triangles[t].expect("what is listed at a vertex is there")
    }

    fn neighbours(&self, v: usize) -> BTreeSet<usize> {
        let there = self.around[v].iter().flat_map(|&t| self.triangle(t));
        there.filter(|&w| w != v).collect()
    }

    fn placed(&self, a: usize, b: usize) -> (DVec3, f64) {
        let quadric = self.quadrics[a] + self.quadrics[b];
        let middle = (self.at[a] + self.at[b]) / 2.0;
        let best = quadric.least_near(middle);
        let tried = [Some(self.at[a]), Some(self.at[b]), Some(middle), best];
        let costs = tried.into_iter().flatten().map(|at| (at, quadric.at(at)));
        let least = costs.min_by(|one, two| one.1.total_cmp(&two.1));
        least.expect("three places at least")
    }

    fn push(&self, vertices: &BTreeSet<usize>, heap: &mut Heap) {
        for &a in vertices {
            for b in self.neighbours(a) {
                let (a, b) = (a.min(b), a.max(b));
                let cost = self.placed(a, b).1.to_bits();
                heap.push(Reverse((cost, a, b, [self.ages[a], self.ages[b]])));
            }
        }
    }

    fn may_collapse(&self, a: usize, b: usize) -> bool {
        let shared: Vec<usize> = self.around[a]
            .intersection(&self.around[b])
            .copied()
            .collect();
        let common = self.neighbours(a).intersection(&self.neighbours(b)).count();
        let is_border = |v: usize| self.neighbours(v).len() != self.around[v].len();
        let joins_borders = shared.len() == 2 && is_border(a) && is_border(b);
        if shared.is_empty() || common != shared.len() || joins_borders || self.living < 8 {
            return false;
        }
        let to = self.placed(a, b).0;
        [a, b].into_iter().all(|v| {
            let mut stay = self.around[v].iter().filter(|t| !shared.contains(t));
            stay.all(|&t| {
                let corners = self.triangle(t);
                let normal = |at: [DVec3; 3]| (at[1] - at[0]).cross(at[2] - at[0]);
                let before = normal(corners.map(|w| self.at[w]));
                let after = normal(corners.map(|w| if w == v { to } else { self.at[w] }));
                before.dot(after) > 0.0 || before == DVec3::ZERO
            })
        })
    }

    fn collapse(&mut self, a: usize, b: usize) {
        self.at[a] = self.placed(a, b).0;
        self.quadrics[a] = self.quadrics[a] + self.quadrics[b];
        for t in std::mem::take(&mut self.around[b]) {
            let corners = self.triangle(t);
            if corners.contains(&a) {
                corners.iter().for_each(|&v| {
                    self.around[v].remove(&t);
                });
                self.triangles[t] = None;
                self.living -= 1;
            } else {
                self.triangles[t] = Some(corners.map(|v| if v == b { a } else { v }));
                self.around[a].insert(t);
            }
        }
        self.ages[a] += 1;
        self.ages[b] += 1;
    }

    fn mesh(&self) -> Mesh {
        let living: Vec<[VertexId; 3]> = self
            .triangles
            .iter()
            .flatten()
            .map(|corners| corners.map(VertexId::new))
            .collect();
        Mesh::from_triangles(self.at.clone(), &living).expect("sound triangles")
    }
}
