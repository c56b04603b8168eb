//! Closing rims: surfaces laid, held back where they meet other faces, and where that isn't
//! enough laid again and plainer.

use super::border::edges_between_rims;
use super::held::STEPS;
use super::insertion::{woven, woven_bare};
use super::layer::{Laid, Layer, Want};
use super::meets::{Run, that_meet};
use super::reasons::LeftBecause;
use super::surroundings::FacesNear;
use super::{Filled, Left, RimContext, Task};
use crate::mesh::Model;
use crate::progress::Observer;
use std::collections::BTreeSet;

impl RimContext<'_> {
    /// The model with every task done, but those that have to be left.
    pub(super) fn close(
        &self,
        tasks: Vec<Task>,
        leave_crossing: bool,
        observer: &dyn Observer,
    ) -> Closed {
        let mesh = &self.model.mesh;
        let on_rims = tasks.iter().flat_map(|task| &task.border.vertices);
        let near = FacesNear::of(mesh, on_rims.copied());
        let mut layer = Layer {
            model: self.model,
            near: &near,
            chords: edges_between_rims(mesh, &self.edges, &self.rims),
        };
        observer.begin("filling", tasks.len() as u64);
        let mut laid: Vec<Laid> = Vec::with_capacity(tasks.len());
        for (i, task) in tasks.iter().enumerate() {
            observer.at(i as u64);
            let new = layer.lay(task, Want::plainly(task.surface));
            layer.chords.extend(new.patch.chords(&task.border));
            laid.push(new);
        }
        let mut changed = vec![true; tasks.len()];
        while changed.contains(&true) && !observer.cancelled() {
            let pairs = tasks.iter().map(|task| &task.border);
            let mesh = woven_bare(mesh, pairs.zip(laid.iter().map(|laid| &laid.patch)));
            let mut from = self.model.mesh.face_count();
            let runs: Vec<Run> = laid
                .iter()
                .zip(&changed)
                .map(|(laid, &changed)| {
                    let faces = from..from + laid.patch.face_count();
                    from = faces.end;
                    let lies_side_by_side = changed && laid.patch.as_height_field().is_some();
                    Run {
                        faces,
                        lies_side_by_side,
                        changed,
                    }
                })
                .collect();
            let meeting = that_meet(&mesh, &runs);
            changed = vec![false; tasks.len()];
            for (i, faces) in meeting.into_iter().enumerate() {
                if faces.is_empty() {
                    laid[i].meets_others &= !runs[i].changed;
                    continue;
                }
                laid[i].meets_others = true;
                changed[i] = laid[i].give_way(&faces);
                if let Some(want) = laid[i].plainer().filter(|_| !changed[i]) {
                    for chord in laid[i].patch.chords(&tasks[i].border) {
                        layer.chords.remove(&chord);
                    }
                    laid[i] = layer.lay(&tasks[i], want);
                    layer.chords.extend(laid[i].patch.chords(&tasks[i].border));
                    changed[i] = true;
                }
            }
        }
        let all: Vec<(Task, Laid)> = tasks.into_iter().zip(laid).collect();
        let (done, left): (Vec<_>, Vec<_>) = all
            .into_iter()
            .partition(|(_, laid)| !(leave_crossing && laid.meets_others));
        let patches = done.iter().map(|(task, laid)| (&task.border, &laid.patch));
        let left = left.iter().map(|(task, _)| Left {
            rim: task.name,
            edges: task.edges,
            reason: LeftBecause::Crosses,
        });
        Closed {
            model: woven(self.model, patches),
            filled: done.iter().map(|(task, laid)| laid.outcome(task)).collect(),
            left: left.collect(),
        }
    }
}

/// What closing rims came to.
pub(super) struct Closed {
    pub model: Model,
    pub filled: Vec<Filled>,
    pub left: Vec<Left>,
}

impl Laid {
    /// Holds back the faces that meet others, more each time, as long as that helps; says
    /// whether it changed anything.
    fn give_way(&mut self, faces: &BTreeSet<usize>) -> bool {
        let helped = faces.len() < self.meeting.unwrap_or(usize::MAX);
        self.meeting = Some(faces.len());
        while helped && self.steps < STEPS.len() {
            self.steps += 1;
            if self.patch.hold_back(faces, STEPS[self.steps - 1]) {
                self.held_back = true;
                return true;
            }
        }
        false
    }

    fn outcome(&self, task: &Task) -> Filled {
        let triangles = self.patch.triangles.iter();
        Filled {
            rim: task.name,
            edges: task.edges,
            islands: task.islands,
            faces: self.patch.face_count(),
            area: triangles.map(|&t| self.patch.area(t)).sum(),
            surface: self.surface,
            rise: self.patch.rise(),
            why_plainer: self.why_plainer,
            held_back: self.held_back,
            meets_others: self.meets_others,
        }
    }
}
