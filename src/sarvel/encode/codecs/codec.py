"""The description of a format, and how it is encoded."""

from __future__ import annotations

import io
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeAlias

from PIL import Image, features

from sarvel.core.facts import FormatFacts
from sarvel.core.model import EFFORTS, Effort
from sarvel.encode.codecs.typical import USUAL, Texture, Typical

if TYPE_CHECKING:  # NumPy is slow to load, and who only asks for facts needs none
    from sarvel.core.pixels.resample import Pixels

LOWEST, HIGHEST = 5, 98
"""Qualities that are worth a try: below, blocks as large as the encoder's own are all that is left; above, files only grow."""

Options: TypeAlias = Mapping[str, Any]  # what Pillow's `save` is given


@dataclass(frozen=True)
class EncoderSettings:
    """The settings of one file.

    Attributes:
        quality: the encoder's number, 0 to 100; None keeps every pixel.
        drawn: whether it is flat graphics.
        interlace: whether it shows roughly before it is whole.
        profile: the color profile to write into it; b"" for sRGB, which needs none.
        exif: the metadata to write into it.
    """

    quality: int | None
    drawn: bool = False
    effort: Effort = "normal"
    interlace: bool = False
    profile: bytes = b""
    exif: bytes = b""


@dataclass(frozen=True)
class Codec:
    """A format: its abilities, and how it is written.

    Attributes:
        name: as plans and Pillow's `save` call it.
        ending: of its files, without the dot.
        alpha: whether it can be transparent.
        depths: bits of a sample that its files can have; Sarvel writes 8.
        animation: whether its files can move; Sarvel's do not.
        profile: whether it carries a color profile.
        longest: px of a side that it can have, or that browsers take, at most.
        version: names the library that writes it.
        efforts: options of every file by effort; without one of them, the normal ones. Their effect: docs/press.md.
        lossy: options next to `quality`, of files that leave something out; None if it cannot.
        lossless: options of files that keep every pixel; None if it cannot.
        drawn: options of lossy files of flat graphics, which win over those above.
        typical: the quality with which pictures commonly reach a likeness: where the search begins.
        interlaces: whether it takes the option `interlace`.
        save: writes a file, where Pillow alone does not do.
    """

    name: str
    media_type: str
    ending: str
    alpha: bool
    depths: tuple[int, ...]
    animation: bool
    profile: bool
    longest: int
    version: Callable[[], str]
    always: Options
    efforts: Mapping[Effort, Options]
    lossy: Options | None
    lossless: Options | None
    drawn: Options
    typical: Typical = field(default_factory=lambda: Typical(80, 1))
    interlaces: bool = False
    save: Callable[[Pixels, Options], bytes] | None = None

    def expected(self, likeness: float, texture: Texture = USUAL) -> int:
        """The quality with which pictures of a texture commonly reach a likeness."""
        return within(self.typical.at(likeness, texture))

    def facts(self) -> FormatFacts:
        """The facts about the format that the core needs."""
        return FormatFacts(
            self.name,
            self.media_type,
            self.ending,
            alpha=self.alpha,
            lossy=self.lossy is not None,
            lossless=self.lossless is not None,
            interlaces=self.interlaces,
            longest=self.longest,
            codecs={effort: self._told(effort) for effort in EFFORTS},
        )

    def _told(self, effort: Effort) -> str:
        """The version of the library, and all options, as a fingerprint has them."""
        always = {**self.always, **self._tried(effort)}
        settings = {"always": always, "lossy": self.lossy, "lossless": self.lossless, "drawn": self.drawn}
        written = [
            f"{kind}: {', '.join(f'{name}={value}' for name, value in sorted(options.items()))}"
            for kind, options in settings.items()
            if options
        ]
        return "; ".join([self.version(), *written])

    def _tried(self, effort: Effort) -> Options:
        return self.efforts.get(effort, self.efforts.get("normal", {}))

    def encode(self, pixels: Pixels, settings: EncoderSettings) -> bytes:
        """A file of this format. Transparent pixels need a format with alpha, a profile one that carries it."""
        options: dict[str, Any] = {**self.always, **self._tried(settings.effort)}
        if settings.quality is None:
            options |= self.lossless or {}
        else:
            options |= {**(self.lossy or {}), **(self.drawn if settings.drawn else {}), "quality": settings.quality}
        if settings.profile:
            options["icc_profile"] = settings.profile
        if settings.exif:
            options["exif"] = settings.exif
        if self.interlaces:
            options["interlace"] = settings.interlace
        return self.save(pixels, options) if self.save else saved(Image.fromarray(pixels), self.name, options)


def within(quality: float) -> int:
    """A quality between LOWEST and HIGHEST."""
    return round(min(max(quality, LOWEST), HIGHEST))


def saved(image: Image.Image, name: str, options: Options) -> bytes:
    """An image as a file that Pillow writes."""
    file = io.BytesIO()
    image.save(file, name, **options)
    return file.getvalue()


def built_in(library: str) -> Callable[[], str]:
    """The version of a library that Pillow holds, asked for when it is needed."""
    return lambda: f"{library} {features.version(library) or 'unknown'}"
