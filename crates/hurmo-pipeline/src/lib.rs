//! The whole job as a library: what can be done to a model, in which order, and a record of it.
//!
//! ```text
//! file ─▶ audit ─▶ operation ─▶ audit ─▶ operation ─▶ audit ─▶ … ─▶ write ─▶ read back, audit
//!                     └─────────────────────▶ record ◀────────────────────┘
//! ```
//!
//! No terminal, no command line: who calls it watches ([`Watcher`]), and turns records into text.
//!
//! ```
//! use hurmo_core::{FaceId, Model, shapes};
//! use hurmo_pipeline::plan::{Plan, Usual};
//! use hurmo_pipeline::{One, Output, TextureOptions, Workspace, brief, prepare};
//!
//! # fn main() -> anyhow::Result<()> {
//! let folder = tempfile::tempdir()?;
//! let (input, target) = (folder.path().join("ball.obj"), folder.path().join("ball.stl"));
//! let (torn, _) = Model::from(shapes::sphere(1.0, 3)).without_faces(|face| face == FaceId::new(5));
//! hurmo_formats::write(&input, &torn, hurmo_formats::WriteOptions::default())?;
//!
//! // The whole job for a printer: mended, closed, written, read back, audited.
//! let brief = brief::find_whole("print")?;
//! let plan = Plan {
//!     brief: brief.brief,
//!     steps: brief.steps,
//!     usual: Usual::default(),
//!     goes_on: Default::default(),
//!     textures: TextureOptions::default(),
//! };
//! let output = Output {
//!     output: target.clone(),
//!     force: false,
//!     ascii: false,
//!     textures: TextureOptions::default(),
//! };
//! let one = One {
//!     input: &input,
//!     output: Some(&output),
//!     unit: None,
//!     picture: None,
//! };
//! let record = prepare(&one, &plan, &Workspace::new(Box::new(())))?;
//! assert!(record.passes && record.after.mesh.watertight);
//! # Ok(())
//! # }
//! ```

#![deny(missing_docs)]

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
pub mod verdict;
pub mod words;
mod workspace;

pub use output::{Output, TextureOptions, TextureWish, is_single};
pub use prepare::{One, prepare};
pub use workspace::{Watcher, Workspace};
