//! The cells that a surface crosses: the loops of edge points through them.

use super::case_table::{Step, edge_of};
use super::crossing::Crossing;
use super::grid::{EdgeKey, Grid, Key, corner_of, edge, edge_parts};
use super::inside_test::InsideTest;
use super::surface_extraction::{Fan, Side};
use super::vertex_placement::{middle, place};
use glam::DVec3;
use smallvec::SmallVec;

/// A segment that is bent stays so far from the face's sides, as a share of the cell.
const ON_FACE: f64 = 0.002;
/// The points on edges, by edge, and the cells that are crossed, with which corners are inside.
pub struct Crossed<'a> {
    pub grid: &'a Grid,
    /// Sorted.
    pub edges: &'a [EdgeKey],
    pub points: &'a [Crossing],
    pub cells: &'a [(Key, u8)],
    /// Whether sharp edges are left out.
    pub is_rounded: bool,
    /// The model.
    pub inside_test: &'a InsideTest<'a>,
}

impl Crossed<'_> {
    /// A loop's vertex, and its segments.
    pub fn fan(&self, cell: Key, steps: &[Step], alone: bool) -> (DVec3, Fan) {
        let name = |step: &Step| {
            let (axis, low) = edge_of(step.edge);
            let key = edge(corner_of(cell, low), axis);
            self.edges
                .binary_search(&key)
                .expect("every crossed edge has a point") as u32
        };
        let names: SmallVec<[u32; 8]> = steps.iter().map(name).collect();
        let points: SmallVec<[Crossing; 8]> = names
            .iter()
            .map(|&name| self.points[name as usize])
            .collect();
        let apex = match alone && !self.is_rounded {
            true => place(&points, self.grid.corner(cell), self.grid.cell),
            false => middle(&points),
        };
        let sides = steps.iter().enumerate().map(|(i, step)| Side {
            ends: [names[i], names[(i + 1) % names.len()]],
            fan: 0,
            face: step.face,
            cell,
            is_alone: alone,
            is_doubtful: step.is_doubtful,
        });
        (apex, sides.collect())
    }

    /// The low end of a point's edge, and its axis.
    pub fn edge(&self, point: usize) -> (DVec3, usize) {
        let (low, axis) = edge_parts(self.edges[point]);
        (self.grid.corner(low), axis)
    }

    /// Whether the way between two cells' vertices leads through the inside of their face.
    pub fn stays_on_face(&self, side: &Side, [here, there]: [DVec3; 2]) -> bool {
        let (axis, high) = (side.face as usize / 2, f64::from(side.face % 2));
        let low = self.grid.corner(side.cell);
        let plane = low[axis] + high * self.grid.cell;
        let share = (plane - here[axis]) / (there[axis] - here[axis]);
        let on = (here.lerp(there, share) - low) / self.grid.cell;
        [(axis + 1) % 3, (axis + 2) % 3]
            .into_iter()
            .all(|other| (ON_FACE..=1.0 - ON_FACE).contains(&on[other]))
    }
}
