//! What every rebuilding owes: how even the triangles were and are, and how far the surface went.

use hurmo_core::Mesh;
use hurmo_core::measure::{self, EachWay, Evenness, QuadShape, Reference};
use hurmo_core::spatial::TriangleHierarchy;
use hurmo_core::topology::Edges;
use schemars::JsonSchema;
use serde::Serialize;

/// Samples on each surface when measuring how far one lies from the other.
const SAMPLES: usize = 20_000;

/// A mesh before it is rebuilt.
pub struct Before<'a> {
    /// The mesh.
    pub mesh: &'a Mesh,
    /// What it encloses, where it is closed.
    pub volume: Option<f64>,
    /// Its faces with an area, where they have been sorted.
    pub hierarchy: Option<&'a TriangleHierarchy<'a>>,
}

/// A mesh before and after it was rebuilt.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Rebuilt {
    /// How even the triangles were.
    pub before: Evenness,
    /// How even they are.
    pub after: Evenness,
    /// What its quads are like, where all its faces are, or a rebuild with quads made it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub quads: Option<QuadShape>,
    /// What the surface enclosed, and what it encloses, in cubic units; where both are closed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volume: Option<[f64; 2]>,
    /// How far one surface lies from the other, sampled.
    pub deviation: EachWay,
}

impl Rebuilt {
    /// Measures. `None` where one has no faces.
    pub fn between(before: &Before<'_>, after: &Mesh) -> Option<Self> {
        let mesh = before.mesh;
        // Side by side: each has parts that keep one core busy only.
        let evenness = || rayon::join(|| Evenness::of(mesh), || Evenness::of(after));
        let volumes = || {
            let volume = before.volume.filter(|_| is_closed(after))?;
            Some([volume, measure::volume(after)])
        };
        let deviation = || {
            let reference = match before.hierarchy {
                Some(hierarchy) => Reference::sorted(mesh, hierarchy, SAMPLES),
                None => Reference::new(mesh, SAMPLES),
            };
            reference?.deviation(after)
        };
        let ((one, two), (volume, deviation)) =
            rayon::join(evenness, || rayon::join(volumes, deviation));
        Some(Self {
            before: one?,
            after: two?,
            quads: QuadShape::of(after).filter(|shape| shape.others == 0),
            volume,
            deviation: deviation?,
        })
    }

    /// The farthest that was found, from what is now to what was and the other way.
    pub fn moved(&self) -> f64 {
        let EachWay {
            new_from_old,
            old_from_new,
        } = self.deviation;
        new_from_old.max.max(old_from_new.max)
    }

    /// By how much the volume changed, in percent; none of a model that was inside out.
    pub fn volume_change(&self) -> Option<f64> {
        let [before, after] = self.volume?;
        (before > 0.0).then(|| 100.0 * (after - before) / before)
    }
}

fn is_closed(mesh: &Mesh) -> bool {
    let edges = Edges::of(mesh);
    edges
        .ids()
        .all(|edge| edges.sides(edge).len() == 2 && !edges.is_misoriented(edge))
}
