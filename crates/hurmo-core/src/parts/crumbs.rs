//! Crumbs of groups: a few faces in the wrong group, taken in by the group round them.

use crate::geometry::Bounds;
use crate::mesh::{FaceId, Model};
use crate::topology::{Edges, UnionFind};
use rustc_hash::FxHashMap;

/// Gives patches of one group, material and object whose bounds have a diagonal under a length those of the patch
/// with which they share the longest border, the smallest first; returns how many faces that concerns. A patch
/// without neighbours stays.
pub fn take_in_crumbs(model: &mut Model, under: f64) -> usize {
    if model.attributes.tags.is_empty() {
        return 0;
    }
    let mut patches = Patches::of(model);
    let mut order: Vec<usize> = (0..patches.list.len()).collect();
    order.sort_by(|&a, &b| {
        patches
            .across(a)
            .total_cmp(&patches.across(b))
            .then(a.cmp(&b))
    });
    for patch in order {
        // It may have taken in others, and be none any more.
        if patches.across(patch) < under {
            patches.give_away(patch);
        }
    }
    let mut changed = 0;
    for face in model.mesh.face_ids() {
        let tag = patches.tag_of(face);
        let own = &mut model.attributes.tags.of_face[face.index()];
        changed += usize::from(*own != tag);
        *own = tag;
    }
    changed
}

/// Faces of one tag that hang together.
struct Patch {
    tag: u32,
    bounds: Option<Bounds>,
    /// How long its borders with others are.
    borders: FxHashMap<u32, f64>,
}

/// All patches, some of them taken in by others.
struct Patches {
    list: Vec<Patch>,
    of_face: Vec<u32>,
    /// By patch: the one that has taken it in.
    taken_in: Vec<Option<u32>>,
}

impl Patches {
    fn of(model: &Model) -> Self {
        let (mesh, tags) = (&model.mesh, &model.attributes.tags.of_face);
        let edges = Edges::of(mesh);
        let pairs = || {
            edges.ids().filter_map(|edge| match edges.sides(edge) {
                [one, other] => Some((edge, [one.face, other.face])),
                _ => None,
            })
        };
        let mut sets = UnionFind::new(mesh.face_count());
        for (_, [one, other]) in pairs() {
            if tags[one.index()] == tags[other.index()] {
                sets.join(one.0, other.0);
            }
        }
        let mut numbers: FxHashMap<u32, u32> = FxHashMap::default();
        let mut list: Vec<Patch> = Vec::new();
        let mut of_face = Vec::with_capacity(mesh.face_count());
        for face in mesh.face_ids() {
            let number = *numbers.entry(sets.find(face.0)).or_insert_with(|| {
                list.push(Patch {
                    tag: tags[face.index()],
                    bounds: None,
                    borders: FxHashMap::default(),
                });
                list.len() as u32 - 1
            });
            of_face.push(number);
            for point in mesh.face_points(face) {
                let bounds = &mut list[number as usize].bounds;
                match bounds {
                    Some(bounds) => bounds.take_in(point),
                    None => *bounds = Bounds::of([point]),
                }
            }
        }
        for (edge, faces) in pairs() {
            let [one, other] = faces.map(|face| of_face[face.index()]);
            if one != other {
                let [a, b] = edges.ends(edge).map(|v| mesh.position(v));
                for [own, next] in [[one, other], [other, one]] {
                    *list[own as usize].borders.entry(next).or_default() += a.distance(b);
                }
            }
        }
        Self {
            taken_in: vec![None; list.len()],
            list,
            of_face,
        }
    }

    fn across(&self, patch: usize) -> f64 {
        let bounds = &self.list[patch].bounds;
        bounds.as_ref().map_or(0.0, Bounds::diagonal)
    }

    /// The patch that a patch is part of now.
    fn root(&self, mut patch: u32) -> u32 {
        while let Some(by) = self.taken_in[patch as usize] {
            patch = by;
        }
        patch
    }

    fn tag_of(&self, face: FaceId) -> u32 {
        let patch = self.root(self.of_face[face.index()]);
        self.list[patch as usize].tag
    }

    /// Lets the patch with the longest border take a patch in.
    fn give_away(&mut self, patch: usize) {
        let mut borders: FxHashMap<u32, f64> = FxHashMap::default();
        for (&other, length) in &self.list[patch].borders {
            *borders.entry(self.root(other)).or_default() += length;
        }
        borders.remove(&(patch as u32));
        let longest = borders
            .iter()
            .max_by(|a, b| a.1.total_cmp(b.1).then(b.0.cmp(a.0)));
        let Some((&by, _)) = longest else {
            return;
        };
        self.taken_in[patch] = Some(by);
        let bounds = self.list[patch].bounds;
        let taker = &mut self.list[by as usize];
        for (other, length) in borders {
            *taker.borders.entry(other).or_default() += length;
        }
        if let (Some(own), Some(more)) = (&mut taker.bounds, bounds) {
            own.take_in(more.min);
            own.take_in(more.max);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::Tag;
    use crate::shapes;

    #[test]
    fn crumbs_take_the_group_round_them_and_large_patches_stay() {
        let mut model = Model::from(shapes::grid(20, 20, 20.0, 20.0));
        let mesh = &model.mesh;
        // Left and right, with a crumb in each, one in a crumb, and one between both that is more on the left.
        let tag = |face| {
            let at = mesh.face_middle(face);
            match (at.x, at.y) {
                (4.0..6.0, 4.0..6.0) => 1,
                (14.0..17.0, 14.0..17.0) if at.x as i32 == 15 && at.y as i32 == 15 => 2,
                (14.0..17.0, 14.0..17.0) => 0,
                (8.0..11.0, 10.0..11.0) => 2,
                (..10.0, _) => 0,
                _ => 1,
            }
        };
        model.attributes.tags.of_face = mesh.face_ids().map(tag).collect();
        model.attributes.tags.table = vec![Tag::default(); 3];
        let clean = |face| u32::from(mesh.face_middle(face).x >= 10.0);
        let mut wanted: Vec<u32> = mesh.face_ids().map(clean).collect();
        for face in mesh.face_ids() {
            let at = mesh.face_middle(face);
            if (10.0..11.0).contains(&at.x) && (10.0..11.0).contains(&at.y) {
                wanted[face.index()] = 0;
            }
        }
        let mut none = model.clone();
        assert_eq!(take_in_crumbs(&mut none, 1.0), 0);
        let differ = |model: &Model| {
            let own = model.attributes.tags.of_face.iter().zip(&wanted);
            own.filter(|(own, wanted)| own != wanted).count()
        };
        let before = differ(&model);
        assert!(take_in_crumbs(&mut model, 6.0) >= before && before > 8);
        assert_eq!(differ(&model), 0);
    }
}
