//! An audit for people.

use super::Table;
use crate::out::{self, count, counted, measure};
use hurmo_core::audit::{Level, MeshFacts};
use hurmo_core::units::Unit;
use hurmo_pipeline::record::{AuditDocument, FindingDocument, PlaceDocument};
use hurmo_pipeline::verdict::purpose;
use hurmo_pipeline::verdict::verdict_words;

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
    let uvs = facts.uvs.as_ref().map(|uvs| {
        let used = 100.0 * uvs.tile_used;
        let islands = counted(uvs.islands, "island");
        let bare = match facts.faces - uvs.faces {
            0 => String::new(),
            bare => format!(", {} without", counted(bare, "face")),
        };
        let set = match uvs.sets {
            1 => String::new(),
            sets => format!(" (set {} of {sets})", uvs.set),
        };
        format!("UVs{set} in {islands} on {used:.1}% of the tile{bare}")
    });
    let edges = facts.hard_edges;
    let normals = edges.map(|edges| format!("normals with {}", counted(edges, "hard edge")));
    let attributes: Vec<String> = uvs.into_iter().chain(normals).collect();
    if !attributes.is_empty() {
        text += &format!("  {}\n", attributes.join(", "));
    }
    text
}

/// The report of one model; of each finding the first this many places.
pub fn audit_text(title: &str, audit: &AuditDocument, brief: &str, places: usize) -> String {
    let mut text = format!(
        "{}\n{}",
        out::bold(title),
        headline(&audit.mesh, audit.unit)
    );
    let mut found: Vec<&FindingDocument> = audit.findings.iter().filter(|f| f.count > 0).collect();
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
        text += &out::faint(&out::wrapped(&format!("clear: {}", clear.join(", "))));
    }
    for missing in &audit.not_run {
        text += &format!(
            "  {} {}: {}\n",
            out::doubtful("not run:"),
            missing.check,
            missing.reason
        );
    }
    text + "\n" + &verdict(audit, brief)
}

/// A level's name, in its colour.
pub fn level(level: Level) -> String {
    match level {
        Level::Block => out::bad(level.name()),
        Level::Warn => out::doubtful(level.name()),
        Level::Note | Level::Off => level.name().to_string(),
    }
}

fn where_text(finding: &FindingDocument, limit: usize) -> String {
    let mut shown: Vec<String> = finding.places.iter().take(limit).map(place).collect();
    if let Some(figure) = &finding.measure {
        shown.insert(0, format!("{} {}", measure(figure.value), figure.what));
    }
    let more = finding
        .place_count
        .saturating_sub(limit.min(finding.places.len()));
    if more > 0 {
        shown.push(format!("and {}", counted(more, "more place")));
    }
    shown.join("\n")
}

/// A place in one line.
pub fn place(place: &PlaceDocument) -> String {
    let at = out::position(glam::DVec3::from_array(place.at));
    let mut words = place.part.iter().cloned().collect::<Vec<_>>();
    words.extend(place.rim.iter().cloned());
    words.extend(
        place
            .object
            .iter()
            .chain(&place.group)
            .take(1)
            .map(|name| out::short(name)),
    );
    words.extend(
        place
            .material
            .iter()
            .map(|name| format!("({})", out::short(name))),
    );
    let elements = match place.kind {
        "parts" => match &place.parts[..] {
            [_] => String::new(),
            parts => format!("with {}", parts[1..].join(", ")),
        },
        "model" => return "the whole model".to_string(),
        "named" => {
            let names: Vec<String> = place.names.iter().map(|name| out::short(name)).collect();
            return match place.object.is_some() {
                true => format!("{} at {at}", names.join(", ")),
                false => names.join(", "),
            };
        }
        _ => counted(place.count, place.noun()),
    };
    if !elements.is_empty() {
        words.push(elements);
    }
    let value = match (place.rim.is_some(), place.value) {
        (true, Some(length)) => format!(", {} long", measure(length)),
        (_, Some(value)) => format!(", {}", measure(value)),
        _ => String::new(),
    };
    let first = match (&place.faces[..], &place.edges[..], &place.vertices[..]) {
        ([face, ..], ..) => format!(", face {face}"),
        (_, [[a, b], ..], _) if place.rim.is_none() => format!(", edge {a}-{b}"),
        (.., [vertex, ..]) => format!(", vertex {vertex}"),
        _ => String::new(),
    };
    let line = match place.lines.first() {
        Some(line) if !first.is_empty() => format!(" on line {line}"),
        _ => String::new(),
    };
    format!("{}{value} at {at}{first}{line}", words.join(" "))
}

/// Whether the model may go on, in one sentence, with what blocks it first.
pub fn verdict(audit: &AuditDocument, brief: &str) -> String {
    let (head, why) = verdict_words(audit, brief);
    let blocked = audit.mesh.faces == 0 || audit.blocking().next().is_some();
    let head = if blocked {
        out::bad(&head)
    } else {
        out::good(&head)
    };
    format!("  {head}: {why}\n")
}

/// The first line of a report: which files, and which brief.
pub fn heading(files: &str, brief: &str) -> String {
    let files = out::bold(files);
    match purpose(brief) {
        purpose if purpose.is_empty() => format!("{files}\n"),
        purpose => format!("{files} {purpose}\n"),
    }
}

/// A model before and after a job, the findings of both, and the verdict. `after_is` says what the
/// second is.
pub fn proof(before: &AuditDocument, after: &AuditDocument, after_is: &str, brief: &str) -> String {
    format!(
        "\n  before\n{}  after, {after_is}\n{}\n{}\n{}",
        headline_set_in(&before.mesh, None),
        headline_set_in(&after.mesh, None),
        findings_before_and_after(before, after),
        verdict(after, brief),
    )
}

/// The same, set in further, below a heading.
pub fn headline_set_in(facts: &MeshFacts, unit: Option<Unit>) -> String {
    headline(facts, unit)
        .replace("\n  ", "\n    ")
        .replacen("  ", "    ", 1)
}

/// Each check's count before and after, where one of them isn't 0; what blocks stands first.
pub fn findings_before_and_after(before: &AuditDocument, after: &AuditDocument) -> String {
    let mut rows: Vec<(&FindingDocument, &FindingDocument)> = before
        .findings
        .iter()
        .filter_map(|was| Some((was, after.findings.iter().find(|is| is.check == was.check)?)))
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
