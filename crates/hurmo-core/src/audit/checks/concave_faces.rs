//! Concave faces: polygons with a reflex corner.

use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, Measure, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::measure::vector_area;
use crate::mesh::FaceId;
use crate::triangulate::polygon;
use glam::DVec3;

pub(super) const CHECK: Check = Check {
    name: "concave-faces",
    counts: "polygons of four or more sides with a corner that turns inward",
    harm: "another program may cut them across the outside: the face folds over itself",
    remedy: Remedy::MendByName,
    drawing: r"
    *-----------*
     \    o    /     the corner o
      \  / \  /      points inward
       \/   \/
       *     *",
    levels: Levels::new(Note, Warn, Warn, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let bad = analysis.mesh.faces().filter(|(face, corners)| {
        corners.len() >= 4 && !analysis.has_no_area(*face) && is_concave(analysis, *face)
    });
    let bad: Vec<FaceId> = bad.map(|(face, _)| face).collect();
    let crossing = bad.iter().filter(|&&face| crosses_itself(analysis, face));
    let crossing = crossing.count();
    let mut found = Found::faces(analysis, search.limit, bad.into_iter());
    found.measure = (crossing > 0).then_some(Measure {
        what: "of them cross themselves: no cut into triangles covers them once",
        value: crossing as f64,
    });
    Ok(found)
}

/// Whether a polygon can't be cut into triangles that all look its way: it crosses itself.
fn crosses_itself(analysis: &MeshAnalysis<'_>, face: FaceId) -> bool {
    let points: Vec<DVec3> = analysis.mesh.face_points(face).collect();
    let whole = vector_area(analysis.mesh, face);
    let size = whole.length();
    let looks = |triangle: [u32; 3]| {
        let [a, b, c] = triangle.map(|i| points[i as usize]);
        (b - a).cross(c - a).dot(whole)
    };
    let triangles = polygon(&points).into_iter();
    let back: f64 = triangles.map(looks).map(|area| -area.min(0.0)).sum();
    back > 1e-6 * size * size
}

/// Whether a corner turns against the polygon, by more than rounding could.
pub(crate) fn is_concave(analysis: &MeshAnalysis<'_>, face: FaceId) -> bool {
    let normal = vector_area(analysis.mesh, face).normalize_or_zero();
    let points: Vec<DVec3> = analysis.mesh.face_points(face).collect();
    let count = points.len();
    (0..count).any(|i| {
        let (before, here, after) = (points[i], points[(i + 1) % count], points[(i + 2) % count]);
        let (a, b) = (here - before, after - here);
        a.cross(b).dot(normal) < -1e-6 * a.length() * b.length()
    })
}

#[cfg(test)]
mod tests {
    use crate::audit::{AuditOptions, audit};
    use crate::mesh::{Mesh, Model, VertexId};
    use glam::DVec3;

    #[test]
    fn a_polygon_that_crosses_itself_is_told_from_one_that_only_bends_inward() {
        let crossing = |corners: [[f64; 2]; 4]| {
            let points = corners.map(|[x, y]| DVec3::new(x, y, 0.0)).to_vec();
            let mut mesh = Mesh::from_parts(points, vec![], vec![0]).unwrap();
            mesh.push_face((0..4).map(VertexId::new));
            let audit = audit(&Model::from(mesh), &AuditOptions::default(), &()).unwrap();
            let mut findings = audit.findings.iter();
            let finding = findings
                .find(|finding| finding.check == "concave-faces")
                .unwrap();
            assert_eq!(finding.count(), 1);
            finding.found.measure.map(|measure| measure.value)
        };
        let dart = [[0.0, 0.0], [2.0, -1.0], [1.0, 0.0], [2.0, 1.0]];
        let bow = [[0.0, 0.0], [2.0, 0.0], [0.3, 1.0], [2.0, 1.0]];
        assert_eq!(crossing(dart), None);
        assert_eq!(crossing(bow), Some(1.0));
    }
}
