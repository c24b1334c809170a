"""Pages shared out among several browsers: most of the time a browser waits, for frames and for responses."""

from __future__ import annotations

import contextlib
import queue
import threading
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager
from typing import TypeAlias, TypeVar

from sarvel.browser.session import BrowserGoneError, Session, StuckError, session
from sarvel.errors import BrowserError, PageError

P = TypeVar("P")
R = TypeVar("R")

Begin: TypeAlias = Callable[[Session], AbstractContextManager[Callable[[P], R]]]
"""Prepares a browser that was just started, in the thread that has it; gives what looks at a page with it."""

_MOST_ENDS = 3  # browsers that may end at a page before none is started any more


def looked_at(
    pages: Sequence[P], begin: Begin[P, R], driver: str | None, browsers: int
) -> Iterator[tuple[P, R | PageError]]:
    """Looks at pages, and yields the results as they come. A page that ends its browser is left out.

    Args:
        driver: address of a WebDriver that runs already, which is one browser; None starts the one that is installed.
        browsers: at one time, >= 1.

    Raises:
        BrowserError: no browser can be had, or they end again and again.
    """
    left = deque(pages)
    results = queue.SimpleQueue[_Result[P, R]]()
    threads = [
        threading.Thread(target=_serve, args=(left, begin, driver, results), daemon=True)
        for _ in range(1 if driver else min(browsers, len(pages)))
    ]
    for thread in threads:
        thread.start()
    ends = 0
    try:
        for _ in pages:
            page, seen, error = results.get()
            if isinstance(error, BrowserGoneError) and page:
                ends += 1
                if ends == _MOST_ENDS:
                    raise BrowserError.at("", f"{error}, {ends} times", "look at the browser and its driver")
                error = PageError.at("", str(error), "it was left out")
            if page and isinstance(error, PageError):
                yield page[0], error
            elif error:
                raise error
            else:
                yield page[0], seen[0]
    finally:
        left.clear()
    for thread in threads:  # not where an interrupt comes: each browser ends with this process
        thread.join()


_Result: TypeAlias = tuple[list[P], list[R], Exception | None]
"""A page, its result, and its error; a browser that does not start has no page."""


def _serve(left: deque[P], begin: Begin[P, R], driver: str | None, results: queue.SimpleQueue[_Result[P, R]]) -> None:
    """Looks at pages with a browser, and with another one if it ends, until none is left."""
    page: list[P] = []
    while left:
        try:
            with session("", driver) as browser, begin(browser) as look, contextlib.suppress(IndexError):
                while True:
                    page = [left.popleft()]
                    results.put((page, *_seen(look, page[0])))
                    page = []
        except Exception as error:  # noqa: BLE001 - raised in the thread that waits
            results.put((page, [], error))
            if not page:
                return
            page = []


def _seen(look: Callable[[P], R], page: P) -> tuple[list[R], PageError | None]:
    try:
        return [look(page)], None
    except StuckError:  # its browser is of no more use
        raise
    except PageError as error:
        return [], error
