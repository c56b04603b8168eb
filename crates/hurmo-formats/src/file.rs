//! Files on disk: recognised by content, read through a memory map, written beside the target.

use crate::companions::Companions;
use crate::images::size_of;
use crate::names::without_controls;
use crate::plain;
use crate::unfinished::Unfinished;
use crate::{
    FORMATS, Format, ReadError, Remarks, Source, Target, WriteError, WriteOptions, losses,
};
use hurmo_core::Model;
use hurmo_core::scene::ImageData;
use std::borrow::Cow;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// The most faces that instances are written out to.
const MOST_SHOWN: u64 = 50_000_000;

/// A model that was read.
#[derive(Debug)]
pub struct Loaded {
    /// The model.
    pub model: Model,
    /// How the file numbers its elements; its format is what the content turned out to be.
    pub source: Source,
    /// Size of the file in bytes.
    pub bytes: u64,
    /// What a person should know: an ending that lies, things passed over.
    pub notes: Vec<String>,
}

/// What became of a model that was written.
#[derive(Debug)]
pub struct WriteReport {
    /// The format.
    pub format: Format,
    /// What the format could not hold.
    pub lost: Vec<String>,
    /// How many instances were written out, since the format has none.
    pub instances: usize,
    /// By what lengths were multiplied, since the format has a unit of its own.
    pub scaled: Option<f64>,
    /// Whether it was turned, since in the format another axis points up.
    pub turned: bool,
    /// The files that go with it, beside it.
    pub companions: Vec<PathBuf>,
    /// Those of them that were not there before.
    pub new_companions: Vec<PathBuf>,
    /// The textures that were made smaller, by name.
    pub shrunk: Vec<String>,
    /// Whether the format says a unit and the model has none, so that lengths were written as they
    /// are.
    pub unit_is_assumed: bool,
    /// The same of the axis that points up.
    pub up_is_assumed: bool,
}

/// Reads a model file.
///
/// # Errors
/// When it can't be opened, is no model file, or breaks its format's rules.
pub fn read(path: &Path) -> Result<Loaded, ReadError> {
    let refused = |error: std::io::Error| ReadError::whole(plain::words(&error));
    let mut file = plain::open(path).map_err(refused)?;
    let about = file.metadata().map_err(refused)?;
    if about.is_dir() {
        return Err(ReadError::whole("this is a folder, not a model file"));
    }
    if about.is_file() && about.len() > 0 {
        // SAFETY: the map is only read. A file that another program cuts short meanwhile ends
        // this process by a signal; nothing has been written by then.
        let map = unsafe { memmap2::Mmap::map(&file) }.map_err(refused)?;
        return read_in(&map, Format::of_name(path), path.parent());
    }
    let mut bytes = Vec::new();
    file.read_to_end(&mut bytes).map_err(refused)?;
    read_in(&bytes, Format::of_name(path), path.parent())
}

/// Reads a model from bytes; `expected` is what its name says it is.
///
/// # Errors
/// As [`read`].
pub fn read_bytes(bytes: &[u8], expected: Option<Format>) -> Result<Loaded, ReadError> {
    read_in(bytes, expected, None)
}

/// The same, of a file in this folder.
fn read_in(
    bytes: &[u8],
    expected: Option<Format>,
    folder: Option<&Path>,
) -> Result<Loaded, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::whole("the file is empty"));
    }
    let mut remarks = Remarks {
        folder: folder.map(Path::to_path_buf),
        ..Remarks::default()
    };
    let recognised = FORMATS.iter().find(|entry| (entry.looks_like)(bytes));
    let format = match (expected, recognised.map(|entry| entry.format)) {
        (Some(name), Some(content)) if name != content => {
            remarks.notes.push(format!(
                "the name says {}, but the content is {}: read as {}",
                name.name(),
                content.name(),
                content.name()
            ));
            content
        }
        (_, Some(content)) => content,
        (Some(name), None) => name,
        (None, None) => {
            return Err(ReadError::whole(format!(
                "neither name nor content is that of a model file ({})",
                Format::known_extensions()
            )));
        }
    };
    let mut model = (format.entry().read)(bytes, &mut remarks)?;
    let named = without_controls(&mut model);
    if named > 0 {
        remarks.notes.push(format!(
            "names with control characters, which are read as pictures of them: {named}"
        ));
    }
    if let Some(scene) = &mut model.attributes.scene {
        for image in &mut Arc::make_mut(scene).images {
            image.size = size_of(image);
        }
    }
    Ok(Loaded {
        model,
        source: Source {
            format,
            lines: remarks.lines,
        },
        bytes: bytes.len() as u64,
        notes: remarks.notes,
    })
}

/// Writes a model in the format that the name asks for, in the unit and with the axes that the format
/// has, where the model's are known. The file appears whole or not at all.
///
/// # Errors
/// When the name says no format, or the system refuses.
pub fn write(
    path: &Path,
    model: &Model,
    mut options: WriteOptions,
) -> Result<WriteReport, WriteError> {
    let format =
        Format::of_name(path).ok_or_else(|| WriteError::UnknownFormat(path.to_path_buf()))?;
    if model.mesh.face_count() == 0 {
        return Err(WriteError::NoFaces(path.to_path_buf()));
    }
    let entry = format.entry();
    let extension = path.extension().and_then(|extension| extension.to_str());
    options.ascii |= extension
        .zip(entry.text_extension)
        .is_some_and(|(own, text)| own.eq_ignore_ascii_case(text));
    let conversion = model.conversion_to(entry.unit, entry.up);
    let instances = if entry.holds.scenes {
        0
    } else {
        model.instances()
    };
    if instances > 0 {
        check_instances(model).map_err(|error| WriteError::Io(path.to_path_buf(), error))?;
    }
    let mut model = match instances {
        0 => Cow::Borrowed(model),
        _ => Cow::Owned(model.expanded()),
    };
    if let Some(by) = conversion.matrix() {
        let too_large = |error: hurmo_core::mesh::MeshError| {
            let error = std::io::Error::new(std::io::ErrorKind::InvalidInput, error);
            WriteError::Io(path.to_path_buf(), error)
        };
        model.to_mut().convert(by).map_err(too_large)?;
    }
    let model = &*model;
    let refused = |error| WriteError::Io(path.to_path_buf(), error);
    let mut companions = Companions::of(path, options.may_overwrite);
    protect_images(model, &mut companions);
    let mut part = Unfinished::in_folder(companions.folder()).map_err(refused)?;
    {
        let mut out = part.writer();
        let mut target = Target {
            options,
            out: &mut out,
            companions: &mut companions,
        };
        let written = (entry.write)(model, &mut target).and_then(|()| out.flush());
        if let Err(error) = written {
            companions.take_back();
            return Err(refused(error));
        }
    }
    if let Err(error) = part.finish(path) {
        companions.take_back();
        return Err(refused(error));
    }
    Ok(WriteReport {
        format,
        lost: losses(model, format),
        instances,
        scaled: conversion.scale,
        turned: conversion.turn.is_some(),
        companions: companions.written,
        new_companions: companions.new,
        shrunk: companions.shrunk,
        unit_is_assumed: model.unit.is_none() && entry.unit_else.is_some(),
        up_is_assumed: model.up.is_none() && entry.up.is_some(),
    })
}

/// Keeps the files of a model's images from being written over.
fn protect_images(model: &Model, companions: &mut Companions) {
    let scene = model.attributes.scene.as_deref();
    for image in scene.map_or(&[][..], |scene| &scene.images) {
        if let ImageData::File {
            found: Some(found), ..
        } = &image.data
        {
            companions.protect(found);
        }
    }
}

/// Refuses to write out instances that come to more faces than any model has: a small file can have very
/// many.
///
/// # Errors
/// When there are.
pub fn check_instances(model: &Model) -> std::io::Result<()> {
    let faces = model.shown_faces();
    match faces <= MOST_SHOWN.max(model.mesh.face_count() as u64) {
        true => Ok(()),
        false => Err(std::io::Error::other(format!(
            "its {} instances come to {faces} faces, written out; formats of scenes keep them \
             as they are",
            model.instances()
        ))),
    }
}
