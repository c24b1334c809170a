"""Runs that are killed, runs at once, and masters that are damaged.

    python bench/torture.py [--kills N] [--pairs N] [--mutants N]

A site of six masters is built undisturbed. The same site is built again and again; of each run the parent alone is killed, with
SIGKILL, SIGTERM or SIGHUP, at a random moment, and what was made taken away at random, until N runs were killed. Three
seconds later none of its processes may be left, every file under a final name must be one of the undisturbed ones, and the
last run must come to the same tree. Then N pairs of builds run at once: each must come to the same tree, and both together take
hardly longer than one after the other. Last, N masters are damaged (cut short, bytes
changed, endings swapped, headers that promise 60000 × 60000 px) and rendered beside healthy ones: the program must not crash,
name each that it could not read, and make all files of the healthy ones.
"""

from __future__ import annotations

import argparse
import os
import random
import resource
import shutil
import signal
import statistics
import struct
import subprocess
import sys
import tempfile
import time
import zlib
from pathlib import Path

import numpy as np
from PIL import Image

PLAN = """\
[site]
manifest = "public/pictures.json"
[defaults]
formats = ["avif", "webp", "jpeg"]
[slots.card]
sizes = "20vw"
crops = "3:2"
widths = 3
"""
COMMAND = [sys.executable, "-m", "sarvel", "build", "--workers", "2"]


def main() -> None:
    """Runs both."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--kills", type=int, default=60)
    parser.add_argument("--pairs", type=int, default=20)
    parser.add_argument("--mutants", type=int, default=300)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        kills(Path(folder, "killed"), options.kills)
        pairs(Path(folder, "pairs"), options.pairs)
        mutants(Path(folder, "damaged"), options.mutants)


def site_of(folder: Path, masters: dict[str, bytes]) -> None:
    """A site that shows these masters, each once."""
    (folder / "masters").mkdir(parents=True)
    (folder / "pages").mkdir()
    (folder / "sarvel.toml").write_text(PLAN)
    for name, content in masters.items():
        (folder / "masters" / name).write_bytes(content)
    tags = (f'<img data-sarvel="card" src="../masters/{name}" alt="">\n' for name in masters)
    (folder / "pages" / "index.html").write_text("".join(tags))


def picture(seed: int, ending: str, folder: Path) -> bytes:
    """Blocks of random colors, as a file of a format."""
    file = folder / f"seed.{ending}"
    blocks = np.random.default_rng(seed).integers(0, 256, (24, 36, 3), np.uint8).repeat(20, 0).repeat(20, 1)
    Image.fromarray(blocks).save(file)
    return file.read_bytes()


def site_of_six(folder: Path) -> Path:
    """A site that takes some seconds to build."""
    folder.mkdir()
    site_of(folder / "before", {f"m{i}.jpg": picture(i, "jpg", folder) for i in range(6)})
    return folder / "before"


def kills(folder: Path, count: int) -> None:
    """Only the parent is killed, at random moments."""
    chance = random.Random(7)
    before = site_of_six(folder)
    undisturbed, site = shutil.copytree(before, folder / "undisturbed"), shutil.copytree(before, folder / "killed")
    started = time.monotonic()
    build(undisturbed)
    took = time.monotonic() - started
    wanted, killed, longest = tree(undisturbed), 0, 0.0
    while killed < count:
        mark = f"SARVEL_TORTURE={killed}-{time.time_ns()}"
        process = subprocess.Popen(
            COMMAND,
            cwd=site,
            env={**os.environ, **dict([mark.split("=")])},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        time.sleep(chance.uniform(0.05, took * 0.6))
        alive = process.poll() is None
        process.send_signal(chance.choice((signal.SIGKILL, signal.SIGTERM, signal.SIGHUP)))
        process.wait()
        ended = time.monotonic()
        while left := marked(mark):
            assert time.monotonic() - ended < 3, f"left behind: {left}"
            time.sleep(0.02)
        killed += alive
        longest = max(longest, time.monotonic() - ended)
        there = {name: content for name, content in files(site).items() if not name.startswith(".")}
        # Formats that do not pay are taken away only at the end of a run, so some stand there that the end does not have.
        made = {name.rsplit("/", 1)[-1]: content for name, content in wanted.items()}
        assert all(made.get(name, content) == content for name, content in there.items())
        for name in chance.sample(sorted(there), len(there) // 2):
            (site / "public" / "pictures" / name).unlink()
    build(site)
    assert tree(site) == wanted
    print(
        f"{killed} parents killed; {len(wanted)} files, the same as undisturbed; the last worker ended {longest:.2f} s later"
    )


def marked(mark: str) -> list[str]:
    """Processes whose environment holds a mark: all that a run has started."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            if mark.encode() in (folder / "environ").read_bytes().split(b"\0"):
                found.append((folder / "cmdline").read_bytes().replace(b"\0", b" ").decode())
        except OSError:
            continue
    return found


def pairs(folder: Path, count: int) -> None:
    """Two builds at once, against one after the other, in the same minute."""
    before, ratios = site_of_six(folder), []
    build(shutil.copytree(before, folder / "undisturbed"))
    wanted = tree(folder / "undisturbed")
    for number in range(count):
        one, both = (shutil.copytree(before, folder / f"{name}{number}") for name in ("one", "both"))
        started = time.monotonic()
        build(one)
        build(one)
        alone = time.monotonic() - started
        started = time.monotonic()
        running = [
            subprocess.Popen(COMMAND, cwd=both, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) for _ in range(2)
        ]
        assert [process.wait() for process in running] == [0, 0]
        ratios.append((time.monotonic() - started) / alone)
        assert tree(both) == tree(one) == wanted
    if ratios:
        print(
            f"{count} pairs of builds at once: same tree; time {statistics.median(ratios):.2f} of one after the other, "
            f"at most {max(ratios):.2f}"
        )


def build(site: Path) -> None:
    """Builds a site."""
    subprocess.run(COMMAND, cwd=site, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def tree(site: Path) -> dict[str, bytes]:
    """All files of a site but its ledger."""
    found = {file.relative_to(site).as_posix(): file for file in site.rglob("*") if file.is_file()}
    return {name: file.read_bytes() for name, file in found.items() if not name.startswith("sarvel.ledger")}


def mutants(folder: Path, count: int) -> None:
    """Damaged masters beside healthy ones."""
    chance = random.Random(8)
    folder.mkdir()
    healthy = {f"healthy.{ending}": picture(1, ending, folder) for ending in ("jpg", "png", "webp", "avif")}
    masters = dict(healthy)
    for i in range(count):
        ending = chance.choice(("jpg", "png", "webp", "avif"))
        masters[f"mutant{i}.{ending}"] = damaged(healthy[f"healthy.{ending}"], chance)
    site_of(folder / "site", masters)
    done = subprocess.run(COMMAND, cwd=folder / "site", check=False, capture_output=True, text=True, timeout=900)
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    assert done.returncode == 1 and "Traceback" not in done.stderr and "a fault of ours" not in done.stderr, done.stderr
    made = files(folder / "site")
    assert len({name.split("-")[0] for name in made if name.startswith("healthy")}) == 1
    unread = (" is damaged (", " is not an image", " promises 60000×60000 px")
    lines = [line for line in done.stderr.splitlines() if "mutant" in line and any(words in line for words in unread)]
    told = {line.split("mutant", 1)[1].split(".")[0] for line in lines}
    silent = [
        i for i in range(count) if str(i) not in told and not any(name.startswith(f"mutant{i}-") for name in made)
    ]
    assert not silent, silent
    print(f"{count} damaged masters: {len(told)} told of, the others still readable; peak memory {peak:.0f} MiB")


def damaged(content: bytes, chance: random.Random) -> bytes:
    """One master, damaged in one of four ways."""
    changed = bytearray(content)
    match chance.randrange(4):
        case 0:
            return content[: chance.randrange(len(content))]
        case 1:
            header = b"IHDR" + struct.pack(">IIBBBBB", 60000, 60000, 8, 2, 0, 0, 0)
            return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + header + struct.pack(">I", zlib.crc32(header))
        case 2:
            for _ in range(chance.choice((1, 5, 50))):
                changed[chance.randrange(min(400, len(changed)))] = chance.randrange(256)
        case _:
            for _ in range(chance.choice((1, 20, 500))):
                changed[chance.randrange(len(changed))] = chance.randrange(256)
    return bytes(changed)


def files(site: Path) -> dict[str, bytes]:
    """What the output folder holds."""
    folder = site / "public" / "pictures"
    return {file.name: file.read_bytes() for file in folder.iterdir()} if folder.is_dir() else {}


if __name__ == "__main__":
    main()
