//! What parts make together.

use super::cleaning::QuadMesh;
use super::extraction::On;
use super::paired::Paired;
use super::placement;
use crate::attribute_transfer::Carried;
use crate::geometry::corner_angle;
use crate::mesh::{Mesh, Model, VertexId};
use crate::spatial::LineTree;
use crate::triangulate::{self, Pieces};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// A corner with a larger angle, in degrees, is flat.
const FLAT: f64 = 160.0;

/// What lies nearer to a guide than this share of a side lies on it.
const ON: f64 = 1e-6;

/// A vertex of a line lies no further off it than this share of its edges, unless it is on another.
const OFF_LINE: f64 = 0.08;

/// A mesh of quads, or mostly of quads, and what is known of it.
#[derive(Default)]
pub(super) struct Assembled {
    pub mesh: Mesh,
    pub faces_paired: usize,
    pub irregular: usize,
    /// Edges on feature lines, by their ends.
    pub feature_edges: Vec<[VertexId; 2]>,
    /// Vertices where feature lines meet, end or turn.
    pub corners: Vec<VertexId>,
    /// How many vertices were moved so that faces do not cross.
    pub moved_apart: usize,
}

impl Assembled {
    pub fn add(&mut self, mesh: &QuadMesh, carried: &Carried<'_>) {
        let vertices: Vec<(DVec3, On)> = mesh.cells.iter().map(|cell| (cell.at, cell.on)).collect();
        let places = placement::placed(&vertices, mesh.quads.iter().map(|quad| &quad[..]), carried);
        self.irregular += mesh.irregular();
        let corners = (0..)
            .zip(&mesh.cells)
            .filter(|(_, cell)| cell.on == On::Corner);
        let base = self.push(&places, mesh.quads.iter().map(|quad| &quad[..]));
        let ends = |edge: &[u32; 2]| edge.map(|v| VertexId(v + base));
        self.feature_edges
            .extend(mesh.feature_edges.iter().map(ends));
        self.corners
            .extend(corners.map(|(v, _): (u32, _)| VertexId(v + base)));
    }

    /// Adds faces; and the number of the first of their vertices.
    fn push<'f>(&mut self, places: &[DVec3], faces: impl Iterator<Item = &'f [u32]>) -> u32 {
        let base = self.mesh.vertex_count() as u32;
        places.iter().for_each(|&place| {
            self.mesh.push_vertex(place);
        });
        for face in faces {
            self.mesh
                .push_face(face.iter().map(|&v| VertexId(v + base)));
        }
        base
    }

    /// Adds pairs of triangles.
    pub fn add_paired(&mut self, paired: &Paired) {
        self.faces_paired += paired.faces.len();
        let base = self.push(&paired.places, paired.faces.iter().map(|face| &face[..]));
        let edges = paired.feature_edges.iter();
        self.feature_edges
            .extend(edges.map(|edge| edge.map(|v| VertexId(v + base))));
        let corners = paired.corners.iter();
        self.corners.extend(corners.map(|v| VertexId(v + base)));
    }

    /// Edges along guides are no feature edges: the surface need not bend there.
    pub fn drop_guides(&mut self, laid: &[[DVec3; 2]], edge: f64) {
        if laid.is_empty() {
            return;
        }
        let guides = LineTree::of(laid.to_vec());
        let is_on = |at: DVec3| guides.closest_within(at, ON * edge).is_some();
        let mesh = &self.mesh;
        self.feature_edges
            .retain(|ends| !ends.iter().all(|&v| is_on(mesh.position(v))));
    }

    /// Moves vertices of feature edges onto the lines of the model; their edges are chords of the even triangles'
    /// edges, which are chords of these. Corners stay.
    pub fn put_on(&mut self, lines: &LineTree) {
        let mut shortest: FxHashMap<VertexId, f64> = FxHashMap::default();
        for ends in &self.feature_edges {
            let [a, b] = ends.map(|v| self.mesh.position(v));
            for v in ends {
                let least = shortest.entry(*v).or_insert(f64::INFINITY);
                *least = least.min(a.distance(b));
            }
        }
        for v in &self.corners {
            shortest.remove(v);
        }
        for (v, length) in shortest {
            let at = &mut self.mesh.positions_mut()[v.index()];
            if let Some(closest) = lines.closest_within(*at, OFF_LINE * length) {
                *at = closest.point;
            }
        }
    }

    /// Cuts quads in two that are hardly convex.
    pub fn split_bad(&mut self) {
        let is_bad = |face| match self.mesh.face(face) {
            &[a, b, c, d] => is_bad([a, b, c, d].map(|v| self.mesh.position(v))),
            _ => false,
        };
        let model = Model::from(self.mesh.clone());
        let (model, _) = triangulate::some(&model, Pieces::Triangles, is_bad);
        self.mesh = model.mesh;
    }

    /// Drops vertices that no face has.
    pub fn drop_unused(&mut self) {
        let mut model = Model::from(std::mem::take(&mut self.mesh));
        let mut left = 0..;
        let used = model.mesh.used_vertices();
        let names = used
            .iter()
            .map(|used| used.then(|| left.next().map(VertexId))?);
        let names: Vec<Option<VertexId>> = names.collect();
        model.drop_unused_vertices();
        self.mesh = model.mesh;
        let new = |v: VertexId| names[v.index()];
        let edges = self.feature_edges.iter();
        self.feature_edges = edges
            .filter_map(|&[a, b]| Some([new(a)?, new(b)?]))
            .collect();
        self.corners = self.corners.iter().filter_map(|&v| new(v)).collect();
    }
}

/// Whether a corner of a quad is flat, or looks another way than the quad.
fn is_bad(points: [DVec3; 4]) -> bool {
    let facing = (points[2] - points[0]).cross(points[3] - points[1]);
    (0..4).any(|i| {
        let [before, here, after] = [points[(i + 3) % 4], points[i], points[(i + 1) % 4]];
        let own = (after - here).cross(before - here);
        own.dot(facing) <= 0.0 || corner_angle(here, [before, after]).to_degrees() > FLAT
    })
}
