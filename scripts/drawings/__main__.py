"""Draws the demo's masters into a folder: `python -m scripts.drawings FOLDER`."""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image

from scripts.drawings import boat, chart, crest, keeper, lens, lighthouse

PICTURES = {
    "lamp-at-dusk.jpg": lighthouse.draw,
    "supply-boat.jpg": boat.draw,
    "keeper-at-the-rail.jpg": keeper.draw,
    "great-lens.jpg": lens.draw,
    "sea-chart.png": chart.draw,
    "crest.png": crest.draw,
}

# As a careful photographer would hand them over, and yet small enough to ship: 2 MB a file at most.
_QUALITY = {"lamp-at-dusk.jpg": 90, "supply-boat.jpg": 91, "keeper-at-the-rail.jpg": 93, "great-lens.jpg": 86}


def main() -> None:
    """Draws all six."""
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for name, draw in PICTURES.items():
        image = Image.fromarray(draw())
        if name in _QUALITY:
            image.save(folder / name, quality=_QUALITY[name], optimize=True)
        else:
            image.save(folder / name, compress_level=9)


main()
