//! What a reduction keeps to, and how many triangles it may leave.

use crate::geometry::Bounds;
use crate::mirror::Mirror;
use glam::DVec3;

/// Twice the area, as a share of the square of the diagonal, that is too near to none: ten times
/// what the audit takes for none.
const NO_AREA: f64 = 2e-11;
/// Budgets, and what is left of each.
#[derive(Clone)]
pub(super) struct Counted {
    /// By the model's triangle, which budget it counts towards.
    pub of_origin: Vec<u32>,
    pub living: Vec<usize>,
    pub budgets: Vec<usize>,
}

/// What a reduction keeps to.
#[derive(Clone, Copy, Debug)]
pub(super) struct Rules {
    /// What places in quadrics are measured from, for precision.
    pub centre: DVec3,
    /// Only what lies so near to all planes that its vertices have taken in may go, as a root of
    /// the mean square.
    pub flat: Option<f64>,
    /// Twice the area below which a face counts as one without: none may fall below it.
    pub least_area: f64,
    /// Whether vertices at which lines of sheets that meet come together may go, too: along such a
    /// line, where nothing else is left.
    pub joints_may_go: bool,
    /// Where the half of a symmetric surface ends: what lies on it stays on it.
    pub mirror: Option<Mirror>,
    /// How many triangles a region has, at most; where there are none, the whole is reduced at once.
    pub region: Option<usize>,
}

impl Counted {
    /// Whether each is within its budget.
    pub fn are_reached(&self) -> bool {
        let mut pairs = self.living.iter().zip(&self.budgets);
        pairs.all(|(living, budget)| living <= budget)
    }
}

impl Rules {
    /// The rules without any that were asked for.
    pub fn plain(bounds: Option<Bounds>, region: usize) -> Self {
        let square = bounds.map_or(0.0, |bounds| bounds.diagonal().powi(2));
        Self {
            centre: bounds.map_or(DVec3::ZERO, |bounds| bounds.middle()),
            least_area: NO_AREA * square,
            flat: None,
            mirror: None,
            joints_may_go: false,
            region: Some(region),
        }
    }
}
