//! `hurmo smooth`: takes noise out, or evens vertices out.

use crate::rebuild;
use hurmo_pipeline::operation::smooth::Options;

/// Arguments of `hurmo smooth`.
pub type Arguments = rebuild::Arguments<Options>;

/// How it is called.
pub const EXAMPLES: &str = "Examples:\n  \
    hurmo smooth heron.ply -o calm.ply --noise 10\n  \
    hurmo smooth bollard.obj -o calm.obj --noise 10 --keep-creases\n  \
    hurmo smooth heron.ply -o even.ply --relax 20";
