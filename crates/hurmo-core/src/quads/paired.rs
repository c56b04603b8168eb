//! Parts for which no map is found: pairs of even triangles, divided so that all are quads, brought onto the model.

use super::extraction::On;
use super::{pairing, placement};
use crate::attribute_transfer::Carried;
use crate::mesh::Model;
use crate::progress::Observer;
use crate::remesh::{self, RemeshError, RemeshOptions, Target};
use crate::spatial::LineTree;
use glam::DVec3;
use rustc_hash::FxHashSet;

/// Lines that turn by more than this, in degrees, have a corner there.
const TURNS: f64 = 40.0;
/// Two triangles make a quad, of the same area with sides of this many times the quad's.
const LONGER: f64 = 1.07;
/// Divided, faces have sides half as long.
const DIVIDED: f64 = 2.0;
/// Where triangles would leave the surface by more than this, in sides of quads, they are smaller.
const OFF: f64 = 0.15;
/// How far a line lies from an edge along it at most, as a share of the edge.
const SAG: f64 = 0.2;

/// Faces of pairs.
pub(super) struct Paired {
    pub places: Vec<DVec3>,
    pub faces: Vec<Vec<u32>>,
    /// Edges on feature lines, by their ends.
    pub feature_edges: Vec<[u32; 2]>,
    /// Vertices where feature lines turn.
    pub corners: Vec<u32>,
}

impl Paired {
    /// Of what is left of a model, with sides of about `edge`: all quads, or quads and triangles.
    pub fn of(
        rest: &Model,
        mut options: RemeshOptions,
        (edge, is_divided): (f64, bool),
        carried: &Carried<'_>,
        observer: &dyn Observer,
    ) -> Result<Self, RemeshError> {
        let long = LONGER * edge * if is_divided { DIVIDED } else { 1.0 };
        options.target = Target::ByVertex {
            lengths: vec![long; rest.mesh.vertex_count()],
            within: OFF * edge,
        };
        let even = remesh::even_surface(rest, &options, observer)?;
        let kept: FxHashSet<[u32; 2]> = even.feature_edges.iter().copied().collect();
        let pairs = pairing::paired(&even.positions, &even.triangles, |ends| {
            kept.contains(&ends)
        });
        let corners = turns(&even.positions, &even.feature_edges, TURNS);
        let mut made = Self {
            places: Vec::new(),
            faces: pairs,
            feature_edges: even.feature_edges.clone(),
            corners,
        };
        let on_surface = |&at: &DVec3| (at, On::Surface);
        let mut vertices: Vec<(DVec3, On)> = even.positions.iter().map(on_surface).collect();
        if is_divided {
            let divided = pairing::divided(&even.positions, &made.faces);
            vertices = divided.positions.iter().map(on_surface).collect();
            let lines = LineTree::of(remesh::kept_lines(rest, &options, long));
            made.feature_edges.clear();
            for &[a, b] in &even.feature_edges {
                if let Some(&middle) = divided.middles.get(&[a.min(b), a.max(b)]) {
                    let [from, to] = [a, b].map(|v| even.positions[v as usize]);
                    vertices[middle as usize].0 = between(&lines, from, to);
                    made.feature_edges.extend([[a, middle], [b, middle]]);
                }
            }
            made.faces = divided.quads.iter().map(|quad| quad.to_vec()).collect();
        }
        for v in made.feature_edges.as_flattened() {
            vertices[*v as usize].1 = On::Line;
        }
        let faces = made.faces.iter().map(|face| &face[..]);
        made.places = placement::placed(&vertices, faces, carried);
        Ok(made)
    }
}

/// The place in the middle between two on a line, where the line runs.
fn between(lines: &LineTree, from: DVec3, to: DVec3) -> DVec3 {
    let (middle, along) = ((from + to) / 2.0, to - from);
    let found = lines.closest_along(middle, SAG * along.length(), along);
    found.unwrap_or(middle)
}

/// Vertices at which lines turn by more than an angle in degrees.
fn turns(positions: &[DVec3], lines: &[[u32; 2]], angle: f64) -> Vec<u32> {
    let mut ways: Vec<(u32, DVec3)> = (lines.iter())
        .flat_map(|&[a, b]| {
            let way = positions[b as usize] - positions[a as usize];
            [(a, way), (b, -way)]
        })
        .collect();
    ways.sort_unstable_by_key(|(v, _)| *v);
    let straight = angle.to_radians().cos();
    let turns = (ways.chunk_by(|one, other| one.0 == other.0)).filter_map(|at| match at {
        &[(v, one), (_, other)] => {
            let bends = one.dot(-other) < straight * one.length() * other.length();
            bends.then_some(v)
        }
        _ => None,
    });
    turns.collect()
}
