use super::*;
use crate::geometry::vector_area_of;
use proptest::prelude::*;

fn area_of(points: &[DVec3], triangles: &[[u32; 3]]) -> f64 {
    let triangle = |t: &[u32; 3]| vector_area_of(t.map(|i| points[i as usize]).into_iter());
    triangles.iter().map(|t| triangle(t).length()).sum()
}

fn assert_covers(points: &[DVec3]) {
    let triangles = polygon(points);
    assert_eq!(triangles.len(), points.len() - 2);
    let whole = vector_area_of(points.iter().copied()).length();
    let sum = area_of(points, &triangles);
    assert!((sum - whole).abs() <= 1e-9 * whole, "{sum} of {whole}");
}

#[test]
fn an_even_strip_becomes_quads_and_a_pentagon_a_quad_and_a_triangle() {
    let strip: Vec<_> = (0..=6)
        .map(|i| (f64::from(i), 0.0))
        .chain((0..=6).rev().map(|i| (f64::from(i), 1.0)))
        .collect();
    let pieces = quads_and_triangles(&flat(&strip));
    assert_eq!(pieces.len(), 6);
    assert!(pieces.iter().all(|piece| piece.len() == 4));
    let house = flat(&[(0., 0.), (2., 0.), (2., 2.), (1., 3.), (0., 2.)]);
    let mut sides: Vec<_> = quads_and_triangles(&house).iter().map(Vec::len).collect();
    sides.sort_unstable();
    assert_eq!(sides, [3, 4]);
}

fn flat(points: &[(f64, f64)]) -> Vec<DVec3> {
    points.iter().map(|&(x, y)| DVec3::new(x, y, 2.0)).collect()
}

#[test]
fn a_concave_quad_takes_the_inner_diagonal() {
    let dart = flat(&[(0., 0.), (4., -2.), (1., 0.), (4., 2.)]);
    assert_eq!(polygon(&dart), [[0, 1, 2], [0, 2, 3]]);
    let turned = [dart[1], dart[2], dart[3], dart[0]];
    assert_covers(&turned);
}

/// A unit square twice on two opposite corners: a valley of two quads below a ridge of two.
fn tent() -> Mesh {
    let corners = [
        (0., 0., 0.),
        (1., 0., 0.),
        (1., 1., 0.),
        (0., 1., 0.),
        (1., 0., 1.),
        (0., 1., 1.),
    ];
    let corners = corners.map(|(x, y, z)| DVec3::new(x, y, z));
    let mut mesh = Mesh::from_parts(corners.to_vec(), vec![], vec![0]).unwrap();
    for face in [[0, 1, 2, 3], [0, 4, 2, 5]] {
        mesh.push_face(face.map(VertexId::new));
    }
    mesh
}

fn edges_with_over_two_sides(triangles: &[[VertexId; 3]]) -> usize {
    let mut sides = std::collections::HashMap::new();
    for &[a, b, c] in triangles {
        for (from, to) in [(a, b), (b, c), (c, a)] {
            *sides.entry((from.min(to), from.max(to))).or_insert(0) += 1;
        }
    }
    sides.values().filter(|&&count| count > 2).count()
}

#[test]
fn faces_that_share_opposite_corners_are_not_cut_along_one_diagonal() {
    let tent = tent();
    let (triangles, _) = all_triangles(&tent);
    assert_eq!(
        (triangles.len(), edges_with_over_two_sides(&triangles)),
        (4, 0)
    );
    let (cut, count) = model(&Model::from(tent.clone()), Which::All);
    assert_eq!(
        (
            count,
            edges_with_over_two_sides(&all_triangles(&cut.mesh).0)
        ),
        (2, 0)
    );

    // A triangle's edge, and an n-gon's.
    let mut roof = tent.clone();
    roof.push_vertex(DVec3::new(0.5, 0.5, -1.0));
    roof.push_face([0, 2, 6].map(VertexId::new));
    let (triangles, _) = all_triangles(&roof);
    let along = |t: &&[VertexId; 3]| [0, 2].iter().all(|&v| t.contains(&VertexId::new(v)));
    assert_eq!(triangles.iter().filter(along).count(), 1);
    let mut ngon = Mesh::from_parts(roof.positions().to_vec(), vec![], vec![0]).unwrap();
    ngon.push_face([0, 2, 6].map(VertexId::new));
    ngon.push_face([0, 1, 4, 2, 3].map(VertexId::new));
    let (triangles, _) = all_triangles(&ngon);
    assert_eq!(triangles.iter().filter(along).count(), 1);
}

#[test]
fn a_quad_whose_opposite_corners_are_one_becomes_no_two_faces_on_the_same_vertices() {
    let [a, b, _, d] = [(0., 0.), (2., 0.), (1., 1.), (0., 2.)];
    for corners in [[a, b, a, d], [b, a, d, a]] {
        let points = flat(&corners);
        let covers = |t: &[u32; 3]| area_of(&points, &[*t]) > 0.0;
        assert!(!polygon(&points).iter().any(covers));
    }
}

#[test]
fn doubled_polygons_are_cut_alike_and_so_stay_doubled() {
    let mut doubled = Mesh::from_parts(tent().positions().to_vec(), vec![], vec![0]).unwrap();
    doubled.push_face([0, 1, 2, 3].map(VertexId::new));
    doubled.push_face([3, 2, 1, 0].map(VertexId::new));
    let (triangles, _) = all_triangles(&doubled);
    let sorted = triangles.iter().map(|t| {
        let mut t = *t;
        t.sort_unstable();
        t
    });
    let distinct: std::collections::HashSet<_> = sorted.collect();
    assert_eq!(distinct.len(), 2);
}

#[test]
fn a_comb_is_covered_once() {
    let mut comb = vec![(0.0, 0.0), (20.0, 0.0)];
    for tooth in (0..10).rev() {
        comb.push((tooth as f64 * 2.0 + 1.9, 9.0));
        comb.push((tooth as f64 * 2.0 + 1.0, 1.0));
        comb.push((tooth as f64 * 2.0 + 0.1, 9.0));
    }
    assert_covers(&flat(&comb));
}

#[test]
fn points_along_a_side_leave_no_empty_triangle() {
    let points = flat(&[(0., 0.), (1., 0.), (2., 0.), (3., 0.), (3., 3.), (0., 3.)]);
    assert_covers(&points);
    for triangle in polygon(&points) {
        assert!(quality(triangle.map(|i| points[i as usize])) > 0.1);
    }
}

#[test]
fn a_polygon_that_crosses_itself_still_gets_its_triangles() {
    let star: Vec<_> = (0..5)
        .map(|i| f64::from(i * 2) * std::f64::consts::TAU / 5.0)
        .map(|turn| (turn.cos(), turn.sin()))
        .collect();
    assert_eq!(polygon(&flat(&star)).len(), 3);
}

proptest! {
    #[test]
    fn star_shaped_polygons_are_covered(
        radii in prop::collection::vec(0.2..3.0f64, 5..60),
        tilt in -1.0..1.0f64,
    ) {
        let count = radii.len() as f64;
        let points: Vec<_> = radii
            .iter()
            .enumerate()
            .map(|(i, r)| {
                let turn = std::f64::consts::TAU * i as f64 / count;
                let (x, y) = (r * turn.cos(), r * turn.sin());
                DVec3::new(x, y, tilt * x)
            })
            .collect();
        assert_covers(&points);
        let pieces = quads_and_triangles(&points);
        let corners: usize = pieces.iter().map(|piece| piece.len() - 2).sum();
        prop_assert_eq!(corners, points.len() - 2);
        let area = |piece: &Vec<u32>| {
            let corners = piece.iter().map(|&i| points[i as usize]);
            let normal = vector_area_of(points.iter().copied()).normalize();
            vector_area_of(corners).dot(normal)
        };
        let areas: Vec<f64> = pieces.iter().map(area).collect();
        prop_assert!(areas.iter().all(|&area| area > -1e-9));
        let whole = vector_area_of(points.iter().copied()).length();
        prop_assert!((areas.iter().sum::<f64>() - whole).abs() <= 1e-9 * whole);
    }
}
