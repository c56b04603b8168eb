//! Files that lie beside a model, or below its folder: material files, textures, buffers. Nothing
//! else is opened.

use crate::plain;
use std::path::{Component, Path, PathBuf};

/// What a file holds that another names, or why it can't be read, in words.
pub fn bytes(folder: &Path, name: &str) -> Result<Vec<u8>, String> {
    plain::read(&below(folder, name)?).map_err(|error| plain::words(&error))
}

/// A file in a folder or below it, by the name that another file gives it.
pub fn below(folder: &Path, name: &str) -> Result<PathBuf, String> {
    let outside = || "it lies outside the model's folder, and is not read".to_string();
    let name = name.trim().replace('\\', "/");
    let path = Path::new(&name);
    let mut depth = 0;
    for component in path.components() {
        match component {
            Component::Normal(_) => depth += 1,
            Component::CurDir => {}
            Component::ParentDir if depth > 0 => depth -= 1,
            _ => return Err(outside()),
        }
    }
    if name.is_empty() || name.contains(':') {
        return Err("this names no file in the model's folder".into());
    }
    let folder = match folder == Path::new("") {
        true => Path::new("."),
        false => folder,
    };
    let path = folder.join(path);
    // Links may lead elsewhere.
    match (path.canonicalize(), folder.canonicalize()) {
        (Ok(real), Ok(folder)) if !real.starts_with(&folder) => Err(outside()),
        _ => Ok(path),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_what_lies_below_the_folder_is_opened() {
        let folder = Path::new("quay");
        let good = below(folder, "maps\\tar.png").unwrap();
        assert_eq!(good, Path::new("quay/maps/tar.png"));
        assert!(below(folder, "maps/../tar.png").is_ok());
        for name in [
            "../tar.png",
            "maps/../../tar.png",
            "/tar.png",
            "C:\\tar.png",
            " ",
        ] {
            assert!(below(folder, name).is_err(), "{name}");
        }
    }

    #[cfg(unix)]
    #[test]
    fn links_that_lead_outside_are_not_followed() {
        let outside = tempfile::tempdir().unwrap();
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(outside.path().join("secret"), "tide").unwrap();
        let link = |name: &str, to: &Path| {
            std::os::unix::fs::symlink(to, folder.path().join(name)).unwrap();
        };
        std::fs::write(folder.path().join("own"), "tar").unwrap();
        link("away", &outside.path().join("secret"));
        link("here", &folder.path().join("own"));
        assert!(bytes(folder.path(), "away").is_err());
        assert_eq!(bytes(folder.path(), "here").unwrap(), b"tar");
    }
}
