//! Feature lines that a map lays on each other, since they lie closer than lines of whole numbers.

use super::places::{Passage, Places};
use crate::quads::frames::Frames;
use crate::quads::surface::{NONE, Surface};
use glam::DVec2;

/// Where two feature lines lie on each other, or both ends of one.
#[derive(Clone, Copy, Debug)]
pub(in crate::quads) struct Merged {
    /// A triangle between them.
    pub triangle: u32,
    /// The axis of the triangle's frame across to them.
    pub axis: usize,
    /// How far apart they are on the model, or how far the triangle reaches if that is more.
    pub apart: f64,
}

/// The places where feature lines lie on each other.
pub(super) fn merged(surface: &Surface, frames: &Frames, places: &Places) -> Vec<Merged> {
    let mut passages: Vec<&Passage> = places.passages.iter().collect();
    passages.sort_by_key(|passage| (passage.cells, passage.half_edge));
    let same = passages.chunk_by(|a, b| a.cells == b.cells);
    let mut all: Vec<Merged> = same
        .flat_map(|some| between(surface, frames, some))
        .collect();
    for &half_edge in &places.short_lines {
        let apart = surface.along(half_edge).length();
        all.extend(sides(surface, half_edge).map(|side| Merged {
            triangle: side / 3,
            axis: frames.axis_along(surface, side),
            apart,
        }));
    }
    for place in &mut all {
        let extent = extent(surface, frames, place.triangle, place.axis);
        place.apart = place.apart.max(extent);
    }
    all
}

/// How far a triangle reaches along an axis of its frame.
fn extent(surface: &Surface, frames: &Frames, triangle: u32, axis: usize) -> f64 {
    let along = DVec2::from_angle(frames.angles[triangle as usize]);
    let along = [along, along.perp()][axis];
    let [a, b, c] = surface.triangles[triangle as usize].map(|v| {
        let place = surface.positions[v as usize];
        surface.in_plane(triangle, place).dot(along)
    });
    a.max(b).max(c) - a.min(b).min(c)
}

/// The half-edges of an edge.
fn sides(surface: &Surface, half_edge: u32) -> impl Iterator<Item = u32> {
    let other = surface.across[half_edge as usize];
    [half_edge, other].into_iter().filter(|&side| side != NONE)
}

/// Of lines that pass between the same two cells: each with its nearest other one.
fn between(surface: &Surface, frames: &Frames, some: &[&Passage]) -> Vec<Merged> {
    let merged = |passage: &&Passage| {
        let others = some
            .iter()
            .filter(|other| other.half_edge != passage.half_edge);
        let near = others.min_by(|a, b| {
            let [a, b] = [a, b].map(|other| other.at.distance_squared(passage.at));
            a.total_cmp(&b)
        })?;
        let way = near.at - passage.at;
        // The side of the line on which the other one lies.
        let inward = |side: &u32| {
            let normal = surface.normal(side / 3);
            normal
                .cross(surface.along(*side))
                .normalize_or_zero()
                .dot(way)
        };
        let side =
            sides(surface, passage.half_edge).max_by(|a, b| inward(a).total_cmp(&inward(b)))?;
        Some(Merged {
            triangle: side / 3,
            axis: 1 - frames.axis_along(surface, side),
            apart: way.length(),
        })
    };
    match some.len() {
        1 => Vec::new(),
        _ => some.iter().filter_map(merged).collect(),
    }
}
