//! What solids are to each other and what became of them, with the volumes that must agree.

use super::Kind;
use crate::record::{BooleanRecord, CellRecord, SolidRecord, Statement};
use crate::said;
use hurmo_core::boolean::{BooleanOutcome, Cell, How, Relations};

/// A boolean that was done.
pub struct Solved<'a> {
    /// What was made.
    pub kind: Kind,
    /// What the solids are called.
    pub names: &'a [String],
    /// Which of them each face bounded.
    pub of_face: &'a [u32],
    /// What they are to each other.
    pub relations: &'a Relations,
    /// What was made: one model, or one for each cell.
    pub outcomes: &'a [BooleanOutcome],
    /// Where some solids are open: by how many edges each.
    pub open: Option<&'a [usize]>,
}

impl BooleanRecord {
    /// What there is to say of it. `volume`: what the result fills, as it was measured.
    pub fn of(solved: &Solved<'_>, volume: f64) -> Self {
        let relations = solved.relations;
        let name = |solid: &usize| solved.names[*solid].clone();
        let counts = |of: &[usize]| match solved.kind {
            Kind::Union | Kind::Pieces => true,
            Kind::Difference => of == [0],
            Kind::Intersection => of.len() == relations.solids,
        };
        let expected_volume = relations.volume_where(counts);
        let all: f64 = relations.cells.iter().map(|cell| cell.volume).sum();
        Self {
            kind: solved.kind.name(),
            solids: solids(solved),
            cells: (relations.cells.iter())
                .map(|Cell { of, volume }| CellRecord {
                    of: of.iter().map(name).collect(),
                    volume: *volume,
                })
                .collect(),
            meeting: relations
                .meeting
                .iter()
                .map(|pair| pair.each_ref().map(name))
                .collect(),
            within: relations
                .within
                .iter()
                .map(|pair| pair.each_ref().map(name))
                .collect(),
            lines: relations.lines,
            line_length: relations.line_length,
            volume,
            expected_volume,
            residual: (volume - expected_volume).abs() / all.abs().max(f64::MIN_POSITIVE),
            left_crossing: solved.outcomes.iter().map(|made| made.tally.meeting).sum(),
            seams_at_rims: Vec::new(),
            seams: None,
        }
    }
}

/// What became of the faces of each solid.
fn solids(solved: &Solved<'_>) -> Vec<SolidRecord> {
    let count = solved.names.len();
    let faces = solved.of_face.len();
    let (mut kept, mut cut) = (vec![false; faces], vec![false; faces]);
    for source in solved.outcomes.iter().flat_map(|made| &made.sources) {
        match source.how {
            How::Cut => cut[source.face.index()] = true,
            How::Kept | How::Turned => kept[source.face.index()] = true,
        }
    }
    let volumes = solved.relations.volumes();
    let mut solids: Vec<SolidRecord> = (0..count)
        .map(|solid| SolidRecord {
            name: solved.names[solid].clone(),
            volume: volumes[solid],
            faces: 0,
            kept: 0,
            cut: 0,
            dropped: 0,
            open_edges: solved.open.map_or(0, |open| open[solid]),
        })
        .collect();
    for (face, &solid) in solved.of_face.iter().enumerate() {
        let solid = &mut solids[solid as usize];
        solid.faces += 1;
        match (kept[face], cut[face]) {
            (_, true) => solid.cut += 1,
            (true, false) => solid.kept += 1,
            (false, false) => solid.dropped += 1,
        }
    }
    solids
}

/// What was done where cutting left faces without area. `tidied`: how many changes that took.
pub fn cleared(outcomes: &[BooleanOutcome], tidied: usize) -> Vec<Statement> {
    let mut did = Vec::new();
    if let joined @ 1.. = outcomes.iter().map(|made| made.tally.joined).sum::<usize>() {
        did.push(said!(
            "vertices-joined",
            "{vertices:vertex} of cuts joined with others beside them, between which faces would have no area",
            vertices = joined
        ));
    }
    if tidied > 0 {
        did.push(said!(
            "tidied",
            "{changes:change} to clear faces without area and non-manifold edges that cutting left",
            changes = tidied
        ));
    }
    did
}
