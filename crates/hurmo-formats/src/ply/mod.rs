//! PLY: a text header that lists elements and their properties, then the elements as text or
//! binary of either byte order.

mod header;
mod read;
mod values;
mod write;

pub(crate) use read::read;
pub(crate) use write::write;

pub(crate) fn looks_like(bytes: &[u8]) -> bool {
    bytes.starts_with(b"ply\n") || bytes.starts_with(b"ply\r") || bytes.starts_with(b"ply ")
}
