//! Rounds in regions: many at once, each by itself.
//!
//! ```text
//! sheet ─▶ regions, by place ─▶ some rounds in each ─▶ sheet ─▶ other regions …
//! ```
//!
//! The vertices on which regions meet are frozen for as long, so that every edit touches one
//! region only; next time the cuts lie elsewhere. Regions depend on the surface alone, and so
//! does the result, whatever the number of threads.

use super::lines::{Hold, Lines};
use super::sheet::{Ground, Sheet};
use crate::mesh::VertexId;
use crate::progress::Observer;
use crate::spatial::by_place;
use crate::topology::{Marks, TriangleNet};
use glam::Vec3;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// Triangles of a region, at most.
const REGION: usize = 16_384;
/// Where a cut divides, time by time.
const CUTS: [f64; 4] = [0.5, 0.41, 0.59, 0.45];

/// A region: its sheet, and by its vertex that of the whole.
struct Region {
    sheet: Sheet,
    vertices: Vec<u32>,
}

/// Does some rounds everywhere, in regions that depend on `time`.
pub(super) fn rounds(
    whole: &mut Sheet,
    ground: &Ground<'_>,
    (time, count): (usize, usize),
    observer: &dyn Observer,
) {
    let lists = lists(whole, CUTS[time % CUTS.len()]);
    let owner = owners(whole, &lists);
    let regions: Vec<Region> = lists
        .par_iter()
        .enumerate()
        .map(|(name, list)| {
            let mut region = region(whole, list, |v| owner[v as usize] != name as u32);
            for _ in 0..count {
                if !observer.cancelled() {
                    region.sheet.split_long(ground);
                    region.sheet.collapse_short(ground);
                    region.sheet.flip_to_even_valence();
                    region.sheet.relax(ground);
                }
            }
            region
        })
        .collect();
    put_together(whole, regions, &owner);
}

/// Lists of triangles that may change, of some that lie together each.
fn lists(whole: &Sheet, cut_at: f64) -> Vec<Vec<u32>> {
    let net = &whole.net;
    let mut places: Vec<(Vec3, u32)> = (0..net.places() as u32)
        .into_par_iter()
        .with_min_len(4096)
        .filter_map(|t| {
            let triangle = net.triangle(t)?;
            let [a, b, c] = net.points(triangle);
            Some((((a + b + c) / 3.0 - whole.centre).as_vec3(), t))
        })
        .collect();
    match places.len() < 2 * REGION {
        true => by_place(&mut places, 2 * REGION, cut_at),
        false => by_place(&mut places, REGION, cut_at),
    }
}

/// By vertex: the region that alone has it, or a number that is none's.
fn owners(whole: &Sheet, lists: &[Vec<u32>]) -> Vec<u32> {
    const NONE: u32 = u32::MAX;
    const SHARED: u32 = u32::MAX - 1;
    let mut owner = vec![NONE; whole.net.positions.len()];
    for (region, list) in lists.iter().enumerate() {
        for vertex in list.iter().filter_map(|&t| whole.net.triangle(t)).flatten() {
            let owner = &mut owner[vertex as usize];
            *owner = match *owner {
                NONE => region as u32,
                own if own == region as u32 => own,
                _ => SHARED,
            };
        }
    }
    owner
}

fn region(whole: &Sheet, list: &[u32], is_shared: impl Fn(u32) -> bool) -> Region {
    let mut vertices: Vec<u32> = Vec::with_capacity(list.len());
    let mut names: FxHashMap<u32, u32> = FxHashMap::default();
    names.reserve(list.len());
    let mut lines = Lines::default();
    let mut triangles = Vec::with_capacity(list.len());
    let mut origins = Vec::with_capacity(list.len());
    for &t in list {
        let Some(triangle) = whole.net.triangle(t) else {
            continue;
        };
        let own = triangle.map(|vertex| {
            *names.entry(vertex).or_insert_with(|| {
                vertices.push(vertex);
                vertices.len() as u32 - 1
            })
        });
        for (i, j) in [(0, 1), (1, 2), (2, 0)] {
            if whole.hold(triangle[i]) != Hold::Free
                && whole.hold(triangle[j]) != Hold::Free
                && let Some(span) = whole.lines.get(triangle[i], triangle[j])
            {
                lines.add(own[i], own[j], span);
            }
        }
        triangles.push(own.map(VertexId));
        origins.push(whole.origins[t as usize]);
    }
    let positions: Vec<_> = vertices
        .iter()
        .map(|&v| whole.net.positions[v as usize])
        .collect();
    let holds = vertices.iter().map(|&v| match is_shared(v) {
        true => Hold::Frozen,
        false => whole.hold(v),
    });
    let pick = |all: &[u32]| vertices.iter().map(|&v| all[v as usize]).collect();
    let sheet = Sheet {
        holds: holds.collect(),
        near: pick(&whole.near),
        source: pick(&whole.source),
        wanted: match whole.wanted.is_empty() {
            true => Vec::new(),
            false => vertices.iter().map(|&v| whole.wanted[v as usize]).collect(),
        },
        marks: Marks::new(positions.len()),
        net: TriangleNet::new(positions, &triangles),
        origins,
        lines,
        edge: whole.edge,
        centre: whole.centre,
    };
    Region { sheet, vertices }
}

/// Puts what regions have become back into the whole, its vertices and triangles numbered anew.
fn put_together(whole: &mut Sheet, regions: Vec<Region>, owner: &[u32]) {
    const NONE: u32 = u32::MAX;
    // Vertices of several regions come first.
    let mut shared = vec![NONE; whole.holds.len()];
    let mut new = Sheet {
        net: TriangleNet::new(Vec::new(), &[]),
        origins: Vec::new(),
        holds: Vec::new(),
        near: Vec::new(),
        wanted: Vec::new(),
        source: Vec::new(),
        lines: Lines::default(),
        edge: whole.edge,
        centre: whole.centre,
        marks: Marks::new(0),
    };
    let mut positions = Vec::new();
    let mut triangles = Vec::new();
    for (name, region) in regions.iter().enumerate() {
        for &v in &region.vertices {
            if owner[v as usize] != name as u32 && shared[v as usize] == NONE {
                shared[v as usize] = positions.len() as u32;
                positions.push(whole.net.positions[v as usize]);
                new.holds.push(whole.holds[v as usize]);
                new.near.push(whole.near[v as usize]);
                new.source.push(whole.source[v as usize]);
                new.wanted.extend(whole.wanted.get(v as usize));
            }
        }
    }
    for (name, region) in regions.into_iter().enumerate() {
        let sheet = region.sheet;
        let mut names = vec![NONE; sheet.holds.len()];
        let mut name_of = |v: u32, positions: &mut Vec<_>, new: &mut Sheet| {
            let own = v as usize;
            if names[own] == NONE {
                names[own] = match region.vertices.get(own) {
                    Some(&v) if owner[v as usize] != name as u32 => shared[v as usize],
                    _ => {
                        positions.push(sheet.net.positions[own]);
                        new.holds.push(sheet.holds[own]);
                        new.near.push(sheet.near[own]);
                        new.source.push(sheet.source[own]);
                        new.wanted.extend(sheet.wanted.get(own));
                        positions.len() as u32 - 1
                    }
                };
            }
            names[own]
        };
        for t in 0..sheet.net.places() as u32 {
            if let Some(triangle) = sheet.net.triangle(t) {
                let named = triangle.map(|v| VertexId(name_of(v, &mut positions, &mut new)));
                triangles.push(named);
                new.origins.push(sheet.origins[t as usize]);
            }
        }
        for (a, b, span) in sheet.lines.all() {
            let [a, b] = [a, b].map(|v| name_of(v, &mut positions, &mut new));
            new.lines.add(a, b, span);
        }
    }
    new.net = TriangleNet::new(positions, &triangles);
    *whole = new;
}
