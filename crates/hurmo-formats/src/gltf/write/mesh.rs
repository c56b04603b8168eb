//! Faces as primitives: a vertex for everything that differs at a corner.

use super::bytes::Buffer;
use glam::{DAffine3, DMat3, DVec2, DVec3};
use hurmo_core::mesh::{CornerLayer, NO_VALUE};
use hurmo_core::paint;
use hurmo_core::triangulate::polygon;
use hurmo_core::{FaceId, Model};
use serde_json::{Value, json};
use std::collections::BTreeMap;

const NOBODY: u32 = u32::MAX;

/// Makes primitives of faces.
pub struct Meshes<'a> {
    model: &'a Model,
    /// For every vertex of the model the last of the primitive's vertices at it.
    last: Vec<u32>,
}

/// What corners have besides a place.
struct Layers<'a> {
    uv_sets: Vec<&'a CornerLayer<DVec2>>,
    normals: Option<&'a CornerLayer<DVec3>>,
}

/// One of a primitive's vertices.
struct Vertex {
    vertex: u32,
    /// A corner that it stands for, and its UV of the first set.
    corner: u32,
    uv: u32,
    normal: u32,
    /// The one before it at the same vertex of the model.
    before: u32,
}

impl<'a> Meshes<'a> {
    /// For the faces of a model.
    pub fn of(model: &'a Model) -> Self {
        Self {
            model,
            last: vec![NOBODY; model.mesh.vertex_count()],
        }
    }

    /// Primitives of some faces, in the space that the model's is a placement of: one, or several
    /// where some faces have UVs or normals and others have none.
    pub fn primitives(
        &mut self,
        faces: &[FaceId],
        placement: DAffine3,
        buffer: &mut Buffer,
    ) -> Vec<Value> {
        let attributes = &self.model.attributes;
        let uv_sets: Vec<&CornerLayer<DVec2>> = attributes.uv_sets().collect();
        let normals = attributes.normals.as_ref();
        let mut kinds: BTreeMap<(usize, bool), Vec<FaceId>> = BTreeMap::new();
        for &face in faces {
            let kind = (
                uv_sets_of(self.model, face),
                normals.is_some_and(|layer| has_all(self.model, layer, face)),
            );
            kinds.entry(kind).or_default().push(face);
        }
        let kinds = kinds.into_iter();
        kinds
            .map(|((sets, has_normals), faces)| {
                let layers = Layers {
                    uv_sets: uv_sets[..sets].to_vec(),
                    normals: normals.filter(|_| has_normals),
                };
                self.primitive(&faces, placement, &layers, buffer)
            })
            .collect()
    }

    fn primitive(
        &mut self,
        faces: &[FaceId],
        placement: DAffine3,
        layers: &Layers<'_>,
        buffer: &mut Buffer,
    ) -> Value {
        let attributes = &self.model.attributes;
        let (mesh, normals) = (&self.model.mesh, layers.normals);
        let (vertices, indices) = self.indexed(faces, placement, layers);
        let back = placement.inverse();
        let is_placed = placement != DAffine3::IDENTITY;
        let position = |vertex: &Vertex| {
            let at = mesh.positions()[vertex.vertex as usize];
            let at = if is_placed {
                back.transform_point3(at)
            } else {
                at
            };
            at.as_vec3().to_array()
        };
        let positions: Vec<[f32; 3]> = vertices.iter().map(position).collect();
        let mut streams = json!({"POSITION": buffer.positions(&positions)});
        if let Some(layer) = normals {
            let turn = if is_placed {
                placement.matrix3.transpose()
            } else {
                DMat3::IDENTITY
            };
            let normal = |vertex: &Vertex| {
                let normal = turn * layer.values[vertex.normal as usize];
                normal
                    .try_normalize()
                    .unwrap_or(DVec3::Z)
                    .as_vec3()
                    .to_array()
            };
            let normals: Vec<[f32; 3]> = vertices.iter().map(normal).collect();
            streams["NORMAL"] = buffer.floats(&normals).into();
        }
        for (set, layer) in layers.uv_sets.iter().enumerate() {
            // The format counts from the top, the model from the bottom.
            let uv = |vertex: &Vertex| {
                let uv = layer.at(vertex.corner as usize).unwrap_or_default();
                [uv.x as f32, (1.0 - uv.y) as f32]
            };
            let uvs: Vec<[f32; 2]> = vertices.iter().map(uv).collect();
            streams[format!("TEXCOORD_{set}")] = buffer.floats(&uvs).into();
        }
        if let Some(colors) = &attributes.colors {
            let color = |vertex: &Vertex| {
                let [r, g, b, a] = colors[vertex.vertex as usize];
                let [r, g, b] = [r, g, b].map(paint::linear);
                [r, g, b, a]
            };
            streams["COLOR_0"] = buffer.shares(vertices.iter().map(color)).into();
        }
        json!({"attributes": streams, "indices": buffer.indices(&indices, vertices.len()), "mode": 4})
    }

    /// The vertices of some faces, one for each way that a vertex looks, and the triangles by them.
    fn indexed(
        &mut self,
        faces: &[FaceId],
        placement: DAffine3,
        layers: &Layers<'_>,
    ) -> (Vec<Vertex>, Vec<u32>) {
        let mesh = &self.model.mesh;
        let (first_uvs, normals) = (layers.uv_sets.first(), layers.normals);
        let others = layers.uv_sets.get(1..).unwrap_or_default();
        let mut vertices: Vec<Vertex> = Vec::new();
        let mut indices: Vec<u32> = Vec::with_capacity(3 * faces.len());
        let mut name = |corner: usize| {
            let vertex = mesh.corners()[corner].0;
            let uv = first_uvs.map_or(NO_VALUE, |layer| layer.index[corner]);
            let normal = normals.map_or(NO_VALUE, |layer| layer.index[corner]);
            let last = &mut self.last[vertex as usize];
            let mut at = *last;
            while at != NOBODY {
                let known = &vertices[at as usize];
                let alike = |layer: &&CornerLayer<DVec2>| {
                    layer.index[corner] == layer.index[known.corner as usize]
                };
                if (known.uv, known.normal) == (uv, normal) && others.iter().all(alike) {
                    return at;
                }
                at = known.before;
            }
            let before = std::mem::replace(last, vertices.len() as u32);
            vertices.push(Vertex {
                vertex,
                corner: corner as u32,
                uv,
                normal,
                before,
            });
            *last
        };
        let is_mirrored = placement.matrix3.determinant() < 0.0;
        for &face in faces {
            let range = mesh.face_range(face);
            let first = range.start;
            let mut push = |[a, b, c]: [usize; 3]| {
                let triangle = if is_mirrored { [a, c, b] } else { [a, b, c] };
                indices.extend(triangle.map(|corner| name(first + corner)));
            };
            match range.len() {
                0..3 => {}
                3 => push([0, 1, 2]),
                _ => {
                    let corners = mesh.face(face).iter();
                    let corners: Vec<DVec3> = corners.map(|&v| mesh.position(v)).collect();
                    for triangle in polygon(&corners) {
                        push(triangle.map(|corner| corner as usize));
                    }
                }
            }
        }
        for vertex in &vertices {
            self.last[vertex.vertex as usize] = NOBODY;
        }
        (vertices, indices)
    }

    /// A primitive of all line elements, if there are any.
    pub fn lines(&self, buffer: &mut Buffer) -> Option<Value> {
        let lines = &self.model.lines;
        let ends: Vec<usize> = (lines.iter())
            .flat_map(|line| line.windows(2))
            .flat_map(|pair| [pair[0].index(), pair[1].index()])
            .collect();
        let mut vertices = ends.clone();
        vertices.sort_unstable();
        vertices.dedup();
        let place = |end: &usize| vertices.binary_search(end).expect("one of them") as u32;
        let indices: Vec<u32> = ends.iter().map(place).collect();
        let positions = vertices
            .iter()
            .map(|&v| self.model.mesh.positions()[v].as_vec3().to_array());
        let positions: Vec<[f32; 3]> = positions.collect();
        (!indices.is_empty()).then(|| {
            json!({
                "attributes": {"POSITION": buffer.positions(&positions)},
                "indices": buffer.indices(&indices, vertices.len()), "mode": 1,
            })
        })
    }
}

/// How many sets of UVs a face has at all its corners, up to the first that it has not: the format
/// numbers them without gaps.
pub fn uv_sets_of(model: &Model, face: FaceId) -> usize {
    let sets = model.attributes.uv_sets();
    sets.take_while(|layer| has_all(model, layer, face)).count()
}

/// Whether all corners of a face have a value.
fn has_all<T>(model: &Model, layer: &CornerLayer<T>, face: FaceId) -> bool {
    let mut corners = model.mesh.face_range(face);
    corners.all(|corner| layer.index[corner] != NO_VALUE)
}
