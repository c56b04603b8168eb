//! Seams of joined solids: made even beside, rounded, shaded softly.

use glam::{DMat3, DVec2, DVec3, Vec3Swizzles};
use hurmo_core::audit::{MeshAnalysis, Needs};
use hurmo_core::boolean::{BooleanOutcome, Filled, MayMeet, Rounding, Solids, Windings, resolve};
use hurmo_core::geometry::corner_angle;
use hurmo_core::measure::volume;
use hurmo_core::remesh::RemeshError;
use hurmo_core::seam::{self, Joined, SeamOptions};
use hurmo_core::shading::{Shading, normals};
use hurmo_core::{FaceId, Mesh, Model, shapes};
use std::collections::HashSet;
use std::f64::consts::PI;

const UNION: fn(&Windings) -> bool = |w| w[0] > 0 || w[1] > 0;
const DIFFERENCE: fn(&Windings) -> bool = |w| w[0] > 0 && w[1] <= 0;

/// Two solids made one, with what is asked for along the seam.
struct Made {
    before: BooleanOutcome,
    solids: Vec<u32>,
    after: seam::SeamOutcome,
}

fn moved(mesh: &Mesh, by: impl Fn(DVec3) -> DVec3) -> Mesh {
    let positions = mesh.positions().iter().map(|&p| by(p)).collect();
    Mesh::from_parts(positions, mesh.corners().to_vec(), mesh.starts().to_vec()).unwrap()
}

fn joined(
    one: &Mesh,
    other: &Mesh,
    inside: fn(&Windings) -> bool,
) -> (BooleanOutcome, Vec<u32>, Vec<f64>) {
    let mut mesh = one.clone();
    mesh.append(other);
    let model = Model::from(mesh);
    let split = one.face_count();
    let solid = |face: FaceId| usize::from(face.index() >= split);
    let solids = Solids {
        count: 2,
        of: &|face| Some(solid(face)),
        group: Solids::ONE_GROUP,
        may_meet: MayMeet::Any,
        inside: &inside,
        tell: Some(Filled::Positive),
        sheet: None,
        rounding: Rounding::of(&model.mesh, false),
        join_within: 0.0,
    };
    let made = resolve(&model, &solids, &()).unwrap();
    let sources = || made.sources.iter().map(|source| source.face);
    let of = sources().map(|face| solid(face) as u32).collect();
    let sizes = sources().map(|face| seam::size_of(&model, face)).collect();
    (made, of, sizes)
}

fn made(one: &Mesh, other: &Mesh, inside: fn(&Windings) -> bool, options: SeamOptions) -> Made {
    let (before, solids, sizes) = joined(one, other, inside);
    let joined = Joined {
        model: &before.model,
        solids: &solids,
        sizes: &sizes,
    };
    let after = seam::finish(&joined, &options, &())
        .unwrap()
        .expect("a seam");
    Made {
        before,
        solids,
        after,
    }
}

fn rounded(radius: f64) -> SeamOptions {
    let mut options = SeamOptions::default();
    options.radius = Some(radius);
    options
}

/// Nothing is open and nothing meets.
fn assert_sound(mesh: &Mesh) {
    let model = Model::from(mesh.clone());
    let mut analysis = MeshAnalysis::of(&model);
    analysis.prepare(Needs::Contacts, &());
    let closed = analysis
        .edges
        .ids()
        .all(|e| analysis.edges.sides(e).len() == 2);
    assert!(closed, "it is closed");
    let contacts = analysis.contacts().unwrap();
    let meeting = mesh
        .face_ids()
        .filter(|&face| contacts.touches(face))
        .count();
    assert_eq!(meeting, 0, "faces meet");
}

/// The places that vertices have after and not before.
fn new_places(made: &Made) -> Vec<DVec3> {
    let key = |p: &DVec3| p.to_array().map(f64::to_bits);
    let before: HashSet<_> = made.before.model.mesh.positions().iter().map(key).collect();
    let after = made.after.model.mesh.positions().iter();
    after
        .filter(|p| !before.contains(&key(p)))
        .copied()
        .collect()
}

/// A rib on a plate: between them a right angle, concave, on both sides and round the ends.
fn rib() -> (Mesh, Mesh) {
    let plate = shapes::cuboid(DVec3::new(-6.0, -6.0, -1.0), DVec3::new(6.0, 6.0, 0.0), 1);
    let rib = shapes::cuboid(DVec3::new(-1.0, -4.0, -0.5), DVec3::new(1.0, 4.0, 3.0), 1);
    (plate, rib)
}

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
    // Either it is left and told, or the gap is filled without a crossing.
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
