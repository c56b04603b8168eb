use super::*;
use crate::shapes;

#[test]
fn one_inside_and_none_outside_a_closed_surface() {
    let mut worst = 0.0f64;
    for mesh in [
        shapes::bumpy_sphere(4000),
        shapes::torus(1.0, 0.4, 60, 30),
        shapes::cuboid(DVec3::splat(-0.7), DVec3::splat(0.6), 1),
    ] {
        let hierarchy = TriangleHierarchy::whole(&mesh);
        let winding = Winding::of(&hierarchy);
        for i in 0..400 {
            let t = i as f64;
            let point = DVec3::new((t * 0.7).sin(), (t * 1.3).cos(), (t * 0.37).sin()) * 1.4;
            let exact: f64 = (0..hierarchy.len())
                .map(|i| solid_angle(hierarchy.corners(i), point))
                .sum::<f64>()
                / (4.0 * PI);
            assert!((exact - exact.round()).abs() < 1e-9);
            worst = worst.max((winding.at(point) - exact).abs());
        }
    }
    assert!(worst < 0.03, "{worst}");
}

#[test]
fn an_open_surface_is_told_as_by_summing_up_all_triangles() {
    let tube = shapes::lathe(
        &[glam::DVec2::new(1.0, 0.0), glam::DVec2::new(1.2, 2.0)],
        200,
        false,
    );
    let mut worst = 0.0f64;
    let hierarchy = TriangleHierarchy::whole(&tube);
    let winding = Winding::of(&hierarchy);
    for i in 0..200 {
        let t = i as f64;
        let point = DVec3::new((t * 0.7).sin(), (t * 1.3).cos(), 1.0 + (t * 0.37).sin());
        let exact: f64 = (0..hierarchy.len())
            .map(|i| solid_angle(hierarchy.corners(i), point))
            .sum::<f64>()
            / (4.0 * PI);
        worst = worst.max((winding.at(point) - exact).abs());
    }
    assert!(worst < 0.03, "{worst}");
}

#[test]
fn no_point_of_a_ball_has_more_than_its_bound() {
    let tube = shapes::lathe(
        &[glam::DVec2::new(1.0, 0.0), glam::DVec2::new(1.2, 2.0)],
        60,
        false,
    );
    let hierarchy = TriangleHierarchy::whole(&tube);
    let winding = Winding::of(&hierarchy);
    let mut bounded = 0;
    for i in 0..300 {
        let t = f64::from(i);
        let spot = |t: f64| DVec3::new((t * 0.7).sin(), (t * 1.3).cos(), (t * 0.37).sin());
        let (middle, radius) = (spot(t) * (2.0 + t / 50.0), 0.3);
        let bound = winding.at_most_in(middle, radius, f64::INFINITY);
        let most = (0..20)
            .map(|j| middle + spot(f64::from(j) + t) * (radius / 3f64.sqrt()))
            .map(|point| winding.at(point).abs())
            .fold(0.0, f64::max);
        assert!(most <= bound + 0.03, "{most} of {bound}");
        bounded += usize::from(bound < 0.2);
    }
    assert!(bounded > 50, "{bounded}");
}

#[test]
fn a_face_has_one_side_in_and_one_out() {
    let sphere = shapes::sphere(1.0, 3);
    let hierarchy = TriangleHierarchy::whole(&sphere);
    let winding = Winding::of(&hierarchy);
    for triangle in 0..hierarchy.len() {
        let [a, b, c] = hierarchy.corners(triangle);
        let offset = (b - a).cross(c - a).normalize() * 1e-6;
        let sides = winding.both_sides((a + b + c) / 3.0, offset);
        assert!(sides.front.abs() < 0.03 && (sides.back - 1.0).abs() < 0.03);
    }
}
