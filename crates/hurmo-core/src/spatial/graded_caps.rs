//! Caps that close a surface with triangles no larger than their distance from its border.
//!
//! Which caps close a surface makes no difference to its own winding number: that is the whole number
//! of both less that of the caps. But a fan over a long chain of edges is of needles that reach across
//! the model, which a tree of solid angles must look at one by one from everywhere.
//!
//! ```text
//!   a ──── b      every edge is joined to the middles of the cells that its ends lie in;
//!   │ ╲    │      what is left is the border, coarser; in cells twice as wide
//!   A ──── B      it is joined again, until all of it lies in one cell
//! ```
//!
//! Where the border passes through a point as often as it leaves it, the sides a-A cancel out. Cost:
//! about four triangles for every edge.

use super::border::Border;
use crate::mesh::{Mesh, VertexId};
use glam::{DVec3, I64Vec3};
use rustc_hash::FxHashMap;

/// How wide the first cells are, in mean lengths of the border's edges.
const FIRST_CELL: f64 = 2.0;

/// An edge from one vertex of the caps to another, and how often it is left.
type Left = ([VertexId; 2], i32);

impl Border {
    /// Triangles that close it, the larger the further from it.
    pub fn graded_caps(&self, positions: &[DVec3]) -> Mesh {
        let mut caps = Mesh::default();
        let mut left = self.copied(positions, &mut caps);
        let lengths = left
            .iter()
            .map(|([a, b], _)| caps.position(*a).distance(caps.position(*b)));
        let mut cell = FIRST_CELL * lengths.sum::<f64>() / left.len().max(1) as f64;
        let low = caps
            .positions()
            .iter()
            .fold(DVec3::INFINITY, |low, p| low.min(*p));
        while !left.is_empty() {
            let middles = middles(&mut caps, &left, low, cell);
            left = joined(&mut caps, &left, &middles);
            // Edges far shorter than they lie apart are soon done with.
            let has_joined = middles.iter().any(|(vertex, middle)| vertex != middle);
            cell *= if has_joined { 2.0 } else { 8.0 };
        }
        caps
    }

    /// Its edges, with vertices of their own.
    fn copied(&self, positions: &[DVec3], caps: &mut Mesh) -> Vec<Left> {
        let mut own: FxHashMap<VertexId, VertexId> = FxHashMap::default();
        let mut copy = |v: VertexId| {
            let new = || caps.push_vertex(positions[v.index()]);
            *own.entry(v).or_insert_with(new)
        };
        let edges = self.edges();
        edges
            .map(|(ends, times)| (ends.map(&mut copy), times))
            .collect()
    }
}

/// For every vertex of what is left, the middle of those in its cell: itself where it is alone.
fn middles(caps: &mut Mesh, left: &[Left], low: DVec3, cell: f64) -> FxHashMap<VertexId, VertexId> {
    let mut ends: Vec<VertexId> = left.iter().flat_map(|(ends, _)| *ends).collect();
    ends.sort_unstable();
    ends.dedup();
    let mut cells: FxHashMap<I64Vec3, Vec<VertexId>> = FxHashMap::default();
    for v in ends {
        let key = ((caps.position(v) - low) / cell).floor().as_i64vec3();
        cells.entry(key).or_default().push(v);
    }
    let mut cells: Vec<Vec<VertexId>> = cells.into_values().collect();
    cells.sort_unstable();
    let mut middles = FxHashMap::default();
    for members in cells {
        let middle = match members[..] {
            [alone] => alone,
            _ => {
                let sum: DVec3 = members.iter().map(|v| caps.position(*v)).sum();
                caps.push_vertex(sum / members.len() as f64)
            }
        };
        middles.extend(members.into_iter().map(|member| (member, middle)));
    }
    middles
}

/// Joins edges to those between the middles of their ends' cells; these, as far as they are left.
fn joined(caps: &mut Mesh, left: &[Left], middles: &FxHashMap<VertexId, VertexId>) -> Vec<Left> {
    let mut next: Vec<Left> = Vec::new();
    for &([from, to], times) in left {
        // What runs from `from` to `to` once too often is run back.
        let [a, b] = if times > 0 { [from, to] } else { [to, from] };
        let [near, far] = [middles[&a], middles[&b]];
        for _ in 0..times.unsigned_abs() {
            for corners in [[b, a, near], [b, near, far]] {
                let [p, q, r] = corners;
                if p != q && q != r && r != p {
                    caps.push_face(corners);
                }
            }
        }
        let times = times.abs();
        match near.cmp(&far) {
            std::cmp::Ordering::Less => next.push(([near, far], times)),
            std::cmp::Ordering::Greater => next.push(([far, near], -times)),
            std::cmp::Ordering::Equal => {}
        }
    }
    next.sort_unstable();
    let sums = next
        .chunk_by(|one, other| one.0 == other.0)
        .map(|same| (same[0].0, same.iter().map(|(_, times)| times).sum::<i32>()));
    sums.filter(|(_, times)| *times != 0).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::FaceId;
    use crate::shapes;
    use crate::spatial::{TriangleHierarchy, Winding, solid_angle};
    use crate::topology::Edges;
    use std::f64::consts::PI;

    /// A ball without many of its faces, and its border.
    fn torn() -> (Mesh, Border) {
        let ball = shapes::sphere(1.0, 4);
        let mut torn = Mesh::from_parts(ball.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, corners) in ball.faces() {
            if face.index() * 7919 % 11 > 2 && face.index() > 300 {
                torn.push_face(corners.iter().copied());
            }
        }
        let place: Vec<VertexId> = (0..torn.vertex_count()).map(VertexId::new).collect();
        let turned = vec![false; torn.face_count()];
        let edges = Edges::of(&torn);
        let border = Border::of(&torn, &edges, |_: FaceId| true, &turned, &place);
        (torn, border)
    }

    /// The winding number, by the sum of all solid angles.
    fn winding(mesh: &Mesh, at: DVec3) -> f64 {
        let hierarchy = TriangleHierarchy::whole(mesh);
        let all = (0..hierarchy.len()).map(|t| solid_angle(hierarchy.corners(t), at));
        all.sum::<f64>() / (4.0 * PI)
    }

    #[test]
    fn with_its_caps_a_torn_ball_winds_a_whole_number_of_times() {
        let (torn, border) = torn();
        let caps = border.graded_caps(torn.positions());
        assert!(
            caps.face_count() < 5 * border.len(),
            "{}",
            caps.face_count()
        );
        for i in 0..40 {
            let t = f64::from(i);
            let at = 1.3 * DVec3::new((t * 0.7).sin(), (t * 1.3).cos(), (t * 2.1).sin()) / 1.7;
            let whole = winding(&torn, at) + winding(&caps, at);
            assert!((whole - whole.round()).abs() < 1e-6, "{whole} at {at}");
        }
    }

    #[test]
    fn fewer_triangles_are_looked_at_one_by_one() {
        let (torn, border) = torn();
        let cost = |caps: &Mesh| {
            let hierarchy = TriangleHierarchy::whole(caps);
            Winding::of(&hierarchy).mean_cost()
        };
        let [graded, fans] = [
            border.graded_caps(torn.positions()),
            border.caps(torn.positions()),
        ];
        // The larger the model, the more: a fan costs in proportion to all its edges.
        let [graded, fans] = [cost(&graded), cost(&fans)];
        assert!(graded < 0.85 * fans, "{graded} {fans}");
    }
}
