//! A field of crosses: for each triangle the direction of one arm, as smooth as it can be, along features
//! exactly and along principal directions where the surface bends clearly one way.
//!
//! A cross is the fourth power of a complex number, as by Knöppel, Crane, Pinkall, Schröder 2013 (Globally
//! Optimal Direction Fields). The field is relaxed on coarser and coarser graphs of triangles, and from the
//! coarsest back, so that the work grows with the number of triangles; then diffused and normalised in turn
//! (Viertel & Osting 2019, An Approach to Quad Meshing Based on Harmonic Cross-Valued Maps and the
//! Ginzburg-Landau Theory), by which irregular points that cancel each other meet.

use super::surface::{NONE, Surface};
use glam::DVec2;
use std::f64::consts::TAU;

/// Sweeps on each graph.
const SWEEPS: usize = 40;
/// The coarsest graph has no more nodes than this, unless it can't be made coarser.
const COARSEST: usize = 24;

/// What a field must and should follow.
pub(super) struct Guides {
    /// By triangle: a cross to follow exactly; none where zero.
    pub exact: Vec<DVec2>,
    /// By triangle: a cross to follow as far as its length against the smoothness of the field.
    pub soft: Vec<DVec2>,
    /// By half-edge: by how much the field turns across it beyond parallel transport; nowhere if empty.
    pub turns: Vec<f64>,
}

/// The angle of one arm of each triangle's cross, in its frame.
pub(super) fn cross_field(surface: &Surface, guides: &Guides) -> Vec<f64> {
    let finest = Graph::of(surface, guides);
    let mut levels = vec![finest];
    let mut maps: Vec<Vec<(u32, DVec2)>> = Vec::new();
    while let Some(graph) = levels.last()
        && graph.count() > COARSEST
    {
        let (coarser, map) = graph.coarser();
        if coarser.count() * 10 > graph.count() * 9 {
            break;
        }
        levels.push(coarser);
        maps.push(map);
    }
    let coarsest = levels.last().expect("the finest is one");
    let mut values: Vec<DVec2> = (0..coarsest.count()).map(|i| coarsest.start(i)).collect();
    for level in (0..levels.len()).rev() {
        levels[level].relax(&mut values, SWEEPS);
        if level > 0 {
            let map = &maps[level - 1];
            values = map
                .iter()
                .map(|&(up, turn)| turn.rotate(values[up as usize]))
                .collect();
        }
    }
    values.iter().map(|value| value.to_angle() / 4.0).collect()
}

/// The complex number of absolute value one at an angle, to the fourth power.
pub(super) fn fourfold(angle: f64) -> DVec2 {
    DVec2::from_angle((4.0 * angle) % TAU)
}

fn conjugate(value: DVec2) -> DVec2 {
    DVec2::new(value.x, -value.y)
}

/// Nodes with a cross each, and how the crosses beside a node are seen from it.
struct Graph {
    starts: Vec<u32>,
    /// For each node, those beside it with the factor that brings their crosses here.
    beside: Vec<(u32, DVec2)>,
    exact: Vec<DVec2>,
    soft: Vec<DVec2>,
}

impl Graph {
    fn of(surface: &Surface, guides: &Guides) -> Self {
        let count = surface.triangles.len() as u32;
        let mut starts = vec![0];
        let mut beside = Vec::with_capacity(3 * count as usize);
        for t in 0..count {
            for half_edge in 3 * t..3 * t + 3 {
                let other = surface.across[half_edge as usize];
                if other == NONE {
                    continue;
                }
                let beyond = guides.turns.get(half_edge as usize).copied().unwrap_or(0.0);
                let turn = surface.angle(half_edge) - surface.angle(other) - beyond;
                beside.push((other / 3, fourfold(turn)));
            }
            starts.push(beside.len() as u32);
        }
        Self {
            starts,
            beside,
            exact: guides.exact.clone(),
            soft: guides.soft.clone(),
        }
    }

    fn count(&self) -> usize {
        self.starts.len() - 1
    }

    fn beside(&self, node: usize) -> &[(u32, DVec2)] {
        &self.beside[self.starts[node] as usize..self.starts[node + 1] as usize]
    }

    /// A cross to begin with: what the node should follow, or any.
    fn start(&self, node: usize) -> DVec2 {
        let wanted = match self.exact[node] {
            DVec2::ZERO => self.soft[node],
            exact => exact,
        };
        let any = DVec2::from_angle(node as f64 * 2.4);
        wanted.try_normalize().unwrap_or(any)
    }

    /// Sets each cross to what those beside it and its guide say, some times.
    fn relax(&self, values: &mut [DVec2], sweeps: usize) {
        for (value, exact) in values.iter_mut().zip(&self.exact) {
            *value = exact.try_normalize().unwrap_or(*value);
        }
        for _ in 0..sweeps {
            for i in 0..self.count() {
                if self.exact[i] != DVec2::ZERO {
                    continue;
                }
                let beside = self.beside(i).iter();
                let sum = beside
                    .map(|&(j, turn)| turn.rotate(values[j as usize]))
                    .sum::<DVec2>();
                if let Some(value) = (sum + self.soft[i]).try_normalize() {
                    values[i] = value;
                }
            }
        }
    }

    /// The graph of pairs of nodes, and for each node its pair with the factor that brings the pair's cross
    /// to the node.
    fn coarser(&self) -> (Self, Vec<(u32, DVec2)>) {
        let mut map: Vec<(u32, DVec2)> = vec![(NONE, DVec2::X); self.count()];
        let mut count = 0;
        for i in 0..self.count() {
            if map[i].0 != NONE {
                continue;
            }
            map[i] = (count, DVec2::X);
            let free = self
                .beside(i)
                .iter()
                .filter(|(j, _)| map[*j as usize].0 == NONE);
            let nearest = free.max_by(|a, b| a.1.length_squared().total_cmp(&b.1.length_squared()));
            if let Some(&(j, turn)) = nearest {
                // The factor brings j's cross to i; back it goes by the conjugate.
                map[j as usize] = (count, conjugate(turn).normalize_or(DVec2::X));
            }
            count += 1;
        }
        let mut exact = vec![DVec2::ZERO; count as usize];
        let mut soft = exact.clone();
        let mut terms: Vec<(u32, u32, DVec2)> = Vec::with_capacity(self.beside.len());
        for i in 0..self.count() {
            let (up, own) = map[i];
            let back = conjugate(own);
            exact[up as usize] += back.rotate(self.exact[i]);
            soft[up as usize] += back.rotate(self.soft[i]);
            for &(j, turn) in self.beside(i) {
                let (other, its) = map[j as usize];
                if other != up {
                    terms.push((up, other, back.rotate(turn.rotate(its))));
                }
            }
        }
        terms.sort_by_key(|term| (term.0, term.1));
        let mut starts = vec![0; count as usize + 1];
        let mut beside = Vec::with_capacity(terms.len() / 2);
        for same in terms.chunk_by(|a, b| (a.0, a.1) == (b.0, b.1)) {
            beside.push((same[0].1, same.iter().map(|term| term.2).sum()));
            starts[same[0].0 as usize + 1] += 1;
        }
        for i in 0..count as usize {
            starts[i + 1] += starts[i];
        }
        (
            Self {
                starts,
                beside,
                exact,
                soft,
            },
            map,
        )
    }
}
