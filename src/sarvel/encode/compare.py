"""Renditions compared with their master: where they differ most, at their own pixels."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import Size
from sarvel.core.model import Treatment
from sarvel.core.pixels.resample import Pixels, pixels_from_light
from sarvel.encode.decode import Decoded, decode
from sarvel.encode.masters import MasterFile
from sarvel.encode.rungs import rung
from sarvel.encode.work import CropWork
from sarvel.errors import MasterError

WINDOW = (256, 160)
"""Width and height of a piece, px: our choice. So much is seen at a glance, and kept without loss in some 25 kB."""

_BLOCK = 16  # px; pieces begin at multiples of it
_EDGE = 4  # px around a piece that are made with it, since the filter of a rung reaches three px far
_FILTER = 8  # px of a master around that, for bounds that lie between px
_FAR = 8  # how many times a map of differences is brighter than they are
_MAP_QUALITY = 60


@dataclass(frozen=True)
class CropFiles:
    """One rung of a crop, in several formats.

    Attributes:
        size: of the rung, px.
    """

    name: str
    crop: CropWork
    size: Size
    files: Mapping[str, Path]


@dataclass(frozen=True)
class CompareWork:
    """All that is compared with one master.

    Attributes:
        digest: what its bytes must still be.
    """

    file: MasterFile
    key: str
    digest: str
    rungs: tuple[CropFiles, ...]


@dataclass(frozen=True)
class Compared:
    """The piece in which files differ most from their master.

    Attributes:
        size: of the piece, px.
        views: the piece of the master, as "master", and of each format that differs: lossless WebP.
        maps: where each of these differs, brighter than it does: WebP.
        differences: mean difference within the piece, in 255ths, by format.
    """

    name: str
    size: Size
    views: Mapping[str, bytes]
    maps: Mapping[str, bytes]
    differences: Mapping[str, float]


def compare(work: CompareWork) -> list[Compared]:
    """Compares; what cannot be read is left out, for other commands describe it."""
    try:
        master = decode(work.file, work.key, "srgb", work.digest)
    except MasterError:
        return []
    return [found for one in work.rungs if (found := _compared(master, one))]


def _compared(master: Decoded, one: CropFiles) -> Compared | None:
    try:
        made = {name: _on_white(_read(file)) for name, file in one.files.items()}
    except OSError:
        return None
    made = {name: pixels for name, pixels in made.items() if pixels.shape[1::-1] == one.size}
    if not made:
        return None
    rough = _on_white(_rough(master, one))
    far = np.zeros(one.size[::-1], np.uint16)
    for pixels in made.values():
        far += _difference(rough, pixels)
    left, top, width, height = _place(far, one.size)
    exact = _on_white(_piece(master, one, left, top, width, height))
    pieces = {name: pixels[top : top + height, left : left + width] for name, pixels in made.items()}
    apart = {name: _difference(exact, piece) for name, piece in pieces.items()}
    return Compared(
        one.name,
        (width, height),
        {"master": _lossless(exact), **{name: _lossless(piece) for name, piece in pieces.items() if apart[name].any()}},
        {name: _map(difference) for name, difference in apart.items() if difference.any()},
        {name: round(float(difference.mean()), 2) for name, difference in apart.items()},
    )


def _rough(master: Decoded, one: CropFiles) -> Pixels:
    """A rung, nearly: good enough to find a place by, and much sooner there."""
    box = one.crop.box
    width, height = master.image.size
    inside = box.left >= 0 and box.top >= 0 and box.right <= width and box.bottom <= height
    if master.moves or one.crop.treatment != Treatment() or not inside:
        return pixels_from_light(rung(master, one.crop, one.size))
    edges = box.edges
    whole = master.convert(master.image)
    return np.asarray(whole.resize(one.size, Image.Resampling.BOX, box=edges, reducing_gap=1.0))


def _piece(master: Decoded, one: CropFiles, left: int, top: int, width: int, height: int) -> Pixels:
    """A piece of a rung, as the press makes it: only so much of the master is resampled."""
    box = one.crop.box
    across, down = box.width / one.size[0], box.height / one.size[1]
    before, above = min(_EDGE, left), min(_EDGE, top)
    behind, below = min(_EDGE, one.size[0] - left - width), min(_EDGE, one.size[1] - top - height)
    part = Box(
        box.left + (left - before) * across,
        box.top + (top - above) * down,
        box.left + (left + width + behind) * across,
        box.top + (top + height + below) * down,
    )
    size = width + before + behind, height + above + below
    made = pixels_from_light(rung(*_only(master, replace(one.crop, box=part)), size))
    return made[above : above + height, before : before + width]


def _only(master: Decoded, crop: CropWork) -> tuple[Decoded, CropWork]:
    """A master and a crop of it, without distant parts; the resulting pixels are the same."""
    box, treatment = crop.box, crop.treatment
    left, top = int(max(0, box.left - _FILTER)), int(max(0, box.top - _FILTER))
    right, bottom = (
        int(min(most, edge + _FILTER)) for most, edge in zip(master.image.size, (box.right, box.bottom), strict=True)
    )
    if master.moves or treatment.rotate or treatment.mirror or treatment.pad or right <= left or bottom <= top:
        return master, crop
    part = replace(master, image=master.image.crop((left, top, right, bottom)), _lights={})
    return part, replace(crop, box=Box(box.left - left, box.top - top, box.right - left, box.bottom - top))


def _read(file: Path) -> Pixels:
    with Image.open(file) as image:
        return np.asarray(image.convert("RGBA" if image.has_transparency_data else "RGB"))


def _on_white(pixels: Pixels) -> Pixels:
    if pixels.shape[2] == 3:
        return pixels
    alpha = pixels[:, :, 3:].astype(np.float32) / 255
    return (pixels[:, :, :3] * alpha + 255 * (1 - alpha) + 0.5).astype(np.uint8)


def _difference(one: Pixels, other: Pixels) -> np.ndarray:
    """The greatest difference of a channel, for each pixel: (height, width), 0 to 255."""
    apart = np.maximum(one, other) - np.minimum(one, other)
    greatest: np.ndarray = np.maximum(np.maximum(apart[:, :, 0], apart[:, :, 1]), apart[:, :, 2])
    return greatest


def _place(far: np.ndarray, size: Size) -> tuple[int, int, int, int]:
    """Left, top, width and height of the piece with the greatest sum of differences."""
    width, height = min(WINDOW[0], size[0]), min(WINDOW[1], size[1])
    sums = np.zeros((size[1] + 1, size[0] + 1))
    sums[1:, 1:] = far.cumsum(axis=0).cumsum(axis=1)
    lefts, tops = _starts(size[0] - width), _starts(size[1] - height)
    found = (
        sums[np.ix_(tops + height, lefts + width)]
        - sums[np.ix_(tops, lefts + width)]
        - sums[np.ix_(tops + height, lefts)]
        + sums[np.ix_(tops, lefts)]
    )
    row, column = np.unravel_index(int(found.argmax()), found.shape)
    return int(lefts[column]), int(tops[row]), width, height


def _starts(last: int) -> np.ndarray:
    return np.unique(np.append(np.arange(0, last + 1, _BLOCK), last))


def _lossless(pixels: Pixels) -> bytes:
    return _saved(pixels, lossless=True, method=0, exact=True)


def _map(difference: np.ndarray) -> bytes:
    return _saved(np.minimum(difference, 255 // _FAR) * _FAR, quality=_MAP_QUALITY, method=0)


def _saved(pixels: np.ndarray, **how: object) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels)).save(file, "webp", **how)
    return file.getvalue()
