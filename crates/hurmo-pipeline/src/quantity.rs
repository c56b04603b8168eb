//! The one parser for what an artist can measure: lengths, budgets, sizes of rims.

use crate::words::Words;
use anyhow::{Context, Result, bail};
use hurmo_core::units::{Axis, LENGTH_FORMS, Length, Unit, plain_number, split_suffix};

/// A length in a model's own units, or why it can't be known.
pub fn length_in(length: Length, unit: Option<Unit>, diagonal: f64) -> Result<f64> {
    length.in_model(unit, diagonal).with_context(|| {
        format!("state the model's unit, as in --unit mm, or write {LENGTH_FORMS}")
    })
}

/// A number of triangles as it is written on the command line.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Budget {
    /// This many.
    Count(usize),
    /// A share of what is there.
    Percent(f64),
}

impl std::str::FromStr for Budget {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (digits, suffix) = split_suffix(text);
        let fail = || format!("'{text}' is no budget; write 5000, 20k, 1.5M or 12.5%");
        let number = plain_number(digits).ok_or_else(fail)?;
        let count = match suffix {
            "%" if number <= 100.0 => return Ok(Budget::Percent(number)),
            "" => number,
            "k" | "K" => number * 1e3,
            "M" => number * 1e6,
            _ => return Err(fail()),
        };
        match (1.0..=4e9).contains(&count) && count.fract() == 0.0 {
            true => Ok(Budget::Count(count as usize)),
            false => Err(fail()),
        }
    }
}

impl std::fmt::Display for Budget {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Budget::Count(count) => write!(f, "{count}"),
            Budget::Percent(share) => write!(f, "{share}%"),
        }
    }
}

impl Budget {
    /// The number of triangles, out of this many.
    pub fn of(self, triangles: usize) -> usize {
        match self {
            Budget::Count(count) => count,
            Budget::Percent(share) => (triangles as f64 * share / 100.0).round() as usize,
        }
    }
}

/// The size up to which rims are meant.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum RimSize {
    /// This many edges.
    Edges(usize),
    /// So long.
    Length(Length),
}

impl std::str::FromStr for RimSize {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let edges = text.trim().trim_end_matches("edges").trim_end();
        match edges.parse() {
            Ok(count) => Ok(RimSize::Edges(count)),
            Err(_) => text.parse().map(RimSize::Length).map_err(|_| {
                format!("'{text}' is no rim size; write 40 (edges) or a length: {LENGTH_FORMS}")
            }),
        }
    }
}

impl std::fmt::Display for RimSize {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            RimSize::Edges(count) => write!(f, "{count} edges"),
            RimSize::Length(length) => length.fmt(f),
        }
    }
}

/// An angle in degrees, from 0 to 180.
pub fn angle(text: &str) -> Result<f64, String> {
    match plain_number(text.trim_end_matches('°')) {
        Some(degrees) if degrees <= 180.0 => Ok(degrees),
        _ => Err(format!(
            "'{text}' is no angle; write degrees from 0 to 180, as in 40"
        )),
    }
}

/// A length that may be below zero.
pub fn signed_length(text: &str) -> Result<Length, String> {
    match text.strip_prefix('-') {
        None => text.parse(),
        Some(text) => Ok(match text.parse()? {
            Length::Own(length) => Length::Own(-length),
            Length::Percent(share) => Length::Percent(-share),
            Length::Real(length, unit) => Length::Real(-length, unit),
        }),
    }
}

/// A point, as in `1,0.5,-2`.
pub fn point(text: &str) -> Result<glam::DVec3, String> {
    let numbers: Vec<f64> = text
        .split(',')
        .map_while(|number| number.trim().parse().ok())
        .filter(|number: &f64| number.is_finite())
        .collect();
    match numbers[..] {
        [x, y, z] if text.split(',').count() == 3 => Ok(glam::DVec3::new(x, y, z)),
        _ => Err(format!("'{text}' is no point; write 1,0.5,-2")),
    }
}

/// A point as it is written.
pub fn point_text(point: glam::DVec3) -> String {
    format!("{},{},{}", point.x, point.y, point.z)
}

/// A point and a radius as they are written.
pub fn sphere_text((middle, radius): (glam::DVec3, f64)) -> String {
    format!("{},{radius}", point_text(middle))
}

/// A point and a radius, as in `1,0.5,-2,0.3`.
pub fn sphere(text: &str) -> Result<(glam::DVec3, f64), String> {
    let wrong = || format!("'{text}' is no point with a radius; write 1,0.5,-2,0.3");
    let (middle, radius) = text.rsplit_once(',').ok_or_else(wrong)?;
    let radius: f64 = radius.trim().parse().map_err(|_| wrong())?;
    match (point(middle), radius > 0.0 && radius.is_finite()) {
        (Ok(middle), true) => Ok((middle, radius)),
        _ => Err(wrong()),
    }
}

/// A list of names or ranges such as `R1,R3..R5`, as indices from 0.
pub fn numbered(list: &str, letter: char) -> Result<Vec<std::ops::RangeInclusive<usize>>> {
    let one = |name: &str| -> Result<usize> {
        let digits = name
            .trim()
            .strip_prefix([letter, letter.to_ascii_lowercase()]);
        match digits.and_then(|digits| digits.parse::<usize>().ok()) {
            Some(number) if number > 0 => Ok(number - 1),
            _ => bail!("'{name}' is no name; write {letter}1, {letter}3 or {letter}3..{letter}7"),
        }
    };
    list.split(',')
        .map(|item| match item.split_once("..") {
            Some((from, "")) => Ok(one(from)?..=usize::MAX),
            Some((from, to)) => Ok(one(from)?..=one(to)?),
            None => one(item).map(|i| i..=i),
        })
        .collect()
}

/// What a model is taken apart by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum By {
    /// What hangs together
    Part,
    /// Groups, or objects where there are no groups
    Group,
    /// Materials
    Material,
}

impl Words for By {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("part", Self::Part),
        ("group", Self::Group),
        ("material", Self::Material),
    ];
}

impl From<By> for hurmo_core::parts::By {
    fn from(by: By) -> Self {
        match by {
            By::Part => Self::Part,
            By::Group => Self::Group,
            By::Material => Self::Material,
        }
    }
}

/// Parses the name of a unit.
pub fn unit(text: &str) -> Result<Unit, String> {
    Unit::from_name(text).ok_or_else(|| format!("'{text}' is no unit; write mm, cm, m or in"))
}

/// Parses which set of UVs, from 1.
pub fn uv_set(text: &str) -> Result<usize, String> {
    let number = text.parse().ok().filter(|set| *set > 0);
    number.ok_or_else(|| format!("'{text}' is no set of UVs; write 1 for the first"))
}

/// Parses the name of an axis.
pub fn axis(text: &str) -> Result<Axis, String> {
    Axis::from_name(text).ok_or_else(|| format!("'{text}' is no axis; write x, y or z"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn spheres_have_a_radius() {
        let middle = glam::DVec3::new(1.0, -2.0, 0.5);
        assert_eq!(sphere("1,-2,0.5,3"), Ok((middle, 3.0)));
        for wrong in ["1,2,3", "1,2,3,0", "1,2,3,-1", "1,2,3,x", "1,2,3,inf", ""] {
            assert!(sphere(wrong).is_err(), "{wrong}");
        }
    }

    #[test]
    fn budgets_in_all_their_forms() {
        assert_eq!("5000".parse(), Ok(Budget::Count(5000)));
        assert_eq!("20k".parse(), Ok(Budget::Count(20_000)));
        assert_eq!("1.5M".parse(), Ok(Budget::Count(1_500_000)));
        assert_eq!("12.5%".parse::<Budget>().unwrap().of(1000), 125);
        for wrong in ["0", "-5", "101%", "many", "1.5", "k"] {
            assert!(wrong.parse::<Budget>().is_err(), "{wrong}");
        }
    }

    #[test]
    fn rim_sizes_and_names() {
        assert_eq!("40".parse(), Ok(RimSize::Edges(40)));
        assert_eq!("40 edges".parse(), Ok(RimSize::Edges(40)));
        let length = RimSize::Length(Length::Real(12.0, Unit::Mm));
        assert_eq!("12mm".parse(), Ok(length));
        assert_eq!(numbered("R1,r3..R5", 'R').unwrap(), [0..=0, 2..=4]);
        assert!(numbered("R0", 'R').is_err() && numbered("3", 'R').is_err());
    }
}
