//! What solids fill, round by round: the first cuts what meets, the others what rounding made to meet.

use super::assemble::assemble;
use super::patches::{Patches, patches};
use super::shards::{All, Shards};
use super::windings::{self, Sides};
use super::{BooleanError, Filled, MayMeet, Outcome, Rule, Solids, Source, Tally, Told, settle};
use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::spatial::{Border, exact_weld};
use crate::topology::Edges;
use glam::DVec3;

/// So often what rounding made to cross is cut again.
const ROUNDS: usize = 10;

/// When so many times as many triangles meet as met at best, cutting them makes more to cut.
const GROWN: usize = 2;

/// Rules, by what solids are to each other where that is told.
pub(super) type Rules<'r> = dyn Fn(Option<&Told>) -> Vec<Box<Rule<'r>>> + 'r;

/// What solids are to each other, if that is to be told, and a model for each rule. They are cut once,
/// whatever the number of rules. New positions are rounded to single precision where all others are so,
/// unless rounding makes them cross again and again.
pub(super) fn resolve(
    model: &Model,
    solids: &Solids<'_>,
    rules: &Rules<'_>,
    observer: &dyn Observer,
) -> Result<(Option<Told>, Vec<Outcome>), BooleanError> {
    observer.begin("cutting where faces meet", 0);
    let shards = Shards::of(&model.mesh, solids, exact_weld(model.mesh.positions()));
    let single = model.mesh.is_single();
    with_cut(model, solids, &shards, observer, |cut| {
        let told = solids.tell.map(|filled| cut.told(solids.count, filled));
        let outcome = |rule: &Rule<'_>, single: bool| {
            let mut tally = Tally {
                meeting: shards.meeting(),
                ..Tally::default()
            };
            let made = cut.assemble(model, solids, rule, single, &[], &mut tally);
            settled(solids, made, tally, single, observer)
        };
        let made = rules(told.as_ref()).into_iter().map(|rule| {
            let made = outcome(&*rule, single)?;
            if !single || solids.only_single || made.tally.meeting == 0 {
                return Ok(made);
            }
            let finer = outcome(&*rule, false)?;
            Ok(match finer.tally.meeting < made.tally.meeting {
                true => finer,
                false => made,
            })
        });
        let made = made.collect::<Result<_, _>>()?;
        Ok((told, made))
    })?
}

/// Cuts again what rounding made to meet, until nothing does.
fn settled(
    solids: &Solids<'_>,
    mut result: Resolved,
    mut tally: Tally,
    single: bool,
    observer: &dyn Observer,
) -> Result<Outcome, BooleanError> {
    let mut sources = result.sources.clone();
    let rounding = match single {
        true => f64::from(f32::EPSILON),
        false => f64::EPSILON,
    };
    let sizes = result.model.mesh.positions().iter();
    let sizes = sizes.map(|p| p.abs().max_element());
    // Two that were rounded may lie so far apart, a place along each axis.
    let last_place = 2.0 * sizes.fold(0.0, f64::max) * rounding;
    let mut least = tally.meeting;
    let sheet = solids.sheet.map(|_| 0);
    while !observer.cancelled() {
        // What is there now is one solid of each group, or one sheet.
        settle::snap(&mut result, last_place * f64::from(1u32 << tally.again));
        let group = &result.group;
        let is_of = |face: FaceId| group[face.index()].map(|_| 0);
        let union = Solids {
            count: 1,
            of: &is_of,
            group: &|face| group[face.index()].unwrap_or(0),
            may_meet: MayMeet::WithMarked(&result.is_new),
            inside: &|windings| sheet.is_some() || windings[0] > 0,
            tell: None,
            sheet,
            only_single: single,
        };
        let place = exact_weld(result.model.mesh.positions());
        observer.begin("cutting where rounding made faces meet", 0);
        let shards = Shards::of(&result.model.mesh, &union, place);
        tally.meeting = shards.meeting();
        if shards.is_settled() {
            break;
        }
        let mut more = Tally::default();
        let next = with_cut(&result.model, &union, &shards, observer, |cut| {
            let (rule, young) = (union.inside, &result.young);
            cut.assemble(&result.model, &union, rule, single, young, &mut more)
        })?;
        if tally.again == ROUNDS || tally.meeting > GROWN * least {
            break;
        }
        let since = next.sources.iter().map(|now| {
            let before = sources[now.face.index()];
            Source {
                how: before.how.max(now.how),
                ..before
            }
        });
        sources = since.collect();
        result = next;
        least = least.min(tally.meeting);
        tally.again += 1;
        tally.untold += more.untold;
    }
    settle::drop_unused(&mut result);
    if tally.untold > 0 {
        // What was left out may have been needed.
        let place = exact_weld(result.model.mesh.positions());
        let group = &result.group;
        let is_of = |face: FaceId| group[face.index()].map(|_| 0);
        check_closed(&result.model.mesh, (1, sheet), &is_of, &place)?;
    }
    Ok(Outcome {
        model: result.model,
        sources,
        tally,
        told: None,
    })
}

/// What a round made.
pub(super) struct Resolved {
    pub model: Model,
    /// Of each face, the group whose solids it bounds, if any.
    pub group: Vec<Option<u32>>,
    /// Whether a face was cut.
    pub is_new: Vec<bool>,
    /// Of each face, the one of the model before.
    pub sources: Vec<Source>,
    /// Whether a vertex was made.
    pub young: Vec<bool>,
}

/// Faces cut where they meet, and what is known of the patches between.
struct Cut<'c> {
    all: &'c All<'c, 'c>,
    patches: Patches,
    sides: Vec<Option<Sides>>,
    new_points: Vec<DVec3>,
}

/// Cuts the solids' faces where they meet, for whatever is made of that.
fn with_cut<R>(
    model: &Model,
    solids: &Solids<'_>,
    shards: &Shards<'_>,
    observer: &dyn Observer,
    make: impl FnOnce(&Cut<'_>) -> R,
) -> Result<R, BooleanError> {
    let count = (solids.count, solids.sheet);
    check_closed(&model.mesh, count, solids.of, &shards.place)?;
    let triangles = shards.triangles();
    let arrangement = shards.arrange(&model.mesh, &triangles);
    observer.begin("telling inside from outside", 0);
    let all = All::of(shards, &triangles, &arrangement);
    let patches = patches(&all, solids.count);
    let cut = Cut {
        sides: windings::sides(&all, &patches, &arrangement),
        new_points: arrangement.new_points(),
        all: &all,
        patches,
    };
    Ok(make(&cut))
}

impl Cut<'_> {
    fn told(&self, solids: usize, filled: Filled) -> Told {
        let (patches, sides) = (&self.patches, &self.sides);
        Told::of(self.all, patches, sides, solids, filled, &self.new_points)
    }

    fn assemble(
        &self,
        model: &Model,
        solids: &Solids<'_>,
        rule: &Rule<'_>,
        single: bool,
        young: &[bool],
        tally: &mut Tally,
    ) -> Resolved {
        let fates = windings::fates(self.all, &self.patches, &self.sides, rule);
        tally.untold += fates.untold;
        let new_points = self.new_points.iter();
        let rounded = match single {
            true => new_points.map(|p| p.as_vec3().as_dvec3()).collect(),
            false => new_points.copied().collect(),
        };
        let fates = &fates.of_shard;
        assemble(model, self.all, fates, solids, rounded, young, tally)
    }
}

/// Makes sure that the faces of each solid but a sheet run every edge as often one way as the other.
fn check_closed(
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
