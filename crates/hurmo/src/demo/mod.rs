//! The demo's models: a tidal landing stage and its props, from the game *Saltmarsh Ferry*.
//!
//! Every model is a clean shape plus planted faults, and knows how many of each it holds, so
//! that the audit can be held to it.

mod bollard;
mod buoy;
mod draft;
mod hawser;
mod heron;
mod lantern;
mod life_ring;
mod looks;
pub mod together;

use hurmo_core::Model;
use serde::Serialize;

/// One model of the demo.
#[derive(Clone, Debug)]
pub struct DemoModel {
    /// Its file name.
    pub file: &'static str,
    /// What it is, in a few words.
    pub what: &'static str,
    /// The model, with its faults.
    pub model: Model,
    /// How many of each finding were planted; of all others, but for those that come along,
    /// there are none.
    pub planted: Vec<Planted>,
    /// Checks that find what the planted faults, or the shape, bring along in numbers that
    /// nobody chose.
    pub along: &'static [&'static str],
    /// How many rims the planted holes and open ends make.
    pub rims: usize,
    /// What it is prepared for.
    pub brief: &'static str,
    /// The file that it is prepared into.
    pub prepared: &'static str,
    /// The folder that it is packed in with all that goes with it, if it is.
    pub packed: Option<&'static str>,
    /// Further arguments of that preparation.
    pub arguments: &'static [&'static str],
}

/// A number of faults of one kind.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct Planted {
    /// The check that finds them.
    pub check: &'static str,
    /// How many.
    pub count: usize,
}

fn planted(check: &'static str, count: usize) -> Planted {
    Planted { check, count }
}

/// Makes all models.
pub fn models() -> Vec<DemoModel> {
    vec![
        buoy::make(),
        bollard::make(),
        lantern::make(),
        heron::make(),
        hawser::make(),
        life_ring::make(),
    ]
}
