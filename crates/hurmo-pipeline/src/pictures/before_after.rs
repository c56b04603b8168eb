//! Two models side by side, and how far one lies from the other in colours.

use super::Subject;
use crate::record::AuditDocument;
use crate::text::{self, count, counted, measure};
use crate::verdict::verdict_words;
use hurmo_core::audit::{self, AuditOptions, Brief};
use hurmo_core::progress::{Cancelled, Observer};
use hurmo_core::units::Axis;
use hurmo_core::{Mesh, Model, compare};
use hurmo_view::{Beside, Picture, Scene, Show, View, color, side_by_side};

/// How many steps the scale of distances has.
const STEPS: usize = 5;
/// What part of all corners is nearly all of them.
const NEARLY_ALL: f64 = 0.99;

/// The finer of two surfaces in colours of its distance from the other.
pub struct DeviationMap<'m> {
    /// The surface.
    pub scene: Scene<'m>,
    /// What the colours mean.
    pub scale: Vec<(color::Color, String)>,
    /// Whether it is the first surface; else it is the second.
    pub of_first: bool,
    /// How far its farthest corner lies off.
    pub farthest: f64,
    /// How far 99% of its corners lie off at most.
    pub nearly_all: f64,
}

impl<'m> DeviationMap<'m> {
    /// Measures; the colours end at `most`, or where nearly all of it lies nearer.
    pub fn new(one: &'m Mesh, two: &'m Mesh, most: impl Fn(bool) -> Option<f64>) -> Self {
        let of_first = one.vertex_count() >= two.vertex_count();
        let (fine, coarse) = if of_first { (one, two) } else { (two, one) };
        let off = compare::distances(fine, coarse);
        let (nearly_all, farthest) = (quantile(&off, NEARLY_ALL), quantile(&off, 1.0));
        let ends = most(of_first).unwrap_or(nearly_all);
        // Where all of those lie nearly as far as the farthest, the scale may as well take it in.
        let ends = if farthest < 2.0 * ends {
            farthest.max(ends)
        } else {
            ends
        };
        let most = ends.max(f64::MIN_POSITIVE);
        let scene = Scene::colored(fine, |face| {
            let corners = fine.face(face);
            let sum: f64 = corners.iter().map(|v| off[v.index()]).sum();
            color::of_deviation((sum / corners.len().max(1) as f64 / most) as f32)
        });
        let scale = (0..STEPS).map(|step| {
            let share = step as f64 / (STEPS - 1) as f64;
            let beyond = step + 1 == STEPS && farthest > most;
            let more = if beyond { "+" } else { "" };
            let words = format!("{}{more}", measure(most * share));
            (color::of_deviation(share as f32), words)
        });
        Self {
            scene,
            scale: scale.collect(),
            of_first,
            farthest,
            nearly_all,
        }
    }
}

/// What part `share` of the values are at most; 0 of none.
fn quantile(values: &[f64], share: f64) -> f64 {
    // Vertices in no face lie nowhere.
    let finite = values.iter().copied().filter(|value| value.is_finite());
    let mut values: Vec<f64> = finite.collect();
    let Some(last) = values.len().checked_sub(1) else {
        return 0.0;
    };
    let at = (last as f64 * share).round() as usize;
    *values.select_nth_unstable_by(at, f64::total_cmp).1
}

/// A model as it was, or as it is.
pub struct Side<'a> {
    /// Its name.
    pub name: String,
    /// The model.
    pub model: &'a Model,
    /// Its audit.
    pub document: &'a AuditDocument,
}

/// A model before and after a job, its faults marked, with how far it moved.
///
/// # Errors
/// When the observer says to stop.
pub fn before_and_after(
    before: &Side<'_>,
    after: &Side<'_>,
    brief: &Brief,
    observer: &dyn Observer,
) -> Result<Picture, Cancelled> {
    let mut options = AuditOptions::default();
    options.brief = brief.clone();
    options.places = usize::MAX;
    let up = brief.handoff.up.or(before.model.up).unwrap_or(Axis::Z);
    let audits = [
        audit::audit(before.model, &options, observer)?,
        audit::audit(after.model, &options, observer)?,
    ];
    let subjects = [(before, &audits[0]), (after, &audits[1])].map(|(side, audit)| Subject {
        name: side.name.clone(),
        model: side.model,
        looks: Vec::new(),
        audit,
        document: side.document,
        brief: &brief.name,
        up,
        whole: true,
    });
    let [one, two] = subjects
        .each_ref()
        .map(|subject| subject.scene(Show::Faults));
    let map = DeviationMap::new(&before.model.mesh, &after.model.mesh, |_| None);
    let [farthest, nearly_all] = [map.farthest, map.nearly_all].map(measure);
    let heading = match map.of_first {
        true => "how far before lies from after",
        false => "how far after lies from before",
    };
    let scenes = [
        Beside {
            scene: &one,
            heading: format!("before: {}", before.name),
            scale: Vec::new(),
            close_up: None,
        },
        Beside {
            scene: &two,
            heading: format!("after: {}", after.name),
            scale: Vec::new(),
            close_up: None,
        },
        Beside {
            scene: &map.scene,
            heading: heading.into(),
            scale: map.scale,
            close_up: None,
        },
    ];
    let mut lines = side_in_words("before", before, brief);
    lines.push(String::new());
    lines.extend(side_in_words("after", after, brief));
    lines.push(String::new());
    lines.push(format!(
        "the farthest corner lies {farthest} off, 99% of them up to {nearly_all};"
    ));
    lines.push("a mean over each face:".into());
    Ok(side_by_side(
        &scenes,
        &lines,
        View::THREE_QUARTER.with_up(up),
        [1280, 800],
    ))
}

fn side_in_words(when: &str, side: &Side<'_>, brief: &Brief) -> Vec<String> {
    let mesh = &side.document.mesh;
    let (verdict, why) = verdict_words(side.document, &brief.name);
    let mut lines = vec![format!(
        "{when}: {}, {}, {}",
        counted(mesh.faces, "face"),
        counted(mesh.parts, "part"),
        counted(mesh.rims, "rim")
    )];
    let mut blocking: Vec<_> = side.document.blocking().collect();
    blocking.sort_by_key(|finding| std::cmp::Reverse(finding.count));
    let mut named: Vec<String> = blocking
        .iter()
        .map(|finding| format!("{} {}", count(finding.count), finding.check))
        .collect();
    crate::text::shorten(&mut named, 5);
    match named.is_empty() {
        true => lines.push(format!("{verdict}: {why}")),
        false => lines.extend(text::broken(
            &format!("{verdict}: {}", named.join(", ")),
            76,
        )),
    }
    lines
}
