//! Files that get their names when they are complete: until then they are hidden parts beside their place,
//! which go when they are dropped or the process is interrupted.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard};
use tempfile::NamedTempFile;

/// The parts that are there.
static THERE: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

fn there() -> MutexGuard<'static, Vec<PathBuf>> {
    THERE.lock().unwrap_or_else(|broken| broken.into_inner())
}

/// A file that has not got its name yet.
#[derive(Debug)]
pub struct Unfinished {
    part: Option<NamedTempFile>,
    path: PathBuf,
}

impl Unfinished {
    /// Begins a file in a folder.
    ///
    /// # Errors
    /// When the system refuses.
    pub fn in_folder(folder: &Path) -> io::Result<Self> {
        let mut builder = tempfile::Builder::new();
        builder.prefix(".hurmo-").suffix(".part");
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            builder.permissions(std::fs::Permissions::from_mode(0o666));
        }
        let mut there = there();
        let part = builder.tempfile_in(folder)?;
        let path = part.path().to_path_buf();
        there.push(path.clone());
        Ok(Self {
            part: Some(part),
            path,
        })
    }

    /// What is written to.
    pub fn writer(&mut self) -> BufWriter<&mut File> {
        let part = self
            .part
            .as_mut()
            .expect("it is there until it is finished");
        BufWriter::with_capacity(1 << 20, part.as_file_mut())
    }

    /// Gives it its name; a file of that name goes.
    ///
    /// # Errors
    /// When the system refuses; then the part goes.
    pub fn finish(mut self, path: &Path) -> io::Result<()> {
        let part = self.part.take().expect("it is there until it is finished");
        let mut there = there();
        there.retain(|other| *other != self.path);
        part.persist(path).map_err(|error| error.error)?;
        Ok(())
    }
}

impl Drop for Unfinished {
    fn drop(&mut self) {
        if let Some(part) = self.part.take() {
            drop(part);
            there().retain(|other| *other != self.path);
        }
    }
}

/// Writes a file whole, or not at all.
///
/// # Errors
/// When the system refuses.
pub fn write(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let folder = path.parent().filter(|parent| *parent != Path::new(""));
    let mut part = Unfinished::in_folder(folder.unwrap_or(Path::new(".")))?;
    let mut writer = part.writer();
    writer.write_all(bytes)?;
    writer.flush()?;
    drop(writer);
    part.finish(path)
}

/// Takes all parts away, for a process that ends at once, and calls `end`; no part is begun or named
/// meanwhile.
pub fn remove_all<R>(end: impl FnOnce() -> R) -> R {
    let mut there = there();
    for part in there.drain(..) {
        // What can't be removed now can't be later.
        let _ = std::fs::remove_file(part);
    }
    end()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_part_is_named_or_goes() {
        let folder = tempfile::tempdir().unwrap();
        let names = || {
            let entries = std::fs::read_dir(folder.path()).unwrap();
            let mut names: Vec<_> = entries.map(|entry| entry.unwrap().file_name()).collect();
            names.sort();
            names
        };
        let mut part = Unfinished::in_folder(folder.path()).unwrap();
        part.writer().write_all(b"OFF").unwrap();
        assert_eq!(names().len(), 1);
        part.finish(&folder.path().join("buoy.off")).unwrap();
        assert_eq!(names(), ["buoy.off"]);
        drop(Unfinished::in_folder(folder.path()).unwrap());
        assert_eq!(names(), ["buoy.off"]);
        assert!(write(&folder.path().join("nowhere/tar.png"), b"tar").is_err());
        write(&folder.path().join("tar.png"), b"tar").unwrap();
        assert_eq!(names(), ["buoy.off", "tar.png"]);
    }
}
