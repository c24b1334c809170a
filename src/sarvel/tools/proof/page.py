"""The proof as a page: a click on a guess, or a box that is dragged, gives the line for the plan; no server is needed.

Each picture is in the page once, as a background: its crops are pieces of the same picture.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence
from dataclasses import dataclass
from importlib.resources import files

import numpy as np
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.edition.compose import Crop
from sarvel.core.facts import MasterFacts
from sarvel.core.model import Treatment
from sarvel.core.pixels.resample import Pixels, pixels_from_light, reduce_pixels
from sarvel.encode.decode import Decoded
from sarvel.encode.rungs import rung
from sarvel.encode.work import CropWork
from sarvel.tools.proof.contact_sheet import Shot, in_master
from sarvel.tools.proof.notes import ProofNotes

_LONGER = 560  # px of the longer side of a picture in the page
_QUALITY = 62  # of WebP: enough to decide what a picture is about
_CROP_HIGH, _CROP_WIDE = 150, 320  # CSS px, at most


@dataclass(frozen=True)
class Drawn:
    """A piece of the page that shows a picture.

    Attributes:
        facts: about it, in a few words.
        trouble: the problem, or "".
    """

    name: str
    facts: str
    trouble: str
    style: str


@dataclass(frozen=True)
class Part:
    """A master in the page.

    Attributes:
        data: the picture itself, as the address of an image.
        named: the boxes that its crops go by, in fractions; empty if there are numbered guesses.
    """

    master: MasterFacts
    told: ProofNotes
    data: str
    crops: tuple[Drawn, ...]
    named: tuple[Box, ...]


def picture_of(pixels: Pixels) -> Pixels:
    """A master's picture as small as the page shows it."""
    height, width = pixels.shape[:2]
    scale = min(1.0, _LONGER / max(width, height))
    size = max(1, round(width * scale)), max(1, round(height * scale))
    return pixels_from_light(reduce_pixels(pixels, Box(0, 0, width, height), *size))


def address_of(pixels: Pixels) -> str:
    """A picture as an address that holds it."""
    file = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels)).save(file, "webp", quality=_QUALITY, method=4)
    return f"data:image/webp;base64,{base64.b64encode(file.getvalue()).decode()}"


def drawn(master: MasterFacts, shot: Shot) -> Drawn:
    """A crop as the page shows it: a piece of the master's picture, if it is one."""
    crop = shot.crop
    ratio = crop.box.width / crop.box.height
    high = min(_CROP_HIGH, _CROP_WIDE / ratio)
    style = f"width:{high * ratio:.0f}px;aspect-ratio:{ratio:.5f}"
    if crop.source.key == master.key and _is_plain(crop):
        style += f";{_piece(crop, master)}"
    else:
        size = max(1, round(2 * high * ratio)), max(1, round(2 * high))
        work = CropWork(crop.box, crop.rule.treatment, "srgb")
        style += f";background-image:url({address_of(pixels_from_light(rung(Decoded.of(shot.pixels), work, size)))})"
    return Drawn(shot.name, shot.facts, shot.trouble, style)


def as_page(parts: Sequence[Part]) -> bytes:
    """The page, whole: it needs no other file."""
    from jinja2 import Environment

    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    environment.filters["edges"] = _edges
    template = environment.from_string(files("sarvel.tools.proof").joinpath("proof.html").read_text(encoding="utf-8"))
    return template.render(parts=parts).encode()


def named_boxes(master: MasterFacts, shots: Sequence[Shot]) -> tuple[Box, ...]:
    """What the crops of a master go by, in fractions of it; empty if no one said."""
    crop = next((shot.crop for shot in shots if shot.crop.source.key == master.key), None)
    return tuple(in_master(crop, subject) for subject in crop.subjects) if crop else ()


def _is_plain(crop: Crop) -> bool:
    """Tells whether a crop is a piece of its master just as that is."""
    box, treatment = crop.box, crop.rule.treatment
    inside = box.left >= 0 and box.top >= 0 and box.right <= crop.source.width and box.bottom <= crop.source.height
    return inside and treatment == Treatment()


def _piece(crop: Crop, master: MasterFacts) -> str:
    """The background that shows a piece of the master: CSS Backgrounds 3, sections 2.6 and 2.9."""
    box = crop.box
    across, down = master.width - box.width, master.height - box.height
    left = 100 * box.left / across if across > 0 else 0
    top = 100 * box.top / down if down > 0 else 0
    wide, high = 100 * master.width / box.width, 100 * master.height / box.height
    return f"background-size:{wide:.4f}% {high:.4f}%;background-position:{left:.4f}% {top:.4f}%"


def _edges(box: Box) -> str:
    above = round(1000 * (1 - box.width * box.height))  # of boxes that overlap, the smaller can be clicked, too
    return f"left:{box.left:.2%};top:{box.top:.2%};width:{box.width:.2%};height:{box.height:.2%};z-index:{above}"
