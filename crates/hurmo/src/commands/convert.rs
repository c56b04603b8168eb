//! `hurmo convert`: format, unit, up axis, size, origin; transforms, names, normals, textures.

use crate::arguments::{AsJson, InUnit};
use crate::{Ending, out};
use anyhow::Result;
use hurmo_core::Model;
use hurmo_core::units::Unit;
use hurmo_pipeline::operation::convert::Options;
use hurmo_pipeline::record::{Conversion, json, lost_by_format};
use hurmo_pipeline::said;
use hurmo_pipeline::{Output, TextureOptions, Workspace};
use std::path::PathBuf;

/// Arguments of `hurmo convert`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Nothing is guessed: to change the unit, say what it is; to change the up \
    axis, say which it is.\n\nExamples:\n  \
    hurmo convert buoy.obj -o buoy.ply\n  \
    hurmo convert buoy.obj -o buoy.stl --unit m --to-unit mm --up y --to-up z\n  \
    hurmo convert buoy.obj -o buoy.3mf --up z --real-size height=12cm --origin base\n  \
    hurmo convert quay.glb -o quay-tidy.glb --flatten-transforms --drop-empty --unique-names\n  \
    hurmo convert lantern.obj -o lantern.gltf --textures copy --texture-limit 1024 --safe-names"
)]
pub struct Arguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    input: PathBuf,
    #[command(flatten)]
    output: Output,
    #[command(flatten)]
    unit: InUnit,
    #[command(flatten)]
    options: Options,
    #[command(flatten)]
    textures: TextureOptions,
    #[command(flatten)]
    json: AsJson,
}

/// Runs `hurmo convert`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let output = Output {
        textures: TextureOptions {
            safe_names: arguments.options.tidy.safe_names,
            ..arguments.textures.clone()
        },
        ..arguments.output.clone()
    };
    workspace.reads(&arguments.input);
    workspace.claim_output(&output)?;
    arguments.options.check()?;
    let model = workspace.load(&arguments.input, arguments.unit.unit)?.model;
    let size = |model: &Model| model.shown_bounds().map(|bounds| bounds.size().to_array());
    let (size_before, unit_before) = (size(&model), model.unit);
    let format = hurmo_formats::Format::of_name(&arguments.output.output)
        .expect("checked before anything was read");
    arguments.options.tidy.check(&model)?;
    let placed = arguments.options.place.apply(model, Some(format))?;
    let tidied = arguments
        .options
        .tidy
        .apply(placed.model, workspace.observer())?;
    let model = tidied.model;
    let mut did = placed.did;
    did.extend(tidied.did);
    let left = tidied.left.into_iter();
    let left = left.map(|left| said!("left", "left: {left}", left = left));
    let conversion = Conversion {
        input: arguments.input.display().to_string(),
        output: arguments.output.output.display().to_string(),
        factor: placed.factor,
        turned: placed.turned,
        did,
        renamed: tidied.renamed,
        details: tidied.single.into_iter().chain(left).collect(),
        unit_before,
        size_before,
        size_after: size(&model),
        lost: lost_by_format(hurmo_formats::losses(&model, format)),
    };
    workspace.save(&output, &model)?;
    workspace.clear_progress();
    out::print(&match arguments.json.json {
        true => json(&conversion),
        false => text(&conversion, &model),
    });
    Ok(Ending::Clear)
}

fn text(conversion: &Conversion, model: &Model) -> String {
    let mut text = format!(
        "{}\n",
        out::bold(&format!("{} → {}", conversion.input, conversion.output))
    );
    text += &format!(
        "  {} over {}\n",
        out::counted(model.mesh.face_count(), "face"),
        out::counted(model.mesh.vertex_count(), "vertex")
    );
    let unit = |unit: Option<Unit>| unit.map_or(" (unit not stated)".into(), |u| format!(" {u}"));
    let size = |size: Option<[f64; 3]>| match size {
        Some(sides) => sides.map(out::measure).join(" × "),
        None => "no size".to_string(),
    };
    text += &format!(
        "  was {}{}\n",
        size(conversion.size_before),
        unit(conversion.unit_before)
    );
    match conversion.did[..] {
        [] => text += "  lengths and axes as they were\n",
        _ => {
            text += &format!(
                "  is  {}{} ({})\n",
                size(conversion.size_after),
                unit(model.unit),
                out::joined(&conversion.did)
            );
        }
    }
    for line in &conversion.details {
        text += &format!("      {line}\n");
    }
    text
}
