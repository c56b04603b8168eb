//! One division after Catmull & Clark (1978); along creases and rims after DeRose, Kass & Truong (1998), with
//! creases that stay sharp at every level.

use crate::mesh::{Mesh, VertexId};
use crate::topology::Edges;
use glam::DVec3;

/// A mesh that is divided: every face becomes quads.
pub(super) struct Cage {
    pub mesh: Mesh,
    /// Edges that stay sharp, by their ends; those that have not two sides do in any case.
    pub sharp: Vec<[VertexId; 2]>,
    /// Vertices that stay where they are.
    pub is_corner: Vec<bool>,
}

/// What a vertex lies on.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum On {
    /// The surface; a line may end here.
    Surface,
    /// A line, between these two vertices.
    Line([VertexId; 2]),
    /// A corner, or a place where lines meet.
    Corner,
}

impl Cage {
    /// By edge, whether it is sharp.
    fn sharp_edges(&self, edges: &Edges) -> Vec<bool> {
        let mut is_sharp: Vec<bool> = edges.ids().map(|e| edges.sides(e).len() != 2).collect();
        let sharp = self.sharp.iter();
        for edge in sharp.filter_map(|&[a, b]| edges.between(a, b)) {
            is_sharp[edge.index()] = true;
        }
        is_sharp
    }

    /// By vertex, what it lies on.
    pub fn lies_on(&self, edges: &Edges) -> Vec<On> {
        self.lies_on_by(edges, &self.sharp_edges(edges))
    }

    fn lies_on_by(&self, edges: &Edges, sharp: &[bool]) -> Vec<On> {
        let mut count = vec![0usize; self.mesh.vertex_count()];
        let mut along = vec![[VertexId(0); 2]; count.len()];
        for edge in edges.ids().filter(|edge| sharp[edge.index()]) {
            let [a, b] = edges.ends(edge);
            for (own, far) in [(a, b), (b, a)] {
                let count = &mut count[own.index()];
                along[own.index()][*count % 2] = far;
                *count += 1;
            }
        }
        let all = count.into_iter().zip(along).zip(&self.is_corner);
        let on = all.map(|((count, along), is_corner)| match (is_corner, count) {
            (false, 0 | 1) => On::Surface,
            (false, 2) => On::Line(along),
            _ => On::Corner,
        });
        on.collect()
    }

    /// Every face in quads. First come the vertices in the order that they had, then one for each edge, then one
    /// for each face; the quads of a face follow each other, each from a corner of it.
    pub fn divided(&self, edges: &Edges) -> Cage {
        let mesh = &self.mesh;
        let sharp = self.sharp_edges(edges);
        let of_face: Vec<DVec3> = mesh.face_ids().map(|face| mesh.face_middle(face)).collect();
        let middle = |[a, b]: [VertexId; 2]| (mesh.position(a) + mesh.position(b)) / 2.0;
        let of_edge = edges.ids().map(|edge| {
            let middle = middle(edges.ends(edge));
            match (sharp[edge.index()], edges.sides(edge)) {
                (false, [one, other]) => {
                    let beside = of_face[one.face.index()] + of_face[other.face.index()];
                    (middle + beside / 2.0) / 2.0
                }
                _ => middle,
            }
        });
        let stars = Stars::of(mesh, edges, &of_face);
        let on = self.lies_on_by(edges, &sharp);
        let mut positions: Vec<DVec3> = mesh
            .vertex_ids()
            .map(|v| stars.moved(v, on[v.index()], mesh))
            .collect();
        positions.extend(of_edge);
        positions.extend(&of_face);
        let mut is_corner = self.is_corner.clone();
        is_corner.resize(positions.len(), false);
        Cage {
            mesh: quads(mesh, edges, positions),
            sharp: halves(mesh, edges, &sharp),
            is_corner,
        }
    }
}

/// The quads of all faces, over the vertices, the places of edges and those of faces.
fn quads(mesh: &Mesh, edges: &Edges, positions: Vec<DVec3>) -> Mesh {
    let first_of_edges = mesh.vertex_count();
    let first_of_faces = first_of_edges + edges.len();
    let count = mesh.corners().len();
    let mut corners = Vec::with_capacity(4 * count);
    for face in mesh.face_ids() {
        let range = mesh.face_range(face);
        let side = |corner: usize| {
            let edge = edges.at_corner(corner);
            edge.map(|edge| VertexId::new(first_of_edges + edge.index()))
        };
        let middle = VertexId::new(first_of_faces + face.index());
        let mut before = range.end.checked_sub(1).and_then(side);
        for corner in range {
            let after = side(corner);
            if let (Some(before), Some(after)) = (before, after) {
                corners.extend([mesh.corners()[corner], after, middle, before]);
            }
            before = after;
        }
    }
    let starts = (0..=corners.len() as u32).step_by(4).collect();
    Mesh::from_parts(positions, corners, starts).expect("means of places that are finite")
}

/// The two halves of every sharp edge.
fn halves(mesh: &Mesh, edges: &Edges, sharp: &[bool]) -> Vec<[VertexId; 2]> {
    let sharp = edges.ids().filter(|edge| sharp[edge.index()]);
    let halves = sharp.flat_map(|edge| {
        let middle = VertexId::new(mesh.vertex_count() + edge.index());
        edges.ends(edge).map(|end| [end, middle])
    });
    halves.collect()
}

/// What lies round every vertex.
struct Stars(Vec<Star>);

/// What lies round a vertex.
#[derive(Clone, Copy)]
struct Star {
    faces: u32,
    edges: u32,
    /// The sum of the middles of faces.
    of_faces: DVec3,
    /// The sum of the middles of edges.
    of_edges: DVec3,
}

impl Stars {
    /// `of_face`: the middle of each face.
    fn of(mesh: &Mesh, edges: &Edges, of_face: &[DVec3]) -> Self {
        let none = Star {
            faces: 0,
            edges: 0,
            of_faces: DVec3::ZERO,
            of_edges: DVec3::ZERO,
        };
        let mut stars = vec![none; mesh.vertex_count()];
        for (face, corners) in mesh.faces() {
            for v in corners {
                stars[v.index()].faces += 1;
                stars[v.index()].of_faces += of_face[face.index()];
            }
        }
        for edge in edges.ids() {
            let [a, b] = edges.ends(edge);
            let middle = (mesh.position(a) + mesh.position(b)) / 2.0;
            for own in [a, b] {
                stars[own.index()].edges += 1;
                stars[own.index()].of_edges += middle;
            }
        }
        Self(stars)
    }

    /// Where a vertex goes.
    fn moved(&self, v: VertexId, on: On, mesh: &Mesh) -> DVec3 {
        let (star, here) = (&self.0[v.index()], mesh.position(v));
        let count = f64::from(star.edges);
        match on {
            On::Surface if star.faces > 0 && star.edges > 0 => {
                let faces = star.of_faces / f64::from(star.faces);
                let edges = star.of_edges / count;
                (faces + 2.0 * edges + (count - 3.0) * here) / count
            }
            On::Line(beside) => {
                let [a, b] = beside.map(|v| mesh.position(v));
                (a + 6.0 * here + b) / 8.0
            }
            _ => here,
        }
    }
}
