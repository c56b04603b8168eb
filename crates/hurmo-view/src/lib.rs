//! Models to pixels.
