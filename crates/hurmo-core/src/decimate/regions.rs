//! Reduction in regions: many at once, each by itself.
//!
//! ```text
//! surface ─▶ regions, by place ─▶ each swept up to one cost, and on ─▶ surface ─▶ other regions …
//! ```
//!
//! A surface of many triangles is cut by place into regions of some thousands. The vertices on
//! which regions meet are held for as long; every collapse then touches one region only, so that
//! regions can be swept at the same time, each small enough to stay near the processor. All are
//! swept up to the same cost, which rises step by step, so that triangles go where the whole
//! surface spares them best. Then it is put together and cut elsewhere; the last of the way is
//! one sweep over everything. The regions depend on the surface alone, and so does the result,
//! whatever the number of threads. Cost: a copy of the surface, besides the sweep.

use super::quadric::Quadric;
use super::reduce::{Reduction, pick};
use super::sweep::{Next, Sweep};
use super::vertex_class::VertexClass;
use crate::mesh::VertexId;
use crate::parallel::{change_each, chosen, mapped_of};
use crate::progress::Observer;
use crate::topology::{LinkedMesh, SHARED, owners};
use glam::{DVec3, Vec3};
use rustc_hash::FxHashMap;

/// Triangles of a region, at most.
pub(super) const REGION: usize = 16_384;
/// With so few regions, one sweep does it all.
const FEW: usize = 8;
/// Regions are left with this many times the triangles that the target would give them.
const SPARE: f64 = 1.2;
/// In one round a region is reduced to no less than this share.
const ROUND: f64 = 0.125;
/// A round that takes away less than this share is the last.
const WORTH: f64 = 0.1;
/// Where a cut divides, round by round.
const CUTS: [f64; 3] = [0.5, 0.41, 0.59];

/// A part of a surface that is reduced by itself.
struct Region {
    part: Part,
    sweep: Sweep,
    /// Whether no edge up to the cost that was asked for is left.
    is_through: bool,
}

/// Some triangles of a surface, numbered anew.
struct Part {
    reduction: Reduction,
    /// By its vertex, that of the whole.
    vertices: Vec<u32>,
    /// By its wedge, that of the whole.
    wedges: Vec<u32>,
    /// How many triangles have no more than one free vertex, and so stay.
    held: usize,
}

impl Region {
    fn free(&self) -> usize {
        self.part.reduction.living().saturating_sub(self.part.held)
    }
}

/// Reduces in regions, as long as there are triangles enough, to somewhat more than `target`.
pub(super) fn reduce_in_regions(
    whole: &mut Reduction,
    target: usize,
    begin: usize,
    observer: &dyn Observer,
) {
    let Some(most) = whole.rules.region else {
        return;
    };
    for round in 0.. {
        let living = whole.living();
        if living < FEW * most || (living as f64) < SPARE * target as f64 || observer.cancelled() {
            return;
        }
        let mut regions = regions(whole, most, CUTS[round % CUTS.len()]);
        // Every vertex that is left is in a region: what the whole has of them would be held twice.
        whole.linked = LinkedMesh::new(Vec::new(), &[]);
        whole.quadrics = Vec::new();
        let share = (SPARE * target as f64 / living as f64).max(ROUND);
        sweep_together(&mut regions, share, begin, observer);
        put_together(whole, regions);
        if whole.living() as f64 > (1.0 - WORTH) * living as f64 {
            return;
        }
    }
}

/// Sweeps regions until this share of their free triangles is left, up to the same cost in each.
fn sweep_together(regions: &mut [Region], share: f64, begin: usize, observer: &dyn Observer) {
    let free = |regions: &[Region]| regions.iter().map(Region::free).sum::<usize>() as f64;
    let goal = free(regions) * share;
    let mut first: Vec<f64> = regions
        .iter()
        .filter_map(|region| region.sweep.cost_of_share(0.05))
        .collect();
    first.sort_unstable_by(f64::total_cmp);
    let mut until = first.get(first.len() / 2).copied().unwrap_or(0.0);
    loop {
        let now = free(regions);
        if now <= 1.02 * goal || observer.cancelled() {
            return;
        }
        // So that the goal is not missed even if every region goes as far as it may.
        let keep = goal / now;
        change_each(regions, 1, |_, region| {
            let least = region.part.held + (region.free() as f64 * keep) as usize;
            let Region { part, sweep, .. } = region;
            let is_through = sweep.advance(&mut part.reduction, until, least, |_| Next::GoOn);
            region.is_through = is_through || region.free() == 0;
        });
        observer.at(begin.saturating_sub(living(regions)) as u64);
        if regions.iter().all(|region| region.is_through) {
            let unfinished = regions.iter_mut().filter(|region| region.free() > 0);
            let costs = unfinished.filter_map(|region| region.sweep.next_cost());
            let Some(next) = costs.min_by(f64::total_cmp) else {
                return;
            };
            // On a smooth surface the cost rises with the cube of what has gone; half that far. What
            // is refused waits at ever higher costs: nothing is lost by going there quickly.
            let left = free(regions);
            let rise = match left < now {
                true => (left / goal).powf(1.5).clamp(1.2, 64.0),
                false => 64.0,
            };
            until = until.max(next) * rise;
        }
    }
}

fn living(regions: &[Region]) -> usize {
    let each = regions.iter().map(|region| region.part.reduction.living());
    each.sum()
}

/// Cuts a surface into regions.
fn regions(whole: &Reduction, most: usize, cut_at: f64) -> Vec<Region> {
    let linked = &whole.linked;
    let centre = whole.rules.centre;
    let mut places: Vec<(Vec3, u32)> = chosen(linked.places(), 4096, |t| {
        let [a, b, c] = linked.points(linked.triangle(t as u32)?);
        Some((((a + b + c) / 3.0 - centre).as_vec3(), t as u32))
    });
    let lists = cut(&mut places, most, cut_at);
    drop(places);
    let owner = owners(linked, &lists);
    let is_held = |vertex: u32| owner[vertex as usize] == SHARED;
    mapped_of(&lists, 1, |list| region(whole, list, is_held))
}

/// Lists of triangles that lie together, none longer than `most`.
fn cut(places: &mut [(Vec3, u32)], most: usize, at: f64) -> Vec<Vec<u32>> {
    if places.len() <= most {
        let mut list: Vec<u32> = places.iter().map(|place| place.1).collect();
        list.sort_unstable();
        return vec![list];
    }
    let (mut low, mut high) = (Vec3::MAX, Vec3::MIN);
    for (place, _) in places.iter() {
        (low, high) = (low.min(*place), high.max(*place));
    }
    let axis = (high - low).max_position();
    let middle = (places.len() as f64 * at) as usize;
    places.select_nth_unstable_by(middle, |one, two| {
        let along = one.0[axis].total_cmp(&two.0[axis]);
        along.then(one.1.cmp(&two.1))
    });
    let (one, two) = places.split_at_mut(middle);
    let (mut lists, others) = rayon::join(|| cut(one, most, at), || cut(two, most, at));
    lists.extend(others);
    lists
}

/// The same surface without what is gone.
pub(super) fn compact(whole: &Reduction) -> Reduction {
    let places = 0..whole.linked.places() as u32;
    let living: Vec<u32> = places
        .filter(|&t| whole.linked.triangle(t).is_some())
        .collect();
    part(whole, &living, |_| false).reduction
}

/// A region of these triangles, in which some vertices are held.
fn region(whole: &Reduction, list: &[u32], is_held: impl Fn(u32) -> bool) -> Region {
    let part = part(whole, list, is_held);
    Region {
        sweep: Sweep::new(&part.reduction),
        part,
        is_through: false,
    }
}

/// These triangles by themselves.
fn part(whole: &Reduction, list: &[u32], is_held: impl Fn(u32) -> bool) -> Part {
    let mut vertices: Vec<u32> = Vec::with_capacity(list.len());
    let mut names: FxHashMap<u32, u32> = FxHashMap::default();
    names.reserve(list.len());
    let mut held = 0;
    let triangles: Vec<[VertexId; 3]> = list
        .iter()
        .filter_map(|&t| whole.linked.triangle(t))
        .map(|triangle| {
            held += usize::from(triangle.iter().filter(|&&v| is_held(v)).count() > 1);
            triangle.map(|vertex| {
                let name = names.entry(vertex).or_insert_with(|| {
                    vertices.push(vertex);
                    vertices.len() as u32 - 1
                });
                VertexId(*name)
            })
        })
        .collect();
    let positions = pick(&whole.linked.positions, &vertices);
    let linked = LinkedMesh::new(positions, &triangles);
    let (wedges, wedge_names) = match &whole.wedges {
        Some(wedges) => {
            let (part, names) = wedges.part(list);
            (Some(part), names)
        }
        None => (None, Vec::new()),
    };
    let kinds = vertices.iter().map(|&vertex| match is_held(vertex) {
        true => VertexClass::Held,
        false => whole.kinds[vertex as usize],
    });
    let reduction = whole.part(linked, (&vertices, list), kinds.collect(), wedges);
    Part {
        reduction,
        vertices,
        wedges: wedge_names,
        held,
    }
}

/// Puts what regions have become back into the whole.
fn put_together(whole: &mut Reduction, regions: Vec<Region>) {
    let count = living(&regions);
    let mut triangles = Vec::with_capacity(count);
    let mut origins = Vec::with_capacity(count);
    let mut corners = Vec::new();
    let vertices = whole.kinds.len();
    let mut positions = vec![DVec3::ZERO; vertices];
    whole.quadrics = vec![Quadric::default(); vertices];
    for region in regions {
        let Part {
            reduction: part,
            vertices,
            wedges: wedge_names,
            ..
        } = region.part;
        let living =
            (0..part.linked.places() as u32).filter_map(|t| Some((t, part.linked.triangle(t)?)));
        for (t, triangle) in living {
            triangles.push(triangle.map(|v| VertexId(vertices[v as usize])));
            origins.push(part.origins[t as usize]);
            if let Some(wedges) = &part.wedges {
                let own = wedges.of_triangle(3 * t);
                corners.extend(own.map(|wedge| wedge_names[wedge as usize]));
            }
        }
        for (own, &vertex) in vertices.iter().enumerate() {
            positions[vertex as usize] = part.linked.positions[own];
            whole.quadrics[vertex as usize] = part.quadrics[own];
            if let (Some(colors), Some(new)) = (&mut whole.colors, &part.colors) {
                colors[vertex as usize] = new[own];
            }
            if let (Some(all), Some(new)) = (&mut whole.tolerances, &part.tolerances) {
                all[vertex as usize] = new[own];
            }
        }
        if let (Some(wedges), Some(part)) = (&mut whole.wedges, &part.wedges) {
            wedges.take_back(part, &wedge_names);
        }
    }
    whole.linked = LinkedMesh::new(positions, &triangles);
    whole.origins = origins;
    if let Some(wedges) = &mut whole.wedges {
        wedges.set_corners(corners);
    }
}
