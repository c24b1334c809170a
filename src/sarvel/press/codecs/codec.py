"""What a format is to the press."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PIL import Image, features

from sarvel.core.edition import FormatFacts
from sarvel.core.plan import Finish

if TYPE_CHECKING:  # NumPy is slow to load, and who only asks for facts needs none
    from sarvel.core.pixels.resample import Pixels


@dataclass(frozen=True)
class Codec:
    """A format and how it is written.

    Attributes:
        name: as plans and Pillow's `save` call it.
        media_type: as registered with IANA.
        ending: of its files, without the dot.
        alpha: whether it can be transparent.
        encoder: Pillow's name of the library that writes it.
        options: what Pillow's `save` is given, for each finish.
    """

    name: str
    media_type: str
    ending: str
    alpha: bool
    encoder: str
    options: Mapping[Finish, Mapping[str, int | bool | str]]

    def facts(self) -> FormatFacts:
        """What the core needs to know of it."""
        version = features.version(self.encoder) or "unknown"
        settings: dict[Finish, str] = {finish: repr(sorted(told.items())) for finish, told in self.options.items()}
        return FormatFacts(self.name, self.media_type, self.ending, self.alpha, f"{self.encoder} {version}", settings)

    def encode(self, pixels: Pixels, finish: Finish) -> bytes:
        """A file of this format. Transparent pixels need a format with alpha."""
        file = io.BytesIO()
        Image.fromarray(pixels).save(file, self.name, **self.options[finish])
        return file.getvalue()
