//! Work on all cores that is cheap to compile. A parallel iterator is compiled anew for each chain of
//! adaptors, some thousand lines each time; here one function is, whatever runs on the threads.

use rayon::prelude::*;
use std::mem::MaybeUninit;
use std::ops::Range;
use std::sync::Mutex;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering::Relaxed};

/// Calls `work` with runs of this many numbers below `count`, on all cores, in no order.
pub(crate) fn in_runs(count: usize, run: usize, work: &(dyn Fn(Range<usize>) + Sync)) {
    match count.div_ceil(run) {
        0 => {}
        1 => work(0..count),
        runs => (0..runs)
            .into_par_iter()
            .for_each(|i| work(i * run..((i + 1) * run).min(count))),
    }
}

/// Calls `work` with each number below `count`, on all cores, in no order; this many at least on one core.
pub(crate) fn for_each(count: usize, least: usize, work: impl Fn(usize) + Sync) {
    let each = |run: Range<usize>| run.for_each(&work);
    in_runs(count, run_of(count, least), &each);
}

/// Into no more runs than this is work divided.
const RUNS: usize = 1024;

/// How long a run is that is to be so long at least.
fn run_of(count: usize, least: usize) -> usize {
    least.max(count.div_ceil(RUNS)).max(1)
}

/// What `make` makes of each number below `count`, in order; this many at least on one core.
pub(crate) fn mapped<T: Send>(
    count: usize,
    least: usize,
    make: impl Fn(usize) -> T + Sync,
) -> Vec<T> {
    let least = run_of(count, least);
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

/// What `make` makes of each of these, in order; this many at least on one core.
pub(crate) fn mapped_of<S: Sync, T: Send>(
    all: &[S],
    least: usize,
    make: impl Fn(&S) -> T + Sync,
) -> Vec<T> {
    mapped(all.len(), least, |i| make(&all[i]))
}

/// The same with something to write in that is made for each core and used over and over.
pub(crate) fn mapped_with<S: Send, T: Send>(
    count: usize,
    least: usize,
    begin: impl Fn() -> S + Sync,
    make: impl Fn(&mut S, usize) -> T + Sync,
) -> Vec<T> {
    let free: Mutex<Vec<S>> = Mutex::new(Vec::new());
    listed_in_runs(count, least, |numbers, list| {
        let taken = free.lock().ok().and_then(|mut free| free.pop());
        let mut scratch = taken.unwrap_or_else(&begin);
        list.extend(numbers.map(|number| make(&mut scratch, number)));
        if let Ok(mut free) = free.lock() {
            free.push(scratch);
        }
    })
}

/// What `make` makes of each of these, which it takes, in order.
pub(crate) fn mapped_from<S: Send, T: Send>(all: Vec<S>, make: impl Fn(S) -> T + Sync) -> Vec<T> {
    let all: Vec<Mutex<Option<S>>> = all.into_iter().map(|one| Mutex::new(Some(one))).collect();
    mapped_of(&all, 1, |one| {
        let one = one.lock().expect("each is taken once").take();
        make(one.expect("each is taken once"))
    })
}

/// What `make` makes of each run of this many numbers below `count`, in order. Runs are as long on any number
/// of threads: sums of them come out the same.
pub(crate) fn of_runs<T: Send>(
    count: usize,
    run: usize,
    make: impl Fn(Range<usize>) -> T + Sync,
) -> Vec<T> {
    mapped(count.div_ceil(run), 1, |i| {
        make(i * run..((i + 1) * run).min(count))
    })
}

/// What `make` lists of runs of this many numbers below `count`, one run's list behind the other's, in
/// order. What a chain of iterators does on one core, this does on all.
pub(crate) fn listed_in_runs<T: Send>(
    count: usize,
    run: usize,
    make: impl Fn(Range<usize>, &mut Vec<T>) + Sync,
) -> Vec<T> {
    let mut lists = of_runs(count, run_of(count, run), |numbers| {
        let mut list = Vec::new();
        make(numbers, &mut list);
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

/// What `make` lists of each group of these that follow each other and are `alike`, in order; this many at
/// least on one core.
pub(crate) fn listed_in_groups<S: Sync, T: Send>(
    all: &[S],
    least: usize,
    alike: impl Fn(&S, &S) -> bool + Sync,
    make: impl Fn(&[S], &mut Vec<T>) + Sync,
) -> Vec<T> {
    // A run has the groups that begin in it.
    let begins = |i: &usize| *i == 0 || !alike(&all[i - 1], &all[*i]);
    listed_in_runs(all.len(), least, |run, list| {
        if let Some(first) = run.clone().find(begins) {
            let next = (run.end..all.len()).find(begins).unwrap_or(all.len());
            let own = all[first..next].chunk_by(&alike);
            own.for_each(|group| make(group, list));
        }
    })
}

/// What `make` puts behind each other for each number below `count`, in order; this many at least on
/// one core.
pub(crate) fn listed<T: Send>(
    count: usize,
    least: usize,
    make: impl Fn(usize, &mut Vec<T>) + Sync,
) -> Vec<T> {
    listed_in_runs(count, least, |numbers, list| {
        numbers.for_each(|number| make(number, list));
    })
}

/// What `make` makes of some of the numbers below `count`, in order; this many at least on one core.
pub(crate) fn chosen<T: Send>(
    count: usize,
    least: usize,
    make: impl Fn(usize) -> Option<T> + Sync,
) -> Vec<T> {
    listed(count, least, |number, list| list.extend(make(number)))
}

/// Those of these for which `is_one` holds, in order; this many at least on one core.
pub(crate) fn kept<T: Send + Sync + Clone>(
    all: &[T],
    least: usize,
    is_one: impl Fn(&T) -> bool + Sync,
) -> Vec<T> {
    listed_in_runs(all.len(), least, |run, list| {
        list.extend(all[run].iter().filter(|one| is_one(one)).cloned());
    })
}

/// The sum of what `count_of` counts for each number below `count`; this many at least on one core.
pub(crate) fn counted(
    count: usize,
    least: usize,
    count_of: impl Fn(usize) -> usize + Sync,
) -> usize {
    let sum = AtomicUsize::new(0);
    let add = |run: Range<usize>| {
        sum.fetch_add(run.map(&count_of).sum(), Relaxed);
    };
    in_runs(count, run_of(count, least), &add);
    sum.into_inner()
}

/// Whether `is_one` holds for any number below `count`; this many at least on one core.
pub(crate) fn any(count: usize, least: usize, is_one: impl Fn(usize) -> bool + Sync) -> bool {
    let found = AtomicBool::new(false);
    in_runs(count, run_of(count, least), &|mut numbers| {
        if numbers.any(|number| found.load(Relaxed) || is_one(number)) {
            found.store(true, Relaxed);
        }
    });
    found.into_inner()
}

/// Whether `is_one` holds for every number below `count`; this many at least on one core.
pub(crate) fn all(count: usize, least: usize, is_one: impl Fn(usize) -> bool + Sync) -> bool {
    !any(count, least, |number| !is_one(number))
}

/// Calls `change` with each of these and its place, in no order; this many at least on one core.
pub(crate) fn change_each<T: Send>(
    all: &mut [T],
    least: usize,
    change: impl Fn(usize, &mut T) + Sync,
) {
    let count = all.len();
    let least = run_of(count, least);
    let runs: Vec<Mutex<&mut [T]>> = all.chunks_mut(least).map(Mutex::new).collect();
    in_runs(count, least, &|numbers: Range<usize>| {
        let mut run = runs[numbers.start / least]
            .lock()
            .expect("each is locked once");
        for (one, number) in run.iter_mut().zip(numbers) {
            change(number, one);
        }
    });
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
            let odd = kept(&(0..count).collect::<Vec<_>>(), least, |i| i % 2 == 1);
            assert_eq!(odd, (1..count).step_by(2).collect::<Vec<_>>());
            let numbers: Vec<usize> = (0..count).collect();
            for length in [1, 3, 1000] {
                let alike = |a: &usize, b: &usize| a / length == b / length;
                let own = |group: &[usize], list: &mut Vec<_>| list.push(group.to_vec());
                let groups = listed_in_groups(&numbers, least, alike, own);
                let expected: Vec<&[usize]> = numbers.chunks(length).collect();
                assert_eq!(groups, expected);
                let runs = of_runs(count, length, |run| numbers[run].to_vec());
                assert_eq!(runs, expected);
            }
            let odd = counted(count, least, |i| i % 2);
            assert_eq!(odd, count / 2);
            let with = mapped_with(count, least, String::new, |text, i| {
                text.clear();
                text.push_str(&i.to_string());
                text.clone()
            });
            assert_eq!(with, expected);
            let taken = mapped_from(with, |text| text + ".");
            assert_eq!(
                taken,
                expected
                    .iter()
                    .map(|text| text.clone() + ".")
                    .collect::<Vec<_>>()
            );
            let mut places = vec![0; count];
            change_each(&mut places, least, |place, one| *one += place + 1);
            assert_eq!(places, (1..=count).collect::<Vec<_>>());
            for wanted in [0, 3, 999] {
                assert_eq!(any(count, least, |i| i == wanted), wanted < count);
                assert_eq!(all(count, least, |i| i != wanted), wanted >= count);
            }
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
