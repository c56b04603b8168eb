//! Textures that are not there, or named so that they will not be.

use super::scene_of;
use crate::audit::Level::{Block, Note, Off, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy};
use crate::scene::{Image, ImageData, is_safe_name};

pub(in super::super) const MISSING_TEXTURES: Check = Check {
    name: "missing-textures",
    counts: "textures that materials name and that are not in the model's folder or below it",
    harm: "the next program shows the model in one flat colour, or in none",
    remedy: Remedy::ByHand,
    drawing: r"
    material --> brass.png
                 (no such file)",
    levels: Levels::new(Warn, Note, Block, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| Ok(textures(analysis, search.limit, |_, is_there| !is_there)),
};

pub(in super::super) const UNSAFE_TEXTURE_NAMES: Check = Check {
    name: "unsafe-texture-names",
    counts: "textures in files with other signs in their names than letters, digits, _ - . of ASCII, folders aside",
    harm: "a space or an accent is enough for a program not to find them",
    remedy: Remedy::Convert,
    drawing: r"
    wet wood.png
       ^",
    levels: Levels::new(Off, Off, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let is_unsafe = |name: &str| {
            let mut parts = name.split(['/', '\\']);
            !is_absolute(name) && !parts.all(|part| part == ".." || is_safe_name(part))
        };
        Ok(textures(analysis, search.limit, |name, _| is_unsafe(name)))
    },
};

pub(in super::super) const ABSOLUTE_TEXTURE_PATHS: Check = Check {
    name: "absolute-texture-paths",
    counts: "textures that are named by a place on the disk of who made them",
    harm: "on any other machine there is no such place",
    remedy: Remedy::Convert,
    drawing: r"
    C:\work\props\brass.png
    ^ whose disk?",
    levels: Levels::new(Warn, Off, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        Ok(textures(analysis, search.limit, |name, _| {
            is_absolute(name)
        }))
    },
};

pub(in super::super) const OVERSIZED_TEXTURES: Check = Check {
    name: "oversized-textures",
    counts: "textures with more pixels along a side than the brief's limit",
    harm: "they take memory that the scene needs elsewhere; some machines refuse them",
    remedy: Remedy::Convert,
    drawing: r"
    |########|####|
    0      limit  pixels",
    levels: Levels::new(Warn, Warn, Warn, Warn),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let limit = search.brief.limits.texture.ok_or(NotRun::NotAsked)?;
        let scene = scene_of(analysis);
        let longest = |image: &Image| image.size.map_or(0, |[width, height]| width.max(height));
        let large = scene
            .images
            .iter()
            .filter(|image| longest(image) as usize > limit);
        let named = large.map(|image| (image.display_name(), None)).collect();
        let most = scene.images.iter().map(longest).max().unwrap_or(0);
        let found = Found::named(analysis, search.limit, named);
        Ok(found.measured("pixels at the longest", f64::from(most)))
    },
};

/// Whether a name begins at the root of some disk.
fn is_absolute(name: &str) -> bool {
    let letter = name.as_bytes().get(1) == Some(&b':');
    letter || name.starts_with(['/', '\\', '~']) || name.contains("://")
}

/// The textures in files of which something holds: of their names, and whether they are there.
fn textures(
    analysis: &MeshAnalysis<'_>,
    limit: usize,
    is_one: impl Fn(&str, bool) -> bool,
) -> Found {
    let scene = scene_of(analysis);
    let files = scene.images.iter().filter_map(|image| match &image.data {
        ImageData::File { name, found } => Some((name, found.is_some())),
        ImageData::Embedded { .. } => None,
    });
    let named = files.filter(|(name, is_there)| is_one(name, *is_there));
    Found::named(
        analysis,
        limit,
        named.map(|(name, _)| (name.clone(), None)).collect(),
    )
}
