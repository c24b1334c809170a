"""Figures of the demo that the README gives."""

import json
import re
from pathlib import Path

from tests.conftest import run_sarvel

README = Path(__file__).parents[2] / "README.md"


def test_the_readmes_savings_are_the_demos(demo: Path) -> None:
    """The demo of the tests is built with little effort, whose files are up to a third larger (docs/press.md, "Effort")."""
    sums = json.loads(run_sarvel("build", "--json", cwd=demo).stdout)["pages_fetch"]
    text = " ".join(README.read_text(encoding="utf-8").split())
    found = re.search(
        r"The four pages of the demo .*? originals weigh ([\d.]+) MB.*? phone downloads (\d+) kB and a desktop (\d+) kB",
        text,
    )
    assert found and sums["pages"] == 4 and f"{sums['masters_bytes'] / 1e6:.1f}" == found[1]
    for said, made in zip(found.groups()[1:], sums["bytes"].values(), strict=True):
        assert 1 <= made / 1000 / int(said) <= 1.35
