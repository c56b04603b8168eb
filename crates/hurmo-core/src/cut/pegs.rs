//! Pegs that hold pieces together: a pin on the piece below a plane, a hole in the one above.
//!
//! A place for a peg is in both pieces' cap, far enough from its border, with solid all round the peg's
//! whole length on both sides. Of these the one with most room is taken, and the one furthest from it, so
//! that pieces can't turn.

use super::half_space::{across, with_solids};
use super::{Piece, Plane};
use crate::boolean::{
    BooleanError, Filled, MayMeet, Operation, Rounding, Solids, Windings, resolve,
};
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::progress::Observer;
use crate::spatial::{Enclosing, TriangleHierarchy};
use crate::topology::Edges;
use glam::{DVec2, DVec3};
use std::f64::consts::TAU;

/// How pegs are made.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pegs {
    /// How thick a pin is.
    pub diameter: f64,
    /// By how much a hole is wider, all round and at its end.
    pub clearance: f64,
}

impl Pegs {
    /// How far pins stand out.
    pub fn length(&self) -> f64 {
        LONG * self.diameter
    }
}

/// What became of pegs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Pegged {
    /// How many were made.
    pub made: usize,
    /// How many caps have no room for one.
    pub without: usize,
}

/// Pins and holes have this many sides.
const SIDES: usize = 32;
/// So much wall is left round a hole, as a share of the pin's radius.
const WALL: f64 = 0.6;
/// Pins stand out as far as this many times their diameter.
const LONG: f64 = 1.0;
/// This many places along each side of a cap are looked at.
const TRIED: usize = 48;
/// Two pegs are at least this many diameters apart.
const APART: f64 = 2.0;
/// A peg's surroundings are looked at in this many directions.
const ROUND: usize = 12;
/// What lies within this share of a diameter of a plane is in it.
const IN_PLANE: f64 = 1e-4;

/// Puts pegs between pieces that share a cap; pieces in single precision stay so, whatever crosses, if that
/// is all that is wanted.
///
/// # Errors
/// When a piece is open.
pub fn put_pegs(
    pieces: &mut [Piece],
    rows: &[Vec<Plane>],
    pegs: Pegs,
    only_single: bool,
    observer: &dyn Observer,
) -> Result<Pegged, BooleanError> {
    let mut pegged = Pegged::default();
    for (row, planes) in rows.iter().enumerate() {
        for (k, plane) in planes.iter().enumerate() {
            for (below, above) in neighbours(pieces, row, k) {
                let cap = cap(&pieces[below], plane, pegs);
                if cap.is_empty() {
                    continue;
                }
                let places = places([&pieces[below], &pieces[above]], &cap, plane, pegs);
                pegged.without += usize::from(places.is_empty());
                for place in places {
                    let long = pegs.length();
                    let radius = pegs.diameter / 2.0;
                    let pin = cylinder(plane, place, radius, [-long, long]);
                    let hole = radius + pegs.clearance;
                    let hole = cylinder(plane, place, hole, [-long, long + pegs.clearance]);
                    let mut combine = |piece: usize, solid: Mesh, operation| {
                        combine(&mut pieces[piece], solid, operation, only_single, observer)
                    };
                    combine(below, pin, Operation::Union)?;
                    combine(above, hole, Operation::Difference)?;
                    pegged.made += 1;
                }
            }
        }
    }
    Ok(pegged)
}

/// Pieces right below and above a plane of a row.
fn neighbours(pieces: &[Piece], row: usize, k: usize) -> Vec<(usize, usize)> {
    let mut pairs = Vec::new();
    for (below, one) in pieces
        .iter()
        .enumerate()
        .filter(|(_, one)| one.place[row] == k)
    {
        let mut wanted = one.place.clone();
        wanted[row] = k + 1;
        let above = pieces.iter().position(|other| other.place == wanted);
        pairs.extend(above.map(|above| (below, above)));
    }
    pairs
}

/// The faces of a cap in a plane.
fn cap(piece: &Piece, plane: &Plane, pegs: Pegs) -> Vec<FaceId> {
    let mesh = &piece.model.mesh;
    let is_in = |v: &VertexId| {
        (plane.normal.dot(mesh.position(*v)) - plane.at).abs() < IN_PLANE * pegs.diameter
    };
    mesh.face_ids()
        .filter(|face| piece.is_cap[face.index()] && mesh.face(*face).iter().all(is_in))
        .collect()
}

/// Where pegs go in a cap of the first piece, at most two.
fn places([below, above]: [&Piece; 2], cap: &[FaceId], plane: &Plane, pegs: Pegs) -> Vec<DVec3> {
    let mesh = &below.model.mesh;
    let (u, v) = across(plane.normal);
    let flat = |p: DVec3| DVec2::new(p.dot(u), p.dot(v));
    let mut low = DVec2::MAX;
    let mut high = DVec2::MIN;
    for &vertex in cap.iter().flat_map(|&face| mesh.face(face)) {
        let p = flat(mesh.position(vertex));
        (low, high) = (low.min(p), high.max(p));
    }
    let border = border(mesh, cap);
    let border: Vec<[DVec2; 2]> = border.iter().map(|ends| ends.map(flat)).collect();
    let needed = (1.0 + WALL) * pegs.diameter / 2.0 + pegs.clearance;
    let [one, other] = [below, above].map(|piece| TriangleHierarchy::whole(&piece.model.mesh));
    let solids = [Enclosing::of(&one), Enclosing::of(&other)];
    let step = (high - low).max_element() / TRIED as f64;
    let mut found: Vec<(f64, DVec3)> = Vec::new();
    let mut at = low + step / 2.0;
    while at.y < high.y {
        at.x = low.x + step / 2.0;
        while at.x < high.x {
            let room = border
                .iter()
                .map(|&ends| distance(at, ends))
                .fold(f64::INFINITY, f64::min);
            if room >= needed {
                let place = u * at.x + v * at.y + plane.normal * plane.at;
                if has_room(&solids, place, plane.normal, needed, pegs) {
                    found.push((room, place));
                }
            }
            at.x += step;
        }
        at.y += step;
    }
    let most_room = |a: &&(f64, DVec3), b: &&(f64, DVec3)| a.0.total_cmp(&b.0);
    let Some(&(_, first)) = found.iter().max_by(most_room) else {
        return Vec::new();
    };
    let off = |place: DVec3| place.distance(first);
    let second = found
        .iter()
        .map(|&(_, place)| place)
        .filter(|&place| off(place) >= APART * pegs.diameter)
        .max_by(|&a, &b| off(a).total_cmp(&off(b)));
    std::iter::once(first).chain(second).collect()
}

/// Whether all round a peg there is solid, in both pieces.
fn has_room(
    solids: &[Enclosing<'_, '_>; 2],
    place: DVec3,
    normal: DVec3,
    radius: f64,
    pegs: Pegs,
) -> bool {
    let (u, v) = across(normal);
    let long = pegs.length() + pegs.clearance + WALL * pegs.diameter / 2.0;
    let round = |turn: usize| {
        let (sine, cosine) = (TAU * turn as f64 / ROUND as f64).sin_cos();
        (u * cosine + v * sine) * radius
    };
    solids.iter().zip([-1.0, 1.0]).all(|(solid, way)| {
        [0.05, 0.5, 1.0].into_iter().all(|share| {
            let middle = place + normal * (way * share * long);
            let is_in = |p: DVec3| solid.times(p) > 0.9;
            is_in(middle) && (0..ROUND).all(|turn| is_in(middle + round(turn)))
        })
    })
}

/// The edges of some faces that only one of them has.
fn border(mesh: &Mesh, faces: &[FaceId]) -> Vec<[DVec3; 2]> {
    let mut is_one = vec![false; mesh.face_count()];
    faces.iter().for_each(|face| is_one[face.index()] = true);
    let edges = Edges::of(mesh);
    let is_border = |edge: &crate::mesh::EdgeId| {
        let sides = edges.sides(*edge).iter();
        sides.filter(|side| is_one[side.face.index()]).count() == 1
    };
    edges
        .ids()
        .filter(is_border)
        .map(|edge| edges.ends(edge).map(|v| mesh.position(v)))
        .collect()
}

/// How far a place is from a segment.
fn distance(at: DVec2, [a, b]: [DVec2; 2]) -> f64 {
    let along = b - a;
    let length = along.length_squared();
    let share = match length > 0.0 {
        true => ((at - a).dot(along) / length).clamp(0.0, 1.0),
        false => 0.0,
    };
    at.distance(a + along * share)
}

/// A cylinder across a plane, from one height over it to another.
fn cylinder(plane: &Plane, place: DVec3, radius: f64, [from, to]: [f64; 2]) -> Mesh {
    let (u, v) = across(plane.normal);
    let mut mesh = Mesh::default();
    for height in [from, to] {
        for side in 0..SIDES {
            // No side of it along an axis, where sides of models are.
            let (sine, cosine) = (TAU * (side as f64 + 0.3) / SIDES as f64).sin_cos();
            mesh.push_vertex(place + (u * cosine + v * sine) * radius + plane.normal * height);
        }
    }
    let id = |ring: usize, side: usize| VertexId::new(ring * SIDES + side % SIDES);
    for side in 0..SIDES {
        mesh.push_face([id(0, side), id(0, side + 1), id(1, side + 1), id(1, side)]);
    }
    mesh.push_face((0..SIDES).rev().map(|side| id(0, side)));
    mesh.push_face((0..SIDES).map(|side| id(1, side)));
    mesh
}

/// Puts a solid on a piece, or takes it away.
fn combine(
    piece: &mut Piece,
    mut solid: Mesh,
    operation: Operation,
    only_single: bool,
    observer: &dyn Observer,
) -> Result<(), BooleanError> {
    let first = piece.model.mesh.face_count();
    let rounding = Rounding::of(&piece.model.mesh, only_single);
    if rounding != Rounding::Double {
        solid.round_to_single();
    }
    let all = with_solids(&piece.model, &solid);
    let inside = |windings: &Windings| operation.holds(windings, Filled::Positive, 2);
    let solids = Solids {
        count: 2,
        of: &|face| Some(usize::from(face.index() >= first)),
        group: Solids::ONE_GROUP,
        may_meet: MayMeet::Any,
        inside: &inside,
        filled: None,
        sheet: None,
        rounding,
        join_within: 0.0,
    };
    let made = resolve(&all, &solids, observer)?;
    piece.meeting += made.tally.meeting;
    piece.become_model(made.model);
    super::caps::name(&mut piece.model, &piece.is_cap);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::cut::{CutOptions, cut};
    use crate::mesh::Model;
    use crate::shapes;

    #[test]
    fn pins_and_holes_match_with_clearance() {
        let block = shapes::cuboid(DVec3::ZERO, DVec3::new(40.0, 20.0, 30.0), 3);
        let rows = [vec![Plane {
            normal: DVec3::X,
            at: 17.5,
        }]];
        let mut made = cut(&Model::from(block), &rows, &CutOptions::default(), &()).unwrap();
        let before: Vec<f64> = made
            .pieces
            .iter()
            .map(|piece| piece.volume.unwrap())
            .collect();
        let pegs = Pegs {
            diameter: 4.0,
            clearance: 0.2,
        };
        let pegged = put_pegs(&mut made.pieces, &rows, pegs, false, &()).unwrap();
        assert_eq!(
            pegged,
            Pegged {
                made: 2,
                without: 0
            }
        );
        // A prism of 32 sides.
        let base = |radius: f64| 16.0 * radius * radius * (TAU / 32.0).sin();
        let gained = made.pieces[0].volume.unwrap() - before[0];
        assert!(
            (gained - 2.0 * base(2.0) * 4.0).abs() < 1e-3 * gained,
            "{gained}"
        );
        let lost = before[1] - made.pieces[1].volume.unwrap();
        assert!((lost - 2.0 * base(2.2) * 4.2).abs() < 1e-3 * lost, "{lost}");
    }

    #[test]
    fn thin_pieces_have_no_room() {
        let plate = shapes::cuboid(DVec3::ZERO, DVec3::new(40.0, 20.0, 3.0), 3);
        let rows = [vec![Plane {
            normal: DVec3::X,
            at: 17.5,
        }]];
        let mut made = cut(&Model::from(plate), &rows, &CutOptions::default(), &()).unwrap();
        let pegs = Pegs {
            diameter: 4.0,
            clearance: 0.2,
        };
        let pegged = put_pegs(&mut made.pieces, &rows, pegs, false, &()).unwrap();
        assert_eq!(
            pegged,
            Pegged {
                made: 0,
                without: 1
            }
        );
    }
}
