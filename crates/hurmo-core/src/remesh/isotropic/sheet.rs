//! A surface on its way to even triangles: what all steps of a round share.

use super::feature_edges::{FeatureEdges, VertexConstraint};
use super::feature_polylines::FeaturePolylines;
use super::sizing_field::SizingField;
use super::split::LONG;
use crate::attribute_transfer::Carried;
use crate::measure::{EVEN, NARROW};
use crate::parallel::{chosen, counted};
use crate::topology::{LinkedMesh, Marks};
use crate::triangulate::quality;
use glam::DVec3;

/// A face may turn by at most this (cosine) when a vertex moves or an edge flips.
pub(super) const LEAN: f64 = 0.5;

/// Faces thinner than this (height against longest edge, squared) are not made of others.
const THIN: f64 = 2.5e-3;

/// The height of faces that are noise, as a share of how long edges should be in the end.
const NOISE: f64 = 0.1;

/// Thin faces may become thinner by this factor (of the square) when all their sides are short.
const LEANING: f64 = 0.5;

/// What does not change: the model as it was.
#[derive(Clone, Copy)]
pub(super) struct ReferenceSurface<'a> {
    pub carried: &'a Carried<'a>,
    pub linked: &'a LinkedMesh,
    pub chains: &'a FeaturePolylines,
    /// How long edges should be, where that differs from place to place.
    pub sizing: Option<&'a SizingField>,
    /// By how much a line may be cut short at most.
    pub most_rise: f64,
}

/// A surface, or a region of one, with its vertices and triangles in their own numbers.
pub(super) struct Sheet {
    pub linked: LinkedMesh,
    /// By triangle: the face of the model that it comes from.
    pub origins: Vec<u32>,
    pub constraints: Vec<VertexConstraint>,
    /// By vertex: a triangle of the model that it was near.
    pub near: Vec<u32>,
    /// By vertex: how long its edges should be, as a multiple of `edge`; empty where all are
    /// alike.
    pub sizing: Vec<f32>,
    /// By vertex: the vertex of the model that it still is, or [`NEW`].
    pub source: Vec<u32>,
    pub lines: FeatureEdges,
    /// How long edges should be.
    pub edge: f64,
    /// Whether edges are to be divided once more later.
    pub is_coarse: bool,
    /// The least and the greatest coordinates of the model.
    pub bounds: (DVec3, DVec3),
    pub marks: Marks,
}

/// A vertex that the model doesn't have.
pub(super) const NEW: u32 = u32::MAX;

/// An edge with its stretch, as bits that sort like it, before its ends.
pub(super) type StretchedEdge = (u64, u32, u32);

impl Sheet {
    /// Like another, without vertices and triangles.
    pub fn blank(like: &Sheet) -> Self {
        Self {
            linked: LinkedMesh::new(Vec::new(), &[]),
            origins: Vec::new(),
            constraints: Vec::new(),
            near: Vec::new(),
            sizing: Vec::new(),
            source: Vec::new(),
            lines: FeatureEdges::default(),
            edge: like.edge,
            is_coarse: like.is_coarse,
            bounds: like.bounds,
            marks: Marks::new(0),
        }
    }

    /// Takes in a vertex of another sheet, without its triangles and lines; its number here.
    pub fn take_in(&mut self, other: &Sheet, vertex: u32) -> u32 {
        let v = vertex as usize;
        self.constraints.push(other.constraints[v]);
        self.near.push(other.near[v]);
        self.source.push(other.source[v]);
        self.sizing.extend(other.sizing.get(v));
        self.linked.add_vertex(other.linked.positions[v])
    }

    /// How long the edges at a vertex should be.
    #[inline]
    pub fn wanted_at(&self, vertex: u32) -> f64 {
        let share = self.sizing.get(vertex as usize);
        self.edge * share.map_or(1.0, |&share| f64::from(share))
    }

    /// How long an edge is, squared, against how long it should be.
    #[inline]
    pub fn stretch(&self, a: u32, b: u32) -> f64 {
        let sizing = match self.sizing.is_empty() {
            true => self.edge,
            false => self.wanted_at(a).min(self.wanted_at(b)),
        };
        let [p, q] = [a, b].map(|v| self.linked.positions[v as usize]);
        p.distance_squared(q) / (sizing * sizing)
    }

    pub fn constraint(&self, vertex: u32) -> VertexConstraint {
        self.constraints[vertex as usize]
    }

    pub fn is_line(&self, a: u32, b: u32) -> bool {
        self.constraint(a) != VertexConstraint::Free
            && self.constraint(b) != VertexConstraint::Free
            && self.lines.has(a, b)
    }

    /// Whether an edge stays as it is: one between frozen vertices that is on a line, or has faces
    /// elsewhere.
    pub fn is_frozen(&self, a: u32, b: u32) -> bool {
        let both = self.constraint(a) == VertexConstraint::Frozen
            && self.constraint(b) == VertexConstraint::Frozen;
        both && (self.lines.has(a, b) || self.linked.on_edge(a, b).nth(1).is_none())
    }

    /// The edges, once each, whose stretch fulfils a condition; the least stretched first.
    pub fn edges_where(&self, constraints: impl Fn(f64) -> bool) -> Vec<StretchedEdge> {
        let triangles = (0..self.linked.places() as u32).filter_map(|t| self.linked.triangle(t));
        let mut edges: Vec<StretchedEdge> = triangles
            .flat_map(|[a, b, c]| [(a, b), (b, c), (c, a)])
            .filter_map(|(a, b)| {
                let stretch = self.stretch(a, b);
                (constraints(stretch) && !self.is_frozen(a, b))
                    .then(|| (stretch.to_bits(), a.min(b), a.max(b)))
            })
            .collect();
        edges.sort_unstable();
        edges.dedup();
        edges
    }

    /// The other ends of the lines at a vertex, sorted.
    pub fn line_neighbours(&self, vertex: u32) -> Vec<u32> {
        let mut others: Vec<u32> = self
            .linked
            .around(vertex)
            .flat_map(|(_, [_, x, y])| [x, y])
            .filter(|&other| self.is_line(vertex, other))
            .collect();
        others.sort_unstable();
        others.dedup();
        others
    }

    /// Whether the faces round a vertex, but for those at `except`, stay sound when it moves.
    pub fn sound(&self, vertex: u32, except: Option<u32>, at: DVec3) -> bool {
        let from = self.linked.positions[vertex as usize];
        let along = |face: DVec3| {
            let vertices = [Some(vertex), except];
            let facing = vertices.iter().flatten().map(|&v| self.facing(v));
            looks_along(face, facing.sum())
        };
        // What is thin against long edges is not to be flattened.
        let free = |v: &u32| self.constraint(*v) == VertexConstraint::Free;
        let all = match except {
            Some(except) if self.is_coarse && at != from => {
                let free = [vertex, except].into_iter().filter(free);
                free.map(|v| self.facing(v)).sum()
            }
            _ => DVec3::ZERO,
        };
        self.linked.around(vertex).all(|(_, [_, x, y])| {
            if Some(x) == except || Some(y) == except {
                return true;
            }
            let [p, q] = [x, y].map(|v| self.linked.positions[v as usize]);
            let before = (p - from).cross(q - from);
            let after = (p - at).cross(q - at);
            let turned = before.dot(after) < LEAN * before.length() * after.length();
            if turned
                && quality([from, p, q]) >= 1e-6
                && !(self.is_noise(vertex, [from, p, q], before) && along(after))
            {
                return false;
            }
            if all != DVec3::ZERO && !looks_along(after, all) {
                return false;
            }
            let thin = thinness(at, p, q, after);
            // What is short all over is on its way to become one with others, and may lean a little.
            let least = || match self.is_short(vertex, [at, p, q]) {
                true => LEANING * thinness(from, p, q, before),
                false => thinness(from, p, q, before),
            };
            thin > THIN || (after != DVec3::ZERO && thin > least())
        })
    }

    /// Whether a face is so much narrower than edges are to be that which way it looks says little.
    fn is_noise(&self, vertex: u32, [a, b, c]: [DVec3; 3], area: DVec3) -> bool {
        let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
        let noise = if self.is_coarse { NOISE / 2.0 } else { NOISE };
        area.length() < noise * self.wanted_at(vertex) * longest
    }

    /// Whether no side of a face is so long that it is to be split.
    fn is_short(&self, vertex: u32, [a, b, c]: [DVec3; 3]) -> bool {
        let limit = (LONG * self.wanted_at(vertex)).powi(2);
        let sides = [a - b, b - c, c - a];
        sides.iter().all(|side| side.length_squared() < limit)
    }

    /// Which way the faces round a vertex look, together.
    pub fn facing(&self, vertex: u32) -> DVec3 {
        let areas = self.linked.around(vertex).map(|(_, [a, b, c])| {
            let [a, b, c] = [a, b, c].map(|v| self.linked.positions[v as usize]);
            (b - a).cross(c - a)
        });
        areas.sum()
    }

    /// The share of angles that are even.
    pub fn even_angles(&self) -> f64 {
        let [low, high] = EVEN.map(|angle| angle.to_radians().cos());
        let is_even = |cosine: &f64| (high..=low).contains(cosine);
        let even = counted(self.linked.places(), 8192, |t| {
            let triangle = self.linked.triangle(t as u32);
            triangle.map_or(0, |triangle| {
                self.cosines(triangle).into_iter().filter(is_even).count()
            })
        });
        even as f64 / (3 * self.linked.living()).max(1) as f64
    }

    /// The triangles with an angle that is narrow or nearly so.
    pub fn narrow_triangles(&self) -> Vec<u32> {
        let narrow = (1.3 * NARROW).to_radians().cos();
        chosen(self.linked.places(), 8192, |t| {
            let triangle = self.linked.triangle(t as u32)?;
            let is_narrow = self.cosines(triangle).iter().any(|&c| c > narrow);
            is_narrow.then_some(t as u32)
        })
    }

    /// The cosines of a triangle's angles.
    fn cosines(&self, triangle: [u32; 3]) -> [f64; 3] {
        let points = self.linked.points(triangle);
        [0, 1, 2].map(|i| {
            let [p, q] = [1, 2].map(|k| points[(i + k) % 3] - points[i]);
            p.dot(q) / (p.length() * q.length())
        })
    }
}

/// Whether a face leans by little against others, given vector areas of both.
fn looks_along(face: DVec3, others: DVec3) -> bool {
    face.dot(others) > LEAN * face.length() * others.length()
}

/// The height on the longest edge against that edge, squared.
fn thinness(a: DVec3, b: DVec3, c: DVec3, area: DVec3) -> f64 {
    let longest = (b - a).length_squared().max((c - b).length_squared());
    let longest = longest.max((a - c).length_squared());
    area.length_squared() / (longest * longest).max(f64::MIN_POSITIVE)
}
