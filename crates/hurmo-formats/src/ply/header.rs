//! The header of a PLY file.

use crate::ReadError;
use crate::text::{quoted, words};

/// How the elements are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Encoding {
    Text,
    Little,
    Big,
}

/// A number's type.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Scalar {
    I8,
    U8,
    I16,
    U16,
    I32,
    U32,
    F32,
    F64,
}

impl Scalar {
    fn named(name: &[u8]) -> Option<Self> {
        Some(match name {
            b"char" | b"int8" => Scalar::I8,
            b"uchar" | b"uint8" => Scalar::U8,
            b"short" | b"int16" => Scalar::I16,
            b"ushort" | b"uint16" => Scalar::U16,
            b"int" | b"int32" => Scalar::I32,
            b"uint" | b"uint32" => Scalar::U32,
            b"float" | b"float32" => Scalar::F32,
            b"double" | b"float64" => Scalar::F64,
            _ => return None,
        })
    }

    pub fn bytes(self) -> usize {
        match self {
            Scalar::I8 | Scalar::U8 => 1,
            Scalar::I16 | Scalar::U16 => 2,
            Scalar::I32 | Scalar::U32 | Scalar::F32 => 4,
            Scalar::F64 => 8,
        }
    }

    /// What a colour channel of this type is divided by to lie in 0 to 1.
    pub fn full(self) -> f64 {
        match self {
            Scalar::U8 => 255.0,
            Scalar::U16 => 65_535.0,
            _ => 1.0,
        }
    }
}

/// One property of an element.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Property {
    pub name: String,
    pub scalar: Scalar,
    /// The type of the count, where the property is a list.
    pub list_count: Option<Scalar>,
}

/// A kind of element.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Element {
    pub name: String,
    pub count: usize,
    pub properties: Vec<Property>,
}

impl Element {
    pub fn scalar(&self, names: &[&str]) -> Option<usize> {
        self.properties
            .iter()
            .position(|p| p.list_count.is_none() && names.contains(&p.name.as_str()))
    }

    /// The fewest bytes that one such element takes.
    pub fn least_bytes(&self, encoding: Encoding) -> usize {
        if encoding == Encoding::Text {
            // Each number takes a character and a separator.
            return self.properties.len() * 2;
        }
        let bytes = |p: &Property| p.list_count.unwrap_or(p.scalar).bytes();
        self.properties.iter().map(bytes).sum()
    }
}

/// A whole header.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Header {
    pub encoding: Encoding,
    pub elements: Vec<Element>,
    /// Where the elements begin.
    pub end: usize,
}

/// Reads the header.
pub(super) fn read(bytes: &[u8]) -> Result<Header, ReadError> {
    let mut encoding = None;
    let mut elements: Vec<Element> = Vec::new();
    let mut at = 0;
    loop {
        let begin = at;
        let rest = &bytes[at..];
        let Some(end) = memchr::memchr2(b'\n', b'\r', rest) else {
            return Err(ReadError::at_line_of(
                bytes,
                begin,
                "the header has no end_header line",
            ));
        };
        at += end
            + if rest[end..].starts_with(b"\r\n") {
                2
            } else {
                1
            };
        let fail = |message: String| ReadError::at_line_of(bytes, begin, message);
        let mut words = words(&rest[..end]);
        match words.next().unwrap_or_default() {
            b"end_header" => break,
            b"format" => {
                encoding = Some(match words.next().unwrap_or_default() {
                    b"ascii" => Encoding::Text,
                    b"binary_little_endian" => Encoding::Little,
                    b"binary_big_endian" => Encoding::Big,
                    other => return Err(fail(format!("unknown format '{}'", quoted(other)))),
                });
            }
            b"element" => {
                let name = words.next().unwrap_or_default();
                let count = words.next().unwrap_or_default();
                let count = std::str::from_utf8(count)
                    .ok()
                    .and_then(|text| text.parse().ok())
                    .ok_or_else(|| fail(format!("'{}' is no element count", quoted(count))))?;
                elements.push(Element {
                    name: String::from_utf8_lossy(name).into_owned(),
                    count,
                    properties: Vec::new(),
                });
            }
            b"property" => {
                let property = property(words).map_err(fail)?;
                let element = elements
                    .last_mut()
                    .ok_or_else(|| fail("a property before any element".into()))?;
                element.properties.push(property);
            }
            b"ply" | b"comment" | b"obj_info" | b"" => {}
            other => return Err(fail(format!("'{}' is no header line", quoted(other)))),
        }
    }
    Ok(Header {
        encoding: encoding.ok_or_else(|| ReadError::whole("the header states no format"))?,
        elements,
        end: at,
    })
}

fn property<'w>(mut words: impl Iterator<Item = &'w [u8]>) -> Result<Property, String> {
    let scalar = |words: &mut dyn Iterator<Item = &'w [u8]>, first: Option<&'w [u8]>| {
        let name = first.or_else(|| words.next()).unwrap_or_default();
        Scalar::named(name).ok_or_else(|| format!("'{}' is no number type", quoted(name)))
    };
    let first = words.next().unwrap_or_default();
    let (list_count, scalar) = if first == b"list" {
        let count = scalar(&mut words, None)?;
        if matches!(count, Scalar::F32 | Scalar::F64) {
            return Err("a list's count can't be a fraction".into());
        }
        (Some(count), scalar(&mut words, None)?)
    } else {
        (None, scalar(&mut words, Some(first))?)
    };
    let name = words.next().ok_or("a property without a name")?;
    Ok(Property {
        name: String::from_utf8_lossy(name).into_owned(),
        scalar,
        list_count,
    })
}
