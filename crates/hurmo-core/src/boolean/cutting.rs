//! Faces cut where they meet, what is known of the patches between, and what is made of them.

use super::assemble::assemble;
use super::fragments::{All, Fragments};
use super::patches::{Patches, patches};
use super::rounds::Resolved;
use super::windings::{self, Sides};
use super::{BooleanError, Filled, Relations, Rule, Tally};
use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::spatial::Border;
use crate::topology::Edges;
use glam::DVec3;

/// Faces cut where they meet, and what is known of the patches between.
pub(super) struct Cut<'c> {
    pub all: &'c All<'c, 'c>,
    pub patches: Patches,
    pub sides: Vec<Option<Sides>>,
    new_points: Vec<DVec3>,
}

/// A part of one solid, that is known to be behind all faces where the part ends.
pub(super) struct Part<'p> {
    /// Vertices of which all faces are of the part.
    pub inner: Vec<bool>,
    /// Faces that the solid is known to be behind.
    pub is_known: Box<dyn Fn(FaceId) -> bool + Sync + 'p>,
}

/// Cuts the solids' faces where they meet, for whatever is made of that; `None` where these are a part of
/// one that does not decide what is inside.
pub(super) fn with_cut<R>(
    model: &Model,
    fragments: &Fragments<'_>,
    solids: usize,
    part: Option<&Part<'_>>,
    observer: &dyn Observer,
    make: impl FnOnce(&Cut<'_>) -> R,
) -> Option<R> {
    let triangles = fragments.triangles();
    let arrangement = fragments.arrange(&model.mesh, &triangles);
    observer.begin("finding what is inside", 0);
    let all = All::of(fragments, &triangles, &arrangement);
    let patches = patches(&all, solids, part.map(|part| &part.inner[..]));
    let sides = match part {
        None => windings::sides(&all, &patches, &arrangement),
        Some(part) => windings::sides_of_part(&all, &patches, &part.is_known)?,
    };
    let cut = Cut {
        sides,
        new_points: arrangement.new_points(),
        all: &all,
        patches,
    };
    Some(make(&cut))
}

impl Cut<'_> {
    /// What solids are to each other.
    pub fn relations(&self, solids: usize, filled: Filled) -> Relations {
        let (patches, sides) = (&self.patches, &self.sides);
        Relations::of(self.all, patches, sides, solids, filled, &self.new_points)
    }

    /// The model of what is inside by a rule. Vertices that earlier rounds made are `young`.
    pub fn assemble(
        &self,
        model: &Model,
        rule: &Rule<'_>,
        single: bool,
        young: &[bool],
        tally: &mut Tally,
    ) -> Resolved {
        let fates = windings::fates(self.all, &self.patches, &self.sides, rule);
        tally.undecided += fates.undecided;
        let new_points = self.new_points.iter();
        let rounded = match single {
            true => new_points.map(|p| p.as_vec3().as_dvec3()).collect(),
            false => new_points.copied().collect(),
        };
        let fates = &fates.of_shard;
        assemble(model, self.all, fates, rounded, young, tally)
    }
}

/// Makes sure that the faces of each solid but a sheet run every edge as often one way as the other.
pub(super) fn check_closed(
    mesh: &Mesh,
    (solids, sheet): (usize, Option<usize>),
    of: &(dyn Fn(FaceId) -> Option<usize> + Sync),
    place: &[VertexId],
) -> Result<(), BooleanError> {
    let edges = Edges::of(mesh);
    let borders = Border::of_each(mesh, &edges, solids, of, place);
    let open = borders.iter().enumerate().map(|(solid, border)| {
        if sheet == Some(solid) {
            0
        } else {
            border.len()
        }
    });
    let open: Vec<usize> = open.collect();
    match open.iter().sum() {
        0 => Ok(()),
        edges => Err(BooleanError::Open {
            edges,
            solids: (0..solids).filter(|&solid| open[solid] > 0).collect(),
        }),
    }
}
