//! The whole job: steps in order, an audit after each, and a ledger of all of it.
//!
//! ```text
//! models ─▶ targets ─▶ one by one, or several at once where memory allows
//!                        └─ read ─▶ step ─▶ audit ─▶ step ─▶ audit ─▶ … ─▶ write ─▶ read back
//!                                    └──────────────────▶ ledger ◀──────────────────────┘
//! ```
//!
//! The steps are those that the brief lists, or else the usual ones (`usual`). A step of a brief
//! that makes more of what blocks ends the job, and its result is thrown away, unless the brief
//! lets it go on.

mod attempt;
mod concerned;
mod crossings;
mod gate;
mod ledger;
mod many;
mod one;
mod pack;
mod plan;
mod repatch;
mod reskin;
mod runner;
mod scraps;
mod targets;
mod usual;
mod watch;

pub use ledger::{
    FileRecord, Ledger, ModelRecord, OneLedger, Recorded, RunRecord, StepRecord, Stopped,
};
pub use many::{Many, Planned, Told, prepare_many};
pub use one::{One, prepare};
pub use pack::{Pack, Packing};
pub use plan::{Listed, MayBreak, Plan, Usual};
pub use targets::targets;
