//! The source is built in layers: crates know only those below them, and inside of a crate no top-level
//! modules know each other in a ring. The source is read as text; tests count, comments don't.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// Each crate with those that it may know.
const CRATES: [(&str, &[&str]); 5] = [
    ("hurmo-core", &[]),
    ("hurmo-formats", &["hurmo_core"]),
    ("hurmo-view", &["hurmo_core"]),
    (
        "hurmo-pipeline",
        &["hurmo_core", "hurmo_formats", "hurmo_view"],
    ),
    (
        "hurmo",
        &[
            "hurmo_core",
            "hurmo_formats",
            "hurmo_view",
            "hurmo_pipeline",
        ],
    ),
];

fn source(name: &str) -> PathBuf {
    let own = Path::new(env!("CARGO_MANIFEST_DIR"));
    own.parent().unwrap().join(name).join("src")
}

/// The source files below a folder, each with the top-level module that it is of, and its text without
/// comments.
fn files(source: &Path) -> Vec<(String, String)> {
    let mut found = Vec::new();
    let mut folders = vec![source.to_path_buf()];
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                folders.push(path);
            } else if path.extension().is_some_and(|ending| ending == "rs") {
                let top = path.strip_prefix(source).unwrap().iter().next().unwrap();
                let top = top.to_str().unwrap().trim_end_matches(".rs").to_string();
                let text = std::fs::read_to_string(&path).unwrap();
                let code = text
                    .lines()
                    .map(|line| line.split("//").next().unwrap_or(""));
                found.push((top, code.collect::<Vec<_>>().join("\n")));
            }
        }
    }
    found
}

/// The first names of paths that begin with `crate::`, also of several in braces.
fn own_modules(code: &str) -> BTreeSet<String> {
    let mut names = BTreeSet::new();
    for (at, prefix) in code.match_indices("crate::") {
        let is_word = |c: char| c.is_alphanumeric() || c == '_';
        if code[..at].ends_with(is_word) {
            continue;
        }
        let rest = &code[at + prefix.len()..];
        let Some(list) = rest.strip_prefix('{') else {
            names.insert(rest.chars().take_while(|&c| is_word(c)).collect());
            continue;
        };
        let (mut depth, mut is_first) = (0, true);
        let mut name = String::new();
        for c in list.chars() {
            match c {
                '}' if depth == 0 => break,
                '{' => depth += 1,
                '}' => depth -= 1,
                ',' if depth == 0 => {
                    names.insert(std::mem::take(&mut name));
                    is_first = true;
                }
                _ if depth == 0 && is_first && is_word(c) => name.push(c),
                ':' => is_first = false,
                _ => {}
            }
        }
        names.insert(name);
    }
    names
}

/// What each top-level module knows of the others.
fn known(name: &str) -> BTreeMap<String, BTreeSet<String>> {
    let files = files(&source(name));
    let modules: BTreeSet<String> = files.iter().map(|(top, _)| top.clone()).collect();
    let mut known: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for (top, code) in files
        .iter()
        .filter(|(top, _)| top != "lib" && top != "main")
    {
        let others = own_modules(code).into_iter();
        let others = others.filter(|other| other != top && modules.contains(other));
        known.entry(top.clone()).or_default().extend(others);
    }
    known
}

/// All that a module knows, directly or through others.
fn reached(known: &BTreeMap<String, BTreeSet<String>>, from: &str) -> BTreeSet<String> {
    let mut reached = BTreeSet::new();
    let mut next = vec![from.to_string()];
    while let Some(module) = next.pop() {
        for other in known.get(&module).into_iter().flatten() {
            if reached.insert(other.clone()) {
                next.push(other.clone());
            }
        }
    }
    reached
}

#[test]
fn no_modules_know_each_other_in_a_ring() {
    for (name, _) in CRATES {
        let known = known(name);
        assert!(known.len() > 5, "{name}: its modules are found");
        let in_ring = known
            .keys()
            .find(|module| reached(&known, module).contains(*module));
        if let Some(module) = in_ring {
            panic!(
                "{name}: {module} is in a ring; it knows {:?}",
                known[module]
            );
        }
    }
}

#[test]
fn crates_know_only_those_below() {
    for (name, allowed) in CRATES {
        for (module, code) in files(&source(name)) {
            for (other, _) in CRATES {
                let other = other.replace('-', "_");
                if other == name.replace('-', "_") || allowed.contains(&&*other) {
                    continue;
                }
                assert!(
                    !code.contains(&format!("{other}::")),
                    "{name}, {module}: it knows {other}"
                );
            }
        }
    }
}

#[test]
fn the_core_names_no_command_and_no_option() {
    for (module, code) in files(&source("hurmo-core")) {
        let named = code.match_indices("--").find(|(at, _)| {
            let before = code[..*at].chars().next_back();
            let after = code[at + 2..].chars().next();
            before.is_some_and(|c| " \"`(".contains(c)) && after.is_some_and(char::is_lowercase)
        });
        let line = named.map(|(at, _)| code[at..].lines().next());
        assert_eq!(line, None, "hurmo-core, {module}: it names an option");
        assert!(
            !code.contains("`hurmo"),
            "hurmo-core, {module}: it names a command"
        );
    }
}

/// A thread that waits for others of its pool takes up other work meanwhile; under a lock that may be
/// work that asks for the lock.
#[test]
fn what_is_made_under_a_lock_is_made_on_one_thread() {
    let mut found = 0;
    for (module, code) in files(&source("hurmo-core")) {
        let makes = code.match_indices("get_or_init(");
        for (at, _) in makes.filter(|_| code.contains("OnceLock")) {
            let made: String = code[at..].chars().take(80).collect();
            assert!(made.contains("on_one_thread"), "{module}: {made}");
            found += 1;
        }
    }
    assert!(found >= 2, "{found}");
}

#[test]
fn paths_are_found_in_code() {
    let code = "use crate::mesh::{FaceId, Mesh};\nuse crate::{spatial::TriangleHierarchy, topology::{Edges, Side}, Model};\n\
                let x = crate::measure::area(m); mycrate::no::x();";
    let found: Vec<String> = own_modules(code).into_iter().collect();
    assert_eq!(found, ["Model", "measure", "mesh", "spatial", "topology"]);
}
