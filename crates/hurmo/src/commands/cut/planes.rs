//! Where to cut, as it is written on the command line.

use anyhow::{Result, bail};
use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::cut::{Piece, Plane, fit};
use hurmo_core::geometry::Bounds;
use hurmo_core::units::{Axis, Length, Unit};
use hurmo_pipeline::quantity::{axis, length_in, point, signed_length};
use hurmo_pipeline::record::PlaneRecord;
use std::str::FromStr;

/// More slabs than this are a slip of the pen.
const MOST: f64 = 1_000.0;

/// Planes side by side, and what lies between them.
pub struct Row {
    /// The planes, by rising place.
    pub planes: Vec<Plane>,
    /// How large the section is at each, where that was worked out.
    pub sections: Vec<Option<f64>>,
    /// The axis that they lie across, for slabs.
    pub axis: Option<Axis>,
}

impl Row {
    pub fn records(&self) -> impl Iterator<Item = PlaneRecord> {
        let each = self.planes.iter().zip(&self.sections);
        each.map(|(plane, section)| PlaneRecord {
            normal: plane.normal.to_array(),
            at: plane.at,
            section: *section,
        })
    }
}

/// What a piece is called: by the sides of single planes, or its number along axes.
pub fn name(piece: &Piece, rows: &[Row]) -> String {
    let each = rows
        .iter()
        .zip(&piece.place)
        .filter(|(row, _)| !row.planes.is_empty());
    let names: Vec<String> = each
        .map(|(row, above)| match row.axis {
            Some(axis) => format!("{}{}", axis.name(), above + 1),
            None if *above == 0 => "below".into(),
            None => "above".into(),
        })
        .collect();
    names.join("-")
}

/// What lengths are measured by.
pub struct Lengths {
    /// The model's unit.
    pub unit: Option<Unit>,
    /// The model's bounds.
    pub bounds: Bounds,
}

impl Lengths {
    fn of(&self, length: Length) -> Result<f64> {
        length_in(length, self.unit, self.bounds.diagonal())
    }
}

/// A plane.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum PlaneArgument {
    /// Across an axis, so far along it.
    Across(Axis, Length),
    /// By its normal, through a point.
    Through(DVec3, DVec3),
}

impl FromStr for PlaneArgument {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("'{text}' is no plane; write z=12mm, or 0,1,1@0,0,2");
        if let Some((name, at)) = text.split_once('=') {
            let at = signed_length(at.trim()).map_err(|_| wrong())?;
            return Ok(Self::Across(axis(name.trim()).map_err(|_| wrong())?, at));
        }
        let (normal, through) = text.split_once('@').ok_or_else(wrong)?;
        let normal = point(normal).map_err(|_| wrong())?;
        match normal.try_normalize() {
            Some(normal) => Ok(Self::Through(normal, point(through).map_err(|_| wrong())?)),
            None => Err(wrong()),
        }
    }
}

impl PlaneArgument {
    /// The plane, in a row by itself.
    pub fn row(&self, lengths: &Lengths) -> Result<Row> {
        let plane = match *self {
            Self::Across(axis, at) => Plane {
                normal: along(axis),
                at: lengths.of(at)?,
            },
            Self::Through(normal, through) => Plane {
                normal,
                at: normal.dot(through),
            },
        };
        let reach = |end: DVec3| plane.normal.dot(end) - plane.at;
        let Bounds { min, max } = lengths.bounds;
        let corner = |i: usize| {
            DVec3::from_array([0, 1, 2].map(|axis| {
                if i >> axis & 1 == 0 {
                    min[axis]
                } else {
                    max[axis]
                }
            }))
        };
        let sides: Vec<f64> = (0..8).map(|i| reach(corner(i))).collect();
        if sides.iter().all(|side| *side >= 0.0) || sides.iter().all(|side| *side <= 0.0) {
            bail!(
                "the plane does not go through the model, which lies from {} to {}; nothing was written",
                crate::out::position(min),
                crate::out::position(max)
            );
        }
        Ok(Row {
            planes: vec![plane],
            sections: vec![None],
            axis: None,
        })
    }
}

/// Slabs.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Every {
    axis: Option<Axis>,
    thick: Length,
}

impl FromStr for Every {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (along, thick) = match text.split_once('=') {
            Some((name, thick)) => (Some(axis(name.trim())?), thick),
            None => (None, text),
        };
        Ok(Self {
            axis: along,
            thick: thick.trim().parse()?,
        })
    }
}

impl Every {
    /// The planes between the slabs, from the model's low end on.
    pub fn row(&self, lengths: &Lengths) -> Result<Row> {
        let size = lengths.bounds.size();
        let longest = Axis::ALL
            .into_iter()
            .max_by(|a, b| size[*a as usize].total_cmp(&size[*b as usize]));
        let axis = self.axis.or(longest).unwrap_or(Axis::Z);
        let (low, size) = (lengths.bounds.min[axis as usize], size[axis as usize]);
        let thick = lengths.of(self.thick)?;
        if thick <= 0.0 || size / thick > MOST {
            bail!("--every takes a length above 0, for at most {MOST} slabs");
        }
        let count = (size / thick * (1.0 - 1e-9)).floor() as usize;
        let planes = (1..=count).map(|i| Plane {
            normal: along(axis),
            at: low + i as f64 * thick,
        });
        Ok(Row {
            planes: planes.collect(),
            sections: vec![None; count],
            axis: Some(axis),
        })
    }
}

/// How large a piece may be.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Bed([Length; 3]);

impl FromStr for Bed {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("'{text}' is no bed; write 220x220x250mm");
        let end = text.rfind(|c: char| c.is_ascii_digit()).ok_or_else(wrong)?;
        let (numbers, unit) = text.split_at(end + 1);
        let sides: Vec<Length> = numbers
            .split(['x', '×'])
            .map(|side| {
                format!("{}{unit}", side.trim())
                    .parse()
                    .map_err(|_| wrong())
            })
            .collect::<Result<_, String>>()?;
        sides.try_into().map(Self).map_err(|_| wrong())
    }
}

impl Bed {
    /// The planes by which all fits, a row an axis, with pins standing out so far.
    pub fn rows(&self, model: &Model, lengths: &Lengths, pins: f64) -> Result<Vec<Row>> {
        let mut bed = DVec3::ZERO;
        for (axis, length) in self.0.into_iter().enumerate() {
            bed[axis] = lengths.of(length)?;
            if lengths.bounds.size()[axis] > bed[axis] {
                bed[axis] -= pins;
            }
        }
        if bed.min_element() <= 0.0 || (lengths.bounds.size() / bed).max_element() > MOST {
            bail!(
                "--bed takes lengths above those of pins, for at most {MOST} pieces along an axis"
            );
        }
        let fits = fit(model, bed);
        let row = |axis: Axis| {
            let own = fits.iter().filter(|fit| fit.axis == axis);
            Row {
                planes: own.clone().map(|fit| fit.plane()).collect(),
                sections: own.map(|fit| Some(fit.section)).collect(),
                axis: Some(axis),
            }
        };
        Ok(Axis::ALL.into_iter().map(row).collect())
    }
}

fn along(axis: Axis) -> DVec3 {
    let mut normal = DVec3::ZERO;
    normal[axis as usize] = 1.0;
    normal
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lengths() -> Lengths {
        Lengths {
            unit: Some(Unit::Cm),
            bounds: Bounds {
                min: DVec3::new(0.0, 0.0, 1.0),
                max: DVec3::new(4.0, 6.0, 11.0),
            },
        }
    }

    #[test]
    fn planes_are_read() {
        let plane: PlaneArgument = "z=-12mm".parse().unwrap();
        assert_eq!(
            plane,
            PlaneArgument::Across(Axis::Z, Length::Real(-12.0, Unit::Mm))
        );
        let plane: PlaneArgument = "0,0,2@1,2,3".parse().unwrap();
        assert_eq!(
            plane,
            PlaneArgument::Through(DVec3::Z, DVec3::new(1.0, 2.0, 3.0))
        );
        for wrong in ["z", "w=3", "0,0,0@1,2,3", "0,0,1", "z=far", "0,0,1@1,2"] {
            assert!(wrong.parse::<PlaneArgument>().is_err(), "{wrong}");
        }
        assert!(
            "z=20"
                .parse::<PlaneArgument>()
                .unwrap()
                .row(&lengths())
                .is_err()
        );
        let row = "z=20mm"
            .parse::<PlaneArgument>()
            .unwrap()
            .row(&lengths())
            .unwrap();
        assert_eq!(row.planes[0].at, 2.0);
    }

    #[test]
    fn slabs_begin_at_the_low_end_of_the_longest_side() {
        let row = "25mm".parse::<Every>().unwrap().row(&lengths()).unwrap();
        assert_eq!(row.axis, Some(Axis::Z));
        let at: Vec<f64> = row.planes.iter().map(|plane| plane.at).collect();
        assert_eq!(at, [3.5, 6.0, 8.5]);
        let row = "y=2".parse::<Every>().unwrap().row(&lengths()).unwrap();
        assert_eq!(row.planes.len(), 2);
        assert!("x=0".parse::<Every>().unwrap().row(&lengths()).is_err());
    }

    #[test]
    fn beds_are_read() {
        let bed: Bed = "220x220x250mm".parse().unwrap();
        assert_eq!(
            bed.0.map(|side| side.to_string()),
            ["220mm", "220mm", "250mm"]
        );
        let bed: Bed = "2x3x4.5".parse().unwrap();
        assert_eq!(bed.0[2], Length::Own(4.5));
        for wrong in ["220mm", "1x2", "1x2x3x4", "axbxc", ""] {
            assert!(wrong.parse::<Bed>().is_err(), "{wrong}");
        }
    }
}
