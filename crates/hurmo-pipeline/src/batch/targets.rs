//! Where each of many models goes: below one folder, as it lay below the folder it was found in.

use crate::files::FoundFile;
use std::collections::HashMap;
use std::path::{Path, PathBuf};

/// The file that each model becomes, in a folder. `ending` is the format, where all shall have the
/// same; else each keeps its own. Models that would become the same file get their old ending into
/// their name, and then a number. Names depend on the whole list alone, not on a share of it.
pub fn targets(models: &[FoundFile], folder: &Path, ending: Option<&str>) -> Vec<PathBuf> {
    let plain: Vec<PathBuf> = models
        .iter()
        .map(|model| {
            let place = folder.join(&model.within);
            match ending {
                Some(ending) => place.with_extension(ending),
                None => place,
            }
        })
        .collect();
    let key = |path: &Path| path.to_string_lossy().to_lowercase();
    let mut wanted: HashMap<String, usize> = HashMap::new();
    for path in &plain {
        *wanted.entry(key(path)).or_default() += 1;
    }
    let mut taken: HashMap<String, usize> = HashMap::new();
    let mut place = |path: PathBuf| {
        let mut free = path.clone();
        for number in 2.. {
            if taken.insert(key(&free), number).is_none() {
                break;
            }
            free = renamed(&path, &format!("-{number}"));
        }
        free
    };
    models
        .iter()
        .zip(plain)
        .map(|(model, path)| match wanted[&key(&path)] {
            1 => place(path),
            _ => {
                let old = model.path.extension().unwrap_or_default();
                place(renamed(&path, &format!("-{}", old.to_string_lossy())))
            }
        })
        .collect()
}

/// A path with something added to the name before its ending.
fn renamed(path: &Path, addition: &str) -> PathBuf {
    let stem = path.file_stem().unwrap_or_default().to_string_lossy();
    let name = match path.extension() {
        Some(ending) => format!("{stem}{addition}.{}", ending.to_string_lossy()),
        None => format!("{stem}{addition}"),
    };
    path.with_file_name(name)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn found(path: &str, within: &str) -> FoundFile {
        FoundFile {
            path: path.into(),
            within: within.into(),
        }
    }

    #[test]
    fn no_two_models_become_one_file() {
        let models = [
            found("props/bell.obj", "bell.obj"),
            found("props/bell.stl", "bell.stl"),
            found("props/quay/bell.obj", "quay/bell.obj"),
            found("old/Bell.obj", "Bell.obj"),
            found("rope.ply", "rope.ply"),
        ];
        let shown = |ending| -> Vec<String> {
            let targets = targets(&models, Path::new("out"), ending);
            let shown = targets.iter().map(|path| path.display().to_string());
            shown.collect()
        };
        assert_eq!(
            shown(Some("stl")),
            [
                "out/bell-obj.stl",
                "out/bell-stl.stl",
                "out/quay/bell.stl",
                "out/Bell-obj-2.stl",
                "out/rope.stl"
            ]
        );
        assert_eq!(
            shown(None),
            [
                "out/bell-obj.obj",
                "out/bell.stl",
                "out/quay/bell.obj",
                "out/Bell-obj-2.obj",
                "out/rope.ply"
            ]
        );
    }
}
