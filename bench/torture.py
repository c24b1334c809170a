"""Runs that are killed, and masters that are damaged.

    python bench/torture.py [--kills N] [--mutants N]

A site of six masters is rendered undisturbed. The same site is rendered again and again, each run killed with SIGKILL at a
random moment and what it had made taken away at random, until N runs were killed; after each, every file under a final name
must be one of the undisturbed ones, and the last run must come to all of them. Then N masters are damaged (cut short, bytes
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
[defaults]
formats = ["avif", "webp", "jpeg"]
[slots.card]
shown = "20vw"
cuts = "3:2"
rungs = 3
"""
COMMAND = [sys.executable, "-m", "sarvel", "render"]


def main() -> None:
    """Runs both."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--kills", type=int, default=60)
    parser.add_argument("--mutants", type=int, default=300)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        kills(Path(folder, "killed"), options.kills)
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


def kills(folder: Path, count: int) -> None:
    """SIGKILL at random moments."""
    chance = random.Random(7)
    folder.mkdir()
    site_of(folder / "undisturbed", {f"m{i}.jpg": picture(i, "jpg", folder) for i in range(6)})
    shutil.copytree(folder / "undisturbed", folder / "killed")
    started = time.monotonic()
    subprocess.run(
        COMMAND, cwd=folder / "undisturbed", check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    took = time.monotonic() - started
    wanted = files(folder / "undisturbed")
    killed = 0
    while killed < count:
        process = subprocess.Popen(
            COMMAND, cwd=folder / "killed", stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
        )
        time.sleep(chance.uniform(0.1, took))
        killed += process.poll() is None
        if process.poll() is None:
            os.killpg(process.pid, signal.SIGKILL)
        process.wait()
        there = {name: content for name, content in files(folder / "killed").items() if not name.startswith(".")}
        # Formats that do not pay are taken away only at the end of a run, so some stand there that the end does not have.
        assert all(wanted.get(name, content) == content for name, content in there.items())
        for name in chance.sample(sorted(there), len(there) // 2):
            (folder / "killed" / "public" / "pictures" / name).unlink()
    subprocess.run(COMMAND, cwd=folder / "killed", check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    assert files(folder / "killed") == wanted
    print(f"{killed} runs killed; {len(wanted)} files, the same as undisturbed")


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
