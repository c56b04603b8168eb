//! Seams rounded into fillets.

use super::*;

/// In a right angle, the arc lies R from a line that lies R from both sides, and leaves these R from where
/// they meet.
#[test]
fn a_radius_that_takes_too_many_triangles_is_refused_with_the_smallest_that_does_not() {
    let (one, other) = rib();
    let (before, solids, sizes) = joined(&one, &other, UNION);
    let joined = Joined {
        model: &before.model,
        solids: &solids,
        sizes: &sizes,
    };
    let refused = seam::finish(&joined, &rounded(1e-7), &()).unwrap_err();
    let RemeshError::RadiusTooSmall {
        count,
        most,
        smallest,
        ..
    } = refused
    else {
        panic!("{refused}");
    };
    assert!(count > most as f64 && smallest > 1e-7, "{refused}");
    // As many as are expected: at a hundred times that radius, a hundredth.
    let expected = most as f64 / 100.0;
    let after = seam::finish(&joined, &rounded(100.0 * smallest), &()).unwrap();
    let new = after.unwrap().model.mesh.face_count() - before.model.mesh.face_count();
    let share = new as f64 / expected;
    assert!((0.33..3.0).contains(&share), "{new}, {expected} expected");
}

#[test]
fn a_fillet_in_a_right_angle_is_an_arc() {
    let (plate, rib) = rib();
    let radius = 0.8;
    let made = made(&plate, &rib, UNION, rounded(radius));
    let fillets = made.after.fillets.unwrap();
    assert_eq!((fillets.rounded, fillets.left, fillets.flat), (1, 0, 0));
    assert_sound(&made.after.model.mesh);
    // Away from the rib's ends.
    let middle = DVec2::new(1.0 + radius, radius);
    let is_arc = |p: &&DVec3| {
        let inside = p.x > 1.05 && p.x < 1.7 && p.z > 0.05 && p.z < 0.7;
        inside && p.y.abs() < 2.0
    };
    let places = new_places(&made);
    let off: Vec<f64> = places
        .iter()
        .filter(is_arc)
        .map(|p| (p.xz().distance(middle) - radius).abs() / radius)
        .collect();
    assert!(off.len() > 20, "{}", off.len());
    let most = off.iter().copied().fold(0.0, f64::max);
    assert!(most < 0.06, "off the arc by {most} of the radius");
    let [_, median, _] = fillets.radius.unwrap();
    assert!((median / radius - 1.0).abs() < 0.1, "{median}");
    // What no longer lies on the solids is within the fillet's reach.
    let off_solids = |p: &DVec3| {
        let planes = [p.z, p.z - 3.0, p.z + 1.0, p.x.abs() - 1.0, p.y.abs() - 4.0];
        let sides = [p.x.abs() - 6.0, p.y.abs() - 6.0];
        planes.iter().chain(&sides).all(|off| off.abs() > 1e-9)
    };
    let reach = |p: &DVec3| {
        let beside = (p.x.abs() - 1.0).max(p.y.abs() - 4.0);
        p.z < radius && beside < radius
    };
    assert!(places.iter().filter(|p| off_solids(p)).all(reach));
    // Two straight fillets fill R² (1 - π/4) for each length; the four corners a little more or less.
    let gained = volume(&made.after.model.mesh) - volume(&made.before.model.mesh);
    let expected = (1.0 - PI / 4.0) * radius * radius * (2.0 * 8.0 + 2.0 * 2.0);
    assert!(
        (gained / expected - 1.0).abs() < 0.2,
        "{gained} for {expected}"
    );
}

/// Where one solid is taken from another, the edge that is left is convex: rounding takes away.
#[test]
fn convex_edges_are_rounded_inward() {
    let (plate, rib) = rib();
    let made = made(&plate, &rib, DIFFERENCE, rounded(0.2));
    let fillets = made.after.fillets.unwrap();
    assert!(fillets.rounded > 0 && fillets.left == 0, "{fillets:?}");
    assert_sound(&made.after.model.mesh);
    let lost = volume(&made.before.model.mesh) - volume(&made.after.model.mesh);
    assert!(lost > 0.0, "{lost}");
}

/// Round where two balls meet, an arc of the radius rolls round the axis.
#[test]
fn balls_go_over_into_each_other() {
    let ball = shapes::sphere(1.0, 4);
    let other = moved(&ball, |p| p + DVec3::new(1.2, 0.0, 0.0));
    let radius = 0.25;
    let made = made(&ball, &other, UNION, rounded(radius));
    let fillets = made.after.fillets.unwrap();
    assert_eq!((fillets.rounded, fillets.left), (1, 0));
    assert_sound(&made.after.model.mesh);
    // The arc's middle lies 1 + R from both balls' middles.
    let off_axis = ((1.0 + radius).powi(2) - 0.36f64).sqrt();
    let middle = DVec2::new(0.6, off_axis);
    let touches = 0.6 / (1.0 + radius);
    for place in new_places(&made) {
        let here = DVec2::new(place.x, place.yz().length());
        if (here.x - 0.6).abs() < 0.8 * (0.6 - touches) {
            let off = (here.distance(middle) - radius).abs() / radius;
            assert!(off < 0.1, "off by {off} of the radius at {place}");
        }
    }
    // What lies beyond is as it was, to the last bit.
    let far = |p: &&DVec3| (p.x - 0.6).abs() > 0.8;
    let key = |p: &DVec3| p.to_array().map(f64::to_bits);
    let set = |model: &Model| -> HashSet<_> {
        model.mesh.positions().iter().filter(far).map(key).collect()
    };
    assert_eq!(set(&made.before.model), set(&made.after.model));
}

/// What is read in single precision is rounded to that before it is checked.
#[test]
fn what_was_single_stays_single() {
    let ball = shapes::sphere(1.0, 3);
    let single = |p: DVec3| p.as_vec3().as_dvec3();
    let one = moved(&ball, single);
    let other = moved(&ball, |p| single(p + DVec3::new(1.2, 0.1, 0.0)));
    let mut options = SeamOptions::default();
    options.even_along = Some(0.3);
    options.radius = Some(0.2);
    let made = made(&one, &other, UNION, options);
    assert!(made.after.fillets.unwrap().moved > 0);
    assert!(made.after.model.mesh.is_single());
    assert_sound(&made.after.model.mesh);
}

/// A gap narrower than the fillets on both of its sides: they would meet.
#[test]
fn what_has_no_room_stays_sharp() {
    let plate = shapes::cuboid(DVec3::new(-6.0, -6.0, -1.0), DVec3::new(6.0, 6.0, 0.0), 1);
    let wall = |x: f64| shapes::cuboid(DVec3::new(x, -4.0, -0.5), DVec3::new(x + 1.0, 4.0, 3.0), 1);
    let mut walls = wall(0.2);
    walls.append(&wall(-1.2));
    let made = made(&plate, &walls, UNION, rounded(1.5));
    assert_sound(&made.after.model.mesh);
    let fillets = made.after.fillets.unwrap();
    let away = volume(&made.after.model.mesh) - volume(&made.before.model.mesh);
    // Either it is left and reported, or the gap is filled without a crossing.
    assert!(fillets.left > 0 && away.abs() < 1e-9 || fillets.rounded > 0 && away > 0.0);
}

/// Two posts that all but coincide: cuts leave needles all along the seam, by which no edge may be measured.
#[test]
fn needles_beside_a_seam_do_not_make_it_finer() {
    let profile = [
        (0.4, 0.0),
        (0.4, 0.15),
        (0.27, 0.15),
        (0.22, 0.5),
        (0.35, 0.6),
        (0.35, 0.7),
        (0.2, 0.9),
    ];
    let profile = profile.map(|(radius, z)| DVec2::new(radius, z));
    let post = shapes::lathe(&profile, 8, true);
    let turn = DMat3::from_rotation_z(1.0001f64.to_radians());
    let other = moved(&post, |p| turn * p + DVec3::new(0.0, 0.12, 1e-5));
    let made = made(&post, &other, UNION, rounded(0.087));
    let mesh = &made.after.model.mesh;
    assert_sound(mesh);
    // Edges of a fifth of the radius, everywhere, would be some 22,000.
    assert!(mesh.face_count() < 30_000, "{} faces", mesh.face_count());
}
