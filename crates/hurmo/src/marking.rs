//! A model with its faults marked: what is sound in clay, each kind of fault a layer of its own.

use anyhow::Result;
use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::audit::{Audit, Elements, Place};
use hurmo_core::mesh::VertexId;
use hurmo_core::triangulate::all_triangles;
use hurmo_formats::{Layer, layers_to_glb};
use hurmo_view::{Scene, color};

/// How far the layers of a face that has several faults stand off each other, as a share of the
/// diagonal.
const STEP: f64 = 2e-4;

/// The marked model as a GLB file. The audit holds all places.
pub fn glb(model: &Model, audit: &Audit) -> Result<Vec<u8>> {
    let mesh = &model.mesh;
    let (triangles, from) = all_triangles(mesh);
    let mut of_face: Vec<Vec<u32>> = vec![Vec::new(); mesh.face_count()];
    for (triangle, face) in from.iter().enumerate() {
        of_face[face.index()].push(triangle as u32);
    }
    let corners = |triangle: u32| triangles[triangle as usize].map(|v| mesh.position(v));
    let diagonal = audit.mesh.diagonal;
    // By face: how many layers it is in.
    let mut layers_on = vec![0u32; mesh.face_count()];
    let mut layers = vec![Layer {
        name: "sound".into(),
        color: color::CLAY,
        ..Layer::default()
    }];
    for finding in audit.findings.iter().filter(|finding| finding.count() > 0) {
        let mut layer = Layer {
            name: finding.check.into(),
            color: color::of_check(finding.check),
            ..Layer::default()
        };
        for place in &finding.found.places {
            if let Elements::Faces(faces) = &place.elements {
                for face in faces {
                    let lift = f64::from(layers_on[face.index()]) * STEP * diagonal;
                    layers_on[face.index()] += 1;
                    let lifted = of_face[face.index()]
                        .iter()
                        .map(|&t| lifted(corners(t), lift));
                    layer.triangles.extend(lifted);
                    if mesh.is_collapsed(*face) {
                        layer.points.push(mesh.face_middle(*face));
                    }
                }
            }
            add_lines_and_points(&mut layer, place, |v| mesh.position(v));
        }
        layers.push(layer);
    }
    for face in mesh.face_ids().filter(|face| layers_on[face.index()] == 0) {
        let sound = of_face[face.index()].iter().map(|&t| corners(t));
        layers[0].triangles.extend(sound);
    }
    Ok(layers_to_glb(&layers, diagonal * 0.004)?)
}

fn lifted(corners: [DVec3; 3], by: f64) -> [DVec3; 3] {
    let [a, b, c] = corners;
    let out = (b - a).cross(c - a).normalize_or_zero() * by;
    corners.map(|corner| corner + out)
}

fn add_lines_and_points(layer: &mut Layer, place: &Place, at: impl Fn(VertexId) -> DVec3) {
    match &place.elements {
        Elements::Edges(edges) => {
            layer.lines.extend(edges.iter().map(|edge| edge.map(&at)));
            // An edge without length would not show.
            let empty = edges.iter().filter(|edge| at(edge[0]) == at(edge[1]));
            layer.points.extend(empty.map(|edge| at(edge[0])));
        }
        Elements::Vertices(vertices) => layer.points.extend(vertices.iter().map(|&v| at(v))),
        Elements::Parts(_) | Elements::Named(_) | Elements::Model => {
            layer.lines.extend(Scene::box_lines(&place.bounds));
        }
        Elements::Faces(_) => {}
    }
}
