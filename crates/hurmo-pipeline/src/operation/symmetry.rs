//! Models that are their own image in a mirror, of which a step does one half.

use crate::record::Statement;
use crate::said;
use crate::text;
use anyhow::{Context as _, Result, bail};
use hurmo_core::mirror::{self, Half};
use hurmo_core::units::Axis;
use hurmo_core::{Model, measure};

/// The half of a model before the plane across an axis, or the one of the best; an error if it is not symmetric.
pub(super) fn half(model: &Model, axis: Option<Axis>) -> Result<Option<Half>> {
    let Some(found) = mirror::find(&model.mesh, axis) else {
        return Ok(None);
    };
    if !found.is_symmetric {
        let nearest = match axis {
            Some(_) => "",
            None => ", where it comes nearest to that",
        };
        let diagonal = measure::bounds(&model.mesh).map_or(0.0, |bounds| bounds.diagonal());
        bail!(
            "the model is not its own image across {}{nearest}: it lies up to {} ({}) off, and \
             may by {}% at most",
            found.mirror.axis.name(),
            text::measure(found.off),
            text::of_diagonal(found.off, diagonal),
            100.0 * mirror::SYMMETRIC,
        );
    }
    let half = Half::of(model, &found);
    Ok(Some(half.context("the model's symmetry can't be kept")?))
}

/// What is said of a model that was taken by halves.
pub(super) fn kept(half: &Half, diagonal: f64) -> Statement {
    let lay_off = half.off > 1e-9 * diagonal;
    said!(
        "symmetric",
        "its own image across {axis} = {at}{other}",
        axis = half.mirror.axis.name(),
        at = half.mirror.at,
        other = lay_off.then(|| said!(
            "off",
            "; the other side lay up to {off} off",
            off = half.off
        )),
    )
}
