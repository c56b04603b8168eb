//! Levels, and the briefs that set them: what a handoff asks for.

use super::{CHECKS, Check};
use crate::units::{Axis, Length, Unit};

/// How bad a finding is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "serde", serde(rename_all = "lowercase"))]
pub enum Level {
    /// Not looked for.
    Off,
    /// Worth knowing.
    Note,
    /// May cause trouble.
    Warn,
    /// Must not go on like that.
    Block,
}

impl Level {
    /// All levels.
    pub const ALL: [Level; 4] = [Level::Off, Level::Note, Level::Warn, Level::Block];

    /// The level's name.
    pub fn name(self) -> &'static str {
        match self {
            Level::Off => "off",
            Level::Note => "note",
            Level::Warn => "warn",
            Level::Block => "block",
        }
    }
}

/// A check's level in each built-in brief.
#[derive(Clone, Copy, Debug)]
pub struct Levels {
    general: Level,
    sculpt: Level,
    engine: Level,
    print: Level,
}

impl Levels {
    /// Levels without a brief, and in `sculpt`, `engine` and `print`.
    pub const fn new(general: Level, sculpt: Level, engine: Level, print: Level) -> Self {
        Self {
            general,
            sculpt,
            engine,
            print,
        }
    }
}

/// From where on something counts.
#[derive(Clone, Debug, PartialEq)]
pub struct Thresholds {
    /// How many times its height a sliver's longest edge is.
    pub sliver_ratio: f64,
    /// How many times larger a neighbour's area may be.
    pub area_step: f64,
    /// The thinnest wall.
    pub wall: Option<Length>,
    /// How far from the build direction a face may lean over, in degrees.
    pub overhang_angle: f64,
    /// Vertices nearer than this are duplicates; equal ones only where it isn't stated.
    pub near: Option<Length>,
    /// How many times more pixels of texture along a length a face may have than most.
    pub texel_step: f64,
}

impl Default for Thresholds {
    fn default() -> Self {
        Self {
            sliver_ratio: 50.0,
            area_step: 20.0,
            wall: None,
            overhang_angle: 45.0,
            near: None,
            texel_step: 2.0,
        }
    }
}

/// How much there may be.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Limits {
    /// Triangles, polygons counted as cut up.
    pub triangles: Option<usize>,
    /// Parts.
    pub parts: Option<usize>,
    /// Materials.
    pub materials: Option<usize>,
    /// Longest side of the bounds.
    pub size: Option<Length>,
    /// Within what the longest side usually is: from, to.
    pub usual_size: Option<[Length; 2]>,
    /// Pixels along a side of a texture.
    pub texture: Option<usize>,
}

/// How the model goes on.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Handoff {
    /// Its unit of length.
    pub unit: Option<Unit>,
    /// Which axis points up; also the direction of building in print.
    pub up: Option<Axis>,
    /// File format, by its name ending.
    pub format: Option<String>,
    /// Whether all faces must be triangles.
    pub triangles: bool,
}

/// What mending for a handoff clears and leaves.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Mending {
    /// Checks whose findings are cleared beyond what is safe.
    pub clear: Vec<String>,
    /// Checks whose findings are left.
    pub keep: Vec<String>,
}

/// What a handoff asks for.
#[derive(Clone, Debug, PartialEq)]
pub struct Brief {
    /// Its name.
    pub name: String,
    /// By check, in the order of the registry.
    levels: Vec<Level>,
    /// From where on something counts.
    pub thresholds: Thresholds,
    /// How much there may be.
    pub limits: Limits,
    /// How the model goes on.
    pub handoff: Handoff,
    /// What mending clears and leaves.
    pub mending: Mending,
}

impl Default for Brief {
    fn default() -> Self {
        Self::general()
    }
}

impl Brief {
    /// The names of the built-in briefs that stand for a purpose.
    pub const BUILT_IN: [&'static str; 3] = ["sculpt", "engine", "print"];

    /// A built-in brief.
    pub fn named(name: &str) -> Option<Self> {
        match name {
            "general" => Some(Self::general()),
            "sculpt" => Some(Self::sculpt()),
            "engine" => Some(Self::engine()),
            "print" => Some(Self::print()),
            _ => None,
        }
    }

    /// Nothing in particular.
    pub fn general() -> Self {
        Self::with_levels("general", |levels| levels.general)
    }

    /// Sculpting: closed, even, no n-gons, no buried faces.
    pub fn sculpt() -> Self {
        Self::with_levels("sculpt", |levels| levels.sculpt)
    }

    /// A game engine: triangles, nothing stray or doubled; open sheets allowed.
    pub fn engine() -> Self {
        let mut brief = Self::with_levels("engine", |levels| levels.engine);
        brief.handoff.triangles = true;
        let usual = [Length::Real(1.0, Unit::Cm), Length::Real(100.0, Unit::M)];
        brief.limits.usual_size = Some(usual);
        brief.limits.texture = Some(4096);
        brief
    }

    /// A 3D printer: watertight, one solid, no crossing faces, real size.
    pub fn print() -> Self {
        let mut brief = Self::with_levels("print", |levels| levels.print);
        brief.thresholds.wall = Some(Length::Real(0.8, Unit::Mm));
        let usual = [Length::Real(1.0, Unit::Mm), Length::Real(1.0, Unit::M)];
        brief.limits.usual_size = Some(usual);
        brief.handoff = Handoff {
            unit: Some(Unit::Mm),
            up: Some(Axis::Z),
            format: None,
            triangles: true,
        };
        brief
    }

    fn with_levels(name: &str, level: impl Fn(&Levels) -> Level) -> Self {
        Self {
            name: name.into(),
            levels: CHECKS.iter().map(|check| level(&check.levels)).collect(),
            thresholds: Thresholds::default(),
            limits: Limits::default(),
            handoff: Handoff::default(),
            mending: Mending::default(),
        }
    }

    /// How bad a finding of this check is; [`Level::Off`] for one that isn't in the registry.
    pub fn level(&self, check: &str) -> Level {
        let place = CHECKS.iter().position(|c| c.name == check);
        place.map_or(Level::Off, |i| self.levels[i])
    }

    /// Sets a level; a name that isn't in the registry changes nothing.
    pub fn set_level(&mut self, check: &str, level: Level) {
        if let Some(i) = CHECKS.iter().position(|c| c.name == check) {
            self.levels[i] = level;
        }
    }

    /// The checks that are looked for, with their levels.
    pub fn wanted(&self) -> impl Iterator<Item = (&'static Check, Level)> + '_ {
        let all = CHECKS.iter().zip(self.levels.iter().copied());
        all.filter(|(_, level)| *level > Level::Off)
    }

    /// Whether the handoff needs a closed surface.
    pub fn wants_closed(&self) -> bool {
        self.level("open-edges") == Level::Block
    }

    /// Whether the handoff can't use loose scraps.
    pub fn wants_no_scraps(&self) -> bool {
        self.level("floating-parts") == Level::Block
    }
}
