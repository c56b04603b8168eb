//! Cutting many things into lists of some that lie together.

use glam::Vec3;

/// Lists of things that lie together, given by their places: none longer than `most`, each
/// sorted. A list that is too long is divided along the longest side of its box, this share of
/// it to one side.
pub fn by_place(places: &mut [(Vec3, u32)], most: usize, at: f64) -> Vec<Vec<u32>> {
    if places.len() <= most {
        let mut list: Vec<u32> = places.iter().map(|place| place.1).collect();
        list.sort_unstable();
        return vec![list];
    }
    let (mut low, mut high) = (Vec3::MAX, Vec3::MIN);
    for (place, _) in places.iter() {
        (low, high) = (low.min(*place), high.max(*place));
    }
    let axis = (high - low).max_position();
    let middle = (places.len() as f64 * at) as usize;
    places.select_nth_unstable_by(middle, |one, two| {
        let along = one.0[axis].total_cmp(&two.0[axis]);
        along.then(one.1.cmp(&two.1))
    });
    let (one, two) = places.split_at_mut(middle);
    let (mut lists, others) = rayon::join(|| by_place(one, most, at), || by_place(two, most, at));
    lists.extend(others);
    lists
}
