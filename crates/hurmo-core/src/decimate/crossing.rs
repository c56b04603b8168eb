//! No face may come to cross another: looked for at every collapse, among what lies there.
//!
//! ```text
//! new faces round the vertex ─▶ what their boxes touch (R*-tree, Beckmann et al. 1990)
//!                             ─▶ exact tests ─▶ met one of the old faces there too? ─▶ allowed
//! ```
//!
//! Where faces crossed before, they may go on crossing, so that a wreck can be reduced; but none
//! comes to meet one that the faces at the place did not meet. Faces whose corners lie on one line
//! cross nothing. Cost: a query, and some twenty exact tests, for every collapse.

use super::reduce::Reduction;
use crate::mesh::VertexId;
use crate::predicates::on_one_line;
use crate::spatial::faces_meet;
use crate::topology::LinkedMesh;
use glam::DVec3;
use rstar::primitives::{GeomWithData, Rectangle};
use rstar::{AABB, RTree};

type Boxed = GeomWithData<Rectangle<[f64; 3]>, u32>;

/// The boxes of all faces of a linked mesh.
#[derive(Clone)]
pub(super) struct Boxes {
    tree: RTree<Boxed>,
}

/// A face by its vertices and corners.
type Face = ([VertexId; 3], [DVec3; 3]);

impl Boxes {
    pub fn of(linked: &LinkedMesh) -> Self {
        let places = 0..linked.places() as u32;
        let living = places.filter_map(|t| Some(boxed(t, linked.points(linked.triangle(t)?))));
        Self {
            tree: RTree::bulk_load(living.collect()),
        }
    }

    fn touching(&self, face: &Face) -> impl Iterator<Item = u32> + '_ {
        let [low, high] = bounds(face.1);
        let bounds = AABB::from_corners(low, high);
        let found = self.tree.locate_in_envelope_intersecting(bounds);
        found.map(|boxed| boxed.data)
    }
}

fn bounds([a, b, c]: [DVec3; 3]) -> [[f64; 3]; 2] {
    [a.min(b).min(c).to_array(), a.max(b).max(c).to_array()]
}

fn boxed(t: u32, points: [DVec3; 3]) -> Boxed {
    let [low, high] = bounds(points);
    GeomWithData::new(Rectangle::from_corners(low, high), t)
}

fn meet(one: &Face, two: &Face) -> bool {
    !on_one_line(one.1) && !on_one_line(two.1) && faces_meet([one.0, two.0], [one.1, two.1])
}

/// The faces round an edge, as they are and as they would be with its ends in one place.
struct Umbrella {
    old: Vec<(u32, Face)>,
    new: Vec<(u32, Face)>,
}

impl Reduction {
    /// Begins to look for faces that cross.
    pub fn forbid_crossing(&mut self) {
        self.boxes = Some(Boxes::of(&self.linked));
    }

    fn umbrella(&self, keep: u32, gone: u32, at: DVec3) -> Umbrella {
        let face = |corners: [u32; 3]| (corners.map(VertexId), self.linked.points(corners));
        let mut umbrella = Umbrella {
            old: Vec::new(),
            new: Vec::new(),
        };
        // Of a crowd that stays where it is, no face changes but those that go.
        let stays = self.linked.is_crowded(keep) && self.linked.positions[keep as usize] == at;
        let both = [gone, keep];
        for &here in if stays { &both[..1] } else { &both[..] } {
            for (t, corners) in self.linked.around(here) {
                let on_edge = corners.contains(&keep) && corners.contains(&gone);
                if !on_edge || here == gone {
                    umbrella.old.push((t, face(corners)));
                }
                if !on_edge {
                    let (names, mut points) = face(corners);
                    let place = corners.iter().position(|&v| v == here).unwrap_or(0);
                    points[place] = at;
                    let mut names = names;
                    names[place] = VertexId(keep);
                    umbrella.new.push((t, (names, points)));
                }
            }
        }
        umbrella
    }

    /// Whether a collapse would make faces meet that don't.
    pub fn would_cross(&self, keep: u32, gone: u32, at: DVec3) -> bool {
        let Some(boxes) = &self.boxes else {
            return false;
        };
        let Umbrella { old, new } = self.umbrella(keep, gone, at);
        let is_here = |t: u32| old.iter().any(|(here, _)| *here == t);
        let crosses_others = new.iter().any(|(_, face)| {
            boxes.touching(face).any(|t| {
                let Some(corners) = self.linked.triangle(t).filter(|_| !is_here(t)) else {
                    return false;
                };
                let other = (corners.map(VertexId), self.linked.points(corners));
                meet(face, &other) && !old.iter().any(|(_, was)| meet(was, &other))
            })
        });
        let fold = |faces: &[(u32, Face)]| {
            let pairs = faces.iter().enumerate();
            pairs.fold(0, |count, (i, (_, one))| {
                let before = faces[..i].iter();
                count + before.filter(|(_, two)| meet(one, two)).count()
            })
        };
        crosses_others || fold(&new) > fold(&old)
    }

    /// Tells the boxes of a collapse that is about to be done.
    pub fn move_boxes(&mut self, keep: u32, gone: u32, at: DVec3) {
        if self.boxes.is_none() {
            return;
        }
        let Umbrella { old, new } = self.umbrella(keep, gone, at);
        if let Some(boxes) = &mut self.boxes {
            for (t, (_, points)) in old {
                boxes.tree.remove(&boxed(t, points));
            }
            for (t, (_, points)) in new {
                boxes.tree.insert(boxed(t, points));
            }
        }
    }
}
