//! Typed handles: a vertex can't be mistaken for a face.

use std::fmt;

macro_rules! handle {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
        #[repr(transparent)]
        pub struct $name(pub u32);

        impl $name {
            /// The handle of the element at `index` (which fits in 32 bits).
            #[inline]
            pub fn new(index: usize) -> Self {
                debug_assert!(index <= u32::MAX as usize);
                Self(index as u32)
            }

            /// The element's place in its array, counted from 0.
            #[inline]
            pub fn index(self) -> usize {
                self.0 as usize
            }
        }

        impl fmt::Debug for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                write!(f, concat!(stringify!($name), "({})"), self.0)
            }
        }
    };
}

handle!(
    /// A vertex of a mesh.
    VertexId
);
handle!(
    /// A face of a mesh.
    FaceId
);
handle!(
    /// An edge of a table of edges.
    EdgeId
);
handle!(
    /// A part (connected component), numbered by falling face count.
    PartId
);
handle!(
    /// A rim (closed chain of open edges), numbered by falling length.
    RimId
);

/// Parts and rims are spoken of by name, counted from 1: `P1`, `R1`.
macro_rules! named {
    ($name:ident, $letter:literal) => {
        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                write!(f, concat!($letter, "{}"), self.0 as u64 + 1)
            }
        }

        #[cfg(feature = "serde")]
        impl serde::Serialize for $name {
            fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
                serializer.collect_str(self)
            }
        }
    };
}

named!(PartId, "P");
named!(RimId, "R");
