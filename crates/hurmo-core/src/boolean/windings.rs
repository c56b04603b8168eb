//! How often each solid winds round both sides of a patch, and what becomes of it by that.

use super::Rule;
use super::closing;
use super::fragments::All;
use super::links::Linked;
use super::patches::Patches;
use crate::arrange::Arrangement;
use crate::mesh::FaceId;
use crate::parallel::listed;
use smallvec::SmallVec;

/// What becomes of a fragment.
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
    pub undecided: usize,
}

/// This many fragments of a patch are tried for a place; the largest first.
const TRIED: usize = 12;

/// How often solids wind round a place: those that do, in rising order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Windings(SmallVec<[(u32, i32); 2]>);

impl Windings {
    /// The solids that wind round the place, rising, and how often.
    pub fn iter(&self) -> impl Iterator<Item = (usize, i32)> + Clone {
        self.0.iter().map(|&(solid, times)| (solid as usize, times))
    }

    /// Adds turns of a solid.
    pub(super) fn add(&mut self, solid: usize, turns: i32) {
        match self.0.binary_search_by_key(&(solid as u32), |of| of.0) {
            Ok(at) => {
                self.0[at].1 += turns;
                if self.0[at].1 == 0 {
                    self.0.remove(at);
                }
            }
            Err(at) if turns != 0 => self.0.insert(at, (solid as u32, turns)),
            Err(_) => {}
        }
    }

    /// These, and this many times the others.
    pub(super) fn plus(&self, others: &Self, times: i32) -> Self {
        let mut sum = self.clone();
        for (solid, turns) in others.iter() {
            sum.add(solid, times * turns);
        }
        sum
    }
}

impl std::ops::Index<usize> for Windings {
    type Output = i32;

    /// How often a solid winds round the place.
    fn index(&self, solid: usize) -> &i32 {
        match self.0.binary_search_by_key(&(solid as u32), |of| of.0) {
            Ok(at) => &self.0[at].1,
            Err(_) => &0,
        }
    }
}

/// On either side of a patch.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Sides {
    /// Before the fronts of its fragments.
    pub front: Windings,
    /// Behind their backs.
    pub back: Windings,
}

/// Both sides of each patch: of one of those that hang together by a ray, of the others by that. `None`
/// for a set of patches that are all thinner than double precision resolves.
pub(super) fn sides(
    all: &All<'_, '_>,
    patches: &Patches,
    arrangement: &Arrangement<'_>,
) -> Vec<Option<Sides>> {
    let new_points = arrangement.new_points();
    let position = |id: u32| all.position(id, &new_points);
    let by_ray = |patch: u32| {
        let fragments = largest(patches.of(patch as usize), |fragment| {
            let [a, b, c] = all.corners(fragment).map(position);
            (b - a).cross(c - a).length_squared()
        });
        let mut fragments = fragments.into_iter();
        fragments.find_map(|fragment| sides_of(all, fragment, arrangement))
    };
    let linked = Linked::of(patches);
    let determined: Vec<(u32, Sides)> = listed(linked.sets.len(), 1, |set, determined| {
        let mut patches_of = linked.sets[set].iter();
        let first = patches_of.find_map(|&patch| Some((patch, by_ray(patch)?)));
        let spread = first.map(|(patch, sides)| linked.spread(all, patches, patch, sides));
        determined.extend(spread.into_iter().flatten());
    });
    let mut sides = vec![None; patches.len()];
    for (patch, of) in determined {
        sides[patch as usize] = Some(of);
    }
    sides
}

/// The same of a part of one solid that is known to be behind some faces, and behind all where the part ends;
/// or of one sheet, which has no windings. `None` where that does not decide the sides of all patches,
/// or they contradict it.
pub(super) fn sides_of_part(
    all: &All<'_, '_>,
    patches: &Patches,
    is_known: &(dyn Fn(FaceId) -> bool + Sync),
) -> Option<Vec<Option<Sides>>> {
    let usual = Sides {
        front: Windings::default(),
        back: Windings(SmallVec::from_slice(&[(0, 1)])),
    };
    if all.fragments.has_sheet() {
        return Some(vec![Some(usual); patches.len()]);
    }
    let is_usual = |&patch: &u32| {
        let mut fragments = patches.of(patch as usize).iter();
        patches.at_rim[patch as usize] || fragments.any(|&s| all.whole_faces(s).any(is_known))
    };
    let linked = Linked::of(patches);
    let mut sides = vec![None; patches.len()];
    for set in &linked.sets {
        let &first = set.iter().find(|patch| is_usual(patch))?;
        if all.steps(patches.of(first as usize)[0]) != usual.back {
            return None;
        }
        for (patch, of) in linked.spread(all, patches, first, usual.clone()) {
            if of != usual && is_usual(&patch) {
                return None;
            }
            sides[patch as usize] = Some(of);
        }
    }
    Some(sides)
}

/// What becomes of the fragments of each patch, when places with these windings are inside.
pub(super) fn fates(
    all: &All<'_, '_>,
    patches: &Patches,
    sides: &[Option<Sides>],
    inside: &Rule<'_>,
) -> Fates {
    let mut fates = Fates {
        of_shard: vec![Fate::Goes; all.len()],
        undecided: 0,
    };
    let mut undecided: Vec<bool> = sides.iter().map(Option::is_none).collect();
    fates.undecided = undecided.iter().filter(|is_open| **is_open).count();
    for (patch, sides) in sides.iter().enumerate() {
        let Some(sides) = sides else { continue };
        let fate = match (inside(&sides.front), inside(&sides.back)) {
            (_, behind) if all.fragments.has_sheet() => {
                match behind && all.is_sheet(patches.of(patch)[0]) {
                    true => Fate::Stays,
                    false => Fate::Goes,
                }
            }
            (false, true) => Fate::Stays,
            (true, false) => Fate::Turns,
            _ => Fate::Goes,
        };
        for &fragment in patches.of(patch) {
            fates.of_shard[fragment as usize] = fate;
        }
    }
    // A sheet need not close.
    if fates.undecided > 0 && !all.fragments.has_sheet() {
        closing::decide(all, patches, &mut undecided, &mut fates);
    }
    fates
}

/// The largest fragments of a patch, by rising number where they are alike.
fn largest(fragments: &[u32], size: impl Fn(u32) -> f64) -> Vec<u32> {
    let mut sized: Vec<(f64, u32)> = fragments
        .iter()
        .map(|&fragment| (size(fragment), fragment))
        .collect();
    let order = |a: &(f64, u32), b: &(f64, u32)| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1));
    if sized.len() > TRIED {
        sized.select_nth_unstable_by(TRIED, order);
        sized.truncate(TRIED);
    }
    sized.sort_unstable_by(order);
    sized.into_iter().map(|(_, fragment)| fragment).collect()
}

fn sides_of(all: &All<'_, '_>, fragment: u32, arrangement: &Arrangement<'_>) -> Option<Sides> {
    let own = all.kept(fragment);
    let (triangle, turned) = own[0];
    let mut corners = all.corners(fragment);
    if turned {
        corners.swap(1, 2);
    }
    let is_own = |other: u32| own.iter().any(|&(kept, _)| kept == other);
    let candidates = |bounds| all.fragments.kept_within(bounds);
    let above = arrangement.above(&candidates, (corners, triangle), is_own)?;
    let mut windings = Windings::default();
    let group = all.fragments.group(triangle);
    for (kept, up) in above.triangles {
        if all.fragments.group(kept) != group {
            continue;
        }
        let all_of = all.fragments.all_of(kept);
        for (triangle, turned) in all_of.filter(|(triangle, _)| !all.fragments.is_sheet(*triangle))
        {
            windings.add(
                all.fragments.solid(triangle),
                if up != turned { 1 } else { -1 },
            );
        }
    }
    let steps = all.steps(fragment);
    // Whether the fragment as it runs faces up.
    let faces_up = above.faces_up != turned;
    let below = windings.plus(&steps, if faces_up { 1 } else { -1 });
    Some(match faces_up {
        true => Sides {
            front: windings,
            back: below,
        },
        false => Sides {
            front: below,
            back: windings,
        },
    })
}
