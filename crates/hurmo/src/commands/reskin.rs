//! `hurmo reskin`: puts a new watertight skin round a model.

use crate::rebuild;
use hurmo_pipeline::operation::reskin::Options;

/// Arguments of `hurmo reskin`.
pub type Arguments = rebuild::Arguments<Options>;

/// How it is called.
pub const EXAMPLES: &str = "Examples:\n  \
    hurmo reskin buoy.obj -o skin.obj --cell 2mm --unit m\n  \
    hurmo reskin hawser.stl -o rope.stl --cell 0.4% --then-decimate 40k\n  \
    hurmo reskin lantern.obj -o skin.obj --to 40k --min-thickness 1%";
