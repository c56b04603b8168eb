//! Sharp edges of mechanical shapes, and letters cut from a plate.

use super::ReskinOptions;
use super::tests::{assert_sound, joined, moved, skin, skin_of};
use crate::mesh::{Mesh, Model, VertexId};
use crate::shapes;
use crate::spatial::TriangleTree;
use crate::topology::Edges;
use glam::{DQuat, DVec2, DVec3};
use std::f64::consts::TAU;

/// A prism over a polygon, from z = 0 up.
fn prism(outline: &[DVec2], height: f64) -> Mesh {
    let mut mesh = Mesh::default();
    let mut level = |z: f64| -> Vec<VertexId> {
        let corners = outline.iter().map(|at| at.extend(z));
        corners.map(|at| mesh.push_vertex(at)).collect()
    };
    let (low, high) = (level(0.0), level(height));
    let count = outline.len();
    for i in 0..count {
        let next = (i + 1) % count;
        mesh.push_face([low[i], low[next], high[next], high[i]]);
    }
    mesh.push_face(low.iter().rev().copied());
    mesh.push_face(high);
    mesh
}

fn gear(teeth: usize) -> Mesh {
    let step = TAU / teeth as f64;
    let tooth = [(0.0, 0.8), (0.15, 1.1), (0.4, 1.1), (0.55, 0.8)];
    let corners = (0..teeth).flat_map(|i| {
        tooth.map(|(share, radius)| DVec2::from_angle((i as f64 + share) * step) * radius)
    });
    prism(&corners.collect::<Vec<_>>(), 0.5)
}

/// How far places all along the edges that bend by more than 30° lie off a skin, in order.
fn edges_off(mesh: &Mesh, skin: &Mesh) -> Vec<f64> {
    let corners = |f: usize| {
        let face = skin.face(crate::mesh::FaceId::new(f));
        [0, 1, 2].map(|i| skin.position(face[i]))
    };
    let tree = TriangleTree::new(skin.face_count(), corners);
    let edges = Edges::of(mesh);
    let mut off: Vec<f64> = Vec::new();
    for edge in edges.ids() {
        let [one, two] = edges.sides(edge) else {
            continue;
        };
        let normal = |face| crate::measure::vector_area(mesh, face).normalize();
        if normal(one.face).dot(normal(two.face)) > 30f64.to_radians().cos() {
            continue;
        }
        let [a, b] = edges.ends(edge).map(|v| mesh.position(v));
        if a == b {
            continue;
        }
        for i in 0..=100 {
            let at = a.lerp(b, f64::from(i) / 100.0);
            off.push(tree.closest(at).unwrap().distance_squared.sqrt());
        }
    }
    off.sort_by(f64::total_cmp);
    assert!(off.len() > 500);
    off
}

/// A cube that is turned so that no face of it lies along the grid.
fn turned_cube() -> Mesh {
    let mut cube = shapes::cuboid(DVec3::splat(-0.5), DVec3::splat(0.5), 3);
    let turn = DQuat::from_axis_angle(DVec3::new(0.3, 0.8, 0.5).normalize(), 0.7);
    (cube.positions_mut().iter_mut()).for_each(|at| *at = turn * *at);
    cube
}

#[test]
fn sharp_edges_are_met_to_a_hundredth_of_a_cell() {
    let cone = [DVec2::new(1.0, 0.0), DVec2::new(0.0, 1.7)];
    let cone = shapes::lathe(&cone, 90, true);
    let (gear, cube) = (gear(11), turned_cube());
    for (mesh, cell, share) in [
        (&gear, 0.037, 1.0),
        (&gear, 0.071, 1.0),
        (&cone, 0.031, 1.0),
        (&cone, 0.042, 1.0),
        // Where an edge that lies anyhow to the grid grazes corners of it, one after the other, a
        // few places are left.
        (&cube, 0.073, 0.985),
        (&cube, 0.053, 0.995),
    ] {
        // Where triangles are made even, edges cut across the bends of a line a little; a few of these are enough.
        let also_even = [0.071, 0.042, 0.073].contains(&cell);
        let ways = [(false, 0.01), (true, 0.03)];
        for (even, within) in ways.into_iter().take(1 + usize::from(also_even)) {
            let options = ReskinOptions {
                even,
                ..ReskinOptions::of(cell)
            };
            let skin = skin_of(&Model::from(mesh.clone()), &options).unwrap();
            assert_sound(&skin.model.mesh);
            let off = edges_off(mesh, &skin.model.mesh);
            let met = off.partition_point(|&off| off <= within * cell) as f64 / off.len() as f64;
            assert!(met >= share, "{met} with cells of {cell}, even: {even}");
            assert!(off[off.len() - 1] < 0.5 * cell);
        }
    }
}

/// Where a cell sees facets that are not next to each other, the place where their planes meet is
/// off the model.
#[test]
fn a_rod_whose_facets_are_as_wide_as_cells_is_not_lumpy() {
    let outline: Vec<DVec2> = (0..12)
        .map(|i| DVec2::from_angle(f64::from(i) * TAU / 12.0))
        .collect();
    let mut rod = prism(&outline, 15.0);
    let lean = DQuat::from_rotation_arc(DVec3::Z, DVec3::new(0.2, 0.2, 1.0).normalize());
    (rod.positions_mut().iter_mut()).for_each(|at| *at = lean * *at);
    let triangles = crate::spatial::TriangleHierarchy::whole(&rod);
    for cell in [0.3, 0.42, 0.5, 0.61] {
        let off = |at: &DVec3| match triangles.closest_within(*at, cell) {
            Some(closest) => closest.distance_squared.sqrt() / cell,
            None => 1.0,
        };
        for (even, limit) in [(false, 0.05), (true, 0.1)] {
            let options = ReskinOptions {
                even,
                ..ReskinOptions::of(cell)
            };
            let skin = skin_of(&Model::from(rod.clone()), &options).unwrap();
            assert_sound(&skin.model.mesh);
            let places = skin.model.mesh.positions().iter();
            let most = places.map(off).fold(0.0, f64::max);
            assert!(most < limit, "{most} with cells of {cell}, even: {even}");
        }
    }
}

#[test]
fn letters_cut_from_a_plate_all_stay() {
    // An F, an L and a T, with strokes of a few cells.
    let letters: [&[(f64, f64)]; 3] = [
        &[
            (0., 0.),
            (1., 0.),
            (1., 2.),
            (2., 2.),
            (2., 3.),
            (1., 3.),
            (1., 4.),
            (3., 4.),
            (3., 5.),
            (0., 5.),
        ],
        &[(0., 0.), (3., 0.), (3., 1.), (1., 1.), (1., 5.), (0., 5.)],
        &[
            (1., 0.),
            (2., 0.),
            (2., 4.),
            (3., 4.),
            (3., 5.),
            (0., 5.),
            (0., 4.),
            (1., 4.),
        ],
    ];
    let areas = [8.0, 7.0, 7.0];
    let each: Vec<Mesh> = letters
        .iter()
        .enumerate()
        .map(|(i, outline)| {
            let corners: Vec<DVec2> = outline.iter().map(|&at| DVec2::from(at)).collect();
            moved(prism(&corners, 0.6), DVec3::X * 4.0 * i as f64)
        })
        .collect();
    let outcome = skin(&joined(&each), 0.17);
    assert_sound(&outcome.model.mesh);
    assert_eq!((outcome.lost.len(), outcome.thin_count), (0, 0));
    let parts = crate::topology::Parts::of(&outcome.model.mesh);
    assert_eq!(parts.len(), 3);
    let volume = crate::measure::volume(&outcome.model.mesh);
    let full = 0.6 * areas.iter().sum::<f64>();
    assert!((volume - full).abs() < 2e-3 * full, "{volume} of {full}");
}
