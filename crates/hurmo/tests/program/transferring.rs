//! `hurmo transfer` through the program, and pictures of what was rebuilt.

use crate::common::{Bench, error_of, text_of};
use hurmo_core::{Model, shapes};
use hurmo_formats::WriteOptions;
use std::io::Cursor;

/// A plank of two by one in the ground plane whose texture is red on the left and blue on the right.
const PLANK: &str = "mtllib plank.mtl\n\
    v 0 0 0\nv 2 0 0\nv 2 1 0\nv 0 1 0\n\
    vt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n\
    usemtl wood\nf 1/1 2/2 3/3 4/4\n";

fn image() -> Vec<u8> {
    let pixel = |x, _| image::Rgb(if x < 32 { [255, 0, 0] } else { [0, 0, 255] });
    let mut png = Cursor::new(Vec::new());
    let picture = image::RgbImage::from_fn(64, 32, pixel);
    picture.write_to(&mut png, image::ImageFormat::Png).unwrap();
    png.into_inner()
}

fn plank(bench: &Bench) {
    bench.file("plank.obj", PLANK);
    bench.file("plank.mtl", "newmtl wood\nKd 0 1 0\nmap_Kd plank.png\n");
    bench.file("plank.png", image());
}

fn read(bench: &Bench, name: &str) -> Model {
    hurmo_formats::read(&bench.path(name)).unwrap().model
}

fn assert_red_and_blue(model: &Model) {
    let colors = model.attributes.colors.as_ref().unwrap();
    for (at, color) in model.mesh.positions().iter().zip(colors) {
        let [r, _, b, _] = *color;
        match at.x {
            x if x < 0.7 => assert!(r > 0.9 && b < 0.1, "{color:?} at {at}"),
            x if x > 1.3 => assert!(r < 0.1 && b > 0.9, "{color:?} at {at}"),
            _ => {}
        }
    }
}

#[test]
fn a_texture_becomes_colours_at_vertices() {
    let bench = Bench::new();
    plank(&bench);
    // Of the plank rebuilt in the same run, and of another mesh where it lies.
    text_of(&bench, "remesh plank.obj -o bare.ply --edge 0.1");
    let text = text_of(&bench, "transfer plank.obj bare.ply -o even.ply");
    assert!(text.contains("by its texture"), "{text}");
    assert_red_and_blue(&read(&bench, "even.ply"));
    let other = Model::from(shapes::grid(9, 9, 2.0, 1.0));
    hurmo_formats::write(&bench.path("other.ply"), &other, WriteOptions::default()).unwrap();
    text_of(&bench, "transfer plank.obj other.ply -o painted.obj");
    let painted = read(&bench, "painted.obj");
    assert_red_and_blue(&painted);
    assert_eq!(painted.mesh, read(&bench, "other.ply").mesh);
    // The colours at vertices are then what others can take.
    let text = text_of(&bench, "transfer painted.obj other.ply -o again.ply");
    assert!(text.contains("by its colours at vertices"), "{text}");
    assert_red_and_blue(&read(&bench, "again.ply"));
}

#[test]
fn a_texture_that_is_not_there_is_told_and_another_can_be_named() {
    let bench = Bench::new();
    plank(&bench);
    std::fs::rename(bench.path("plank.png"), bench.path("other.png")).unwrap();
    text_of(&bench, "remesh plank.obj -o bare.ply --edge 0.1");
    let line = "transfer plank.obj bare.ply -o even.ply";
    let text = text_of(&bench, line);
    assert!(text.contains("plank.png: there is no such file"), "{text}");
    assert!(text.contains("by the colours of its materials"), "{text}");
    let even = read(&bench, "even.ply");
    let is_green = |color: &[f32; 4]| *color == [0.0, 1.0, 0.0, 1.0];
    assert!(even.attributes.colors.unwrap().iter().all(is_green));
    text_of(&bench, &format!("{line} --texture other.png --force"));
    assert_red_and_blue(&read(&bench, "even.ply"));
}

#[test]
fn what_has_no_colours_gives_none_and_nothing_is_written() {
    let bench = Bench::new();
    plank(&bench);
    let ball = Model::from(shapes::sphere(1.0, 2));
    hurmo_formats::write(&bench.path("ball.stl"), &ball, WriteOptions::default()).unwrap();
    bench.file("broken.png", &image()[..50]);
    let names = bench.names();
    for (from, options, error) in [
        ("ball.stl", "", "has no colours to give"),
        ("none.obj", "", "there is no such file"),
        ("plank.png", "", "model file"),
        ("ball.stl", "--texture plank.png", "has no UVs"),
        (
            "plank.obj",
            "--texture broken.png",
            "can't be read as PNG or JPEG",
        ),
    ] {
        let text = error_of(
            &bench,
            &format!("transfer {from} ball.stl -o out.ply {options}"),
        );
        assert!(text.contains(error), "{from} {options}: {text}");
    }
    assert_eq!(bench.names(), names);
}

#[test]
fn what_colours_are_taken_from_is_not_written_over() {
    let bench = Bench::new();
    plank(&bench);
    text_of(&bench, "smooth plank.obj -o other.obj --relax 1");
    for wrong in [
        "transfer other.obj plank.obj -o other.obj --force",
        "transfer plank.obj other.obj --texture plank.png -o plank.png --force",
    ] {
        let was = std::fs::read(bench.path("other.obj")).unwrap();
        let text = error_of(&bench, wrong);
        let says = ["that is the input", "says no format"];
        assert!(says.iter().any(|says| text.contains(says)), "{text}");
        assert_eq!(std::fs::read(bench.path("other.obj")).unwrap(), was);
        assert_eq!(std::fs::read(bench.path("plank.png")).unwrap(), image());
    }
}

#[test]
fn colours_of_something_elsewhere_are_doubted() {
    let bench = Bench::new();
    plank(&bench);
    let far = crate::common::moved(shapes::sphere(1.0, 2), glam::DVec3::splat(9.0));
    let far = Model::from(far);
    hurmo_formats::write(&bench.path("far.ply"), &far, WriteOptions::default()).unwrap();
    let text = text_of(&bench, "transfer plank.obj far.ply -o out.ply");
    assert!(text.contains("is it as large?"), "{text}");
    let lost = bench.hurmo("transfer plank.obj far.ply -o out.stl");
    lost.stderr(predicates::str::contains("STL can't hold: vertex colours"));
}

#[test]
fn before_and_after_are_drawn_with_wires() {
    let bench = Bench::new();
    plank(&bench);
    let size = |name: &str| {
        let picture = image::open(bench.path(name)).unwrap().into_rgb8();
        let colours: std::collections::HashSet<_> = picture.pixels().collect();
        // Not one colour all over.
        assert!(colours.len() > 50);
        picture.dimensions()
    };
    let line = "remesh plank.obj -o even.ply --edge 0.1 --picture";
    text_of(&bench, &format!("{line} wires.png"));
    assert_eq!(size("wires.png"), (1280, 800));
    let first = std::fs::read(bench.path("wires.png")).unwrap();
    let text = error_of(&bench, &format!("{line} wires.png"));
    assert!(text.contains("already"), "{text}");
    let names = bench.names();
    error_of(&bench, &format!("{line} wires.jpg --force"));
    assert_eq!(bench.names(), names);
    // Elsewhere, it is another picture.
    text_of(
        &bench,
        &format!("{line} wires.png --force --close-up 0.2,0.2,0,0.1 --up y"),
    );
    assert_eq!(size("wires.png"), (1280, 800));
    assert_ne!(std::fs::read(bench.path("wires.png")).unwrap(), first);
}
