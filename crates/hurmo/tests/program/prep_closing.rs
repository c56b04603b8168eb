//! What `hurmo prep --for print` does where mending is not enough, before a new skin and with it.

use crate::common::{Bench, count, moved, text_of};
use glam::{DQuat, DVec2, DVec3};
use hurmo_core::{FaceId, Model, shapes};
use std::f64::consts::PI;

#[test]
fn what_crosses_is_resolved_and_a_sheet_gets_walls() {
    let bench = Bench::new();
    // A tetrahedron pushed into another.
    bench.file(
        "pushed.obj",
        "v 0 0 0\nv 4 0 0\nv 0 4 0\nv 0 0 4\nf 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n\
         v 1 1 -1\nv 3 1 -1\nv 1 3 -1\nv 1 1 3\nf 5 7 6\nf 5 6 8\nf 5 8 7\nf 6 7 8\n",
    );
    let said = text_of(&bench, "prep pushed.obj -o one.stl --for print --unit mm");
    assert!(
        said.contains("cut where they met others, since mending leaves"),
        "{said}"
    );
    let after = bench.audit("one.stl");
    assert_eq!(after["mesh"]["watertight"], true);
    // Both volumes, less what they share: what each height from 0 to 2 cuts out of it, summed.
    let volume = 64.0 / 6.0 + 16.0 / 6.0 - (19.0 / 24.0 + 1.0 / 6.0);
    let found = after["mesh"]["volume"].as_f64().unwrap();
    assert!((found - volume).abs() < 1e-5, "{found} for {volume}");
    // A sheet closes in nothing: it gets walls.
    bench.file(
        "sheet.obj",
        "v 0 0 0\nv 3 0 0\nv 3 3 0\nv 0 3 0\nv 1 1 0\nf 1 2 5\nf 2 3 5\nf 3 4 5\nf 4 1 5\n",
    );
    let said = text_of(&bench, "prep sheet.obj -o wall.stl --for print --unit mm");
    assert!(said.contains("1 sheet given a wall of 0.0339"), "{said}");
    let volume = bench.audit("wall.stl")["mesh"]["volume"].as_f64().unwrap();
    assert!(
        (volume - 9.0 * 0.008 * 18f64.sqrt()).abs() < 1e-4,
        "{volume}"
    );
}

#[test]
fn a_new_skin_is_the_last_resort() {
    let bench = Bench::new();
    // More of it is open than a lid that crosses is put on.
    write_open_box(&bench, 1);
    let line = "prep box.obj -o one.stl --for print --unit mm --force";
    let said = text_of(&bench, line);
    assert!(
        said.contains("the last resort, since mending leaves"),
        "{said}"
    );
    let story = bench.json(line);
    let steps = story["steps"].as_array().unwrap().iter();
    let skins: Vec<_> = steps.filter(|step| step["step"] == "reskin").collect();
    assert!(skins.last().unwrap()["kept"] == true, "{skins:?}");
    assert_eq!(story["passes"], true);
}

/// Two boxes that touch along an edge, far from the origin: what a hair takes apart falls together again in a
/// file of single precision, unless the hair is wider there.
#[test]
fn what_comes_apart_stays_apart_far_from_the_origin() {
    let bench = Bench::new();
    let far = DVec3::new(8000.0, 5600.0, 2400.0);
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
    let mut both = moved(cube.clone(), far);
    both.append(&moved(cube, far + DVec3::new(1.0, 1.0, 0.0)));
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path("far.stl"), &both.into(), options).unwrap();
    let audit = bench.audit("far.stl");
    assert_eq!(count(&audit, "nonmanifold-edges"), 2);
    bench
        .hurmo("prep far.stl -o apart.stl --for print")
        .success();
    let audit = bench.audit("apart.stl");
    assert_eq!(count(&audit, "nonmanifold-edges"), 0);
}

/// A ball pushed through itself by a hair, far from the origin: cutting leaves open edges there, where its
/// points fall together. They are mended, and what was cut is kept.
#[test]
fn what_cutting_leaves_is_tidied_before_it_is_judged() {
    let bench = Bench::new();
    let arc = |i: u32| DVec2::from_angle(PI * (0.5 - f64::from(i) / 40.0));
    let arc: Vec<DVec2> = (0..=40).map(arc).collect();
    let ball = shapes::lathe(&arc, 60, true);
    let far = DVec3::new(30_000.0, 21_000.0, 9_000.0);
    let mut both = moved(ball.clone(), far);
    let mut turned = ball;
    let turn = DQuat::from_rotation_z(0.3);
    turned
        .move_vertices(|_, at| turn * at + far + DVec3::new(0.002, 0.0002, 0.0006))
        .unwrap();
    both.append(&turned);
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path("far.stl"), &both.into(), options).unwrap();
    let story = bench.json("prep far.stl -o one.stl --for print");
    assert_eq!(story["passes"], true);
    let steps = story["steps"].as_array().unwrap();
    assert!(steps.iter().all(|step| step["step"] != "reskin"));
    let meeting = count(&bench.audit("one.stl"), "intersecting-faces");
    assert_eq!(meeting, 0);
    assert!(count(&bench.audit("far.stl"), "intersecting-faces") > 1000);
}

/// A box without its top, each side cut into this many squares along, and a post that stands out of it.
fn write_open_box(bench: &Bench, along: usize) {
    let whole = shapes::cuboid(DVec3::ZERO, DVec3::splat(4.0), along);
    let is_top = |face: FaceId| whole.face(face).iter().all(|&v| whole.position(v).z == 4.0);
    let (open, _) = Model::from(whole.clone()).without_faces(is_top);
    let mut both = open.mesh;
    both.append(&shapes::cuboid(DVec3::ONE, DVec3::new(2.0, 2.0, 6.0), 1));
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path("box.obj"), &both.into(), options).unwrap();
}

/// A box without its top, and a post that stands out of it: a lid would cross the post. It is put there all
/// the same, and box and post become one.
#[test]
fn a_lid_that_crosses_is_cut_where_it_does() {
    let bench = Bench::new();
    write_open_box(&bench, 12);
    let story = bench.json("prep box.obj -o one.stl --for print --unit mm");
    assert_eq!(story["passes"], true);
    let kept = story["steps"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|step| step["kept"] == true);
    let kept: Vec<_> = kept.map(|step| step["step"].as_str().unwrap()).collect();
    assert!(kept.ends_with(&["fill", "mend"]), "{kept:?}");
    let mesh = &bench.audit("one.stl")["mesh"];
    assert_eq!(mesh["watertight"], true);
    let volume = mesh["volume"].as_f64().unwrap();
    assert!((volume - 66.0).abs() < 1e-4, "{volume}");
}
