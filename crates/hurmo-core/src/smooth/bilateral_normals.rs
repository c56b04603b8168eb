//! Evening out normals, but not across edges (Zheng, Fu, Au & Tai 2011, the local scheme), then
//! bringing vertices after them (Sun, Rosin, Martin & Langbein 2007).
//!
//! A face's normal becomes the mean of those round it, weighed by area, by how near they lie and
//! above all by how alike they are: across a sharp edge they are not, and so it stays.

use super::{May, Neighbourhood};
use crate::geometry::vector_area_of;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::{mapped, of_runs};
use crate::topology::FacesAt;
use glam::DVec3;

/// Normals that differ by much more than this do not even each other out.
const ALIKE: f64 = 0.35;
/// How often vertices are brought nearer to their faces' planes, a round.
const STEPS: usize = 4;

/// What rounds go by.
pub(super) struct Hard<'a> {
    mesh: &'a Mesh,
    neighbourhood: &'a Neighbourhood,
    neighbours: Vec<Vec<u32>>,
    faces_at: FacesAt,
}

impl<'a> Hard<'a> {
    /// Works out which faces are next to each other.
    pub fn over(mesh: &'a Mesh, neighbourhood: &'a Neighbourhood) -> Self {
        Self {
            mesh,
            neighbourhood,
            neighbours: neighbours(mesh, neighbourhood),
            faces_at: FacesAt::of(mesh),
        }
    }

    /// Where vertices are after normals were evened out once.
    pub fn round(&self, places: &[DVec3]) -> Vec<DVec3> {
        let normals = evened(self.mesh, places, &self.neighbours);
        let mut places = places.to_vec();
        for _ in 0..STEPS {
            places = brought_after(
                self.mesh,
                self.neighbourhood,
                &places,
                &normals,
                &self.faces_at,
            );
        }
        places
    }
}

/// The faces across the edges of each.
fn neighbours(mesh: &Mesh, neighbourhood: &Neighbourhood) -> Vec<Vec<u32>> {
    let mut all = vec![Vec::new(); mesh.face_count()];
    for edge in neighbourhood.edges.ids() {
        // Faces that run an edge the same way have opposite normals.
        if let [one, two] = neighbourhood.edges.sides(edge)
            && !neighbourhood.edges.is_misoriented(edge)
        {
            all[one.face.index()].push(two.face.0);
            all[two.face.index()].push(one.face.0);
        }
    }
    all
}

fn middle(mesh: &Mesh, places: &[DVec3], face: usize) -> DVec3 {
    let corners = mesh.face(FaceId::new(face));
    corners.iter().map(|v| places[v.index()]).sum::<DVec3>() / corners.len() as f64
}

/// This many faces are summed up at a time.
const PIECE: usize = 8192;

fn evened(mesh: &Mesh, places: &[DVec3], neighbours: &[Vec<u32>]) -> Vec<DVec3> {
    let faces = mesh.face_count();
    let areas: Vec<DVec3> = mapped(faces, 4096, |f| {
        vector_area_of(mesh.face(FaceId::new(f)).iter().map(|v| places[v.index()]))
    });
    let middles: Vec<DVec3> = mapped(faces, 4096, |f| middle(mesh, places, f));
    let way = |f: usize, other: u32| middles[f].distance(middles[other as usize]);
    // In pieces of a fixed size, summed up in order: the same for any number of threads.
    let pieces: Vec<(f64, usize)> = of_runs(faces, PIECE, |few| {
        let ways = few.flat_map(|f| neighbours[f].iter().map(move |&o| (f, o)));
        ways.fold((0.0, 0), |(sum, count), (f, o)| {
            (sum + way(f, o), count + 1)
        })
    });
    let (sum, count) = pieces
        .into_iter()
        .fold((0.0, 0), |all, one| (all.0 + one.0, all.1 + one.1));
    let near = (sum / count.max(1) as f64).max(f64::MIN_POSITIVE);
    mapped(faces, 4096, |f| {
        let own = areas[f].normalize_or_zero();
        let others = neighbours[f].iter().map(|&other| {
            let area = areas[other as usize];
            let normal = area.normalize_or_zero();
            let apart = normal.distance_squared(own) / (2.0 * ALIKE * ALIKE);
            let far = way(f, other).powi(2) / (2.0 * near * near);
            normal * (area.length() * (-apart - far).exp())
        });
        (areas[f] + others.sum::<DVec3>()).normalize_or(own)
    })
}

fn brought_after(
    mesh: &Mesh,
    neighbourhood: &Neighbourhood,
    places: &[DVec3],
    normals: &[DVec3],
    faces_at: &FacesAt,
) -> Vec<DVec3> {
    let middles: Vec<DVec3> = mapped(mesh.face_count(), 4096, |f| middle(mesh, places, f));
    mapped(places.len(), 4096, |v| {
        let faces = faces_at.of_vertex(VertexId::new(v));
        if neighbourhood.may[v] != May::Anywhere || faces.is_empty() {
            return places[v];
        }
        let ways = faces.iter().map(|&f| {
            let normal = normals[f.index()];
            normal * normal.dot(middles[f.index()] - places[v])
        });
        places[v] + ways.sum::<DVec3>() / faces.len() as f64
    })
}
