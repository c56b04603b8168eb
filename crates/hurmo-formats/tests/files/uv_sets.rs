//! Several sets of UVs: read, written again, and reported where a format holds only one.

use crate::common::Builder;
use crate::valid::{assert_valid, document};
use glam::DVec2;
use hurmo_core::mesh::{Model, NO_VALUE};
use hurmo_core::paint::Look;
use hurmo_formats::{Format, WriteOptions, looks, read, read_bytes, write};
use serde_json::json;

fn pixel(color: [u8; 3]) -> Vec<u8> {
    let mut png = std::io::Cursor::new(Vec::new());
    let picture = image::RgbImage::from_pixel(1, 1, image::Rgb(color));
    picture.write_to(&mut png, image::ImageFormat::Png).unwrap();
    png.into_inner()
}

/// A sail of two triangles: the first has three sets of UVs, the second one; a material whose texture
/// goes by the second.
fn sail() -> Vec<u8> {
    let mut file = Builder::new();
    let places = file.floats(3, &[0., 0., 0., 1., 0., 0., 0., 1., 0.]);
    let others = file.floats(3, &[1., 0., 0., 1., 1., 0., 0., 1., 0.]);
    let sets: Vec<usize> = (0..3)
        .map(|set| {
            let at = set as f32 / 8.0;
            file.floats(2, &[at, 0., 1., at, 0., 1.])
        })
        .collect();
    let indices = file.indices(&[0, 1, 2]);
    let image = pixel([0, 255, 0]);
    let view = file.view(&image);
    file.json["images"] = json!([{"bufferView": view, "mimeType": "image/png"}]);
    file.json["textures"] = json!([{"source": 0}]);
    let texture = json!({"baseColorTexture": {"index": 0, "texCoord": 1}});
    file.json["materials"] = json!([{"name": "canvas", "pbrMetallicRoughness": texture}]);
    file.push(
        "meshes",
        json!({"primitives": [
            {"attributes": {"POSITION": places, "TEXCOORD_0": sets[0], "TEXCOORD_1": sets[1],
                "TEXCOORD_2": sets[2]}, "indices": indices, "material": 0},
            {"attributes": {"POSITION": others, "TEXCOORD_0": sets[2]}, "material": 0},
        ]}),
    );
    file.push("nodes", json!({"mesh": 0}));
    file.json["scenes"] = json!([{"nodes": [0]}]);
    file.json["scene"] = json!(0);
    file.glb()
}

/// By set and corner its UV.
fn uvs(model: &Model) -> Vec<Vec<Option<DVec2>>> {
    let corners = 0..model.mesh.corners().len();
    let sets = model.attributes.uv_sets();
    sets.map(|layer| corners.clone().map(|corner| layer.at(corner)).collect())
        .collect()
}

#[test]
fn all_sets_go_through() {
    let first = read_bytes(&sail(), Some(Format::Gltf)).unwrap();
    let own = uvs(&first.model);
    assert_eq!(own.len(), 3);
    assert_eq!(own[1][0], Some(DVec2::new(0.125, 1.0)));
    assert_eq!(own[2][..3].iter().flatten().count(), 3);
    assert_eq!(own[1][3..], [None; 3]);
    let folder = tempfile::tempdir().unwrap();
    for name in ["sail.glb", "sail.gltf"] {
        let file = folder.path().join(name);
        let report = write(&file, &first.model, WriteOptions::default()).unwrap();
        assert!(report.lost.is_empty(), "{:?}", report.lost);
        let second = read(&file).unwrap().model;
        // Faces come by how many sets they have.
        let mut again = uvs(&second);
        again.iter_mut().for_each(|set| set.rotate_left(3));
        assert_eq!(again, own);
    }
    let bytes = std::fs::read(folder.path().join("sail.glb")).unwrap();
    assert_valid(&bytes);
    let texture = &document(&bytes)["materials"][0]["pbrMetallicRoughness"]["baseColorTexture"];
    assert_eq!(texture["texCoord"], 1);
}

#[test]
fn a_texture_goes_by_its_own_set() {
    let model = read_bytes(&sail(), Some(Format::Gltf)).unwrap().model;
    let looks = looks(&model).of_tags;
    assert!(matches!(looks[0], Some(Look::Texture { uv_set: 1, .. })));
}

#[test]
fn what_holds_one_set_says_so() {
    let model = read_bytes(&sail(), Some(Format::Gltf)).unwrap().model;
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("sail.obj");
    let report = write(&file, &model, WriteOptions::default()).unwrap();
    let lost = report.lost.join("; ");
    assert!(lost.contains("sets of UVs beyond the first (2)"), "{lost}");
    assert!(
        lost.contains("textures that go by a set of UVs beyond the first (1)"),
        "{lost}"
    );
    // It would lie elsewhere.
    let materials = std::fs::read_to_string(folder.path().join("sail.mtl")).unwrap();
    assert!(!materials.contains("map_Kd"), "{materials}");
    let again = read(&file).unwrap().model;
    assert_eq!(uvs(&again), uvs(&model)[..1]);
}

#[test]
fn gaps_are_told() {
    let mut model = read_bytes(&sail(), Some(Format::Gltf)).unwrap().model;
    model.attributes.uvs.as_mut().unwrap().index[0] = NO_VALUE;
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("gap.glb");
    let report = write(&file, &model, WriteOptions::default()).unwrap();
    let lost = report.lost.join("; ");
    assert!(lost.contains("in a set before (1)"), "{lost}");
    assert_valid(&std::fs::read(&file).unwrap());
}
