//! Sharp corners, narrow strips and many irregular vertices.

use super::tests::{rebuilt, topology};
use super::*;
use crate::mesh::Mesh;
use crate::shapes;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// A prism over a polygon, counter-clockwise from above.
fn prism(polygon: &[[f64; 2]], height: f64) -> Mesh {
    let count = polygon.len();
    let mut mesh = Mesh::default();
    for z in [0.0, height] {
        for &[x, y] in polygon {
            mesh.push_vertex(DVec3::new(x, y, z));
        }
    }
    mesh.push_face((0..count).rev().map(VertexId::new));
    mesh.push_face((count..2 * count).map(VertexId::new));
    for i in 0..count {
        let next = (i + 1) % count;
        mesh.push_face([i, next, next + count, i + count].map(VertexId::new));
    }
    mesh
}

/// What is flat stays so, and each edge of the model is a line of edges: the volume is the same but for rounding.
fn assert_exact(mesh: &Mesh, target: QuadTarget) -> QuadOutcome {
    let made = rebuilt(mesh.clone(), target);
    assert_eq!(topology(&made.model.mesh), (2, 0, 0));
    assert_eq!((made.parts_paired, made.crossing), (0, 0));
    let [was, is] = [mesh, &made.model.mesh].map(measure::volume);
    assert!((is / was - 1.0).abs() < 1e-6, "{was} {is}");
    made
}

/// Between the two lines at a tip of a few degrees a field that follows both would not turn.
#[test]
fn a_wedge_ends_in_one_quad() {
    for degrees in [4.0, 12.0, 25.0, 40.0f64] {
        let high = degrees.to_radians().tan();
        let wedge = prism(&[[0.0, 0.0], [1.0, 0.0], [1.0, high]], 0.3);
        let made = assert_exact(&wedge, QuadTarget::Edge(0.1));
        assert!(made.model.mesh.face_count() < 600, "{degrees}");
    }
}

/// A strip far narrower than a side: its lines lie closer across, and not along.
#[test]
fn a_narrow_strip_is_one_quad_wide() {
    let count = |thickness: f64| {
        let plate = shapes::cuboid(DVec3::ZERO, DVec3::new(1.0, 1.0, thickness), 1);
        let made = assert_exact(&plate, QuadTarget::Edge(0.1));
        made.model.mesh.face_count()
    };
    let thick = count(0.1);
    for thickness in [0.02, 0.004, 0.0008] {
        let thin = count(thickness);
        assert!(thin < 2 * thick, "{thin} of {thick} at {thickness}");
    }
}

/// A plate with studs on it in rows.
fn studded(rows: usize) -> Mesh {
    let cells = 2 * rows + 1;
    let height = |x: usize, y: usize| if x % 2 == 1 && y % 2 == 1 { 2 } else { 1 };
    let mut mesh = Mesh::default();
    let mut names: FxHashMap<[usize; 3], VertexId> = FxHashMap::default();
    let mut face = |corners: [[usize; 3]; 4]| {
        let own = corners.map(|at| {
            let place = DVec3::from_array(at.map(|x| x as f64));
            *names.entry(at).or_insert_with(|| mesh.push_vertex(place))
        });
        mesh.push_face(own);
    };
    for (x, y) in (0..cells).flat_map(|x| (0..cells).map(move |y| (x, y))) {
        let top = height(x, y);
        let square = [[x, y], [x + 1, y], [x + 1, y + 1], [x, y + 1]];
        face(square.map(|[x, y]| [x, y, top]));
        let [a, b, c, d] = square.map(|[x, y]| [x, y, 0]);
        face([a, d, c, b]);
        let beyond = [
            (x, y.wrapping_sub(1)),
            (x + 1, y),
            (x, y + 1),
            (x.wrapping_sub(1), y),
        ];
        for (side, (x, y)) in beyond.into_iter().enumerate() {
            let other = if x < cells && y < cells {
                height(x, y)
            } else {
                0
            };
            let [from, to] = [square[side], square[(side + 1) % 4]];
            for z in other..top {
                let at = |[x, y]: [usize; 2], z| [x, y, z];
                face([at(from, z), at(to, z), at(to, z + 1), at(from, z + 1)]);
            }
        }
    }
    mesh
}

/// Hundreds of corners: what they depend on each other by are long sums.
#[test]
fn hundreds_of_corners_are_mapped() {
    let plate = studded(8);
    let made = assert_exact(&plate, QuadTarget::Edge(0.5));
    assert!(made.irregular >= 8 * 64, "{}", made.irregular);
}
