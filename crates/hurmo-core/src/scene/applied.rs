//! Transforms applied: objects stored as they are shown.

use super::{NodeId, Scene, Shows};
use crate::mesh::Model;
use glam::DAffine3;
use std::sync::Arc;

/// What differs by less was not meant to.
const LITTLE: f64 = 1e-9;

/// What became of transforms.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Applied {
    /// How many nodes turned, scaled or mirrored, and no longer do.
    pub applied: usize,
    /// How many instances stood otherwise than what they show, and have meshes of their own now.
    pub written_out: usize,
    /// How many nodes still do, since something needs them to: what an animation or a skin moves,
    /// all above and below that, cameras and lights.
    pub kept: usize,
}

impl Model {
    /// Lets no node turn, scale or mirror what it shows; where each has its origin stays, and so does
    /// the surface.
    pub fn flatten_transforms(&mut self) -> Applied {
        let Some(scene) = &self.attributes.scene else {
            return Applied::default();
        };
        let mut applied = Applied::default();
        let old = scene.placements();
        let keeps = keeps(scene);
        let plain = |way: &DAffine3| DAffine3::from_translation(way.translation);
        let mut new: Vec<DAffine3> = old.iter().map(plain).collect();
        let mut above: Vec<Option<NodeId>> = vec![None; scene.nodes.len()];
        for id in scene.reached() {
            let node = scene.node(id);
            let does = |way: &DAffine3| !way.matrix3.abs_diff_eq(glam::DMat3::IDENTITY, LITTLE);
            if keeps[id.index()] {
                new[id.index()] = old[id.index()];
            }
            match does(&node.local) {
                true if keeps[id.index()] => applied.kept += 1,
                true => applied.applied += 1,
                false => {}
            }
            for child in &node.children {
                above[child.index()] = Some(id);
            }
        }
        let stands_otherwise = |id: NodeId, home: NodeId| {
            let way = |placements: &[DAffine3]| {
                let way = placements[id.index()] * placements[home.index()].inverse();
                way.is_finite().then_some(way)
            };
            match (way(&old), way(&new)) {
                (Some(old), Some(new)) => !old.abs_diff_eq(new, LITTLE * size_of(&old)),
                _ => true,
            }
        };
        let (mut model, written_out) = self.written_out(stands_otherwise);
        applied.written_out = written_out;
        let scene = Arc::make_mut(model.attributes.scene.as_mut().expect("it had one"));
        for (number, node) in scene.nodes.iter_mut().enumerate() {
            let below = above[number].map_or(DAffine3::IDENTITY, |above| new[above.index()]);
            // What stays as it was is not rounded.
            let is_plain = node.local == plain(&node.local);
            let was_below = above[number].map_or(DAffine3::IDENTITY, |above| old[above.index()]);
            if !(below == was_below && (keeps[number] || is_plain)) {
                node.local = below.inverse() * new[number];
                // Of translations alone, this is what remains of a product.
                if !keeps[number] && below == plain(&below) {
                    node.local = plain(&node.local);
                }
            }
        }
        *self = model;
        applied
    }
}

/// The longest that a transform makes anything.
fn size_of(way: &DAffine3) -> f64 {
    let columns = way.matrix3.to_cols_array();
    columns.iter().fold(1.0, |most: f64, x| most.max(x.abs()))
}

/// The nodes that keep their transforms.
fn keeps(scene: &Scene) -> Vec<bool> {
    let mut moves: Vec<bool> = scene.nodes.iter().map(|node| node.moves).collect();
    let order = scene.reached();
    // What is above is seen last from below, and first from above.
    let mut is_above = moves.clone();
    for id in order.iter().rev() {
        let mut children = scene.node(*id).children.iter();
        is_above[id.index()] |= children.any(|child| is_above[child.index()]);
    }
    for id in order {
        if moves[id.index()] {
            let children = &scene.node(id).children;
            children
                .iter()
                .for_each(|child| moves[child.index()] = true);
        }
    }
    let nodes = scene.nodes.iter().zip(moves).zip(is_above);
    nodes
        .map(|((node, moves), is_above)| {
            let is_mesh = !matches!(node.shows, Shows::Nothing);
            moves || is_above || (node.serves && !is_mesh)
        })
        .collect()
}
