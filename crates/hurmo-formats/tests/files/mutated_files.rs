//! Files changed at random: each reads as a model that holds together, or ends in one error. What reads is
//! audited, mended, closed and reduced as well.

#[path = "mutate/small_models.rs"]
mod small_models;

use crate::mutate::{Random, count, mutated};
use hurmo_core::Model;
use hurmo_core::audit::{AuditOptions, audit};
use hurmo_core::decimate::{DecimateOptions, decimate};
use hurmo_core::fill::{FillOptions, fill};
use hurmo_core::mend::{MendOptions, mend};
use hurmo_formats::{Format, WriteOptions, read, read_bytes, write};
use small_models::models;
use std::io::{Cursor, Read, Write};
use std::path::Path;

/// What the model is written as.
fn written(model: &Model, ending: &str, ascii: bool) -> Vec<u8> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join(format!("model.{ending}"));
    let mut options = WriteOptions::default();
    options.ascii = ascii;
    write(&path, model, options).unwrap();
    std::fs::read(&path).unwrap()
}

/// What was read holds together, and can be worked on.
fn sound(model: &Model) {
    let mesh = &model.mesh;
    for (_, face) in mesh.faces() {
        assert!(face.iter().all(|v| v.index() < mesh.vertex_count()));
    }
    let corners = mesh.corners().len();
    for set in model.attributes.uv_sets() {
        assert_eq!(set.index.len(), corners);
    }
    let tags = &model.attributes.tags;
    assert!(tags.of_face.is_empty() || tags.of_face.len() == mesh.face_count());
    if mesh.face_count() > 500 || hurmo_formats::check_instances(model).is_err() {
        return;
    }
    let found = audit(model, &AuditOptions::default(), &()).unwrap();
    assert_eq!(found.mesh.faces, mesh.face_count());
    let mended = match mend(model, &MendOptions::default(), &()) {
        Ok(mended) => mended.model,
        Err(_) => return,
    };
    let closed = fill(&mended, &FillOptions::default(), &()).unwrap().model;
    let mut options = DecimateOptions::default();
    options.to = Some(closed.mesh.face_count() / 2);
    decimate(&closed, &options, &()).unwrap();
}

fn tried(bytes: &[u8], format: Format) {
    if let Ok(loaded) = read_bytes(bytes, Some(format)) {
        sound(&loaded.model);
    }
}

#[test]
fn text_and_binary_files() {
    for (ending, ascii, words) in [
        ("obj", true, true),
        ("off", true, true),
        ("stl", true, true),
        ("stl", false, false),
        ("ply", true, true),
        ("ply", false, true),
        ("gltf", true, true),
        ("glb", false, true),
    ] {
        let format = Format::of_extension(ending).unwrap();
        for (which, model) in models().iter().enumerate() {
            let seed = written(model, ending, ascii);
            let mut random = Random::of(which as u64);
            for _ in 0..count(300) {
                tried(&mutated(&seed, words, &mut random), format);
            }
        }
    }
}

/// A package with one of its documents changed, whole as a package.
fn repacked(package: &[u8], random: &mut Random) -> Vec<u8> {
    let mut archive = zip::ZipArchive::new(Cursor::new(package)).unwrap();
    let changed = random.below(archive.len());
    let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for i in 0..archive.len() {
        let mut file = archive.by_index(i).unwrap();
        let mut text = Vec::new();
        file.read_to_end(&mut text).unwrap();
        let text = if i == changed {
            mutated(&text, true, random)
        } else {
            text
        };
        out.start_file(
            file.name().unwrap().into_owned(),
            zip::write::SimpleFileOptions::default(),
        )
        .unwrap();
        out.write_all(&text).unwrap();
    }
    out.finish().unwrap().into_inner()
}

#[test]
fn packages() {
    for (which, model) in models().iter().enumerate() {
        let seed = written(model, "3mf", false);
        let mut random = Random::of(which as u64);
        for _ in 0..count(300) {
            tried(&mutated(&seed, false, &mut random), Format::ThreeMf);
            tried(&repacked(&seed, &mut random), Format::ThreeMf);
        }
    }
}

/// The JSON of a GLB changed, its lengths put right.
fn relinked(glb: &[u8], random: &mut Random) -> Vec<u8> {
    let length = u32::from_le_bytes(glb[12..16].try_into().unwrap()) as usize;
    let mut json = mutated(&glb[20..20 + length], true, random);
    json.resize(json.len().next_multiple_of(4), b' ');
    let rest = &glb[20 + length..];
    let mut out = glb[..8].to_vec();
    out.extend(((20 + json.len() + rest.len()) as u32).to_le_bytes());
    out.extend((json.len() as u32).to_le_bytes());
    out.extend(b"JSON");
    out.extend(json);
    out.extend(rest);
    out
}

#[test]
fn scenes_whose_containers_hold() {
    for (which, model) in models().iter().enumerate() {
        let seed = written(model, "glb", false);
        let mut random = Random::of(which as u64);
        for _ in 0..count(600) {
            tried(&relinked(&seed, &mut random), Format::Gltf);
        }
    }
}

const MATERIALS: &str = "newmtl tar\nKd 0.1 0.1 0.1\nmap_Kd -s 2 2 1 tar.png\nmap_Bump -bm 0.5 bump.png\nd 0.5\n\
newmtl brass\nKd 0.8 0.6 0.2\nillum 2\nNs 90\n";

#[test]
fn material_files_beside_models() {
    let folder = tempfile::tempdir().unwrap();
    let model = folder.path().join("model.obj");
    let mut obj = String::from_utf8(written(&models()[1], "obj", true)).unwrap();
    obj.insert_str(0, "mtllib model.mtl\n");
    std::fs::write(&model, &obj).unwrap();
    let mut random = Random::of(1);
    for _ in 0..count(300) {
        let changed = mutated(MATERIALS.as_bytes(), true, &mut random);
        std::fs::write(folder.path().join("model.mtl"), changed).unwrap();
        let loaded = read(Path::new(&model)).unwrap();
        hurmo_formats::looks(&loaded.model);
        sound(&loaded.model);
    }
}
