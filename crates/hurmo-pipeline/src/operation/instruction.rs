//! A step in words, as on the command line: read, and kept for the ledger.

use super::named_options::{KnownOption, Lister, NamedOptions, Setter};
use super::{Operation, convert, decimate, fill, mend, parts, remesh, reskin, smooth};

/// A step, and the words that mean it.
#[derive(Clone, Debug)]
pub struct Instruction {
    /// The words, its name first: those of the command that does the same.
    pub words: Vec<String>,
    /// What they mean.
    pub operation: Operation,
}

/// Why words mean no step.
#[derive(Clone, Debug, PartialEq)]
pub struct InstructionError {
    /// The option that it is about, if it is about one.
    pub option: Option<String>,
    /// What is wrong.
    pub message: String,
}

impl Instruction {
    /// Reads words: the step's name, and options as `--name` or `--name=value`.
    ///
    /// # Errors
    /// One line that says what is wrong with them.
    pub fn parse(words: Vec<String>) -> Result<Self, InstructionError> {
        let (kind, options) = words
            .split_first()
            .ok_or_else(|| InstructionError::from("a step has a name".to_string()))?;
        let mut operation = Operation::of_kind(kind)
            .ok_or_else(|| InstructionError::from(format!("'{kind}' is no step")))?;
        let mut setter = Setter::of(options)?;
        operation.each(&mut setter);
        setter.finish()?;
        operation
            .check()
            .map_err(|error| InstructionError::from(format!("{error:#}")))?;
        if operation.levels() > 0 {
            let message = "levels of quads go to files of their own: a brief has no place for them";
            return Err(InstructionError::from(message.to_string()));
        }
        Ok(Self { words, operation })
    }

    /// An operation with these options, written out for the ledger.
    pub fn of(options: impl NamedOptions + Into<Operation>) -> Self {
        let written = options.written();
        let operation = options.into();
        let name = operation.name().to_string();
        Self {
            words: std::iter::once(name).chain(written).collect(),
            operation,
        }
    }

    /// The options that a kind of step knows.
    pub fn options_of(kind: &str) -> Vec<KnownOption> {
        let mut lister = Lister(Vec::new());
        if let Some(mut operation) = Operation::of_kind(kind) {
            operation.each(&mut lister);
        }
        lister.0
    }
}

impl From<String> for InstructionError {
    fn from(message: String) -> Self {
        Self {
            option: None,
            message,
        }
    }
}

/// Operations that are made of their options.
macro_rules! made_of {
    ($($options:ty => $make:expr),* $(,)?) => {
        $(impl From<$options> for Operation {
            fn from(options: $options) -> Self {
                $make(options)
            }
        })*
    };
}

made_of! {
    mend::Mend => Operation::Mend,
    fill::Options => Operation::Fill,
    decimate::Options => |options| Operation::Decimate(Box::new(options)),
    remesh::Options => |options| Operation::Remesh(Box::new(options)),
    reskin::Options => |options| Operation::Reskin(Box::new(options)),
    smooth::Options => Operation::Smooth,
    parts::Options => Operation::Parts,
    convert::Options => |options| Operation::Convert(Box::new(options)),
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    /// For each kind, lines that together have every option, as they are written.
    const LINES: [&str; 22] = [
        "mend",
        "mend --clear=lamina-faces,reversed-faces --keep=stray-edges --near=auto --seams-only --force",
        "mend --also=sliver-faces,ngons --near=0.01% --turn-outward --cut-one-sided --thicken=2mm",
        "mend --fill=odd --triangulate=all --repatch=1,-2,0.5,3 --grow=2",
        "mend --repatch=intersecting-faces",
        "fill",
        "fill --rim=R1,R3..R5 --part=P2 --up-to=40_edges --nearest=1,0,-2.5 --leave-longest=1 --mirror=x",
        "fill --islands=join --trim=2 --surface=round --may-cross",
        "fill --bridge=R1,R2",
        "decimate --to=20000 --within=0.2mm --no-crossing --keep=rims=1,groups=0.75,symmetry=y --crease=45",
        "decimate --flat=0.001% --focus=sails=3 --focus-colour=red=2.5",
        "decimate --to=12.5% --each=group --may-drop-parts-under=1cm --regularity=0.5",
        "remesh --edge=0.5% --crease=60 --ignore-lines-under=2mm --keep-rims=exact --part=P1 --group=sails",
        "remesh --within=1mm --edge-min=1mm --edge-max=2cm --near=0,0,1,2 --where-crossing=P1,P2",
        "reskin --cell=0.5% --rounded --offset=1mm --fill-voids --levels=2 --max-displacement=1mm --part=P2",
        "reskin --to=40000 --close-gaps=1mm --min-thickness=2mm",
        "parts --drop=P3 --drop-under=1% --as-groups",
        "convert --to-unit=mm --up=y --to-up=z --scale=2 --origin=base --flatten-transforms --drop-empty \
         --unique-names --safe-names --normals=smooth=40 --uvs=new",
        "smooth --noise=3 --keep-creases --crease=35 --part=P1 --group=sails",
        "smooth --relax=5 --near=0,0,1,2 --where-crossing=P1,P2",
        "boolean --as=difference --with=post.obj,buoy.obj#P2 --fill=odd --even-along=2mm --blend=1mm --crease=soften \
         --move=0,0,-1mm;3:1,2,3 --turn=3:z,45 --scale=2",
        "bake --from=fine.obj --size=512 --margin=4 --within=1mm --uvs=keep --normal-map --no-colours --texture=a.png",
    ];

    #[test]
    fn what_is_written_reads_back_as_the_same() {
        let mut written: BTreeSet<String> = BTreeSet::new();
        let others = [
            "remesh --to=40%",
            "remesh --into=quads --to=4000",
            "remesh --into=quads --to=4000 --mostly-quads --keep-rims=exact",
            "remesh --into=quads --edge=1mm --follow=creases,groups --guide=lines.obj --symmetry=x",
            "remesh --edge=1mm --ignore-groups-under=2mm --relax-borders=5",
            "smooth --borders=5",
            "reskin --cell=1 --into=quads",
            "reskin --cell=1 --keep-cells",
            "reskin --within=1mm --then-decimate=within=2mm",
            "reskin --cell=1 --then-decimate=40000",
            "parts --keep=P1,P4",
            "convert --real-size=height=12cm",
            "transfer --from=fine.obj --texture=a.png",
        ];
        for line in LINES.into_iter().chain(others) {
            let words = line.split_whitespace().map(|word| word.replace('_', " "));
            let words: Vec<String> = words.collect();
            let read = Instruction::parse(words.clone())
                .unwrap_or_else(|e| panic!("{line}: {}", e.message));
            let again = read.operation.written();
            let (mut one, mut two) = (words[1..].to_vec(), again.clone());
            one.sort();
            two.sort();
            assert_eq!(one, two, "{line}");
            written.extend(again.iter().map(|word| {
                let option = word.split('=').next().unwrap_or_default();
                format!("{} {option}", words[0])
            }));
        }
        // No option is left out.
        for kind in Operation::KINDS {
            for option in Instruction::options_of(kind) {
                let name = format!("{kind} --{}", option.name);
                assert!(written.contains(&name), "{name} is not written");
            }
        }
    }

    #[test]
    fn defaults_are_those_of_an_empty_line() {
        assert!(mend::Mend::default().written().is_empty());
        assert!(fill::Options::default().written().is_empty());
        assert!(decimate::Options::default().written().is_empty());
        assert!(remesh::Options::default().written().is_empty());
        assert!(reskin::Options::default().written().is_empty());
        assert!(convert::Options::default().written().is_empty());
    }
}
