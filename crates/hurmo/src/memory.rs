//! How much memory there is.

use sysinfo::System;

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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn free_memory_is_told_in_bytes() {
        assert!(free_memory().is_none_or(|free| free > 1 << 20));
    }
}
