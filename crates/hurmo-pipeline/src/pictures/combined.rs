//! Solids, the lines along which they meet, and what was made of them.

use crate::operation::boolean::{Assembly, Combination};
use crate::text::{counted, measure};
use glam::DVec3;
use hurmo_core::measure::{bounds, vector_area};
use hurmo_core::units::Axis;
use hurmo_core::{FaceId, Mesh, Model};
use hurmo_view::{Beside, Picture, Scene, Show, Spot, View, color, side_by_side};
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

/// This many solids are named beside their colours.
const NAMED: usize = 8;

/// A close-up reaches as far to all sides as the face in its middle is long, but at least and at most such a
/// share of the diagonal.
const REACH: [f64; 2] = [0.004, 0.06];

/// The colour of cut lines.
const LINE: color::Color = [0.05, 0.05, 0.05];

impl Combined<'_> {
    /// The solids in colours of their own; the result by what its faces come from, with the lines where
    /// these meet; and the narrowest face at such a line from close by.
    pub fn picture(&self) -> Picture {
        let result: &Model = &self.made.done.model;
        let of_face = self.made.of_face.as_deref();
        let of_face = of_face.expect("they are asked for where they are drawn");
        let seams = Seams::of(&result.mesh, of_face);
        let narrowest = seams.narrowest(&result.mesh);
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
        made.draw_lines(seams.lines.iter().copied(), LINE);
        let mut close_up = match &narrowest {
            None => Scene::of(&result.mesh, Show::Wire),
            Some(_) => made.with_edges(),
        };
        if let Some(narrowest) = &narrowest {
            close_up.draw_lines(narrowest.edges(), color::FRAME);
            made.draw_lines(Scene::box_lines(&narrowest.spot.bounds()), color::FRAME);
        }
        let names = &self.solids.names;
        let scale = (0..names.len().min(NAMED)).map(|i| (color::of_part(i), names[i].clone()));
        let scenes = [
            Beside {
                scene: &solids,
                heading: format!("{} as they are put", counted(names.len(), "solid")),
                scale: Vec::new(),
                close_up: None,
            },
            Beside {
                scene: &made,
                heading: format!("{}, by what its faces come from", self.name),
                scale: Vec::new(),
                close_up: None,
            },
            Beside {
                scene: &close_up,
                heading: match &narrowest {
                    None => "the edges of its faces".into(),
                    Some(narrowest) => narrowest.in_words(),
                },
                scale: scale.collect(),
                close_up: narrowest.as_ref().map(|narrowest| narrowest.spot),
            },
        ];
        let view = View::THREE_QUARTER.with_up(self.up);
        side_by_side(&scenes, &self.words(&seams), view, [1280, 800])
    }

    fn words(&self, seams: &Seams) -> Vec<String> {
        let length: f64 = seams.lines.iter().map(|[a, b]| a.distance(*b)).sum();
        let mut words = vec![counted(self.made.done.model.mesh.face_count(), "face")];
        for step in &self.made.done.reports {
            words.extend(step.did.iter().map(ToString::to_string));
        }
        if !seams.lines.is_empty() {
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
struct Seams {
    lines: Vec<[DVec3; 2]>,
    /// The faces at them.
    faces: Vec<FaceId>,
}

impl Seams {
    fn of(mesh: &Mesh, of_face: &[u32]) -> Self {
        let key = |p: DVec3| p.to_array().map(|x| (x + 0.0).to_bits());
        let mut first: HashMap<[[u64; 3]; 2], (FaceId, bool)> = HashMap::new();
        let (mut lines, mut faces) = (Vec::new(), Vec::new());
        for (face, corners) in mesh.faces() {
            for (i, &a) in corners.iter().enumerate() {
                let b = corners[(i + 1) % corners.len()];
                let ends = [a, b].map(|v| mesh.position(v));
                let mut keys = ends.map(key);
                keys.sort_unstable();
                let (other, document) = first.entry(keys).or_insert((face, false));
                if of_face[other.index()] != of_face[face.index()] {
                    faces.extend([*other, face]);
                    if !std::mem::replace(document, true) {
                        lines.push(ends);
                    }
                }
            }
        }
        Self { lines, faces }
    }

    /// The face at a seam that is least high for its length.
    fn narrowest(&self, mesh: &Mesh) -> Option<Narrowest> {
        let reach = REACH.map(|share| share * bounds(mesh).map_or(0.0, |b| b.diagonal()));
        let shape = |&face: &FaceId| {
            let corners: Vec<DVec3> = mesh.face_points(face).collect();
            let length = around(&corners)
                .map(|[a, b]| a.distance(b))
                .fold(0.0, f64::max);
            Narrowest {
                height: 2.0 * vector_area(mesh, face).length() / length,
                length,
                spot: Spot {
                    at: mesh.face_middle(face),
                    reach: length.clamp(reach[0], reach[1]),
                },
                corners,
            }
        };
        let shapes = self.faces.iter().map(shape);
        let shapes = shapes.filter(|shape| shape.length > 0.0);
        let slim = |shape: &Narrowest| shape.height / shape.length;
        shapes.min_by(|a, b| slim(a).total_cmp(&slim(b)))
    }
}

/// The narrowest face at a seam.
struct Narrowest {
    corners: Vec<DVec3>,
    /// Its longest edge, and the height of a triangle over it with the face's area.
    length: f64,
    height: f64,
    /// From close by.
    spot: Spot,
}

impl Narrowest {
    fn edges(&self) -> impl Iterator<Item = [DVec3; 2]> {
        around(&self.corners)
    }

    fn in_words(&self) -> String {
        let [length, height] = [self.length, self.height].map(measure);
        format!("narrowest face at a seam, in red: {length} long, {height} high")
    }
}

/// The edges of a polygon.
fn around(corners: &[DVec3]) -> impl Iterator<Item = [DVec3; 2]> {
    let next = corners.iter().cycle().skip(1);
    corners.iter().zip(next).map(|(a, b)| [*a, *b])
}
