//! The library from outside. One binary, so that it is linked once.

mod cancelling;
#[path = "../../../hurmo-formats/tests/files/mutate/mod.rs"]
mod mutate;
mod mutated_text;
