//! Options by name. Each operation lists its options once; a brief fills them from this list, a ledger
//! writes them by it, and the names that a message offers come from it.

use super::InstructionError;
use crate::words::Words;
use std::fmt::Display;
use std::path::PathBuf;
use std::str::FromStr;

/// Options that have names.
pub trait NamedOptions: Clone {
    /// Shows every option to a visitor, in the order in which they are written.
    fn each(&mut self, visitor: &mut dyn Visitor);

    /// The options that differ from the defaults, as on the command line.
    fn written(&self) -> Vec<String> {
        let mut writer = Writer(Vec::new());
        self.clone().each(&mut writer);
        writer.0
    }
}

/// Who sees the options of an operation, one after the other.
pub trait Visitor {
    /// Sees one.
    fn option(&mut self, option: NamedOption<'_>);
}

/// One option.
pub struct NamedOption<'a> {
    /// Its name.
    pub name: &'static str,
    /// What it may be given.
    pub takes: Takes,
    /// Whether it must be given.
    pub required: bool,
    /// Its value as text, where it differs from the default; empty for a flag that is set.
    pub written: Option<String>,
    /// Sets it from text.
    pub read: &'a mut dyn FnMut(&str) -> Result<(), String>,
}

/// What an option may be given.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Takes {
    /// Nothing: it is a flag.
    Nothing,
    /// A value.
    Value,
    /// A value, or nothing, which means this value.
    ValueOr(&'static str),
    /// Several values, with this sign between them.
    Values(char),
}

/// How options of the usual kinds are shown.
impl dyn Visitor + '_ {
    /// An option without a value.
    pub fn flag(&mut self, name: &'static str, given: &mut bool) {
        let written = given.then(String::new);
        let read = &mut |_: &str| {
            *given = true;
            Ok(())
        };
        self.option(NamedOption {
            name,
            takes: Takes::Nothing,
            required: false,
            written,
            read,
        });
    }

    /// An option with a value that can be read and written.
    pub fn value<T>(&mut self, name: &'static str, value: &mut Option<T>)
    where
        T: FromStr<Err = String> + Display,
    {
        self.parsed(name, value, str::parse, T::to_string);
    }

    /// The same, where a value is meant that isn't said.
    pub fn value_or<T>(&mut self, name: &'static str, value: &mut Option<T>, or: &'static str)
    where
        T: FromStr<Err = String> + Display,
    {
        self.optional((name, Takes::ValueOr(or)), value, str::parse, T::to_string);
    }

    /// A number, or none.
    pub fn number_or_none<T>(&mut self, name: &'static str, value: &mut Option<T>)
    where
        T: FromStr + Display,
    {
        let parse = number_of;
        self.parsed(name, value, parse, T::to_string);
    }

    /// An option with a value that these read and write.
    pub fn parsed<T>(
        &mut self,
        name: &'static str,
        value: &mut Option<T>,
        parse: impl Fn(&str) -> Result<T, String>,
        show: impl Fn(&T) -> String,
    ) {
        self.optional((name, Takes::Value), value, parse, show);
    }

    fn optional<T>(
        &mut self,
        (name, takes): (&'static str, Takes),
        value: &mut Option<T>,
        parse: impl Fn(&str) -> Result<T, String>,
        show: impl Fn(&T) -> String,
    ) {
        let written = value.as_ref().map(show);
        let read = &mut |text: &str| {
            *value = Some(parse(text)?);
            Ok(())
        };
        self.option(NamedOption {
            name,
            takes,
            required: false,
            written,
            read,
        });
    }

    /// An option that always has a value; written where it isn't the usual one.
    pub fn usually<T: PartialEq>(
        &mut self,
        name: &'static str,
        value: &mut T,
        usual: T,
        parse: impl Fn(&str) -> Result<T, String>,
        show: impl Fn(&T) -> String,
    ) {
        let written = (*value != usual).then(|| show(value));
        let read = &mut |text: &str| {
            *value = parse(text)?;
            Ok(())
        };
        self.option(NamedOption {
            name,
            takes: Takes::Value,
            required: false,
            written,
            read,
        });
    }

    /// A number that is usually this one.
    pub fn number<T>(&mut self, name: &'static str, value: &mut T, usual: T)
    where
        T: PartialEq + FromStr + Display,
    {
        let parse = number_of;
        self.usually(name, value, usual, parse, T::to_string);
    }

    /// Text as it is.
    pub fn text(&mut self, name: &'static str, value: &mut Option<String>) {
        self.parsed(name, value, |text| Ok(text.to_string()), String::clone);
    }

    /// The name of a file.
    pub fn file(&mut self, name: &'static str, value: &mut Option<PathBuf>) {
        let show = |path: &PathBuf| path.display().to_string();
        self.parsed(name, value, |text| Ok(text.into()), show);
    }

    /// One of a few words, or none.
    pub fn word<T: Words>(&mut self, name: &'static str, value: &mut Option<T>) {
        self.parsed(name, value, T::of_word, |value| value.word().into());
    }

    /// One of a few words, or none; this one is meant where none is said.
    pub fn word_or<T: Words>(
        &mut self,
        name: &'static str,
        value: &mut Option<T>,
        or: &'static str,
    ) {
        let show = |value: &T| value.word().into();
        self.optional((name, Takes::ValueOr(or)), value, T::of_word, show);
    }

    /// One of a few words, which must be given.
    pub fn required_word<T: Words>(&mut self, name: &'static str, value: &mut T) {
        let written = Some(value.word().to_string());
        let read = &mut |text: &str| {
            *value = T::of_word(text)?;
            Ok(())
        };
        self.option(NamedOption {
            name,
            takes: Takes::Value,
            required: true,
            written,
            read,
        });
    }

    /// One of a few words; written where it isn't the usual one.
    pub fn usual_word<T: Words>(&mut self, name: &'static str, value: &mut T, usual: T) {
        self.usually(name, value, usual, T::of_word, |value| value.word().into());
    }

    /// A list with a sign between its values; written where it isn't empty.
    pub fn list<T>(
        &mut self,
        name: &'static str,
        values: &mut Vec<T>,
        sign: char,
        parse: impl Fn(&str) -> Result<T, String>,
        show: impl Fn(&T) -> String,
    ) {
        let words: Vec<String> = values.iter().map(show).collect();
        let written = (!words.is_empty()).then(|| words.join(sign.encode_utf8(&mut [0; 4])));
        let read = &mut |text: &str| {
            *values = text.split(sign).map(&parse).collect::<Result<_, _>>()?;
            Ok(())
        };
        self.option(NamedOption {
            name,
            takes: Takes::Values(sign),
            required: false,
            written,
            read,
        });
    }

    /// A list with commas between values that can be read and written.
    pub fn values<T>(&mut self, name: &'static str, values: &mut Vec<T>)
    where
        T: FromStr<Err: Display> + Display,
    {
        let parse = |text: &str| text.parse().map_err(|error: T::Err| error.to_string());
        self.list(name, values, ',', parse, T::to_string);
    }
}

fn number_of<T: FromStr>(text: &str) -> Result<T, String> {
    let number = text.trim().parse();
    number.map_err(|_| format!("'{text}' is not a number that it takes"))
}

/// Writes options as on the command line.
struct Writer(Vec<String>);

impl Visitor for Writer {
    fn option(&mut self, option: NamedOption<'_>) {
        let name = option.name;
        self.0
            .extend(option.written.map(|text| match text.as_str() {
                "" => format!("--{name}"),
                text => format!("--{name}={text}"),
            }));
    }
}

/// An option that an operation knows.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct KnownOption {
    /// Its name.
    pub name: &'static str,
    /// What it may be given.
    pub takes: Takes,
}

/// Lists the options that there are.
pub(super) struct Lister(pub Vec<KnownOption>);

impl Visitor for Lister {
    fn option(&mut self, option: NamedOption<'_>) {
        let (name, takes) = (option.name, option.takes);
        self.0.push(KnownOption { name, takes });
    }
}

/// Sets options from words.
pub(super) struct Setter<'a> {
    /// Names that no option has had so far, and their texts.
    given: Vec<(&'a str, Option<&'a str>)>,
    /// The first thing that was wrong.
    wrong: Option<InstructionError>,
}

impl<'a> Setter<'a> {
    /// Of words such as `--name` and `--name=value`; none may be there twice.
    pub fn of(words: &'a [String]) -> Result<Self, String> {
        let mut given: Vec<(&str, Option<&str>)> = Vec::new();
        for word in words {
            let option = word.strip_prefix("--");
            let option = option.ok_or_else(|| format!("'{word}' is no option"))?;
            let (name, text) = match option.split_once('=') {
                Some((name, text)) => (name, Some(text)),
                None => (option, None),
            };
            if given.iter().any(|(other, _)| *other == name) {
                return Err(format!("--{name} is there twice"));
            }
            given.push((name, text));
        }
        Ok(Self { given, wrong: None })
    }

    /// Makes sure that all was set.
    pub fn finish(self) -> Result<(), InstructionError> {
        match (self.wrong, self.given.first()) {
            (Some(wrong), _) => Err(wrong),
            (None, Some((name, _))) => Err(format!("--{name} is no option of it").into()),
            (None, None) => Ok(()),
        }
    }
}

impl Visitor for Setter<'_> {
    fn option(&mut self, option: NamedOption<'_>) {
        let name = option.name;
        let mut wrong = None;
        let given = self.given.iter().any(|(given, _)| *given == name);
        if option.required && !given {
            wrong = Some("needs a value".to_string());
        }
        self.given.retain(|&(given, text)| {
            if given != name {
                return true;
            }
            let read = match (option.takes, text) {
                (Takes::Nothing, None) => (option.read)(""),
                (Takes::Nothing, Some(_)) => Err("takes no value".to_string()),
                (Takes::ValueOr(or), None) => (option.read)(or),
                (_, Some(text)) => (option.read)(text),
                (_, None) => Err("needs a value".to_string()),
            };
            wrong = wrong.take().or(read.err());
            false
        });
        let wrong = wrong.map(|message| InstructionError {
            option: Some(name.into()),
            message,
        });
        self.wrong = self.wrong.take().or(wrong);
    }
}
