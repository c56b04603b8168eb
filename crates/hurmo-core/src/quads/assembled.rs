//! What parts make together.

use super::cleaning::QuadMesh;
use super::{pairing, placement};
use crate::attribute_transfer::Carried;
use crate::mesh::{Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::remesh::{self, RemeshError, RemeshOptions};
use glam::DVec3;
use rustc_hash::FxHashSet;

/// A mesh of quads, and what is known of it.
#[derive(Default)]
pub(super) struct Assembled {
    pub mesh: Mesh,
    pub quads_paired: usize,
    pub irregular: usize,
    pub feature_edges: usize,
    /// Faces that cross others where the model has no crossings.
    pub crossing: usize,
}

impl Assembled {
    pub fn add(&mut self, mesh: &QuadMesh, carried: &Carried<'_>) {
        let places = placement::placed(mesh, carried);
        self.irregular += mesh.irregular();
        self.feature_edges += mesh.feature_edges.len();
        self.push(&places, &mesh.quads);
    }

    fn push(&mut self, places: &[DVec3], quads: &[[u32; 4]]) {
        let base = self.mesh.vertex_count() as u32;
        places.iter().for_each(|&place| {
            self.mesh.push_vertex(place);
        });
        for quad in quads {
            self.mesh.push_face(quad.map(|v| VertexId(v + base)));
        }
    }

    /// Adds what is left of a model as divided pairs of triangles.
    pub fn add_paired(
        &mut self,
        rest: &Model,
        options: &RemeshOptions,
        carried: &Carried<'_>,
        observer: &dyn Observer,
    ) -> Result<(), RemeshError> {
        let coarse = remesh::even_surface(rest, options, observer)?;
        let kept: FxHashSet<[u32; 2]> = coarse.feature_edges.iter().copied().collect();
        let made = pairing::divided(&coarse.positions, &coarse.triangles, |ends| {
            kept.contains(&ends)
        });
        let places: Vec<DVec3> = (made.positions.iter().enumerate())
            .map(|(v, &at)| match v < made.corners {
                true => at,
                false => carried
                    .tree()
                    .closest(at)
                    .map_or(at, |closest| closest.point),
            })
            .collect();
        self.quads_paired += made.quads.len();
        self.push(&places, &made.quads);
        Ok(())
    }
}
