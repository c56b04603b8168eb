//! Names from files: none with control characters, which would end lines and statements of other files, or
//! steer the terminal that they are shown in.

use hurmo_core::Model;
use hurmo_core::scene::ImageData;
use std::sync::Arc;

/// Puts the picture of each control character in its place, in all names of a model; returns how many
/// names had any. Names that differ still do.
pub(crate) fn without_controls(model: &mut Model) -> usize {
    let attributes = &mut model.attributes;
    let mut changed = 0;
    let mut see = |name: &mut String| {
        if name.chars().any(char::is_control) {
            *name = name.chars().map(shown).collect();
            changed += 1;
        }
    };
    for tag in &mut attributes.tags.table {
        let names = [
            &mut tag.object,
            &mut tag.group,
            &mut tag.material,
            &mut tag.smoothing,
        ];
        names.into_iter().flatten().for_each(&mut see);
    }
    attributes.material_libraries.iter_mut().for_each(&mut see);
    let Some(scene) = &mut attributes.scene else {
        return changed;
    };
    let scene = Arc::make_mut(scene);
    scene
        .nodes
        .iter_mut()
        .filter_map(|node| node.name.as_mut())
        .for_each(&mut see);
    scene
        .materials
        .iter_mut()
        .for_each(|material| see(&mut material.name));
    scene.animations.iter_mut().for_each(&mut see);
    for image in &mut scene.images {
        image.name.iter_mut().for_each(&mut see);
        if let ImageData::File { name, .. } = &mut image.data {
            see(name);
        }
    }
    changed
}

/// Whether a character changes the direction in which text is shown (Unicode Standard Annex 9), so that names
/// seem to be others.
pub fn turns_text(c: char) -> bool {
    matches!(c, '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

/// What stands for a character: of control characters those pictures that Unicode has, from U+2400 on.
fn shown(c: char) -> char {
    match u32::from(c) {
        code @ 0..0x20 => char::from_u32(0x2400 + code).unwrap_or(char::REPLACEMENT_CHARACTER),
        0x7f => '\u{2421}',
        _ if c.is_control() => char::REPLACEMENT_CHARACTER,
        _ => c,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use hurmo_core::mesh::Tag;

    #[test]
    fn a_name_stays_on_its_line() {
        let mut model = Model::default();
        let tag = |group: &str| Tag {
            group: Some(group.into()),
            ..Tag::default()
        };
        model.attributes.tags.table = vec![
            tag("quay\nf 1 2 3"),
            tag("\u{1b}[31mtar\u{9b}"),
            tag("mole"),
        ];
        assert_eq!(without_controls(&mut model), 2);
        let group = |i: usize| model.attributes.tags.table[i].group.clone().unwrap();
        assert_eq!(group(0), "quay␊f 1 2 3");
        assert_eq!(group(1), "␛[31mtar\u{fffd}");
        assert_eq!(group(2), "mole");
    }
}
