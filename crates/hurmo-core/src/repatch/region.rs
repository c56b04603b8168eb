//! Which faces go: those at fault, grown until what is left has a simple border.

use super::border::{Unfit, openings};
use super::{Left, LeftBecause};
use crate::fill::over::Opening;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::topology::{Edges, FacesAt, Parts, UnionFind};
use glam::DVec3;

/// How many more rings a region may grow by where its border is not simple.
const MOST_MORE: usize = 8;

/// In no region.
const NONE: u32 = u32::MAX;

/// Faces that are cut out, and what is to be closed then.
pub(super) struct Region {
    pub faces: Vec<FaceId>,
    /// By how many rings it was grown.
    pub rings: usize,
    pub openings: Vec<Opening>,
    /// How many open edges lie within it, which the new faces span over.
    pub spanned: usize,
}

impl Region {
    pub fn middle(&self, mesh: &Mesh) -> DVec3 {
        middle(mesh, &self.faces)
    }

    /// That it was left, and why.
    pub fn left(&self, mesh: &Mesh, reason: LeftBecause) -> Left {
        left(mesh, &self.faces, reason)
    }
}

fn middle(mesh: &Mesh, faces: &[FaceId]) -> DVec3 {
    let sum: DVec3 = faces.iter().map(|&face| mesh.face_middle(face)).sum();
    sum / faces.len().max(1) as f64
}

fn left(mesh: &Mesh, faces: &[FaceId], reason: LeftBecause) -> Left {
    Left {
        at: middle(mesh, faces),
        faces: faces.len(),
        reason,
    }
}

/// Regions round groups of faces at fault, grown by `rings` and then on until their borders are
/// simple; regions that come to touch become one. And what was given up.
pub(super) fn grown(mesh: &Mesh, seeds: &[Vec<FaceId>], rings: usize) -> (Vec<Region>, Vec<Left>) {
    let mut growth = Growth {
        mesh,
        edges: Edges::of(mesh),
        parts: Parts::of(mesh),
        faces_at: FacesAt::of(mesh),
        goes: vec![false; mesh.face_count()],
        seeds,
    };
    for face in seeds.iter().flatten() {
        growth.goes[face.index()] = true;
    }
    for _ in 0..rings {
        let going = mesh.faces().filter(|(face, _)| growth.goes[face.index()]);
        let corners: Vec<VertexId> = going.flat_map(|(_, corners)| corners).copied().collect();
        growth.take_round(&corners);
    }
    growth.until_simple(rings)
}

struct Growth<'a> {
    mesh: &'a Mesh,
    edges: Edges,
    parts: Parts,
    faces_at: FacesAt,
    /// By face, whether it is in a region.
    goes: Vec<bool>,
    seeds: &'a [Vec<FaceId>],
}

impl Growth<'_> {
    fn take_round(&mut self, vertices: &[VertexId]) {
        for face in vertices.iter().flat_map(|&v| self.faces_at.of_vertex(v)) {
            self.goes[face.index()] = true;
        }
    }

    fn until_simple(mut self, rings: usize) -> (Vec<Region>, Vec<Left>) {
        let mut given_up = Vec::new();
        for more in 0.. {
            let (groups, region_of) = self.groups();
            let mut regions = Vec::new();
            let mut unclean: Vec<VertexId> = Vec::new();
            for (i, faces) in groups.into_iter().enumerate() {
                let inside = |face: FaceId| region_of[face.index()] == i as u32;
                let found = match self.is_most_of_its_part(&faces) {
                    true => Err(Unfit::For(LeftBecause::MostOfItsPart)),
                    false => openings(self.mesh, &self.edges, &faces, inside),
                };
                match found {
                    Ok((openings, spanned)) => regions.push(Region {
                        faces,
                        rings: rings + more,
                        openings,
                        spanned,
                    }),
                    Err(Unfit::NotSimpleAt(vertices)) if more < MOST_MORE => {
                        unclean.extend(vertices);
                    }
                    Err(unfit) => {
                        faces.iter().for_each(|f| self.goes[f.index()] = false);
                        given_up.push(left(self.mesh, &faces, unfit.reason()));
                    }
                }
            }
            if unclean.is_empty() {
                return (regions, given_up);
            }
            self.take_round(&unclean);
        }
        unreachable!("regions that grow too far are given up")
    }

    fn is_most_of_its_part(&self, faces: &[FaceId]) -> bool {
        let part = faces
            .first()
            .and_then(|&face| self.parts.of_face(self.mesh, face));
        part.is_some_and(|part| 2 * faces.len() > self.parts.list()[part.index()].faces)
    }

    /// The faces that go, in groups that touch or are at fault together; and by face its group.
    fn groups(&self) -> (Vec<Vec<FaceId>>, Vec<u32>) {
        let count = self.mesh.face_count();
        let mut sets = UnionFind::new(count);
        let mut first = vec![NONE; self.mesh.vertex_count()];
        let going = |face: &FaceId| self.goes[face.index()];
        for face in self.mesh.face_ids().filter(going) {
            for vertex in self.mesh.face(face) {
                match &mut first[vertex.index()] {
                    none if *none == NONE => *none = face.index() as u32,
                    other => {
                        sets.join(face.index() as u32, *other);
                    }
                }
            }
        }
        for group in self.seeds {
            let mut going = group.iter().filter(|face| going(face));
            if let Some(first) = going.next() {
                going.for_each(|face| {
                    sets.join(first.index() as u32, face.index() as u32);
                });
            }
        }
        let mut region_of = vec![NONE; count];
        let mut groups: Vec<Vec<FaceId>> = Vec::new();
        for face in self.mesh.face_ids().filter(going) {
            let root = sets.find(face.index() as u32) as usize;
            if region_of[root] == NONE {
                region_of[root] = groups.len() as u32;
                groups.push(Vec::new());
            }
            let group = region_of[root];
            region_of[face.index()] = group;
            groups[group as usize].push(face);
        }
        (groups, region_of)
    }
}
