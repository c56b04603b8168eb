//! What solids fill, round by round: the first cuts what meets, the others ([`recut`](super::recut)) what
//! rounding made to meet.

use super::cutting::{Cut, check_closed, with_cut};
use super::fragments::Fragments;
use super::recut::Round;
use super::{
    BooleanError, BooleanOutcome, Relations, Rounding, Rule, Solids, Source, Tally, snapping,
};
use crate::mesh::Model;
use crate::progress::Observer;
use crate::spatial::exact_weld;

/// So often what rounding made to cross is cut again.
const ROUNDS: usize = 10;

/// When this many times as many triangles meet as met at best, cutting them makes more to cut.
const GROWN: usize = 2;

/// Rules, by what solids are to each other where that is known.
pub(super) type Rules<'r> = dyn Fn(Option<&Relations>) -> Vec<Box<Rule<'r>>> + 'r;

/// What solids are to each other, if that is asked for, and a model for each rule. They are cut once,
/// whatever the number of rules.
pub(super) fn resolve(
    model: &Model,
    solids: &Solids<'_>,
    rules: &Rules<'_>,
    observer: &dyn Observer,
) -> Result<(Option<Relations>, Vec<BooleanOutcome>), BooleanError> {
    observer.begin("cutting where faces meet", 0);
    let fragments = Fragments::of(&model.mesh, solids, exact_weld(model.mesh.positions()));
    let single = solids.rounding != Rounding::Double;
    let count = (solids.count, solids.sheet);
    check_closed(&model.mesh, count, solids.of, &fragments.place)?;
    let group = |source: &Source| {
        let of = (solids.of)(source.face);
        of.map(|_| (solids.group)(source.face))
    };
    let make = |cut: &Cut<'_>| {
        let relations = solids
            .filled
            .map(|filled| cut.relations(solids.count, filled));
        let outcome = |rule: &Rule<'_>, single: bool| {
            let mut tally = Tally {
                meeting: fragments.meeting(),
                ..Tally::default()
            };
            let made = cut.assemble(model, rule, single, &[], &mut tally);
            let group = made.sources.iter().map(group).collect();
            settled(solids, made, group, tally, single, observer)
        };
        let made = rules(relations.as_ref()).into_iter().map(|rule| {
            let made = outcome(&*rule, single)?;
            if solids.rounding != Rounding::SingleIfSettled || made.tally.meeting == 0 {
                return Ok(made);
            }
            let finer = outcome(&*rule, false)?;
            Ok(match finer.tally.meeting < made.tally.meeting {
                true => finer,
                false => made,
            })
        });
        let made = made.collect::<Result<_, BooleanError>>()?;
        Ok((relations, made))
    };
    with_cut(model, &fragments, solids.count, None, observer, make)
        .expect("the whole model decides all sides")
}

/// Cuts again what rounding made to meet, until nothing does. What there is now is one solid of each
/// group, or one sheet.
fn settled(
    solids: &Solids<'_>,
    mut result: Resolved,
    mut group: Vec<Option<u32>>,
    mut tally: Tally,
    single: bool,
    observer: &dyn Observer,
) -> Result<BooleanOutcome, BooleanError> {
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
    loop {
        observer.check()?;
        let by_rounding = last_place * f64::from(1u32 << tally.again);
        let joins = tally.again == 0 && solids.join_within > by_rounding;
        let distance = if joins {
            solids.join_within
        } else {
            by_rounding
        };
        let joined = snapping::snap(&mut result, distance);
        tally.joined += if joins { joined } else { 0 };
        observer.begin("cutting where rounding made faces meet", 0);
        let round = Round {
            result: &result,
            group: &group,
            sheet,
            single,
        };
        if tally.undecided > 0 {
            // What was left out may have been needed.
            round.check_closed()?;
        }
        let met = round.cut(distance, observer)?;
        tally.meeting = met.meeting;
        let Some((next, more)) = met.next else { break };
        if tally.again == ROUNDS || tally.meeting > GROWN * least {
            break;
        }
        sources = since(&sources, &next.sources);
        group = (next.sources.iter())
            .map(|now| group[now.face.index()])
            .collect();
        result = next;
        least = least.min(tally.meeting);
        tally.again += 1;
        tally.undecided += more.undecided;
    }
    snapping::drop_unused(&mut result);
    Ok(BooleanOutcome {
        model: result.model,
        sources,
        tally,
        relations: None,
    })
}

/// Where faces come from, when those that they come from come from others.
fn since(before: &[Source], now: &[Source]) -> Vec<Source> {
    let since = now.iter().map(|now| {
        let before = before[now.face.index()];
        Source {
            how: before.how.max(now.how),
            ..before
        }
    });
    since.collect()
}

/// What a round made.
pub(super) struct Resolved {
    pub model: Model,
    /// Whether a face was cut.
    pub is_new: Vec<bool>,
    /// Of each face, the one of the model before.
    pub sources: Vec<Source>,
    /// Whether a vertex was made.
    pub young: Vec<bool>,
}
