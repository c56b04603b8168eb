//! Values that are written as one of a few words.

/// A value that is one of a few words.
pub trait Words: Copy + PartialEq + 'static {
    /// All words, and what they mean.
    const WORDS: &'static [(&'static str, Self)];

    /// The word for it.
    fn word(self) -> &'static str {
        let found = Self::WORDS.iter().find(|(_, value)| *value == self);
        found.map_or("", |(word, _)| word)
    }

    /// What a word means.
    ///
    /// # Errors
    /// The words that there are.
    fn of_word(text: &str) -> Result<Self, String> {
        let found = Self::WORDS.iter().find(|(word, _)| *word == text.trim());
        found.map(|(_, value)| *value).ok_or_else(|| {
            let words: Vec<&str> = Self::WORDS.iter().map(|(word, _)| *word).collect();
            format!("'{text}' is none of {}", words.join(", "))
        })
    }
}
