//! Reading and writing numbers in text.

use crate::ReadError;
use std::io::{self, Write};

/// The words of a line.
pub(crate) fn words(line: &[u8]) -> impl Iterator<Item = &[u8]> + Clone {
    line.split(|b| b.is_ascii_whitespace())
        .filter(|word| !word.is_empty())
}

/// A number that may be infinite or not a number at all.
#[inline]
pub(crate) fn any_number(word: &[u8]) -> Option<f64> {
    fast_float2::parse::<f64, _>(word).ok()
}

/// A coordinate: a finite number within the range that a mesh takes.
#[inline]
pub(crate) fn coordinate(word: &[u8]) -> Result<f64, String> {
    match any_number(word) {
        Some(x) if x.abs() <= 1e100 => Ok(x),
        Some(_) => Err(not_usable(word)),
        None => Err(format!("expected a number, found '{}'", quoted(word))),
    }
}

fn not_usable(word: &[u8]) -> String {
    format!("the coordinate '{}' is not a usable number", quoted(word))
}

/// A coordinate, or NaN for one that a mesh can't take; `trouble` keeps the message of the first.
pub(crate) fn coordinate_or_nan(word: &[u8], trouble: &mut Option<String>) -> Result<f64, String> {
    coordinate(word).or_else(|error| {
        if any_number(word).is_none() && !names_no_number(word) {
            return Err(error);
        }
        trouble.get_or_insert_with(|| not_usable(word));
        Ok(f64::NAN)
    })
}

/// Whether a word is what exporters write for no number: "nan", "-1.#IND", "inf".
pub(crate) fn names_no_number(word: &[u8]) -> bool {
    let lower = word.to_ascii_lowercase();
    let mut names = [&b"nan"[..], b"inf", b"ind"].into_iter();
    names.any(|name| memchr::memmem::find(&lower, name).is_some())
}

/// A word as it can be shown in a message: short, and printable.
pub(crate) fn quoted(word: &[u8]) -> String {
    let mut shown: String = String::from_utf8_lossy(&word[..word.len().min(32)])
        .chars()
        .map(|c| if c.is_control() { '?' } else { c })
        .collect();
    if word.len() > 32 {
        shown.push('…');
    }
    shown
}

/// Fails when the first bytes hold what no text file holds.
pub(crate) fn refuse_binary(bytes: &[u8], name: &str) -> Result<(), ReadError> {
    match memchr::memchr(0, &bytes[..bytes.len().min(65_536)]) {
        Some(byte) => Err(ReadError::at_byte(
            byte,
            format!("a zero byte: this is not an {name} text file"),
        )),
        None => Ok(()),
    }
}

/// Whether all coordinates of a model are single-precision numbers.
pub(crate) fn is_single(mesh: &hurmo_core::Mesh) -> bool {
    let single = |x: &f64| f64::from(*x as f32) == *x;
    mesh.positions()
        .iter()
        .all(|p| p.to_array().iter().all(single))
}

/// Writes a number in the fewest digits that read back the same, in single precision if that
/// is what it is in.
#[inline]
pub(crate) fn write_number(out: &mut dyn Write, x: f64, single: bool) -> io::Result<()> {
    let mut buffer = ryu::Buffer::new();
    let text = match single {
        true => buffer.format_finite(x as f32),
        false => buffer.format_finite(x),
    };
    out.write_all(text.strip_suffix(".0").unwrap_or(text).as_bytes())
}

/// Writes numbers with a space before each.
pub(crate) fn write_numbers(out: &mut dyn Write, numbers: &[f64], single: bool) -> io::Result<()> {
    for &x in numbers {
        out.write_all(b" ")?;
        write_number(out, x, single)?;
    }
    Ok(())
}
