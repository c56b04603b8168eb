//! All of Hurmo's computation, and nothing else: no files, no terminal, no argument parsing.
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
//! | [`audit`] | the check registry and the audit itself |
//! | [`seam`] | the lines along which solids were joined: made even beside, rounded, shaded softly |
//! | [`repatch`] | faces round a fault cut out and closed anew |
//! | [`mend`], [`fill`], [`decimate`], [`remesh`], [`smooth`], [`compare`] | a folder for each capability |
//!
//! Capabilities take a plain option struct and a [`progress::Observer`], and return a plain
//! outcome struct. The result never depends on the number of threads.

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
pub mod parts;
pub mod predicates;
pub mod progress;
pub mod remesh;
pub mod repatch;
pub mod scene;
pub mod seam;
pub mod shading;
pub mod shapes;
pub mod smooth;
mod sparse;
pub mod spatial;
pub mod thicken;
pub mod topology;
pub mod triangulate;
pub mod units;
pub mod uv;

pub use mesh::{EdgeId, FaceId, Mesh, Model, PartId, RimId, VertexId};

#[cfg(test)]
mod wrecks;
