//! Levels of a rebuild with quads: divided, with the detail of the surface.

use anyhow::Result;
use hurmo_core::Model;
use hurmo_core::progress::Observer;
use hurmo_core::quads::{QuadOptions, QuadOutcome, feature_lines};
use hurmo_core::subdivision::{Base, Level, LevelOptions, levels};

/// Levels that are asked for.
pub(super) struct LevelWish {
    /// How many.
    pub levels: usize,
    /// How far a vertex goes from where the division puts it, in model units.
    pub travel: Option<f64>,
}

impl LevelWish {
    /// Levels of quads that were made of a surface.
    pub fn levels_of(
        &self,
        made: &QuadOutcome,
        surface: &Model,
        how: &QuadOptions,
        observer: &dyn Observer,
    ) -> Result<Vec<Level>> {
        if self.levels == 0 {
            return Ok(Vec::new());
        }
        let mut options = LevelOptions::of(self.levels, self.travel.unwrap_or(made.edge));
        options.lines = feature_lines(surface, how, made.edge);
        Ok(levels(&Base::of(made), surface, &options, observer)?)
    }
}
