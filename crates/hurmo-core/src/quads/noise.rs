//! Creases that are noise at the size of quads.
//!
//! A rough surface bends sharply at single edges, in rows as long as a few quads, and yet the surface as a whole
//! goes on across them. Whether a row of edges is a crease is asked again at the size of a quad: the normals of
//! what lies within its side to the left of an edge and to the right must differ. Nor is that a crease which goes
//! round less than a quad.

use super::even::FINER;
use super::surface::{NONE, next, paired};
use crate::mesh::Model;
use crate::parallel::mapped_of;
use crate::remesh::EvenSurface;
use crate::topology::UnionFind;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;
use std::collections::VecDeque;
use std::f64::consts::PI;

/// The share of the angle of a crease by which the two sides of one must differ.
const SHARE: f64 = 0.5;
/// Within the length of a side there lies about one and a half times its square to the left of an edge; less than
/// this share of the square is too little for quads to go round.
const ROOM: f64 = 0.25;

/// Where sides differ from place to place, so many triangles at one say how long they are there.
const NEAREST: usize = 64;

/// What a crease is.
pub(super) struct Crease {
    /// Edges whose faces meet at more than this angle, in degrees.
    pub degrees: f64,
    /// The wanted length of sides of quads, the longest.
    pub side: f64,
    /// Where quads may leave the surface by no more than so much: edges across which one would do so.
    pub within: Option<f64>,
}

impl Crease {
    /// Whether sides that differ by an angle, in radians, make a crease for quads with sides of a length.
    fn is_made_by(&self, angle: f64, side: f64) -> bool {
        let cuts_off = self
            .within
            .is_some_and(|within| angle * side > 4.0 * within);
        cuts_off || angle > SHARE * self.degrees.to_radians()
    }
}

/// Leaves out feature edges of a surface that are only noise. Rims, borders of what faces of the model belong to,
/// and edges at which more than two triangles meet stay.
pub(super) fn leave_out_noise(even: &mut EvenSurface, model: &Model, crease: &Crease) {
    if even.feature_edges.is_empty() {
        return;
    }
    let sides = Sides::of(even, &model.attributes.tags.of_face, crease);
    let rows = mapped_of(&sides.rows.list, 1, |row| sides.is_crease(row));
    let noise: FxHashSet<[u32; 2]> = (sides.rows.list.iter().zip(rows))
        .filter(|(_, is_crease)| !is_crease)
        .flat_map(|(row, _)| row.iter().copied())
        .collect();
    even.feature_edges.retain(|ends| !noise.contains(ends));
}

/// What lies on both sides of rows of feature edges.
struct Sides<'e> {
    even: &'e EvenSurface,
    across: Vec<u32>,
    /// By triangle: twice its area along its normal.
    normals: Vec<DVec3>,
    rows: Rows,
    crease: &'e Crease,
}

impl<'e> Sides<'e> {
    fn of(even: &'e EvenSurface, tags: &[u32], crease: &'e Crease) -> Self {
        let normal = |triangle: &[u32; 3]| {
            let [a, b, c] = triangle.map(|v| even.positions[v as usize]);
            (b - a).cross(c - a)
        };
        let normals: Vec<DVec3> = even.triangles.iter().map(normal).collect();
        let across = paired(&even.triangles);
        let tag = |half_edge: u32| tags.get(even.faces[half_edge as usize / 3].index());
        let features: FxHashSet<[u32; 2]> = even.feature_edges.iter().copied().collect();
        let mut own: FxHashMap<[u32; 2], u32> = FxHashMap::default();
        for half_edge in 0..across.len() as u32 {
            let other = across[half_edge as usize];
            if other != NONE && tag(half_edge) == tag(other) {
                let ends = ends(even, half_edge);
                if features.contains(&ends) {
                    own.entry(ends).or_insert(half_edge);
                }
            }
        }
        Self {
            rows: Rows::of(&even.feature_edges, own),
            crease,
            even,
            across,
            normals,
        }
    }

    /// Whether a row is more than noise: by the mean over its edges.
    fn is_crease(&self, row: &[[u32; 2]]) -> bool {
        let [mut length, mut angle, mut side] = [0.0; 3];
        for edge in row {
            let ends = edge.map(|v| self.even.positions[v as usize]);
            let long = ends[0].distance(ends[1]);
            let half_edge = self.rows.half_edges[edge];
            let both = [half_edge, self.across[half_edge as usize]].map(|h| h / 3);
            let middle = ends[0].midpoint(ends[1]);
            let reach = self.side_at(both[0], middle);
            let row = self.rows.of_edge.get(edge);
            let [left, right] = both.map(|t| self.beside(t, row, (middle, reach), usize::MAX));
            if left.area.min(right.area) > ROOM * reach * reach {
                let bend = left.normal.angle_between(right.normal);
                // Where one has no normal, its parts look all ways.
                angle += long * if bend.is_finite() { bend } else { PI };
            }
            side += long * reach;
            length += long;
        }
        length == 0.0 || self.crease.is_made_by(angle / length, side / length)
    }

    /// How long sides of quads are to be, by the size of most of what lies near: triangles are smaller in small parts
    /// and at sharp bends.
    fn side_at(&self, triangle: u32, from: DVec3) -> f64 {
        let most = self.crease.within.map_or(usize::MAX, |_| NEAREST);
        let near = self.beside(triangle, None, (from, self.crease.side), most);
        // Of a triangle with three sides of one length.
        let own = (near.squares / near.area * 4.0 / 3f64.sqrt()).sqrt();
        (own / FINER).min(self.crease.side)
    }

    /// What hangs together with a triangle within a distance of a place, up to the edges of a row; no more than about
    /// `most` triangles, the fewest sides away first.
    fn beside(
        &self,
        triangle: u32,
        row: Option<&u32>,
        (from, within): (DVec3, f64),
        most: usize,
    ) -> Beside {
        let middle = |t: u32| {
            let corners = self.even.triangles[t as usize].map(|v| self.even.positions[v as usize]);
            corners.iter().sum::<DVec3>() / 3.0
        };
        let ends_row = |half_edge: u32| {
            row.is_some() && self.rows.of_edge.get(&ends(self.even, half_edge)) == row
        };
        let mut seen = FxHashSet::from_iter([triangle]);
        let mut next = VecDeque::from([triangle]);
        let mut found = Beside::default();
        while let Some(t) = next.pop_front() {
            let normal = self.normals[t as usize] / 2.0;
            found.normal += normal;
            found.area += normal.length();
            found.squares += normal.length_squared();
            for half_edge in 3 * t..3 * t + 3 {
                let other = self.across[half_edge as usize];
                if other != NONE
                    && seen.len() < most
                    && !ends_row(half_edge)
                    && middle(other / 3).distance(from) <= within
                    && seen.insert(other / 3)
                {
                    next.push_back(other / 3);
                }
            }
        }
        found
    }
}

/// What lies on one side of an edge.
#[derive(Default)]
struct Beside {
    area: f64,
    /// The sum of the squares of the areas of its triangles.
    squares: f64,
    /// The sum of its areas along their normals.
    normal: DVec3,
}

/// The ends of a half-edge, the lower first.
fn ends(even: &EvenSurface, half_edge: u32) -> [u32; 2] {
    let end = |h: u32| even.triangles[h as usize / 3][h as usize % 3];
    let [a, b] = [end(half_edge), end(next(half_edge))];
    [a.min(b), a.max(b)]
}

/// Feature edges that may be noise, in rows: those that meet where no third does.
struct Rows {
    list: Vec<Vec<[u32; 2]>>,
    of_edge: FxHashMap<[u32; 2], u32>,
    /// One of the two of each edge.
    half_edges: FxHashMap<[u32; 2], u32>,
}

impl Rows {
    fn of(features: &[[u32; 2]], half_edges: FxHashMap<[u32; 2], u32>) -> Self {
        let mut at: FxHashMap<u32, SmallVec<[u32; 3]>> = FxHashMap::default();
        for (i, ends) in features.iter().enumerate() {
            ends.iter()
                .for_each(|v| at.entry(*v).or_default().push(i as u32));
        }
        let may_be_noise = |i: u32| half_edges.contains_key(&features[i as usize]);
        let mut sets = UnionFind::new(features.len());
        for edges in at.values() {
            if let [a, b] = edges[..]
                && may_be_noise(a) == may_be_noise(b)
            {
                sets.join(a, b);
            }
        }
        let mut numbers: FxHashMap<u32, u32> = FxHashMap::default();
        let mut list: Vec<Vec<[u32; 2]>> = Vec::new();
        let mut of_edge = FxHashMap::default();
        for i in (0..features.len() as u32).filter(|&i| may_be_noise(i)) {
            let row = *numbers.entry(sets.find(i)).or_insert_with(|| {
                list.push(Vec::new());
                list.len() as u32 - 1
            });
            list[row as usize].push(features[i as usize]);
            of_edge.insert(features[i as usize], row);
        }
        Self {
            list,
            of_edge,
            half_edges,
        }
    }
}
