//! A model in the making: faces that can still be copied, turned and taken away.

use super::looks;
use glam::{DMat4, DVec2, DVec3};
use hurmo_core::mesh::{CornerLayer, FaceTags, NO_VALUE, Tag};
use hurmo_core::{Mesh, Model, VertexId};
use std::sync::Arc;

/// Positions, faces with tags, and UVs where there are some.
#[derive(Default)]
pub(super) struct Draft {
    pub positions: Vec<DVec3>,
    pub faces: Vec<Face>,
    uvs: Vec<DVec2>,
    tags: Vec<Tag>,
}

/// One face.
#[derive(Clone)]
pub(super) struct Face {
    pub vertices: Vec<u32>,
    uvs: Vec<u32>,
    tag: u32,
}

impl Draft {
    /// Adds a shape as an object of its own, of some material; returns its range of faces.
    pub fn add(
        &mut self,
        shape: &Mesh,
        place: DMat4,
        object: &str,
        material: &str,
    ) -> std::ops::Range<usize> {
        let base = self.positions.len() as u32;
        let moved = shape.positions().iter().map(|p| place.transform_point3(*p));
        self.positions.extend(moved);
        self.tags.push(Tag {
            object: Some(object.into()),
            material: Some(material.into()),
            ..Tag::default()
        });
        let tag = self.tags.len() as u32 - 1;
        let first = self.faces.len();
        self.faces.extend(shape.faces().map(|(_, corners)| Face {
            vertices: corners.iter().map(|v| v.0 + base).collect(),
            uvs: Vec::new(),
            tag,
        }));
        first..self.faces.len()
    }

    /// Gives faces a UV at each corner, by face and corner number.
    pub fn unwrap(&mut self, faces: std::ops::Range<usize>, uv: impl Fn(usize, usize) -> DVec2) {
        let first = faces.start;
        for f in faces {
            for corner in 0..self.faces[f].vertices.len() {
                self.faces[f].uvs.push(self.uvs.len() as u32);
                self.uvs.push(uv(f - first, corner));
            }
        }
    }

    /// Plants copies of faces.
    pub fn double(&mut self, faces: impl IntoIterator<Item = usize>) {
        for face in faces {
            self.faces.push(self.faces[face].clone());
        }
    }

    /// Plants faces that look the wrong way.
    pub fn turn(&mut self, faces: impl IntoIterator<Item = usize>) {
        for face in faces {
            self.faces[face].vertices.reverse();
            self.faces[face].uvs.reverse();
        }
    }

    /// Plants vertices in no face.
    pub fn stray(&mut self, positions: impl IntoIterator<Item = DVec3>) {
        self.positions.extend(positions);
    }

    /// Plants an unwelded seam: some faces get vertices of their own wherever they use one of
    /// these.
    pub fn unweld(&mut self, vertices: &[u32], faces: impl IntoIterator<Item = usize>) {
        let copies: Vec<u32> = vertices
            .iter()
            .map(|&v| {
                self.positions.push(self.positions[v as usize]);
                self.positions.len() as u32 - 1
            })
            .collect();
        for face in faces {
            for vertex in &mut self.faces[face].vertices {
                if let Some(i) = vertices.iter().position(|v| v == vertex) {
                    *vertex = copies[i];
                }
            }
        }
    }

    /// The model.
    pub fn finish(self) -> Model {
        let mut mesh = Mesh::default();
        for position in self.positions {
            mesh.push_vertex(position);
        }
        let mut index = Vec::new();
        for face in &self.faces {
            mesh.push_face(face.vertices.iter().copied().map(VertexId));
            match face.uvs.is_empty() {
                true => index.extend(face.vertices.iter().map(|_| NO_VALUE)),
                false => index.extend(&face.uvs),
            }
        }
        let mut model = Model::from(mesh);
        if !self.uvs.is_empty() {
            model.attributes.uvs = Some(CornerLayer {
                values: self.uvs,
                index,
            });
        }
        model.attributes.tags = FaceTags {
            table: self.tags,
            of_face: self.faces.iter().map(|face| face.tag).collect(),
        };
        let names = model.attributes.tags.table.iter();
        let scene = looks::scene(names.filter_map(|tag| tag.material.as_deref()));
        model.attributes.scene = Some(Arc::new(scene));
        model
    }
}
