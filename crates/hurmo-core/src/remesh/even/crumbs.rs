//! Lines too short to be kept: a lone sharp edge from noise, a few faces in the wrong group.

use super::lines::{Lines, Why, ends, normal};
use crate::mesh::Model;
use crate::topology::{TriangleNet, UnionFind};
use rustc_hash::FxHashMap;

/// Leaves out lines of creases and meetings that all in all, or from a loose end to where they
/// meet others, are shorter than a length.
pub(super) fn leave_out_crumbs(
    net: &TriangleNet,
    edges: &mut FxHashMap<(u32, u32), Why>,
    spokes: &mut FxHashMap<u32, Vec<u32>>,
    under: f64,
) -> usize {
    if under <= 0.0 {
        return 0;
    }
    let length = |a: u32, b: u32| net.positions[a as usize].distance(net.positions[b as usize]);
    let mut together = UnionFind::new(net.positions.len());
    for &(a, b) in edges.keys() {
        together.join(a, b);
    }
    let mut whole: FxHashMap<u32, (f64, bool)> = FxHashMap::default();
    let mut sorted: Vec<((u32, u32), Why)> = edges.iter().map(|(&e, &why)| (e, why)).collect();
    sorted.sort_unstable_by_key(|(edge, _)| *edge);
    for &((a, b), why) in &sorted {
        let (sum, may_go) = whole.entry(together.find(a)).or_insert((0.0, true));
        *sum += length(a, b);
        *may_go &= why != Why::Sheet;
    }
    let mut gone: Vec<(u32, u32)> = Vec::new();
    let mut crumbs = whole
        .values()
        .filter(|(sum, go)| *go && *sum < under)
        .count();
    for &((a, b), _) in &sorted {
        let (sum, may_go) = whole[&together.find(a)];
        if may_go && sum < under {
            gone.push((a, b));
        }
    }
    take_out(edges, spokes, &gone);
    // Spurs: from their loose ends on.
    let mut loose: Vec<u32> = spokes
        .iter()
        .filter(|(_, others)| others.len() == 1)
        .map(|(&v, _)| v)
        .collect();
    loose.sort_unstable();
    for first in loose {
        let mut spur = Vec::new();
        let (mut here, mut sum) = (first, 0.0);
        let mut before = u32::MAX;
        while let Some(others) = spokes.get(&here) {
            let ahead = match others[..] {
                [only] if before == u32::MAX => only,
                [x, y] if before != u32::MAX => match x == before {
                    true => y,
                    false => x,
                },
                _ => break,
            };
            if edges[&ends(here, ahead)] == Why::Sheet {
                sum = f64::INFINITY;
            }
            sum += length(here, ahead);
            spur.push(ends(here, ahead));
            (before, here) = (here, ahead);
            if sum >= under {
                break;
            }
        }
        if sum < under && !spur.is_empty() {
            crumbs += 1;
            take_out(edges, spokes, &spur);
        }
    }
    crumbs
}

/// Gives faces that are no longer set apart by lines the group and material of the most area
/// among those with them: their triangles then come from a face of that. How many triangles.
pub(super) fn take_in_crumbs(
    net: &TriangleNet,
    origins: &mut [u32],
    lines: &Lines,
    model: &Model,
) -> usize {
    let tags = &model.attributes.tags.of_face;
    if tags.is_empty() {
        return 0;
    }
    let mut together = UnionFind::new(net.places());
    let living = || (0..net.places() as u32).filter_map(|t| Some((t, net.triangle(t)?)));
    for (t, [a, b, c]) in living() {
        for (p, q) in [(a, b), (b, c), (c, a)] {
            if !lines.has(p, q) {
                net.on_edge(p, q).for_each(|(other, _)| {
                    together.join(t, other);
                });
            }
        }
    }
    // By piece and tag: the area, and a face.
    let mut areas: FxHashMap<(u32, u32), (f64, u32)> = FxHashMap::default();
    for (t, _) in living() {
        let face = origins[t as usize];
        let key = (together.find(t), tags[face as usize]);
        areas.entry(key).or_insert((0.0, face)).0 += normal(net, t).length();
    }
    let mut largest: FxHashMap<u32, (f64, u32)> = FxHashMap::default();
    let mut sorted: Vec<_> = areas.into_iter().collect();
    sorted.sort_unstable_by_key(|(key, _)| *key);
    for ((piece, _), (area, face)) in sorted {
        let best = largest.entry(piece).or_insert((area, face));
        if area > best.0 {
            *best = (area, face);
        }
    }
    let mut taken = 0;
    for (t, _) in living() {
        let face = largest[&together.find(t)].1;
        if tags[face as usize] != tags[origins[t as usize] as usize] {
            origins[t as usize] = face;
            taken += 1;
        }
    }
    taken
}

fn take_out(
    edges: &mut FxHashMap<(u32, u32), Why>,
    spokes: &mut FxHashMap<u32, Vec<u32>>,
    gone: &[(u32, u32)],
) {
    for &(a, b) in gone {
        edges.remove(&(a, b));
        for (v, other) in [(a, b), (b, a)] {
            let Some(others) = spokes.get_mut(&v) else {
                continue;
            };
            others.retain(|&o| o != other);
            if others.is_empty() {
                spokes.remove(&v);
            }
        }
    }
}
