"""Pictures compared with their masters, on every core, in threads: they start at once, and codecs do not hold each other up."""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from concurrent.futures import Executor, Future
from dataclasses import dataclass

from sarvel.core.edition.compose import Crop, Picture
from sarvel.core.edition.encoding import EncoderNumbers
from sarvel.encode.compare import Compared, CompareWork, CropFiles, compare
from sarvel.encode.work import CropWork
from sarvel.files.output_folder import OutputFolder
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.page_sums import DESKTOP
from sarvel.pipeline.site import Site
from sarvel.tools.report.facts import Window


@dataclass(frozen=True)
class Comparing:
    """Comparisons that have begun.

    Attributes:
        masters: the result for each master, by its key.
        crops: the name of the crop and the width of the rung that are compared, by the keys of pictures.
    """

    masters: Mapping[str, Future[list[Compared]]]
    crops: Mapping[str, tuple[str, int]]

    def windows(self, listener: Listener) -> dict[str, tuple[Window, ...]]:
        """Waits for all; the windows of pictures, by their keys."""
        found: dict[str, tuple[Window, ...]] = {}
        with listener.progress("comparing", len(self.masters)) as advance:
            for key, some in self.masters.items():
                for one in some.result():
                    crop, rung = self.crops[one.name]
                    views, maps = (
                        {name: _address(content) for name, content in files.items()} for files in (one.views, one.maps)
                    )
                    found[one.name] = (Window(*one.size, crop, rung, views, maps, one.differences),)
                advance(1, key)
        return found


def begin(
    pool: Executor, shown: Sequence[Picture], numbers: Mapping[str, EncoderNumbers], site: Site, most: int
) -> Comparing:
    """Begins to compare pictures with their masters, each in the file that a desktop fetches.

    Args:
        numbers: encoder's numbers and the likeness that they reach.
        most: how many pictures at most; those least similar first.
    """
    least = {key_of(one): _likeness(one, numbers) for one in shown}
    rungs: dict[str, list[CropFiles]] = {}
    digests, crops = {}, {}
    for picture in sorted(shown, key=lambda one: (least[key_of(one)], key_of(one)))[:most]:
        crop, key = picture.crop_on(DESKTOP), key_of(picture)
        one = _rung(key, picture, crop, site.output)
        crops[key] = (crop.rule.name, one.size[0])
        digests[crop.source.key] = crop.source.digest
        rungs.setdefault(crop.source.key, []).append(one)
    works = (CompareWork(site.masters.file(key), key, digests[key], tuple(some)) for key, some in rungs.items())
    return Comparing({work.key: pool.submit(compare, work) for work in works}, crops)


def key_of(picture: Picture) -> str:
    """What a picture is known by in a report."""
    return f"{picture.slot.name} {picture.master.key}"


def _likeness(picture: Picture, numbers: Mapping[str, EncoderNumbers]) -> float:
    """The least likeness that is known of its files, 0 to 100."""
    searches = [ladder[0].encoding.search for crop in picture.crops for ladder in crop.renditions.values()]
    points = [point for one in searches if one and one.key in numbers for point in numbers[one.key].points]
    return min((alike for _, _, alike in points), default=100.0)


def _rung(name: str, picture: Picture, crop: Crop, output: OutputFolder) -> CropFiles:
    wanted = picture.fetched(DESKTOP)
    files = {
        format_: output.file(one.name)
        for format_, ladder in crop.renditions.items()
        for one in ladder
        if one.width == wanted.width
    }
    return CropFiles(name, CropWork(crop.box, crop.rule.treatment, "srgb"), (wanted.width, wanted.height), files)


def _address(content: bytes) -> str:
    return f"data:image/webp;base64,{base64.b64encode(content).decode()}"
