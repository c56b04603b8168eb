//! Vertices that were not put on their sharp edge: moved there after all, alone or together with one
//! beside them, or made one with another that is on it.

use super::change::{Change, Kind, Name, best_of};
use super::edges::doubles;
use super::off::Off;
use super::{GAIN, Sharpened, slivers};
use crate::mesh::VertexId;
use crate::parallel::{chosen, kept, mapped_of};
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// A vertex that is nearer to where it should be than this share of the cell is there.
const THERE: f64 = 0.01;
/// For a sliver to go, the skin may come to lie off the model by so much more, as a share of the cell.
const WORSE: f64 = 0.002;

/// What is best done to each vertex that is not where it should be.
pub fn changes(sharpened: &Sharpened<'_>, failed: &FxHashSet<Name>) -> Vec<Change> {
    let there = THERE * sharpened.cell();
    let is_away = |&v: &VertexId| {
        let wished = sharpened.wished[v.index()];
        let is_there = |wished: DVec3| wished.distance(sharpened.at(v)) <= there;
        wished.is_some_and(|wished| !is_there(wished)) && sharpened.is_new([v].into_iter())
    };
    let away = (0..sharpened.wished.len())
        .map(VertexId::new)
        .filter(is_away);
    let away = cutting_off(sharpened, away.collect());
    let slivers = slivers(sharpened);
    let doubles = doubles(sharpened, there);
    if away.is_empty() && slivers.is_empty() && doubles.is_empty() {
        return Vec::new();
    }
    let thin = slivers
        .iter()
        .flat_map(|&t| sharpened.extracted.triangles[t as usize]);
    let beside: FxHashSet<VertexId> = (away.iter().flat_map(|(_, star)| star))
        .flat_map(|&t| sharpened.extracted.triangles[t as usize])
        .chain(thin)
        .chain(
            doubles
                .iter()
                .flat_map(|(pair, ends)| [*pair, *ends])
                .flatten(),
        )
        .collect();
    let stars = Stars::of(sharpened, &beside);
    let [gone, joined] = [away.len(), away.len() + slivers.len()];
    chosen(joined + doubles.len(), 16, |i| match i {
        i if i < gone => best(sharpened, &stars, away[i].0, failed),
        i if i < joined => without(sharpened, &stars, slivers[i - gone], failed),
        i => {
            let (pair, ends) = doubles[i - joined];
            across(sharpened, &stars, pair, ends, failed)
        }
    })
}

/// Two vertices across an edge made one, and the edge with it: as if it were turned, and what comes of
/// it contracted.
fn across(
    sharpened: &Sharpened<'_>,
    stars: &Stars,
    pair: [VertexId; 2],
    ends: [VertexId; 2],
    failed: &FxHashSet<Name>,
) -> Option<Change> {
    let near = pair.map(|v| stars.vertices(sharpened, v));
    // Nothing but the edge may be beside both, and its ends keep three edges at least.
    let common = near[0].iter().filter(|v| near[1].binary_search(v).is_ok());
    let keeps_enough = |end: &VertexId| stars.vertices(sharpened, *end).len() > 5;
    if common.count() != 2 || !ends.iter().all(keeps_enough) {
        return None;
    }
    let goes = |t: &[VertexId; 3]| ends.iter().all(|end| t.contains(end));
    let changes = [pair, [pair[1], pair[0]]].into_iter().filter_map(|pair| {
        let place = sharpened.wished[pair[0].index()]?;
        merged(sharpened, stars, pair, place, failed, goes)
    });
    best_of(changes)
}

/// Those of some vertices at which enough lies between the skin and the model, in order, with the
/// triangles round them.
fn cutting_off(
    sharpened: &Sharpened<'_>,
    vertices: FxHashSet<VertexId>,
) -> Vec<(VertexId, Vec<u32>)> {
    let cuts_off = |(_, star): &(VertexId, Vec<u32>)| {
        let mut own = Off::default();
        let triangles = star
            .iter()
            .map(|&t| Off::of(sharpened, sharpened.corners(t)));
        triangles.for_each(|off| own.add(&off));
        own.between > GAIN * sharpened.cell()
    };
    let stars: Vec<(VertexId, Vec<u32>)> = round(sharpened, &vertices).into_iter().collect();
    let mut stars: Vec<(VertexId, Vec<u32>)> = kept(&stars, 16, cuts_off);
    stars.sort_unstable_by_key(|(vertex, _)| *vertex);
    stars
}

/// What best does away with a sliver.
fn without(
    sharpened: &Sharpened<'_>,
    stars: &Stars,
    sliver: u32,
    failed: &FxHashSet<Name>,
) -> Option<Change> {
    let [a, b, c] = sharpened.extracted.triangles[sliver as usize];
    let pairs = [[a, b], [b, c], [c, a], [b, a], [c, b], [a, c]];
    let changes = pairs.into_iter().filter_map(|pair| {
        let place = sharpened.wished[pair[0].index()]?;
        contracted(sharpened, stars, pair, place, failed)
    });
    best_of(changes).map(|change| Change {
        // Before all that brings the skin nearer.
        gain: change.gain + sharpened.cell(),
        ..change
    })
}

/// The triangles round vertices, and how far each lies off the model.
struct Stars {
    round: FxHashMap<VertexId, Vec<u32>>,
    off: FxHashMap<u32, Off>,
}

impl Stars {
    fn of(sharpened: &Sharpened<'_>, vertices: &FxHashSet<VertexId>) -> Self {
        let round = round(sharpened, vertices);
        let mut triangles: Vec<u32> = round.values().flatten().copied().collect();
        triangles.sort_unstable();
        triangles.dedup();
        let off = |&t: &u32| (t, Off::of(sharpened, sharpened.corners(t)));
        let off: Vec<(u32, Off)> = mapped_of(&triangles, 64, off);
        Self {
            round,
            off: off.into_iter().collect(),
        }
    }

    /// The vertices of the triangles round one, with itself, sorted.
    fn vertices(&self, sharpened: &Sharpened<'_>, vertex: VertexId) -> Vec<VertexId> {
        let star = self.round[&vertex].iter();
        let corners = star.flat_map(|&t| sharpened.extracted.triangles[t as usize]);
        let mut all: Vec<VertexId> = corners.collect();
        all.sort_unstable();
        all.dedup();
        all
    }
}

/// The triangles round each of some vertices, by number.
fn round(
    sharpened: &Sharpened<'_>,
    vertices: &FxHashSet<VertexId>,
) -> FxHashMap<VertexId, Vec<u32>> {
    let mut is_one = vec![false; sharpened.wished.len()];
    vertices.iter().for_each(|v| is_one[v.index()] = true);
    let mut stars: FxHashMap<VertexId, Vec<u32>> = FxHashMap::default();
    for (t, triangle) in sharpened.extracted.triangles.iter().enumerate() {
        for &v in triangle.iter().filter(|v| is_one[v.index()]) {
            stars.entry(v).or_default().push(t as u32);
        }
    }
    stars
}

/// What is best done to a vertex.
fn best(
    sharpened: &Sharpened<'_>,
    stars: &Stars,
    vertex: VertexId,
    failed: &FxHashSet<Name>,
) -> Option<Change> {
    let wished = sharpened.wished[vertex.index()]?;
    // Itself is among them: it is moved alone then.
    let others = stars.vertices(sharpened, vertex).into_iter();
    let changes = others.filter_map(|other| {
        let place = sharpened.wished[other.index()].unwrap_or(wished);
        contracted(sharpened, stars, [vertex, other], place, failed)
    });
    best_of(changes)
}

/// A vertex and another beside it made one at a place; only moved where both are the same.
fn contracted(
    sharpened: &Sharpened<'_>,
    stars: &Stars,
    pair: [VertexId; 2],
    place: DVec3,
    failed: &FxHashSet<Name>,
) -> Option<Change> {
    if pair[0] != pair[1] {
        // Only the two vertices across their edge may be beside both.
        let [own, others] = pair.map(|v| stars.vertices(sharpened, v));
        let common = own.iter().filter(|v| others.binary_search(v).is_ok());
        if common.count() != 4 {
            return None;
        }
    }
    let goes = |t: &[VertexId; 3]| pair[0] != pair[1] && pair.iter().all(|v| t.contains(v));
    merged(sharpened, stars, pair, place, failed, goes)
}

/// Two vertices made one at a place, without the triangles that go.
fn merged(
    sharpened: &Sharpened<'_>,
    stars: &Stars,
    [vertex, other]: [VertexId; 2],
    place: DVec3,
    failed: &FxHashSet<Name>,
    goes: impl Fn(&[VertexId; 3]) -> bool,
) -> Option<Change> {
    let kind = match vertex == other {
        true => Kind::Moved,
        false => Kind::Contracted,
    };
    if failed.contains(&([vertex, other], kind)) {
        return None;
    }
    let mut gone = stars.round[&vertex].clone();
    if other != vertex {
        gone.extend(&stars.round[&other]);
        gone.sort_unstable();
        gone.dedup();
    }
    let instead: Vec<[VertexId; 3]> = gone
        .iter()
        .map(|&t| sharpened.extracted.triangles[t as usize])
        .filter(|t| !goes(t))
        .map(|t| t.map(|v| if v == other { vertex } else { v }))
        .collect();
    let after = |t: &[VertexId; 3]| t.map(|v| if v == vertex { place } else { sharpened.at(v) });
    let mut now = Off::default();
    gone.iter().for_each(|t| now.add(&stars.off[t]));
    now.most += WORSE * sharpened.cell();
    let then = Off::of_all(
        sharpened,
        &instead.iter().map(after).collect::<Vec<_>>(),
        &now,
    )?;
    Some(Change {
        name: ([vertex, other], kind),
        gain: now.between - then.between,
        gone,
        instead,
        added: None,
        moved: Some((vertex, place)),
        merged: (vertex != other).then_some([other, vertex]),
        edge: None,
    })
}
