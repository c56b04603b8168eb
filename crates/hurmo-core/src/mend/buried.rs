//! What is inside or loose, dropped when that is asked for by name: faces with solid on both
//! sides, parts inside others, parts that are perhaps scrap.

use super::{Cure, MendError, Options, Step};
use crate::audit::{Needs, Survey, interior, nested};
use crate::measure::{PartMeasure, floating_parts};
use crate::mesh::{Model, PartId, Rebuild};
use crate::topology::Edges;
use std::collections::BTreeSet;

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
        Ok(drop_parts(model, Needs::Contacts, |survey| {
            nested(survey).into_iter().map(|(inner, _)| inner).collect()
        }))
    },
};

pub(super) const FLOATING: Cure = Cure {
    clears: &["floating-parts"],
    safe: false,
    drops: true,
    apply: |model, _| {
        let mut wanted = Vec::new();
        let mut step = drop_parts(model, Needs::Connectivity, |survey| {
            let (perhaps_wanted, scraps) = floating_parts(&survey.part_measures)
                .into_iter()
                .partition::<Vec<_>, _>(|&part| is_perhaps_wanted(survey, part));
            wanted = perhaps_wanted
                .iter()
                .map(|&p| survey.part(p).clone())
                .collect();
            scraps.into_iter().collect()
        });
        step.perhaps_wanted = wanted;
        Ok(step)
    },
};

/// Whether a small part is closed and lies within the bounds of the main part.
fn is_perhaps_wanted(survey: &Survey<'_>, part: PartId) -> bool {
    let measures = &survey.part_measures;
    let main = measures.iter().max_by(|a, b| a.area.total_cmp(&b.area));
    let bounds = &survey.part(part).bounds;
    let within = main.is_some_and(|main| {
        bounds.min.cmpge(main.bounds.min).all() && bounds.max.cmple(main.bounds.max).all()
    });
    within && is_closed(survey, part)
}

fn is_closed(survey: &Survey<'_>, part: PartId) -> bool {
    let mesh = survey.mesh;
    let faces = mesh.face_ids();
    faces
        .filter(|&face| survey.parts.of_face(mesh, face) == Some(part))
        .flat_map(|face| mesh.face_range(face))
        .all(|corner| {
            let edge = survey.edges.at_corner(corner);
            edge.is_some_and(|edge| survey.edges.sides(edge).len() == 2)
        })
}

fn drop_parts(
    model: &mut Model,
    needs: Needs,
    mut which: impl FnMut(&Survey<'_>) -> BTreeSet<PartId>,
) -> Step {
    let mut survey = Survey::of(model);
    survey.prepare(needs, &());
    let goes = which(&survey);
    let dropped: Vec<PartMeasure> = goes.iter().map(|&p| survey.part(p).clone()).collect();
    if !dropped.is_empty() {
        *model = crate::parts::without(model, |part| goes.contains(&part));
    }
    Step {
        dropped,
        ..Step::default()
    }
}

fn drop_interior(model: &mut Model, _options: &Options) -> Result<Step, MendError> {
    let mut survey = Survey::of(model);
    survey.prepare(Needs::Contacts, &());
    let Ok(buried) = interior(&survey) else {
        return Ok(Step {
            left: Some((
                1,
                "model whose faces lie on each other too much to tell what is buried",
            )),
            ..Step::default()
        });
    };
    let count = buried.iter().filter(|&&buried| buried).count();
    if count == 0 || count == buried.len() {
        return Ok(Step::default());
    }
    let open = |edges: &Edges| edges.ids().filter(|&e| edges.sides(e).len() == 1).count();
    let before = open(&survey.edges);
    let mut rebuild = Rebuild::new(model);
    for face in model.mesh.face_ids().filter(|f| !buried[f.index()]) {
        rebuild.keep(face);
    }
    let mut rest = rebuild.finish();
    // Vertices that only buried faces used go with them; strays stay.
    let used = rest.mesh.used_vertices();
    let goes: Vec<bool> = model
        .mesh
        .used_vertices()
        .into_iter()
        .zip(used)
        .map(|(was, is)| was && !is)
        .collect();
    rest.lines
        .retain(|line| !line.iter().any(|v| goes[v.index()]));
    rest.drop_vertices(&goes);
    let opened = open(&Edges::of(&rest.mesh)).saturating_sub(before);
    *model = rest;
    Ok(Step {
        left: (opened > 0).then_some((
            opened,
            "edges opened where buried faces ended at the outer skin",
        )),
        ..Step::did("buried faces dropped", count)
    })
}
