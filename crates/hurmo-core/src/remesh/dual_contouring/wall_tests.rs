use super::tests::{assert_sound, joined, moved, skin_of};
use super::*;
use crate::measure::volume;
use crate::mesh::VertexId;
use crate::shapes;
use crate::topology::Parts;

fn skin_with(mesh: &Mesh, options: &ReskinOptions) -> ReskinOutcome {
    let outcome = skin_of(&Model::from(mesh.clone()), options).unwrap();
    assert_sound(&outcome.model.mesh);
    outcome
}

/// The faces that `turned` names, by number, the other way round.
fn turned(mesh: &Mesh, turned: impl Fn(usize) -> bool) -> Mesh {
    let mut other = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
    for (face, corners) in mesh.faces() {
        let mut corners = corners.to_vec();
        if turned(face.index()) {
            corners.reverse();
        }
        other.push_face(corners);
    }
    other
}

#[test]
fn around_faces_that_look_anywhere_lies_a_skin_at_its_distance() {
    // Faces apart from each other, so that none gets a direction from its neighbours.
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 4);
    let mut scraps = Mesh::default();
    for (_, corners) in turned(&cube, |face| face % 3 == 0).faces() {
        let own = corners
            .iter()
            .map(|&v| cube.position(v))
            .collect::<Vec<_>>();
        let names: Vec<VertexId> = own.into_iter().map(|at| scraps.push_vertex(at)).collect();
        scraps.push_face(names);
    }
    let away = 0.2;
    let options = ReskinOptions {
        offset: Some(away),
        ..ReskinOptions::of(0.05)
    };
    let outcome = skin_with(&scraps, &options);
    // Steiner's formula, and the room within filled.
    let pi = std::f64::consts::PI;
    let full = 1.0 + 6.0 * away + 3.0 * pi * away * away + 4.0 / 3.0 * pi * away.powi(3);
    let found = volume(&outcome.model.mesh);
    assert!((found - full).abs() < 5e-3 * full, "{found} of {full}");
    let room = outcome.voids[0];
    assert!((room.volume - 0.6f64.powi(3)).abs() < 5e-3, "{room:?}");
    assert!(outcome.lost.is_empty(), "{:?}", outcome.lost);
}

#[test]
fn gaps_are_closed_up_to_a_width_and_corners_stay_as_they_are() {
    let cube = |at: DVec3| moved(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2), at);
    // Two gaps, and a block that stands on another, so that there are inner corners.
    let blocks = joined(&[
        cube(DVec3::ZERO),
        cube(DVec3::X * 1.12),
        cube(DVec3::X * -1.3),
        moved(
            shapes::cuboid(DVec3::ZERO, DVec3::new(0.4, 0.4, 1.5), 2),
            DVec3::splat(0.3),
        ),
    ]);
    let cell = 0.05;
    let gap = |closed: f64| 3.0 + closed + 0.16 * 0.8;
    for (widest, parts, full) in [
        (0.1, 3, gap(0.0)),
        (0.15, 2, gap(0.12)),
        (0.4, 1, gap(0.42)),
    ] {
        let options = ReskinOptions {
            close_gaps: Some(widest),
            ..ReskinOptions::of(cell)
        };
        let outcome = skin_with(&blocks, &options);
        assert_eq!(Parts::of(&outcome.model.mesh).len(), parts);
        let found = volume(&outcome.model.mesh);
        // The rim of what fills a gap is known to a part of a cell.
        let off = 4.0 * 0.5 * cell * (full - gap(0.0)) + 4e-3;
        assert!((found - full).abs() < off, "{found} of {full} for {widest}");
        assert_eq!(
            outcome.bridged.map(|gaps| gaps.across > 0.11),
            (parts < 3).then_some(true)
        );
    }
}

#[test]
fn thin_walls_and_sheets_are_made_thicker() {
    let plate = shapes::cuboid(DVec3::ZERO, DVec3::new(1.0, 1.0, 0.01), 3);
    let sheet = moved(shapes::grid(5, 5, 1.0, 1.0), DVec3::new(1.5, 0.0, 0.0));
    let block = moved(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1), DVec3::X * -2.0);
    let cell = 0.04;
    let options = ReskinOptions {
        min_thickness: Some(0.15),
        ..ReskinOptions::of(cell)
    };
    let outcome = skin_with(&joined(&[plate, sheet, block]), &options);
    assert_eq!(outcome.thin_count, 0);
    assert!(outcome.lost.is_empty());
    let mesh = &outcome.model.mesh;
    let parts = crate::measure::parts_measured(mesh, &Parts::of(mesh));
    let sizes: Vec<DVec3> = parts.iter().map(|part| part.bounds.size()).collect();
    assert_eq!(sizes.len(), 3);
    for size in sizes {
        let least = if size.z > 0.5 { 1.0 } else { 0.15 };
        assert!((size.z - least).abs() < 0.05 * cell, "{size}");
        // Sideways it grows by less than a cell at each end.
        assert!((size.x - 1.0).abs() < 1.5 * cell, "{size}");
    }
    assert!(outcome.thickened.is_some_and(|walls| walls.across == 0.0));
    // A pipe's wall, from both sides.
    let profile = [(0.3, 0.0), (0.33, 0.0), (0.33, 1.0), (0.3, 1.0), (0.3, 0.0)];
    let pipe = shapes::lathe(&profile.map(glam::DVec2::from), 64, false);
    let options = ReskinOptions {
        min_thickness: Some(0.1),
        ..ReskinOptions::of(0.03)
    };
    let found = volume(&skin_with(&pipe, &options).model.mesh);
    let round = |outer: f64, inner: f64| std::f64::consts::PI * (outer * outer - inner * inner);
    let [least, most] = [1.0, 1.03].map(|height| round(0.365, 0.265) * height);
    assert!(
        (0.98 * least..1.02 * most).contains(&found),
        "{found} of {least}"
    );
}

#[test]
fn voids_are_told_and_filled_with_all_that_is_in_them() {
    let inward = turned(&shapes::sphere(0.7, 4), |_| true);
    // The wall of a hollow faces inward, and there is a ball in it.
    let hollow = joined(&[shapes::sphere(1.0, 4), inward, shapes::sphere(0.3, 3)]);
    let ball = |radius: f64| 4.0 / 3.0 * std::f64::consts::PI * radius.powi(3);
    let made = skin_with(&hollow, &ReskinOptions::of(0.06));
    assert_eq!(made.voids.len(), 1);
    let found = made.voids[0].volume;
    assert!((found - ball(0.7)).abs() < 0.02 * ball(0.7), "{found}");
    let found = volume(&made.model.mesh);
    let full = ball(1.0) - ball(0.7) + ball(0.3);
    assert!((found - full).abs() < 0.02 * full, "{found} of {full}");
    // Two cups put together enclose one that neither has.
    let shell = |flip: f64| {
        let profile = [
            (0.0, -1.0),
            (1.0, -1.0),
            (1.0, 0.1),
            (0.6, 0.1),
            (0.6, -0.6),
            (0.0, -0.6),
        ];
        let profile = profile.map(|(r, z)| glam::DVec2::new(r, z * flip));
        turned(&shapes::lathe(&profile, 48, false), |_| flip < 0.0)
    };
    let room = joined(&[shell(1.0), shell(-1.0), shapes::sphere(0.3, 3)]);
    let made = skin_with(&room, &ReskinOptions::of(0.06));
    assert_eq!(made.voids.len(), 1);
    let full = std::f64::consts::PI * 2.0;
    let hole = std::f64::consts::PI * 0.36 * 1.2;
    let void = made.voids[0];
    assert!(
        (void.volume - hole).abs() < 0.02 * hole,
        "{void:?} of {hole}"
    );
    assert!(void.at.length() < 0.05);
    let options = ReskinOptions {
        fill_voids: true,
        ..ReskinOptions::of(0.06)
    };
    let filled = skin_with(&room, &options);
    assert_eq!(Parts::of(&filled.model.mesh).len(), 1);
    let found = volume(&filled.model.mesh);
    assert!((found - full).abs() < 0.01 * full, "{found} of {full}");
}
