//! An audit for people.

use super::Table;
use crate::out::{self, count, counted, measure};
use hurmo_core::audit::{Audit, Brief, Finding, Level, MeshFacts, Place};
use hurmo_core::units::Unit;

/// What a model is, in two or three lines.
pub fn headline(facts: &MeshFacts, unit: Option<Unit>) -> String {
    let kinds = [
        (facts.triangles, "triangle"),
        (facts.quads, "quad"),
        (facts.ngons, "n-gon"),
    ];
    let kinds: Vec<String> = kinds
        .iter()
        .filter(|(n, _)| *n > 0)
        .map(|&(n, kind)| counted(n, kind))
        .collect();
    let faces = match &kinds[..] {
        [one] if facts.faces == facts.triangles || facts.faces == facts.quads => one.clone(),
        kinds => format!("{} ({})", counted(facts.faces, "face"), kinds.join(", ")),
    };
    let mut text = format!(
        "  {faces} over {}, {}, {}\n",
        counted(facts.vertices, "vertex"),
        counted(facts.parts, "part"),
        counted(facts.rims, "rim"),
    );
    if let Some(bounds) = &facts.bounds {
        let size = bounds.size();
        let unit = unit.map_or_else(|| " units".to_string(), |unit| format!(" {unit}"));
        text += &format!(
            "  {} × {} × {}{unit}, diagonal {}, area {}",
            measure(size.x),
            measure(size.y),
            measure(size.z),
            measure(facts.diagonal),
            measure(facts.area),
        );
        text += &match facts.watertight {
            true => format!(", watertight, volume {}\n", measure(facts.volume)),
            false => ", not watertight\n".to_string(),
        };
    }
    text
}

/// The report of one model.
pub fn audit_text(
    title: &str,
    audit: &Audit,
    brief: Brief,
    unit: Option<Unit>,
    places: usize,
) -> String {
    let mut text = format!("{}\n{}", out::bold(title), headline(&audit.mesh, unit));
    let mut found: Vec<&Finding> = audit.findings.iter().filter(|f| f.count > 0).collect();
    found.sort_by_key(|finding| std::cmp::Reverse(finding.level));
    if !found.is_empty() {
        let mut table = Table::new(&["level", "finding", ">count", "where"]);
        for finding in found {
            table.row([
                level(finding.level),
                finding.check.to_string(),
                count(finding.count),
                where_text(finding, places),
            ]);
        }
        text += "\n";
        text += &table.text();
    }
    let clear: Vec<&str> = audit
        .findings
        .iter()
        .filter(|finding| finding.count == 0)
        .map(|finding| finding.check)
        .collect();
    if !clear.is_empty() {
        text += &out::faint(&format!("  clear: {}", clear.join(", ")));
        text += "\n";
    }
    text + "\n" + &verdict(audit, brief)
}

fn level(level: Level) -> String {
    match level {
        Level::Block => out::bad(level.name()),
        Level::Warn => out::doubtful(level.name()),
        Level::Note => level.name().to_string(),
    }
}

fn where_text(finding: &Finding, limit: usize) -> String {
    let mut shown: Vec<String> = finding.places.iter().take(limit).map(place).collect();
    let kept = shown.len();
    let rims = finding.places.first().is_some_and(|p| p.rim.is_some());
    if rims {
        if finding.places.len() > kept {
            shown.push("…".into());
        }
    } else if finding.count > kept {
        shown.push(format!("and {} more", count(finding.count - kept)));
    }
    shown.join("\n")
}

fn place(place: &Place) -> String {
    let at = out::position(place.at);
    let part = place.part.map_or(String::new(), |part| format!("{part} "));
    match (place.rim, place.face, &place.vertices[..]) {
        (Some(rim), ..) => format!(
            "{part}{rim}: {}, {} long, round {at}",
            counted(place.edges.unwrap_or(0), "edge"),
            measure(place.length.unwrap_or(0.0)),
        ),
        (_, Some(face), _) => format!("{part}face {face} at {at}"),
        (_, _, [vertex]) => format!("{part}vertex {vertex} at {at}"),
        (_, _, [a, b]) => format!("{part}edge {a}-{b} at {at}"),
        _ => format!("{part}at {at}"),
    }
}

/// Whether the model may go on, in one sentence.
pub fn verdict(audit: &Audit, brief: Brief) -> String {
    let purpose = match brief {
        Brief::General => String::new(),
        brief => format!(" for {}", brief.name()),
    };
    if audit.mesh.faces == 0 {
        return format!("  {}: the model has no faces\n", out::bad("blocked"));
    }
    let blocking: Vec<&str> = audit.blocking().map(|finding| finding.check).collect();
    match &blocking[..] {
        [] => format!("  {}: nothing blocks{purpose}\n", out::good("good to go")),
        names => format!(
            "  {}{purpose} by {}\n",
            out::bad("blocked"),
            names.join(", ")
        ),
    }
}

/// Each check's count before and after, where one of them isn't 0; what blocks stands first.
pub fn findings_before_and_after(before: &Audit, after: &Audit) -> String {
    let mut rows: Vec<(&Finding, &Finding)> = before
        .findings
        .iter()
        .zip(&after.findings)
        .filter(|(a, b)| a.count > 0 || b.count > 0)
        .collect();
    rows.sort_by_key(|(finding, _)| std::cmp::Reverse(finding.level));
    if rows.is_empty() {
        return "  no findings, before or after\n".to_string();
    }
    let mut table = Table::new(&["level", "finding", ">before", ">after", ""]);
    for (was, is) in rows {
        let remark = match (was.count, is.count) {
            (_, 0) => out::good("cleared"),
            (0, _) => out::bad("new"),
            (was, is) if is < was => "fewer".to_string(),
            (was, is) if is > was => out::doubtful("more"),
            _ => String::new(),
        };
        table.row([
            level(was.level),
            was.check.to_string(),
            count(was.count),
            count(is.count),
            remark,
        ]);
    }
    table.text()
}
