//! Seams: the lines along which solids were joined, and what lies beside them.
//!
//! ```text
//! model, and which solid each face is of ─▶ edges between faces of different solids (line)
//!     ─▶ faces within reach (band) ─▶ triangles of matching sizes on both sides (even)
//!     ─▶ rounded into a fillet (fillet) ─▶ left as it was where that makes it cross (crossing)
//! ```
//!
//! What lies farther away than was asked for stays as it is.

mod band;
mod bends;
mod crossing;
mod even;
mod fillet;
mod line;
mod rims;
mod shade;
mod stretches;

pub use even::{Evened, size_of};
pub use fillet::Fillets;
pub use rims::at_rims;
pub use shade::softened;

use crate::mesh::{FaceId, Mesh, Model};
use crate::progress::Observer;
use crate::remesh::RemeshError;
use line::Seam;
use std::borrow::Cow;

/// A model made of solids.
#[derive(Clone, Copy, Debug)]
pub struct Joined<'a> {
    /// The model.
    pub model: &'a Model,
    /// For every face, the solid that it comes from.
    pub solids: &'a [u32],
    /// For every face, how long the edges of even triangles would be that are as large as those there
    /// before it was cut, in model units.
    pub sizes: &'a [f64],
}

/// What to do along seams; a radius must be above nought.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct SeamOptions {
    /// Makes triangles even within this distance of them, in model units.
    pub even_along: Option<f64>,
    /// Rounds them with about this radius, in model units.
    pub radius: Option<f64>,
}

/// What came of it.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct SeamOutcome {
    /// The model.
    pub model: Model,
    /// For each of its faces, the one before that it is or was part of.
    pub sources: Vec<FaceId>,
    /// What was made even, where that was asked for.
    pub evened: Option<Evened>,
    /// What was rounded, where that was asked for.
    pub fillets: Option<Fillets>,
}

/// The most triangles that fillets are made of.
pub const MOST_TRIANGLES: usize = 4_000_000;

/// Refuses a radius that is a tiny share of the seam.
fn check_radius(mesh: &Mesh, solids: &[u32], seam: &Seam, radius: f64) -> Result<(), RemeshError> {
    let triangles = even::triangles_of_fillets(mesh, solids, seam);
    let count = triangles / radius;
    match count > MOST_TRIANGLES as f64 {
        true => Err(RemeshError::RadiusTooSmall {
            radius,
            count,
            most: MOST_TRIANGLES,
            smallest: triangles / MOST_TRIANGLES as f64,
        }),
        false => Ok(()),
    }
}

/// Makes triangles even along the seams of a model, and rounds these; `None` where it has none.
///
/// # Errors
/// When the triangles would not fit in memory, the radius is too small for the length of the seams, or the
/// observer says to stop.
pub fn finish(
    joined: &Joined<'_>,
    options: &SeamOptions,
    observer: &dyn Observer,
) -> Result<Option<SeamOutcome>, RemeshError> {
    let mut model = Cow::Borrowed(joined.model);
    let mut sources: Vec<FaceId> = joined.model.mesh.face_ids().collect();
    let mut solids = Cow::Borrowed(joined.solids);
    let mut sizes = Cow::Borrowed(joined.sizes);
    let seam = Seam::of(&model.mesh, &solids);
    if seam.is_empty() {
        return Ok(None);
    }
    if let Some(radius) = options.radius {
        check_radius(&model.mesh, &solids, &seam, radius)?;
    }
    let mut first = None;
    let is_single = joined.model.mesh.is_single();
    for pass in even::passes(options) {
        let joined = Joined {
            model: &model,
            solids: &solids,
            sizes: &sizes,
        };
        let Some((made, evened)) = even::evened(&joined, pass, observer)? else {
            continue;
        };
        first = first.or(options.even_along.map(|_| evened));
        solids = Cow::Owned(made.of_each(&solids));
        sizes = Cow::Owned(made.of_each(&sizes));
        sources = made.of_each(&sources);
        let mut even = made.model;
        if is_single {
            // What is written in single precision is to be what is checked.
            even.mesh.round_to_single();
        }
        model = Cow::Owned(even);
    }
    let mut fillets = None;
    if let Some(radius) = options.radius {
        let rounded = fillet::rounded(&model, &solids, radius, observer);
        model = Cow::Owned(rounded.0);
        fillets = Some(rounded.1);
    }
    observer.check()?;
    Ok(Some(SeamOutcome {
        model: model.into_owned(),
        sources,
        evened: first,
        fillets,
    }))
}
