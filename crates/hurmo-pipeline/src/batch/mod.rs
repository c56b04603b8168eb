//! Many models, several at once where memory allows, one bad model never stopping the rest.

mod audit;
mod ledger;
mod prepare;
mod targets;

pub use audit::audit_all;
pub use ledger::{Ledger, Recorded};
pub use prepare::{Many, Planned, PreparedModel, prepare_many};
pub use targets::targets;
