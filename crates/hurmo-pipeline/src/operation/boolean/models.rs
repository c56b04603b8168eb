//! Which models take part: files, or parts, groups, materials of them; and where they are put.

use crate::operation::feature_weights::named;
use crate::operation::named_options::{NamedOptions, Visitor};
use crate::operation::parts::chosen;
use crate::quantity::{axis, length_in, numbered, signed_length};
use anyhow::{Context as _, Result, bail};
use glam::{DMat3, DVec3};
use hurmo_core::measure::bounds;
use hurmo_core::parts::{By, only, pieces};
use hurmo_core::units::{Axis, Length, plain_number};
use hurmo_core::{FaceId, Model};
use std::path::{Path, PathBuf};
use std::str::FromStr;

/// A model as it is named: a file, or after `#` a part, group or material of it.
#[derive(Clone, Debug, PartialEq)]
pub struct ModelName {
    /// The file.
    pub file: PathBuf,
    /// What of it; all of it, if not said.
    pub of: Option<String>,
}

impl FromStr for ModelName {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let whole = Self {
            file: text.into(),
            of: None,
        };
        Ok(match text.rsplit_once('#') {
            // A file may be called so.
            Some((file, of)) if !whole.file.exists() && !file.is_empty() && !of.is_empty() => {
                Self {
                    file: file.into(),
                    of: Some(of.into()),
                }
            }
            _ => whole,
        })
    }
}

impl std::fmt::Display for ModelName {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}", self.file.display())?;
        self.of.iter().try_for_each(|of| write!(f, "#{of}"))
    }
}

impl ModelName {
    /// What it is called in reports: the file's name without its ending, or what of the file it is.
    pub fn short(&self) -> String {
        let stem = |file: &Path| {
            file.file_stem().map_or_else(
                || "model".into(),
                |stem| stem.to_string_lossy().into_owned(),
            )
        };
        match &self.of {
            Some(of) => of
                .split_once(':')
                .map_or(of.as_str(), |(_, name)| name)
                .into(),
            None => stem(&self.file),
        }
    }

    /// What it means of the file's model.
    pub fn chosen(&self, model: Model) -> Result<Model> {
        let Some(of) = &self.of else {
            return Ok(model);
        };
        let faces = faces(&model, of).with_context(|| self.file.display().to_string())?;
        Ok(only(&model, &faces))
    }
}

/// The faces of some parts, or of a group, an object or a material.
fn faces(model: &Model, of: &str) -> Result<Vec<FaceId>> {
    match of.split_once(':') {
        Some(("group" | "object", name)) => piece(model, By::Group, name),
        Some(("material", name)) => piece(model, By::Material, name),
        Some((kind, _)) => {
            bail!("'#{kind}:' is nothing; write #P2, #group:NAME, #object:NAME or #material:NAME")
        }
        None => match numbered(of, 'P') {
            Ok(_) => {
                let parts = pieces(model, By::Part);
                let ranges = chosen(of, parts.len())?;
                let those = parts.into_iter().enumerate();
                let those = those.filter(|(i, _)| ranges.iter().any(|range| range.contains(i)));
                let mut faces: Vec<FaceId> = those.flat_map(|(_, part)| part.faces).collect();
                faces.sort_unstable();
                Ok(faces)
            }
            Err(_) => named(model, of),
        },
    }
}

fn piece(model: &Model, by: By, name: &str) -> Result<Vec<FaceId>> {
    let found = pieces(model, by);
    let it = found
        .into_iter()
        .find(|piece| piece.name.as_deref() == Some(name));
    Ok(it
        .with_context(|| format!("there is no '{name}' in it"))?
        .faces)
}

/// Which of the models something is said of, from 0, and what.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Of<T> {
    model: usize,
    what: T,
}

/// The second, if no other is named.
const USUAL: usize = 1;

impl<T> Of<T> {
    fn written(&self, show: impl Fn(&T) -> String) -> String {
        let what = show(&self.what);
        match self.model {
            USUAL => what,
            model => format!("{}:{what}", model + 1),
        }
    }

    fn parsed(text: &str, parse: impl Fn(&str) -> Result<T, String>) -> Result<Self, String> {
        let (model, what) = match text.split_once(':') {
            None => (USUAL, text),
            Some((number, what)) => match number.trim().parse::<usize>() {
                Ok(number) if number > 0 => (number - 1, what),
                _ => return Err(format!("'{number}' is no model's number; the first is 1")),
            },
        };
        parse(what).map(|what| Self { model, what })
    }
}

/// Parses how far a model is moved, as in `0,0,10mm` or `3:0,0,10mm`.
pub fn way(text: &str) -> Result<Of<[Length; 3]>, String> {
    Of::parsed(text, |text| {
        let lengths: Vec<Length> = text
            .split(',')
            .map(|length| signed_length(length.trim()))
            .collect::<Result<_, _>>()?;
        lengths
            .try_into()
            .map_err(|_| format!("'{text}' is no way; write 0,0,10mm"))
    })
}

/// Parses by how much a model is turned, as in `z,45` or `3:z,45`.
pub fn turn(text: &str) -> Result<Of<(Axis, f64)>, String> {
    Of::parsed(text, |text| {
        let wrong = || format!("'{text}' is no turn; write an axis and degrees, as in z,45");
        let (name, degrees) = text.split_once(',').ok_or_else(wrong)?;
        let degrees: f64 = degrees
            .trim()
            .trim_end_matches('°')
            .parse()
            .map_err(|_| wrong())?;
        match degrees.is_finite() {
            true => Ok((axis(name.trim())?, degrees)),
            false => Err(wrong()),
        }
    })
}

/// Parses how many times as large a model is made, as in `2` or `3:0.5`.
pub fn scale(text: &str) -> Result<Of<f64>, String> {
    Of::parsed(text, |text| match plain_number(text) {
        Some(times) if times > 0.0 => Ok(times),
        _ => Err(format!(
            "'{text}' is no scale; write how many times as large, as in 0.5"
        )),
    })
}

/// Where models are put.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Placement {
    /// Move a model: X,Y,Z for the second, N:X,Y,Z for the Nth
    #[cfg_attr(feature = "clap", arg(long = "move", value_name = "[N:]X,Y,Z", value_parser = way, value_delimiter = ';', allow_hyphen_values = true))]
    moves: Vec<Of<[Length; 3]>>,
    /// Turn a model about an axis through the middle of its bounds, before it is moved: z,45
    #[cfg_attr(feature = "clap", arg(long = "turn", value_name = "[N:]AXIS,DEGREES", value_parser = turn, value_delimiter = ';'))]
    turns: Vec<Of<(Axis, f64)>>,
    /// Make a model this many times as large about the middle of its bounds, before it is moved
    #[cfg_attr(feature = "clap", arg(long = "scale", value_name = "[N:]TIMES", value_parser = scale, value_delimiter = ';'))]
    scales: Vec<Of<f64>>,
}

impl NamedOptions for Placement {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        let way_text = |lengths: &[Length; 3]| lengths.map(|length| length.to_string()).join(",");
        visitor.list("move", &mut self.moves, ';', way, |of| of.written(way_text));
        let turn_text = |(axis, degrees): &(Axis, f64)| format!("{},{degrees}", axis.name());
        visitor.list("turn", &mut self.turns, ';', turn, |of| {
            of.written(turn_text)
        });
        visitor.list("scale", &mut self.scales, ';', scale, |of| {
            of.written(f64::to_string)
        });
    }
}

impl Placement {
    /// Makes sure that there are as many models as are spoken of.
    pub fn check(&self, models: usize) -> Result<()> {
        let moves = self.moves.iter().map(|of| of.model);
        let turns = self.turns.iter().map(|of| of.model);
        let scales = self.scales.iter().map(|of| of.model);
        match moves
            .chain(turns)
            .chain(scales)
            .find(|&model| model >= models)
        {
            Some(model) => bail!(
                "there is no model {} to be placed: there {} {models}",
                model + 1,
                if models == 1 { "is" } else { "are" }
            ),
            None => Ok(()),
        }
    }

    /// Puts a model where it goes; which one it is counts from 0.
    pub fn place(&self, model: &mut Model, number: usize) -> Result<()> {
        let Some(bounds) = bounds(&model.mesh) else {
            return Ok(());
        };
        let mut by = DMat3::IDENTITY;
        for scale in self.scales.iter().filter(|of| of.model == number) {
            by *= scale.what;
        }
        for turn in self.turns.iter().filter(|of| of.model == number) {
            let (axis, degrees) = turn.what;
            by = turned(axis, degrees) * by;
        }
        if by != DMat3::IDENTITY {
            let middle = (bounds.min + bounds.max) / 2.0;
            model.convert(by)?;
            model.move_to_origin(by * middle - middle)?;
        }
        for of in self.moves.iter().filter(|of| of.model == number) {
            let mut way = DVec3::ZERO;
            for (axis, length) in of.what.into_iter().enumerate() {
                way[axis] = length_in(length, model.unit, bounds.diagonal())?;
            }
            model.move_to_origin(-way)?;
        }
        Ok(())
    }
}

/// A turn by degrees, exact where these are quarter turns.
fn turned(axis: Axis, degrees: f64) -> DMat3 {
    let quarters = degrees / 90.0;
    let (sine, cosine) = match quarters.fract() == 0.0 {
        true => [(0.0, 1.0), (1.0, 0.0), (0.0, -1.0), (-1.0, 0.0)]
            [quarters.rem_euclid(4.0) as usize % 4],
        false => degrees.to_radians().sin_cos(),
    };
    match axis {
        Axis::X => DMat3::from_cols(
            DVec3::X,
            DVec3::new(0.0, cosine, sine),
            DVec3::new(0.0, -sine, cosine),
        ),
        Axis::Y => DMat3::from_cols(
            DVec3::new(cosine, 0.0, -sine),
            DVec3::Y,
            DVec3::new(sine, 0.0, cosine),
        ),
        Axis::Z => DMat3::from_cols(
            DVec3::new(cosine, sine, 0.0),
            DVec3::new(-sine, cosine, 0.0),
            DVec3::Z,
        ),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use hurmo_core::shapes;
    use hurmo_core::units::Unit;

    #[test]
    fn names_of_models() {
        let name: ModelName = "stage/buoy.obj#P2".parse().unwrap();
        assert_eq!(name.file, Path::new("stage/buoy.obj"));
        assert_eq!((name.of.as_deref(), &*name.short()), (Some("P2"), "P2"));
        let name: ModelName = "buoy.obj#group:legs".parse().unwrap();
        assert_eq!(name.short(), "legs");
        let name: ModelName = "buoy.obj".parse().unwrap();
        assert_eq!((name.of.clone(), &*name.short()), (None, "buoy"));
    }

    #[test]
    fn placements_are_read() {
        let unit = Length::Real(-10.0, Unit::Mm);
        let expected = [Length::Own(0.0), Length::Own(1.5), unit];
        assert_eq!(
            way("0,1.5,-10mm").unwrap(),
            Of {
                model: 1,
                what: expected
            }
        );
        assert_eq!(way("3:0,1.5,-10mm").unwrap().model, 2);
        assert_eq!(turn("z,-45").unwrap().what, (Axis::Z, -45.0));
        assert_eq!(
            scale("1:0.5").unwrap(),
            Of {
                model: 0,
                what: 0.5
            }
        );
        for wrong in ["1,2", "0:1,2,3", "x:1,2,3", "1,2,3,4", "a,b,c"] {
            assert!(way(wrong).is_err(), "{wrong}");
        }
        assert!(turn("w,45").is_err() && turn("z").is_err() && turn("z,inf").is_err());
        assert!(scale("0").is_err() && scale("-1").is_err());
    }

    #[test]
    fn models_turn_about_their_middle_and_then_move() {
        let placement = Placement {
            moves: vec![way("10,0,0").unwrap()],
            turns: vec![turn("z,90").unwrap()],
            scales: vec![scale("2").unwrap()],
        };
        let mut model = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::new(2.0, 4.0, 6.0), 1));
        placement.place(&mut model, 1).unwrap();
        let bounds = bounds(&model.mesh).unwrap();
        assert_eq!(bounds.min, DVec3::new(7.0, 0.0, -3.0));
        assert_eq!(bounds.max, DVec3::new(15.0, 4.0, 9.0));
        assert!(placement.check(1).is_err() && placement.check(2).is_ok());
    }
}
