//! What a format can't hold.

mod scenes;

use crate::{Format, gltf};
use hurmo_core::Model;
use hurmo_core::mesh::NO_VALUE;

/// What a model has that a format can't hold, in words; empty when nothing is lost.
pub fn losses(model: &Model, format: Format) -> Vec<String> {
    let mut lost = Lost(Vec::new());
    of_corners(model, format, &mut lost);
    of_faces(model, format, &mut lost);
    if let Some(scene) = &model.attributes.scene {
        scenes::of_scene(scene, format, &mut lost);
    }
    lost.0
}

/// What is lost, in words.
struct Lost(Vec<String>);

impl Lost {
    /// This many of something that the format has no room for.
    fn say(&mut self, held: bool, count: usize, what: &str) {
        if !held && count > 0 {
            self.0.push(format!("{what} ({count})"));
        }
    }
}

/// UVs and normals.
fn of_corners(model: &Model, format: Format, lost: &mut Lost) {
    let holds = format.entry().holds;
    let attributes = &model.attributes;
    let count = |index: Option<&Vec<u32>>| {
        let index = index.into_iter().flatten();
        index.filter(|&&value| value != NO_VALUE).count()
    };
    let uvs = count(attributes.uvs.as_ref().map(|layer| &layer.index));
    lost.say(holds.uvs, uvs, "UVs of corners");
    let more = attributes.more_uvs.len();
    let held = holds.uv_sets || !holds.uvs;
    lost.say(held, more, "sets of UVs beyond the first");
    if holds.uv_sets && attributes.uvs.is_some() {
        let mesh = &model.mesh;
        let has_any = |&face: &hurmo_core::FaceId| {
            let unheld = attributes.uv_sets().skip(gltf::uv_sets_of(model, face));
            let mut values = unheld.flat_map(|set| &set.index[mesh.face_range(face)]);
            values.any(|&value| value != NO_VALUE)
        };
        let partly = mesh.face_ids().filter(has_any).count();
        let what = "UVs of faces that have none at some corners or in a set before";
        lost.say(false, partly, what);
    }
    let normals = count(attributes.normals.as_ref().map(|layer| &layer.index));
    lost.say(holds.normals, normals, "normals of corners");
}

fn of_faces(model: &Model, format: Format, lost: &mut Lost) {
    let holds = format.entry().holds;
    let (mesh, attributes) = (&model.mesh, &model.attributes);
    let polygons = mesh.faces().filter(|(_, face)| face.len() > 3).count();
    let what = "faces of more than three sides, cut into triangles";
    lost.say(holds.polygons, polygons, what);
    let short = mesh.faces().filter(|(_, face)| face.len() < 3).count();
    lost.say(holds.polygons, short, "faces of fewer than three corners");
    let colors = attributes.colors.as_ref().map_or(0, Vec::len);
    lost.say(holds.colors, colors, "vertex colours");
    let tags = attributes.tags.table.len();
    lost.say(holds.tags, tags, "groups and materials");
    lost.say(holds.lines, model.lines.len(), "line elements");
    if !holds.shared_vertices {
        let stray = mesh.used_vertices().iter().filter(|used| !**used).count();
        lost.say(false, stray, "vertices in no face");
    }
}
