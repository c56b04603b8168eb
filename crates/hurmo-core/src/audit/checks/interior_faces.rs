//! Interior faces: buried in the solid.
//!
//! The winding number (Jacobson, Kavan & Sorkine-Hornung 2013; by tree, Barill et al. 2018) is
//! taken just off both sides of every face, each patch turned as it should be. A face of a
//! closed patch is buried when there is solid, that is at least ½, on both sides. So the walls
//! of a hollow are not buried (0 on one side), nor are doubled skins (0 and 2), and the faces of
//! a part pushed into another are (1 and 2).
//!
//! An open patch winds about ½ round its own faces, once with each sign, so a sheet left in a
//! solid has ½ on one side. Where its lower side has more than a little, it is buried if all
//! other patches without it wind round it.
//!
//! Faces that hang together and touch nothing are told by one of them where nothing is open,
//! else by three of up to 64, if those three agree clearly.
//!
//! Cost: at worst a query of about log n a face. An
//! open patch that must ask costs its size for each of its doubtful faces.

use crate::audit::Level::{Block, Warn};
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};
use crate::mesh::FaceId;
use crate::spatial::{Sides, Soup, Winding, solid_angle};
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// The winding number from which on a side of a closed patch is solid: half way between out
/// and in.
const SOLID: f64 = 0.5;
/// What an open patch's lower side must have, so that it is buried whatever the others say.
const SURELY_SOLID: f64 = 0.75;
/// What its lower side must have, so that the others are asked.
const PERHAPS_SOLID: f64 = 0.15;
/// What the others must wind round it then.
const SOLID_BESIDES: f64 = 0.6;
/// Up to here, and from here on, the speakers of a region speak for all of it.
const CLEARLY_OUT: f64 = 0.05;
const CLEARLY_IN: f64 = 0.9;

pub(super) const CHECK: Check = Check {
    name: "interior-faces",
    counts: "faces with solid on both sides",
    harm: "they cost and never show; baked light bleeds, booleans and printers take them for walls",
    cure: "a new skin, or deleting them by hand",
    drawing: r"
     _________________
    |        !        |
    |  solid ! solid  |    a wall inside that
    |        !        |    nobody will ever see
    |________!________|",
    levels: Levels::new(Warn, Block, Warn, Warn),
    needs: Needs::Contacts,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let interior = interior(survey);
    let bad = survey.mesh.face_ids().filter(|f| interior[f.index()]);
    Ok(Found::faces(survey, search.limit, bad))
}

/// By face: whether it is buried.
fn interior(survey: &Survey<'_>) -> Vec<bool> {
    let soup = survey.soup();
    let winding = Winding::of(soup);
    let patches = &survey.patches;
    let sides = |triangle: usize| winding.sides_of(triangle);
    let regions = Regions::of(survey);
    let of_region: Vec<Option<bool>> = regions
        .speakers(survey)
        .par_iter()
        .map(|speakers| agreed(speakers.iter().map(|&triangle| lower(sides(triangle)))))
        .collect();
    let verdicts: Vec<Verdict> = (0..soup.len())
        .into_par_iter()
        .with_min_len(256)
        .map(|triangle| {
            let face = soup.face(triangle);
            if let Some(buried) = regions.at(face).and_then(|region| of_region[region]) {
                return Verdict::from(buried);
            }
            let lower = lower(sides(triangle));
            match patches.closed[patches.of_face[face.index()] as usize] {
                true => Verdict::from(lower >= SOLID),
                false if lower >= SURELY_SOLID => Verdict::Buried,
                false if lower >= PERHAPS_SOLID => Verdict::AskTheOthers,
                false => Verdict::Outer,
            }
        })
        .collect();
    let mut buried_area = vec![0.0; survey.mesh.face_count()];
    let mut area = vec![0.0; survey.mesh.face_count()];
    let without = OwnPatch::of(survey, &verdicts);
    let buried: Vec<bool> = (0..soup.len())
        .into_par_iter()
        .map(|triangle| match verdicts[triangle] {
            Verdict::Buried => true,
            Verdict::Outer => false,
            Verdict::AskTheOthers => {
                let [a, b, c] = soup.corners(triangle);
                let middle = (a + b + c) / 3.0;
                let all = winding.both_sides(middle, DVec3::ZERO).front;
                let face = soup.face(triangle);
                all - without.at(patches.of_face[face.index()], middle) >= SOLID_BESIDES
            }
        })
        .collect();
    // A polygon is buried when most of its area is.
    for (triangle, &is_buried) in buried.iter().enumerate() {
        let [a, b, c] = soup.corners(triangle);
        let size = (b - a).cross(c - a).length();
        let face = soup.face(triangle).index();
        area[face] += size;
        buried_area[face] += if is_buried { size } else { 0.0 };
    }
    buried_area
        .iter()
        .zip(area)
        .map(|(&part, whole)| part * 2.0 > whole)
        .collect()
}

/// The winding number on the side that has less of it.
fn lower(sides: Sides) -> f64 {
    sides.front.min(sides.back)
}

/// What all speakers of a region say clearly.
fn agreed(mut lowers: impl Iterator<Item = f64> + Clone) -> Option<bool> {
    if lowers.clone().all(|lower| lower <= CLEARLY_OUT) {
        Some(false)
    } else if lowers.all(|lower| lower >= CLEARLY_IN) {
        Some(true)
    } else {
        None
    }
}

#[derive(Clone, Copy, PartialEq)]
enum Verdict {
    Buried,
    Outer,
    AskTheOthers,
}

impl From<bool> for Verdict {
    fn from(buried: bool) -> Self {
        match buried {
            true => Verdict::Buried,
            false => Verdict::Outer,
        }
    }
}

/// Faces that hang together without touching another surface or having an open edge.
///
/// Where every patch of the model is closed, the winding number is the same all over each side
/// of such a region. Else it changes smoothly, and regions are kept small.
struct Regions {
    /// By face: the region, or [`ALONE`].
    of_face: Vec<u32>,
    /// By region: some faces of it, far apart.
    speakers: Vec<[FaceId; 3]>,
}

/// How many faces a region has at most where something is open.
const SMALL: usize = 64;

const ALONE: u32 = u32::MAX;

impl Regions {
    fn of(survey: &Survey<'_>) -> Self {
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
        };
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

    /// The region of a face that lies in one.
    fn at(&self, face: FaceId) -> Option<usize> {
        let region = self.of_face[face.index()];
        (region != ALONE).then_some(region as usize)
    }

    /// By region: triangles of its speakers.
    fn speakers(&self, survey: &Survey<'_>) -> Vec<Vec<usize>> {
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

/// The winding numbers of single open patches.
struct OwnPatch<'m> {
    soups: FxHashMap<u32, Soup<'m>>,
}

impl<'m> OwnPatch<'m> {
    /// Those of the patches whose faces must ask the others.
    fn of(survey: &Survey<'m>, verdicts: &[Verdict]) -> Self {
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
    fn at(&self, patch: u32, point: DVec3) -> f64 {
        let soup = &self.soups[&patch];
        let angles = (0..soup.len()).map(|i| solid_angle(soup.corners(i), point));
        angles.sum::<f64>() / (4.0 * std::f64::consts::PI)
    }
}
