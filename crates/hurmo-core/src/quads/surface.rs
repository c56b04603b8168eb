//! A part of a surface as even triangles: what a field of crosses and a map are laid on.

use crate::remesh::EvenSurface;
use crate::topology::UnionFind;
use glam::{DVec2, DVec3};
use rustc_hash::{FxHashMap, FxHashSet};

/// No half-edge: the surface ends there.
pub(super) const NONE: u32 = u32::MAX;

/// Oriented triangles in which every vertex has one fan. Half-edge `3t + i` runs from corner `i` of
/// triangle `t` to the next.
pub(super) struct Surface {
    pub positions: Vec<DVec3>,
    /// By vertex: whether it is a pinch of the even surface, at which other fans begin.
    pub is_pinch: Vec<bool>,
    pub triangles: Vec<[u32; 3]>,
    /// By half-edge: the one beside it that runs the other way, or [`NONE`].
    pub across: Vec<u32>,
    /// By half-edge: whether it is on a crease, a border of groups, or a rim.
    pub is_feature: Vec<bool>,
    /// By triangle: its first half-edge's direction, the direction left of it, and the normal.
    frames: Vec<[DVec3; 3]>,
    /// By vertex: a half-edge that leaves it; on a rim, the first one counter-clockwise.
    pub first: Vec<u32>,
    /// By triangle: its number in the even surface that it is a part of.
    pub origins: Vec<u32>,
}

/// The half-edge after another in its triangle.
#[inline]
pub(super) fn next(half_edge: u32) -> u32 {
    match half_edge % 3 {
        2 => half_edge - 2,
        _ => half_edge + 1,
    }
}

/// The half-edge before another in its triangle.
#[inline]
pub(super) fn previous(half_edge: u32) -> u32 {
    next(next(half_edge))
}

impl Surface {
    /// The parts of an even surface. A vertex at which several fans meet becomes one for each, a pinch; an edge
    /// that is not run once in each direction is a rim of all its triangles.
    pub fn parts_of(even: &EvenSurface) -> Vec<Self> {
        let across = paired(&even.triangles);
        let mut sets = UnionFind::new(even.triangles.len());
        for (half_edge, &other) in across.iter().enumerate() {
            if other != NONE {
                sets.join(half_edge as u32 / 3, other / 3);
            }
        }
        let mut parts: FxHashMap<u32, usize> = FxHashMap::default();
        let mut lists: Vec<Vec<u32>> = Vec::new();
        for t in 0..even.triangles.len() as u32 {
            let part = *parts.entry(sets.find(t)).or_insert_with(|| {
                lists.push(Vec::new());
                lists.len() - 1
            });
            lists[part].push(t);
        }
        let features: FxHashSet<[u32; 2]> = even.feature_edges.iter().copied().collect();
        let mut places = vec![NONE; even.triangles.len()];
        let part = |list: Vec<u32>| {
            for (place, &t) in list.iter().enumerate() {
                places[t as usize] = place as u32;
            }
            let local = |half_edge: u32| match across[half_edge as usize] {
                NONE => NONE,
                other => 3 * places[other as usize / 3] + other % 3,
            };
            let half_edges = || list.iter().flat_map(|&t| 3 * t..3 * t + 3);
            let across: Vec<u32> = half_edges().map(local).collect();
            let end =
                |half_edge: u32| even.triangles[half_edge as usize / 3][half_edge as usize % 3];
            let is_feature = half_edges().zip(&across).map(|(half_edge, &other)| {
                let [a, b] = [end(half_edge), end(next(half_edge))];
                other == NONE || features.contains(&[a.min(b), a.max(b)])
            });
            let is_feature = is_feature.collect();
            Self::of(
                half_edges().map(end).collect(),
                across,
                is_feature,
                list.clone(),
            )
        };
        let mut parts: Vec<(Self, Vec<u32>)> = lists.into_iter().map(part).collect();
        let mut fans = vec![0u32; even.positions.len()];
        let all = parts.iter().flat_map(|(_, vertices)| vertices);
        all.for_each(|&v| fans[v as usize] += 1);
        for (part, vertices) in &mut parts {
            let place = |&v: &u32| even.positions[v as usize];
            part.positions = vertices.iter().map(place).collect();
            part.is_pinch = vertices.iter().map(|&v| fans[v as usize] > 1).collect();
            part.set_frames();
        }
        parts.into_iter().map(|(part, _)| part).collect()
    }

    /// Of the ends of half-edges and what lies beside these; and which end each vertex is. No vertex has a place yet.
    fn of(
        ends: Vec<u32>,
        across: Vec<u32>,
        is_feature: Vec<bool>,
        origins: Vec<u32>,
    ) -> (Self, Vec<u32>) {
        let count = ends.len();
        let mut names = vec![NONE; count];
        let (mut vertices, mut first) = (Vec::new(), Vec::new());
        for start in 0..count as u32 {
            if names[start as usize] != NONE {
                continue;
            }
            // Clockwise to the beginning of the fan, or once round.
            let mut begin = start;
            while across[begin as usize] != NONE {
                begin = next(across[begin as usize]);
                if begin == start {
                    break;
                }
            }
            let name = vertices.len() as u32;
            vertices.push(ends[start as usize]);
            first.push(begin);
            let mut here = begin;
            loop {
                names[here as usize] = name;
                here = across[previous(here) as usize];
                if here == NONE || here == begin {
                    break;
                }
            }
        }
        let surface = Self {
            frames: Vec::new(),
            positions: Vec::new(),
            is_pinch: Vec::new(),
            triangles: names.chunks_exact(3).map(|t| [t[0], t[1], t[2]]).collect(),
            across,
            is_feature,
            first,
            origins,
        };
        (surface, vertices)
    }

    /// Works out the frames of triangles.
    fn set_frames(&mut self) {
        let frame = |corners: &[u32; 3]| {
            let [a, b, c] = corners.map(|v| self.positions[v as usize]);
            let normal = (b - a).cross(c - a).normalize_or_zero();
            let along = (b - a).normalize_or_zero();
            [along, normal.cross(along), normal]
        };
        self.frames = self.triangles.iter().map(frame).collect();
    }

    pub fn half_edge_count(&self) -> u32 {
        self.across.len() as u32
    }

    /// The vertex at which a half-edge begins.
    #[inline]
    pub fn from(&self, half_edge: u32) -> u32 {
        self.triangles[half_edge as usize / 3][half_edge as usize % 3]
    }

    /// The vertex at which it ends.
    #[inline]
    pub fn to(&self, half_edge: u32) -> u32 {
        self.from(next(half_edge))
    }

    /// From its begin to its end.
    pub fn along(&self, half_edge: u32) -> DVec3 {
        self.positions[self.to(half_edge) as usize] - self.positions[self.from(half_edge) as usize]
    }

    /// A direction as seen in a triangle's plane.
    #[inline]
    pub fn in_plane(&self, triangle: u32, direction: DVec3) -> DVec2 {
        let [x, y, _] = self.frames[triangle as usize];
        DVec2::new(x.dot(direction), y.dot(direction))
    }

    pub fn normal(&self, triangle: u32) -> DVec3 {
        self.frames[triangle as usize][2]
    }

    /// The angle of a half-edge in its triangle's plane.
    pub fn angle(&self, half_edge: u32) -> f64 {
        let along = self.in_plane(half_edge / 3, self.along(half_edge));
        along.y.atan2(along.x)
    }

    /// The half-edges that leave a vertex, counter-clockwise; on a rim, from one end to the other.
    pub fn around(&self, vertex: u32) -> impl Iterator<Item = u32> + '_ {
        let begin = self.first[vertex as usize];
        std::iter::successors(Some(begin), move |&here| {
            let next = self.across[previous(here) as usize];
            (next != NONE && next != begin).then_some(next)
        })
    }

    /// Whether a vertex is on a rim.
    pub fn is_on_rim(&self, vertex: u32) -> bool {
        self.across[self.first[vertex as usize] as usize] == NONE
    }

    /// The half-edges of each rim, one after the other.
    pub fn rims(&self) -> Vec<Vec<u32>> {
        let mut is_seen = vec![false; self.across.len()];
        let mut rims = Vec::new();
        for start in 0..self.half_edge_count() {
            let mut rim = Vec::new();
            let mut here = start;
            while self.across[here as usize] == NONE && !is_seen[here as usize] {
                is_seen[here as usize] = true;
                rim.push(here);
                // The first half-edge that leaves a vertex on a rim runs along it.
                here = self.first[self.to(here) as usize];
            }
            if !rim.is_empty() {
                rims.push(rim);
            }
        }
        rims
    }

    /// The area of a triangle.
    pub fn area(&self, triangle: u32) -> f64 {
        let [a, b, c] = self.triangles[triangle as usize].map(|v| self.positions[v as usize]);
        (b - a).cross(c - a).length() / 2.0
    }

    /// Vertices less edges plus triangles.
    pub fn euler(&self) -> i64 {
        let rims = self.across.iter().filter(|&&other| other == NONE).count() as i64;
        let edges = (self.across.len() as i64 + rims) / 2;
        self.positions.len() as i64 - edges + self.triangles.len() as i64
    }
}

/// The half-edge beside each, where an edge is run once in each direction.
pub(super) fn paired(triangles: &[[u32; 3]]) -> Vec<u32> {
    let ends = |half_edge: u32| {
        let triangle = triangles[half_edge as usize / 3];
        [half_edge as usize % 3, next(half_edge) as usize % 3].map(|i| triangle[i])
    };
    let mut list: Vec<(u32, u32, u32)> = (0..3 * triangles.len() as u32)
        .map(|half_edge| {
            let [a, b] = ends(half_edge);
            (a.min(b), a.max(b), half_edge)
        })
        .collect();
    list.sort_unstable();
    let mut across = vec![NONE; list.len()];
    for edge in list.chunk_by(|a, b| (a.0, a.1) == (b.0, b.1)) {
        if let &[(.., one), (.., other)] = edge
            && ends(one)[0] != ends(other)[0]
        {
            across[one as usize] = other;
            across[other as usize] = one;
        }
    }
    across
}

/// An even surface in which no triangle has two sides on features: such are divided into three, so that
/// crosses can follow both.
pub(super) fn with_free_corners(mut even: EvenSurface) -> EvenSurface {
    let across = paired(&even.triangles);
    let features: FxHashSet<[u32; 2]> = even.feature_edges.iter().copied().collect();
    for t in 0..even.triangles.len() {
        let triangle = even.triangles[t];
        let is_feature = |i: usize| {
            let [a, b] = [triangle[i], triangle[(i + 1) % 3]];
            across[3 * t + i] == NONE || features.contains(&[a.min(b), a.max(b)])
        };
        if (0..3).filter(|&i| is_feature(i)).count() < 2 {
            continue;
        }
        let middle = triangle
            .map(|v| even.positions[v as usize])
            .iter()
            .sum::<DVec3>()
            / 3.0;
        let new = even.positions.len() as u32;
        even.positions.push(middle);
        let [a, b, c] = triangle;
        even.triangles[t] = [a, b, new];
        even.triangles.extend([[b, c, new], [c, a, new]]);
        even.faces.extend([even.faces[t]; 2]);
    }
    even
}

/// By triangle: whether an edge of it has more triangles than two, or two that face opposite ways.
pub(super) fn branching(even: &EvenSurface) -> Vec<bool> {
    let mut list: Vec<([u32; 2], u32)> = Vec::with_capacity(3 * even.triangles.len());
    for (t, &[a, b, c]) in even.triangles.iter().enumerate() {
        for [p, q] in [[a, b], [b, c], [c, a]] {
            list.push(([p.min(q), p.max(q)], t as u32));
        }
    }
    list.sort_unstable();
    let across = paired(&even.triangles);
    let mut branching = vec![false; even.triangles.len()];
    for edge in list.chunk_by(|a, b| a.0 == b.0) {
        for &(_, t) in edge.iter().filter(|_| edge.len() > 1) {
            let own = &across[3 * t as usize..][..3];
            let triangle = even.triangles[t as usize];
            let is_apart = (0..3).any(|i| {
                let [a, b] = [triangle[i], triangle[(i + 1) % 3]];
                own[i] == NONE && [a.min(b), a.max(b)] == edge[0].0
            });
            branching[t as usize] |= is_apart;
        }
    }
    branching
}
