//! Seams rounded into fillets.
//!
//! Where two surfaces meet with a bend β, an arc of radius R leaves each at R tan(β/2) from the seam:
//! as far the vertices on both sides may move. They are placed so that the surface curves by 1/R across
//! the seam, and as the seam does along it, and so that it leaves what stays without a bend: Laplacians
//! that are wanted, met in the least-squares sense (Botsch & Kobbelt 2004), again and again, as normals
//! and weights follow the result.
//!
//! Lines that would cross something, or move farther than they may, stay as they were.

use super::bends::Bends;
use super::crossing::faces_that_meet;
use super::line::Seam;
use super::stretches::{Free, Stretches};
use crate::fairing::Laplacians;
use crate::mesh::{Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::shading::{self, Shading};
use crate::topology::Edges;
use crate::triangulate::all_triangles;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// The surface is placed at most this many times.
const ROUNDS: usize = 10;
/// And no more once nothing moves by this share of the radius.
const AT_REST: f64 = 0.02;
/// Nor where something moves by this many times as much as the time before.
const GROWS: f64 = 1.2;
/// No vertex moves farther than this many times the radius.
const FURTHEST_MOVED: f64 = 4.0;
/// Above this bend, in degrees, edges of a rounded model are shaded hard.
const HARD: f64 = 40.0;

/// What was rounded.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Fillets {
    /// Stretches of seams that are rounded.
    pub rounded: usize,
    /// Those that are left as they were, since they would cross something or move too far.
    pub left: usize,
    /// Lines that bend too little to be rounded.
    pub flat: usize,
    /// Vertices that were moved.
    pub moved: usize,
    /// The least, the median and the greatest radius, by how far the seam went from where it was.
    pub radius: Option<[f64; 3]>,
}

/// Rounds the seam of a model on which triangles are even there.
pub(super) fn rounded(
    model: &Model,
    solids: &[u32],
    radius: f64,
    observer: &dyn Observer,
) -> (Model, Fillets) {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let seam = Seam::by(mesh, &edges, solids);
    let bends = Bends::of(mesh, solids, &seam);
    let stretches = Stretches::of(mesh, &edges, &seam, &bends, radius);
    observer.begin("rounding seams", ROUNDS as u64);
    let mut made = model.clone();
    let band = Band::of(mesh, &stretches);
    let moved = band.placed(&bends, radius, observer);
    for (free, place) in stretches.free.iter().zip(moved) {
        made.mesh.positions_mut()[free.vertex.index()] = place;
    }
    if mesh.is_single() {
        made.mesh.round_to_single();
    }
    let left = keep_sound(mesh, &mut made.mesh, &stretches, radius);
    let is_moved = |v: &VertexId| made.mesh.position(*v) != mesh.position(*v);
    let fillets = Fillets {
        rounded: stretches.count - left,
        left,
        flat: stretches.flat,
        moved: mesh.vertex_ids().filter(is_moved).count(),
        radius: bends.radii(mesh, &made.mesh),
    };
    shade_anew(mesh, &mut made);
    (made, fillets)
}

/// What is placed anew, and what lies round it.
struct Band<'s> {
    free: &'s [Free],
    /// Where vertices are: those that move, then others.
    points: Vec<DVec3>,
    triangles: Vec<[u32; 3]>,
    /// Vertices that stay, next to some that move, at which the surface must not bend.
    border: Vec<u32>,
}

impl<'s> Band<'s> {
    fn of(mesh: &Mesh, stretches: &'s Stretches) -> Self {
        let mut number: FxHashMap<VertexId, u32> = FxHashMap::default();
        for (i, free) in stretches.free.iter().enumerate() {
            number.insert(free.vertex, i as u32);
        }
        let free = number.len() as u32;
        let (all, _) = all_triangles(mesh);
        let mut ring = number.clone();
        let is_free = |v: &VertexId| number.contains_key(v);
        for triangle in all.iter().filter(|triangle| triangle.iter().any(is_free)) {
            for vertex in triangle {
                let next = ring.len() as u32;
                ring.entry(*vertex).or_insert(next);
            }
        }
        let rows = ring.len() as u32;
        let mut numbers = ring.clone();
        let mut triangles = Vec::new();
        let on_ring = |v: &VertexId| ring.contains_key(v);
        for triangle in all.iter().filter(|triangle| triangle.iter().any(on_ring)) {
            triangles.push(triangle.map(|vertex| {
                let next = numbers.len() as u32;
                *numbers.entry(vertex).or_insert(next)
            }));
        }
        let mut points = vec![DVec3::ZERO; numbers.len()];
        for (vertex, &i) in &numbers {
            points[i as usize] = mesh.position(*vertex);
        }
        Self {
            free: &stretches.free,
            border: inner(&triangles, free..rows, numbers.len()),
            points,
            triangles,
        }
    }

    /// Where the vertices that move come to lie.
    fn placed(mut self, bends: &Bends, radius: f64, observer: &dyn Observer) -> Vec<DVec3> {
        let count = self.free.len();
        let first = Laplacians::of(self.points.clone(), &self.triangles);
        let on_seam = |v: usize| self.free[v].vertex == self.free[v].seam;
        // What stays, and bends as the surface did and as the fillet does, half and half; not where the
        // seam lies next to it.
        let border = self.border.iter().map(|&v| v as usize);
        let border: Vec<(usize, usize, DVec3)> = border
            .filter_map(|v| {
                let neighbours = first.neighbours(v).iter().map(|&(j, _)| j as usize);
                let mut inside = neighbours.filter(|&j| j < count).peekable();
                let next = *inside.peek()?;
                let sharp = inside.any(on_seam);
                (!sharp).then(|| (v, next, first.at(v) / first.areas[v].max(f64::MIN_POSITIVE)))
            })
            .collect();
        let bend = |surface: &Laplacians, v: usize, inside: usize| {
            let seam = self.free[inside].seam;
            let normal = surface.normal(v);
            let along = bends.curves[&seam]
                .clamp_length_max(1.0 / radius)
                .dot(normal);
            normal * (bends.tangents[&seam].signum() / radius + along)
        };
        let mut last = f64::INFINITY;
        for round in 0..ROUNDS {
            if observer.cancelled() || count == 0 {
                break;
            }
            let surface = Laplacians::of(self.points.clone(), &self.triangles);
            let inside = (0..count).map(|v| (v, bend(&surface, v, v) * surface.areas[v]));
            let outside = border.iter().map(|&(v, next, before)| {
                let half = (before + bend(&surface, v, next)) / 2.0;
                (v, half * surface.areas[v])
            });
            let wanted = inside.chain(outside);
            let number = |v: usize| (v < count).then_some(v);
            let Some(places) = surface.bent(wanted, number, count) else {
                break;
            };
            let ways = self.points.iter().zip(&places).map(|(p, q)| p.distance(*q));
            let furthest = ways.fold(0.0, f64::max);
            // Where no such surface is, it would go on without end.
            if furthest > GROWS * last {
                break;
            }
            last = furthest;
            self.points[..count].copy_from_slice(&places);
            observer.at(round as u64 + 1);
            if furthest < AT_REST * radius {
                break;
            }
        }
        self.points.truncate(count);
        self.points
    }
}

/// Those of some vertices round which triangles close.
fn inner(triangles: &[[u32; 3]], among: std::ops::Range<u32>, count: usize) -> Vec<u32> {
    // Each vertex round another is an end of two sides across from it.
    let mut round: Vec<Vec<u32>> = vec![Vec::new(); count];
    for triangle in triangles {
        for i in 0..3 {
            if among.contains(&triangle[i]) {
                let others = [triangle[(i + 1) % 3], triangle[(i + 2) % 3]];
                round[triangle[i] as usize].extend(others);
            }
        }
    }
    let closes = |v: &u32| {
        let mut others = round[*v as usize].clone();
        others.sort_unstable();
        others.chunk_by(|a, b| a == b).all(|same| same.len() == 2)
    };
    among.filter(closes).collect()
}

/// Takes back the stretches that meet something, or went too far; how many.
fn keep_sound(before: &Mesh, made: &mut Mesh, stretches: &Stretches, radius: f64) -> usize {
    let mut stays = vec![false; stretches.count];
    for free in &stretches.free {
        let went = made
            .position(free.vertex)
            .distance(before.position(free.vertex));
        // Nor may it be no number.
        stays[free.stretch as usize] |= went.is_nan() || went > FURTHEST_MOVED * radius;
    }
    let each = stretches.free.iter();
    let stretch_of: FxHashMap<VertexId, u32> =
        each.map(|free| (free.vertex, free.stretch)).collect();
    loop {
        for free in &stretches.free {
            if stays[free.stretch as usize] {
                made.positions_mut()[free.vertex.index()] = before.position(free.vertex);
            }
        }
        let is_moved = |v: &VertexId| made.position(*v) != before.position(*v);
        let is_new: Vec<bool> = made
            .faces()
            .map(|(_, corners)| corners.iter().any(is_moved))
            .collect();
        let mut takes_back = false;
        for face in faces_that_meet(made, &is_new) {
            for of in made.face(face).iter().filter_map(|v| stretch_of.get(v)) {
                takes_back |= !std::mem::replace(&mut stays[*of as usize], true);
            }
        }
        if !takes_back {
            return stays.into_iter().filter(|stays| *stays).count();
        }
    }
}

/// Gives corners of faces that were moved normals by their new shape, where the model has normals.
fn shade_anew(before: &Mesh, made: &mut Model) {
    let Some(layer) = &mut made.attributes.normals else {
        return;
    };
    let mesh = &made.mesh;
    let is_moved = |v: &VertexId| mesh.position(*v) != before.position(*v);
    let moved: Vec<_> = mesh
        .faces()
        .filter(|(_, corners)| corners.iter().any(is_moved))
        .map(|(face, _)| face)
        .collect();
    if moved.is_empty() {
        return;
    }
    let new = shading::normals(mesh, Shading::Smooth(HARD));
    let first = layer.values.len() as u32;
    layer.values.extend(&new.values);
    for corner in moved.into_iter().flat_map(|face| mesh.face_range(face)) {
        layer.index[corner] = match new.index[corner] {
            crate::mesh::NO_VALUE => crate::mesh::NO_VALUE,
            value => first + value,
        };
    }
}
