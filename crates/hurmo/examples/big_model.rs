//! Writes a bumpy sphere of any size, to try commands on: `big_model OUT TRIANGLES`.

fn main() {
    let mut arguments = std::env::args().skip(1);
    let (Some(out), Some(Ok(triangles))) = (arguments.next(), arguments.next().map(|n| n.parse()))
    else {
        eprintln!("big_model OUT TRIANGLES");
        std::process::exit(2);
    };
    let model = hurmo_core::Model::from(hurmo_core::shapes::bumpy_sphere(triangles));
    let options = hurmo_formats::WriteOptions::default();
    if let Err(error) = hurmo_formats::write(out.as_ref(), &model, options) {
        eprintln!("{error}");
        std::process::exit(2);
    }
}
