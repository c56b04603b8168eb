//! Plain tables: columns set apart by space, no lines.

use comfy_table::{CellAlignment, Table as Inner, presets};

/// A table that is filled row by row.
pub struct Table {
    inner: Inner,
}

impl Table {
    /// A table with these column heads; heads that begin with `>` stand to the right.
    pub fn new(heads: &[&str]) -> Self {
        let mut inner = Inner::new();
        inner.load_style(presets::NOTHING);
        inner.set_header(
            heads
                .iter()
                .map(|head| crate::out::faint(head.trim_start_matches('>'))),
        );
        for (i, head) in heads.iter().enumerate() {
            if let Some(column) = inner.column_mut(i) {
                column.set_padding((0, 2));
                if head.starts_with('>') {
                    column.set_cell_alignment(CellAlignment::Right);
                }
            }
        }
        Self { inner }
    }

    /// Adds a row.
    pub fn row(&mut self, cells: impl IntoIterator<Item = String>) {
        self.inner.add_row(cells.into_iter());
    }

    /// The table as lines, each set in by two spaces.
    pub fn text(&self) -> String {
        self.inner
            .lines()
            .map(|line| format!("  {}\n", line.trim_end()))
            .collect()
    }
}
