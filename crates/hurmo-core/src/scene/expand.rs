//! Instances made meshes of their own, and all objects made one.

use super::{Names, NodeId, Scene, Shows};
use crate::geometry::Bounds;
use crate::measure::bounds;
use crate::mesh::{CornerLayer, FaceId, Mesh, Model, NO_VALUE, Tag, VertexId};
use glam::{DAffine3, DMat3, DVec3};
use rustc_hash::FxHashMap;
use std::rc::Rc;
use std::sync::Arc;

impl Model {
    /// How many nodes of its scene show the mesh of another.
    pub fn instances(&self) -> usize {
        let scene = self.attributes.scene.as_ref();
        scene.map_or(0, |scene| scene.objects().1)
    }

    /// How many faces there are once instances are written out.
    pub fn shown_faces(&self) -> u64 {
        let instances = self.shown_again();
        let others = instances.iter().map(|(faces, _)| faces.len() as u64);
        others.fold(self.mesh.face_count() as u64, u64::saturating_add)
    }

    /// The bounds of all that is shown: of faces where they are, and of instances where they stand.
    pub fn shown_bounds(&self) -> Option<Bounds> {
        let own = bounds(&self.mesh);
        let instances = self.shown_again();
        let points = instances.iter().flat_map(|(faces, way)| {
            let points = faces.iter().flat_map(|&face| self.mesh.face_points(face));
            points.map(|point| way.transform_point3(point))
        });
        let ends = own.into_iter().flat_map(|own| [own.min, own.max]);
        Bounds::of(points.chain(ends))
    }

    /// For every instance the faces that it shows, and the way from where they are to where it stands.
    fn shown_again(&self) -> Vec<(Rc<[FaceId]>, DAffine3)> {
        let scene = self.attributes.scene.as_ref();
        let Some(scene) = scene.filter(|_| self.instances() > 0) else {
            return Vec::new();
        };
        let placements = scene.mesh_placements();
        let of_node = faces_of_nodes(self).into_iter().map(|(node, faces)| {
            let faces: Rc<[FaceId]> = faces.into_iter().map(|(face, _)| face).collect();
            (node, faces)
        });
        let of_node: FxHashMap<NodeId, Rc<[FaceId]>> = of_node.collect();
        let instances = scene.reached().into_iter().filter_map(|id| {
            let Shows::Of(home) = scene.node(id).shows else {
                return None;
            };
            let way = placements[id.index()] * placements[home.index()].inverse();
            Some((Rc::clone(of_node.get(&home)?), way)).filter(|(_, way)| way.is_finite())
        });
        instances.collect()
    }

    /// The model with every instance as a mesh of its own, where it stands.
    pub fn expanded(&self) -> Model {
        self.written_out(|_, _| true).0
    }

    /// The same, of some instances, by their node and that whose mesh they show; and how many these
    /// are.
    pub(super) fn written_out(&self, goes: impl Fn(NodeId, NodeId) -> bool) -> (Model, usize) {
        let Some(scene) = &self.attributes.scene else {
            return (self.clone(), 0);
        };
        let mut count = 0;
        let placements = scene.mesh_placements();
        let mut copies = Copies::of(self);
        let mut expanded = Scene::clone(scene);
        for id in scene.reached() {
            let Shows::Of(home) = scene.node(id).shows else {
                continue;
            };
            if !goes(id, home) {
                continue;
            }
            count += 1;
            let way = placements[id.index()] * placements[home.index()].inverse();
            if way.is_finite() {
                copies.add(home, id, scene, way);
            }
            expanded.nodes[id.index()].shows = match &scene.node(home).shows {
                Shows::Own { mesh, .. } => Shows::Own {
                    mesh: mesh.clone(),
                    stays: false,
                },
                _ => Shows::Nothing,
            };
        }
        let mut model = copies.finish();
        model.attributes.scene = Some(Arc::new(expanded));
        (model, count)
    }

    /// Makes all faces those of one object: of the first node that has a mesh, if there is one.
    /// The other nodes stay where they are, and show nothing.
    pub fn become_one_object(&mut self) {
        let attributes = &mut self.attributes;
        let mut first = None;
        if let Some(scene) = attributes.scene.as_mut().map(Arc::make_mut) {
            let own = |id: &NodeId| matches!(scene.node(*id).shows, Shows::Own { .. });
            first = scene.reached().into_iter().find(own);
            for (node, number) in scene.nodes.iter_mut().zip(0..) {
                if Some(NodeId(number)) != first {
                    node.shows = Shows::Nothing;
                }
            }
        }
        let tags = &mut attributes.tags.table;
        let named = tags.iter().find(|tag| first.is_some() && tag.node == first);
        let object = named.and_then(|tag| tag.object.clone());
        for tag in tags {
            tag.node = first;
            tag.object.clone_from(&object);
        }
    }
}

/// By node its faces, with their tags.
fn faces_of_nodes(model: &Model) -> FxHashMap<NodeId, Vec<(FaceId, u32)>> {
    let tags = &model.attributes.tags;
    let mut of_node: FxHashMap<NodeId, Vec<(FaceId, u32)>> = FxHashMap::default();
    for (face, &tag) in tags.of_face.iter().enumerate() {
        if let Some(node) = tags.table[tag as usize].node {
            let faces = of_node.entry(node).or_default();
            faces.push((FaceId::new(face), tag));
        }
    }
    of_node
}

/// A model that copies of some of its faces are added to.
struct Copies<'m> {
    model: &'m Model,
    positions: Vec<DVec3>,
    corners: Vec<VertexId>,
    starts: Vec<u32>,
    colors: Option<Vec<[f32; 4]>>,
    uv_sets: Vec<CornerLayer<glam::DVec2>>,
    normals: Option<CornerLayer<DVec3>>,
    table: Vec<Tag>,
    of_face: Vec<u32>,
    names: Names,
    /// By node its faces, with their tags.
    of_home: FxHashMap<NodeId, Vec<(FaceId, u32)>>,
}

impl<'m> Copies<'m> {
    fn of(model: &'m Model) -> Self {
        let (mesh, attributes) = (&model.mesh, &model.attributes);
        let tags = &attributes.tags;
        let objects = tags.table.iter().filter_map(|tag| tag.object.as_deref());
        Self {
            model,
            names: Names::of(objects),
            of_home: faces_of_nodes(model),
            positions: mesh.positions().to_vec(),
            corners: mesh.corners().to_vec(),
            starts: mesh.starts().to_vec(),
            colors: attributes.colors.clone(),
            uv_sets: attributes.uv_sets().cloned().collect(),
            normals: attributes.normals.clone(),
            table: attributes.tags.table.clone(),
            of_face: attributes.tags.of_face.clone(),
        }
    }

    /// Adds the faces of a node once more, for another.
    fn add(&mut self, home: NodeId, id: NodeId, scene: &Scene, way: DAffine3) {
        let (mesh, attributes) = (&self.model.mesh, &self.model.attributes);
        let is_mirrored = way.matrix3.determinant() < 0.0;
        let turn = way.matrix3.inverse().transpose();
        let turn = if turn.is_finite() {
            turn
        } else {
            DMat3::IDENTITY
        };
        let name = scene.node(id).name.clone();
        let name = name.or_else(|| scene.node(home).name.clone());
        let object = name.map(|name| self.names.free(&name));
        let mut vertices: FxHashMap<VertexId, VertexId> = FxHashMap::default();
        let mut normals: FxHashMap<u32, u32> = FxHashMap::default();
        let mut tags: FxHashMap<u32, u32> = FxHashMap::default();
        for &(face, tag) in self.of_home.get(&home).into_iter().flatten() {
            let range = mesh.face_range(face);
            let first = range.start;
            let count = range.len();
            for i in 0..count {
                let corner = first + if is_mirrored { (count - i) % count } else { i };
                let old = mesh.corners()[corner];
                let vertex = *vertices.entry(old).or_insert_with(|| {
                    self.positions
                        .push(way.transform_point3(mesh.position(old)));
                    if let Some(colors) = &mut self.colors {
                        colors.push(colors[old.index()]);
                    }
                    VertexId::new(self.positions.len() - 1)
                });
                self.corners.push(vertex);
                for layer in &mut self.uv_sets {
                    layer.index.push(layer.index[corner]);
                }
                if let Some(layer) = &mut self.normals {
                    let value = match layer.index[corner] {
                        NO_VALUE => NO_VALUE,
                        value => *normals.entry(value).or_insert_with(|| {
                            let normal = turn * layer.values[value as usize];
                            layer.values.push(normal.normalize_or_zero());
                            layer.values.len() as u32 - 1
                        }),
                    };
                    layer.index.push(value);
                }
            }
            self.starts.push(self.corners.len() as u32);
            let tag = *tags.entry(tag).or_insert_with(|| {
                self.table.push(Tag {
                    node: Some(id),
                    object: object.clone(),
                    ..attributes.tags.table[tag as usize].clone()
                });
                self.table.len() as u32 - 1
            });
            self.of_face.push(tag);
        }
    }

    fn finish(self) -> Model {
        let mut model = self.model.clone();
        model.mesh = Mesh::from_parts(self.positions, self.corners, self.starts)
            .expect("copies of faces that were sound");
        model.attributes.colors = self.colors;
        model.attributes.set_uv_sets(self.uv_sets);
        model.attributes.normals = self.normals;
        model.attributes.tags.table = self.table;
        model.attributes.tags.of_face = self.of_face;
        model
    }
}
