//! Which points are one vertex: exactly equal ones, or those within a length.
//!
//! The exact weld hashes every point, spreads the points over buckets by hash, and looks each
//! bucket's points up in a small table of its own that fits the cache; buckets run in
//! parallel. Since a bucket holds its points in index order, the first of equal points is
//! found whatever the number of threads. Cost: O(points) time; a key
//! and eight bytes a point.
//!
//! The near weld goes through the vertices in index order. Each joins the closest vertex that
//! was kept before it and lies within the distance, or else is kept itself. So no chain of
//! small steps can join two vertices further apart than twice the distance, and two kept
//! vertices are always further apart than the distance.

use crate::mesh::{Mesh, VertexId};
use crate::parallel::{change_each, for_each, mapped_of};
use glam::DVec3;
use rustc_hash::FxHashMap;

const EMPTY: u32 = u32::MAX;

/// For every point, the lowest index among the points equal to it. `key(i)` gives a point's
/// coordinates as bits; see `position_key` for why -0 must have been turned into 0.
pub fn first_of_equal<K>(count: usize, key: impl Fn(usize) -> K + Sync) -> Vec<u32>
where
    K: Hashed,
{
    let bits = (count / 8_192).max(1).ilog2().min(10);
    let (starts, members) = in_buckets(count, bits, key);
    let mut first = vec![0u32; count];
    let writer = Scatter(first.as_mut_ptr());
    for_each(1usize << bits, 1, |bucket| {
        let members = &members[starts[bucket] as usize..starts[bucket + 1] as usize];
        let slots = (members.len() * 2).next_power_of_two();
        // Of each slot's point: its place among the members.
        let mut table = vec![EMPTY; slots];
        for (place, (wanted, i)) in members.iter().enumerate() {
            let mut slot = wanted.hashed() as usize & (slots - 1);
            let found = loop {
                match table[slot] {
                    EMPTY => {
                        table[slot] = place as u32;
                        break *i;
                    }
                    other if members[other as usize].0 == *wanted => {
                        break members[other as usize].1;
                    }
                    _ => slot = (slot + 1) & (slots - 1),
                }
            };
            // SAFETY: every index below `count` is in exactly one bucket, once.
            unsafe { writer.set(*i as usize, found) };
        }
    });
    first
}

/// The mesh with one vertex at each place: what is at one place hangs together.
pub fn welded(mesh: &Mesh) -> Mesh {
    let place = exact_weld(mesh.positions());
    let corners = mesh.corners().iter().map(|v| place[v.index()]).collect();
    Mesh::from_parts(mesh.positions().to_vec(), corners, mesh.starts().to_vec())
        .expect("the parts of a mesh")
}

/// A place that threads write to at indices of which no two are equal.
struct Scatter<T>(*mut T);

// SAFETY: callers of `set` promise distinct indices, so no two threads touch one element.
unsafe impl<T: Send> Sync for Scatter<T> {}

impl<T: Copy> Scatter<T> {
    /// # Safety
    /// `index` must be in bounds and written by no other thread.
    #[inline]
    unsafe fn set(&self, index: usize, value: T) {
        unsafe { *self.0.add(index) = value }
    }
}

/// All keys with their indices, sorted by the top bits of their hash; those of one bucket in
/// index order. Also where each bucket starts.
fn in_buckets<K: Hashed>(
    count: usize,
    bits: u32,
    key: impl Fn(usize) -> K + Sync,
) -> (Vec<u32>, Vec<(K, u32)>) {
    const STRETCH: usize = 1 << 18;
    let buckets = 1usize << bits;
    let bucket_of = |key: K| (key.hashed() >> 32 >> (32 - bits)) as usize;
    let stretches: Vec<_> = (0..count)
        .step_by(STRETCH)
        .map(|from| from..(from + STRETCH).min(count))
        .collect();
    let mut next: Vec<Vec<u32>> = mapped_of(&stretches, 1, |stretch| {
        let mut counts = vec![0u32; buckets];
        stretch.clone().for_each(|i| counts[bucket_of(key(i))] += 1);
        counts
    });
    let mut starts = Vec::with_capacity(buckets + 1);
    let mut sum = 0;
    for bucket in 0..buckets {
        starts.push(sum);
        for counts in &mut next {
            sum += std::mem::replace(&mut counts[bucket], sum);
        }
    }
    starts.push(sum);
    let mut members = vec![(K::default(), 0u32); count];
    let writer = Scatter(members.as_mut_ptr());
    change_each(&mut next, 1, |stretch, next| {
        for i in stretches[stretch].clone() {
            let key = key(i);
            let slot = &mut next[bucket_of(key)];
            // SAFETY: counted above, every slot is given out once.
            unsafe { writer.set(*slot as usize, (key, i as u32)) };
            *slot += 1;
        }
    });
    (starts, members)
}

/// Coordinates as bits, with a hash.
pub trait Hashed: Eq + Copy + Default + Send + Sync {
    /// A hash whose high and low bits are both well mixed.
    fn hashed(&self) -> u64;
}

impl Hashed for [u64; 3] {
    #[inline]
    fn hashed(&self) -> u64 {
        mixed(mixed(mixed(self[0]) ^ self[1]) ^ self[2])
    }
}

impl Hashed for [u32; 3] {
    #[inline]
    fn hashed(&self) -> u64 {
        mixed(mixed(self[0] as u64 | (self[1] as u64) << 32) ^ self[2] as u64)
    }
}

/// Steele, Lea & Flood 2014: the finishing step of a splittable generator, which spreads every
/// input bit over all output bits.
#[inline]
fn mixed(mut x: u64) -> u64 {
    x = (x ^ (x >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    x = (x ^ (x >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    x ^ (x >> 31)
}

/// A position as bits, such that equal coordinates have equal bits: -0 becomes 0.
#[inline]
pub fn position_key(position: DVec3) -> [u64; 3] {
    (position + DVec3::ZERO).to_array().map(f64::to_bits)
}

/// For every position, the lowest vertex at the same place.
pub fn exact_weld(positions: &[DVec3]) -> Vec<VertexId> {
    first_of_equal(positions.len(), |i| position_key(positions[i]))
        .into_iter()
        .map(VertexId)
        .collect()
}

/// Turns "the first vertex like this one" into new consecutive names in order of first
/// appearance; returns how many there are.
pub fn numbered_by_first(first: &mut [VertexId]) -> usize {
    let mut count = 0;
    for i in 0..first.len() {
        first[i] = if first[i].index() == i {
            count += 1;
            VertexId::new(count - 1)
        } else {
            first[first[i].index()]
        };
    }
    count
}

/// For every position, the vertex that it joins in a weld within `distance`: itself if kept.
pub fn near_weld(positions: &[DVec3], distance: f64) -> Vec<VertexId> {
    if distance <= 0.0 {
        return exact_weld(positions);
    }
    // Cells a little wider than the distance, so that rounding can't hide a neighbour.
    let width = distance * (1.0 + 1e-9);
    let cell = |p: DVec3| (p / width).floor().to_array().map(|c| c as i64);
    let mut kept: FxHashMap<[i64; 3], Vec<u32>> = FxHashMap::default();
    let mut joins = Vec::with_capacity(positions.len());
    for (i, &position) in positions.iter().enumerate() {
        let home = cell(position);
        let mut best = (distance, EMPTY);
        for dz in -1..=1i64 {
            for dy in -1..=1i64 {
                for dx in -1..=1i64 {
                    let there = [
                        home[0].saturating_add(dx),
                        home[1].saturating_add(dy),
                        home[2].saturating_add(dz),
                    ];
                    for &other in kept.get(&there).map_or(&[][..], Vec::as_slice) {
                        let apart = positions[other as usize].distance(position);
                        if apart < best.0 || (apart == best.0 && other < best.1) {
                            best = (apart, other);
                        }
                    }
                }
            }
        }
        if best.1 == EMPTY {
            kept.entry(home).or_default().push(i as u32);
            joins.push(VertexId::new(i));
        } else {
            joins.push(VertexId(best.1));
        }
    }
    joins
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn minus_zero_is_zero() {
        let welded = exact_weld(&[DVec3::new(-0.0, 1.0, 0.0), DVec3::new(0.0, 1.0, -0.0)]);
        assert_eq!(welded, [VertexId(0), VertexId(0)]);
    }

    #[test]
    fn numbers_follow_first_appearance() {
        let mut first = [0, 1, 0, 3, 1].map(VertexId);
        assert_eq!(numbered_by_first(&mut first), 3);
        assert_eq!(first, [0, 1, 0, 2, 1].map(VertexId));
    }

    #[test]
    fn near_weld_does_not_chain() {
        let line: Vec<_> = (0..10)
            .map(|i| DVec3::new(i as f64 * 0.9, 0.0, 0.0))
            .collect();
        let joins = near_weld(&line, 1.0);
        for (i, join) in joins.iter().enumerate() {
            assert!(line[i].distance(line[join.index()]) <= 1.0);
        }
        assert_eq!(joins[2], VertexId(2), "two steps on is a vertex of its own");
    }

    proptest! {
        #[test]
        fn exact_weld_equals_comparing_all_pairs(
            points in prop::collection::vec((0..4i8, 0..4i8, -1..2i8), 1..200)
        ) {
            let positions: Vec<_> = points
                .iter()
                .map(|&(x, y, z)| DVec3::new(x.into(), y.into(), f64::from(z) * 0.0))
                .collect();
            for (i, first) in exact_weld(&positions).iter().enumerate() {
                let expected = positions.iter().position(|p| *p == positions[i]).unwrap();
                prop_assert_eq!(first.index(), expected);
            }
        }

        #[test]
        fn kept_vertices_of_a_near_weld_are_apart(
            points in prop::collection::vec((0.0..3.0f64, 0.0..3.0f64), 1..120)
        ) {
            let positions: Vec<_> = points.iter().map(|&(x, y)| DVec3::new(x, y, 0.0)).collect();
            let joins = near_weld(&positions, 0.4);
            let kept: Vec<_> = (0..joins.len()).filter(|&i| joins[i].index() == i).collect();
            for &a in &kept {
                for &b in &kept {
                    prop_assert!(a == b || positions[a].distance(positions[b]) > 0.4);
                }
            }
        }
    }
}
