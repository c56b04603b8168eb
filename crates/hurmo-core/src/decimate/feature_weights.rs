//! What a reduction keeps better: lines, evenness, some faces more than others.

use crate::mesh::Model;
use crate::mirror::Mirror;

/// How much a kind of line matters, from 0 (no more than the surface) over 0.5 (as usual) to 1 (it
/// keeps its course: no vertex goes at which it turns).
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Weight(f64);

impl Weight {
    /// As usual.
    pub const USUAL: Self = Self(0.5);
    /// The most.
    pub const ALL: Self = Self(1.0);

    /// A weight from 0 to 1; `None` for another number.
    pub fn new(weight: f64) -> Option<Self> {
        (0.0..=1.0).contains(&weight).then_some(Self(weight))
    }

    /// The number, from 0 to 1.
    pub fn get(self) -> f64 {
        self.0
    }

    /// How many times the usual.
    pub(super) fn times(self) -> f64 {
        (self.0 / (1.0 - self.0)).min(1e4)
    }

    /// Whether no vertex goes at which the line turns.
    pub(super) fn is_all(self) -> bool {
        self.0 == 1.0
    }
}

/// What is kept more carefully than the rest.
#[derive(Clone, Debug)]
pub struct FeatureWeights {
    /// Open borders.
    pub rims: Weight,
    /// Where groups or materials meet.
    pub groups: Weight,
    /// Where UVs part, and hard edges.
    pub seams: Weight,
    /// Edges at which the surface turns by more than `crease` degrees; without, no more than the
    /// surface itself.
    pub creases: Option<Weight>,
    /// From what angle on an edge is a crease, in degrees.
    pub crease: f64,
    /// From 0, where triangles go where the shape needs them, to 1, where they are as even as can
    /// be.
    pub regularity: f64,
    /// The model is the half of a symmetric one that ends at this plane: what lies on it stays on
    /// it, and is no border.
    pub mirror: Option<Mirror>,
    /// By face, how many times as many triangles it gets for its area as the shape alone would
    /// give it; empty for once.
    pub focus: Vec<f32>,
}

impl Default for FeatureWeights {
    fn default() -> Self {
        Self {
            rims: Weight::USUAL,
            groups: Weight::USUAL,
            seams: Weight::USUAL,
            creases: None,
            crease: 30.0,
            regularity: 0.0,
            mirror: None,
            focus: Vec::new(),
        }
    }
}

impl FeatureWeights {
    /// What distances from the places of vertices count, beside those from their planes. Planes
    /// lie off by the square of what places do, so that their share must fall fast.
    pub(super) fn of_places(&self) -> f64 {
        self.regularity.clamp(0.0, 1.0).powi(6)
    }

    /// What a triangle of a face counts: on a smooth surface a collapse costs what the third power
    /// of a triangle's area is, so that triangles grow with the third root of what they count.
    pub(super) fn of_face(&self, face: usize) -> f64 {
        self.focus
            .get(face)
            .map_or(1.0, |&times| f64::from(times).powi(3))
    }
}

/// Budgets for some faces each.
#[derive(Clone, Debug, Default)]
pub struct Shares {
    /// By face, which budget it counts towards.
    pub of_face: Vec<u32>,
    /// How many triangles each may have.
    pub budgets: Vec<usize>,
}

impl Shares {
    /// Gives faces budgets: `class` says which belong together, `budget` what this many triangles
    /// come to.
    pub fn new(model: &Model, of_face: Vec<u32>, budget: impl Fn(usize) -> usize) -> Self {
        let count = of_face.iter().max().map_or(0, |&class| class as usize + 1);
        let mut triangles = vec![0; count];
        for ((_, face), &class) in model.mesh.faces().zip(&of_face) {
            triangles[class as usize] += face.len().saturating_sub(2);
        }
        Self {
            of_face,
            budgets: triangles.into_iter().map(budget).collect(),
        }
    }
}
