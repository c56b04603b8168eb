//! The library from outside. One binary, so that it is linked once.

mod booleans;
mod open_solids;
mod parts_cut_off;
mod planted_faults;
#[path = "../../src/random_cases.rs"]
mod random_cases;
mod seams;
mod spoilt_shapes;
mod uv_sets;
