//! The model and the scene of a document.

use super::document::{Component, Document, Object};
use crate::{ReadError, Remarks};
use glam::{DAffine3, DMat3, DVec3};
use hurmo_core::mesh::{FaceTags, Mesh, Model, Tag, VertexId};
use hurmo_core::paint::linear;
use hurmo_core::scene::{Alpha, Material, Names, Node, NodeId, Scene, Shows};
use hurmo_core::units::Axis;
use rustc_hash::{FxHashMap, FxHashSet};
use std::sync::Arc;

/// Objects may consist of others, and these of others, no deeper than this.
const DEEPEST: usize = 512;

/// More nodes than this come of components that name components, and do harm.
const MOST_NODES: usize = 200_000;

/// The model of a document.
pub fn model(document: Document, remarks: &mut Remarks) -> Result<Model, ReadError> {
    let mut making = Making {
        document: &document,
        scene: Scene::default(),
        homes: FxHashMap::default(),
        names: Names::default(),
        objects: Vec::new(),
        under: Vec::new(),
    };
    let items = match document.items.is_empty() {
        false => document.items.clone(),
        true => {
            remarks
                .notes
                .push("nothing in it is to be built: all objects are taken in".into());
            making.all_of_no_other()
        }
    };
    for item in items {
        let root = making.node(item)?;
        making.scene.roots.push(root);
    }
    let (materials, material_names) = materials(&document);
    making.scene.materials = materials;
    let mut model = making.gathered(&material_names)?;
    let unbuilt = document.objects.len() - making.objects.iter().collect::<FxHashSet<_>>().len();
    if unbuilt > 0 {
        remarks.notes.push(format!(
            "passed over: objects that are not to be built ({unbuilt})"
        ));
    }
    let extra = document
        .objects
        .iter()
        .filter(|object| object.is_extra)
        .count();
    if extra > 0 {
        let note = format!("taken in as they are: supports and other helpers ({extra})");
        remarks.notes.push(note);
    }
    let mut passed_over: Vec<(&String, &usize)> = document.passed_over.iter().collect();
    passed_over.sort_unstable();
    for (name, count) in passed_over {
        remarks
            .notes
            .push(format!("passed over: '{name}' ({count})"));
    }
    model.attributes.scene = Some(Arc::new(making.scene));
    if let Some((unit, factor)) = document.unit {
        if factor != 1.0 {
            let by = DMat3::from_diagonal(DVec3::splat(factor));
            let converted = model.convert(by);
            converted.map_err(|error| ReadError::whole(error.to_string()))?;
        }
        model.unit = Some(unit);
    }
    model.up = Some(Axis::Z);
    Ok(model)
}

/// A scene in the making.
struct Making<'d> {
    document: &'d Document,
    scene: Scene,
    /// By number of the object, the node that has its mesh.
    homes: FxHashMap<u32, NodeId>,
    names: Names,
    /// By node its object.
    objects: Vec<u32>,
    /// The objects that are being taken apart.
    under: Vec<u32>,
}

impl Making<'_> {
    fn object(&self, number: u32) -> Result<&Object, ReadError> {
        let found = self.document.numbers.get(&number);
        let found = found.map(|&place| &self.document.objects[place]);
        found.ok_or_else(|| ReadError::whole(format!("object {number} does not exist")))
    }

    /// The node of an object in some place, with all that hangs on it.
    fn node(&mut self, component: Component) -> Result<NodeId, ReadError> {
        let number = component.object;
        if self.under.contains(&number) {
            return Err(ReadError::whole(format!(
                "object {number} is part of itself"
            )));
        }
        if self.under.len() >= DEEPEST {
            return Err(ReadError::whole(format!(
                "objects consist of others more than {DEEPEST} deep"
            )));
        }
        if self.scene.nodes.len() >= MOST_NODES {
            return Err(ReadError::whole(
                "objects consist of others so often that there is no end of them",
            ));
        }
        if !component.way.is_finite() {
            return Err(ReadError::whole(format!(
                "the transform of object {number} is not finite"
            )));
        }
        let object = self.object(number)?;
        let name = object.name.clone();
        // What it shows itself, and what hangs on it.
        let (shown, parts) = match self.shown_itself(object) {
            Some(own) => (Some(own.object), object.components[1..].to_vec()),
            None if object.triangles.is_empty() => (None, object.components.clone()),
            None => (Some(number), object.components.clone()),
        };
        let id = NodeId(self.scene.nodes.len() as u32);
        let is_flat = component.way.matrix3.determinant() == 0.0;
        let home = shown.map(|shown| (shown, self.homes.get(&shown)));
        let shows = match home {
            None => Shows::Nothing,
            Some((_, Some(&home))) => Shows::Of(home),
            Some((shown, None)) => {
                self.homes.insert(shown, id);
                Shows::Own {
                    mesh: self.object(shown)?.name.clone(),
                    stays: is_flat,
                }
            }
        };
        self.objects.extend(shown.filter(|&shown| shown != number));
        self.objects.push(number);
        self.scene.nodes.push(Node {
            name,
            local: component.way,
            children: Vec::new(),
            shows,
            serves: false,
            moves: false,
            source: None,
        });
        self.under.push(number);
        for part in parts {
            let child = self.node(part)?;
            self.scene.nodes[id.index()].children.push(child);
        }
        self.under.pop();
        Ok(id)
    }

    /// The first part of an object of parts, where it is not a thing of its own: a mesh that lies in it
    /// as it is, and has its name or is shown elsewhere already. So an object is written that has both
    /// a mesh and parts, and one that shows the mesh of another under a name of its own.
    fn shown_itself(&self, object: &Object) -> Option<Component> {
        let first = object.components.first()?;
        let part = self.object(first.object).ok()?;
        let is_mesh = !part.triangles.is_empty() && part.components.is_empty();
        let is_same = part.name == object.name
            || (object.components.len() == 1 && self.homes.contains_key(&first.object));
        let is_whole = object.triangles.is_empty() && first.way == DAffine3::IDENTITY;
        (is_whole && is_mesh && is_same).then_some(*first)
    }

    /// The objects that are part of no other, where they are.
    fn all_of_no_other(&self) -> Vec<Component> {
        let objects = &self.document.objects;
        let parts = objects.iter().flat_map(|object| &object.components);
        let parts: FxHashSet<u32> = parts.map(|part| part.object).collect();
        let mut numbers: Vec<(usize, u32)> = self
            .document
            .numbers
            .iter()
            .map(|(&number, &place)| (place, number))
            .collect();
        numbers.sort_unstable();
        let numbers = numbers.into_iter().map(|(_, number)| number);
        let whole = numbers.filter(|number| !parts.contains(number));
        let at_origin = |object| Component {
            object,
            way: DAffine3::IDENTITY,
        };
        whole.map(at_origin).collect()
    }

    /// All meshes in one.
    fn gathered(&mut self, materials: &FxHashMap<(u32, u32), String>) -> Result<Model, ReadError> {
        let placements = self.scene.mesh_placements();
        let mut homes: Vec<(u32, NodeId)> = self.homes.iter().map(|(&o, &id)| (o, id)).collect();
        homes.sort_unstable_by_key(|(_, id)| *id);
        let is_alone = self.scene.objects().0 == 1;
        let mut positions = Vec::new();
        let mut triangles = Vec::new();
        let mut tags = FaceTags::default();
        for (number, id) in homes {
            let place = self.document.numbers[&number];
            let object = &self.document.objects[place];
            let way = placements[id.index()];
            let is_mirrored = way.matrix3.determinant() < 0.0;
            let first = positions.len() as u32;
            positions.extend(
                object
                    .vertices
                    .iter()
                    .map(|&at| match way == DAffine3::IDENTITY {
                        true => at,
                        false => way.transform_point3(at),
                    }),
            );
            let name = match &object.name {
                Some(name) if !name.trim().is_empty() => Some(name.trim().to_string()),
                _ if is_alone => None,
                _ => Some(format!("object {number}")),
            };
            let name = name.map(|name| self.names.free(&name));
            let mut tag_of: FxHashMap<Option<(u32, u32)>, u32> = FxHashMap::default();
            for triangle in &object.triangles {
                let count = object.vertices.len() as u32;
                if let Some(corner) = triangle.corners.iter().find(|&&corner| corner >= count) {
                    return Err(ReadError::whole(format!(
                        "object {number}: a triangle has vertex {corner}, of {count}"
                    )));
                }
                let [a, b, c] = triangle.corners.map(|corner| VertexId(first + corner));
                triangles.push(if is_mirrored { [a, c, b] } else { [a, b, c] });
                let tag = *tag_of.entry(triangle.material).or_insert_with(|| {
                    tags.table.push(Tag {
                        object: name.clone(),
                        material: triangle.material.and_then(|m| materials.get(&m).cloned()),
                        node: Some(id),
                        ..Tag::default()
                    });
                    tags.table.len() as u32 - 1
                });
                tags.of_face.push(tag);
            }
        }
        let mesh = Mesh::from_triangles(positions, &triangles);
        let mut model = Model::from(mesh.map_err(|error| ReadError::whole(error.to_string()))?);
        model.attributes.tags = tags;
        Ok(model)
    }
}

/// The materials, and their names by group and place.
fn materials(document: &Document) -> (Vec<Material>, FxHashMap<(u32, u32), String>) {
    let mut materials: Vec<Material> = Vec::new();
    let mut names = FxHashMap::default();
    let mut given = Names::default();
    for key in &document.material_order {
        let (name, color) = &document.materials[key];
        let name = if name.trim().is_empty() {
            "material"
        } else {
            name.trim()
        };
        let name = given.free(name);
        let [r, g, b, a] = color.map(|channel| f32::from(channel) / 255.0);
        let [r, g, b] = [r, g, b].map(linear);
        materials.push(Material {
            color: [r, g, b, a],
            alpha: if a < 1.0 { Alpha::Blend } else { Alpha::Opaque },
            ..Material::named(name.clone())
        });
        names.insert(*key, name);
    }
    (materials, names)
}
