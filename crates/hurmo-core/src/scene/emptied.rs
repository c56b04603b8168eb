//! Objects with nothing in them, and taking them away.

use super::{Node, NodeId, Shows};
use crate::mesh::Model;
use rustc_hash::FxHashSet;
use std::sync::Arc;

impl Model {
    /// For every node of its scene, whether it or what hangs on it has a face, or is made use of
    /// otherwise.
    pub fn needed_nodes(&self) -> Vec<bool> {
        let Some(scene) = &self.attributes.scene else {
            return Vec::new();
        };
        let tags = self.attributes.tags.used();
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
        is_needed
    }

    /// Drops the nodes that nothing needs; what they were called.
    pub fn drop_empty_objects(&mut self) -> Vec<String> {
        let is_needed = self.needed_nodes();
        let Some(scene) = &mut self.attributes.scene else {
            return Vec::new();
        };
        let mut dropped = Vec::new();
        let mut names: Vec<Option<NodeId>> = Vec::with_capacity(is_needed.len());
        let mut nodes: Vec<Node> = Vec::new();
        for (number, is_needed) in (0..).map(NodeId).zip(is_needed) {
            names.push(is_needed.then_some(NodeId(nodes.len() as u32)));
            match is_needed {
                true => nodes.push(scene.node(number).clone()),
                false => dropped.push(scene.name_of(number)),
            }
        }
        if dropped.is_empty() {
            return dropped;
        }
        let renamed = |id: &NodeId| names[id.index()];
        for node in &mut nodes {
            node.children = node.children.iter().filter_map(renamed).collect();
            if let Shows::Of(home) = node.shows {
                node.shows = renamed(&home).map_or(Shows::Nothing, Shows::Of);
            }
        }
        let scene = Arc::make_mut(scene);
        scene.nodes = nodes;
        scene.roots = scene.roots.iter().filter_map(renamed).collect();
        for tag in &mut self.attributes.tags.table {
            tag.node = tag.node.as_ref().and_then(renamed);
        }
        dropped
    }
}
