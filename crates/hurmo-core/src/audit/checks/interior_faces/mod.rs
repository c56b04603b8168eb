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
//! Connected faces that touch nothing are decided by one of them where nothing is open or
//! what is open is far away, else by three of up to 64, if those three agree clearly.
//!
//! Where every patch is closed, rays count what the winding number is, which is cheaper; so
//! they do where caps close what is open, and the caps' part is then taken off again.
//!
//! Cost: at worst two queries of about log n a face.

mod closed_patches;
mod lower;
mod own_patch;
mod regions;

use crate::audit::Level::{Block, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::FaceId;
use crate::parallel::{all, mapped, mapped_of};
use crate::spatial::{MOST_WORK, TriangleHierarchy};
use glam::DVec3;
use lower::Lower;
use own_patch::OpenPatches;
use regions::Regions;
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
    remedy: Remedy::MendByName,
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

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let interior = interior(analysis)?;
    let bad = analysis.mesh.face_ids().filter(|f| interior[f.index()]);
    Ok(Found::faces(analysis, search.limit, bad))
}

/// Whether no face meets another, and all have an area: one that closes has solid on one side only.
fn is_embedded(analysis: &MeshAnalysis<'_>) -> bool {
    let contacts = analysis.contacts().expect("prepared, as asked for");
    all(analysis.mesh.face_count(), 4096, |face| {
        let face = FaceId::new(face);
        !contacts.touches(face) && !analysis.has_no_area(face)
    })
}

/// By face: whether it is buried.
pub(crate) fn interior(analysis: &MeshAnalysis<'_>) -> Result<Vec<bool>, NotRun> {
    let hierarchy = analysis.hierarchy();
    let patches = &analysis.patches;
    let all_closed = (0..patches.closed.len()).all(|p| patches.closed[p] && !patches.one_sided[p]);
    if all_closed && patches.closed.len() == 1 && is_embedded(analysis) {
        return Ok(vec![false; analysis.mesh.face_count()]);
    }
    let caps = match all_closed {
        true => None,
        false => analysis.caps().map(TriangleHierarchy::whole),
    };
    let sides = Lower::of(analysis, all_closed, caps.as_ref());
    let asked = asked(analysis, hierarchy);
    let count = asked.iter().filter(|&&asked| asked).count();
    let regions = match all_closed {
        true => Regions::of_closed(analysis),
        false => Regions::of_open(analysis, sides.capped()),
    };
    if sides.mean_cost() * regions.queries(count) as f64 > MOST_WORK {
        return Err(NotRun::too_long());
    }
    let of_region: Vec<Option<bool>> = mapped_of(&regions.speakers(analysis), 1, |speakers| {
        agreed(speakers.iter().map(|&triangle| sides.at(triangle)))
    });
    if regions.all(|region| of_region[region] == Some(false)) {
        return Ok(vec![false; analysis.mesh.face_count()]);
    }
    let verdicts: Vec<Verdict> = mapped(hierarchy.len(), 256, |triangle| {
        let face = hierarchy.face(triangle);
        if !asked[triangle] {
            return Verdict::Outer;
        }
        if let Some(buried) = regions.at(face).and_then(|region| of_region[region]) {
            return Verdict::from(buried);
        }
        let lower = sides.at(triangle);
        match patches.closed[patches.of_face[face.index()] as usize] {
            true => Verdict::from(lower >= SOLID),
            false if lower >= SURELY_SOLID => Verdict::Buried,
            false if lower >= PERHAPS_SOLID => Verdict::AskTheOthers,
            false => Verdict::Outer,
        }
    });
    let mut buried_area = vec![0.0; analysis.mesh.face_count()];
    let mut area = vec![0.0; analysis.mesh.face_count()];
    let open = OpenPatches::of(analysis, &verdicts);
    let own = open.windings();
    let buried: Vec<bool> = mapped(hierarchy.len(), 1, |triangle| match verdicts[triangle] {
        Verdict::Buried => true,
        Verdict::Outer => false,
        Verdict::AskTheOthers => {
            let (middle, _) = hierarchy.middle_and_offset(triangle);
            let all = sides.winding().both_sides(middle, DVec3::ZERO).front;
            let face = hierarchy.face(triangle);
            all - own.at(patches.of_face[face.index()], middle) >= SOLID_BESIDES
        }
    });
    // A polygon is buried when most of its area is.
    for (triangle, &is_buried) in buried.iter().enumerate().filter(|(i, _)| asked[*i]) {
        let [a, b, c] = hierarchy.corners(triangle);
        let size = (b - a).cross(c - a).length();
        let face = hierarchy.face(triangle).index();
        area[face] += size;
        buried_area[face] += if is_buried { size } else { 0.0 };
    }
    let mostly = buried_area
        .iter()
        .zip(area)
        .map(|(&part, whole)| part * 2.0 > whole);
    Ok(mostly.collect())
}

/// A polygon's largest triangles, up to this many, stand for all of it.
const MOST_ASKED: usize = 64;

/// Which triangles are asked: all, but of polygons of very many the largest.
fn asked(analysis: &MeshAnalysis<'_>, hierarchy: &TriangleHierarchy<'_>) -> Vec<bool> {
    let mut asked = vec![true; hierarchy.len()];
    let mesh = analysis.mesh;
    let is_large = |face: FaceId| mesh.face(face).len() > MOST_ASKED + 2;
    if mesh.face_ids().all(|face| !is_large(face)) {
        return asked;
    }
    let mut of_face: FxHashMap<FaceId, Vec<usize>> = FxHashMap::default();
    for triangle in (0..hierarchy.len()).filter(|&triangle| is_large(hierarchy.face(triangle))) {
        of_face
            .entry(hierarchy.face(triangle))
            .or_default()
            .push(triangle);
    }
    let size = |triangle: &usize| {
        let [a, b, c] = hierarchy.corners(*triangle);
        (b - a).cross(c - a).length_squared()
    };
    for mut triangles in of_face.into_values() {
        triangles.sort_by(|a, b| size(b).total_cmp(&size(a)));
        triangles
            .iter()
            .skip(MOST_ASKED)
            .for_each(|&small| asked[small] = false);
    }
    asked
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
