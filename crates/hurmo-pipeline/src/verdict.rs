//! Whether a model may go on.

use crate::record::{AuditDocument, FindingDocument};
use crate::text::{count, counted};

/// What for, set off by a space; nothing where it is for nothing in particular.
pub fn purpose(brief: &str) -> String {
    match brief {
        "general" => String::new(),
        brief => format!(" for {brief}"),
    }
}

/// The verdict's two halves, without colour.
pub fn verdict_words(audit: &AuditDocument, brief: &str) -> (String, String) {
    let purpose = purpose(brief);
    if audit.mesh.faces == 0 {
        return (format!("blocked{purpose}"), "the model has no faces".into());
    }
    let blocking: Vec<&FindingDocument> = audit.blocking().collect();
    let named =
        |finding: &&FindingDocument| format!("{} ({})", finding.check, count(finding.count));
    if blocking.is_empty() {
        return (format!("good to go{purpose}"), "nothing blocks".into());
    }
    let first: Vec<String> = blocking.iter().take(3).map(named).collect();
    let more = match blocking.len() - first.len() {
        0 => String::new(),
        more => format!(", and {}", counted(more, "more kind")),
    };
    let are = if first.len() == 1 { "is" } else { "are" };
    (
        format!("blocked{purpose}"),
        format!(
            "may not go on before {} {are} cleared{more}",
            listed(&first)
        ),
    )
}

/// Words as a list in a sentence.
fn listed(words: &[String]) -> String {
    match words {
        [] => String::new(),
        [one] => one.clone(),
        [most @ .., last] => format!("{} and {last}", most.join(", ")),
    }
}
