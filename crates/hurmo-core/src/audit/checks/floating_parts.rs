//! Floating parts: small scraps beside the largest part.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};
use crate::measure::{floating_parts, part_measures};

pub(super) const CHECK: Check = Check {
    name: "floating-parts",
    counts: "parts under 1% of the largest part's area and under 5% of its diagonal",
    harm: "a scan's scraps: they print as crumbs and spoil bounds",
    cure: "`hurmo prep --for print` drops and lists them",
    levels: Levels {
        general: Level::Note,
        sculpt: Level::Warn,
        engine: Level::Note,
        print: Level::Block,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let measures = part_measures(survey.mesh, &survey.parts, &survey.areas);
    let floating = floating_parts(&measures);
    Found::from_all(floating.into_iter(), limit, |part| Place {
        part: Some(part),
        at: measures[part.index()].bounds.middle(),
        ..Place::default()
    })
}
