//! The JSON document: what it asks for, and what of it is kept to be written again.

use super::accessor::{Data, LARGEST};
use super::container::Container;
use crate::ReadError;
use gltf_json::Index;
use gltf_json::Root;
use rustc_hash::FxHashMap;
use serde_json::{Map, Value};

/// Extensions that a file may require: they change numbers that are read anyhow, or only what is kept.
const UNDERSTOOD: &[&str] = &[
    "KHR_mesh_quantization",
    "KHR_texture_transform",
    "KHR_lights_punctual",
];
/// And those that begin so are about looks.
const UNDERSTOOD_KIND: &str = "KHR_materials_";
/// Extensions that say how vertices are stored, which is written anew.
const OF_STORAGE: &str = "KHR_mesh_quantization";

/// This many bytes of animations and skins are kept, and as many as all buffers have, each element
/// taken for the largest there is.
const BESIDES: usize = 256 << 20;

/// A document.
pub struct Document {
    /// What is typed of it.
    pub root: Root,
    /// All of it.
    pub json: Value,
}

/// What of a document is written again as it was.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Kept {
    /// The document without meshes, accessors, buffers and views.
    pub json: Map<String, Value>,
    /// The numbers that animations and skins speak of, by accessors that are numbered as here.
    pub numbers: Vec<Numbers>,
}

impl Kept {
    /// What it holds besides objects and their materials, and how many there are of each.
    pub fn besides(&self) -> Vec<(&'static str, usize)> {
        let count = |list: &Value| list.as_array().map_or(0, Vec::len);
        let of = |list: &str| self.json.get(list).map_or(0, count);
        let extensions = self.json.get("extensions");
        let lights = extensions.map_or(0, |all| count(&all["KHR_lights_punctual"]["lights"]));
        vec![
            ("cameras", of("cameras")),
            ("lights", lights),
            ("animations", of("animations")),
            ("skins with their joints", of("skins")),
            (
                "scenes beyond the one that is shown",
                of("scenes").saturating_sub(1),
            ),
        ]
    }

    /// The names of extensions that materials have, each as often as there is one.
    pub fn extensions_of_materials(&self) -> Vec<&str> {
        let materials = self.json.get("materials").and_then(Value::as_array);
        let of_each = materials.into_iter().flatten();
        let extensions = of_each.filter_map(|material| material["extensions"].as_object());
        let names = extensions.flat_map(Map::keys);
        names.map(String::as_str).collect()
    }
}

/// An accessor's numbers.
#[derive(Clone, Debug, PartialEq)]
pub struct Numbers {
    /// The accessor, without where its bytes are.
    pub accessor: Map<String, Value>,
    /// Its bytes, one element after another.
    pub bytes: Vec<u8>,
}

impl Document {
    /// Parses a document, and makes sure that it can be understood.
    pub fn parse(container: &Container<'_>) -> Result<Self, ReadError> {
        let trouble = |error: serde_json::Error| {
            let (line, column) = (error.line(), error.column());
            let why = format!("the document is not what it should be: {error}");
            if !container.is_binary {
                return ReadError::at_line(line.max(1), why);
            }
            let lines = container.json.split_inclusive(|&byte| byte == b'\n');
            let before: usize = lines.take(line.saturating_sub(1)).map(<[u8]>::len).sum();
            ReadError::at_byte(container.json_at + before + column.saturating_sub(1), why)
        };
        let json: Value = serde_json::from_slice(container.json).map_err(trouble)?;
        let version = json.pointer("/asset/version").and_then(Value::as_str);
        match version {
            Some(version) if version.starts_with("2.") => {}
            Some(other) => {
                let why = format!("this is glTF {other}; only glTF 2 is read");
                return Err(ReadError::whole(why));
            }
            None => {
                return Err(ReadError::whole(
                    "the document does not say which glTF it is",
                ));
            }
        }
        let root = Root::from_slice(container.json).map_err(trouble)?;
        let is_understood = |name: &&String| {
            UNDERSTOOD.contains(&name.as_str()) || name.starts_with(UNDERSTOOD_KIND)
        };
        if let Some(name) = root
            .extensions_required
            .iter()
            .find(|name| !is_understood(name))
        {
            let why =
                format!("it can't be read without the extension {name}, which is not understood");
            return Err(ReadError::whole(why));
        }
        Ok(Self { root, json })
    }

    /// An error at a place in the document, such as `accessors[3]`.
    pub fn error(&self, what: &str, why: &str) -> ReadError {
        ReadError::whole(format!("{what}: {why}"))
    }

    /// What is to be written again. Animations of shapes, which are not kept, are left out.
    pub fn kept(&self, data: &Data<'_>) -> Result<Kept, ReadError> {
        let mut json = self.json.as_object().cloned().unwrap_or_default();
        for list in ["meshes", "accessors", "bufferViews", "buffers"] {
            json.remove(list);
        }
        let mut kept = Kept::default();
        for animation in list(&mut json, "animations") {
            drop_channels_of_shapes(animation);
        }
        list(&mut json, "animations").retain(|one| {
            let channels = one.get("channels").and_then(Value::as_array);
            channels.is_some_and(|channels| !channels.is_empty())
        });
        let mut known = FxHashMap::default();
        let mut left = BESIDES + LARGEST * data.buffers.len();
        for number in numbers(&mut json) {
            kept.take(number, data, &mut known, &mut left)?;
        }
        for node in list(&mut json, "nodes") {
            for word in ["skin", "weights"] {
                node.as_object_mut().and_then(|node| node.remove(word));
            }
        }
        for image in list(&mut json, "images") {
            image
                .as_object_mut()
                .and_then(|image| image.remove("bufferView"));
        }
        for words in ["extensionsUsed", "extensionsRequired"] {
            list(&mut json, words).retain(|name| name != OF_STORAGE);
        }
        json.retain(|_, value| value != &Value::Array(Vec::new()));
        kept.json = json;
        Ok(kept)
    }
}

impl Kept {
    /// Takes the numbers of an accessor, if it is not known yet and this many bytes are left, and numbers
    /// it anew.
    fn take(
        &mut self,
        number: &mut Value,
        data: &Data<'_>,
        known: &mut FxHashMap<u64, usize>,
        left: &mut usize,
    ) -> Result<(), ReadError> {
        let Some(accessor) = number.as_u64() else {
            return Ok(());
        };
        if let Some(&known) = known.get(&accessor) {
            *number = known.into();
            return Ok(());
        }
        let count = data.count(Index::new(u32::try_from(accessor).unwrap_or(u32::MAX)))?;
        *left = left.checked_sub(LARGEST * count).ok_or_else(|| {
            ReadError::whole(
                "animations and skins have far more numbers than the file has bytes for",
            )
        })?;
        known.insert(accessor, self.numbers.len());
        let about = data.document.json["accessors"].get(accessor as usize);
        let mut about = about
            .and_then(Value::as_object)
            .cloned()
            .unwrap_or_default();
        let bytes = data.bytes(Index::new(u32::try_from(accessor).unwrap_or(u32::MAX)))?;
        for word in ["bufferView", "byteOffset", "sparse"] {
            about.remove(word);
        }
        *number = self.numbers.len().into();
        self.numbers.push(Numbers {
            accessor: about,
            bytes,
        });
        Ok(())
    }
}

/// Where a document that is kept speaks of accessors: in animations, in skins, and where nodes are
/// drawn many times by an extension.
pub fn numbers(json: &mut Map<String, Value>) -> Vec<&mut Value> {
    let mut found = Vec::new();
    for (name, list) in json.iter_mut() {
        for one in list.as_array_mut().into_iter().flatten() {
            match name.as_str() {
                "animations" => {
                    for sampler in inner_list(one, "samplers") {
                        let words = sampler.as_object_mut().into_iter().flatten();
                        let words =
                            words.filter(|(word, _)| ["input", "output"].contains(&word.as_str()));
                        found.extend(words.map(|(_, number)| number));
                    }
                }
                "skins" => found.extend(one.get_mut("inverseBindMatrices")),
                "nodes" => {
                    let drawn = one.pointer_mut("/extensions/EXT_mesh_gpu_instancing/attributes");
                    let drawn = drawn.and_then(Value::as_object_mut).into_iter().flatten();
                    found.extend(drawn.map(|(_, number)| number));
                }
                _ => {}
            }
        }
    }
    found
}

/// Names nodes by other numbers wherever a document that is kept speaks of them: in scenes, in skins, in
/// animations. What speaks of one that has no number goes.
pub fn rename_nodes(json: &mut Map<String, Value>, numbers: &FxHashMap<u64, usize>) {
    let renamed = |node: &mut Value| {
        let number = node.as_u64().and_then(|node| numbers.get(&node));
        number.is_some_and(|&number| {
            *node = number.into();
            true
        })
    };
    for (lists, words) in [("scenes", ["nodes", ""]), ("skins", ["joints", "skeleton"])] {
        for one in json
            .get_mut(lists)
            .and_then(Value::as_array_mut)
            .into_iter()
            .flatten()
        {
            let Some(about) = one.as_object_mut() else {
                continue;
            };
            if let Some(nodes) = about.get_mut(words[0]).and_then(Value::as_array_mut) {
                nodes.retain_mut(renamed);
            }
            about.retain(|word, value| word != words[1] || renamed(value));
            // A list of none may not be.
            about.retain(|_, value| value != &Value::Array(Vec::new()));
        }
    }
    let animations = json.get_mut("animations").and_then(Value::as_array_mut);
    for animation in animations.into_iter().flatten() {
        if let Some(channels) = animation.get_mut("channels").and_then(Value::as_array_mut) {
            channels.retain_mut(|channel| match channel.pointer_mut("/target/node") {
                Some(node) => renamed(node),
                None => true,
            });
        }
    }
}

/// A list of the document; an empty one where it has none.
pub fn list<'v>(json: &'v mut Map<String, Value>, name: &str) -> &'v mut Vec<Value> {
    let value = json.entry(name).or_insert_with(|| Value::Array(Vec::new()));
    if !value.is_array() {
        *value = Value::Array(Vec::new());
    }
    value.as_array_mut().expect("made one")
}

fn inner_list<'v>(value: &'v mut Value, name: &str) -> impl Iterator<Item = &'v mut Value> {
    let list = value.get_mut(name).and_then(Value::as_array_mut);
    list.into_iter().flatten()
}

fn drop_channels_of_shapes(animation: &mut Value) {
    if let Some(channels) = animation.get_mut("channels").and_then(Value::as_array_mut) {
        channels.retain(|channel| {
            channel.pointer("/target/path").and_then(Value::as_str) != Some("weights")
        });
    }
}
