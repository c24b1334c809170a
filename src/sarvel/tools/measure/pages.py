"""Pages measured in a browser: served as their authors wrote them, their tags told apart, each page for itself."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.browser.look import PLACE, begin_with
from sarvel.browser.page_boxes import PageBoxes, measure
from sarvel.browser.session import Session
from sarvel.browser.several import looked_at
from sarvel.browser.site_server import Folders, SiteServer
from sarvel.errors import PageError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.page_files import PageText
from sarvel.pages.read.places import with_places
from sarvel.pipeline.listener import Listener
from sarvel.workers.cores import available_workers

_BENDS = "its layout bends too often to measure every bend; the result is an approximation"


@dataclass(frozen=True)
class PageToMeasure:
    """A page to measure.

    Attributes:
        starts: offsets of the tags whose boxes are wanted.
    """

    file: Path
    text: PageText
    starts: Sequence[int]


@dataclass
class MeasuredPages:
    """The result.

    Attributes:
        pages: the boxes by the page's file; the place of a tag is its number in `Sheet.starts`.
        faults: why others could not be measured, a notice each.
        notes: incomplete measurements, a notice each.
    """

    pages: Mapping[Path, PageBoxes]
    faults: Sequence[Notice]
    notes: Sequence[Notice]


def measured_pages(
    sheets: Sequence[PageToMeasure],
    folders: Folders,
    driver: str | None,
    listener: Listener,
    browsers: int | None = None,
) -> MeasuredPages:
    """Measures pages. Faults of single ones stop no others.

    Args:
        driver: address of a WebDriver that runs already; None starts the one that is installed.
        browsers: at one time; None for one a core.

    Raises:
        BrowserError: no browser can be had, or it ends again and again.
    """
    texts: dict[str, bytes] = {}
    paths: dict[Path, str] = {}
    faults: list[Notice] = []
    for one in sheets:
        path = folders.path(one.file)
        if path is None:
            faults.append(
                Notice(
                    Kind.PAGE, str(one.file), "lies outside the served folders", "name a page within the site's folder"
                )
            )
            continue
        paths[one.file] = path
        marked = with_places(one.text.text, one.starts, PLACE)
        texts[_plain(path)] = one.text.encoded(marked)
    found: dict[Path, PageBoxes] = {}
    server = SiteServer(folders, texts)

    @contextlib.contextmanager
    def begin(browser: Session) -> Iterator[Callable[[Path], PageBoxes]]:
        begin_with(browser)
        yield lambda file: measure(browser.at(server.address), paths[file])

    try:
        with listener.progress("measuring", len(paths)) as advance:
            for file, page in looked_at(list(paths), begin, driver, browsers or available_workers()):
                if isinstance(page, PageError):
                    faults += [Notice(Kind.PAGE, str(file), one.text, one.cure) for one in page.notices]
                else:
                    found[file] = page
                advance(1, file.name)
    finally:
        server.close()
    found = {file: found[file] for file in paths if file in found}
    notes = [Notice(Kind.MEASURE, str(file), _BENDS, severity="note") for file, page in found.items() if not page.whole]
    return MeasuredPages(found, faults, notes)


def _plain(path: str) -> str:
    import urllib.parse

    return urllib.parse.unquote(path, errors="surrogateescape")
