//! Material files and textures beside an OBJ that is written.

use super::{Kept, statements::Statement, statements::name_and_options};
use crate::WriteOptions;
use crate::companions::Companions;
use crate::textures::{Placed, Textures, placed};
use hurmo_core::Model;
use hurmo_core::paint;
use hurmo_core::scene::{Image, ImageData, ImageId, Material, Scene, TextureUse};
use std::collections::HashMap;
use std::fmt::Write;
use std::io;

/// The names of the material files that the model is to refer to. They are written where it knows its
/// materials, but for those that are in its folder already.
pub(crate) fn companions(
    model: &Model,
    options: WriteOptions,
    companions: &mut Companions,
) -> io::Result<Vec<String>> {
    let attributes = &model.attributes;
    let Some(scene) = attributes
        .scene
        .as_deref()
        .filter(|scene| !scene.materials.is_empty())
    else {
        return Ok(attributes.material_libraries.clone());
    };
    let kept = scene.rest_of::<Kept>();
    let same = |kept: &Kept| {
        let real = |path: &std::path::Path| match path.as_os_str().is_empty() {
            true => std::path::Path::new(".").canonicalize().ok(),
            false => path.canonicalize().ok(),
        };
        real(&kept.folder).is_some_and(|own| Some(own) == real(companions.folder()))
    };
    let from_there = |material: &Material| {
        let own = kept.zip(material.source);
        own.and_then(|(kept, number)| kept.names.get(number as usize)) == Some(&material.name)
    };
    let as_it_is = WriteOptions {
        ascii: options.ascii,
        may_overwrite: options.may_overwrite,
        ..WriteOptions::default()
    };
    let is_all_there = kept.is_some_and(same) && scene.materials.iter().all(from_there);
    if is_all_there && options == as_it_is {
        return Ok(attributes.material_libraries.clone());
    }
    if let Some(kept) = kept {
        for library in &attributes.material_libraries {
            companions.protect(&kept.folder.join(library));
        }
    }
    let mut textures = Looks {
        scene,
        options,
        companions,
        names: HashMap::new(),
    };
    let mut text = String::from("# written by hurmo\n");
    for material in &scene.materials {
        let own = material.source.zip(kept);
        let own = own.and_then(|(number, kept)| kept.of_materials.get(number as usize));
        match own {
            Some(statements) => textures.copied(material, statements, &mut text)?,
            None => textures.write_material(material, &mut text)?,
        }
    }
    let name = format!("{}.mtl", companions.stem());
    Ok(vec![companions.add(&name, text.as_bytes())?])
}

struct Looks<'a> {
    scene: &'a Scene,
    options: WriteOptions,
    companions: &'a mut Companions,
    /// What images are called now.
    names: HashMap<ImageId, String>,
}

impl Looks<'_> {
    /// A material as its own file says it, with the new names of textures.
    fn copied(
        &mut self,
        material: &Material,
        own: &[Statement],
        text: &mut String,
    ) -> io::Result<()> {
        let _ = writeln!(text, "\nnewmtl {}", material.name);
        for Statement { word, rest } in own {
            let is_named = |(_, image): &(usize, &Image)| {
                let name = name_and_options(rest).1;
                matches!(&image.data, ImageData::File { name: own, .. } if own == name)
            };
            let image = self.scene.images.iter().enumerate().find(is_named);
            let _ = match image {
                Some((number, _)) => {
                    let name = name_and_options(rest).1;
                    let options = rest.strip_suffix(name).unwrap_or_default();
                    let name = self.name(ImageId(number as u32))?;
                    writeln!(text, "{word} {options}{name}")
                }
                None => writeln!(text, "{}", format!("{word} {rest}").trim_end()),
            };
        }
        Ok(())
    }

    /// A material in the words of material files.
    fn write_material(&mut self, material: &Material, text: &mut String) -> io::Result<()> {
        let _ = writeln!(text, "\nnewmtl {}", material.name);
        let [r, g, b, opacity] = material.color;
        let mut color = |word: &str, [r, g, b]: [f32; 3]| {
            let [r, g, b] = [r, g, b].map(paint::on_screen);
            let _ = writeln!(text, "{word} {r} {g} {b}");
        };
        color("Kd", [r, g, b]);
        if material.glow != [0.0; 3] {
            color("Ke", material.glow);
        }
        let _ = writeln!(text, "d {opacity}");
        let _ = writeln!(text, "Pr {}\nPm {}", material.roughness, material.metallic);
        let textures = [
            ("map_Kd", &material.color_texture),
            ("map_Ke", &material.glow_texture),
            ("map_Pr", &material.roughness_texture),
            ("map_Pm", &material.roughness_texture),
            ("norm", &material.normal_texture),
        ];
        for (word, used) in textures {
            // By other UVs than those that the file has, it would lie elsewhere.
            if let Some(TextureUse {
                image, uv_set: 0, ..
            }) = used
            {
                let name = self.name(*image)?;
                let _ = writeln!(text, "{word} {name}");
            }
        }
        Ok(())
    }

    /// What an image is called beside the model; it is written there if it is not yet.
    fn name(&mut self, image: ImageId) -> io::Result<String> {
        if let Some(name) = self.names.get(&image) {
            return Ok(name.clone());
        }
        let about = &self.scene.images[image.0 as usize];
        let number = image.0 as usize;
        let name = match placed(about, number, Textures::Copy, self.options, self.companions)? {
            Placed::Named(name) => name,
            Placed::Within { .. } => {
                let why = "textures can't be put into OBJ; --textures copy puts them beside it";
                return Err(io::Error::other(why));
            }
        };
        self.names.insert(image, name.clone());
        Ok(name)
    }
}
