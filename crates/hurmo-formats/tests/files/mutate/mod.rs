//! Bytes and text changed at random, the same way for the same seed: what readers are held to.

/// Random numbers (Steele, Lea & Flood 2014, SplitMix).
pub struct Random(u64);

impl Random {
    pub fn of(seed: u64) -> Self {
        Self(seed)
    }

    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// A number below another; 0 below 0.
    pub fn below(&mut self, most: usize) -> usize {
        (self.next() % (most.max(1) as u64)) as usize
    }
}

/// Numbers and words at which readers go wrong.
const WORDS: [&str; 24] = [
    "0",
    "-1",
    "1",
    "2",
    "255",
    "65536",
    "2147483648",
    "4294967295",
    "-2147483649",
    "18446744073709551616",
    "1e999",
    "-1e999",
    "1e-320",
    "nan",
    "-nan",
    "inf",
    "-0",
    "0x10",
    "",
    "/",
    "//",
    "\u{202e}",
    "\"",
    "[[[[",
];

/// Some changes to bytes; with `words`, those of text too.
pub fn mutated(seed: &[u8], words: bool, random: &mut Random) -> Vec<u8> {
    let mut bytes = seed.to_vec();
    for _ in 0..1 + random.below(4) {
        let at = random.below(bytes.len() + 1);
        let end = (at + 1 + random.below(40)).min(bytes.len());
        match random.below(if words { 9 } else { 6 }) {
            0 if at < bytes.len() => bytes[at] ^= 1 << random.below(8),
            1 if at < bytes.len() => {
                bytes[at] = [0, 0xff, 0x7f, 0x80, b'\n', b' '][random.below(6)]
            }
            2 => bytes.truncate(at),
            3 if at < end => drop(bytes.drain(at..end)),
            4 if at < end => {
                let again = bytes[at..end].to_vec();
                bytes.splice(at..at, again);
            }
            5 if at + 4 <= bytes.len() => {
                let value =
                    [0u32, 1, 0x7fff_ffff, 0x8000_0000, u32::MAX, 0x7fc0_0000][random.below(6)];
                bytes[at..at + 4].copy_from_slice(&value.to_le_bytes());
            }
            6 | 7 => {
                // A whole word, where there is one.
                let is_word = |b: &u8| !b.is_ascii_whitespace() && !b",:[]{}<>\"'/=".contains(b);
                let from = bytes[..at]
                    .iter()
                    .rposition(|b| !is_word(b))
                    .map_or(0, |i| i + 1);
                let to = bytes[at..]
                    .iter()
                    .position(|b| !is_word(b))
                    .map_or(bytes.len(), |i| at + i);
                let word = WORDS[random.below(WORDS.len())].bytes();
                bytes.splice(from..to, word);
            }
            8 => {
                // A line, somewhere else.
                let lines: Vec<&[u8]> = bytes.split(|b| *b == b'\n').collect();
                let line = lines[random.below(lines.len())].to_vec();
                bytes.splice(at..at, line);
            }
            _ => {}
        }
    }
    bytes
}

/// How many changes are tried of each seed: `HURMO_MUTATIONS`, or this many.
pub fn count(usual: usize) -> usize {
    let asked = std::env::var("HURMO_MUTATIONS").ok();
    asked.and_then(|count| count.parse().ok()).unwrap_or(usual)
}
