//! Objects with nothing in them.

use super::{name_of, scene_of};
use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, Needs};
use crate::scene::{NodeId, Shows};
use rustc_hash::FxHashSet;

pub(in super::super) const EMPTY_OBJECTS: Check = Check {
    name: "empty-objects",
    counts: "objects without a face, on which nothing hangs that has one, and which nothing else makes use of",
    harm: "left over from the making: they clutter the scene, and count as objects",
    cure: "deleting them in the program that made it",
    drawing: r"
    stage -+- plank
           +- plank.001
           +- (nothing)",
    levels: Levels::new(Note, Note, Warn, Note),
    needs: Needs::Connectivity,
    find: |survey, search| {
        let scene = scene_of(survey);
        let tags = survey.model.attributes.tags.used();
        let has_faces: FxHashSet<NodeId> = tags.filter_map(|tag| tag.node).collect();
        let mut is_needed: Vec<bool> = scene.nodes.iter().map(|node| node.serves).collect();
        // From below: what hangs on a node is looked at before it.
        for id in scene.reached().into_iter().rev() {
            let node = scene.node(id);
            is_needed[id.index()] |= match node.shows {
                Shows::Nothing => false,
                Shows::Own { .. } => has_faces.contains(&id),
                Shows::Of(home) => has_faces.contains(&home),
            };
            is_needed[id.index()] |= node.children.iter().any(|child| is_needed[child.index()]);
        }
        let empty = (0..scene.nodes.len()).filter(|&node| !is_needed[node]);
        let empty = empty.map(|node| NodeId(node as u32));
        let named = empty.map(|node| (name_of(&scene, node), Some(node)));
        Ok(Found::named(survey, search.limit, named.collect()))
    },
};
