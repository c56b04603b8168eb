//! A model at several budgets.

use schemars::JsonSchema;
use serde::Serialize;

/// A model at several budgets.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct LadderDocument {
    /// The file that was reduced.
    pub input: String,
    /// How many triangles it has.
    pub triangles: usize,
    /// The diagonal of its bounds.
    pub diagonal: f64,
    /// The sheet with all rungs.
    pub sheet: String,
    /// The rungs, from the most triangles to the fewest.
    pub rungs: Vec<RungDocument>,
    /// What was asked to be held, and which rung is the lowest that does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pick: Option<Pick>,
    /// For what switch distances hold.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub screen: Option<Screen>,
}

/// A model at one budget.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct RungDocument {
    /// The file.
    pub file: String,
    /// How many triangles it has.
    pub triangles: usize,
    /// Its size in bytes.
    pub bytes: u64,
    /// How far it lies off at most, as far as was found, in model units.
    pub off: f64,
    /// What it is proved to lie within, in model units.
    pub within: f64,
    /// The root of the mean square, both ways.
    pub rms: f64,
    /// How far the faces turn from the first ones, for 99% of the area, in degrees.
    pub turned: f64,
    /// The checks that block.
    pub blocks: Vec<String>,
    /// Why the budget was not reached.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stopped_by: Option<String>,
    /// From this distance of the eye on, what it lies off is not seen, in model units.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub from_distance: Option<f64>,
    /// How much of the screen's height the model's diagonal takes there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub on_screen: Option<f64>,
}

/// A distance to be held.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Pick {
    /// In model units.
    pub within: f64,
    /// The lowest rung's file that is proved to hold it.
    pub file: Option<String>,
}

/// The screen that switch distances are for.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Screen {
    /// How far off a rung may lie, in pixels.
    pub error: f64,
    /// Pixels from top to bottom.
    pub height: u32,
    /// What is seen from top to bottom, in degrees.
    pub field_of_view: f64,
}

impl Screen {
    /// From which distance on a length is no longer than the error.
    pub fn distance(&self, length: f64) -> f64 {
        length * self.pixels_at_one() / self.error
    }

    /// The share of the height that a length takes at a distance.
    pub fn share(&self, length: f64, distance: f64) -> f64 {
        length * self.pixels_at_one() / (distance * f64::from(self.height))
    }

    fn pixels_at_one(&self) -> f64 {
        f64::from(self.height) / (2.0 * (self.field_of_view.to_radians() / 2.0).tan())
    }
}
