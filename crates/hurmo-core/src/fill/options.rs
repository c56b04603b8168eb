//! Which rims to close, and with what.

use super::islands::Islands;
use super::kinds::RimFacts;
use crate::units::Axis;
use glam::DVec3;
use std::ops::RangeInclusive;

/// The shape of new faces.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "lowercase"))]
pub enum Surface {
    /// The least area over the rim's own vertices.
    Flat,
    /// Refined like the surroundings, and taut like a soap film.
    Tight,
    /// Refined, and with the curvature of the surroundings.
    Round,
    /// Quads across, for rims with an even number of edges.
    Grid,
}

impl Surface {
    /// What a rim gets when nothing is asked for: flat ones flat, others round.
    pub fn fitting(facts: &RimFacts) -> Self {
        match facts.bend <= FLAT {
            true => Surface::Flat,
            false => Surface::Round,
        }
    }

    pub(super) fn plainer(self) -> Option<Self> {
        match self {
            Surface::Grid | Surface::Round => Some(Surface::Tight),
            Surface::Tight => Some(Surface::Flat),
            Surface::Flat => None,
        }
    }

    /// In a word.
    pub fn name(self) -> &'static str {
        match self {
            Surface::Flat => "flat",
            Surface::Tight => "tight",
            Surface::Round => "round",
            Surface::Grid => "grid",
        }
    }
}

/// Up to this bend (a share of its width), a rim is flat.
pub(super) const FLAT: f64 = 0.02;

/// Which rims to close, those that meet every condition, and how.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct FillOptions {
    /// Only these, by index; empty: any that is no seam.
    pub rims: Vec<RangeInclusive<usize>>,
    /// Only those on these parts, by index; empty: any.
    pub parts: Vec<RangeInclusive<usize>>,
    /// Only those of at most this many edges.
    pub up_to_edges: Option<usize>,
    /// Only those of at most this length, in model units.
    pub up_to_length: Option<f64>,
    /// Only the one nearest to this point.
    pub nearest: Option<DVec3>,
    /// All but this many of the longest.
    pub leave_longest: usize,
    /// The plane through the origin in which rims are left: the model is one half of a
    /// mirrored whole.
    pub mirror: Option<Axis>,
    /// What becomes of parts that float in holes.
    pub islands: Option<Islands>,
    /// Rows of ragged faces to take off the border first.
    pub trim: usize,
    /// What new faces are like; `None`: as each rim asks for.
    pub surface: Option<Surface>,
    /// Whether a rim is left where even the plainest faces over it would meet others.
    pub leave_crossing: bool,
}

impl FillOptions {
    /// The rims to close, by index.
    pub(super) fn chosen(&self, facts: &[RimFacts], tolerance: f64) -> Vec<usize> {
        let within = |ranges: &[RangeInclusive<usize>], i: usize| {
            ranges.is_empty() || ranges.iter().any(|range| range.contains(&i))
        };
        let mirrored = |rim: &RimFacts| {
            self.mirror.is_some_and(|axis| {
                let [low, high] = [rim.bounds.min, rim.bounds.max].map(|p| p[axis as usize]);
                low.abs().max(high.abs()) <= tolerance
            })
        };
        let mut chosen: Vec<usize> = (self.leave_longest..facts.len())
            .filter(|&i| {
                let rim = &facts[i];
                within(&self.rims, i)
                    && (self.parts.is_empty()
                        || rim
                            .part
                            .is_some_and(|part| within(&self.parts, part.index())))
                    && self.up_to_edges.is_none_or(|limit| rim.edges <= limit)
                    && self.up_to_length.is_none_or(|limit| rim.length <= limit)
                    && !mirrored(rim)
            })
            .collect();
        if let Some(point) = self.nearest {
            let distance = |&i: &usize| facts[i].at.distance_squared(point);
            let nearest = chosen
                .iter()
                .copied()
                .min_by(|a, b| distance(a).total_cmp(&distance(b)));
            chosen = nearest.into_iter().collect();
        }
        chosen
    }
}
