//! Floating parts: dropped on request, and listed.

use crate::measure::{PartMeasure, floating_parts, parts_measured};
use crate::mesh::Model;
use crate::topology::Parts;

/// Drops the floating parts of a model (DESIGN §4); returns what was dropped, with its size.
pub fn drop_floating_parts(model: &Model) -> (Model, Vec<PartMeasure>) {
    let parts = Parts::of(&model.mesh);
    let measures = parts_measured(&model.mesh, &parts);
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
