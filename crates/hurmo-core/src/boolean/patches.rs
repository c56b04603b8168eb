//! Fragments that hang together through edges with two sides: on each side of a patch, every solid
//! winds as often everywhere.

use super::fragments::All;
use super::links::Crossing;
use crate::topology::{OnEdge, SharedSets, Sources, rows};
use rayon::prelude::*;
use smallvec::SmallVec;

/// The fragments of each patch in a row.
pub(super) struct Patches {
    fragments: Vec<u32>,
    begins: Vec<usize>,
    /// The patch of each fragment that is there.
    patch: Vec<u32>,
    /// Edges in which two triangles cross.
    pub crossings: Vec<Crossing>,
    /// Edges, by their points, at which more than one solid has fragments, and which solids.
    pub common: Vec<([u32; 2], SmallVec<[u32; 2]>)>,
    /// Where fragments are those of a part of the mesh: of each patch, whether it ends at the rim of that part.
    pub at_rim: Vec<bool>,
}

/// What is at an edge that does not join two fragments.
enum Line {
    /// The rim of the part of the mesh that is looked at, with fragments of which more may be known outside.
    Rim(SmallVec<[u32; 4]>),
    /// A cut line, the solids that have it in common, and how two triangles cross in it.
    Cut {
        common: Option<([u32; 2], SmallVec<[u32; 2]>)>,
        crossing: Option<Crossing>,
    },
}

impl Patches {
    pub fn len(&self) -> usize {
        self.begins.len() - 1
    }

    pub fn of(&self, patch: usize) -> &[u32] {
        &self.fragments[self.begins[patch]..self.begins[patch + 1]]
    }

    /// The patch of a fragment that is there.
    pub fn patch(&self, fragment: u32) -> u32 {
        self.patch[fragment as usize]
    }
}

/// The patches of all fragments; `inner` marks vertices of which all fragments are there, where these are those
/// of a part of the mesh.
pub(super) fn patches(all: &All<'_, '_>, solids: usize, inner: Option<&[bool]>) -> Patches {
    let is_rim = |edge: [u32; 2]| {
        inner.is_some_and(|inner| {
            // Cuts make points only where all fragments are there.
            let is_outer = |point: u32| inner.get(point as usize).is_some_and(|inner| !inner);
            edge.into_iter().all(is_outer)
        })
    };
    let together = SharedSets::new(all.len());
    let line = |edge: &[Side]| {
        if is_rim(edge[0].ends) {
            return Some(Line::Rim(
                edge.iter().map(|side| side.item.fragment).collect(),
            ));
        }
        if let [one, other] = edge
            && one.item.runs_up != other.item.runs_up
            && all.have_same_steps(one.item.fragment, other.item.fragment)
        {
            together.join(one.item.fragment, other.item.fragment);
            return None;
        }
        let common = || {
            let there = solids_at(all, edge.iter().map(|side| side.item.fragment));
            (there.len() > 1).then_some((edge[0].ends, there))
        };
        let common = (solids > 1).then(common).flatten();
        let crossing = Crossing::of(all, edge);
        Some(Line::Cut { common, crossing })
    };
    let lines = rows(&FragmentSides(all), |sides| -> Vec<Line> {
        let edges = sides.chunk_by(|a, b| a.ends == b.ends);
        edges.filter_map(line).collect()
    });
    let (mut at_rim, mut crossings, mut common) = (Vec::new(), Vec::new(), Vec::new());
    for line in lines.into_iter().flatten() {
        match line {
            Line::Rim(fragments) => at_rim.extend(fragments),
            Line::Cut {
                common: of,
                crossing,
            } => {
                common.extend(of);
                crossings.extend(crossing);
            }
        }
    }
    let roots = together.roots();
    let there = (0..all.len() as u32).filter(|&fragment| all.is_there(fragment));
    let mut order: Vec<(u32, u32)> = there
        .map(|fragment| (roots[fragment as usize], fragment))
        .collect();
    order.par_sort_unstable();
    let mut begins: Vec<usize> = Vec::new();
    for (i, (root, _)) in order.iter().enumerate() {
        if i == 0 || order[i - 1].0 != *root {
            begins.push(i);
        }
    }
    let mut patch = vec![u32::MAX; all.len()];
    for (i, run) in begins.iter().enumerate() {
        let end = begins.get(i + 1).copied().unwrap_or(order.len());
        for &(_, fragment) in &order[*run..end] {
            patch[fragment as usize] = i as u32;
        }
    }
    begins.push(order.len());
    let mut is_at_rim = vec![false; begins.len() - 1];
    for fragment in at_rim {
        is_at_rim[patch[fragment as usize] as usize] = true;
    }
    Patches {
        at_rim: is_at_rim,
        patch,
        crossings,
        fragments: order.into_iter().map(|(_, fragment)| fragment).collect(),
        begins,
        common,
    }
}

/// A side of a fragment, on an edge.
pub(super) type Side = OnEdge<FragmentSide>;

/// Which fragment, and whether the side runs the edge from its lower to its higher end.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct FragmentSide {
    pub fragment: u32,
    pub runs_up: bool,
}

/// The sides of all fragments on those edges that are wanted, edge by edge.
pub(super) fn sides_where(
    all: &All<'_, '_>,
    is_wanted: impl Fn(&[Side]) -> bool + Sync,
) -> Vec<Side> {
    let of_row = |sides: &[Side]| -> Vec<Side> {
        let edges = sides.chunk_by(|a, b| a.ends == b.ends);
        let wanted = edges.filter(|edge| is_wanted(edge));
        wanted.flatten().copied().collect()
    };
    rows(&FragmentSides(all), of_row).concat()
}

/// Fragments, with their sides.
struct FragmentSides<'s>(&'s All<'s, 's>);

impl Sources for FragmentSides<'_> {
    type Item = FragmentSide;

    fn count(&self) -> usize {
        self.0.len()
    }

    fn ends(&self) -> usize {
        self.0.point_count()
    }

    #[inline]
    fn each(&self, source: usize, mut visit: impl FnMut(Side)) {
        let fragment = source as u32;
        if !self.0.is_there(fragment) {
            return;
        }
        let [a, b, c] = self.0.corners(fragment);
        for (from, to) in [(a, b), (b, c), (c, a)] {
            visit(OnEdge {
                ends: [from.min(to), from.max(to)],
                item: FragmentSide {
                    fragment,
                    runs_up: from < to,
                },
            });
        }
    }
}

/// The solids that some fragments bound, each once.
fn solids_at(all: &All<'_, '_>, fragments: impl Iterator<Item = u32>) -> SmallVec<[u32; 2]> {
    let sources = fragments.flat_map(|fragment| all.sources(fragment));
    let mut solids: SmallVec<[u32; 2]> = sources
        .map(|(triangle, _)| all.fragments.solid(triangle) as u32)
        .collect();
    solids.sort_unstable();
    solids.dedup();
    solids
}
