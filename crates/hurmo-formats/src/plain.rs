//! Opening files: plain ones only. A pipe may keep a reader waiting, a device may never end.

use std::fs::File;
use std::io::{Error, ErrorKind, Read, Result};
use std::path::Path;

/// Opens a plain file, or a link to one.
///
/// # Errors
/// When it is none, or can't be opened.
pub fn open(path: &Path) -> Result<File> {
    let about = std::fs::metadata(path)?;
    match about.is_file() || about.is_dir() {
        true => File::open(path),
        false => {
            let why = "this is a pipe or a device, not a plain file";
            Err(Error::new(ErrorKind::InvalidInput, why))
        }
    }
}

/// Reads a plain file whole.
///
/// # Errors
/// When it is none, or can't be read.
pub fn read(path: &Path) -> Result<Vec<u8>> {
    let mut bytes = Vec::new();
    open(path)?.read_to_end(&mut bytes)?;
    Ok(bytes)
}

/// What went wrong, in words.
pub fn words(error: &Error) -> String {
    match error.kind() {
        ErrorKind::NotFound => "there is no such file".into(),
        ErrorKind::PermissionDenied => "the system does not allow reading it".into(),
        ErrorKind::IsADirectory => "this is a folder, not a file".into(),
        _ => error.to_string(),
    }
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;

    #[test]
    fn devices_are_not_read() {
        assert!(read(Path::new("/dev/zero")).is_err());
        let folder = tempfile::tempdir().unwrap();
        let link = folder.path().join("endless.obj");
        std::os::unix::fs::symlink("/dev/zero", &link).unwrap();
        assert!(open(&link).is_err());
        assert!(read(folder.path()).is_err());
        std::fs::write(folder.path().join("buoy.off"), "OFF").unwrap();
        assert_eq!(read(&folder.path().join("buoy.off")).unwrap(), b"OFF");
    }
}
