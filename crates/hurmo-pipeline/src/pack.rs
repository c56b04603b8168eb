//! The package that a model is handed over in: a folder with the model and its textures, its audit, the
//! ledger, pictures, and a page of plain text for whoever receives it.

use crate::files;
use crate::output::Output;
use crate::pictures::{AuditedFile, audited_sheet};
use crate::plan::Plan;
use crate::prepare::{One, prepare};
use crate::record::{self, AuditDocument, ModelRecord, OneLedger, RunRecord};
use crate::text::{count, counted, joined, measure};
use crate::verdict::verdict_words;
use crate::workspace::Workspace;
use anyhow::Result;
use hurmo_core::audit::Level;
use hurmo_core::units::Unit;
use std::fmt::Write;
use std::path::{Path, PathBuf};

/// What differs by less, as a share of the diagonal, differs as single precision does.
const SINGLE: f64 = 1e-6;
/// Width of the page, in letters.
const WIDTH: usize = 80;

/// What goes into the folder.
#[derive(Clone, Debug)]
pub struct Pack {
    /// The folder.
    pub folder: PathBuf,
    /// The model.
    pub model: PathBuf,
    /// Its audit, as JSON.
    pub audit: PathBuf,
    /// Its audit, as a picture.
    pub picture: PathBuf,
    /// Before and after.
    pub before_and_after: PathBuf,
    /// What was done.
    pub ledger: PathBuf,
    /// The page.
    pub readme: PathBuf,
}

/// A package in the making.
pub struct Packing<'a> {
    /// What goes into it.
    pub pack: &'a Pack,
    /// The file to read.
    pub input: &'a Path,
    /// The model's file in it.
    pub output: &'a Output,
    /// What one unit of its coordinates is.
    pub unit: Option<Unit>,
    /// What holds for the whole run.
    pub run: &'a RunRecord,
}

impl Packing<'_> {
    /// Prepares the model, and writes all that goes with it.
    ///
    /// # Errors
    /// When it can't be prepared, or a file would take the place of another.
    pub fn make(&self, plan: &Plan, workspace: &Workspace) -> Result<ModelRecord> {
        let pack = self.pack;
        let force = self.output.force;
        workspace.reads(self.input);
        workspace.claim_folder(&pack.folder, pack.beside(), force)?;
        workspace.claim_output(self.output)?;
        let one = One {
            input: self.input,
            output: Some(self.output),
            unit: self.unit,
            picture: Some(&pack.before_and_after),
        };
        let record = prepare(&one, plan, workspace)?;
        let document = OneLedger {
            run: self.run,
            model: &record,
        };
        files::write(&pack.ledger, record::json(&document).as_bytes())?;
        let written = audited_sheet(&pack.model, &pack.picture, &plan.brief, workspace)?;
        files::write(&pack.audit, record::json(&written.report).as_bytes())?;
        files::write(&pack.readme, pack.page(&record, &written).as_bytes())?;
        Ok(record)
    }
}

impl Pack {
    /// The package of a model that is written under such a name.
    pub fn of(folder: &Path, name: &str) -> Self {
        let stem = Path::new(name).file_stem().unwrap_or_default();
        let stem = stem.to_string_lossy();
        let file = |ending: &str| folder.join(format!("{stem}-{ending}"));
        Self {
            model: folder.join(name),
            audit: file("audit.json"),
            picture: file("audit.png"),
            before_and_after: file("before-and-after.png"),
            ledger: file("ledger.json"),
            readme: folder.join("README.txt"),
            folder: folder.to_path_buf(),
        }
    }

    /// All files that it is sure to have.
    fn files(&self) -> Vec<&PathBuf> {
        std::iter::once(&self.model).chain(self.beside()).collect()
    }

    /// The same, without the model.
    fn beside(&self) -> [&PathBuf; 5] {
        [
            &self.audit,
            &self.picture,
            &self.before_and_after,
            &self.ledger,
            &self.readme,
        ]
    }
    /// The name that a model is written under where none is given: its own, with the ending that the
    /// brief asks for, or that is usual for what it asks for.
    pub fn name_for(input: &Path, plan: &Plan) -> String {
        let stem = input.file_stem().unwrap_or_default().to_string_lossy();
        let handoff = &plan.brief.handoff;
        let own = input
            .extension()
            .map(|ending| ending.to_string_lossy().to_lowercase());
        let ending = match (&handoff.format, handoff.triangles) {
            (Some(format), _) => format.clone(),
            (None, true) if plan.brief.wants_closed() => "3mf".into(),
            (None, true) => "glb".into(),
            (None, false) => own.unwrap_or_else(|| "obj".into()),
        };
        format!("{stem}.{ending}")
    }

    /// The page: what the model is, whether it may go on, what was changed, what lies beside it.
    /// `written` is what is in the file, in the unit and with the axes that it says.
    pub fn page(&self, record: &ModelRecord, written: &AuditedFile) -> String {
        let name = name_of(&self.model);
        let mut page = format!("{name}\n{}\n\n", "=".repeat(name.chars().count()));
        let (verdict, why) = verdict_words(written.document(), &record.brief);
        let _ = writeln!(page, "{verdict}: {why}.\n");
        about(&mut page, written);
        found(&mut page, written.document());
        changed(&mut page, record);
        self.contents(&mut page);
        page
    }

    fn contents(&self, page: &mut String) {
        heading(page, "In this folder");
        let mut names: Vec<String> = std::fs::read_dir(&self.folder)
            .map(|entries| {
                let names = entries.flatten().map(|entry| entry.file_name());
                names
                    .map(|name| name.to_string_lossy().into_owned())
                    .collect()
            })
            .unwrap_or_default();
        let own: Vec<_> = self.files().into_iter().map(|file| name_of(file)).collect();
        names.retain(|name| !own.contains(name));
        names.sort();
        let what = [
            (&self.model, "the model"),
            (&self.audit, "what its audit found, for programs"),
            (&self.picture, "the same, drawn"),
            (
                &self.before_and_after,
                "the model before and after, and where it moved",
            ),
            (
                &self.ledger,
                "every step, its figures, and a hash of each file",
            ),
        ];
        let width = names.iter().map(|name| name.chars().count());
        let width = width.chain(what.iter().map(|(file, _)| name_of(file).chars().count()));
        let width = width.max().unwrap_or(0);
        for (file, what) in what {
            let _ = writeln!(page, "  {:width$}  {what}", name_of(file));
        }
        for name in names {
            let _ = writeln!(
                page,
                "  {name:width$}  goes with the model: keep it beside it"
            );
        }
    }
}

fn about(page: &mut String, written: &AuditedFile) {
    let (document, model) = (written.document(), &written.model);
    heading(page, "The model");
    let facts = &document.mesh;
    line(
        page,
        "faces",
        &format!(
            "{} over {}",
            count(facts.faces),
            counted(facts.vertices, "vertex")
        ),
    );
    line(page, "parts", &count(facts.parts));
    if let Some(bounds) = &facts.bounds {
        let unit = document
            .unit
            .map_or("units; which is not stated", |unit| unit.name());
        let size = bounds.size().to_array().map(measure);
        line(page, "size", &format!("{} {unit}", size.join(" × ")));
    }
    let up = model.up.map_or("not stated", |up| up.name());
    line(page, "up", up);
    let closed = match facts.watertight {
        true => format!("watertight, volume {}", measure(facts.volume)),
        false => "not watertight".into(),
    };
    line(page, "closed", &closed);
    if let Some(uvs) = &facts.uvs {
        let islands = counted(uvs.islands, "island");
        line(
            page,
            "UVs",
            &format!("{islands} on {:.1}% of the tile", 100.0 * uvs.tile_used),
        );
    }
    let scene = model.attributes.scene.as_deref();
    let materials = scene.map_or(&[][..], |scene| &scene.materials);
    let names: Vec<&str> = materials
        .iter()
        .map(|material| &material.name[..])
        .collect();
    if !names.is_empty() {
        line(page, "materials", &names.join(", "));
    }
    let images = scene.map_or(&[][..], |scene| &scene.images);
    for image in images {
        let size = image
            .size
            .map_or(String::new(), |[w, h]| format!(", {w} × {h} pixels"));
        let within = match image.data {
            hurmo_core::scene::ImageData::Embedded { .. } => " in the model's file",
            hurmo_core::scene::ImageData::File { .. } => "",
        };
        line(
            page,
            "texture",
            &format!("{}{within}{size}", image.display_name()),
        );
    }
    page.push('\n');
}

fn found(page: &mut String, document: &AuditDocument) {
    heading(page, "What its audit still finds");
    let findings = document.findings.iter().filter(|finding| finding.count > 0);
    let mut findings: Vec<_> = findings
        .filter(|finding| finding.level > Level::Off)
        .collect();
    findings.sort_by_key(|finding| std::cmp::Reverse(finding.level));
    for finding in &findings {
        let level = finding.level.name();
        let check = hurmo_core::audit::named(finding.check);
        let counts = check.map_or("", |check| check.counts);
        let head = format!("{level}: {} {}", count(finding.count), finding.check);
        paragraph(page, &format!("{head}: {counts}"));
    }
    if findings.is_empty() {
        page.push_str("  nothing\n");
    }
    page.push('\n');
}

fn changed(page: &mut String, record: &ModelRecord) {
    heading(page, "What was changed");
    let _ = writeln!(page, "  from {}", name_of(&record.input.path));
    let steps = record
        .steps
        .iter()
        .filter(|step| step.kept)
        .flat_map(|step| &step.reports);
    let mut is_any = false;
    for step in steps.filter(|step| !step.did.is_empty()) {
        is_any = true;
        paragraph(page, &format!("{}: {}", step.step, joined(&step.did)));
    }
    if !is_any {
        page.push_str("  nothing\n");
    }
    let lost = record.lost.iter().map(|lost| format!("lost: {lost}"));
    let notes = record.notes.iter().map(|note| format!("note: {note}"));
    lost.chain(notes).for_each(|words| paragraph(page, &words));
    if let Some(off) = &record.from_original {
        let most = off.new_from_old.max;
        let words = match most <= SINGLE * record.after.mesh.diagonal {
            true => "its surface lies where it was read, but for rounding".to_string(),
            false => format!(
                "its surface lies up to {} from what was read, sampled",
                measure(most)
            ),
        };
        paragraph(page, &words);
    }
    page.push('\n');
}

fn heading(page: &mut String, words: &str) {
    let _ = writeln!(page, "{words}\n{}", "-".repeat(words.chars().count()));
}

fn line(page: &mut String, what: &str, words: &str) {
    let _ = writeln!(page, "  {what:10} {words}");
}

/// Words set in, each further line a little more.
fn paragraph(page: &mut String, words: &str) {
    for (i, line) in crate::text::broken(words, WIDTH - 4).iter().enumerate() {
        let _ = writeln!(page, "  {}{line}", if i == 0 { "" } else { "  " });
    }
}

fn name_of(path: &Path) -> String {
    files::name_of(path)
}
