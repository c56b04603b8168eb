//! The options of `hurmo decimate` through the program.

use crate::common::{Bench, error_of};
use hurmo_core::mesh::{FaceTags, Tag};
use hurmo_core::{Mesh, Model, VertexId, shapes};
use hurmo_formats::WriteOptions;

/// Two balls, one of them small, each a group of its own.
fn balls(bench: &Bench) {
    let ball = shapes::sphere(1.0, 4);
    let mut mesh = Mesh::from_parts(vec![], vec![], vec![0]).unwrap();
    let mut of_face = Vec::new();
    for (group, size) in [(0, 1.0), (1, 0.05)] {
        let base = mesh.vertex_count() as u32;
        for p in ball.positions() {
            mesh.push_vertex(*p * size + glam::DVec3::X * 3.0 * f64::from(group));
        }
        for (_, face) in ball.faces() {
            mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
            of_face.push(group);
        }
    }
    let mut model = Model::from(mesh);
    let named = |name: &str| Tag {
        group: Some(name.into()),
        ..Tag::default()
    };
    model.attributes.tags = FaceTags {
        table: vec![named("buoy"), named("bead")],
        of_face,
    };
    hurmo_formats::write(&bench.path("balls.obj"), &model, WriteOptions::default()).unwrap();
}

fn faces_by_part(bench: &Bench, file: &str) -> Vec<u64> {
    let parts = bench.json(&format!("parts {file}"));
    let parts = parts["parts"].as_array().unwrap().clone();
    parts
        .iter()
        .map(|part| part["faces"].as_u64().unwrap())
        .collect()
}

#[test]
fn budgets_for_each_are_met_by_each() {
    let bench = Bench::new();
    balls(&bench);
    for each in ["part", "group"] {
        bench
            .hurmo(&format!(
                "decimate balls.obj -o {each}.obj --to 10% --each {each}"
            ))
            .code(0);
        assert_eq!(faces_by_part(&bench, &format!("{each}.obj")), [512, 512]);
    }
    // For all together, the small one gets next to nothing.
    bench
        .hurmo("decimate balls.obj -o all.obj --to 10%")
        .code(0);
    let found = faces_by_part(&bench, "all.obj");
    assert!(found[1] < found[0] / 4, "{found:?}");
}

#[test]
fn a_focus_goes_by_name_and_by_colour() {
    let bench = Bench::new();
    balls(&bench);
    bench
        .hurmo("decimate balls.obj -o plain.obj --to 1000")
        .code(0);
    bench
        .hurmo("decimate balls.obj -o focus.obj --to 1000 --focus bead=5")
        .code(0);
    let (plain, focus) = (
        faces_by_part(&bench, "plain.obj"),
        faces_by_part(&bench, "focus.obj"),
    );
    assert!(focus[1] > 3 * plain[1], "{plain:?} {focus:?}");
    let error = error_of(&bench, "decimate balls.obj -o x.obj --to 10 --focus gull=2");
    assert!(error.contains("gull"), "{error}");
    let error = error_of(
        &bench,
        "decimate balls.obj -o x.obj --to 10 --focus-colour red=2",
    );
    assert!(error.contains("no vertex colours"), "{error}");
    let error = error_of(
        &bench,
        "decimate balls.obj -o x.obj --to 10 --keep groups=2",
    );
    assert!(error.contains("between 0 and 1"), "{error}");
    let error = error_of(
        &bench,
        "decimate balls.obj -o x.obj --flat --regularity 0.5",
    );
    assert!(error.contains("--regularity"), "{error}");
    assert!(!bench.path("x.obj").exists());

    let mut ball = Model::from(shapes::sphere(1.0, 4));
    let red = |p: &glam::DVec3| [if p.z > 0.0 { 1.0 } else { 0.0 }, 0.0, 0.0, 1.0];
    ball.attributes.colors = Some(ball.mesh.positions().iter().map(red).collect());
    hurmo_formats::write(&bench.path("red.ply"), &ball, WriteOptions::default()).unwrap();
    bench
        .hurmo("decimate red.ply -o low.ply --to 600 --focus-colour red=4")
        .code(0);
    let low = hurmo_formats::read(&bench.path("low.ply"))
        .unwrap()
        .model
        .mesh;
    let above = low
        .face_ids()
        .filter(|&f| low.face_middle(f).z > 0.0)
        .count();
    assert!(above > 2 * (low.face_count() - above), "{above}");
}

#[test]
fn a_small_part_goes_only_if_it_may_and_is_named() {
    let bench = Bench::new();
    balls(&bench);
    // Six were asked for; two parts take eight, and that is said.
    let missed = bench.hurmo("decimate balls.obj -o kept.obj --to 6").code(1);
    let report = String::from_utf8(missed.get_output().stdout.clone()).unwrap();
    assert!(
        report.contains("6 triangles were asked for, 8 are left"),
        "{report}"
    );
    assert_eq!(faces_by_part(&bench, "kept.obj"), [4, 4]);
    let story = bench.json("decimate balls.obj -o gone.obj --to 6 --may-drop-parts-under 10%");
    let step = &story["steps"][0];
    assert!(
        crate::common::says(&step["did"], "small-parts-dropped"),
        "{step}"
    );
    assert_eq!(step["single"][0]["part"], "P2");
    assert_eq!(faces_by_part(&bench, "gone.obj"), [6]);
}

#[test]
fn symmetry_is_kept_or_refused_with_what_it_is_off_by() {
    let bench = Bench::new();
    let mut egg = shapes::sphere(1.0, 4);
    let write = |name: &str, mesh: &Mesh| {
        let model = Model::from(mesh.clone());
        hurmo_formats::write(&bench.path(name), &model, WriteOptions::default()).unwrap();
    };
    egg.move_vertices(|_, p| {
        glam::DVec3::new(p.x, p.y * (1.0 + 0.2 * p.x), p.z * (1.0 + 0.3 * p.x * p.x))
    })
    .unwrap();
    write("egg.ply", &egg);
    let out = bench
        .hurmo("decimate egg.ply -o low.ply --to 500 --keep symmetry=y")
        .code(0);
    let report = String::from_utf8(out.get_output().stdout.clone()).unwrap();
    assert!(report.contains("its own image across y = 0"), "{report}");
    let low = hurmo_formats::read(&bench.path("low.ply"))
        .unwrap()
        .model
        .mesh;
    assert!((497..=500).contains(&low.face_count()));
    let has = |p: glam::DVec3| low.positions().iter().any(|q| q.distance(p) < 1e-6);
    let images = low.positions().iter();
    assert!(images.map(|p| glam::DVec3::new(p.x, -p.y, p.z)).all(has));
    // Across x it is no image of itself.
    let error = error_of(
        &bench,
        "decimate egg.ply -o no.ply --to 500 --keep symmetry=x",
    );
    assert!(error.contains("not its own image across x"), "{error}");
    assert!(!bench.path("no.ply").exists());
    let error = error_of(
        &bench,
        "decimate egg.ply -o no.ply --to 500 --keep symmetry=w",
    );
    assert!(error.contains("'w'"), "{error}");
    bench
        .hurmo("ladder egg.ply -o rungs --to 400,40 --keep symmetry")
        .code(0);
    assert!(bench.path("rungs/egg-40.ply").exists());
}
