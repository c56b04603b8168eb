//! Operations on one model, each measured and audited.

mod job;
mod steps;
mod watch;

pub use job::{Input, Job, Written};
pub use steps::{Mark, Runner};
pub use watch::{Watch, Watched};
