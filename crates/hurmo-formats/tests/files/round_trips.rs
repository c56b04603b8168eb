//! What is written is read back the same.

use glam::DVec3;
use hurmo_core::{Mesh, Model, VertexId};
use hurmo_formats::{Format, WriteOptions, read, read_bytes, write};
use proptest::prelude::*;

const PROPS: &str = "# a comment ending in a backslash \\\r
mtllib my library.mtl\r
o landing stage\r
v 0 0 0 1 0.5 0\r
v 1 0 0 1 0.5 0\r
v 1 1 0 0 0 1\r
v 0 1 0 0 0 1\r
v 5 5 5 0 0 0\r
vt 0 0\r
vt 1 0\r
vt 1 1\r
vt 0.25 1\r
vn 0 0 1\r
g planks left side\r
usemtl wet wood\r
s 1\r
f 1/1/1 2/2/1 \\\r
  3/3/1 4/4/1\r
usemtl tar\r
s off\r
f -5 -4 -3\r
f 1//1 3//1 4//1\r
l 1 3 5\r
curv 0 1 2\r
";

fn obj(text: &[u8]) -> hurmo_formats::Loaded {
    read_bytes(text, Some(Format::Obj)).unwrap()
}

#[test]
fn obj_keeps_everything_through_a_round_trip() {
    let first = obj(PROPS.as_bytes());
    let model = &first.model;
    assert_eq!(model.mesh.face_count(), 3);
    assert_eq!(model.mesh.face(hurmo_core::FaceId(0)).len(), 4);
    assert_eq!(
        model.mesh.face(hurmo_core::FaceId(1)),
        [0, 1, 2].map(VertexId)
    );
    assert_eq!(model.attributes.material_libraries, ["my library.mtl"]);
    let tag = model.attributes.tags.of(hurmo_core::FaceId(0)).unwrap();
    assert_eq!(tag.group.as_deref(), Some("planks left side"));
    assert_eq!(tag.material.as_deref(), Some("wet wood"));
    assert_eq!(tag.object.as_deref(), Some("landing stage"));
    assert_eq!(model.lines, [vec![VertexId(0), VertexId(2), VertexId(4)]]);
    assert!(first.notes.iter().any(|note| note.contains("'curv'")));

    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("props.obj");
    write(&path, model, WriteOptions::default()).unwrap();
    let again = read(&path).unwrap();
    assert_eq!(again.model.mesh, model.mesh);
    assert_eq!(again.model.attributes.uvs, model.attributes.uvs);
    assert_eq!(again.model.attributes.normals, model.attributes.normals);
    assert_eq!(again.model.attributes.colors, model.attributes.colors);
    assert_eq!(again.model.lines, model.lines);
    for face in model.mesh.face_ids() {
        assert_eq!(
            again.model.attributes.tags.of(face),
            model.attributes.tags.of(face)
        );
    }
}

#[test]
fn names_and_comments_that_are_no_unicode_do_no_harm() {
    let loaded = obj(b"# caf\xe9\nv 0 0 0\nv 1 0 0\nv 0 1 0\ng \xff\xfe\nf 1 2 3\n");
    assert_eq!(loaded.model.mesh.face_count(), 1);
}

#[test]
fn content_decides_where_the_name_lies() {
    let loaded = read_bytes(PROPS.as_bytes(), Some(Format::Stl)).unwrap();
    assert_eq!(loaded.source.format, Format::Obj);
    assert!(loaded.notes[0].contains("the name says STL, but the content is OBJ"));
}

#[test]
fn a_binary_stl_whose_header_says_solid_is_binary() {
    let mut bytes = b"solid facet endsolid".to_vec();
    bytes.resize(80, b' ');
    bytes.extend(1u32.to_le_bytes());
    for x in [
        0.0f32, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0,
    ] {
        bytes.extend(x.to_le_bytes());
    }
    bytes.extend([0x1f, 0x80]);
    let loaded = read_bytes(&bytes, Some(Format::Stl)).unwrap();
    assert_eq!(loaded.model.mesh.face_count(), 1);
    assert_eq!(loaded.model.mesh.vertex_count(), 3);
}

#[test]
fn text_stl_of_several_solids() {
    let facet = |z: f64| {
        format!(
            "facet normal 0 0 0\nouter loop\nvertex 0 0 {z}\nvertex 1 0 {z}\nvertex 0 1 -0.0\nendloop\nendfacet\n"
        )
    };
    let text = format!(
        "solid left\n{}endsolid left\nSOLID right\n{}endsolid\n",
        facet(0.0),
        facet(-0.0)
    );
    let loaded = read_bytes(text.as_bytes(), Some(Format::Stl)).unwrap();
    assert_eq!(loaded.model.mesh.face_count(), 2);
    assert_eq!(loaded.model.mesh.vertex_count(), 3, "-0 is 0");
    let tags = &loaded.model.attributes.tags;
    assert_eq!(
        tags.of(hurmo_core::FaceId(1)).unwrap().object.as_deref(),
        Some("right")
    );
}

#[test]
fn ply_of_every_encoding_and_odd_properties() {
    let header = |format: &str| {
        format!(
            "ply\nformat {format} 1.0\ncomment x\nelement rig 1\nproperty list ushort float bones\n\
             element vertex 3\nproperty double z\nproperty int16 x\nproperty uchar y\n\
             property list uchar short extra\nproperty uchar red\nproperty uchar green\n\
             property uchar blue\nelement face 1\nproperty uchar flag\n\
             property list int32 uint16 vertex_index\nend_header\n"
        )
    };
    let ascii = header("ascii")
        + "2 1.5 2.5\n0.5 -1 2 0 255 0 0\n1.5 3 4 1 9 0 255 0\n2.5 5 6 0 0 0 255\n7 3 0 1 2\n";
    let binary = |big: bool| {
        let name = if big {
            "binary_big_endian"
        } else {
            "binary_little_endian"
        };
        let mut bytes = header(name).into_bytes();
        let mut put = |little: &[u8]| {
            let mut b = little.to_vec();
            if big {
                b.reverse();
            }
            bytes.extend(b);
        };
        put(&2u16.to_le_bytes());
        put(&1.5f32.to_le_bytes());
        put(&2.5f32.to_le_bytes());
        for (z, x, y, extra, color) in [
            (0.5f64, -1i16, 2u8, None, [255u8, 0, 0]),
            (1.5, 3, 4, Some(9i16), [0, 255, 0]),
            (2.5, 5, 6, None, [0, 0, 255]),
        ] {
            put(&z.to_le_bytes());
            put(&x.to_le_bytes());
            put(&[y]);
            put(&[u8::from(extra.is_some())]);
            extra.iter().for_each(|e| put(&e.to_le_bytes()));
            color.iter().for_each(|c| put(&[*c]));
        }
        put(&[7]);
        put(&3i32.to_le_bytes());
        (0..3u16).for_each(|v| put(&v.to_le_bytes()));
        bytes
    };
    let read = |bytes: &[u8]| read_bytes(bytes, Some(Format::Ply)).unwrap();
    let first = read(ascii.as_bytes());
    assert_eq!(first.model.mesh.positions()[1], DVec3::new(3.0, 4.0, 1.5));
    assert_eq!(
        first.model.attributes.colors.as_ref().unwrap()[2],
        [0.0, 0.0, 1.0, 1.0]
    );
    assert!(first.notes[0].contains("element 'rig' (1)"));
    assert_eq!(read(&binary(false)).model, first.model);
    assert_eq!(read(&binary(true)).model, first.model);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    #[test]
    fn any_mesh_comes_back_from_any_format(
        points in prop::collection::vec((-1e3..1e3f64, any::<f32>(), -5..5i32), 3..40),
        corners in prop::collection::vec(prop::collection::vec(0..1000usize, 3..7), 1..40),
    ) {
        let mut mesh = Mesh::default();
        for (x, y, z) in &points {
            let y = if y.is_finite() { f64::from(*y) } else { 0.0 };
            mesh.push_vertex(DVec3::new(*x, y, f64::from(*z)));
        }
        for face in &corners {
            mesh.push_face(face.iter().map(|i| VertexId::new(i % points.len())));
        }
        let model = Model::from(mesh);
        let folder = tempfile::tempdir().unwrap();
        for (name, ascii) in [("m.obj", false), ("m.ply", false), ("n.ply", true), ("m.off", false)] {
            let path = folder.path().join(name);
            write(&path, &model, {
let mut options = WriteOptions::default();
options.ascii = ascii;
options
}).unwrap();
            let again = read(&path).unwrap().model.mesh;
            prop_assert_eq!(again.corners(), model.mesh.corners(), "{}", name);
            let single = |p: &DVec3| f64::from(p.x as f32) == p.x;
            let all_single = model.mesh.positions().iter().all(single);
            for (a, b) in again.positions().iter().zip(model.mesh.positions()) {
                let same = if all_single { a.as_vec3() == b.as_vec3() } else { a == b };
                prop_assert!(same, "{}: {} {}", name, a, b);
            }
        }
        for ascii in [false, true] {
            let path = folder.path().join(format!("{ascii}.stl"));
            write(&path, &model, {
let mut options = WriteOptions::default();
options.ascii = ascii;
options
}).unwrap();
            let triangles: usize = corners.iter().map(|face| face.len() - 2).sum();
            prop_assert_eq!(read(&path).unwrap().model.mesh.face_count(), triangles);
        }
    }
}
