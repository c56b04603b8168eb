//! What was done, or left, in words that agree with how many there were.
//!
//! Written as `"{vertex|vertices} welded"`: what stands in braces is for one, and for more.

/// One thing that was changed, or left with a reason.
#[derive(Clone, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
pub struct Change {
    /// What was done, as of many: "vertices welded".
    pub what: String,
    /// To how many.
    pub count: usize,
    /// The same for one and for more.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(super) pattern: &'static str,
}

impl Change {
    pub(super) fn new(pattern: &'static str, count: usize) -> Self {
        Self {
            what: agreeing(pattern, false),
            count,
            pattern,
        }
    }

    /// Whether it is this: one of the patterns that are public.
    pub fn is(&self, pattern: &str) -> bool {
        self.pattern == pattern
    }

    /// What was done, in the singular: "vertex welded", if it was one.
    pub fn agreeing(&self) -> String {
        agreeing(self.pattern, self.count == 1)
    }
}

fn agreeing(pattern: &str, one: bool) -> String {
    let mut text = String::new();
    let mut rest = pattern;
    while let Some((before, from)) = rest.split_once('{') {
        let (choice, after) = from.split_once('}').unwrap_or((from, ""));
        let (single, several) = choice.split_once('|').unwrap_or((choice, choice));
        text += before;
        text += if one { single } else { several };
        rest = after;
    }
    text + rest
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_agree_with_their_number() {
        let words = |count| Change::new("{patch|patches} left: {it is|they are} bad", count);
        assert_eq!(words(1).agreeing(), "patch left: it is bad");
        assert_eq!(words(2).agreeing(), "patches left: they are bad");
        assert_eq!(words(1).what, "patches left: they are bad");
        assert_eq!(Change::new("none", 0).agreeing(), "none");
    }
}
