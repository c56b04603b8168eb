//! Guides as edges of the surface: for each line that is drawn near it the path of edges along it (Dijkstra 1959),
//! whose vertices are moved onto the line as far as no triangle becomes bad. Where edges still run askew to the line
//! then, as many do to one that bends, there is no such path: a field along the line is better than one along kinks.

use super::even::FINER;
use super::guides::FAR;
use crate::remesh::EvenSurface;
use crate::spatial::{LineTree, TriangleTree};
use crate::triangulate::quality;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// How much longer an edge counts that lies a side of a triangle off the line.
const OFF: f64 = 6.0;
/// How far apart places on a line are looked at, in sides of triangles.
const STEP: f64 = 0.5;
/// How many triangles wide what lies beside a line is looked at.
const RINGS: usize = 3;
/// The cosine of 15 degrees: an edge that lies at a larger angle to its line runs askew.
const ASKEW: f64 = 0.966;
/// Triangles stay at least this even, or half as even as they were.
const EVEN: f64 = 0.25;

/// Makes feature edges of what runs along guides, for quads with sides of about `edge`. What it has laid, as pieces.
pub(super) fn lay(even: &mut EvenSurface, guides: &[[DVec3; 2]], edge: f64) -> Vec<[DVec3; 2]> {
    if guides.is_empty() {
        return Vec::new();
    }
    let begin = Begin::of(even);
    let mut laid: Vec<[u32; 2]> = Vec::new();
    let mut features: FxHashSet<[u32; 2]> = even.feature_edges.iter().copied().collect();
    let mut held: FxHashSet<u32> = features.iter().flatten().copied().collect();
    for line in polylines(guides) {
        let near = Near::of(even, &begin, &line, edge);
        for ends in near.stretches() {
            let Some(path) = near.path(even, ends) else {
                continue;
            };
            let begin: Vec<DVec3> = path.iter().map(|&v| even.positions[v as usize]).collect();
            near.move_onto(even, &path, &held);
            if near.is_askew(even, &path) {
                for (&v, at) in path.iter().zip(begin) {
                    even.positions[v as usize] = at;
                }
                continue;
            }
            for pair in path.windows(2) {
                let ends = [pair[0].min(pair[1]), pair[0].max(pair[1])];
                if features.insert(ends) {
                    laid.push(ends);
                }
            }
            held.extend(path);
        }
    }
    even.feature_edges = features.into_iter().collect();
    even.feature_edges.sort_unstable();
    let place = |v: u32| even.positions[v as usize];
    laid.iter().map(|ends| ends.map(place)).collect()
}

/// The lines that pieces make which follow each other.
fn polylines(pieces: &[[DVec3; 2]]) -> Vec<Vec<DVec3>> {
    let mut lines: Vec<Vec<DVec3>> = Vec::new();
    for &[from, to] in pieces {
        match lines.last_mut().filter(|line| line.last() == Some(&from)) {
            Some(line) => line.push(to),
            None => lines.push(vec![from, to]),
        }
    }
    lines
}

/// A surface before its vertices are moved.
struct Begin {
    tree: TriangleTree,
    /// By vertex, its triangles.
    triangles_at: Vec<Vec<u32>>,
}

impl Begin {
    fn of(even: &EvenSurface) -> Self {
        let corners = |t: usize| even.triangles[t].map(|v| even.positions[v as usize]);
        let mut triangles_at = vec![Vec::new(); even.positions.len()];
        for (t, triangle) in (0..).zip(&even.triangles) {
            triangle
                .iter()
                .for_each(|&v| triangles_at[v as usize].push(t));
        }
        Self {
            tree: TriangleTree::new(even.triangles.len(), corners),
            triangles_at,
        }
    }
}

/// What of a surface lies near a line.
struct Near<'l> {
    begin: &'l Begin,
    line: LineTree,
    /// By vertex near the line, its neighbours near it.
    beside: FxHashMap<u32, Vec<u32>>,
    /// Places on the surface along the line, as vertices; nothing where it is too far away.
    along: Vec<Option<u32>>,
    /// The length of a triangle's side.
    side: f64,
}

impl<'l> Near<'l> {
    fn of(even: &EvenSurface, begin: &'l Begin, line: &[DVec3], edge: f64) -> Self {
        let side = edge * FINER;
        let mut along = Vec::new();
        for pair in line.windows(2) {
            let count = (pair[0].distance(pair[1]) / (side * STEP)).ceil().max(1.0) as usize;
            for i in 0..=count {
                let at = pair[0].lerp(pair[1], i as f64 / count as f64);
                let near = begin.tree.closest_within(at, FAR * edge);
                along.push(near.and_then(|near| {
                    let corners = even.triangles[near.triangle as usize].into_iter();
                    let off = |v: &u32| even.positions[*v as usize].distance_squared(near.point);
                    corners.min_by(|a, b| off(a).total_cmp(&off(b)))
                }));
            }
        }
        let pieces = line.windows(2).map(|pair| [pair[0], pair[1]]);
        let mut made = Self {
            begin,
            line: LineTree::of(pieces.collect()),
            beside: FxHashMap::default(),
            along,
            side,
        };
        made.take_in(even);
        made
    }

    /// Takes in what lies round the line, some triangles wide.
    fn take_in(&mut self, even: &EvenSurface) {
        let round = |v: u32| {
            let triangles = self.begin.triangles_at[v as usize].iter();
            triangles.flat_map(|&t| even.triangles[t as usize])
        };
        let mut near: FxHashSet<u32> = self.along.iter().flatten().copied().collect();
        let mut last: Vec<u32> = near.iter().copied().collect();
        for _ in 0..RINGS {
            let next = last.iter().flat_map(|&v| round(v));
            last = next.filter(|&v| near.insert(v)).collect();
        }
        let mut beside = FxHashMap::default();
        for &v in &near {
            let all = round(v).filter(|w| *w != v && near.contains(w));
            let mut all: Vec<u32> = all.collect();
            all.sort_unstable();
            all.dedup();
            beside.insert(v, all);
        }
        self.beside = beside;
    }

    /// The first and the last vertex of each stretch of the line that lies on the surface; one that comes back to where
    /// it began is three.
    fn stretches(&self) -> Vec<[u32; 2]> {
        let mut stretches = Vec::new();
        for run in self.along.split(Option::is_none) {
            let run: Vec<u32> = run.iter().flatten().copied().collect();
            match (run.first(), run.last()) {
                (Some(&first), Some(&last)) if first != last => stretches.push([first, last]),
                (Some(&first), Some(_)) if run.len() > 6 => {
                    let [one, two] = [run[run.len() / 3], run[run.len() * 2 / 3]];
                    stretches.extend([[first, one], [one, two], [two, first]]);
                }
                _ => {}
            }
        }
        stretches
    }

    /// Whether an edge of a path runs askew to the line.
    fn is_askew(&self, even: &EvenSurface, path: &[u32]) -> bool {
        let is_askew = |pair: &[u32]| {
            let [from, to] = [pair[0], pair[1]].map(|v| even.positions[v as usize]);
            let (_, far) = self.on_line((from + to) / 2.0);
            let [begin, end] = self.line.piece(far as usize);
            let cosine = (to - from)
                .normalize_or_zero()
                .dot((end - begin).normalize_or_zero());
            cosine.abs() < ASKEW
        };
        path.windows(2).any(is_askew)
    }

    /// The point of the line nearest to a place, and how far along it is, in pieces.
    fn on_line(&self, at: DVec3) -> (DVec3, f64) {
        self.line.closest_and_how_far(at).unwrap_or((at, 0.0))
    }

    /// The path of edges between two vertices that keeps nearest to the line.
    fn path(&self, even: &EvenSurface, [from, to]: [u32; 2]) -> Option<Vec<u32>> {
        let place = |v: u32| even.positions[v as usize];
        let mut off: FxHashMap<u32, f64> = FxHashMap::default();
        for &v in self.beside.keys() {
            let on_surface = self.begin.tree.closest(self.on_line(place(v)).0);
            let at = on_surface.map_or(place(v), |found| found.point);
            off.insert(v, (at.distance(place(v)) / self.side).powi(2));
        }
        let cost = |v: u32, w: u32| {
            let aside = (off.get(&v)? + off.get(&w)?) / 2.0;
            Some(place(v).distance(place(w)) * (1.0 + OFF * aside))
        };
        let mut known: FxHashMap<u32, (f64, u32)> = FxHashMap::default();
        let mut queue = BinaryHeap::new();
        queue.push(Reached(0.0, from, from));
        while let Some(Reached(length, v, before)) = queue.pop() {
            if known.contains_key(&v) {
                continue;
            }
            known.insert(v, (length, before));
            if v == to {
                break;
            }
            for &w in self.beside.get(&v).into_iter().flatten() {
                if let Some(more) = cost(v, w).filter(|_| !known.contains_key(&w)) {
                    queue.push(Reached(length + more, w, v));
                }
            }
        }
        let mut path = vec![to];
        while let Some(&(_, before)) = known.get(path.last()?) {
            if before == *path.last()? {
                path.reverse();
                return Some(path);
            }
            path.push(before);
        }
        None
    }

    /// Moves the vertices of a path onto the line and back onto the surface, but not those that are held.
    fn move_onto(&self, even: &mut EvenSurface, path: &[u32], held: &FxHashSet<u32>) {
        let mut last = f64::NEG_INFINITY;
        for &v in path {
            let here = even.positions[v as usize];
            let (on_line, along) = self.on_line(here);
            let on_surface = self.begin.tree.closest(on_line);
            let fits = along > last && !held.contains(&v);
            last = last.max(along);
            let Some(there) = on_surface.filter(|_| fits) else {
                continue;
            };
            let own = self.begin.triangles_at[v as usize].iter();
            let stays_good = own.copied().all(|t| {
                let corners = even.triangles[t as usize];
                let was = corners.map(|w| even.positions[w as usize]);
                let at = |w: u32| {
                    if w == v {
                        there.point
                    } else {
                        even.positions[w as usize]
                    }
                };
                let now = corners.map(at);
                let normal = |[a, b, c]: [DVec3; 3]| (b - a).cross(c - a);
                normal(was).dot(normal(now)) > 0.0 && quality(now) >= EVEN.min(0.5 * quality(was))
            });
            if stays_good {
                even.positions[v as usize] = there.point;
            }
        }
    }
}

/// A vertex reached over another, the nearest first.
struct Reached(f64, u32, u32);

impl PartialEq for Reached {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}

impl Eq for Reached {}

impl PartialOrd for Reached {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Reached {
    fn cmp(&self, other: &Self) -> Ordering {
        other
            .0
            .total_cmp(&self.0)
            .then((other.1, other.2).cmp(&(self.1, self.2)))
    }
}
