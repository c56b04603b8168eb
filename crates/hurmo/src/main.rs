//! The `hurmo` program.

use std::process::ExitCode;

fn main() -> ExitCode {
    hurmo::run(std::env::args_os())
}
