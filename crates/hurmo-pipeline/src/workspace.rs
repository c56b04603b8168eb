//! What the work of one run shares: files that are read and claimed, notes, who watches.

use crate::claims::Claims;
use crate::output::Output;
use crate::text;
use crate::undo::{self, Run};
use anyhow::{Context, Result, bail};
use hurmo_core::progress::Observer;
use hurmo_core::units::Unit;
use hurmo_formats::{Loaded, Textures, WriteOptions};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard};

/// Who watches a run: sees progress, and hears what there is to note beside the results.
pub trait Watcher: Observer + Send {
    /// Says something beside the results.
    fn note(&self, _text: &str) {}
    /// Takes progress off the screen.
    fn clear(&self) {}
}

/// Nobody watches.
impl Watcher for () {}

/// Hears nothing, and stops when another is stopped.
struct StopsWith(Arc<dyn Watcher>);

impl Observer for StopsWith {
    fn cancelled(&self) -> bool {
        self.0.cancelled()
    }
}

impl Watcher for StopsWith {}

/// One run.
pub struct Workspace {
    watcher: Arc<dyn Watcher>,
    notes: Mutex<Vec<String>>,
    claims: Mutex<Claims>,
    /// The run whose files and folders are taken back where it fails; none where they stay.
    undoes: Option<Run>,
}

impl Workspace {
    /// A run that someone watches. What it makes is remembered, for [`undo::all`].
    pub fn new(watcher: Box<dyn Watcher>) -> Self {
        Self {
            watcher: Arc::from(watcher),
            notes: Mutex::default(),
            claims: Mutex::default(),
            undoes: Some(Run::another()),
        }
    }

    /// Work on one of many models, beside others: nobody sees its progress, but it stops with the run; what it
    /// makes stays.
    pub fn beside_others(&self) -> Self {
        Self {
            undoes: None,
            ..Self::new(Box::new(StopsWith(Arc::clone(&self.watcher))))
        }
    }

    /// Takes back the files and folders that this run made.
    pub fn take_back(&self) {
        self.undoes.iter().for_each(|&run| undo::of(run));
    }

    /// Who sees progress.
    pub fn observer(&self) -> &dyn Observer {
        &*self.watcher
    }

    /// What was said by now, or would have been.
    pub fn notes(&self) -> Vec<String> {
        let notes = self.notes.lock();
        notes.unwrap_or_else(|broken| broken.into_inner()).clone()
    }

    /// Notes something beside the results.
    pub fn note(&self, text: &str) {
        let notes = self.notes.lock();
        notes
            .unwrap_or_else(|broken| broken.into_inner())
            .push(text.to_string());
        self.watcher.note(text);
    }

    /// Takes progress off the screen.
    pub fn clear_progress(&self) {
        self.watcher.clear();
    }

    /// Reads a model, and says what is to be said of the file.
    pub fn load(&self, path: &Path, unit: Option<Unit>) -> Result<Loaded> {
        self.observer().check()?;
        self.observer().begin("reading", 0);
        let mut loaded = hurmo_formats::read(path).with_context(|| path.display().to_string())?;
        for note in &loaded.notes {
            self.note(&format!("{}: {note}", path.display()));
        }
        if unit.is_some() {
            loaded.model.unit = unit;
        }
        Ok(loaded)
    }

    fn claims(&self) -> MutexGuard<'_, Claims> {
        let claims = self.claims.lock();
        claims.unwrap_or_else(|broken| broken.into_inner())
    }

    /// Remembers a file that will be read: it must not be written.
    pub fn reads(&self, path: &Path) {
        self.claims().read(path);
    }

    /// Claims a file for a result, before any work is done.
    ///
    /// # Errors
    /// When it is a folder, lies in no folder, is there already and may not be overwritten, or is read or claimed.
    pub fn claim(&self, path: &Path, force: bool) -> Result<()> {
        self.claim_to_keep(path, force)?;
        if let (Some(run), false) = (self.undoes, path.exists()) {
            undo::file(run, path);
        }
        Ok(())
    }

    /// The same of a file that stays where the run fails.
    ///
    /// # Errors
    /// As [`claim`](Self::claim).
    pub fn claim_to_keep(&self, path: &Path, force: bool) -> Result<()> {
        self.claims().write(path, force)
    }

    /// The same as [`claim`](Self::claim), of a picture.
    ///
    /// # Errors
    /// Also when its name is no PNG's.
    pub fn claim_png(&self, path: &Path, force: bool) -> Result<()> {
        let extension = path.extension().and_then(|e| e.to_str());
        if !extension.is_some_and(|e| e.eq_ignore_ascii_case("png")) {
            bail!("{}: a picture's name ends in .png", path.display());
        }
        self.claim(path, force)
    }

    /// Makes a folder for these files, or claims them in one that is there.
    ///
    /// # Errors
    /// When it is a file, can't be made, or a file in it can't be claimed.
    pub fn claim_folder<'t>(
        &self,
        folder: &Path,
        targets: impl IntoIterator<Item = &'t PathBuf>,
        force: bool,
    ) -> Result<()> {
        if folder.is_file() {
            bail!("{}: this is a file, not a folder", folder.display());
        }
        if !folder.is_dir() {
            std::fs::create_dir(folder).with_context(|| folder.display().to_string())?;
            if let Some(run) = self.undoes {
                undo::folder(run, folder);
            }
        }
        let mut targets = targets.into_iter();
        targets.try_for_each(|target| self.claim(target, force))
    }

    /// Claims the file of a model; what is read has been said before.
    ///
    /// # Errors
    /// When it can't or must not be written.
    pub fn claim_output(&self, output: &Output) -> Result<()> {
        let path = &output.output;
        let Some(format) = hurmo_formats::Format::of_name(path) else {
            return Err(hurmo_formats::WriteError::UnknownFormat(path.clone()).into());
        };
        output.textures.check(format)?;
        self.claim(path, output.force)
    }

    /// Writes a model and says what its format could not hold.
    pub fn save(&self, output: &Output, model: &hurmo_core::Model) -> Result<()> {
        self.observer().check()?;
        self.observer().begin("writing", 0);
        let mut options = WriteOptions::default();
        options.ascii = output.ascii;
        options.may_overwrite = output.force;
        options.textures = output.textures.textures.map_or(Textures::Usual, Into::into);
        options.safe_names = output.textures.safe_names;
        options.texture_limit = output.textures.texture_limit;
        if let (Some(run), false) = (self.undoes, output.output.exists()) {
            undo::file(run, &output.output);
        }
        let report = hurmo_formats::write(&output.output, model, options)?;
        if let Some(run) = self.undoes {
            let new = report.new_companions.iter();
            new.for_each(|companion| undo::file(run, companion));
        }
        let format = report.format.name();
        for lost in &report.lost {
            self.note(&format!("{format} can't hold: {lost}"));
        }
        let name = |path: &PathBuf| {
            path.file_name()
                .map(|name| name.to_string_lossy().into_owned())
        };
        let companions: Vec<String> = report.companions.iter().filter_map(name).collect();
        if !companions.is_empty() {
            self.note(&format!("also wrote {}", companions.join(", ")));
        }
        if !report.shrunk.is_empty() {
            self.note(&format!("made smaller: {}", report.shrunk.join(", ")));
        }
        if report.instances > 0 {
            let instances = text::counted(report.instances, "instance");
            self.note(&format!(
                "{format} has no instances: {instances} written out"
            ));
        }
        if let (Some(factor), Some(unit)) = (report.scaled, report.format.entry().unit) {
            let factor = text::measure(factor);
            self.note(&format!("{format} is in {unit}: lengths × {factor}"));
        }
        if let (true, Some(unit)) = (report.unit_is_assumed, report.format.entry().unit_else) {
            self.note(&format!(
                "in {format} lengths are in {unit}, and the model's unit is not stated: they are as \
                 they were (--unit says what they are in)"
            ));
        }
        let up = report.format.entry().up.map_or("", |up| up.name());
        if report.turned {
            self.note(&format!("in {format} {up} points up: turned"));
        }
        if report.up_is_assumed {
            self.note(&format!(
                "in {format} {up} points up, and it is not stated which axis does in the model: \
                 axes are as they were (hurmo convert --up says which)"
            ));
        }
        Ok(())
    }

    /// Reads back what was written, which is what the next program will see: in the unit and with the
    /// axes of the model that it was written of, where the format has others.
    pub fn read_back(&self, path: &Path, of: &hurmo_core::Model) -> Result<Loaded> {
        let mut loaded = hurmo_formats::read(path).with_context(|| path.display().to_string())?;
        loaded.model.convert_like(of)?;
        (loaded.model.unit, loaded.model.up) = (of.unit, of.up);
        Ok(loaded)
    }
}
