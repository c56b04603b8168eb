//! Where words go, and how numbers look.

use anstyle::{AnsiColor, Style};
use std::borrow::Cow;
use std::io::{IsTerminal, Write};
use std::sync::OnceLock;

/// Why results could not be printed, the first time that happened.
static UNPRINTED: OnceLock<String> = OnceLock::new();

/// Prints results; what goes wrong is kept for [`all_printed`].
pub fn print(text: &str) {
    let text = shown(text, own_styles());
    let mut stdout = std::io::stdout().lock();
    let printed = stdout.write_all(text.as_bytes());
    note_unprinted(printed.and_then(|()| stdout.flush()));
}

/// Keeps why results could not be printed. A reader that went away (`hurmo … | head`) is no error.
pub fn note_unprinted(printed: std::io::Result<()>) {
    if let Err(error) = printed
        && error.kind() != std::io::ErrorKind::BrokenPipe
    {
        let _ = UNPRINTED.set(error.to_string());
    }
}

/// Makes sure that all results were printed.
///
/// # Errors
/// Why they were not.
pub fn all_printed() -> anyhow::Result<()> {
    match UNPRINTED.get() {
        Some(why) => anyhow::bail!("standard output: {why}"),
        None => Ok(()),
    }
}

/// Says something beside the results.
pub fn note(text: &str) {
    let _ = writeln!(
        std::io::stderr().lock(),
        "hurmo: {}",
        shown(text, own_styles())
    );
}

/// Says why nothing was done.
pub fn error(error: &anyhow::Error) {
    note(&format!("error: {error:#}"));
}

/// Whether a character steers a terminal rather than being shown: a control character, or one that turns the
/// direction of text. The end of a line is none.
pub fn steers(c: char) -> bool {
    !matches!(c, '\n' | '\t') && (c.is_control() || hurmo_formats::turns_text(c))
}

/// Text in which nothing but these styles steers the terminal: names from files may try to.
fn shown<'t>(text: &'t str, styles: &[&str]) -> Cow<'t, str> {
    if !text.contains(steers) {
        return text.into();
    }
    let mut safe = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        let style = styles.iter().find(|style| rest.starts_with(**style));
        let length = match style {
            Some(style) => style.len(),
            None => c.len_utf8(),
        };
        match style.is_none() && steers(c) {
            true => safe.extend(c.escape_unicode()),
            false => safe.push_str(&rest[..length]),
        }
        rest = &rest[length..];
    }
    safe.into()
}

/// What results are styled with, and what ends it; nothing where they are not.
fn own_styles() -> &'static [&'static str] {
    if colors() { &OWN_STYLES } else { &[] }
}

const OWN_STYLES: [&str; 7] = [
    "\u{1b}[0m",
    "\u{1b}[1m",
    "\u{1b}[2m",
    "\u{1b}[31m",
    "\u{1b}[33m",
    "\u{1b}[36m",
    "\u{1b}[m",
];

/// Whether results may be coloured.
pub fn colors() -> bool {
    static COLORS: OnceLock<bool> = OnceLock::new();
    *COLORS.get_or_init(|| {
        std::io::stdout().is_terminal() && std::env::var_os("NO_COLOR").is_none_or(|v| v.is_empty())
    })
}

fn styled(style: Style, text: &str) -> String {
    match colors() {
        true => format!("{style}{text}{style:#}"),
        false => text.to_string(),
    }
}

/// Names and headings.
pub fn bold(text: &str) -> String {
    styled(Style::new().bold(), text)
}

/// What is less important.
pub fn faint(text: &str) -> String {
    styled(Style::new().dimmed(), text)
}

/// What blocks.
pub fn bad(text: &str) -> String {
    styled(
        Style::new().bold().fg_color(Some(AnsiColor::Red.into())),
        text,
    )
}

/// What may cause trouble.
pub fn doubtful(text: &str) -> String {
    styled(Style::new().fg_color(Some(AnsiColor::Yellow.into())), text)
}

/// What is as it should be.
pub fn good(text: &str) -> String {
    styled(Style::new().fg_color(Some(AnsiColor::Cyan.into())), text)
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

/// The end of a path that is too long for a table, which tells more than its beginning.
pub fn tail(path: &str) -> String {
    const MOST: usize = 48;
    let count = path.chars().count();
    match count.checked_sub(MOST) {
        Some(over) if over > 0 => format!("…{}", path.chars().skip(over + 1).collect::<String>()),
        _ => path.to_string(),
    }
}

/// Words broken into lines of up to so many characters.
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

/// Words broken into lines that fit a terminal, set in.
pub fn wrapped(text: &str) -> String {
    let lines = broken(text, 96);
    let set_in = |(i, line): (usize, &String)| match i {
        0 => format!("  {line}\n"),
        _ => format!("    {line}\n"),
    };
    lines.iter().enumerate().map(set_in).collect()
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_do_not_steer_the_terminal() {
        assert_eq!(shown("plain\n", &[]), "plain\n");
        let hostile = "\u{1b}[31mtar\u{1b}[0m \u{1b}]0;quay\u{7} gnp\u{202e}.exe \u{9b}2J\r";
        let expected =
            "\u{1b}[31mtar\u{1b}[0m \\u{1b}]0;quay\\u{7} gnp\\u{202e}.exe \\u{9b}2J\\u{d}";
        assert_eq!(shown(hostile, &OWN_STYLES), expected);
        assert!(!shown(hostile, &[]).contains(steers));
    }

    #[test]
    fn own_styles_are_known() {
        let styles = [
            Style::new().bold(),
            Style::new().dimmed(),
            Style::new().bold().fg_color(Some(AnsiColor::Red.into())),
            Style::new().fg_color(Some(AnsiColor::Yellow.into())),
            Style::new().fg_color(Some(AnsiColor::Cyan.into())),
        ];
        for style in styles {
            let text = format!("{style}quay{style:#}");
            assert_eq!(shown(&text, &OWN_STYLES), text);
        }
    }

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
    }
}
