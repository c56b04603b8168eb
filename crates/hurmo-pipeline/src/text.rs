//! How numbers, names and places look in a line of text.

/// Whether a character steers a terminal rather than being shown: a control character, or one that turns the
/// direction of text. The end of a line is none.
pub fn steers(c: char) -> bool {
    !matches!(c, '\n' | '\t') && (c.is_control() || hurmo_formats::turns_text(c))
}

/// A count with its thousands set apart: `1,234,567`.
pub fn count(n: usize) -> String {
    let digits = n.to_string();
    let mut shown = String::with_capacity(digits.len() + digits.len() / 3);
    for (i, digit) in digits.chars().enumerate() {
        if i > 0 && (digits.len() - i).is_multiple_of(3) {
            shown.push(',');
        }
        shown.push(digit);
    }
    shown
}

/// A count with its noun: `1 face`, `2 faces`.
pub fn counted(n: usize, noun: &str) -> String {
    let noun = match noun {
        _ if n == 1 => noun.to_string(),
        "vertex" => "vertices".into(),
        _ => format!("{noun}s"),
    };
    format!("{} {noun}", count(n))
}

/// A share of one as a percentage, to a tenth.
pub fn percent(share: f64) -> String {
    format!("{:.1}%", 100.0 * share)
}

/// A measure, to four significant digits.
pub fn measure(x: f64) -> String {
    if x == 0.0 || !x.is_finite() {
        return format!("{x}").replace("-0", "0");
    }
    let magnitude = x.abs().log10().floor() as i32;
    if !(-5..9).contains(&magnitude) {
        return format!("{x:.3e}");
    }
    let decimals = (3 - magnitude).max(0) as usize;
    let shown = format!("{x:.decimals$}");
    match shown.contains('.') {
        true => shown
            .trim_end_matches('0')
            .trim_end_matches('.')
            .to_string(),
        false => shown,
    }
}

/// A factor; one close to 1 with this many digits that it does not read as 1.
pub fn factor(factor: f64) -> String {
    let off = (factor - 1.0).abs();
    if off == 0.0 || off >= 1e-3 {
        return measure(factor);
    }
    let decimals = (1.0 - off.log10().floor()) as usize;
    format!("{factor:.decimals$}")
}

/// A length as a share of a model's diagonal.
pub fn of_diagonal(length: f64, diagonal: f64) -> String {
    format!("{:.3}% of the diagonal", 100.0 * length / diagonal)
}

/// A position; what is left of a coordinate by rounding alone is shown as 0.
pub fn position(p: glam::DVec3) -> String {
    let nothing = p.abs().max_element().max(1e-3) * 1e-10;
    let p = glam::DVec3::from_array(
        p.to_array()
            .map(|x| if x.abs() < nothing { 0.0 } else { x }),
    );
    format!("({}, {}, {})", measure(p.x), measure(p.y), measure(p.z))
}

/// A name that fits in a line.
pub fn short(name: &str) -> String {
    match name.char_indices().nth(24) {
        Some((end, _)) => format!("{}…", &name[..end]),
        None => name.to_string(),
    }
}

/// The end of a path that is too long for a table, which says more than its beginning.
pub fn tail(path: &str) -> String {
    const MOST: usize = 48;
    let count = path.chars().count();
    match count.checked_sub(MOST) {
        Some(over) if over > 0 => format!("…{}", path.chars().skip(over + 1).collect::<String>()),
        _ => path.to_string(),
    }
}

/// Words broken into lines of up to this many characters.
pub fn broken(text: &str, width: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in text.split_whitespace() {
        match lines.last_mut() {
            Some(line) if line.chars().count() + 1 + word.chars().count() <= width => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_string()),
        }
    }
    lines
}

/// A file size.
pub fn bytes(n: u64) -> String {
    match n {
        0..1_000 => format!("{n} B"),
        1_000..1_000_000 => format!("{:.1} kB", n as f64 / 1e3),
        1_000_000..1_000_000_000 => format!("{:.1} MB", n as f64 / 1e6),
        _ => format!("{:.1} GB", n as f64 / 1e9),
    }
}

/// What is listed, with commas between it.
pub fn joined(list: &[impl std::fmt::Display]) -> String {
    let words: Vec<String> = list.iter().map(ToString::to_string).collect();
    words.join(", ")
}

/// Cuts a long list, saying how much of it.
pub fn shorten(list: &mut Vec<String>, limit: usize) {
    if list.len() > limit + 1 {
        let more = list.len() - limit;
        list.truncate(limit);
        list.push(format!("and {} more", count(more)));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_read_well() {
        assert_eq!(count(0), "0");
        assert_eq!(count(1_234_567), "1,234,567");
        assert_eq!(counted(1, "vertex"), "1 vertex");
        assert_eq!(counted(1200, "vertex"), "1,200 vertices");
        assert_eq!(measure(0.0), "0");
        assert_eq!(measure(12.0), "12");
        assert_eq!(measure(1234.5678), "1235");
        assert_eq!(measure(-0.012345), "-0.01235");
        assert_eq!(measure(1e-9), "1.000e-9");
        assert_eq!(factor(101.234), "101.2");
        assert_eq!(factor(1.0), "1");
        assert_eq!(factor(1.0000217), "1.000022");
        assert_eq!(factor(1.0 - 4.6e-8), "0.999999954");
    }
}
