//! What the checks look at, each worked out once.

use crate::mesh::{Mesh, Model};
use crate::topology::{Edges, Fans, Parts, Patches, Rims, fans};

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
        Self {
            model,
            mesh,
            edges,
            parts,
            rims,
            patches,
            fans,
            diagonal: crate::measure::bounds(mesh).map_or(0.0, |b| b.diagonal()),
            first_at_place,
        }
    }
}
