//! Solids, the lines along which they meet, and what was made of them.

use crate::out::{counted, measure};
use crate::steps::boolean::{Assembly, Combination};
use glam::DVec3;
use hurmo_core::units::Axis;
use hurmo_core::{Mesh, Model};
use hurmo_view::{Beside, Picture, Scene, Show, View, color, side_by_side};
use std::collections::HashMap;

/// What is drawn.
pub struct Combined<'a> {
    /// The name of the result.
    pub name: String,
    /// The solids.
    pub solids: &'a Assembly,
    /// What was made of them.
    pub made: &'a Combination,
    /// Which axis points up.
    pub up: Axis,
}

/// So many solids are named beside their colours.
const NAMED: usize = 8;

/// The colour of cut lines.
const LINE: color::Color = [0.05, 0.05, 0.05];

impl Combined<'_> {
    /// The solids in colours of their own; the result by what its faces come from, with the lines where
    /// these meet; and the edges of its faces.
    pub fn picture(&self) -> Picture {
        let result: &Model = &self.made.done.model;
        let unknown = vec![0; result.mesh.face_count()];
        let of_face = self.made.of_face.as_ref().unwrap_or(&unknown);
        let lines = seams(&result.mesh, of_face);
        let by_solid = |mesh: &'_ Mesh, of_face: &'_ [u32]| -> Vec<color::Color> {
            let faces = mesh.face_ids();
            faces
                .map(|face| color::of_part(of_face[face.index()] as usize))
                .collect()
        };
        let before = by_solid(&self.solids.model.mesh, &self.solids.of_face);
        let after = by_solid(&result.mesh, of_face);
        let solids = Scene::colored(&self.solids.model.mesh, |face| before[face.index()]);
        let mut made = Scene::colored(&result.mesh, |face| after[face.index()]);
        made.draw_lines(lines.iter().copied(), LINE);
        let wires = Scene::of(&result.mesh, Show::Wire);
        let names = &self.solids.names;
        let scale = (0..names.len().min(NAMED)).map(|i| (color::of_part(i), names[i].clone()));
        let scenes = [
            Beside {
                scene: &solids,
                heading: format!("{} as they are put", counted(names.len(), "solid")),
                scale: Vec::new(),
            },
            Beside {
                scene: &made,
                heading: format!("{}, by what its faces come from", self.name),
                scale: Vec::new(),
            },
            Beside {
                scene: &wires,
                heading: "the edges of its faces".into(),
                scale: scale.collect(),
            },
        ];
        let view = View::THREE_QUARTER.with_up(self.up);
        side_by_side(&scenes, &self.words(&lines), view, [1280, 800])
    }

    fn words(&self, lines: &[[DVec3; 2]]) -> Vec<String> {
        let length: f64 = lines.iter().map(|[a, b]| a.distance(*b)).sum();
        let mut words = vec![counted(self.made.done.model.mesh.face_count(), "face")];
        for step in &self.made.done.told {
            words.extend(step.did.iter().cloned());
        }
        if !lines.is_empty() {
            words.push(format!("seams {} long, in black", measure(length)));
        }
        if let more @ 1.. = self.solids.names.len().saturating_sub(NAMED) {
            words.push(format!("colours of {} not named", counted(more, "solid")));
        }
        words.push(String::new());
        words
    }
}

/// Edges at which faces of different solids meet, by place.
fn seams(mesh: &Mesh, of_face: &[u32]) -> Vec<[DVec3; 2]> {
    let key = |p: DVec3| p.to_array().map(|x| (x + 0.0).to_bits());
    let mut first: HashMap<[[u64; 3]; 2], (u32, bool)> = HashMap::new();
    let mut seams = Vec::new();
    for (face, corners) in mesh.faces() {
        let own = of_face[face.index()];
        for (i, &a) in corners.iter().enumerate() {
            let b = corners[(i + 1) % corners.len()];
            let ends = [a, b].map(|v| mesh.position(v));
            let mut keys = ends.map(key);
            keys.sort_unstable();
            let (solid, told) = first.entry(keys).or_insert((own, false));
            if *solid != own && !*told {
                *told = true;
                seams.push(ends);
            }
        }
    }
    seams
}
