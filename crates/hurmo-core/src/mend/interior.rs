//! What is inside or loose, dropped when that is asked for by name: faces with solid on both
//! sides, parts inside others, parts that are perhaps scrap.

use super::removed::by_group;
use super::{Cure, MendError, MendOptions, Step};
use crate::audit::{MeshAnalysis, Needs, interior, nested};
use crate::measure::{Floating, PartMeasure};
use crate::mesh::{Model, PartId};
use crate::topology::Edges;
use std::collections::BTreeSet;

/// Said of edges that were shared with buried faces alone.
pub const OPENED: &str = "{edge|edges} opened where buried faces ended at the outer skin";

pub(super) const INTERIOR: Cure = Cure {
    clears: &["interior-faces"],
    safe: false,
    drops: true,
    apply: drop_interior,
};

pub(super) const NESTED: Cure = Cure {
    clears: &["nested-parts"],
    safe: false,
    drops: true,
    apply: |model, _| {
        Ok(drop_parts(model, Needs::Contacts, |analysis| {
            nested(analysis)
                .into_iter()
                .map(|(inner, _)| inner)
                .collect()
        }))
    },
};

pub(super) const FLOATING: Cure = Cure {
    clears: &["floating-parts"],
    safe: false,
    drops: true,
    apply: |model, _| {
        let mut wanted = Vec::new();
        let mut step = drop_parts(model, Needs::Connectivity, |analysis| {
            let closed = analysis.parts.closed(analysis.mesh, &analysis.edges);
            let floating = Floating::of(&analysis.part_measures, |part| closed[part.index()]);
            let measures = floating
                .perhaps_wanted
                .iter()
                .map(|&p| analysis.part(p).clone());
            wanted = measures.collect();
            floating.scraps.into_iter().collect()
        });
        step.perhaps_wanted = wanted;
        Ok(step)
    },
};

fn drop_parts(
    model: &mut Model,
    needs: Needs,
    mut which: impl FnMut(&MeshAnalysis<'_>) -> BTreeSet<PartId>,
) -> Step {
    let mut analysis = MeshAnalysis::of(model);
    analysis.prepare(needs, &());
    let goes = which(&analysis);
    let dropped: Vec<PartMeasure> = goes.iter().map(|&p| analysis.part(p).clone()).collect();
    if dropped.is_empty() {
        return Step::default();
    }
    let parts = analysis.parts;
    let face_goes = |face| {
        let part = parts.of_face(&model.mesh, face);
        part.is_some_and(|part| goes.contains(&part))
    };
    let removed = by_group(model, face_goes);
    let (rest, _) = model.without_faces(face_goes);
    *model = rest;
    Step {
        removed,
        dropped,
        ..Step::default()
    }
}

fn drop_interior(model: &mut Model, _options: &MendOptions) -> Result<Step, MendError> {
    let mut analysis = MeshAnalysis::of(model);
    analysis.prepare(Needs::Contacts, &());
    let Ok(buried) = interior(&analysis) else {
        return Ok(Step {
            left: Some((
                1,
                "{model|models} whose faces lie on each other too much to decide what is buried",
            )),
            ..Step::default()
        });
    };
    let count = buried.iter().filter(|&&buried| buried).count();
    if count == 0 || count == buried.len() {
        return Ok(Step::default());
    }
    let open = |edges: &Edges| edges.ids().filter(|&e| edges.sides(e).len() == 1).count();
    let before = open(&analysis.edges);
    let removed = by_group(model, |face| buried[face.index()]);
    let (rest, _) = model.without_faces(|face| buried[face.index()]);
    let opened = open(&Edges::of(&rest.mesh)).saturating_sub(before);
    *model = rest;
    Ok(Step {
        removed,
        left: (opened > 0).then_some((opened, OPENED)),
        ..Step::did("buried {face|faces} dropped", count)
    })
}
