//! Putting models together, without losing what their faces belong to.

use crate::mesh::{CornerLayer, FaceTags, Mesh, Model, NO_VALUE, Tag, VertexId};
use crate::scene::{Appended, NodeId, Scene};
use rustc_hash::FxHashMap;
use std::borrow::Cow;
use std::sync::Arc;

/// Several models in one.
#[derive(Clone, Debug)]
pub struct Joined {
    /// The model, in the unit of the first that has one, and turned as the first of which it is known
    /// which axis points up.
    pub model: Model,
    /// How many models were scaled to that unit.
    pub scaled: usize,
    /// How many models have no unit where others have.
    pub without_unit: usize,
}

/// Puts models together in order. Faces keep their objects, groups and materials; where a model
/// names no object, its own name becomes it, as long as there are several models.
pub fn joined(models: &[(String, &Model)]) -> Joined {
    let unit = models.iter().find_map(|(_, model)| model.unit);
    let up = models.iter().find_map(|(_, model)| model.up);
    let (mut scaled, mut without_unit) = (0, 0);
    let mut positions = Vec::new();
    let mut corners: Vec<VertexId> = Vec::new();
    let mut starts = vec![0u32];
    let mut all = Model {
        unit,
        up,
        ..Model::default()
    };
    let any = |has: fn(&Model) -> bool| models.iter().any(|(_, model)| has(model));
    let sets = models.iter().map(|(_, m)| m.attributes.uv_sets().count());
    let mut uv_sets = vec![CornerLayer::default(); sets.max().unwrap_or(0)];
    let mut normals = any(|m| m.attributes.normals.is_some()).then(CornerLayer::default);
    let mut colors = any(|m| m.attributes.colors.is_some()).then(Vec::new);
    let mut tags = Tags::default();
    let mut scene: Option<Scene> = None;
    for (name, model) in models {
        without_unit += usize::from(model.unit.is_none() && unit.is_some());
        let conversion = model.conversion_to(unit, up);
        scaled += usize::from(conversion.scale.is_some());
        let mut model = Cow::Borrowed(*model);
        if let Some(by) = conversion.matrix()
            && model.to_mut().convert(by).is_err()
        {
            // Too large for another unit: it stays in its own.
            without_unit += 1;
        }
        let (mesh, attributes) = (&model.mesh, &model.attributes);
        let base = positions.len() as u32;
        let moved = |vertex: &VertexId| VertexId(vertex.0 + base);
        positions.extend_from_slice(mesh.positions());
        let first = corners.len() as u32;
        corners.extend(mesh.corners().iter().map(moved));
        starts.extend(mesh.starts()[1..].iter().map(|start| start + first));
        let lines = model.lines.iter();
        all.lines
            .extend(lines.map(|line| line.iter().map(moved).collect::<Vec<_>>()));
        for (set, all) in uv_sets.iter_mut().enumerate() {
            append(all, attributes.uv_sets().nth(set), mesh.corners().len());
        }
        if let Some(all) = &mut normals {
            append(all, attributes.normals.as_ref(), mesh.corners().len());
        }
        if let Some(all) = &mut colors {
            match &attributes.colors {
                Some(own) => all.extend_from_slice(own),
                None => all.resize(positions.len(), [1.0; 4]),
            }
        }
        let appended = attributes.scene.as_ref().map(|own| match &mut scene {
            Some(scene) => scene.append(own),
            None => {
                scene = Some(Scene::clone(own));
                Appended::default()
            }
        });
        let object = (models.len() > 1).then_some(name.as_str());
        let now = appended.unwrap_or_default();
        tags.append(&attributes.tags, mesh.face_count(), object, &now);
        for library in &attributes.material_libraries {
            if !all.attributes.material_libraries.contains(library) {
                all.attributes.material_libraries.push(library.clone());
            }
        }
    }
    all.mesh =
        Mesh::from_parts(positions, corners, starts).expect("whole meshes one after another");
    all.attributes.set_uv_sets(uv_sets);
    all.attributes.normals = normals;
    all.attributes.colors = colors;
    all.attributes.tags = tags.tags;
    all.attributes.scene = scene.map(Arc::new);
    Joined {
        model: all,
        scaled,
        without_unit,
    }
}

fn append<T: Copy>(all: &mut CornerLayer<T>, own: Option<&CornerLayer<T>>, corners: usize) {
    let base = all.values.len() as u32;
    match own {
        Some(own) => {
            all.values.extend_from_slice(&own.values);
            all.index.extend(own.index.iter().map(|&value| match value {
                NO_VALUE => NO_VALUE,
                value => value + base,
            }));
        }
        None => all.index.resize(all.index.len() + corners, NO_VALUE),
    }
}

#[derive(Default)]
struct Tags {
    tags: FaceTags,
    number: FxHashMap<Tag, u32>,
}

impl Tags {
    fn append(&mut self, own: &FaceTags, faces: usize, object: Option<&str>, now: &Appended) {
        let renamed = |name: &String| now.renamed.get(name).unwrap_or(name).clone();
        let named = |tag: &Tag| Tag {
            object: tag.object.clone().or_else(|| object.map(String::from)),
            material: tag.material.as_ref().map(renamed),
            node: tag.node.map(|node| NodeId(node.0 + now.first_node)),
            ..tag.clone()
        };
        let plain = [Tag::default()];
        let table = if own.is_empty() {
            &plain[..]
        } else {
            &own.table
        };
        let numbers: Vec<u32> = table
            .iter()
            .map(|tag| {
                let tag = named(tag);
                *self.number.entry(tag.clone()).or_insert_with(|| {
                    self.tags.table.push(tag);
                    self.tags.table.len() as u32 - 1
                })
            })
            .collect();
        match own.is_empty() {
            true => self
                .tags
                .of_face
                .resize(self.tags.of_face.len() + faces, numbers[0]),
            false => {
                let of_face = own.of_face.iter().map(|&tag| numbers[tag as usize]);
                self.tags.of_face.extend(of_face);
            }
        }
    }
}
