//! What a model carries at a place: its groups, materials and colours by nearest surface, for
//! surfaces that were made anew.

use crate::mesh::{FaceId, Model, VertexId};
use crate::parallel::{mapped, mapped_of};
use crate::spatial::{Closest, TriangleTree};
use crate::triangulate::all_triangles;
use glam::DVec3;

/// A model that is asked what it carries at a place.
pub(crate) struct Carried<'a> {
    model: &'a Model,
    tree: TriangleTree,
    triangles: Vec<[VertexId; 3]>,
    faces: Vec<FaceId>,
}

impl<'a> Carried<'a> {
    /// By a model.
    pub fn by(model: &'a Model) -> Self {
        Self::with(model, |_| ()).0
    }

    /// By a model, and something else that is made of its triangles meanwhile.
    pub fn with<T: Send>(
        model: &'a Model,
        make: impl FnOnce(&[[VertexId; 3]]) -> T + Send,
    ) -> (Self, T) {
        let (triangles, faces) = all_triangles(&model.mesh);
        let place = |v: VertexId| model.mesh.position(v);
        let corners = |i: usize| triangles[i].map(place);
        let tree = || TriangleTree::new(triangles.len(), corners);
        let (tree, made) = rayon::join(tree, || make(&triangles));
        let carried = Self {
            model,
            tree,
            triangles,
            faces,
        };
        (carried, made)
    }

    /// The model.
    pub fn model(&self) -> &'a Model {
        self.model
    }

    /// The hierarchy over its triangles.
    pub fn tree(&self) -> &TriangleTree {
        &self.tree
    }

    /// The closest point of the model, found sooner when one of its triangles is known to be near.
    pub fn closest_from(&self, at: DVec3, near: u32) -> Option<Closest> {
        self.tree.closest_from(at, near)
    }

    /// The closest point of the model nearer than `limit`.
    pub fn closest_within(&self, at: DVec3, limit: f64) -> Option<Closest> {
        self.tree.closest_within(at, limit)
    }

    /// The model's faces as triangles.
    pub fn triangles(&self) -> &[[VertexId; 3]] {
        &self.triangles
    }

    /// For every triangle, its face.
    pub fn faces(&self) -> &[FaceId] {
        &self.faces
    }

    /// The vector area of a triangle, doubled.
    pub fn normal(&self, triangle: u32) -> DVec3 {
        let [a, b, c] = self.corners(triangle);
        (b - a).cross(c - a)
    }

    /// How a place in a triangle is made up of its corners.
    pub fn shares(&self, triangle: u32, place: DVec3) -> [f64; 3] {
        shares(self.corners(triangle), place)
    }

    fn corners(&self, triangle: u32) -> [DVec3; 3] {
        self.triangles[triangle as usize].map(|v| self.model.mesh.position(v))
    }

    /// What the nearest face belongs to, as a number in the model's table of tags.
    pub fn tag(&self, at: DVec3) -> Option<u32> {
        let found = self.tree.closest(at)?.triangle as usize;
        self.tag_of(found as u32)
    }

    /// What a triangle belongs to.
    pub fn tag_of(&self, triangle: u32) -> Option<u32> {
        let tags = &self.model.attributes.tags.of_face;
        tags.get(self.faces[triangle as usize].index()).copied()
    }

    /// The colour of the nearest point; white without any.
    pub fn color(&self, at: DVec3) -> [f32; 4] {
        self.color_from(at, u32::MAX)
    }

    /// The same, found sooner when one of the model's triangles is known to be near.
    pub fn color_from(&self, at: DVec3, near: u32) -> [f32; 4] {
        let has_colors = self.model.attributes.colors.is_some();
        let found = has_colors.then(|| self.tree.closest_from(at, near));
        let color = |found: Closest| self.color_on(found.triangle, found.point);
        found.flatten().and_then(color).unwrap_or([1.0; 4])
    }

    /// The colour of a place on a triangle, by those of its corners.
    pub fn color_on(&self, triangle: u32, place: DVec3) -> Option<[f32; 4]> {
        let colors = self.model.attributes.colors.as_ref()?;
        let corners = self.triangles[triangle as usize];
        let shares = self.shares(triangle, place);
        Some([0, 1, 2, 3].map(|i| {
            let parts = corners.iter().zip(shares);
            parts
                .map(|(v, share)| colors[v.index()][i] * share as f32)
                .sum()
        }))
    }

    /// Gives a new surface the groups, materials and colours that the model has there. It is one object:
    /// it goes on from one of the model's to the next.
    pub fn give_to(&self, new: &mut Model) {
        let own = &self.model.attributes;
        let mesh = &new.mesh;
        if own.colors.is_some() {
            let colors = mapped_of(mesh.positions(), 256, |&at| self.color(at));
            new.attributes.colors = Some(colors);
        }
        if !own.tags.is_empty() {
            new.attributes.tags.of_face = mapped(mesh.face_count(), 256, |face| {
                let middle = mesh.face_middle(FaceId::new(face));
                self.tag(middle).unwrap_or(0)
            });
            new.attributes.tags.table = own.tags.table.clone();
            new.attributes.material_libraries = own.material_libraries.clone();
            new.attributes.scene = own.scene.clone();
            new.become_one_object();
        }
    }
}

/// How a place in a triangle is made up of its corners.
pub(crate) fn shares([a, b, c]: [DVec3; 3], place: DVec3) -> [f64; 3] {
    let area = (b - a).cross(c - a);
    let square = area.length_squared();
    if square <= 0.0 {
        return [1.0, 0.0, 0.0];
    }
    let share = |p: DVec3, q: DVec3| (p - place).cross(q - place).dot(area) / square;
    [share(b, c), share(c, a), share(a, b)]
}
