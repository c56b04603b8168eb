//! Patches: faces connected through edges with exactly two sides, and which of them must turn.
//!
//! A breadth-first walk over each patch gives every face a parity: 0 like the patch's first
//! face, 1 the other way round. The patch is *closed* when every edge of every face in it has
//! two sides; then the sign of the enclosed volume says which parity faces outward. An open
//! patch, or one that encloses nothing, keeps the parity of the majority of its faces. So does
//! a closed patch that lies wholly in the solid of others (see `hollows`): facing inward, it
//! is the wall of a hollow.
//! Cost: linear in sides, but for closed patches that face inward inside others.

use super::Edges;
use super::hollows::{Shell, hollows};
use crate::mesh::{FaceId, Mesh};
use glam::DVec3;

/// Which patch each face is in, and which faces must turn.
#[derive(Clone, Debug)]
pub struct Patches {
    /// For every face, the number of its patch, from 0.
    pub of_face: Vec<u32>,
    /// For every face, whether it must turn.
    pub reversed: Vec<bool>,
    /// For every patch, whether it is closed.
    pub closed: Vec<bool>,
    /// For every patch, whether no turning makes it consistent (a Möbius band is like that).
    pub one_sided: Vec<bool>,
    /// For every patch, whether it is the wall of a hollow.
    pub hollow: Vec<bool>,
}

/// Six times the signed volume between a polygon and `origin`.
#[inline]
pub fn signed_volume_term(mesh: &Mesh, face: FaceId, origin: DVec3) -> f64 {
    let mut points = mesh.face_points(face).map(|p| p - origin);
    let (Some(first), Some(mut previous)) = (points.next(), points.next()) else {
        return 0.0;
    };
    let mut sum = 0.0;
    for point in points {
        sum += first.dot(previous.cross(point));
        previous = point;
    }
    sum
}

impl Patches {
    /// Finds the patches of a mesh and decides every face's side.
    pub fn of(mesh: &Mesh, edges: &Edges) -> Self {
        const UNSEEN: u32 = u32::MAX;
        let mut patches = Self {
            of_face: vec![UNSEEN; mesh.face_count()],
            reversed: vec![false; mesh.face_count()],
            closed: Vec::new(),
            one_sided: Vec::new(),
            hollow: Vec::new(),
        };
        let mut shells = Vec::new();
        let mut members: Vec<FaceId> = Vec::new();
        for seed in mesh.face_ids() {
            if patches.of_face[seed.index()] != UNSEEN {
                continue;
            }
            let patch = patches.closed.len() as u32;
            members.clear();
            members.push(seed);
            patches.of_face[seed.index()] = patch;
            let mut closed = !mesh.is_collapsed(seed);
            let mut one_sided = false;
            let mut next = 0;
            while let Some(&face) = members.get(next) {
                next += 1;
                for corner in mesh.face_range(face) {
                    let Some(edge) = edges.at_corner(corner) else {
                        break;
                    };
                    let &[a, b] = edges.sides(edge) else {
                        closed = false;
                        continue;
                    };
                    let other = if a.corner() == corner { b } else { a };
                    let same_way = a.runs_up() == b.runs_up();
                    let parity = patches.reversed[face.index()] ^ same_way;
                    let there = other.face.index();
                    if patches.of_face[there] == UNSEEN {
                        patches.of_face[there] = patch;
                        patches.reversed[there] = parity;
                        members.push(other.face);
                    } else if patches.reversed[there] != parity {
                        one_sided = true;
                    }
                }
            }
            if must_swap(mesh, &members, &patches.reversed, closed && !one_sided) {
                for face in &members {
                    patches.reversed[face.index()] ^= true;
                }
            }
            if closed && !one_sided {
                let turned = members.iter().filter(|f| patches.reversed[f.index()]);
                let inward = turned.count() * 2 > members.len();
                shells.push(Shell { patch, inward });
            }
            patches.closed.push(closed);
            patches.one_sided.push(one_sided);
        }
        patches.hollow = vec![false; patches.closed.len()];
        let hollows = hollows(mesh, &patches.of_face, &patches.reversed, shells);
        for &patch in &hollows {
            patches.hollow[patch as usize] = true;
        }
        if !hollows.is_empty() {
            for (face, &patch) in patches.of_face.iter().enumerate() {
                patches.reversed[face] ^= patches.hollow[patch as usize];
            }
        }
        patches
    }

    /// How many faces must turn.
    pub fn reversed_count(&self) -> usize {
        self.reversed.iter().filter(|&&turn| turn).count()
    }
}

/// Whether the faces with parity 0, rather than those with parity 1, must turn.
fn must_swap(mesh: &Mesh, members: &[FaceId], parity: &[bool], closed: bool) -> bool {
    if closed {
        let origin = mesh.position(mesh.face(members[0])[0]);
        let mut volume = 0.0;
        let mut size = 0.0;
        for &face in members {
            let term = signed_volume_term(mesh, face, origin);
            volume += if parity[face.index()] { -term } else { term };
            size += term.abs();
        }
        // What rounding alone can bring about decides nothing.
        if volume.abs() > size * 1e-13 {
            return volume < 0.0;
        }
    }
    let odd = members.iter().filter(|face| parity[face.index()]).count();
    odd * 2 > members.len()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::VertexId;
    use crate::shapes;

    #[test]
    fn inward_box_turns_whole_and_outward_box_not() {
        let outward = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
        let edges = Edges::of(&outward);
        assert_eq!(Patches::of(&outward, &edges).reversed_count(), 0);

        let mut inward = Mesh::from_parts(outward.positions().to_vec(), vec![], vec![0]).unwrap();
        for (_, face) in outward.faces() {
            inward.push_face(face.iter().rev().copied());
        }
        let edges = Edges::of(&inward);
        let patches = Patches::of(&inward, &edges);
        assert_eq!(patches.reversed_count(), inward.face_count());
        assert_eq!(patches.closed, [true]);
    }

    /// Shells one in another, each facing outward or not; largest first.
    fn shells(outward: &[bool]) -> Mesh {
        let mut mesh = Mesh::default();
        for (i, &outward) in outward.iter().enumerate() {
            let half = DVec3::splat(8.0 - i as f64);
            let shell = shapes::cuboid(-half, half, 2);
            let base = mesh.vertex_count() as u32;
            shell.positions().iter().for_each(|&p| {
                mesh.push_vertex(p);
            });
            for (_, face) in shell.faces() {
                let face = face.iter().map(|v| VertexId(v.0 + base));
                match outward {
                    true => mesh.push_face(face),
                    false => mesh.push_face(face.rev()),
                };
            }
        }
        mesh
    }

    #[test]
    fn a_shell_that_faces_inward_in_solid_is_a_hollow_and_in_a_hollow_it_is_not() {
        let turned = |outward: &[bool]| {
            let mesh = shells(outward);
            let patches = Patches::of(&mesh, &Edges::of(&mesh));
            (patches.reversed_count() / 24, patches.hollow)
        };
        assert_eq!(turned(&[true, false]), (0, vec![false, true]));
        assert_eq!(turned(&[true, true]), (0, vec![false, false]));
        assert_eq!(turned(&[false, true]), (1, vec![false, false]));
        // An inside-out ball in an inside-out ball: the outer one turns, the inner one is then
        // the wall of its hollow.
        assert_eq!(turned(&[false, false]), (1, vec![false, true]));
        assert_eq!(turned(&[true, false, false]), (1, vec![false, true, false]));
        assert_eq!(turned(&[true, true, false]), (0, vec![false, false, true]));
        assert_eq!(
            turned(&[true, false, true, false]),
            (0, vec![false, true, false, true])
        );
    }

    #[test]
    fn a_twisted_band_is_one_sided() {
        let mut band = Mesh::default();
        for i in 0..10 {
            band.push_vertex(DVec3::new((i / 2) as f64, (i % 2) as f64, 0.0));
        }
        for i in 0..4u32 {
            let v = 2 * i;
            band.push_face([v, v + 2, v + 3, v + 1].map(VertexId));
        }
        band.push_face([8, 1, 0, 9].map(VertexId));
        let patches = Patches::of(&band, &Edges::of(&band));
        assert_eq!(patches.one_sided, [true]);
        assert_eq!(patches.closed, [false]);
    }
}
