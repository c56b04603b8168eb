//! Points that are kept as what they were made of: where an edge meets a plane, and where three
//! planes meet. What they are is worked out in balls first, and exactly only where that leaves
//! a question open (Attene 2020, Indirect Predicates for Geometric Constructions).

use super::ball::Ball;
use super::residue::{Residue, parts};
use super::ring::{Ring, Triple, cross, dot, minus, plus, scaled};
use crate::parallel::chosen;
use dashu_int::IBig;
use glam::{DVec2, DVec3};
use std::cmp::Ordering;

/// A plane that an arrangement knows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Plane {
    /// That of a triangle.
    Of(u32),
    /// The one along an edge and an axis of the space.
    Upright { edge: [u32; 2], axis: u8 },
}

/// What a point was made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Made {
    /// A vertex of the input.
    Vertex(u32),
    /// Where the line along an edge meets a plane.
    OnEdge { edge: [u32; 2], plane: Plane },
    /// Where three planes meet.
    OfPlanes([Plane; 3]),
}

/// A point as exactly as whole numbers say it: `x / d`, in units of the space.
#[derive(Clone, Debug)]
pub(super) struct Exact {
    pub x: Triple<IBig>,
    /// Above zero.
    pub d: IBig,
}

/// A coordinate within a radius.
pub(super) type Near = Triple<Ball>;

/// The triangles of an arrangement.
pub(super) struct Inputs<'a> {
    pub positions: &'a [DVec3],
    /// No two on the same vertices, and none whose corners lie on one line.
    pub triangles: &'a [[u32; 3]],
    /// All coordinates are multiples of two to this power.
    unit: i32,
}

/// So much of its size a coordinate may be off before it is worked out exactly.
const LOOSE: f64 = 1e-14;

impl<'a> Inputs<'a> {
    pub fn new(positions: &'a [DVec3], triangles: &'a [[u32; 3]]) -> Self {
        let units = chosen(positions.len(), 1024, |i| finest(positions[i]));
        let unit = units.into_iter().min();
        Self {
            positions,
            triangles,
            unit: unit.unwrap_or(0),
        }
    }

    #[inline]
    pub fn position(&self, vertex: u32) -> DVec3 {
        self.positions[vertex as usize]
    }

    pub fn corners(&self, triangle: u32) -> [DVec3; 3] {
        self.triangles[triangle as usize].map(|v| self.position(v))
    }

    fn vertex<R: Ring>(&self, vertex: u32) -> Triple<R> {
        self.position(vertex)
            .to_array()
            .map(|x| R::of(x, self.unit))
    }

    /// A vertex on a plane, and the plane's normal.
    fn plane<R: Ring>(&self, plane: Plane) -> (u32, Triple<R>) {
        match plane {
            Plane::Of(triangle) => {
                let [a, b, c] = self.triangles[triangle as usize];
                let [p, q, r] = [a, b, c].map(|v| self.vertex::<R>(v));
                (a, cross(&minus(&q, &p), &minus(&r, &p)))
            }
            Plane::Upright { edge: [a, b], axis } => {
                let along = minus(&self.vertex::<R>(b), &self.vertex::<R>(a));
                let none = R::of(0.0, self.unit);
                let (i, j) = (usize::from(axis + 1) % 3, usize::from(axis + 2) % 3);
                let mut normal = [none.clone(), none.clone(), none.clone()];
                normal[i] = along[j].clone();
                normal[j] = none.minus(&along[i]);
                (a, normal)
            }
        }
    }

    /// The normal of a triangle.
    pub fn normal<R: Ring>(&self, triangle: u32) -> Triple<R> {
        self.plane(Plane::Of(triangle)).1
    }

    /// A vertex, and the way from there to a point: a vector, to be divided by a number.
    fn offset_from_vertex<R: Ring>(&self, made: &Made) -> (u32, Triple<R>, R) {
        match *made {
            Made::Vertex(_) => unreachable!("vertices are where they are"),
            Made::OnEdge {
                edge: [p, q],
                plane,
            } => {
                let from = self.vertex::<R>(p);
                let along = minus(&self.vertex::<R>(q), &from);
                let (on, normal) = self.plane::<R>(plane);
                let ahead = dot(&normal, &minus(&self.vertex::<R>(on), &from));
                (p, scaled(&along, &ahead), dot(&normal, &along))
            }
            Made::OfPlanes(planes) => {
                let [(from, k), (on_l, l), (on_m, m)] = planes.map(|plane| self.plane::<R>(plane));
                let origin = self.vertex::<R>(from);
                let ahead = |on: u32, normal: &Triple<R>| {
                    dot(normal, &minus(&self.vertex::<R>(on), &origin))
                };
                let lm = cross(&l, &m);
                let by_l = scaled(&cross(&m, &k), &ahead(on_l, &l));
                let by_m = scaled(&cross(&k, &l), &ahead(on_m, &m));
                (from, plus(&by_l, &by_m), dot(&k, &lm))
            }
        }
    }

    /// Where a point is, in double precision with its error.
    pub fn near(&self, made: &Made) -> Near {
        if let Made::Vertex(vertex) = *made {
            return self.vertex(vertex);
        }
        let (from, vector, by) = self.offset_from_vertex::<Ball>(made);
        let origin = self.vertex::<Ball>(from);
        let point = [0, 1, 2].map(|i| origin[i] + vector[i] / by);
        let size = point
            .iter()
            .fold(0.0f64, |most, x| most.max(x.middle.abs()));
        let point = match point.iter().all(|x| x.radius <= size * LOOSE) {
            true => point,
            false => self.rounded(&self.exact(made)),
        };
        // What is made in a plane across an axis lies in it to the last bit.
        [0, 1, 2].map(|axis| match self.common(made, axis) {
            Some(common) => Ball::of(common, self.unit),
            None => point[axis],
        })
    }

    /// The coordinate along an axis that all points have in common of an edge or a plane that a point is
    /// made of.
    fn common(&self, made: &Made, axis: usize) -> Option<f64> {
        let of_all = |corners: &[u32]| {
            let mut places = corners.iter().map(|&v| self.position(v)[axis]);
            let first = places.next()?;
            places.all(|place| place == first).then_some(first)
        };
        let of_plane = |plane: &Plane| match plane {
            Plane::Of(triangle) => of_all(&self.triangles[*triangle as usize]),
            Plane::Upright { axis: along, .. } if usize::from(*along) == axis => None,
            Plane::Upright { edge, .. } => of_all(edge),
        };
        match made {
            Made::Vertex(_) => None,
            Made::OnEdge { edge, plane } => of_all(edge).or_else(|| of_plane(plane)),
            Made::OfPlanes(planes) => planes.iter().find_map(of_plane),
        }
    }

    /// The doubles nearest to a point, or next to these.
    fn rounded(&self, exact: &Exact) -> Near {
        [0, 1, 2].map(|i| {
            let middle = quotient(&exact.x[i], &exact.d, self.unit);
            let radius = middle.abs() * 4.0 * f64::EPSILON + f64::MIN_POSITIVE;
            let is_nothing = exact.x[i] == IBig::ZERO;
            Ball {
                middle,
                radius: if is_nothing { 0.0 } else { radius },
            }
        })
    }

    /// Where a point is, exactly.
    pub fn exact(&self, made: &Made) -> Exact {
        if let Made::Vertex(vertex) = *made {
            return Exact {
                x: self.vertex(vertex),
                d: IBig::ONE,
            };
        }
        let (from, vector, by) = self.offset_from_vertex::<IBig>(made);
        let x = plus(&scaled(&self.vertex::<IBig>(from), &by), &vector);
        match by < IBig::ZERO {
            true => Exact {
                x: x.map(|x| -x),
                d: -by,
            },
            false => Exact { x, d: by },
        }
    }

    /// A place, exactly.
    pub fn exact_place(&self, place: DVec3) -> Exact {
        let unit = finest(place).map_or(self.unit, |finest| finest.min(self.unit));
        Exact {
            x: place.to_array().map(|x| IBig::of(x, unit)),
            d: IBig::ONE << (self.unit - unit) as usize,
        }
    }

    /// The same inputs in units that a place is a multiple of, too.
    pub fn finer(&self, place: DVec2) -> Inputs<'a> {
        let unit = finest(place.extend(0.0)).map_or(self.unit, |finest| finest.min(self.unit));
        Inputs { unit, ..*self }
    }

    /// A coordinate in units of these inputs.
    pub fn coordinate<R: Ring>(&self, coordinate: f64) -> R {
        R::of(coordinate, self.unit)
    }

    /// The first corner of a triangle.
    pub fn corner<R: Ring>(&self, triangle: u32) -> Triple<R> {
        self.vertex(self.triangles[triangle as usize][0])
    }

    /// The residues of a point's coordinates.
    pub fn residues(&self, made: &Made) -> Triple<Residue> {
        if let Made::Vertex(vertex) = *made {
            return self.vertex(vertex);
        }
        let (from, vector, by) = self.offset_from_vertex::<Residue>(made);
        plus(&self.vertex(from), &scaled(&vector, &by.inverse()))
    }

    /// Whether two points are one.
    pub fn are_equal(&self, a: &Made, b: &Made) -> bool {
        let (a, b) = (self.exact(a), self.exact(b));
        (0..3).all(|i| &a.x[i] * &b.d == &b.x[i] * &a.d)
    }
}

/// The highest power of two that all coordinates are multiples of; of the origin, any.
fn finest(place: DVec3) -> Option<i32> {
    let each = place.to_array().into_iter().filter(|&x| x != 0.0);
    each.map(|x| parts(x).1).min()
}

/// A quotient, times two to a power, to within two roundings.
fn quotient(over: &IBig, under: &IBig, unit: i32) -> f64 {
    if *over == IBig::ZERO {
        return 0.0;
    }
    let bits = |n: &IBig| {
        use dashu_int::ops::BitTest;
        n.bit_len() as i64
    };
    // This many more digits that the whole part holds more than a double does.
    let more = (bits(under) - bits(over) + 66).max(0);
    let whole = (over << more as usize) / under;
    let (value, power) = (whole.to_f64().value(), i64::from(unit) - more);
    // In two steps: the power alone may lie beyond what doubles hold.
    let half = (power / 2) as i32;
    value * 2f64.powi(half) * 2f64.powi((power - i64::from(half)) as i32)
}

/// The turn of three points, seen along an axis, exactly.
pub(super) fn exact_turn([a, b, c]: [&Exact; 3], [i, j]: [usize; 2]) -> Ordering {
    // The determinant of the rows (x, y, d), whose d are above zero.
    let minor = |p: &Exact, q: &Exact| &p.x[i] * &q.x[j] - &p.x[j] * &q.x[i];
    let sum = minor(b, c) * &a.d + minor(c, a) * &b.d + minor(a, b) * &c.d;
    sum.cmp(&IBig::ZERO)
}

/// The turn of three points in double precision.
#[inline]
pub(super) fn near_turn([a, b, c]: [&Near; 3], [i, j]: [usize; 2]) -> Option<Ordering> {
    let (u, v) = ([b[i] - a[i], b[j] - a[j]], [c[i] - a[i], c[j] - a[j]]);
    (u[0] * v[1] - u[1] * v[0]).sign()
}
