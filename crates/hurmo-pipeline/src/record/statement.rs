//! One thing that was done, or left: which, with its values. In JSON these are all there is; for people a
//! statement has a pattern that its values are put into.

use crate::text;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::ser::{Serialize, SerializeMap, Serializer};
use std::borrow::Cow;
use std::fmt;

/// Something that is said of a step.
#[derive(Clone, Debug, PartialEq)]
pub struct Statement {
    /// What it is about: `rims-closed`.
    pub what: &'static str,
    /// How it reads: `{rims:rim} closed with {faces:face}`.
    pattern: &'static str,
    /// Its values by name, in order.
    values: Vec<(&'static str, Value)>,
}

/// A value of a statement.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// How many; with a noun in the pattern, which gets its plural.
    Count(usize),
    /// A measure, shown with four digits.
    Measure(f64),
    /// A number, and how it is shown.
    Shown(f64, String),
    /// A point.
    Point([f64; 3]),
    /// A name or a word.
    Text(String),
    /// A reason: what it is in JSON, and how it reads.
    Reason(serde_json::Value, String),
    /// What only the sentence needs, as "it" or "them"; not in JSON.
    Grammar(&'static str),
    /// Several, with commas between them; with another sign, where the pattern names one.
    Texts(Vec<String>),
    /// Statements of the same kind.
    Statements(Vec<Statement>),
    /// What is added where it applies.
    Clause(Option<Box<Statement>>),
}

impl Statement {
    /// A statement. Every name in the pattern must be among the values.
    pub fn new(
        what: &'static str,
        pattern: &'static str,
        values: Vec<(&'static str, Value)>,
    ) -> Self {
        let statement = Self {
            what,
            pattern,
            values,
        };
        debug_assert!(
            pieces(pattern).all(|piece| match piece {
                Piece::Text(_) => true,
                Piece::Value(name, _) => statement.value(name).is_some(),
            }),
            "{what}: {pattern}"
        );
        statement
    }

    /// A value by its name.
    pub fn value(&self, name: &str) -> Option<&Value> {
        let found = self.values.iter().find(|(own, _)| *own == name);
        found.map(|(_, value)| value)
    }
}

/// A statement: what it is about, its pattern, and its values by name.
#[macro_export]
macro_rules! said {
    ($what:literal, $pattern:literal $(, $name:ident = $value:expr)* $(,)?) => {
        $crate::record::Statement::new(
            $what,
            $pattern,
            vec![$((stringify!($name), $crate::record::Value::from($value))),*],
        )
    };
}

/// Cuts a long list of statements, saying how much of it.
pub fn shorten(list: &mut Vec<Statement>, limit: usize) {
    if list.len() > limit + 1 {
        let more = list.len() - limit;
        list.truncate(limit);
        list.push(said!("more", "and {count} more", count = more));
    }
}

/// A piece of a pattern.
enum Piece<'p> {
    Text(&'p str),
    /// A value's name, and what follows it behind a colon.
    Value(&'p str, Option<&'p str>),
}

fn pieces(pattern: &str) -> impl Iterator<Item = Piece<'_>> {
    pattern.split('{').enumerate().flat_map(|(i, run)| {
        let (value, rest) = match i {
            0 => (None, run),
            _ => {
                let (value, rest) = run.split_once('}').unwrap_or((run, ""));
                let (name, with) = match value.split_once(':') {
                    Some((name, with)) => (name, Some(with)),
                    None => (value, None),
                };
                (Some(Piece::Value(name, with)), rest)
            }
        };
        value.into_iter().chain([Piece::Text(rest)])
    })
}

impl fmt::Display for Statement {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for piece in pieces(self.pattern) {
            match piece {
                Piece::Text(text) => f.write_str(text)?,
                Piece::Value(name, with) => match self.value(name) {
                    Some(value) => f.write_str(&value.shown(with))?,
                    None => write!(f, "{{{name}}}")?,
                },
            }
        }
        Ok(())
    }
}

impl Value {
    /// A reason of the core's: by its name in JSON, in its own words for people.
    pub fn reason<R: Serialize + fmt::Display>(reason: &R) -> Self {
        let words = reason.to_string();
        let named = serde_json::to_value(reason);
        Self::Reason(named.unwrap_or_else(|_| words.clone().into()), words)
    }

    fn shown(&self, with: Option<&str>) -> String {
        let joined = |list: Vec<String>| list.join(with.unwrap_or(", "));
        match (self, with) {
            (Value::Count(count), Some(noun)) => text::counted(*count, noun),
            (Value::Count(count), None) => text::count(*count),
            (Value::Measure(measure), _) => text::measure(*measure),
            (Value::Shown(_, shown) | Value::Reason(_, shown), _) => shown.clone(),
            (Value::Point(point), _) => text::position(glam::DVec3::from_array(*point)),
            (Value::Text(text), _) => text.clone(),
            (Value::Grammar(words), _) => words.to_string(),
            (Value::Texts(list), _) => joined(list.clone()),
            (Value::Statements(list), _) => joined(list.iter().map(ToString::to_string).collect()),
            (Value::Clause(clause), _) => clause
                .as_ref()
                .map_or(String::new(), |clause| clause.to_string()),
        }
    }
}

impl Serialize for Statement {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("what", self.what)?;
        for (name, value) in &self.values {
            match value {
                Value::Count(count) => map.serialize_entry(name, count)?,
                Value::Measure(number) | Value::Shown(number, _) => {
                    map.serialize_entry(name, number)?;
                }
                Value::Point(point) => map.serialize_entry(name, point)?,
                Value::Text(text) => map.serialize_entry(name, text)?,
                Value::Reason(reason, _) => map.serialize_entry(name, reason)?,
                Value::Texts(list) => map.serialize_entry(name, list)?,
                Value::Statements(list) => map.serialize_entry(name, list)?,
                Value::Clause(Some(clause)) => map.serialize_entry(name, clause)?,
                Value::Clause(None) | Value::Grammar(_) => {}
            }
        }
        map.end()
    }
}

impl JsonSchema for Statement {
    fn schema_name() -> Cow<'static, str> {
        "Statement".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({
            "type": "object",
            "description": "One thing that was done, or left: which, and its values by name.",
            "properties": { "what": { "type": "string" } },
            "required": ["what"]
        })
    }
}

macro_rules! values_from {
    ($($from:ty => $make:expr),* $(,)?) => {
        $(impl From<$from> for Value {
            fn from(value: $from) -> Self {
                $make(value)
            }
        })*
    };
}

values_from! {
    usize => Value::Count,
    f64 => Value::Measure,
    (f64, String) => |(number, shown)| Value::Shown(number, shown),
    glam::DVec3 => |point: glam::DVec3| Value::Point(point.to_array()),
    String => Value::Text,
    &str => |text: &str| Value::Text(text.into()),
    Vec<String> => Value::Texts,
    Vec<Statement> => Value::Statements,
    Option<Statement> => |clause: Option<Statement>| Value::Clause(clause.map(Box::new)),
    Statement => |clause: Statement| Value::Clause(Some(Box::new(clause))),
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_stand_in_the_pattern_and_in_json() {
        let beyond = |faces: usize| {
            (faces > 0).then(|| said!("beyond", "; {faces:face} beyond", faces = faces))
        };
        let closed = |beyond| {
            said!(
                "rims-closed",
                "{rims:rim} closed, {area} square units{beyond}",
                rims = 1usize,
                area = 0.25,
                beyond = beyond,
            )
        };
        assert_eq!(
            closed(beyond(0)).to_string(),
            "1 rim closed, 0.25 square units"
        );
        let text = closed(beyond(1200)).to_string();
        assert_eq!(text, "1 rim closed, 0.25 square units; 1,200 faces beyond");
        assert_eq!(
            serde_json::to_value(closed(beyond(2))).unwrap(),
            serde_json::json!({
                "what": "rims-closed", "rims": 1, "area": 0.25, "beyond": { "what": "beyond", "faces": 2 }
            })
        );
        assert_eq!(
            serde_json::to_value(closed(None)).unwrap(),
            serde_json::json!({ "what": "rims-closed", "rims": 1, "area": 0.25 })
        );
    }

    #[test]
    fn reasons_have_a_name_in_json_and_words_for_people() {
        let left = hurmo_core::fill::LeftBecause::OneSided;
        let said = said!("left", "left: {why}", why = Value::reason(&left));
        assert_eq!(said.to_string(), format!("left: {left}"));
        let json = serde_json::to_value(said).unwrap();
        assert_eq!(
            json,
            serde_json::json!({ "what": "left", "why": "one-sided" })
        );
    }

    #[test]
    fn lists_have_their_own_sign_between_them() {
        let names = ["P1".to_string(), "P2".to_string()];
        let dropped = |pattern| {
            Statement::new("dropped", pattern, vec![("parts", names.to_vec().into())]).to_string()
        };
        assert_eq!(dropped("{parts} dropped"), "P1, P2 dropped");
        assert_eq!(dropped("dropped {parts: }"), "dropped P1 P2");
        let mut list: Vec<Statement> = (0..5)
            .map(|i| said!("one", "{n}", n = i as usize))
            .collect();
        shorten(&mut list, 2);
        let shown: Vec<String> = list.iter().map(ToString::to_string).collect();
        assert_eq!(shown, ["0", "1", "and 3 more"]);
    }
}
