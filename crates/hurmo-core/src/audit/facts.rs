//! The measures of a model.

use super::MeshAnalysis;
use crate::geometry::Bounds;
use crate::measure::{self};
use crate::shading::hard_edges;
use crate::uv::{Islands, tile_used};
use std::collections::{BTreeMap, BTreeSet};

/// How many of what, and how big.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct MeshFacts {
    /// Vertices, also those in no face.
    pub vertices: usize,
    /// Distinct edges of faces that repeat no vertex.
    pub edges: usize,
    /// Faces of any number of sides.
    pub faces: usize,
    /// Faces of three sides.
    pub triangles: usize,
    /// Faces of four sides.
    pub quads: usize,
    /// Faces of five or more sides.
    pub ngons: usize,
    /// Connected components.
    pub parts: usize,
    /// Closed chains of open edges.
    pub rims: usize,
    /// Distinct materials that faces are given.
    pub materials: usize,
    /// Sum of face areas, in square units.
    pub area: f64,
    /// Signed volume in cubic units: what a watertight model encloses. Of an open one it is
    /// taken about the origin, and says little.
    pub volume: f64,
    /// Diagonal of the bounds.
    pub diagonal: f64,
    /// Bounds of the vertices that faces use; null without faces.
    pub bounds: Option<Bounds>,
    /// No open, non-manifold or misoriented edge, and at least one face.
    pub watertight: bool,
    /// How it lies in its textures; null without UVs.
    pub uvs: Option<UvFacts>,
    /// Edges at which the normals of the two faces differ; null without normals.
    pub hard_edges: Option<usize>,
}

/// How a model lies in its textures.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct UvFacts {
    /// Which set of UVs this is said of, from 1.
    pub set: usize,
    /// How many sets there are.
    pub sets: usize,
    /// Faces with UVs at all corners.
    pub faces: usize,
    /// Pieces that hang together in the texture.
    pub islands: usize,
    /// The share of the tile that they lie on, sampled; of several materials the mean.
    pub tile_used: f64,
}

impl UvFacts {
    fn of(analysis: &MeshAnalysis<'_>, set: usize) -> Option<Self> {
        let layout = analysis
            .layout
            .as_ref()
            .filter(|layout| !layout.is_empty())?;
        let texture = super::checks::textures(analysis.model);
        let faces = analysis.mesh.face_ids();
        let mut of_material: BTreeMap<u32, Vec<usize>> = BTreeMap::new();
        for t in 0..layout.len() {
            let material = texture(layout.face(t).index());
            of_material.entry(material).or_default().push(t);
        }
        let used = of_material
            .values()
            .map(|triangles| tile_used(layout, triangles.iter().copied()));
        Some(Self {
            set: set + 1,
            sets: analysis.model.attributes.uv_sets().count(),
            islands: Islands::of(layout, &analysis.edges).count,
            tile_used: used.sum::<f64>() / of_material.len() as f64,
            faces: faces.filter(|&face| layout.area(face).is_some()).count(),
        })
    }
}

impl MeshFacts {
    /// Measures an analysed model, whose UVs of this set are looked at, from 0.
    pub fn of(analysis: &MeshAnalysis<'_>, uv_set: usize) -> Self {
        let mesh = analysis.mesh;
        let mut by_sides = [0usize; 3];
        for (_, face) in mesh.faces() {
            match face.len() {
                3 => by_sides[0] += 1,
                4 => by_sides[1] += 1,
                5.. => by_sides[2] += 1,
                _ => {}
            }
        }
        let edges = &analysis.edges;
        let sound = edges
            .ids()
            .all(|e| edges.sides(e).len() == 2 && !edges.is_misoriented(e));
        let area = analysis.areas.iter().sum();
        let volume = analysis
            .bounds
            .map_or(0.0, |bounds| measure::volume_about(mesh, &bounds, area));
        Self {
            vertices: mesh.vertex_count(),
            edges: edges.len(),
            faces: mesh.face_count(),
            triangles: by_sides[0],
            quads: by_sides[1],
            ngons: by_sides[2],
            parts: analysis.parts.len(),
            rims: analysis.rims.closed.len(),
            materials: materials(analysis.model),
            area,
            volume,
            diagonal: analysis.diagonal,
            bounds: analysis.bounds,
            watertight: sound && mesh.face_count() > 0,
            uvs: UvFacts::of(analysis, uv_set),
            hard_edges: analysis
                .model
                .attributes
                .normals
                .as_ref()
                .map(|normals| hard_edges(mesh, edges, normals)),
        }
    }
}

pub(super) fn materials(model: &crate::mesh::Model) -> usize {
    let tags = model.attributes.tags.used();
    let names: BTreeSet<&str> = tags.filter_map(|tag| tag.material.as_deref()).collect();
    names.len()
}
