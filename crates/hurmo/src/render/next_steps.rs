//! What to try next on a model that is blocked: commands to paste, and what each would do.

use crate::out::{self, count};
use hurmo_pipeline::record::{AuditDocument, FindingDocument};
use std::path::Path;

/// A command that works on what some checks found.
struct Cure {
    checks: &'static [&'static str],
    /// The command's words before and behind the files.
    command: &'static str,
    options: &'static str,
    does: &'static str,
}

const CURES: &[Cure] = &[
    Cure {
        checks: &[
            "unusable-vertices",
            "duplicate-vertices",
            "zero-area-faces",
            "lamina-faces",
            "reversed-faces",
        ],
        command: "mend",
        options: "",
        does: "clears what can be cleared without losing surface",
    },
    Cure {
        checks: &["stray-vertices", "stray-edges"],
        command: "mend",
        options: "--also stray-edges",
        does: "drops line elements and vertices in no face",
    },
    Cure {
        checks: &["nonmanifold-edges"],
        command: "mend",
        options: "--also nonmanifold-edges",
        does: "takes sheets apart there, also where that opens edges",
    },
    Cure {
        checks: &["misoriented-edges"],
        command: "mend",
        options: "--cut-one-sided",
        does: "cuts one-sided patches open, so that their faces can be made consistent",
    },
    Cure {
        checks: &["open-edges"],
        command: "fill",
        options: "",
        does: "closes rims that can be closed",
    },
    Cure {
        checks: &["ngons"],
        command: "mend",
        options: "--triangulate",
        does: "cuts n-gons into triangles",
    },
    Cure {
        checks: &["intersecting-faces", "crossing-parts"],
        command: "mend",
        options: "--also intersecting-faces",
        does: "makes closed parts that meet the boundary of what they fill; open ones stay",
    },
    Cure {
        checks: &["intersecting-faces"],
        command: "mend",
        options: "--repatch intersecting-faces",
        does: "cuts out the places where they meet and closes them anew, where that is better",
    },
    Cure {
        checks: &[
            "intersecting-faces",
            "crossing-parts",
            "interior-faces",
            "nested-parts",
            "no-thickness",
        ],
        command: "reskin",
        options: "--cell 0.3% --min-thickness 0.6%",
        does: "puts a new skin round all of it, walls for sheets: every face becomes new",
    },
];

/// The commands that work on what blocks, for the file that was written.
pub fn next_steps(after: &AuditDocument, file: &Path) -> String {
    let blocking: Vec<&FindingDocument> = after.blocking().collect();
    let mut text = String::new();
    for cure in CURES {
        let found: Vec<String> = blocking
            .iter()
            .filter(|finding| cure.checks.contains(&finding.check))
            .map(|finding| format!("{} ({})", finding.check, count(finding.count)))
            .collect();
        if found.is_empty() {
            continue;
        }
        let options = match cure.options {
            "" => String::new(),
            options => format!(" {options}"),
        };
        text += &format!(
            "    hurmo {} {}{options} -o {}\n        {}: {}\n",
            cure.command,
            quoted(file),
            quoted(&beside(file, cure.command)),
            found.join(", "),
            cure.does,
        );
    }
    let floating = blocking.iter().find(|f| f.check == "floating-parts");
    if let Some(floating) = floating {
        let parts = floating.places.iter().flat_map(|place| place.parts.clone());
        let parts: Vec<String> = parts.collect();
        text += &format!(
            "    hurmo parts {} --drop {} -o {}\n        floating-parts ({}): drops them; leave out of the list what is wanted\n",
            quoted(file),
            parts.join(","),
            quoted(&beside(file, "parts")),
            count(floating.count),
        );
    }
    match text.is_empty() {
        true => text,
        false => format!("\n  {}\n{text}", out::bold("to try next")),
    }
}

/// A file beside another, named by what makes it.
fn beside(file: &Path, command: &str) -> std::path::PathBuf {
    let stem = file.file_stem().unwrap_or_default().to_string_lossy();
    let ending = file.extension().unwrap_or_default().to_string_lossy();
    file.with_file_name(format!("{stem}-{command}.{ending}"))
}

/// A path as a shell takes it.
fn quoted(path: &Path) -> String {
    let path = path.display().to_string();
    let is_plain = |c: char| c.is_alphanumeric() || "/._-+=:,@%".contains(c);
    match path.chars().all(is_plain) {
        true => path,
        false => format!("'{}'", path.replace('\'', "'\\''")),
    }
}
