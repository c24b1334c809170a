"""How many cores a process may use."""

import math
import os
from pathlib import Path

import pytest

from sarvel.workers.cores import available_workers, share_of_container


@pytest.mark.parametrize(
    ("files", "cores"),
    [
        ({}, math.inf),
        ({"cpu.max": "max 100000\n"}, math.inf),
        ({"cpu.max": "150000 100000\n"}, 1.5),
        ({"cpu/cpu.cfs_quota_us": "-1\n", "cpu/cpu.cfs_period_us": "100000\n"}, math.inf),
        ({"cpu/cpu.cfs_quota_us": "300000\n", "cpu/cpu.cfs_period_us": "100000\n"}, 3),
        ({"cpu.max": "what is this"}, math.inf),
    ],
    ids=["none", "no limit", "version 2", "version 1, no limit", "version 1", "odd"],
)
def test_containers_limits(tmp_path: Path, files: dict[str, str], cores: float) -> None:
    for name, text in files.items():
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_text(text)
    assert share_of_container(tmp_path) == cores
    assert 1 <= available_workers() <= (os.cpu_count() or 1)
