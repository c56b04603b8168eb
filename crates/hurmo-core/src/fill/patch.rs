//! A surface over a border on its way into a model.

use super::border::{Border, chord};
use super::height_field::Look;
use crate::mesh::VertexId;
use glam::DVec3;

/// A patch that closes a border. Its vertices are first those of the border, then new ones.
#[derive(Clone, Debug)]
pub(super) struct Patch {
    pub points: Vec<DVec3>,
    /// Where they lie in the plainest patch, over the border alone.
    pub lid: Vec<DVec3>,
    pub triangles: Vec<[u32; 3]>,
    /// How its lid is seen as a height field, if it is one.
    pub look: Option<Look>,
    /// Whether it is to stay a height field.
    pub is_steady: bool,
    /// What the faces are where they are to be quads, of which the triangles are the halves.
    pub quads: Vec<[u32; 4]>,
    /// For every vertex, the place on the border that it takes after.
    pub like: Vec<u32>,
    pub border: usize,
    /// For every vertex, how long edges at it should be; empty when it isn't to be refined.
    pub scales: Vec<f64>,
    /// How much longer a new vertex's scale is for each step away from the border.
    pub growth: f64,
}

impl Patch {
    /// The faces that it is to become.
    pub fn faces(&self) -> impl Iterator<Item = &[u32]> {
        let quads = self.quads.iter().map(|quad| &quad[..]);
        let triangles = match self.quads.is_empty() {
            true => &self.triangles[..],
            false => &[],
        };
        quads.chain(triangles.iter().map(|triangle| &triangle[..]))
    }

    /// How many these are.
    pub fn face_count(&self) -> usize {
        match self.quads.len() {
            0 => self.triangles.len(),
            count => count,
        }
    }

    /// A patch over its border only.
    pub fn over(points: Vec<DVec3>, triangles: Vec<[u32; 3]>) -> Self {
        Self {
            like: (0..points.len() as u32).collect(),
            border: points.len(),
            lid: points.clone(),
            points,
            triangles,
            quads: Vec::new(),
            look: None,
            is_steady: false,
            scales: Vec::new(),
            growth: 0.0,
        }
    }

    /// Its edges between vertices of the border.
    pub fn chords(&self, border: &Border) -> Vec<[VertexId; 2]> {
        let count = self.border as u32;
        let sides = self.faces().flat_map(|face| {
            let next = face.iter().cycle().skip(1);
            face.iter().zip(next).map(|(&a, &b)| [a, b])
        });
        sides
            .filter(|ends| ends.iter().all(|&v| v < count))
            .filter(|[a, b]| (a + 1) % count != *b && (b + 1) % count != *a)
            .map(|ends| ends.map(|v| border.vertices[v as usize]))
            .map(|[a, b]| chord(a, b))
            .collect()
    }

    /// How it is to be seen as a height field, whatever happens to it.
    pub fn steady_look(&self) -> Option<Look> {
        self.look.filter(|_| self.is_steady)
    }

    /// Moves the new vertices; a steady one's only up and down, which folds nothing.
    pub fn move_to(&mut self, places: &[DVec3]) {
        let look = self.steady_look();
        for (old, new) in self.points[self.border..].iter_mut().zip(places) {
            match look {
                Some(look) => old[look.axis] = new[look.axis],
                None => *old = *new,
            }
        }
    }

    /// Adds a vertex that takes after a place on the border, where it is to stay.
    pub fn push(&mut self, point: DVec3, like: u32) {
        self.points.push(point);
        self.lid.push(point);
        self.like.push(like);
    }

    /// The size of one of its triangles.
    pub fn area(&self, triangle: [u32; 3]) -> f64 {
        let corners = triangle.map(|v| self.points[v as usize]);
        crate::geometry::vector_area_of(corners.into_iter()).length()
    }

    /// How far a new vertex lies from the border's plane at most.
    pub fn rise(&self) -> f64 {
        let (border, new) = self.points.split_at(self.border);
        let normal = crate::geometry::vector_area_of(border.iter().copied()).normalize_or_zero();
        let middle = border.iter().sum::<DVec3>() / border.len().max(1) as f64;
        let heights = new.iter().map(|p| (*p - middle).dot(normal).abs());
        heights.fold(0.0, f64::max)
    }
}
