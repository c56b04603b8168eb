//! Why rims are left, and why surfaces are plainer than they were meant to be.

/// Why a rim was left open.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
#[non_exhaustive]
pub enum LeftBecause {
    /// It has fewer than three edges.
    #[error("it has fewer than three edges")]
    TooFewEdges,
    /// Its faces would double one that is there.
    #[error("it is the border of a single triangle, which would be doubled")]
    OneTriangle,
    /// A weld closes it.
    #[error("it is a seam, which a weld closes")]
    Seam,
    /// A stitch closes it.
    #[error("it is a seam of unequal edges, which mend stitches")]
    UnevenSeam,
    /// It is the rim of a part within another rim: whether that goes or is joined is to be decided.
    #[error("its part floats in another rim")]
    Floats,
    /// Its surface has one side only.
    #[error("its surface is one-sided, like a twisted band: there is no inside to close")]
    OneSided,
    /// The part of an island shows its back.
    #[error("an island in it faces the other way")]
    IslandFacesAway,
    /// All that was tried meets other faces.
    #[error("whatever closes it would meet other faces")]
    Crosses,
}

/// Why a surface is plainer than it was meant to be.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
#[non_exhaustive]
pub enum PlainerBecause {
    /// The finer one meets other faces.
    #[error("a finer one would meet other faces")]
    Crosses,
    /// No diagonal is free.
    #[error("every way across it is taken by an edge")]
    NoWayAcross,
    /// The system of a finer one has no solution.
    #[error("a finer one could not be solved")]
    Unsolved,
    /// A grid needs an even number.
    #[error("it has an odd number of edges, which no grid has")]
    OddEdges,
    /// More faces than are made.
    #[error("a grid would have too many faces")]
    TooManyFaces,
    /// An edge would get a third face.
    #[error("an edge of a grid is there already")]
    EdgeTaken,
}
