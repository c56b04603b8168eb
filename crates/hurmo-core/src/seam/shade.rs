//! Seams shaded softly: normals that go over from one side to the other.

use crate::measure::vector_area;
use crate::mesh::{Model, NO_VALUE};
use crate::shading::{angle_at, differ, facing_corners};
use crate::topology::{Edges, UnionFind, join_across};
use glam::DVec3;

/// A model whose normals go over softly at the edges between faces of different solids, and how many
/// edges these are; `None` where it has no normals.
pub fn softened(model: &Model, solids: &[u32]) -> Option<(Model, usize)> {
    let mut made = model.clone();
    let layer = made.attributes.normals.as_mut()?;
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let mut groups = UnionFind::new(mesh.corners().len());
    let (mut soft, mut count) = (Vec::new(), 0);
    for edge in edges.ids() {
        let &[a, b] = edges.sides(edge) else { continue };
        let is_seam = solids[a.face.index()] != solids[b.face.index()];
        let corners = facing_corners(mesh, a, b);
        if is_seam || corners.iter().all(|&(c, d)| !differ(layer, c, d)) {
            join_across(mesh, &mut groups, a, b);
        }
        if is_seam {
            soft.extend(corners.iter().flat_map(|&(c, d)| [c, d]));
            count += 1;
        }
    }
    let mut is_soft = vec![false; mesh.corners().len()];
    for corner in soft {
        is_soft[groups.find(corner as u32) as usize] = true;
    }
    let mut sums = vec![DVec3::ZERO; mesh.corners().len()];
    let mut touched = Vec::new();
    for face in mesh.face_ids() {
        let area = vector_area(mesh, face);
        for corner in mesh.face_range(face) {
            let group = groups.find(corner as u32) as usize;
            if is_soft[group] {
                sums[group] += area * angle_at(mesh, face, corner);
                touched.push((corner, group));
            }
        }
    }
    let mut number = vec![NO_VALUE; mesh.corners().len()];
    for (corner, group) in touched {
        let normal = sums[group].normalize_or_zero();
        if normal == DVec3::ZERO {
            continue;
        }
        if number[group] == NO_VALUE {
            number[group] = layer.values.len() as u32;
            layer.values.push(normal);
        }
        layer.index[corner] = number[group];
    }
    Some((made, count))
}
