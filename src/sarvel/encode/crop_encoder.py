"""The encoder of one crop: its rungs as pixels, and its encoder's numbers, worked out once for all its files."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from sarvel.core.edition.encoding import EncoderNumbers, Encoding, QualitySearch, Size
from sarvel.core.edition.rendition import Rendition
from sarvel.core.edition.settle import FormatBytes, surely_not_paying
from sarvel.core.layout.growth import growth_of
from sarvel.core.pixels.gamut import srgb_of_wide
from sarvel.core.pixels.likeness import Reference
from sarvel.core.pixels.resample import Light, Pixels, pixels_from_light
from sarvel.encode.codecs import CODECS, Codec, EncoderSettings
from sarvel.encode.decode import Decoded
from sarvel.encode.once import Once
from sarvel.encode.quality_search import Attempt, find_quality, quality_within
from sarvel.encode.rungs import rung
from sarvel.encode.work import CropWork
from sarvel.files.ledger_entries import as_finding, search_key, unpaid_finding


@dataclass
class CropEncoder:
    """One crop at all its rungs, with intermediate results of its files; several threads may use it, one for each format.

    Attributes:
        exif: metadata for files that keep some.
        by_format: its files, those of one encoding together.
        searched: of these, the ones whose encoder's numbers must be searched for.
    """

    crop: CropWork
    master: Decoded
    exif: bytes = b""
    by_format: list[list[Rendition]] = field(init=False, repr=False)
    searched: list[list[Rendition]] = field(init=False, repr=False)

    _pixels: Once[tuple[Size, bool], Pixels] = field(default_factory=Once, repr=False)
    _references: Once[tuple[Size, bool], Reference] = field(default_factory=Once, repr=False)
    _tried: dict[tuple[str, Size], Attempt] = field(default_factory=dict, repr=False)

    def __post_init__(self) -> None:
        """Copies the known numbers, to which more are added, and finds out which are missing."""
        self._known = dict(self.crop.known)
        groups: dict[Encoding, list[Rendition]] = {}
        for one in self.crop.renditions:
            groups.setdefault(one.encoding, []).append(one)
        self.by_format = list(groups.values())
        self.searched = [files for files in self.by_format if self._is_searched(files[0])]

    def in_srgb(self, size: Size) -> Light:
        """A rung as light in sRGB."""
        light = rung(self.master, self.crop, size)
        return srgb_of_wide(light) if self.master.profile else light

    def pixels(self, size: Size, codec: Codec) -> Pixels:
        """A rung as a format can have it; kept, for light would take four times the memory."""
        narrowed = bool(self.master.profile) and not codec.profile

        def made() -> Pixels:
            return pixels_from_light(self.in_srgb(size) if narrowed else rung(self.master, self.crop, size))

        return self._pixels.get((size, narrowed), made)

    def _is_searched(self, rendition: Rendition) -> bool:
        search = rendition.encoding.search
        return search is not None and search.key not in self._known

    def unpaid(self, files: Sequence[Rendition]) -> dict[Rendition, dict[str, str]]:
        """Formats that surely do not pay for any slot that the crop is the work of, with what the ledger keeps of that.

        Args:
            files: one file of each search that was done.
        """
        by_key = {one.encoding.search.key: one for one in files if one.encoding.search}
        tried = {key: self._tries(one, one.encoding.search) for key, one in by_key.items() if one.encoding.search}
        found: dict[str, set[str]] = {key: set() for key in tried}  # the simpler format that each slot compares it with
        for order in self.crop.orders:
            known = {key: tried[key] for key in order if key in tried}
            dropped = surely_not_paying(known, order) if len(known) == len(order) else {}
            for key in known:
                found[key].add(dropped.get(key, ""))
        return {
            by_key[key]: unpaid_finding(
                key, by_key[simpler].format, tried[key].sum, round(tried[simpler].at_widths_of(tried[key]))
            )
            for key, against in found.items()
            if "" not in against
            for simpler in sorted(against)[:1]
        }

    def _tries(self, rendition: Rendition, search: QualitySearch) -> FormatBytes:
        """The files that a search came to."""
        files = {size[0]: len(self._tried[search.key, size].content) for size in search.sizes}
        return FormatBytes(files, growth_of(rendition.format, drawn=rendition.encoding.drawn))

    def search(self, rendition: Rendition) -> dict[str, str]:
        """Finds the encoder's numbers of a format, if they are to be searched for and not known.

        Returns:
            The findings, as the ledger keeps them.
        """
        search = rendition.encoding.search
        if search is None or search.key in self._known:
            return {}
        points: list[tuple[int, int, float]] = []
        found: Attempt | None = None
        for size in search.sizes:
            found = self._search(search, size, rendition, found)
            points.append((size[0], found.quality, found.likeness))
        self._known[search.key] = EncoderNumbers(tuple(points))
        return {search_key(search.key): as_finding(self._known[search.key])}

    def numbers(self, rendition: Rendition) -> EncoderNumbers | None:
        """The encoder's numbers of the format of a file, once they were searched for; None if they are not to be."""
        search = rendition.encoding.search
        return self._known[search.key] if search else None

    def in_order(self, files: Sequence[Rendition]) -> list[Rendition]:
        """Files of a format, first those that its search made already, then those of phones."""
        return sorted(files, key=lambda one: (self._made(one) is None, one.width))

    def encode(self, rendition: Rendition) -> bytes:
        """The bytes of a file."""
        if made := self._made(rendition):
            return made
        codec = CODECS[rendition.format]
        return codec.encode(self.pixels(rendition.size, codec), self._settings(rendition))

    def encode_within(self, rendition: Rendition, most: int) -> bytes:
        """The bytes of a file, by the highest number of its encoder that needs no more of them, or else by the lowest."""
        codec, settings = CODECS[rendition.format], self._settings(rendition)
        pixels = self.pixels(rendition.size, codec)
        return quality_within(most, settings, lambda tried: codec.encode(pixels, tried))

    def _made(self, rendition: Rendition) -> bytes | None:
        """The bytes of a file, if a try of the search had all its settings."""
        search, settings = rendition.encoding.search, self._settings(rendition)
        if search is None or settings.profile or settings.exif:
            return None
        tried = self._tried.get((search.key, rendition.size))
        return tried.content if tried and tried.quality == settings.quality else None

    def _settings(self, rendition: Rendition) -> EncoderSettings:
        codec, encoding = CODECS[rendition.format], rendition.encoding
        numbers = self.numbers(rendition)
        quality = numbers.at(rendition.width) if numbers else encoding.quality
        profile = self.master.profile if codec.profile else b""
        exif = self.exif if encoding.metadata else b""
        return EncoderSettings(quality, encoding.drawn, encoding.effort, encoding.interlace, profile, exif)

    def _search(self, search: QualitySearch, size: Size, rendition: Rendition, narrower: Attempt | None) -> Attempt:
        codec = CODECS[rendition.format]
        pixels, narrowed = self.pixels(size, codec), bool(self.master.profile) and not codec.profile
        found = find_quality(
            pixels,
            self._references.get((size, narrowed), lambda: Reference(pixels)),
            codec,
            search.likeness,
            drawn=rendition.encoding.drawn,
            effort=rendition.encoding.effort,
            narrower=narrower,
        )
        self._tried[search.key, size] = found
        return found
