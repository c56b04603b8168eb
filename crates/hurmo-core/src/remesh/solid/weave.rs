//! The skin's triangles.
//!
//! ```text
//! loops of each cell ─▶ a fan from the cell's vertex to each segment ─▶ segments turned where the
//!                                                             cells' vertices lie on a sharp edge
//! ```
//!
//! Every edge point is in one loop of each cell round it, and every segment in two loops, so that
//! the skin is closed and manifold whatever the model. It does not cross itself either: a fan from
//! a point inside a cell, which is convex, to a simple loop on its faces crosses nothing; of several
//! loops in a cell all but one cut off a single corner, whose plane the others lie behind, or two
//! cut off opposite edges (both tested in `loops`), and these have their vertex in their middle. To
//! turn a segment is to bend it within the face that it runs over (the face vertex of Ju & Udeshi
//! 2006), which leaves the loop simple, as long as it is alone there and the bend stays on the
//! face.

use super::crossing::Crossing;
use super::grid::{EdgeKey, Grid, Key, corner_of, edge};
use super::loops::{LOOPS, Step, edge_of};
use super::place::{middle, place};
use crate::mesh::VertexId;
use crate::triangulate::quality;
use glam::DVec3;
use rayon::prelude::*;

/// A segment that is bent stays so far from the face's sides, as a share of the cell.
const ON_FACE: f64 = 0.002;
/// A segment is turned for its shape only where both ways lie so near the surface, as a share of
/// the cell.
const SAME: f64 = 0.01;

/// The points on edges, by edge, and the cells that are crossed, with which corners are inside.
pub struct Crossed<'a> {
    pub grid: &'a Grid,
    /// Sorted.
    pub edges: &'a [EdgeKey],
    pub points: &'a [Crossing],
    pub cells: &'a [(Key, u8)],
    /// Whether sharp edges are left out.
    pub is_rounded: bool,
}

/// The side of a segment in one cell.
#[derive(Clone, Copy)]
struct Side {
    /// Its ends, as the loop runs.
    ends: [u32; 2],
    /// The cell's vertex.
    apex: u32,
    face: u8,
    cell: Key,
    may_turn: bool,
}

/// The vertices and triangles of the skin; the first vertices are the points.
pub fn weave(crossed: &Crossed<'_>) -> (Vec<DVec3>, Vec<[VertexId; 3]>) {
    let fans: Vec<(DVec3, Vec<Side>)> = crossed
        .cells
        .par_iter()
        .with_min_len(256)
        .flat_map_iter(|&(cell, inside)| {
            let loops = &LOOPS[inside as usize];
            let alone = loops.len() == 1;
            loops
                .iter()
                .map(move |steps| crossed.fan(cell, steps, alone))
        })
        .collect();
    let mut positions: Vec<DVec3> = crossed.points.iter().map(|point| point.at).collect();
    let mut sides = Vec::with_capacity(fans.len() * 4);
    for (apex, own) in fans {
        let apex_name = positions.len() as u32;
        positions.push(apex);
        sides.extend(own.into_iter().map(|side| Side {
            apex: apex_name,
            ..side
        }));
    }
    sides.par_sort_unstable_by_key(|side| {
        (
            side.ends[0].min(side.ends[1]),
            side.ends[0].max(side.ends[1]),
            side.apex,
        )
    });
    let triangles = sides
        .par_chunks_exact(2)
        .with_min_len(256)
        .flat_map_iter(|pair| crossed.segment([pair[0], pair[1]], &positions))
        .map(|triangle| triangle.map(VertexId))
        .collect();
    (positions, triangles)
}

impl Crossed<'_> {
    /// A loop's vertex, and its segments.
    fn fan(&self, cell: Key, steps: &[Step], alone: bool) -> (DVec3, Vec<Side>) {
        let name = |step: &Step| {
            let (axis, low) = edge_of(step.edge);
            let key = edge(corner_of(cell, low), axis);
            self.edges
                .binary_search(&key)
                .expect("every crossed edge has a point") as u32
        };
        let names: Vec<u32> = steps.iter().map(name).collect();
        let points: Vec<Crossing> = names
            .iter()
            .map(|&name| self.points[name as usize])
            .collect();
        let apex = match alone && !self.is_rounded {
            true => place(&points, self.grid.corner(cell), self.grid.cell),
            false => middle(&points),
        };
        let sides = steps.iter().enumerate().map(|(i, step)| Side {
            ends: [names[i], names[(i + 1) % names.len()]],
            apex: 0,
            face: step.face,
            cell,
            may_turn: alone && !step.is_doubtful,
        });
        (apex, sides.collect())
    }

    /// The two triangles at a segment.
    fn segment(&self, [one, two]: [Side; 2], positions: &[DVec3]) -> [[u32; 3]; 2] {
        debug_assert_eq!(one.ends, [two.ends[1], two.ends[0]]);
        let [p, q] = one.ends;
        let as_is = [[p, q, one.apex], [q, p, two.apex]];
        let turned = [[p, two.apex, one.apex], [q, one.apex, two.apex]];
        if !one.may_turn
            || !two.may_turn
            || !self.stays_on_face(&one, [one.apex, two.apex].map(|v| positions[v as usize]))
        {
            return as_is;
        }
        let places = |triangle: [u32; 3]| triangle.map(|v| positions[v as usize]);
        let off = |a: u32, b: u32| {
            let middle = (positions[a as usize] + positions[b as usize]) / 2.0;
            let to = |v: u32| {
                let point = &self.points[v as usize];
                point.normal.dot(middle - point.at).abs()
            };
            to(p) + to(q)
        };
        let (now, then) = (off(p, q), off(one.apex, two.apex));
        let worst = |pair: [[u32; 3]; 2]| {
            pair.map(places)
                .map(quality)
                .into_iter()
                .fold(f64::INFINITY, f64::min)
        };
        let is_better = match (now - then).abs() <= SAME * self.grid.cell {
            true => worst(turned) > worst(as_is),
            false => then < now,
        };
        if is_better { turned } else { as_is }
    }

    /// Whether the way between two cells' vertices leads through the inside of their face.
    fn stays_on_face(&self, side: &Side, [here, there]: [DVec3; 2]) -> bool {
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
