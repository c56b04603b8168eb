//! Sharp edges that the skin still cuts off: it is changed there until its edges run along those of
//! the model.
//!
//! ```text
//!      a ═══ edge ═══ b         An edge p–q that leads below a sharp edge from one side of it to
//!       ╲    ╱│╲    ╱           the other: with a and b on the edge it is turned into a–b; where no
//!        ╲  ╱ │ ╲  ╱            vertex is on the part of the edge in between, it is divided by one
//!         p ──┼── q             that is (`edges`).
//! ```
//!
//! A vertex that could not be put on its sharp edge is tried again, by itself, and together with one
//! beside it (`vertices`). What comes of a change is held against the triangles near it, as in
//! `outside_cells`, and not made where they meet. (Edges turned towards features: Kobbelt, Botsch, Schwanecke
//! & Seidel 2001; contracted: Hoppe, DeRose, Duchamp, McDonald & Stuetzle 1993.)

mod change;
mod edges;
mod off;
mod vertices;

use super::inside_test::InsideTest;
use super::near::{Near, is_thin};
use super::surface_extraction::{Extracted, Loops};
use crate::mesh::VertexId;
use crate::parallel::chosen;
use change::{Change, made, without_unused};
use glam::DVec3;
use rustc_hash::FxHashSet;

/// What lies nearer to the model than this share of the cell lies on it.
const ON_MODEL: f64 = 0.005;
/// Nobody asks how far a place lies off the model by more than this share of the cell.
const FAR: f64 = 0.5;
/// A change brings the skin at least so much nearer, as a share of the cell.
const GAIN: f64 = 0.004;
/// So often it is looked what else is cut off.
const ROUNDS: usize = 8;

/// A skin, and what is known of the sharp edges that it should have.
struct Sharpened<'a> {
    inside_test: &'a InsideTest<'a>,
    extracted: Extracted,
    /// For every vertex, where it should be if it is to lie on a sharp edge.
    wished: Vec<Option<DVec3>>,
    /// The vertices near which something was changed or tried, if not all are to be looked at.
    tried: Option<FxHashSet<VertexId>>,
}

impl Sharpened<'_> {
    fn cell(&self) -> f64 {
        self.inside_test.grid.cell
    }

    fn at(&self, vertex: VertexId) -> DVec3 {
        self.extracted.positions[vertex.index()]
    }

    /// The corners of a triangle.
    fn corners(&self, triangle: u32) -> [DVec3; 3] {
        self.extracted.triangles[triangle as usize].map(|v| self.at(v))
    }

    /// Whether something is to be looked at that has these vertices.
    fn is_new(&self, mut vertices: impl Iterator<Item = VertexId>) -> bool {
        let tried = self.tried.as_ref();
        tried.is_none_or(|tried| vertices.any(|v| tried.contains(&v)))
    }

    fn is_sharp(&self, vertex: VertexId) -> bool {
        self.wished[vertex.index()].is_some()
    }

    /// How far a place lies off the model, as far as that matters.
    fn off(&self, place: DVec3) -> f64 {
        self.off_and_normal(place).0
    }

    /// The same, and which way the model faces there.
    fn off_and_normal(&self, place: DVec3) -> (f64, DVec3) {
        self.inside_test.off(place, FAR * self.cell())
    }
}

/// Lets the edges of a skin run along the sharp edges of the model where they cut them off.
pub fn recover_sharp_features(
    cell_loops: &Loops<'_>,
    wished: Vec<Option<DVec3>>,
    extracted: Extracted,
) -> Extracted {
    let mut sharpened = Sharpened {
        inside_test: cell_loops.crossed.inside_test,
        extracted,
        wished,
        tried: None,
    };
    let mut failed = FxHashSet::default();
    for _ in 0..ROUNDS {
        let mut changes = edges::changes(&sharpened, &failed);
        changes.extend(vertices::changes(&sharpened, &failed));
        changes.retain(|change| change.gain > GAIN * sharpened.cell());
        let mut changes = apart(changes);
        if changes.is_empty() {
            break;
        }
        let triangles = &sharpened.extracted.triangles;
        let gone = changes.iter().flat_map(|change| &change.gone);
        let mut tried: FxHashSet<VertexId> = gone.flat_map(|&t| triangles[t as usize]).collect();
        loop {
            let (extracted, maker) = made(&sharpened.extracted, &changes);
            let stayed = extracted.triangles.len() - maker.len();
            let maker_of = |t: u32| (t as usize).checked_sub(stayed).map(|i| maker[i]);
            let near = Near::of(sharpened.inside_test.grid, &extracted, |t| {
                maker_of(t).is_some()
            });
            let bad: FxHashSet<usize> = near.unsound().filter_map(maker_of).collect();
            if bad.is_empty() {
                sharpened.extracted = extracted;
                break;
            }
            failed.extend(bad.iter().map(|&i| changes[i].name));
            let mut i = 0..;
            changes.retain(|_| !bad.contains(&i.next().expect("without end")));
        }
        for (vertex, place) in changes.iter().filter_map(|change| change.moved) {
            sharpened.wished[vertex.index()] = Some(place);
        }
        // What divides an edge lies on a sharp one.
        let places = &sharpened.extracted.positions[sharpened.wished.len()..];
        tried.extend(
            (sharpened.wished.len()..)
                .map(VertexId::new)
                .take(places.len()),
        );
        sharpened
            .wished
            .extend(places.iter().map(|&place| Some(place)));
        sharpened.tried = Some(tried);
    }
    without_unused(sharpened.extracted)
}

/// The slivers that have a corner on a sharp edge.
fn slivers(sharpened: &Sharpened<'_>) -> Vec<u32> {
    let triangles = &sharpened.extracted.triangles;
    let is_one = |&t: &u32| {
        let sharp = triangles[t as usize].iter().any(|&v| sharpened.is_sharp(v));
        sharp
            && sharpened.is_new(triangles[t as usize].into_iter())
            && is_thin(&sharpened.extracted, t)
    };
    chosen(triangles.len(), 1024, |t| Some(t as u32).filter(is_one))
}

/// The changes that bring most, no two of them to the same triangle or with the same edge to come.
fn apart(mut changes: Vec<Change>) -> Vec<Change> {
    changes.sort_by(|a, b| b.gain.total_cmp(&a.gain).then(a.name.cmp(&b.name)));
    let mut taken: FxHashSet<u32> = FxHashSet::default();
    let mut edges: FxHashSet<[VertexId; 2]> = FxHashSet::default();
    changes.retain(|change| {
        let is_free = change.gone.iter().all(|t| !taken.contains(t))
            && change.edge.is_none_or(|edge| edges.insert(edge));
        if is_free {
            taken.extend(&change.gone);
        }
        is_free
    });
    changes
}
