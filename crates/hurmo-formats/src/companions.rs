//! Files that are written beside a model: material files, textures. None of them takes the place of
//! another file that is there, unless that was asked for.

use crate::{plain, unfinished};
use std::io;
use std::path::{Path, PathBuf};

/// Where they go, and which there are by now.
#[derive(Debug)]
pub struct Companions {
    folder: PathBuf,
    stem: String,
    may_overwrite: bool,
    /// All that were written or were there already just so.
    pub written: Vec<PathBuf>,
    /// The textures that were made smaller, by name.
    pub shrunk: Vec<String>,
    /// Those that were not there before.
    pub new: Vec<PathBuf>,
    /// Files that the model was read from: whatever is allowed, they stay.
    sources: Vec<PathBuf>,
}

impl Companions {
    /// Those of a model that is written here.
    pub fn of(model: &Path, may_overwrite: bool) -> Self {
        let folder = match model.parent() {
            Some(parent) if parent != Path::new("") => parent,
            _ => Path::new("."),
        };
        let stem = model.file_stem().unwrap_or_default();
        Self {
            folder: folder.to_path_buf(),
            stem: stem.to_string_lossy().into_owned(),
            may_overwrite,
            written: Vec::new(),
            shrunk: Vec::new(),
            new: Vec::new(),
            sources: Vec::new(),
        }
    }

    /// The folder that all is written to.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// The model's name without its ending.
    pub fn stem(&self) -> &str {
        &self.stem
    }

    /// Sees to it that a file stays as it is.
    pub fn protect(&mut self, path: &Path) {
        self.sources.extend(path.canonicalize());
    }

    fn is_source(&self, path: &Path) -> bool {
        path.canonicalize()
            .is_ok_and(|path| self.sources.contains(&path))
    }

    /// Takes note of a file that goes with the model and is where it should be.
    pub fn is_there(&mut self, path: PathBuf) {
        if !self.written.contains(&path) {
            self.written.push(path);
        }
    }

    /// Writes a file; the name that it has got, with a number where another file has the name.
    pub fn add(&mut self, name: &str, bytes: &[u8]) -> io::Result<String> {
        let name = Path::new(name)
            .file_name()
            .unwrap_or_default()
            .to_string_lossy();
        let (stem, ending) = name.rsplit_once('.').unwrap_or((&name, ""));
        for number in 1.. {
            let name = match (number, ending) {
                (1, _) => name.to_string(),
                (_, "") => format!("{stem}-{number}"),
                _ => format!("{stem}-{number}.{ending}"),
            };
            let path = self.folder.join(&name);
            let is_ours = self.written.contains(&path);
            let is_same = || plain::read(&path).is_ok_and(|own| own == bytes);
            if path.exists() && is_same() {
                self.is_there(path);
                return Ok(name);
            }
            if is_ours
                || self.is_source(&path)
                || (path.exists() && !self.may_overwrite)
                || path.is_dir()
            {
                continue;
            }
            let is_new = !path.exists();
            unfinished::write(&path, bytes)?;
            if is_new {
                self.new.push(path.clone());
            }
            self.written.push(path);
            return Ok(name);
        }
        unreachable!("there is no end of numbers")
    }

    /// Takes away what is new: the model itself could not be written.
    pub fn take_back(&self) {
        for path in &self.new {
            let _ = std::fs::remove_file(path);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_file_takes_the_place_of_another() {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| folder.path().join(name);
        std::fs::write(at("tar.png"), "old").unwrap();
        let model = at("boat.obj");
        let mut all = Companions::of(&model, false);
        assert_eq!(all.add("maps/tar.png", b"new").unwrap(), "tar-2.png");
        assert_eq!(all.add("tar.png", b"new").unwrap(), "tar-2.png");
        assert_eq!(all.add("tar.png", b"old").unwrap(), "tar.png");
        assert_eq!(all.add("../x", b"x").unwrap(), "x");
        assert_eq!(all.written, ["tar-2.png", "tar.png", "x"].map(at));
        all.take_back();
        assert!(!at("tar-2.png").exists() && !at("x").exists());
        assert_eq!(std::fs::read(at("tar.png")).unwrap(), b"old");
        // Where it may, it does; but two that differ have two names still.
        let mut all = Companions::of(&model, true);
        assert_eq!(all.add("tar.png", b"new").unwrap(), "tar.png");
        assert_eq!(all.add("tar.png", b"newer").unwrap(), "tar-2.png");
        all.take_back();
        assert_eq!(std::fs::read(at("tar.png")).unwrap(), b"new");
    }
}
