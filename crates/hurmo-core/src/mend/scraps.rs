//! Floating parts: dropped on request, and listed.

use crate::measure::{PartMeasure, floating_parts, part_measures, vector_area};
use crate::mesh::Model;
use crate::topology::Parts;

/// Drops the floating parts of a model (DESIGN §4); returns what was dropped, with its size.
pub fn drop_floating_parts(model: &Model) -> (Model, Vec<PartMeasure>) {
    let parts = Parts::of(&model.mesh);
    let areas: Vec<f64> = model
        .mesh
        .face_ids()
        .map(|face| vector_area(&model.mesh, face).length())
        .collect();
    let measures = part_measures(&model.mesh, &parts, &areas);
    let floating = floating_parts(&measures);
    if floating.is_empty() {
        return (model.clone(), Vec::new());
    }
    let mut goes = vec![false; parts.len()];
    for part in &floating {
        goes[part.index()] = true;
    }
    let result = crate::parts::without(model, |part| goes[part.index()]);
    let dropped = measures
        .into_iter()
        .filter(|measure| goes[measure.part.index()])
        .collect();
    (result, dropped)
}
