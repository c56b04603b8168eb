//! The XML document: objects, of meshes or of others, materials, and what is to be built.

use crate::ReadError;
use glam::{DAffine3, DVec3};
use hurmo_core::units::Unit;
use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};
use rustc_hash::FxHashMap;
use std::borrow::Cow;
use std::io::BufRead;

/// A document.
#[derive(Debug, Default)]
pub struct Document {
    /// The unit, and by what lengths are multiplied to be in it.
    pub unit: Option<(Unit, f64)>,
    /// In order.
    pub objects: Vec<Object>,
    /// Where the object with a number is in the list.
    pub numbers: FxHashMap<u32, usize>,
    /// By group and place in it: names and colours (red, green, blue, alpha, as on a screen).
    pub materials: FxHashMap<(u32, u32), (String, [u8; 4])>,
    /// In order of the file.
    pub material_order: Vec<(u32, u32)>,
    /// What is to be built.
    pub items: Vec<Component>,
    /// Elements that are not understood, by name, with how many there are.
    pub passed_over: FxHashMap<String, usize>,
}

/// An object.
#[derive(Debug, Default)]
pub struct Object {
    pub name: Option<String>,
    /// The material of its triangles that name none.
    pub material: Option<(u32, u32)>,
    pub vertices: Vec<DVec3>,
    pub triangles: Vec<Triangle>,
    pub components: Vec<Component>,
    /// Whether it is no part of the thing itself, but holds it up or helps otherwise.
    pub is_extra: bool,
}

/// A triangle, and its material.
#[derive(Clone, Copy, Debug)]
pub struct Triangle {
    pub corners: [u32; 3],
    pub material: Option<(u32, u32)>,
}

/// An object in some place.
#[derive(Clone, Copy, Debug)]
pub struct Component {
    pub object: u32,
    pub way: DAffine3,
}

/// Parses a document.
pub fn parse(xml: &mut dyn BufRead) -> Result<Document, ReadError> {
    let mut reader = Reader::from_reader(xml);
    let mut document = Document::default();
    let mut group = 0;
    let mut in_group = 0;
    let mut buffer = Vec::new();
    let mut depth = 0usize;
    let mut has_model = false;
    loop {
        buffer.clear();
        let at = reader.buffer_position() as usize;
        let wrong = |why: String| ReadError::whole(format!("the document, byte {at}: {why}"));
        let event = reader
            .read_event_into(&mut buffer)
            .map_err(|e| wrong(e.to_string()))?;
        match &event {
            Event::Eof if depth > 0 => return Err(wrong("it is cut short".into())),
            Event::Eof if !has_model => return Err(wrong("there is no model in it".into())),
            Event::Eof => return Ok(document),
            Event::DocType(_) => {
                return Err(wrong("it has a document type, which is not allowed".into()));
            }
            Event::Start(_) => depth += 1,
            Event::End(_) => depth = depth.saturating_sub(1),
            _ => {}
        }
        let (Event::Start(tag) | Event::Empty(tag)) = &event else {
            continue;
        };
        let attributes = Attributes(tag);
        let taken = document.take(attributes, &mut group, &mut in_group, &mut has_model);
        taken.map_err(wrong)?;
    }
}

impl Document {
    /// Takes in one element.
    fn take(
        &mut self,
        tag: Attributes<'_, '_>,
        group: &mut u32,
        in_group: &mut u32,
        has_model: &mut bool,
    ) -> Result<(), String> {
        match tag.name() {
            "model" => {
                *has_model = true;
                self.unit = Some(unit(
                    &tag.text("unit")?.unwrap_or_else(|| "millimeter".into()),
                )?);
                let needed = tag.text("requiredextensions")?.unwrap_or_default();
                if let Some(needed) = needed.split_whitespace().next() {
                    let space = tag.text(&format!("xmlns:{needed}"))?;
                    let name = space.unwrap_or_else(|| needed.to_string());
                    return Err(format!(
                        "it can't be read without the extension {name}, which is not understood"
                    ));
                }
            }
            "object" => {
                let number = tag.whole("id")?.ok_or("an object without a number")?;
                let kind = tag.text("type")?;
                let material = tag.whole("pid")?.zip(tag.whole("pindex")?);
                if self.numbers.insert(number, self.objects.len()).is_some() {
                    return Err(format!("object {number} is there twice"));
                }
                self.objects.push(Object {
                    name: tag.text("name")?,
                    material,
                    is_extra: kind.is_some_and(|kind| kind != "model"),
                    ..Object::default()
                });
            }
            "vertex" => {
                let at = DVec3::new(tag.number("x")?, tag.number("y")?, tag.number("z")?);
                self.last()?.vertices.push(at);
            }
            "triangle" => {
                let corner = |name: &str| {
                    tag.whole(name)?
                        .ok_or("a triangle without a corner".to_string())
                };
                let corners = [corner("v1")?, corner("v2")?, corner("v3")?];
                let (own, first) = (tag.whole("pid")?, tag.whole("p1")?);
                let object = self.last()?;
                let group = own.or(object.material.map(|(group, _)| group));
                let material = group.zip(first).or(object.material);
                object.triangles.push(Triangle { corners, material });
            }
            "component" => {
                let component = tag.component()?;
                self.last()?.components.push(component);
            }
            "item" => self.items.push(tag.component()?),
            "basematerials" => {
                *group = tag.whole("id")?.ok_or("materials without a number")?;
                *in_group = 0;
            }
            "base" => {
                let name = tag.text("name")?.unwrap_or_default();
                let color = color(&tag.text("displaycolor")?.unwrap_or_default());
                self.materials.insert((*group, *in_group), (name, color));
                self.material_order.push((*group, *in_group));
                *in_group += 1;
            }
            "metadata" | "resources" | "build" | "mesh" | "vertices" | "triangles"
            | "components" | "metadatagroup" => {}
            other => {
                *self.passed_over.entry(other.to_string()).or_default() += 1;
            }
        }
        Ok(())
    }

    /// The object that is being read.
    fn last(&mut self) -> Result<&mut Object, String> {
        let last = self.objects.last_mut();
        last.ok_or_else(|| "it is in no object".into())
    }
}

/// An element's attributes.
#[derive(Clone, Copy)]
struct Attributes<'t, 'b>(&'t BytesStart<'b>);

impl Attributes<'_, '_> {
    /// The element's name without its prefix.
    fn name(&self) -> &str {
        self.0.local_name().into_inner()
    }

    /// A value as it is written.
    fn raw(&self, name: &str) -> Result<Option<Cow<'_, str>>, String> {
        for attribute in self.0.attributes() {
            let attribute = attribute.map_err(|error| error.to_string())?;
            if attribute.key.as_ref() == name {
                return Ok(Some(attribute.value));
            }
        }
        Ok(None)
    }

    fn text(&self, name: &str) -> Result<Option<String>, String> {
        let Some(value) = self.raw(name)? else {
            return Ok(None);
        };
        let value = quick_xml::escape::unescape(&value);
        Ok(Some(value.map_err(|error| error.to_string())?.into_owned()))
    }

    fn number(&self, name: &str) -> Result<f64, String> {
        let value = self.raw(name)?.ok_or_else(|| format!("no {name}"))?;
        crate::text::coordinate(value.trim().as_bytes())
    }

    fn whole(&self, name: &str) -> Result<Option<u32>, String> {
        let Some(value) = self.raw(name)? else {
            return Ok(None);
        };
        let number = value.trim().parse().ok().map(Some);
        number.ok_or_else(|| {
            let shown = crate::text::quoted(value.as_bytes());
            format!("{shown} is no whole number")
        })
    }

    fn component(&self) -> Result<Component, String> {
        let object = self.whole("objectid")?.ok_or("a component of no object")?;
        let way = match self.text("transform")? {
            None => DAffine3::IDENTITY,
            Some(text) => {
                let numbers: Result<Vec<f64>, String> = (text.split_whitespace())
                    .map(|word| crate::text::coordinate(word.as_bytes()))
                    .collect();
                let numbers = numbers?;
                let Ok(numbers) = <[f64; 12]>::try_from(numbers) else {
                    return Err("a transform has twelve numbers".into());
                };
                DAffine3::from_cols_array(&numbers)
            }
        };
        Ok(Component { object, way })
    }
}

/// A unit by the document's word, and how long the word's is in it.
fn unit(word: &str) -> Result<(Unit, f64), String> {
    Ok(match word {
        "micron" => (Unit::Mm, 1e-3),
        "millimeter" => (Unit::Mm, 1.0),
        "centimeter" => (Unit::Cm, 1.0),
        "inch" => (Unit::In, 1.0),
        "foot" => (Unit::In, 12.0),
        "meter" => (Unit::M, 1.0),
        other => return Err(format!("'{other}' is no unit of the format")),
    })
}

/// A colour such as `#80ff00` or, with alpha, `#80ff00c0`; white where it is none.
fn color(text: &str) -> [u8; 4] {
    let digits = text.trim().trim_start_matches('#').as_bytes();
    let mut color = [255; 4];
    for (channel, pair) in color.iter_mut().zip(digits.chunks_exact(2)) {
        let pair = std::str::from_utf8(pair).ok();
        *channel = pair
            .and_then(|pair| u8::from_str_radix(pair, 16).ok())
            .unwrap_or(255);
    }
    color
}
