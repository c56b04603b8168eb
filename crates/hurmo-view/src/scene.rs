//! What is drawn, and from where.

use glam::{DMat3, DVec3};
use hurmo_core::Mesh;
use hurmo_core::topology::Edges;
use hurmo_core::triangulate::all_triangles;

const OPEN_EDGE: [f32; 3] = [0.9, 0.45, 0.05];
const NONMANIFOLD_EDGE: [f32; 3] = [0.05, 0.1, 0.45];

/// Triangles and lines of a model.
pub struct Scene {
    pub(crate) triangles: Vec<[DVec3; 3]>,
    pub(crate) lines: Vec<([DVec3; 2], [f32; 3])>,
    /// The corners of the bounds.
    pub(crate) bounds: Option<[DVec3; 2]>,
}

impl Scene {
    /// The scene of a mesh: its faces, and lines on its open and non-manifold edges.
    pub fn of(mesh: &Mesh) -> Self {
        let (triangles, _) = all_triangles(mesh);
        let edges = Edges::of(mesh);
        let lines = edges.ids().filter_map(|edge| {
            let color = match edges.sides(edge).len() {
                1 => OPEN_EDGE,
                2 => return None,
                _ => NONMANIFOLD_EDGE,
            };
            Some((edges.ends(edge).map(|v| mesh.position(v)), color))
        });
        Self {
            triangles: triangles
                .iter()
                .map(|t| t.map(|v| mesh.position(v)))
                .collect(),
            lines: lines.collect(),
            bounds: hurmo_core::measure::bounds(mesh).map(|b| [b.min, b.max]),
        }
    }
}

/// A direction to look from, by angles in degrees, with z up.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct View {
    /// How far round, from the front (looking along +y) anticlockwise seen from above.
    pub turn: f64,
    /// How far up.
    pub rise: f64,
}

impl View {
    /// From the front, the right and above.
    pub const THREE_QUARTER: View = View {
        turn: 35.0,
        rise: 25.0,
    };

    /// Rows: right, up, and towards the eye.
    pub(crate) fn axes(self) -> DMat3 {
        let (turn, rise) = (self.turn.to_radians(), self.rise.to_radians());
        let right = DVec3::new(turn.cos(), turn.sin(), 0.0);
        let level = DVec3::new(turn.sin(), -turn.cos(), 0.0);
        let eye = level * rise.cos() + DVec3::Z * rise.sin();
        let up = eye.cross(right);
        DMat3::from_cols(right, up, eye).transpose()
    }
}
