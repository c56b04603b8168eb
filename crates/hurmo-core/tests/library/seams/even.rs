//! Seams that stay sharp: triangles even beside them, normals shaded over them.

use super::*;

#[test]
fn triangles_are_even_along_a_seam_that_stays() {
    let fine = shapes::sphere(1.0, 5);
    let coarse = moved(&shapes::sphere(1.0, 3), |p| p + DVec3::new(1.1, 0.2, 0.1));
    let width = 0.35;
    let mut options = SeamOptions::default();
    options.even_along = Some(width);
    let made = made(&fine, &coarse, UNION, options);
    let evened = made.after.evened.unwrap();
    let mesh = &made.after.model.mesh;
    assert_sound(mesh);
    assert!(evened.after > 200, "{evened:?}");
    // The seam is where it was: every vertex between faces of both lies on it.
    let solids: Vec<u32> = made
        .after
        .sources
        .iter()
        .map(|s| made.solids[s.index()])
        .collect();
    let seam = |mesh: &Mesh, solids: &[u32]| -> Vec<[DVec3; 2]> {
        let edges = hurmo_core::topology::Edges::of(mesh);
        let both = edges.ids().filter(|&edge| {
            let sides = edges.sides(edge);
            sides
                .iter()
                .any(|side| solids[side.face.index()] != solids[sides[0].face.index()])
        });
        both.map(|edge| edges.ends(edge).map(|v| mesh.position(v)))
            .collect()
    };
    let before = seam(&made.before.model.mesh, &made.solids);
    let after = seam(mesh, &solids);
    let off = |p: DVec3| {
        let each = before.iter().map(|&[a, b]| {
            let share = ((p - a).dot(b - a) / (b - a).length_squared()).clamp(0.0, 1.0);
            p.distance(a.lerp(b, share))
        });
        each.fold(f64::INFINITY, f64::min)
    };
    assert!(after.iter().flatten().all(|&p| off(p) < 1e-9));
    let length = |seam: &[[DVec3; 2]]| seam.iter().map(|[a, b]| a.distance(*b)).sum::<f64>();
    assert!((length(&after) / length(&before) - 1.0).abs() < 0.02);
    // Beside it, no needles: nearly all angles of new triangles lie from 30° to 100°.
    let known: HashSet<_> = made
        .before
        .model
        .mesh
        .faces()
        .map(|(_, corners)| {
            corners
                .iter()
                .map(|&v| {
                    made.before
                        .model
                        .mesh
                        .position(v)
                        .to_array()
                        .map(f64::to_bits)
                })
                .collect::<Vec<_>>()
        })
        .collect();
    let new = mesh.face_ids().filter(|&face| {
        let places: Vec<_> = mesh
            .face_points(face)
            .map(|p| p.to_array().map(f64::to_bits))
            .collect();
        !known.contains(&places)
    });
    let angles = |face: FaceId| {
        let points: Vec<DVec3> = mesh.face_points(face).collect();
        [0, 1, 2].map(|i| {
            let ends = [points[(i + 1) % 3], points[(i + 2) % 3]];
            corner_angle(points[i], ends).to_degrees()
        })
    };
    let all: Vec<f64> = new.flat_map(angles).collect();
    let even = all
        .iter()
        .filter(|angle| (30.0..100.0).contains(*angle))
        .count();
    assert!(
        even as f64 > 0.9 * all.len() as f64,
        "{even} of {}",
        all.len()
    );
    let change = volume(mesh) / volume(&made.before.model.mesh) - 1.0;
    assert!(change.abs() < 0.01, "{change}");
}

#[test]
fn solids_that_do_not_meet_have_no_seam() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
    let other = moved(&cube, |p| p + DVec3::splat(3.0));
    let (before, solids, sizes) = joined(&cube, &other, UNION);
    let joined = Joined {
        model: &before.model,
        solids: &solids,
        sizes: &sizes,
    };
    assert!(seam::finish(&joined, &rounded(0.1), &()).unwrap().is_none());
}

/// Softened, both sides have one normal at the seam, and other hard edges stay hard.
#[test]
fn normals_go_over_softly() {
    let (plate, rib) = rib();
    let (mut before, solids, _) = joined(&plate, &rib, UNION);
    assert!(
        seam::softened(&before.model, &solids).is_none(),
        "no normals"
    );
    before.model.attributes.normals = Some(normals(&before.model.mesh, Shading::Flat));
    let (soft, edges) = seam::softened(&before.model, &solids).unwrap();
    assert!(edges >= 4);
    let layer = soft.attributes.normals.as_ref().unwrap();
    let mesh = &soft.mesh;
    let at = |place: DVec3| -> Vec<DVec3> {
        let corners = 0..mesh.corners().len();
        let here = corners.filter(|&c| mesh.position(mesh.corners()[c]) == place);
        here.map(|corner| layer.at(corner).unwrap()).collect()
    };
    // Where plate and rib meet at a corner of the rib: one normal, that looks out between all three.
    let corner = at(DVec3::new(1.0, 4.0, 0.0));
    assert!(corner.len() >= 3);
    assert!(corner.iter().all(|n| n.distance(corner[0]) < 1e-12));
    assert!(corner[0].min_element() > 0.05, "{}", corner[0]);
    // On top of the rib edges are as hard as they were.
    let top = at(DVec3::new(1.0, 4.0, 3.0));
    assert!(top.len() >= 3);
    assert!(top.iter().all(|n| n.abs().max_element() > 1.0 - 1e-12));
}
