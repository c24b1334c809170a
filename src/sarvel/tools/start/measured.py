"""The images that a draft is made from, measured in a browser: how each behaves, by its place."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from sarvel.browser.page_boxes import PageBoxes
from sarvel.browser.site_server import Folders
from sarvel.core.layout.alike import Measured
from sarvel.core.survey.behaviour import Behaviour, ratios_of
from sarvel.pages.read.page_files import read_text
from sarvel.pipeline.listener import Listener
from sarvel.plan.read import SERVED
from sarvel.tools.measure.pages import MeasuredPages, PageToMeasure, measured_pages

Place = tuple[Path, int]
"""A page, and the offset of a tag in its text."""


def behaviours(
    places: Sequence[Place],
    without_limit: Iterable[Place],
    tops: Sequence[Path],
    base: str,
    driver: str | None,
    listener: Listener,
) -> tuple[Mapping[Place, Behaviour], MeasuredPages]:
    """Measures images and backgrounds of pages.

    Args:
        without_limit: those whose file will be another, so that its width limits nothing for all.
        tops: the folders that are served as /, the likeliest first.
        base: the path that the site is published below; "" for none.
        driver: address of a WebDriver that runs already; None starts the one that is installed.

    Returns:
        The behaviour of each measured image; and the result for each page.

    Raises:
        BrowserError: no browser can be had.
    """
    by_page: dict[Path, list[int]] = {}
    for file, start in places:
        by_page.setdefault(file, []).append(start)
    sheets = [PageToMeasure(file, read_text(file), starts) for file, starts in by_page.items()]
    served = [folder for top in tops for name in SERVED if (folder := top / name).is_dir()]
    measured = measured_pages(sheets, Folders([*tops, *served], base=base), driver, listener)
    free = set(without_limit)
    found = {}
    for file, starts in by_page.items():
        for number, start in enumerate(starts):
            page = measured.pages.get(file)
            if page and number in page.boxes:
                found[file, start] = behaviour_of(page, number, limited=(file, start) not in free)
    return found, measured


def behaviour_of(page: PageBoxes, number: int, *, limited: bool = True) -> Behaviour:
    """The behaviour of one image of a page.

    Args:
        limited: whether its file may limit its width.
    """
    boxes = page.boxes[number]
    natural = max((box.natural[0] for box in boxes.values() if not box.listed), default=0) if limited else 0
    ratios = ratios_of(
        (at, box.width, box.height, box.fit, box.position, box.natural) for at, box in boxes.items() if box.shown
    )
    box = Measured.of(page.widths(number), page.pulls.get(number, {}), natural)
    return Behaviour(box, ratios, page.first.get(number, (0.0, 0.0)))
