//! One number for each point, however it was made.

use super::constructions::{Inputs, Made, Near};
use super::residue::Residue;
use crate::parallel::mapped_of;
use glam::DVec3;
use rustc_hash::FxHashMap;
use smallvec::SmallVec;

/// The points of an arrangement: the vertices first, then those that were made.
pub(super) struct Points {
    vertices: u32,
    made: Vec<Made>,
    near: Vec<Near>,
    /// What points were made of that are there, and of which number they are.
    known: FxHashMap<Made, u32>,
    by_residues: FxHashMap<[Residue; 3], SmallVec<[u32; 1]>>,
}

impl Points {
    /// Begins with the vertices of some triangles, which must be at different places.
    pub fn new(inputs: &Inputs<'_>, triangles: &[u32]) -> Self {
        let mut own: Vec<u32> = triangles
            .iter()
            .flat_map(|&t| inputs.triangles[t as usize])
            .collect();
        own.sort_unstable();
        own.dedup();
        let residues: Vec<_> = mapped_of(&own, 1, |&v| (inputs.residues(&Made::Vertex(v)), v));
        let mut points = Self {
            vertices: inputs.positions.len() as u32,
            made: Vec::new(),
            near: Vec::new(),
            known: FxHashMap::default(),
            by_residues: FxHashMap::default(),
        };
        for (residues, v) in residues {
            points.by_residues.entry(residues).or_default().push(v);
        }
        points
    }

    /// Takes in points; they are numbered in the order of their list.
    pub fn add(&mut self, inputs: &Inputs<'_>, made: &[Made]) {
        let known: Vec<_> = mapped_of(made, 1, |made| (inputs.residues(made), inputs.near(made)));
        for (&made, (residues, near)) in made.iter().zip(known) {
            if self.known.contains_key(&made) {
                continue;
            }
            let next = self.vertices + self.made.len() as u32;
            let alike = self.by_residues.entry(residues).or_default();
            let made_of = |id: u32| match id.checked_sub(self.vertices) {
                None => Made::Vertex(id),
                Some(place) => self.made[place as usize],
            };
            let same = alike
                .iter()
                .find(|&&id| inputs.are_equal(&made_of(id), &made));
            let id = match same {
                Some(&id) => id,
                None => {
                    alike.push(next);
                    self.made.push(made);
                    self.near.push(near);
                    next
                }
            };
            self.known.insert(made, id);
        }
    }

    /// The number of a point that was taken in.
    pub fn id(&self, made: &Made) -> u32 {
        match made {
            Made::Vertex(v) => *v,
            made => self.known[made],
        }
    }

    /// What a point was made of.
    pub fn made(&self, id: u32) -> Made {
        match id.checked_sub(self.vertices) {
            None => Made::Vertex(id),
            Some(place) => self.made[place as usize],
        }
    }

    /// About where a point is.
    pub fn near(&self, inputs: &Inputs<'_>, id: u32) -> Near {
        match id.checked_sub(self.vertices) {
            None => inputs.near(&Made::Vertex(id)),
            Some(place) => self.near[place as usize],
        }
    }

    /// How many points were made.
    pub fn count(&self) -> usize {
        self.near.len()
    }

    /// Where the points are that were made, rounded.
    pub fn positions(&self) -> Vec<DVec3> {
        let middle = |near: &Near| DVec3::from_array(near.map(|x| x.middle));
        self.near.iter().map(middle).collect()
    }
}
