"""Images of a site that runs, or that was built, measured in a browser and matched to the tags of its templates.

A tag is matched by the name of its file, which bundlers keep and add a digest to, and among images of one file by its classes.
"""

from __future__ import annotations

import contextlib
import urllib.parse
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from sarvel.browser.links import linked_pages
from sarvel.browser.look import begin_with
from sarvel.browser.page_boxes import PageBoxes, measure
from sarvel.browser.session import Session
from sarvel.browser.several import looked_at
from sarvel.browser.site_server import Folders, SiteServer
from sarvel.core.layout.alike import united
from sarvel.core.survey.behaviour import Behaviour
from sarvel.errors import PageError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.page_files import SERVABLE
from sarvel.pipeline.listener import Listener
from sarvel.tools.start.measured import Place, behaviour_of
from sarvel.workers.cores import available_workers


@dataclass(frozen=True)
class ImageTag:
    """An img of a template.

    Attributes:
        name: of its file.
    """

    place: Place
    name: str
    classes: frozenset[str]

    def is_shown_by(self, files: Collection[str]) -> bool:
        """Tells whether its file is among the names in an address; a bundler may have put a digest behind the stem."""
        own = PurePosixPath(self.name)
        stems = (PurePosixPath(one).stem for one in files if PurePosixPath(one).suffix)
        return any(stem == own.stem or (stem.startswith(own.stem) and stem[len(own.stem)] in ".-_") for stem in stems)


@contextlib.contextmanager
def served(built: Path) -> Iterator[str]:
    """The address of a built site, while it is served."""
    server = SiteServer(Folders([built]), {})
    try:
        yield server.address
    finally:
        server.close()


def pages_of_built(built: Path) -> list[str]:
    """The paths of the pages in a folder."""
    files = sorted(file for ending in SERVABLE for file in built.rglob(f"*{ending}"))
    return ["/" + urllib.parse.quote(file.relative_to(built).as_posix()) for file in files]


def behaviours_at(
    address: str, begin: Sequence[str], tags: Sequence[ImageTag], driver: str | None, listener: Listener
) -> tuple[Mapping[Place, Behaviour], list[Notice]]:
    """Measures the images of a site's pages.

    Args:
        address: of the site, without a slash at its end.
        begin: paths of pages to begin with; others are found by their links.
        tags: those whose behaviour is wanted.

    Returns:
        The behaviour of each tag that a page shows; and the faults of pages.

    Raises:
        BrowserError: no browser can be had.
    """
    paths = linked_pages(address, begin, driver)

    @contextlib.contextmanager
    def prepared(browser: Session) -> Iterator[Callable[[str], PageBoxes]]:
        begin_with(browser)
        yield lambda path: measure(browser.at(address), path, named=True)

    seen: list[PageBoxes] = []
    faults: list[Notice] = []
    with listener.progress("measuring", len(paths)) as advance:
        for path, page in looked_at(paths, prepared, driver, available_workers()):
            if isinstance(page, PageError):
                faults += [Notice(Kind.PAGE, f"{address}{path}", one.text, one.cure) for one in page.notices]
            else:
                seen.append(page)
            advance(1, path)
    return matched(tags, seen), faults


def matched(tags: Sequence[ImageTag], pages: Sequence[PageBoxes]) -> dict[Place, Behaviour]:
    """The behaviour of each tag, as wide as the widest image that comes from it."""
    shown = [
        (_names_in(address), frozenset(classes.split()), page, number)
        for page in pages
        for number, (address, classes) in enumerate(page.named)
        if number in page.boxes
    ]
    found: dict[Place, Behaviour] = {}
    for tag in tags:
        of_file = [one for one in shown if tag.is_shown_by(one[0])]
        exact = [one for one in of_file if tag.classes <= one[1]] or of_file
        behaviours = [one for _, _, page, number in exact if (one := behaviour_of(page, number)).box.shown]
        if behaviours:
            first = (max(one.first[0] for one in behaviours), max(one.first[1] for one in behaviours))
            box = united([one.box for one in behaviours]) if len(behaviours) > 1 else behaviours[0].box
            found[tag.place] = Behaviour(box, behaviours[0].ratios, first)
    return found


def _names_in(address: str) -> frozenset[str]:
    """The file names in an address: of its path, and of paths in its query, as image services have them."""
    parts = urllib.parse.urlsplit(address)
    if parts.scheme == "data":
        return frozenset()
    paths = [parts.path, *(value for _, value in urllib.parse.parse_qsl(parts.query))]
    return frozenset(PurePosixPath(urllib.parse.unquote(path)).name for path in paths)
