//! Solids that don't close: caps close them while they are cut, and go afterwards.
//!
//! ```text
//! open solids ─▶ caps over their border ─▶ cut as closed solids are ─▶ pieces of caps left out again
//! ```
//!
//! A surface and its caps have a whole winding number everywhere. Just behind a flat cap half of it is the
//! cap's and half the surface's: what is inside has a winding number over a half of the surface
//! alone (Jacobson, Kavan & Sorkine-Hornung 2013), as far as rims are flat.

use super::{BooleanOutcome, Source};
use crate::mesh::{FaceId, Model, Rebuild, VertexId};
use crate::spatial::{Border, exact_weld};
use crate::topology::Edges;

/// Solids with caps.
#[derive(Clone, Debug)]
pub struct Capped {
    /// The model, caps last.
    pub model: Model,
    /// For every face, the solid that it bounds.
    pub solids: Vec<u32>,
    /// How many edges are open, or run twice the same way, of each solid.
    pub open: Vec<usize>,
    /// The first face that is of a cap.
    first: usize,
}

impl Capped {
    /// Closes the solids of a model; for every face, the one that it bounds. `None` where all close.
    pub fn of(model: &Model, solids: &[u32], count: usize) -> Option<Self> {
        let mesh = &model.mesh;
        let place = exact_weld(mesh.positions());
        let number = |face: FaceId| Some(solids[face.index()] as usize);
        let borders = Border::of_each(mesh, &Edges::of(mesh), count, &number, &place);
        if borders.iter().all(Border::is_empty) {
            return None;
        }
        let mut like = vec![FaceId(0); count];
        for face in mesh.face_ids() {
            like[solids[face.index()] as usize] = face;
        }
        let mut rebuild = Rebuild::new(model);
        mesh.face_ids().for_each(|face| rebuild.keep(face));
        let mut solids = solids.to_vec();
        let is_single = mesh.is_single();
        for (solid, border) in borders.iter().enumerate() {
            let mut caps = border.caps(mesh.positions());
            if is_single {
                caps.round_to_single();
            }
            let names: Vec<VertexId> = (caps.positions().iter())
                .map(|&place| rebuild.new_vertex(place, VertexId(0)))
                .collect();
            for (_, corners) in caps.faces() {
                let corners: Vec<VertexId> = corners.iter().map(|v| names[v.index()]).collect();
                rebuild.new_face(like[solid], &corners);
                solids.push(solid as u32);
            }
        }
        Some(Self {
            model: rebuild.finish(),
            solids,
            open: borders.iter().map(Border::len).collect(),
            first: mesh.face_count(),
        })
    }

    /// Marks all caps, and the faces that are known to meet others: of two that meet, one is marked.
    pub fn with_caps(&self, known: &[bool]) -> Vec<bool> {
        let mut marked = known.to_vec();
        marked.resize(self.model.mesh.face_count(), true);
        marked
    }

    /// What was made of it, without what is left of the caps.
    pub fn without_caps(&self, made: &BooleanOutcome) -> BooleanOutcome {
        let is_cap = |source: &Source| source.face.index() >= self.first;
        let (model, _) = (made.model).without_faces(|face| is_cap(&made.sources[face.index()]));
        let sources = made.sources.iter().filter(|source| !is_cap(source));
        BooleanOutcome {
            model,
            sources: sources.copied().collect(),
            tally: made.tally,
            relations: made.relations.clone(),
        }
    }
}
