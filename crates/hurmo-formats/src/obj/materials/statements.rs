//! The words of a material file.

/// One line.
#[derive(Clone, Debug, PartialEq)]
pub struct Statement {
    /// The word that it begins with.
    pub word: String,
    /// All behind it.
    pub rest: String,
}

impl Statement {
    /// The numbers that follow the word.
    pub fn numbers(&self) -> Vec<f32> {
        let words = self.rest.split_whitespace();
        words
            .map_while(|word| word.parse::<f32>().ok().filter(|number| number.is_finite()))
            .collect()
    }
}

/// The materials of a file, by name, with what is said of each.
pub fn materials_in(text: &str) -> Vec<(String, Vec<Statement>)> {
    let mut materials: Vec<(String, Vec<Statement>)> = Vec::new();
    for line in text.lines() {
        let line = line.split('#').next().unwrap_or("").trim();
        let (word, rest) = line.split_once(char::is_whitespace).unwrap_or((line, ""));
        let rest = rest.trim().to_string();
        if word.eq_ignore_ascii_case("newmtl") {
            materials.push((rest, Vec::new()));
        } else if let (Some((_, statements)), false) = (materials.last_mut(), word.is_empty()) {
            statements.push(Statement {
                word: word.to_string(),
                rest,
            });
        }
    }
    materials
}

/// An option before a texture's name.
pub struct TextureOption<'t> {
    name: &'t str,
    values: Vec<f64>,
}

impl TextureOption<'_> {
    /// Whether it makes the texture lie elsewhere.
    pub fn moves(&self) -> bool {
        match self.name {
            "-o" | "-t" => self.values.iter().any(|&value| value != 0.0),
            "-s" => self.values.iter().any(|&value| value != 1.0),
            _ => false,
        }
    }
}

/// The options that a texture's name comes after, and the name, which may have spaces in it.
pub fn name_and_options(text: &str) -> (Vec<TextureOption<'_>>, &str) {
    let mut options = Vec::new();
    let mut rest = text.trim_start();
    while let Some(word) = rest.split_whitespace().next() {
        // How many values it takes, at least and at most.
        let (least, most) = match word {
            "-o" | "-s" | "-t" => (1, 3),
            "-mm" => (2, 2),
            "-blendu" | "-blendv" | "-cc" | "-clamp" | "-texres" | "-imfchan" | "-boost"
            | "-bm" | "-type" => (1, 1),
            _ => break,
        };
        let name = word;
        rest = rest[word.len()..].trim_start();
        let mut values = Vec::new();
        for count in 0..most {
            let Some(word) = rest.split_whitespace().next() else {
                break;
            };
            let value = word.parse::<f64>();
            if count >= least && value.is_err() {
                break;
            }
            values.extend(value);
            rest = rest[word.len()..].trim_start();
        }
        options.push(TextureOption { name, values });
    }
    (options, rest.trim_end())
}
