//! What a skin encloses besides what the model fills: what lies within a distance of its faces, and
//! posts that stand in walls and gaps.

use super::grid::{Grid, Key, key};
use crate::mesh::FaceId;
use crate::parallel::kept;
use crate::spatial::{BoxTree, TriangleHierarchy, TriangleTree, overlap, rounded_outward};
use glam::{DVec3, UVec3};
use std::cell::Cell;

/// Cells are looked for in blocks of this many along each side, halved again and again.
const BLOCK: u32 = 64;

/// A round post with flat ends.
#[derive(Clone, Copy, Debug)]
pub struct Capsule {
    /// Its middle.
    pub middle: DVec3,
    /// The way that it stands, of length 1.
    pub axis: DVec3,
    /// Half its length.
    pub half: f64,
    /// The face that it stands at.
    pub face: FaceId,
}

/// What is inside besides.
pub enum Added {
    /// What lies within a distance of triangles, each of these faces.
    Around(TriangleTree, Vec<FaceId>, f64),
    /// What is in posts of this radius.
    Capsules(Capsules),
}

/// Posts of the same radius, in a tree.
pub struct Capsules {
    capsules: Vec<Capsule>,
    tree: BoxTree,
    radius: f64,
}

impl Capsules {
    /// Puts posts in a tree.
    pub fn of(capsules: Vec<Capsule>, radius: f64) -> Self {
        let reach = |capsule: &Capsule| {
            // How far a disc across the axis reaches along each axis of the grid.
            let across = (DVec3::ONE - capsule.axis * capsule.axis).max(DVec3::ZERO);
            capsule.axis.abs() * capsule.half
                + DVec3::from(across.to_array().map(f64::sqrt)) * radius
        };
        let tree = BoxTree::new(capsules.len(), |i| {
            let capsule = &capsules[i];
            [
                capsule.middle - reach(capsule),
                capsule.middle + reach(capsule),
            ]
        });
        let capsules = tree.order().iter().map(|&i| capsules[i as usize]).collect();
        Self {
            capsules,
            tree,
            radius,
        }
    }

    /// How far outside of a post a place is, along its axis and across; negative inside.
    fn outside(&self, capsule: &Capsule, place: DVec3) -> [f64; 2] {
        let off = place - capsule.middle;
        let along = off.dot(capsule.axis);
        let across = (off - capsule.axis * along).length();
        [along.abs() - capsule.half, across - self.radius]
    }

    /// A post that a place is deepest in.
    fn holding(&self, place: DVec3) -> Option<&Capsule> {
        let depth = |capsule: &Capsule| {
            let [along, across] = self.outside(capsule, place);
            along.max(across)
        };
        let point = rounded_outward([place; 2]);
        let best = Cell::new(None::<(f64, usize)>);
        self.tree.visit(
            |node| overlap(node, point),
            |i| {
                let own = depth(&self.capsules[i]);
                if own <= 0.0 && best.get().is_none_or(|best| (own, i) < best) {
                    best.set(Some((own, i)));
                }
            },
        );
        best.get().map(|(_, i)| &self.capsules[i])
    }

    fn holds(&self, place: DVec3) -> bool {
        let point = rounded_outward([place; 2]);
        let found = Cell::new(false);
        self.tree.visit(
            |node| !found.get() && overlap(node, point),
            |i| {
                let [along, across] = self.outside(&self.capsules[i], place);
                found.set(found.get() || along.max(across) <= 0.0);
            },
        );
        found.get()
    }

    fn reach_into(&self, low: DVec3, high: DVec3) -> bool {
        let asked = rounded_outward([low, high]);
        let found = Cell::new(false);
        self.tree.visit(
            |node| !found.get() && overlap(node, asked),
            |_| found.set(true),
        );
        found.get()
    }
}

impl Added {
    /// What lies within a distance of some triangles.
    pub fn around(hierarchy: &TriangleHierarchy<'_>, distance: f64) -> Self {
        let corners = |t| hierarchy.corners(t);
        let tree = TriangleTree::new(hierarchy.len(), corners);
        let faces = (0..hierarchy.len()).map(|t| hierarchy.face(t)).collect();
        Self::Around(tree, faces, distance)
    }

    /// Whether a place is in it.
    pub fn holds(&self, place: DVec3) -> bool {
        match self {
            Self::Around(tree, _, distance) => tree.closest_within(place, *distance).is_some(),
            Self::Capsules(capsules) => capsules.holds(place),
        }
    }

    /// The shortest way out from a place that is hardly in it, and the face that it is there for.
    pub fn way_out(&self, place: DVec3) -> Option<(DVec3, FaceId)> {
        match self {
            Self::Around(tree, faces, _) => {
                let closest = tree.closest(place)?;
                let way = (place - closest.point).normalize_or_zero();
                Some((way, faces[closest.triangle as usize]))
            }
            Self::Capsules(capsules) => {
                let capsule = capsules.holding(place)?;
                let off = place - capsule.middle;
                let along = off.dot(capsule.axis);
                let [out_along, out_across] = capsules.outside(capsule, place);
                let way = match out_along >= out_across {
                    true => capsule.axis * along.signum(),
                    false => (off - capsule.axis * along).normalize_or_zero(),
                };
                Some((way, capsule.face))
            }
        }
    }

    /// The cells that its surface may go through, with the cells of its bounds from `low` to
    /// `high`.
    pub fn cells(&self, grid: &Grid, [low, high]: [DVec3; 2]) -> Vec<Key> {
        let room = match self {
            Self::Around(_, _, distance) => *distance,
            Self::Capsules(capsules) => capsules.room(),
        };
        let room = DVec3::splat(room + grid.cell);
        let low = UVec3::from(grid.cell_of(low - room));
        let high = UVec3::from(grid.cell_of(high + room));
        let count = (high - low) / BLOCK + 1;
        let mut blocks: Vec<UVec3> = (0..count.x)
            .flat_map(|x| (0..count.y).map(move |y| (x, y)))
            .flat_map(|(x, y)| (0..count.z).map(move |z| low + UVec3::new(x, y, z) * BLOCK))
            .collect();
        let mut size = BLOCK;
        loop {
            let reached = |block: &UVec3| self.may_go_through(grid, *block, size);
            blocks = kept(&blocks, 16, reached);
            if size == 1 {
                return blocks
                    .into_iter()
                    .map(|cell| key(cell.to_array()))
                    .collect();
            }
            size /= 2;
            let eighths = |block: UVec3| {
                (0..8u32).map(move |i| block + UVec3::new(i & 1, i >> 1 & 1, i >> 2) * size)
            };
            blocks = blocks.into_iter().flat_map(eighths).collect();
        }
    }

    fn may_go_through(&self, grid: &Grid, block: UVec3, size: u32) -> bool {
        let low = grid.corner(key(block.to_array()));
        let side = grid.cell * f64::from(size) * (1.0 + 1e-6);
        match self {
            Self::Around(tree, _, distance) => {
                let radius = side * 3f64.sqrt() / 2.0;
                let middle = low + DVec3::splat(side / 2.0);
                let closest = tree.closest_within(middle, distance + radius);
                closest.is_some_and(|closest| closest.distance_squared.sqrt() + radius >= *distance)
            }
            Self::Capsules(capsules) => capsules.reach_into(low, low + DVec3::splat(side)),
        }
    }
}

impl Capsules {
    /// How far beyond the model they may reach.
    fn room(&self) -> f64 {
        let longest = self
            .capsules
            .iter()
            .map(|capsule| capsule.half)
            .fold(0.0, f64::max);
        longest + self.radius
    }
}
