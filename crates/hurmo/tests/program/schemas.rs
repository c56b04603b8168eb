//! The JSON documents fit their schemas, which are kept beside the docs.

use crate::common::{Bench, CUBE, PROP};
use serde_json::Value;

#[test]
fn documents_fit_the_schemas_that_are_kept() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench.file("prop.obj", PROP);
    bench.file(
        "steps.toml",
        "[[step]]\ndo = \"mend\"\n[[step]]\ndo = \"fill\"\n",
    );
    let compare = include_str!("../../../../docs/compare.schema.json");
    let cut = include_str!("../../../../docs/cut.schema.json");
    let ladder = include_str!("../../../../docs/ladder.schema.json");
    let prep = include_str!("../../../../docs/prep.schema.json");
    let job = include_str!("../../../../docs/job.schema.json");
    let rims = include_str!("../../../../docs/rims.schema.json");
    let parts = include_str!("../../../../docs/parts.schema.json");
    let convert = include_str!("../../../../docs/convert.schema.json");
    for (name, kept, lines, wrong) in [
        (
            "job",
            job,
            [
                "mend prop.obj -o mended.obj",
                "boolean cube.obj cube.obj -o both.obj --as union --move 0.5,0,0",
            ],
            "/before/mesh/faces",
        ),
        (
            "reskin",
            job,
            [
                "reskin cube.obj -o skin.obj --cell 0.1",
                "decimate mended.obj -o low.obj --to 50%",
            ],
            "/after/mesh/area",
        ),
        (
            "rims",
            rims,
            ["fill prop.obj", "fill low.obj"],
            "/rims/0/edges",
        ),
        (
            "parts",
            parts,
            ["parts prop.obj", "parts cube.obj"],
            "/parts/0/faces",
        ),
        (
            "convert",
            convert,
            [
                "convert cube.obj -o cube.stl",
                "convert prop.obj -o prop.glb --normals flat --uvs new",
            ],
            "/factor",
        ),
        (
            "compare",
            compare,
            [
                "compare cube.obj prop.obj",
                "compare prop.obj cube.obj --at-most 9",
            ],
            "/comparison/from_before/rms",
        ),
        (
            "cut",
            cut,
            [
                "cut cube.obj -o halves --plane x=0.5",
                "cut cube.obj -o pieces --bed 0.6x0.6x2",
            ],
            "/pieces/0/faces",
        ),
        (
            "ladder",
            ladder,
            [
                "ladder cube.obj -o one --to 8",
                "ladder prop.obj -o two --to 50% --lod --pick 9",
            ],
            "/rungs/0/triangles",
        ),
        (
            "prep",
            prep,
            [
                "prep prop.obj -o out.obj --for print",
                "prep cube.obj --for steps.toml --dry-run",
            ],
            "/steps/0/seconds",
        ),
    ] {
        let schema = bench
            .hurmo(&format!("schema {name}"))
            .code(0)
            .get_output()
            .stdout
            .clone();
        let said = String::from_utf8(schema).unwrap();
        assert!(said == kept, "docs/{name}.schema.json is made anew");
        let (mut schemas, mut compiler) = (boon::Schemas::new(), boon::Compiler::new());
        let schema: Value = serde_json::from_str(kept).unwrap();
        compiler.add_resource("it.json", schema).unwrap();
        let kept = compiler.compile("it.json", &mut schemas).unwrap();
        for line in lines {
            let mut document = bench.json(line);
            let verdict = schemas.validate(&document, kept);
            assert!(verdict.is_ok(), "{line}: {verdict:?}");
            let place = document.pointer_mut(wrong);
            *place.unwrap_or_else(|| panic!("{line} has {wrong}")) = "many".into();
            assert!(
                schemas.validate(&document, kept).is_err(),
                "{line}: {wrong}"
            );
        }
    }
}
