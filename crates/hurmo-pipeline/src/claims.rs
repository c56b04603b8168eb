//! Which files a run reads and will write: none is written twice, and none that is read is written.

use anyhow::{Result, bail};
use std::path::{Path, PathBuf};

/// The files of a run.
#[derive(Debug, Default)]
pub struct Claims {
    reads: Vec<PathBuf>,
    writes: Vec<PathBuf>,
}

impl Claims {
    /// Remembers a file that will be read.
    pub fn read(&mut self, path: &Path) {
        self.reads.push(place(path));
    }

    /// Claims a file that will be written.
    ///
    /// # Errors
    /// When it is a folder, lies in no folder, is there already and may not be overwritten, is read, or is
    /// claimed already.
    pub fn write(&mut self, path: &Path, may_overwrite: bool) -> Result<()> {
        let shown = path.display();
        if path.is_dir() {
            bail!("{shown}: this is a folder; name a file in it");
        }
        let place = place(path);
        if self.reads.contains(&place) {
            bail!("{shown}: that is the input; write to another file");
        }
        if self.writes.contains(&place) {
            bail!("{shown}: two results can't go to one file");
        }
        if path.exists() && !may_overwrite {
            bail!("{shown}: is there already; --force overwrites it");
        }
        if let Some(folder) = path.parent()
            && folder != Path::new("")
            && !folder.is_dir()
        {
            bail!("{shown}: there is no folder {}", folder.display());
        }
        self.writes.push(place);
        Ok(())
    }
}

/// The one name of a file, whichever way it is written; of one that is not there, in its folder.
fn place(path: &Path) -> PathBuf {
    path.canonicalize().unwrap_or_else(|_| {
        let folder = path.parent().filter(|parent| *parent != Path::new(""));
        let folder = folder.unwrap_or(Path::new(".")).canonicalize();
        match (folder, path.file_name()) {
            (Ok(folder), Some(name)) => folder.join(name),
            _ => path.to_path_buf(),
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_is_written_once_and_never_where_it_is_read() {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| folder.path().join(name);
        std::fs::create_dir(at("quay")).unwrap();
        std::fs::write(at("buoy.obj"), "v 0 0 0").unwrap();
        let mut claims = Claims::default();
        claims.read(&at("quay/../buoy.obj"));
        let refused = claims.write(&at("buoy.obj"), true).unwrap_err();
        assert!(refused.to_string().contains("the input"), "{refused}");
        claims.write(&at("a.csv"), false).unwrap();
        let refused = claims.write(&at("quay/../a.csv"), true).unwrap_err();
        assert!(refused.to_string().contains("one file"), "{refused}");
        assert!(claims.write(&at("quay"), true).is_err());
        assert!(claims.write(&at("nowhere/a.csv"), true).is_err());
    }

    #[cfg(unix)]
    #[test]
    fn a_link_is_the_file_that_it_leads_to() {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| folder.path().join(name);
        std::fs::write(at("buoy.obj"), "v 0 0 0").unwrap();
        std::os::unix::fs::symlink(at("buoy.obj"), at("link.obj")).unwrap();
        let mut claims = Claims::default();
        claims.read(&at("link.obj"));
        assert!(claims.write(&at("buoy.obj"), true).is_err());
    }
}
