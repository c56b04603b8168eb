//! A round in regions: many at once, each by itself.
//!
//! ```text
//! sheet ─▶ regions, by place ─▶ a round in each ─▶ sheet ─▶ other regions …
//! ```
//!
//! The vertices on which regions meet are frozen for as long, so that every edit touches one
//! region only; next time the cuts lie elsewhere. Regions depend on the surface alone, and so
//! does the result, whatever the number of threads.

use super::feature_edges::{FeatureEdges, Span, VertexConstraint};
use super::sheet::{ReferenceSurface, Sheet};
use crate::mesh::VertexId;
use crate::parallel::{chosen, mapped_from, mapped_with, of_runs};
use crate::progress::Observer;
use crate::spatial::along_curve;
use crate::topology::{LinkedMesh, Marks, SHARED, owners};
use glam::DVec3;
use rayon::prelude::*;

/// Triangles of a region, at most.
const REGION: usize = 8_192;
/// Where the curve is laid, time by time, as a share of its whole extent.
const SHIFTS: [f64; 4] = [0.0, 0.21, 0.37, 0.11];

const NONE: u32 = u32::MAX;

/// A region: its sheet, and by its vertex that of the whole.
struct Region {
    sheet: Sheet,
    vertices: Vec<u32>,
}

/// Does a round everywhere, in regions that lie elsewhere each time.
pub(super) fn round(
    whole: &mut Sheet,
    reference: &ReferenceSurface<'_>,
    time: usize,
    observer: &dyn Observer,
) {
    let lists = lists(whole, time);
    let owner = owners(&whole.linked, &lists);
    let regions: Vec<Region> = mapped_with(lists.len(), 1, Vec::new, |names, list| {
        let is_shared = |v: u32| owner[v as usize] == SHARED;
        let mut region = region(whole, &lists[list], names, is_shared);
        if !observer.cancelled() {
            region.sheet.split_long(reference);
            region.sheet.collapse_short(reference);
            region.sheet.flip_to_even_valence();
            region.sheet.relax(reference);
        }
        region
    });
    put_together(whole, regions, &owner);
}

/// Lists of triangles, of some that lie together each: cut from a curve that fills space (Morton
/// 1966), laid another way each time.
fn lists(whole: &Sheet, time: usize) -> Vec<Vec<u32>> {
    const BITS: f64 = 1024.0;
    let linked = &whole.linked;
    let (low, high) = whole.bounds;
    let shift = SHIFTS[time % SHIFTS.len()];
    let scale = 0.6 * (BITS - 1.0) / (high - low).max_element().max(f64::MIN_POSITIVE);
    // The place along the curve above the triangle's number, in one key.
    let mut places: Vec<u64> = chosen(linked.places(), 4096, |t| {
        let [a, b, c] = linked.points(linked.triangle(t as u32)?);
        let middle = ((a + b + c) / 3.0 - low) * scale + shift * BITS;
        let middle = middle.clamp(DVec3::ZERO, DVec3::splat(BITS - 1.0));
        Some(along_curve(middle) << 32 | t as u64)
    });
    places.par_sort_unstable();
    let size = match places.len() < 2 * REGION {
        true => 2 * REGION,
        false => REGION,
    };
    let list = |places: &[u64]| {
        let mut list: Vec<u32> = places.iter().map(|&place| place as u32).collect();
        list.sort_unstable();
        list
    };
    of_runs(places.len(), size, |run| list(&places[run]))
}

/// A region of these triangles. `names` holds the whole's vertices' numbers in it, as long as it
/// is made, and is left blank.
fn region(
    whole: &Sheet,
    list: &[u32],
    names: &mut Vec<u32>,
    is_shared: impl Fn(u32) -> bool,
) -> Region {
    names.resize(whole.constraints.len(), NONE);
    let mut vertices: Vec<u32> = Vec::with_capacity(list.len());
    let mut lines = FeatureEdges::default();
    let mut triangles = Vec::with_capacity(list.len());
    let mut origins = Vec::with_capacity(list.len());
    for &t in list {
        let Some(triangle) = whole.linked.triangle(t) else {
            continue;
        };
        let own = triangle.map(|vertex| {
            let name = &mut names[vertex as usize];
            if *name == NONE {
                *name = vertices.len() as u32;
                vertices.push(vertex);
            }
            *name
        });
        for (i, j) in [(0, 1), (1, 2), (2, 0)] {
            if whole.constraint(triangle[i]) != VertexConstraint::Free
                && whole.constraint(triangle[j]) != VertexConstraint::Free
                && let Some(span) = whole.lines.get(triangle[i], triangle[j])
            {
                lines.add(own[i], own[j], span);
            }
        }
        triangles.push(own.map(VertexId));
        origins.push(whole.origins[t as usize]);
    }
    vertices.iter().for_each(|&v| names[v as usize] = NONE);
    let positions: Vec<_> = vertices
        .iter()
        .map(|&v| whole.linked.positions[v as usize])
        .collect();
    let constraints = vertices.iter().map(|&v| match is_shared(v) {
        true => VertexConstraint::Frozen,
        false => whole.constraint(v),
    });
    let pick = |all: &[u32]| vertices.iter().map(|&v| all[v as usize]).collect();
    let sheet = Sheet {
        constraints: constraints.collect(),
        near: pick(&whole.near),
        source: pick(&whole.source),
        sizing: match whole.sizing.is_empty() {
            true => Vec::new(),
            false => vertices.iter().map(|&v| whole.sizing[v as usize]).collect(),
        },
        marks: Marks::new(positions.len()),
        linked: LinkedMesh::new(positions, &triangles),
        origins,
        lines,
        edge: whole.edge,
        is_coarse: whole.is_coarse,
        bounds: whole.bounds,
    };
    Region { sheet, vertices }
}

/// What a region has become: its own vertices, and triangles of those that it shares, by their new
/// numbers, and of its own, which follow after all that are shared.
struct Piece {
    constraints: Vec<VertexConstraint>,
    near: Vec<u32>,
    source: Vec<u32>,
    sizing: Vec<f32>,
    positions: Vec<DVec3>,
    triangles: Vec<[u32; 3]>,
    origins: Vec<u32>,
    lines: Vec<(u32, u32, Span)>,
}

impl Piece {
    /// Of a region, when `shared` are the new numbers of the vertices that several have, by vertex
    /// of the whole.
    fn of(region: Region, shared: &[u32], shared_count: u32) -> Self {
        let Region { sheet, vertices } = region;
        let mut own: Vec<u32> = Vec::with_capacity(vertices.len());
        let mut names = vec![NONE; sheet.constraints.len()];
        for (name, &vertex) in names.iter_mut().zip(&vertices) {
            *name = shared[vertex as usize];
        }
        let mut name_of = |v: u32| {
            let name = &mut names[v as usize];
            if *name == NONE {
                *name = shared_count + own.len() as u32;
                own.push(v);
            }
            *name
        };
        let living =
            (0..sheet.linked.places()).filter_map(|t| Some((t, sheet.linked.triangle(t as u32)?)));
        let (triangles, origins) = living
            .map(|(t, triangle)| (triangle.map(&mut name_of), sheet.origins[t]))
            .unzip();
        let lines = sheet.lines.all();
        let lines = lines
            .map(|(a, b, span)| (name_of(a), name_of(b), span))
            .collect();
        let pick = |all: &[u32]| own.iter().map(|&v| all[v as usize]).collect();
        Self {
            constraints: own.iter().map(|&v| sheet.constraints[v as usize]).collect(),
            near: pick(&sheet.near),
            source: pick(&sheet.source),
            sizing: own
                .iter()
                .filter_map(|&v| sheet.sizing.get(v as usize).copied())
                .collect(),
            positions: own
                .iter()
                .map(|&v| sheet.linked.positions[v as usize])
                .collect(),
            triangles,
            origins,
            lines,
        }
    }
}

/// Puts what regions have become back into the whole, its vertices and triangles numbered anew.
fn put_together(whole: &mut Sheet, regions: Vec<Region>, owner: &[u32]) {
    // Vertices of several regions come first.
    let mut shared = vec![NONE; whole.constraints.len()];
    let mut new = Sheet::blank(whole);
    for v in (0..owner.len() as u32).filter(|&v| owner[v as usize] == SHARED) {
        shared[v as usize] = new.take_in(whole, v);
    }
    let shared_count = new.constraints.len() as u32;
    let pieces: Vec<Piece> =
        mapped_from(regions, |region| Piece::of(region, &shared, shared_count));
    let count = pieces.iter().map(|piece| piece.triangles.len()).sum();
    let mut triangles = Vec::with_capacity(count);
    new.origins.reserve(count);
    for piece in pieces {
        // How many of other pieces' own stand before its own.
        let before = new.constraints.len() as u32 - shared_count;
        let named = |name: u32| name + if name < shared_count { 0 } else { before };
        triangles.extend(
            piece
                .triangles
                .iter()
                .map(|t| t.map(|name| VertexId(named(name)))),
        );
        for (a, b, span) in piece.lines {
            new.lines.add(named(a), named(b), span);
        }
        new.origins.extend(piece.origins);
        new.constraints.extend(piece.constraints);
        new.near.extend(piece.near);
        new.source.extend(piece.source);
        new.sizing.extend(piece.sizing);
        new.linked.positions.extend(piece.positions);
    }
    let positions = std::mem::take(&mut new.linked.positions);
    new.linked = LinkedMesh::new(positions, &triangles);
    *whole = new;
}
