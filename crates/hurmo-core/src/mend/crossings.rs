//! Faces that meet others: the parts that hang together by them become the boundary of what they
//! fill, exactly, and nothing else is touched.
//!
//! Only closed surfaces fill anything: parts with open edges, or with faces that run an edge the
//! same way, are left, and so is what faces inward as a whole.

use super::{Cure, MendError, Options, Step};
use crate::audit::{Needs, Survey};
use crate::boolean::{Outcome, Solids, resolve};
use crate::mesh::{FaceId, Model, PartId};
use crate::spatial::Border;
use crate::topology::{UnionFind, signed_volume_term};

pub(super) const CURE: Cure = Cure {
    clears: &["intersecting-faces", "crossing-parts"],
    safe: false,
    drops: true,
    apply,
};

const LEFT: &str = "{face that meets others|faces that meet others} left: their parts are not closed, so that they have no inside";

const LEFT_BY_ROUNDING: &str = "{face that meets others|faces that meet others} left: what lies on each other there is thinner than coordinates tell apart";

fn apply(model: &mut Model, options: &Options) -> Result<Step, MendError> {
    let mut survey = Survey::of(model);
    survey.prepare(Needs::Contacts, &());
    let groups = Groups::of(&survey);
    let left = groups.left;
    if groups.resolved == 0 {
        return Ok(Step {
            left: (left > 0).then_some((left, LEFT)),
            ..Step::default()
        });
    }
    let filled = options.filled;
    let solids = Solids {
        count: 1,
        of: &|face| groups.of_face(face).map(|_| 0),
        world: &|face| groups.of_face(face).unwrap_or(u32::MAX),
        inside: &|windings| filled.holds(windings[0]),
    };
    let done = resolve(model, &solids, &());
    let Ok(Outcome { model: made, tally }) = done else {
        return Ok(Step {
            left: Some((left + groups.resolved, LEFT)),
            ..Step::default()
        });
    };
    if tally.meeting * 2 > groups.resolved {
        return Ok(Step {
            left: Some((groups.resolved, LEFT_BY_ROUNDING)),
            ..Step::default()
        });
    }
    drop(survey);
    *model = made;
    Ok(Step {
        done: vec![
            ("{face|faces} cut where they met others", tally.cut),
            ("{face|faces} inside dropped", tally.dropped),
            ("{face|faces} turned", tally.turned),
        ],
        left: (left > 0).then_some((left, LEFT)),
        ..Step::default()
    })
}

/// Parts that hang together by contacts.
struct Groups {
    /// Of each face, the group that is resolved.
    group: Vec<Option<u32>>,
    /// Faces that meet others, of such groups and of others.
    resolved: usize,
    left: usize,
}

impl Groups {
    fn of(survey: &Survey<'_>) -> Self {
        let mesh = survey.mesh;
        let contacts = survey.contacts().expect("they were asked for");
        let part = |face: FaceId| survey.parts.of_face(mesh, face);
        let mut joined = UnionFind::new(survey.parts.len());
        // What meets, and what hangs together by place alone.
        for (a, b) in &contacts.parts {
            joined.join(a.0, b.0);
        }
        let of_vertex = |v: usize| survey.parts.of_vertex(crate::mesh::VertexId::new(v));
        for (v, first) in survey.first_at_place.iter().enumerate() {
            if let (Some(a), Some(b)) = (of_vertex(v), of_vertex(first.index())) {
                joined.join(a.0, b.0);
            }
        }
        let mut group = |part: PartId| joined.find(part.0);
        let groups: Vec<Option<u32>> = mesh.face_ids().map(|f| part(f).map(&mut group)).collect();
        let count = survey.parts.len();
        let (mut meets, mut is_open) = (vec![0; count], vec![false; count]);
        let mut volume = vec![0.0; count];
        let origin = survey
            .bounds
            .map_or(glam::DVec3::ZERO, |b| (b.min + b.max) / 2.0);
        for face in mesh.face_ids() {
            let Some(group) = groups[face.index()] else {
                continue;
            };
            meets[group as usize] += usize::from(contacts.touches(face));
            volume[group as usize] += signed_volume_term(mesh, face, origin);
        }
        let turned = vec![false; mesh.face_count()];
        let border = Border::of(
            mesh,
            &survey.edges,
            |_| true,
            &turned,
            &survey.first_at_place,
        );
        for v in border.ends().flatten() {
            if let Some(part) = survey.parts.of_vertex(v) {
                is_open[group(part) as usize] = true;
            }
        }
        let is_solid = |group: usize| !is_open[group] && volume[group] > 0.0;
        let resolved = |group: usize| meets[group] > 0 && is_solid(group);
        let sum = |wanted: bool| {
            (0..count)
                .filter(|&g| resolved(g) == wanted)
                .map(|g| meets[g])
                .sum()
        };
        Self {
            resolved: sum(true),
            left: sum(false),
            group: (groups.iter().copied())
                .map(|group| group.filter(|&group| resolved(group as usize)))
                .collect(),
        }
    }

    fn of_face(&self, face: FaceId) -> Option<u32> {
        self.group[face.index()]
    }
}
