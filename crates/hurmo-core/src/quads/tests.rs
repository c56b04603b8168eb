use super::cleaning::QuadMesh;
use super::elimination::Elimination;
use super::extraction::extracted;
use super::frames::Frames;
use super::grid_map::GridMap;
use super::rounding::{Energy, solved_with};
use super::surface::Surface;
use super::*;
use crate::geometry::corner_angle;
use crate::mesh::{FaceId, Mesh};
use crate::random_cases::cases;
use crate::remesh::EvenSurface;
use crate::shapes;
use crate::topology::{Edges, Rims};
use glam::{DVec2, DVec3};
use proptest::prelude::*;
use rustc_hash::FxHashMap;
use std::f64::consts::PI;

pub(super) fn rebuilt(mesh: Mesh, target: QuadTarget) -> QuadOutcome {
    let made = quads(&Model::from(mesh), &QuadOptions::of(target), &()).unwrap();
    assert!(made.model.mesh.faces().all(|(_, face)| face.len() == 4));
    made
}

/// Vertices less edges plus faces, edges with one side, and edges with more than two or two that run alike.
pub(super) fn topology(mesh: &Mesh) -> (i64, usize, usize) {
    let mut sides: FxHashMap<[u32; 2], [u32; 2]> = FxHashMap::default();
    for (_, face) in mesh.faces() {
        for i in 0..face.len() {
            let [a, b] = [face[i].0, face[(i + 1) % face.len()].0];
            sides.entry([a.min(b), a.max(b)]).or_default()[usize::from(a > b)] += 1;
        }
    }
    let open = sides.values().filter(|way| way[0] + way[1] == 1).count();
    let bad = sides
        .values()
        .filter(|way| way[0] > 1 || way[1] > 1)
        .count();
    let used = mesh.used_vertices().iter().filter(|used| **used).count();
    let euler = used as i64 - sides.len() as i64 + mesh.face_count() as i64;
    (euler, open, bad)
}

/// The angles of all corners, in degrees, in rising order.
pub(super) fn angles(mesh: &Mesh) -> Vec<f64> {
    let mut angles = Vec::new();
    for (_, face) in mesh.faces() {
        for i in 0..4 {
            let at = |i: usize| mesh.position(face[i % 4]);
            angles.push(corner_angle(at(i), [at(i + 1), at(i + 3)]).to_degrees());
        }
    }
    angles.sort_by(f64::total_cmp);
    angles
}

/// The lengths of all sides, in rising order.
fn lengths(mesh: &Mesh) -> Vec<f64> {
    let mut lengths = Vec::new();
    for (_, face) in mesh.faces() {
        for i in 0..4 {
            lengths.push(
                mesh.position(face[i])
                    .distance(mesh.position(face[(i + 1) % 4])),
            );
        }
    }
    lengths.sort_by(f64::total_cmp);
    lengths
}

/// What all but a share of a sorted list lies between, half of the share at each end.
fn between(list: &[f64], share: f64) -> [f64; 2] {
    let cut = (list.len() as f64 * share / 2.0) as usize;
    [list[cut], list[list.len() - 1 - cut]]
}

fn capped_cylinder() -> Mesh {
    shapes::lathe(&[DVec2::new(0.5, 0.0), DVec2::new(0.5, 2.0)], 96, true)
}

#[test]
fn plain_forms_have_no_more_irregular_vertices_than_they_must() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 4);
    let forms = [
        (shapes::sphere(1.0, 5), 0.12, 2, 8),
        (shapes::torus(1.0, 0.4, 96, 48), 0.1, 0, 0),
        (cube, 0.1, 2, 8),
        (capped_cylinder(), 0.1, 2, 8),
    ];
    for (mesh, edge, euler, irregular) in forms {
        let area = measure::area(&mesh);
        let made = rebuilt(mesh, QuadTarget::Edge(edge));
        let new = &made.model.mesh;
        assert_eq!(topology(new), (euler, 0, 0));
        assert_eq!(made.irregular, irregular);
        assert_eq!(made.faces_paired, 0);
        let count = new.face_count() as f64 * edge * edge / area;
        assert!((0.9..1.15).contains(&count), "{count}");
        let [low, high] = between(&angles(new), 0.05);
        assert!(low > 60.0 && high < 120.0, "angles {low} to {high}");
        let [short, long] = between(&lengths(new), 0.01);
        assert!(short > 0.5 * edge && long < 2.0 * edge, "{short} to {long}");
    }
}

/// A torus is about as wide inside as out: of whatever size quads are, no irregular vertex is worth its while.
#[test]
fn no_size_of_quads_gives_a_torus_irregular_vertices() {
    for edge in [0.2, 0.15, 0.09, 0.06] {
        let made = rebuilt(shapes::torus(1.0, 0.4, 64, 32), QuadTarget::Edge(edge));
        assert_eq!(topology(&made.model.mesh), (0, 0, 0));
        assert_eq!(made.irregular, 0, "sides of {edge}");
    }
}

/// The sharp edges of a cube are edges of quads, and its corners vertices: nothing is cut off.
#[test]
fn creases_are_followed_exactly() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
    let made = rebuilt(cube, QuadTarget::Edge(0.1));
    assert!((measure::volume(&made.model.mesh) - 1.0).abs() < 1e-9);
    assert!((measure::area(&made.model.mesh) - 6.0).abs() < 1e-9);
    assert_eq!(made.feature_edges.len(), 12 * 10);
    let made = rebuilt(capped_cylinder(), QuadTarget::Edge(0.1));
    let on_rims = |z: f64| {
        let near =
            |p: &&DVec3| (p.z - z).abs() < 1e-9 && (p.truncate().length() - 0.5).abs() < 2e-3;
        made.model.mesh.positions().iter().filter(near).count()
    };
    assert_eq!(on_rims(0.0) + on_rims(2.0), made.feature_edges.len());
}

/// The edges of quads run round a ring and its tube, as the ring bends.
#[test]
fn edges_follow_the_bend_of_a_torus() {
    let made = rebuilt(shapes::torus(1.0, 0.4, 96, 48), QuadTarget::Edge(0.1));
    let mesh = &made.model.mesh;
    let mut off: Vec<f64> = Vec::new();
    for (_, face) in mesh.faces() {
        for i in 0..4 {
            let [a, b] = [mesh.position(face[i]), mesh.position(face[(i + 1) % 4])];
            let round = DVec3::Z.cross(a + b).normalize();
            let angle = round
                .dot((b - a).normalize())
                .abs()
                .min(1.0)
                .acos()
                .to_degrees();
            off.push(angle.min(90.0 - angle));
        }
    }
    off.sort_by(f64::total_cmp);
    let most = off[off.len() * 95 / 100];
    assert!(most < 5.0, "{most}");
}

#[test]
fn a_budget_is_met_within_a_twentieth() {
    for count in [500, 3000] {
        let made = rebuilt(shapes::bumpy_sphere(20_000), QuadTarget::Count(count));
        let off = made.model.mesh.face_count() as f64 / count as f64 - 1.0;
        assert!(off.abs() < 0.05, "{off} of {count}");
    }
}

/// Vertices lie on the model, so that quads leave it by no more than their sides bend over it.
#[test]
fn quads_lie_on_the_model() {
    let made = rebuilt(shapes::sphere(1.0, 5), QuadTarget::Edge(0.1));
    for position in made.model.mesh.positions() {
        assert!((position.length() - 1.0).abs() < 3e-3, "{position}");
    }
}

/// Three sheets on one edge are no surface that a map could be laid on; they stay together nevertheless.
#[test]
fn sheets_on_one_edge_are_paired_and_stay_together() {
    let mut mesh = Mesh::default();
    let ends = [0.0, 1.0].map(|z| mesh.push_vertex(DVec3::new(0.0, 0.0, z)));
    for k in 0..3 {
        let way = DVec2::from_angle(f64::from(k) * 2.0 * PI / 3.0);
        let outer = [1.0, 0.0].map(|z| mesh.push_vertex(way.extend(z)));
        mesh.push_face([ends[0], ends[1], outer[0], outer[1]]);
    }
    let made = rebuilt(mesh, QuadTarget::Edge(0.1));
    assert_eq!(made.faces_paired, made.model.mesh.face_count());
    let edges = Edges::of(&made.model.mesh);
    let on_three = edges
        .ids()
        .filter(|&edge| edges.sides(edge).len() == 3)
        .count();
    assert!(on_three >= 5, "{on_three}");
    assert!((measure::area(&made.model.mesh) - 3.0).abs() < 1e-9);
}

/// A part that is far smaller than a quad gets a few of its own.
#[test]
fn no_part_is_lost() {
    let mut both = shapes::sphere(1.0, 4);
    let mut small = shapes::sphere(0.02, 2);
    small.move_vertices(|_, at| at + DVec3::X * 3.0).unwrap();
    both.append(&small);
    let made = rebuilt(both, QuadTarget::Edge(0.2));
    assert_eq!(made.parts, 2);
    assert_eq!(topology(&made.model.mesh), (4, 0, 0));
}

proptest! {
    #![proptest_config(cases(16))]

    /// Holes anywhere: the same genus, the same number of rims, no edge with a third side.
    #[test]
    fn what_has_holes_keeps_them(
        around in 10usize..24,
        across in 8usize..16,
        holes in prop::collection::vec(0usize..10_000, 0..4),
        edge in 0.15..0.5f64,
    ) {
        let ring = shapes::torus(1.0, 0.45, around, across);
        let (torn, _) = Model::from(ring).without_faces(|face| {
            // On every third row and column: holes that do not touch.
            let place = |hole: usize| (hole % (around / 3) * across + hole / 7 % (across / 3)) * 3;
            holes.iter().any(|&hole| FaceId::new(place(hole)) == face)
        });
        let made = quads(&torn, &QuadOptions::of(QuadTarget::Edge(edge)), &()).unwrap();
        let mesh = &made.model.mesh;
        prop_assert!(mesh.faces().all(|(_, face)| face.len() == 4));
        let [before, after] = [topology(&torn.mesh), topology(mesh)];
        prop_assert_eq!(before.0, after.0);
        prop_assert_eq!(after.2, 0);
        let rims = |mesh: &Mesh| Rims::of(mesh, &Edges::of(mesh)).closed.len();
        prop_assert_eq!(rims(&torn.mesh), rims(mesh));
    }

    /// However a map runs to and fro, even where it turns most triangles over: every side of a quad has another
    /// beside it.
    #[test]
    fn quads_of_any_map_fit_together(
        places in prop::collection::vec((-4.0..4.0f64, -4.0..4.0f64), 42),
    ) {
        let even = even_of(&shapes::sphere(1.0, 1));
        let surface = Surface::parts_of(&even).remove(0);
        let corner = |half_edge: u32| {
            let (x, y) = places[surface.from(half_edge) as usize % places.len()];
            DVec2::new(x, y)
        };
        let map = GridMap {
            corners: (0..surface.half_edge_count()).map(corner).collect(),
            shifts: vec![[0, 0]; surface.across.len()],
            turned_over: 0,
            free: Vec::new(),
        };
        let frames = Frames {
            angles: vec![0.0; surface.triangles.len()],
            turns: vec![0; surface.across.len()],
            is_cut: vec![false; surface.across.len()],
            index: vec![0; surface.positions.len()],
        };
        let made = extracted(&surface, &frames, &map).unwrap();
        let mut sides: FxHashMap<[u32; 2], i64> = FxHashMap::default();
        for quad in &made.quads {
            for i in 0..4 {
                let [a, b] = [quad[i], quad[(i + 1) % 4]];
                if a != b {
                    *sides.entry([a.min(b), a.max(b)]).or_default() += if a < b { 1 } else { -1 };
                }
            }
        }
        prop_assert!(sides.values().all(|&balance| balance == 0));
        let cleaned = QuadMesh::cleaned(made);
        prop_assert!(cleaned.quads.iter().all(|quad| quad[0] != quad[2] && quad[1] != quad[3]));
    }

    /// What is found satisfies each equation, whatever the free unknowns are, and whether long sums are kept or not.
    #[test]
    fn eliminated_unknowns_satisfy_their_equations(
        equations in prop::collection::vec(
            prop::collection::vec((0u32..20, prop::sample::select(vec![-2.0, -1.0, 1.0, 2.0])), 1..6),
            1..14,
        ),
        free in prop::collection::vec(-9.0..9.0f64, 20),
        long in prop::sample::select(vec![1, 2, 3, 20]),
    ) {
        let mut elimination = Elimination::keeping_over(long);
        equations.iter().for_each(|equation| elimination.add(equation, |unknown| unknown % 2 == 0));
        let mut values = free;
        let value = |terms: &[(u32, f64)], values: &[f64]| -> f64 {
            terms.iter().map(|term| values[term.0 as usize] * term.1).sum()
        };
        for (unknown, sum) in elimination.kept() {
            prop_assert!(sum.iter().all(|term| term.0 != unknown));
            values[unknown as usize] = value(&sum, &values);
        }
        let mut of = |unknown: u32| value(&elimination.reduced(&[(unknown, 1.0)]), &values);
        let size = values.iter().fold(1.0f64, |most, value| most.max(value.abs()));
        for equation in &equations {
            let sum: f64 = equation.iter().map(|term| of(term.0) * term.1).sum();
            prop_assert!(sum.abs() < 1e-6 * size, "{}", sum);
        }
    }

    /// The last unknowns are whole, the others leave no slope, and one alone is the best of all.
    #[test]
    fn rounded_unknowns_are_whole_and_the_others_follow(
        factor in prop::collection::vec(prop::collection::vec(-1.0..1.0f64, 6), 6),
        right in prop::collection::vec(-5.0..5.0f64, 6),
        whole in 1usize..5,
    ) {
        let entry = |i: usize, j: usize| {
            let own = if i == j { 1.0 } else { 0.0 };
            own + (0..6).map(|k| factor[i][k] * factor[j][k]).sum::<f64>()
        };
        let entries = (0..6u32).flat_map(|i| (0..=i).map(move |j| (i, j)));
        let entries: Vec<(u32, u32, f64)> = entries
            .map(|(i, j)| (i, j, entry(i as usize, j as usize)))
            .collect();
        let energy = Energy::of(entries.clone(), 6, whole).unwrap();
        let found = energy.solved(&right).unwrap();
        let last = &found[6 - whole..];
        let with_last = |last: &[f64]| {
            let mut known = vec![None; 6 - last.len()];
            known.extend(last.iter().copied().map(Some));
            solved_with(&entries, &right, &known).unwrap()
        };
        let again = with_last(last);
        prop_assert!(found.iter().zip(&again).all(|(a, b)| (a - b).abs() < 1e-6));
        let of = |x: &[f64]| -> f64 {
            let square = |i: usize| (0..6).map(|j| x[i] * entry(i, j) * x[j]).sum::<f64>();
            (0..6).map(|i| square(i) / 2.0 - right[i] * x[i]).sum()
        };
        if whole == 1 {
            // Of one unknown, the nearest whole number is the best there is.
            for step in [-1.0, 1.0] {
                let other = with_last(&[last[0] + step]);
                prop_assert!(of(&found) < of(&other) + 1e-9);
            }
        }
        prop_assert!(found[6 - whole..].iter().all(|value| value.fract() == 0.0));
        for (i, right) in right[..6 - whole].iter().enumerate() {
            let slope = (0..6).map(|j| entry(i, j) * found[j]).sum::<f64>() - right;
            prop_assert!(slope.abs() < 1e-6);
        }
    }
}

/// Triangles as they are, as an even surface.
fn even_of(mesh: &Mesh) -> EvenSurface {
    EvenSurface {
        positions: mesh.positions().to_vec(),
        triangles: mesh
            .faces()
            .map(|(_, face)| [face[0].0, face[1].0, face[2].0])
            .collect(),
        faces: mesh.face_ids().collect(),
        feature_edges: Vec::new(),
    }
}
