//! What counts as inside of a surface, as it is written on the command line.

use crate::words::Words;
use hurmo_core::boolean;

/// By which winding numbers a place is inside.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Filled {
    /// What faces outward encloses
    #[default]
    Positive,
    /// What is enclosed, whichever way faces look
    Nonzero,
    /// What is enclosed an odd number of times
    Odd,
}

impl Words for Filled {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("positive", Self::Positive),
        ("nonzero", Self::Nonzero),
        ("odd", Self::Odd),
    ];
}

impl From<Filled> for boolean::Filled {
    fn from(filled: Filled) -> Self {
        match filled {
            Filled::Positive => Self::Positive,
            Filled::Nonzero => Self::Nonzero,
            Filled::Odd => Self::Odd,
        }
    }
}
