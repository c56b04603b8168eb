//! Islands: what hangs together in the plane of the texture.

use super::Layout;
use crate::mesh::{EdgeId, FaceId};
use crate::topology::{Edges, Side, UnionFind};
use glam::DVec2;

/// Which faces hang together in the plane.
pub struct Islands {
    /// By face the island; nothing of faces without UVs.
    pub of_face: Vec<Option<u32>>,
    /// How many there are.
    pub count: usize,
}

impl Islands {
    /// Joins faces across edges at whose ends their UVs agree. Islands are numbered by their first
    /// faces.
    pub fn of(layout: &Layout<'_>, edges: &Edges) -> Self {
        let mut sets = UnionFind::new(layout.areas.len());
        for edge in edges.ids() {
            for pair in edges.sides(edge).windows(2) {
                if layout.is_joined(pair[0], pair[1]) {
                    sets.join(pair[0].face.0, pair[1].face.0);
                }
            }
        }
        let mut number = vec![None; layout.areas.len()];
        let mut of_face = vec![None; layout.areas.len()];
        let mut count = 0;
        for (face, area) in layout.areas.iter().enumerate() {
            if area.is_some() {
                let island = &mut number[sets.find(face as u32) as usize];
                of_face[face] = Some(*island.get_or_insert_with(|| {
                    count += 1;
                    count - 1
                }));
            }
        }
        Self {
            of_face,
            count: count as usize,
        }
    }
}

impl Layout<'_> {
    /// The UVs at the ends of an edge in a face, from its lower vertex to its higher one.
    pub fn ends(&self, side: Side) -> Option<[DVec2; 2]> {
        let next = self.mesh.next_corner(side.face, side.corner());
        let (from, to) = (self.layer.at(side.corner())?, self.layer.at(next)?);
        Some(if side.runs_up() {
            [from, to]
        } else {
            [to, from]
        })
    }

    fn is_joined(&self, a: Side, b: Side) -> bool {
        let has = |face: FaceId| self.areas[face.index()].is_some();
        has(a.face) && has(b.face) && self.ends(a) == self.ends(b)
    }

    /// The edges at which more than two faces go on from each other in the plane, too.
    pub fn nonmanifold<'e>(&'e self, edges: &'e Edges) -> impl Iterator<Item = EdgeId> + 'e {
        edges.ids().filter(|&edge| {
            let sides = edges.sides(edge);
            let many = |side: &Side| {
                let own = self.ends(*side);
                let same = sides.iter().filter(|&&other| self.ends(other) == own);
                own.is_some() && same.count() > 2
            };
            sides.len() > 2 && sides.iter().any(many)
        })
    }
}
