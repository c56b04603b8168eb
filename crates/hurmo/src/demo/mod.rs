//! demo
