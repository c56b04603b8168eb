//! Pictures of models and of their faults, as files.

mod audited;
mod before_after;
mod combined;
mod pieces_apart;
mod rebuilt;

pub use audited::{AuditedFile, audited_sheet};
pub use before_after::{DeviationMap, Side, before_and_after};
pub use combined::Combined;
pub use pieces_apart::pieces_apart;
pub use rebuilt::Drawn;

use crate::record::{AuditDocument, FindingDocument, PartsDocument, PlaceDocument};
use crate::text::{count, counted};
use crate::verdict::verdict_words;
use hurmo_core::Model;
use hurmo_core::audit::{Audit, Finding, Level};
use hurmo_core::paint::Look;
use hurmo_core::units::Axis;
use hurmo_view::{Closeup, Legend, LegendLine, Marks, Picture, Scene, Show, color, worst_places};
use std::collections::BTreeMap;
use std::sync::Arc;

/// Whether a check is about where faces lie in their textures.
pub fn is_of_uvs(check: &str) -> bool {
    check != "missing-uvs" && (check.contains("uvs") || check.contains("texel"))
}

/// How many places are shown from close by.
const TILES: usize = 12;

/// What a picture is made from: a model, and its audit with all places.
pub struct Subject<'a> {
    /// Its name.
    pub name: String,
    /// The model.
    pub model: &'a Model,
    /// How its tags look, where that is to be shown.
    pub looks: Vec<Option<Look>>,
    /// What was found.
    pub audit: &'a Audit,
    /// The same in the numbers of the file.
    pub document: &'a AuditDocument,
    /// What for.
    pub brief: &'a str,
    /// Which axis points up.
    pub up: Axis,
    /// Whether all that the brief asks for was looked for; else there is no verdict.
    pub whole: bool,
}

impl Subject<'_> {
    /// The scene, its faults marked where that is how it is shown.
    pub fn scene(&self, show: Show) -> Scene<'_> {
        let mesh = &self.model.mesh;
        let mut scene = match show {
            Show::Look => Scene::look(self.model, &self.looks),
            _ => Scene::of(mesh, show),
        };
        scene.mark(mesh, self.marked(show).into_iter());
        scene
    }

    /// The findings that are marked: the mildest first, so that the worst lie on top, but those
    /// that cover much of the model below all others. Notes about the shape of faces are not
    /// faults, and are left out.
    fn marked(&self, show: Show) -> Vec<&Finding> {
        let inside = ["interior-faces", "nested-parts", "intersecting-faces"];
        let is_marked = |finding: &&Finding| match show {
            Show::Faults => finding.level > Level::Note || !of_shape(finding.check),
            Show::Through => inside.contains(&finding.check),
            Show::Uv => is_of_uvs(finding.check),
            _ => false,
        };
        let found = self
            .audit
            .findings
            .iter()
            .filter(|finding| finding.count() > 0);
        let mut marked: Vec<&Finding> = found.filter(is_marked).collect();
        // Stable, so that within a level the order of the registry holds, reversed.
        marked.reverse();
        let covers = |finding: &Finding| finding.count() * 3 > self.audit.mesh.faces;
        marked.sort_by_key(|finding| (!covers(finding), finding.level));
        marked
    }

    /// A finding with what shows it: of parts, those of their faces that are at fault.
    fn shown_with<'f>(&'f self, finding: &'f Finding) -> impl Iterator<Item = &'f Finding> {
        let companion = match finding.check {
            "crossing-parts" => "intersecting-faces",
            "nested-parts" => "interior-faces",
            _ => "",
        };
        let found = self
            .audit
            .findings
            .iter()
            .filter(move |f| f.check == companion);
        found.chain([finding])
    }

    /// Heading and counts.
    pub fn legend(&self, show: Show) -> Legend {
        let mesh = &self.document.mesh;
        let line = |words: String| LegendLine {
            color: None,
            set_in: false,
            words,
            bold: false,
        };
        let size = mesh.bounds.map_or(String::new(), |bounds| {
            let size = bounds.size().to_array().map(crate::text::measure);
            let unit = self.document.unit.map_or("units", |unit| unit.name());
            format!("{} {unit}", size.join(" x "))
        });
        let mut lines = vec![
            line(format!(
                "{}, {}, {}",
                counted(mesh.faces, "face"),
                counted(mesh.parts, "part"),
                counted(mesh.rims, "rim")
            )),
            line(size),
            line(String::new()),
        ];
        let marked: Vec<&str> = self
            .marked(show)
            .iter()
            .map(|finding| finding.check)
            .collect();
        let mut found: Vec<&FindingDocument> = self
            .document
            .findings
            .iter()
            .filter(|finding| finding.count > 0)
            .filter(|finding| {
                show != Show::Uv || finding.check.contains("uvs") || is_of_uvs(finding.check)
            })
            .collect();
        found.sort_by_key(|finding| std::cmp::Reverse(finding.level));
        for finding in &found {
            let is_marked = marked.contains(&finding.check);
            lines.push(LegendLine {
                set_in: true,
                color: is_marked.then(|| color::of_check(finding.check)),
                words: format!(
                    "{:>7} {} ({})",
                    count(finding.count),
                    finding.check,
                    finding.level.name()
                ),
                bold: finding.level == Level::Block,
            });
        }
        if found.is_empty() {
            lines.push(line("nothing found".into()));
        }
        lines.push(line(String::new()));
        if show == Show::Uv {
            lines.push(line("all other checks: hurmo audit".into()));
        } else if self.whole {
            let (verdict, why) = verdict_words(self.document, self.brief);
            lines.push(LegendLine {
                bold: true,
                ..line(verdict)
            });
            lines.extend(crate::text::broken(&why, 48).into_iter().map(line));
        } else {
            lines.push(line("not asked: which faces meet or are buried".into()));
        }
        Legend {
            title: self.name.clone(),
            lines,
        }
    }

    /// The sheet of several views.
    pub fn overview(&self, show: Show, size: [u32; 2]) -> Picture {
        hurmo_view::overview(&self.scene(show), self.up, &self.legend(show), size)
    }

    /// The layout of its UVs; none without any.
    pub fn layout(&self, size: [u32; 2]) -> Option<Picture> {
        let mut legend = self.legend(Show::Uv);
        let mut set = 0;
        if let Some(uvs) = &self.document.mesh.uvs {
            set = uvs.set - 1;
            let of_set = match uvs.sets {
                1 => String::new(),
                sets => format!("set {} of {sets}: ", uvs.set),
            };
            let words = format!(
                "{of_set}{} with UVs, {}, {:.1}% of the tile used",
                counted(uvs.faces, "face"),
                counted(uvs.islands, "island"),
                100.0 * uvs.tile_used
            );
            let line = LegendLine {
                color: None,
                set_in: false,
                words,
                bold: false,
            };
            legend.lines.insert(1, line);
        }
        hurmo_view::uv_sheet(self.model, set, &self.marked(Show::Uv), &legend, size)
    }

    /// The worst places from close by; nothing when there are none.
    pub fn closeups(&self, size: [u32; 2]) -> Option<Picture> {
        let mut findings: Vec<&Finding> = self.marked(Show::Faults);
        findings.reverse();
        findings.sort_by_key(|finding| std::cmp::Reverse(finding.level));
        let places = worst_places(&findings, TILES);
        if places.is_empty() {
            return None;
        }
        let mesh = &self.model.mesh;
        let mut scene = Scene::of(mesh, Show::Faults);
        let mut marks_of: BTreeMap<&str, Arc<Marks>> = BTreeMap::new();
        let shown: Vec<Closeup> = places
            .into_iter()
            .map(|(finding, i, found)| {
                let marks = marks_of
                    .entry(finding.check)
                    .or_insert_with(|| Arc::new(scene.marks(mesh, self.shown_with(finding))));
                let document = self
                    .document
                    .findings
                    .iter()
                    .find(|f| f.check == finding.check);
                let at = document.and_then(|document| document.places.get(i));
                let heading = format!("{} {}/{}", finding.check, i + 1, finding.found.place_count);
                let caption = at.map_or(String::new(), caption);
                Closeup::of(
                    mesh,
                    finding.check,
                    found,
                    Arc::clone(marks),
                    [heading, caption],
                )
            })
            .collect();
        let title = format!("{}: the worst places from close by", self.name);
        Some(hurmo_view::closeups(
            &mut scene, &shown, self.up, &title, size,
        ))
    }
}

/// The parts of a model, each in its own colour, with a list of them.
pub fn parts_sheet(title: &str, model: &Model, parts: &PartsDocument, up: Axis) -> Picture {
    let line = |words: String, color: Option<color::Color>, bold| LegendLine {
        set_in: color.is_some(),
        color,
        words,
        bold,
    };
    let mut lines = vec![
        line(counted(parts.parts.len(), "part"), None, false),
        line(String::new(), None, false),
    ];
    for (i, part) in parts.parts.iter().enumerate() {
        let how = crate::record::lies(part);
        let words = format!(
            "{:4} {:>9} faces, {}{}{how}",
            part.part.to_string(),
            count(part.faces),
            crate::record::surface(part),
            if how.is_empty() { "" } else { ", " },
        );
        lines.push(line(words, Some(color::of_part(i)), false));
    }
    let legend = Legend {
        title: title.to_string(),
        lines,
    };
    let scene = Scene::of(&model.mesh, Show::Parts);
    hurmo_view::overview(&scene, up, &legend, [1280, 800])
}

/// A place in a few letters.
fn caption(place: &PlaceDocument) -> String {
    let names = place.part.iter().chain(&place.rim).cloned();
    let mut words: Vec<String> = names.collect();
    match &place.parts[..] {
        [_, others @ ..] => words.extend(others.iter().cloned()),
        [] => words.push(counted(place.count, place.noun())),
    }
    let at = place
        .at
        .map(|x| crate::text::measure((x * 1e3).round() / 1e3));
    format!("{} at {}", words.join(" "), at.join(", "))
}

/// Checks of how faces are shaped rather than of what is wrong with the surface.
fn of_shape(check: &str) -> bool {
    [
        "no-thickness",
        "ngons",
        "concave-faces",
        "non-planar-faces",
        "sliver-faces",
        "uneven-density",
        "overhangs",
    ]
    .contains(&check)
}
