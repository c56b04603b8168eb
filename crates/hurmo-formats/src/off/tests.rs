use super::*;
use crate::{Remarks, Spot, WriteOptions};
use glam::DVec3;
use hurmo_core::Model;

fn model(text: &str) -> (Model, Remarks) {
    let mut remarks = Remarks::default();
    let model = read(text.as_bytes(), &mut remarks).unwrap();
    (model, remarks)
}

#[test]
fn counts_beside_the_word_comments_and_line_numbers() {
    let text = "# a mooring post\r\nOFF 4 2 0 # counts\r\n\r\n0 0 0\r\n1 0 0\r\n# between\r\n\
                1 1 0\r\n0 1 0\r\n4 0 1 2 3\r\n3 0 1 2 255 0 0\r\nand more\r\n";
    let (model, remarks) = model(text);
    assert_eq!(model.mesh.vertex_count(), 4);
    assert_eq!(model.mesh.faces().map(|(_, f)| f.len()).sum::<usize>(), 7);
    let lines = remarks.lines.unwrap();
    assert_eq!(lines.vertices, [4, 5, 7, 8]);
    assert_eq!(lines.faces, [9, 10]);
    assert_eq!(remarks.notes.len(), 2);
    assert!(remarks.notes[0].starts_with("1 faces with colours"));
}

#[test]
fn colours_are_shares_or_up_to_255() {
    let red = [1.0, 0.0, 0.0, 1.0];
    let dim = [0.2, 0.4, 0.6, 0.8];
    for (text, normals) in [
        ("COFF\n2 0 0\n0 0 0 1 0 0\n1 2 3 0.2 0.4 0.6 0.8\n", false),
        ("COFF\n2 0 0\n0 0 0 255 0 0\n1 2 3 51 102 153 204\n", false),
        (
            "CNOFF\n2 0 0\n0 0 0 0 0 1 255 0 0\n1 2 3 0 0 1 51 102 153 204\n",
            true,
        ),
    ] {
        let (model, remarks) = model(text);
        assert_eq!(model.attributes.colors.as_ref().unwrap(), &[red, dim]);
        assert_eq!(model.mesh.positions()[1], DVec3::new(1.0, 2.0, 3.0));
        assert_eq!(remarks.notes.len(), usize::from(normals));
    }
}

#[test]
fn what_is_written_is_read_back() {
    let (mut model, _) = model("4 2 0\n0 0 0\n1 0 0.1\n1 1 0\n0 1 -2e-7\n4 0 1 2 3\n2 3 0\n");
    let colors = [[0.0, 51.0, 255.0, 102.0]; 4];
    model.attributes.colors = Some(colors.map(|c| c.map(|x: f32| x / 255.0)).to_vec());
    let mut bytes = Vec::new();
    write(&model, WriteOptions::default(), &mut bytes).unwrap();
    assert!(looks_like(&bytes));
    assert_eq!(read(&bytes, &mut Remarks::default()).unwrap(), model);
}

#[test]
fn bad_files_are_told_by_line() {
    let line = |text: &str| read(text.as_bytes(), &mut Remarks::default()).unwrap_err();
    for (text, spot, words) in [
        ("", Spot::Whole, "empty"),
        ("OFF", Spot::Whole, "before its counts"),
        ("OFF\n0", Spot::Line(2), "faces is missing"),
        ("OFF\n0 x 0", Spot::Line(2), "found 'x'"),
        ("OFF\n-3 1 0", Spot::Line(2), "found '-3'"),
        ("OFF\n4000000000 1 0\n", Spot::Line(2), "can't hold"),
        ("OFF\n1 4000000000 0\n0 0 0\n", Spot::Line(2), "can't hold"),
        ("OFF\n2 0 0\n0 0 0\n", Spot::Whole, "before vertex 1 of 2"),
        (
            "OFF\n1 1 0\n0 0 0\n# end\n",
            Spot::Whole,
            "before face 0 of 1",
        ),
        ("OFF\n1 0 0\n0 nan 0\n", Spot::Line(3), "'nan'"),
        ("OFF\n1 0 0\n0 1e200 0\n", Spot::Line(3), "1e200"),
        ("OFF\n1 0 0\n\n0 1\n", Spot::Line(4), "three coordinates"),
        ("COFF\n1 0 0\n0 1 0 1 1\n", Spot::Line(3), "three channels"),
        ("COFF\n1 0 0\n0 1 0 1 1 256\n", Spot::Line(3), "'256'"),
        ("OFF\n1 1 0\n0 0 0\n3 0 0\n", Spot::Line(4), "has only 2"),
        ("OFF\n1 1 0\n0 0 0\n3 0 0 1\n", Spot::Line(4), "only 1"),
        (
            "OFF\n1 1 0\n0 0 0\n99999999999999999999 0\n",
            Spot::Line(4),
            "corners",
        ),
        ("OFF BINARY\n", Spot::Line(1), "binary"),
        ("4OFF\n1 0 0\n0 0 0 1\n", Spot::Line(1), "dimensions"),
    ] {
        let error = line(text);
        assert!(
            error.spot == spot && error.message.contains(words),
            "{text:?}: {error}"
        );
    }
}
