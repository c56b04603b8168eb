//! What was done along the lines where solids were joined.

use crate::record::statement::Statement;
use crate::said;
use hurmo_core::seam::{Evened, Fillets};
use schemars::JsonSchema;
use serde::Serialize;

/// What was done along cut lines.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct SeamRecord {
    /// How far to both sides triangles were to be even, in the model's unit.
    pub even_along: Option<f64>,
    /// What that came to.
    pub evened: Option<EvenedRecord>,
    /// The radius that lines were to be rounded with, in the model's unit.
    pub radius: Option<f64>,
    /// What that came to.
    pub rounded: Option<RoundedRecord>,
    /// By how much the volume changed.
    pub volume_change: f64,
    /// Edges that are shaded softly now, where that was asked for.
    pub softened: Option<usize>,
    /// That was asked for, and there are no normals.
    pub without_normals: bool,
}

/// What was made even, before seams were rounded.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct EvenedRecord {
    /// Triangles before, of the faces that were touched.
    pub triangles_before: usize,
    /// Triangles in their place.
    pub triangles: usize,
    /// The shortest and the longest length that edges were to have.
    pub edges: [f64; 2],
    /// Faces beyond the distance that were touched so that sizes change gently.
    pub beyond: usize,
}

impl From<Evened> for EvenedRecord {
    fn from(evened: Evened) -> Self {
        Self {
            triangles_before: evened.before,
            triangles: evened.after,
            edges: evened.edges,
            beyond: evened.beyond,
        }
    }
}

/// What was rounded.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct RoundedRecord {
    /// Seams that are rounded; those whose fillets touch count as one.
    pub seams: usize,
    /// Those that are left sharp: rounded, they would cross other faces, or move too far.
    pub left_sharp: usize,
    /// Seams that bend too little to be rounded.
    pub flat: usize,
    /// Vertices that were moved.
    pub moved: usize,
    /// The least, the median and the greatest radius, measured by how far the lines moved.
    pub radii: Option<[f64; 3]>,
}

impl From<Fillets> for RoundedRecord {
    fn from(fillets: Fillets) -> Self {
        Self {
            seams: fillets.rounded,
            left_sharp: fillets.left,
            flat: fillets.flat,
            moved: fillets.moved,
            radii: fillets.radius,
        }
    }
}

impl SeamRecord {
    /// What was asked for, before anything is done.
    pub fn asked(even_along: Option<f64>, radius: Option<f64>) -> Self {
        Self {
            even_along,
            evened: None,
            radius,
            rounded: None,
            volume_change: 0.0,
            softened: None,
            without_normals: false,
        }
    }

    /// What was done. `volume`: that of the result before.
    pub fn done(&self, volume: f64) -> Vec<Statement> {
        let mut lines = Vec::new();
        if let (Some(width), Some(evened)) = (self.even_along, &self.evened) {
            let beyond = evened.beyond;
            lines.push(said!(
                "even-along",
                "triangles even within {width} of the cut lines: {triangles} in place of {before}, edges \
                 {shortest} to {longest}{beyond}",
                width = width,
                triangles = evened.triangles,
                before = evened.triangles_before,
                shortest = evened.edges[0],
                longest = evened.edges[1],
                beyond = (beyond > 0).then(|| said!(
                    "beyond",
                    "; {faces:face} beyond, so that sizes change gently",
                    faces = beyond
                )),
            ));
        }
        if let (Some(radius), Some(rounded)) = (self.radius, &self.rounded)
            && rounded.seams > 0
        {
            let share = 100.0 * self.volume_change / volume.abs().max(f64::MIN_POSITIVE);
            lines.push(said!(
                "rounded",
                "{seams:seam} rounded with a radius of {radius}{measured}; volume {change}%",
                seams = rounded.seams,
                radius = radius,
                measured = rounded.radii.map(|[least, median, most]| said!(
                    "measured",
                    ", measured {median} ({least} to {most})",
                    median = median,
                    least = least,
                    most = most,
                )),
                change = (share, format!("{share:+.2}")),
            ));
        }
        if let Some(edges @ 1..) = self.softened {
            lines.push(said!(
                "softened",
                "{edges:edge} shaded softly",
                edges = edges
            ));
        }
        lines
    }

    /// What was left.
    pub fn left(&self) -> Vec<Statement> {
        let mut lines = Vec::new();
        if let Some(rounded) = &self.rounded {
            if rounded.left_sharp > 0 {
                lines.push(said!(
                    "left-sharp",
                    "{seams:seam} left sharp: there is no room for this radius",
                    seams = rounded.left_sharp
                ));
            }
            if rounded.flat > 0 {
                lines.push(said!(
                    "hardly-bend",
                    "{seams:seam} left as they are: faces hardly bend there",
                    seams = rounded.flat
                ));
            }
        }
        if (self.even_along.is_some() || self.radius.is_some())
            && self.evened.is_none()
            && self.rounded.is_none()
        {
            lines.push(said!(
                "no-cut-lines",
                "the result has no cut lines: nothing to even or round along them"
            ));
        }
        if self.without_normals {
            lines.push(said!(
                "no-normals",
                "the models have no normals: there is no shading to soften"
            ));
        }
        lines
    }
}
