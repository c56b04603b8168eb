//! Walls that are made thicker, and gaps that are closed: posts stand in them.

use super::ReskinOptions;
use super::added::{Added, Capsules};
use super::inside_test::InsideTest;
use super::thickness_probes::Probe;
use glam::DVec3;

/// The radius of the posts that stand in walls and gaps, in spacings of the places looked at: every
/// place between four lies in a post.
const POST: f64 = 0.75;

/// Walls or gaps that were changed, by the places that they were looked at from.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Changed {
    /// From how many places one was found.
    pub places: usize,
    /// How far it is across where that is least, for walls, or most, for gaps.
    pub across: f64,
    /// Where that is.
    pub at: DVec3,
}

/// Walls that are made thicker, if that is asked for, and what is added for that.
pub(super) fn thickened(
    inside_test: &InsideTest<'_>,
    options: &ReskinOptions,
    spacing: f64,
    sheets_only: bool,
) -> (Option<Changed>, Option<Added>) {
    let Some(least) = options.min_thickness else {
        return (None, None);
    };
    let walls = match sheets_only {
        true => inside_test.sheets(spacing),
        false => inside_test.thin_walls(least, spacing),
    };
    let capsules = walls.iter().map(|wall| wall.thickened(least)).collect();
    let added = Added::Capsules(Capsules::of(capsules, POST * spacing));
    (changed(&walls, |a, b| a < b), Some(added))
}

/// Gaps that are closed, if that is asked for, and what is added for that.
pub(super) fn bridged(
    inside_test: &InsideTest<'_>,
    options: &ReskinOptions,
    spacing: f64,
) -> (Option<Changed>, Option<Added>) {
    let Some(widest) = options.close_gaps else {
        return (None, None);
    };
    let radius = POST * spacing;
    let gaps = inside_test.gaps(widest, spacing);
    let capsules = gaps.iter().map(|gap| gap.bridged(radius)).collect();
    let added = Added::Capsules(Capsules::of(capsules, radius));
    (changed(&gaps, |a, b| a > b), Some(added))
}

/// The walls or gaps that changed, described by the one that is `more` than any other.
fn changed(probes: &[Probe], more: impl Fn(f64, f64) -> bool) -> Option<Changed> {
    let mut most = probes.first()?;
    for probe in probes {
        if more(probe.across, most.across) {
            most = probe;
        }
    }
    Some(Changed {
        places: probes.len(),
        across: most.across,
        at: most.middle,
    })
}
