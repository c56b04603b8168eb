//! Floating parts: small scraps beside the largest part.

use crate::audit::Level::{Block, Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::measure::floating_parts;

pub(super) const CHECK: Check = Check {
    name: "floating-parts",
    counts: "parts under 1% of the largest part's area and under 5% of its diagonal",
    harm: "a scan's scraps: they print as crumbs and spoil bounds",
    remedy: Remedy::MendByName,
    drawing: r"
     .-------.
    /         \     o
    |  model  |          o   crumbs beside it
    \         /   o
     '-------'   ",
    levels: Levels::new(Note, Warn, Note, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let floating = floating_parts(&analysis.part_measures);
    Ok(Found::parts(analysis, search.limit, floating.into_iter()))
}
