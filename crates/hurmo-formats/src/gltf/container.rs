//! The two shapes of a file: JSON alone, or JSON and a binary chunk (GLB).

use crate::ReadError;

/// "glTF".
const MAGIC: &[u8] = b"glTF";
const JSON_CHUNK: &[u8] = b"JSON";
const BINARY_CHUNK: &[u8] = b"BIN\0";
const HEADER: usize = 12;
const CHUNK_HEADER: usize = 8;

/// The pieces of a file.
#[derive(Debug, PartialEq)]
pub struct Container<'a> {
    /// The document.
    pub json: &'a [u8],
    /// At which byte it begins.
    pub json_at: usize,
    /// The binary chunk.
    pub binary: Option<&'a [u8]>,
    /// Whether it is a GLB.
    pub is_binary: bool,
}

/// Whether a file is a GLB, or JSON with the words that every glTF has.
pub fn looks_like(bytes: &[u8]) -> bool {
    if bytes.starts_with(MAGIC) {
        return true;
    }
    let start = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    start.trim_ascii_start().starts_with(b"{")
        && memchr::memmem::find(start, b"\"asset\"").is_some()
}

/// Takes a file apart.
pub fn split(bytes: &[u8]) -> Result<Container<'_>, ReadError> {
    if !bytes.starts_with(MAGIC) {
        let json = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
        return Ok(Container {
            json,
            json_at: bytes.len() - json.len(),
            binary: None,
            is_binary: false,
        });
    }
    let version = number_at(bytes, 4)?;
    if version != 2 {
        let message = format!("this is glTF {version}; only glTF 2 is read");
        return Err(ReadError::at_byte(4, message));
    }
    let stated = number_at(bytes, 8)?;
    let Some(bytes) = bytes.get(..stated) else {
        let message = format!(
            "the file is cut short: it says that it has {stated} bytes, and has {}",
            bytes.len()
        );
        return Err(ReadError::at_byte(8, message));
    };
    let mut at = HEADER;
    let mut json = None;
    let mut binary = None;
    while at + CHUNK_HEADER <= bytes.len() {
        let length = number_at(bytes, at)?;
        let kind = &bytes[at + 4..at + CHUNK_HEADER];
        let from = at + CHUNK_HEADER;
        let Some(chunk) = bytes.get(from..).and_then(|rest| rest.get(..length)) else {
            let message = format!(
                "a chunk of {length} bytes begins here, but only {} are left",
                bytes.len() - from
            );
            return Err(ReadError::at_byte(at, message));
        };
        match (kind, json.is_some()) {
            (JSON_CHUNK, false) => json = Some((chunk, from)),
            (_, false) => {
                return Err(ReadError::at_byte(
                    at,
                    "the first chunk is not the document",
                ));
            }
            (BINARY_CHUNK, true) if binary.is_none() => binary = Some(chunk),
            // Other kinds are to be passed over, by the specification.
            _ => {}
        }
        at = from + length;
    }
    let (json, json_at) =
        json.ok_or_else(|| ReadError::at_byte(HEADER, "there is no document in the file"))?;
    Ok(Container {
        json,
        json_at,
        binary,
        is_binary: true,
    })
}

fn number_at(bytes: &[u8], at: usize) -> Result<usize, ReadError> {
    let four = bytes.get(at..at + 4).and_then(|four| four.try_into().ok());
    let four = four.ok_or_else(|| ReadError::at_byte(bytes.len(), "the file is cut short"))?;
    Ok(u32::from_le_bytes(four) as usize)
}

/// Puts a GLB together.
pub fn glb(json: &[u8], binary: &[u8], out: &mut dyn std::io::Write) -> std::io::Result<()> {
    let padded = |length: usize| length.next_multiple_of(4);
    let chunk = |length: usize| CHUNK_HEADER + padded(length);
    let has_binary = !binary.is_empty();
    let length = HEADER + chunk(json.len()) + if has_binary { chunk(binary.len()) } else { 0 };
    let four = |number: usize| {
        let number = u32::try_from(number);
        number.map(u32::to_le_bytes).map_err(|_| {
            std::io::Error::other("it would be over 4 GB, the most that a GLB can hold")
        })
    };
    out.write_all(MAGIC)?;
    out.write_all(&2u32.to_le_bytes())?;
    out.write_all(&four(length)?)?;
    let mut write = |kind: &[u8], bytes: &[u8], padding: u8| {
        out.write_all(&four(padded(bytes.len()))?)?;
        out.write_all(kind)?;
        out.write_all(bytes)?;
        out.write_all(&[padding; 3][..padded(bytes.len()) - bytes.len()])
    };
    write(JSON_CHUNK, json, b' ')?;
    if has_binary {
        write(BINARY_CHUNK, binary, 0)?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_put_together_comes_apart() {
        for (json, binary) in [("{}", &[][..]), ("{\"asset\":1}", &[1, 2, 3, 4, 5])] {
            let mut file = Vec::new();
            glb(json.as_bytes(), binary, &mut file).unwrap();
            assert_eq!(file.len() % 4, 0);
            assert!(looks_like(&file));
            let found = split(&file).unwrap();
            assert_eq!(found.json.trim_ascii_end(), json.as_bytes());
            assert_eq!(&file[found.json_at..][..found.json.len()], found.json);
            match found.binary {
                Some(found) => assert_eq!(&found[..binary.len()], binary),
                None => assert!(binary.is_empty()),
            }
            // Cut anywhere, it is refused; with something behind it, it is not.
            for cut in 0..file.len() {
                let kept = split(&file[..cut]);
                assert!(kept.is_err() || cut < MAGIC.len(), "{cut}");
            }
            file.extend(*b"more");
            assert!(split(&file).is_ok());
        }
    }

    #[test]
    fn chunks_that_lie_are_refused() {
        let mut file = Vec::new();
        glb(b"{}", &[1, 2, 3, 4], &mut file).unwrap();
        let spoilt = |at: usize, number: u32| {
            let mut spoilt = file.clone();
            spoilt[at..at + 4].copy_from_slice(&number.to_le_bytes());
            split(&spoilt).map(|_| ()).unwrap_err().to_string()
        };
        assert!(spoilt(4, 1).contains("glTF 1"));
        assert!(spoilt(8, 4000).contains("cut short"));
        assert!(spoilt(12, u32::MAX).contains("chunk of 4294967295 bytes"));
        assert!(spoilt(16, 0).contains("not the document"));
    }
}
