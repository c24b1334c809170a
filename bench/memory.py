"""The most memory that a run takes to render one master, the largest of each format that is read: `python bench/memory.py`."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

PLAN = '[site]\npages = ["pages"]\n[defaults]\neffort = "quick"\n[slots.c]\nsizes = "100vw"\n'
CASES: dict[str, tuple[int, int, int, str, dict[str, Any]]] = {
    "photograph of 15 megapixels": (4800, 3200, 3, "a.jpg", {"quality": 85}),
    "JPEG of 200 megapixels": (16000, 12500, 3, "a.jpg", {"quality": 85}),
    "PNG with transparency of 100 megapixels": (10000, 10000, 4, "a.png", {"compress_level": 1}),
    "TIFF of 80 megapixels": (10000, 8000, 3, "a.tif", {}),
    "AVIF of 60 megapixels": (10000, 6000, 3, "a.avif", {"speed": 10}),
    "WebP of 36 megapixels": (6000, 6000, 3, "a.webp", {"method": 0}),
}
"""Px across and down, channels, and how the master is written."""


def main() -> None:
    """Measures and prints."""
    Image.MAX_IMAGE_PIXELS = None
    for name, (width, height, channels, file, options) in CASES.items():
        with tempfile.TemporaryDirectory() as folder:
            site = Path(folder)
            for inner in ("masters", "pages"):
                (site / inner).mkdir()
            Image.fromarray(_grain(width, height, channels)).save(site / "masters" / file, **options)
            (site / "sarvel.toml").write_text(PLAN, encoding="utf-8")
            (site / "pages" / "index.html").write_text(f'<img data-sarvel="c" src="../masters/{file}" alt="">', "utf-8")
            print(f"{name}: {_peak(site):.0f} MB", flush=True)


def _grain(width: int, height: int, channels: int) -> np.ndarray[Any, np.dtype[np.uint8]]:
    """Soft noise, tiled: heavy to encode, as photographs are."""
    few = np.random.default_rng(1).integers(0, 256, (512, 512, channels), np.uint8)
    tile = np.asarray(Image.fromarray(few).resize((2048, 2048), Image.Resampling.BICUBIC))
    return np.tile(tile, (height // 2048 + 1, width // 2048 + 1, 1))[:height, :width]


def _peak(site: Path) -> float:
    """MB that a run takes at its peak; Linux gives it in KiB (getrusage(2)), and a process of its own for each asks it."""
    command = [sys.executable, "-m", "sarvel", "render", "--workers", "1", "--plan", str(site / "sarvel.toml")]
    ask = "import resource, subprocess, sys; subprocess.run(sys.argv[1:], capture_output=True); "
    ask += "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)"
    told = subprocess.run([sys.executable, "-c", ask, *command], check=True, capture_output=True, text=True)
    return int(told.stdout) * 1024 / 1e6


if __name__ == "__main__":
    main()
