"""The work of one worker: one master decoded once, and all missing files made from it."""

from __future__ import annotations

from dataclasses import dataclass, field

from sarvel.core.edition.rendition import EncoderNumbers, Encoding, QualitySearch, Rendition, Size
from sarvel.core.model import Gamut
from sarvel.core.pixels.gamut import srgb_of_wide
from sarvel.core.pixels.likeness import Reference
from sarvel.core.pixels.resample import Light, Pixels, pixels_from_light
from sarvel.errors import MasterError
from sarvel.press.atomic import content_digest, write_whole
from sarvel.press.codecs import CODECS, Codec, Settings
from sarvel.press.credit import credit_of
from sarvel.press.decode import Decoded, decode
from sarvel.press.ledger import MadeFile
from sarvel.press.ledger_entries import as_finding, placeholder_key, search_key
from sarvel.press.masters import opened
from sarvel.press.placeholder_css import background_of
from sarvel.press.quality_search import CLOSE, NEXT_CLOSE, Attempt, find_quality, quality_within
from sarvel.press.rungs import rung
from sarvel.press.untouched import untouched
from sarvel.press.work import CutWork, Made, MasterWork
from sarvel.press.worker_process import parent_lives


def do_work(work: MasterWork) -> Made:
    """Makes all files of one master; a fault of the master ends it early and is told, not raised.

    Raises:
        OutputError: a file cannot be written, which would go for every master.
    """
    files: list[MadeFile] = []
    findings: dict[str, str] = {}
    try:
        exif = _credit(work) if work.keep else b""
        masters: dict[Gamut, Decoded] = {}
        for cut in work.cuts:
            if cut.gamut not in masters:
                masters[cut.gamut] = decode(work.file, work.key, cut.gamut, work.digest)
            bench = Bench(cut, masters[cut.gamut], exif)
            for placeholder in cut.placeholders:
                background = background_of(placeholder.kind, bench.in_srgb(placeholder.size))
                findings[placeholder_key(placeholder.key)] = background
            for rendition in cut.renditions:
                content = _no_heavier(work, bench, rendition, bench.encode(rendition))
                write_whole(work.output / rendition.name, content, still=parent_lives)
                files.append(MadeFile(rendition.name, len(content), content_digest(content), rendition.fingerprint))
            findings |= bench.findings
    except MasterError as error:
        return Made(work.key, tuple(files), findings, str(error))
    return Made(work.key, tuple(files), findings)


@dataclass
class Bench:
    """One cut at all its rungs, with intermediate results of its files.

    Attributes:
        cut: what to make.
        master: what to make it from.
        exif: metadata for files that keep some.
        findings: encoder's numbers that were searched for, as the ledger keeps them.
    """

    cut: CutWork
    master: Decoded
    exif: bytes = b""
    findings: dict[str, str] = field(default_factory=dict)

    _pixels: dict[tuple[Size, bool], Pixels] = field(default_factory=dict, repr=False)
    _references: dict[tuple[Size, bool], Reference] = field(default_factory=dict, repr=False)
    _tried: dict[tuple[str, Size], Attempt] = field(default_factory=dict, repr=False)

    def __post_init__(self) -> None:
        """Copies the known numbers, to which more are added."""
        self._known = dict(self.cut.known)

    def in_srgb(self, size: Size) -> Light:
        """A rung as light in sRGB."""
        light = rung(self.master, self.cut, size)
        return srgb_of_wide(light) if self.master.profile else light

    def pixels(self, size: Size, codec: Codec) -> Pixels:
        """A rung as a format can have it; kept, for light would take four times the memory."""
        narrowed = bool(self.master.profile) and not codec.profile
        if (size, narrowed) not in self._pixels:
            light = self.in_srgb(size) if narrowed else rung(self.master, self.cut, size)
            self._pixels[size, narrowed] = pixels_from_light(light)
        return self._pixels[size, narrowed]

    def encode(self, rendition: Rendition) -> bytes:
        """The bytes of a file."""
        codec, encoding = CODECS[rendition.format], rendition.encoding
        settings = self._settings(rendition)
        if encoding.search and not settings.profile and not settings.exif:
            tried = self._tried.get((encoding.search.key, rendition.size))
            if tried and tried.quality == settings.quality:
                return tried.content
        return codec.encode(self.pixels(rendition.size, codec), settings)

    def encode_within(self, rendition: Rendition, most: int) -> bytes:
        """The bytes of a file, by the highest number of its encoder that needs no more of them, or else by the lowest."""
        codec, settings = CODECS[rendition.format], self._settings(rendition)
        pixels = self.pixels(rendition.size, codec)
        return quality_within(most, settings, lambda tried: codec.encode(pixels, tried))

    def _settings(self, rendition: Rendition) -> Settings:
        codec, encoding = CODECS[rendition.format], rendition.encoding
        quality = encoding.quality
        if encoding.search:
            quality = self.numbers(codec, encoding.search, encoding).at(rendition.width)
        profile = self.master.profile if codec.profile else b""
        exif = self.exif if encoding.keep else b""
        return Settings(quality, encoding.drawn, encoding.effort, encoding.interlace, profile, exif)

    def numbers(self, codec: Codec, search: QualitySearch, encoding: Encoding) -> EncoderNumbers:
        """The encoder's numbers of a format: known, or searched for now."""
        if search.key not in self._known:
            points: list[tuple[int, int, float]] = []
            for size in search.sizes:
                found = self._search(codec, search, size, encoding, start=points[-1][1] if points else None)
                points.append((size[0], found.quality, found.likeness))
            self._known[search.key] = EncoderNumbers(tuple(points))
            self.findings[search_key(search.key)] = as_finding(self._known[search.key])
        return self._known[search.key]

    def _search(
        self, codec: Codec, search: QualitySearch, size: Size, encoding: Encoding, *, start: int | None = None
    ) -> Attempt:
        pixels, narrowed = self.pixels(size, codec), bool(self.master.profile) and not codec.profile
        if (size, narrowed) not in self._references:
            self._references[size, narrowed] = Reference(pixels)
        close = CLOSE if start is None else NEXT_CLOSE
        reference = self._references[size, narrowed]
        found = find_quality(
            pixels,
            reference,
            codec,
            search.likeness,
            drawn=encoding.drawn,
            effort=encoding.effort,
            start=start,
            close=close,
        )
        self._tried[search.key, size] = found
        return found


def _no_heavier(work: MasterWork, bench: Bench, rendition: Rendition, content: bytes) -> bytes:
    """The bytes of a file, no more than its master has: the master's own where they can stand for it, else by a lower quality."""
    if own := untouched(work, bench.cut, rendition, len(content)):
        return own
    most = work.file.stat().st_size if work.file.exists() else len(content)
    is_lossy = rendition.encoding.quality is not None or rendition.encoding.search is not None
    return bench.encode_within(rendition, most) if len(content) > most and is_lossy else content


def _credit(work: MasterWork) -> bytes:
    with opened(work.file, work.key, work.digest) as image:
        return credit_of(image)
