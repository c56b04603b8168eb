//! Reading the steps that a brief lists: each is a table with the options of the command that does
//! the same, under the same names.

use super::read::{Key, Reader, Value};
use crate::operation::{Instruction, InstructionError, KnownOption, Operation, Takes};
use crate::plan::{MayBreak, PlannedStep};
use hurmo_core::audit::CHECKS;
use toml::de::{DeTable, DeValue};

impl Reader<'_> {
    /// The tables of `[[step]]`.
    pub(super) fn steps(&self, value: &Value<'_>) -> Result<Vec<PlannedStep>, String> {
        let DeValue::Array(tables) = value.get_ref() else {
            let message = "steps are tables of their own, as in [[step]]".into();
            return self.error(value.span(), message);
        };
        let steps = tables.iter().map(|table| match table.get_ref() {
            DeValue::Table(entries) => self.step(table, entries),
            _ => self.error(table.span(), "a table is expected, as in [[step]]".into()),
        });
        steps.collect()
    }

    fn step(&self, table: &Value<'_>, entries: &DeTable<'_>) -> Result<PlannedStep, String> {
        let kinds = Operation::KINDS;
        let Some((key, kind)) = entries.iter().find(|(key, _)| key.get_ref() == "do") else {
            let message = format!("a step says what to do: do = one of {}", kinds.join(", "));
            return self.error(table.span(), message);
        };
        let kind = self.word(kind).map(str::to_string)?;
        if !kinds.contains(&kind.as_str()) {
            let hint = match super::nearest(&kind, kinds.iter().copied()) {
                Some(near) => format!("did you mean '{near}'?"),
                None => format!("known: {}", kinds.join(", ")),
            };
            return self.error(key.span(), format!("'{kind}' is no step; {hint}"));
        }
        let known = Instruction::options_of(&kind);
        let (mut words, mut may_break) = (vec![kind], MayBreak::NOTHING);
        for (key, value) in entries {
            match key.get_ref().as_ref() {
                "do" => {}
                "may-break" => may_break = self.may_break(value)?,
                _ => words.extend(self.option(key, value, &words[0], &known)?),
            }
        }
        match Instruction::parse(words) {
            Ok(instruction) => Ok(PlannedStep {
                instruction,
                may_break,
            }),
            Err(InstructionError {
                option: Some(name),
                message,
            }) => {
                let about = entries.iter().find(|(key, _)| *key.get_ref() == name);
                let about = about.map_or(key, |(key, _)| key);
                self.error(about.span(), format!("{name}: {message}"))
            }
            Err(error) => self.error(key.span(), error.message),
        }
    }

    /// An option as a word of the command line; nothing for one that is switched off.
    fn option(
        &self,
        key: &Key<'_>,
        value: &Value<'_>,
        kind: &str,
        known: &[KnownOption],
    ) -> Result<Option<String>, String> {
        let name = key.get_ref().as_ref();
        let Some(option) = known.iter().find(|option| option.name == name) else {
            let names = known.iter().map(|option| option.name);
            let names = names.chain(["may-break"]);
            return self.unknown(key, &format!("option of {kind}"), names);
        };
        let given = match value.get_ref() {
            DeValue::Boolean(on) if matches!(option.takes, Takes::Nothing | Takes::ValueOr(_)) => {
                return Ok(on.then(|| format!("--{name}")));
            }
            DeValue::Boolean(_) => {
                let message = format!("{name} needs a value, as `hurmo {kind} --help` shows");
                return self.error(value.span(), message);
            }
            _ if option.takes == Takes::Nothing => {
                return self.error(value.span(), format!("{name} is true or false"));
            }
            DeValue::Array(items) => {
                let items: Vec<String> = items.iter().map(|item| self.raw(item)).collect();
                let sign = match option.takes {
                    Takes::Values(sign) => sign,
                    _ => ',',
                };
                items.join(&sign.to_string())
            }
            DeValue::Table(_) => {
                let message = "a word, a number or a list is expected".into();
                return self.error(value.span(), message);
            }
            _ => self.raw(value),
        };
        Ok(Some(format!("--{name}={given}")))
    }

    fn may_break(&self, value: &Value<'_>) -> Result<MayBreak, String> {
        let checks = match value.get_ref() {
            DeValue::Boolean(true) => return Ok(MayBreak::All),
            DeValue::Boolean(false) => return Ok(MayBreak::NOTHING),
            DeValue::Array(checks) => checks,
            _ => {
                let message = "may-break is a list of checks, or true for all".into();
                return self.error(value.span(), message);
            }
        };
        let mut allowed = Vec::new();
        for check in checks {
            let word = self.word(check)?;
            if hurmo_core::audit::named(word).is_none() {
                let known = CHECKS.iter().map(|check| check.name);
                let near = super::nearest(word, known);
                let hint = near.map_or(String::new(), |near| format!("; did you mean '{near}'?"));
                return self.error(check.span(), format!("'{word}' is no check{hint}"));
            }
            allowed.push(word.to_string());
        }
        Ok(MayBreak::Checks(allowed))
    }
}
