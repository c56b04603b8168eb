//! How long work tells how far it is, and is told to stop.

/// Watches long work. Every method has a default, so that `&()` is an observer that wants
/// nothing.
pub trait Observer: Sync {
    /// A stage begins: what it does, and how many steps it has (0 when that isn't known).
    fn begin(&self, _what: &str, _steps: u64) {}
    /// The stage that began last has reached this step.
    fn at(&self, _step: u64) {}
    /// Whether the work should stop; what is returned then is unfinished and must be thrown
    /// away.
    fn cancelled(&self) -> bool {
        false
    }
    /// Whether the work may go on.
    ///
    /// # Errors
    /// When it should stop.
    fn check(&self) -> Result<(), Cancelled> {
        match self.cancelled() {
            true => Err(Cancelled),
            false => Ok(()),
        }
    }
}

impl Observer for () {}

/// The work was told to stop, and there is no result.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("cancelled")]
pub struct Cancelled;
