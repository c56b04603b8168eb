//! Every command has a page in `docs/commands`, which names its options and no others; the README lists it.

use crate::common::Bench;
use std::collections::{BTreeMap, BTreeSet};

const README: &str = include_str!("../../../../README.md");
const CHECKS: &str = include_str!("../../../../docs/checks.md");

fn page(name: &str) -> String {
    let docs = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/commands");
    std::fs::read_to_string(format!("{docs}/{name}.md")).unwrap_or_else(|e| panic!("{name}: {e}"))
}

fn help(bench: &Bench, command: &str) -> String {
    let help = bench.hurmo(&format!("{command} --help")).code(0);
    String::from_utf8(help.get_output().stdout.clone()).unwrap()
}

/// Long options in a text, without what is part of a longer word.
fn options(text: &str) -> BTreeSet<String> {
    let is_part = |c: char| c.is_ascii_lowercase() || c == '-';
    let found = text.match_indices("--").filter(|(at, _)| {
        let before = text[..*at].chars().next_back();
        before.is_none_or(|c| !is_part(c) && !c.is_alphanumeric())
    });
    let names = found.map(|(at, _)| text[at + 2..].chars().take_while(|&c| is_part(c)).collect());
    names
        .filter(|name: &String| name.starts_with(|c: char| c.is_ascii_lowercase()))
        .collect()
}

#[test]
fn pages_name_only_options_that_there_are() {
    let bench = Bench::new();
    let commands = help(&bench, "");
    let commands = commands
        .lines()
        .skip_while(|line| !line.starts_with("Commands:"))
        .skip(1)
        .take_while(|line| line.starts_with("  "))
        // What a description goes on with stands farther in.
        .filter(|line| !line.starts_with("   "))
        .filter_map(|line| line.split_whitespace().next())
        .filter(|name| *name != "help");
    let mut known = BTreeMap::new();
    let mut pages = Vec::new();
    for command in commands {
        known.insert(command.to_string(), options(&help(&bench, command)));
        assert!(README.contains(&format!("`{command}")), "README: {command}");
        // What is explained together has one page.
        let page_of = match command {
            "brief" | "schema" => "checks",
            command => command,
        };
        pages.push((page_of, page(page_of)));
    }
    assert!(pages.len() > 15);
    let mut any: BTreeSet<String> = known.values().flatten().cloned().collect();
    // Of other programs: `cargo run --release`.
    any.extend(["release", "workspace"].map(String::from));
    for (name, text) in pages
        .iter()
        .map(|(name, text)| (*name, text.as_str()))
        .chain([("README", README), ("checks.md", CHECKS)])
    {
        let unknown: Vec<String> = options(text).difference(&any).cloned().collect();
        assert!(unknown.is_empty(), "{name}: {unknown:?}");
        // A line that can be typed has options of its own command.
        for line in text.split(['\n', '`']) {
            let Some((_, call)) = line.split_once("hurmo ") else {
                continue;
            };
            let command = call.split_whitespace().next().unwrap_or_default();
            if let Some(own) = known.get(command) {
                let others: Vec<String> = options(call).difference(own).cloned().collect();
                assert!(others.is_empty(), "{name}: {line}: {others:?}");
            }
        }
    }
}

#[test]
fn options_are_found_in_text() {
    let found = options("`--at-most 0.2mm`, a|--b; no---way -- and x--y");
    assert_eq!(found.into_iter().collect::<Vec<_>>(), ["at-most", "b"]);
}
