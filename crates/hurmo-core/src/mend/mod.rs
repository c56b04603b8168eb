//! Mending: clearing faults by kind, in an order in which no cure undoes the one before it.
//!
//! ```text
//! weld ─▶ zero-area faces ─▶ lamina faces ─▶ non-manifold edges ─▶ pinched vertices
//!      ─▶ facing ─▶ n-gons ─▶ stray edges ─▶ stray vertices
//! ```
//!
//! Welding comes first because every other fault is a matter of which vertices are shared. It
//! can collapse faces, so those go next; what is then left on the same vertices is a lamina
//! face, and each of those makes its edges non-manifold. Only when edges have two sides is it
//! clear which way faces should turn. Dropped faces and line
//! elements leave vertices behind: those go last.
//!
//! To add a cure: write a file here with one [`Cure`] and name it in [`CURES`].

mod facing;
mod lamina;
mod ngons;
mod scraps;
mod stray;
mod stray_edges;
mod take_apart;
mod weld;
mod zero_area;

pub use scraps::drop_floating_parts;

use crate::mesh::Model;
use crate::progress::Observer;
use crate::triangulate::Which;
use serde::Serialize;

/// One kind of repair.
pub struct Cure {
    /// The checks whose findings it clears.
    pub clears: &'static [&'static str],
    /// Whether it is done when nothing is named: it changes no shape and loses nothing.
    pub safe: bool,
    apply: fn(&mut Model, &Options) -> Result<Step, MendError>,
}

/// All cures, in the order in which they are done.
pub const CURES: &[Cure] = &[
    weld::CURE,
    zero_area::CURE,
    lamina::CURE,
    take_apart::EDGES,
    take_apart::VERTICES,
    facing::CURE,
    ngons::CURE,
    stray_edges::CURE,
    stray::CURE,
];

/// The checks that some cure clears, in the order of the cures.
pub fn curable() -> impl Iterator<Item = &'static str> {
    CURES.iter().flat_map(|cure| cure.clears).copied()
}

/// What to mend.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// Names of checks to clear; empty: all that is safe.
    pub clear: Vec<String>,
    /// Weld vertices up to this far apart, in model units, rather than equal ones only.
    pub near: Option<f64>,
    /// Weld even where that collapses faces.
    pub force: bool,
    /// Cut polygons into triangles; `None`: only n-gons, and only when `ngons` is named.
    pub triangulate: Option<Which>,
    /// When sheets are taken apart: move the new vertices this far into their own sheet, in
    /// model units, so that formats without shared vertices don't join them again.
    pub gap: f64,
}

impl Options {
    fn wants(&self, cure: &Cure) -> bool {
        let named = |check: &&str| self.clear.iter().any(|name| name == check);
        match self.clear.is_empty() {
            true => cure.safe,
            false => cure.clears.iter().any(named),
        }
    }
}

/// What one cure did.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Step {
    /// How many elements it changed or took away, by what was done.
    done: Vec<(&'static str, usize)>,
    /// What it left, and why.
    left: Option<(usize, &'static str)>,
}

impl Step {
    fn did(what: &'static str, count: usize) -> Self {
        Self {
            done: vec![(what, count)],
            left: None,
        }
    }
}

/// One thing that was changed, or left with a reason.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Change {
    /// What was done: "vertices welded".
    pub what: String,
    /// To how many.
    pub count: usize,
}

/// A mended model.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The model.
    pub model: Model,
    /// What was done, in order; nothing that was done to none.
    pub changes: Vec<Change>,
    /// What was left alone, with the reason.
    pub left: Vec<Change>,
}

/// Why a model was not mended.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum MendError {
    /// A weld would collapse faces.
    #[error(
        "a weld at {distance} would collapse {faces} faces; the largest safe distance is {safe}"
    )]
    WeldTooFar {
        /// The distance asked for.
        distance: f64,
        /// How many faces would lose a side or more.
        faces: usize,
        /// The largest distance found that collapses nothing.
        safe: f64,
    },
}

/// Mends a model.
///
/// # Errors
/// When a weld within a distance would collapse faces and that isn't forced.
pub fn mend(
    model: &Model,
    options: &Options,
    observer: &dyn Observer,
) -> Result<Outcome, MendError> {
    let mut outcome = Outcome {
        model: model.clone(),
        changes: Vec::new(),
        left: Vec::new(),
    };
    let wanted: Vec<&Cure> = CURES
        .iter()
        .filter(|cure| {
            options.wants(cure)
                || (options.triangulate.is_some() && cure.clears == ngons::CURE.clears)
        })
        .collect();
    observer.begin("mending", wanted.len() as u64);
    for (i, cure) in wanted.into_iter().enumerate() {
        observer.at(i as u64);
        let step = (cure.apply)(&mut outcome.model, options)?;
        let done = step.done.into_iter().filter(|(_, count)| *count > 0);
        outcome.changes.extend(done.map(|(what, count)| Change {
            what: what.to_string(),
            count,
        }));
        outcome.left.extend(step.left.map(|(count, reason)| Change {
            what: reason.to_string(),
            count,
        }));
    }
    Ok(outcome)
}
