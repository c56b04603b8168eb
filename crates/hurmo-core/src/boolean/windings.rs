//! How often each solid winds round both sides of a patch, and what follows for it.

use super::Solids;
use super::patches::Patches;
use super::shards::All;
use crate::arrange::Arrangement;
use crate::spatial::BoxTree;
use glam::DVec3;
use rayon::prelude::*;
use smallvec::SmallVec;

/// What becomes of a shard.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Fate {
    /// It does not part inside from outside.
    #[default]
    Goes,
    /// It stays as it runs.
    Stays,
    /// It stays, the other way round.
    Turns,
}

pub(super) struct Fates {
    pub of_shard: Vec<Fate>,
    pub untold: usize,
}

/// So many shards of a patch are tried for a place; the largest first.
const TRIED: usize = 12;

pub(super) fn fates(
    all: &All<'_, '_>,
    patches: &Patches,
    solids: &Solids<'_>,
    arrangement: &Arrangement<'_>,
) -> Fates {
    let new_points = arrangement.new_points();
    let position = |id: u32| match (id as usize).checked_sub(all.shards.soup.vertex_count()) {
        None => all.shards.soup.position(crate::mesh::VertexId(id)),
        Some(place) => new_points[place],
    };
    let bounds = |triangle: usize| {
        let corners = all.corners(triangle as u32).map(position);
        let low = corners.into_iter().reduce(DVec3::min).unwrap_or_default();
        let high = corners.into_iter().reduce(DVec3::max).unwrap_or_default();
        [low, high]
    };
    let tree = BoxTree::new(all.whole(), bounds);
    let of_patch: Vec<Option<Fate>> = (0..patches.len())
        .into_par_iter()
        .map(|patch| {
            let shards = largest(patches.of(patch), |shard| {
                let [a, b, c] = all.corners(shard).map(position);
                (b - a).cross(c - a).length_squared()
            });
            shards
                .into_iter()
                .find_map(|shard| fate(all, shard, solids, arrangement, &tree))
        })
        .collect();
    let mut fates = Fates {
        of_shard: vec![Fate::Goes; all.len()],
        untold: 0,
    };
    for (patch, fate) in of_patch.into_iter().enumerate() {
        let Some(fate) = fate else {
            fates.untold += 1;
            continue;
        };
        for &shard in patches.of(patch) {
            fates.of_shard[shard as usize] = fate;
        }
    }
    fates
}

/// The largest shards of a patch, by rising number where they are alike.
fn largest(shards: &[u32], size: impl Fn(u32) -> f64) -> Vec<u32> {
    let mut sized: Vec<(f64, u32)> = shards.iter().map(|&shard| (size(shard), shard)).collect();
    let order = |a: &(f64, u32), b: &(f64, u32)| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1));
    if sized.len() > TRIED {
        sized.select_nth_unstable_by(TRIED, order);
        sized.truncate(TRIED);
    }
    sized.sort_unstable_by(order);
    sized.into_iter().map(|(_, shard)| shard).collect()
}

fn fate(
    all: &All<'_, '_>,
    shard: u32,
    solids: &Solids<'_>,
    arrangement: &Arrangement<'_>,
    tree: &BoxTree,
) -> Option<Fate> {
    let own = all.kept(shard);
    let (triangle, turned) = own[0];
    let mut corners = all.corners(shard);
    if turned {
        corners.swap(1, 2);
    }
    let is_own = |other: u32| own.iter().any(|&(kept, _)| kept == other);
    let above = arrangement.above(tree, (corners, triangle), is_own)?;
    let mut windings: SmallVec<[i32; 2]> = SmallVec::from_elem(0, solids.count);
    let group = all.shards.group(triangle);
    for (kept, up) in above.triangles {
        if all.shards.group(kept) != group {
            continue;
        }
        for (triangle, turned) in all.shards.all_of(kept) {
            windings[all.shards.solid(triangle)] += if up != turned { 1 } else { -1 };
        }
    }
    let steps = all.steps(shard, solids.count);
    // Whether the shard as it runs faces up.
    let faces_up = above.faces_up != turned;
    let below: SmallVec<[i32; 2]> = (windings.iter().zip(&steps))
        .map(|(above, step)| if faces_up { above + step } else { above - step })
        .collect();
    let (front, back) = match faces_up {
        true => (&windings, &below),
        false => (&below, &windings),
    };
    let is_in = |windings: &[i32]| (solids.inside)(windings);
    Some(match (is_in(front), is_in(back)) {
        (false, true) => Fate::Stays,
        (true, false) => Fate::Turns,
        _ => Fate::Goes,
    })
}
