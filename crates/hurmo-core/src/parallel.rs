//! Work on all cores that is cheap to compile. A parallel iterator is compiled anew for each chain of
//! adaptors, some thousand lines each time; here one function is, whatever runs on the threads.

use rayon::prelude::*;
use std::mem::MaybeUninit;
use std::ops::Range;
use std::sync::Mutex;

/// Calls `work` with runs of so many numbers below `count`, on all cores, in no order.
pub(crate) fn in_runs(count: usize, run: usize, work: &(dyn Fn(Range<usize>) + Sync)) {
    match count.div_ceil(run) {
        0 => {}
        1 => work(0..count),
        runs => (0..runs)
            .into_par_iter()
            .for_each(|i| work(i * run..((i + 1) * run).min(count))),
    }
}

/// Into no more runs than this is work divided.
const RUNS: usize = 1024;

/// What `make` makes of each number below `count`, in order; so many at least on one core.
pub(crate) fn mapped<T: Send>(
    count: usize,
    least: usize,
    make: impl Fn(usize) -> T + Sync,
) -> Vec<T> {
    let least = least.max(count.div_ceil(RUNS));
    let mut made: Vec<T> = Vec::with_capacity(count);
    let places = &mut made.spare_capacity_mut()[..count];
    let runs: Vec<Mutex<&mut [MaybeUninit<T>]>> =
        places.chunks_mut(least).map(Mutex::new).collect();
    in_runs(count, least, &|numbers: Range<usize>| {
        let mut run = runs[numbers.start / least]
            .lock()
            .expect("each is locked once");
        for (place, number) in run.iter_mut().zip(numbers) {
            place.write(make(number));
        }
    });
    drop(runs);
    // SAFETY: every one of the `count` places lies in one run, and each run was written from end to
    // end: `in_runs` returns only when all calls have.
    unsafe { made.set_len(count) };
    made
}

/// What `make` makes of each of these, in order; so many at least on one core.
pub(crate) fn mapped_of<S: Sync, T: Send>(
    all: &[S],
    least: usize,
    make: impl Fn(&S) -> T + Sync,
) -> Vec<T> {
    mapped(all.len(), least, |i| make(&all[i]))
}

/// What `make` puts behind each other for each number below `count`, in order; so many at least on
/// one core.
pub(crate) fn listed<T: Send>(
    count: usize,
    least: usize,
    make: impl Fn(usize, &mut Vec<T>) + Sync,
) -> Vec<T> {
    let least = least.max(count.div_ceil(RUNS));
    let mut lists = mapped(count.div_ceil(least), 1, |run| {
        let mut list = Vec::new();
        for number in run * least..((run + 1) * least).min(count) {
            make(number, &mut list);
        }
        list
    });
    match lists.len() {
        1 => lists.swap_remove(0),
        _ => {
            let mut all = Vec::with_capacity(lists.iter().map(Vec::len).sum());
            lists.into_iter().for_each(|list| all.extend(list));
            all
        }
    }
}

/// What `make` makes of some of the numbers below `count`, in order; so many at least on one core.
pub(crate) fn chosen<T: Send>(
    count: usize,
    least: usize,
    make: impl Fn(usize) -> Option<T> + Sync,
) -> Vec<T> {
    listed(count, least, |number, list| list.extend(make(number)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn everything_is_made_once_and_in_order() {
        for (count, least) in [(0, 4), (1, 4), (4, 4), (5, 4), (1000, 7), (3, 1000)] {
            let expected: Vec<String> = (0..count).map(|i| i.to_string()).collect();
            assert_eq!(mapped(count, least, |i| i.to_string()), expected);
            let odd = chosen(count, least, |i| (i % 2 == 1).then_some(i));
            assert_eq!(odd, (1..count).step_by(2).collect::<Vec<_>>());
            let twice = listed(count, least, |i, list| list.extend([i, i]));
            assert_eq!(twice, (0..2 * count).map(|i| i / 2).collect::<Vec<_>>());
        }
    }

    #[test]
    fn a_panic_comes_out_of_it() {
        let made = std::panic::catch_unwind(|| {
            mapped(100, 3, |i| match i {
                50 => panic!("at fifty"),
                _ => i.to_string(),
            })
        });
        assert!(made.is_err());
    }
}
