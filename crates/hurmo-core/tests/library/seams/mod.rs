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

mod even;
mod fillets;

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
        filled: Some(Filled::Positive),
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
