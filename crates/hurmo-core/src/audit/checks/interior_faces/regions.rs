//! Regions: faces whose two sides are alike.

use crate::audit::Survey;
use crate::mesh::FaceId;
use rayon::prelude::*;

/// Faces that hang together without touching another surface or having an open edge.
///
/// Where every patch of the model is closed, the winding number is the same all over each side
/// of such a region. Else it changes smoothly, and regions are kept small.
pub(super) struct Regions {
    /// By face: the region, or [`ALONE`].
    of_face: Vec<u32>,
    /// By region: some faces of it, far apart.
    speakers: Vec<[FaceId; 3]>,
    /// Whether every patch of the model is closed.
    pub all_closed: bool,
}

/// How many faces a region has at most where something is open.
const SMALL: usize = 64;

const ALONE: u32 = u32::MAX;

impl Regions {
    pub fn of(survey: &Survey<'_>) -> Self {
        let patches = &survey.patches;
        let mut all = 0..patches.closed.len();
        let closed = all.all(|p| patches.closed[p] && !patches.one_sided[p]);
        let most = if closed { usize::MAX } else { SMALL };
        let contacts = survey.contacts().expect("prepared, as asked for");
        let edges_of = |face: FaceId| {
            let corners = survey.mesh.face_range(face);
            corners.filter_map(|corner| survey.edges.at_corner(corner))
        };
        let speaks = |f: FaceId| {
            !contacts.touches(f)
                && !survey.has_no_area(f)
                && edges_of(f).all(|edge| survey.edges.sides(edge).len() == 2)
        };
        let mut regions = Self {
            of_face: vec![ALONE; survey.mesh.face_count()],
            speakers: Vec::new(),
            all_closed: closed,
        };
        if closed {
            regions.take_untouched_patches(survey, speaks);
        }
        let mut members = Vec::new();
        for seed in survey.mesh.face_ids().filter(|&f| speaks(f)) {
            if regions.of_face[seed.index()] != ALONE {
                continue;
            }
            let region = regions.speakers.len() as u32;
            regions.of_face[seed.index()] = region;
            members.clear();
            members.push(seed);
            let mut next = 0;
            while let Some(&face) = members.get(next) {
                next += 1;
                for side in edges_of(face).flat_map(|edge| survey.edges.sides(edge)) {
                    let slot = &mut regions.of_face[side.face.index()];
                    if *slot == ALONE && members.len() < most && speaks(side.face) {
                        *slot = region;
                        members.push(side.face);
                    }
                }
            }
            let last = members.len() - 1;
            regions
                .speakers
                .push([seed, members[last / 2], members[last]]);
        }
        if closed {
            // One is enough.
            regions
                .speakers
                .iter_mut()
                .for_each(|speakers| *speakers = [speakers[0]; 3]);
        }
        regions
    }

    /// Makes a region of every patch whose faces all speak.
    fn take_untouched_patches(
        &mut self,
        survey: &Survey<'_>,
        speaks: impl Fn(FaceId) -> bool + Sync,
    ) {
        let of_face = &survey.patches.of_face;
        let silent: Vec<usize> = (0..of_face.len())
            .into_par_iter()
            .with_min_len(4096)
            .filter(|&face| !speaks(FaceId::new(face)))
            .collect();
        let mut region = vec![None; survey.patches.closed.len()];
        for face in silent {
            region[of_face[face] as usize] = Some(ALONE);
        }
        for (face, &patch) in of_face.iter().enumerate() {
            let region = region[patch as usize].get_or_insert_with(|| {
                self.speakers.push([FaceId::new(face); 3]);
                self.speakers.len() as u32 - 1
            });
            self.of_face[face] = *region;
        }
    }

    /// Whether every face is in a region for which `told` says this.
    pub fn all(&self, told: impl Fn(usize) -> bool) -> bool {
        let told: Vec<bool> = (0..self.speakers.len()).map(told).collect();
        let mut faces = self.of_face.iter();
        faces.all(|&region| region != ALONE && told[region as usize])
    }

    /// How many times sides are asked for, of so many triangles, if all regions agree.
    pub fn queries(&self, triangles: usize) -> usize {
        let alone = self
            .of_face
            .iter()
            .filter(|&&region| region == ALONE)
            .count();
        3 * self.speakers.len() + alone.min(triangles)
    }

    /// The region of a face that lies in one.
    pub fn at(&self, face: FaceId) -> Option<usize> {
        let region = self.of_face[face.index()];
        (region != ALONE).then_some(region as usize)
    }

    /// By region: triangles of its speakers.
    pub fn speakers(&self, survey: &Survey<'_>) -> Vec<Vec<usize>> {
        let mut triangles = vec![Vec::with_capacity(3); self.speakers.len()];
        for triangle in 0..survey.soup().len() {
            let face = survey.soup().face(triangle);
            if let Some(region) = self.at(face)
                && self.speakers[region].contains(&face)
            {
                triangles[region].push(triangle);
            }
        }
        triangles
    }
}
