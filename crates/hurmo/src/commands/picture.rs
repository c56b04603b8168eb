//! `hurmo picture`: draws a model.

use crate::session::{Session, check_target};
use crate::{Ending, out};
use anyhow::{Context, Result, bail};
use hurmo_view::{Picture, Scene, View};
use std::path::{Path, PathBuf};

/// Arguments of `hurmo picture`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Backs of faces are drawn in violet, open edges in orange, non-manifold \
    edges in dark blue.\n\nExample:\n  hurmo picture heron.ply -o heron.png"
)]
pub struct Arguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    input: PathBuf,
    /// PNG file to write
    #[arg(short, long, value_name = "OUT")]
    output: PathBuf,
    /// Overwrite OUT if it is there
    #[arg(long)]
    force: bool,
    /// Width and height in pixels
    #[arg(long, value_name = "WxH", default_value = "1280x800", value_parser = size)]
    size: (u32, u32),
}

fn size(text: &str) -> Result<(u32, u32), String> {
    let parse = |side: &str| side.parse::<u32>().ok().filter(|s| (16..=8192).contains(s));
    text.split_once('x')
        .and_then(|(w, h)| Some((parse(w)?, parse(h)?)))
        .ok_or_else(|| format!("'{text}' is no size; write 1280x800, each from 16 to 8192"))
}

/// Runs `hurmo picture`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let extension = arguments.output.extension().and_then(|e| e.to_str());
    if !extension.is_some_and(|e| e.eq_ignore_ascii_case("png")) {
        bail!(
            "{}: a picture's name ends in .png",
            arguments.output.display()
        );
    }
    check_target(&arguments.output, arguments.force)?;
    let model = session.load(&arguments.input, None)?.model;
    let (width, height) = arguments.size;
    let mut picture = Picture::new(width, height);
    picture.draw(
        &Scene::of(&model.mesh),
        View::THREE_QUARTER,
        [0, 0, width, height],
    );
    save(&picture, &arguments.output)?;
    session.clear_progress();
    out::print(&format!("{}\n", arguments.output.display()));
    Ok(Ending::Clear)
}

/// Draws several models side by side, `rows` below each other, going down first.
pub fn contact_sheet(models: &[PathBuf], rows: usize, output: &Path) -> Result<()> {
    let columns = models.len().div_ceil(rows);
    let (width, height) = (1280 / columns as u32, 640 / rows as u32);
    let mut picture = Picture::new(width * columns as u32, height * rows as u32);
    for (i, path) in models.iter().enumerate() {
        let model = hurmo_formats::read(path)
            .with_context(|| path.display().to_string())?
            .model;
        let (column, row) = ((i / rows) as u32, (i % rows) as u32);
        let frame = [column * width, row * height, width, height];
        picture.draw(&Scene::of(&model.mesh), View::THREE_QUARTER, frame);
    }
    save(&picture, output)
}

fn save(picture: &Picture, path: &Path) -> Result<()> {
    let bytes = picture.png()?;
    let folder = path.parent().filter(|parent| *parent != Path::new(""));
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        builder.permissions(std::fs::Permissions::from_mode(0o666));
    }
    let mut part = builder
        .tempfile_in(folder.unwrap_or(Path::new(".")))
        .with_context(|| path.display().to_string())?;
    std::io::Write::write_all(&mut part, &bytes)?;
    part.persist(path)
        .with_context(|| path.display().to_string())?;
    Ok(())
}
