//! How the model arrives: which way up, how large, and where.

use crate::audit::Level::{Note, Off, Warn};
use crate::audit::{Check, Found, Levels, Needs, NotRun, Remedy};
use crate::units::Length;
use glam::DVec3;

/// How far beyond its bounds the origin may be, as a share of the diagonal.
const NEAR: f64 = 0.1;

pub(super) const UP_AXIS: Check = Check {
    name: "wrong-up-axis",
    counts: "1 when the brief asks for an axis to point up and the model's is not known, or another",
    harm: "it arrives lying on its back",
    remedy: Remedy::Convert,
    drawing: r"
      ^ z          ____
     /|\    or    /____>  ?
      |",
    levels: Levels::new(Off, Off, Off, Note),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let up = search.brief.handoff.up.ok_or(NotRun::NotAsked)?;
        let is_wrong = analysis.model.up != Some(up);
        Ok(Found::model(analysis, usize::from(is_wrong)))
    },
};

pub(super) const SUSPICIOUS_SIZE: Check = Check {
    name: "suspicious-size",
    counts: "1 when the longest side is not within what the brief calls usual",
    harm: "most likely the unit is wrong: it arrives a thousand times too large or too small",
    remedy: Remedy::Convert,
    drawing: r"
    .   |#####|               *
       from  to        there?",
    levels: Levels::new(Off, Off, Warn, Warn),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let usual = search.brief.limits.usual_size.ok_or(NotRun::NotAsked)?;
        // That the unit is not known is another finding.
        let is_real = |length: &Length| matches!(length, Length::Real(..));
        if analysis.model.unit.is_none() && usual.iter().any(is_real) {
            return Err(NotRun::NotAsked);
        }
        let [from, to] = usual.map(|length| search.length(analysis, length));
        let longest = analysis.bounds.map_or(0.0, |b| b.size().max_element());
        let is_usual = longest == 0.0 || (from?..=to?).contains(&longest);
        let found = Found::model(analysis, usize::from(!is_usual));
        Ok(found.measured("units at the longest", longest))
    },
};

pub(super) const OFF_ORIGIN: Check = Check {
    name: "off-origin",
    counts: "1 when the origin lies further outside the bounds than a tenth of the diagonal",
    harm: "it is placed, turned and scaled about a point somewhere else",
    remedy: Remedy::Convert,
    drawing: r"
    +            +--+
    origin       |  |
                 +--+",
    levels: Levels::new(Off, Off, Note, Note),
    needs: Needs::Connectivity,
    find: |analysis, _| {
        let Some(bounds) = &analysis.bounds else {
            return Ok(Found::default());
        };
        let away = DVec3::ZERO.clamp(bounds.min, bounds.max).length() / analysis.diagonal;
        let is_off = analysis.diagonal > 0.0 && away > NEAR;
        let found = Found::model(analysis, usize::from(is_off));
        Ok(found.measured(
            "diagonals away",
            if analysis.diagonal > 0.0 { away } else { 0.0 },
        ))
    },
};
