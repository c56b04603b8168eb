//! Closing borders that a cut has left, rather than rims.

use super::border::Border;
use super::{Filled, RimContext, Surface, Task, islands, kinds};
use crate::mesh::{FaceId, Mesh, Model, RimId, VertexId};
use crate::progress::Observer;
use glam::DVec3;

/// A loop of vertices in the direction in which new faces run it.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Loop {
    pub vertices: Vec<VertexId>,
    /// The face along each edge, from vertex `i` to the next, or one near where there is none.
    pub faces: Vec<FaceId>,
}

/// What is to be closed as one: a loop, or several between which new faces are to lie.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Opening {
    border: Loop,
    /// How many loops it was joined of.
    loops: usize,
}

impl Opening {
    /// Of some loops; `None` where no one surface can lie between them.
    pub fn between(mesh: &Mesh, mut loops: Vec<Loop>) -> Option<Self> {
        let count = loops.len();
        // The longest goes round the others.
        let longest = (0..count).max_by_key(|&i| (loops[i].vertices.len(), count - i))?;
        let rim = loops.swap_remove(longest).into_border();
        let others = loops.into_iter().map(Loop::into_border).collect();
        let border = islands::joined(mesh, rim, others)?;
        let Border {
            vertices, faces, ..
        } = border;
        Some(Self {
            border: Loop { vertices, faces },
            loops: count,
        })
    }

    /// The same after faces have other numbers.
    pub fn renamed(&self, name: impl Fn(FaceId) -> FaceId) -> Self {
        let mut renamed = self.clone();
        renamed.border.faces.iter_mut().for_each(|f| *f = name(*f));
        renamed
    }

    fn task(&self, mesh: &Mesh, name: RimId) -> Task {
        let points = |v: &VertexId| mesh.position(*v);
        let ring: Vec<DVec3> = self.border.vertices.iter().map(points).collect();
        let is_round = self.loops == 1 && kinds::bend(&ring) > super::options::FLAT;
        Task {
            name,
            edges: ring.len(),
            islands: self.loops - 1,
            border: self.border.clone().into_border(),
            surface: if is_round {
                Surface::Round
            } else {
                Surface::Tight
            },
        }
    }
}

impl Loop {
    fn into_border(self) -> Border {
        Border {
            vertices: self.vertices,
            faces: self.faces,
            is_consistent: true,
        }
    }
}

/// Closes openings; the new faces follow the model's own, opening by opening.
pub(crate) fn over(
    model: &Model,
    openings: &[Opening],
    observer: &dyn Observer,
) -> (Model, Vec<Filled>) {
    let openings = openings.iter().enumerate();
    let tasks = openings.map(|(i, opening)| opening.task(&model.mesh, RimId::new(i)));
    let closed = RimContext::of(model).close(tasks.collect(), false, observer);
    (closed.model, closed.filled)
}
