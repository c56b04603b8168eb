//! Nodes: what hangs on what, where each stands, and which mesh it shows.

use super::Document;
use crate::ReadError;
use glam::{DAffine3, DMat4, DQuat, DVec3};
use hurmo_core::scene::{Node, NodeId, Scene, Shows};

/// A transform whose volume is less than this flattens what it is applied to.
const FLAT: f64 = 1e-30;

/// All nodes, and those that hang on none. Meshes that no node shows get nodes of their own.
pub fn nodes(
    document: &Document,
    notes: &mut Vec<String>,
) -> Result<(Vec<Node>, Vec<NodeId>), ReadError> {
    let root = &document.root;
    let (moves, carries) = (moves(document), carries(document));
    let mut nodes = Vec::with_capacity(root.nodes.len());
    for (number, node) in root.nodes.iter().enumerate() {
        let local = local(node);
        if !local.is_finite() {
            let what = format!("nodes[{number}]");
            return Err(document.error(&what, "its transform is not finite"));
        }
        let children = node.children.iter().flatten();
        nodes.push(Node {
            name: node.name.clone(),
            local,
            children: children.map(|child| NodeId(child.value() as u32)).collect(),
            shows: Shows::Nothing,
            serves: moves[number] || carries[number],
            moves: moves[number],
            source: Some(number as u32),
        });
    }
    let roots = roots(document, &nodes)?;
    let mut scene = Scene {
        nodes,
        roots,
        ..Scene::default()
    };
    show(document, &mut scene, notes)?;
    Ok((scene.nodes, scene.roots))
}

/// By node, whether a camera or a light is at it, or an extension says something of it.
fn carries(document: &Document) -> Vec<bool> {
    let words = document.json["nodes"].as_array();
    let has = |number: usize, word: &str| words.is_some_and(|all| all[number].get(word).is_some());
    let carries = |number: usize| has(number, "camera") || has(number, "extensions");
    (0..document.root.nodes.len()).map(carries).collect()
}

/// By node, whether a skin has it as a joint, or an animation moves it.
fn moves(document: &Document) -> Vec<bool> {
    let root = &document.root;
    let mut moves = vec![false; root.nodes.len()];
    let joints = root.skins.iter().flat_map(|skin| &skin.joints);
    let moved = root
        .animations
        .iter()
        .flat_map(|animation| &animation.channels);
    for node in joints.chain(moved.map(|channel| &channel.target.node)) {
        if let Some(moves) = moves.get_mut(node.value()) {
            *moves = true;
        }
    }
    moves
}

/// From a node's own space to that of the one it hangs on.
pub fn local(node: &gltf_json::Node) -> DAffine3 {
    if let Some(matrix) = node.matrix {
        return DAffine3::from_mat4(DMat4::from_cols_array(&matrix.map(f64::from)));
    }
    let vector = |vector: Option<[f32; 3]>, or: DVec3| {
        vector.map_or(or, |vector| DVec3::from_array(vector.map(f64::from)))
    };
    let rotation = node.rotation.map_or(DQuat::IDENTITY, |rotation| {
        DQuat::from_array(rotation.0.map(f64::from)).normalize()
    });
    DAffine3::from_scale_rotation_translation(
        vector(node.scale, DVec3::ONE),
        rotation,
        vector(node.translation, DVec3::ZERO),
    )
}

/// The nodes that hang on none; an error where they are no trees.
fn roots(document: &Document, nodes: &[Node]) -> Result<Vec<NodeId>, ReadError> {
    let mut hangs = vec![false; nodes.len()];
    let error = |number: usize, why: &str| document.error(&format!("nodes[{number}]"), why);
    for (number, node) in nodes.iter().enumerate() {
        for child in &node.children {
            match hangs.get_mut(child.index()) {
                None => return Err(error(number, "a child of it does not exist")),
                Some(true) => return Err(error(child.index(), "it hangs on two nodes")),
                Some(hangs) => *hangs = true,
            }
        }
    }
    let roots = (0..nodes.len()).filter(|&node| !hangs[node]);
    let scene = Scene {
        roots: roots.map(|node| NodeId(node as u32)).collect(),
        nodes: nodes.to_vec(),
        ..Scene::default()
    };
    // Whatever is not reached from a root hangs on itself in the end.
    let mut is_reached = vec![false; nodes.len()];
    for node in scene.reached() {
        is_reached[node.index()] = true;
    }
    match is_reached.iter().position(|&is_reached| !is_reached) {
        Some(node) => Err(error(node, "it hangs on itself, by way of others")),
        None => Ok(scene.roots),
    }
}

/// Says which mesh each node shows: the first that does not flatten it has it, the others show that
/// one's.
fn show(document: &Document, scene: &mut Scene, notes: &mut Vec<String>) -> Result<(), ReadError> {
    let root = &document.root;
    let placements = scene.placements();
    let is_flat = |node: usize| placements[node].matrix3.determinant().abs() < FLAT;
    let mut shown: Vec<Vec<usize>> = vec![Vec::new(); root.meshes.len()];
    for (number, node) in root.nodes.iter().enumerate() {
        if let Some(mesh) = node.mesh {
            let Some(shown) = shown.get_mut(mesh.value()) else {
                let what = format!("nodes[{number}]");
                return Err(document.error(&what, "its mesh does not exist"));
            };
            shown.push(number);
        }
    }
    let (mut skinned, mut flat, mut made) = (0, 0, 0);
    for (mesh, nodes) in shown.iter().enumerate() {
        let name = &root.meshes[mesh].name;
        let home = nodes
            .iter()
            .copied()
            .find(|&node| !is_flat(node))
            .or(nodes.first().copied());
        let Some(home) = home else {
            made += 1;
            scene.roots.push(NodeId(scene.nodes.len() as u32));
            scene.nodes.push(Node {
                name: name.clone(),
                shows: Shows::Own {
                    mesh: name.clone(),
                    stays: false,
                },
                ..Node::default()
            });
            continue;
        };
        let is_skinned = root.nodes[home].skin.is_some();
        skinned += usize::from(is_skinned);
        flat += usize::from(is_flat(home) && !is_skinned);
        for &node in nodes {
            scene.nodes[node].shows = Shows::Of(NodeId(home as u32));
        }
        scene.nodes[home].shows = Shows::Own {
            mesh: name.clone(),
            stays: is_skinned || is_flat(home),
        };
    }
    for (count, what) in [
        (
            skinned,
            "skinned: taken in the pose that the file stores; its weights are not kept",
        ),
        (
            flat,
            "flattened by the transform of its node: taken without it",
        ),
        (made, "shown by no node: taken in at the origin"),
    ] {
        if count > 0 {
            let meshes = if count == 1 { "mesh is" } else { "meshes are" };
            notes.push(format!("{count} {meshes} {what}"));
        }
    }
    Ok(())
}
