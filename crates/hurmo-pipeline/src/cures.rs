//! What clears the findings of each check, in the program's commands.

/// What clears the findings of a check, as a sentence with the commands to call. `None` of a name that is no
/// check's.
pub fn cure_of(check: &str) -> Option<&'static str> {
    CURES
        .iter()
        .find(|(name, _)| *name == check)
        .map(|(_, cure)| *cure)
}

const CURES: &[(&str, &str)] = &[
    (
        "absolute-texture-paths",
        "`hurmo convert --textures copy`, which puts the file beside the model, if it is there",
    ),
    (
        "bad-normals",
        "`hurmo convert --normals smooth=40`; `hurmo mend --clear reversed-faces` where it is the faces that are wrong",
    ),
    ("concave-faces", "`hurmo mend --clear concave-faces`"),
    (
        "crossing-parts",
        "`hurmo mend --also crossing-parts`, where they are closed: they become one",
    ),
    ("duplicate-names", "`hurmo convert --unique-names`"),
    ("duplicate-vertices", "`hurmo mend` welds them"),
    ("empty-objects", "`hurmo convert --drop-empty`"),
    (
        "floating-parts",
        "`hurmo mend --clear floating-parts`, which lists what it drops",
    ),
    (
        "interior-faces",
        "`hurmo mend --clear interior-faces`, or a new skin",
    ),
    (
        "intersecting-faces",
        "`hurmo mend --also intersecting-faces`: closed parts become the boundary of what they fill",
    ),
    (
        "lamina-faces",
        "`hurmo mend` keeps the one that its neighbours need, or none of a pair that closes nothing in",
    ),
    ("mirror-plane-faces", "deleting them before mirroring"),
    (
        "mirrored-uvs",
        "turning the islands over in the program that made it, unless it is meant",
    ),
    (
        "mirroring-transforms",
        "`hurmo convert --flatten-transforms`",
    ),
    ("misoriented-edges", "`hurmo mend` turns the fewest faces"),
    ("missing-normals", "`hurmo convert --normals smooth=40`"),
    (
        "missing-textures",
        "putting the file beside the model, or packing it in (GLB)",
    ),
    (
        "missing-uvs",
        "UVs from the program that made it; `hurmo convert --uvs new` lays out new ones, `hurmo bake` with a texture",
    ),
    (
        "nested-parts",
        "`hurmo mend --clear nested-parts`, or turning it inward where a hollow was meant",
    ),
    (
        "ngons",
        "`hurmo mend --clear ngons` (quads where they come out well), or --triangulate",
    ),
    (
        "no-thickness",
        "thickness given in the program that made it, or a closed shape",
    ),
    ("node-transforms", "`hurmo convert --flatten-transforms`"),
    ("non-planar-faces", "`hurmo mend --clear non-planar-faces`"),
    (
        "nonmanifold-edges",
        "`hurmo mend` takes sheets apart where sides pair off, `--also nonmanifold-edges` elsewhere, too",
    ),
    (
        "nonmanifold-uvs",
        "taking the faces apart: `hurmo mend --clear nonmanifold-edges`",
    ),
    ("off-origin", "`hurmo convert --origin base` or `centre`"),
    (
        "open-edges",
        "`hurmo fill`; `hurmo mend` where the rim is a seam, or a vertex lies on another face's edge",
    ),
    ("overhangs", "another direction of building, or supports"),
    (
        "overlapping-uvs",
        "packing the islands apart, unless it is meant: mirrored halves, repeated boards",
    ),
    ("oversized-textures", "`hurmo convert --texture-limit 2048`"),
    (
        "pinched-vertices",
        "`hurmo mend --clear pinched-vertices` gives each sheet its own vertex",
    ),
    ("reversed-faces", "`hurmo mend` turns them"),
    (
        "sliver-faces",
        "`hurmo mend --clear sliver-faces`, or `hurmo remesh`",
    ),
    (
        "stray-edges",
        "`hurmo mend --clear stray-edges` drops line elements",
    ),
    ("stray-vertices", "`hurmo mend` drops them"),
    (
        "suspicious-size",
        "`--unit` states it, `hurmo convert --real-size` makes it as large as it is",
    ),
    ("thin-walls", "thickness given in the program that made it"),
    ("too-large", "`hurmo convert --scale`, or the right unit"),
    (
        "too-many-materials",
        "joining materials in the program that made them",
    ),
    ("too-many-parts", "dropping or joining parts"),
    ("too-many-triangles", "`hurmo decimate`"),
    ("uneven-density", "`hurmo remesh`"),
    (
        "uneven-texel-density",
        "scaling the islands to one density in the program that made it",
    ),
    ("unsafe-names", "`hurmo convert --safe-names`"),
    ("unsafe-texture-names", "`hurmo convert --safe-names`"),
    ("unusable-vertices", "`hurmo mend` drops the faces on them"),
    (
        "unused-materials",
        "deleting them in the program that made it",
    ),
    (
        "unwanted-animation",
        "deleting them in the program that made it, unless they are meant",
    ),
    (
        "uvs-outside-tile",
        "moving the islands into the tile, unless the texture is made to repeat",
    ),
    (
        "wrong-unit",
        "`--unit` states it, `hurmo convert --to-unit` changes it",
    ),
    (
        "wrong-up-axis",
        "`--up` states it, `hurmo convert --to-up` turns it",
    ),
    (
        "zero-area-faces",
        "`hurmo mend` collapses or flips them away",
    ),
    (
        "zero-area-uvs",
        "unfolding these faces in the program that made it",
    ),
    ("zero-length-edges", "`hurmo mend` welds the two ends"),
];

#[cfg(test)]
mod tests {
    use super::*;
    use hurmo_core::audit::{CHECKS, Remedy};

    #[test]
    fn every_check_has_a_cure_of_its_kind() {
        assert_eq!(CURES.len(), CHECKS.len());
        for check in CHECKS {
            let cure = cure_of(check.name).expect(check.name);
            let says = match check.remedy {
                Remedy::Mend | Remedy::MendByName => "`hurmo mend",
                Remedy::Fill => "`hurmo fill`",
                Remedy::Decimate => "`hurmo decimate`",
                Remedy::Remesh => "`hurmo remesh`",
                Remedy::Convert => "`hurmo convert",
                _ => "",
            };
            assert!(cure.contains(says), "{}: {cure}", check.name);
        }
        assert_eq!(cure_of("tar"), None);
    }
}
