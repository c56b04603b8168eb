use super::*;
use crate::measure::{self, deviation};
use crate::mirror::{self, Half};
use crate::quads::{QuadOptions, QuadTarget, feature_lines, quads, quads_symmetric};
use crate::random_cases::cases;
use crate::shapes;
use proptest::prelude::*;
use rustc_hash::FxHashSet;

fn divided(mesh: Mesh, sharp: &[[VertexId; 2]]) -> Mesh {
    let cage = Cage {
        is_corner: vec![false; mesh.vertex_count()],
        sharp: sharp.to_vec(),
        mesh,
    };
    cage.divided(&Edges::of(&cage.mesh)).mesh
}

/// A base with levels of a shape, and the lines of that.
fn levels_of(mesh: &Mesh, count: usize, levels: usize) -> (QuadOutcome, Vec<Level>) {
    let model = Model::from(mesh.clone());
    let options = QuadOptions::of(QuadTarget::Count(count));
    let made = quads(&model, &options, &()).unwrap();
    let mut how = LevelOptions::of(levels, made.edge);
    how.lines = feature_lines(&model, &options, made.edge);
    let levels = super::levels(&Base::of(&made), &model, &how, &()).unwrap();
    (made, levels)
}

/// Away from rims the surface is a bicubic B-spline: over a grid of heights x² + xy, divided control points lie a
/// quarter of the squared spacing above them, whatever kind they are of.
#[test]
fn heights_over_a_grid_are_those_of_a_spline() {
    let mut mesh = shapes::grid(8, 8, 8.0, 8.0);
    (mesh.positions_mut().iter_mut()).for_each(|p| p.z = p.x * p.x + p.x * p.y);
    let made = divided(mesh, &[]);
    let inside = |p: &&DVec3| (p.truncate() - glam::DVec2::splat(4.0)).abs().max_element() < 2.6;
    let inside: Vec<_> = made.positions().iter().filter(inside).collect();
    assert!(inside.len() > 100);
    for p in inside {
        assert!((p.z - (p.x * p.x + p.x * p.y + 0.25)).abs() < 1e-9, "{p}");
    }
}

/// The places that the rules give at a vertex of three faces, worked out by hand.
#[test]
fn a_cube_is_divided_as_the_rules_say() {
    let cube = shapes::cuboid(DVec3::splat(-1.0), DVec3::ONE, 1);
    let made = divided(cube.clone(), &[]);
    assert_eq!([made.vertex_count(), made.face_count()], [8 + 12 + 6, 24]);
    let [corner, edge, face] = [5.0 / 9.0 * 3f64.sqrt(), 0.75 * 2f64.sqrt(), 1.0];
    for (v, p) in made.positions().iter().enumerate() {
        let wanted = match v {
            0..8 => corner,
            8..20 => edge,
            _ => face,
        };
        assert!((p.length() - wanted).abs() < 1e-12, "{v} {p}");
    }
    // With all edges sharp it stays a cube, at every level.
    let edges = Edges::of(&cube);
    let all: Vec<_> = edges.ids().map(|edge| edges.ends(edge)).collect();
    let sharp = divided(cube, &all);
    assert!((measure::volume(&sharp) - 8.0).abs() < 1e-12);
}

#[test]
fn an_ngon_becomes_quads_from_its_middle() {
    let corner = |i: usize| DVec3::new((i as f64).cos(), (i as f64).sin(), 0.0);
    let vertices: Vec<_> = (0..5).map(VertexId::new).collect();
    let mut mesh = Mesh::default();
    (0..5).for_each(|i| {
        mesh.push_vertex(corner(i));
    });
    mesh.push_face(vertices);
    let made = divided(mesh, &[]);
    assert_eq!([made.face_count(), made.vertex_count()], [5, 11]);
    assert!(made.faces().all(|(_, face)| face.len() == 4));
    assert!(measure::vector_area(&made, crate::mesh::FaceId(0)).z > 0.0);
}

#[test]
fn levels_come_nearer_to_smooth_forms_by_over_three_each() {
    let mut wavy = shapes::sphere(1.0, 6);
    for at in wavy.positions_mut() {
        *at *= 1.0 + 0.1 * (4.0 * at.z).sin() + 0.1 * (3.0 * at.y).cos() * at.x;
    }
    let shapes = [
        (shapes::sphere(1.0, 6), 300),
        (shapes::torus(1.0, 0.4, 400, 200), 400),
        (wavy, 1000),
    ];
    for (mesh, count) in shapes {
        let (base, levels) = levels_of(&mesh, count, 2);
        let meshes = [
            &base.model.mesh,
            &levels[0].model.mesh,
            &levels[1].model.mesh,
        ];
        let off = meshes.map(|own| deviation(own, &mesh, 30_000).unwrap().rms);
        assert!(
            off[0] > 3.0 * off[1] && off[1] > 3.0 * off[2],
            "{count} {off:?}"
        );
        for (level, below) in levels.iter().zip(meshes) {
            assert_eq!(level.too_far + level.held, 0);
            assert_eq!(level.model.mesh.face_count(), 4 * below.face_count());
        }
    }
}

/// Sharp edges, corners and rims of the surface are those of every level.
#[test]
fn creases_and_rims_stay() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 6);
    for level in levels_of(&cube, 150, 3).1 {
        assert!((measure::volume(&level.model.mesh) - 1.0).abs() < 1e-9);
        assert!((measure::area(&level.model.mesh) - 6.0).abs() < 1e-9);
    }
    let sheet = shapes::grid(16, 16, 2.0, 1.0);
    for level in levels_of(&sheet, 100, 2).1 {
        assert!((measure::area(&level.model.mesh) - 2.0).abs() < 1e-9);
    }
    // The rim of a tube is a circle: levels find its vertices, not only the chords between those of the base.
    let ends = [glam::DVec2::new(0.5, 0.0), glam::DVec2::new(0.5, 2.0)];
    let tube = shapes::lathe(&ends, 256, true);
    let (base, levels) = levels_of(&tube, 300, 2);
    let mesh = &levels[1].model.mesh;
    let on_circle = |mesh: &Mesh, near: f64| {
        let is_on = |p: &&DVec3| p.z.abs() < 1e-9 && (p.truncate().length() - 0.5).abs() < near;
        mesh.positions().iter().filter(is_on).count()
    };
    let first = on_circle(&base.model.mesh, 3e-3);
    assert!(first > 10);
    assert_eq!(on_circle(mesh, 1e-4), 4 * first);
    assert!((measure::volume(mesh) / measure::volume(&tube) - 1.0).abs() < 2e-3);
}

#[test]
fn vertices_come_first_in_the_order_that_they_had() {
    let (base, levels) = levels_of(&shapes::sphere(1.0, 4), 200, 2);
    let [mut last, mut moved] = [&base.model.mesh, &base.model.mesh];
    for level in &levels {
        moved = &level.model.mesh;
        let own = moved.positions().iter().zip(last.positions());
        for (now, was) in own {
            assert!(now.distance(*was) < 0.5 * base.edge, "{now} {was}");
        }
        // The quads of a face follow each other, each from a corner of it.
        for (face, corners) in last.faces() {
            for (i, v) in corners.iter().enumerate() {
                let child = crate::mesh::FaceId::new(4 * face.index() + i);
                assert_eq!(moved.face(child)[0], *v);
            }
        }
        last = moved;
    }
    assert_eq!(moved.face_count(), 16 * base.model.mesh.face_count());
}

#[test]
fn levels_of_halves_stay_each_others_images() {
    let mut mesh = shapes::sphere(1.0, 5);
    for at in mesh.positions_mut() {
        *at *= 1.0 + 0.15 * (3.0 * at.z).sin() + 0.1 * (4.0 * at.y).cos() * at.x * at.x;
    }
    let model = Model::from(mesh);
    let found = mirror::find(&model.mesh, None).unwrap();
    let half = Half::of(&model, &found).unwrap();
    let options = QuadOptions::of(QuadTarget::Count(600));
    let made = quads_symmetric(&model, &half, &options, &()).unwrap();
    let how = LevelOptions::of(2, made.edge);
    let bits = |at: DVec3| (at + DVec3::ZERO).to_array().map(f64::to_bits);
    for level in levels(&Base::of(&made), &model, &how, &()).unwrap() {
        let mesh = &level.model.mesh;
        let all: FxHashSet<_> = mesh.positions().iter().map(|&at| bits(at)).collect();
        let images = mesh.positions().iter().map(|&at| half.mirror.image(at));
        assert!(images.into_iter().all(|at| all.contains(&bits(at))));
        // The loop on the plane was a rim of the half, and is no crease of the whole.
        let off = deviation(mesh, &model.mesh, 20_000).unwrap().max;
        assert!(off < 0.02, "{off}");
    }
}

#[test]
fn what_would_not_fit_is_refused() {
    let ball = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 10));
    let base = Base {
        model: &ball,
        sharp: &[],
        corners: &[],
        mirror: None,
    };
    let most = match levels(&base, &ball, &LevelOptions::of(12, 0.1), &()) {
        Err(RemeshError::TooManyLevels { most, .. }) => most,
        other => panic!("{other:?}"),
    };
    // 600 quads, times four each.
    assert_eq!(most, 7);
    assert!(600 * 4usize.pow(7) <= MOST_QUADS && 600 * 4usize.pow(8) > MOST_QUADS);
    assert!(levels(&base, &ball, &LevelOptions::of(1, f64::NAN), &()).is_err());
    let none = levels(&base, &ball, &LevelOptions::of(0, 0.1), &()).unwrap();
    assert!(none.is_empty());
}

proptest! {
    #![proptest_config(cases(12))]

    /// However wild the surface, no vertex goes farther than it may, and no quad folds that the division has not folded.
    #[test]
    fn no_quad_folds_and_no_vertex_goes_too_far(
        heights in prop::collection::vec(-0.4..0.4f64, 81),
        travel in 0.02..0.5f64,
    ) {
        let mut surface = shapes::grid(8, 8, 1.0, 1.0);
        for (at, height) in surface.positions_mut().iter_mut().zip(heights) {
            at.z = height;
        }
        let base = Model::from(shapes::grid(4, 4, 1.0, 1.0));
        let base = Base { model: &base, sharp: &[], corners: &[], mirror: None };
        let made = levels(&base, &Model::from(surface), &LevelOptions::of(2, travel), &()).unwrap();
        let mut below = base.model.mesh.clone();
        for level in made {
            let mesh = &level.model.mesh;
            let before = divided(below, &[]);
            for (at, was) in mesh.positions().iter().zip(before.positions()) {
                prop_assert!(at.distance(*was) <= travel + 1e-12);
            }
            for (_, face) in mesh.faces() {
                let corner = |mesh: &Mesh, i: usize| {
                    let at = |i: usize| mesh.position(face[i % 4]);
                    (at(i + 1) - at(i)).cross(at(i + 3) - at(i))
                };
                let was: DVec3 = (0..4).map(|i| corner(&before, i)).sum();
                for i in 0..4 {
                    let was_folded = corner(&before, i).dot(was) <= 0.0;
                    prop_assert!(was_folded || corner(mesh, i).dot(was) > 0.0);
                }
            }
            below = mesh.clone();
        }
    }
}
