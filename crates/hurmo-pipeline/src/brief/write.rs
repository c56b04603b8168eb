//! Writing a brief as TOML, with comments that make it a starting point.

use hurmo_core::audit::{Brief, CHECKS};
use std::fmt::Write;

/// The whole brief as text; reads back as the same. One long list: its lines stand in the order of
/// the file.
pub fn to_toml(brief: &Brief) -> String {
    let mut text = String::new();
    let mut line = |words: &str| {
        text.push_str(words);
        text.push('\n');
    };
    line("# A brief: what a handoff asks for. Use it with --for THIS-FILE.toml.");
    line("# What is left out is as in the brief that it extends.");
    line("");
    line(&format!("name = {:?}", brief.name));
    line("# extends = \"print\"   # or sculpt, engine, general");
    line("");
    line("# block: must not go on like that. warn: may cause trouble. note: worth knowing.");
    line("# off: not looked for.");
    line("[levels]");
    for check in CHECKS {
        line(&format!("# {}", check.counts));
        line(&format!(
            "{} = \"{}\"",
            check.name,
            brief.level(check.name).name()
        ));
    }
    line("");
    line("[thresholds]");
    let at = &brief.thresholds;
    line("# how many times its height a sliver's longest edge is");
    line(&format!("sliver-ratio = {}", at.sliver_ratio));
    line("# how many times larger a neighbour's area may be");
    line(&format!("area-step = {}", at.area_step));
    line("# how far a face may lean over, in degrees from the build direction");
    line(&format!("overhang-angle = {}", at.overhang_angle));
    line(
        "# the thinnest wall; lengths: 0.02 (model units), 0.8mm, 1.5cm, 1m, 1in, 0.5% (of the diagonal)",
    );
    line(&optional("wall", at.wall, "0.8mm"));
    line("# vertices nearer than this are duplicates; equal ones only where it isn't stated");
    line(&optional("near", at.near, "0.01mm"));
    line("# how many times more pixels of texture along a length a face may have than most");
    line(&format!("texel-step = {}", at.texel_step));
    line("");
    line("[limits]");
    let limits = &brief.limits;
    line(&optional("triangles", limits.triangles, "50000"));
    line(&optional("parts", limits.parts, "1"));
    line(&optional("materials", limits.materials, "4"));
    line("# longest side of the bounds");
    line(&optional("size", limits.size, "200mm"));
    line("# within what it usually is: beyond, the unit is most likely wrong");
    line(&match limits.usual_size {
        Some([from, to]) => format!("usual-size = [\"{from}\", \"{to}\"]"),
        None => "# usual-size = [\"1cm\", \"2m\"]".into(),
    });
    line("# pixels along a side of a texture");
    line(&optional("texture", limits.texture, "4096"));
    line("");
    line("[handoff]");
    let handoff = &brief.handoff;
    line(&optional("unit", handoff.unit, "mm"));
    line("# which axis points up; also the direction of building");
    line(&optional("up", handoff.up.map(|axis| axis.name()), "z"));
    line(&optional("format", handoff.format.as_ref(), "stl"));
    line("# triangles, or any");
    let faces = if handoff.triangles {
        "triangles"
    } else {
        "any"
    };
    line(&format!("faces = {faces:?}"));
    line("");
    line("[mend]");
    let list = |key: &str, checks: &[String]| format!("{key} = {checks:?}");
    line("# what `hurmo mend --for` and `hurmo prep` clear beyond what is safe");
    line(&list("clear", &brief.mending.clear));
    line("# what they leave");
    line(&list("keep", &brief.mending.keep));
    line("");
    line("# The steps of `hurmo prep`, each with the options of the command of that name. Without");
    line(
        "# any, the usual ones. A step that makes more of what blocks ends the job, unless may-break",
    );
    line("# names the checks, or is true.");
    line("# [[step]]");
    line("# do = \"mend\"");
    line("# may-break = [\"open-edges\"]");
    line("# [[step]]");
    line("# do = \"fill\"");
    line("# [[step]]");
    line("# do = \"decimate\"");
    line("# to = \"20k\"");
    text
}

/// A key with its value, or, without one, a comment with an example.
fn optional<T: ToString>(key: &str, value: Option<T>, example: &str) -> String {
    let mut line = String::new();
    let value = match value {
        Some(value) => value.to_string(),
        None => {
            line.push_str("# ");
            example.to_string()
        }
    };
    let _ = match value.parse::<f64>() {
        Ok(_) => write!(line, "{key} = {value}"),
        Err(_) => write!(line, "{key} = {value:?}"),
    };
    line
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::brief::from_toml;

    #[test]
    fn what_is_written_reads_back_as_the_same_brief() {
        for name in ["general", "sculpt", "engine", "print"] {
            let brief = Brief::named(name).unwrap();
            assert_eq!(from_toml(&to_toml(&brief), "?").unwrap().0, brief, "{name}");
        }
        let mut full = Brief::print();
        full.limits.triangles = Some(50_000);
        full.limits.size = "20%".parse().ok();
        full.thresholds.near = "0.01".parse().ok();
        full.handoff.format = Some("stl".into());
        full.mending.clear = vec!["sliver-faces".into(), "interior-faces".into()];
        full.mending.keep = vec!["open-edges".into()];
        assert_eq!(from_toml(&to_toml(&full), "?").unwrap().0, full);
    }

    #[test]
    fn every_error_names_its_line_and_the_nearest_word() {
        let said = |text: &str| from_toml(text, "x").unwrap_err();
        assert_eq!(
            said("extends = \"print\"\n[levels]\nopen-edge = \"warn\"\n"),
            "line 3: 'open-edge' is no check; did you mean 'open-edges'?"
        );
        assert!(
            said("\n[level]\n")
                .starts_with("line 2: 'level' is no key of a brief; did you mean 'levels'")
        );
        assert!(said("[levels]\nngons = \"bad\"\n").contains("line 2: 'bad' is no level"));
        assert!(said("[limits]\ntriangles = -4\n").contains("line 2: a whole number"));
        assert!(said("[thresholds]\nwall = \"2ft\"\n").contains("line 2: '2ft' is no length"));
        assert!(said("[thresholds]\nslivers = 2\n").contains("'sliver-ratio'"));
        assert!(said("[mend]\nclear = [\"sliver-face\"]\n").contains("mean 'sliver-faces'"));
        assert!(said("[mend]\nkeep = true\n").contains("line 2: a list of checks"));
        assert!(said("[handoff]\nup = \"w\"\n").contains("x, y or z"));
        assert!(said("extends = \"prnt\"\n").contains("line 1: 'prnt' can't be extended"));
        assert!(said("a = \n").starts_with("line 1: "));
    }

    #[test]
    fn a_file_changes_what_it_says_and_no_more() {
        let text = "extends = \"print\"\n[levels]\nngons = \"block\"\n[limits]\nsize = \"200mm\"\n";
        let (brief, _) = from_toml(text, "harbour").unwrap();
        let mut expected = Brief::print();
        expected.name = "harbour".into();
        expected.set_level("ngons", hurmo_core::audit::Level::Block);
        expected.limits.size = "200mm".parse().ok();
        assert_eq!(brief, expected);
    }
}
