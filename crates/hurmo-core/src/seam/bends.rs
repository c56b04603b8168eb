//! How a surface bends along a seam, and how the seam itself curves.

use super::line::Seam;
use crate::measure::vector_area;
use crate::mesh::{Mesh, VertexId};
use crate::topology::FacesAt;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// Values are evened out along the seam this many times.
const EVENED: usize = 4;
/// Bends whose half angle has a smaller tangent are too flat to measure a radius by.
const MEASURABLE: f64 = 0.2;

/// Vertices of a seam, each with those next to it.
type Beside = FxHashMap<VertexId, Vec<VertexId>>;

/// How the surface bends at the vertices of a seam.
pub(super) struct Bends {
    /// The tangent of half the bend: above nought where the surface is concave there.
    pub tangents: FxHashMap<VertexId, f64>,
    /// How the seam itself curves: towards its middle, by one over its radius.
    pub curves: FxHashMap<VertexId, DVec3>,
}

impl Bends {
    /// Of the seam between solids; for every face, the one that it is of.
    pub fn of(mesh: &Mesh, solids: &[u32], seam: &Seam) -> Self {
        let beside = seam.beside();
        let mut sides: FxHashMap<VertexId, Vec<(u32, DVec3, DVec3)>> = FxHashMap::default();
        let faces_at = FacesAt::of(mesh);
        for &vertex in beside.keys() {
            let here = mesh.position(vertex);
            let found = sides.entry(vertex).or_default();
            for &face in faces_at.of_vertex(vertex) {
                let solid = solids[face.index()];
                let area = vector_area(mesh, face);
                let way = (mesh.face_middle(face) - here).normalize_or_zero() * area.length();
                match found.iter_mut().find(|side| side.0 == solid) {
                    Some(side) => (side.1, side.2) = (side.1 + area, side.2 + way),
                    None => found.push((solid, area, way)),
                }
            }
        }
        let mut tangents: FxHashMap<VertexId, f64> = sides
            .iter()
            .map(|(&vertex, sides)| (vertex, tangent(sides)))
            .collect();
        let mut curves: FxHashMap<VertexId, DVec3> = beside
            .iter()
            .map(|(&v, others)| (v, curve(mesh, v, others)))
            .collect();
        for _ in 0..EVENED {
            tangents = evened(&tangents, &beside);
            curves = evened(&curves, &beside);
        }
        Self { tangents, curves }
    }

    /// For every edge of the seam, the tangent of half the bend there, the greater of its ends'.
    pub fn of_edges(&self, seam: &Seam) -> Vec<f64> {
        let at = |v: &VertexId| self.tangents[v].abs();
        seam.edges.iter().map(|[a, b]| at(a).max(at(b))).collect()
    }

    /// The least, the median and the greatest radius that seams have got.
    pub fn radii(&self, before: &Mesh, after: &Mesh) -> Option<[f64; 3]> {
        let radius = |(&v, &tangent): (&VertexId, &f64)| {
            let went = before.position(v).distance(after.position(v));
            // The arc's middle lies R (1/cos(β/2) - 1) from the edge that it rounds.
            let share = (1.0 + tangent * tangent).sqrt() - 1.0;
            (went > 0.0 && tangent.abs() > MEASURABLE).then(|| went / share)
        };
        let mut radii: Vec<f64> = self.tangents.iter().filter_map(radius).collect();
        radii.sort_unstable_by(f64::total_cmp);
        let (least, most) = (*radii.first()?, *radii.last()?);
        Some([least, radii[radii.len() / 2], most])
    }
}

/// The tangent of half the bend between the sides at a vertex that bend the most; above nought where
/// they are concave. A side: its solid, its vector area, and the way to it.
fn tangent(sides: &[(u32, DVec3, DVec3)]) -> f64 {
    let mut most: f64 = 0.0;
    for (i, one) in sides.iter().enumerate() {
        for other in &sides[i + 1..] {
            let [n, m] = [one, other].map(|side| side.1.normalize_or_zero());
            let half = n.angle_between(m) / 2.0;
            let concave = (one.2.dot(m) + other.2.dot(n)).signum();
            let tangent = half.min(1.5).tan() * concave;
            if half.is_finite() && tangent.abs() > most.abs() {
                most = tangent;
            }
        }
    }
    most
}

/// How a line curves at a vertex with two neighbours on it.
fn curve(mesh: &Mesh, vertex: VertexId, others: &[VertexId]) -> DVec3 {
    let &[a, b] = others else {
        return DVec3::ZERO;
    };
    let here = mesh.position(vertex);
    let [p, q] = [a, b].map(|v| mesh.position(v) - here);
    let turned = p.normalize_or_zero() + q.normalize_or_zero();
    turned * 2.0 / (p.length() + q.length()).max(f64::MIN_POSITIVE)
}

/// Values along lines, each with its neighbours' taken in.
fn evened<T>(values: &FxHashMap<VertexId, T>, beside: &Beside) -> FxHashMap<VertexId, T>
where
    T: Copy + std::ops::Add<Output = T> + std::ops::Div<f64, Output = T>,
{
    let mean = |v: &VertexId| {
        let others = &beside[v];
        let all = others
            .iter()
            .fold(values[v], |sum, other| sum + values[other]);
        all / (others.len() + 1) as f64
    };
    values.keys().map(|v| (*v, mean(v))).collect()
}
