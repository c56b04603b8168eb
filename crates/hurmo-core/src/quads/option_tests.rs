//! What options of a rebuild with quads do.

use super::tests::{rebuilt, topology};
use super::*;
use crate::measure::deviation;
use crate::mesh::{FaceTags, Mesh, Tag, VertexId};
use crate::mirror::{self, Half};
use crate::shapes;
use crate::spatial::LineTree;
use crate::topology::Edges;
use rustc_hash::FxHashSet;

/// How far sides of quads along lines turn from them at most, in degrees, for 95% of them.
fn off_lines(mesh: &Mesh, lines: &[[DVec3; 2]], near: f64) -> f64 {
    let tree = LineTree::of(lines.to_vec());
    let mut turned = Vec::new();
    for (_, face) in mesh.faces() {
        for i in 0..4 {
            let [a, b] = [face[i], face[(i + 1) % 4]].map(|v| mesh.position(v));
            let middle = (a + b) / 2.0;
            if let Some(found) = tree.closest_within(middle, near) {
                let [from, to] = lines[found.triangle as usize];
                let along = (to - from).normalize();
                // Beside it, and not beyond its ends.
                if (middle - found.point).dot(along).abs() < 0.5 * near {
                    let cosine = (b - a).normalize().dot(along).abs();
                    turned.push(cosine.min(1.0).acos().to_degrees());
                }
            }
        }
    }
    // Those that run along it, and not those across.
    turned.retain(|&angle| angle < 45.0);
    assert!(turned.len() > 20);
    turned.sort_by(f64::total_cmp);
    turned[turned.len() * 95 / 100]
}

#[test]
fn guides_are_followed() {
    let sheet = Model::from(shapes::grid(40, 40, 2.0, 2.0));
    let line = [DVec3::new(0.45, 0.4, 0.02), DVec3::new(1.6, 1.2, 0.02)];
    let mut options = QuadOptions::of(QuadTarget::Edge(0.06));
    let without = quads(&sheet, &options, &()).unwrap();
    assert!(off_lines(&without.model.mesh, &[line], 0.05) > 20.0);
    options.guides = vec![line];
    let with = quads(&sheet, &options, &()).unwrap();
    let off = off_lines(&with.model.mesh, &options.guides, 0.03);
    assert!(off < 2.0, "{off}");
    assert_eq!(with.parts_paired, 0);
    // It is no crease: only the rim is.
    assert_eq!(with.feature_edges.len(), without_inner(&with.model.mesh));
}

/// How many edges have one side.
fn without_inner(mesh: &Mesh) -> usize {
    let edges = Edges::of(mesh);
    edges
        .ids()
        .filter(|&edge| edges.sides(edge).len() == 1)
        .count()
}

/// A line that comes back to where it began, drawn a little off the surface; and one that is nowhere near it.
#[test]
fn round_guides_are_followed_and_far_ones_are_not() {
    let ball = Model::from(shapes::sphere(1.0, 4));
    let place = |i: usize| {
        let turn = std::f64::consts::TAU * (i % 48) as f64 / 48.0;
        let lean = DVec3::new(0.3, 0.0, 1.0).normalize();
        let [x, y] = [
            lean.any_orthonormal_vector(),
            lean.cross(lean.any_orthonormal_vector()),
        ];
        (x * turn.cos() + y * turn.sin()) * 0.9 + lean * 0.45
    };
    let round: Vec<[DVec3; 2]> = (0..48).map(|i| [place(i), place(i + 1)]).collect();
    let mut options = QuadOptions::of(QuadTarget::Edge(0.1));
    let plain = quads(&ball, &options, &()).unwrap();
    options.guides = round.clone();
    for edge in [0.07, 0.1, 0.13] {
        options.target = QuadTarget::Edge(edge);
        let made = quads(&ball, &options, &()).unwrap();
        assert_eq!(topology(&made.model.mesh), (2, 0, 0));
        assert_eq!((made.parts_paired, made.irregular), (0, 8));
        let off = off_lines(&made.model.mesh, &round, edge / 2.0);
        assert!(off < 5.0, "{off} at {edge}");
    }
    assert!(off_lines(&plain.model.mesh, &round, 0.05) > 10.0);
    options.target = QuadTarget::Edge(0.1);
    options.guides = vec![[DVec3::splat(3.0), DVec3::splat(4.0)]];
    let far = quads(&ball, &options, &()).unwrap();
    assert_eq!(far.model.mesh, plain.model.mesh);
}

#[test]
fn a_symmetric_model_stays_its_own_image_to_the_last_bit() {
    // Bumps that differ along, but not from side to side.
    let mut mesh = shapes::sphere(1.0, 4);
    for at in mesh.positions_mut() {
        *at *= 1.0 + 0.15 * (3.0 * at.z).sin() + 0.1 * (4.0 * at.y).cos() * at.x * at.x;
    }
    let model = Model::from(mesh);
    let found = mirror::find(&model.mesh, None).unwrap();
    let half = Half::of(&model, &found).unwrap();
    let options = QuadOptions::of(QuadTarget::Count(1200));
    let made = quads_symmetric(&model, &half, &options, &()).unwrap();
    let mesh = &made.model.mesh;
    assert_eq!(topology(mesh), (2, 0, 0));
    assert!(mesh.faces().all(|(_, face)| face.len() == 4));
    assert!((mesh.face_count() as f64 / 1200.0 - 1.0).abs() < 0.05);
    let bits = |at: DVec3| (at + DVec3::ZERO).to_array().map(f64::to_bits);
    let all: FxHashSet<_> = mesh.positions().iter().map(|&at| bits(at)).collect();
    assert_eq!(all.len(), mesh.vertex_count());
    let images = mesh.positions().iter().map(|&at| half.mirror.image(at));
    assert!(images.into_iter().all(|at| all.contains(&bits(at))));
}

#[test]
fn sides_are_shorter_where_it_bends_and_the_distance_holds() {
    // A long ellipsoid: its tips bend 16 times as much as its waist.
    let mut mesh = shapes::sphere(1.0, 5);
    mesh.positions_mut().iter_mut().for_each(|at| at.x *= 4.0);
    let target = |distance| QuadTarget::Within {
        distance,
        shortest: 0.02,
        longest: 1.0,
    };
    let mut last = 0;
    for distance in [0.02, 0.005] {
        let made = rebuilt(mesh.clone(), target(distance));
        assert_eq!(topology(&made.model.mesh), (2, 0, 0));
        let off = deviation(&made.model.mesh, &mesh, 20_000).unwrap().max;
        assert!(off < 1.5 * distance && off > 0.2 * distance, "{off}");
        let size = |near: f64| {
            let faces = made.model.mesh.face_ids();
            let near = faces
                .filter(|&face| (made.model.mesh.face_middle(face).x.abs() - near).abs() < 0.4);
            let areas: Vec<f64> = near
                .map(|face| measure::vector_area(&made.model.mesh, face).length())
                .collect();
            areas.iter().sum::<f64>() / areas.len() as f64
        };
        assert!(size(0.0) > 2.0 * size(3.8), "{} {}", size(0.0), size(3.8));
        let count = made.model.mesh.face_count();
        assert!(count > 2 * last);
        last = count;
    }
}

#[test]
fn borders_of_groups_are_lines_if_asked() {
    let mut model = Model::from(shapes::grid(20, 20, 1.0, 1.0));
    let is_left = |face| model.mesh.face_middle(face).x < 0.37;
    let of_face: Vec<u32> = model
        .mesh
        .face_ids()
        .map(|face| u32::from(is_left(face)))
        .collect();
    let tag = |name: &str| Tag {
        group: Some(name.into()),
        ..Tag::default()
    };
    model.attributes.tags = FaceTags {
        table: vec![tag("right"), tag("left")],
        of_face,
    };
    let lines = |follow_groups| {
        let options = QuadOptions {
            follow_groups,
            ..QuadOptions::of(QuadTarget::Edge(0.08))
        };
        quads(&model, &options, &()).unwrap().feature_edges.len()
    };
    assert!(lines(true) > lines(false) + 8);
}

/// With exact rims every edge of the sheet's rim is an edge of the result, whatever lengths these have.
#[test]
fn rims_stay_exactly_as_they_are() {
    // A sheet with a round hole; its rims are divided unevenly, finer and coarser than quads.
    let rim = |count: usize, radius: f64| -> Vec<DVec3> {
        let turn = |i: usize| {
            let share = i as f64 / count as f64;
            std::f64::consts::TAU * (share + 0.03 * (std::f64::consts::TAU * 3.0 * share).sin())
        };
        let place = |i| DVec3::new(turn(i).cos(), turn(i).sin(), 0.0) * radius;
        (0..count).map(place).collect()
    };
    for (outer, inner) in [(150, 13), (13, 90), (37, 37)] {
        let mut mesh = Mesh::default();
        let [out, hole] = [rim(outer, 2.0), rim(inner, 0.7)];
        for &at in out.iter().chain(&hole) {
            mesh.push_vertex(at);
        }
        // A strip between two rims: the nearer of the two next vertices makes the next triangle.
        let (mut i, mut j) = (0, 0);
        while i < outer || j < inner {
            let [a, b] = [i % outer, outer + j % inner].map(VertexId::new);
            let goes_out = j >= inner || i < outer && (i + 1) * inner <= (j + 1) * outer;
            let next = if goes_out {
                (i + 1) % outer
            } else {
                outer + (j + 1) % inner
            };
            mesh.push_face([a, VertexId::new(next), b]);
            if goes_out { i += 1 } else { j += 1 }
        }
        let model = Model::from(mesh.clone());
        let mut options = QuadOptions::of(QuadTarget::Edge(0.15));
        options.faces = QuadFaces::Mostly { rims_exact: true };
        let made = quads(&model, &options, &()).unwrap();
        assert_eq!(made.rims_lost, 0);
        let rims = |mesh: &Mesh| -> FxHashSet<[[u64; 3]; 2]> {
            let edges = Edges::of(mesh);
            let open = edges.ids().filter(|&edge| edges.sides(edge).len() == 1);
            let bits = |v: VertexId| mesh.position(v).to_array().map(f64::to_bits);
            open.map(|edge| {
                let mut ends = edges.ends(edge).map(bits);
                ends.sort_unstable();
                ends
            })
            .collect()
        };
        assert_eq!(rims(&made.model.mesh), rims(&model.mesh));
        assert_eq!(topology(&made.model.mesh), (0, outer + inner, 0));
        let area = |mesh: &Mesh| measure::area(mesh);
        assert!((area(&made.model.mesh) / area(&model.mesh) - 1.0).abs() < 1e-9);
        let quads = made.model.mesh.faces().filter(|(_, face)| face.len() == 4);
        assert!(quads.count() * 10 > made.model.mesh.face_count() * 6);
    }
}
