//! Model files: bytes to [`Model`] and back. One folder a format, one table ([`FORMATS`]) that
//! lists them.
//!
//! Reading maps the file into memory and checks every count against the bytes that are there
//! before anything is allocated. Writing goes to a file beside the target, which is renamed
//! into place when it is complete.

mod beside;
mod companions;
mod error;
mod file;
mod gltf;
mod images;
mod layers;
mod looks;
mod losses;
mod names;
mod obj;
mod objects;
mod off;
pub mod plain;
mod ply;
mod source;
mod stl;
mod text;
mod textures;
mod threemf;
pub mod unfinished;
mod unusable;

pub use error::{ReadError, Spot, WriteError};
pub use file::{Loaded, WriteReport, check_instances, read, read_bytes, write};
pub use images::{png, texture};
pub use layers::{Layer, LayerError, layers_to_glb};
pub use looks::{Looks, forget_looks, looks};
pub use losses::losses;
pub use names::turns_text;
pub use source::{Source, SourceLines};
pub use textures::Textures;

use hurmo_core::Model;
use hurmo_core::units::{Axis, Unit};
use std::io::Write;
use std::path::Path;

/// A file format.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// Text: polygons, groups, UVs, normals.
    Obj,
    /// Triangles without shared vertices.
    Stl,
    /// Polygons with free properties.
    Ply,
    /// Text: vertices, their colours, polygons.
    Off,
    /// Scenes of triangles with materials, binary or text.
    Gltf,
    /// Objects to be built, in a package.
    ThreeMf,
}

/// What a format can keep.
#[derive(Clone, Copy, Debug)]
pub struct Holds {
    /// Faces of more than three corners.
    pub polygons: bool,
    /// Texture coordinates by corner.
    pub uvs: bool,
    /// Several sets of them.
    pub uv_sets: bool,
    /// Normals by corner.
    pub normals: bool,
    /// Vertex colours.
    pub colors: bool,
    /// Objects, groups, materials, smoothing groups.
    pub tags: bool,
    /// Line elements.
    pub lines: bool,
    /// Vertices shared between faces, and vertices in no face.
    pub shared_vertices: bool,
    /// Objects that hang on others, and instances.
    pub scenes: bool,
    /// Textures inside its own file.
    pub textures_within: bool,
    /// Coordinates in double precision.
    pub doubles: bool,
}

/// One format's entry in the table.
pub struct Entry {
    /// The format.
    pub format: Format,
    /// Its name.
    pub name: &'static str,
    /// File name endings, without the dot.
    pub extensions: &'static [&'static str],
    /// The one of them that asks for text where the others ask for binary.
    pub text_extension: Option<&'static str>,
    /// What it can keep.
    pub holds: Holds,
    /// The number that people give its first vertex and face.
    pub first_number: u32,
    /// How many bytes a triangle takes with its half of a vertex: the fewest, and the most.
    pub bytes_a_triangle: [u64; 2],
    /// What one unit of length is in it, where the format says so.
    pub unit: Option<Unit>,
    /// What it says where that is not known.
    pub unit_else: Option<Unit>,
    /// Which axis points up in it, where the format says so.
    pub up: Option<Axis>,
    /// Whether these bytes look like it.
    looks_like: fn(&[u8]) -> bool,
    read: fn(&[u8], &mut Remarks) -> Result<Model, ReadError>,
    write: fn(&Model, &mut Target<'_>) -> std::io::Result<()>,
}

/// What there is to say of a file beside its model.
#[derive(Clone, Debug, Default)]
pub(crate) struct Remarks {
    /// The folder that the file lies in, if it is a file: others that it names may be there.
    pub folder: Option<std::path::PathBuf>,
    /// What a person should know.
    pub notes: Vec<String>,
    /// Where everything stands, in a format of lines.
    pub lines: Option<SourceLines>,
}

impl Remarks {
    /// Where a texture is that the file names. One that can't be read is a remark; it is no reason not to
    /// read on.
    pub fn found(&mut self, name: &str) -> Option<std::path::PathBuf> {
        let folder = self
            .folder
            .as_deref()
            .ok_or("the model has no folder here".to_string());
        let found = folder.and_then(|folder| beside::below(folder, name));
        let found = found.and_then(|path| match path.is_file() {
            true => Ok(path),
            false => Err("there is no such file".into()),
        });
        let why = |why: &String| self.notes.push(format!("the texture {name}: {why}"));
        found.inspect_err(why).ok()
    }
}

/// How to write.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct WriteOptions {
    /// Text rather than binary, where the format has both.
    pub ascii: bool,
    /// Whether files that go with the model may take the place of others.
    pub may_overwrite: bool,
    /// What becomes of textures.
    pub textures: Textures,
    /// Whether files of textures get names that every program takes.
    pub safe_names: bool,
    /// Textures of which a side has more pixels than this are made smaller, if they are not linked.
    pub texture_limit: Option<u32>,
}

/// Where a model is written.
pub(crate) struct Target<'a> {
    options: WriteOptions,
    out: &'a mut dyn Write,
    /// The files that go with it.
    companions: &'a mut companions::Companions,
}

/// All formats. The order is that of recognition by content: the surest first.
pub const FORMATS: &[Entry] = &[
    Entry {
        format: Format::ThreeMf,
        name: "3MF",
        extensions: &["3mf"],
        text_extension: None,
        holds: Holds {
            polygons: false,
            uvs: false,
            uv_sets: false,
            normals: false,
            colors: false,
            tags: true,
            lines: false,
            shared_vertices: true,
            scenes: true,
            textures_within: false,
            doubles: true,
        },
        first_number: 0,
        bytes_a_triangle: [8, 100],
        unit: None,
        unit_else: Some(Unit::Mm),
        up: Some(Axis::Z),
        looks_like: threemf::looks_like,
        read: threemf::read,
        write: |model, to| threemf::write(model, to.options, to.out),
    },
    Entry {
        format: Format::Gltf,
        name: "glTF",
        extensions: &["glb", "gltf"],
        text_extension: Some("gltf"),
        holds: Holds {
            polygons: false,
            uvs: true,
            uv_sets: true,
            normals: true,
            colors: true,
            tags: true,
            lines: true,
            shared_vertices: false,
            scenes: true,
            textures_within: true,
            doubles: false,
        },
        first_number: 0,
        bytes_a_triangle: [12, 80],
        unit: Some(Unit::M),
        unit_else: Some(Unit::M),
        up: Some(Axis::Y),
        looks_like: gltf::looks_like,
        read: gltf::read,
        write: gltf::write,
    },
    Entry {
        format: Format::Ply,
        name: "PLY",
        extensions: &["ply"],
        text_extension: None,
        holds: Holds {
            polygons: true,
            uvs: false,
            uv_sets: false,
            normals: false,
            colors: true,
            tags: false,
            lines: true,
            shared_vertices: true,
            scenes: false,
            textures_within: false,
            doubles: true,
        },
        first_number: 0,
        bytes_a_triangle: [19, 60],
        unit: None,
        unit_else: None,
        up: None,
        looks_like: ply::looks_like,
        read: |bytes, remarks| ply::read(bytes, &mut remarks.notes),
        write: |model, to| ply::write(model, to.options, to.out),
    },
    Entry {
        format: Format::Stl,
        name: "STL",
        extensions: &["stl"],
        text_extension: None,
        holds: Holds {
            polygons: false,
            uvs: false,
            uv_sets: false,
            normals: false,
            colors: false,
            tags: false,
            lines: false,
            shared_vertices: false,
            scenes: false,
            textures_within: false,
            doubles: false,
        },
        first_number: 0,
        bytes_a_triangle: [50, 50],
        unit: None,
        unit_else: None,
        up: None,
        looks_like: stl::looks_like,
        read: |bytes, remarks| stl::read(bytes, &mut remarks.notes),
        write: |model, to| stl::write(model, to.options, to.out),
    },
    Entry {
        format: Format::Off,
        name: "OFF",
        extensions: &["off"],
        text_extension: None,
        holds: Holds {
            polygons: true,
            uvs: false,
            uv_sets: false,
            normals: false,
            colors: true,
            tags: false,
            lines: false,
            shared_vertices: true,
            scenes: false,
            textures_within: false,
            doubles: true,
        },
        first_number: 0,
        bytes_a_triangle: [15, 60],
        unit: None,
        unit_else: None,
        up: None,
        looks_like: off::looks_like,
        read: off::read,
        write: |model, to| off::write(model, to.options, to.out),
    },
    Entry {
        format: Format::Obj,
        name: "OBJ",
        extensions: &["obj"],
        text_extension: None,
        holds: Holds {
            polygons: true,
            uvs: true,
            uv_sets: false,
            normals: true,
            colors: true,
            tags: true,
            lines: true,
            shared_vertices: true,
            scenes: false,
            textures_within: false,
            doubles: true,
        },
        first_number: 1,
        bytes_a_triangle: [30, 120],
        unit: None,
        unit_else: None,
        up: None,
        looks_like: obj::looks_like,
        read: obj::read,
        write: |model, to| {
            let libraries = obj::companions(model, to.options, to.companions)?;
            obj::write(model, &libraries, to.out)
        },
    },
];

impl Format {
    /// The format's entry.
    pub fn entry(self) -> &'static Entry {
        FORMATS
            .iter()
            .find(|entry| entry.format == self)
            .expect("every format is in the table")
    }

    /// The format that a file name asks for.
    pub fn of_name(path: &Path) -> Option<Format> {
        Self::of_extension(path.extension()?.to_str()?)
    }

    /// The format of a name ending, without its dot.
    pub fn of_extension(extension: &str) -> Option<Format> {
        let extension = extension.to_ascii_lowercase();
        FORMATS
            .iter()
            .find(|entry| entry.extensions.contains(&extension.as_str()))
            .map(|entry| entry.format)
    }

    /// The name for people.
    pub fn name(self) -> &'static str {
        self.entry().name
    }

    /// All extensions, for messages: ".obj, .off, .ply or .stl".
    pub fn known_extensions() -> String {
        let mut all: Vec<String> = FORMATS
            .iter()
            .flat_map(|entry| entry.extensions)
            .map(|extension| format!(".{extension}"))
            .collect();
        all.sort();
        let last = all.pop().unwrap_or_default();
        format!("{} or {last}", all.join(", "))
    }
}
