//! Rounds until a surface has settled.
//!
//! ```text
//! model ─▶ rounds with edges twice as long ─▶ every triangle becomes four ─▶ rounds ─▶ even
//! ```
//!
//! With long edges a round takes a quarter of the time, and what becomes even there stays so when
//! it is divided.

use super::Target;
use super::regions;
use super::sheet::{ReferenceSurface, Sheet};
use super::thin::coarse_lengths;
use crate::progress::Observer;

/// Fewer triangles than this are not laid coarsely first.
const FEW: f64 = 2_000.0;
/// Edges end a little longer than what they are held against.
pub(super) const HELD_AGAINST: f64 = 0.945;
/// Once divided, some triangles are taken out again, so that this share is left.
const LEFT: f64 = 0.985;
/// By which power of the share that is missing lengths are corrected: a half would be exact, if
/// lengths followed at once.
const CORRECTION: f64 = 0.7;
/// Where the count changes by less than this share in a round, the surface has settled.
const SETTLED: f64 = 0.1;
/// Or else rounds go on as long as this share more of the angles becomes even ...
const WORTH: f64 = 0.01;
/// ... until this share is.
const EVEN_ENOUGH: f64 = 0.96;
/// Where only some rounds are done, they end when this share is.
const MOSTLY_EVEN: f64 = 0.93;
/// Until it has settled, and a count is met, this many rounds more.
const MORE_ROUNDS: usize = 12;

/// How often narrow triangles, and places beside the surface, are looked for in the end.
const POLISHES: usize = 4;

/// A time of many rounds.
struct Rounds {
    /// How many triangles there should be in the end.
    count: Option<f64>,
    /// A count is met within this share.
    close: f64,
    /// How many rounds at least.
    least: usize,
}

/// Does rounds until the surface has as many triangles as it should, and they are even.
/// `expected`: about how many that will be.
pub(super) fn settle(
    sheet: &mut Sheet,
    reference: &ReferenceSurface<'_>,
    target: &Target,
    expected: f64,
    observer: &dyn Observer,
) {
    let held_against = match target {
        // Lengths that follow the bend are chosen so that longer edges do no harm.
        Target::Within { .. } => 1.0,
        _ => HELD_AGAINST,
    };
    sheet.edge *= held_against;
    let count = match target {
        Target::Count(count) => Some(*count as f64),
        _ => None,
    };
    let is_many = expected > FEW;
    if is_many {
        lay_coarsely(sheet, reference, count, observer);
        sheet.divide_in_four(reference);
        sheet.space_lines(reference);
    }
    let finely = Rounds {
        count,
        close: 0.025,
        least: if is_many { 1 } else { 4 },
    };
    until_even(sheet, reference, &finely, observer);
    polish(sheet, reference);
    sheet.edge /= held_against;
}

/// Does some rounds, at least and at most, of a surface that has about as many triangles as it should.
pub(super) fn even_out(
    sheet: &mut Sheet,
    reference: &ReferenceSurface<'_>,
    [least, most]: [usize; 2],
    observer: &dyn Observer,
) {
    sheet.edge *= HELD_AGAINST;
    observer.begin("evening out", least as u64);
    for round in 0..most {
        let is_done = round >= least && sheet.even_angles() > MOSTLY_EVEN;
        if is_done || observer.cancelled() {
            break;
        }
        regions::round(sheet, reference, round, observer);
        observer.at((round + 1).min(least) as u64);
    }
    sheet.space_lines(reference);
    reshape_narrow(sheet, reference);
    sheet.edge /= HELD_AGAINST;
}

/// Does rounds with edges twice as long, but where the surface is thin. `count`: of triangles, in
/// the end.
fn lay_coarsely(
    sheet: &mut Sheet,
    reference: &ReferenceSurface<'_>,
    count: Option<f64>,
    observer: &dyn Observer,
) {
    let rounds = Rounds {
        count: count.map(|count| count / 4.0 / LEFT),
        close: 0.02,
        least: 4,
    };
    let lengths = match reference.sizing {
        None => coarse_lengths(sheet, reference, sheet.edge),
        Some(_) => None,
    };
    if let Some(lengths) = &lengths {
        let vertices = 0..sheet.linked.positions.len();
        sheet.sizing = vertices.map(|v| lengths.of_vertex(v)).collect();
    }
    let sizing = reference.sizing.or(lengths.as_ref());
    sheet.edge *= 2.0;
    sheet.is_coarse = true;
    until_even(
        sheet,
        &ReferenceSurface {
            sizing,
            ..*reference
        },
        &rounds,
        observer,
    );
    sheet.edge /= 2.0;
    sheet.is_coarse = false;
    if lengths.is_some() {
        sheet.sizing.clear();
    }
}

/// Betters what few narrow triangles and places beside the surface are left.
fn polish(sheet: &mut Sheet, reference: &ReferenceSurface<'_>) {
    sheet.space_lines(reference);
    for _ in 0..POLISHES {
        let off = sheet.bring_back(reference);
        let narrow = reshape_narrow(sheet, reference);
        if off == 0 && narrow == 0 {
            return;
        }
    }
}

/// Flips edges of narrow triangles and moves their vertices, where that shapes them better; how many there were.
fn reshape_narrow(sheet: &mut Sheet, reference: &ReferenceSurface<'_>) -> usize {
    let narrow = sheet.narrow_triangles();
    for &t in &narrow {
        sheet.flip_to_better_shape(t);
        for v in sheet.linked.triangle(t).into_iter().flatten() {
            sheet.relax_to_better_shape(v, reference);
        }
    }
    narrow.len()
}

/// Does rounds until the triangles are even and as many as they should be.
fn until_even(
    sheet: &mut Sheet,
    reference: &ReferenceSurface<'_>,
    rounds: &Rounds,
    observer: &dyn Observer,
) {
    let least = rounds.least;
    let share = |sheet: &Sheet| {
        let count = rounds.count;
        count.map_or(1.0, |count| sheet.linked.living() as f64 / count)
    };
    observer.begin("remeshing", least as u64);
    let (mut is_settled, mut is_even, mut even) = (false, false, 0.0);
    for round in 0..least + MORE_ROUNDS {
        let is_met = (share(sheet) - 1.0).abs() <= rounds.close;
        let is_done = round >= least && is_settled && is_even && is_met;
        if is_done || observer.cancelled() {
            return;
        }
        if is_settled && !is_met {
            sheet.edge *= share(sheet).powf(CORRECTION);
        }
        let was = (sheet.linked.living() as f64, even);
        regions::round(sheet, reference, round, observer);
        even = sheet.even_angles();
        is_settled = (sheet.linked.living() as f64 / was.0 - 1.0).abs() < SETTLED;
        is_even = even > EVEN_ENOUGH || even < was.1 + WORTH;
        observer.at((round + 1).min(least) as u64);
    }
}
