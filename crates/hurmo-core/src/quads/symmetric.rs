//! Quads of a model that is its own image in a mirror: one half is rebuilt, and the other is its image.

use super::{QuadOptions, QuadOutcome, QuadTarget, quads};
use crate::measure;
use crate::mesh::{Model, VertexId};
use crate::mirror::{Half, Twins, whole};
use crate::progress::Observer;
use crate::remesh::RemeshError;
use crate::topology::Edges;

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
    made.mirror = Some(half.mirror);
    for count in [
        &mut made.faces_paired,
        &mut made.irregular,
        &mut made.crossing,
        &mut made.moved_apart,
    ] {
        *count *= 2;
    }
    mirror_lines(&mut made, half, options.crease);
    Ok(made)
}

/// Lines and corners of the image as well. The edges on the plane were rims of the half; they are lines no more where
/// the whole does not bend at them.
fn mirror_lines(made: &mut QuadOutcome, half: &Half, crease: f64) {
    let mesh = &made.model.mesh;
    let Some(twins) = Twins::of(mesh, half.mirror) else {
        return;
    };
    let edges = Edges::of(mesh);
    let bends = |[a, b]: [VertexId; 2]| match edges.between(a, b).map(|edge| edges.sides(edge)) {
        Some([one, other]) => {
            let [one, other] = [one, other].map(|side| measure::vector_area(mesh, side.face));
            one.angle_between(other).to_degrees() > crease
        }
        _ => true,
    };
    let own = made.feature_edges.iter().copied();
    let (on_plane, beside): (Vec<_>, Vec<_>) = own.partition(|&edge| twins.edge(edge) == edge);
    let images = beside.iter().map(|&edge| twins.edge(edge));
    let on_plane = on_plane.into_iter().filter(|&edge| bends(edge));
    made.feature_edges = beside
        .iter()
        .copied()
        .chain(images)
        .chain(on_plane)
        .collect();
    let images: Vec<VertexId> = made.corners.iter().map(|&v| twins.vertex(v)).collect();
    made.corners.extend(images);
    made.corners.sort_unstable();
    made.corners.dedup();
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
