"""The files that devices fetch for the images of any page, and how well each fits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from sarvel.core.html.images import ImageElement
from sarvel.core.html.mentions import Use
from sarvel.core.html.source_selection import Pick, passed_over, pick
from sarvel.core.html.tags import line_and_column
from sarvel.core.html.template_code import holds_code
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.fit import Fit, fit
from sarvel.encode.image_headers import read_header
from sarvel.pages.read.expression import expression
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import master_named
from sarvel.pages.read.roots import Roots, file_of
from sarvel.pipeline.documents import document_of
from sarvel.pipeline.roots import project_of, roots_of
from sarvel.plan.read import Plan


@dataclass(frozen=True)
class PageImage:
    """One image of a page.

    Attributes:
        number: its place among the page's images, from 1.
        element: what decides which file it fetches.
        line: where it stands, from 1.
        slot: the slot that it is for; "" if nothing names one.
        master: the file that its author named, if it is woven; else "".
        master_bytes: of the master behind it; None if it has none at hand.
    """

    number: int
    element: ImageElement
    line: int
    slot: str
    master: str
    master_bytes: int | None


@dataclass(frozen=True)
class Outcome:
    """The file that one device gets for one image.

    Attributes:
        pick: the file that it fetches.
        weight: bytes of the file; None if it is not at hand.
        broken: whether there is no file to fetch, or it is missing.
    """

    image: PageImage
    visits: Visits
    pick: Pick
    fit: Fit
    weight: int | None
    broken: bool

    @property
    def passed(self) -> list[str]:
        """Sources and candidates that it does not choose, with reasons."""
        return passed_over(self.image.element, self.visits.device)

    @property
    def verdict(self) -> str:
        """The fit in words, or a worse fault."""
        if self.broken:
            return "missing" if self.pick.url else "nothing to fetch"
        return str(self.fit)


def images_of(text: str, page: Path | None, plan: Plan | None) -> list[PageImage]:
    """The images of a page, in order.

    Args:
        page: its file, which tells how it is read; None for standard input, which is read as HTML.
        plan: the plan, if there is one.
    """
    found = []
    for image in document_of(text, page, plan).images:
        line, _ = line_and_column(text, image.tag.start)
        weight = _master_bytes(image.master, page, plan)
        found.append(PageImage(image.number, image.element, line, image.slot, image.master, weight))
    return found


@dataclass(frozen=True)
class OtherFile:
    """A file that every device fetches with the page, though no img names it: a poster, an icon.

    Attributes:
        line: where it is named, from 1.
        weight: bytes; None if it is not at hand.
    """

    use: Use
    url: str
    line: int
    weight: int | None


def others_of(text: str, page: Path | None, plan: Plan | None) -> list[OtherFile]:
    """The other files of a page, in order; arguments as in `images_of`."""
    document, roots = document_of(text, page, plan), roots_of(page, text, plan)
    found = []
    for one in document.mentions:
        if one.use in ("single", "icon") and not holds_code(one.url):
            file = file_of(one.url, roots)[0]
            line, _ = line_and_column(text, one.start)
            found.append(OtherFile(one.use, one.url, line, file.stat().st_size if file else None))
    return found


def outcomes(
    images: Sequence[PageImage], audience: Sequence[Visits], text: str, page: Path | None, plan: Plan | None
) -> dict[int, list[Outcome]]:
    """The file that each device gets for each image, by the image's number.

    Args:
        audience: the devices, in order.
        page: the page's file; None for standard input.
        plan: the plan, if there is one.
    """
    roots = roots_of(page, text, plan)
    files: dict[str, _AtHand] = {}  # every device asks for the same few files
    return {image.number: [_outcome(image, visits, roots, plan, files) for visits in audience] for image in images}


class _AtHand(NamedTuple):
    """The file of an address: its bytes and px across, None if it is not at hand; and whether one is missing."""

    weight: int | None
    width: int | None
    missing: bool


def _master_bytes(master: str, page: Path | None, plan: Plan | None) -> int | None:
    if not master or not plan:
        return None
    said = expression(master, "")
    key = master_named(said, page or Path("page"), project_of(plan), plan.masters_folder) if said else None
    file = plan.masters_folder / key if key else None
    return file.stat().st_size if file and is_file(file) else None


def _outcome(image: PageImage, visits: Visits, roots: Roots, plan: Plan | None, files: dict[str, _AtHand]) -> Outcome:
    found = pick(image.element, visits.device)
    if found.url not in files:
        files[found.url] = _at_hand(found.url, roots)
    at_hand = files[found.url]
    slot = plan.slots.get(image.slot) if plan and image.master else None
    said = image.element.attributes.get("width", "")
    shown = slot.shown.on(visits.device) if slot else float(said) if said.isdecimal() else None
    densest = max(slot.densities) if slot else None
    return Outcome(
        image,
        visits,
        found,
        fit(found, visits.device, shown=shown, width=at_hand.width, densest=densest),
        at_hand.weight,
        at_hand.missing,
    )


def _at_hand(url: str, roots: Roots) -> _AtHand:
    file, missing = file_of(url, roots) if url else (None, roots.page)
    if file is None:
        return _AtHand(None, None, missing is not None)
    return _AtHand(file.stat().st_size, read_header(file, whole=False).width or None, missing=False)
