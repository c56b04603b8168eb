//! What a model is part of: objects in a hierarchy, where each stands, and what they look like.
//!
//! ```text
//! Scene     nodes ──▶ a mesh of its own        Model     all meshes in one, each where its node
//!             │       (its faces name it)                 stands: what every command works on
//!             └─────▶ the mesh of another node ─ (an instance)
//! ```
//!
//! The model's surface lies in the space of the whole scene, so that everything is measured as it
//! stands there. A mesh that several nodes show is in the model once, where the first of them stands.
//! To write a node's mesh is to take its faces back by where the node stands; what a command did to
//! it then holds for all its instances.

mod look;

pub use look::{Alpha, Image, ImageData, ImageId, Material, TextureUse};

use glam::DAffine3;
use std::any::Any;
use std::fmt;
use std::sync::Arc;

/// A node of a scene, by its place in [`Scene::nodes`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct NodeId(pub u32);

impl NodeId {
    /// The node's place in the list.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// Objects, how they hang together, and what they are made of.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Scene {
    /// All nodes.
    pub nodes: Vec<Node>,
    /// Those that hang on no other.
    pub roots: Vec<NodeId>,
    /// Materials; tags speak of them by name, and no two have the same.
    pub materials: Vec<Material>,
    /// The pictures that materials use.
    pub images: Vec<Image>,
    /// What moves it, by name.
    pub animations: Vec<String>,
    /// What else the file said.
    pub rest: Option<Rest>,
}

/// One object, or a place for others.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Node {
    /// The file's name for it, which others may have, too.
    pub name: Option<String>,
    /// From its own space to that of the node it hangs on.
    pub local: DAffine3,
    /// What hangs on it.
    pub children: Vec<NodeId>,
    /// What it shows.
    pub shows: Shows,
    /// Whether something besides a mesh makes use of it: a camera, a light, a joint, an animation.
    pub serves: bool,
    /// Whether an animation or a skin speaks of its transform.
    pub moves: bool,
    /// Its number in the file, whose own words about it are in the scene's rest.
    pub source: Option<u32>,
}

/// What a node shows.
#[derive(Clone, Debug, Default, PartialEq)]
pub enum Shows {
    /// No mesh.
    #[default]
    Nothing,
    /// The mesh of the faces that name the node.
    Own {
        /// The mesh's name.
        mesh: Option<String>,
        /// Whether its vertices are in the scene's space already, wherever the node stands, as those
        /// of skinned meshes are.
        stays: bool,
    },
    /// The mesh of another node.
    Of(NodeId),
}

/// What only the format understands, kept for it to write again.
#[derive(Clone)]
pub struct Rest(pub Arc<dyn Any + Send + Sync>);

impl fmt::Debug for Rest {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("Rest")
    }
}

impl PartialEq for Rest {
    fn eq(&self, other: &Self) -> bool {
        Arc::ptr_eq(&self.0, &other.0)
    }
}

impl Scene {
    /// A node.
    pub fn node(&self, id: NodeId) -> &Node {
        &self.nodes[id.index()]
    }

    /// For every node the way from its own space to that of the scene.
    pub fn placements(&self) -> Vec<DAffine3> {
        let mut placements: Vec<DAffine3> = self.nodes.iter().map(|node| node.local).collect();
        let mut next: Vec<NodeId> = self.roots.clone();
        while let Some(id) = next.pop() {
            for &child in &self.node(id).children {
                placements[child.index()] = placements[id.index()] * self.node(child).local;
                next.push(child);
            }
        }
        placements
    }

    /// For every node the way from the vertices of the mesh that it shows to the space of the scene.
    pub fn mesh_placements(&self) -> Vec<DAffine3> {
        let mut placements = self.placements();
        for (placement, node) in placements.iter_mut().zip(&self.nodes) {
            if matches!(node.shows, Shows::Own { stays: true, .. }) {
                *placement = DAffine3::IDENTITY;
            }
        }
        placements
    }

    /// The nodes that hang on others, or on the scene itself, from the top down.
    pub fn reached(&self) -> Vec<NodeId> {
        let mut found = Vec::with_capacity(self.nodes.len());
        let mut next: Vec<NodeId> = self.roots.iter().rev().copied().collect();
        while let Some(id) = next.pop() {
            found.push(id);
            next.extend(self.node(id).children.iter().rev());
        }
        found
    }

    /// How many nodes show a mesh, and how many of these show that of another.
    pub fn objects(&self) -> (usize, usize) {
        let mut count = (0, 0);
        for id in self.reached() {
            match self.node(id).shows {
                Shows::Nothing => {}
                Shows::Own { .. } => count.0 += 1,
                Shows::Of(_) => count = (count.0 + 1, count.1 + 1),
            }
        }
        count
    }

    /// What a format kept for itself, if it is this one's.
    pub fn rest_of<T: 'static>(&self) -> Option<&T> {
        self.rest.as_ref()?.0.downcast_ref()
    }

    /// A material by its name.
    pub fn material(&self, name: &str) -> Option<&Material> {
        self.materials.iter().find(|material| material.name == name)
    }
}
