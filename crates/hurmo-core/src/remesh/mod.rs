//! remesh
