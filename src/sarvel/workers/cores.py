"""The processor cores that this process may use."""

from __future__ import annotations

import contextlib
import math
import os
from pathlib import Path

# Where Linux tells a container's share of processor time: control groups version 2, then 1 (kernel documentation,
# admin-guide/cgroup-v2, "cpu.max", and admin-guide/cgroup-v1, "cpu.cfs_quota_us").
_CGROUP = Path("/sys/fs/cgroup")


def available_workers() -> int:
    """The cores that this process may use: those of the machine, less what affinity and a container's limits take."""
    cores = len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
    return max(1, math.ceil(min(cores, share_of_container(_CGROUP))))


def share_of_container(folder: Path) -> float:
    """The number of cores that a container may use, fractions allowed; infinite without a limit."""
    with contextlib.suppress(OSError, ValueError):
        quota, period = (folder / "cpu.max").read_text().split()
        return math.inf if quota == "max" else int(quota) / int(period)
    with contextlib.suppress(OSError, ValueError):
        quota, period = ((folder / "cpu" / f"cpu.cfs_{name}_us").read_text() for name in ("quota", "period"))
        return math.inf if int(quota) <= 0 else int(quota) / int(period)
    return math.inf
