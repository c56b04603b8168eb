//! What caps are called: the group of cuts, in the object whose wall they close.

use crate::mesh::{FaceId, Model, Tag};
use crate::topology::Edges;
use rustc_hash::FxHashMap;

/// Gives each cap the object and node of the wall that it hangs on.
pub(super) fn name(piece: &mut Model, is_cap: &[bool]) {
    let mesh = &piece.mesh;
    let tags = &mut piece.attributes.tags;
    if tags.is_empty() || !is_cap.contains(&true) {
        return;
    }
    let of_wall = nearest_walls(mesh, is_cap);
    let mut numbers: FxHashMap<u32, u32> = FxHashMap::default();
    for (face, wall) in of_wall {
        let wall = tags.of_face[wall.index()];
        let cap = tags.of_face[face.index()];
        let number = *numbers.entry(wall).or_insert_with(|| {
            let (of, cap) = (tags.table[wall as usize].clone(), &tags.table[cap as usize]);
            let tag = Tag {
                object: of.object,
                node: of.node,
                ..cap.clone()
            };
            tags.table.push(tag);
            tags.table.len() as u32 - 1
        });
        tags.of_face[face.index()] = number;
    }
}

/// For each face of a cap, a face of the wall that the cap hangs on.
fn nearest_walls(mesh: &crate::Mesh, is_cap: &[bool]) -> Vec<(FaceId, FaceId)> {
    let edges = Edges::of(mesh);
    let mut wall: Vec<Option<FaceId>> = vec![None; mesh.face_count()];
    let mut beside: FxHashMap<FaceId, Vec<FaceId>> = FxHashMap::default();
    let mut ready = Vec::new();
    for edge in edges.ids() {
        let sides = edges.sides(edge);
        let found = sides.iter().find(|side| !is_cap[side.face.index()]);
        for side in sides.iter().filter(|side| is_cap[side.face.index()]) {
            match found {
                Some(found) if wall[side.face.index()].is_none() => {
                    wall[side.face.index()] = Some(found.face);
                    ready.push(side.face);
                }
                Some(_) => {}
                None => {
                    let others = sides.iter().map(|other| other.face);
                    let others = others.filter(|&other| other != side.face);
                    beside.entry(side.face).or_default().extend(others);
                }
            }
        }
    }
    let mut named = Vec::new();
    while let Some(face) = ready.pop() {
        let Some(own) = wall[face.index()] else {
            continue;
        };
        named.push((face, own));
        for &other in beside.get(&face).into_iter().flatten() {
            if wall[other.index()].is_none() {
                wall[other.index()] = Some(own);
                ready.push(other);
            }
        }
    }
    named
}
