//! All of Hurmo's computation, and nothing else: no files, no terminal, no argument parsing.
//!
//! ```text
//! Model ──audit──▶ what is wrong, where
//!   │
//!   ├──mend, fill, decimate, remesh, reskin, smooth──▶ Model, and what was done ──audit──▶ what is better
//!   │                                                    │
//!   └────────────────────────compare─────────────────────┘──▶ how far apart, proved
//! ```
//!
//! ```
//! use hurmo_core::{AuditOptions, FaceId, FillOptions, Model, audit, fill, shapes};
//!
//! // A ball without one of its faces is audited, closed, and audited again.
//! let ball = Model::from(shapes::sphere(1.0, 3));
//! let (torn, _) = ball.without_faces(|face| face == FaceId::new(5));
//! let before = audit(&torn, &AuditOptions::default(), &())?;
//! assert_eq!((before.count("open-edges"), before.mesh.watertight), (3, false));
//! let closed = fill(&torn, &FillOptions::default(), &())?.model;
//! assert!(audit(&closed, &AuditOptions::default(), &())?.mesh.watertight);
//! # Ok::<(), hurmo_core::Failure>(())
//! ```
//!
//! Folders, from the ground up:
//!
//! | folder | holds |
//! |---|---|
//! | [`geometry`] | points alone: boxes, angles, areas of polygons |
//! | [`mesh`] | polygons, attributes, scenes, and the one way to make a new model out of an old one |
//! | [`predicates`] | exact answers to geometric yes/no questions |
//! | [`topology`] | edges, parts, rims, and the editable triangle mesh |
//! | [`spatial`] | one hierarchy of boxes; welding, closest points, contacts, rays, winding numbers |
//! | [`measure`] | area, volume, bounds, deviation |
//! | [`orientation`] | patches, and which faces must turn |
//! | [`triangulate`] | polygons into triangles |
//! | [`paint`] | colours and textures of one model brought onto another |
//! | [`bake`] | a texture for one model, filled from another |
//! | [`uv`] | the layout of UVs: islands, overlaps, the share of the tile |
//! | [`shading`] | normals of corners, flat or smooth |
//! | [`mirror`] | mirror symmetry: finding it, halves and wholes |
//! | [`audit`](mod@audit) | the check registry and the audit itself |
//! | [`seam`] | the lines along which solids were joined: made even beside, rounded, shaded softly |
//! | [`quads`](mod@quads) | rebuilding with quads that follow the form |
//! | [`repatch`] | faces round a fault cut out and closed anew |
//! | [`mend`](mod@mend), [`fill`](mod@fill), [`decimate`](mod@decimate), [`remesh`](mod@remesh), [`smooth`](mod@smooth), [`compare`](mod@compare) | a folder for each capability |
//!
//! Capabilities take a plain option struct and a [`progress::Observer`], and return a plain
//! outcome struct; the names for that stand here. The result never depends on the number of threads.
//! Features: `serde` and `schemars` (both on by default) make what is found and done serialise, with schemas.

#![deny(missing_docs)]
#![deny(clippy::dbg_macro, clippy::print_stderr, clippy::print_stdout)]

mod arrange;
mod attribute_transfer;
pub mod audit;
pub mod bake;
pub mod boolean;
pub mod compare;
pub mod cut;
pub mod decimate;
mod fairing;
pub mod fill;
pub mod geometry;
pub mod measure;
pub mod mend;
pub mod mesh;
pub mod mirror;
pub mod orientation;
pub mod paint;
mod parallel;
pub mod parts;
pub mod predicates;
pub mod progress;
pub mod quads;
pub mod remesh;
pub mod repatch;
pub mod scene;
pub mod seam;
pub mod shading;
pub mod shapes;
pub mod smooth;
mod sparse;
pub mod spatial;
pub mod subdivision;
pub mod thicken;
pub mod topology;
pub mod triangulate;
pub mod units;
pub mod uv;

pub use audit::{Audit, AuditOptions, audit};
pub use compare::{CompareOptions, Comparison, compare};
pub use decimate::{DecimateOptions, DecimateOutcome, decimate};
pub use fill::{FillOptions, FillOutcome, fill};
pub use mend::{MendError, MendOptions, MendOutcome, mend};
pub use mesh::{EdgeId, FaceId, Mesh, Model, PartId, RimId, VertexId};
pub use progress::{Cancelled, Failure, Observer};
pub use remesh::dual_contouring::{ReskinOptions, ReskinOutcome, reskin};
pub use remesh::{RemeshError, RemeshOptions, RemeshOutcome, remesh};
pub use smooth::{SmoothOptions, SmoothOutcome, smooth};

#[cfg(test)]
mod random_cases;
#[cfg(test)]
mod wrecks;
