//! What two triangles have in common: nothing, points that are ends of a segment, or a piece of
//! their one plane. All is decided by the sides of planes on which vertices lie (Devillers & Guigue
//! 2002), exactly.

use super::constructions::{Inputs, Made, Plane};
use crate::mesh::VertexId;
use crate::predicates::{segment_meets_triangle, side_of_plane};
use crate::spatial::faces_meet;
use glam::DVec3;
use smallvec::SmallVec;
use std::cmp::Ordering::{self, Equal, Greater, Less};

/// How two triangles meet.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Meeting {
    /// In these points and what lies between them; the same point can be there twice, made
    /// differently.
    Across(SmallVec<[Made; 4]>),
    /// In a piece of the plane in which both lie.
    Flat,
}

impl Meeting {
    /// The points that the triangles have in common, where they cross.
    pub fn points(&self) -> &[Made] {
        match self {
            Self::Across(points) => points,
            Self::Flat => &[],
        }
    }
}

/// How two triangles meet away from the vertex or edge that they share.
pub(super) fn meeting(inputs: &Inputs<'_>, s: u32, t: u32) -> Option<Meeting> {
    let [of_s, of_t] = [s, t].map(|x| inputs.triangles[x as usize]);
    let [p, q] = [s, t].map(|x| inputs.corners(x));
    if !faces_meet([of_s, of_t].map(|of| of.map(VertexId)), [p, q]) {
        return None;
    }
    let shared = of_s.iter().filter(|v| of_t.contains(v)).count();
    // Neighbours across an edge meet beside it only in one plane.
    let sides_t = sides(p, (of_s, of_t), q);
    if shared == 2 || sides_t == [Equal; 3] {
        return Some(Meeting::Flat);
    }
    let sides_s = sides(q, (of_t, of_s), p);
    let mut points = SmallVec::new();
    through(inputs, (s, of_s, p), (of_t, q, sides_t), &mut points);
    through(inputs, (t, of_t, q), (of_s, p, sides_s), &mut points);
    points.sort_unstable();
    points.dedup();
    Some(Meeting::Across(points))
}

/// On which sides of a triangle's plane the corners of another lie.
fn sides(
    [a, b, c]: [DVec3; 3],
    (of_s, of_t): ([u32; 3], [u32; 3]),
    q: [DVec3; 3],
) -> [Ordering; 3] {
    [0, 1, 2].map(|i| match of_s.contains(&of_t[i]) {
        true => Equal,
        false => side_of_plane(a, b, c, q[i]),
    })
}

/// Where vertices and edges of one triangle meet another, which doesn't lie in its plane.
fn through(
    inputs: &Inputs<'_>,
    (s, of_s, p): (u32, [u32; 3], [DVec3; 3]),
    (of_t, q, sides): ([u32; 3], [DVec3; 3], [Ordering; 3]),
    points: &mut SmallVec<[Made; 4]>,
) {
    for i in 0..3 {
        if sides[i] == Equal && (of_s.contains(&of_t[i]) || segment_meets_triangle(q[i], q[i], p)) {
            points.push(Made::Vertex(of_t[i]));
        }
        let k = (i + 1) % 3;
        if sides[i] != Equal && sides[k] == sides[i].reverse() {
            // The edge always runs from its lower vertex: its neighbour must make the same point.
            let mut edge = [of_t[i], of_t[k]];
            edge.sort_unstable();
            let [from, to] = edge.map(|v| inputs.position(v));
            let turns = [0, 1, 2].map(|j| side_of_plane(from, to, p[j], p[(j + 1) % 3]));
            if turns.contains(&Greater) && turns.contains(&Less) {
                continue;
            }
            let on = |j: usize| turns[j] == Equal;
            let corner = (0..3).find(|&j| on(j) && on((j + 1) % 3));
            points.push(match corner {
                Some(j) => Made::Vertex(of_s[(j + 1) % 3]),
                None => Made::OnEdge {
                    edge,
                    plane: Plane::Of(s),
                },
            });
        }
    }
}
