//! Faces that meet others where those of the model do not.

use crate::mesh::{FaceId, Mesh};
use crate::spatial::{Contacts, TriangleTree};
use crate::triangulate::all_triangles;
use glam::DVec3;
use std::cell::OnceCell;

/// Where the faces of a model meet others, to tell what is new.
pub(super) struct Crossings<'m> {
    model: &'m Mesh,
    of_model: OnceCell<TriangleTree>,
    /// What is no further off a crossing of the model is none that is new, in model units.
    reach: f64,
}

/// Faces that meet others where those of the model do not.
pub(super) struct NewCrossings {
    pub faces: Vec<FaceId>,
    contacts: Contacts,
}

impl<'m> Crossings<'m> {
    pub fn of(model: &'m Mesh, reach: f64) -> Self {
        Self {
            model,
            of_model: OnceCell::new(),
            reach,
        }
    }

    /// Those of a mesh that was made of the model.
    pub fn new_in(&self, mesh: &Mesh) -> NewCrossings {
        let all: Vec<FaceId> = mesh.face_ids().collect();
        let contacts = Contacts::among(mesh, &all, |_, _| false);
        let is_new = |face: &FaceId| {
            let of_model = self.of_model.get_or_init(|| crossing_triangles(self.model));
            let closest = of_model.closest_within(mesh.face_middle(*face), self.reach);
            closest.is_none()
        };
        let touching = all.into_iter().filter(|&face| contacts.touches(face));
        NewCrossings {
            faces: touching.filter(is_new).collect(),
            contacts,
        }
    }
}

impl NewCrossings {
    /// A face that is the same for all that a chain of crossings joins.
    pub fn first_in_chain(&self, face: FaceId) -> FaceId {
        self.contacts.first_in_chain(face)
    }
}

/// The faces of a model that meet others, as triangles.
fn crossing_triangles(mesh: &Mesh) -> TriangleTree {
    let all: Vec<FaceId> = mesh.face_ids().collect();
    let contacts = Contacts::among(mesh, &all, |_, _| false);
    let (triangles, faces) = all_triangles(mesh);
    let crossing = triangles
        .iter()
        .zip(faces)
        .filter(|(_, face)| contacts.touches(*face));
    let crossing: Vec<[DVec3; 3]> = crossing
        .map(|(triangle, _)| triangle.map(|v| mesh.position(v)))
        .collect();
    TriangleTree::new(crossing.len(), |t| crossing[t])
}
