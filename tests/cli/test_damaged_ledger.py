"""A ledger of which a byte is another: what is published stays so, and what it knew otherwise is kept."""

import random
import shutil
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import PLAN, run_sarvel

PAGE = '<!doctype html><meta name="viewport" content="width=device-width">'
PLACES = 12


@pytest.fixture(scope="module")
def published(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A site of which some formats and some widths do not pay, woven to a folder of its own."""
    site = tmp_path_factory.mktemp("published") / "site"
    for name in ("masters", "pages"):
        (site / name).mkdir(parents=True)
    for number in range(8):
        levels = np.random.default_rng(number).integers(0, 256, (8, 12, 3), np.uint8)
        how = Image.Resampling.BICUBIC if number % 3 else Image.Resampling.NEAREST
        Image.fromarray(levels).resize((600, 400), how).save(site / "masters" / f"m{number}.png")
    tags = "\n".join(f'<img data-sarvel="badge" src="../masters/m{number}.png" alt="A">' for number in range(8))
    (site / "pages" / "index.html").write_text(PAGE + tags)
    plan = (
        PLAN.partition('[masters."gull.jpg"]')[0]
        .replace('"40px"', '"300px"')
        .replace("[site]", '[site]\nwoven = "public"')
    )
    (site / "sarvel.toml").write_text(plan.replace('["webp", "jpeg"]', '["avif", "webp", "jpeg"]\neffort = "quick"'))
    done = run_sarvel("build", "--workers", "1", cwd=site)
    assert done.returncode == 0 and "is left out: its" in done.stderr and " px is left out: its" in done.stderr
    return site


@pytest.mark.parametrize("number", range(PLACES))
def test_one_byte_of_the_ledger_unweaves_nothing(published: Path, tmp_path: Path, number: int) -> None:
    site = Path(shutil.copytree(published, tmp_path / "site"))
    wanted = (site / "public" / "index.html").read_text()
    ledger, chance = site / "sarvel.ledger", random.Random(number)
    content = bytearray(ledger.read_bytes())
    content[len(content) * number // PLACES + chance.randrange(len(content) // PLACES)] ^= chance.choice(
        [1, 0x20, 0x80, 0xFF]
    )
    ledger.write_bytes(content)
    page = site / "pages" / "index.html"
    page.write_text(page.read_text() + "<p>more")  # so that there is something to do
    done = run_sarvel(*(("weave",) if number % 2 else ("build", "--workers", "1")), cwd=site)
    assert (site / "public" / "index.html").read_text() == wanted + "<p>more"
    assert done.returncode == 0 and "not made" not in done.stderr, done.stderr
