//! Giving open sheets a wall, so that they can be printed.
//!
//! ```text
//!  ---->---->----   the sheet, its front up
//!  |            |   rim walls
//!  ----<----<----   the back: the sheet again, turned, and moved by the thickness
//! ```
//!
//! A vertex moves to where it lies the thickness behind all faces round it, as nearly as can be:
//! the least-squares solution of one plane equation for each face, weighted by its angle there
//! (Nelson Max 1999 weighs normals so), kept short where faces meet at a sharp edge. The front stays
//! where it is. A part is given a wall if it has open edges, faces one way and hangs together by
//! edges; closed parts are left as they are. Where the sheet bends more sharply than the wall is
//! thick, the wall crosses itself; the faces that do are counted. Cost: linear in faces, and a
//! search for contacts.

use crate::mesh::{FaceId, Mesh, Model, PartId, Rebuild, VertexId};
use crate::spatial::Contacts;
use crate::topology::{Edges, Parts, fans};
use glam::{DMat3, DVec3};
use rustc_hash::FxHashMap;

/// A vertex moves by this many times the thickness at most.
const MOST: f64 = 3.0;

/// Why an open part was left without a wall.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
#[non_exhaustive]
pub enum LeftBecause {
    /// An edge has more than two faces.
    #[error("it has non-manifold edges")]
    NonManifoldEdges,
    /// It has no front that is one everywhere.
    #[error("its faces don't face one way")]
    FacesOpposed,
    /// Such faces have no sides to put a wall on.
    #[error("it has faces that repeat a vertex")]
    RepeatedVertex,
    /// Walls would meet there.
    #[error("it hangs together at a single vertex")]
    SingleVertex,
}

/// A model whose sheets have walls.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct ThickenOutcome {
    /// The model.
    pub model: Model,
    /// The parts that were given a wall.
    pub thickened: Vec<PartId>,
    /// Open parts that were left, and why.
    pub left: Vec<(PartId, LeftBecause)>,
    /// How many faces were added.
    pub faces: usize,
    /// How many faces of the result cross others, of the thickened parts.
    pub crossing: usize,
}

/// Gives every open sheet a wall of this thickness, in model units, behind its front.
pub fn thicken(model: &Model, thickness: f64) -> ThickenOutcome {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let parts = Parts::of(mesh);
    let (wanted, left) = sheets(mesh, &edges, &parts);
    let is_wanted = |face: FaceId| {
        parts
            .of_face(mesh, face)
            .is_some_and(|part| wanted[part.index()])
    };
    let faces: Vec<FaceId> = mesh.face_ids().filter(|&face| is_wanted(face)).collect();
    let steps = steps_back(mesh, &faces, thickness);
    let mut rebuild = Rebuild::new(model);
    mesh.face_ids().for_each(|face| rebuild.keep(face));
    let mut back: FxHashMap<VertexId, VertexId> = FxHashMap::default();
    for &face in &faces {
        for &vertex in mesh.face(face) {
            back.entry(vertex).or_insert_with(|| {
                rebuild.new_vertex(mesh.position(vertex) + steps[&vertex], vertex)
            });
        }
    }
    for &face in &faces {
        let corners = mesh.face_range(face).rev();
        let turned = corners.map(|corner| (corner, back[&mesh.corners()[corner]]));
        rebuild.moved_piece(face, turned);
        for corner in mesh.face_range(face) {
            let edge = edges.at_corner(corner).expect("no vertex is repeated");
            if edges.sides(edge).len() == 1 {
                let next = mesh.next_corner(face, corner);
                let [a, b] = [corner, next].map(|corner| mesh.corners()[corner]);
                rebuild.new_face(face, &[b, a, back[&a], back[&b]]);
            }
        }
    }
    let added = rebuild.face_count() - mesh.face_count();
    let result = rebuild.finish();
    let crossing = crossing(&result.mesh, &faces, mesh.face_count());
    ThickenOutcome {
        model: result,
        thickened: (0..wanted.len())
            .filter(|&i| wanted[i])
            .map(PartId::new)
            .collect(),
        left,
        faces: added,
        crossing,
    }
}

/// Which parts are sheets that can be given a wall; and open ones that can't, with the reason.
fn sheets(mesh: &Mesh, edges: &Edges, parts: &Parts) -> (Vec<bool>, Vec<(PartId, LeftBecause)>) {
    let open = parts.open(mesh, edges);
    let mut why: Vec<Option<LeftBecause>> = vec![None; parts.len()];
    for edge in edges.ids() {
        let sides = edges.sides(edge);
        let Some(part) = parts.of_face(mesh, sides[0].face) else {
            continue;
        };
        if sides.len() > 2 {
            why[part.index()] = Some(LeftBecause::NonManifoldEdges);
        } else if edges.is_misoriented(edge) {
            why[part.index()].get_or_insert(LeftBecause::FacesOpposed);
        }
    }
    for face in mesh.face_ids().filter(|&face| mesh.is_collapsed(face)) {
        if let Some(part) = parts.of_face(mesh, face) {
            why[part.index()].get_or_insert(LeftBecause::RepeatedVertex);
        }
    }
    let fans = fans(mesh, edges);
    for vertex in mesh.vertex_ids().filter(|&vertex| fans.is_pinched(vertex)) {
        if let Some(part) = parts.of_vertex(vertex) {
            why[part.index()].get_or_insert(LeftBecause::SingleVertex);
        }
    }
    let wanted = (0..parts.len())
        .map(|i| open[i] && why[i].is_none())
        .collect();
    let left = (0..parts.len())
        .filter(|&i| open[i])
        .filter_map(|i| Some((PartId::new(i), why[i]?)))
        .collect();
    (wanted, left)
}

/// By vertex, how it moves to lie the thickness behind the faces round it.
fn steps_back(mesh: &Mesh, faces: &[FaceId], thickness: f64) -> FxHashMap<VertexId, DVec3> {
    #[derive(Default)]
    struct Planes {
        squares: DMat3,
        sum: DVec3,
    }
    let mut planes: FxHashMap<VertexId, Planes> = FxHashMap::default();
    for &face in faces {
        let normal = crate::measure::vector_area(mesh, face).normalize_or_zero();
        let corners = mesh.face(face);
        for (i, &vertex) in corners.iter().enumerate() {
            let here = mesh.position(vertex);
            let to = |i: usize| mesh.position(corners[i % corners.len()]) - here;
            let angle = to(i + 1).angle_between(to(i + corners.len() - 1));
            let weight = if angle.is_finite() { angle } else { 0.0 };
            let at = planes.entry(vertex).or_insert_with(|| Planes {
                squares: DMat3::ZERO,
                sum: DVec3::ZERO,
            });
            let outer = DMat3::from_cols(normal * normal.x, normal * normal.y, normal * normal.z);
            at.squares += outer * weight;
            at.sum += normal * weight;
        }
    }
    let step = |at: &Planes| {
        let mean = at.sum.normalize_or_zero();
        let total = at.squares.x_axis.x + at.squares.y_axis.y + at.squares.z_axis.z;
        // A little of "move along the mean" decides what the planes leave open.
        let soft = DMat3::from_diagonal(DVec3::splat(1e-3 * total.max(f64::MIN_POSITIVE)));
        let right = at.sum + soft * mean;
        let step = (at.squares + soft).inverse() * right * -thickness;
        match step.is_finite() {
            true => step.clamp_length_max(MOST * thickness),
            false => mean * -thickness,
        }
    };
    planes
        .iter()
        .map(|(&vertex, at)| (vertex, step(at)))
        .collect()
}

/// How many faces meet others: of the sheets, and of what was added to them.
fn crossing(mesh: &Mesh, sheets: &[FaceId], old: usize) -> usize {
    let added = (old..mesh.face_count()).map(FaceId::new);
    let faces: Vec<FaceId> = sheets.iter().copied().chain(added).collect();
    Contacts::meeting(mesh, &faces).len()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::shapes;
    use glam::DVec2;

    fn audited(model: &Model) -> audit::Audit {
        audit(model, &audit::AuditOptions::default(), &()).unwrap()
    }

    #[test]
    fn a_plane_becomes_a_slab() {
        let plane = Model::from(shapes::grid(8, 5, 4.0, 2.0));
        let outcome = thicken(&plane, 0.25);
        let after = audited(&outcome.model);
        assert!(after.mesh.watertight);
        assert!((after.mesh.volume - 4.0 * 2.0 * 0.25).abs() < 1e-9);
        assert_eq!(outcome.crossing, 0);
        assert_eq!(outcome.faces, 8 * 5 + 2 * (8 + 5));
        assert_eq!(after.count("reversed-faces"), 0);
    }

    #[test]
    fn an_open_box_keeps_its_wall_in_the_corners() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(2.0), 6);
        let mut open = Mesh::from_parts(cube.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, corners) in cube.faces() {
            if cube.face_middle(face).z < 2.0 - 1e-9 {
                open.push_face(corners.iter().copied());
            }
        }
        let after = audited(&thicken(&Model::from(open), 0.1).model);
        assert!(after.mesh.watertight);
        // Outer box less inner box, open at the top.
        let wanted = 8.0 - 1.8 * 1.8 * 1.9;
        assert!(
            (after.mesh.volume - wanted).abs() < 2e-3,
            "{}",
            after.mesh.volume
        );
        assert_eq!(after.count("intersecting-faces"), 0);
    }

    #[test]
    fn half_a_ball_becomes_a_shell() {
        let ball = shapes::sphere(1.0, 5);
        let mut half = Mesh::from_parts(ball.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, corners) in ball.faces() {
            if ball.face_middle(face).z > 0.0 {
                half.push_face(corners.iter().copied());
            }
        }
        let outcome = thicken(&Model::from(half), 0.1);
        let after = audited(&outcome.model);
        let wanted = 2.0 / 3.0 * std::f64::consts::PI * (1.0 - 0.9f64.powi(3));
        assert!(
            (after.mesh.volume / wanted - 1.0).abs() < 0.02,
            "{}",
            after.mesh.volume
        );
        assert!(after.mesh.watertight);
    }

    #[test]
    fn a_wall_thicker_than_the_bend_is_told_to_cross_itself() {
        let profile: Vec<DVec2> = (0..=10)
            .map(|i| DVec2::new(0.2, 0.1 * f64::from(i)))
            .collect();
        let tube = shapes::lathe(&profile, 24, false);
        let outward = thicken(&Model::from(tube.clone()), 0.1);
        assert_eq!(outward.crossing, 0);
        let through = thicken(&Model::from(tube), 0.35);
        assert!(through.crossing > 0);
    }

    #[test]
    fn closed_parts_are_left_and_twisted_ones_told() {
        let ball = shapes::sphere(1.0, 2);
        let outcome = thicken(&Model::from(ball.clone()), 0.1);
        assert_eq!(
            (outcome.faces, outcome.model.mesh.face_count()),
            (0, ball.face_count())
        );
        let mut pair = Mesh::default();
        for p in [(0., 0.), (1., 0.), (1., 1.), (0., 1.)] {
            pair.push_vertex(DVec3::new(p.0, p.1, 0.0));
        }
        pair.push_face([0, 1, 2].map(VertexId));
        pair.push_face([0, 3, 2].map(VertexId));
        let outcome = thicken(&Model::from(pair), 0.1);
        assert_eq!(outcome.left, [(PartId(0), LeftBecause::FacesOpposed)]);
    }
}
