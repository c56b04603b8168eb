//! Objects with nothing in them.

use super::scene_of;
use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, Needs, Remedy};
use crate::scene::NodeId;

pub(in super::super) const EMPTY_OBJECTS: Check = Check {
    name: "empty-objects",
    counts: "objects without a face, on which nothing hangs that has one, and which nothing else makes use of",
    harm: "left over from the making: they clutter the scene, and count as objects",
    remedy: Remedy::Convert,
    drawing: r"
    stage -+- plank
           +- plank.001
           +- (nothing)",
    levels: Levels::new(Note, Note, Warn, Note),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let scene = scene_of(analysis);
        let is_needed = analysis.model.needed_nodes();
        let empty = (0..scene.nodes.len()).filter(|&node| !is_needed[node]);
        let empty = empty.map(|node| NodeId(node as u32));
        let named = empty.map(|node| (scene.name_of(node), Some(node)));
        Ok(Found::named(analysis, search.limit, named.collect()))
    },
};
