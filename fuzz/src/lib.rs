//! What every target does with a model: it must hold together, and all work on it must end.

use hurmo_core::audit::{AuditOptions, audit};
use hurmo_core::decimate::{DecimateOptions, decimate};
use hurmo_core::fill::{FillOptions, fill};
use hurmo_core::mend::{MendOptions, mend, safe};
use hurmo_core::{Mesh, Model};
use hurmo_formats::Format;

/// The formats, by the first byte of an input of the target `files`.
pub const FORMATS: [&str; 7] = ["obj", "stl", "ply", "off", "gltf", "glb", "3mf"];

/// The format that an input is read as, and the rest of it.
pub fn format_of(input: &[u8]) -> Option<(Format, &[u8])> {
    let (first, rest) = input.split_first()?;
    let name = FORMATS[*first as usize % FORMATS.len()];
    Some((Format::of_extension(name)?, rest))
}

/// Audits, mends, fills and reduces a model.
///
/// # Panics
/// When it does not hold together, or is none after what was done to it.
pub fn worked_on(model: &Model) {
    whole(&model.mesh);
    if model.mesh.face_count() > 300 || hurmo_formats::check_instances(model).is_err() {
        return;
    }
    let options = AuditOptions::default();
    let found = audit(model, &options, &()).expect("nobody stops it");
    assert_eq!(found.mesh.faces, model.mesh.face_count());
    let mut all = MendOptions::default();
    all.clear = safe()
        .chain(["nonmanifold-edges", "sliver-faces", "ngons", "intersecting-faces"])
        .map(String::from)
        .collect();
    let Ok(mended) = mend(model, &all, &()) else {
        return;
    };
    whole(&mended.model.mesh);
    let filled = fill(&mended.model, &FillOptions::default(), &()).expect("nobody stops it");
    whole(&filled.model.mesh);
    let half = DecimateOptions::to(filled.model.mesh.face_count() / 2);
    let reduced = decimate(&filled.model, &half, &()).expect("nobody stops it");
    whole(&reduced.model.mesh);
    audit(&reduced.model, &options, &()).expect("nobody stops it");
}

fn whole(mesh: &Mesh) {
    let parts = (mesh.positions().to_vec(), mesh.corners().to_vec(), mesh.starts().to_vec());
    Mesh::from_parts(parts.0, parts.1, parts.2).expect("a mesh holds together");
}
