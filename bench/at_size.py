"""What `sarvel render` needs where there is nothing to do, on a site of very many masters: seconds and memory.

    python bench/at_size.py [MASTERS ...]

Names alone are generated, and no pixels: masters are empty files whose facts the ledger knows, renditions are links to
few files of some bytes. Printed are, for each number of masters, how many files they come to, the size of the ledger,
seconds and peak memory of the whole way (every file is looked for) and of the short way (nothing changed since the last run).
"""

from __future__ import annotations

import argparse
import hashlib
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from sarvel.core.edition.rendition import Rendition
from sarvel.core.facts import MasterFacts
from sarvel.files.atomic import content_digest
from sarvel.files.ledger import MadeFile
from sarvel.pipeline.plan_folders import MastersFolder
from sarvel.pipeline.portions import PORTION, portions
from sarvel.pipeline.site import compose_site, ledger_of, read_asked
from sarvel.plan.read import read_plan

PLAN = """\
[site]
masters = "masters"
pages = ["pages"]
output = "out"
[breakpoints]
phone = 0
desktop = 800
[defaults]
formats = ["avif", "webp", "jpeg"]
quality = { avif = 60, webp = 80, jpeg = 82 }
[slots.card]
masters = ["*"]
sizes = { phone = "100vw", desktop = "400px" }
crops = { phone = "1:1", desktop = "3:2" }
widths = [400, 600, 800, 960]
"""
_CONTENT = {"avif": b"1", "webp": b"12", "jpeg": b"123"}  # each format lighter than the next, so that all pay
_LINKS = 50_000  # to one file: a file system allows some 65,000
_LONG_AGO = (1e9, 1e9)


def generate(folder: Path, count: int) -> int:
    """A site of so many masters, all of whose files are there; how many those are."""
    (folder / "pages").mkdir(parents=True)
    (folder / "masters").mkdir()
    (folder / "out").mkdir()
    (folder / "pages" / "index.html").write_text("<p>nothing</p>")
    (folder / "sarvel.toml").write_text(PLAN)
    plan = read_plan(folder / "sarvel.toml")
    masters, files = MastersFolder(plan.masters_folder), 0
    firsts: dict[str, tuple[Path, int]] = {}
    with ledger_of(plan, print) as ledger:
        for number in range(count):
            key = f"m{number:07}.jpg"
            place = folder / "masters" / key
            place.touch()
            os.utime(place, _LONG_AGO)
            digest = hashlib.blake2b(key.encode()).hexdigest()
            stamp = masters.stamp(key)
            assert stamp
            facts = MasterFacts(key, 3000, 2000, alpha=False, digest=digest, size=2_000_000, drawn=False)
            ledger.remember_master(masters.place(key), stamp, facts)
        ledger.remember([], {})
        asked = read_asked(plan)
        for wanted in portions(asked.wanted, plan.slots, plan.masters, lambda: PORTION):
            edition = compose_site(asked, wanted, ledger).composed
            made = [one for picture in edition.pictures.values() for one in picture.renditions()]
            ledger.remember((_file(one) for one in made), {})
            for one in made:
                place, content = folder / "out" / one.name, _CONTENT[one.format]
                first, links = firsts.get(one.format, (place, _LINKS))
                if links == _LINKS:
                    place.write_bytes(content)
                    firsts[one.format] = (place, 0)
                else:
                    os.link(first, place)
                    firsts[one.format] = (first, links + 1)
            files += len(made)
    for place in (folder / "sarvel.toml", folder / "pages" / "index.html", folder / "pages", folder / "masters"):
        os.utime(place, _LONG_AGO)
    return files


def _file(one: Rendition) -> MadeFile:
    content = _CONTENT[one.format]
    return MadeFile(one.name, len(content), content_digest(content), one.fingerprint)


def measured(folder: Path) -> tuple[float, float, str]:
    """Seconds, MB at the peak, and what a render says."""
    code = (
        "import pathlib, sys; from sarvel.cli.main import main; code = main(['render', '--plan', sys.argv[1]]); "
        "print(pathlib.Path('/proc/self/status').read_text().partition('VmHWM:')[2].split()[0]); sys.exit(code)"
    )
    start = time.perf_counter()
    done = subprocess.run(
        [sys.executable, "-c", code, folder / "sarvel.toml"], capture_output=True, text=True, check=False
    )
    if done.returncode:
        raise SystemExit(done.stderr)
    *said, peak = done.stdout.splitlines()
    return time.perf_counter() - start, int(peak) / 1000, said[-1]


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("masters", type=int, nargs="*", default=[1000, 10_000, 100_000])
    for count in parser.parse_args().masters:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name, "site")
            files = generate(folder, count)
            weight = (folder / "sarvel.ledger").stat().st_size / 1e6
            print(f"{count} masters, {files} files, ledger of {weight:.0f} MB")
            for way in ("whole", "short"):
                seconds, peak, said = measured(folder)
                print(
                    f"  {way} way: {seconds:.1f} s, {seconds / files * 1e6:.0f} us a file, {peak:.0f} MB ({said})",
                    flush=True,
                )


if __name__ == "__main__":
    main()
