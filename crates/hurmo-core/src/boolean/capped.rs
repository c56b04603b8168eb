//! Solids that don't close: caps close them while they are cut, and go afterwards.
//!
//! ```text
//! open solids ─▶ caps over their border ─▶ cut as closed solids are ─▶ pieces of caps left out again
//! ```
//!
//! A surface and its caps have a whole winding number everywhere. Just behind a flat cap half of it is the
//! cap's and half the surface's: what is inside has a winding number over a half of the surface
//! alone (Jacobson, Kavan & Sorkine-Hornung 2013), as far as rims are flat.

use super::{Outcome, Source};
use crate::mesh::{FaceId, Model, Rebuild, VertexId};
use crate::spatial::{Border, exact_weld};
use crate::topology::Edges;

/// Solids with caps.
#[derive(Clone, Debug)]
pub struct Capped {
    /// The model, caps last.
    pub model: Model,
    /// For every face, the solid that it bounds.
    pub solids: Vec<u32>,
    /// How many edges are open, or run twice the same way, of each solid.
    pub open: Vec<usize>,
    /// The first face that is of a cap.
    first: usize,
}

impl Capped {
    /// Closes the solids of a model; for every face, the one that it bounds. `None` where all close.
    pub fn of(model: &Model, solids: &[u32], count: usize) -> Option<Self> {
        let mesh = &model.mesh;
        let place = exact_weld(mesh.positions());
        let number = |face: FaceId| Some(solids[face.index()] as usize);
        let borders = Border::of_each(mesh, &Edges::of(mesh), count, &number, &place);
        if borders.iter().all(Border::is_empty) {
            return None;
        }
        let mut like = vec![FaceId(0); count];
        for face in mesh.face_ids() {
            like[solids[face.index()] as usize] = face;
        }
        let mut rebuild = Rebuild::new(model);
        mesh.face_ids().for_each(|face| rebuild.keep(face));
        let mut solids = solids.to_vec();
        let is_single = mesh.is_single();
        for (solid, border) in borders.iter().enumerate() {
            let mut caps = border.caps(mesh.positions());
            if is_single {
                caps.round_to_single();
            }
            let names: Vec<VertexId> = (caps.positions().iter())
                .map(|&place| rebuild.new_vertex(place, VertexId(0)))
                .collect();
            for (_, corners) in caps.faces() {
                let corners: Vec<VertexId> = corners.iter().map(|v| names[v.index()]).collect();
                rebuild.new_face(like[solid], &corners);
                solids.push(solid as u32);
            }
        }
        Some(Self {
            model: rebuild.finish(),
            solids,
            open: borders.iter().map(Border::len).collect(),
            first: mesh.face_count(),
        })
    }

    /// Marks all caps, and the faces that are known to meet others: of two that meet, one is marked.
    pub fn with_caps(&self, known: &[bool]) -> Vec<bool> {
        let mut marked = known.to_vec();
        marked.resize(self.model.mesh.face_count(), true);
        marked
    }

    /// What was made of it, without what is left of the caps.
    pub fn without_caps(&self, made: &Outcome) -> Outcome {
        let is_cap = |source: &Source| source.face.index() >= self.first;
        let (model, _) = (made.model).without_faces(|face| is_cap(&made.sources[face.index()]));
        let sources = made.sources.iter().filter(|source| !is_cap(source));
        Outcome {
            model,
            sources: sources.copied().collect(),
            tally: made.tally,
            told: made.told.clone(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::boolean::{Filled, MayMeet, Rounding, Solids, resolve};
    use crate::mend::tidied_after_cuts;
    use crate::mesh::Mesh;
    use crate::seam::at_rims;
    use crate::shapes;
    use glam::DVec3;

    /// The faces of a mesh that are wanted.
    fn only(mesh: &Mesh, wanted: impl Fn(FaceId) -> bool) -> Mesh {
        let model = Model::from(mesh.clone());
        model.without_faces(|face| !wanted(face)).0.mesh
    }

    fn union(one: &Mesh, other: &Mesh) -> (Capped, Outcome) {
        let mut mesh = one.clone();
        mesh.append(other);
        let split = one.face_count();
        let count = mesh.face_count();
        let of: Vec<u32> = (0..count).map(|face| u32::from(face >= split)).collect();
        let capped = Capped::of(&Model::from(mesh), &of, 2).expect("one is open");
        let solids = Solids {
            count: 2,
            of: &|face| Some(capped.solids[face.index()] as usize),
            group: Solids::ONE_GROUP,
            may_meet: MayMeet::Any,
            inside: &|windings| windings[0] > 0 || windings[1] > 0,
            tell: Some(Filled::Positive),
            sheet: None,
            rounding: Rounding::Double,
            join_within: 0.0,
        };
        let made = resolve(&capped.model, &solids, &()).unwrap();
        (capped, made)
    }

    /// Where the seam runs into a rim.
    fn rims_met(capped: &Capped, left: &Outcome) -> Vec<DVec3> {
        let of = |source: &Source| capped.solids[source.face.index()];
        let solids: Vec<u32> = left.sources.iter().map(of).collect();
        let (tidied, _) = tidied_after_cuts(&left.model);
        at_rims(&left.model, &solids, &tidied)
    }

    /// An open box, a bar through its wall: the volumes are those of the box with a flat cap; where the bar
    /// passes the wall both are joined, and the rim stays open.
    #[test]
    fn an_open_box_is_as_full_as_under_a_flat_lid() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
        let open = only(&cube, |face| cube.face_points(face).any(|p| p.z < 1.0));
        let bar = shapes::cuboid(DVec3::new(0.5, 0.4, 0.4), DVec3::new(2.0, 0.6, 0.6), 1);
        let (capped, made) = union(&open, &bar);
        assert_eq!(capped.open, [12, 0]);
        let told = made.told.as_ref().unwrap();
        assert!((told.volume(0) - 1.0).abs() < 1e-12);
        assert!((told.volume_where(|of| of == [0, 1]) - 0.02).abs() < 1e-12);
        let left = capped.without_caps(&made);
        let edges = Edges::of(&left.model.mesh);
        let rim: Vec<_> = edges.ids().filter(|&e| edges.sides(e).len() == 1).collect();
        assert_eq!(rim.len(), 12, "the rim that it had, and no other");
        let on_top = |v: VertexId| left.model.mesh.position(v).z == 1.0;
        assert!(
            rim.iter()
                .all(|&edge| edges.ends(edge).into_iter().all(on_top))
        );
        assert!(rims_met(&capped, &left).is_empty());
    }

    /// A bar that lies across the rim: the seam ends where it leaves the box, and these places are named.
    #[test]
    fn a_seam_that_runs_into_a_rim_is_found() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
        let open = only(&cube, |face| cube.face_points(face).any(|p| p.z < 1.0));
        let bar = shapes::cuboid(DVec3::new(0.5, 0.4, 0.8), DVec3::new(2.0, 0.6, 1.3), 1);
        let (capped, made) = union(&open, &bar);
        let left = capped.without_caps(&made);
        let mut places = rims_met(&capped, &left);
        places.sort_by(|a, b| a.y.total_cmp(&b.y));
        assert_eq!(places.len(), 2, "{places:?}");
        assert!(places[0].distance(DVec3::new(1.0, 0.4, 1.0)) < 1e-6);
        assert!(places[1].distance(DVec3::new(1.0, 0.6, 1.0)) < 1e-6);
    }
}
