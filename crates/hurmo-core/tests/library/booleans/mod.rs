//! Solids against each other: volumes add up, and what is made is closed and crosses nothing.

mod algebra;

use crate::random_cases::cases;
use glam::{DMat3, DVec3, Vec3Swizzles};
use hurmo_core::audit::{MeshAnalysis, Needs};
use hurmo_core::boolean::{BooleanOutcome, Filled, MayMeet, Rounding, Solids, Windings, resolve};
use hurmo_core::cut::{Plane, cut};
use hurmo_core::measure::{area, bounds};
use hurmo_core::mesh::{CornerLayer, FaceTags, Tag};
use hurmo_core::spatial::Border;
use hurmo_core::{FaceId, Mesh, Model, VertexId, shapes};
use proptest::prelude::*;

/// Two closed meshes in one model, and which faces are the second's.
fn both(one: &Mesh, other: &Mesh) -> (Model, usize) {
    let mut mesh = one.clone();
    mesh.append(other);
    (Model::from(mesh), one.face_count())
}

fn moved(mesh: &Mesh, by: impl Fn(DVec3) -> DVec3) -> Mesh {
    let positions = mesh.positions().iter().map(|&p| by(p)).collect();
    Mesh::from_parts(positions, mesh.corners().to_vec(), mesh.starts().to_vec()).unwrap()
}

fn volume(mesh: &Mesh) -> f64 {
    let sum: f64 = mesh
        .face_ids()
        .map(|face| hurmo_core::measure::signed_volume_term(mesh, face, DVec3::ZERO))
        .sum();
    sum / 6.0
}

const UNION: fn(&Windings) -> bool = |w| w[0] > 0 || w[1] > 0;
const INTERSECTION: fn(&Windings) -> bool = |w| w[0] > 0 && w[1] > 0;
const DIFFERENCE: fn(&Windings) -> bool = |w| w[0] > 0 && w[1] <= 0;

fn resolved(one: &Mesh, other: &Mesh, inside: fn(&Windings) -> bool) -> BooleanOutcome {
    let (model, split) = both(one, other);
    let of = |face: FaceId| Some(usize::from(face.index() >= split));
    let solids = Solids {
        filled: Some(Filled::Positive),
        rounding: Rounding::of(&model.mesh, false),
        ..Solids::new(2, &of, &inside)
    };
    resolve(&model, &solids, &()).unwrap()
}

/// How many edges are not closed, and faces that meet others.
fn faults(model: &Model) -> (usize, usize) {
    let mut analysis = MeshAnalysis::of(model);
    analysis.prepare(Needs::Contacts, &());
    let turned = vec![false; model.mesh.face_count()];
    let border = Border::of(
        &model.mesh,
        &analysis.edges,
        |_| true,
        &turned,
        &analysis.first_at_place,
    );
    let contacts = analysis.contacts().unwrap();
    let meeting = model
        .mesh
        .face_ids()
        .filter(|&f| contacts.touches(f))
        .count();
    (border.len(), meeting)
}

/// Union, intersection and both differences: volumes add up, and all is closed and without a
/// crossing.
fn check(one: &Mesh, other: &Mesh) -> Result<(), TestCaseError> {
    let (v, w) = (volume(one), volume(other));
    let made = [UNION, INTERSECTION, DIFFERENCE].map(|rule| resolved(one, other, rule));
    let back = resolved(other, one, DIFFERENCE);
    let [union, both, less] = [0, 1, 2].map(|i| volume(&made[i].model.mesh));
    let size = v + w;
    prop_assert!(
        (union + both - v - w).abs() < 1e-9 * size,
        "{union} + {both} for {v} + {w}"
    );
    prop_assert!(
        (less - (v - both)).abs() < 1e-9 * size,
        "{less} for {v} - {both}"
    );
    let rest = volume(&back.model.mesh);
    prop_assert!(
        (rest - (w - both)).abs() < 1e-9 * size,
        "{rest} for {w} - {both}"
    );
    for outcome in made.iter().chain([&back]) {
        prop_assert_eq!(outcome.tally.undecided, 0);
        prop_assert_eq!(faults(&outcome.model), (0, 0));
    }
    Ok(())
}

#[test]
fn two_cubes_that_overlap() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
    let other = moved(&cube, |p| p + DVec3::new(0.3, 0.4, 0.55));
    check(&cube, &other).unwrap();
    let shared = 0.7 * 0.6 * 0.45;
    let both = resolved(&cube, &other, INTERSECTION);
    assert!((volume(&both.model.mesh) - shared).abs() < 1e-12);
}

/// What is cut of polygons is put together again, as far as it is convex and has no more corners than they.
#[test]
fn pieces_of_polygons_are_polygons() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
    let other = moved(&cube, |p| p + DVec3::new(0.3, 0.4, 0.55));
    let corners = |model: &Model| -> Vec<usize> {
        let faces = model.mesh.faces();
        faces.map(|(_, corners)| corners.len()).collect()
    };
    let both = resolved(&cube, &other, INTERSECTION);
    let all = corners(&both.model);
    assert!(all.iter().all(|&count| count <= 4), "{all:?}");
    // Of each face four triangles, as its diagonal is cut, too.
    assert!(all.len() <= 18, "{all:?}");
    // Three faces of each stay whole, three lack a corner: that takes two quads with a vertex of one on a
    // side of the other, or a triangle more.
    let union = resolved(&cube, &other, UNION);
    let all = corners(&union.model);
    assert!(all.iter().all(|&count| count <= 4), "{all:?}");
    assert!((18..=30).contains(&all.len()), "{all:?}");
    // A beam through the middle of a deck of twelve corners.
    let rim = |z: f64| (0..12).map(move |i| (f64::from(i) * std::f64::consts::TAU / 12.0, z));
    let points = rim(0.0).chain(rim(1.0));
    let points = points.map(|(turn, z)| DVec3::new(turn.cos(), turn.sin(), z));
    let mut deck = Mesh::from_parts(points.collect(), vec![], vec![0]).unwrap();
    deck.push_face((0..12).rev().map(VertexId::new));
    deck.push_face((12..24).map(VertexId::new));
    for i in 0..12 {
        let next = (i + 1) % 12;
        deck.push_face([i, next, next + 12, i + 12].map(VertexId::new));
    }
    let beam = shapes::cuboid(DVec3::new(-0.2, -0.2, -1.0), DVec3::new(0.2, 0.2, 2.0), 1);
    check(&deck, &beam).unwrap();
    let drilled = resolved(&deck, &beam, DIFFERENCE);
    // Twelve sides, four of the hole, and above and below at least sixteen triangles each would be round it.
    let count = drilled.model.mesh.face_count();
    assert!(count < 12 + 4 + 2 * 16, "{count}");
    assert!(corners(&drilled.model).into_iter().any(|count| count > 4));
}

#[test]
fn equal_cubes_and_cubes_along_a_face_an_edge_a_corner() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
    for by in [
        DVec3::ZERO,
        DVec3::X,
        DVec3::X * 0.5,
        DVec3::new(0.5, 0.5, 0.0),
        DVec3::new(1.0, 1.0, 0.0),
        DVec3::new(1.0, 1.0, 1.0),
        DVec3::new(1.0, 0.25, 0.75),
        DVec3::new(3.0, 0.0, 0.0),
    ] {
        check(&cube, &moved(&cube, |p| p + by)).unwrap_or_else(|error| panic!("{by}: {error}"));
    }
}

#[test]
fn spheres_and_tori_in_any_position() {
    let sphere = shapes::sphere(1.0, 5);
    let torus = shapes::torus(1.0, 0.4, 24, 12);
    check(&sphere, &moved(&sphere, |p| p + DVec3::new(0.7, 0.2, 0.1))).unwrap();
    check(&sphere, &torus).unwrap();
    check(
        &torus,
        &moved(&torus, |p| p.yzx() + DVec3::new(0.1, 0.9, 0.05)),
    )
    .unwrap();
}

fn turn() -> impl Strategy<Value = DMat3> {
    prop::array::uniform3(-3.0..3.0f64).prop_map(|[x, y, z]| {
        DMat3::from_rotation_x(x) * DMat3::from_rotation_y(y) * DMat3::from_rotation_z(z)
    })
}

proptest! {
    #![proptest_config(cases(24))]

    #[test]
    fn turned_boxes(turn in turn(), by in prop::array::uniform3(-1.0..1.0f64), cuts in 1usize..4) {
        let cube = shapes::cuboid(-DVec3::ONE, DVec3::ONE, cuts);
        let other = moved(&cube, |p| turn * p + DVec3::from_array(by));
        check(&cube, &other)?;
    }

    /// Everything on everything: planes, edges and points in common.
    #[test]
    fn boxes_of_whole_numbers(
        low in prop::array::uniform3(-2..2i8), size in prop::array::uniform3(1..4i8), cuts in 1usize..3,
    ) {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(2.0), 2);
        let low = DVec3::from_array(low.map(f64::from));
        let other = shapes::cuboid(low, low + DVec3::from_array(size.map(f64::from)), cuts);
        check(&cube, &other)?;
    }
}

/// UVs and colours that say where they are, and tags that say of which cube.
#[test]
fn cut_faces_carry_what_their_own_face_has_there() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
    let other = moved(&cube, |p| p + DVec3::new(0.3, 0.4, 0.55));
    let (mut model, split) = both(&cube, &other);
    let at = |mesh: &Mesh, corner: usize| mesh.position(mesh.corners()[corner]);
    let corners = model.mesh.corners().len();
    model.attributes.uvs = Some(CornerLayer {
        values: (0..corners)
            .map(|c| at(&model.mesh, c).truncate())
            .collect(),
        index: (0..corners as u32).collect(),
    });
    let color = |p: DVec3| [p.x as f32 / 2.0, p.y as f32 / 2.0, p.z as f32 / 2.0, 1.0];
    model.attributes.colors = Some(model.mesh.positions().iter().map(|&p| color(p)).collect());
    let tag = |name: &str| Tag {
        group: Some(name.into()),
        ..Tag::default()
    };
    model.attributes.tags = FaceTags {
        table: vec![tag("one"), tag("other")],
        of_face: model
            .mesh
            .face_ids()
            .map(|f| u32::from(f.index() >= split))
            .collect(),
    };
    let solids = Solids {
        count: 2,
        of: &|face| Some(usize::from(face.index() >= split)),
        group: Solids::ONE_GROUP,
        may_meet: MayMeet::Any,
        inside: &UNION,
        filled: None,
        sheet: None,
        rounding: Rounding::of(&model.mesh, false),
        join_within: 0.0,
    };
    let made = resolve(&model, &solids, &()).unwrap();
    assert!(
        made.tally.cut > 6 && made.tally.dropped > 0,
        "{:?}",
        made.tally
    );
    let (mesh, carried) = (&made.model.mesh, &made.model.attributes);
    let (uvs, colors) = (
        carried.uvs.as_ref().unwrap(),
        carried.colors.as_ref().unwrap(),
    );
    for corner in 0..mesh.corners().len() {
        let place = at(mesh, corner);
        assert!(uvs.at(corner).unwrap().distance(place.truncate()) < 1e-12);
        let found = colors[mesh.corners()[corner].index()];
        assert!(
            found
                .iter()
                .zip(color(place))
                .all(|(a, b)| (a - b).abs() < 1e-6)
        );
    }
    let on = |low: DVec3, p: DVec3| {
        let inside = (p - low).clamp(DVec3::ZERO, DVec3::ONE);
        let is_on = |x: f64| x == 0.0 || x == 1.0;
        (p - low - inside).length() < 1e-12 && inside.to_array().into_iter().any(is_on)
    };
    for face in mesh.face_ids() {
        let is_other = carried.tags.of(face).unwrap().group.as_deref() == Some("other");
        let low = if is_other {
            DVec3::new(0.3, 0.4, 0.55)
        } else {
            DVec3::ZERO
        };
        let rounded = |p: DVec3| {
            let near = |x: f64| {
                if (x - x.round()).abs() < 1e-12 {
                    x.round()
                } else {
                    x
                }
            };
            let p = p - low;
            DVec3::new(near(p.x), near(p.y), near(p.z))
        };
        assert!(mesh.face_points(face).all(|p| on(DVec3::ZERO, rounded(p))));
    }
}
