//! Writes the seeds of all targets into a folder: small models of every format, every built-in brief, a
//! ledger, a few meshes.

#[path = "../../crates/hurmo-formats/tests/files/mutate/small_models.rs"]
mod small_models;

use hurmo_core::audit::Brief;
use hurmo_formats::{WriteOptions, write};
use hurmo_pipeline::brief::to_toml;
use small_models::models;
use std::path::Path;

const STEPS: &str = "\n[[step]]\ndo = \"mend\"\nclear = [\"all\", \"floating-parts\"]\nmay-break = [\"open-edges\"]\n\
[[step]]\ndo = \"decimate\"\nto = \"20k\"\nkeep = [\"rims\", \"creases=0.7\"]\nflat = true\n\
[[step]]\ndo = \"reskin\"\ncell = \"0.5%\"\nlevels = 2\n\
[[step]]\ndo = \"boolean\"\nas = \"union\"\nwith = [\"a.obj\"]\nmove = [\"0,0,1\", \"3:1,2,3\"]\n";

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let folder = std::env::args().nth(1).ok_or("which folder?")?;
    let folder = Path::new(&folder);
    let of = |target: &str| folder.join(target);
    for target in ["files", "text", "meshes"] {
        std::fs::create_dir_all(of(target))?;
    }
    for (which, model) in models().iter().enumerate() {
        for (number, name) in hurmo_fuzz::FORMATS.iter().enumerate() {
            for ascii in [false, true] {
                let path = folder.join(format!("seed.{name}"));
                let mut options = WriteOptions::default();
                (options.ascii, options.may_overwrite) = (ascii, true);
                write(&path, model, options)?;
                let mut seed = vec![number as u8];
                seed.extend(std::fs::read(&path)?);
                std::fs::remove_file(&path)?;
                std::fs::write(of("files").join(format!("{name}-{which}-{ascii}")), seed)?;
            }
        }
    }
    for name in Brief::BUILT_IN {
        let brief = Brief::named(name).ok_or("it is built in")?;
        let text = format!("\0{}{STEPS}", to_toml(&brief));
        std::fs::write(of("text").join(name), text)?;
    }
    let ledger = "\x01{\"version\":\"1\",\"brief\":\"print\",\"brief_text\":\"name = \\\"print\\\"\",\"options\":[]}\n\
        {\"begun\":{\"input\":\"a.obj\",\"output\":\"out/a.obj\"}}\n";
    std::fs::write(of("text").join("ledger"), ledger)?;
    for seed in 0..8u8 {
        let bytes: Vec<u8> = (0..200u8).map(|i| i.wrapping_mul(37).wrapping_add(seed * 29)).collect();
        std::fs::write(of("meshes").join(seed.to_string()), bytes)?;
    }
    Ok(())
}
