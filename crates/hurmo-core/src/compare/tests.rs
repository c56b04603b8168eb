use super::*;
use crate::mesh::Model;
use crate::random_cases::cases;
use crate::shapes;
use proptest::prelude::*;

fn compared(before: &Mesh, after: &Mesh) -> Comparison {
    compare(before, after, &CompareOptions::default(), &())
        .unwrap()
        .unwrap()
}

#[test]
fn a_sphere_against_a_larger_one_is_their_difference_of_radius() {
    let (small, large) = (shapes::sphere(1.0, 5), shapes::sphere(1.1, 5));
    let found = compared(&small, &large);
    for way in [&found.from_before, &found.from_after] {
        assert!((way.rms - 0.1).abs() < 0.001, "{}", way.rms);
        assert!((way.mean - 0.1).abs() < 0.001);
        assert!(way.nearer[0] <= way.nearer[1] && way.nearer[1] <= way.nearer[2]);
        assert!(way.max.distance >= way.nearer[2]);
        assert!(way.max.at_most >= way.max.distance);
        assert!(way.max.at_most < 0.102, "{:?}", way.max);
        assert!(way.turned[1] < 3.0, "{:?}", way.turned);
        let line = way.max.at.distance(way.max.nearest);
        assert!((line - way.max.distance).abs() < 1e-12);
    }
    let [one, two] = &found.shapes;
    assert!((two.area / one.area - 1.21).abs() < 1e-9);
    assert!((two.volume / one.volume - 1.331).abs() < 1e-9);
    assert_eq!(one.evenness, two.evenness);
    assert_eq!(one.evenness.iter().sum::<usize>(), one.triangles);
    assert_eq!(one.lengths.iter().sum::<usize>(), 3 * one.triangles);
}

#[test]
fn the_farthest_point_is_found_inside_a_face() {
    // A flat square of two triangles over a pyramid: all corners touch, the middle is a unit off.
    let square = shapes::grid(1, 1, 2.0, 2.0);
    let mut pyramid = shapes::grid(2, 2, 2.0, 2.0);
    for p in pyramid.positions_mut() {
        p.z = if p.x == 1.0 && p.y == 1.0 { -1.0 } else { 0.0 };
    }
    let found = compared(&square, &pyramid);
    // Its quads are cut along diagonals: from the middle to the plane through (1, 1, -1) and two
    // corners beside it, all a unit along another axis.
    let far = found.from_before.max;
    assert!((far.distance - 1.0 / 3f64.sqrt()).abs() < 0.01, "{far:?}");
    assert!(far.at_most <= far.distance * 1.011);
    assert!((found.from_after.max.distance - 1.0).abs() < 1e-12);
    assert_eq!(found.max(), &found.from_after.max);
}

#[test]
fn a_limit_is_proved_kept() {
    let (fine, coarse) = (shapes::sphere(1.0, 5), shapes::sphere(1.0, 4));
    let options = |within| CompareOptions {
        samples: 100,
        within: Some(within),
    };
    let kept = compare(&fine, &coarse, &options(0.02), &())
        .unwrap()
        .unwrap();
    assert!(kept.at_most() <= 0.02, "{}", kept.at_most());
    let broken = compare(&fine, &coarse, &options(1e-4), &())
        .unwrap()
        .unwrap();
    assert!(broken.max().distance > 1e-4);
}

#[test]
fn the_same_surface_differs_in_nothing() {
    let torus = shapes::torus(1.0, 0.3, 30, 20);
    let found = compared(&torus, &torus);
    assert!(found.at_most() < 1e-9, "{}", found.at_most());
    assert!(found.from_before.rms < 1e-12 && found.from_after.turned[1] < 1e-3);
    assert!(
        compare(&torus, &Mesh::default(), &CompareOptions::default(), &())
            .unwrap()
            .is_none()
    );
}

proptest! {
    #![proptest_config(cases(24))]
    /// No point of a scattered surface lies farther than what was proved, nor is what was found
    /// less than at any of many points.
    #[test]
    fn nothing_lies_beyond_the_bound(
        moved in prop::collection::vec(prop::array::uniform3(-0.3..0.3f64), 42),
        gone in prop::collection::btree_set(0usize..80, 0..20),
    ) {
        let sphere = shapes::sphere(1.0, 1);
        let mut other = Model::from(sphere.clone()).without_faces(|f| gone.contains(&f.index())).0.mesh;
        for (p, by) in other.positions_mut().iter_mut().zip(moved) {
            *p += DVec3::from(by);
        }
        let found = compare(&sphere, &other, &CompareOptions { samples: 10, within: None }, &()).unwrap().unwrap();
        let tree = Target::of(&other).tree;
        for (point, _) in area_samples(&sphere, 4000) {
            let off = tree.closest(point).unwrap().distance_squared.sqrt();
            prop_assert!(off <= found.from_before.max.at_most + 1e-12);
            prop_assert!(off <= found.from_before.max.distance * 1.0101 + 1e-9);
        }
    }
}
