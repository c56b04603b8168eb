//! What a new layout of UVs is like.

use crate::record::Statement;
use crate::said;
use hurmo_core::Model;
use hurmo_core::uv::atlas::Atlas;
use hurmo_core::uv::{Layout, tile_used};

/// How many charts there are, how much of the tile they take, and how far they are
/// stretched, of a model that has the layout.
pub fn made(atlas: &Atlas, onto: &Model) -> Statement {
    let used = Layout::of(onto).map_or(0.0, |layout| tile_used(&layout, 0..layout.len()));
    let [mean, worst] = [atlas.stretch.mean_skew, atlas.stretch.worst_skew];
    said!(
        "uvs-made",
        "UVs in {charts:chart} on {share}% of the tile, {density} pixels a unit; stretched by {mean} on average, \
         {worst} at most",
        charts = atlas.charts,
        share = (100.0 * used, format!("{:.1}", 100.0 * used)),
        density = atlas.density,
        mean = (mean, format!("{mean:.3}")),
        worst = (worst, format!("{worst:.2}")),
    )
}
