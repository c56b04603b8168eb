//! Runs the built program in a temporary folder.

#![allow(dead_code, missing_docs)]

use assert_cmd::Command;
use glam::DVec3;
use hurmo_core::mesh::{FaceTags, Tag};
use hurmo_core::{Mesh, Model};
use serde_json::Value;
use std::path::PathBuf;
use tempfile::TempDir;

pub struct Bench {
    pub folder: TempDir,
}

impl Bench {
    pub fn new() -> Self {
        Self {
            folder: TempDir::new().unwrap(),
        }
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub fn file(&self, name: &str, content: impl AsRef<[u8]>) -> PathBuf {
        let path = self.path(name);
        std::fs::write(&path, content).unwrap();
        path
    }

    pub fn hurmo(&self, line: &str) -> assert_cmd::assert::Assert {
        Command::cargo_bin("hurmo")
            .unwrap()
            .current_dir(self.folder.path())
            .args(line.split_whitespace())
            .assert()
    }

    /// Runs a command that prints JSON, whatever its exit code.
    pub fn json(&self, line: &str) -> Value {
        let output = self.hurmo(&format!("{line} --json")).get_output().clone();
        serde_json::from_slice(&output.stdout)
            .unwrap_or_else(|error| panic!("{line}: {error}: {output:?}"))
    }

    pub fn audit(&self, file: &str) -> Value {
        self.json(&format!("audit {file}"))["models"][0].clone()
    }

    pub fn names(&self) -> Vec<String> {
        let entries = std::fs::read_dir(self.folder.path()).unwrap();
        let mut names: Vec<String> = entries
            .map(|entry| entry.unwrap().file_name().into_string().unwrap())
            .collect();
        names.sort();
        names
    }
}

/// The count of a check in an audited model.
pub fn count(model: &Value, check: &str) -> u64 {
    model["findings"]
        .as_array()
        .unwrap()
        .iter()
        .find(|finding| finding["check"] == check)
        .unwrap_or_else(|| panic!("{check} is listed"))["count"]
        .as_u64()
        .unwrap()
}

/// A unit cube of quads as OBJ.
pub const CUBE: &str = "\
v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n\
f 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n";

/// The cube with a hole, a stray vertex and two faces that cross, all in groups.
pub const PROP: &str = "\
# a comment\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n\
o crate\nusemtl tar\nf 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\ng side\nf 2 3 7 6\nf 3 4 8 7\n\
v 9 9 9\nv 3 0 0\nv 4 0 0\nv 3 1 0\nv 3.2 0.2 -1\nv 3.2 0.2 1\nv 3.4 0.4 1\n\
o rope\nusemtl hemp\nf 10 11 12\nf 13 14 15\n";

/// What an unusable call says.
pub fn error_of(bench: &Bench, line: &str) -> String {
    let output = bench.hurmo(line).code(2).get_output().clone();
    String::from_utf8(output.stderr).unwrap()
}

/// What a command that is to exit with 0 prints.
pub fn text_of(bench: &Bench, line: &str) -> String {
    let output = bench.hurmo(line).code(0).get_output().clone();
    String::from_utf8(output.stdout).unwrap()
}

/// A mesh somewhere else.
pub fn moved(mut mesh: Mesh, by: DVec3) -> Mesh {
    mesh.move_vertices(|_, at| at + by).unwrap();
    mesh
}

/// A model all of whose faces are in one group.
pub fn grouped(name: &str, mesh: Mesh) -> Model {
    let mut model = Model::from(mesh);
    model.attributes.tags = FaceTags {
        table: vec![Tag {
            group: Some(name.into()),
            ..Tag::default()
        }],
        of_face: vec![0; model.mesh.face_count()],
    };
    model
}

/// Whether a list of statements has one of this kind.
pub fn says(statements: &serde_json::Value, what: &str) -> bool {
    let mut statements = statements.as_array().into_iter().flatten();
    statements.any(|statement| statement["what"] == what)
}
