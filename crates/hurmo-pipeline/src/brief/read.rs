//! Reading a brief from TOML. Every error names its line, and an unknown word the nearest
//! known one.

use super::nearest;
use crate::plan::PlannedStep;
use crate::quantity::Budget;
use hurmo_core::audit::{Brief, CHECKS, Level};
use hurmo_core::units::{Axis, Length, Unit};
use std::ops::Range;
use toml::Spanned;
use toml::de::{DeString, DeTable, DeValue};

const TABLES: [&str; 6] = ["levels", "thresholds", "limits", "handoff", "mend", "step"];

/// Reads a brief and the steps that it lists; `name` is its name unless the text states one.
///
/// # Errors
/// One line that says what is wrong, and on which line.
pub fn from_toml(text: &str, name: &str) -> Result<(Brief, Vec<PlannedStep>), String> {
    let reader = Reader { text };
    let document = DeTable::parse(text).map_err(|error| {
        let at = error.span().map_or(0, |span| span.start);
        format!("line {}: {}", reader.line(at), error.message())
    })?;
    reader.brief(document.get_ref(), name)
}

pub(super) type Value<'t> = Spanned<DeValue<'t>>;
pub(super) type Key<'t> = Spanned<DeString<'t>>;

/// Reads parts of a brief, and knows their lines.
pub(super) struct Reader<'t> {
    text: &'t str,
}

impl Reader<'_> {
    fn line(&self, at: usize) -> usize {
        1 + self.text[..at.min(self.text.len())].matches('\n').count()
    }

    pub(super) fn error<T>(&self, span: Range<usize>, message: String) -> Result<T, String> {
        Err(format!("line {}: {message}", self.line(span.start)))
    }

    pub(super) fn unknown<'k, T>(
        &self,
        key: &Key<'_>,
        what: &str,
        known: impl IntoIterator<Item = &'k str> + Clone,
    ) -> Result<T, String> {
        let word = key.get_ref().as_ref();
        let hint = match nearest(word, known.clone()) {
            Some(near) => format!("did you mean '{near}'?"),
            None => format!(
                "known: {}",
                known.into_iter().collect::<Vec<_>>().join(", ")
            ),
        };
        self.error(key.span(), format!("'{word}' is no {what}; {hint}"))
    }

    fn brief(
        &self,
        document: &DeTable<'_>,
        name: &str,
    ) -> Result<(Brief, Vec<PlannedStep>), String> {
        let known = || ["name", "extends"].into_iter().chain(TABLES);
        let mut brief = Brief::general();
        for (key, value) in document {
            if key.get_ref() == "extends" {
                let base = self.word(value)?;
                brief = match Brief::named(base) {
                    Some(brief) => brief,
                    None => {
                        let known = Brief::BUILT_IN.join(", ");
                        return self.error(
                            value.span(),
                            format!("'{base}' can't be extended; one of {known}, general can"),
                        );
                    }
                };
            }
        }
        brief.name = name.to_string();
        let mut steps = Vec::new();
        for (key, value) in document {
            match key.get_ref().as_ref() {
                "extends" => {}
                "name" => brief.name = self.word(value)?.to_string(),
                "levels" => self.each(value, |key, value| self.level(&mut brief, key, value))?,
                "thresholds" => {
                    self.each(value, |key, value| self.threshold(&mut brief, key, value))?;
                }
                "limits" => self.each(value, |key, value| self.limit(&mut brief, key, value))?,
                "handoff" => {
                    self.each(value, |key, value| self.handoff(&mut brief, key, value))?;
                }
                "mend" => self.each(value, |key, value| self.mending(&mut brief, key, value))?,
                "step" => steps = self.steps(value)?,
                _ => return self.unknown(key, "key of a brief", known()),
            }
        }
        Ok((brief, steps))
    }

    fn each(
        &self,
        table: &Value<'_>,
        mut entry: impl FnMut(&Key<'_>, &Value<'_>) -> Result<(), String>,
    ) -> Result<(), String> {
        match table.get_ref() {
            DeValue::Table(table) => table.iter().try_for_each(|(key, value)| entry(key, value)),
            _ => self.error(table.span(), "a table is expected, as in [levels]".into()),
        }
    }

    fn level(&self, brief: &mut Brief, key: &Key<'_>, value: &Value<'_>) -> Result<(), String> {
        let check = key.get_ref().as_ref();
        if hurmo_core::audit::named(check).is_none() {
            return self.unknown(key, "check", CHECKS.iter().map(|check| check.name));
        }
        let word = self.word(value)?;
        match Level::ALL.into_iter().find(|level| level.name() == word) {
            Some(level) => brief.set_level(check, level),
            None => {
                let message = format!("'{word}' is no level; write block, warn, note or off");
                return self.error(value.span(), message);
            }
        }
        Ok(())
    }

    fn threshold(&self, brief: &mut Brief, key: &Key<'_>, value: &Value<'_>) -> Result<(), String> {
        let to = &mut brief.thresholds;
        match key.get_ref().as_ref() {
            "sliver-ratio" => to.sliver_ratio = self.number(value, 1.0..=f64::MAX)?,
            "area-step" => to.area_step = self.number(value, 1.0..=f64::MAX)?,
            "overhang-angle" => to.overhang_angle = self.number(value, 0.0..=90.0)?,
            "wall" => to.wall = Some(self.length(value)?),
            "near" => to.near = Some(self.length(value)?),
            "texel-step" => to.texel_step = self.number(value, 1.0..=f64::MAX)?,
            _ => {
                let known = [
                    "sliver-ratio",
                    "area-step",
                    "overhang-angle",
                    "wall",
                    "near",
                    "texel-step",
                ];
                return self.unknown(key, "threshold", known);
            }
        }
        Ok(())
    }

    fn limit(&self, brief: &mut Brief, key: &Key<'_>, value: &Value<'_>) -> Result<(), String> {
        let to = &mut brief.limits;
        match key.get_ref().as_ref() {
            "triangles" => to.triangles = Some(self.count(value)?),
            "parts" => to.parts = Some(self.count(value)?),
            "materials" => to.materials = Some(self.count(value)?),
            "size" => to.size = Some(self.length(value)?),
            "usual-size" => to.usual_size = Some(self.two_lengths(value)?),
            "texture" => to.texture = Some(self.count(value)?),
            _ => {
                let known = [
                    "triangles",
                    "parts",
                    "materials",
                    "size",
                    "usual-size",
                    "texture",
                ];
                return self.unknown(key, "limit", known);
            }
        }
        Ok(())
    }

    fn handoff(&self, brief: &mut Brief, key: &Key<'_>, value: &Value<'_>) -> Result<(), String> {
        let to = &mut brief.handoff;
        let word = self.word(value)?;
        let known = match key.get_ref().as_ref() {
            "unit" => {
                to.unit = Unit::from_name(word);
                to.unit.map(|_| ()).ok_or("mm, cm, m or in".into())
            }
            "up" => {
                to.up = Axis::from_name(word);
                to.up.map(|_| ()).ok_or("x, y or z".into())
            }
            "format" => {
                let named = hurmo_formats::Format::of_extension(word);
                to.format = named.map(|_| word.to_string());
                let known = || hurmo_formats::Format::known_extensions().replace('.', "");
                named.map(|_| ()).ok_or_else(known)
            }
            "faces" => {
                to.triangles = word == "triangles";
                let known = ["triangles", "any"].contains(&word);
                known.then_some(()).ok_or("triangles or any".into())
            }
            _ => return self.unknown(key, "key of handoff", ["unit", "up", "format", "faces"]),
        };
        known.or_else(|forms: String| {
            self.error(
                value.span(),
                format!("'{word}' is not understood; write {forms}"),
            )
        })
    }

    fn mending(&self, brief: &mut Brief, key: &Key<'_>, value: &Value<'_>) -> Result<(), String> {
        let list = match key.get_ref().as_ref() {
            "clear" => &mut brief.mending.clear,
            "keep" => &mut brief.mending.keep,
            _ => return self.unknown(key, "key of mend", ["clear", "keep"]),
        };
        let DeValue::Array(checks) = value.get_ref() else {
            let message = "a list of checks is expected, as [\"sliver-faces\"]".into();
            return self.error(value.span(), message);
        };
        list.clear();
        for check in checks {
            let word = self.word(check)?;
            if !hurmo_core::mend::curable().any(|known| known == word) {
                let hint = match nearest(word, hurmo_core::mend::curable()) {
                    Some(near) => format!("did you mean '{near}'?"),
                    None => {
                        let known: Vec<_> = hurmo_core::mend::curable().collect();
                        format!("these are: {}", known.join(", "))
                    }
                };
                let message = format!("'{word}' is no check that mend clears; {hint}");
                return self.error(check.span(), message);
            }
            list.push(word.to_string());
        }
        Ok(())
    }

    pub(super) fn word<'v>(&self, value: &'v Value<'_>) -> Result<&'v str, String> {
        match value.get_ref() {
            DeValue::String(word) => Ok(word.as_ref()),
            _ => self.error(value.span(), "a word in quotes is expected".into()),
        }
    }

    /// A number, or text, as it stands in the file.
    pub(super) fn raw(&self, value: &Value<'_>) -> String {
        match value.get_ref() {
            DeValue::String(word) => word.to_string(),
            _ => self.text[value.span()].replace('_', ""),
        }
    }

    fn number(
        &self,
        value: &Value<'_>,
        range: std::ops::RangeInclusive<f64>,
    ) -> Result<f64, String> {
        match self.raw(value).parse::<f64>() {
            Ok(number) if range.contains(&number) => Ok(number),
            _ => {
                let most = match *range.end() {
                    f64::MAX => "up".to_string(),
                    most => format!("to {most}"),
                };
                let message = format!("a number from {} {most} is expected", range.start());
                self.error(value.span(), message)
            }
        }
    }

    /// Two lengths, in a list.
    fn two_lengths(&self, value: &Value<'_>) -> Result<[Length; 2], String> {
        match value.get_ref() {
            DeValue::Array(ends) if ends.len() == 2 => {
                Ok([self.length(&ends[0])?, self.length(&ends[1])?])
            }
            _ => {
                let message = "two lengths are expected, as [\"1cm\", \"2m\"]".into();
                self.error(value.span(), message)
            }
        }
    }

    fn length(&self, value: &Value<'_>) -> Result<Length, String> {
        let parsed: Result<Length, String> = self.raw(value).parse();
        parsed.or_else(|message| self.error(value.span(), message))
    }

    fn count(&self, value: &Value<'_>) -> Result<usize, String> {
        match self.raw(value).parse::<Budget>() {
            Ok(Budget::Count(count)) => Ok(count),
            _ => self.error(
                value.span(),
                "a whole number from 1 up is expected, as 5000 or \"20k\"".into(),
            ),
        }
    }
}
