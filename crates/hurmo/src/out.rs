//! Where words go, and how numbers look.

pub use hurmo_pipeline::text::*;

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

/// Words broken into lines that fit a terminal, set in.
pub fn wrapped(text: &str) -> String {
    let lines = broken(text, 96);
    let set_in = |(i, line): (usize, &String)| match i {
        0 => format!("  {line}\n"),
        _ => format!("    {line}\n"),
    };
    lines.iter().enumerate().map(set_in).collect()
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
}
