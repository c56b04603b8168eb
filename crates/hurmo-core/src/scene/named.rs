//! Names that every program takes, and that no two objects share.

use super::{Names, NodeId, Scene};
use crate::mesh::Model;
use rustc_hash::FxHashMap;
use std::sync::Arc;

/// The longest name that every program takes.
const LONGEST: usize = 63;

/// A name that changed.
#[derive(Clone, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Renamed {
    /// What it was.
    pub from: String,
    /// What it is.
    pub to: String,
}

/// Whether a name is the same in every program: letters, digits, `_`, `-` and `.` of ASCII, not too
/// many, none that leads elsewhere.
pub fn is_safe_name(name: &str) -> bool {
    !name.is_empty()
        && name.len() <= LONGEST
        && name.chars().all(is_plain)
        && !name.starts_with('.')
}

fn is_plain(c: char) -> bool {
    c.is_ascii_alphanumeric() || ['_', '-', '.'].contains(&c)
}

/// A name that is safe, as like another as can be: letters as they are said in ASCII, other signs as
/// `_`, in a row as one.
pub fn safe_name(name: &str) -> String {
    let mut safe = String::new();
    for c in deunicode::deunicode_with_tofu(name, "_").chars() {
        match is_plain(c) {
            true => safe.push(c),
            false if safe.ends_with('_') => {}
            false => safe.push('_'),
        }
    }
    let trimmed = safe.trim_matches('_').trim_start_matches('.');
    let end = trimmed.len().min(LONGEST);
    match trimmed[..end].is_empty() {
        true => "unnamed".into(),
        false => trimmed[..end].into(),
    }
}

impl Scene {
    /// What a node is called.
    pub fn name_of(&self, node: NodeId) -> String {
        let name = self.node(node).name.clone();
        name.unwrap_or_else(|| format!("node {}", node.0))
    }
}

impl Model {
    /// Names objects apart: those beyond the first of a name get a number.
    pub fn make_names_unique(&mut self) -> Vec<Renamed> {
        let Some(scene) = &mut self.attributes.scene else {
            return Vec::new();
        };
        let mut names = Names::of(scene.nodes.iter().filter_map(|node| node.name.as_deref()));
        let mut taken = rustc_hash::FxHashSet::default();
        let mut renamed = Vec::new();
        let mut of_node: FxHashMap<NodeId, Renamed> = FxHashMap::default();
        for (node, number) in Arc::make_mut(scene).nodes.iter_mut().zip(0..) {
            let Some(name) = &mut node.name else { continue };
            if !taken.insert(name.clone()) {
                let from = std::mem::take(name);
                *name = names.free(&from);
                let change = Renamed {
                    from,
                    to: name.clone(),
                };
                of_node.insert(NodeId(number), change.clone());
                renamed.push(change);
            }
        }
        for tag in &mut self.attributes.tags.table {
            let change = tag.node.and_then(|node| of_node.get(&node));
            if let Some(change) = change.filter(|change| tag.object.as_ref() == Some(&change.from))
            {
                tag.object = Some(change.to.clone());
            }
        }
        renamed
    }

    /// Gives objects, groups and materials names that every program takes. Names that differ stay
    /// different, and equal ones equal.
    pub fn make_names_safe(&mut self) -> Vec<Renamed> {
        let attributes = &mut self.attributes;
        let mut scene = attributes.scene.as_mut().map(Arc::make_mut);
        let mut objects: Vec<&mut String> = Vec::new();
        let mut materials: Vec<&mut String> = Vec::new();
        let mut groups: Vec<&mut String> = Vec::new();
        if let Some(scene) = &mut scene {
            objects.extend(scene.nodes.iter_mut().filter_map(|node| node.name.as_mut()));
            materials.extend(
                scene
                    .materials
                    .iter_mut()
                    .map(|material| &mut material.name),
            );
        }
        for tag in &mut attributes.tags.table {
            objects.extend(&mut tag.object);
            materials.extend(&mut tag.material);
            groups.extend(&mut tag.group);
        }
        let kinds = [objects, materials, groups].into_iter();
        kinds.flat_map(made_safe).collect()
    }
}

/// Makes names of one kind safe.
fn made_safe(names: Vec<&mut String>) -> Vec<Renamed> {
    let safe = names.iter().filter(|name| is_safe_name(name));
    let mut free = Names::of(safe.map(|name| &name[..]));
    let mut known: FxHashMap<String, String> = FxHashMap::default();
    let mut renamed = Vec::new();
    for name in names {
        if is_safe_name(name) {
            continue;
        }
        let to = known.entry(name.clone()).or_insert_with(|| {
            let to = free.free(&safe_name(name));
            renamed.push(Renamed {
                from: name.clone(),
                to: to.clone(),
            });
            to
        });
        name.clone_from(to);
    }
    renamed
}
