//! Regions: faces whose two sides are alike.

use super::CLEARLY_OUT;
use crate::audit::MeshAnalysis;
use crate::geometry::Bounds;
use crate::mesh::{EdgeId, FaceId};
use crate::parallel::{change_each, chosen, for_each, mapped};
use crate::spatial::Capped;
use crate::topology::SharedSets;

/// Faces that hang together without touching another surface or having an open edge.
///
/// Where every patch of the model is closed, the winding number is the same all over each side
/// of such a region. Else it differs by what the caps of the open edges wind, which changes
/// smoothly: regions are kept small, but those far from every cap are put together again.
pub(super) struct Regions {
    /// By face: the region, or [`ALONE`].
    of_face: Vec<u32>,
    /// By region: some faces of it, far apart.
    speakers: Vec<[FaceId; 3]>,
}

/// How many faces a region has at most near what is open.
const SMALL: usize = 64;
/// Caps that wind less than this all over a region are far from it: less than would make its
/// speakers unclear.
const FAR: f64 = CLEARLY_OUT / 2.0;

const ALONE: u32 = u32::MAX;

/// Whether a face may speak for others: it touches nothing, and ends nowhere.
fn speaks(analysis: &MeshAnalysis<'_>, face: FaceId) -> bool {
    let contacts = analysis.contacts().expect("prepared, as asked for");
    let mut corners = analysis.mesh.face_range(face);
    !contacts.touches(face)
        && !analysis.has_no_area(face)
        && corners.all(|corner| {
            let edge = analysis.edges.at_corner(corner);
            edge.is_none_or(|edge| analysis.edges.sides(edge).len() == 2)
        })
}

impl Regions {
    /// Of a model whose patches are all closed.
    pub fn of_closed(analysis: &MeshAnalysis<'_>) -> Self {
        let mut regions = Self {
            of_face: vec![ALONE; analysis.mesh.face_count()],
            speakers: Vec::new(),
        };
        regions.take_untouched_patches(analysis);
        regions.grow(analysis, usize::MAX, |members| {
            // One is enough.
            [members[0]; 3]
        });
        regions
    }

    /// Of a model in which something is open, and perhaps known to be closed by caps.
    pub fn of_open(analysis: &MeshAnalysis<'_>, capped: &Capped<'_, '_>) -> Self {
        let mut regions = Self {
            of_face: vec![ALONE; analysis.mesh.face_count()],
            speakers: Vec::new(),
        };
        let mut members_of: Vec<FaceId> = Vec::with_capacity(analysis.mesh.face_count());
        let mut starts = vec![0];
        regions.grow(analysis, SMALL, |members| {
            members_of.extend(members);
            starts.push(members_of.len());
            let last = members.len() - 1;
            [members[0], members[last / 2], members[last]]
        });
        let is_far: Vec<bool> = mapped(starts.len() - 1, 64, |run| {
            let faces = &members_of[starts[run]..starts[run + 1]];
            let points = faces.iter().flat_map(|&f| analysis.mesh.face_points(f));
            let Some(bounds) = Bounds::of(points) else {
                return false;
            };
            capped.caps_wind_less(bounds.middle(), bounds.diagonal() / 2.0, FAR)
        });
        regions.join_far(analysis, &is_far);
        regions
    }

    /// Puts together regions that lie side by side and are far from every cap.
    fn join_far(&mut self, analysis: &MeshAnalysis<'_>, is_far: &[bool]) {
        let sets = SharedSets::new(is_far.len());
        for_each(analysis.edges.len(), 4096, |edge| {
            let &[a, b] = analysis.edges.sides(EdgeId::new(edge)) else {
                return;
            };
            let [a, b] = [a, b].map(|side| self.of_face[side.face.index()]);
            let far = |region: u32| region != ALONE && is_far[region as usize];
            if a != b && far(a) && far(b) {
                sets.join(a, b);
            }
        });
        let roots = sets.roots();
        let mut number = vec![ALONE; roots.len()];
        let mut speakers = Vec::new();
        for (region, &root) in roots.iter().enumerate() {
            if root as usize == region {
                number[region] = speakers.len() as u32;
                speakers.push(match is_far[region] {
                    true => [self.speakers[region][0]; 3],
                    false => self.speakers[region],
                });
            }
        }
        self.speakers = speakers;
        change_each(&mut self.of_face, 4096, |_, region| {
            if *region != ALONE {
                *region = number[roots[*region as usize] as usize];
            }
        });
    }

    /// Gathers faces that are in no region yet into regions of at most this many, each spoken for
    /// by those that `speakers` picks out of its members.
    fn grow(
        &mut self,
        analysis: &MeshAnalysis<'_>,
        most: usize,
        mut speakers: impl FnMut(&[FaceId]) -> [FaceId; 3],
    ) {
        let edges_of = |face: FaceId| {
            let corners = analysis.mesh.face_range(face);
            corners.filter_map(|corner| analysis.edges.at_corner(corner))
        };
        let mut members = Vec::new();
        for seed in analysis.mesh.face_ids() {
            if self.of_face[seed.index()] != ALONE || !speaks(analysis, seed) {
                continue;
            }
            let region = self.speakers.len() as u32;
            self.of_face[seed.index()] = region;
            members.clear();
            members.push(seed);
            let mut next = 0;
            while let Some(&face) = members.get(next) {
                next += 1;
                for side in edges_of(face).flat_map(|edge| analysis.edges.sides(edge)) {
                    let slot = &mut self.of_face[side.face.index()];
                    if *slot == ALONE && members.len() < most && speaks(analysis, side.face) {
                        *slot = region;
                        members.push(side.face);
                    }
                }
            }
            self.speakers.push(speakers(&members));
        }
    }

    /// Makes a region of every patch whose faces all speak.
    fn take_untouched_patches(&mut self, analysis: &MeshAnalysis<'_>) {
        let of_face = &analysis.patches.of_face;
        let silent: Vec<usize> = chosen(of_face.len(), 4096, |face| {
            (!speaks(analysis, FaceId::new(face))).then_some(face)
        });
        let mut region = vec![None; analysis.patches.closed.len()];
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

    /// Whether every face is in a region for which `holds` is true.
    pub fn all(&self, holds: impl Fn(usize) -> bool) -> bool {
        let holds: Vec<bool> = (0..self.speakers.len()).map(holds).collect();
        let mut faces = self.of_face.iter();
        faces.all(|&region| region != ALONE && holds[region as usize])
    }

    /// How many times sides are asked for, of this many triangles, if all regions agree.
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
    pub fn speakers(&self, analysis: &MeshAnalysis<'_>) -> Vec<Vec<usize>> {
        let mut triangles = vec![Vec::with_capacity(3); self.speakers.len()];
        for triangle in 0..analysis.hierarchy().len() {
            let face = analysis.hierarchy().face(triangle);
            if let Some(region) = self.at(face)
                && self.speakers[region].contains(&face)
            {
                triangles[region].push(triangle);
            }
        }
        triangles
    }
}
