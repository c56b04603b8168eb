//! The whole job as a library: what can be done to a model, in which order, and a record of it.
//!
//! ```text
//! file ─▶ audit ─▶ operation ─▶ audit ─▶ operation ─▶ audit ─▶ … ─▶ write ─▶ read back, audit
//!                     └─────────────────────▶ record ◀────────────────────┘
//! ```
//!
//! No terminal, no command line: who calls it watches ([`Watcher`]), and turns records into text.

pub mod batch;
pub mod brief;
mod claims;
pub mod cures;
pub mod files;
pub mod memory;
pub mod operation;
mod output;
pub mod pack;
pub mod pictures;
pub mod plan;
mod prepare;
pub mod quantity;
pub mod record;
pub mod runner;
pub mod text;
pub mod undo;
mod usual;
mod workspace;

pub use output::{Output, TextureOptions, TextureWish, is_single};
pub use prepare::{One, prepare};
pub use workspace::{Watcher, Workspace};
