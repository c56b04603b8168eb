//! A chart flattened by a least squares conformal map (Lévy, Petitjean, Ray & Maillot 2002): the map of
//! the plane whose angles are, all in all, least changed, with two vertices held where they are.
//!
//! Written with complex numbers, a triangle's angles are kept if the sum of its sides, each times the
//! place of the corner across, is nought; the squares of these sums, over the triangle's area, are made
//! least.

use crate::measure::vector_area;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::sparse::{Rows, solved};
use crate::triangulate::polygon;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;

/// Faces that are flattened together.
#[derive(Clone, Debug)]
pub struct Chart {
    /// The faces.
    pub faces: Vec<FaceId>,
    /// For every corner of each, which place.
    pub corners: Vec<u32>,
    /// The places, in the plane.
    pub places: Vec<DVec2>,
    /// The vertex of each place.
    pub vertices: Vec<VertexId>,
    /// The faces as triangles over the places, without those that have no area.
    pub triangles: Vec<[u32; 3]>,
    /// By triangle, which of the faces it is of.
    pub of: Vec<u32>,
}

/// Flattens faces; at the scale that they have in space, if no face folds.
pub fn flat(mesh: &Mesh, faces: &[FaceId]) -> Chart {
    let mut chart = Chart::of(mesh, faces);
    chart.project(mesh);
    if chart.triangles.len() > 1
        && let Some(places) = chart.conformal(mesh)
    {
        chart.places = places;
        chart.scale_to(mesh);
    }
    chart
}

impl Chart {
    fn of(mesh: &Mesh, faces: &[FaceId]) -> Self {
        let mut names: FxHashMap<VertexId, u32> = FxHashMap::default();
        let mut chart = Self {
            faces: faces.to_vec(),
            corners: Vec::new(),
            places: Vec::new(),
            vertices: Vec::new(),
            triangles: Vec::new(),
            of: Vec::new(),
        };
        for (number, &face) in faces.iter().enumerate() {
            let first = chart.corners.len();
            for &vertex in mesh.face(face) {
                let next = chart.vertices.len() as u32;
                let place = *names.entry(vertex).or_insert(next);
                if place == next {
                    chart.vertices.push(vertex);
                }
                chart.corners.push(place);
            }
            let own = chart.corners[first..].to_vec();
            if own.len() < 3 || mesh.is_collapsed(face) {
                continue;
            }
            let points: Vec<DVec3> = mesh.face_points(face).collect();
            for triangle in polygon(&points) {
                let corners = triangle.map(|corner| own[corner as usize]);
                chart.triangles.push(corners);
                chart.of.push(number as u32);
            }
        }
        let scale = chart.longest(mesh);
        let area = |t: &[u32; 3]| {
            let [a, b, c] = chart.points(mesh, *t);
            (b - a).cross(c - a).length()
        };
        let least = 1e-12 * scale * scale;
        let both = chart.triangles.iter().zip(&chart.of);
        (chart.triangles, chart.of) = both.filter(|(t, _)| area(t) > least).unzip();
        chart
    }

    /// The corners of a triangle in space.
    pub fn points(&self, mesh: &Mesh, triangle: [u32; 3]) -> [DVec3; 3] {
        triangle.map(|place| mesh.position(self.vertices[place as usize]))
    }

    fn longest(&self, mesh: &Mesh) -> f64 {
        let points = self.vertices.iter().map(|&v| mesh.position(v));
        crate::geometry::Bounds::of(points).map_or(0.0, |bounds| bounds.diagonal())
    }

    /// Seen along the mean of the faces' normals.
    fn project(&mut self, mesh: &Mesh) {
        let areas = self.faces.iter().map(|&face| vector_area(mesh, face));
        let flat = crate::predicates::flatten(areas.sum());
        let first = self
            .vertices
            .first()
            .map_or(DVec3::ZERO, |&v| mesh.position(v));
        let places = self
            .vertices
            .iter()
            .map(|&v| flat(mesh.position(v) - first));
        self.places = places.collect();
    }

    /// The conformal map; none where there is none of its own.
    fn conformal(&self, mesh: &Mesh) -> Option<Vec<DVec2>> {
        let count = self.places.len();
        let mut is_used = vec![false; count];
        self.triangles
            .iter()
            .flatten()
            .for_each(|&place| is_used[place as usize] = true);
        let [p, q] = self.farthest(&is_used)?;
        let held = |place: usize| place == p || place == q || !is_used[place];
        let mut row = vec![u32::MAX; count];
        let free = (0..count).filter(|&place| !held(place));
        let mut rows = 0;
        for place in free {
            row[place] = rows;
            rows += 2;
        }
        let mut terms: Vec<(u32, u32, f64)> = Vec::new();
        let mut right = vec![DVec3::ZERO; rows as usize];
        let size = self.places[p].distance(self.places[q]);
        for &triangle in &self.triangles {
            let (sides, area) = sides(self.points(mesh, triangle), size);
            for (i, &a) in triangle.iter().enumerate() {
                let a = row[a as usize];
                if a == u32::MAX {
                    continue;
                }
                for (k, &b) in triangle.iter().enumerate() {
                    // The conjugate of the one times the other.
                    let (s, t) = (sides[i], sides[k]);
                    let real = s.dot(t) / area;
                    let imaginary = s.perp_dot(t) / area;
                    let block = [
                        (0, 0, real),
                        (0, 1, -imaginary),
                        (1, 0, imaginary),
                        (1, 1, real),
                    ];
                    match row[b as usize] {
                        u32::MAX => {
                            let place = self.places[b as usize] / size;
                            right[a as usize].x -= real * place.x - imaginary * place.y;
                            right[a as usize + 1].x -= imaginary * place.x + real * place.y;
                        }
                        b => {
                            let lower = block.into_iter().map(|(i, k, term)| (a + i, b + k, term));
                            terms.extend(lower.filter(|(row, column, _)| row >= column));
                        }
                    }
                }
            }
        }
        let found = solved(&Rows::summed(rows as usize, terms), &right)?;
        let places = (0..count).map(|place| match row[place] {
            u32::MAX => self.places[place],
            row => {
                let [u, v] = [row, row + 1].map(|row| found[row as usize].x);
                DVec2::new(u, v) * size
            }
        });
        Some(places.collect())
    }

    /// Two places far from each other: the ends of the longest way through all, seen along one of some
    /// directions.
    fn farthest(&self, is_used: &[bool]) -> Option<[usize; 2]> {
        let used = || (0..self.places.len()).filter(|&place| is_used[place]);
        let ends = (0..8).filter_map(|i| {
            let along = DVec2::from_angle(std::f64::consts::PI * f64::from(i) / 8.0);
            let by = |a: &usize, b: &usize| {
                let [p, q] = [a, b].map(|&place| self.places[place].dot(along));
                p.total_cmp(&q).then(b.cmp(a))
            };
            Some([used().min_by(by)?, used().max_by(by)?])
        });
        let length = |[a, b]: &[usize; 2]| self.places[*a].distance_squared(self.places[*b]);
        let found = ends.max_by(|one, other| length(one).total_cmp(&length(other)))?;
        (length(&found) > 0.0).then_some(found)
    }

    /// Its area in the plane.
    pub fn area(&self) -> f64 {
        let twice = self.triangles.iter().map(|t| {
            let [a, b, c] = t.map(|place| self.places[place as usize]);
            (b - a).perp_dot(c - a).abs()
        });
        twice.sum::<f64>() / 2.0
    }

    /// The far corner of its box, where the near one is nought.
    pub fn extent(&self) -> DVec2 {
        self.places.iter().copied().fold(DVec2::ZERO, DVec2::max)
    }

    /// Scales it so that it has the area in the plane that it has in space.
    fn scale_to(&mut self, mesh: &Mesh) {
        let wide = self.triangles.iter().map(|&triangle| {
            let [a, b, c] = self.points(mesh, triangle);
            (b - a).cross(c - a).length() / 2.0
        });
        let scale = (wide.sum::<f64>() / self.area()).sqrt();
        if scale.is_finite() {
            self.places.iter_mut().for_each(|place| *place *= scale);
        }
    }
}

/// The sides of a triangle in its own plane, each across from its corner, and twice its area; lengths
/// as shares of a size.
fn sides([a, b, c]: [DVec3; 3], size: f64) -> ([DVec2; 3], f64) {
    let (u, v) = ((b - a) / size, (c - a) / size);
    let x = u.normalize_or_zero();
    let y = u.cross(v).cross(u).normalize_or_zero();
    let [a, b, c] = [
        DVec2::ZERO,
        DVec2::new(u.length(), 0.0),
        DVec2::new(v.dot(x), v.dot(y)),
    ];
    (
        [c - b, a - c, b - a],
        (b - a).perp_dot(c - a).max(f64::MIN_POSITIVE),
    )
}
