//! Patches: faces connected through edges with exactly two sides, and which of them must turn.
//!
//! Every face has a parity: 0 if it faces like the patch's first face, 1 if it faces the other
//! way (see `topology::consistent`). The patch is *closed* when every edge of every face in it has
//! two sides; then the sign of the enclosed volume says which parity faces outward. An open
//! patch, or one that encloses nothing, keeps the parity of the majority of its faces. So does
//! a closed patch that lies wholly in the solid of others (see `hollows`): facing inward, it
//! is the wall of a hollow.
//! Cost: linear in sides, but for closed patches that face inward inside others.

mod hollows;

pub(crate) use hollows::{INSIDE, corners_once};

use crate::measure::signed_volume_term;
use crate::mesh::{FaceId, Mesh};
use crate::parallel::mapped;
use crate::topology::{Consistent, Edges};
use glam::DVec3;
use hollows::{Shell, hollows};

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

impl Patches {
    /// Finds the patches of a mesh and decides every face's side.
    pub fn of(mesh: &Mesh, edges: &Edges) -> Self {
        let facing = Consistent::of(mesh, edges);
        let of_face: Vec<u32> = facing
            .region
            .iter()
            .map(|&region| facing.patch[region as usize])
            .collect();
        let closed = closed(mesh, edges, &of_face, facing.one_sided.len());
        let solid = |patch: u32| closed[patch as usize] && !facing.one_sided[patch as usize];
        let turned = |face: usize| facing.turned[facing.region[face] as usize];
        let tallies = tallies(mesh, &of_face, closed.len(), turned, solid);
        let reversed = mapped(mesh.face_count(), 4096, |face| {
            turned(face) ^ tallies[of_face[face] as usize].must_swap()
        });
        let shells = (0..closed.len() as u32)
            .filter(|&patch| solid(patch))
            .map(|patch| Shell {
                patch,
                inward: tallies[patch as usize].mostly_reversed(),
            })
            .collect();
        let mut patches = Self {
            of_face,
            reversed,
            hollow: vec![false; closed.len()],
            closed,
            one_sided: facing.one_sided,
        };
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

/// For every patch, whether each of its faces has sides, and each side a second one.
fn closed(mesh: &Mesh, edges: &Edges, of_face: &[u32], patches: usize) -> Vec<bool> {
    let mut closed = vec![true; patches];
    for edge in edges.ids() {
        let sides = edges.sides(edge);
        if sides.len() != 2 {
            for side in sides {
                closed[of_face[side.face.index()] as usize] = false;
            }
        }
    }
    for face in mesh.face_ids().filter(|&face| mesh.is_collapsed(face)) {
        closed[of_face[face.index()] as usize] = false;
    }
    closed
}

/// What decides a patch's side.
#[derive(Clone, Default)]
struct Tally {
    faces: usize,
    /// How many of them have parity 1.
    odd: usize,
    /// Six times the volume enclosed when those turn, and how much of it each face adds or
    /// takes.
    volume: f64,
    size: f64,
}

impl Tally {
    /// Whether the faces with parity 0, rather than those with parity 1, must turn.
    fn must_swap(&self) -> bool {
        // What rounding alone can bring about decides nothing.
        if self.volume.abs() > self.size * 1e-13 {
            return self.volume < 0.0;
        }
        self.odd * 2 > self.faces
    }

    /// Whether most of its faces must turn.
    fn mostly_reversed(&self) -> bool {
        let reversed = match self.must_swap() {
            true => self.faces - self.odd,
            false => self.odd,
        };
        reversed * 2 > self.faces
    }
}

/// Counts the faces of every patch, and sums the volumes of those that are `solid`.
fn tallies(
    mesh: &Mesh,
    of_face: &[u32],
    patches: usize,
    turned: impl Fn(usize) -> bool,
    solid: impl Fn(u32) -> bool + Sync,
) -> Vec<Tally> {
    let mut origins: Vec<Option<DVec3>> = vec![None; patches];
    for (face, vertices) in mesh.faces() {
        let origin = &mut origins[of_face[face.index()] as usize];
        if origin.is_none() {
            *origin = vertices.first().map(|&v| mesh.position(v));
        }
    }
    // Terms are worked out on several threads, and summed on one: sums don't depend on threads.
    let terms: Vec<f64> = mapped(mesh.face_count(), 4096, |face| {
        match origins[of_face[face] as usize] {
            Some(origin) if solid(of_face[face]) => {
                signed_volume_term(mesh, FaceId::new(face), origin)
            }
            _ => 0.0,
        }
    });
    let mut tallies = vec![Tally::default(); patches];
    for (face, term) in terms.into_iter().enumerate() {
        let tally = &mut tallies[of_face[face] as usize];
        let turned = turned(face);
        tally.faces += 1;
        tally.odd += usize::from(turned);
        tally.volume += if turned { -term } else { term };
        tally.size += term.abs();
    }
    tallies
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
