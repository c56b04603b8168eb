//! Even triangles for a skin, along its surface and with its sharp edges.
//!
//! Cells leave long and short edges side by side. A few rounds of remeshing (see `isotropic`) even them out; they
//! keep the surface within a fraction of a cell. Where walls are so thin that sides would meet then, in single
//! precision, the skin stays as cells made it.

use crate::measure;
use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::parallel::mapped;
use crate::progress::Observer;
use crate::remesh::RemeshError;
use crate::remesh::isotropic::{Evening, RemeshOptions, RemeshOutcome, Target, edge_for, remesh};
use crate::spatial::Contacts;
use glam::DVec3;
use rstar::RTree;
use rustc_hash::FxHashSet;

/// Rounds of remeshing, at least and at most.
const ROUNDS: [usize; 2] = [1, 4];
/// Edges of the skin that bend by more degrees are sharp.
const CREASE: f64 = 25.0;
/// By how much sharp edges may be cut short, in edges.
const RISE: f64 = 0.02;
/// Edges are this many times as long as those of as many even triangles: rounds end with a few more.
const LONGER: f64 = 1.03;
/// How far round faces that meet the skin is held, in edges.
const HELD: f64 = 3.0;
/// How often it is tried: what is held may bring faces at its border together.
const TRIES: usize = 6;

/// A skin with even triangles.
pub struct Evened {
    pub skin: Mesh,
    /// For each of its faces, the one before that it is or was part of.
    pub sources: Vec<FaceId>,
    /// Faces that stayed as they were, as sides would have met.
    pub held: usize,
}

impl Evened {
    /// Where it closes openings: the corners of faces that are, or were, part of such that did, at these places of
    /// the skin before.
    pub fn closings(&self, before: &Mesh, places: &[DVec3]) -> Vec<DVec3> {
        let bits = |at: DVec3| at.to_array().map(f64::to_bits);
        let closing: FxHashSet<[u64; 3]> = places.iter().map(|&at| bits(at)).collect();
        let closes = |face: FaceId| corners(before, face).all(|at| closing.contains(&bits(at)));
        let faces = self.skin.face_ids().zip(&self.sources);
        let faces = faces.filter(|(_, source)| closes(**source));
        faces
            .flat_map(|(face, _)| corners(&self.skin, face))
            .collect()
    }
}

/// Evens out the triangles of a skin; `None` where its sides would meet whatever is held.
///
/// # Errors
/// When the observer says to stop.
pub fn evened(skin: &Model, observer: &dyn Observer) -> Result<Option<Evened>, RemeshError> {
    let count = skin.mesh.face_count();
    let edge = LONGER * edge_for(measure::area(&skin.mesh), count as f64);
    if count == 0 || !(edge > 0.0 && edge.is_finite()) {
        return Ok(None);
    }
    let mut options = RemeshOptions::of(Target::Edge(edge));
    options.crease = CREASE;
    options.evening = Some(Evening {
        rounds: ROUNDS,
        most_rise: RISE * edge,
    });
    let mut faulty: Vec<DVec3> = Vec::new();
    for _ in 0..TRIES {
        let RemeshOutcome { model, sources, .. } = remesh(skin, &options, observer)?;
        observer.check()?;
        // With coordinates that every format keeps.
        let mut even = model.mesh;
        even.round_to_single();
        let meeting = meeting(&even);
        if meeting.is_empty() {
            let held = options.held.len();
            return Ok(Some(Evened {
                skin: even,
                sources,
                held,
            }));
        }
        faulty.extend(meeting.iter().flat_map(|&face| corners(&even, face)));
        options.held = near(&skin.mesh, &faulty, HELD * edge);
    }
    Ok(None)
}

fn corners(mesh: &Mesh, face: FaceId) -> impl Iterator<Item = DVec3> + '_ {
    mesh.face(face).iter().map(|&v| mesh.position(v))
}

/// The faces that meet others, or have no area.
fn meeting(mesh: &Mesh) -> Vec<FaceId> {
    let faces: Vec<FaceId> = mesh.face_ids().collect();
    let mut faulty = Contacts::meeting(mesh, &faces);
    let is_flat = |face: &FaceId| measure::vector_area(mesh, *face) == DVec3::ZERO;
    faulty.extend(faces.into_iter().filter(is_flat));
    faulty
}

/// The faces with a vertex within a distance of places.
fn near(mesh: &Mesh, places: &[DVec3], reach: f64) -> Vec<FaceId> {
    let tree = RTree::bulk_load(places.iter().map(DVec3::to_array).collect());
    let is_near = mapped(mesh.vertex_count(), 1024, |v| {
        let at = mesh.position(VertexId::new(v)).to_array();
        tree.locate_within_distance(at, reach * reach)
            .next()
            .is_some()
    });
    let faces = mesh
        .faces()
        .filter(|(_, face)| face.iter().any(|v| is_near[v.index()]));
    faces.map(|(face, _)| face).collect()
}

#[cfg(test)]
mod tests {
    use crate::audit::{AuditOptions, SortedAnalysis, audit};
    use crate::measure::{Evenness, deviation, volume};
    use crate::mesh::Model;
    use crate::remesh::dual_contouring::{ReskinOptions, ReskinOutcome, reskin};
    use crate::shapes;
    use glam::DVec3;

    fn skin(model: &Model, cell: f64, even: bool) -> ReskinOutcome {
        let options = ReskinOptions {
            even,
            ..ReskinOptions::of(cell)
        };
        reskin(&SortedAnalysis::of(model, &()), &options, &()).unwrap()
    }

    fn is_sound(outcome: &ReskinOutcome) -> bool {
        let found = audit(&outcome.model, &AuditOptions::default(), &()).unwrap();
        found.mesh.watertight && found.count("intersecting-faces") == 0
    }

    #[test]
    fn skins_of_smooth_and_rough_shapes_are_even() {
        let shapes = [
            (shapes::sphere(1.0, 4), 0.05),
            (shapes::torus(1.0, 0.4, 96, 48), 0.04),
            (shapes::rough_scan(60), 0.03),
        ];
        for (mesh, cell) in shapes {
            let model = Model::from(mesh);
            let [ragged, even] = [false, true].map(|even| skin(&model, cell, even));
            let [before, after] =
                [&ragged, &even].map(|skin| Evenness::of(&skin.model.mesh).unwrap());
            assert!(before.even_angles < 0.8, "{before:?}");
            assert!(after.even_angles > 0.93, "{after:?}");
            assert!(even.is_even && is_sound(&even));
            let off = deviation(&ragged.model.mesh, &even.model.mesh, 20_000).unwrap();
            assert!(off.max < 0.3 * cell, "{off:?}");
            let [few, many] = [&ragged, &even].map(|skin| skin.model.mesh.face_count() as f64);
            assert!((many / few - 1.0).abs() < 0.12, "{few} {many}");
        }
    }

    #[test]
    fn sharp_edges_stay_sharp() {
        let cube = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3));
        let even = skin(&cube, 0.07, true);
        assert!(even.is_even && is_sound(&even));
        assert!((volume(&even.model.mesh) - 1.0).abs() < 1e-6);
        let least = Evenness::of(&even.model.mesh).unwrap().smallest_angle;
        assert!(least > 10.0, "{least}");
    }

    /// Two sheets so close that an edge of one may reach the other.
    #[test]
    fn thin_walls_do_not_meet() {
        for gap in [0.02, 0.08] {
            let mut hollow = shapes::sphere(1.0, 4);
            // Turned inside out by a negative radius.
            hollow.append(&shapes::sphere(gap - 1.0, 4));
            let even = skin(&Model::from(hollow), 0.06, true);
            assert!(is_sound(&even), "{gap}");
        }
    }
}
