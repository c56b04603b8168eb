//! Numbers out of a PLY body, whatever its encoding.

use super::header::{Encoding, Scalar};
use crate::ReadError;
use crate::text::{any_number, quoted};

/// Reads one number after another.
pub(super) struct Values<'b> {
    bytes: &'b [u8],
    at: usize,
    /// Where the current row of a text ends.
    row_end: usize,
    encoding: Encoding,
}

impl<'b> Values<'b> {
    pub fn new(bytes: &'b [u8], at: usize, encoding: Encoding) -> Self {
        Self {
            bytes,
            at,
            row_end: at,
            encoding,
        }
    }

    /// How many bytes are left.
    pub fn left(&self) -> usize {
        self.bytes.len() - self.at
    }

    /// An error at the number that comes next.
    pub fn error(&self, message: impl Into<String>) -> ReadError {
        if self.encoding == Encoding::Text {
            ReadError::at_line_of(self.bytes, self.at, message)
        } else {
            ReadError::at_byte(self.at, message)
        }
    }

    /// Begins an element: in text, a line of its own. `None` at the end of the file.
    pub fn begin_row(&mut self) -> Option<()> {
        if self.encoding != Encoding::Text {
            return (self.at < self.bytes.len()).then_some(());
        }
        loop {
            if self.at >= self.bytes.len() {
                return None;
            }
            let rest = &self.bytes[self.at..];
            let end = memchr::memchr(b'\n', rest).unwrap_or(rest.len());
            self.row_end = self.at + end;
            if rest[..end].iter().any(|b| !b.is_ascii_whitespace()) {
                return Some(());
            }
            self.at = (self.row_end + 1).min(self.bytes.len());
        }
    }

    /// Ends an element: what is left of its line is passed over.
    pub fn end_row(&mut self) {
        if self.encoding == Encoding::Text {
            self.at = (self.row_end + 1).min(self.bytes.len());
        }
    }

    /// The next number.
    #[inline]
    pub fn number(&mut self, scalar: Scalar) -> Result<f64, ReadError> {
        match self.encoding {
            Encoding::Text => self.text_number(),
            Encoding::Little => self.binary_number(scalar, false),
            Encoding::Big => self.binary_number(scalar, true),
        }
    }

    /// The next number, which must be a whole one from 0 up.
    #[inline]
    pub fn whole(&mut self, scalar: Scalar, what: &str) -> Result<usize, ReadError> {
        if self.encoding == Encoding::Text
            && let Some(plain) = self.plain_digits()
        {
            return Ok(plain);
        }
        let before = self.at;
        let x = self.number(scalar)?;
        if x >= 0.0 && x.fract() == 0.0 && x < 1e15 {
            Ok(x as usize)
        } else {
            self.at = before;
            Err(self.error(format!("{x} is no {what}")))
        }
    }

    /// A run of up to nine digits, which is what nearly every index in a text is.
    #[inline]
    fn plain_digits(&mut self) -> Option<usize> {
        let row = &self.bytes[self.at..self.row_end];
        let from = row.iter().position(|b| !b.is_ascii_whitespace())?;
        let digits = row[from..]
            .iter()
            .take_while(|b| b.is_ascii_digit())
            .count();
        let ends = row.get(from + digits).is_none_or(u8::is_ascii_whitespace);
        if !(1..=9).contains(&digits) || !ends {
            return None;
        }
        self.at += from + digits;
        let value = |sum, digit: &u8| sum * 10 + usize::from(digit - b'0');
        Some(row[from..from + digits].iter().fold(0, value))
    }

    fn text_number(&mut self) -> Result<f64, ReadError> {
        let row = &self.bytes[..self.row_end];
        let mut from = self.at;
        while from < row.len() && row[from].is_ascii_whitespace() {
            from += 1;
        }
        let mut to = from;
        while to < row.len() && !row[to].is_ascii_whitespace() {
            to += 1;
        }
        if from == to {
            return Err(self.error("the line ends before all its numbers were there"));
        }
        let word = &row[from..to];
        match any_number(word) {
            Some(x) => {
                self.at = to;
                Ok(x)
            }
            None => Err(self.error(format!("expected a number, found '{}'", quoted(word)))),
        }
    }

    #[inline]
    fn binary_number(&mut self, scalar: Scalar, big: bool) -> Result<f64, ReadError> {
        let size = scalar.bytes();
        let Some(slice) = self.bytes.get(self.at..self.at + size) else {
            return Err(self.error("the file ends in the middle of an element"));
        };
        let mut raw = [0u8; 8];
        raw[..size].copy_from_slice(slice);
        if big {
            raw[..size].reverse();
        }
        self.at += size;
        let bits = u64::from_le_bytes(raw);
        Ok(match scalar {
            Scalar::I8 => f64::from(bits as i8),
            Scalar::U8 => f64::from(bits as u8),
            Scalar::I16 => f64::from(bits as i16),
            Scalar::U16 => f64::from(bits as u16),
            Scalar::I32 => f64::from(bits as i32),
            Scalar::U32 => f64::from(bits as u32),
            Scalar::F32 => f64::from(f32::from_bits(bits as u32)),
            Scalar::F64 => f64::from_bits(bits),
        })
    }
}
