//! `hurmo remesh`: rebuilds a model with even triangles or quads.

use crate::rebuild;
use hurmo_pipeline::operation::remesh::Options;

/// Arguments of `hurmo remesh`.
pub type Arguments = rebuild::Arguments<Options>;

/// How it is called.
pub const EXAMPLES: &str = "Examples:\n  \
    hurmo remesh bollard.obj -o even.obj --edge 0.5%\n  \
    hurmo remesh heron.ply -o even.ply --to 40k --crease 60\n  \
    hurmo remesh heron.ply -o near.ply --within 0.05%\n  \
    hurmo remesh bollard.obj -o quads.obj --into quads --to 4k";
