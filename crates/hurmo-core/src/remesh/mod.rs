//! Rebuilding: even triangles on a surface as it is, and a new skin round what a model fills.
//!
//! ```
//! use hurmo_core::remesh::{RemeshOptions, Target, remesh};
//! use hurmo_core::{Model, shapes};
//!
//! let ball = Model::from(shapes::sphere(1.0, 3));
//! let options = RemeshOptions::of(Target::Edge(0.2));
//! let even = remesh(&ball, &options, &()).unwrap();
//! assert_ne!(even.before, even.after);
//! ```

mod detail;
pub mod dual_contouring;
mod isotropic;

use crate::progress::{Cancelled, Failure};
pub use detail::{DetailOptions, Detailed, MOST_DETAIL, bring_back_detail};
pub use isotropic::{
    DEFAULT_CREASE, MOST_TRIANGLES, RelaxOptions, Relaxed, RemeshOptions, RemeshOutcome,
    ShortFeatures, Target, relax, relax_borders, remesh,
};
pub(crate) use isotropic::{EvenSurface, edge_for, even_surface, kept_lines};

/// Why a model was not remeshed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum RemeshError {
    /// There is no surface.
    #[error("the model has no faces with area")]
    NoSurface,
    /// The edge length is not one.
    #[error("an edge length must be larger than 0")]
    NoLength,
    /// Far more triangles than could be handled.
    #[error(
        "edges of {edge} would make about {count:.0} triangles; \
         the shortest edge that fits is about {shortest}"
    )]
    TooFine {
        /// The edge length asked for.
        edge: f64,
        /// How many triangles that would take.
        count: f64,
        /// The shortest edge that fits.
        shortest: f64,
    },
    /// A fillet so thin that it would take far more triangles than could be handled.
    #[error(
        "fillets with a radius of {radius:.3e} would take about {:.0} million triangles; the smallest \
         radius that takes no more than {} million is about {smallest:.3e}",
        .count / 1e6,
        .most / 1_000_000
    )]
    RadiusTooSmall {
        /// The radius asked for.
        radius: f64,
        /// How many triangles that would take.
        count: f64,
        /// The most that are made.
        most: usize,
        /// The smallest radius that takes no more.
        smallest: f64,
    },
    /// Far more cells than could be handled.
    #[error(
        "cells of {cell} would need about {needed:.1} GB of memory and {memory:.1} GB are free; \
         the smallest that fit are about {finest:.3e}"
    )]
    TooManyCells {
        /// The length of a cell asked for.
        cell: f64,
        /// The smallest that fits.
        finest: f64,
        /// The memory that would take, in GB.
        needed: f64,
        /// And what there is.
        memory: f64,
    },
    /// Far more faces than could be handled.
    #[error(
        "{levels} levels would make about {count:.0} faces; {most} fit, and more with a coarser base"
    )]
    TooManyLevels {
        /// The levels asked for.
        levels: usize,
        /// How many faces that would take.
        count: f64,
        /// How many levels fit.
        most: usize,
    },
    /// There is no result for another reason.
    #[error(transparent)]
    Failed(#[from] Failure),
}

impl From<Cancelled> for RemeshError {
    fn from(cancelled: Cancelled) -> Self {
        Self::Failed(cancelled.into())
    }
}
