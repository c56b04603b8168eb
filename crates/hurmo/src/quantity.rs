//! The one parser for what an artist can measure: lengths, budgets, sizes of rims.

use anyhow::{Context, Result, bail};
use hurmo_core::units::Unit;

/// A length as it is written on the command line.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Length {
    /// In the model's own units.
    Own(f64),
    /// In a unit of the world.
    Real(f64, Unit),
    /// In percent of the diagonal.
    Percent(f64),
}

const LENGTH_FORMS: &str =
    "0.02 (model units), 2mm, 1.5cm, 1m, 1in (with --unit), or 0.5% (of the diagonal)";

impl std::str::FromStr for Length {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (digits, suffix) = split_suffix(text);
        let fail = || format!("'{text}' is no length; write {LENGTH_FORMS}");
        let number = plain_number(digits).ok_or_else(fail)?;
        match suffix {
            "" => Ok(Length::Own(number)),
            "%" => Ok(Length::Percent(number)),
            name => Unit::from_name(name)
                .map(|unit| Length::Real(number, unit))
                .ok_or_else(fail),
        }
    }
}

impl Length {
    /// The length in a model's own units.
    pub fn in_model(self, unit: Option<Unit>, diagonal: f64) -> Result<f64> {
        match self {
            Length::Own(length) => Ok(length),
            Length::Percent(share) => Ok(diagonal * share / 100.0),
            Length::Real(length, in_unit) => {
                let unit = unit.with_context(|| {
                    format!(
                        "the length {length}{in_unit} needs a model whose unit is known; \
                         state it, as in --unit mm, or write {LENGTH_FORMS}"
                    )
                })?;
                Ok(length * in_unit.per(unit))
            }
        }
    }
}

/// A number of triangles as it is written on the command line.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Budget {
    /// So many.
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

impl Budget {
    /// The number of triangles, out of so many.
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
    /// So many edges.
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

/// An angle in degrees, from 0 to 180.
pub fn angle(text: &str) -> Result<f64, String> {
    match plain_number(text.trim_end_matches('°')) {
        Some(degrees) if degrees <= 180.0 => Ok(degrees),
        _ => Err(format!(
            "'{text}' is no angle; write degrees from 0 to 180, as in 40"
        )),
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

fn split_suffix(text: &str) -> (&str, &str) {
    let text = text.trim();
    let is_digit = |c: char| c.is_ascii_digit() || c == '.';
    let end = text.rfind(is_digit).map_or(0, |last| last + 1);
    (&text[..end], text[end..].trim())
}

/// A number from 0 up, in digits.
fn plain_number(digits: &str) -> Option<f64> {
    let number: f64 = digits.trim().parse().ok()?;
    (number.is_finite() && number >= 0.0).then_some(number)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lengths_in_all_their_forms() {
        assert_eq!("0.02".parse(), Ok(Length::Own(0.02)));
        assert_eq!("2mm".parse(), Ok(Length::Real(2.0, Unit::Mm)));
        assert_eq!("1.5 cm".parse(), Ok(Length::Real(1.5, Unit::Cm)));
        assert_eq!("0.5%".parse(), Ok(Length::Percent(0.5)));
        for wrong in ["", "mm", "-1", "2ft", "1e", "nan", "inf"] {
            assert!(wrong.parse::<Length>().is_err(), "{wrong}");
        }
        let inch = Length::Real(1.0, Unit::In);
        assert!((inch.in_model(Some(Unit::Cm), 9.0).unwrap() - 2.54).abs() < 1e-12);
        assert!(inch.in_model(None, 9.0).is_err());
        assert_eq!(Length::Percent(50.0).in_model(None, 9.0).unwrap(), 4.5);
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
