//! What a new layout of UVs is like, in words.

use crate::text;
use hurmo_core::Model;
use hurmo_core::uv::atlas::Atlas;
use hurmo_core::uv::{Layout, tile_used};

/// How many charts there are, how much of the tile they take, and how far they are
/// stretched, of a model that has the layout.
pub fn made_in_words(atlas: &Atlas, onto: &Model) -> String {
    let used = Layout::of(onto).map_or(0.0, |layout| tile_used(&layout, 0..layout.len()));
    format!(
        "UVs in {} on {:.1}% of the tile, {} pixels a unit; stretched by {:.3} on average, {:.2} at most",
        text::counted(atlas.charts, "chart"),
        100.0 * used,
        text::measure(atlas.density),
        atlas.stretch.mean_skew,
        atlas.stretch.worst_skew
    )
}
