//! Normals that the file gives: missing, or wrong.

use crate::audit::Level::{Note, Off, Warn};
use crate::audit::{Check, Found, Levels, Needs, Remedy};
use crate::measure::vector_area;
use crate::mesh::FaceId;
use glam::DVec3;

/// Cosine between a face and a normal that still belongs to it: that of a right angle, and a little.
const AGAINST: f64 = -1e-3;

pub(super) const MISSING: Check = Check {
    name: "missing-normals",
    counts: "faces with an area and a corner without normal, in a model of which other corners have one",
    harm: "one program makes them up, another leaves the faces black",
    remedy: Remedy::Convert,
    drawing: r"
     ^   ^   ?   ^
     +---+---+---+",
    levels: Levels::new(Note, Off, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let Some(normals) = &analysis.model.attributes.normals else {
            return Ok(Found::default());
        };
        let mesh = analysis.mesh;
        let is_missing = |&face: &FaceId| {
            let bare = mesh
                .face_range(face)
                .any(|corner| normals.at(corner).is_none());
            bare && !analysis.has_no_area(face)
        };
        let found = mesh.face_ids().filter(is_missing);
        Ok(Found::faces(analysis, search.limit, found))
    },
};

pub(super) const BAD: Check = Check {
    name: "bad-normals",
    counts: "faces with a normal at a corner that has no length, is no number, or points to their other side",
    harm: "black patches, and light from the wrong side",
    remedy: Remedy::Convert,
    drawing: r"
     ^       ^
     +---+---+
         v",
    levels: Levels::new(Warn, Note, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let Some(normals) = &analysis.model.attributes.normals else {
            return Ok(Found::default());
        };
        let mesh = analysis.mesh;
        let is_bad = |&face: &FaceId| {
            let own = vector_area(mesh, face).normalize_or_zero();
            let is_bad = |normal: DVec3| {
                let along = normal.normalize_or_zero();
                along == DVec3::ZERO || (!analysis.has_no_area(face) && along.dot(own) < AGAINST)
            };
            mesh.face_range(face)
                .any(|corner| normals.at(corner).is_some_and(is_bad))
        };
        let found = mesh.face_ids().filter(is_bad);
        Ok(Found::faces(analysis, search.limit, found))
    },
};
