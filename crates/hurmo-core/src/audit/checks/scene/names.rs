//! Names that collide, or that not every program takes.

use super::scene_of;
use crate::audit::Level::{Note, Off, Warn};
use crate::audit::{Check, Found, Levels, Needs, Remedy};
use crate::scene::{NodeId, is_safe_name};
use rustc_hash::FxHashSet;

pub(in super::super) const DUPLICATE_NAMES: Check = Check {
    name: "duplicate-names",
    counts: "objects beyond the first of the same name",
    harm: "scripts, animations and exports find the wrong one, or rename it without a word",
    remedy: Remedy::Convert,
    drawing: r"
    plank   plank   oar
            ^ which one?",
    levels: Levels::new(Note, Note, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let scene = scene_of(analysis);
        let mut taken = FxHashSet::default();
        let nodes = scene.nodes.iter().zip(0..);
        let named = nodes.filter_map(|(node, number)| Some((node.name.as_ref()?, number)));
        let again = named.filter(|(name, _)| !taken.insert(*name));
        let again = again.map(|(name, number)| (name.clone(), Some(NodeId(number))));
        Ok(Found::named(analysis, search.limit, again.collect()))
    },
};

pub(in super::super) const UNSAFE_NAMES: Check = Check {
    name: "unsafe-names",
    counts: "names of objects and materials with other signs than letters, digits, _ - . of ASCII, or over 63 of them",
    harm: "programs cut, change or refuse them, and what refers to them finds nothing",
    remedy: Remedy::Convert,
    drawing: r"
    wet wood / 2   ->  wet_wood ? wet ?",
    levels: Levels::new(Off, Off, Note, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let scene = scene_of(analysis);
        let nodes = (0..scene.nodes.len() as u32).map(NodeId);
        let nodes = nodes.filter(|node| scene.node(*node).name.is_some());
        let mut named: Vec<(String, Option<NodeId>)> = nodes
            .map(|node| (scene.name_of(node), Some(node)))
            .collect();
        let tags = &analysis.model.attributes.tags.table;
        let of_tags = tags
            .iter()
            .flat_map(|tag| [&tag.object, &tag.material])
            .flatten();
        let of_scene = scene.materials.iter().map(|material| &material.name);
        named.extend(of_tags.chain(of_scene).map(|name| (name.clone(), None)));
        let mut reported = FxHashSet::default();
        named.retain(|(name, _)| !is_safe_name(name) && reported.insert(name.clone()));
        Ok(Found::named(analysis, search.limit, named))
    },
};
