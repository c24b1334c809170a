"""Pages measured in a browser: served as their authors wrote them, their tags told apart, each page for itself."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.browser.look import PLACE, begin_with
from sarvel.browser.page_boxes import PageBoxes, measure
from sarvel.browser.session import BrowserGoneError, StuckError, session
from sarvel.browser.site_server import Folders, SiteServer
from sarvel.errors import BrowserError, PageError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.page_files import PageText
from sarvel.pages.read.places import with_places
from sarvel.pipeline.listener import Listener

_MOST_PAGES = 12  # that are all measured
_BENDS = "its layout bends too often to measure every bend; the result is an approximation"
_MOST_ENDS = 3  # times that a browser may end at a page before none is started any more


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


def worth_opening(pages: Mapping[Path, Collection[Hashable]], enough: int) -> set[Path]:
    """The pages to measure: all; of many, those with something that is not shown on enough pages before.

    Args:
        enough: on how many pages a thing is to be measured.
    """
    if len(pages) <= _MOST_PAGES:
        return set(pages)
    counts: Counter[Hashable] = Counter()
    chosen = set()
    for page, shown in pages.items():
        if any(counts[one] < enough for one in shown):
            chosen.add(page)
            counts.update(set(shown))
    return chosen


def measured_pages(
    sheets: Sequence[PageToMeasure], folders: Folders, driver: str | None, listener: Listener
) -> MeasuredPages:
    """Measures pages. Faults of single ones stop no others.

    Args:
        driver: address of a WebDriver that runs already; None starts the one that is installed.

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
    left = list(paths)
    ends = 0
    try:
        with listener.progress("measuring", len(left)) as advance:
            while left:
                try:
                    with session(server.address, driver) as browser:
                        begin_with(browser)
                        while left:
                            file = left[0]
                            try:
                                found[file] = measure(browser, paths[file])
                            except StuckError:
                                raise
                            except PageError as error:
                                faults.append(Notice(Kind.PAGE, str(file), f"{error}"))
                            left.pop(0)
                            advance(1, file.name)
                except StuckError as error:
                    faults.append(Notice(Kind.PAGE, str(left.pop(0)), f"{error}"))
                except BrowserGoneError as error:
                    ends += 1
                    faults.append(Notice(Kind.PAGE, str(left[0]), f"{error}", "it was left out"))
                    left.pop(0)
                    if ends >= _MOST_ENDS:
                        raise BrowserError.at(
                            "", f"{error}, {ends} times", "look at the browser and its driver"
                        ) from error
    finally:
        server.close()
    notes = [Notice(Kind.MEASURE, str(file), _BENDS, severity="note") for file, page in found.items() if not page.whole]
    return MeasuredPages(found, faults, notes)


def _plain(path: str) -> str:
    import urllib.parse

    return urllib.parse.unquote(path, errors="surrogateescape")
