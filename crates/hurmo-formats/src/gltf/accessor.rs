//! Numbers out of accessors: any component type, normalised or not, sparse or not, with nothing
//! believed of counts and offsets.

use super::Document;
use super::buffers::Buffers;
use crate::ReadError;
use gltf_json::Index;
use gltf_json::accessor::{Accessor, ComponentType, Type, sparse::Sparse};
use gltf_json::buffer::View;
use gltf_json::validation::Checked;

/// The most bytes that an element has: sixteen numbers of four.
pub const LARGEST: usize = 64;

/// A document, and the bytes that it speaks of.
pub struct Data<'a> {
    /// The document.
    pub document: &'a Document,
    /// Its buffers.
    pub buffers: &'a Buffers<'a>,
}

/// Numbers in bytes, one element after another.
struct Elements<'a> {
    bytes: &'a [u8],
    stride: usize,
    kind: ComponentType,
    /// Whether integers stand for shares.
    is_normalized: bool,
}

impl Data<'_> {
    /// How many elements an accessor has.
    pub fn count(&self, accessor: Index<Accessor>) -> Result<usize, ReadError> {
        let found = self.accessor(accessor)?;
        let (count, most) = (found.count.0, self.buffers.len() as u64);
        if count > most {
            let why = format!("{count} elements are more than all buffers have bytes");
            return Err(self.document.error(&name(accessor), &why));
        }
        Ok(count as usize)
    }

    /// Vectors of this many components.
    pub fn vectors<const N: usize>(
        &self,
        accessor: Index<Accessor>,
    ) -> Result<Vec<[f32; N]>, ReadError> {
        let found = self.accessor(accessor)?;
        self.expect(accessor, components(found) == Some(N), || {
            format!("it should have {N} components an element")
        })?;
        self.elements(accessor, N, |elements, at| {
            let mut vector = [0.0; N];
            for (i, component) in vector.iter_mut().enumerate() {
                *component = elements.float(at, i);
            }
            vector
        })
    }

    /// Three or four components, the fourth 1 where it is missing.
    pub fn colors(&self, accessor: Index<Accessor>) -> Result<Vec<[f32; 4]>, ReadError> {
        if components(self.accessor(accessor)?) == Some(3) {
            let opaque = |[r, g, b]: [f32; 3]| [r, g, b, 1.0];
            return Ok(self
                .vectors::<3>(accessor)?
                .into_iter()
                .map(opaque)
                .collect());
        }
        self.vectors::<4>(accessor)
    }

    /// Whole numbers.
    pub fn indices(&self, accessor: Index<Accessor>) -> Result<Vec<u32>, ReadError> {
        let found = self.accessor(accessor)?;
        let is_whole = !matches!(kind(found), Some(ComponentType::F32) | None);
        let is_scalar = components(found) == Some(1);
        self.expect(accessor, is_whole && is_scalar, || {
            "it should have one whole number an element".into()
        })?;
        self.elements(accessor, 1, |elements, at| elements.whole(at))
    }

    /// The bytes of all elements, one after another.
    pub fn bytes(&self, accessor: Index<Accessor>) -> Result<Vec<u8>, ReadError> {
        let found = self.accessor(accessor)?;
        let (Some(components), Some(kind)) = (all_components(found), kind(found)) else {
            return Err(self.document.error(&name(accessor), "it has no type"));
        };
        let whole = self.elements(accessor, components, |elements, at| {
            let from = at * elements.stride;
            let mut element = [0; LARGEST];
            let size = components * kind.size();
            element[..size].copy_from_slice(&elements.bytes[from..from + size]);
            element
        })?;
        let size = components * kind.size();
        Ok(whole
            .iter()
            .flat_map(|element| &element[..size])
            .copied()
            .collect())
    }

    fn elements<T: Copy>(
        &self,
        accessor: Index<Accessor>,
        components: usize,
        element: impl Fn(&Elements<'_>, usize) -> T,
    ) -> Result<Vec<T>, ReadError> {
        let found = self.accessor(accessor)?;
        let kind = kind(found);
        let kind = kind.ok_or_else(|| self.document.error(&name(accessor), "it has no type"))?;
        let count = self.count(accessor)?;
        let is_normalized = found.normalized;
        let offset = found.byte_offset.unwrap_or_default().0;
        let read = |view, offset, count, kind, components| {
            let elements = self.within(view, offset, count, kind, components);
            let elements = elements.map_err(|why| match why {
                Trouble::Read(error) => error,
                Trouble::Short => self
                    .document
                    .error(&name(accessor), "it reaches beyond its buffer view"),
            })?;
            Ok(Elements {
                is_normalized,
                ..elements
            })
        };
        let mut values = match found.buffer_view {
            Some(view) => {
                let elements = read(view, offset, count, kind, components)?;
                (0..count).map(|at| element(&elements, at)).collect()
            }
            None => {
                let nothing = Elements {
                    bytes: &[0; LARGEST],
                    stride: 0,
                    kind,
                    is_normalized,
                };
                vec![element(&nothing, 0); count]
            }
        };
        if let Some(Sparse {
            count: changed,
            indices,
            values: new,
            ..
        }) = &found.sparse
        {
            let changed = changed.0 as usize;
            let Checked::Valid(index_kind) = indices.component_type else {
                return Err(self
                    .document
                    .error(&name(accessor), "its sparse indices have no type"));
            };
            let at = read(
                indices.buffer_view,
                indices.byte_offset.0,
                changed,
                index_kind.0,
                1,
            )?;
            let new = read(
                new.buffer_view,
                new.byte_offset.0,
                changed,
                kind,
                components,
            )?;
            for i in 0..changed {
                let value = values.get_mut(at.whole(i) as usize);
                let value = value.ok_or_else(|| {
                    self.document
                        .error(&name(accessor), "a sparse index is past the end")
                })?;
                *value = element(&new, i);
            }
        }
        Ok(values)
    }

    /// Elements in a view.
    fn within(
        &self,
        view: Index<View>,
        offset: u64,
        count: usize,
        kind: ComponentType,
        components: usize,
    ) -> Result<Elements<'_>, Trouble> {
        let bytes = self
            .buffers
            .view(self.document, view)
            .map_err(Trouble::Read)?;
        let about = &self.document.root.buffer_views[view.value()];
        let size = components * kind.size();
        let stride = about.byte_stride.map_or(size, |stride| stride.0);
        let length = match count {
            0 => Some(0),
            count => (count - 1)
                .checked_mul(stride)
                .and_then(|l| l.checked_add(size)),
        };
        let bytes = usize::try_from(offset)
            .ok()
            .and_then(|offset| bytes.get(offset..));
        let bytes = bytes.and_then(|bytes| bytes.get(..length?));
        Ok(Elements {
            bytes: bytes.ok_or(Trouble::Short)?,
            stride,
            kind,
            is_normalized: false,
        })
    }

    fn accessor(&self, accessor: Index<Accessor>) -> Result<&Accessor, ReadError> {
        let found = self.document.root.accessors.get(accessor.value());
        found.ok_or_else(|| self.document.error(&name(accessor), "there is none"))
    }

    fn expect(
        &self,
        accessor: Index<Accessor>,
        holds: bool,
        why: impl Fn() -> String,
    ) -> Result<(), ReadError> {
        match holds {
            true => Ok(()),
            false => Err(self.document.error(&name(accessor), &why())),
        }
    }
}

/// Why there are no elements.
enum Trouble {
    Read(ReadError),
    Short,
}

impl Elements<'_> {
    fn bytes_at<const N: usize>(&self, element: usize, component: usize) -> [u8; N] {
        let from = element * self.stride + component * N;
        self.bytes[from..from + N]
            .try_into()
            .expect("as many as asked for")
    }

    #[inline]
    fn float(&self, element: usize, component: usize) -> f32 {
        let (value, one) = match self.kind {
            ComponentType::F32 => return f32::from_le_bytes(self.bytes_at(element, component)),
            ComponentType::I8 => (
                f32::from(i8::from_le_bytes(self.bytes_at(element, component))),
                127.0,
            ),
            ComponentType::U8 => (
                f32::from(u8::from_le_bytes(self.bytes_at(element, component))),
                255.0,
            ),
            ComponentType::I16 => (
                f32::from(i16::from_le_bytes(self.bytes_at(element, component))),
                32767.0,
            ),
            ComponentType::U16 => (
                f32::from(u16::from_le_bytes(self.bytes_at(element, component))),
                65535.0,
            ),
            ComponentType::U32 => (
                u32::from_le_bytes(self.bytes_at(element, component)) as f32,
                u32::MAX as f32,
            ),
        };
        match self.is_normalized {
            true => (value / one).max(-1.0),
            false => value,
        }
    }

    #[inline]
    fn whole(&self, element: usize) -> u32 {
        match self.kind {
            ComponentType::U8 | ComponentType::I8 => u32::from(self.bytes_at::<1>(element, 0)[0]),
            ComponentType::U16 | ComponentType::I16 => {
                u32::from(u16::from_le_bytes(self.bytes_at(element, 0)))
            }
            ComponentType::U32 | ComponentType::F32 => {
                u32::from_le_bytes(self.bytes_at(element, 0))
            }
        }
    }
}

fn name(accessor: Index<Accessor>) -> String {
    format!("accessors[{}]", accessor.value())
}

fn kind(accessor: &Accessor) -> Option<ComponentType> {
    match accessor.component_type {
        Checked::Valid(kind) => Some(kind.0),
        Checked::Invalid => None,
    }
}

fn all_components(accessor: &Accessor) -> Option<usize> {
    match accessor.type_ {
        Checked::Valid(Type::Mat2) => Some(4),
        Checked::Valid(Type::Mat3) => Some(9),
        Checked::Valid(Type::Mat4) => Some(16),
        _ => components(accessor),
    }
}

/// How many components a scalar or vector has.
fn components(accessor: &Accessor) -> Option<usize> {
    match accessor.type_ {
        Checked::Valid(Type::Scalar) => Some(1),
        Checked::Valid(Type::Vec2) => Some(2),
        Checked::Valid(Type::Vec3) => Some(3),
        Checked::Valid(Type::Vec4) => Some(4),
        _ => None,
    }
}
