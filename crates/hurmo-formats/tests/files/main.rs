//! Files of every format, read and written. One binary, so that it is linked once.

mod common;
mod gltf_numbers;
mod hostile_scenes;
mod losses;
mod mutate;
mod mutated_files;
mod packages;
mod pairs;
mod round_trips;
mod scenes;
mod textures;
mod uv_sets;
mod valid;
