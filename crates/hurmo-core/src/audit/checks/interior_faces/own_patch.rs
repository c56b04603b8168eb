//! What single open patches contribute to the winding number.

use super::Verdict;
use crate::audit::MeshAnalysis;
use crate::mesh::FaceId;
use crate::spatial::{TriangleHierarchy, Winding};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// The triangles of those patches whose faces must ask the others, by patch.
pub(super) struct OpenPatches<'m> {
    hierarchies: FxHashMap<u32, TriangleHierarchy<'m>>,
}

/// Their winding numbers.
pub(super) struct OwnPatch<'s, 'm> {
    windings: FxHashMap<u32, Winding<'s, 'm>>,
}

impl<'m> OpenPatches<'m> {
    /// Finds them.
    pub fn of(analysis: &MeshAnalysis<'m>, verdicts: &[Verdict]) -> Self {
        let mut faces: FxHashMap<u32, Vec<FaceId>> = FxHashMap::default();
        for (triangle, verdict) in verdicts.iter().enumerate() {
            if *verdict == Verdict::AskTheOthers {
                let face = analysis.hierarchy().face(triangle);
                faces
                    .entry(analysis.patches.of_face[face.index()])
                    .or_default();
            }
        }
        if !faces.is_empty() {
            for face in analysis
                .mesh
                .face_ids()
                .filter(|&f| !analysis.has_no_area(f))
            {
                if let Some(list) = faces.get_mut(&analysis.patches.of_face[face.index()]) {
                    list.push(face);
                }
            }
        }
        let hierarchy = |list: Vec<FaceId>| {
            TriangleHierarchy::of(analysis.mesh, &list, |face| {
                analysis.patches.reversed[face.index()]
            })
        };
        let hierarchies = faces
            .into_iter()
            .map(|(patch, list)| (patch, hierarchy(list)));
        Self {
            hierarchies: hierarchies.collect(),
        }
    }

    /// What they wind round.
    pub fn windings(&self) -> OwnPatch<'_, 'm> {
        let each = self.hierarchies.iter();
        OwnPatch {
            windings: each
                .map(|(&patch, hierarchy)| (patch, Winding::of(hierarchy)))
                .collect(),
        }
    }
}

impl OwnPatch<'_, '_> {
    /// The winding number of one patch alone.
    pub fn at(&self, patch: u32, point: DVec3) -> f64 {
        self.windings[&patch].both_sides(point, DVec3::ZERO).front
    }
}
