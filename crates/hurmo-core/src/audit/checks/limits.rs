//! Limits of the brief: how much there may be, and whether the unit is known.
//!
//! Each is looked for only where the brief states the limit.

use crate::audit::Level::{Block, Note, Off};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy};

pub(super) const TRIANGLES: Check = Check {
    name: "too-many-triangles",
    counts: "triangles over the brief's limit, polygons counted as cut up",
    harm: "the model costs more than the scene can pay",
    remedy: Remedy::Decimate,
    drawing: r"
    |###########|#####
    0         limit   triangles",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let sides = analysis.mesh.faces().map(|(_, face)| face.len());
        let there = sides.map(|sides| sides.saturating_sub(2)).sum();
        over(analysis, there, search.brief.limits.triangles)
    },
};

pub(super) const PARTS: Check = Check {
    name: "too-many-parts",
    counts: "parts over the brief's limit",
    harm: "more pieces than the next step can take: each is a draw, a shell, or a loose print",
    remedy: Remedy::ByHand,
    drawing: r"
    [P1] [P2] | [P3]
            limit",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find: |analysis, search| over(analysis, analysis.parts.len(), search.brief.limits.parts),
};

pub(super) const MATERIALS: Check = Check {
    name: "too-many-materials",
    counts: "materials over the brief's limit",
    harm: "each is a draw call of its own",
    remedy: Remedy::ByHand,
    drawing: r"
    tar  brass | glass
             limit",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let there = crate::audit::facts::materials(analysis.model);
        over(analysis, there, search.brief.limits.materials)
    },
};

pub(super) const SIZE: Check = Check {
    name: "too-large",
    counts: "axes along which the model is longer than the brief's limit",
    harm: "it doesn't fit the bed, the box or the scene",
    remedy: Remedy::Convert,
    drawing: r"
    *-----------|--*
    |           |  |    sticks out of the
    *-----------|--*    size allowed",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let size = search.brief.limits.size.ok_or(NotRun::NotAsked)?;
        let size = search.length(analysis, size)?;
        let sides = analysis.bounds.map_or([0.0; 3], |b| b.size().to_array());
        let most = sides.into_iter().fold(0.0, f64::max);
        let count = sides.into_iter().filter(|&side| side > size).count();
        Ok(Found::model(analysis, count).measured("units at the longest", most))
    },
};

pub(super) const UNIT: Check = Check {
    name: "wrong-unit",
    counts: "1 when the brief asks for a unit and the model's is not known, or another",
    harm: "it arrives a thousand times too large or too small",
    remedy: Remedy::Convert,
    drawing: r"
    |----------|
     25.4 what?",
    levels: Levels::new(Off, Off, Off, Note),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let unit = search.brief.handoff.unit.ok_or(NotRun::NotAsked)?;
        Ok(Found::model(
            analysis,
            usize::from(analysis.model.unit != Some(unit)),
        ))
    },
};

fn over(analysis: &MeshAnalysis<'_>, there: usize, limit: Option<usize>) -> Result<Found, NotRun> {
    let limit = limit.ok_or(NotRun::NotAsked)?;
    Ok(Found::model(analysis, there.saturating_sub(limit)).measured("there are", there as f64))
}
