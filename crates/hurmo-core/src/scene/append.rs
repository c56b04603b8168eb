//! Several scenes in one.

use super::{ImageId, Material, NodeId, Scene, Shows, TextureUse};
use rustc_hash::{FxHashMap, FxHashSet};

/// What the nodes and materials of an appended scene are called now.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Appended {
    /// What is added to the number of a node.
    pub first_node: u32,
    /// The names of materials that had to change.
    pub renamed: FxHashMap<String, String>,
}

impl Scene {
    /// Adds another scene's nodes, materials and images. Materials that are alike in all become one;
    /// of others with the same name the second is renamed. What only the other's format understands
    /// is not taken.
    pub fn append(&mut self, other: &Scene) -> Appended {
        let first_node = self.nodes.len() as u32;
        let moved = |id: NodeId| NodeId(id.0 + first_node);
        for node in &other.nodes {
            let mut node = node.clone();
            node.source = None;
            node.children
                .iter_mut()
                .for_each(|child| *child = moved(*child));
            if let Shows::Of(of) = &mut node.shows {
                *of = moved(*of);
            }
            self.nodes.push(node);
        }
        self.roots.extend(other.roots.iter().copied().map(moved));
        let first_image = self.images.len() as u32;
        self.images.extend(other.images.iter().cloned());
        let mut renamed = FxHashMap::default();
        let mut names = Names::of(self.materials.iter().map(|material| &material.name[..]));
        for material in &other.materials {
            let mut material = moved_images(material, first_image);
            material.source = None;
            let own = self.material(&material.name);
            if own.is_some_and(|own| is_alike(self, own, &material)) {
                continue;
            }
            let name = names.free(&material.name);
            if name != material.name {
                renamed.insert(material.name, name.clone());
                material.name = name;
            }
            self.materials.push(material);
        }
        Appended {
            first_node,
            renamed,
        }
    }
}

/// Names of which no two are the same, however many are asked for.
#[derive(Clone, Debug, Default)]
pub struct Names {
    taken: FxHashSet<String>,
    /// By name the number that the next of its like may have.
    next: FxHashMap<String, usize>,
}

impl Names {
    /// Those that are taken already.
    pub fn of<'n>(taken: impl Iterator<Item = &'n str>) -> Self {
        Self {
            taken: taken.map(String::from).collect(),
            ..Self::default()
        }
    }

    /// This name, or if it is taken this one with a number.
    pub fn free(&mut self, name: &str) -> String {
        let mut free = name.to_string();
        let number = self.next.entry(free.clone()).or_insert(1);
        while !self.taken.insert(free.clone()) {
            *number += 1;
            free = format!("{name}_{number}");
        }
        free
    }
}

fn moved_images(material: &Material, by: u32) -> Material {
    let mut material = material.clone();
    for texture in material.textures_mut() {
        texture.image = ImageId(texture.image.0 + by);
    }
    material
}

/// Whether two materials of a scene look the same, with the same pictures.
fn is_alike(scene: &Scene, one: &Material, other: &Material) -> bool {
    let picture = |texture: &TextureUse| {
        let image = scene.images.get(texture.image.0 as usize);
        (
            image.cloned(),
            TextureUse {
                image: ImageId(0),
                ..texture.clone()
            },
        )
    };
    let pictures = |material: &Material| -> Vec<_> { material.textures().map(picture).collect() };
    let plain = |material: &Material| {
        let mut plain = material.clone();
        plain.source = None;
        (plain.textures_mut()).for_each(|texture| texture.image = ImageId(0));
        plain
    };
    plain(one) == plain(other) && pictures(one) == pictures(other)
}
