//! What the checks look at, each worked out once.

use crate::measure::{Bounds, vector_area};
use crate::mesh::{FaceId, Mesh, Model};
use crate::topology::{Edges, Fans, Parts, Patches, Rims, fans};
use rayon::prelude::*;

/// A model with its connectivity.
pub struct Survey<'m> {
    /// The model.
    pub model: &'m Model,
    /// Its mesh.
    pub mesh: &'m Mesh,
    /// Its edges.
    pub edges: Edges,
    /// Its parts.
    pub parts: Parts,
    /// Its rims.
    pub rims: Rims,
    /// Its patches, and which faces must turn.
    pub patches: Patches,
    /// The fans round every vertex.
    pub fans: Fans,
    /// Every face's area.
    pub areas: Vec<f64>,
    /// The bounds of the vertices that faces use.
    pub bounds: Option<Bounds>,
    /// The diagonal of the bounds of the vertices that faces use; 0 without faces.
    pub diagonal: f64,
    /// The exact-position weld: the first vertex at each vertex's place.
    pub first_at_place: Vec<crate::mesh::VertexId>,
}

impl<'m> Survey<'m> {
    /// Works out the connectivity of a model.
    pub fn of(model: &'m Model) -> Self {
        let mesh = &model.mesh;
        let (edges, (parts, first_at_place)) = rayon::join(
            || Edges::of(mesh),
            || {
                let parts = Parts::of(mesh);
                (parts, crate::spatial::exact_weld(mesh.positions()))
            },
        );
        let (patches, (fans, rims)) = rayon::join(
            || Patches::of(mesh, &edges),
            || (fans(mesh, &edges), Rims::of(mesh, &edges)),
        );
        let areas = (0..mesh.face_count())
            .into_par_iter()
            .with_min_len(4096)
            .map(|face| vector_area(mesh, FaceId::new(face)).length())
            .collect();
        let bounds = crate::measure::bounds(mesh);
        Self {
            model,
            mesh,
            edges,
            parts,
            rims,
            patches,
            fans,
            areas,
            bounds,
            diagonal: bounds.map_or(0.0, |b| b.diagonal()),
            first_at_place,
        }
    }
}
