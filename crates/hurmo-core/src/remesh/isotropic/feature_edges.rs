//! Feature edges: the edges that remeshing keeps, and what they make of their vertices.

use super::feature_polylines::FeaturePolylines;
use super::short_features::{ShortFeatures, Sieve};
use super::sizing_field::{Bend, SizingField};
use crate::mesh::{FaceId, Model, VertexId};
use crate::parallel::{listed, listed_in_runs};
use crate::topology::LinkedMesh;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// How freely a vertex moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum VertexConstraint {
    /// Anywhere on the surface.
    Free,
    /// Along its line.
    Line,
    /// Not at all, but others may become one with it.
    Fixed,
    /// Not at all, and edges between two such vertices stay as they are.
    Frozen,
}

/// Why an edge is kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Why {
    /// The surface ends there, or branches.
    Sheet,
    /// It bends there.
    Crease,
    /// Groups, materials or charts of UVs meet there, or it was asked for.
    Meeting,
}

/// An edge by its ends, the lower first.
pub(super) fn ends(a: u32, b: u32) -> (u32, u32) {
    if a < b { (a, b) } else { (b, a) }
}

/// Where on its chain an edge begins and ends, in lengths from the chain's begin.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Span {
    pub chain: u32,
    pub from: f64,
    pub to: f64,
}

/// The edges on lines, each a span of the chain that it stands for.
#[derive(Clone, Debug, Default)]
pub(super) struct FeatureEdges(FxHashMap<(u32, u32), Span>);

impl FeatureEdges {
    /// The span of an edge, seen from its first end.
    pub fn get(&self, a: u32, b: u32) -> Option<Span> {
        let span = *self.0.get(&ends(a, b))?;
        Some(turned(span, a > b))
    }

    pub fn has(&self, a: u32, b: u32) -> bool {
        self.0.contains_key(&ends(a, b))
    }

    /// Adds an edge, its span seen from its first end.
    pub fn add(&mut self, a: u32, b: u32, span: Span) {
        self.0.insert(ends(a, b), turned(span, a > b));
    }

    /// Takes an edge out; its span is seen from its first end.
    pub fn take(&mut self, a: u32, b: u32) -> Option<Span> {
        let span = self.0.remove(&ends(a, b))?;
        Some(turned(span, a > b))
    }

    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// All edges, in no order.
    pub fn all(&self) -> impl Iterator<Item = (u32, u32, Span)> + '_ {
        self.0.iter().map(|(&(a, b), &span)| (a, b, span))
    }
}

/// A span seen from its other end, if it is to be turned.
pub(super) fn turned(span: Span, turn: bool) -> Span {
    match turn {
        true => Span {
            from: span.to,
            to: span.from,
            ..span
        },
        false => span,
    }
}

/// What makes lines of edges.
pub(super) struct Making<'a> {
    pub model: &'a Model,
    /// Edges that bend by more degrees are creases.
    pub crease: f64,
    /// Feature edges that are left out.
    pub short_features: ShortFeatures,
    /// Noise makes lines this many times as long as is usual.
    pub noise: f64,
    /// How long edges will be, where that is everywhere the same.
    pub edge: f64,
    /// Where edges of the wanted lengths would cut off a bend by more than a distance, it is a
    /// crease too.
    pub bend: Option<(&'a SizingField, Bend)>,
    /// Edges that are kept whatever they are.
    pub lines: &'a [[VertexId; 2]],
}

impl Making<'_> {
    /// Whether an edge is a crease, by the cosine of its bend and how long edges at it will be.
    fn is_crease(&self, cosine: f64, [a, b]: [u32; 2]) -> bool {
        if cosine < self.crease.to_radians().cos() {
            return true;
        }
        self.bend.is_some_and(|(sizing, bend)| {
            // An edge laid evenly over the bend lies at most a quarter of its length times the
            // bend below it.
            let length = shorter(sizing, [a, b]);
            let cuts_off = length * cosine.clamp(-1.0, 1.0).acos() > 4.0 * bend.within;
            // Where edges should be shorter than they may be, the distance is not to be held.
            cuts_off && length > 1.001 * bend.shortest
        })
    }

    /// How long an edge is, in what short features are measured by.
    fn length(&self, linked: &LinkedMesh, ends: [u32; 2]) -> f64 {
        let [p, q] = ends.map(|v| linked.positions[v as usize]);
        let sizing = || match self.bend {
            Some((sizing, _)) => shorter(sizing, ends),
            None => self.edge,
        };
        match self.short_features {
            ShortFeatures::Under(_) => p.distance(q),
            ShortFeatures::Noise => p.distance(q) / (self.noise * sizing()),
        }
    }
}

/// How long edges are to be at two vertices, the shorter.
fn shorter(sizing: &SizingField, ends: [u32; 2]) -> f64 {
    let [one, two] = ends.map(|v| f64::from(sizing.of_vertex(v as usize)));
    one.min(two)
}

/// The lines of a surface.
pub(super) struct Found {
    pub lines: FeatureEdges,
    pub chains: FeaturePolylines,
    pub constraints: Vec<VertexConstraint>,
    /// How many short features were left out.
    pub short_features: usize,
}

/// Finds the lines of a surface. `origins`: for every triangle, its face in the model.
pub(super) fn find(linked: &LinkedMesh, origins: &[u32], making: &Making<'_>) -> Found {
    let mut edges = kept_edges(linked, origins, making);
    let mut spokes = spokes_of(linked, &edges);
    let short_features = Sieve {
        short_features: making.short_features,
        edges: &mut edges,
        spokes: &mut spokes,
        length: |a, b| making.length(linked, [a, b]),
    }
    .leave_out();
    // A line that turns as sharply as a crease bends has a corner there.
    let turn = making.crease.min(60.0);
    let mut constraints = constraints(linked, &spokes, turn);
    let fixed = listed_in_runs(constraints.len(), 1024, |run, fixed| {
        let mut fans = Default::default();
        fixed.extend(run.filter(|&v| {
            constraints[v] < VertexConstraint::Fixed && !hangs_together(linked, v as u32, &mut fans)
        }));
    });
    for v in fixed {
        constraints[v] = VertexConstraint::Fixed;
    }
    let (chains, lines) = FeaturePolylines::of(&linked.positions, &spokes, &constraints);
    Found {
        lines,
        chains,
        constraints,
        short_features,
    }
}

/// The edges to keep: borders, edges of more than two faces or of two that run the same way,
/// edges where what faces belong to or how they are unwrapped changes, and those that bend.
fn kept_edges(
    linked: &LinkedMesh,
    origins: &[u32],
    making: &Making<'_>,
) -> FxHashMap<(u32, u32), Why> {
    let tags = &making.model.attributes.tags.of_face;
    let kept = |t: u32| {
        let [a, b, c] = linked.triangle(t)?;
        let sides = [(a, b), (b, c), (c, a)].map(|(from, to)| {
            let mut others = linked.on_edge(from, to).filter(|(other, _)| *other != t);
            let why = match (others.next(), others.next()) {
                // Once is enough.
                (Some((other, _)), None) if other < t => return None,
                (Some((other, [_, x, _])), None) => {
                    let faces = [t, other].map(|t| origins[t as usize] as usize);
                    let [n, m] = [t, other].map(|t| normal(linked, t));
                    // Two faces run an edge opposite ways: seen from `from`, the vertex before
                    // it is `to`.
                    if x == to {
                        Why::Sheet
                    } else if (!tags.is_empty() && tags[faces[0]] != tags[faces[1]])
                        || is_seam(making.model, faces, [from, to])
                    {
                        Why::Meeting
                    } else if n.dot(m) == 0.0 && (n == DVec3::ZERO || m == DVec3::ZERO) {
                        return None;
                    } else if making.is_crease(n.normalize().dot(m.normalize()), [from, to]) {
                        Why::Crease
                    } else {
                        return None;
                    }
                }
                _ => Why::Sheet,
            };
            Some((ends(from, to), why))
        });
        Some(sides)
    };
    let kept: Vec<((u32, u32), Why)> = listed(linked.places(), 4096, |t, list| {
        list.extend(kept(t as u32).into_iter().flatten().flatten());
    });
    let mut kept: FxHashMap<_, _> = kept.into_iter().collect();
    for &[a, b] in making.lines {
        kept.entry(ends(a.0, b.0)).or_insert(Why::Meeting);
    }
    kept
}

/// Whether two faces have different UVs at an edge between them.
fn is_seam(model: &Model, faces: [usize; 2], edge: [u32; 2]) -> bool {
    let mesh = &model.mesh;
    let corner = |face: usize, vertex: u32| {
        let mut corners = mesh.face_range(FaceId::new(face));
        corners.find(|&c| mesh.corners()[c].0 == vertex)
    };
    if faces[0] == faces[1] || model.attributes.uvs.is_none() {
        return false;
    }
    edge.iter().any(|&v| {
        let own = faces.map(|face| corner(face, v));
        let mut sets = model.attributes.uv_sets();
        sets.any(|uvs| {
            let [one, two] = own.map(|corner| uvs.at(corner?));
            one != two
        })
    })
}

pub(super) fn normal(linked: &LinkedMesh, t: u32) -> DVec3 {
    let [a, b, c] = linked.points(linked.triangle(t).expect("a living triangle"));
    (b - a).cross(c - a)
}

/// For every vertex, the other ends of the kept edges at it, sorted.
fn spokes_of(linked: &LinkedMesh, edges: &FxHashMap<(u32, u32), Why>) -> FxHashMap<u32, Vec<u32>> {
    let mut spokes: FxHashMap<u32, Vec<u32>> = FxHashMap::default();
    for &(a, b) in edges.keys() {
        spokes.entry(a).or_default().push(b);
        spokes.entry(b).or_default().push(a);
    }
    for (v, others) in &mut spokes {
        debug_assert!((*v as usize) < linked.positions.len());
        others.sort_unstable();
    }
    spokes
}

/// How each vertex is held by the lines through it. `turn`: a line that turns by more degrees
/// has a corner there.
fn constraints(
    linked: &LinkedMesh,
    spokes: &FxHashMap<u32, Vec<u32>>,
    turn: f64,
) -> Vec<VertexConstraint> {
    let straight = -turn.to_radians().cos();
    let mut constraints = vec![VertexConstraint::Free; linked.positions.len()];
    for (&v, others) in spokes {
        let here = linked.positions[v as usize];
        constraints[v as usize] = match others[..] {
            [x, y] => {
                let [p, q] =
                    [x, y].map(|o| (linked.positions[o as usize] - here).normalize_or_zero());
                match p.dot(q) > straight {
                    true => VertexConstraint::Fixed,
                    false => VertexConstraint::Line,
                }
            }
            _ => VertexConstraint::Fixed,
        };
    }
    constraints
}

/// Room to sort the faces at a vertex in: those that were reached, and the rest.
type Reached = [Vec<[u32; 2]>; 2];

/// Whether the faces at a vertex all hang together by edges at it.
fn hangs_together(linked: &LinkedMesh, vertex: u32, [reached, rest]: &mut Reached) -> bool {
    rest.clear();
    rest.extend(linked.around(vertex).map(|(_, [_, x, y])| [x, y]));
    reached.clear();
    reached.extend(rest.pop());
    while let Some([x, y]) = reached.pop() {
        let mut i = 0;
        while i < rest.len() {
            match rest[i].contains(&x) || rest[i].contains(&y) {
                true => reached.push(rest.swap_remove(i)),
                false => i += 1,
            }
        }
    }
    rest.is_empty()
}
