//! Writing: an object for each mesh, one of components for each node on which others hang, an item
//! for each root.

use super::package::pack;
use crate::WriteOptions;
use crate::objects::{self, Object, objects};
use crate::text::{is_single, write_number};
use crate::turns_text;
use glam::{DAffine3, DVec3};
use hurmo_core::paint::on_screen;
use hurmo_core::scene::{NodeId, Scene, Shows};
use hurmo_core::triangulate::polygon;
use hurmo_core::units::Unit;
use hurmo_core::{Mesh, Model};
use quick_xml::escape::escape;
use rustc_hash::FxHashMap;
use std::io::{self, Write};

const NOBODY: u32 = u32::MAX;
/// The number of the group of materials; objects come after it.
const MATERIALS: usize = 1;

pub(crate) fn write(model: &Model, _options: WriteOptions, out: &mut dyn Write) -> io::Result<()> {
    pack(|out| document(model, out), out)
}

fn start_document(unit: Option<Unit>, out: &mut dyn Write) -> io::Result<()> {
    let unit = match unit {
        Some(Unit::Cm) => "centimeter",
        Some(Unit::M) => "meter",
        Some(Unit::In) => "inch",
        Some(Unit::Mm) | None => "millimeter",
    };
    writeln!(
        out,
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<model unit=\"{unit}\" xml:lang=\"en\" \
         xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\">\n\
         <metadata name=\"Application\">{}</metadata>\n<resources>",
        concat!("hurmo ", env!("CARGO_PKG_VERSION"))
    )
}

fn document(model: &Model, out: &mut dyn Write) -> io::Result<()> {
    let none = Scene::default();
    let scene = model.attributes.scene.as_deref().unwrap_or(&none);
    start_document(model.unit, out)?;
    let materials = materials(model, scene, out)?;
    let placements = scene.mesh_placements();
    let mut meshes = Meshes {
        model,
        materials: &materials,
        of: vec![NOBODY; model.mesh.vertex_count()],
        is_single: is_single(&model.mesh),
    };
    let mut next = MATERIALS + 1;
    let mut items: Vec<(usize, DAffine3)> = Vec::new();
    let mut of_node: FxHashMap<NodeId, usize> = FxHashMap::default();
    for object in objects(model, scene) {
        let way = object
            .node
            .map_or(DAffine3::IDENTITY, |node| placements[node.index()]);
        let name = object.node.and_then(|node| scene.node(node).name.as_ref());
        let name = name.or(object.name.as_ref());
        meshes.write(&object, next, name, way, out)?;
        match object.node {
            Some(node) => {
                of_node.insert(node, next);
            }
            None => items.push((next, DAffine3::IDENTITY)),
        }
        next += 1;
    }
    // From below, so that what an object consists of is there before it.
    let mut whole: FxHashMap<NodeId, usize> = FxHashMap::default();
    for id in scene.reached().into_iter().rev() {
        let node = scene.node(id);
        let own = match node.shows {
            Shows::Own { .. } => of_node.get(&id),
            Shows::Of(home) => of_node.get(&home),
            Shows::Nothing => None,
        };
        let own = own.map(|&object| (object, DAffine3::IDENTITY));
        let parts = node.children.iter().filter_map(|child| {
            let object = whole.get(child)?;
            Some((*object, scene.node(*child).local))
        });
        let parts: Vec<(usize, DAffine3)> = own.into_iter().chain(parts).collect();
        // What shows the mesh of another has a name of its own.
        let named = match node.shows {
            Shows::Of(home) => &scene.node(home).name,
            _ => &node.name,
        };
        match parts[..] {
            [] => {}
            [(object, way)] if way == DAffine3::IDENTITY && *named == node.name => {
                whole.insert(id, object);
            }
            _ => {
                start_object(next, node.name.as_ref(), out)?;
                out.write_all(b"><components>\n")?;
                for (object, way) in parts {
                    placed("component", object, way, out)?;
                }
                out.write_all(b"</components></object>\n")?;
                whole.insert(id, next);
                next += 1;
            }
        }
    }
    let roots = scene
        .roots
        .iter()
        .filter_map(|root| Some((*whole.get(root)?, scene.node(*root).local)));
    items.splice(..0, roots);
    out.write_all(b"</resources>\n<build>\n")?;
    for (object, way) in items {
        placed("item", object, way, out)?;
    }
    out.write_all(b"</build>\n</model>\n")
}

/// Writes the materials; the place of each in the group, by name.
fn materials(
    model: &Model,
    scene: &Scene,
    out: &mut dyn Write,
) -> io::Result<FxHashMap<String, usize>> {
    let mut places = FxHashMap::default();
    let all = objects::materials(model, scene);
    if all.is_empty() {
        return Ok(places);
    }
    writeln!(out, "<basematerials id=\"{MATERIALS}\">")?;
    for (place, material) in all.into_iter().enumerate() {
        let [r, g, b, a] = material.color;
        let [r, g, b] = [r, g, b].map(on_screen);
        let color = [r, g, b, a].map(|share| (share.clamp(0.0, 1.0) * 255.0).round() as u8);
        let color: String = color
            .iter()
            .map(|channel| format!("{channel:02X}"))
            .collect();
        let name = attribute(&material.name);
        writeln!(out, "<base name=\"{name}\" displaycolor=\"#{color}\"/>")?;
        places.insert(material.name, place);
    }
    out.write_all(b"</basematerials>\n")?;
    Ok(places)
}

/// A name as the value of an attribute: what turns the direction of text is written as a number, so that who
/// reads the file sees it.
fn attribute(name: &str) -> String {
    let mut value = String::new();
    for c in escape(name).chars() {
        match turns_text(c) {
            true => value.push_str(&format!("&#x{:X};", u32::from(c))),
            false => value.push(c),
        }
    }
    value
}

fn start_object(number: usize, name: Option<&String>, out: &mut dyn Write) -> io::Result<()> {
    write!(out, "<object id=\"{number}\" type=\"model\"")?;
    match name {
        Some(name) => write!(out, " name=\"{}\"", attribute(name)),
        None => Ok(()),
    }
}

/// An object in some place.
fn placed(element: &str, object: usize, way: DAffine3, out: &mut dyn Write) -> io::Result<()> {
    write!(out, "<{element} objectid=\"{object}\"")?;
    if way != DAffine3::IDENTITY {
        out.write_all(b" transform=\"")?;
        for (i, number) in way.to_cols_array().into_iter().enumerate() {
            if i > 0 {
                out.write_all(b" ")?;
            }
            write!(out, "{number}")?;
        }
        out.write_all(b"\"")?;
    }
    out.write_all(b"/>\n")
}

struct Meshes<'a> {
    model: &'a Model,
    materials: &'a FxHashMap<String, usize>,
    /// For every vertex of the model the object's, in the object that is being written.
    of: Vec<u32>,
    is_single: bool,
}

impl Meshes<'_> {
    fn write(
        &mut self,
        object: &Object,
        number: usize,
        name: Option<&String>,
        way: DAffine3,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        let mesh = &self.model.mesh;
        let faces = || object.faces.iter().flat_map(|(_, faces)| faces);
        let mut vertices = Vec::new();
        for vertex in faces().flat_map(|&face| mesh.face(face)) {
            let of = &mut self.of[vertex.index()];
            if *of == NOBODY {
                *of = vertices.len() as u32;
                vertices.push(*vertex);
            }
        }
        start_object(number, name, out)?;
        let material =
            |name: &Option<String>| name.as_ref().and_then(|name| self.materials.get(name));
        // What is said of an object holds for all its triangles that say nothing themselves.
        let all = object.faces.iter().map(|(name, _)| material(name));
        let first = all
            .reduce(|first, next| first.filter(|_| next.is_some()))
            .flatten();
        if let Some(first) = first {
            write!(out, " pid=\"{MATERIALS}\" pindex=\"{first}\"")?;
        }
        out.write_all(b"><mesh><vertices>\n")?;
        let back = way.inverse();
        let is_placed = way != DAffine3::IDENTITY;
        for &vertex in &vertices {
            let at = mesh.position(vertex);
            let at = if is_placed {
                back.transform_point3(at)
            } else {
                at
            };
            for (before, x) in [("<vertex x=\"", at.x), ("\" y=\"", at.y), ("\" z=\"", at.z)] {
                out.write_all(before.as_bytes())?;
                write_number(out, x, self.is_single && !is_placed)?;
            }
            out.write_all(b"\"/>\n")?;
        }
        out.write_all(b"</vertices><triangles>\n")?;
        let is_mirrored = way.matrix3.determinant() < 0.0;
        for (name, faces) in &object.faces {
            let material = material(name);
            for &face in faces {
                for [a, b, c] in cut(mesh, face) {
                    let [a, b, c] =
                        [a, b, c].map(|corner| self.of[mesh.face(face)[corner].index()]);
                    // The format has no triangles of fewer than three vertices.
                    if a == b || b == c || c == a {
                        continue;
                    }
                    let [b, c] = if is_mirrored { [c, b] } else { [b, c] };
                    write!(out, "<triangle v1=\"{a}\" v2=\"{b}\" v3=\"{c}\"")?;
                    if let Some(material) = material.filter(|own| Some(*own) != first) {
                        write!(out, " pid=\"{MATERIALS}\" p1=\"{material}\"")?;
                    }
                    out.write_all(b"/>\n")?;
                }
            }
        }
        for vertex in vertices {
            self.of[vertex.index()] = NOBODY;
        }
        out.write_all(b"</triangles></mesh></object>\n")
    }
}

/// A face in triangles, by places of its corners.
fn cut(mesh: &Mesh, face: hurmo_core::FaceId) -> Vec<[usize; 3]> {
    let corners = mesh.face(face);
    match corners.len() {
        0..3 => Vec::new(),
        3 => vec![[0, 1, 2]],
        _ => {
            let places: Vec<DVec3> = corners.iter().map(|&v| mesh.position(v)).collect();
            let triangles = polygon(&places).into_iter();
            triangles.map(|t| t.map(|corner| corner as usize)).collect()
        }
    }
}
