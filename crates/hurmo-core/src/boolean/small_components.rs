//! What cutting leaves over: pockets that folds enclose, and small components outside of everything.

use super::{How, Source};
use crate::measure::{floating_parts, parts_measured, signed_volume_term};
use crate::mesh::{Model, PartId};
use crate::parts::without;
use crate::topology::Parts;

/// A model without them.
pub struct Cleaned {
    /// The model.
    pub model: Model,
    /// Enclosed pockets that are filled now.
    pub pockets: usize,
    /// Solids made of nothing but cut faces.
    pub small_components: usize,
}

/// Drops small parts that cutting made: such as face inward, and such as have no face that is as it was.
/// Small is what floats: under 1% of the largest part's area and 5% of its diagonal. `sources` says
/// where each face comes from.
pub fn without_small_components(model: Model, sources: &[Source]) -> Cleaned {
    let mesh = &model.mesh;
    let parts = Parts::of(mesh);
    let small = floating_parts(&parts_measured(mesh, &parts));
    let mut is_small = vec![false; parts.len()];
    small.iter().for_each(|part| is_small[part.index()] = true);
    let (mut cut, mut volume) = (vec![0; parts.len()], vec![0.0; parts.len()]);
    for face in mesh.face_ids() {
        let part = parts.of_face(mesh, face);
        if let Some(part) = part.map(PartId::index).filter(|&part| is_small[part]) {
            let origin = mesh.position(parts.list()[part].lowest_vertex);
            volume[part] += signed_volume_term(mesh, face, origin);
            cut[part] += usize::from(sources[face.index()].how != How::Kept);
        }
    }
    let is_pocket = |part: PartId| cut[part.index()] > 0 && volume[part.index()] <= 0.0;
    let is_small_component = |part: PartId| cut[part.index()] == parts.list()[part.index()].faces;
    let (pockets, others): (Vec<PartId>, Vec<PartId>) =
        small.into_iter().partition(|&part| is_pocket(part));
    let small_components: Vec<PartId> = others
        .into_iter()
        .filter(|&part| is_small_component(part))
        .collect();
    let mut goes = vec![false; parts.len()];
    let gone = pockets.iter().chain(&small_components);
    gone.for_each(|part| goes[part.index()] = true);
    Cleaned {
        pockets: pockets.len(),
        small_components: small_components.len(),
        model: match goes.contains(&true) {
            true => without(&model, |part| goes[part.index()]),
            false => model,
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{FaceId, Mesh, VertexId};
    use crate::shapes;
    use glam::DVec3;

    /// A large cube, and small ones: turned or not, each with some of its faces cut.
    fn cubes(small: &[(bool, usize)]) -> (Model, Vec<Source>) {
        let mut mesh = shapes::cuboid(DVec3::ZERO, DVec3::splat(100.0), 4);
        let source = |face: FaceId, cut: bool| Source {
            face,
            how: if cut { How::Cut } else { How::Kept },
        };
        let mut sources: Vec<Source> = mesh.face_ids().map(|face| source(face, false)).collect();
        for (i, &(turned, cut)) in small.iter().enumerate() {
            let low = DVec3::new(10.0 * (i + 1) as f64, 5.0, 5.0);
            let cube: Mesh = shapes::cuboid(low, low + DVec3::ONE, 1);
            let base = mesh.vertex_count() as u32;
            cube.positions().iter().for_each(|&p| {
                mesh.push_vertex(p);
            });
            for (face, corners) in cube.faces() {
                let mut corners: Vec<_> = corners.iter().map(|v| VertexId(v.0 + base)).collect();
                if turned {
                    corners.reverse();
                }
                let made = mesh.push_face(corners);
                sources.push(source(made, face.index() < cut));
            }
        }
        (Model::from(mesh), sources)
    }

    #[test]
    fn pockets_and_crumbs_go_and_what_was_there_stays() {
        let all = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1).face_count();
        // A pocket that cutting made, one that was there; a crumb, a part of which a face is whole.
        let (model, sources) = cubes(&[(true, 1), (true, 0), (false, all), (false, all - 1)]);
        let cleaned = without_small_components(model.clone(), &sources);
        assert_eq!((cleaned.pockets, cleaned.small_components), (1, 1));
        let left = cleaned.model.mesh.face_count();
        assert_eq!(left, model.mesh.face_count() - 2 * all);
        assert_eq!(Parts::of(&cleaned.model.mesh).len(), 3);
    }
}
