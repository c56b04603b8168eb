//! Local repair: the faces round a fault are cut out, and the opening is closed anew.
//!
//! ```text
//! faces at fault ─▶ grown by rings ─▶ grown on until the border is simple ─▶ cut out
//!                                         ─▶ closed as holes are ─▶ kept where its audit is better
//! ```
//!
//! It is for what no other cure reaches: folds, twisted strips, double skins, rings of broken
//! faces. A border is simple where it is made of loops that pass each vertex once, have one face
//! outside along each edge, and no edge without length; where it lies on an open edge of the model,
//! that edge stays open. Faces that hang together by edges are closed by one surface: one loop like a
//! hole, several by a surface between them. A place is left as it was where the faults asked about
//! do not become fewer there, or any other fault becomes more; then it is tried again, grown further.
//! Cost: three audits a try, and what the fills cost.

mod border;
mod faults;
mod region;

use crate::audit::{self, Audit, Brief, Elements, Level, Thresholds};
use crate::fill::over;
use crate::mesh::{FaceId, Model, Rebuild};
use crate::progress::{Cancelled, Observer};
use crate::topology::{Edges, FacesAt};
use faults::{Faults, Labels};
use glam::DVec3;
use region::Region;
use rustc_hash::FxHashSet;

/// The checks whose findings can be cut out: they are about faces, edges or vertices at a place.
pub const CHECKS: [&str; 10] = [
    "nonmanifold-edges",
    "pinched-vertices",
    "misoriented-edges",
    "lamina-faces",
    "zero-area-faces",
    "intersecting-faces",
    "interior-faces",
    "concave-faces",
    "non-planar-faces",
    "sliver-faces",
];

/// How often a place is tried, each time grown by a ring more.
const TRIES: usize = 3;

/// What to cut out.
#[derive(Clone, Debug)]
pub enum Where {
    /// The findings of these checks, of [`CHECKS`].
    Checks(Vec<String>),
    /// These faces.
    Faces(Vec<FaceId>),
}

/// What to cut out, and how wide.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct RepatchOptions {
    /// What.
    pub at: Where,
    /// How many rings of faces round it go, too; other numbers are tried where that fails.
    pub grow: usize,
    /// From where on something is a fault.
    pub thresholds: Thresholds,
}

impl RepatchOptions {
    /// These places, and a ring of faces round them.
    pub fn at(at: Where) -> Self {
        Self {
            at,
            grow: 1,
            thresholds: Thresholds::default(),
        }
    }
}

/// A place that was cut out and closed anew.
#[derive(Clone, Debug, PartialEq)]
pub struct Patched {
    /// The middle of what was cut out.
    pub at: DVec3,
    /// How many faces that were.
    pub removed: usize,
    /// How many new ones there are.
    pub added: usize,
    /// By how many rings it was grown.
    pub rings: usize,
    /// How many open edges within it the new faces span over.
    pub spanned: usize,
    /// By check, how many of its faults there were, and are.
    pub faults: Vec<(&'static str, usize, usize)>,
}

/// Why a place was left as it was.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
#[non_exhaustive]
pub enum LeftBecause {
    /// However far it grows, its border touches itself, or edges of three faces.
    #[error("no simple border lies near round it")]
    NoSimpleBorder,
    /// Little of the part would stay.
    #[error("it is most of its part")]
    MostOfItsPart,
    /// No face that stays has an edge in common with it.
    #[error("nothing round it is sound enough to hold on to")]
    NothingSoundRound,
    /// No surface fits a border along which sides change.
    #[error("the faces round it face opposite ways")]
    FacesOpposed,
    /// A fault would become more.
    #[error("closed anew it would have {is} {check}, not {was}")]
    Worse {
        /// The fault's check.
        check: &'static str,
        /// How many there are.
        was: usize,
        /// How many there would be.
        is: usize,
    },
    /// None of what was to be cleared would become less.
    #[error("closed anew it would be no better")]
    NoBetter,
}

/// A place that was left as it was.
#[derive(Clone, Debug, PartialEq)]
pub struct Left {
    /// Its middle.
    pub at: DVec3,
    /// How many faces would have been cut out.
    pub faces: usize,
    /// Why.
    pub reason: LeftBecause,
}

/// A repaired model.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct RepatchOutcome {
    /// The model.
    pub model: Model,
    /// What was done.
    pub patched: Vec<Patched>,
    /// What was left.
    pub left: Vec<Left>,
}

/// Cuts out and closes anew. Faces that are not cut out keep their order, their corners, and all that
/// they carry; new ones have the group and material of those beside them, and UVs where the border
/// crosses no seam.
///
/// # Errors
/// When the observer says to stop.
pub fn repatch(
    model: &Model,
    options: &RepatchOptions,
    observer: &dyn Observer,
) -> Result<RepatchOutcome, Cancelled> {
    let mut outcome = RepatchOutcome {
        model: model.clone(),
        patched: Vec::new(),
        left: Vec::new(),
    };
    let search = search(options);
    // Wider and wider, then narrower: a wide border may run through edges that can't be closed.
    let wider = options.grow..options.grow + TRIES;
    for rings in wider.chain((0..options.grow).rev()) {
        let audit = audit::audit(&outcome.model, &search, observer)?;
        let seeds = seeds(&outcome.model, &audit, &options.at);
        if seeds.is_empty() {
            outcome.left.clear();
            break;
        }
        let tried = Try {
            model: &outcome.model,
            audit: &audit,
            search: &search,
            options,
        };
        let (made, patched, left) = tried.run(&seeds, rings, observer)?;
        let is_done = matches!(options.at, Where::Faces(_)) && !patched.is_empty();
        outcome.left = left;
        outcome.patched.extend(patched);
        if let Some(made) = made {
            outcome.model = made;
        }
        if is_done || outcome.left.is_empty() {
            break;
        }
    }
    Ok(outcome)
}

/// What is looked for before and after: what is to be cleared, and what may not become more.
fn search(options: &RepatchOptions) -> audit::AuditOptions {
    let mut brief = Brief::general();
    brief.thresholds = options.thresholds.clone();
    for check in audit::CHECKS {
        brief.set_level(check.name, Level::Off);
    }
    let named: &[String] = match &options.at {
        Where::Checks(checks) => checks,
        Where::Faces(_) => &[],
    };
    let named = named.iter().map(String::as_str);
    for check in faults::NO_MORE.iter().copied().chain(named) {
        brief.set_level(check, Level::Warn);
    }
    audit::AuditOptions {
        brief,
        places: usize::MAX,
        ..audit::AuditOptions::default()
    }
}

/// The faces at fault, in groups that go together.
fn seeds(model: &Model, audit: &Audit, at: &Where) -> Vec<Vec<FaceId>> {
    let checks = match at {
        Where::Faces(faces) => return vec![faces.clone()],
        Where::Checks(checks) => checks,
    };
    let named = |check: &str| checks.iter().any(|name| name == check);
    let findings = audit.findings.iter().filter(|f| named(f.check));
    let places: Vec<&audit::Place> = findings.flat_map(|f| &f.found.places).collect();
    if places.is_empty() {
        return Vec::new();
    }
    let edges = Edges::of(&model.mesh);
    let faces_at = FacesAt::of(&model.mesh);
    let faces = |place: &audit::Place| -> Vec<FaceId> {
        match &place.elements {
            Elements::Faces(faces) => faces.clone(),
            Elements::Edges(list) => {
                let found = list.iter().filter_map(|&[a, b]| edges.between(a, b));
                let sides = found.flat_map(|edge| edges.sides(edge));
                sides.map(|side| side.face).collect()
            }
            Elements::Vertices(list) => {
                let round = list.iter().flat_map(|&v| faces_at.of_vertex(v));
                round.copied().collect()
            }
            Elements::Parts(_) | Elements::Named(_) | Elements::Model => Vec::new(),
        }
    };
    let groups = places.into_iter().map(faces);
    groups.filter(|group| !group.is_empty()).collect()
}

/// One try at all places.
struct Try<'a> {
    model: &'a Model,
    audit: &'a Audit,
    search: &'a audit::AuditOptions,
    options: &'a RepatchOptions,
}

/// What a try made, if anything; what it closed anew, and what it left.
type Tried = (Option<Model>, Vec<Patched>, Vec<Left>);

impl Try<'_> {
    fn run(
        &self,
        seeds: &[Vec<FaceId>],
        rings: usize,
        observer: &dyn Observer,
    ) -> Result<Tried, Cancelled> {
        let (mut regions, mut left) = region::grown(&self.model.mesh, seeds, rings);
        let at_fault = faces_at_fault(self.audit);
        while !regions.is_empty() {
            let before = Faults::by_region(self.model, self.audit, &regions);
            let made = self.closed(&regions, observer);
            let audit =
                audit::audit_again(&made.model, (self.model, self.audit), self.search, observer)?;
            let was_at_fault = |check: &str, face: FaceId| {
                let before = made.from.get(face.index());
                before.is_some_and(|&face| at_fault.contains(&(check, face)))
            };
            let labels = Labels {
                of_face: &made.labels,
                count: regions.len(),
                was_at_fault: &was_at_fault,
            };
            let after = Faults::by_label(&made.model, &audit, &labels);
            let verdicts: Vec<Result<(), LeftBecause>> = (0..regions.len())
                .map(|i| before.is_cured_by(&after, i, &self.options.at))
                .collect();
            if verdicts.iter().all(Result::is_ok) {
                let patched = regions.iter().enumerate().map(|(i, region)| Patched {
                    at: region.middle(&self.model.mesh),
                    removed: region.faces.len(),
                    added: made.labels.iter().filter(|&&l| l == i as u32).count(),
                    rings: region.rings,
                    spanned: region.spanned,
                    faults: before.beside(&after, i),
                });
                return Ok((Some(made.model), patched.collect(), left));
            }
            let mut kept = Vec::new();
            for (region, verdict) in regions.into_iter().zip(verdicts) {
                match verdict {
                    Ok(()) => kept.push(region),
                    Err(reason) => left.push(region.left(&self.model.mesh, reason)),
                }
            }
            regions = kept;
        }
        Ok((None, Vec::new(), left))
    }

    /// The model with all regions closed anew.
    fn closed(&self, regions: &[Region], observer: &dyn Observer) -> Made {
        let mesh = &self.model.mesh;
        let mut goes = vec![false; mesh.face_count()];
        for face in regions.iter().flat_map(|region| &region.faces) {
            goes[face.index()] = true;
        }
        let mut rebuild = Rebuild::new(self.model);
        let mut name = vec![FaceId(u32::MAX); mesh.face_count()];
        let mut from = Vec::new();
        for face in mesh.face_ids().filter(|face| !goes[face.index()]) {
            name[face.index()] = FaceId::new(from.len());
            from.push(face);
            rebuild.keep(face);
        }
        let cut = rebuild.finish();
        let renamed = |opening: &over::Opening| opening.renamed(|face| name[face.index()]);
        let all = regions.iter().enumerate();
        let (of_region, openings): (Vec<u32>, Vec<over::Opening>) = all
            .flat_map(|(i, region)| region.openings.iter().map(move |o| (i as u32, o)))
            .map(|(i, opening)| (i, renamed(opening)))
            .unzip();
        let (mut model, filled) = over::over(&cut, &openings, observer);
        let mut labels = vec![faults::NONE; cut.mesh.face_count()];
        for (region, filled) in of_region.into_iter().zip(&filled) {
            labels.extend(std::iter::repeat_n(region, filled.faces));
        }
        model.drop_what_lost_its_faces(self.model);
        Made {
            model,
            labels,
            from,
        }
    }
}

/// A model with places closed anew.
struct Made {
    model: Model,
    /// For every face, the region that it closes.
    labels: Vec<u32>,
    /// For every face that is not new, which it was.
    from: Vec<FaceId>,
}

/// The faces that checks name.
fn faces_at_fault(audit: &Audit) -> FxHashSet<(&str, FaceId)> {
    let all = audit.findings.iter().flat_map(|finding| {
        let places = finding.found.places.iter();
        let faces = places.flat_map(|place| match &place.elements {
            Elements::Faces(faces) => &faces[..],
            _ => &[],
        });
        faces.map(|&face| (finding.check, face))
    });
    all.collect()
}

#[cfg(test)]
mod tests;
