//! Solids that don't close: lids close them while they are cut, and go afterwards.
//!
//! ```text
//! open solids ─▶ a fan over each chain of edges that aren't run as often both ways (border)
//!     ─▶ cut as closed solids are ─▶ pieces of lids left out again
//! ```
//!
//! A surface and its lids wind round places a whole number of times. Just within a flat lid that leaves
//! half a turn to the lid, and half a turn to the surface: inside is where the surface alone winds more than
//! half a time (Jacobson, Kavan & Sorkine-Hornung 2013), as far as rims are flat.

use super::{Outcome, Source};
use crate::mesh::{FaceId, Model, Rebuild, VertexId};
use crate::spatial::{Border, exact_weld};
use crate::topology::Edges;
use glam::DVec3;
use rustc_hash::FxHashSet;

/// Solids with lids.
#[derive(Clone, Debug)]
pub struct Lidded {
    /// The model, lids last.
    pub model: Model,
    /// For every face, the solid that it bounds.
    pub solids: Vec<u32>,
    /// How many edges are open, or run twice the same way, of each solid.
    pub open: Vec<usize>,
    /// The first face that is of a lid.
    first: usize,
}

impl Lidded {
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
            let lids = border.caps(mesh.positions());
            let names: Vec<VertexId> = (lids.positions().iter())
                .map(|&place| match is_single {
                    true => place.as_vec3().as_dvec3(),
                    false => place,
                })
                .map(|place| rebuild.new_vertex(place, VertexId(0)))
                .collect();
            for (_, corners) in lids.faces() {
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

    /// What was made of it, without what is left of the lids.
    pub fn without_lids(&self, made: &Outcome) -> Outcome {
        let is_lid = |source: &Source| source.face.index() >= self.first;
        let (model, _) = (made.model).without_faces(|face| is_lid(&made.sources[face.index()]));
        let sources = made.sources.iter().filter(|source| !is_lid(source));
        Outcome {
            model,
            sources: sources.copied().collect(),
            tally: made.tally,
            told: made.told.clone(),
        }
    }
}

/// Where edges between faces of different solids run into an open rim. `tidied` is the model once faces
/// without area are gone, at whose corners edges are open and are not.
pub fn seams_at_rims(model: &Model, solids: &[u32], tidied: &Model) -> Vec<DVec3> {
    let key = |place: DVec3| place.to_array().map(f64::to_bits);
    let edges = Edges::of(&tidied.mesh);
    let open = edges.ids().filter(|&edge| edges.sides(edge).len() == 1);
    let ends = open.flat_map(|edge| edges.ends(edge));
    let on_rim: FxHashSet<[u64; 3]> = ends.map(|v| key(tidied.mesh.position(v))).collect();
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let mut on_seam = Vec::new();
    for edge in edges.ids() {
        let sides = edges.sides(edge);
        let of = |i: usize| solids[sides[i].face.index()];
        if (1..sides.len()).any(|i| of(i) != of(0)) {
            on_seam.extend(edges.ends(edge));
        }
    }
    on_seam.sort_unstable();
    on_seam.dedup();
    let places = on_seam.into_iter().map(|v| mesh.position(v));
    places
        .filter(|&place| on_rim.contains(&key(place)))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::boolean::{Filled, Solids, resolve};
    use crate::mend::tidied_after_cuts;
    use crate::mesh::Mesh;
    use crate::shapes;

    /// The faces of a mesh that are wanted.
    fn only(mesh: &Mesh, wanted: impl Fn(FaceId) -> bool) -> Mesh {
        let model = Model::from(mesh.clone());
        model.without_faces(|face| !wanted(face)).0.mesh
    }

    fn union(one: &Mesh, other: &Mesh) -> (Lidded, Outcome) {
        let mut mesh = one.clone();
        mesh.append(other);
        let split = one.face_count();
        let count = mesh.face_count();
        let of: Vec<u32> = (0..count).map(|face| u32::from(face >= split)).collect();
        let lidded = Lidded::of(&Model::from(mesh), &of, 2).expect("one is open");
        let solids = Solids {
            count: 2,
            of: &|face| Some(lidded.solids[face.index()] as usize),
            group: Solids::ONE_GROUP,
            may_meet: None,
            inside: &|windings| windings[0] > 0 || windings[1] > 0,
            tell: Some(Filled::Positive),
            sheet: None,
        };
        let made = resolve(&lidded.model, &solids, &()).unwrap();
        (lidded, made)
    }

    /// An open box, a bar through its wall: the volumes are those of the box with a flat lid; where the bar
    /// passes the wall both are joined, and the rim stays open.
    #[test]
    fn an_open_box_is_as_full_as_under_a_flat_lid() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
        let open = only(&cube, |face| cube.face_points(face).any(|p| p.z < 1.0));
        let bar = shapes::cuboid(DVec3::new(0.5, 0.4, 0.4), DVec3::new(2.0, 0.6, 0.6), 1);
        let (lidded, made) = union(&open, &bar);
        assert_eq!(lidded.open, [12, 0]);
        let told = made.told.as_ref().unwrap();
        assert!((told.volume(0) - 1.0).abs() < 1e-12);
        assert!((told.volume_where(|of| of == [0, 1]) - 0.02).abs() < 1e-12);
        let left = lidded.without_lids(&made);
        let edges = Edges::of(&left.model.mesh);
        let rim: Vec<_> = edges.ids().filter(|&e| edges.sides(e).len() == 1).collect();
        assert_eq!(rim.len(), 12, "the rim that it had, and no other");
        let on_top = |v: VertexId| left.model.mesh.position(v).z == 1.0;
        assert!(
            rim.iter()
                .all(|&edge| edges.ends(edge).into_iter().all(on_top))
        );
        let solids: Vec<u32> = (left.sources.iter())
            .map(|source| lidded.solids[source.face.index()])
            .collect();
        let (tidied, _) = tidied_after_cuts(&left.model);
        assert!(seams_at_rims(&left.model, &solids, &tidied).is_empty());
    }

    /// A bar that lies across the rim: the seam ends where it leaves the box, and these places are named.
    #[test]
    fn a_seam_that_runs_into_a_rim_is_found() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
        let open = only(&cube, |face| cube.face_points(face).any(|p| p.z < 1.0));
        let bar = shapes::cuboid(DVec3::new(0.5, 0.4, 0.8), DVec3::new(2.0, 0.6, 1.3), 1);
        let (lidded, made) = union(&open, &bar);
        let left = lidded.without_lids(&made);
        let solids: Vec<u32> = (left.sources.iter())
            .map(|source| lidded.solids[source.face.index()])
            .collect();
        let (tidied, _) = tidied_after_cuts(&left.model);
        let mut places = seams_at_rims(&left.model, &solids, &tidied);
        places.sort_by(|a, b| a.y.total_cmp(&b.y));
        assert_eq!(places.len(), 2, "{places:?}");
        assert!(places[0].distance(DVec3::new(1.0, 0.4, 1.0)) < 1e-6);
        assert!(places[1].distance(DVec3::new(1.0, 0.6, 1.0)) < 1e-6);
    }
}
