//! Progress of long work, and its cancellation.

/// Watches long work. Every method has a default, so that `&()` is an observer that wants
/// nothing.
pub trait Observer: Sync {
    /// A stage begins: what it does, and how many steps it has (0 when that isn't known).
    fn begin(&self, _what: &str, _steps: u64) {}
    /// The stage that began last has reached this step.
    fn at(&self, _step: u64) {}
    /// Whether the work should stop: it ends soon, with [`Cancelled`].
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

/// Why there is no result.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum Failure {
    /// The work was cancelled.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// An option has a value that makes no sense.
    #[error("{option} can't be {value}")]
    Option {
        /// The option's name.
        option: &'static str,
        /// Its value.
        value: f64,
    },
}

impl Failure {
    /// Refuses a length, where there is one, that is below 0 or no number.
    pub(crate) fn unless_length(
        option: &'static str,
        length: impl Into<Option<f64>>,
    ) -> Result<(), Self> {
        match length.into() {
            Some(value) if !(value >= 0.0 && value.is_finite()) => {
                Err(Self::Option { option, value })
            }
            _ => Ok(()),
        }
    }

    /// Refuses an angle that isn't from 0 to 180 degrees.
    pub(crate) fn unless_angle(option: &'static str, value: f64) -> Result<(), Self> {
        match (0.0..=180.0).contains(&value) {
            true => Ok(()),
            false => Err(Self::Option { option, value }),
        }
    }
}

/// The work was cancelled, and there is no result.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("cancelled")]
pub struct Cancelled;
