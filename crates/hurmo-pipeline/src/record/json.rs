//! Records as JSON text.

use crate::text;
use serde::Serialize;

/// A document as JSON text, with a line end.
pub fn json(document: &impl Serialize) -> String {
    let text = serde_json::to_string_pretty(document).expect("reports are plain data");
    // Beyond what has to be escaped: what would steer a terminal. It stands in strings alone.
    let mut safe = String::with_capacity(text.len() + 1);
    for c in text.chars() {
        match text::steers(c) {
            true => safe.push_str(&format!("\\u{:04x}", u32::from(c))),
            false => safe.push(c),
        }
    }
    safe.push('\n');
    safe
}
