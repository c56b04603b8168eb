//! What holds for a run, and files as they were.

use anyhow::{Context, Result};
use hurmo_formats::plain;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::io::Read;
use std::path::{Path, PathBuf};

/// What holds for all models of a run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct RunRecord {
    /// The version of the program.
    pub version: String,
    /// The name of the brief.
    pub brief: String,
    /// The brief, as text.
    pub brief_text: String,
    /// Other options that change what comes out, as they were given.
    pub options: Vec<String>,
}

/// A file, as it was.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FileRecord {
    /// Its path.
    pub path: PathBuf,
    /// Its size.
    pub bytes: u64,
    /// Its SHA-256 (FIPS 180-4), in hexadecimal digits.
    pub sha256: String,
}

impl FileRecord {
    /// Reads a file through.
    pub fn of(path: &Path) -> Result<Self> {
        let (mut hash, mut bytes) = (Sha256::new(), 0);
        let mut file = plain::open(path).with_context(|| path.display().to_string())?;
        let mut buffer = vec![0; 1 << 20];
        loop {
            let read = file
                .read(&mut buffer)
                .with_context(|| path.display().to_string())?;
            if read == 0 {
                break;
            }
            hash.update(&buffer[..read]);
            bytes += read as u64;
        }
        let digits = hash
            .finalize()
            .iter()
            .map(|byte| format!("{byte:02x}"))
            .collect();
        Ok(Self {
            path: path.to_path_buf(),
            bytes,
            sha256: digits,
        })
    }

    /// Whether the file is still as it was.
    pub fn holds(&self) -> bool {
        Self::of(&self.path).is_ok_and(|now| now == *self)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_hash_is_that_of_the_standard() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("abc");
        std::fs::write(&path, "abc").unwrap();
        let record = FileRecord::of(&path).unwrap();
        // The first example of FIPS 180-4.
        let digits = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad";
        assert_eq!((record.bytes, record.sha256.as_str()), (3, digits));
        assert!(record.holds());
        std::fs::write(&path, "abd").unwrap();
        assert!(!record.holds());
    }
}
