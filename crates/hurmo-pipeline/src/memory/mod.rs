//! How much memory there is.

mod gate;

pub use gate::{Gate, estimate, refuse_what_cannot_fit};

use sysinfo::{ProcessRefreshKind, ProcessesToUpdate, System};

/// How much memory is free, as far as this process may have it.
pub fn free_memory() -> Option<u64> {
    let mut system = System::new();
    system.refresh_memory();
    let free = match system.cgroup_limits() {
        Some(limits) => limits.free_memory.min(system.available_memory()),
        None => system.available_memory(),
    };
    (free > 0).then_some(free)
}

/// How much memory this process has, in bytes.
pub fn own_memory() -> Option<u64> {
    let own = sysinfo::get_current_pid().ok()?;
    let mut system = System::new();
    let memory = ProcessRefreshKind::nothing().with_memory();
    system.refresh_processes_specifics(ProcessesToUpdate::Some(&[own]), false, memory);
    system.process(own).map(|process| process.memory())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn free_memory_is_told_in_bytes() {
        assert!(free_memory().is_none_or(|free| free > 1 << 20));
    }
}
