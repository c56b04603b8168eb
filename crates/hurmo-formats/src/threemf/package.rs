//! The zip, of which only the parts that the model needs are read, and none is ever unpacked to disk.

use crate::ReadError;
use quick_xml::Reader;
use quick_xml::events::Event;
use std::io::{BufRead, BufReader, Cursor, Read, Write};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

/// Where the document is unless the package says otherwise.
const USUAL: &str = "3D/3dmodel.model";
const RELATIONS: &str = "_rels/.rels";
/// The kind of relation that leads to it.
const TO_MODEL: &str = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel";

/// A part may be this many times as large as the whole package, and this many bytes besides; what is
/// larger was made to do harm.
const TIMES: u64 = 400;
const BESIDES: u64 = 16 << 20;
/// Parts that say what belongs to what are small.
const SMALL: u64 = 1 << 20;

const TYPES: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n\
    <Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\">\
    <Default Extension=\"rels\" ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/>\
    <Default Extension=\"model\" ContentType=\"application/vnd.ms-package.3dmanufacturing-3dmodel+xml\"/>\
    </Types>\n";

/// Whether a file is a zip that names the document early or late.
pub fn looks_like(bytes: &[u8]) -> bool {
    bytes.starts_with(b"PK\x03\x04") && {
        let head = &bytes[..bytes.len().min(4096)];
        let tail = &bytes[bytes.len().saturating_sub(1 << 16)..];
        [head, tail].iter().any(|part| {
            memchr::memmem::find(part, b"[Content_Types].xml").is_some()
                || memchr::memmem::find(part, b".model").is_some()
        })
    }
}

/// An opened package.
pub struct Package<'a> {
    zip: ZipArchive<Cursor<&'a [u8]>>,
    size: u64,
}

impl<'a> Package<'a> {
    /// Opens a package.
    pub fn open(bytes: &'a [u8]) -> Result<Self, ReadError> {
        let zip = ZipArchive::new(Cursor::new(bytes));
        let zip =
            zip.map_err(|error| ReadError::whole(format!("the package can't be opened: {error}")))?;
        Ok(Self {
            zip,
            size: bytes.len() as u64,
        })
    }

    /// Reads the document, part by part as it is unpacked.
    pub fn with_document<T>(
        &mut self,
        parse: impl FnOnce(&mut dyn BufRead) -> Result<T, ReadError>,
    ) -> Result<T, ReadError> {
        let name = self.document_name()?;
        let most = BESIDES + TIMES * self.size;
        let file = self.zip.by_name(&name).map_err(|error| {
            ReadError::whole(format!("{name} can't be read from the package: {error}"))
        })?;
        if file.size() > most {
            return Err(too_large(&name));
        }
        // What is said of the size need not be true.
        let mut limited = BufReader::with_capacity(1 << 16, file.take(most));
        let found = parse(&mut limited)?;
        match limited.get_ref().limit() {
            0 => Err(too_large(&name)),
            _ => Ok(found),
        }
    }

    fn document_name(&mut self) -> Result<String, ReadError> {
        let Ok(relations) = self.zip.by_name(RELATIONS) else {
            return Ok(USUAL.into());
        };
        let mut reader = Reader::from_reader(BufReader::new(relations.take(SMALL)));
        let mut buffer = Vec::new();
        loop {
            buffer.clear();
            let event = reader.read_event_into(&mut buffer);
            let event = event.map_err(|error| ReadError::whole(format!("{RELATIONS}: {error}")))?;
            match event {
                Event::Eof => return Ok(USUAL.into()),
                Event::Start(tag) | Event::Empty(tag) => {
                    let mut kind = None;
                    let mut target = None;
                    for attribute in tag.attributes().flatten() {
                        let value = attribute.value.into_owned();
                        match attribute.key.as_ref() {
                            "Type" => kind = Some(value),
                            "Target" => target = Some(value),
                            _ => {}
                        }
                    }
                    if let (Some(TO_MODEL), Some(target)) = (kind.as_deref(), target) {
                        return Ok(target.trim_start_matches('/').to_string());
                    }
                }
                _ => {}
            }
        }
    }
}

fn too_large(name: &str) -> ReadError {
    ReadError::whole(format!(
        "{name} is far larger than the package has bytes for, and is not unpacked"
    ))
}

/// Writes a package of a document.
pub fn pack(
    document: impl FnOnce(&mut dyn Write) -> std::io::Result<()>,
    out: &mut dyn Write,
) -> std::io::Result<()> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    let options = SimpleFileOptions::default()
        .compression_method(CompressionMethod::Deflated)
        .compression_level(Some(1));
    let relations = format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n\
         <Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">\
         <Relationship Id=\"model\" Target=\"/{USUAL}\" Type=\"{TO_MODEL}\"/></Relationships>\n"
    );
    zip.start_file("[Content_Types].xml", options)?;
    zip.write_all(TYPES.as_bytes())?;
    zip.start_file(RELATIONS, options)?;
    zip.write_all(relations.as_bytes())?;
    zip.start_file(USUAL, options.large_file(true))?;
    let mut buffered = std::io::BufWriter::with_capacity(1 << 16, &mut zip);
    document(&mut buffered)?;
    buffered.flush()?;
    drop(buffered);
    out.write_all(&zip.finish()?.into_inner())
}
