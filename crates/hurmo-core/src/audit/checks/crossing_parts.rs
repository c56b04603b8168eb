//! Crossing parts: parts that run into each other.
//!
//! A part that only touches another, as one box that stands on another, meets it too.

use crate::audit::Level::{Block, Off, Warn};
use crate::audit::{
    Check, Found, Levels, Measure, MeshAnalysis, Needs, NotRun, Place, Remedy, Search,
};
use crate::geometry::Bounds;
use crate::mesh::PartId;
use crate::spatial::MOST_PAIRS_OF_PARTS;

pub(super) const CHECK: Check = Check {
    name: "crossing-parts",
    counts: "pairs of parts whose faces meet",
    harm: "they look like one and are not: they print as lumps, and seams show when they move",
    remedy: Remedy::MendByName,
    drawing: r"
    *---------*
    |  P1  *--+------*
    |      |  |  P2  |
    *------+--*      |
           *---------*",
    levels: Levels::new(Warn, Warn, Off, Block),
    needs: Needs::Contacts,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let contacts = analysis.contacts().expect("prepared, as asked for");
    let pairs: Vec<(PartId, PartId)> = contacts.parts.iter().copied().collect();
    let stopped = pairs.len() >= MOST_PAIRS_OF_PARTS;
    let mut found = Found::of_groups(pairs.len(), pairs, search.limit, |(a, b)| {
        // Where the two can meet: what their boxes have in common.
        let [p, q] = [a, b].map(|part| analysis.part(part).bounds);
        let bounds = Bounds {
            min: p.min.max(q.min),
            max: p.max.min(q.max),
        };
        Place {
            at: bounds.middle(),
            bounds,
            ..Place::parts(analysis, vec![a, b])
        }
    });
    found.measure = stopped.then_some(Measure {
        what: "pairs, after which counting stopped",
        value: MOST_PAIRS_OF_PARTS as f64,
    });
    Ok(found)
}
