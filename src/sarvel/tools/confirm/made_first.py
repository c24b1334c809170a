"""Files that devices will ask for, made before a browser does: else it would measure how long that takes."""

from __future__ import annotations

import urllib.parse
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from sarvel.core.css.device import Device
from sarvel.core.html.document import read_document
from sarvel.core.html.source_selection import pick
from sarvel.pages.read.page_files import PageFile, read_text
from sarvel.pipeline.listener import Listener
from sarvel.workers.cores import available_workers


def make_first(
    pages: Sequence[tuple[PageFile, str]],
    devices: Sequence[Device],
    maker: Callable[[str], Path | None],
    listener: Listener,
) -> None:
    """Makes the files that devices fetch for the images of some pages.

    Args:
        pages: each with the path that it is served at.
        maker: makes a file by path and query.
    """
    targets = list(dict.fromkeys(one for file, path in pages for one in _asked_for(file, path, devices)))
    with listener.progress("making", len(targets)) as advance, ThreadPoolExecutor(available_workers()) as pool:
        for _ in pool.map(maker, targets):
            advance(1, "")


def _asked_for(file: PageFile, path: str, devices: Sequence[Device]) -> Iterator[str]:
    """Paths and queries of what devices fetch for the images of a page."""
    for image in read_document(read_text(file.target).text, file.dialect).images:
        for device in devices:
            found = urllib.parse.urlsplit(urllib.parse.urljoin(path, pick(image.element, device).url))
            yield found.path + (f"?{found.query}" if found.query else "")
