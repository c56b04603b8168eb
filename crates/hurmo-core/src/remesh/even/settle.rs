//! Rounds until a surface has settled.

use super::Target;
use super::regions;
use super::sheet::{Ground, Sheet};
use crate::progress::Observer;

/// How many rounds are done, each time that regions are cut.
const ROUNDS: [usize; 3] = [2, 1, 1];
/// A count is met within this share.
const CLOSE: f64 = 0.025;
/// By which power of the share that is missing lengths are corrected; a half would be exact, if
/// lengths followed at once.
const CORRECTION: f64 = 0.7;
/// Where the count changes by less than this share in a time, the surface has settled.
const SETTLED: f64 = 0.1;
/// Or else rounds go on as long as this share more of the angles becomes even ...
const WORTH: f64 = 0.01;
/// ... until this share is.
const EVEN_ENOUGH: f64 = 0.96;
/// Until it has settled, and a count is met, so many times more.
const MORE_TIMES: usize = 12;

/// Does rounds until the surface has as many triangles as it should, and they are even.
pub(super) fn settle(
    sheet: &mut Sheet,
    ground: &Ground<'_>,
    target: Target,
    observer: &dyn Observer,
) {
    let share = |sheet: &Sheet| match target {
        Target::Count(count) => sheet.net.living() as f64 / count as f64,
        _ => 1.0,
    };
    observer.begin("remeshing", ROUNDS.len() as u64);
    let (mut is_settled, mut is_even, mut even) = (false, false, 0.0);
    for time in 0..ROUNDS.len() + MORE_TIMES {
        let is_met = (share(sheet) - 1.0).abs() <= CLOSE;
        let is_done = time >= ROUNDS.len() && is_settled && is_even && is_met;
        if is_done || observer.cancelled() {
            return;
        }
        if is_settled && !is_met {
            sheet.edge *= share(sheet).powf(CORRECTION);
        }
        let rounds = ROUNDS.get(time).copied().unwrap_or(1);
        let was = (sheet.net.living() as f64, even);
        regions::rounds(sheet, ground, (time, rounds), observer);
        even = sheet.even_angles();
        is_settled = (sheet.net.living() as f64 / was.0 - 1.0).abs() < SETTLED;
        is_even = even > EVEN_ENOUGH || even < was.1 + WORTH;
        observer.at((time as u64 + 1).min(ROUNDS.len() as u64));
    }
}
