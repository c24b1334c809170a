"""The work on one master, as data that can be sent to a worker, and its result."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from sarvel.core.crop.place import Box
from sarvel.core.edition.compose import Crop, Edition, Picture
from sarvel.core.edition.encoding import EncoderNumbers, Size
from sarvel.core.edition.rendition import Placeholder, Rendition
from sarvel.core.model import Effort, Gamut, Metadata, Treatment
from sarvel.encode.masters import MasterFile
from sarvel.files.ledger import MadeFile
from sarvel.notices import Notice

# Seconds for a million pixels of a photograph to be encoded, with normal effort, on a machine of 2026; only their ratios count.
_ENCODE: Mapping[str, float] = {"avif": 0.5, "jxl": 0.5, "webp": 0.12, "jpeg": 0.02}
_LOSSLESS = 1.0  # the same, of formats that keep every pixel
_OTHERS = 0.1  # to be resampled and written; and to be decoded and compared, where a number is searched for
_FIRST_SEARCHED = 1.8  # tries for the number of the narrowest rung, on average; of the next ones one mostly does
_FILE = 0.01  # s of a file, no matter what its size


def seconds_of(rendition: Rendition) -> float:
    """About how long a file takes, next to others, s."""
    encoding, search = rendition.encoding, rendition.encoding.search
    once = _LOSSLESS if encoding.lossless else _ENCODE.get(rendition.format, _LOSSLESS)
    is_tried = search is not None and rendition.size in search.sizes
    tries = _FIRST_SEARCHED if search and rendition.size == search.sizes[0] else 1.0
    megapixels = rendition.width * rendition.height / 1e6
    return _FILE + megapixels * (once * tries + _OTHERS * (1 + is_tried))


@dataclass(frozen=True)
class CropWork:
    """One crop of a master and what to make of it.

    Attributes:
        box: px of the upright master, turned and mirrored as the treatment says.
        known: encoder's numbers that were found before, by the key of their search.
        orders: of each slot's crop that it is the work of, the keys of searches, best format first, each with how much less the
            files must weigh than those of the next simpler format, a share.
    """

    box: Box
    treatment: Treatment
    gamut: Gamut
    renditions: list[Rendition] = field(default_factory=list)
    placeholders: list[Placeholder] = field(default_factory=list)
    known: dict[str, EncoderNumbers] = field(default_factory=dict)
    orders: list[dict[str, float]] = field(default_factory=list)

    @property
    def estimated_seconds(self) -> float:
        """About how long it takes, next to others, s of one core."""
        return sum(map(seconds_of, self.renditions))

    def sizes(self) -> list[Size]:
        """Its rungs, largest first: those of its files, of searches and of placeholders."""
        searches = [one.encoding.search for one in self.renditions if one.encoding.search]
        tried = {size for search in searches if search.key not in self.known for size in search.sizes}
        wanted = {one.size for one in self.renditions} | {one.size for one in self.placeholders}
        return sorted(wanted | tried, reverse=True)


@dataclass(frozen=True)
class MasterWork:
    """All that is to be made of one master.

    Attributes:
        digest: what its bytes must still be.
    """

    key: str
    file: MasterFile
    digest: str
    output: Path
    crops: tuple[CropWork, ...]

    @property
    def count(self) -> int:
        """The number of files that it makes."""
        return sum(len(crop.renditions) for crop in self.crops)

    @property
    def estimated_seconds(self) -> float:
        """About how long it takes, next to others, s of one core."""
        return sum(crop.estimated_seconds for crop in self.crops)

    def parts(self, most: float) -> list[MasterWork]:
        """The work in parts, each some of its crops, of about equal expense.

        Args:
            most: expense of a part, s, above 0; a crop that takes longer is a part of its own.
        """
        count = min(len(self.crops), math.ceil(self.estimated_seconds / most))
        shares: list[list[CropWork]] = [[] for _ in range(max(1, count))]
        for crop in sorted(self.crops, key=lambda crop: -crop.estimated_seconds):
            min(shares, key=lambda share: sum(one.estimated_seconds for one in share)).append(crop)
        return [replace(self, crops=tuple(share)) for share in shares]

    @property
    def pixel_count(self) -> int:
        """Pixels to encode."""
        return sum(one.width * one.height for crop in self.crops for one in crop.renditions)

    @property
    def efforts(self) -> Counter[Effort]:
        """Pixels to encode with each effort."""
        pixels = Counter[Effort]()
        for crop in self.crops:
            for one in crop.renditions:
                pixels[one.encoding.effort] += one.width * one.height
        return pixels

    @property
    def metadata(self) -> set[Metadata]:
        """The metadata of the master that some rendition keeps."""
        return {kept for crop in self.crops for one in crop.renditions for kept in one.encoding.metadata}


@dataclass(frozen=True)
class Made:
    """The result of the work on one master.

    Attributes:
        findings: for the ledger, by key.
        fault: why not all was made; None if it was.
    """

    key: str
    files: tuple[MadeFile, ...]
    findings: Mapping[str, str]
    fault: Notice | None = None


def plan_work(
    edition: Edition,
    master: Callable[[str], MasterFile],
    output: Path,
    missing: set[str],
    known: Mapping[str, EncoderNumbers],
    shown: set[str],
) -> list[MasterWork]:
    """The work on each master: the least first, so that a file is there soon; eager images before lazy ones; then the longest.

    Args:
        master: tells where a master is, by its key.
        missing: names of renditions to make; each is made once, though two pictures ask for it.
        known: encoder's numbers found before, by the key of their search.
        shown: keys of placeholders that are there already.
    """
    done = set(shown)
    left = set(missing)
    masters: dict[str, dict[tuple[Box, Treatment, Gamut], CropWork]] = {}
    first: set[str] = set()
    for picture, crop in sorted(edition.crops(), key=lambda pair: pair[0].slot.loading != "eager"):
        files = [one for ladder in crop.renditions.values() for one in ladder if one.name in left]
        placeholder = crop.placeholder if crop.placeholder and crop.placeholder.key not in {"", *done} else None
        if not files and not placeholder:
            continue
        left -= {one.name for one in files}
        work = _work_on(masters, picture, crop)
        first |= {crop.source.key} if picture.slot.loading == "eager" else set()
        work.renditions.extend(files)
        firsts = ((name, ladder[0].encoding.search) for name, ladder in crop.renditions.items())
        work.orders.append({search.key: crop.pays[name] for name, search in firsts if search})
        if placeholder:
            work.placeholders.append(placeholder)
            done.add(placeholder.key)
        searches = [one.encoding.search for one in files if one.encoding.search]
        work.known.update({search.key: known[search.key] for search in searches if search.key in known})
    digests = {crop.source.key: crop.source.digest for _, crop in edition.crops()}
    works = [
        MasterWork(key, master(key), digests[key], output, tuple(crops.values())) for key, crops in masters.items()
    ]
    least = min(works, key=lambda work: work.estimated_seconds, default=None)
    return sorted(works, key=lambda work: (work is not least, work.key not in first, -work.estimated_seconds))


def _work_on(
    masters: dict[str, dict[tuple[Box, Treatment, Gamut], CropWork]], picture: Picture, crop: Crop
) -> CropWork:
    part = (crop.box, crop.rule.treatment, picture.slot.finish.gamut)
    return masters.setdefault(crop.source.key, {}).setdefault(part, CropWork(*part))
