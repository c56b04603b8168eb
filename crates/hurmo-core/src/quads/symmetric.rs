//! Quads of a model that is its own image in a mirror: one half is rebuilt, and the other is its image.

use super::{QuadOptions, QuadOutcome, QuadTarget, quads};
use crate::measure;
use crate::mesh::{Model, VertexId};
use crate::mirror::{Half, whole};
use crate::progress::Observer;
use crate::remesh::RemeshError;

/// Vertices of the half so near the plane, as a share of the diagonal, are put on it.
const NEAR: f64 = 1e-6;

/// Rebuilds a model with quads that are their own image to the last bit. The edges on the plane are an edge loop.
///
/// # Errors
/// Those of [`quads`].
pub fn quads_symmetric(
    model: &Model,
    half: &Half,
    options: &QuadOptions,
    observer: &dyn Observer,
) -> Result<QuadOutcome, RemeshError> {
    let target = match options.target {
        QuadTarget::Count(count) => QuadTarget::Count((count / 2).max(1)),
        other => other,
    };
    let own = QuadOptions {
        target,
        ..options.clone()
    };
    let mut made = quads(&half.model, &own, observer)?;
    if half.is_joined {
        let diagonal = measure::bounds(&model.mesh).map_or(0.0, |bounds| bounds.diagonal());
        put_on_plane(&mut made.model, half, NEAR * diagonal);
    }
    made.model = whole(&made.model, &half.mirror, half.is_joined, model);
    for count in [
        &mut made.quads_paired,
        &mut made.irregular,
        &mut made.feature_edges,
        &mut made.crossing,
    ] {
        *count *= 2;
    }
    Ok(made)
}

/// Puts vertices on the plane that are on it but for rounding.
fn put_on_plane(model: &mut Model, half: &Half, near: f64) {
    for v in 0..model.mesh.vertex_count() {
        let at = model.mesh.position(VertexId::new(v));
        if half.mirror.before(at).abs() < near {
            model.mesh.positions_mut()[v] = half.mirror.onto(at);
        }
    }
}
