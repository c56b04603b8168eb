//! `hurmo convert`: format, unit, up axis, scale.

use crate::cli::unit;
use crate::report;
use crate::session::{Output, Session};
use crate::{Ending, out};
use anyhow::{Result, bail};
use clap::ValueEnum;
use glam::{DMat3, DVec3};
use hurmo_core::Model;
use hurmo_core::units::Unit;
use serde::Serialize;
use std::path::PathBuf;

/// Arguments of `hurmo convert`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Nothing is guessed: to change the unit, say what it is; to change the up \
    axis, say which it is.\n\nExamples:\n  \
    hurmo convert buoy.obj -o buoy.ply\n  \
    hurmo convert buoy.obj -o buoy.stl --unit m --to-unit mm --up y --to-up z"
)]
pub struct Arguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    input: PathBuf,
    #[command(flatten)]
    output: Output,
    /// What one unit of the model's coordinates is: mm, cm, m or in
    #[arg(long, value_parser = unit)]
    unit: Option<Unit>,
    /// What one unit shall be
    #[arg(long, value_parser = unit)]
    to_unit: Option<Unit>,
    /// Which axis points up in the model
    #[arg(long)]
    up: Option<Up>,
    /// Which axis shall point up
    #[arg(long)]
    to_up: Option<Up>,
    /// Multiply all lengths by this
    #[arg(long, value_name = "FACTOR", default_value_t = 1.0)]
    scale: f64,
    /// Print one JSON document instead of text
    #[arg(long)]
    json: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
enum Up {
    Y,
    Z,
}

#[derive(Serialize)]
struct Conversion {
    input: String,
    output: String,
    factor: f64,
    turned: bool,
    size_before: Option<DVec3>,
    size_after: Option<DVec3>,
    lost: Vec<String>,
}

/// Runs `hurmo convert`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    session.check_output(&arguments.output, &arguments.input)?;
    if !(arguments.scale > 0.0 && arguments.scale.is_finite()) {
        bail!("--scale needs a number above 0");
    }
    if arguments.to_up.is_some() && arguments.up.is_none() {
        bail!("--to-up needs --up, which says which axis points up now");
    }
    let mut model = session.load(&arguments.input, arguments.unit)?.model;
    let factor = arguments.scale
        * match (model.unit, arguments.to_unit) {
            (Some(from), Some(to)) => from.per(to),
            (None, Some(_)) => bail!("--to-unit needs --unit, which says what the unit is now"),
            (_, None) => 1.0,
        };
    let size = |model: &Model| hurmo_core::measure::bounds(&model.mesh).map(|b| b.size());
    let size_before = size(&model);
    let turn = turn(arguments.up, arguments.to_up);
    if factor != 1.0 || turn.is_some() {
        transform(&mut model, factor, turn.unwrap_or(DMat3::IDENTITY))?;
    }
    model.unit = arguments.to_unit.or(model.unit);
    let format = hurmo_formats::Format::of_name(&arguments.output.output)
        .expect("checked before anything was read");
    let conversion = Conversion {
        input: arguments.input.display().to_string(),
        output: arguments.output.output.display().to_string(),
        factor,
        turned: turn.is_some(),
        size_before,
        size_after: size(&model),
        lost: hurmo_formats::losses(&model, format),
    };
    session.save(&arguments.output, &model)?;
    session.clear_progress();
    out::print(&match arguments.json {
        true => report::json(&conversion),
        false => text(&conversion, &model, arguments),
    });
    Ok(Ending::Clear)
}

fn turn(up: Option<Up>, to_up: Option<Up>) -> Option<DMat3> {
    match (up?, to_up?) {
        (Up::Y, Up::Z) => Some(DMat3::from_cols(DVec3::X, DVec3::Z, -DVec3::Y)),
        (Up::Z, Up::Y) => Some(DMat3::from_cols(DVec3::X, -DVec3::Z, DVec3::Y)),
        _ => None,
    }
}

fn transform(model: &mut Model, factor: f64, turn: DMat3) -> Result<()> {
    for position in model.mesh.positions_mut() {
        *position = turn * *position * factor;
        if !hurmo_core::mesh::is_usable(*position) {
            bail!("scaled by {factor}, the model is too large for any number");
        }
    }
    if let Some(normals) = &mut model.attributes.normals {
        normals.values.iter_mut().for_each(|n| *n = turn * *n);
    }
    Ok(())
}

fn text(conversion: &Conversion, model: &Model, arguments: &Arguments) -> String {
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
    let size = |size: Option<DVec3>| match size {
        Some(s) => format!(
            "{} × {} × {}",
            out::measure(s.x),
            out::measure(s.y),
            out::measure(s.z)
        ),
        None => "no size".to_string(),
    };
    text += &format!(
        "  was {}{}\n",
        size(conversion.size_before),
        unit(arguments.unit)
    );
    if conversion.factor != 1.0 || conversion.turned {
        let turned = if conversion.turned {
            ", turned to the other up axis"
        } else {
            ""
        };
        text += &format!(
            "  is  {}{} (lengths × {}{turned})\n",
            size(conversion.size_after),
            unit(model.unit),
            out::measure(conversion.factor)
        );
    } else {
        text += "  lengths and axes as they were\n";
    }
    text
}
