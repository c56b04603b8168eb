//! What single open patches contribute to the winding number.

use super::Verdict;
use crate::audit::Survey;
use crate::mesh::FaceId;
use crate::spatial::{Soup, Winding};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// The triangles of those patches whose faces must ask the others, by patch.
pub(super) struct OpenPatches<'m> {
    soups: FxHashMap<u32, Soup<'m>>,
}

/// Their winding numbers.
pub(super) struct OwnPatch<'s, 'm> {
    windings: FxHashMap<u32, Winding<'s, 'm>>,
}

impl<'m> OpenPatches<'m> {
    /// Finds them.
    pub fn of(survey: &Survey<'m>, verdicts: &[Verdict]) -> Self {
        let mut faces: FxHashMap<u32, Vec<FaceId>> = FxHashMap::default();
        for (triangle, verdict) in verdicts.iter().enumerate() {
            if *verdict == Verdict::AskTheOthers {
                let face = survey.soup().face(triangle);
                faces
                    .entry(survey.patches.of_face[face.index()])
                    .or_default();
            }
        }
        if !faces.is_empty() {
            for face in survey.mesh.face_ids().filter(|&f| !survey.has_no_area(f)) {
                if let Some(list) = faces.get_mut(&survey.patches.of_face[face.index()]) {
                    list.push(face);
                }
            }
        }
        let soup = |list: Vec<FaceId>| {
            Soup::of(survey.mesh, &list, |face| {
                survey.patches.reversed[face.index()]
            })
        };
        let soups = faces.into_iter().map(|(patch, list)| (patch, soup(list)));
        Self {
            soups: soups.collect(),
        }
    }

    /// What they wind round.
    pub fn windings(&self) -> OwnPatch<'_, 'm> {
        let each = self.soups.iter();
        OwnPatch {
            windings: each
                .map(|(&patch, soup)| (patch, Winding::of(soup)))
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
