//! decimate
