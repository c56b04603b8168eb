//! What single open patches contribute to the winding number.

use super::Verdict;
use crate::audit::Survey;
use crate::mesh::FaceId;
use crate::spatial::{Soup, solid_angle};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// The winding numbers of single open patches.
pub(super) struct OwnPatch<'m> {
    soups: FxHashMap<u32, Soup<'m>>,
}

impl<'m> OwnPatch<'m> {
    /// Those of the patches whose faces must ask the others.
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
            Soup::of(survey.mesh, list.into_iter(), |face| {
                survey.patches.reversed[face.index()]
            })
        };
        let soups = faces.into_iter().map(|(patch, list)| (patch, soup(list)));
        Self {
            soups: soups.collect(),
        }
    }

    /// The winding number of one of them.
    pub fn at(&self, patch: u32, point: DVec3) -> f64 {
        let soup = &self.soups[&patch];
        let angles = (0..soup.len()).map(|i| solid_angle(soup.corners(i), point));
        angles.sum::<f64>() / (4.0 * std::f64::consts::PI)
    }
}
