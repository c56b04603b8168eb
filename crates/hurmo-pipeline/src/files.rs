//! Which files are meant, and writing them so that they appear whole or not at all.

use anyhow::{Context, Result, bail};
use std::io::BufRead;
use std::path::{Path, PathBuf};

/// A model file that was named or found.
#[derive(Clone, Debug, PartialEq)]
pub struct FoundFile {
    /// Its path.
    pub path: PathBuf,
    /// Its path below the folder that it was found in; its name, where it was named.
    pub within: PathBuf,
}

impl FoundFile {
    fn named(path: PathBuf) -> Self {
        let within = path.file_name().map_or_else(|| path.clone(), PathBuf::from);
        Self { path, within }
    }
}

/// The model files that some arguments mean, each once. Folders are walked for names that end
/// in a known format's; a name with `*`, `?` or `[` that is no file's is a pattern; `list` is a
/// file with a path a line, or `-` for standard input. Files that are named come first, in the
/// order given; those found in a folder or by a pattern are in order of their names. What lies
/// below the folder `but` is passed over where a folder is walked.
pub fn found(
    arguments: &[PathBuf],
    list: Option<&Path>,
    but: Option<&Path>,
) -> Result<Vec<FoundFile>> {
    let mut all = Vec::new();
    for path in arguments {
        if path.is_dir() {
            all.extend(in_folder(path, but)?);
        } else if let Some(pattern) = as_pattern(path) {
            let before = all.len();
            for found in glob::glob(pattern).with_context(|| format!("{pattern}: no pattern"))? {
                let found = found?;
                match found.is_dir() {
                    true => all.extend(in_folder(&found, but)?),
                    false => all.push(FoundFile::named(found)),
                }
            }
            if all.len() == before {
                bail!("{pattern}: no file is named like that");
            }
        } else {
            all.push(FoundFile::named(path.clone()));
        }
    }
    if let Some(list) = list {
        all.extend(listed(list)?.into_iter().map(FoundFile::named));
    }
    let mut seen = std::collections::HashSet::new();
    all.retain(|file| seen.insert(file.path.clone()));
    Ok(all)
}

/// The same, by their paths.
pub fn expanded(arguments: &[PathBuf], list: Option<&Path>) -> Result<Vec<PathBuf>> {
    let found = found(arguments, list, None)?;
    Ok(found.into_iter().map(|file| file.path).collect())
}

/// Whether a name may mean more than one file: a folder's, or a pattern.
pub fn may_mean_many(path: &Path) -> bool {
    path.is_dir() || as_pattern(path).is_some()
}

fn as_pattern(path: &Path) -> Option<&str> {
    let pattern = path.to_str().filter(|text| text.contains(['*', '?', '[']));
    pattern.filter(|_| !path.exists())
}

fn in_folder(folder: &Path, but: Option<&Path>) -> Result<Vec<FoundFile>> {
    let but = but.and_then(|but| but.canonicalize().ok());
    let is_other = |path: &Path| match &but {
        Some(but) => path.canonicalize().map_or(true, |path| path != *but),
        None => true,
    };
    let mut found = Vec::new();
    let walk = walkdir::WalkDir::new(folder).sort_by_file_name();
    for entry in walk
        .into_iter()
        .filter_entry(|entry| !entry.file_type().is_dir() || is_other(entry.path()))
    {
        let entry = entry.with_context(|| folder.display().to_string())?;
        if entry.file_type().is_file() && hurmo_formats::Format::of_name(entry.path()).is_some() {
            let within = entry.path().strip_prefix(folder);
            found.push(FoundFile {
                within: within.unwrap_or(entry.path()).to_path_buf(),
                path: entry.into_path(),
            });
        }
    }
    Ok(found)
}

fn listed(list: &Path) -> Result<Vec<PathBuf>> {
    let reader: Box<dyn BufRead> = match list == Path::new("-") {
        true => Box::new(std::io::stdin().lock()),
        false => {
            let file = std::fs::File::open(list).with_context(|| list.display().to_string())?;
            Box::new(std::io::BufReader::new(file))
        }
    };
    let mut paths = Vec::new();
    for line in reader.lines() {
        let line = line.with_context(|| format!("{}: no list of paths", list.display()))?;
        if !line.trim().is_empty() {
            paths.push(PathBuf::from(line.trim_end_matches('\r')));
        }
    }
    Ok(paths)
}

/// A share of a list of files.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Shard {
    number: usize,
    of: usize,
}

impl std::str::FromStr for Shard {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let numbers = text
            .split_once('/')
            .and_then(|(number, of)| Some((number.trim().parse().ok()?, of.trim().parse().ok()?)));
        match numbers {
            Some((number, of)) if (1..=of).contains(&number) => Ok(Self { number, of }),
            _ => Err(format!(
                "'{text}' is no shard; write 3/16: the third of sixteen"
            )),
        }
    }
}

impl std::fmt::Display for Shard {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}-of-{}", self.number, self.of)
    }
}

impl Shard {
    /// Every so-manieth of the files, so that large neighbours are spread. All shards together
    /// are the list.
    pub fn of<T>(self, files: Vec<T>) -> Vec<T> {
        files
            .into_iter()
            .skip(self.number - 1)
            .step_by(self.of)
            .collect()
    }
}

/// The end of a path, for headings.
pub fn name_of(path: &Path) -> String {
    path.file_name()
        .unwrap_or_default()
        .to_string_lossy()
        .into_owned()
}

/// Writes a file whole, or not at all.
pub fn write(path: &Path, bytes: &[u8]) -> Result<()> {
    hurmo_formats::unfinished::write(path, bytes).with_context(|| path.display().to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn all_shards_together_are_the_list() {
        let files: Vec<PathBuf> = (0..23).map(|i| PathBuf::from(format!("{i}"))).collect();
        for of in 1..30 {
            let mut all: Vec<PathBuf> = (1..=of)
                .flat_map(|number| {
                    format!("{number}/{of}")
                        .parse::<Shard>()
                        .unwrap()
                        .of(files.clone())
                })
                .collect();
            all.sort_by_key(|path| path.to_str().unwrap().parse::<usize>().unwrap());
            assert_eq!(all, files);
        }
        for wrong in ["0/3", "4/3", "3", "/", "a/b", "1/0"] {
            assert!(wrong.parse::<Shard>().is_err(), "{wrong}");
        }
    }
}
