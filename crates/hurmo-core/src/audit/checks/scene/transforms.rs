//! Objects that a transform turns, scales or mirrors.

use super::scene_of;
use crate::audit::Level::{Note, Off, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, Remedy};
use crate::scene::{NodeId, Shows};
use glam::{DAffine3, DMat3};

/// What differs by less was not meant to.
const LITTLE: f64 = 1e-6;

pub(in super::super) const UNAPPLIED_TRANSFORMS: Check = Check {
    name: "node-transforms",
    counts: "objects whose own transform turns or scales their mesh",
    harm: "sizes and angles read wrong where the transform is not looked at; bevels, physics and exports come out skewed",
    remedy: Remedy::Convert,
    drawing: r"
    +--+     x 2, 30°    /\
    |  |   ----------->  \ /  stored small and straight,
    +--+                      shown large and turned",
    levels: Levels::new(Note, Note, Note, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let is_one =
            |_: &DAffine3, own: &DAffine3| !own.matrix3.abs_diff_eq(DMat3::IDENTITY, LITTLE);
        Ok(objects(analysis, search.limit, is_one))
    },
};

pub(in super::super) const MIRRORING_TRANSFORMS: Check = Check {
    name: "mirroring-transforms",
    counts: "objects that a negative scale mirrors, their own or that of what they hang on",
    harm: "faces turn inside out and normal maps upside down wherever the sign is lost",
    remedy: Remedy::Convert,
    drawing: r"
     stored |  shown
       |\   |   /|
       |_\  |  /_|
          mirror",
    levels: Levels::new(Warn, Warn, Warn, Note),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let is_one = |placement: &DAffine3, _: &DAffine3| placement.matrix3.determinant() < 0.0;
        Ok(objects(analysis, search.limit, is_one))
    },
};

/// The objects of which something holds: of where they stand in the scene, and their own transform.
fn objects(
    analysis: &MeshAnalysis<'_>,
    limit: usize,
    is_one: impl Fn(&DAffine3, &DAffine3) -> bool,
) -> Found {
    let scene = scene_of(analysis);
    let placements = scene.mesh_placements();
    let nodes = scene.nodes.iter().zip(0..).filter(|(node, number)| {
        let stays = matches!(node.shows, Shows::Own { stays: true, .. });
        node.shows != Shows::Nothing && !stays && is_one(&placements[*number as usize], &node.local)
    });
    let nodes = nodes.map(|(_, number)| NodeId(number));
    let named = nodes.map(|node| (scene.name_of(node), Some(node)));
    Found::named(analysis, limit, named.collect())
}
