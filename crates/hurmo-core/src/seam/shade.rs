//! Seams shaded softly: normals that go over from one side to the other.

use super::line::Seam;
use crate::measure::{corner_angle, vector_area};
use crate::mesh::Model;
use crate::topology::{Edges, UnionFind, join_across};
use glam::DVec3;

/// Two normals are the same from this cosine on: a degree, as files of few digits differ by less.
const SAME: f64 = 0.99985;

/// A model whose normals go over softly at the edges between faces of different solids, and how many
/// edges these are; `None` where it has no normals.
pub fn softened(model: &Model, solids: &[u32]) -> Option<(Model, usize)> {
    let mut made = model.clone();
    let layer = made.attributes.normals.as_mut()?;
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let seam = Seam::by(mesh, &edges, solids);
    let mut groups = UnionFind::new(mesh.corners().len());
    let at = |corner: usize| layer.at(corner).unwrap_or_default().normalize_or_zero();
    let mut soft = Vec::new();
    for edge in edges.ids() {
        let &[a, b] = edges.sides(edge) else { continue };
        let is_seam = solids[a.face.index()] != solids[b.face.index()];
        let ends = |side: crate::topology::Side| {
            [side.corner(), mesh.next_corner(side.face, side.corner())]
        };
        let ([p, q], [r, s]) = (ends(a), ends(b));
        let goes_over = [(p, s), (q, r)]
            .iter()
            .all(|&(c, d)| at(c).dot(at(d)) > SAME);
        if is_seam || goes_over {
            join_across(mesh, &mut groups, a, b);
        }
        if is_seam {
            soft.extend([p, q, r, s]);
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
        let range = mesh.face_range(face);
        for corner in range.clone() {
            let group = groups.find(corner as u32) as usize;
            if is_soft[group] {
                let before = if corner == range.start {
                    range.end - 1
                } else {
                    corner - 1
                };
                let ends = [before, mesh.next_corner(face, corner)];
                let ends = ends.map(|c| mesh.position(mesh.corners()[c]));
                let here = mesh.position(mesh.corners()[corner]);
                sums[group] += area * corner_angle(here, ends);
                touched.push((corner, group));
            }
        }
    }
    let mut number = vec![crate::mesh::NO_VALUE; mesh.corners().len()];
    for (corner, group) in touched {
        let normal = sums[group].normalize_or_zero();
        if normal == DVec3::ZERO {
            continue;
        }
        if number[group] == crate::mesh::NO_VALUE {
            number[group] = layer.values.len() as u32;
            layer.values.push(normal);
        }
        layer.index[corner] = number[group];
    }
    Some((made, seam.edges.len()))
}
