//! The bytes that a document speaks of: in the file itself, in data URIs, in files beside it.

use super::Document;
use crate::ReadError;
use crate::beside;
use base64::Engine;
use base64::alphabet::STANDARD;
use base64::engine::{DecodePaddingMode, GeneralPurpose, GeneralPurposeConfig};
use gltf_json::Index;
use gltf_json::buffer::View;
use percent_encoding::percent_decode_str;
use std::borrow::Cow;
use std::collections::HashMap;
use std::path::Path;
use std::sync::Arc;

/// Padding may be there or not.
const BASE64: GeneralPurpose = GeneralPurpose::new(
    &STANDARD,
    GeneralPurposeConfig::new().with_decode_padding_mode(DecodePaddingMode::Indifferent),
);

/// All buffers of a document.
pub struct Buffers<'a> {
    all: Vec<Arc<Cow<'a, [u8]>>>,
    length: usize,
}

impl<'a> Buffers<'a> {
    /// Gets them together; files are looked for in this folder, and nowhere else.
    pub fn of(
        document: &Document,
        binary: Option<&'a [u8]>,
        folder: Option<&Path>,
    ) -> Result<Self, ReadError> {
        let mut all: Vec<Arc<Cow<'a, [u8]>>> = Vec::new();
        let mut length = 0;
        // A file that is named many times is read once.
        let mut known: HashMap<&str, usize> = HashMap::new();
        for (number, buffer) in document.root.buffers.iter().enumerate() {
            let trouble = |why: String| {
                let what = format!("buffers[{number}]");
                document.error(&what, &why)
            };
            let known = buffer
                .uri
                .as_deref()
                .map(|uri| known.entry(uri).or_insert(number));
            if let Some(&mut first) = known
                && first != number
            {
                let first = all[first].clone();
                all.push(first);
                continue;
            }
            let bytes: Cow<'a, [u8]> = match (&buffer.uri, binary) {
                (Some(uri), _) => Cow::Owned(bytes_of(uri, folder).map_err(trouble)?),
                (None, Some(binary)) if number == 0 => Cow::Borrowed(binary),
                (None, _) => {
                    return Err(trouble(
                        "it is nowhere: the file has no binary chunk".into(),
                    ));
                }
            };
            let stated = buffer.byte_length.0;
            if (bytes.len() as u64) < stated {
                let has = bytes.len();
                return Err(trouble(format!(
                    "it should have {stated} bytes, and has {has}"
                )));
            }
            length += bytes.len();
            all.push(Arc::new(bytes));
        }
        Ok(Self { all, length })
    }

    /// The length of all together, each file counted once.
    pub fn len(&self) -> usize {
        self.length
    }

    /// The bytes of a view.
    pub fn view(&self, document: &Document, view: Index<View>) -> Result<&[u8], ReadError> {
        let what = format!("bufferViews[{}]", view.value());
        let Some(about) = document.root.buffer_views.get(view.value()) else {
            return Err(document.error(&what, "there is none"));
        };
        let from = about.byte_offset.unwrap_or_default().0;
        let bytes = self.all.get(about.buffer.value()).and_then(|bytes| {
            let from = usize::try_from(from).ok()?;
            let length = usize::try_from(about.byte_length.0).ok()?;
            bytes.get(from..)?.get(..length)
        });
        bytes.ok_or_else(|| document.error(&what, "it reaches beyond its buffer"))
    }
}

/// What a URI stands for, or why it can't be read.
pub fn bytes_of(uri: &str, folder: Option<&Path>) -> Result<Vec<u8>, String> {
    if let Some((_, data)) = data_uri(uri) {
        return data;
    }
    let folder = folder.ok_or("it is in another file, and the model has no folder here")?;
    beside::bytes(folder, &name_of(uri))
}

/// The media type of a data URI, and what it holds.
pub fn data_uri(uri: &str) -> Option<(&str, Result<Vec<u8>, String>)> {
    let (head, data) = uri.strip_prefix("data:")?.split_once(',')?;
    Some(match head.strip_suffix(";base64") {
        Some(media_type) => {
            let bytes = BASE64.decode(data);
            (
                media_type,
                bytes.map_err(|error| format!("this is no base64: {error}")),
            )
        }
        None => (head, Ok(percent_decode_str(data).collect())),
    })
}

/// The file name that a relative URI stands for.
pub fn name_of(uri: &str) -> String {
    percent_decode_str(uri).decode_utf8_lossy().into_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn uris_hold_bytes_or_name_files() {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("old planks.bin"), b"tar").unwrap();
        let read = |uri: &str| bytes_of(uri, Some(folder.path()));
        assert_eq!(read("old%20planks.bin").unwrap(), b"tar");
        assert_eq!(read("old planks.bin").unwrap(), b"tar");
        let octets = "data:application/octet-stream;base64,";
        assert_eq!(read(&format!("{octets}dGFy")).unwrap(), b"tar");
        assert_eq!(read(&format!("{octets}dGE")).unwrap(), b"ta");
        assert_eq!(read("data:,ta%72").unwrap(), b"tar");
        for bad in [
            "../x.bin",
            "%2e%2e/x.bin",
            "/etc/hosts",
            "https://a/b.bin",
            "gone.bin",
            "data:x;base64,*",
        ] {
            assert!(read(bad).is_err(), "{bad}");
        }
        assert!(bytes_of("old%20planks.bin", None).is_err());
    }
}
