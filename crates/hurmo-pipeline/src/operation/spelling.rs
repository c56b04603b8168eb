//! Options as they are written on the command line, for ledgers.

use clap::ValueEnum;
use std::fmt::Display;

/// Options that can be written. What is as it is by default is left out.
pub trait Spelled {
    /// The options that differ from the defaults.
    fn spelled(&self) -> Spelling;
}

/// Written options, in order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Spelling(Vec<String>);

impl Spelling {
    /// None yet.
    pub fn new() -> Self {
        Self::default()
    }

    /// The words.
    pub fn words(self) -> Vec<String> {
        self.0
    }

    /// An option without a value.
    pub fn flag(mut self, name: &str, given: bool) -> Self {
        self.0.extend(given.then(|| format!("--{name}")));
        self
    }

    /// An option with a value.
    pub fn value(mut self, name: &str, value: Option<impl Display>) -> Self {
        self.0
            .extend(value.map(|value| format!("--{name}={value}")));
        self
    }

    /// The same, left out where the value is this.
    pub fn unless<T: Display + PartialEq>(self, name: &str, value: T, usual: T) -> Self {
        let given = (value != usual).then_some(value);
        self.value(name, given)
    }

    /// An option with one of several words.
    pub fn choice(self, name: &str, value: Option<impl ValueEnum>) -> Self {
        let word = value.and_then(|value| Some(value.to_possible_value()?.get_name().to_string()));
        self.value(name, word)
    }

    /// An option with a list; left out where that is empty.
    pub fn list<T: Display>(self, name: &str, values: &[T]) -> Self {
        let words: Vec<String> = values.iter().map(T::to_string).collect();
        self.value(name, (!words.is_empty()).then(|| words.join(",")))
    }

    /// And these.
    pub fn and(mut self, others: Self) -> Self {
        self.0.extend(others.0);
        self
    }
}
