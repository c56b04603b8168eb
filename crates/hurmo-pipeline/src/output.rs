//! Where a model goes, and what becomes of its textures.

use crate::words::Words;
use anyhow::{Result, bail};
use hurmo_formats::{Format, Textures};
use std::path::{Path, PathBuf};

/// The options of every command that writes a model.
#[derive(Clone, Debug)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Output {
    /// File to write; its ending says the format
    #[cfg_attr(feature = "clap", arg(short, long, value_name = "OUT"))]
    pub output: PathBuf,
    /// Overwrite OUT, and do what would be refused as unsafe
    #[cfg_attr(feature = "clap", arg(long))]
    pub force: bool,
    /// Write text rather than binary (STL, PLY)
    #[cfg_attr(feature = "clap", arg(long))]
    pub ascii: bool,
    /// What becomes of textures.
    #[cfg_attr(feature = "clap", arg(skip))]
    pub textures: TextureOptions,
}

impl Output {
    /// Whether its format holds coordinates in single precision only.
    pub fn is_single(&self) -> bool {
        is_single(&self.output)
    }

    /// Where a level of the model goes: beside it, with the number of the level after its name.
    pub fn of_level(&self, level: usize) -> Self {
        let stem = self
            .output
            .file_stem()
            .unwrap_or_default()
            .to_string_lossy();
        let ending = self
            .output
            .extension()
            .unwrap_or_default()
            .to_string_lossy();
        let name = format!("{stem}-level{level}.{ending}");
        Self {
            output: self.output.with_file_name(name),
            ..self.clone()
        }
    }
}

/// Whether a file of this name holds coordinates in single precision only.
pub fn is_single(file: &Path) -> bool {
    Format::of_name(file).is_some_and(|format| !format.entry().holds.doubles)
}

/// What becomes of textures.
#[derive(Clone, Debug, Default, PartialEq)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct TextureOptions {
    /// Textures: copy them beside OUT, embed them in it, or link to where they are; else as is usual
    /// in the format
    #[cfg_attr(feature = "clap", arg(long, value_enum, value_name = "WHERE"))]
    pub textures: Option<TextureWish>,
    /// Make textures smaller that have more pixels along a side
    #[cfg_attr(feature = "clap", arg(long, value_name = "PIXELS", value_parser = clap::value_parser!(u32).range(1..)))]
    pub texture_limit: Option<u32>,
    /// Whether their files get names that every program takes.
    #[cfg_attr(feature = "clap", arg(skip))]
    pub safe_names: bool,
}

/// Where textures are to be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum TextureWish {
    /// Beside the model.
    Copy,
    /// In its file.
    Embed,
    /// Where they are.
    Link,
}

impl Words for TextureWish {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("copy", Self::Copy),
        ("embed", Self::Embed),
        ("link", Self::Link),
    ];
}

impl From<TextureWish> for Textures {
    fn from(wish: TextureWish) -> Self {
        match wish {
            TextureWish::Copy => Self::Copy,
            TextureWish::Embed => Self::Embed,
            TextureWish::Link => Self::Link,
        }
    }
}

impl TextureOptions {
    /// The options that were given, as on the command line.
    pub fn words(&self) -> Vec<String> {
        let given = [
            self.textures
                .map(|wish| format!("--textures={}", wish.word())),
            self.texture_limit
                .map(|limit| format!("--texture-limit={limit}")),
        ];
        given.into_iter().flatten().collect()
    }

    /// Makes sure that they go together, and with a format.
    pub(crate) fn check(&self, format: Format) -> Result<()> {
        if self.textures == Some(TextureWish::Link) && self.texture_limit.is_some() {
            bail!("--texture-limit makes new files; --textures link makes none");
        }
        if self.textures == Some(TextureWish::Embed) && !format.entry().holds.textures_within {
            bail!(
                "{} can't hold textures; --textures copy puts them beside it",
                format.name()
            );
        }
        Ok(())
    }
}
